package enrol

import (
	"context"
	"fmt"
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/store"
	"jollysatchel/internal/tables"
	"jollysatchel/internal/usecase/seam"
)

// A DraftChange is one correction the teacher makes. Nil parts stay as they
// are. Was, where it is said, is the value that was looked at: if somebody
// changed it since, both values are told and nothing is written.
type DraftChange struct {
	Cell    *CellChange
	Role    *RoleChange
	LeftOut *RowChange
	Same    *RowChange
	Heading *int // line of the heading row, 0 for none
	Without *bool

	Sheet       *string
	FamilyFirst *bool
	Derive      *roster.AddressRule
	ByPeriod    *bool
	NoStaff     *bool
	Encoding    *string
	Said        *SaidChange
	Tick        *TickChange
	Target      *TargetChange

	Was *string
}

// A SaidChange answers who the student of a line is: a row of the class, "new"
// for somebody new, empty to ask again.
type SaidChange struct {
	Line int
	Row  string
}

// A TickChange accepts a line of the comparison or doesn't.
type TickChange struct {
	Key string
	On  bool
}

// A TargetChange says which class a part of the list is: its id, "new" or "out".
type TargetChange struct{ Group, Class string }

// A CellChange puts a value into one cell.
type CellChange struct {
	Row, Field int
	Value      string
}

// A RoleChange says what a column holds.
type RoleChange struct {
	Field int
	Role  roster.Role
}

// A RowChange says yes or no about a row of the list.
type RowChange struct {
	Row int
	Out bool
}

// mostChanges bounds one correction of a draft.
const mostChanges = 10_000

// ChangeDraft applies corrections to the draft with an id, on what it is then:
// corrections of different places all stand, whoever makes them. A draft that
// was replaced meanwhile is not changed.
func (c *Lists) ChangeDraft(ctx context.Context, by, class, id string, changes []DraftChange) (Draft, error) {
	if len(changes) > mostChanges {
		return Draft{}, change.Refuse("changes", "too-many", "most", fmt.Sprint(mostChanges))
	}
	var shape string
	var roles map[int]roster.Role
	err := c.Store.Change(ctx, c.draftAct(ctx, by, "list-corrected", class, changes), nil, func(tx *store.Store) error {
		e, err := c.editDraft(ctx, tx, class, id)
		if err != nil {
			return err
		}
		for _, ch := range changes {
			if err := e.apply(ctx, ch); err != nil {
				return err
			}
			if ch.Role != nil {
				rows, err := e.cells(ctx)
				if err != nil {
					return err
				}
				shape, roles = roster.Shape(roster.Table{Rows: rows[:min(len(rows), 50)]}), e.Settings.OfSheet.Roles
			}
		}
		e.ChangedAt = c.Now()
		_, err = tx.SaveDraft(ctx, e.Draft)
		return err
	})
	if err != nil {
		return Draft{}, seam.NotFound(err)
	}
	if shape != "" {
		if err := c.Store.SaveShape(ctx, by, shape, roles); err != nil {
			return Draft{}, err
		}
	}
	return c.Draft(ctx, by, class)
}

// A draftEdit is a draft that is held while it is corrected.
type draftEdit struct {
	store.Draft
	house *seam.House
	tx    *store.Store
	rows  []roster.Row
}

// editDraft holds the draft with an id.
func (c *Lists) editDraft(ctx context.Context, tx *store.Store, class, id string) (*draftEdit, error) {
	if err := tx.HoldDraft(ctx, class); err != nil {
		return nil, err
	}
	d, err := tx.Draft(ctx, class)
	switch {
	case err != nil:
		return nil, err
	case id != "" && d.ID != id:
		return nil, &change.Changed{Field: "draft"}
	}
	return &draftEdit{Draft: d, house: c.House, tx: tx}, nil
}

func (e *draftEdit) cells(ctx context.Context) ([]roster.Row, error) {
	var err error
	if e.rows == nil {
		e.rows, err = e.tx.DraftRows(ctx, e.Draft)
	}
	return e.rows, err
}

func (e *draftEdit) apply(ctx context.Context, ch DraftChange) error {
	set := &e.Settings
	switch {
	case ch.Cell != nil:
		return e.setCell(ctx, *ch.Cell, ch.Was)
	case ch.Sheet != nil:
		if err := change.Unless(ch.Was, "sheet", set.Sheet, *ch.Sheet); err != nil {
			return err
		}
		return e.turnTo(*ch.Sheet)
	case ch.Encoding != nil:
		return e.readAs(ctx, *ch.Encoding)
	case ch.Derive != nil:
		if err := change.Unless(ch.Was, "derive", string(set.Derive), string(*ch.Derive)); err != nil {
			return err
		}
		if r := *ch.Derive; r != "" && r.Derive(record.Record{Given: "a", Family: "b", Number: "1"}, "school.example") == "" {
			return change.Refuse("derive", "no-such-rule")
		}
		set.Derive = *ch.Derive
	case ch.Without != nil:
		set.Without = *ch.Without
	case ch.FamilyFirst != nil:
		set.FamilyFirst = *ch.FamilyFirst
	case ch.ByPeriod != nil:
		set.ByPeriod = *ch.ByPeriod
	case ch.NoStaff != nil:
		set.NoStaff = *ch.NoStaff
	default:
		return applyToSheet(&set.OfSheet, ch)
	}
	return nil
}

