package handroutes

import (
	"context"

	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// GetShown implements the route of that name.
func (s *thingRoutes) GetShown(ctx context.Context, r api.GetShownRequestObject) (api.GetShownResponseObject, error) {
	leave, err := s.Costly(ctx, s.Compares)
	if err != nil {
		return nil, err
	}
	defer leave()
	shown, err := s.things.Shown(ctx, desk.Account(ctx), r.ThingId)
	if err != nil {
		return nil, err
	}
	var who []string
	for _, x := range shown.All {
		who = append(who, x.By, x.SeenBy)
	}
	names, err := s.people.Names(ctx, who...)
	out := api.GetShown200JSONResponse{Version: shown.Version, May: shown.May, Since: shown.Since, All: []api.ShownState{}}
	for _, x := range shown.All {
		out.All = append(out.All, *desk.ShownView(x, names))
	}
	return out, err
}

// ShowDraft implements the route of that name.
func (s *thingRoutes) ShowDraft(ctx context.Context, r api.ShowDraftRequestObject) (api.ShowDraftResponseObject, error) {
	_, err := s.things.Show(ctx, desk.Account(ctx), r.ThingId, r.Body.Word)
	return api.ShowDraft204Response{}, err
}

// LookedAtDraft implements the route of that name.
func (s *thingRoutes) LookedAtDraft(ctx context.Context, r api.LookedAtDraftRequestObject) (api.LookedAtDraftResponseObject, error) {
	return api.LookedAtDraft204Response{}, s.things.LookedAt(ctx, desk.Account(ctx), r.ThingId, r.Version)
}

// ShowAll implements the route of that name.
func (s *thingRoutes) ShowAll(ctx context.Context, r api.ShowAllRequestObject) (api.ShowAllResponseObject, error) {
	n, err := s.things.ShowAll(ctx, desk.Account(ctx), r.ClassId, r.HandoutId, r.Body.Rows)
	return api.ShowAll200JSONResponse{Copies: n}, err
}
