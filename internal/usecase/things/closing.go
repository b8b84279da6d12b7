package things

import (
	"context"
	"errors"
	"io"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// closedCode says that a copy has closed.
const closedCode = "copy-closed"

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
	if its, err := c.itsOwn(ctx, e.Key.Class, t); err != nil || !its {
		return nil, err
	}
	return &closing, nil
}

// itsOwn reports whether a copy of a class is among its things: one that came along to another class
// is that class's now, whatever the former says.
func (c *Things) itsOwn(ctx context.Context, class string, t cupboard.Thing) (bool, error) {
	var above []string
	for _, crumb := range t.Path {
		above = append(above, crumb.ID)
	}
	entries, err := c.Store.EntriesByThing(ctx, above)
	for i := len(above) - 1; i >= 0; i-- {
		if in, ok := entries[above[i]]; ok {
			return in.Key.Class == class, err
		}
	}
	return true, err
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
	v.Handout = &h
	late, err := c.lateFor(ctx, account, by, v.ID)
	if err != nil {
		return err
	}
	v.Late = len(late)
	if v.Closing, err = c.closing(ctx, account, by, v.Thing, h); err != nil {
		return err
	}
	closed := v.Closing != nil && v.Closing.Closed(c.Now())
	if closed && !by.staff && v.Level >= access.Edit {
		v.Level = access.Read
	}
	if closed || v.Thing.Closed == nil || !v.Thing.Closed.Holds(account, c.Now()) {
		return nil
	}
	if err := c.lifted(ctx, account, v.Thing, cupboard.ErrNoRight); errors.Is(err, cupboard.ErrNoRight) {
		return nil // it is closed by other than us
	} else if err != nil {
		return err
	}
	now, err := c.cup.Get(ctx, account, v.ID)
	v.Level = now.Level
	return seam.NotFound(err)
}

// open refuses what an account can't do with a copy that has closed.
func (c *Things) open(ctx context.Context, account string, by acting, t cupboard.Thing) error {
	e := by.home
	if by.staff || e == nil || e.Key.What.Purpose != packing.Copy {
		return nil
	}
	h, err := c.Store.Handout(ctx, e.Key.Class, e.Key.What.ID)
	if errors.Is(err, store.ErrNotFound) {
		return nil // nothing is said of it any more
	}
	if err != nil {
		return err
	}
	closing, err := c.closing(ctx, account, by, t, h)
	if err == nil && closing != nil && closing.Closed(c.Now()) {
		err = change.Refuse("text", closedCode, "when", closing.At.In(c.School().Zone).Format("Mon 2 Jan, 15:04"))
	}
	return err
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

// lifted says why a copy that the cupboard refuses to have written in is closed. Where it is open by now and
// the cupboard wasn't told yet, it is told: a nil error is that it can be written in.
func (c *Things) lifted(ctx context.Context, account string, t cupboard.Thing, refused error) error {
	if t.Closed == nil || !t.Closed.Holds(account, c.Now()) {
		return refused
	}
	by, err := c.actor(ctx, account, t)
	if err != nil {
		return err
	}
	if err := c.open(ctx, account, by, t); err != nil {
		return err
	}
	if by.home == nil || by.home.Thing != t.ID || !access.SameMark(t.Closed, by.home.Mark) {
		return refused // it isn't a mark of ours: that is for staff to lift
	}
	keeper, err := c.Store.OwnerOfThings(ctx, by.home.Key.Class)
	if err != nil {
		return err
	}
	// It may be another class's by now, or its student's own.
	err = c.cup.Reopen(ctx, keeper, "lift/"+store.NewID(), t.ID)
	if errors.Is(err, cupboard.ErrNoRight) || errors.Is(err, cupboard.ErrNotFound) {
		err = c.cup.Reopen(ctx, t.Owner, "lift/"+store.NewID(), t.ID)
	}
	return seam.NotFound(err)
}
