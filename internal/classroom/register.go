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
	State progress.State
	Words int // added since it was handed out
	// Uncounted says that its words can't be counted.
	Uncounted bool
	Fill      int // percent
	Inside    int // things the student put into a satchel
	Changed   time.Time
	Entry     *store.Entry
	Shared    bool            // with whom it is for
	Reason    *packing.Reason // why it is stuck
}

// A Column of the Register: the satchels, or one handout.
type Column struct {
	Handout *store.Handout // nil for the satchels
	Cells   []Cell         // one for each student, in order
}

// A Register is the tracking table: students down, satchel and handouts across.
type Register struct {
	Tag     Tag
	Class   Class
	Columns []Column
	Week    [][]int // words added by each student on each of the last seven days
	Days    []time.Time
	Changed []time.Time // last change of each student
	Missing int         // students a top-up would serve
	Changes int         // lines to change that wait for the teacher
}

// Register returns the Register of a class as it was last seen.
func (c *Registers) Register(ctx context.Context, class string) (Register, error) {
	r, err := c.reading(ctx, class)
	if err != nil {
		return Register{}, err
	}
	return r.register(), nil
}

// Tag returns the tag of a class's pages: while it is the same, so are they.
func (c *Registers) Tag(ctx context.Context, class string) (Tag, error) {
	revision, err := c.Store.Revision(ctx, class)
	if err != nil {
		return Tag{}, notFound(err)
	}
	return c.tagOf(ctx, revision)
}

func (r *reading) makeRegister() Register {
	out := Register{Tag: r.tag, Class: r.Class, Days: r.days}
	satchels := Column{}
	for _, st := range r.Students {
		satchels.Cells = append(satchels.Cells, r.cell([]packing.Key{room.SatchelKey(r.ID, st.ID)}, st, false))
	}
	out.Columns = append(out.Columns, satchels)
	for i, h := range r.handouts {
		if !h.Packed() {
			continue
		}
		col := Column{Handout: &r.handouts[i]}
		absent := r.Out(h)
		for _, st := range r.Students {
			_, absent := absent[st.ID]
			col.Cells = append(col.Cells, r.cell(handout.KeysOf(r.ID, h.ID, packing.Whom{Row: st.ID}), st, absent))
		}
		fill(col.Cells)
		out.Columns = append(out.Columns, col)
	}
	r.week(&out)
	l := r.lacks()
	out.Missing, out.Changes = l.Students, l.Changes
	return out
}

func fill(cells []Cell) {
	words := make([]int, len(cells))
	for i, cell := range cells {
		words[i] = cell.Words
	}
	median := progress.Median(words)
	for i := range cells {
		cells[i].Fill = progress.Fill(cells[i].Words, median)
		if cells[i].Uncounted {
			cells[i].Fill = 50 // somewhere on the way: more isn't known
		}
	}
}

// cell is one student and what they have under some keys: the first there is.
// Shared is what the account the thing is for has, not what another was given.
func (r *reading) cell(keys []packing.Key, s Student, out bool) Cell {
	var cell Cell
	now := progress.Facts{Out: out}
	for _, key := range keys {
		if e := r.entries[key]; e != nil && cell.Entry == nil {
			cell.Entry = e
			r.fillIn(&cell, &now, e, s)
		}
	}
	for _, key := range keys {
		if step, ok := r.stuck[key]; ok && !now.Shared && !now.Stuck {
			now.Stuck, cell.Reason = true, step.Reason
		}
	}
	if !now.Stuck && s.Problem != nil && !now.Shared && !out {
		now.Stuck, cell.Reason = true, s.Problem
	}
	cell.State, cell.Shared = progress.StateOf(now), now.Shared
	return cell
}

// fillIn notes how what a student was given stands.
func (r *reading) fillIn(cell *Cell, now *progress.Facts, e *store.Entry, s Student) {
	st := r.state(e)
	has := st.Place == cupboard.Lies && st.Rule.Grants[s.Wants()] > access.Nothing && s.Problem == nil
	now.Made, now.Shared = true, e.Shared() && has
	_, now.Opened = r.opened[e.Thing]
	if e.Key.What.Purpose != packing.Copy {
		cell.Inside, cell.Changed = st.Inside, st.InsideAt
		return
	}
	w := r.works[e.Thing]
	now.Begun, cell.Words, cell.Uncounted = w.Begun, w.Added, w.Uncounted
	if st.Version > 1 {
		cell.Changed = st.ChangedAt
	}
}

// week adds the last seven days and each student's last change.
func (r *reading) week(out *Register) {
	for i := range r.Students {
		week, last := make([]int, len(r.days)), time.Time{}
		for _, col := range out.Columns {
			cell := col.Cells[i]
			if cell.Changed.After(last) {
				last = cell.Changed
			}
			if cell.Entry == nil {
				continue
			}
			for d, n := range progress.PerDay(r.words[cell.Entry.Thing], r.days) {
				week[d] += n
			}
		}
		out.Week, out.Changed = append(out.Week, week), append(out.Changed, last)
	}
}
