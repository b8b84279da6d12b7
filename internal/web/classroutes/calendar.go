package classroutes

import (
	"context"

	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// GetCalendar implements the route of that name.
func (s *registerRoutes) GetCalendar(ctx context.Context, _ api.GetCalendarRequestObject) (api.GetCalendarResponseObject, error) {
	dues, err := s.registers.Dues(ctx, desk.Account(ctx))
	if err != nil {
		return nil, err
	}
	return s.AsCalendar(ctx, s.School().Name, dues)
}

// GetClassCalendar implements the route of that name.
func (s *registerRoutes) GetClassCalendar(ctx context.Context, r api.GetClassCalendarRequestObject) (api.GetClassCalendarResponseObject,
	error) {
	c, err := s.Class(ctx)
	if err != nil {
		return nil, err
	}
	dues, err := s.registers.ClassDues(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	return s.AsCalendar(ctx, c.Name, dues)
}
