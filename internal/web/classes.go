package web

import (
	"context"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/usecase/enrol"
	"jollysatchel/internal/usecase/registers"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/web/api"
)

// class loads the route's class; guard has let it through.
func (s *desk) class(ctx context.Context) (picture.Class, error) {
	return s.classes.Class(ctx, asGin(ctx).GetString(classKey))
}

// ListClasses implements the route of that name.
func (s *enrolRoutes) ListClasses(ctx context.Context, _ api.ListClassesRequestObject) (api.ListClassesResponseObject, error) {
	tabs, err := s.registers.Rail(ctx, account(ctx))
	if err != nil {
		return nil, err
	}
	seen, old, err := s.registers.Seen(ctx)
	if err != nil {
		return nil, err
	}
	out := api.ListClasses200JSONResponse{}
	for _, p := range tabs {
		tag := classTag(account(ctx), p)
		if old {
			tag.SeenAt = moment(seen)
		}
		out = append(out, tag)
	}
	return out, nil
}

// classTag is a class on the tab rail of an account, with what needs attention there.
func classTag(by string, p registers.Tab) api.ClassTag {
	tag := api.ClassTag{Id: p.ID, Code: p.Code, Name: p.Name, Period: p.Period, Students: p.Students,
		Notes: []api.Note{}, PutOff: p.PutOff, Staff: []string{}, Ready: p.Ready, Troubled: p.Troubled}
	assists := false
	for _, m := range p.Staff {
		tag.Staff = append(tag.Staff, m.Name)
		assists = assists || m.Account == by && m.Role == classes.Assistant
		tag.Teach = tag.Teach || m.Account == by && m.Role != classes.Assistant
	}
	for _, n := range p.Notes {
		if assists && n.Decided() {
			continue
		}
		tag.Attention += n.Count
		tag.Notes = append(tag.Notes, api.Note{Code: n.Reason.Code, Args: reasonOf(n.Reason).Args, Count: n.Count, About: n.About})
	}
	return tag
}

// ChangeClass implements the route of that name.
func (s *enrolRoutes) ChangeClass(ctx context.Context, r api.ChangeClassRequestObject) (api.ChangeClassResponseObject, error) {
	var was classes.Change
	if r.Body.Was != nil {
		was = classParts(*r.Body.Was)
	}
	return api.ChangeClass204Response{}, s.classes.ChangeClass(ctx, account(ctx), r.ClassId, classParts(r.Body.To), was)
}

func classParts(p api.ClassParts) classes.Change {
	return classes.Change{Code: p.Code, Name: p.Name, Period: p.Period}
}

// CreateClass implements the route of that name.
func (s *enrolRoutes) CreateClass(ctx context.Context, r api.CreateClassRequestObject) (api.CreateClassResponseObject, error) {
	c, err := s.classes.CreateClass(ctx, account(ctx), deref(r.Body.Code), r.Body.Name, deref(r.Body.Period), deref(r.Body.OfStaff))
	if err != nil {
		return nil, err
	}
	out, err := s.newClass(ctx, c.ID)
	return api.CreateClass201JSONResponse(out), err
}

// newClass is a class that was just made, as its owner sees it.
func (s *enrolRoutes) newClass(ctx context.Context, id string) (api.Class, error) {
	o, err := s.classes.Overview(ctx, id)
	return classView(o, classes.Owner), err
}

// GetClass implements the route of that name.
func (s *enrolRoutes) GetClass(ctx context.Context, r api.GetClassRequestObject) (api.GetClassResponseObject, error) {
	o, err := s.classes.Overview(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	return api.GetClass200JSONResponse(classView(o, asGin(ctx).GetString(mineKey))), nil
}

func classView(o enrol.Overview, mine string) api.Class {
	out := api.Class{
		Id: o.ID, Code: o.Code, Name: o.Name, Period: o.Period, Students: len(o.Students), Staff: members(o.Staff),
		My: api.ClassMy(mine), Revision: o.Revision, Columns: []api.Field{},
		Pockets: pockets(o.Plan.Pockets), Packed: o.Packed, Draft: o.Draft, Practice: o.Practice, Empty: o.Empty,
		OfStaff: o.OfStaff, Teams: []api.Team{},
	}
	for _, f := range o.Vocabulary() {
		out.Columns = append(out.Columns, api.Field{Field: string(f), Label: f.Label()})
	}
	for _, t := range o.Teams {
		out.Teams = append(out.Teams, api.Team{Id: t.ID, Name: t.Name})
	}
	return out
}

func members(staff []accounts.Member) []api.StaffMember {
	out := []api.StaffMember{}
	for _, m := range staff {
		out = append(out, api.StaffMember{Account: m.Account, Name: m.Name, Role: api.StaffMemberRole(m.Role)})
	}
	return out
}

// RemoveClass implements the route of that name.
func (s *enrolRoutes) RemoveClass(ctx context.Context, r api.RemoveClassRequestObject) (api.RemoveClassResponseObject, error) {
	if asGin(ctx).GetString(mineKey) != classes.Owner {
		return nil, seam.ErrNotFound
	}
	return api.RemoveClass204Response{}, s.classes.RemoveClass(ctx, account(ctx), r.ClassId)
}

func pockets(ps []room.Pocket) []api.Pocket {
	out := []api.Pocket{}
	for _, p := range ps {
		out = append(out, api.Pocket{Id: p.ID, Name: p.Name})
	}
	return out
}

func deref[T any](p *T) (v T) {
	if p != nil {
		v = *p
	}
	return v
}
