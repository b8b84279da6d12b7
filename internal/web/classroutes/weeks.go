package classroutes

import (
	"context"

	"github.com/oapi-codegen/runtime/types"

	"jollysatchel/internal/usecase/registers"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// ListWeeks implements the route of that name.
func (s *registerRoutes) ListWeeks(ctx context.Context, _ api.ListWeeksRequestObject) (api.ListWeeksResponseObject, error) {
	all, err := s.registers.AllWeeks(ctx, desk.Account(ctx))
	if err != nil {
		return nil, err
	}
	out := api.ListWeeks200JSONResponse{}
	for _, w := range all {
		out = append(out, weeksView(w))
	}
	return out, nil
}

// GetWeeks implements the route of that name.
func (s *registerRoutes) GetWeeks(ctx context.Context, r api.GetWeeksRequestObject) (api.GetWeeksResponseObject, error) {
	w, err := s.registers.Weeks(ctx, r.ClassId, desk.Deref(r.Params.Handout))
	return api.GetWeeks200JSONResponse(weeksView(w)), err
}

func weeksView(w registers.ClassWeeks) api.ClassWeeks {
	out := api.ClassWeeks{Class: w.Class, Students: w.Students, Weeks: []api.Week{}}
	for _, k := range w.Weeks {
		out.Weeks = append(out.Weeks, api.Week{First: types.Date{Time: k.First}, Opened: k.Opened, Begun: k.Begun,
			Wrote: k.Wrote, Words: k.Words})
	}
	return out
}

// mostFound is how many students are found at once.
const mostFound = 8

// FindStudents implements the route of that name.
func (s *registerRoutes) FindStudents(ctx context.Context, r api.FindStudentsRequestObject) (api.FindStudentsResponseObject, error) {
	found, err := s.registers.FindStudents(ctx, desk.Account(ctx), r.Params.Find, mostFound)
	out := api.FindStudents200JSONResponse{}
	for _, f := range found {
		out = append(out, api.FoundStudent{Class: f.Class.ID, ClassName: f.Class.Name, Row: f.Student.ID,
			Name: f.Student.CallName(), Number: f.Student.Number})
	}
	return out, err
}
