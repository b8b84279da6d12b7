package web

import (
	"context"
	"slices"
	"strings"

	"jollysatchel/internal/classroom"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/tables"
	"jollysatchel/internal/web/api"
)

// GetDraft implements the route of that name.
func (s *Server) GetDraft(ctx context.Context, r api.GetDraftRequestObject) (api.GetDraftResponseObject, error) {
	d, err := s.Rooms.Draft(ctx, account(ctx), r.ClassId)
	if err != nil {
		return nil, err
	}
	out, err := s.draftView(ctx, d)
	return api.GetDraft200JSONResponse(out), err
}

// PasteDraft implements the route of that name.
func (s *Server) PasteDraft(ctx context.Context, r api.PasteDraftRequestObject) (api.PasteDraftResponseObject, error) {
	book, err := tables.Read(strings.NewReader(r.Body.Text))
	if err != nil {
		return nil, err
	}
	d, err := s.Rooms.BringDraft(ctx, account(ctx), r.ClassId, "", book)
	if err != nil {
		return nil, err
	}
	out, err := s.draftView(ctx, d)
	return api.PasteDraft200JSONResponse(out), err
}

// UploadDraft implements the route of that name.
func (s *Server) UploadDraft(ctx context.Context, r api.UploadDraftRequestObject) (api.UploadDraftResponseObject, error) {
	f, _, err := formFile(r.Body)
	if err != nil {
		return nil, err
	}
	book, err := tables.Read(f)
	if err != nil {
		return nil, err
	}
	d, err := s.Rooms.BringDraft(ctx, account(ctx), r.ClassId, f.FileName(), book)
	if err != nil {
		return nil, err
	}
	out, err := s.draftView(ctx, d)
	return api.UploadDraft200JSONResponse(out), err
}

// ChangeDraft implements the route of that name.
func (s *Server) ChangeDraft(ctx context.Context, r api.ChangeDraftRequestObject) (api.ChangeDraftResponseObject, error) {
	var changes []classroom.DraftChange
	for _, ch := range r.Body.Changes {
		changes = append(changes, draftChange(ch))
	}
	d, err := s.Rooms.ChangeDraft(ctx, account(ctx), r.ClassId, changes)
	if err != nil {
		return nil, err
	}
	out, err := s.draftView(ctx, d)
	return api.ChangeDraft200JSONResponse(out), err
}

func draftChange(ch api.DraftChange) classroom.DraftChange {
	c := classroom.DraftChange{Heading: ch.Heading, Without: ch.Without, Sheet: ch.Sheet, FamilyFirst: ch.FamilyFirst, ByPeriod: ch.ByPeriod, NoStaff: ch.NoStaff}
	if ch.Cell != nil {
		c.Cell = &classroom.CellChange{Row: ch.Cell.Row, Field: ch.Cell.Field, Value: ch.Cell.Value}
	}
	if ch.Role != nil {
		c.Role = &classroom.RoleChange{Field: ch.Role.Field, Role: roster.Role(ch.Role.Role)}
	}
	if ch.LeftOut != nil {
		c.LeftOut = &classroom.RowChange{Row: ch.LeftOut.Row, Out: ch.LeftOut.Out}
	}
	if ch.Derive != nil {
		rule := roster.Rule(*ch.Derive)
		c.Derive = &rule
	}
	if ch.Said != nil {
		c.Said = &classroom.SaidChange{Line: ch.Said.Line, Row: ch.Said.Row}
	}
	if ch.Tick != nil {
		c.Tick = &classroom.TickChange{Key: ch.Tick.Key, On: ch.Tick.On}
	}
	if ch.Target != nil {
		c.Target = &classroom.TargetChange{Group: ch.Target.Group, Class: ch.Target.Class}
	}
	return c
}

// DropDraft implements the route of that name.
func (s *Server) DropDraft(ctx context.Context, r api.DropDraftRequestObject) (api.DropDraftResponseObject, error) {
	return api.DropDraft204Response{}, s.Rooms.Store.DeleteDraft(ctx, r.ClassId)
}

// AcceptDraft implements the route of that name.
func (s *Server) AcceptDraft(ctx context.Context, r api.AcceptDraftRequestObject) (api.AcceptDraftResponseObject, error) {
	a, err := s.Rooms.Accept(ctx, account(ctx), r.ClassId)
	if err != nil {
		return nil, err
	}
	out := api.AcceptDraft200JSONResponse{Students: a.Students, Batch: a.Batch, Counts: map[string]int{}, Classes: a.Classes}
	for k, n := range a.Counts {
		out.Counts[string(k)] = n
	}
	if out.Classes == nil {
		out.Classes = []string{}
	}
	return out, nil
}

