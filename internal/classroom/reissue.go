package classroom

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"

	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

// A Stale is a copy whose document was changed since it was given.
type Stale struct {
	Entry store.Entry
	Name  string // what it is called
	For   string // whose it is: a student, as listed; empty: of several
	Begun bool   // somebody wrote in it
	Base  int    // its version
}

// A Reissue is what giving a handout's documents again would do: the copies that have
// an earlier state, untouched ones first.
type Reissue struct{ Stale []Stale }

// Digest tells what was looked at from what there is now.
func (r Reissue) Digest() string {
	sum := sha256.New()
	for _, s := range r.Stale {
		fmt.Fprintln(sum, s.Entry.Thing, s.Base, s.Begun)
	}
	return hex.EncodeToString(sum.Sum(nil)[:12])
}

// LookReissue says which copies of a packed handout have an earlier state of their
// document than there is now.
func (c *Packing) LookReissue(ctx context.Context, class, handout string) (Reissue, error) {
	documents, err := c.documents(ctx, class, handout)
	if err != nil || len(documents) == 0 {
		return Reissue{}, err
	}
	s, err := c.now(ctx, class, handout)
	if err != nil {
		return Reissue{}, err
	}
	return s.reissue(handout, documents), nil
}

// documents are a packed handout's as they are now, by slot; none of one that isn't packed.
func (c *Packing) documents(ctx context.Context, class, handout string) (map[int]cupboard.State, error) {
	h, err := c.Store.Handout(ctx, class, handout)
	if err != nil || !h.Packed() {
		return nil, notFound(err)
	}
	templates, err := documentsFor(ctx, c.Store, h.Settings.Documents)
	if err != nil {
		return nil, err
	}
	out := map[int]cupboard.State{}
	for _, d := range h.Settings.Documents {
		t := templates[d.Template]
		states, err := c.cup.States(ctx, t.Account, []string{t.Thing})
		if err != nil {
			return nil, err
		}
		out[d.Slot] = states[t.Thing]
	}
	return out, nil
}

func (s *snapshot) reissue(handout string, documents map[int]cupboard.State) Reissue {
	var out Reissue
	for k, e := range s.entries {
		st := s.state(e)
		document := documents[k.What.Slot]
		if k.What.Purpose != packing.Copy || k.What.ID != handout || st.Place != cupboard.Lies || document.SHA == "" {
			continue
		}
		given := e.GivenSHA
		if given == "" && st.Version == e.Given {
			given = st.SHA
		}
		if given == document.SHA || given == "" && !document.ChangedAt.After(e.MadeAt) {
			continue
		}
		stale := Stale{Entry: *e, Name: st.Name, Begun: st.Version > e.Given, Base: max(st.Version, e.Given)}
		if student, there := s.Student(k.Whom.Row); there {
			stale.For = student.SortName()
		}
		out.Stale = append(out.Stale, stale)
	}
	slices.SortFunc(out.Stale, func(a, b Stale) int {
		if a.Begun != b.Begun {
			if a.Begun {
				return 1
			}
			return -1
		}
		return cmp.Or(cmp.Compare(a.Name, b.Name), cmp.Compare(a.Entry.Thing, b.Entry.Thing))
	})
	return out
}

// Reissue gives the copies that were looked at the present state of their documents:
// the untouched ones, and with begun the others too. What was in a copy stays among its
// versions; one in which somebody writes meanwhile is left.
func (c *Packing) Reissue(ctx context.Context, by, class, handout string, begun bool, seen string) (store.Run, error) {
	if err := c.look(ctx, class, handout); err != nil {
		return store.Run{}, err
	}
	documents, err := c.documents(ctx, class, handout)
	if err != nil {
		return store.Run{}, err
	}
	book, err := c.book(ctx)
	if err != nil {
		return store.Run{}, err
	}
	id := store.NewID()
	act := c.act(ctx, by, "handout-reissued", map[string]any{"run": id, "handout": handout, "begun": begun}, class)
	err = c.Store.Change(ctx, act, &id, func(tx *store.Store) error {
		s, err := c.snapshot(ctx, tx, book, class)
		if err != nil {
			return err
		}
		r := s.reissue(handout, documents)
		if r.Digest() != seen {
			return &Changed{Field: "list"}
		}
		h, _ := s.handout(handout)
		wanted := s.wanted(&h)
		var steps []packing.Step
		for _, x := range r.Stale {
			w, ok := wanted[x.Entry.Key]
			if !ok || x.Begun && !begun {
				continue
			}
			steps = append(steps, packing.Step{
				StepKey: packing.StepKey{Key: w.Key, Act: packing.Renew, Generation: x.Entry.Generation}, Wanted: w, Change: &packing.Change{Base: x.Base}, State: packing.Waiting,
			})
		}
		if len(steps) == 0 {
			return &Invalid{"list", "nothing-to-pack", nil}
		}
		run := store.Run{ID: id, ClassID: class, HandoutID: handout, Title: h.Title, State: store.RunPacking, StartedBy: by, StartedAt: c.Now()}
		return c.packer.Enqueue(ctx, tx, run, steps)
	})
	if err != nil {
		return store.Run{}, notFound(err)
	}
	return c.Store.Run(ctx, id)
}
