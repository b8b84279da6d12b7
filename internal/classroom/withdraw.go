package classroom

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/store"
)

// A GivenCopy is a copy of a handout that lies somewhere.
type GivenCopy struct {
	Entry ledger.Entry
	Name  string // whose it is, as listed; of several, what it is called
	Begun bool   // somebody has begun with it
	Base  int    // its version
}

// seen is the copy as it was looked at.
func (g GivenCopy) Seen() map[string]int { return map[string]int{g.Entry.Thing: g.Base} }

// Copies are copies of a handout, untouched ones first.
type Copies []GivenCopy

// Digest tells what was looked at from what there is now.
func (c Copies) Digest() string {
	sum := sha256.New()
	for _, x := range c {
		fmt.Fprintln(sum, x.Entry.Thing, x.Base, x.Begun)
	}
	return hex.EncodeToString(sum.Sum(nil)[:12])
}

// copiesOf are those copies of a handout that lie somewhere and are meant.
func (s *Picture) CopiesOf(handout string, works map[string]ledger.Work, meant func(e *ledger.Entry, st ledger.Seen) bool) Copies {
	var out Copies
	for k, e := range s.Entries {
		st := s.State(e)
		if k.What.Purpose != packing.Copy || k.What.ID != handout || st.Place != ledger.Lies || !meant(e, st) {
			continue
		}
		x := GivenCopy{Entry: *e, Name: st.Name, Begun: e.Begun(st.Version, works[e.Thing]), Base: max(st.Version, e.Given)}
		if student, there := s.Student(k.Whom.Row); there {
			x.Name = student.SortName()
		}
		out = append(out, x)
	}
	rank := map[bool]int{true: 1}
	slices.SortFunc(out, func(a, b GivenCopy) int {
		return cmp.Or(rank[a.Begun]-rank[b.Begun], cmp.Compare(a.Name, b.Name), cmp.Compare(a.Entry.Thing, b.Entry.Thing))
	})
	return out
}

// LookWithdraw says which copies withdrawing a handout would take.
func (c *Packing) LookWithdraw(ctx context.Context, class, handout string) (Copies, error) {
	s, err := c.now(ctx, class, handout)
	if err != nil {
		return nil, err
	}
	if _, ok := s.Handout(handout); !ok {
		return nil, ErrNotFound
	}
	works, err := c.Store.WorksFor(ctx, class, handout)
	return s.CopiesOf(handout, works, AnyCopy), err
}

func AnyCopy(*ledger.Entry, ledger.Seen) bool { return true }

// Withdraw puts what a handout gave into the bin: the untouched copies that were
// looked at, and with begun the others too; those are kept otherwise, in the satchels
// they lie in. It can come back whole for the bin's term.
func (c *Packing) Withdraw(ctx context.Context, by, class, handout string, begun bool, seen string) (ledger.Run, error) {
	if err := c.look(ctx, class, handout); err != nil {
		return ledger.Run{}, err
	}
	return c.discard(ctx, by, class, "handout-withdrawn", map[string]any{"handout": handout, "begun": begun}, func(tx *store.Store, s *Picture, run *ledger.Run) ([]packing.Step, error) {
		h, ok := s.Handout(handout)
		if !ok {
			return nil, ErrNotFound
		}
		if !h.Packed() {
			return nil, change.Refuse("handout", "not-packed")
		}
		works, err := tx.WorksFor(ctx, class, handout)
		if err != nil {
			return nil, err
		}
		given := s.CopiesOf(handout, works, AnyCopy)
		if given.Digest() != seen {
			return nil, &change.Changed{Field: "list"}
		}
		run.Title, run.HandoutID = h.Title, h.ID
		var steps []packing.Step
		for _, g := range given {
			if !g.Begun || begun {
				step := s.Discarding(s.Entries[g.Entry.Key])
				step.Change = &packing.Change{Seen: g.Seen()} // it stays the handout's
				steps = append(steps, step)
			}
		}
		if err := tx.MarkWithdrawn(ctx, handout, c.Now()); err != nil || len(steps) > 0 {
			return steps, err
		}
		return nil, errNothing
	})
}

// GiveBack brings a withdrawn handout back, with everything of it that lies in the bin.
// What has ended there is lines of its packing list then.
func (c *Packing) GiveBack(ctx context.Context, by, class, handout string) error {
	if err := c.look(ctx, class, handout); err != nil {
		return err
	}
	_, err := c.discard(ctx, by, class, "handout-brought-back", map[string]any{"handout": handout}, func(tx *store.Store, s *Picture, run *ledger.Run) ([]packing.Step, error) {
		h, ok := s.Handout(handout)
		if !ok {
			return nil, ErrNotFound
		}
		if h.WithdrawnAt.IsZero() {
			return nil, change.Refuse("handout", "not-withdrawn")
		}
		run.Title, run.HandoutID = h.Title, h.ID
		anew := s.BackAs(h)
		var steps []packing.Step
		for k, e := range s.Entries {
			if k.What.Purpose == packing.Copy && k.What.ID == handout && s.State(e).Place == ledger.InBin { // or on its way there
				step := s.Discarding(e)
				step.Act, step.Change = packing.Restore, &packing.Change{Rename: anew[k]}
				step.Wanted.Pointers = e.Folders()
				steps = append(steps, step)
			}
		}
		slices.SortFunc(steps, func(a, b packing.Step) int { return cmp.Compare(a.Key.String(), b.Key.String()) })
		if err := tx.MarkGivenBack(ctx, handout); err != nil || len(steps) > 0 {
			return steps, err
		}
		return nil, errNothing
	})
	return err
}
