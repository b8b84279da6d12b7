package draft

import (
	"fmt"
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
)

// A Change is one correction the teacher makes. Nil parts stay as they
// are. Was, where it is said, is the value that was looked at: if somebody
// changed it since, both values are told and nothing is written.
type Change struct {
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

// MostChanges bounds one correction of a draft.
const MostChanges = 10_000

// Apply changes what was answered about a draft. A cell is corrected by CellChange.At; how the
// letters are read isn't an answer alone.
func (d *Draft) Apply(ch Change) error {
	set := &d.Settings
	switch {
	case ch.Sheet != nil:
		if err := change.Unless(ch.Was, "sheet", set.Sheet, *ch.Sheet); err != nil {
			return err
		}
		return d.turnTo(*ch.Sheet)
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
		return set.OfSheet.apply(ch)
	}
	return nil
}

// At is what a cell of a draft's rows is corrected to.
func (ch CellChange) At(rows []roster.Row, was *string) (Cell, error) {
	i := slices.IndexFunc(rows, func(r roster.Row) bool { return r.Line == ch.Row })
	if i < 0 || ch.Field < 0 || ch.Field >= roster.MaxFields {
		return Cell{}, change.Refuse("cell", "no-such-cell")
	}
	if len(ch.Value) > roster.MaxValue {
		return Cell{}, change.TooLong("cell", roster.MaxValue)
	}
	now := ""
	if ch.Field < len(rows[i].Cells) {
		now = rows[i].Cells[ch.Field]
	}
	return Cell{Line: ch.Row, Field: ch.Field, Value: ch.Value}, change.Unless(was, "cell", roster.Clip(now), ch.Value)
}

// turnTo looks at another sheet of the file; what was corrected in the cells of
// the one before stays there.
func (d *Draft) turnTo(sheet string) error {
	if !slices.ContainsFunc(d.Sheets, func(s Sheet) bool { return s.Name == sheet }) {
		return change.Refuse("sheet", "no-such-sheet", "sheet", sheet)
	}
	if sheet != d.Settings.Sheet {
		d.Settings.Sheet, d.Settings.OfSheet = sheet, SheetAnswers{}
	}
	return nil
}

// apply answers something about the sheet that is looked at.
func (of *SheetAnswers) apply(ch Change) error {
	switch {
	case ch.Role != nil:
		return of.setRole(*ch.Role, ch.Was)
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

// setRole says what a column holds; a role that only one column can have leaves the
// column that had it.
func (of *SheetAnswers) setRole(ch RoleChange, was *string) error {
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
