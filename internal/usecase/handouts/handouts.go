package handouts

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"io"
	"slices"
	"strings"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/wall"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// How many of a thing there may be.
const (
	mostHandouts  = 1000 // of a class
	mostHeadings  = 100  // of a class
	mostTemplates = 2000 // of one account
)

// AddTemplate keeps a document as one of the account's templates. It is at
// the top of the account's own things, shared with nobody.
func (c *Handouts) AddTemplate(ctx context.Context, account, name, mediaType string, content io.Reader) (handout.Template, error) {
	ending := naming.Ending(name)
	stem := strings.TrimSuffix(strings.TrimSpace(name), ending)
	if naming.Tidy(stem) == "" {
		return handout.Template{}, change.Refuse("name", "missing")
	}
	name = naming.Safe(stem, ending)
	if n, err := c.Store.CountTemplates(ctx, account); err != nil {
		return handout.Template{}, err
	} else if n >= mostTemplates {
		return handout.Template{}, change.TooMany("file", "too-many-templates", mostTemplates)
	}
	t := handout.Template{ID: store.NewID(), Account: account, Name: name, MediaType: mediaType, CreatedAt: c.Now()}
	act := c.Act(ctx, account, "template-added", map[string]string{"name": name})
	key := "template/" + t.ID
	if act.Key != "" {
		key = "template/" + account + "/" + act.Key
	}
	sum := sha256.New()
	file := io.TeeReader(content, sum)
	th, err := c.cup.AddFile(ctx, account, key, cupboard.NewThing{Name: name, MediaType: mediaType, StandsAlone: true}, file)
	if err != nil {
		return handout.Template{}, err
	}
	if _, err := io.Copy(io.Discard, file); err != nil {
		return handout.Template{}, err
	}
	t.Thing, act.Content = th.ID, name+" "+hex.EncodeToString(sum.Sum(nil))
	id := t.ID
	if err := c.Store.Change(ctx, act, &id, func(tx *store.Store) error { return tx.InsertTemplate(ctx, t) }); err != nil {
		return handout.Template{}, err
	}
	return c.Store.Template(ctx, id)
}

// TemplateFor returns a template if the account may hand it out.
func (c *Handouts) TemplateFor(ctx context.Context, account, id string) (handout.Template, error) {
	t, err := c.Store.Template(ctx, id)
	if err == nil && (t.Account != account || t.Removed) {
		err = seam.ErrNotFound
	}
	return t, seam.NotFound(err)
}

// RenameTemplate gives one of the account's templates another name; its ending stays.
func (c *Handouts) RenameTemplate(ctx context.Context, account, key, id, name string) error {
	t, err := c.TemplateFor(ctx, account, id)
	if err != nil {
		return err
	}
	if naming.Tidy(name) == "" {
		return change.Refuse("name", "missing")
	}
	if len(name) > naming.MostName {
		return change.TooLong("name", naming.MostName)
	}
	ending := naming.Ending(t.Name)
	to := naming.Safe(strings.TrimSuffix(naming.Tidy(name), ending), ending)
	if err := c.cup.Rename(ctx, account, "template/"+account+"/"+key, t.Thing, to); err != nil {
		return seam.NotFound(err)
	}
	act := c.Act(ctx, account, "template-renamed", map[string]string{"name": to})
	return seam.NotFound(c.Store.Change(ctx, act, nil, func(tx *store.Store) error { return tx.RenameTemplate(ctx, id, to) }))
}

// RemoveTemplate takes one of the account's templates off their list. Its document goes
// to the bin, unless a handout gives it: who comes later gets it, too.
func (c *Handouts) RemoveTemplate(ctx context.Context, account, key, id string) error {
	t, err := c.TemplateFor(ctx, account, id)
	if err != nil {
		return err
	}
	used := false
	act := c.Act(ctx, account, "template-removed", map[string]string{"name": t.Name})
	err = c.Store.Change(ctx, act, &used, func(tx *store.Store) (err error) {
		used, err = tx.RemoveTemplate(ctx, id, c.Now())
		return err
	})
	if err != nil || used {
		return seam.NotFound(err)
	}
	if err := seam.NotFound(c.cup.Bin(ctx, account, "template/"+account+"/"+key, t.Thing, nil)); err != nil && err != seam.ErrNotFound {
		return err
	}
	return nil
}

// TemplatesOf are the templates a handout gives, by id.
func (c *Handouts) TemplatesOf(ctx context.Context, h handout.Handout) (map[string]handout.Template, error) {
	return seam.DocumentsFor(ctx, c.Store, h.Settings.Documents)
}

