package web

import (
	"context"

	"github.com/mileusna/useragent"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/web/api"
)

// ListAllClasses implements the route of that name.
func (s *Server) ListAllClasses(ctx context.Context, r api.ListAllClassesRequestObject) (api.ListAllClassesResponseObject, error) {
	from := 0
	if r.Params.From != nil {
		from = *r.Params.From
	}
	tabs, all, err := s.Cases.Registers.AllClasses(ctx, deref(r.Params.Text), r.Params.Needing != nil && *r.Params.Needing, from)
	out := api.ListAllClasses200JSONResponse{Classes: []api.ClassTag{}, All: all, More: from+len(tabs) < all}
	for _, p := range tabs {
		out.Classes = append(out.Classes, classTag(account(ctx), p))
	}
	return out, err
}

// JoinClass implements the route of that name: for the office alone.
func (s *Server) JoinClass(ctx context.Context, r api.JoinClassRequestObject) (api.JoinClassResponseObject, error) {
	if role, _ := asGin(ctx).Get(roleKey); role != accounts.Office {
		return nil, seam.ErrNotFound
	}
	role := map[api.JoinClassRole]string{api.JoinClassRoleTeacher: "teacher", api.JoinClassRoleAssistant: "assistant"}[r.Body.Role]
	return api.JoinClass204Response{}, s.Cases.Rooms.Join(ctx, account(ctx), r.ClassId, role)
}

// PutOff implements the route of that name.
func (s *Server) PutOff(ctx context.Context, r api.PutOffRequestObject) (api.PutOffResponseObject, error) {
	return api.PutOff204Response{}, s.Cases.Registers.PutOff(ctx, account(ctx), r.ClassId, r.Body.Code, r.Body.About, r.Body.Count)
}

// ShowAgain implements the route of that name.
func (s *Server) ShowAgain(ctx context.Context, _ api.ShowAgainRequestObject) (api.ShowAgainResponseObject, error) {
	return api.ShowAgain204Response{}, s.Cases.Registers.ShowAgain(ctx, account(ctx))
}

// ListSessions implements the route of that name.
func (s *Server) ListSessions(ctx context.Context, _ api.ListSessionsRequestObject) (api.ListSessionsResponseObject, error) {
	found, err := s.Cases.People.Sessions(ctx, account(ctx))
	out := api.ListSessions200JSONResponse{}
	here := s.sessions.Token(asGin(ctx).Request.Context())
	for _, x := range found {
		out = append(out, api.Session{Id: x.ID, Agent: agentOf(x.Agent), BeganAt: x.BeganAt.UTC(), SeenAt: x.SeenAt.UTC(), Here: x.Token == here})
	}
	return out, err
}

// mostAgent bytes are kept of what a browser says it is.
const mostAgent = 300

// agentOf is what a browser says it is, as people name it.
func agentOf(header string) string {
	a := useragent.Parse(header)
	switch {
	case a.Name == "":
		return ""
	case a.OS == "":
		return a.Name
	}
	return a.Name + ", " + a.OS
}

// EndSession implements the route of that name.
func (s *Server) EndSession(ctx context.Context, r api.EndSessionRequestObject) (api.EndSessionResponseObject, error) {
	return api.EndSession204Response{}, s.Cases.People.EndSession(ctx, account(ctx), r.SessionId)
}

// LookAs implements the route of that name.
func (s *Server) LookAs(ctx context.Context, r api.LookAsRequestObject) (api.LookAsResponseObject, error) {
	if r.Body.Thing != nil {
		name, t, folder, inside, err := s.Cases.Things.LookAtAs(ctx, account(ctx), r.ClassId, r.RowId, *r.Body.Thing)
		if err != nil {
			return nil, err
		}
		out := api.EyesThing{Id: t.ID, Name: t.Name, Folder: folder, Level: levelWord(t.Level), Children: []api.EyesChild{}}
		for _, x := range inside {
			out.Children = append(out.Children, api.EyesChild{Id: x.ID, Name: x.Name, Kind: api.EyesChildKind(x.Kind), Level: levelWord(x.Level)})
		}
		return api.LookAs200JSONResponse{Name: name, Thing: &out}, nil
	}
	name, home, err := s.Cases.Registers.LookAs(ctx, account(ctx), r.ClassId, r.RowId)
	if err != nil {
		return nil, err
	}
	return api.LookAs200JSONResponse{Name: name, Home: &api.Home{Name: name, Classes: []api.HomeClass{homeView(home)}}}, nil
}

// LookTerm implements the route of that name.
func (s *Server) LookTerm(ctx context.Context, r api.LookTermRequestObject) (api.LookTermResponseObject, error) {
	term, err := s.Cases.Lists.LookTerm(ctx, r.Body.List)
	out := api.LookTerm200JSONResponse{Seen: term.Seen, Wrong: term.Wrong, Lines: []api.TermLine{}}
	names := func(of []roster.TermTeacher) []string {
		all := []string{}
		for _, t := range of {
			all = append(all, t.Name)
		}
		return all
	}
	for _, l := range term.Lines {
		out.Lines = append(out.Lines, api.TermLine{Act: api.TermLineAct(l.Act), Key: l.Key, Name: l.Name, Period: l.Period, Class: orNone(l.ClassID), Owner: l.Owner.Name, Others: names(l.Others), Strangers: names(l.Strangers), Students: len(l.Students), Unknown: l.Unknown})
	}
	return out, err
}

// BringTerm implements the route of that name.
func (s *Server) BringTerm(ctx context.Context, r api.BringTermRequestObject) (api.BringTermResponseObject, error) {
	n, err := s.Cases.Lists.BringTerm(about(ctx, nil), account(ctx), r.Body.List, r.Body.Seen, r.Body.Classes)
	return api.BringTerm200JSONResponse{Classes: n}, err
}
