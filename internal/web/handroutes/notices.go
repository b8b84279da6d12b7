package handroutes

import (
	"context"

	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

func linksOf(links *[]api.HandoutLink) *[]handout.Link {
	if links == nil {
		return nil
	}
	out := []handout.Link{}
	for _, l := range *links {
		out = append(out, handout.Link{Words: l.Words, Address: l.Address})
	}
	return &out
}

// PostNotice implements the route of that name.
func (s *packRoutes) PostNotice(ctx context.Context, r api.PostNoticeRequestObject) (api.PostNoticeResponseObject, error) {
	out, err := s.noticed(ctx)(s.packing.Post(ctx, desk.Account(ctx), r.ClassId, r.HandoutId, r.Body.Seen))
	return api.PostNotice200JSONResponse(out), err
}

// TakeNoticeDown implements the route of that name.
func (s *packRoutes) TakeNoticeDown(ctx context.Context, r api.TakeNoticeDownRequestObject) (api.TakeNoticeDownResponseObject, error) {
	out, err := s.noticed(ctx)(s.packing.TakeDown(ctx, desk.Account(ctx), r.ClassId, r.HandoutId))
	return api.TakeNoticeDown200JSONResponse(out), err
}

// noticed shows a notice after something was done with it.
func (s *packRoutes) noticed(ctx context.Context) func(handout.Handout, error) (api.Handout, error) {
	return func(h handout.Handout, err error) (api.Handout, error) {
		if err != nil {
			return api.Handout{}, err
		}
		c, err := s.Class(ctx)
		if err != nil {
			return api.Handout{}, err
		}
		return s.handoutView(ctx, c, h, s.packing.HandoutListSeen)
	}
}
