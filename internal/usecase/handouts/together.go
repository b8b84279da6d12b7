package handouts

import (
	"context"
	"errors"
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// mostTogether is how many classes one handout can be for.
const mostTogether = 20

// A Partner is the handout of another class that one of a class is one with.
type Partner struct {
	handout.Partner
	Yours bool // the account that asks teaches that class
}

// Partners returns the partners of a class's handouts, or of one of them.
func (c *Handouts) Partners(ctx context.Context, by, class, handout string) ([]Partner, error) {
	found, err := c.Store.Partners(ctx, class, handout)
	if err != nil || len(found) == 0 {
		return nil, err
	}
	mine, err := c.Store.Taught(ctx, by)
	out := make([]Partner, len(found))
	for i, p := range found {
		out[i] = Partner{p, slices.ContainsFunc(mine, func(cl classes.Class) bool { return cl.ID == p.ClassID })}
	}
	return out, err
}

// around is what a change of a handout asks about its class and those of the others it is one
// with, which it reads: names can have the columns of all, and a new document's slot is above
// all there are.
func (c *Handouts) around(ctx context.Context, tx *store.Store, book *seam.Known, cl picture.Class,
	others []handout.Handout) (handout.Setting, []picture.Class, error) {
	at := handout.Setting{Plan: cl.Plan, Students: cl.Choosable(), Known: cl.Vocabulary(), Now: c.Now()}
	cs := make([]picture.Class, len(others))
	for i, o := range others {
		var err error
		if cs[i], err = c.ReadClass(ctx, tx, book, o.ClassID); err != nil {
			return at, nil, err
		}
		for _, d := range o.Settings.Documents {
			at.Slots = max(at.Slots, d.Slot)
		}
	}
	if len(cs) > 0 {
		at.Known = picture.VocabularyOf(append(cs, cl)...)
	}
	return at, cs, nil
}

// follow gives the handout of another class what it has in common with h, whose class has the
// plan, where the account teaches that class; timed says that h's time to be sent is new.
func (c *Handouts) follow(ctx context.Context, tx *store.Store, by string, h handout.Handout, plan room.Plan,
	cl picture.Class, o handout.Handout, timed bool) error {
	timed = timed && !o.Fixed()
	next := handout.Alike(h, o, plan, cl.Plan)
	if timed {
		next.Send, next.SendBy, next.SendProblem = h.Send, h.SendBy, nil
	}
	if handout.Same(o, next) {
		return nil
	}
	if mine, err := seam.Teaches(ctx, tx, by, o.ClassID); err != nil {
		return err
	} else if !mine {
		return change.Refuse("together", "not-your-class", "class", cl.Name)
	}
	if err := o.Becomes(next, cl.Name, cl.Choosable()); err != nil {
		return err
	}
	if next.Settings.Way == handout.TeamName {
		if err := c.AddTeams(ctx, tx, cl, cl.Plan, next.Settings.Teams); err != nil {
			return err
		}
	}
	next.ChangedAt = h.ChangedAt
	return c.keep(ctx, tx, next, timed)
}

// AlsoFor makes a handout one for another class that the account teaches, too: for all of
// it or, picked, for those alone who are ticked then. It returns that class's handout.
func (c *Handouts) AlsoFor(ctx context.Context, by, class, id, to string, picked bool) (string, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return "", err
	}
	made := store.NewID()
	args := map[string]string{"handout": id}
	act := c.Act(ctx, by, "handout-also-for", args, class, to)
	err = c.Store.Change(ctx, act, &made, func(tx *store.Store) error {
		if mine, err := seam.Teaches(ctx, tx, by, to); err != nil || !mine {
			return errors.Join(err, seam.ErrNotFound)
		}
		h, err := tx.Handout(ctx, class, id)
		if err != nil {
			return err
		}
		args["title"] = h.Title
		if err := joins(ctx, tx, &h, to); err != nil {
			return err
		}
		from, err := tx.Class(ctx, class)
		if err != nil {
			return err
		}
		cl, err := c.ReadClass(ctx, tx, book, to)
		if err != nil {
			return err
		}
		now := c.Now()
		next := handout.Alike(h, handout.Handout{ID: made, ClassID: to, Together: h.Together, CreatedAt: now, ChangedAt: now}, from.Plan, cl.Plan)
		next.Settings.Out, next.Settings.Choice = map[string]string{}, choosing.Choice{Picked: picked}
		if at, timed := h.SendAt(); timed && at.After(now) {
			next.Send, next.SendBy = h.Send, by
		}
		if err := (handout.Handout{}).Becomes(next, cl.Name, cl.Choosable()); err != nil {
			return err
		}
		if next.Settings.Way == handout.TeamName {
			if err := c.AddTeams(ctx, tx, cl, cl.Plan, next.Settings.Teams); err != nil {
				return err
			}
		}
		if err := begin(ctx, tx, next); err != nil || next.Send.IsZero() {
			return err
		}
		return c.sendAt(ctx, tx, next)
	})
	return made, seam.NotFound(err)
}

// joins makes a handout one that is for several classes, another of them to.
func joins(ctx context.Context, tx *store.Store, h *handout.Handout, to string) error {
	others, err := tx.Together(ctx, *h)
	switch {
	case err != nil:
		return err
	case h.Withdrawn():
		return change.Refuse("handout", "withdrawn")
	case to == h.ClassID || slices.ContainsFunc(others, func(o handout.Handout) bool { return o.ClassID == to }):
		return change.Refuse("to", "for-it-already")
	case len(others)+2 > mostTogether:
		return change.TooMany("to", "too-many-classes", mostTogether)
	case h.Together != "":
		return nil
	}
	h.Together = store.NewID()
	return tx.SetTogether(ctx, h.ID, h.Together)
}

// NotFor takes a class that the account teaches out of those a handout is for: what
// wasn't packed there is removed; what was stays, as a handout of its own.
func (c *Handouts) NotFor(ctx context.Context, by, class, id, other string) error {
	args := map[string]string{"handout": id}
	return seam.NotFound(c.Together(ctx, c.Act(ctx, by, "handout-not-for", args, class), nil, id, true,
		func(tx *store.Store, h handout.Handout, others []handout.Handout) error {
			args["title"] = h.Title
			if other == class {
				return tx.SetTogether(ctx, id, "")
			}
			i := slices.IndexFunc(others, func(o handout.Handout) bool { return o.ClassID == other })
			if i < 0 {
				return seam.ErrNotFound
			}
			if mine, err := seam.Teaches(ctx, tx, by, other); err != nil || !mine {
				return errors.Join(err, seam.ErrNotFound)
			}
			if others[i].Fixed() {
				return tx.SetTogether(ctx, others[i].ID, "")
			}
			return tx.DeleteHandout(ctx, other, others[i].ID)
		}))
}
