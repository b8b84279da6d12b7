package classroom

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"time"

	"golang.org/x/sync/errgroup"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/progress"
	"jollysatchel/internal/cupboard"
)

// A Panel is one student of a class with everything of theirs, the satchel first.
type Panel struct {
	Student picture.Student
	Things  []PanelThing
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

// Panel returns a student of a class with everything of theirs as it was last seen.
func (c *Registers) Panel(ctx context.Context, class, row string) (Panel, error) {
	r, err := c.reading(ctx, class)
	if err != nil {
		return Panel{}, err
	}
	reg := r.register()
	at := slices.IndexFunc(r.Students, func(s picture.Student) bool { return s.ID == row })
	if at < 0 {
		return Panel{}, ErrNotFound
	}
	book, err := c.book(ctx)
	if err != nil {
		return Panel{}, err
	}
	out := Panel{Student: r.Students[at]}
	var strayed []int // things that lie in folders which aren't the ledger's
	for column, col := range reg.Columns {
		cells := col.Cells[at].Each
		if len(cells) == 0 {
			cells = col.Cells[at : at+1]
		}
		for _, cell := range cells {
			t := PanelThing{Handout: col.Handout, Column: column, Cell: cell}
			if e := cell.Entry; e != nil {
				t.OpenedAt, t.Days = r.opened[ledger.Opening{Thing: e.Thing, Account: out.Student.Wants()}], progress.PerDay(r.words[e.Thing], r.days)
				if above, known := r.above(e); known && r.State(e).Place == ledger.Lies {
					t.Where, t.Reach = r.where(above), r.reach(e, above, book, out.Student, c.Now())
				} else if r.State(e).Place == ledger.Lies {
					strayed = append(strayed, len(out.Things))
				}
			}
			out.Things = append(out.Things, t)
		}
	}
	return out, c.askedFor(ctx, r, out, strayed, book)
}

// askedFor asks the cupboard where those of a panel's things lie, and who reaches them, that
// are in folders of people's own. Of what it can't say just now nothing is told.
func (c *Registers) askedFor(ctx context.Context, r *reading, of Panel, things []int, book *bookIndex) error {
	var all errgroup.Group
	all.SetLimit(weighedAtOnce)
	for _, i := range things {
		all.Go(func() error {
			t := &of.Things[i]
			e := t.Cell.Entry
			x, err := c.cup.Get(ctx, r.Owner(), e.Thing)
			if err == nil {
				var people map[string]access.Reason
				if people, err = c.cup.People(ctx, r.Owner(), e.Thing); err == nil {
					t.Reach = r.reaching(e, people, r.State(e).Rule.School, book, of.Student)
					for _, crumb := range x.Path[min(1, len(x.Path)):] {
						t.Where = append(t.Where, crumb.Name)
					}
				}
			}
			if errors.Is(err, cupboard.ErrNotFound) || errors.Is(err, cupboard.ErrNoRight) || errors.Is(err, cupboard.ErrUnavailable) {
				return nil
			}
			return err
		})
	}
	return all.Wait()
}

// above are the folders of the class that a thing lies in, or is meant to where that isn't known,
// innermost first; known is false where it lies in one that isn't the class's.
func (r *reading) above(e *ledger.Entry) (out []*ledger.Entry, known bool) {
	where := ledger.Where{Things: r.ByThing, Parent: func(e *ledger.Entry) string {
		if parent := r.Seen[e.Thing].Parent; parent != "" {
			return parent
		}
		return r.parents()[e.Thing]
	}}
	return where.Above(e)
}

// wantedParents says in what each thing made is meant to lie.
func wantedParents(s *picture.Picture) map[string]string {
	out := map[string]string{}
	for k, w := range s.Wanted(nil) {
		if e, in := s.Entries[k], s.Entries[w.Parent]; e != nil && in != nil {
			out[e.Thing] = in.Thing
		}
	}
	return out
}

func (r *reading) where(above []*ledger.Entry) []string {
	var out []string
	for _, e := range slices.Backward(above) {
		if e.Key.What.Purpose != packing.ClassFolder {
			out = append(out, r.State(e).Name)
		}
	}
	return out
}

// reach computes who has access to a thing at a moment from the rules that were last seen.
func (r *reading) reach(e *ledger.Entry, above []*ledger.Entry, book *bookIndex, of picture.Student, now time.Time) []Reach {
	var chain []access.Thing
	for _, x := range append([]*ledger.Entry{e}, above...) {
		st := r.State(x)
		chain = append(chain, access.Thing{ID: x.Thing, Owner: st.Owner, Rule: st.Rule, Closed: st.Closed})
	}
	return r.reaching(e, access.People(chain, now), chain[0].Rule.School, book, of)
}

// reaching says as what each of some people reaches a thing; school is what everybody may who
// has its link.
func (r *reading) reaching(e *ledger.Entry, people map[string]access.Reason, school access.Level, book *bookIndex, of picture.Student) []Reach {
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
		out = append(out, Reach{book.account(id).Name(), why.Level, as})
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
