package pack

import (
	"context"
	"errors"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/wall"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// errNotNow says that a handout is packed already, or is to go out at another time.
var errNotNow = errors.New("usecase: it isn't to go out now")

// SendNow packs a handout whose time has come: what is to be packed is worked out
// now. send is the time it was asked for with: where another was set since, or it is
// packed already, nothing is done. What keeps it from being packed is kept with it,
// and its class says so.
func (c *Packing) SendNow(ctx context.Context, class, id, send string) error {
	h, err := c.Store.Handout(ctx, class, id)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err != nil || h.Packed() || wall.Written(h.Send) != send {
		return err
	}
	keeper, err := c.OwnerFor(ctx, h.SendBy, class)
	if err != nil {
		return err
	}
	book, err := c.Book(ctx)
	if err != nil {
		return err
	}
	if keeper == "" || book.Teacher(h.SendBy) != nil && book.Account(h.SendBy).Role != accounts.Office { // or switched off
		err = change.Refuse("send", "not-teaching")
	} else {
		ctx := seam.Asked(ctx, "send/"+id+"/"+send, nil)
		if h.Settings.Way == handout.NoticeName {
			_, err = c.post(ctx, h.SendBy, class, id, "", send)
		} else {
			_, err = c.Pack(ctx, h.SendBy, class, id, Part{send: send})
		}
	}
	if errors.Is(err, errNotNow) {
		return nil
	}
	var invalid *change.Invalid
	if !errors.As(err, &invalid) {
		return err // nil, or worth another try
	}
	why := &packing.Reason{Code: invalid.Code, Args: invalid.Args}
	act := c.Act(ctx, h.SendBy, "handout-not-sent", map[string]string{"handout": h.ID}, class)
	return seam.NotFound(c.Store.Change(ctx, act, nil, func(tx *store.Store) error {
		now, err := tx.Handout(ctx, class, id)
		if err != nil || now.Packed() || wall.Written(now.Send) != send {
			return err
		}
		now.SendProblem = why
		return tx.SaveHandout(ctx, now)
	}))
}
