package classroom

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/schoolbook"
	"jollysatchel/internal/store"
	"jollysatchel/internal/tables"
)

// A Draft is a list that waits to be accepted, with what was read from it and
// what accepting it would do.
type Draft struct {
	store.Draft
	Rows    []roster.Row
	Read    roster.Result
	Rule    roster.Rule
	Plan    roster.Plan
	Answers roster.Answers
	Looked  string // digest of the plan: what was looked at
	Classes []store.Class
}

// Teachers are those the file names for a part of the list.
func (d Draft) Teachers(p roster.Part) []store.DraftTeacher {
	var out []store.DraftTeacher
	for _, t := range d.Settings.Teachers {
		if (roster.Group{Class: t.Class}).SameClass(roster.Named{Name: p.Class}) && (p.Period == "" || t.Period == p.Period) {
			out = append(out, t)
		}
	}
	return out
}

// BringDraft reads a list in any format and keeps it for a class in place of the
// one before. What the account said about lists of this shape is remembered.
func (c *Classroom) BringDraft(ctx context.Context, by, class, source string, list io.Reader) (Draft, error) {
	b, err := io.ReadAll(io.LimitReader(list, tables.MaxBytes+1))
	if err != nil {
		return Draft{}, err
	}
	book, err := tables.Read(bytes.NewReader(b))
	if err != nil {
		return Draft{}, err
	}
	return c.bring(ctx, by, class, source, book, false, b)
}

// BringBook keeps a list that was read already.
func (c *Classroom) BringBook(ctx context.Context, by, class, source string, book tables.Book) (Draft, error) {
	return c.bring(ctx, by, class, source, book, false, nil)
}

// bring keeps what was read; original is what it was read from, if that is known.
func (c *Classroom) bring(ctx context.Context, by, class, source string, book tables.Book, own bool, original []byte) (Draft, error) {
	d, err := draftOf(class, source, book)
	if err != nil {
		return Draft{}, err
	}
	d.Settings.Own, d.ChangedAt = own, c.Now()
	chosen, err := book.Sheet("")
	if err != nil {
		return Draft{}, err
	}
	if err := c.recall(ctx, by, &d, chosen.Table); err != nil {
		return Draft{}, err
	}
	if len(book.Readings) < 2 {
		original = nil // there is one way to read it
	}
	id := d.ID
	err = c.Store.Change(ctx, c.draftAct(ctx, by, "list-brought", class, map[string]string{"source": source}), &id, func(tx *store.Store) error {
		if err := tx.HoldDraft(ctx, class); err != nil {
			return err
		}
		return tx.PutDraft(ctx, d, original)
	})
	if err != nil {
		return Draft{}, err
	}
	return c.Draft(ctx, by, class)
}

// draftAct is an act on a class's draft: the class itself isn't held, so that a
// long list keeps nobody waiting.
func (c *Classroom) draftAct(ctx context.Context, by, what, class string, args any) store.Act {
	a := c.act(ctx, by, what, args)
	a.About = class
	return a
}

func draftOf(class, source string, book tables.Book) (store.Draft, error) {
	d := store.Draft{ID: store.NewID(), ClassID: class, Source: source}
	chosen, err := book.Sheet("")
	if err != nil {
		return d, err
	}
	d.Settings.Sheet = chosen.Name
	for _, s := range book.Sheets {
		if s.Name == chosen.Name || !s.Blank() {
			d.Sheets = append(d.Sheets, store.DraftSheet{Name: s.Name, Hidden: s.Hidden, Rows: s.Table.Rows, HiddenColumns: s.Table.HiddenColumns})
		}
	}
	for _, t := range book.Teachers {
		d.Settings.Teachers = append(d.Settings.Teachers, store.DraftTeacher{Class: t.Class, Period: t.Period, Name: tidy(t.Given + " " + t.Family), Address: t.Address})
	}
	for _, r := range book.Readings {
		d.Settings.Encodings = append(d.Settings.Encodings, store.DraftReading(r))
	}
	if len(book.Readings) > 0 {
		d.Settings.Encoding = book.Readings[0].Encoding
	}
	return d, nil
}

