package classroom

import (
	"context"
	"database/sql"
	"errors"
	"slices"
	"strings"

	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/schoolbook"
	"jollysatchel/internal/store"
	"jollysatchel/internal/tables"
)

// MaxStudents is the largest class.
const MaxStudents = 2000

// mostSuggestions of likely right addresses are looked for in one list: more
// than a page shows, and a list with so many unknown ones is of another school.
const mostSuggestions = 1000

// A Draft is a list that waits to be accepted, with what was read from it and
// what accepting it would do.
type Draft struct {
	store.Draft
	Read     roster.Result
	Rule     roster.Rule
	Groups   []DraftGroup
	Compared bool // there is something to compare with
	Partial  bool // the list names so few that it is hardly the whole class
	Lines    []DraftLine
}

// BringDraft keeps a new list for a class in place of the one before. What the
// account said about lists of this shape is remembered.
func (c *Classroom) BringDraft(ctx context.Context, by, class, source string, book tables.Book) (Draft, error) {
	return c.bring(ctx, by, class, source, book, false)
}

func (c *Classroom) bring(ctx context.Context, by, class, source string, book tables.Book, own bool) (Draft, error) {
	chosen, err := book.Sheet("")
	if err != nil {
		return Draft{}, err
	}
	d := store.Draft{ClassID: class, Source: source, ChangedAt: c.Now()}
	d.Settings.V.Own = own
	d.Roles.V, d.LeftOut.V, d.Sheets.V = map[int]roster.Role{}, map[int]bool{}, []store.DraftSheet{}
	for _, s := range book.Sheets {
		sheet := store.DraftSheet{Name: s.Name, Hidden: s.Hidden, Rows: s.Table.Rows, HiddenColumns: s.Table.HiddenColumns}
		if s.Name == chosen.Name {
			d.Cells.V, d.Settings.V.Sheet, d.Settings.V.HiddenColumns = s.Table.Rows, s.Name, s.Table.HiddenColumns
			sheet.Rows = nil
		}
		if !s.Blank() {
			d.Sheets.V = append(d.Sheets.V, sheet)
		}
	}
	for _, t := range book.Teachers {
		d.Settings.V.Teachers = append(d.Settings.V.Teachers, store.DraftTeacher{Class: t.Class, Period: t.Period, Name: tidy(t.Given + " " + t.Family), Address: t.Address})
	}
	if err := c.recall(ctx, by, &d); err != nil {
		return Draft{}, err
	}
	if err := c.Store.SaveDraft(ctx, d); err != nil {
		return Draft{}, err
	}
	return c.readDraft(ctx, by, d)
}

// recall takes over the roles the account gave to the columns of a list of the
// same shape.
func (c *Classroom) recall(ctx context.Context, by string, d *store.Draft) error {
	shape := shapeOf(roster.Read(roster.Table{Rows: d.Cells.V[:min(len(d.Cells.V), 50)]}, roster.Options{}))
	if shape == "" {
		return nil
	}
	roles, err := c.Store.Shape(ctx, by, shape)
	switch {
	case errors.Is(err, store.ErrNotFound):
		return nil
	case err != nil:
		return err
	}
	d.Roles.V = roles
	return nil
}

// shapeOf names what lists of one kind have in common: their headings in turn.
// A list without headings has no shape.
func shapeOf(r roster.Result) string {
	if r.HeadingRow == 0 {
		return ""
	}
	var b strings.Builder
	for _, col := range r.Columns {
		b.WriteString(strings.ToLower(tidy(col.Heading)) + "\x1f")
	}
	return b.String()
}

// Draft returns the class's list that waits to be accepted.
func (c *Classroom) Draft(ctx context.Context, by, class string) (Draft, error) {
	d, err := c.Store.Draft(ctx, class)
	if err != nil {
		return Draft{}, notFound(err)
	}
	return c.readDraft(ctx, by, d)
}