// A page shows the first rows and findings of a long list: enough to judge it.
const (
	shownRows     = 2500
	shownFindings = 500
	shownLines    = 2500
	// Whoever fits more than this is nobody's clue: somebody new, or for later.
	shownCandidates = 8
)

func (s *Server) draftView(ctx context.Context, d classroom.Draft) (api.Draft, error) {
	res, set := d.Read, d.Settings.V
	out := api.Draft{
		Source: d.Source, HeadingRow: res.HeadingRow, Without: d.Without, Columns: []api.Column{}, Rows: []api.DraftRow{}, Findings: []api.Finding{},
		Counts: api.Counts{Rows: res.Counts.Rows, Students: res.Counts.Students, Blank: res.Counts.Blank, Hidden: res.Counts.Hidden, LeftOut: res.Counts.LeftOut},
		Sheet:  set.Sheet, Sheets: []api.DraftSheet{}, FamilyFirst: set.FamilyFirst, Derive: string(set.Derive), Rule: string(d.Rule), Rules: []string{},
		ByPeriod: set.ByPeriod, NoStaff: set.NoStaff, Groups: []api.DraftGroup{}, Classes: []api.ClassName{}, Compared: d.Compared, Partial: d.Partial, Lines: []api.DraftLine{},
	}
	for _, sh := range d.Sheets.V {
		out.Sheets = append(out.Sheets, api.DraftSheet{Name: sh.Name, Hidden: sh.Hidden})
	}
	for _, r := range roster.Rules {
		out.Rules = append(out.Rules, string(r))
	}
	for _, c := range res.Columns {
		out.Columns = append(out.Columns, api.Column{Heading: c.Heading, Role: api.Role(c.Role), Confidence: float32(c.Confidence), Hidden: c.Hidden})
	}
	draftRows(&out, d)
	periods := map[string]bool{}
	for _, st := range res.Students {
		periods[st.Class+"\x00"+st.Period] = true
	}
	out.SeveralPeriods = len(periods) > len(roster.Groups(res.Students, false))
	mine, err := s.Rooms.Store.Taught(ctx, account(ctx))
	if err != nil {
		return out, err
	}
	for _, cl := range mine {
		out.Classes = append(out.Classes, api.ClassName{Id: cl.ID, Code: cl.Code, Name: cl.Name})
	}
	for _, g := range d.Groups {
		v := api.DraftGroup{Key: g.Key, Class: g.Class, Period: g.Period, Students: len(g.Students), Target: g.Target, Name: g.Name, Staff: []string{}}
		for _, t := range g.Teachers {
			v.Staff = append(v.Staff, t.Name)
		}
		out.Groups = append(out.Groups, v)
	}
	if d.Compared {
		for _, l := range d.Lines[:min(shownLines, len(d.Lines))] {
			out.Lines = append(out.Lines, draftLine(l, set.Said))
		}
	}
	return out, nil
}

func draftRows(out *api.Draft, d classroom.Draft) {
	state := map[int]api.DraftRowState{}
	for _, st := range d.Read.Students {
		state[st.Row] = api.DraftRowStateStudent
	}
	for _, f := range d.Read.Findings {
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
	for _, row := range d.Cells.V[:min(shownRows, len(d.Cells.V))] {
		st, ok := state[row.Line]
		switch {
		case ok:
		case row.Line == d.Read.HeadingRow:
			st = api.DraftRowStateHeading
		case row.Line < d.Read.HeadingRow:
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
}

func draftLine(l classroom.DraftLine, said map[int]string) api.DraftLine {
	v := api.DraftLine{Key: l.Key, Kind: api.DraftLineKind(l.Kind), Class: l.Class, By: l.By, Why: l.Why, Accepted: l.Accepted, Fields: []api.DraftField{}, Candidates: []api.Candidate{}, Also: slices.Clone(l.Also)}
	if v.Also == nil {
		v.Also = []string{}
	}
	if l.Member != nil {
		v.Row, v.From = l.Member.ID, l.Member.ClassID
		v.Name = classroom.Student{Member: *l.Member}.Name()
	}
	if l.Student != nil {
		v.Line, v.Name, v.Said = l.Student.Row, l.Student.Name(), said[l.Student.Row]
	}
	for _, f := range l.Fields {
		v.Fields = append(v.Fields, api.DraftField{Key: f.Key, Field: f.Field, From: f.From, To: f.To, Accepted: f.Accepted})
	}
	for _, m := range l.Candidates[:min(shownCandidates, len(l.Candidates))] {
		v.Candidates = append(v.Candidates, api.Candidate{Row: m.ID, Name: classroom.Student{Member: m}.Name(), Address: m.Address, Number: m.Number})
	}
	return v
}
