package classroom

import (
	"context"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/progress"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

// A Cell of the Register: one student and one thing.
type Cell struct {
	State   progress.State
	Words   int // added since it was handed out
	Fill    int // percent
	Inside  int // things the student put into a satchel
	Changed time.Time
	Entry   *store.Entry
	Shared  bool            // with whom it is for
	Reason  *packing.Reason // why it is stuck
	Step    *store.Step     // the stuck line
}

// A Column of the Register: the satchels, or one handout.
type Column struct {
	Handout *store.Handout // nil for the satchels
	Cells   []Cell         // one for each student, in order
}

// A Register is the tracking table: students down, satchel and handouts across.
type Register struct {
	Class   Class
	Columns []Column
	Week    [][]int // words added by each student on each of the last seven days
	Days    []time.Time
	Changed []time.Time // last change of each student
	Missing int         // students a top-up would serve
	Changes int         // lines to change that wait for the teacher
}

// Register reads the ledger and joins it with the cupboard's state of each
// thing. It makes a fixed number of queries, whatever the size of the class.
func (c *Classroom) Register(ctx context.Context, class string) (Register, error) {
	s, err := c.look(ctx, class)
	if err != nil {
		return Register{}, err
	}
	r := Register{Class: s.Class}
	f, err := s.facts(ctx)
	if err != nil {
		return r, err
	}
	satchels := Column{}
	for _, st := range s.Students {
		satchels.Cells = append(satchels.Cells, f.cell([]packing.Key{room.SatchelKey(class, st.ID)}, st, false))
	}
	r.Columns = append(r.Columns, satchels)
	for i, h := range s.handouts {
		if !h.PackedAt.Valid {
			continue
		}
		col := Column{Handout: &s.handouts[i]}
		absent := s.Out(h)
		for _, st := range s.Students {
			_, out := absent[st.ID]
			col.Cells = append(col.Cells, f.cell(handout.KeysOf(class, h.ID, packing.Whom{Row: st.ID}), st, out))
		}
		fill(col.Cells)
		r.Columns = append(r.Columns, col)
	}
	if err := c.week(ctx, &r); err != nil {
		return r, err
	}
	l := s.lacking()
	r.Missing, r.Changes = l.Students, l.Changes
	return r, nil
}

func fill(cells []Cell) {
	words := make([]int, len(cells))
	for i, cell := range cells {
		words[i] = cell.Words
	}
	median := progress.Median(words)
	for i := range cells {
		cells[i].Fill = progress.Fill(cells[i].Words, median)
	}
}

// facts are what is known of a class's things besides, looked up by thing.
type facts struct {
	*snapshot
	works  map[string]store.Work
	opened map[string]time.Time
}

func (s *snapshot) facts(ctx context.Context) (facts, error) {
	f := facts{snapshot: s}
	var err error
	if f.works, err = s.Store.Works(ctx, s.ID); err != nil {
		return f, err
	}
	if f.opened, err = s.Store.Openings(ctx, s.ID); err != nil {
		return f, err
	}
	for _, e := range s.entries { // versions written by another way than through here
		st, ok := s.seen[e.Thing]
		if !ok || e.Key.What.Purpose != packing.Copy || st.Version <= max(1, f.works[e.Thing].Version) {
			continue
		}
		w, err := s.measure(ctx, s.Owner(), *e, cupboard.Version{Number: st.Version, At: st.ChangedAt})
		if err != nil {
			return f, err
		}
		f.works[e.Thing] = w
	}
	return f, nil
}

// cell is one student and what they have under some keys: the first there is.
// Shared is what the account the thing is for has, not what another was given.
func (f facts) cell(keys []packing.Key, s Student, out bool) Cell {
	var cell Cell
	now := progress.Facts{Out: out}
	for _, key := range keys {
		if e := f.entries[key]; e != nil && cell.Entry == nil {
			cell.Entry = e
			f.tell(&cell, &now, e, s)
		}
	}
	for _, key := range keys {
		if step, ok := f.stuck[key]; ok && !now.Shared && !now.Stuck {
			now.Stuck, cell.Step, cell.Reason = true, &step, step.Reason
		}
	}
	if !now.Stuck && s.Problem != nil && !now.Shared && !out {
		now.Stuck, cell.Reason = true, s.Problem
	}
	cell.State, cell.Shared = progress.StateOf(now), now.Shared
	return cell
}

func (f facts) tell(cell *Cell, now *progress.Facts, e *store.Entry, s Student) {
	st := f.seen[e.Thing]
	has := st.Rule.Grants[s.Wants()] > access.Nothing && s.Problem == nil
	now.Made, now.Shared = true, e.Shared() && has
	_, now.Opened = f.opened[e.Thing]
	if e.Key.What.Purpose != packing.Copy {
		cell.Inside, cell.Changed = st.Inside, st.InsideAt
		return
	}
	w := f.works[e.Thing]
	now.Begun, cell.Words = w.Begun, w.Added
	if st.Version > 1 {
		cell.Changed = st.ChangedAt
	}
}

// week adds the last seven days and each student's last change.
func (c *Classroom) week(ctx context.Context, r *Register) error {
	today := c.Now().In(c.School.Zone)
	for i := 6; i >= 0; i-- {
		d := today.AddDate(0, 0, -i)
		r.Days = append(r.Days, time.Date(d.Year(), d.Month(), d.Day(), 0, 0, 0, 0, time.UTC))
	}
	days, err := c.Store.WorkDays(ctx, r.Class.ID)
	if err != nil {
		return err
	}
	byThing := map[string][]store.WorkDay{}
	for _, d := range days {
		byThing[d.Thing] = append(byThing[d.Thing], d)
	}
	for i := range r.Class.Students {
		week, last := make([]int, 7), time.Time{}
		for _, col := range r.Columns {
			cell := col.Cells[i]
			if cell.Changed.After(last) {
				last = cell.Changed
			}
			if cell.Entry == nil {
				continue
			}
			for d, n := range PerDay(byThing[cell.Entry.Thing], r.Days) {
				week[d] += n
			}
		}
		r.Week, r.Changed = append(r.Week, week), append(r.Changed, last)
	}
	return nil
}

// PerDay turns a copy's running counts into the words added on each of days. A
// day on which words were taken out counts as none.
func PerDay(counts []store.WorkDay, days []time.Time) []int {
	out := make([]int, len(days))
	before := 0
	for _, d := range counts {
		for i, day := range days {
			if d.Day.Equal(day) {
				out[i] = max(0, d.Added-before)
			}
		}
		before = d.Added
	}
	return out
}