// NewHandout begins a handout as the class's last one was, of one of the account's templates or of none yet. It
// isn't packed before Pack is asked for.
func (c *Handouts) NewHandout(ctx context.Context, by, class, template string) (handout.Handout, error) {
	now := c.Now()
	h := handout.Handout{ID: store.NewID(), ClassID: class, Zone: c.School().Zone.String(), CreatedAt: now, ChangedAt: now}
	h.Settings = handout.Usual(handout.EachName)
	if template != "" {
		t, err := c.TemplateFor(ctx, by, template)
		if err != nil {
			return h, err
		}
		h.Settings.Documents = []handout.GivenDocument{{Slot: 1, Template: t.ID}}
		h.Title = t.Title()
	}
	book, err := c.Book(ctx)
	if err != nil {
		return h, err
	}
	return c.begun(ctx, by, h, func(tx *store.Store, h *handout.Handout) error {
		return c.likeLast(ctx, tx, book, h)
	})
}

// Last is the handout as which one that isn't packed yet begins; ok is false where there is none.
func (c *Handouts) Last(ctx context.Context, class string) (last handout.Handout, ok bool, err error) {
	lately, err := c.Store.PackedLately(ctx, class, 1)
	if err != nil || len(lately) == 0 {
		return last, false, err
	}
	return lately[0], true, nil
}

// likeLast has a handout that is new begin as the last of its class was, and be due by the class's habit; the first of
// a class begins as usual.
func (c *Handouts) likeLast(ctx context.Context, tx *store.Store, book *seam.Known, h *handout.Handout) error {
	cl, err := c.ReadClass(ctx, tx, book, h.ClassID)
	if err != nil {
		return err
	}
	lately, err := tx.PackedLately(ctx, h.ClassID, handout.Lately)
	if err != nil {
		return err
	}
	if len(lately) == 0 {
		latest, err := tx.LatestPocket(ctx, h.ClassID)
		h.Settings.Pocket = cl.Plan.UsualPocket(latest)
		return err
	}
	documents := h.Settings.Documents
	h.Settings = lately[0].Settings.Next(cl.Plan, cl.Vocabulary())
	h.Settings.Documents = documents
	h.Due = handout.Habit(lately, wall.At(c.Now(), h.Zone))
	if h.Settings.Way == handout.TeamName {
		return c.AddTeams(ctx, tx, cl, cl.Plan, h.Settings.Teams)
	}
	return nil
}

// begun keeps a handout that is new, once prepare has looked at its class.
func (c *Handouts) begun(ctx context.Context, by string, h handout.Handout,
	prepare func(*store.Store, *handout.Handout) error) (handout.Handout, error) {
	id := h.ID
	act := c.Act(ctx, by, "handout-begun", map[string]string{"handout": h.ID, "title": h.Title}, h.ClassID)
	err := c.Store.Change(ctx, act, &id, func(tx *store.Store) error {
		if err := prepare(tx, &h); err != nil {
			return err
		}
		return begin(ctx, tx, h)
	})
	if err != nil {
		return h, seam.NotFound(err)
	}
	h, err = c.Store.Handout(ctx, h.ClassID, id)
	return h, seam.NotFound(err)
}

// NewNotice begins a notice for the class, or for some of its students alone.
func (c *Handouts) NewNotice(ctx context.Context, by, class string, only []string) (handout.Handout, error) {
	now := c.Now()
	h := handout.Handout{ID: store.NewID(), ClassID: class, Zone: c.School().Zone.String(), CreatedAt: now, ChangedAt: now}
	h.Settings = handout.Usual(handout.NoticeName)
	if len(only) > 0 {
		h.Settings.Choice = choosing.Choice{Picked: true, Ticked: map[string]bool{}}
		for _, row := range only {
			h.Settings.Choice.Ticked[row] = true
		}
	}
	return c.begun(ctx, by, h, func(tx *store.Store, _ *handout.Handout) error {
		rows, err := tx.Rows(ctx, class)
		if err != nil {
			return err
		}
		there := make(map[string]bool, len(rows))
		for _, r := range rows {
			there[r.ID] = true
		}
		if slices.ContainsFunc(only, func(row string) bool { return !there[row] }) {
			return change.Refuse("out", "no-such-student")
		}
		return nil
	})
}

// DeleteHandout removes a handout that was never packed, in all classes of the
// account's where it wasn't.
func (c *Handouts) DeleteHandout(ctx context.Context, by, class, id string) error {
	args := map[string]string{"handout": id}
	return seam.NotFound(c.Together(ctx, c.Act(ctx, by, "handout-removed", args, class), nil, id, true,
		func(tx *store.Store, h handout.Handout, others []handout.Handout) error {
			args["title"] = h.Title
			for _, o := range others {
				if mine, err := seam.Teaches(ctx, tx, by, o.ClassID); err != nil {
					return err
				} else if mine && !o.Fixed() {
					if err := tx.DeleteHandout(ctx, o.ClassID, o.ID); err != nil {
						return err
					}
				}
			}
			return tx.DeleteHandout(ctx, class, id)
		}))
}