// applyToSheet answers something about the sheet that is looked at.
func applyToSheet(of *store.DraftSheetAnswers, ch DraftChange) error {
	switch {
	case ch.Role != nil:
		return setRole(of, *ch.Role, ch.Was)
	case ch.LeftOut != nil:
		put(&of.LeftOut, ch.LeftOut.Row, ch.LeftOut.Out)
	case ch.Same != nil:
		put(&of.Same, ch.Same.Row, ch.Same.Out)
	case ch.Heading != nil:
		now := ""
		if of.Heading != nil {
			now = fmt.Sprint(*of.Heading)
		}
		if err := change.Unless(ch.Was, "heading", now, fmt.Sprint(*ch.Heading)); err != nil {
			return err
		}
		of.Heading = ch.Heading
	case ch.Said != nil:
		if err := change.Unless(ch.Was, "said", of.Said[ch.Said.Line], ch.Said.Row); err != nil {
			return err
		}
		put(&of.Said, ch.Said.Line, ch.Said.Row)
		if ch.Said.Row == "" {
			delete(of.Said, ch.Said.Line)
		}
	case ch.Tick != nil:
		put(&of.Ticked, ch.Tick.Key, ch.Tick.On)
	case ch.Target != nil:
		if err := change.Unless(ch.Was, "target", of.Targets[ch.Target.Group], ch.Target.Class); err != nil {
			return err
		}
		put(&of.Targets, ch.Target.Group, ch.Target.Class)
	}
	return nil
}

func put[K comparable, V any](m *map[K]V, k K, v V) {
	if *m == nil {
		*m = map[K]V{}
	}
	(*m)[k] = v
}

func (e *draftEdit) setCell(ctx context.Context, ch CellChange, was *string) error {
	rows, err := e.cells(ctx)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(rows, func(r roster.Row) bool { return r.Line == ch.Row })
	if i < 0 || ch.Field < 0 || ch.Field >= tables.MaxColumns {
		return change.Refuse("cell", "no-such-cell")
	}
	if len(ch.Value) > roster.MaxValue {
		return change.TooLong("cell", roster.MaxValue)
	}
	now := ""
	if ch.Field < len(rows[i].Cells) {
		now = rows[i].Cells[ch.Field]
	}
	if err := change.Unless(was, "cell", roster.Clip(now), ch.Value); err != nil {
		return err
	}
	e.rows = nil
	return e.tx.SetDraftCell(ctx, e.Draft, store.DraftCell{Line: ch.Row, Field: ch.Field, Value: ch.Value})
}

// setRole says what a column holds; a role that can stand once leaves the
// column that had it.
func setRole(of *store.DraftSheetAnswers, ch RoleChange, was *string) error {
	if !slices.Contains(roster.Roles, ch.Role) {
		return change.Refuse("role", "no-such-role")
	}
	if now, said := of.Roles[ch.Field]; said {
		if err := change.Unless(was, "role", string(now), string(ch.Role)); err != nil {
			return err
		}
	}
	for f, other := range of.Roles {
		if other == ch.Role && ch.Role != roster.Extra && ch.Role != roster.None {
			delete(of.Roles, f)
		}
	}
	put(&of.Roles, ch.Field, ch.Role)
	return nil
}

// turnTo looks at another sheet of the file; what was corrected in the cells of
// the one before stays there.
func (e *draftEdit) turnTo(sheet string) error {
	if !slices.ContainsFunc(e.Sheets, func(s store.DraftSheet) bool { return s.Name == sheet }) {
		return change.Refuse("sheet", "no-such-sheet", "sheet", sheet)
	}
	if sheet != e.Settings.Sheet {
		e.Settings.Sheet, e.Settings.OfSheet, e.rows = sheet, store.DraftSheetAnswers{}, nil
	}
	return nil
}

// readAs reads the letters of the list in another of the ways they can be read.
func (e *draftEdit) readAs(ctx context.Context, encoding string) error {
	if !slices.ContainsFunc(e.Settings.Encodings, func(r store.DraftReading) bool { return r.Encoding == encoding }) {
		return change.Refuse("encoding", "no-such-encoding")
	}
	original, err := e.tx.DraftOriginal(ctx, e.ID)
	if err != nil {
		return err
	}
	book, err := e.house.ReadList(ctx, original, encoding)
	if err != nil {
		return err
	}
	again, err := draftOf(e.ClassID, e.Source, book)
	if err != nil {
		return err
	}
	e.Sheets, e.Settings.Encoding, e.Settings.Encodings, e.rows = again.Sheets, encoding, again.Settings.Encodings, nil
	return e.tx.RereadDraft(ctx, e.Draft)
}
