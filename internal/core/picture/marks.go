package picture

import (
	"cmp"
	"maps"
	"slices"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
)

// mark is the mark that a copy of a handout is to have in the cupboard, which closes it from the moment
// on that the handout says; nil where it stays open. It never reaches staff, and of several who have one
// copy, each from their own moment on.
func (s *Picture) mark(h handout.Handout, k packing.Key, accounts map[string]string) *access.Mark {
	rows := []string{k.Whom.Row}
	if k.Whom.Row == "" {
		rows = slices.Sorted(maps.Keys(accounts))
	}
	type closes struct {
		row string
		at  time.Time
	}
	var all []closes
	m := &access.Mark{Exempt: map[string]time.Time{}}
	for _, row := range rows {
		c, ok := h.Closes(row)
		if !ok {
			if account := accounts[row]; account != "" && k.Whom.Row == "" {
				m.Spares = append(m.Spares, account)
			}
			continue
		}
		all = append(all, closes{row, c.At})
		if m.Since.IsZero() || c.At.Before(m.Since) {
			m.Since, m.By = c.At.UTC(), c.By
		}
	}
	if len(all) == 0 {
		return nil
	}
	for _, c := range all {
		if account := accounts[c.row]; account != "" && c.at.After(m.Since) {
			m.Exempt[account] = c.at.UTC()
		}
	}
	return s.sparing(m)
}

// sparing is a mark that never reaches the class's staff.
func (s *Picture) sparing(m *access.Mark) *access.Mark {
	for _, x := range s.Staff {
		m.Spares = append(m.Spares, x.Account)
	}
	if !slices.Contains(m.Spares, s.Owner()) {
		m.Spares = append(m.Spares, s.Owner())
	}
	slices.Sort(m.Spares)
	return m
}

// shut gives places among what the room wants the marks they are to have: those that are closed by hand.
func (s *Picture) shut(wanted []packing.Wanted) []packing.Wanted {
	for i, w := range wanted {
		if hand, down := s.Shut(w.Key); down {
			wanted[i].Closed = s.sparing(&access.Mark{Since: hand.At.UTC(), By: hand.By, Exempt: map[string]time.Time{}})
		}
	}
	return wanted
}

// marked gives the copies among what a handout wants the marks they are to have.
func (s *Picture) marked(h handout.Handout, wanted []packing.Wanted) []packing.Wanted {
	if h.Settings.Then != handout.ThenClose && h.Settings.Pens == nil && len(h.Settings.Hands) == 0 {
		return wanted
	}
	accounts := map[string]string{}
	for _, st := range s.Students {
		accounts[st.ID] = st.Account
	}
	for i, w := range wanted {
		if w.Key.What.Purpose == packing.Copy {
			wanted[i].Closed = s.mark(h, w.Key, accounts)
		}
	}
	return wanted
}

// Marking are the steps that bring the cupboard's marks after what handouts and staff say: of copies and
// places of which we said something else to it.
func (s *Picture) Marking() []packing.Step {
	all, _ := s.everything()
	var out []packing.Step
	for _, w := range all {
		e := s.Entries[w.Key]
		if e == nil || e.HandedOff || access.SameMark(e.Mark, w.Closed) || s.State(e).Place != ledger.Lies {
			continue
		}
		step := packing.Step{StepKey: packing.StepKey{Key: w.Key, Act: packing.Close, Generation: e.Generation}, Wanted: w,
			Change: &packing.Change{Mark: w.Closed}, State: packing.Waiting}
		if w.Closed == nil {
			step.Act = packing.Reopen
		}
		out = append(out, step)
	}
	slices.SortStableFunc(out, func(a, b packing.Step) int { return cmp.Compare(a.Key.String(), b.Key.String()) })
	return out
}
