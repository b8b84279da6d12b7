package register

import (
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/pens"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/progress"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/core/wall"
)

// A Cell of the Register: one student and one thing, or several documents of a handout;
// then it says how the one stands that has come furthest, with the words of all.
type Cell struct {
	State progress.State
	Words int // added since it was handed out
	// Uncounted says that its words can't be counted.
	Uncounted bool
	Fill      int // percent
	Inside    int // things the student put into a satchel
	Changed   time.Time
	Entry     *ledger.Entry
	Each      []Cell           // of several there are, each by itself
	Shared    bool             // with whom it is for
	Reason    *packing.Reason  // why it is stuck
	Shown     *ledger.Snapshot // the newest state that was shown; nil: none
	Since     bool             // it was written in since
	Apart     Apart
}

// Apart is what is another for one student than for the others with the same.
type Apart struct {
	Level   string           // what they may do; empty: as the others
	Extra   time.Time        // until when they have extra time, as clocks show it; zero: none
	Always  bool             // that is as in every handout
	Hand    *pens.Hand       // what was said by hand of theirs alone, or of their satchel; nil: nothing
	Closing *handout.Closing // from when on theirs is closed; nil: it stays open
}

// apart says of a handout what is another for single rows.
func apart(h handout.Handout, row string) (a Apart) {
	if level := h.Settings.Levels[row]; level != h.Settings.Level {
		a.Level = level
	}
	if until, ok := h.ExtraFor(row); ok {
		a.Extra, a.Always = wall.At(until, h.Zone), h.Settings.Extra[row] == ""
	}
	if hand, ok := h.Settings.Hands[row]; ok {
		a.Hand = &hand
	}
	if c, ok := h.Closes(row); ok {
		a.Closing = &c
	}
	return a
}

// shut says of a satchel that it is closed by hand.
func shut(c classes.Class, row string) (a Apart) {
	if hand, down := c.Shut(room.SatchelKey(c.ID, row)); down {
		a.Hand, a.Closing = &hand, &handout.Closing{At: hand.At, By: hand.By}
	}
	return a
}

// A Column of the Register: the satchels, or one handout.
type Column struct {
	Handout *handout.Handout // nil for the satchels
	Cells   []Cell           // one for each student, in order
}

// A Register is the tracking table: students down, satchel and handouts across.
type Register struct {
	Class   picture.Class
	Columns []Column
	// Headings are what the handouts are under, in order.
	Headings []handout.Heading
	Week     [][]int // words added by each student on each of the last seven days
	Days     []time.Time
	Changed  []time.Time // last change of each student
	// Twins are the students, by row, who are called as another of the class is.
	Twins   map[string]bool
	Missing int // students a top-up would serve
	Changes int // lines to change that wait for the teacher
}

// Register works out the Register, of which l is what a top-up would pack.
func (r *Facts) Register(l picture.Lacking) Register {
	out := Register{Class: r.Class, Days: r.Days, Headings: r.Headings, Twins: twins(r.Students)}
	satchels := Column{}
	for _, st := range r.Students {
		cell := r.cell([]packing.Key{room.SatchelKey(r.ID, st.ID)}, st, false)
		cell.Apart = shut(r.Class.Class, st.ID)
		satchels.Cells = append(satchels.Cells, cell)
	}
	out.Columns = append(out.Columns, satchels)
	for i, h := range r.Handouts {
		if !h.Packed() || h.Settings.Way == handout.NoticeName {
			continue
		}
		col := Column{Handout: &r.Handouts[i]}
		absent, keys := r.Out(h), r.KeysOf(h)
		for _, st := range r.Students {
			_, absent := absent[st.ID]
			cell := r.cell(keys(st.ID), st, absent)
			if cell.Entry != nil && !absent {
				cell.Apart = apart(h, st.ID)
			}
			col.Cells = append(col.Cells, cell)
		}
		fill(col.Cells)
		out.Columns = append(out.Columns, col)
	}
	r.week(&out)
	out.Missing, out.Changes = l.Students, l.Changes
	return out
}

func twins(students []picture.Student) map[string]bool {
	first, out := map[string]string{}, map[string]bool{}
	for _, st := range students {
		called := roster.Plain(st.CallName())
		if other, ok := first[called]; ok {
			out[other], out[st.ID] = true, true
		} else {
			first[called] = st.ID
		}
	}
	return out
}

func fill(cells []Cell) {
	words := make([]int, len(cells))
	for i, cell := range cells {
		words[i] = cell.Words
	}
	median := progress.Median(words)
	for i := range cells {
		cells[i].filled(median, 1)
		for k := range cells[i].Each { // of several things, each against its part
			cells[i].Each[k].filled(median, len(cells[i].Each))
		}
	}
}

