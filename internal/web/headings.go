package web

import (
	"context"

	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/usecase/handouts"
	"jollysatchel/internal/web/api"
)

func headings(all []handout.Heading) []api.Heading {
	out := []api.Heading{}
	for _, h := range all {
		out = append(out, api.Heading{Id: h.ID, Title: h.Title, Folded: h.Folded})
	}
	return out
}

// ListHeadings implements the route of that name.
func (s *packRoutes) ListHeadings(ctx context.Context, r api.ListHeadingsRequestObject) (api.ListHeadingsResponseObject, error) {
	all, err := s.handouts.Headings(ctx, r.ClassId)
	return api.ListHeadings200JSONResponse(headings(all)), err
}

// AddHeading implements the route of that name.
func (s *packRoutes) AddHeading(ctx context.Context, r api.AddHeadingRequestObject) (api.AddHeadingResponseObject, error) {
	h, err := s.handouts.AddHeading(ctx, account(ctx), r.ClassId, r.Body.Title)
	return api.AddHeading201JSONResponse{Id: h.ID, Title: h.Title}, err
}

// ChangeHeading implements the route of that name.
func (s *packRoutes) ChangeHeading(ctx context.Context, r api.ChangeHeadingRequestObject) (api.ChangeHeadingResponseObject, error) {
	b := r.Body
	err := s.handouts.ChangeHeading(ctx, account(ctx), r.ClassId, r.HeadingId,
		handouts.HeadingChange{Title: b.Title, Was: b.Was, Folded: b.Folded, Before: b.Before})
	return api.ChangeHeading204Response{}, err
}

// RemoveHeading implements the route of that name.
func (s *packRoutes) RemoveHeading(ctx context.Context, r api.RemoveHeadingRequestObject) (api.RemoveHeadingResponseObject, error) {
	return api.RemoveHeading204Response{}, s.handouts.RemoveHeading(ctx, account(ctx), r.ClassId, r.HeadingId)
}

// PlaceHandout implements the route of that name.
func (s *packRoutes) PlaceHandout(ctx context.Context, r api.PlaceHandoutRequestObject) (api.PlaceHandoutResponseObject, error) {
	return api.PlaceHandout204Response{}, s.handouts.PlaceHandout(ctx, account(ctx), r.ClassId, r.HandoutId, r.Body.Heading, r.Body.Before)
}
