package registers

import (
	"context"
	"slices"
	"time"

	"golang.org/x/sync/errgroup"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/register"
	"jollysatchel/internal/store/kept"
	"jollysatchel/internal/usecase/seam"
)

// A Tab is a class as the rail shows it. Troubled says that it can't be read
// just now; then its name alone is known.
type Tab struct {
	classes.Class
	Staff    []accounts.Member
	Students int
	Notes    []register.Note
	Ready    bool // its room has been packed
	Troubled bool
	PutOff   int // notes that anyone who looks put off
}

// atOnce is how many classes are read at the same time for one who looks.
const atOnce = 4

// each does something with classes, a few at the same time. One that can't be read just now takes nothing along.
func (c *Registers) each(ctx context.Context, cs []classes.Class, do func(i int, cl classes.Class) error) error {
	var all errgroup.Group
	all.SetLimit(atOnce)
	for i, cl := range cs {
		all.Go(func() error {
			err := do(i, cl)
			if err != nil && ctx.Err() != nil {
				return ctx.Err()
			}
			if err != nil {
				c.Log.Warn("a class can't be read", "class", cl.ID, "error", err)
			}
			return nil
		})
	}
	return all.Wait()
}

// Rail returns the classes on whose staff an account is, all of them for an empty
// one, with what needs attention there and wasn't put off. One that can't be read takes
// nothing along; of one that didn't change nothing is worked out again.
func (c *Registers) Rail(ctx context.Context, account string) ([]Tab, error) {
	cs, err := c.Store.Classes(ctx, account)
	if err != nil {
		return nil, err
	}
	out, err := c.tabs(ctx, cs)
	if err != nil {
		return nil, err
	}
	return out, c.without(ctx, account, out)
}

// tabs are classes as the rail shows them.
func (c *Registers) tabs(ctx context.Context, cs []classes.Class) ([]Tab, error) {
	ids := make([]string, len(cs))
	for i, cl := range cs {
		ids[i] = cl.ID
	}
	known, err := c.Store.Tabs(ctx, ids)
	if err != nil {
		return nil, err
	}
	staff, err := c.Store.StaffOf(ctx, ids)
	if err != nil {
		return nil, err
	}
	book, err := c.Book(ctx)
	if err != nil {
		return nil, err
	}
	day := c.Now().In(c.School().Zone).Format(time.DateOnly)
	out := make([]Tab, len(cs))
	err = c.each(ctx, cs, func(i int, cl classes.Class) error {
		out[i] = Tab{Class: cl, Staff: book.Members(staff[cl.ID])}
		tag := seam.Tag{Revision: cl.Revision, Book: book.Revision, Day: day}
		if p := known[cl.ID]; p.Tag == tag.String() {
			out[i].take(p)
			return nil
		}
		p, err := c.tab(ctx, cl.ID, tag)
		if err != nil {
			out[i].Troubled = true
			return err
		}
		out[i].take(p)
		return nil
	})
	if err != nil {
		return nil, err
	}
	waits, err := c.Store.CountWaiting(ctx, ids)
	for i := range out {
		w := waits[out[i].ID]
		out[i].Notes = slices.Clone(out[i].Notes)
		out[i].note("list-waits", "", w.Lists)
		out[i].note("joiners-ask", "", w.Askers)
		out[i].note("satchels-asked", "", w.Satchels)
		out[i].note("messages-failed", "", w.Failed)
		out[i].note("late-texts", w.LateIn, w.Late)
		out[i].note("doors-differ", "", w.Doors)
		out[i].note("asked-to-look", "", w.Shown)
	}
	return out, err
}

// note adds what needs attention, if it concerns anything.
func (p *Tab) note(code, about string, n int) {
	if n > 0 {
		p.Notes = append(p.Notes, register.NoteOf(code, about, n, nil))
	}
}

func (p *Tab) take(of kept.Tab) { p.Students, p.Ready, p.Notes = of.Students, of.Ready, of.Notes }

// tab works out what the rail says of a class.
func (c *Registers) tab(ctx context.Context, class string, tag seam.Tag) (kept.Tab, error) {
	r, err := c.ReadAt(ctx, class, tag)
	if err != nil {
		return kept.Tab{}, err
	}
	p := kept.Tab{ClassID: class, Tag: tag.String(), Students: len(r.Students), Ready: len(r.Entries) > 0, Notes: r.Notes()}
	return p, c.Store.SaveTab(ctx, p)
}
