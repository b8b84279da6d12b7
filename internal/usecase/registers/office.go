package registers

import (
	"context"
	"slices"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/register"
	"jollysatchel/internal/store"
)

// classPage is how many classes the office is shown at once.
const classPage = 50

// AllClasses returns classes of the school by name, with what needs attention in each, and how
// many there are of the kind: those whose name, code or period hold a text, or their owner's
// name; needing alone those in which something needs attention.
func (c *Registers) AllClasses(ctx context.Context, text string, needing bool, from int) ([]Tab, int, error) {
	f := store.ClassFilter{Text: naming.Tidy(text), Needing: needing, From: from, Most: classPage}
	if f.Text != "" {
		book, err := c.Book(ctx)
		if err != nil {
			return nil, 0, err
		}
		staff := slices.DeleteFunc(slices.Clone(book.All), func(a accounts.Account) bool { return a.Role == accounts.Student })
		for _, a := range accounts.Find(f.Text, staff, 200) {
			f.Owners = append(f.Owners, a.ID)
		}
	}
	classes, n, err := c.Store.ClassPage(ctx, f)
	if err != nil {
		return nil, 0, err
	}
	tabs, err := c.tabs(ctx, classes)
	return tabs, n, err
}

// lookedAround are how many classes nobody looked at are looked at in one go.
const lookedAround = 10

// LookAround works out what needs attention in classes that nobody looked at since they
// changed, a few at a time: so that the office finds them.
func (c *Registers) LookAround(ctx context.Context) error {
	classes, err := c.Store.Unlooked(ctx, lookedAround)
	if err != nil || len(classes) == 0 {
		return err
	}
	_, err = c.tabs(ctx, classes)
	return err
}

// PutOff has an account not see a note of a class until the next day, as long as it concerns
// no more than it does.
func (c *Registers) PutOff(ctx context.Context, account, class, code, about string, count int) error {
	if len(code) > 60 || len(about) > 60 {
		return change.Refuse("code", "too-long", "most", "60")
	}
	return c.Store.SavePutOff(ctx, account, c.Today(), store.PutOff{ClassID: class, Code: code, About: about, Count: count})
}

// ShowAgain shows an account what it put off today.
func (c *Registers) ShowAgain(ctx context.Context, account string) error {
	return c.Store.DropPutOffs(ctx, account)
}

// without are tabs without what an account put off today.
func (c *Registers) without(ctx context.Context, account string, tabs []Tab) error {
	off, err := c.Store.PutOffs(ctx, account, c.Today())
	if err != nil || len(off) == 0 {
		return err
	}
	for i := range tabs {
		kept := []register.Note{}
		for _, n := range tabs[i].Notes {
			if slices.ContainsFunc(off, func(p store.PutOff) bool {
				return p.ClassID == tabs[i].ID && p.Code == n.Reason.Code && p.About == n.About && n.Count <= p.Count
			}) {
				tabs[i].PutOff++
			} else {
				kept = append(kept, n)
			}
		}
		tabs[i].Notes = kept
	}
	return nil
}
