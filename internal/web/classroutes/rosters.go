package classroutes

import (
	"cmp"
	"context"
	"math/rand/v2"
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/lists"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/teams"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// GetRoster implements the route of that name: those who have left stand last.
func (s *enrolRoutes) GetRoster(ctx context.Context, r api.GetRosterRequestObject) (api.GetRosterResponseObject, error) {
	lines, err := s.rosters.Roster(ctx, desk.Account(ctx), r.ClassId)
	if err != nil {
		return nil, err
	}
	out := api.GetRoster200JSONResponse{}
	for _, l := range lines {
		row := rosterRow(l.Student)
		row.Also, row.SitsOut = append(row.Also, l.Also...), append(row.SitsOut, l.SitsOut...)
		for _, r := range l.Remarks {
			if !slices.ContainsFunc(row.Remarks, func(x api.Remark) bool { return x.Field == string(r.Field) && x.Value == r.Value }) {
				row.Remarks = append(row.Remarks, api.Remark{Code: r.Code, Args: r.Args, Field: string(r.Field), Value: r.Value})
			}
		}
		row.Waits = l.Waits != nil
		if row.Problem = desk.ReasonPtr(cmp.Or(l.Problem, l.Waits)); l.Gone {
			row.Left, row.Remarks = l.LeftAt.UnixMilli(), []api.Remark{}
		}
		out = append(out, row)
	}
	return out, nil
}

func rosterRow(st picture.Student) api.RosterRow {
	row := api.RosterRow{
		Row: st.ID, Name: st.CallName(), SortName: st.SortName(), Given: st.Given, Family: st.Family,
		Preferred: st.Preferred, Number: st.Number, Address: st.Address,
		Period: st.Period, Level: st.Level, Team: st.Team, Extra: st.Extra, Also: []string{}, SitsOut: []string{},
		Remarks: []api.Remark{}, Relink: st.Relink != "",
	}
	if row.Extra == nil {
		row.Extra = map[string]string{}
	}
	return row
}

// ConfirmAccount implements the route of that name.
func (s *enrolRoutes) ConfirmAccount(ctx context.Context, r api.ConfirmAccountRequestObject) (api.ConfirmAccountResponseObject, error) {
	batch, err := s.rosters.ConfirmAccount(ctx, desk.Account(ctx), r.ClassId, r.RowId)
	if err != nil {
		return nil, err
	}
	return api.ConfirmAccount200JSONResponse{Batch: batch}, nil
}

// RenameTeam implements the route of that name.
func (s *enrolRoutes) RenameTeam(ctx context.Context, r api.RenameTeamRequestObject) (api.RenameTeamResponseObject, error) {
	batch, err := s.rosters.RenameTeam(ctx, desk.Account(ctx), r.ClassId, r.TeamId, r.Body.Name)
	if err != nil {
		return nil, err
	}
	return api.RenameTeam200JSONResponse{Batch: batch}, nil
}

// SetAddress implements the route of that name.
func (s *enrolRoutes) SetAddress(ctx context.Context, r api.SetAddressRequestObject) (api.SetAddressResponseObject, error) {
	if err := s.rosters.CorrectAddress(ctx, desk.Account(ctx), r.ClassId, r.RowId, r.Body.Address); err != nil {
		return nil, err
	}
	return api.SetAddress204Response{}, nil
}

// AddStudents implements the route of that name.
func (s *enrolRoutes) AddStudents(ctx context.Context, r api.AddStudentsRequestObject) (api.AddStudentsResponseObject, error) {
	var students []record.Record
	for _, b := range r.Body.Students {
		students = append(students, record.Record{
			Given: desk.Deref(b.Given), Family: desk.Deref(b.Family), Preferred: desk.Deref(b.Preferred), Address: desk.Deref(b.Address),
			Number: desk.Deref(b.Number),
			Period: desk.Deref(b.Period), Level: desk.Deref(b.Level), Team: desk.Deref(b.Team), Extra: map[string]string{},
		})
	}
	batch, err := s.rosters.AddStudents(ctx, desk.Account(ctx), r.ClassId, students)
	if err != nil {
		return nil, err
	}
	return api.AddStudents200JSONResponse{Batch: batch}, nil
}

// EditRoster implements the route of that name.
func (s *enrolRoutes) EditRoster(ctx context.Context, r api.EditRosterRequestObject) (api.EditRosterResponseObject, error) {
	var edits []classes.Edit
	for _, e := range r.Body.Edits {
		edits = append(edits, classes.Edit{Row: e.Row, Field: record.Field(e.Field), Value: e.Value, Was: &e.Was})
	}
	batch, err := s.rosters.EditRoster(ctx, desk.Account(ctx), r.ClassId, edits)
	if err != nil {
		return nil, err
	}
	return api.EditRoster200JSONResponse{Batch: batch}, nil
}

// SetLeft implements the route of that name.
func (s *enrolRoutes) SetLeft(ctx context.Context, r api.SetLeftRequestObject) (api.SetLeftResponseObject, error) {
	batch, err := s.rosters.SetLeft(ctx, desk.Account(ctx), r.ClassId, r.Body.Rows, r.Body.Left)
	if err != nil {
		return nil, err
	}
	return api.SetLeft200JSONResponse{Batch: batch}, nil
}

// DealTeams implements the route of that name. Nothing is kept.
func (s *enrolRoutes) DealTeams(ctx context.Context, r api.DealTeamsRequestObject) (api.DealTeamsResponseObject, error) {
	c, err := s.Class(ctx)
	if err != nil {
		return nil, err
	}
	if r.Body.Teams < 1 || r.Body.Teams > max(1, len(c.Students)) {
		return nil, change.Refuse("teams", "too-many-teams")
	}
	var students []teams.Student
	for _, st := range c.Students {
		if len(r.Body.Rows) == 0 || slices.Contains(r.Body.Rows, st.ID) {
			students = append(students, teams.Student{Row: st.ID, Level: st.Level})
		}
	}
	var apart []teams.Pair
	for _, p := range r.Body.Apart {
		if len(p) == 2 {
			apart = append(apart, teams.Pair{p[0], p[1]})
		}
	}
	team, together := teams.Deal(students, r.Body.Teams, rand.New(rand.NewPCG(uint64(r.Body.Seed), 0)).Shuffle, apart)
	names := teams.Names(r.Body.Teams)
	out := api.DealTeams200JSONResponse{Teams: []api.TeamOf{}, Together: [][]string{}}
	for i, st := range students {
		out.Teams = append(out.Teams, api.TeamOf{Row: st.Row, Team: names[team[i]]})
	}
	for _, p := range together {
		out.Together = append(out.Together, p[:])
	}
	return out, nil
}

// ExportRoster implements the route of that name.
func (s *enrolRoutes) ExportRoster(ctx context.Context, r api.ExportRosterRequestObject) (api.ExportRosterResponseObject, error) {
	return s.Export(ctx, r.Format, "roster", func(c picture.Class) ([][]string, error) { return s.rosters.ExportRoster(c), nil })
}

// RosterHistory implements the route of that name.
func (s *enrolRoutes) RosterHistory(ctx context.Context, r api.RosterHistoryRequestObject) (api.RosterHistoryResponseObject, error) {
	entries, err := s.rosters.History(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	var accounts []string
	for _, e := range entries {
		accounts = append(accounts, e.Account)
	}
	names, err := s.people.Names(ctx, accounts...)
	if err != nil {
		return nil, err
	}
	const shown = 12
	out := api.RosterHistory200JSONResponse{}
	for _, e := range entries {
		item := api.HistoryItem{
			Batch: e.Batch, At: e.At.UnixMilli(), By: names[e.Account], Kind: e.Kind, Source: e.Source,
			Changes: []api.HistoryChange{}, Undone: e.UndoneAt != nil,
			Undoable: e.UndoneAt == nil && e.Kind != "undone" && e.Kind != "relinked", More: max(0, len(e.Changes)-shown),
		}
		for _, ch := range e.Changes[:min(shown, len(e.Changes))] {
			item.Changes = append(item.Changes, historyChange(ch))
		}
		out = append(out, item)
	}
	return out, nil
}

func historyChange(ch lists.RowChange) api.HistoryChange {
	v := api.HistoryChange{What: api.HistoryChangeWhat(ch.What()), Fields: []api.FieldChange{}}
	state := ch.After
	if state == nil {
		state = ch.Before
	}
	v.Name = state.Name()
	for _, f := range ch.Fields() {
		v.Fields = append(v.Fields, api.FieldChange{Field: string(f.Field), From: f.From, To: f.To})
	}
	return v
}

// UndoRoster implements the route of that name.
func (s *enrolRoutes) UndoRoster(ctx context.Context, r api.UndoRosterRequestObject) (api.UndoRosterResponseObject, error) {
	if err := s.rosters.Undo(ctx, desk.Account(ctx), r.ClassId, r.Batch); err != nil {
		return nil, err
	}
	return api.UndoRoster204Response{}, nil
}

// ListBefore implements the route of that name.
func (s *enrolRoutes) ListBefore(ctx context.Context, r api.ListBeforeRequestObject) (api.ListBeforeResponseObject, error) {
	d, err := s.lists.ListBefore(ctx, desk.Account(ctx), r.ClassId, r.Batch)
	if err != nil {
		return nil, err
	}
	return api.ListBefore200JSONResponse(draftView(d)), nil
}

// MakePractice implements the route of that name.
func (s *enrolRoutes) MakePractice(ctx context.Context, _ api.MakePracticeRequestObject) (api.MakePracticeResponseObject, error) {
	c, err := s.practice.Make(ctx, desk.Account(ctx))
	if err != nil {
		return nil, err
	}
	out, err := s.newClass(ctx, c.ID)
	return api.MakePractice201JSONResponse(out), err
}

// ClearPractice implements the route of that name.
func (s *enrolRoutes) ClearPractice(ctx context.Context, r api.ClearPracticeRequestObject) (api.ClearPracticeResponseObject, error) {
	return api.ClearPractice204Response{}, s.practice.Clear(ctx, desk.Account(ctx), r.ClassId)
}
