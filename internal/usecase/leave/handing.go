package leave

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// A HandOver is what handing over to students would do.
type HandOver struct {
	Lines []picture.Handing
	Seen  string // tells it from what there is later
}

func handOver(s *picture.Picture, rows []string, handout string) HandOver {
	out := HandOver{Lines: s.Handings(rows, handout)}
	sum := sha256.New()
	for _, l := range out.Lines {
		thing := ""
		if l.Entry != nil {
			thing = l.Entry.Thing
		}
		fmt.Fprintln(sum, l.Row, thing, l.Things, l.Own, l.Why)
	}
	out.Seen = hex.EncodeToString(sum.Sum(nil)[:12])
	return out
}

// PreviewHandOver says what handing over to students of some rows would do, to all where none is named:
// all there is of each, or their copies of one handout.
func (c *Leaving) PreviewHandOver(ctx context.Context, class string, rows []string, handout string) (HandOver, error) {
	if err := c.Observe(ctx, class, ""); err != nil {
		return HandOver{}, err
	}
	s, err := c.PictureNow(ctx, class)
	if err != nil {
		return HandOver{}, err
	}
	if _, ok := s.Handout(handout); handout != "" && !ok {
		return HandOver{}, seam.ErrNotFound
	}
	return handOver(s, rows, handout), nil
}

// HandOver makes students the owners of what was looked at; staff go on reaching it, or don't. Nothing
// of the class is done with it any more.
func (c *Leaving) HandOver(ctx context.Context, by, class string, rows []string, handout string, staff bool,
	seen string) (ledger.Run, error) {
	if err := c.Observe(ctx, class, ""); err != nil {
		return ledger.Run{}, err
	}
	book, err := c.Book(ctx)
	if err != nil {
		return ledger.Run{}, err
	}
	id := store.NewID()
	args := map[string]any{"run": id, "handout": handout, "staff": staff}
	err = c.Store.Change(ctx, c.Act(ctx, by, "handed-over", args, class), &id, func(tx *store.Store) error {
		s, err := c.Picture(ctx, tx, book, class)
		if err != nil {
			return err
		}
		h, ok := s.Handout(handout)
		if handout != "" && !ok {
			return seam.ErrNotFound
		}
		look := handOver(s, rows, handout)
		if look.Seen != seen {
			return &change.Changed{Field: "list"}
		}
		run := ledger.Run{ID: id, ClassID: class, HandoutID: h.ID, Title: h.Title, State: ledger.RunPacking, StartedBy: by,
			StartedAt: c.Now(), Kind: ledger.DiscardRun}
		if handout == "" {
			run.Title = s.Name
		}
		var steps []packing.Step
		of := s.ByRow()
		for _, l := range look.Lines {
			if st, there := s.Student(l.Row); l.Why == nil && there {
				steps = append(steps, s.HandingOver(l.Entry, of[l.Row], st.Account, !staff))
			}
		}
		args["things"] = len(steps)
		if len(steps) == 0 {
			return change.Refuse("rows", "nothing-to-hand-over")
		}
		return c.packer.Enqueue(ctx, tx, run, steps)
	})
	if err != nil {
		return ledger.Run{}, seam.NotFound(err)
	}
	return c.Store.Run(ctx, id)
}
