package classroom

import (
	"context"
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/store"
)

// mostLetIn is how many classmates a student can let into their copies of a handout.
const mostLetIn = 30

// A Mate is somebody of a student's class, let into their copies of a handout or not.
type Mate struct {
	Row, Name string
	In        bool
}

// matesOf are those whom a student with a row could let into their copies of a handout.
func (s *Picture) MatesOf(h handout.Handout, row string) []Mate {
	if !h.PassedOn() {
		return nil
	}
	var out []Mate
	for _, st := range s.Students {
		if st.ID != row && st.Account != "" && st.Problem == nil {
			out = append(out, Mate{st.ID, st.CallName(), slices.Contains(s.LetIn[h.ID][row], st.ID)})
		}
	}
	order := naming.NewOrder(s.Language)
	order.Sort(len(out), func(i int) string { return out[i].Name }, func(i, j int) { out[i], out[j] = out[j], out[i] })
	return out
}

// passed are the accounts that students let into their copies of a handout, by row.
func (s *Picture) passed(h handout.Handout) map[string][]string {
	out := map[string][]string{}
	for row, mates := range s.LetIn[h.ID] {
		for _, mate := range mates {
			if st, there := s.Student(mate); there && st.Account != "" && st.Problem == nil {
				out[row] = append(out[row], st.Account)
			}
		}
	}
	return out
}

// LetIn lets a classmate, by their row, into a student's own copies of a handout, or no
// more, where its teacher lets students do so. It is packed at once.
func (c *Packing) LetIn(ctx context.Context, account, handout, mate string, in bool) error {
	h, row, err := c.handoutOf(ctx, account, handout)
	if err != nil {
		return err
	}
	book, err := c.book(ctx)
	if err != nil {
		return err
	}
	id := store.NewID()
	what := "let-in"
	if !in {
		what = "let-out"
	}
	args := map[string]any{"handout": handout, "mate": mate}
	return notFound(c.Store.Change(ctx, c.act(ctx, account, what, args, h.ClassID), &id, func(tx *store.Store) error {
		s, err := c.snapshot(ctx, tx, book, h.ClassID)
		if err != nil {
			return err
		}
		now, _ := s.Handout(handout)
		me, mine := s.Student(row)
		them, there := s.Student(mate)
		switch {
		case !mine || me.Account != account || !there || mate == row || them.Account == "":
			return ErrNotFound
		case in && (!now.Packed() || !now.PassedOn()):
			return change.Refuse("mate", "not-passed-on")
		case in && len(s.LetIn[handout][row]) >= mostLetIn && !slices.Contains(s.LetIn[handout][row], mate):
			return change.TooMany("mate", "too-many-let-in", mostLetIn)
		}
		args["name"] = them.Name()
		if err := tx.SetLetIn(ctx, store.LetIn{Handout: handout, Row: row, Mate: mate}, in, c.Now()); err != nil {
			return err
		}
		if s, err = c.snapshot(ctx, tx, book, h.ClassID); err != nil {
			return err
		}
		var steps []packing.Step
		for _, w := range s.Way(now).Own(s.Room) {
			if k := w.Key; k.What.Purpose == packing.Copy && k.Whom.Row == row && w.Problem == nil {
				for _, step := range s.Reach(w, them.Account) {
					if (step.Act == packing.Share) == in {
						steps = append(steps, step)
					}
				}
			}
		}
		if len(steps) == 0 {
			return nil
		}
		run := ledger.Run{ID: id, ClassID: h.ClassID, HandoutID: handout, Title: h.Title, State: ledger.RunPacking, StartedBy: account, StartedAt: c.Now()}
		return c.packer.Enqueue(ctx, tx, run, steps)
	}))
}

// reach are the steps that bring an account to what is wanted of a thing for it; where that
// isn't made yet they come to nothing, for making it does so.
func (s *Picture) Reach(w packing.Wanted, account string) []packing.Step {
	generation := 1
	if e := s.Entries[w.Key]; e != nil {
		generation = e.Generation
	}
	return packing.Reach(w, generation, account)
}

// handoutOf is a handout of a class whose list a student is in, with their row there;
// only where students may reach each other's copies of it.
func (c *house) handoutOf(ctx context.Context, account, id string) (handout.Handout, string, error) {
	rows, err := c.Store.RowsOf(ctx, account)
	if err != nil {
		return handout.Handout{}, "", err
	}
	for _, row := range rows {
		if row.Gone {
			continue
		}
		h, err := c.Store.Handout(ctx, row.ClassID, id)
		if err == nil && h.Packed() && (h.MatesRead() || h.PassedOn()) {
			return h, row.ID, nil
		}
		if err != nil && notFound(err) != ErrNotFound {
			return h, "", err
		}
	}
	return handout.Handout{}, "", ErrNotFound
}
