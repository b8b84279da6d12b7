package draft

import (
	"slices"

	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/lists"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
)

// A Looked names the list that was looked at: its id and revision, and the
// digest of what it would do. A list that is another by now, or does something
// else, isn't accepted.
type Looked struct {
	ID       string
	Revision int64
	Digest   string
}

// LookedAt names the draft as it is now.
func (d View) LookedAt() Looked { return Looked{d.ID, d.Revision, d.Looked} }

// A View is a list that waits to be accepted, with what was read from it and
// what accepting it would do.
type View struct {
	Draft
	Rows    []roster.Row
	Read    roster.Result
	Rule    roster.AddressRule
	Plan    lists.Plan
	Answers lists.Answers
	Looked  string // digest of the plan: what was looked at
	Classes []classes.Class
}

// Teachers are those the file names for a part of the list.
func (d View) Teachers(p lists.Part) []Teacher {
	var out []Teacher
	for _, t := range d.Settings.Teachers {
		if (lists.Group{Class: t.Class}).SameClass(lists.Named{Name: p.Class}) && (p.Period == "" || t.Period == p.Period) {
			out = append(out, t)
		}
	}
	return out
}

// Of reads the rows of a draft as they were corrected: for a school's domain of addresses, the rule
// by which its addresses are made, and the accounts it knows.
func (d Draft) Of(rows []roster.Row, domain string, rule roster.AddressRule,
	knows func(address string, of record.Record) roster.Knowing) View {
	set := d.Settings
	table := roster.Table{Rows: rows}
	if i := slices.IndexFunc(d.Sheets, func(s Sheet) bool { return s.Name == set.Sheet }); i >= 0 {
		table.HiddenColumns = d.Sheets[i].HiddenColumns
	}
	return View{
		Draft: d, Rows: rows, Rule: rule,
		Read: roster.Read(table, roster.Options{
			Roles: set.OfSheet.Roles, LeftOut: set.OfSheet.LeftOut, Same: set.OfSheet.Same, Heading: set.OfSheet.Heading, Domain: domain,
			FamilyFirst: set.FamilyFirst, Derive: set.Derive, Known: knows, Later: true, MostWarnings: 500,
		}),
		Answers: lists.Answers{
			Home: d.ClassID, ByPeriod: set.ByPeriod, Targets: set.OfSheet.Targets, Said: set.OfSheet.Said, Ticked: set.OfSheet.Ticked,
			Own: set.Own, Without: set.Without, Derived: set.Derive != "", Same: set.OfSheet.Same,
		},
	}
}

// Shape is that of a list, by which what was said of its columns is known again.
func Shape(rows []roster.Row) string {
	return roster.Shape(roster.Table{Rows: rows[:min(len(rows), 50)]})
}
