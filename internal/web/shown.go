package web

import (
	"context"

	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/web/api"
)

// shownView is a state that was shown, with the names of accounts as far as they are asked for.
func shownView(x ledger.Snapshot, names map[string]string) *api.ShownState {
	return &api.ShownState{Version: x.Version, At: x.At, By: orNone(names[x.By]), Word: x.Word, Asked: x.Asked,
		SeenBy: orNone(names[x.SeenBy]), SeenAt: moment(x.SeenAt)}
}

// GetShown implements the route of that name.
func (s *thingRoutes) GetShown(ctx context.Context, r api.GetShownRequestObject) (api.GetShownResponseObject, error) {
	leave, err := s.costly(ctx, s.compares)
	if err != nil {
		return nil, err
	}
	defer leave()
	shown, err := s.things.Shown(ctx, account(ctx), r.ThingId)
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
		out.All = append(out.All, *shownView(x, names))
	}
	return out, err
}

// ShowDraft implements the route of that name.
func (s *thingRoutes) ShowDraft(ctx context.Context, r api.ShowDraftRequestObject) (api.ShowDraftResponseObject, error) {
	_, err := s.things.Show(ctx, account(ctx), r.ThingId, r.Body.Word)
	return api.ShowDraft204Response{}, err
}

// LookedAtDraft implements the route of that name.
func (s *thingRoutes) LookedAtDraft(ctx context.Context, r api.LookedAtDraftRequestObject) (api.LookedAtDraftResponseObject, error) {
	return api.LookedAtDraft204Response{}, s.things.LookedAt(ctx, account(ctx), r.ThingId, r.Version)
}

// ShowAll implements the route of that name.
func (s *thingRoutes) ShowAll(ctx context.Context, r api.ShowAllRequestObject) (api.ShowAllResponseObject, error) {
	n, err := s.things.ShowAll(ctx, account(ctx), r.ClassId, r.HandoutId, r.Body.Rows)
	return api.ShowAll200JSONResponse{Copies: n}, err
}