// ChangeHandout applies a change to the handout as it is now and keeps it at
// once: changes of different parts all stand, no matter who makes them. was holds, of
// what changes, the values that were looked at: where somebody changed one
// since, both values are told and nothing is written. What is packed keeps its way
// and its documents, to which more can come; the message is read as it is now.
func (c *Handouts) ChangeHandout(ctx context.Context, by, class, id string, ch, was handout.Change) (handout.Handout, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return handout.Handout{}, err
	}
	var h handout.Handout
	args := map[string]any{"handout": id, "change": ch}
	err = c.Together(ctx, c.Act(ctx, by, "handout-changed", args, class), nil, id, ch.Common(),
		func(tx *store.Store, now handout.Handout, others []handout.Handout) error {
			cl, err := c.ReadClass(ctx, tx, book, class)
			if err != nil {
				return err
			}
			at, all, err := c.around(ctx, tx, book, cl, others)
			if err != nil {
				return err
			}
			at.By = by
			if ch.Documents != nil {
				if at.Templates, err = seam.DocumentsFor(ctx, tx, *ch.Documents); err != nil {
					return err
				}
			}
			if h, err = (handout.Edit{To: ch, Was: was}).Of(now, at); err != nil {
				return err
			}
			before, err := now.Says()
			if err != nil {
				return err
			}
			if after, err := h.Says(); err != nil || after == before {
				return cmp.Or(err, store.ErrUnchanged)
			}
			if h.Settings.Way == handout.TeamName {
				if err := c.AddTeams(ctx, tx, cl, cl.Plan, h.Settings.Teams); err != nil {
					return err
				}
			}
			h.ChangedAt, args["title"] = c.Now(), h.Title
			told := handout.Told(now, h, cl.Plan, cl.NameOf)
			if len(others) > 0 { // it is in their logs, too
				told = handout.Shared(told)
			}
			args["things"], args["told"] = len(told), told[:min(len(told), change.MostTold)]
			for i := range others {
				if err := c.follow(ctx, tx, by, h, cl.Plan, all[i], others[i], ch.Send != nil); err != nil {
					return err
				}
				if err := c.dueElsewhere(ctx, tx, book, by, others[i]); err != nil {
					return err
				}
			}
			if err := c.keep(ctx, tx, h, ch.Send != nil); err != nil {
				return err
			}
			return c.toldOfDue(ctx, tx, book, by, now, h)
		})
	return h, seam.NotFound(err)
}

// dueElsewhere is toldOfDue in another class that a handout is for, once it follows.
func (c *Handouts) dueElsewhere(ctx context.Context, tx *store.Store, book *seam.Known, by string, before handout.Handout) error {
	h, err := tx.Handout(ctx, before.ClassID, before.ID)
	if err != nil {
		return err
	}
	return c.toldOfDue(ctx, tx, book, by, before, h)
}

// keep keeps a handout, and has it sent where a time for that was set.
func (c *Handouts) keep(ctx context.Context, tx *store.Store, h handout.Handout, timed bool) error {
	if err := tx.SaveHandout(ctx, h); err != nil || !timed || h.Send.IsZero() {
		return err
	}
	return c.sendAt(ctx, tx, h)
}

// sendAt has a handout sent at its time.
func (c *Handouts) sendAt(ctx context.Context, tx *store.Store, h handout.Handout) error {
	at, _ := h.SendAt()
	return c.sending.SendAt(ctx, tx, h, at)
}

// Handout returns a handout of a class.
func (c *Handouts) Handout(ctx context.Context, class, id string) (handout.Handout, error) {
	h, err := c.Store.Handout(ctx, class, id)
	return h, seam.NotFound(err)
}

// Template returns a template that is used in a handout.
func (c *Handouts) Template(ctx context.Context, id string) (handout.Template, error) {
	t, err := c.Store.Template(ctx, id)
	return t, seam.NotFound(err)
}

// Templates returns an account's templates, newest first.
func (c *Handouts) Templates(ctx context.Context, account string) ([]handout.Template, error) {
	return c.Store.Templates(ctx, account)
}

// A Sending has a handout packed at its time.
type Sending interface {
	// SendAt has SendNow called with the handout as it is, at a moment, once tx is
	// committed.
	SendAt(ctx context.Context, tx *store.Store, h handout.Handout, at time.Time) error
}

// Handouts are what is handed out, and the templates for it.
type Handouts struct {
	*seam.House
	cup     cupboard.Cupboard
	sending Sending
}

// NewHandouts builds them of what they stand on.
func New(h *seam.House, cup cupboard.Cupboard, sending Sending) *Handouts {
	return &Handouts{House: h, cup: cup, sending: sending}
}
