package things

import (
	"context"
	"errors"
	"io"
	"slices"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// What says that a copy has closed, or the place that a thing is in.
const (
	closedCode = "copy-closed"
	shutCode   = "place-closed"
)

// closing is from when on a copy of a handout is closed to an account; nil where it stays open. A
// student's copy closes as that student's does, to anyone else who may write in it; one for several
// closes to each as for that row, and to staff as for all. Staff are told and write on.
func (c *Things) closing(ctx context.Context, account string, by acting, t cupboard.Thing, h handout.Handout) (*handout.Closing, error) {
	e := by.home
	if e == nil || e.Key.What.Purpose != packing.Copy || e.HandedTo != "" { // what is the student's own doesn't close
		return nil, nil
	}
	row := e.Key.Whom.Row
	if row == "" && !by.staff {
		rows, err := c.Store.RowsOf(ctx, account)
		if err != nil {
			return nil, err
		}
		for _, r := range rows {
			if r.ClassID == e.Key.Class && !r.Gone {
				row = r.ID
			}
		}
	}
	closing, ok := h.Closes(row)
	if !ok { // as mostly: nothing more is asked
		return nil, nil
	}
	if !by.itsOwn(t.ID) {
		return nil, nil
	}
	return &closing, nil
}

// above are the entries of the ledger that a thing and the folders above it have, innermost first.
func (c *Things) above(ctx context.Context, t cupboard.Thing) (out []ledger.Entry, err error) {
	ids := []string{t.ID}
	for i := len(t.Path) - 1; i >= 0; i-- {
		ids = append(ids, t.Path[i].ID)
	}
	entries, err := c.Store.EntriesByThing(ctx, ids)
	for _, id := range ids {
		if e, ok := entries[id]; ok {
			out = append(out, e)
		}
	}
	return out, err
}

// placeShut is the hand by which a place is closed that a thing is or lies in, of what lies above it; nil where none
// is. Its class's staff are told and write on: spared says that the account is of these.
func (c *Things) placeShut(ctx context.Context, account string, above []ledger.Entry) (closing *handout.Closing, spared bool, err error) {
	known := map[string]classes.Class{}
	for _, e := range above {
		if e.HandedTo != "" {
			return nil, false, nil // it is its student's own, with what is in it
		}
		cl, ok := known[e.Key.Class]
		if !ok {
			if cl, err = c.Store.Class(ctx, e.Key.Class); err != nil {
				return nil, false, err
			}
			known[cl.ID] = cl
		}
		if hand, down := cl.Shut(e.Key); down {
			keeper, err := c.OwnerFor(ctx, account, cl.ID)
			return &handout.Closing{At: hand.At, By: hand.By}, keeper != "", err
		}
	}
	return nil, false, nil
}

// itsOwn reports whether a copy is among its class's things: one that came along to another class is that class's
// now, whatever the former says.
func (a acting) itsOwn(thing string) bool {
	i := slices.IndexFunc(a.above, func(in ledger.Entry) bool { return in.Thing != thing })
	return i < 0 || a.above[i].Key.Class == a.home.Key.Class
}

// ofHandout says of a thing of a handout which that is, and when it closes for the account.
func (c *Things) ofHandout(ctx context.Context, account string, by acting, v *View) error {
	of := by.home.Key.Handout()
	if of == "" {
		return nil
	}
	h, err := c.Store.Handout(ctx, by.home.Key.Class, of)
	if err != nil {
		return err
	}
	v.Handout, v.Row = &h, by.home.Key.Whom.Row
	v.Closing, err = c.closing(ctx, account, by, v.Thing, h)
	return err
}

// closed says of a thing what came after it closed, and whether it, or the place it is in, is closed to
// the account now.
func (c *Things) closed(ctx context.Context, account string, by acting, v *View) error {
	if v.Kind == cupboard.File {
		if err := c.countLate(ctx, account, by, v); err != nil {
			return err
		}
	}
	closed, err := c.hasClosed(ctx, v.Closing)
	if err != nil {
		return err
	}
	staff := by.staff
	if !closed {
		place, spared, err := c.placeShut(ctx, account, by.above)
		if err != nil {
			return err
		}
		if place != nil {
			v.Closing, staff, closed = place, spared, true
		}
	}
	if closed && !staff {
		v.Level, v.Arrange = min(v.Level, access.Read), map[string]Arranging{}
	}
	if closed || v.Thing.Closed == nil || v.Level > access.Read {
		return nil
	}
	if err := c.lifted(ctx, account, v.Thing, cupboard.ErrNoRight); errors.Is(err, cupboard.ErrNoRight) {
		return nil // it is closed by other than us, or to be read alone
	} else if err != nil {
		return err
	}
	again, err := c.cup.Get(ctx, account, v.ID)
	v.Level = again.Level
	return seam.NotFound(err)
}

// hasClosed reports whether what closes at some time, if it does, has.
func (c *Things) hasClosed(ctx context.Context, closing *handout.Closing) (bool, error) {
	if closing == nil {
		return false, nil
	}
	return c.Closed(ctx, *closing)
}

// closedTo is a refusal of what can't be done with what has closed.
func (c *Things) closedTo(closing *handout.Closing, code string) error {
	return change.Refuse("text", code, "when", closing.At.In(c.School().Zone).Format("Mon 2 Jan, 15:04"))
}

// unshut refuses what an account can't do in a place that is closed, of what lies above a thing.
func (c *Things) unshut(ctx context.Context, account string, above []ledger.Entry) error {
	place, spared, err := c.placeShut(ctx, account, above)
	if err == nil && place != nil && !spared {
		err = c.closedTo(place, shutCode)
	}
	return err
}

// open refuses what an account can't do with a thing that has closed, or whose place has.
func (c *Things) open(ctx context.Context, account string, by acting, t cupboard.Thing) error {
	e := by.home
	if e == nil {
		return nil
	}
	if err := c.unshut(ctx, account, by.above); err != nil || by.staff || e.Key.What.Purpose != packing.Copy {
		return err
	}
	h, err := c.Store.Handout(ctx, e.Key.Class, e.Key.What.ID)
	if errors.Is(err, store.ErrNotFound) {
		return nil // nothing is said of it any more
	}
	if err != nil {
		return err
	}
	closing, err := c.closing(ctx, account, by, t, h)
	if err != nil {
		return err
	}
	closed, err := c.hasClosed(ctx, closing)
	if err == nil && closed {
		err = c.closedTo(closing, closedCode)
	}
	return err
}

// roomIn refuses to have something put into a folder, unless the account may, and it isn't closed.
func (c *Things) roomIn(ctx context.Context, account string, folder *cupboard.Thing) error {
	above, err := c.above(ctx, *folder)
	if err == nil {
		err = c.unshut(ctx, account, above)
	}
	if err != nil {
		return err
	}
	if folder.Level >= access.Edit {
		return nil
	}
	if err := c.lifted(ctx, account, *folder, cupboard.ErrNoRight); err != nil {
		return err
	}
	now, err := c.cup.Get(ctx, account, folder.ID)
	if *folder = now; err == nil && now.Level < access.Edit {
		err = cupboard.ErrNoRight
	}
	return seam.NotFound(err)
}

// whileOpen is a content that is refused where its copy has closed once all of it is there, by our
// own clock: what began before and ends after comes too late, and what was answered before is
// answered again, since it isn't read.
func (c *Things) whileOpen(ctx context.Context, account string, t cupboard.Thing, content io.Reader) io.Reader {
	return &closingReader{content, func() error {
		by, err := c.actor(ctx, account, t)
		if err != nil {
			return err
		}
		return c.open(ctx, account, by, t)
	}}
}

type closingReader struct {
	r    io.Reader
	open func() error
}

func (r *closingReader) Read(p []byte) (int, error) {
	n, err := r.r.Read(p)
	if err == io.EOF {
		if closed := r.open(); closed != nil {
			return 0, closed
		}
	}
	return n, err
}

// lifted says why a thing that the cupboard refuses to have written in is closed. Where it is open by now
// and the cupboard wasn't told yet, it is told: a nil error is that it can be written in.
func (c *Things) lifted(ctx context.Context, account string, t cupboard.Thing, refused error) error {
	if t.Closed == nil {
		return refused
	}
	by, err := c.actor(ctx, account, t)
	if err != nil {
		return err
	}
	if err := c.open(ctx, account, by, t); err != nil {
		return err
	}
	for _, e := range by.above {
		if !e.Mark.Holds(account, c.Now()) {
			continue
		}
		its, err := c.lift(ctx, t, e)
		if err != nil {
			return err
		}
		if its {
			refused = nil
		}
	}
	return refused
}

// lift takes a mark of ours off a thing, or a folder above it; its reports that it was there. One that isn't
// ours is for staff to lift.
func (c *Things) lift(ctx context.Context, t cupboard.Thing, e ledger.Entry) (its bool, err error) {
	keeper, err := c.Store.OwnerOfThings(ctx, e.Key.Class)
	if err != nil {
		return false, err
	}
	states, err := c.cup.States(ctx, keeper, []string{e.Thing})
	is := states[e.Thing].Closed
	if e.Thing == t.ID && is == nil { // it may be another class's by now, or its student's own
		is = t.Closed
	}
	if err != nil || !access.SameMark(is, e.Mark) {
		return false, seam.NotFound(err)
	}
	err = c.cup.Reopen(ctx, keeper, "lift/"+store.NewID(), e.Thing)
	if e.Thing == t.ID && (errors.Is(err, cupboard.ErrNoRight) || errors.Is(err, cupboard.ErrNotFound)) {
		err = c.cup.Reopen(ctx, t.Owner, "lift/"+store.NewID(), e.Thing)
	}
	return true, seam.NotFound(err)
}