// filled says how far a cell, one of so many, has come, against how far half of those who began
// have with all of them.
func (c *Cell) filled(median, of int) {
	c.Fill = progress.Fill(c.Words*of, median)
	if c.Uncounted {
		c.Fill = 50 // somewhere on the way: more isn't known
	}
}

// cell is one student and what they have under some keys: of several things, the one
// that has come furthest. Shared is what the account the thing is for has, not what
// another was given.
func (r *Facts) cell(keys []packing.Key, s picture.Student, out bool) Cell {
	var why *packing.Reason
	stuck := false
	for _, key := range keys {
		if step, ok := r.Stuck[key]; ok && !stuck {
			stuck, why = true, step.Reason
		}
	}
	var cell Cell
	for _, key := range keys {
		e := r.Entries[key]
		if e == nil {
			continue
		}
		one := r.one(e, s, out, stuck, why)
		one.Entry = e
		if cell.Each = append(cell.Each, one); len(cell.Each) == 1 || one.State.Further(cell.State) {
			one.Each, one.Words, one.Uncounted, one.Changed = cell.Each, cell.Words, cell.Uncounted, cell.Changed
			one.Shown, one.Since = cell.Shown, cell.Since
			cell = one
		}
		last := cell.Each[len(cell.Each)-1]
		cell.Words, cell.Uncounted = cell.Words+last.Words, cell.Uncounted || last.Uncounted
		if last.Shown != nil && (cell.Shown == nil || last.Shown.At.After(cell.Shown.At)) {
			cell.Shown, cell.Since = last.Shown, last.Since
		}
		if last.Changed.After(cell.Changed) {
			cell.Changed = last.Changed
		}
	}
	if len(cell.Each) == 0 {
		return r.one(nil, s, out, stuck, why)
	}
	if len(cell.Each) == 1 {
		cell.Each = nil
	}
	return cell
}

// one is how one thing of a student's stands; there may be none.
func (r *Facts) one(e *ledger.Entry, s picture.Student, out, stuck bool, why *packing.Reason) Cell {
	var cell Cell
	now := progress.Facts{Out: out}
	if e != nil {
		r.fillIn(&cell, &now, e, s)
		if x, shown := r.Shown[e.Thing]; shown {
			cell.Shown, cell.Since = &x, x.Since(r.State(e).Version)
		}
	}
	if stuck && !now.Shared {
		now.Stuck, cell.Reason = true, why
	}
	if !now.Stuck && s.Problem != nil && !now.Shared && !out {
		now.Stuck, cell.Reason = true, s.Problem
	}
	if why := s.Later(); why != nil && now.Made && !now.Shared && !now.Stuck {
		now.Waits, cell.Reason = true, why
	}
	cell.State, cell.Shared = progress.StateOf(now), now.Shared
	return cell
}

// fillIn notes how what a student was given stands.
func (r *Facts) fillIn(cell *Cell, now *progress.Facts, e *ledger.Entry, s picture.Student) {
	st := r.State(e)
	has := st.Place == ledger.Lies && st.Rule.Grants[s.Wants()] > access.Nothing && s.Problem == nil
	now.Made, now.Shared = true, e.Shared() && has
	_, now.Opened = r.Opened[ledger.Opening{Thing: e.Thing, Account: s.Wants()}]
	if e.Key.What.Purpose != packing.Copy {
		cell.Inside, cell.Changed = st.Inside, st.InsideAt
		return
	}
	w := r.Works[e.Thing]
	now.Begun, cell.Words, cell.Uncounted = e.Begun(st.Version, w), w.Added, w.Uncounted
	if st.Version > max(1, e.Given) { // giving it, once more too, is no change of theirs
		cell.Changed = st.ChangedAt
	}
}

// entries are those of the ledger a cell is about.
func (c Cell) entries() []*ledger.Entry {
	if len(c.Each) == 0 {
		if c.Entry == nil {
			return nil
		}
		return []*ledger.Entry{c.Entry}
	}
	out := make([]*ledger.Entry, len(c.Each))
	for i, one := range c.Each {
		out[i] = one.Entry
	}
	return out
}

// week adds the last seven days and each student's last change.
func (r *Facts) week(out *Register) {
	for i := range r.Students {
		week, last := make([]int, len(r.Days)), time.Time{}
		for _, col := range out.Columns {
			cell := col.Cells[i]
			if cell.Changed.After(last) {
				last = cell.Changed
			}
			for _, e := range cell.entries() {
				if e.Key.Whom.Row == "" {
					continue // what several wrote is nobody's alone
				}
				for d, n := range progress.Per(r.Words[e.Thing], r.Days) {
					week[d] += n
				}
			}
		}
		out.Week, out.Changed = append(out.Week, week), append(out.Changed, last)
	}
}
