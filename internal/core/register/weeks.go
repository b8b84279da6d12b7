package register

import (
	"time"

	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/progress"
)

// A Week is how far the students had come by its end with one handout, or with all of them, and what
// they did in it.
type Week struct {
	First  time.Time // its Monday, midnight UTC
	Opened int       // students who had opened something, those who had begun among them
	Begun  int       // students who had begun something
	Wrote  int       // students who wrote in it
	Words  int       // added in it; what several write together counts once
}

// MostWeeks is how many are looked back on.
const MostWeeks = 8

// WeeksOf returns the days on which the last weeks begin since a handout was packed, or the first
// of all for an empty one. Before anything was packed it is nil.
func (r *Facts) WeeksOf(handout string, zone *time.Location) []time.Time {
	var since time.Time
	for _, h := range r.Handouts {
		if at := h.PackedAt; h.Packed() && (handout == "" || h.ID == handout) && (since.IsZero() || at.Before(since)) {
			since = at
		}
	}
	if since.IsZero() {
		return nil
	}
	return progress.Weeks(dateOf(since, zone), r.Days[len(r.Days)-1], MostWeeks)
}

// Weeks says how a class came on in some weeks with a handout, or with all for an empty one; reg is its
// Register. words are the tallies of what was written since the first of the weeks. What can't be counted was
// begun, and written, when it was last changed.
func (r *Facts) Weeks(reg Register, handout string, starts []time.Time, words map[string][]progress.Tally,
	zone *time.Location) []Week {
	out := make([]Week, len(starts))
	for i, start := range starts {
		out[i].First = start
	}
	counted := map[string]bool{}
	for i, st := range r.Students {
		opened, begun, wrote := len(starts), len(starts), make([]bool, len(starts))
		for _, col := range reg.Columns {
			if col.Handout == nil || handout != "" && col.Handout.ID != handout {
				continue
			}
			for _, e := range col.Cells[i].entries() {
				o, b := r.began(e, st, words[e.Thing], starts, zone)
				opened, begun = min(opened, o, b), min(begun, b)
				for w, n := range progress.Per(words[e.Thing], starts) {
					wrote[w] = wrote[w] || n > 0
					if !counted[e.Thing] {
						out[w].Words += n
					}
				}
				if r.Works[e.Thing].Uncounted && b < len(starts) {
					wrote[b] = true
				}
				counted[e.Thing] = true
			}
		}
		for w := range out {
			out[w].Opened += count(opened <= w)
			out[w].Begun += count(begun <= w)
			out[w].Wrote += count(wrote[w])
		}
	}
	return out
}

// began says in which of some weeks a student opened and began a copy, the first for one before, and
// how many there are where it was in none.
func (r *Facts) began(e *ledger.Entry, st picture.Student, words []progress.Tally, starts []time.Time,
	zone *time.Location) (opened, begun int) {
	in := func(day time.Time) int { return max(0, progress.PeriodOf(day, starts)) }
	opened, begun = len(starts), len(starts)
	if at, ok := r.Opened[ledger.Opening{Thing: e.Thing, Account: st.Wants()}]; ok {
		opened = in(dateOf(at, zone))
	}
	seen := r.State(e)
	if !e.Begun(seen.Version, r.Works[e.Thing]) {
		return opened, begun
	}
	for _, t := range words {
		if t.Added > 0 {
			return opened, in(t.Day)
		}
	}
	return opened, in(dateOf(seen.ChangedAt, zone))
}

// dateOf is the date of a moment in a zone, as midnight UTC.
func dateOf(at time.Time, zone *time.Location) time.Time {
	y, m, d := at.In(zone).Date()
	return time.Date(y, m, d, 0, 0, 0, 0, time.UTC)
}

func count(is bool) int {
	if is {
		return 1
	}
	return 0
}
