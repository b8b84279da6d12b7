package handroutes

import (
	"context"

	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// ListStood implements the route of that name.
func (s *packRoutes) ListStood(ctx context.Context, r api.ListStoodRequestObject) (api.ListStoodResponseObject, error) {
	times, err := s.packing.StoodTimes(ctx, r.ClassId, r.HandoutId)
	if err != nil {
		return nil, err
	}
	var ids []string
	for _, x := range times {
		ids = append(ids, x.By)
	}
	names, err := s.people.Names(ctx, ids...)
	out := api.ListStood200JSONResponse{}
	for _, x := range times {
		out = append(out, api.StoodTime{Id: x.ID, At: x.At, By: names[x.By]})
	}
	return out, err
}

// GetStood implements the route of that name.
func (s *packRoutes) GetStood(ctx context.Context, r api.GetStoodRequestObject) (api.GetStoodResponseObject, error) {
	list, err := s.packing.StoodList(ctx, r.ClassId, r.HandoutId, r.StoodId)
	if err != nil {
		return nil, err
	}
	out := api.GetStood200JSONResponse{}
	for _, x := range list.Students {
		v := api.StoodStudent{Row: x.Row, Name: x.Name, Outcome: api.StoodStudentOutcome(x.Section), Reason: desk.ReasonPtr(x.Reason)}
		if x.Section == packing.AlreadyThere {
			v.Outcome = "given"
		}
		out = append(out, v)
	}
	return out, nil
}
