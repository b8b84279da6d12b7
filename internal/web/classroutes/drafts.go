package classroutes

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"strings"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/draft"
	"jollysatchel/internal/core/lists"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/tables"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// GetDraft implements the route of that name.
func (s *enrolRoutes) GetDraft(ctx context.Context, r api.GetDraftRequestObject) (api.GetDraftResponseObject, error) {
	d, err := s.lists.Draft(ctx, desk.Account(ctx), r.ClassId)
	if err != nil {
		return nil, err
	}
	return api.GetDraft200JSONResponse(draftView(d)), nil
}

// PasteDraft implements the route of that name.
func (s *enrolRoutes) PasteDraft(ctx context.Context, r api.PasteDraftRequestObject) (api.PasteDraftResponseObject, error) {
	d, err := s.lists.BringDraft(ctx, desk.Account(ctx), r.ClassId, "", strings.NewReader(r.Body.Text))
	if err != nil {
		return nil, err
	}
	return api.PasteDraft200JSONResponse(draftView(d)), nil
}

// UploadDraft implements the route of that name.
func (s *enrolRoutes) UploadDraft(ctx context.Context, r api.UploadDraftRequestObject) (api.UploadDraftResponseObject, error) {
	f, _, err := desk.FormFile(r.Body)
	if err != nil {
		return nil, err
	}
	b, err := tables.Bytes(f)
	if err != nil {
		return nil, err
	}
	sum := sha256.Sum256(b)
	d, err := s.lists.BringDraft(desk.About(ctx, hex.EncodeToString(sum[:])), desk.Account(ctx), r.ClassId, f.Name, bytes.NewReader(b))
	if err != nil {
		return nil, err
	}
	return api.UploadDraft200JSONResponse(draftView(d)), nil
}

// ChangeDraft implements the route of that name.
func (s *enrolRoutes) ChangeDraft(ctx context.Context, r api.ChangeDraftRequestObject) (api.ChangeDraftResponseObject, error) {
	if r.Body.Draft == "" {
		return nil, change.Refuse("draft", "missing")
	}
	var changes []draft.Change
	for _, ch := range r.Body.Changes {
		changes = append(changes, draftChange(ch))
	}
	d, err := s.lists.ChangeDraft(ctx, desk.Account(ctx), r.ClassId, r.Body.Draft, changes)
	if err != nil {
		return nil, err
	}
	return api.ChangeDraft200JSONResponse(draftView(d)), nil
}

func draftChange(ch api.DraftChange) draft.Change {
	c := draft.Change{Heading: ch.Heading, Without: ch.Without, Sheet: ch.Sheet, FamilyFirst: ch.FamilyFirst,
		ByPeriod: ch.ByPeriod, NoStaff: ch.NoStaff, Encoding: ch.Encoding, Was: ch.Was}
	if ch.Cell != nil {
		c.Cell = &draft.CellChange{Row: ch.Cell.Row, Field: ch.Cell.Field, Value: ch.Cell.Value}
	}
	if ch.Role != nil {
		c.Role = &draft.RoleChange{Field: ch.Role.Field, Role: roster.Role(ch.Role.Role)}
	}
	if ch.LeftOut != nil {
		c.LeftOut = &draft.RowChange{Row: ch.LeftOut.Row, Out: ch.LeftOut.Out}
	}
	if ch.Same != nil {
		c.Same = &draft.RowChange{Row: ch.Same.Row, Out: ch.Same.Out}
	}
	if ch.Derive != nil {
		rule := roster.AddressRule(*ch.Derive)
		c.Derive = &rule
	}
	if ch.Said != nil {
		c.Said = &draft.SaidChange{Line: ch.Said.Line, Row: ch.Said.Row}
	}
	if ch.Tick != nil {
		c.Tick = &draft.TickChange{Key: ch.Tick.Key, On: ch.Tick.On}
	}
	if ch.Target != nil {
		c.Target = &draft.TargetChange{Group: ch.Target.Group, Class: ch.Target.Class}
	}
	return c
}

// DropDraft implements the route of that name.
func (s *enrolRoutes) DropDraft(ctx context.Context, r api.DropDraftRequestObject) (api.DropDraftResponseObject, error) {
	looked := draft.Looked{ID: r.Params.Id, Revision: r.Params.Revision}
	return api.DropDraft204Response{}, s.lists.DropDraft(ctx, desk.Account(ctx), r.ClassId, looked)
}

