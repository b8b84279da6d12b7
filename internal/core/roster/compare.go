package roster

import (
	"slices"

	"jollysatchel/internal/core/record"
)

// A Kind of what happened to one student between two lists.
type Kind string

// The kinds. A doubtful student may be one of the candidates: that is asked,
// never guessed.
const (
	Joined    Kind = "joined"
	Left      Kind = "left"
	Changed   Kind = "changed"
	Moved     Kind = "moved"    // to another class or period
	Returned  Kind = "returned" // had left and is back
	Unchanged Kind = "unchanged"
	Doubtful  Kind = "doubtful"
)

// Kinds in the order a teacher is shown them.
var Kinds = []Kind{Doubtful, Joined, Returned, Moved, Changed, Left, Unchanged}

// A Known is a student as the older list has them.
type Known struct {
	Student
	Gone bool // had left before
}

// A Difference is one line of a comparison. Old and New are places in the two
// lists, -1 for none; one who is Unchanged without a New is in a class or
// period the newer list doesn't mention. By says what the two were recognised by; Candidates are
// the places in the older list of those a doubtful student may be, and Why says
// what speaks against the first.
type Difference struct {
	Kind       Kind
	Old, New   int
	By         string // number, address, name, said
	Why        string // number-reused, address-reused, number-differs, same-name, name-like, several-rows
	Fields     []record.FieldChange
	Candidates []int
}

// A Comparison of two lists: every student of each in exactly one line, first
// the newer list in its order, then those who are missing from it.
type Comparison []Difference

// Counts returns the number of lines of each kind.
func (c Comparison) Counts() map[Kind]int {
	n := map[Kind]int{}
	for _, d := range c {
		n[d.Kind]++
	}
	return n
}

// Partial reports that more than half of those who were there are missing: more
// likely a list of newcomers or of one group than a class that left.
func (c Comparison) Partial(old []Known) bool {
	present := 0
	for _, k := range old {
		if !k.Gone {
			present++
		}
	}
	return c.Counts()[Left]*2 > present
}

// CompareOptions steer Compare.
type CompareOptions struct {
	// Has names the fields the newer list has a column for; of others nothing is known and nothing has changed. Nil: all.
	Has map[record.Field]bool
	// Said maps places of the newer list to places of the older, -1 for nobody:
	// what the teacher answered about doubtful ones.
	Said map[int]int
}

// Compare recognises the students of a list among those of an older one: by
// student number, else by address, else by name within the class. A number or
// address that fits another name, a name whose number differs or that several
// have, and a name that is nearly somebody's are doubtful. It takes time in
// proportion to the lists.
func Compare(old []Known, list []Student, opt CompareOptions) Comparison {
	m := matcher{old: old, list: list, opt: opt, of: make([]int, len(list)), by: make([]string, len(list)),
		doubt: map[int]Difference{}, taken: make([]bool, len(old))}
	for i := range m.of {
		m.of[i] = -1
	}
	m.addresses = m.index(byAddress)
	m.said()
	m.pass("number", m.index(byNumber), byNumber)
	m.pass("address", m.addresses, byAddress)
	m.names()
	m.nearly()
	return m.lines()
}

// mostCandidates: what fits more students than this is no clue to any.
const mostCandidates = 50

func (m *matcher) lines() Comparison {
	out := make(Comparison, 0, len(m.list)+len(m.old))
	asked := map[int]bool{}
	for n, s := range m.list {
		if d, ok := m.doubt[n]; ok {
			d.Candidates = slices.DeleteFunc(d.Candidates, func(o int) bool { return m.taken[o] })
			if len(d.Candidates) > 0 {
				for _, o := range d.Candidates {
					asked[o] = true
				}
				out = append(out, d)
				continue
			}
		}
		o := m.of[n]
		if o < 0 {
			out = append(out, Difference{Kind: Joined, Old: -1, New: n, By: m.by[n]})
			continue
		}
		d := Difference{Kind: Unchanged, Old: o, New: n, By: m.by[n], Fields: m.changes(m.old[o].Student, s)}
		switch {
		case m.old[o].Gone:
			d.Kind = Returned
		case slices.ContainsFunc(d.Fields, func(f record.FieldChange) bool { return f.Field == record.Class || f.Field == record.Period }):
			d.Kind = Moved
		case len(d.Fields) > 0:
			d.Kind = Changed
		}
		out = append(out, d)
	}
	mentioned := m.mentioned()
	for o, k := range m.old {
		switch {
		case m.taken[o] || k.Gone:
		case asked[o]: // one who may be a doubtful student isn't missing before that is answered
		case mentioned(k.Student):
			out = append(out, Difference{Kind: Left, Old: o, New: -1})
		default:
			out = append(out, Difference{Kind: Unchanged, Old: o, New: -1})
		}
	}
	return out
}

// mentioned reports whether the newer list says anything about the class and
// period a student of the older one is in. A row without a class or period
// counts as of any.
func (m *matcher) mentioned() func(Student) bool {
	classes, places := map[string]bool{}, map[string]bool{}
	for _, s := range m.list {
		classes[m.class(s)], places[m.at(s)] = true, true
	}
	return func(s Student) bool {
		if m.has(Class) && s.Class != "" && !classes[m.class(s)] {
			return false
		}
		return !m.has(Period) || s.Period == "" || s.Class == "" && m.has(Class) || places[m.at(s)]
	}
}

// changes lists the fields that differ, of those the newer list has. A list that
// says nothing of an extra column leaves it as it is.
func (m *matcher) changes(from, to Student) []record.FieldChange {
	all := record.Diff(from.Record, to.Record)
	return slices.DeleteFunc(all, func(f record.FieldChange) bool {
		if m.opt.Has != nil { // and a list takes nobody's address away
			return !m.opt.Has[f.Field] || f.Field == record.Address && to.Address == ""
		}
		heading, extra := f.Field.Heading()
		_, said := to.Extra[heading]
		return extra && !said
	})
}

// Fields names the fields a list has columns for, as CompareOptions.Has wants
// them. A column without a single value says nothing and counts as missing.
func (r Result) Fields() map[record.Field]bool {
	has := map[record.Field]bool{}
	said := func(f record.Field) {
		for i := range r.Students {
			if r.Students[i].Get(f) != "" {
				has[f] = true
				return
			}
		}
	}
	for _, c := range r.Columns {
		switch f, ok := c.Role.Field(); {
		case c.Role == Full || c.Role == Given || c.Role == Family:
			has[record.Given], has[record.Family] = true, true
		case c.Role == Extra:
			said(record.Extra(c.Heading))
		case ok:
			said(f)
		}
	}
	return has
}
