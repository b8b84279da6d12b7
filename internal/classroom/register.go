package classroom

import (
	"context"
	"time"

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
func (c *Classroom) Register(ctx context.Context, cl Class) (Register, error) {
	r := Register{Class: cl}
	ledger, err := c.Store.Ledger(ctx, cl.ID)
	if err != nil {
		return r, err
	}
	handouts, err := c.Store.Handouts(ctx, cl.ID)
	if err != nil {
		return r, err
	}
	f, err := c.facts(ctx, cl, ledger)
	if err != nil {
		return r, err
	}
	satchels := Column{}
	for _, s := range cl.Students {
		satchels.Cells = append(satchels.Cells, f.cell(string(room.SatchelKey(cl.ID, s.PersonID)), s, false))
	}
	r.Columns = append(r.Columns, satchels)
	for _, h := range handouts {
		if !h.PackedAt.Valid {
			continue
		}
		col := Column{Handout: &h}
		absent := cl.Out(h)
		for _, s := range cl.Students {
			_, out := absent[s.ID]
			col.Cells = append(col.Cells, f.cell(string(handout.CopyKey(cl.ID, h.ID, s.PersonID)), s, out))
		}
		fill(col.Cells)
		r.Columns = append(r.Columns, col)
	}
	if err := c.week(ctx, &r); err != nil {
		return r, err
	}
	r.Missing, r.Changes, _, err = c.Missing(ctx, cl)
	return r, err
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

// facts are what is known of a class's things, looked up by key or thing.
type facts struct {
	entries map[string]*store.Entry
	states  map[string]cupboard.State
	works   map[string]store.Work
	opened  map[string]time.Time
	stuck   map[string]store.Step
}

func (c *Classroom) facts(ctx context.Context, cl Class, ledger []store.Entry) (facts, error) {
	f := facts{entries: make(map[string]*store.Entry, len(ledger))}
	ids := make([]string, 0, len(ledger))
	for i := range ledger {
		f.entries[ledger[i].Key] = &ledger[i]
		if ledger[i].Purpose == "satchel" || ledger[i].Purpose == "copy" {
			ids = append(ids, ledger[i].Thing)
		}
	}
	var err error
	if f.states, err = c.Cup.States(ctx, cl.Owner(), ids); err != nil {
		return f, err
	}
	if f.works, err = c.Store.Works(ctx, cl.ID); err != nil {
		return f, err
	}
	if f.opened, err = c.Store.Openings(ctx, cl.ID); err != nil {
		return f, err
	}
	if f.stuck, err = c.Store.StuckKeys(ctx, cl.ID); err != nil {
		return f, err
	}
	for _, e := range ledger { // versions written by another way than through here
		st, ok := f.states[e.Thing]
		if !ok || e.Purpose != "copy" || st.Version <= max(1, f.works[e.Thing].Version) {
			continue
		}
		w, err := c.measure(ctx, cl.Owner(), e, cupboard.Version{Number: st.Version, At: st.ChangedAt})
		if err != nil {
			return f, err
		}
		f.works[e.Thing] = w
	}
	return f, nil
}

func (f facts) cell(key string, s Student, out bool) Cell {
	var cell Cell
	var now progress.Facts
	now.Out = out
	if e := f.entries[key]; e != nil {
		st := f.states[e.Thing]
		cell.Entry = e
		now.Made, now.Shared = true, e.SharedAt.Valid
		_, now.Opened = f.opened[e.Thing]
		if e.Purpose == "copy" {
			w := f.works[e.Thing]
			now.Begun, cell.Words = w.Begun, w.Added
			if st.Version > 1 {
				cell.Changed = st.ChangedAt
			}
		} else {
			cell.Inside, cell.Changed = st.Inside, st.InsideAt
		}
	}
	if step, ok := f.stuck[key]; ok && !now.Shared {
		now.Stuck, cell.Step, cell.Reason = true, &step, step.Reason.V
	} else if s.Problem() != nil && !now.Shared && !out {
		now.Stuck, cell.Reason = true, s.Problem()
	}
	cell.State = progress.StateOf(now)
	return cell
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