// AcceptDraft implements the route of that name.
func (s *enrolRoutes) AcceptDraft(ctx context.Context, r api.AcceptDraftRequestObject) (api.AcceptDraftResponseObject, error) {
	a, err := s.lists.Accept(ctx, desk.Account(ctx), r.ClassId, draft.Looked{ID: r.Body.Id, Revision: r.Body.Revision, Digest: r.Body.Looked})
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
const shownRows = 2500

const shownFindings = 500

const shownLines = 2500

// Who fits more than this is nobody's clue: somebody new, or for later.
const shownCandidates = 8

func draftView(d draft.View) api.Draft {
	res, set := d.Read, d.Settings
	out := api.Draft{
		Id: d.ID, Revision: d.Revision, Looked: d.Looked, Encoding: set.Encoding, Encodings: []api.Reading{},
		Source: d.Source, HeadingRow: res.HeadingRow, Without: set.Without, Columns: []api.Column{}, Rows: []api.DraftRow{},
		Findings: []api.Finding{},
		Counts: api.Counts{Rows: res.Counts.Rows, Students: res.Counts.Students, Blank: res.Counts.Blank,
			Hidden: res.Counts.Hidden, LeftOut: res.Counts.LeftOut},
		Sheet: set.Sheet, Sheets: []api.DraftSheet{}, FamilyFirst: set.FamilyFirst, Derive: string(set.Derive),
		Rule: string(d.Rule), Rules: []string{},
		ByPeriod: set.ByPeriod, NoStaff: set.NoStaff, Groups: []api.DraftGroup{}, Classes: []api.ClassName{},
		Compared: d.Plan.Compared, Partial: d.Plan.Partial, Lines: []api.DraftLine{},
	}
	for _, r := range set.Encodings {
		out.Encodings = append(out.Encodings, api.Reading{Encoding: r.Encoding, Example: r.Example, Instead: r.Instead})
	}
	for _, sh := range d.Sheets {
		out.Sheets = append(out.Sheets, api.DraftSheet{Name: sh.Name, Hidden: sh.Hidden})
	}
	for _, r := range roster.Rules {
		out.Rules = append(out.Rules, string(r))
	}
	for _, c := range res.Columns {
		out.Columns = append(out.Columns,
			api.Column{Heading: c.Heading, Role: api.Role(c.Role), Confidence: float32(c.Confidence), Hidden: c.Hidden, Note: c.Note})
	}
	draftRows(&out, d)
	periods := map[string]bool{}
	for _, st := range res.Students {
		periods[st.Class+"\x00"+st.Period] = true
	}
	out.SeveralPeriods = len(periods) > len(lists.Groups(res.Students, false))
	for _, cl := range d.Classes {
		out.Classes = append(out.Classes, api.ClassName{Id: cl.ID, Code: cl.Code, Name: cl.Name})
	}
	for _, p := range d.Plan.Parts {
		v := api.DraftGroup{Key: p.Key, Class: p.Class, Period: p.Period, Students: len(p.Students), Target: p.Target,
			Name: p.Name, Staff: []string{}, Why: p.Why}
		for _, t := range d.Teachers(p) {
			v.Staff = append(v.Staff, t.Name)
		}
		out.Groups = append(out.Groups, v)
	}
	if d.Plan.Compared {
		for _, l := range d.Plan.Lines[:min(shownLines, len(d.Plan.Lines))] {
			out.Lines = append(out.Lines, draftLine(l, set.OfSheet.Said))
		}
	}
	return out
}

func draftRows(out *api.Draft, d draft.View) {
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
			out.Findings = append(out.Findings,
				api.Finding{Row: f.Row, Field: f.Field, Column: f.Column, Severity: api.FindingSeverity(f.Severity), Code: f.Code,
					Args: f.Args, Message: f.Message, Remedy: f.Remedy})
		}
	}
	for _, row := range d.Rows[:min(shownRows, len(d.Rows))] {
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
		cells := make([]string, len(row.Cells))
		for i, v := range row.Cells {
			cells[i] = roster.Clip(v)
		}
		out.Rows = append(out.Rows, api.DraftRow{Line: row.Line, Cells: cells, State: st})
	}
	out.Shown = len(out.Rows)
}

func draftLine(l lists.PlanLine, said map[int]string) api.DraftLine {
	v := api.DraftLine{Key: l.Key, Kind: api.DraftLineKind(l.Kind), Class: l.Class, By: l.By, Why: l.Why,
		Accepted: l.Accepted, Fields: []api.DraftField{}, Candidates: []api.Candidate{}}
	if l.Row != nil {
		v.Row, v.From, v.Name = l.Row.ID, l.From, l.Row.CallName()
	}
	if l.Student != nil {
		v.Line, v.Name, v.Said = l.Student.Row, l.Student.Name(), said[l.Student.Row]
	}
	for _, f := range l.Fields {
		v.Fields = append(v.Fields, api.DraftField{Key: f.Key, Field: string(f.Field), From: f.From, To: f.To, Accepted: f.Accepted})
	}
	for _, r := range l.Candidates[:min(shownCandidates, len(l.Candidates))] {
		v.Candidates = append(v.Candidates, api.Candidate{Row: r.ID, Name: r.CallName(), Address: r.Address, Number: r.Number})
	}
	return v
}