// A DraftChange is one correction the teacher makes. Nil parts stay as they are.
type DraftChange struct {
	Cell    *CellChange
	Role    *RoleChange
	LeftOut *RowChange
	Heading *int // line of the heading row, 0 for none
	Without *bool

	Sheet       *string
	FamilyFirst *bool
	Derive      *roster.Rule
	ByPeriod    *bool
	NoStaff     *bool
	Said        *SaidChange
	Tick        *TickChange
	Target      *TargetChange
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

// A TargetChange says which class a group of the list is: its id, "new" or "out".
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

// A RowChange leaves a row out or takes it in again.
type RowChange struct {
	Row int
	Out bool
}

// ChangeDraft applies corrections and reads the list again.
func (c *Classroom) ChangeDraft(ctx context.Context, by, class string, changes []DraftChange) (Draft, error) {
	d, err := c.Store.Draft(ctx, class)
	if err != nil {
		return Draft{}, notFound(err)
	}
	for _, ch := range changes {
		if err := apply(&d, ch); err != nil {
			return Draft{}, err
		}
	}
	d.ChangedAt = c.Now()
	if err := c.Store.SaveDraft(ctx, d); err != nil {
		return Draft{}, err
	}
	out, err := c.readDraft(ctx, by, d)
	if err != nil || !slices.ContainsFunc(changes, func(ch DraftChange) bool { return ch.Role != nil }) {
		return out, err
	}
	if shape := shapeOf(out.Read); shape != "" {
		err = c.Store.SaveShape(ctx, by, shape, d.Roles.V)
	}
	return out, err
}

func apply(d *store.Draft, ch DraftChange) error {
	if e := ch.Cell; e != nil {
		i := slices.IndexFunc(d.Cells.V, func(r roster.Row) bool { return r.Line == e.Row })
		if i < 0 || e.Field < 0 || e.Field >= 1000 || len(e.Value) > 4000 {
			return &Invalid{"cell", "no-such-cell", nil}
		}
		for len(d.Cells.V[i].Cells) <= e.Field {
			d.Cells.V[i].Cells = append(d.Cells.V[i].Cells, "")
		}
		d.Cells.V[i].Cells[e.Field] = e.Value
	}
	if r := ch.Role; r != nil {
		if !slices.Contains(roster.Roles, r.Role) {
			return &Invalid{"role", "no-such-role", nil}
		}
		for f, other := range d.Roles.V {
			if other == r.Role && r.Role != roster.Extra && r.Role != roster.None {
				delete(d.Roles.V, f)
			}
		}
		d.Roles.V[r.Field] = r.Role
	}
	if r := ch.LeftOut; r != nil {
		if r.Out {
			d.LeftOut.V[r.Row] = true
		} else {
			delete(d.LeftOut.V, r.Row)
			for i := range d.Cells.V {
				if d.Cells.V[i].Line == r.Row {
					d.Cells.V[i].Hidden = false // hidden in the spreadsheet, and meant all the same
				}
			}
		}
	}
	if ch.Heading != nil {
		d.Heading = sql.NullInt64{Int64: int64(*ch.Heading), Valid: true}
	}
	if ch.Without != nil {
		d.Without = *ch.Without
	}
	return applySettings(d, ch)
}

func applySettings(d *store.Draft, ch DraftChange) error {
	s := &d.Settings.V
	if ch.Sheet != nil && *ch.Sheet != s.Sheet {
		if err := turnTo(d, *ch.Sheet); err != nil {
			return err
		}
	}
	if ch.FamilyFirst != nil {
		s.FamilyFirst = *ch.FamilyFirst
	}
	if ch.Derive != nil {
		if r := *ch.Derive; r != "" && r.Derive(roster.Student{Given: "a", Family: "b", Number: "1"}, "school.example") == "" {
			return &Invalid{"derive", "no-such-rule", nil}
		}
		s.Derive = *ch.Derive
	}
	if ch.ByPeriod != nil {
		s.ByPeriod = *ch.ByPeriod
	}
	if ch.NoStaff != nil {
		s.NoStaff = *ch.NoStaff
	}
	if a := ch.Said; a != nil {
		if s.Said == nil {
			s.Said = map[int]string{}
		}
		s.Said[a.Line] = a.Row
		if a.Row == "" {
			delete(s.Said, a.Line)
		}
	}
	if t := ch.Tick; t != nil {
		if s.Ticked == nil {
			s.Ticked = map[string]bool{}
		}
		s.Ticked[t.Key] = t.On
	}
	if t := ch.Target; t != nil {
		if s.Targets == nil {
			s.Targets = map[string]string{}
		}
		s.Targets[t.Group] = t.Class
	}
	return nil
}

// turnTo looks at another sheet of the file; what was corrected on the one
// before stays there.
func turnTo(d *store.Draft, sheet string) error {
	s := &d.Settings.V
	to := slices.IndexFunc(d.Sheets.V, func(x store.DraftSheet) bool { return x.Name == sheet })
	if to < 0 {
		return &Invalid{"sheet", "no-such-sheet", map[string]string{"sheet": sheet}}
	}
	if from := slices.IndexFunc(d.Sheets.V, func(x store.DraftSheet) bool { return x.Name == s.Sheet }); from >= 0 {
		d.Sheets.V[from].Rows, d.Sheets.V[from].HiddenColumns = d.Cells.V, s.HiddenColumns
	}
	d.Cells.V, s.Sheet, s.HiddenColumns = d.Sheets.V[to].Rows, sheet, d.Sheets.V[to].HiddenColumns
	d.Sheets.V[to].Rows = nil
	d.Roles.V, d.LeftOut.V, d.Heading = map[int]roster.Role{}, map[int]bool{}, sql.NullInt64{}
	s.Said, s.Ticked, s.Targets = nil, nil, nil
	return nil
}

func (c *Classroom) readDraft(ctx context.Context, by string, d store.Draft) (Draft, error) {
	accounts, err := c.Book.All(ctx)
	if err != nil {
		return Draft{}, err
	}
	known := make(map[string]bool, len(accounts))
	var students []roster.Student
	for _, a := range accounts {
		known[strings.ToLower(a.Address)] = true
		if a.Role == schoolbook.Student {
			students = append(students, roster.Student{Given: a.Given, Family: a.Family, Number: a.Number, Address: a.Address})
		}
	}
	suggestions := 0
	opt := roster.Options{
		Roles: d.Roles.V, LeftOut: d.LeftOut.V, Domain: c.School.Domain, FamilyFirst: d.Settings.V.FamilyFirst, Derive: d.Settings.V.Derive,
		Known: func(a, name string) (bool, string) {
			if known[strings.ToLower(a)] {
				return true, ""
			}
			if suggestions++; suggestions > mostSuggestions {
				return false, ""
			}
			return false, schoolbook.Like(a, name, accounts)
		},
	}
	if d.Heading.Valid {
		h := int(d.Heading.Int64)
		opt.Heading = &h
	}
	out := Draft{Draft: d, Read: roster.Read(roster.Table{Rows: d.Cells.V, HiddenColumns: d.Settings.V.HiddenColumns}, opt)}
	out.Rule, _ = roster.GuessRule(students)
	return out, c.compare(ctx, by, &out)
}

// CorrectAddress gives a student another address. Access follows with the next
// packing; it is refused where the school book doesn't know it.
func (c *Classroom) CorrectAddress(ctx context.Context, by, class, row, address string) error {
	address = strings.TrimSpace(address)
	if why := roster.AddressForm(address); why != "" {
		return &Invalid{"address", "address-malformed", map[string]string{"value": address, "why": why}}
	}
	known, err := c.Book.ByAddress(ctx, []string{address})
	if err != nil {
		return err
	}
	if _, ok := known[strings.ToLower(address)]; !ok {
		return &Invalid{"address", "account-unknown", map[string]string{"address": address}}
	}
	_, err = c.EditRoster(ctx, by, class, []CellEdit{{row, string(roster.Address), address}})
	return err
}
