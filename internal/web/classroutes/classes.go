package classroutes

import (
	"context"

	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/usecase/enrol"
	"jollysatchel/internal/usecase/registers"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// ListClasses implements the route of that name.
func (s *enrolRoutes) ListClasses(ctx context.Context, _ api.ListClassesRequestObject) (api.ListClassesResponseObject, error) {
	tabs, err := s.registers.Rail(ctx, desk.Account(ctx))
	if err != nil {
		return nil, err
	}
	seen, old, err := s.registers.Seen(ctx)
	if err != nil {
		return nil, err
	}
	out := api.ListClasses200JSONResponse{}
	for _, p := range tabs {
		tag := classTag(desk.Account(ctx), p)
		if old {
			tag.SeenAt = desk.Moment(seen)
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
		tag.Notes = append(tag.Notes, api.Note{Code: n.Reason.Code, Args: desk.ReasonOf(n.Reason).Args, Count: n.Count, About: n.About})
	}
	return tag
}

// ChangeClass implements the route of that name.
func (s *enrolRoutes) ChangeClass(ctx context.Context, r api.ChangeClassRequestObject) (api.ChangeClassResponseObject, error) {
	var was classes.Change
	if r.Body.Was != nil {
		was = classParts(*r.Body.Was)
	}
	return api.ChangeClass204Response{}, s.Classes.ChangeClass(ctx, desk.Account(ctx), r.ClassId, classParts(r.Body.To), was)
}

func classParts(p api.ClassParts) classes.Change {
	return classes.Change{Code: p.Code, Name: p.Name, Period: p.Period}
}

// CreateClass implements the route of that name.
func (s *enrolRoutes) CreateClass(ctx context.Context, r api.CreateClassRequestObject) (api.CreateClassResponseObject, error) {
	c, err := s.Classes.CreateClass(ctx, desk.Account(ctx), desk.Deref(r.Body.Code), r.Body.Name, desk.Deref(r.Body.Period),
		desk.Deref(r.Body.OfStaff))
	if err != nil {
		return nil, err
	}
	out, err := s.newClass(ctx, c.ID)
	return api.CreateClass201JSONResponse(out), err
}

// newClass is a class that was just made, as its owner sees it.
func (s *enrolRoutes) newClass(ctx context.Context, id string) (api.Class, error) {
	o, err := s.Classes.Overview(ctx, id)
	return classView(o, classes.Owner), err
}

// GetClass implements the route of that name.
func (s *enrolRoutes) GetClass(ctx context.Context, r api.GetClassRequestObject) (api.GetClassResponseObject, error) {
	o, err := s.Classes.Overview(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	return api.GetClass200JSONResponse(classView(o, desk.Gin(ctx).GetString(desk.MineKey))), nil
}

func classView(o enrol.Overview, mine string) api.Class {
	out := api.Class{
		Id: o.ID, Code: o.Code, Name: o.Name, Period: o.Period, Students: len(o.Students), Staff: desk.Members(o.Staff),
		My: api.ClassMy(mine), Revision: o.Revision, Columns: []api.Field{},
		Pockets: desk.Pockets(o.Plan.Pockets), Packed: o.Packed, Draft: o.Draft, Practice: o.Practice, Empty: o.Empty,
		OfStaff: o.OfStaff, Teams: []api.Team{},
	}
	if o.Opening != nil {
		out.Opening = &api.ClassOpening{At: o.Opening.At, LetIn: len(o.Opening.Rows)}
	}
	for _, f := range o.Vocabulary() {
		out.Columns = append(out.Columns, api.Field{Field: string(f), Label: f.Label()})
	}
	for _, t := range o.Teams {
		out.Teams = append(out.Teams, api.Team{Id: t.ID, Name: t.Name})
	}
	return out
}

// RemoveClass implements the route of that name.
func (s *enrolRoutes) RemoveClass(ctx context.Context, r api.RemoveClassRequestObject) (api.RemoveClassResponseObject, error) {
	if desk.Gin(ctx).GetString(desk.MineKey) != classes.Owner {
		return nil, seam.ErrNotFound
	}
	return api.RemoveClass204Response{}, s.Classes.RemoveClass(ctx, desk.Account(ctx), r.ClassId)
}