// recall takes over the roles the account gave to the columns of a list of the
// same shape.
func (c *Classroom) recall(ctx context.Context, by string, d *store.Draft, t roster.Table) error {
	roles, err := c.Store.Shape(ctx, by, roster.Shape(roster.Table{Rows: t.Rows[:min(len(t.Rows), 50)]}))
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	d.Settings.OfSheet.Roles = roles
	return err
}

// Draft returns the class's list that waits to be accepted.
func (c *Classroom) Draft(ctx context.Context, by, class string) (Draft, error) {
	d, err := c.Store.Draft(ctx, class)
	if err != nil {
		return Draft{}, notFound(err)
	}
	book, err := c.book(ctx)
	if err != nil {
		return Draft{}, err
	}
	out, err := c.readDraft(ctx, c.Store, book, d)
	if err != nil {
		return Draft{}, err
	}
	return out, c.plan(ctx, c.Store, by, &out)
}

// readDraft reads the rows of a draft as they were corrected.
func (c *Classroom) readDraft(ctx context.Context, st *store.Store, book *bookIndex, d store.Draft) (Draft, error) {
	out := Draft{Draft: d}
	var err error
	if out.Rows, err = st.DraftRows(ctx, d); err != nil {
		return out, err
	}
	set := d.Settings
	opt := roster.Options{
		Roles: set.OfSheet.Roles, LeftOut: set.OfSheet.LeftOut, Same: set.OfSheet.Same, Heading: set.OfSheet.Heading, Domain: c.School.Domain,
		FamilyFirst: set.FamilyFirst, Derive: set.Derive, Known: book.known, MostWarnings: 500,
	}
	table := roster.Table{Rows: out.Rows}
	if i := slices.IndexFunc(d.Sheets, func(s store.DraftSheet) bool { return s.Name == set.Sheet }); i >= 0 {
		table.HiddenColumns = d.Sheets[i].HiddenColumns
	}
	out.Read = roster.Read(table, opt)
	out.Rule = book.rule()
	out.Answers = roster.Answers{
		Home: d.ClassID, ByPeriod: set.ByPeriod, Targets: set.OfSheet.Targets, Said: set.OfSheet.Said, Ticked: set.OfSheet.Ticked,
		Own: set.Own, Without: set.Without, Derived: set.Derive != "", Same: set.OfSheet.Same,
	}
	return out, nil
}

// known says what the school book has of an address in a list.
func (b *bookIndex) known(address string, s record.Record) roster.Knowing {
	if a, ok := b.ByAddress(address); ok {
		return roster.Knowing{Known: true, Account: a}
	}
	return roster.Knowing{Suggestion: b.like(address, s.Name())}
}

// rule is the way the school makes most of its addresses.
func (b *bookIndex) rule() roster.Rule {
	var students []roster.Student
	for _, a := range b.all {
		if a.Role == schoolbook.Student {
			students = append(students, roster.Student{Record: record.Record{Given: a.Given, Family: a.Family, Number: a.Number, Address: a.Address}})
		}
	}
	rule, _ := roster.GuessRule(students)
	return rule
}

