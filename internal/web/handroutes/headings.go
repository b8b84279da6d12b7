package handroutes

import (
	"context"

	"jollysatchel/internal/usecase/handouts"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// ListHeadings implements the route of that name.
func (s *packRoutes) ListHeadings(ctx context.Context, r api.ListHeadingsRequestObject) (api.ListHeadingsResponseObject, error) {
	all, err := s.handouts.Headings(ctx, r.ClassId)
	return api.ListHeadings200JSONResponse(desk.Headings(all)), err
}

// AddHeading implements the route of that name.
func (s *packRoutes) AddHeading(ctx context.Context, r api.AddHeadingRequestObject) (api.AddHeadingResponseObject, error) {
	h, err := s.handouts.AddHeading(ctx, desk.Account(ctx), r.ClassId, r.Body.Title)
	return api.AddHeading201JSONResponse{Id: h.ID, Title: h.Title}, err
}

// ChangeHeading implements the route of that name.
func (s *packRoutes) ChangeHeading(ctx context.Context, r api.ChangeHeadingRequestObject) (api.ChangeHeadingResponseObject, error) {
	b := r.Body
	err := s.handouts.ChangeHeading(ctx, desk.Account(ctx), r.ClassId, r.HeadingId,
		handouts.HeadingChange{Title: b.Title, Was: b.Was, Folded: b.Folded, Before: b.Before})
	return api.ChangeHeading204Response{}, err
}

// RemoveHeading implements the route of that name.
func (s *packRoutes) RemoveHeading(ctx context.Context, r api.RemoveHeadingRequestObject) (api.RemoveHeadingResponseObject, error) {
	return api.RemoveHeading204Response{}, s.handouts.RemoveHeading(ctx, desk.Account(ctx), r.ClassId, r.HeadingId)
}

// PlaceHandout implements the route of that name.
func (s *packRoutes) PlaceHandout(ctx context.Context, r api.PlaceHandoutRequestObject) (api.PlaceHandoutResponseObject, error) {
	return api.PlaceHandout204Response{}, s.handouts.PlaceHandout(ctx, desk.Account(ctx), r.ClassId, r.HandoutId,
		r.Body.Heading, r.Body.Before)
}
