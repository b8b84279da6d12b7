package web

import (
	"context"
	"slices"
	"strings"

	"jollysatchel/internal/classroom"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/schoolbook"
	"jollysatchel/internal/store"
	"jollysatchel/internal/tables"
	"jollysatchel/internal/web/api"
)

// class loads the route's class; guard has let it through.
func (s *Server) class(ctx context.Context) (classroom.Class, error) {
	return s.Rooms.Class(ctx, asGin(ctx).GetString(classKey))
}

// ListClasses implements the route of that name.
func (s *Server) ListClasses(ctx context.Context, _ api.ListClassesRequestObject) (api.ListClassesResponseObject, error) {
	who := account(ctx)
	if role, _ := asGin(ctx).Get(roleKey); role == schoolbook.Office {
		who = ""
	}
	classes, err := s.Rooms.Store.Classes(ctx, who)
	if err != nil {
		return nil, err
	}
	out := api.ListClasses200JSONResponse{}
	for _, c := range classes {
		tag, err := s.classTag(ctx, c.ID)
		if err != nil {
			return nil, err
		}
		out = append(out, tag)
	}
	return out, nil
}

// classTag is a class on the peg rail, with what needs attention there.
func (s *Server) classTag(ctx context.Context, id string) (api.ClassTag, error) {
	c, err := s.Rooms.Class(ctx, id)
	if err != nil {
		return api.ClassTag{}, err
	}
	tag := api.ClassTag{Id: c.ID, Code: c.Code, Name: c.Name, Period: c.Period, Students: len(c.Students), Notes: []api.Reason{}, Staff: []string{}}
	staff, err := s.staff(ctx, c)
	if err != nil {
		return tag, err
	}
	for _, m := range staff {
		tag.Staff = append(tag.Staff, m.Name)
	}
	notes, ready, err := s.Rooms.Attention(ctx, c)
	if err != nil {
		return tag, err
	}
	tag.Ready = ready
	for _, n := range notes {
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
	full, err := s.Rooms.Class(ctx, c.ID)
	if err != nil {
		return nil, err
	}
	out, err := s.classView(ctx, full, store.RoleOwner)
	return api.CreateClass201JSONResponse(out), err
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
	_, draftErr := s.Rooms.Store.Draft(ctx, c.ID)
	return api.Class{
		Id: c.ID, Code: c.Code, Name: c.Name, Period: c.Period, Students: len(c.Students), Staff: staff, My: api.ClassMy(mine), Revision: c.Revision,
		Columns: c.Columns(), Pockets: pockets(c.Plan.V.Pockets), Packed: slices.ContainsFunc(ledger, func(e store.Entry) bool { return e.Purpose == "satchel" }), Draft: draftErr == nil,
	}, nil
}

func pockets(ps []room.Pocket) []api.Pocket {
	out := []api.Pocket{}
	for _, p := range ps {
		out = append(out, api.Pocket{Id: p.ID, Name: p.Name})
	}
	return out
}

// GetRoster implements the route of that name.
func (s *Server) GetRoster(ctx context.Context, _ api.GetRosterRequestObject) (api.GetRosterResponseObject, error) {
	c, err := s.class(ctx)
	if err != nil {
		return nil, err
	}
	out := api.GetRoster200JSONResponse{}
	for _, st := range c.Students {
		row := api.RosterRow{Row: st.ID, Name: st.Name(), SortName: st.SortName(), Given: st.Given, Family: st.Family, Number: st.Number, Address: st.Address, Period: st.Period, Level: st.Level, Team: st.Team, Extra: st.Extra.V}
		if row.Extra == nil {
			row.Extra = map[string]string{}
		}
		if p := st.Problem(); p != nil {
			reason := reasonOf(*p)
			row.Problem = &reason
		}
		out = append(out, row)
	}
	return out, nil
}

// SetAddress implements the route of that name.
func (s *Server) SetAddress(ctx context.Context, r api.SetAddressRequestObject) (api.SetAddressResponseObject, error) {
	if err := s.Rooms.CorrectAddress(ctx, r.ClassId, r.RowId, r.Body.Address); err != nil {
		return nil, err
	}
	return api.SetAddress204Response{}, nil
}

// GetDraft implements the route of that name.
func (s *Server) GetDraft(ctx context.Context, r api.GetDraftRequestObject) (api.GetDraftResponseObject, error) {
	d, err := s.Rooms.Draft(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	return api.GetDraft200JSONResponse(draftView(d)), nil
}

// PasteDraft implements the route of that name.
func (s *Server) PasteDraft(ctx context.Context, r api.PasteDraftRequestObject) (api.PasteDraftResponseObject, error) {
	t, err := tables.Read(strings.NewReader(r.Body.Text))
	if err != nil {
		return nil, err
	}
	d, err := s.Rooms.PasteDraft(ctx, r.ClassId, "", t)
	if err != nil {
		return nil, err
	}
	return api.PasteDraft200JSONResponse(draftView(d)), nil
}

// UploadDraft implements the route of that name.
func (s *Server) UploadDraft(ctx context.Context, r api.UploadDraftRequestObject) (api.UploadDraftResponseObject, error) {
	f, _, err := formFile(r.Body)
	if err != nil {
		return nil, err
	}
	t, err := tables.Read(f)
	if err != nil {
		return nil, err
	}
	d, err := s.Rooms.PasteDraft(ctx, r.ClassId, f.FileName(), t)
	if err != nil {
		return nil, err
	}
	return api.UploadDraft200JSONResponse(draftView(d)), nil
}

// ChangeDraft implements the route of that name.
func (s *Server) ChangeDraft(ctx context.Context, r api.ChangeDraftRequestObject) (api.ChangeDraftResponseObject, error) {
	var changes []classroom.DraftChange
	for _, ch := range r.Body.Changes {
		c := classroom.DraftChange{Heading: ch.Heading, Without: ch.Without}
		if ch.Cell != nil {
			c.Cell = &classroom.CellChange{Row: ch.Cell.Row, Field: ch.Cell.Field, Value: ch.Cell.Value}
		}
		if ch.Role != nil {
			c.Role = &classroom.RoleChange{Field: ch.Role.Field, Role: roster.Role(ch.Role.Role)}
		}
		if ch.LeftOut != nil {
			c.LeftOut = &classroom.RowChange{Row: ch.LeftOut.Row, Out: ch.LeftOut.Out}
		}
		changes = append(changes, c)
	}
	d, err := s.Rooms.ChangeDraft(ctx, r.ClassId, changes)
	if err != nil {
		return nil, err
	}
	return api.ChangeDraft200JSONResponse(draftView(d)), nil
}

// DropDraft implements the route of that name.
func (s *Server) DropDraft(ctx context.Context, r api.DropDraftRequestObject) (api.DropDraftResponseObject, error) {
	return api.DropDraft204Response{}, s.Rooms.Store.DeleteDraft(ctx, r.ClassId)
}

// AcceptDraft implements the route of that name.
func (s *Server) AcceptDraft(ctx context.Context, r api.AcceptDraftRequestObject) (api.AcceptDraftResponseObject, error) {
	n, err := s.Rooms.Accept(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	return api.AcceptDraft200JSONResponse{Students: n}, nil
}

// A page shows the first rows and findings of a long list: enough to judge it.
const (
	shownRows     = 2500
	shownFindings = 500
)

func draftView(d classroom.Draft) api.Draft {
	res := d.Read
	out := api.Draft{
		Source: d.Source, HeadingRow: res.HeadingRow, Without: d.Without, Columns: []api.Column{}, Rows: []api.DraftRow{}, Findings: []api.Finding{},
		Counts: api.Counts{Rows: res.Counts.Rows, Students: res.Counts.Students, Blank: res.Counts.Blank, Hidden: res.Counts.Hidden, LeftOut: res.Counts.LeftOut},
	}
	for _, c := range res.Columns {
		out.Columns = append(out.Columns, api.Column{Heading: c.Heading, Role: api.Role(c.Role), Confidence: float32(c.Confidence)})
	}
	state := map[int]api.DraftRowState{}
	for _, st := range res.Students {
		state[st.Row] = api.DraftRowStateStudent
	}
	for _, f := range res.Findings {
		switch f.Code {
		case "blank-row":
			state[f.Row] = api.DraftRowStateBlank
		case "hidden-row":
			state[f.Row] = api.DraftRowStateHidden
		}
		if len(out.Findings) < shownFindings {
			out.Findings = append(out.Findings, api.Finding{Row: f.Row, Field: f.Field, Column: f.Column, Severity: api.FindingSeverity(f.Severity), Code: f.Code, Args: f.Args, Message: f.Message, Remedy: f.Remedy})
		}
	}
	for i, row := range d.Cells.V {
		if i >= shownRows {
			break
		}
		st, ok := state[row.Line]
		switch {
		case ok:
		case row.Line == res.HeadingRow:
			st = api.DraftRowStateHeading
		case row.Line < res.HeadingRow:
			st = api.DraftRowStateTitle
		default:
			st = api.DraftRowStateOut
		}
		cells := row.Cells
		if cells == nil {
			cells = []string{}
		}
		out.Rows = append(out.Rows, api.DraftRow{Line: row.Line, Cells: cells, State: st})
	}
	out.Shown = len(out.Rows)
	return out
}

func deref(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}
