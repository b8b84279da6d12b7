package pack

import (
	"context"
	"maps"
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// PreviewReissue says which copies of a packed handout have an earlier state of their
// document than there is now.
func (c *Packing) PreviewReissue(ctx context.Context, class, handout string) (picture.Copies, error) {
	documents, err := c.documents(ctx, class, handout)
	if err != nil || len(documents) == 0 {
		return nil, err
	}
	s, err := c.now(ctx, class, handout)
	if err != nil {
		return nil, err
	}
	works, err := c.Store.WorksFor(ctx, class, handout)
	return s.Stale(handout, documents, works), err
}

// documents are a packed handout's as they are now, by slot; none of one that isn't packed.
func (c *Packing) documents(ctx context.Context, class, handout string) (map[int]ledger.Seen, error) {
	h, err := c.Store.Handout(ctx, class, handout)
	if err != nil || !h.Packed() {
		return nil, seam.NotFound(err)
	}
	templates, err := seam.DocumentsFor(ctx, c.Store, h.Settings.Documents)
	if err != nil {
		return nil, err
	}
	of := map[string][]string{} // lender → documents
	for _, t := range templates {
		of[t.Account] = append(of[t.Account], t.Thing)
	}
	now := map[string]ledger.Seen{}
	for account, things := range of {
		states, err := c.cup.States(ctx, account, things)
		if err != nil {
			return nil, err
		}
		maps.Copy(now, states)
	}
	out := map[int]ledger.Seen{}
	for _, d := range h.Settings.Documents {
		out[d.Slot] = now[templates[d.Template].Thing]
	}
	return out, nil
}

// A BegunCopy says what happens to begun copies when a document is given again.
type BegunCopy string

// What can become of them: they are left; the new state takes the place of what was
// written, which stays among the versions; or it comes beside them, as a second document.
const (
	LeaveBegun   BegunCopy = "leave"
	ReplaceBegun BegunCopy = "replace"
	BesideBegun  BegunCopy = "beside"
)

// Reissue gives the copies that were looked at the present state of their documents:
// the untouched ones, and the begun ones as is said. What was in a copy stays among its
// versions; one in which somebody writes meanwhile is left.
func (c *Packing) Reissue(ctx context.Context, by, class, handout string, begun BegunCopy, seen string) (ledger.Run, error) {
	if err := c.Observe(ctx, class, handout); err != nil {
		return ledger.Run{}, err
	}
	documents, err := c.documents(ctx, class, handout)
	if err != nil {
		return ledger.Run{}, err
	}
	book, err := c.Book(ctx)
	if err != nil {
		return ledger.Run{}, err
	}
	id := store.NewID()
	act := c.Act(ctx, by, "handout-reissued", map[string]any{"run": id, "handout": handout, "begun": begun}, class)
	err = c.Store.Change(ctx, act, &id, func(tx *store.Store) error {
		s, err := c.Picture(ctx, tx, book, class)
		if err != nil {
			return err
		}
		works, err := tx.WorksFor(ctx, class, handout)
		if err != nil {
			return err
		}
		r := s.Stale(handout, documents, works)
		if r.Digest() != seen {
			return &change.Changed{Field: "list"}
		}
		h, _ := s.Handout(handout)
		wanted := s.Wanted(&h)
		var steps []packing.Step
		for _, x := range r {
			w, ok := wanted[x.Entry.Key]
			if !ok || x.Begun && begun != ReplaceBegun {
				continue
			}
			steps = append(steps, packing.Step{
				StepKey: packing.StepKey{Key: w.Key, Act: packing.Renew, Generation: x.Entry.Generation}, Wanted: w,
				Change: &packing.Change{Base: x.Base}, State: packing.Waiting,
			})
		}
		if begun == BesideBegun {
			more, err := c.beside(ctx, tx, book, h, r)
			if err != nil {
				return err
			}
			steps = append(steps, more...)
		}
		if len(steps) == 0 {
			return change.Refuse("list", "nothing-to-pack")
		}
		run := ledger.Run{ID: id, ClassID: class, HandoutID: handout, Title: h.Title, State: ledger.RunPacking, StartedBy: by, StartedAt: c.Now()}
		return c.packer.Enqueue(ctx, tx, run, steps)
	})
	if err != nil {
		return ledger.Run{}, seam.NotFound(err)
	}
	return c.Store.Run(ctx, id)
}

// beside adds, for anyone who has begun, the documents they have begun once more, for them
// alone, and returns the steps that make those.
func (c *Packing) beside(ctx context.Context, tx *store.Store, book *seam.Known, h handout.Handout,
	stale picture.Copies) ([]packing.Step, error) {
	if h.Settings.Way == handout.TeamName || h.Settings.Way == handout.ForAllName {
		return nil, change.Refuse("begun", "beside-several")
	}
	rows := map[int][]string{} // slot → whose copies are begun
	for _, x := range stale {
		if x.Begun {
			rows[x.Entry.Key.What.Slot] = append(rows[x.Entry.Key.What.Slot], x.Entry.Key.Whom.Row)
		}
	}
	last := 0
	for _, d := range h.Settings.Documents {
		last = max(last, d.Slot)
	}
	fresh := map[int]bool{}
	for _, d := range slices.Clone(h.Settings.Documents) {
		if len(rows[d.Slot]) == 0 {
			continue
		}
		if last++; len(h.Settings.Documents) >= handout.MostDocuments {
			return nil, change.TooMany("documents", "too-many-documents", handout.MostDocuments)
		}
		fresh[last] = true
		d.Only, d.Slot = slices.Sorted(slices.Values(rows[d.Slot])), last
		h.Settings.Documents = append(h.Settings.Documents, d)
	}
	if len(fresh) == 0 {
		return nil, nil
	}
	h.ChangedAt = c.Now()
	if err := tx.SaveHandout(ctx, h); err != nil {
		return nil, err
	}
	s, err := c.Picture(ctx, tx, book, h.ClassID)
	if err != nil {
		return nil, err
	}
	var steps []packing.Step
	for _, line := range s.HandoutList(h).Lines {
		if line.Section == packing.ToPack && line.Wanted.Key.What.Purpose == packing.Copy && fresh[line.Wanted.Key.What.Slot] {
			steps = append(steps, packing.Step{StepKey: line.Step, Wanted: line.Wanted, State: packing.Waiting})
		}
	}
	return steps, nil
}
