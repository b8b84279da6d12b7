package handroutes

import (
	"context"

	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// GetLate implements the route of that name.
func (s *thingRoutes) GetLate(ctx context.Context, r api.GetLateRequestObject) (api.GetLateResponseObject, error) {
	leave, err := s.Costly(ctx, s.Shows)
	if err != nil {
		return nil, err
	}
	defer leave()
	all, err := s.things.Late(ctx, desk.Account(ctx), r.ThingId)
	if err != nil {
		return nil, err
	}
	var whose []string
	for _, l := range all {
		whose = append(whose, l.Account)
	}
	names, err := s.people.Names(ctx, whose...)
	out := api.GetLate200JSONResponse{}
	for _, l := range all {
		v := api.LateText{Whose: l.Account, Name: names[l.Account], Text: l.Text, At: l.At.UTC(), Mine: l.Account == desk.Account(ctx)}
		if l.Change != nil {
			v.Added, v.Removed = &l.Change.Added, &l.Change.Removed
		}
		out = append(out, v)
	}
	return out, err
}

// SettleLate implements the route of that name.
func (s *thingRoutes) SettleLate(ctx context.Context, r api.SettleLateRequestObject) (api.SettleLateResponseObject, error) {
	b := r.Body
	return api.SettleLate204Response{}, s.things.SettleLate(ctx, desk.Account(ctx), r.ThingId, b.Whose, b.At, b.Take)
}
