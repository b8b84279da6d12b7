package web

import (
	"context"
	"slices"

	"jollysatchel/internal/classroom"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/store"
	"jollysatchel/internal/web/api"
)

// class loads the route's class; guard has let it through.
func (s *Server) class(ctx context.Context) (classroom.Class, error) {
	return s.Rooms.Class(ctx, asGin(ctx).GetString(classKey))
}

// ListClasses implements the route of that name.
func (s *Server) ListClasses(ctx context.Context, _ api.ListClassesRequestObject) (api.ListClassesResponseObject, error) {
	tags, err := s.Rooms.Tags(ctx, whose(ctx))
	if err != nil {
		return nil, err
	}
	out := api.ListClasses200JSONResponse{}
	for _, t := range tags {
		v, err := s.classTag(ctx, t)
		if err != nil {
			return nil, err
		}
		out = append(out, v)
	}
	return out, nil
}

// classTag is a class on the peg rail, with what needs attention there.
func (s *Server) classTag(ctx context.Context, t classroom.Tag) (api.ClassTag, error) {
	tag := api.ClassTag{Id: t.ID, Code: t.Code, Name: t.Name, Period: t.Period, Students: len(t.Students), Notes: []api.Reason{}, Staff: []string{}, Ready: t.Ready, Troubled: t.Troubled}
	staff, err := s.staff(ctx, t.Class)
	if err != nil {
		return tag, err
	}
	for _, m := range staff {
		tag.Staff = append(tag.Staff, m.Name)
	}
	for _, n := range t.Notes {
		tag.Attention += n.Count
		tag.Notes = append(tag.Notes, reasonOf(n.Reason))
	}
	return tag, nil
}

func (s *Server) staff(ctx context.Context, c classroom.Class) ([]api.StaffMember, error) {
	var ids []string
	for _, m := range c.Staff {
		ids = append(ids, m.Account)
	}
	names, err := s.names(ctx, ids...)
	out := []api.StaffMember{}
	for _, m := range c.Staff {
		out = append(out, api.StaffMember{Account: m.Account, Name: names[m.Account], Role: api.StaffMemberRole(m.Role)})
	}
	return out, err
}

// CreateClass implements the route of that name.
func (s *Server) CreateClass(ctx context.Context, r api.CreateClassRequestObject) (api.CreateClassResponseObject, error) {
	c, err := s.Rooms.CreateClass(ctx, account(ctx), deref(r.Body.Code), r.Body.Name, deref(r.Body.Period))
	if err != nil {
		return nil, err
	}
	out, err := s.newClass(ctx, c.ID)
	return api.CreateClass201JSONResponse(out), err
}

// newClass is a class that was just made, as its owner sees it.
func (s *Server) newClass(ctx context.Context, id string) (api.Class, error) {
	c, err := s.Rooms.Class(ctx, id)
	if err != nil {
		return api.Class{}, err
	}
	return s.classView(ctx, c, store.RoleOwner)
}

// GetClass implements the route of that name.
func (s *Server) GetClass(ctx context.Context, _ api.GetClassRequestObject) (api.GetClassResponseObject, error) {
	c, err := s.class(ctx)
	if err != nil {
		return nil, err
	}
	out, err := s.classView(ctx, c, asGin(ctx).GetString(mineKey))
	return api.GetClass200JSONResponse(out), err
}

func (s *Server) classView(ctx context.Context, c classroom.Class, mine string) (api.Class, error) {
	staff, err := s.staff(ctx, c)
	if err != nil {
		return api.Class{}, err
	}
	ledger, err := s.Rooms.Store.Ledger(ctx, c.ID)
	if err != nil {
		return api.Class{}, err
	}
	draft, err := s.Rooms.Store.HasDraft(ctx, c.ID)
	if err != nil {
		return api.Class{}, err
	}
	empty, err := s.Rooms.Store.Untouched(ctx, c.ID)
	if err != nil {
		return api.Class{}, err
	}
	teams, err := s.Rooms.Teams(ctx, c.ID)
	if err != nil {
		return api.Class{}, err
	}
	out := api.Class{
		Id: c.ID, Code: c.Code, Name: c.Name, Period: c.Period, Students: len(c.Students), Staff: staff, My: api.ClassMy(mine), Revision: c.Revision, Columns: []api.Field{}, Pockets: pockets(c.Plan.V.Pockets),
		Packed: slices.ContainsFunc(ledger, func(e store.Entry) bool { return e.Key.What.Purpose == packing.Satchel }), Draft: draft, Practice: c.Practice, Empty: empty, Teams: []api.Team{},
	}
	for _, f := range c.Vocabulary() {
		out.Columns = append(out.Columns, api.Field{Field: string(f), Label: f.Label()})
	}
	for _, t := range teams {
		out.Teams = append(out.Teams, api.Team{Id: t.ID, Name: t.Name})
	}
	return out, nil
}

// RemoveClass implements the route of that name.
func (s *Server) RemoveClass(ctx context.Context, r api.RemoveClassRequestObject) (api.RemoveClassResponseObject, error) {
	if asGin(ctx).GetString(mineKey) != store.RoleOwner {
		return nil, classroom.ErrNotFound
	}
	return api.RemoveClass204Response{}, s.Rooms.RemoveClass(ctx, account(ctx), r.ClassId)
}

func pockets(ps []room.Pocket) []api.Pocket {
	out := []api.Pocket{}
	for _, p := range ps {
		out = append(out, api.Pocket{Id: p.ID, Name: p.Name})
	}
	return out
}

func deref(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}