// plan compares a draft with the classes it is for, as st has them.
func (c *Classroom) plan(ctx context.Context, st *store.Store, by string, d *Draft) error {
	mine, err := st.Taught(ctx, by)
	if err != nil {
		return err
	}
	d.Classes = mine
	classes := make([]roster.PlanClass, len(mine))
	for i, cl := range mine {
		classes[i] = roster.PlanClass{ID: cl.ID, Code: cl.Code, Name: cl.Name, Period: cl.Period}
	}
	parts := roster.Parts(d.Read, classes, d.Answers)
	for i := range classes {
		if !slices.ContainsFunc(parts, func(p roster.Part) bool { return p.Target == classes[i].ID }) {
			continue
		}
		rows, err := st.Rows(ctx, classes[i].ID)
		if err != nil {
			return err
		}
		for _, r := range rows {
			classes[i].Rows = append(classes[i].Rows, r.ClassRow)
		}
	}
	d.Plan = roster.MakePlan(d.Read, parts, classes, d.Answers)
	d.Looked = d.Plan.Digest(d.Answers)
	return nil
}

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
	Derive      *roster.Rule
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
func (c *Classroom) ChangeDraft(ctx context.Context, by, class, id string, changes []DraftChange) (Draft, error) {
	if len(changes) > mostChanges {
		return Draft{}, &Invalid{"changes", "too-many", map[string]string{"most": fmt.Sprint(mostChanges)}}
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
		return Draft{}, notFound(err)
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
	tx   *store.Store
	rows []roster.Row
}

// editDraft holds the draft with an id.
func (c *Classroom) editDraft(ctx context.Context, tx *store.Store, class, id string) (*draftEdit, error) {
	if err := tx.HoldDraft(ctx, class); err != nil {
		return nil, err
	}
	d, err := tx.Draft(ctx, class)
	switch {
	case err != nil:
		return nil, err
	case id != "" && d.ID != id:
		return nil, &Changed{Field: "draft"}
	}
	return &draftEdit{Draft: d, tx: tx}, nil
}

func (e *draftEdit) cells(ctx context.Context) ([]roster.Row, error) {
	var err error
	if e.rows == nil {
		e.rows, err = e.tx.DraftRows(ctx, e.Draft)
	}
	return e.rows, err
}

// unless refuses what somebody changed since it was looked at.
func unless(was *string, field, theirs, yours string) error {
	if was != nil && theirs != *was && theirs != yours {
		return &Changed{Field: field, Yours: yours, Theirs: theirs}
	}
	return nil
}

func (e *draftEdit) apply(ctx context.Context, ch DraftChange) error {
	set := &e.Settings
	switch {
	case ch.Cell != nil:
		return e.setCell(ctx, *ch.Cell, ch.Was)
	case ch.Sheet != nil:
		if err := unless(ch.Was, "sheet", set.Sheet, *ch.Sheet); err != nil {
			return err
		}
		return e.turnTo(*ch.Sheet)
	case ch.Encoding != nil:
		return e.readAs(ctx, *ch.Encoding)
	case ch.Derive != nil:
		if err := unless(ch.Was, "derive", string(set.Derive), string(*ch.Derive)); err != nil {
			return err
		}
		if r := *ch.Derive; r != "" && r.Derive(record.Record{Given: "a", Family: "b", Number: "1"}, "school.example") == "" {
			return &Invalid{"derive", "no-such-rule", nil}
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
		if err := unless(ch.Was, "heading", now, fmt.Sprint(*ch.Heading)); err != nil {
			return err
		}
		of.Heading = ch.Heading
	case ch.Said != nil:
		if err := unless(ch.Was, "said", of.Said[ch.Said.Line], ch.Said.Row); err != nil {
			return err
		}
		put(&of.Said, ch.Said.Line, ch.Said.Row)
		if ch.Said.Row == "" {
			delete(of.Said, ch.Said.Line)
		}
	case ch.Tick != nil:
		put(&of.Ticked, ch.Tick.Key, ch.Tick.On)
	case ch.Target != nil:
		if err := unless(ch.Was, "target", of.Targets[ch.Target.Group], ch.Target.Class); err != nil {
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
		return &Invalid{"cell", "no-such-cell", nil}
	}
	if len(ch.Value) > roster.MaxValue {
		return &Invalid{"cell", "too-long", map[string]string{"most": fmt.Sprint(roster.MaxValue)}}
	}
	now := ""
	if ch.Field < len(rows[i].Cells) {
		now = rows[i].Cells[ch.Field]
	}
	if err := unless(was, "cell", now, ch.Value); err != nil {
		return err
	}
	e.rows = nil
	return e.tx.SetDraftCell(ctx, e.Draft, store.DraftCell{Line: ch.Row, Field: ch.Field, Value: ch.Value})
}

// setRole says what a column holds; a role that can stand once leaves the
// column that had it.
func setRole(of *store.DraftSheetAnswers, ch RoleChange, was *string) error {
	if !slices.Contains(roster.Roles, ch.Role) {
		return &Invalid{"role", "no-such-role", nil}
	}
	if now, said := of.Roles[ch.Field]; said {
		if err := unless(was, "role", string(now), string(ch.Role)); err != nil {
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
		return &Invalid{"sheet", "no-such-sheet", map[string]string{"sheet": sheet}}
	}
	if sheet != e.Settings.Sheet {
		e.Settings.Sheet, e.Settings.OfSheet, e.rows = sheet, store.DraftSheetAnswers{}, nil
	}
	return nil
}

// readAs reads the letters of the list in another of the ways they can be read.
func (e *draftEdit) readAs(ctx context.Context, encoding string) error {
	if !slices.ContainsFunc(e.Settings.Encodings, func(r store.DraftReading) bool { return r.Encoding == encoding }) {
		return &Invalid{"encoding", "no-such-encoding", nil}
	}
	original, err := e.tx.DraftOriginal(ctx, e.ID)
	if err != nil {
		return err
	}
	book, err := tables.ReadAs(bytes.NewReader(original), encoding)
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

// A Looked names the list that was looked at: its id and revision, and the
// digest of what it would do. A list that is another by now, or does something
// else, isn't accepted.
type Looked struct {
	ID       string
	Revision int64
	Digest   string
}

// Looked names the draft as it is now.
func (d Draft) LookedAt() Looked { return Looked{d.ID, d.Revision, d.Looked} }

// DropDraft puts the list away that was looked at.
func (c *Classroom) DropDraft(ctx context.Context, by, class string, looked Looked) error {
	return notFound(c.Store.Change(ctx, c.draftAct(ctx, by, "list-put-away", class, looked), nil, func(tx *store.Store) error {
		e, err := c.editDraft(ctx, tx, class, looked.ID)
		if err != nil {
			return err
		}
		if e.Revision != looked.Revision {
			return &Changed{Field: "draft"}
		}
		return tx.DeleteDraft(ctx, e.ID)
	}))
}

// An Accepted says what accepting a list did.
type Accepted struct {
	Students int // in the list's classes, of the list
	Counts   map[roster.Kind]int
	Classes  []string // ids, the one the list was brought to first if it is among them
	Batch    string   // for taking it back
}

// Accept puts the list that was looked at into its classes: all of it that is
// ticked, or nothing. Nobody's things are touched; what follows for satchels and
// copies stands in the next packing list.
func (c *Classroom) Accept(ctx context.Context, by, class string, looked Looked) (Accepted, error) {
	var out Accepted
	d, err := c.Draft(ctx, by, class)
	if err != nil {
		return c.acceptedBefore(ctx, by, err)
	}
	book, err := c.book(ctx)
	if err != nil {
		return out, err
	}
	var classes []string
	for _, p := range d.Plan.Parts {
		if slices.ContainsFunc(d.Classes, func(cl store.Class) bool { return cl.ID == p.Target }) && !slices.Contains(classes, p.Target) {
			classes = append(classes, p.Target)
		}
	}
	act := c.act(ctx, by, "list-accepted", map[string]any{"draft": d.ID, "source": d.Source}, classes...)
	err = c.Store.Change(ctx, act, &out, func(tx *store.Store) error {
		e, err := c.editDraft(ctx, tx, class, looked.ID)
		if err != nil {
			return err
		}
		if e.Revision != looked.Revision || e.Revision != d.Revision || e.ID != d.ID {
			return &Changed{Field: "draft"}
		}
		now := d // the same list: only the classes may be others by now
		if err := c.plan(ctx, tx, by, &now); err != nil {
			return err
		}
		if now.Looked != looked.Digest {
			return &Changed{Field: "list"}
		}
		if out, err = c.acceptNow(ctx, tx, book, by, act, now); err != nil {
			return err
		}
		return tx.DeleteDraft(ctx, e.ID)
	})
	return out, notFound(err)
}

// acceptedBefore answers who asks again, with the same key, for a list to be
// accepted that was.
func (c *Classroom) acceptedBefore(ctx context.Context, by string, gone error) (Accepted, error) {
	var out Accepted
	act := c.act(ctx, by, "list-accepted", nil)
	if act.Key == "" || !errors.Is(gone, ErrNotFound) {
		return out, gone
	}
	err := c.Store.Change(ctx, act, &out, func(*store.Store) error { return gone })
	return out, err
}

func (c *Classroom) acceptNow(ctx context.Context, tx *store.Store, book *bookIndex, by string, act store.Act, d Draft) (Accepted, error) {
	out := Accepted{Counts: d.Plan.Counts()}
	if r := d.Plan.Refused(d.Read, d.Answers); r != nil {
		return out, &Invalid{"list", r.Code, r.Args}
	}
	ids := map[string]string{} // part → class
	var err error
	out.Batch, err = c.inRosters(ctx, tx, book, rosterAct{by, "list", d.Source}, act, func(rs *rosters) error {
		for _, p := range d.Plan.Parts {
			switch p.Target {
			case roster.NoClass:
				continue
			case roster.NewClass:
				id, err := c.newClass(ctx, tx, by, p, d, book)
				if err != nil {
					return err
				}
				ids[p.Key] = id
				rs.made(id)
			default:
				ids[p.Key] = p.Target
			}
			if !slices.Contains(out.Classes, ids[p.Key]) {
				out.Classes = append(out.Classes, ids[p.Key])
			}
		}
		for _, a := range d.Plan.Acts(d.Answers) {
			if err := c.carryOut(rs, a, ids); err != nil {
				return err
			}
		}
		for _, id := range rs.ids {
			if err := apart(rs.of[id]); err != nil {
				return err
			}
		}
		return nil
	})
	for _, l := range d.Plan.Lines {
		if l.Accepted && l.Student != nil {
			out.Students++
		}
	}
	if i := slices.Index(out.Classes, d.ClassID); i > 0 {
		out.Classes[0], out.Classes[i] = out.Classes[i], out.Classes[0]
	}
	return out, err
}

// carryOut does one act of a plan.
func (c *Classroom) carryOut(rs *rosters, a roster.Act, ids map[string]string) error {
	confirmed := ""
	if account, ok := rs.book.ByAddress(a.Record.Address); ok && a.Same {
		confirmed = account.ID
	}
	if a.Kind == roster.Join {
		rs.of[ids[a.Group]].join(ids[a.Group], a.Record, confirmed)
		return nil
	}
	row, err := rs.of[a.Class].at(a.Row)
	if err != nil {
		return err
	}
	if a.Kind == roster.Leave {
		c.setLeft(row, true)
		return nil
	}
	row.Record = a.Record
	row.Confirmed = or(confirmed, row.Confirmed)
	c.setLeft(row, false)
	return nil
}

// newClass hangs up a class for a part of the list, with the teachers the file
// names for it where they are staff of the school.
func (c *Classroom) newClass(ctx context.Context, tx *store.Store, by string, p roster.Part, d Draft, book *bookIndex) (string, error) {
	cl, err := c.classOf("", or(tidy(p.Class), "New class"), p.Period)
	if err != nil {
		return "", err
	}
	if err := tx.InsertClass(ctx, cl, by); err != nil {
		return "", err
	}
	for _, t := range d.Teachers(p) {
		i, ok := book.byAddress[strings.ToLower(t.Address)]
		if d.Settings.NoStaff || !ok || book.all[i].Role == schoolbook.Student || book.all[i].ID == by {
			continue
		}
		if err := tx.AddStaff(ctx, store.StaffMember{ClassID: cl.ID, Account: book.all[i].ID, Role: store.RoleTeacher}); err != nil {
			return "", err
		}
	}
	return cl.ID, nil
}
