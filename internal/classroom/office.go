package classroom

import (
	"context"
	"slices"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/register"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
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

// Join makes somebody of the office a co-teacher or an assistant of a class or, for no role,
// takes them off its staff again. It is logged, and everybody of the staff sees it.
func (c *Rooms) Join(ctx context.Context, by, class, role string) error {
	book, err := c.Book(ctx)
	if err != nil {
		return err
	}
	what := map[bool]string{true: "office-left", false: "office-joined"}[role == ""]
	return c.setStaff(ctx, book, by, class, by, role, what, func(string) error { return nil })
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

// Sessions are where an account is signed in, the latest used first.
func (c *People) Sessions(ctx context.Context, account string) ([]store.Session, error) {
	return c.Store.Sessions(ctx, account)
}

// MarkSession says whose a session is, and on what.
func (c *People) MarkSession(ctx context.Context, token, account, agent string) error {
	return c.Store.MarkSession(ctx, token, account, agent, c.Now())
}

// SeeSession notes that a session is used.
func (c *People) SeeSession(ctx context.Context, token string) error {
	return c.Store.SeeSession(ctx, token, c.Now())
}

// EndSession ends one of an account's sessions.
func (c *People) EndSession(ctx context.Context, account, id string) error {
	return seam.NotFound(c.Store.EndSession(ctx, account, id))
}

// EndSessions ends all sessions of some accounts, but for one token's; empty: for none.
func (c *People) EndSessions(ctx context.Context, accounts []string, but string) error {
	return c.Store.EndSessions(ctx, accounts, but)
}
