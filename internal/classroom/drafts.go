package classroom

import (
	"context"
	"database/sql"
	"errors"
	"slices"
	"strconv"
	"strings"

	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/schoolbook"
	"jollysatchel/internal/store"
)

// MaxStudents is the largest class.
const MaxStudents = 2000

// A Draft is a list that waits to be accepted, with what was read from it.
type Draft struct {
	store.Draft
	Read roster.Result
}

// PasteDraft keeps a new list for a class. It takes the place of the one before.
func (c *Classroom) PasteDraft(ctx context.Context, class, source string, t roster.Table) (Draft, error) {
	d := store.Draft{ClassID: class, Source: source, ChangedAt: c.Now()}
	d.Cells.V, d.Roles.V, d.LeftOut.V = t.Rows, map[int]roster.Role{}, map[int]bool{}
	if err := c.Store.SaveDraft(ctx, d); err != nil {
		return Draft{}, err
	}
	return c.readDraft(ctx, d)
}

// Draft returns the class's list that waits to be accepted.
func (c *Classroom) Draft(ctx context.Context, class string) (Draft, error) {
	d, err := c.Store.Draft(ctx, class)
	if err != nil {
		return Draft{}, notFound(err)
	}
	return c.readDraft(ctx, d)
}

// A DraftChange is one correction the teacher makes. Nil parts stay as they are.
type DraftChange struct {
	Cell    *CellChange
	Role    *RoleChange
	LeftOut *RowChange
	Heading *int // line of the heading row, 0 for none
	Without *bool
}

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
func (c *Classroom) ChangeDraft(ctx context.Context, class string, changes []DraftChange) (Draft, error) {
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
	return c.readDraft(ctx, d)
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
		}
	}
	if ch.Heading != nil {
		d.Heading = sql.NullInt64{Int64: int64(*ch.Heading), Valid: true}
	}
	if ch.Without != nil {
		d.Without = *ch.Without
	}
	return nil
}

func (c *Classroom) readDraft(ctx context.Context, d store.Draft) (Draft, error) {
	accounts, err := c.Book.All(ctx)
	if err != nil {
		return Draft{}, err
	}
	known := make(map[string]bool, len(accounts))
	for _, a := range accounts {
		known[strings.ToLower(a.Address)] = true
	}
	opt := roster.Options{
		Roles: d.Roles.V, LeftOut: d.LeftOut.V, Domain: c.School.Domain,
		Known: func(a, name string) (bool, string) {
			if known[strings.ToLower(a)] {
				return true, ""
			}
			return false, schoolbook.Like(a, name, accounts)
		},
	}
	if d.Heading.Valid {
		h := int(d.Heading.Int64)
		opt.Heading = &h
	}
	return Draft{d, roster.Read(roster.Table{Rows: d.Cells.V}, opt)}, nil
}

// Accept puts the draft's students into the class: people the school knows
// already are recognised, rows they have in the class are brought up to date,
// and nobody is removed. All of it happens or nothing. It returns how many
// students the list had.
func (c *Classroom) Accept(ctx context.Context, class string) (int, error) {
	d, err := c.Draft(ctx, class)
	if err != nil {
		return 0, err
	}
	students := d.Read.Students
	noAddresses := !slices.ContainsFunc(d.Read.Columns, func(col roster.Column) bool { return col.Role == roster.Address })
	switch {
	case len(students) == 0:
		return 0, &Invalid{"list", "nobody", nil}
	case len(students) > MaxStudents:
		return 0, &Invalid{"list", "too-many-students", map[string]string{"most": strconv.Itoa(MaxStudents), "count": strconv.Itoa(len(students))}}
	case noAddresses && !d.Without:
		return 0, &Invalid{"list", "no-address-column", nil}
	}
	addresses := make([]string, len(students))
	for i, s := range students {
		addresses[i] = s.Address
	}
	accounts, err := c.Book.ByAddress(ctx, addresses)
	if err != nil {
		return 0, err
	}
	err = c.Store.Tx(ctx, func(tx *store.Store) error {
		for _, s := range students {
			if err := c.acceptStudent(ctx, tx, class, s, accounts[strings.ToLower(s.Address)].ID); err != nil {
				return err
			}
		}
		if err := tx.DeleteDraft(ctx, class); err != nil {
			return err
		}
		return tx.Touch(ctx, class)
	})
	return len(students), err
}

func (c *Classroom) acceptStudent(ctx context.Context, tx *store.Store, class string, s roster.Student, account string) error {
	p, err := tx.PersonLike(ctx, account, s)
	if errors.Is(err, store.ErrNotFound) {
		p, err = store.Person{ID: store.NewID(), CreatedAt: c.Now()}, nil
	}
	if err != nil {
		return err
	}
	p.Given, p.Family = s.Given, s.Family
	p.Preferred, p.Number = or(s.Preferred, p.Preferred), or(s.Number, p.Number)
	if s.Address != "" {
		p.Address, p.Account = s.Address, sql.NullString{String: account, Valid: account != ""}
	}
	if err := tx.SavePerson(ctx, p); err != nil {
		return err
	}
	_, err = tx.SaveRow(ctx, store.Row{ID: store.NewID(), ClassID: class, PersonID: p.ID, Class: s.Class, Period: s.Period, Level: s.Level, Team: s.Team, Extra: store.JSON[map[string]string]{V: s.Extra}})
	return err
}

func or(a, b string) string {
	if a != "" {
		return a
	}
	return b
}

// CorrectAddress gives a student another address. Access follows with the next
// packing; it is refused where the school book doesn't know it.
func (c *Classroom) CorrectAddress(ctx context.Context, class, row, address string) error {
	m, err := c.Store.Member(ctx, class, row)
	if err != nil {
		return notFound(err)
	}
	address = strings.TrimSpace(address)
	if why := roster.AddressForm(address); why != "" {
		return &Invalid{"address", "address-malformed", map[string]string{"value": address, "why": why}}
	}
	known, err := c.Book.ByAddress(ctx, []string{address})
	if err != nil {
		return err
	}
	a, ok := known[strings.ToLower(address)]
	if !ok {
		return &Invalid{"address", "account-unknown", map[string]string{"address": address}}
	}
	members, err := c.Store.Members(ctx, class)
	if err != nil {
		return err
	}
	for _, o := range members {
		if o.Account.String == a.ID && o.ID != row {
			return &Invalid{"address", "address-twice", map[string]string{"address": address, "other": tidy(o.Given + " " + o.Family)}}
		}
	}
	return c.Store.Tx(ctx, func(tx *store.Store) error {
		known, err := tx.PersonByAccount(ctx, a.ID)
		switch {
		case err == nil && known.ID != m.PersonID: // the row was always that person's
			err = tx.SetRowPerson(ctx, row, known.ID)
		case err == nil || errors.Is(err, store.ErrNotFound):
			err = tx.SetAddress(ctx, m.PersonID, address, a.ID)
		}
		if err != nil {
			return err
		}
		return tx.Touch(ctx, class)
	})
}
