package pack

import (
	"context"
	"errors"
	"slices"
	"strconv"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// Whose eyes a tree is seen with, where it isn't a student's.
const (
	StaffEyes     = "staff"
	AssistantEyes = "assistant"
)

// imagined is the account of an assistant the class needn't have.
const imagined = "\x00assistant"

// Tree shows what is under a node of the class's room and packed handouts as it
// should be, as somebody would see it: staff, an assistant, or the student of a
// row. under is a key as packing writes it, empty for the top; children are shown
// from from on. A name that isn't to be shown comes from the caller's cover.
func (c *Packing) Tree(ctx context.Context, class, eyes, under string, from int) (picture.Tree, error) {
	r, err := c.Reading(ctx, class)
	if err != nil {
		return picture.Tree{}, err
	}
	s := *r.Picture
	account := s.Owner()
	switch eyes {
	case StaffEyes, "":
	case AssistantEyes:
		s.Room.Staff = append(slices.Clone(s.Room.Staff), room.Staff{Account: imagined, Level: access.Comment})
		account = imagined
	default:
		st, ok := s.Student(eyes)
		if !ok {
			return picture.Tree{}, seam.ErrNotFound
		}
		account = st.Eyes()
	}
	parent := packing.Key{}
	if under != "" {
		if parent, err = packing.ParseKey(under); err != nil || parent.Class != class {
			return picture.Tree{}, seam.ErrNotFound
		}
	}
	return s.Tree(account, parent, from, c.Now()), nil
}

// Leftovers are what was made for places and pockets that the plan no longer has,
// and is where it was put.
func (c *Packing) Leftovers(ctx context.Context, class string) ([]picture.Leftover, error) {
	r, err := c.Reading(ctx, class) // the room's list was looked at just before
	if err != nil {
		return nil, err
	}
	return r.Leftovers(c.School().Zone), nil
}

// BinLeftover puts what there is of a place or pocket that the plan no longer has into
// the bin, as a run. things and inside are how much was looked at.
func (c *Packing) BinLeftover(ctx context.Context, by, class, id string, things, inside int) (ledger.Run, error) {
	if err := c.Observe(ctx, class, ""); err != nil {
		return ledger.Run{}, err
	}
	return c.discard(ctx, by, class, "place-binned", map[string]any{"place": id, "things": things, "inside": inside},
		func(_ *store.Store, s *picture.Picture, run *ledger.Run) ([]packing.Step, error) {
			kept := s.Leftovers(c.School().Zone)
			i := slices.IndexFunc(kept, func(k picture.Leftover) bool { return k.ID == id })
			if i < 0 {
				return nil, seam.ErrNotFound
			}
			if kept[i].Things != things || kept[i].Inside != inside {
				return nil, &change.Changed{Field: "list"}
			}
			run.Title = kept[i].Name
			var steps []packing.Step
			for _, e := range s.Unplanned() {
				if picture.PlaceID(e.Key) == id {
					steps = append(steps, s.Discarding(e))
				}
			}
			return steps, nil
		})
}

// discard makes a run of what steps says, with the class held. Where there is nothing to do
// that is refused, unless steps says that the change stands all the same: then there is no run.
func (c *Packing) discard(ctx context.Context, by, class, verb string, what any,
	steps func(*store.Store, *picture.Picture, *ledger.Run) ([]packing.Step, error)) (ledger.Run, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return ledger.Run{}, err
	}
	id, kept := store.NewID(), ""
	err = c.Store.Change(ctx, c.Act(ctx, by, verb, what, class), &kept, func(tx *store.Store) error {
		kept = ""
		s, err := c.Picture(ctx, tx, book, class)
		if err != nil {
			return err
		}
		run := ledger.Run{ID: id, ClassID: class, State: ledger.RunPacking, StartedBy: by, StartedAt: c.Now(), Kind: ledger.DiscardRun}
		todo, err := steps(tx, s, &run)
		if errors.Is(err, errNothing) {
			return nil
		}
		if err != nil {
			return err
		}
		if len(todo) == 0 {
			return change.Refuse("list", "nothing-to-pack")
		}
		kept = id
		return c.packer.Enqueue(ctx, tx, run, todo)
	})
	if err != nil || kept == "" {
		return ledger.Run{}, seam.NotFound(err)
	}
	return c.Store.Run(ctx, kept)
}

// errNothing ends what a run would have done where that is nothing; the change stands.
var errNothing = errors.New("usecase: nothing is to be done")

// TakingBack says what taking a run back would do: what the run made goes to the
// bin while nobody has begun.
func (c *Packing) TakingBack(ctx context.Context, class, run string) (picture.Backing, error) {
	r, err := runOf(ctx, c.Store, class, run)
	if err != nil {
		return picture.Backing{}, err
	}
	s, err := c.now(ctx, class, "")
	if err != nil {
		return picture.Backing{}, err
	}
	works, err := c.Store.Works(ctx, class)
	if err != nil {
		return picture.Backing{}, err
	}
	return s.TakingBack(r, works), nil
}

// TakeBack puts what a run made into the bin, as a run of its own, while nobody has
// begun with any of it. A handout whose copies all go is as it was before it was
// packed. seen is how many things were looked at.
func (c *Packing) TakeBack(ctx context.Context, by, class, run string, seen int) (ledger.Run, error) {
	r, err := runOf(ctx, c.Store, class, run)
	if err != nil {
		return ledger.Run{}, err
	}
	if err := c.Observe(ctx, class, ""); err != nil {
		return ledger.Run{}, err
	}
	return c.discard(ctx, by, class, "run-taken-back", map[string]any{"run": run, "things": seen},
		func(tx *store.Store, s *picture.Picture, next *ledger.Run) ([]packing.Step, error) {
			works, err := tx.Works(ctx, class)
			if err != nil {
				return nil, err
			}
			b := s.TakingBack(r, works)
			switch {
			case b.Held > 0:
				return nil, change.Refuse("list", "begun-already", "count", strconv.Itoa(b.Held))
			case len(b.Lines) != seen:
				return nil, &change.Changed{Field: "list"}
			}
			next.Title, next.HandoutID = r.Title, r.HandoutID
			var steps []packing.Step
			gone := map[string]bool{}
			seen := s.FilesIn()
			for _, l := range b.Lines {
				gone[l.Entry.Thing] = true
				step := s.Discarding(s.Entries[l.Entry.Key])
				if step.Change.Seen = seen[l.Entry.Thing]; step.Change.Seen == nil {
					step.Change.Seen = map[string]int{}
				}
				steps = append(steps, step)
			}
			if r.HandoutID == "" {
				return steps, nil
			}
			for k, e := range s.Entries {
				if k.What.Purpose == packing.Copy && k.What.ID == r.HandoutID && !gone[e.Thing] {
					return steps, nil
				}
			}
			return steps, tx.MarkUnpacked(ctx, r.HandoutID)
		})
}
