package classes

import (
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/lists"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
)

// A Roster is a class's rows while they are changed: what they were, and what they are to be.
type Roster struct {
	Class   string
	Rows    []Row
	Removed []string
	before  map[string]Row
	newID   func() string
}

// NewRoster is that of a class with the rows it has; newID makes the ids of those that come.
func NewRoster(class string, rows []Row, newID func() string) *Roster {
	r := &Roster{Class: class, Rows: rows, before: make(map[string]Row, len(rows)), newID: newID}
	for _, row := range rows {
		r.before[row.ID] = row
	}
	return r
}

// At is a row by its id; nil where there is none.
func (r *Roster) At(row string) *Row {
	if i := slices.IndexFunc(r.Rows, func(x Row) bool { return x.ID == row }); i >= 0 {
		return &r.Rows[i]
	}
	return nil
}

// Join adds a row.
func (r *Roster) Join(rec record.Record, confirmed string) {
	r.Rows = append(r.Rows, Row{ClassRow: roster.ClassRow{ID: r.newID(), Record: rec, Confirmed: confirmed}, ClassID: r.Class})
}

// Remove takes a row away.
func (r *Roster) Remove(row string) {
	r.Rows = slices.DeleteFunc(r.Rows, func(x Row) bool { return x.ID == row })
	r.Removed = append(r.Removed, row)
}

// States are the rows as history keeps them.
func (r *Roster) States() map[string]lists.State {
	out := make(map[string]lists.State, len(r.Rows))
	for _, row := range r.Rows {
		out[row.ID] = row.State()
	}
	return out
}

// Records are what is said of anyone who has a row.
func (r *Roster) Records() []record.Record {
	out := make([]record.Record, len(r.Rows))
	for i, row := range r.Rows {
		out[i] = row.Record
	}
	return out
}

// Bounded refuses more students than a class can have.
func (r *Roster) Bounded() error {
	n := 0
	for _, row := range r.Rows {
		if !row.Gone {
			n++
		}
	}
	if n > roster.MaxStudents {
		return lists.TooMany(n).Invalid()
	}
	return nil
}

// Changed are the rows that are new or another than they were, whom they are linked to included.
func (r *Roster) Changed() []Row {
	var out []Row
	for _, row := range r.Rows {
		if b, was := r.before[row.ID]; !was || b.Account != row.Account || b.LinkedBy != row.LinkedBy || !b.State().Same(row.State()) {
			out = append(out, row)
		}
	}
	return out
}

// Changes are what history keeps of what has changed.
func (r *Roster) Changes() []lists.RowChange {
	before := make(map[string]lists.State, len(r.before))
	for row, b := range r.before {
		before[row] = b.State()
	}
	return lists.Differences(before, r.States())
}

// Apart refuses an address that two students of a class would have.
func (r *Roster) Apart() error {
	changed := map[string]bool{}
	for _, x := range r.Rows {
		was, there := r.before[x.ID]
		changed[x.ID] = !there || was.Address != x.Address
	}
	clash := lists.Clashing(r.States(), changed)
	if clash == nil {
		return nil
	}
	code := "address-twice"
	if clash.Left {
		code = "address-of-leaver"
	}
	return &change.Invalid{Field: "address", Code: code,
		Args: map[string]string{"address": r.At(clash.Row).Address, "other": clash.Other, "row": clash.Row, "field": "address"}}
}

// Add puts students on a list who aren't on it; those who left it return.
func (r *Roster) Add(students []record.Record) error {
	known := make([]roster.ClassRow, len(r.Rows), len(r.Rows)+len(students))
	for i, row := range r.Rows {
		known[i] = row.ClassRow
	}
	for _, s := range students {
		i, here := lists.Arriving(known, s)
		switch {
		case here:
			return change.Refuse("address", "student-there", "name", known[i].Name())
		case i < 0:
			r.Join(s, "")
			known = append(known, r.Rows[len(r.Rows)-1].ClassRow)
		default:
			r.Rows[i].Return(s)
			known[i] = r.Rows[i].ClassRow
		}
	}
	return r.Apart()
}
