package register

import (
	"cmp"
	"slices"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/pens"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/progress"
)

// A Panel is one student of a class with everything of theirs, the satchel first.
type Panel struct {
	Student picture.Student
	Twin    bool // another of the class is called the same
	Things  []PanelThing
	// Standing is the extra time that the student has in every handout.
	Standing pens.Extra
}

// A PanelThing is one thing of a student as the side panel shows it.
type PanelThing struct {
	Handout  *handout.Handout // nil for the satchel
	Column   int              // of the Register
	Cell     Cell
	Days     []int // words on each of the last seven days
	OpenedAt time.Time
	Reach    []Reach  // who reaches it; none where the cupboard can't say so just now
	Where    []string // names of the folders it lies in, below the class's
	Apart    Apart
}

// A Reach is somebody who has access to a thing, and as what.
type Reach struct {
	Name  string
	Level access.Level
	As    Standing
}

// A Standing is what somebody is to a thing.
type Standing string

// The standings, in the order they are shown.
const (
	AsStudent Standing = "student"
	AsOwner   Standing = "owner"
	AsStaff   Standing = "staff"
	AsMate    Standing = "mate"   // a classmate who may read or comment on it
	AsSchool  Standing = "school" // everybody of the school who has its link
)

// Panel is a student, by their row, with everything of theirs in a Register; ok reports that
// there is one. parents says in what a thing is meant to lie, called what an account is called.
// strayed are the things that are in folders of people's own: where, and who reaches them, only
// the cupboard knows.
func (r *Facts) Panel(reg Register, row string, parents map[string]string, called func(account string) string,
	now time.Time) (out Panel, strayed []int, ok bool) {
	at := slices.IndexFunc(r.Students, func(s picture.Student) bool { return s.ID == row })
	if at < 0 {
		return Panel{}, nil, false
	}
	out = Panel{Student: r.Students[at], Twin: reg.Twins[row], Standing: r.Class.Extra[row]}
	for column, col := range reg.Columns {
		cells := col.Cells[at].Each
		if len(cells) == 0 {
			cells = col.Cells[at : at+1]
		}
		for _, cell := range cells {
			t := PanelThing{Handout: col.Handout, Column: column, Cell: cell, Apart: col.Cells[at].Apart}
			if e := cell.Entry; e != nil {
				t.OpenedAt, t.Days = r.Opened[ledger.Opening{Thing: e.Thing, Account: out.Student.Wants()}], progress.Per(r.Words[e.Thing], r.Days)
				if above, known := r.above(e, parents); known && r.State(e).Place == ledger.Lies {
					t.Where, t.Reach = r.where(above), r.reached(e, above, called, out.Student, now)
				} else if r.State(e).Place == ledger.Lies {
					strayed = append(strayed, len(out.Things))
				}
			}
			out.Things = append(out.Things, t)
		}
	}
	return out, strayed, true
}

// above are the folders of the class that a thing is in, or by parents is meant to where that isn't known,
// innermost first; known is false where it is in one that isn't the class's.
func (r *Facts) above(e *ledger.Entry, parents map[string]string) (out []*ledger.Entry, known bool) {
	where := ledger.Where{Things: r.ByThing, Parent: func(e *ledger.Entry) string {
		if parent := r.Seen[e.Thing].Parent; parent != "" {
			return parent
		}
		return parents[e.Thing]
	}}
	return where.Above(e)
}

// WantedParents says in what each thing made is meant to lie.
func (r *Facts) WantedParents() map[string]string {
	out := map[string]string{}
	for k, w := range r.Wanted(nil) {
		if e, in := r.Entries[k], r.Entries[w.Parent]; e != nil && in != nil {
			out[e.Thing] = in.Thing
		}
	}
	return out
}

// where are the names of those below the class's own, outermost first.
func (r *Facts) where(above []*ledger.Entry) []string {
	var out []string
	for _, e := range slices.Backward(above) {
		if e.Key.What.Purpose != packing.ClassFolder {
			out = append(out, r.State(e).Name)
		}
	}
	return out
}

// reached computes who has access to a thing at a moment from the rules that were last seen.
func (r *Facts) reached(e *ledger.Entry, above []*ledger.Entry, called func(account string) string,
	of picture.Student, now time.Time) []Reach {
	var chain []access.Thing
	for _, x := range append([]*ledger.Entry{e}, above...) {
		st := r.State(x)
		chain = append(chain, access.Thing{ID: x.Thing, Owner: st.Owner, Rule: st.Rule, Closed: st.Closed})
	}
	return r.Reaching(e, access.People(chain, now), chain[0].Rule.School, called, of)
}

// Reaching says as what each of some people reaches a thing; school is what everybody may who
// has its link.
func (r *Facts) Reaching(e *ledger.Entry, people map[string]access.Reason, school access.Level,
	called func(account string) string, of picture.Student) []Reach {
	staff := map[string]bool{}
	for _, m := range r.Staff {
		staff[m.Account] = true
	}
	var out []Reach
	for id, why := range people {
		as := AsStudent
		switch {
		case why.Level == access.Owner:
			as = AsOwner
		case staff[id]:
			as = AsStaff
		case e.Key.Whom.Row != "" && id != of.Account && id != of.Wants():
			as = AsMate
		}
		out = append(out, Reach{called(id), why.Level, as})
	}
	if school > access.Nothing {
		out = append(out, Reach{Level: school, As: AsSchool})
	}
	order := []Standing{AsStudent, AsOwner, AsStaff, AsMate, AsSchool}
	slices.SortFunc(out, func(a, b Reach) int {
		return cmp.Or(cmp.Compare(slices.Index(order, a.As), slices.Index(order, b.As)), cmp.Compare(a.Name, b.Name))
	})
	return out
}
