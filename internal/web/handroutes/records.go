package handroutes

import (
	"context"

	"jollysatchel/internal/web/api"
)

// ListPastRuns implements the route of that name.
func (s *packRoutes) ListPastRuns(ctx context.Context, r api.ListPastRunsRequestObject) (api.ListPastRunsResponseObject, error) {
	runs, err := s.registers.PastRuns(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	out, err := s.runViews(ctx, runs)
	return api.ListPastRuns200JSONResponse(out), err
}
