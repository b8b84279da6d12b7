package classroom

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"slices"

	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

// A Given is a copy of a handout that lies where it was given.
type Given struct {
	Entry store.Entry
	Name  string // whose it is, as listed, or what it is called
	Begun bool   // somebody wrote in it
}

// A Withdrawal is what withdrawing a handout would take, untouched copies first.
type Withdrawal struct{ Given []Given }

// Digest tells what was looked at from what there is now.
func (w Withdrawal) Digest() string {
	sum := sha256.New()
	for _, g := range w.Given {
		fmt.Fprintln(sum, g.Entry.Thing, g.Begun)
	}
	return hex.EncodeToString(sum.Sum(nil)[:12])
}

// LookWithdraw says what withdrawing a handout would take.
func (c *Packing) LookWithdraw(ctx context.Context, class, handout string) (Withdrawal, error) {
	s, err := c.now(ctx, class, handout)
	if err != nil {
		return Withdrawal{}, err
	}
	if _, ok := s.handout(handout); !ok {
		return Withdrawal{}, ErrNotFound
	}
	return s.withdrawal(handout), nil
}

func (s *snapshot) withdrawal(handout string) Withdrawal {
	var out Withdrawal
	for k, e := range s.entries {
		st := s.state(e)
		if k.What.Purpose != packing.Copy || k.What.ID != handout || st.Place != cupboard.Lies {
			continue
		}
		g := Given{Entry: *e, Name: st.Name, Begun: st.Version > e.Given}
		if student, there := s.Student(k.Whom.Row); there {
			g.Name = student.SortName()
		}
		out.Given = append(out.Given, g)
	}
	slices.SortFunc(out.Given, func(a, b Given) int {
		return cmp.Or(cmp.Compare(btoi(a.Begun), btoi(b.Begun)), cmp.Compare(a.Name, b.Name), cmp.Compare(a.Entry.Thing, b.Entry.Thing))
	})
	return out
}

func btoi(b bool) int {
	if b {
		return 1
	}
	return 0
}

// Withdraw puts what a handout gave into the bin: the untouched copies that were
// looked at, and with begun the others too; those are kept otherwise, in the satchels
// they lie in. It can come back whole for the bin's term.
func (c *Packing) Withdraw(ctx context.Context, by, class, handout string, begun bool, seen string) (store.Run, error) {
	if err := c.look(ctx, class, handout); err != nil {
		return store.Run{}, err
	}
	return c.discard(ctx, by, class, "handout-withdrawn", map[string]any{"handout": handout, "begun": begun}, func(tx *store.Store, s *snapshot, run *store.Run) ([]packing.Step, error) {
		h, ok := s.handout(handout)
		if !ok {
			return nil, ErrNotFound
		}
		if !h.Packed() {
			return nil, &Invalid{"handout", "not-packed", nil}
		}
		w := s.withdrawal(handout)
		if w.Digest() != seen {
			return nil, &Changed{Field: "list"}
		}
		run.Title, run.HandoutID = h.Title, h.ID
		var steps []packing.Step
		for _, g := range w.Given {
			if !g.Begun || begun {
				step := s.discarding(s.entries[g.Entry.Key])
				step.Change = &packing.Change{} // it stays the handout's
				steps = append(steps, step)
			}
		}
		return steps, tx.MarkWithdrawn(ctx, handout, c.Now())
	})
}

// GiveBack brings a withdrawn handout back, with everything of it that lies in the bin.
// What has ended there is lines of its packing list then.
func (c *Packing) GiveBack(ctx context.Context, by, class, handout string) error {
	if err := c.look(ctx, class, handout); err != nil {
		return err
	}
	_, err := c.discard(ctx, by, class, "handout-brought-back", map[string]any{"handout": handout}, func(tx *store.Store, s *snapshot, run *store.Run) ([]packing.Step, error) {
		h, ok := s.handout(handout)
		if !ok {
			return nil, ErrNotFound
		}
		if h.WithdrawnAt.IsZero() {
			return nil, &Invalid{"handout", "not-withdrawn", nil}
		}
		run.Title, run.HandoutID = h.Title, h.ID
		var steps []packing.Step
		for k, e := range s.entries {
			if k.What.Purpose == packing.Copy && k.What.ID == handout && s.state(e).Place == cupboard.InBin {
				step := s.discarding(e)
				step.Act, step.Change = packing.Restore, &packing.Change{}
				steps = append(steps, step)
			}
		}
		slices.SortFunc(steps, func(a, b packing.Step) int { return cmp.Compare(a.Key.String(), b.Key.String()) })
		return steps, tx.MarkGivenBack(ctx, handout)
	})
	var invalid *Invalid
	if !errors.As(err, &invalid) || invalid.Code != "nothing-to-pack" {
		return err
	}
	act := c.act(within(ctx, "nothing"), by, "handout-brought-back", map[string]any{"handout": handout}, class)
	return notFound(c.Store.Change(ctx, act, nil, func(tx *store.Store) error { return tx.MarkGivenBack(ctx, handout) }))
}
