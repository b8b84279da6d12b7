package web

import (
	"context"

	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/document"
	"jollysatchel/internal/web/api"
)

// withIt is what is said with a handout: its instructions as HTML, and its links.
func withIt(h handout.Handout) (html string, links []api.HandoutLink) {
	if h.Settings.Instructions != "" {
		html, _ = document.HTML(h.Settings.Instructions)
	}
	links = []api.HandoutLink{}
	for _, l := range h.Settings.Links {
		links = append(links, api.HandoutLink{Words: l.Words, Address: l.Address})
	}
	return html, links
}

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

// notices are a class's as a student sees them.
func notices(all []handout.Handout) []api.Notice {
	out := []api.Notice{}
	for _, h := range all {
		n := api.Notice{Id: h.ID, Title: h.Title, ForParents: h.Settings.ForParents, PostedAt: h.PackedAt}
		n.Html, n.Links = withIt(h)
		out = append(out, n)
	}
	return out
}

// PostNotice implements the route of that name.
func (s *packRoutes) PostNotice(ctx context.Context, r api.PostNoticeRequestObject) (api.PostNoticeResponseObject, error) {
	out, err := s.noticed(ctx)(s.packing.Post(ctx, account(ctx), r.ClassId, r.HandoutId, r.Body.Seen))
	return api.PostNotice200JSONResponse(out), err
}

// TakeNoticeDown implements the route of that name.
func (s *packRoutes) TakeNoticeDown(ctx context.Context, r api.TakeNoticeDownRequestObject) (api.TakeNoticeDownResponseObject, error) {
	out, err := s.noticed(ctx)(s.packing.TakeDown(ctx, account(ctx), r.ClassId, r.HandoutId))
	return api.TakeNoticeDown200JSONResponse(out), err
}

// noticed shows a notice after something was done with it.
func (s *packRoutes) noticed(ctx context.Context) func(handout.Handout, error) (api.Handout, error) {
	return func(h handout.Handout, err error) (api.Handout, error) {
		if err != nil {
			return api.Handout{}, err
		}
		c, err := s.class(ctx)
		if err != nil {
			return api.Handout{}, err
		}
		return s.handoutView(ctx, c, h, s.packing.HandoutListSeen)
	}
}
