package things

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/progress"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/document"
	"jollysatchel/internal/gate"
	"jollysatchel/internal/store"
	"jollysatchel/internal/store/kept"
	"jollysatchel/internal/usecase/seam"
)

// A Typed is a text as somebody wrote it, in a window, on a version of the copy.
type Typed struct {
	Draft string
	Base  int
	Text  string
}

// mostLate texts of one writer are kept beside a copy, of no more bytes than two texts may have.
const mostLate = 10

// WriteText is WriteTo of a text. What comes once its copy has closed is refused and kept beside the
// copy, where its writer and the class's staff see it.
func (c *Things) WriteText(ctx context.Context, account, key string, t cupboard.Thing, x Typed) (cupboard.Version, error) {
	v, err := c.WriteTo(ctx, account, key, t, x.Base, strings.NewReader(x.Text))
	var refused *change.Invalid
	if !errors.As(err, &refused) || refused.Code != closedCode && refused.Code != shutCode {
		return v, err
	}
	by, asked := c.actor(ctx, account, t)
	if asked == nil {
		asked = c.Store.PutLate(ctx, kept.Late{Thing: t.ID, Account: account, ClassID: by.home.Key.Class, Text: x.Text, At: c.Now(),
			Draft: x.Draft, Base: x.Base}, mostLate, 2*document.MaxText)
	}
	if errors.Is(asked, kept.ErrFull) {
		asked = change.TooMany("text", "too-many-late", mostLate)
	}
	if asked != nil {
		return v, asked
	}
	return v, err
}

// A Lately is what somebody wrote in a copy after it closed, with what it adds to the copy as it is now and
// takes away; nil where that isn't counted.
type Lately struct {
	kept.Late
	Change *progress.Change
}

// mostCounted late texts of one copy are compared with it.
const mostCounted = 10

// Late is what was written in a copy after it closed: to staff of its class all of it, to others what
// they wrote themselves.
func (c *Things) Late(ctx context.Context, account, id string) ([]Lately, error) {
	_, all, err := c.late(ctx, account, id)
	if err != nil || len(all) == 0 {
		return []Lately{}, err
	}
	now, err := c.plain(ctx, account, id, 0)
	out := make([]Lately, len(all))
	for i, l := range all {
		out[i].Late = l
		if now == nil || i >= mostCounted {
			continue
		}
		gate.Aside(func() {
			if then, err := document.Plain(l.Text); err == nil {
				ch := progress.Compare(*now, then)
				out[i].Change = &ch
			}
		})
	}
	return out, err
}

func (c *Things) late(ctx context.Context, account, id string) (acting, []kept.Late, error) {
	t, err := c.Get(ctx, account, id)
	if err != nil {
		return acting{}, nil, err
	}
	by, err := c.actor(ctx, account, t)
	if err != nil || by.home == nil {
		return by, nil, err
	}
	whose, err := c.lateOf(ctx, account, by)
	if err != nil {
		return by, nil, err
	}
	all, err := c.Store.LateOf(ctx, t.ID, whose)
	return by, all, err
}

// lateOf says whose late texts of a copy an account sees: all to staff of its class, which is nobody's by name, and
// its own to another.
func (c *Things) lateOf(ctx context.Context, account string, by acting) (whose string, err error) {
	if by.staff {
		return "", nil
	}
	staff, err := c.Store.Staff(ctx, by.home.Key.Class)
	if slices.ContainsFunc(staff, func(m classes.Member) bool { return m.Account == account }) {
		return "", err
	}
	return account, err
}

// countLate says how many late texts there are that the account sees: mostly none of anybody.
func (c *Things) countLate(ctx context.Context, account string, by acting, v *View) (err error) {
	if v.Late, err = c.Store.CountLate(ctx, v.ID, ""); err != nil || v.Late == 0 {
		return err
	}
	whose, err := c.lateOf(ctx, account, by)
	if err == nil && whose != "" {
		v.Late, err = c.Store.CountLate(ctx, v.ID, whose)
	}
	return err
}

// SettleLate takes what somebody wrote too late into the copy, whole, as a version of its own, or
// forgets it: staff do, and who wrote it, who takes it in only once the copy is open again. whose
// and at are of what was looked at: where more was written since, nothing is done. Asked by two at
// once it is taken in once.
func (c *Things) SettleLate(ctx context.Context, account, id, whose string, at time.Time, take bool) error {
	return c.Store.Alone(ctx, "late/"+id, func() error {
		by, all, err := c.late(ctx, account, id)
		if err != nil {
			return err
		}
		all = slices.DeleteFunc(all, func(l kept.Late) bool { return l.Account != whose })
		if len(all) == 0 || !by.staff && whose != account { // an assistant reads it
			return seam.ErrNotFound
		}
		i := slices.IndexFunc(all, func(l kept.Late) bool { return l.At.Equal(at) })
		if i < 0 {
			return &change.Changed{Field: "late"}
		}
		if take {
			if err := c.takeIn(ctx, account, by, all[i]); err != nil {
				return err
			}
		}
		err = c.Store.DropLate(ctx, id, whose, at)
		if take && errors.Is(err, store.ErrNotFound) {
			return nil // it is taken in; what came since waits by itself
		}
		return seam.NotFound(err)
	})
}

func (c *Things) takeIn(ctx context.Context, account string, by acting, l kept.Late) error {
	if !by.staff && l.Account != account {
		return seam.ErrNotFound
	}
	t, err := c.Get(ctx, account, l.Thing)
	if err != nil {
		return err
	}
	key := "late/" + l.Account + "/" + l.At.UTC().Format(time.RFC3339Nano)
	if _, err := c.WriteTo(ctx, account, key, t, t.Version, strings.NewReader(l.Text)); err != nil {
		if _, meanwhile := Conflict(err); meanwhile {
			return &change.Changed{Field: "late"}
		}
		return err
	}
	return c.arranged(ctx, account, "late-taken", 1, t.Name, by)
}
