package classroutes

import (
	"context"

	"jollysatchel/internal/core/lists"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// PreviewTerm implements the route of that name.
func (s *enrolRoutes) PreviewTerm(ctx context.Context, r api.PreviewTermRequestObject) (api.PreviewTermResponseObject, error) {
	term, err := s.lists.PreviewTerm(ctx, r.Body.List)
	out := api.PreviewTerm200JSONResponse{Seen: term.Seen, Wrong: term.Wrong, Lines: []api.TermLine{}}
	names := func(of []lists.TermTeacher) []string {
		all := []string{}
		for _, t := range of {
			all = append(all, t.Name)
		}
		return all
	}
	for _, l := range term.Lines {
		out.Lines = append(out.Lines, api.TermLine{Act: api.TermLineAct(l.Act), Key: l.Key, Name: l.Name, Period: l.Period,
			Class: desk.OrNone(l.ClassID), Owner: l.Owner.Name, Others: names(l.Others), Strangers: names(l.Strangers),
			Students: len(l.Students), Unknown: l.Unknown})
	}
	return out, err
}

// BringTerm implements the route of that name.
func (s *enrolRoutes) BringTerm(ctx context.Context, r api.BringTermRequestObject) (api.BringTermResponseObject, error) {
	n, err := s.lists.BringTerm(desk.About(ctx, nil), desk.Account(ctx), r.Body.List, r.Body.Seen, r.Body.Classes)
	return api.BringTerm200JSONResponse{Classes: n}, err
}
