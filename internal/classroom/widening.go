package classroom

import (
	"context"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/schoolbook"
	"jollysatchel/internal/store"
)

// An Openness is who can open a file, and who could if its link were open to the school.
type Openness struct {
	School access.Level // what everybody of the school may do with its link now
	Named  int          // who can open it without that
	// Accounts of the school, by role: all who could.
	Accounts map[schoolbook.Role]int
}

// widening is a file that an account may open to the whole school by its link: one of a
// class's that is its teacher's, and not what a student made.
func (c *Things) widening(ctx context.Context, account, id string) (cupboard.Thing, acting, error) {
	t, err := c.Look(ctx, account, id)
	if err != nil {
		return t, acting{}, err
	}
	by, err := c.actor(ctx, account, t)
	if err != nil {
		return t, by, err
	}
	if !by.opens(account, t) {
		return t, by, cupboard.ErrNoRight
	}
	return t, by, nil
}

// opens reports whether an account may open a thing to the school.
func (a acting) opens(account string, t cupboard.Thing) bool {
	return t.Kind == cupboard.File && a.staff && (t.Owner == a.as || t.Owner == account)
}

// school is what everybody of the school may do with a thing who has its link.
func (c *Things) school(ctx context.Context, by acting, t cupboard.Thing) (access.Level, error) {
	states, err := c.cup.States(ctx, by.as, []string{t.ID})
	return states[t.ID].Rule.School, notFound(err)
}

// LookWide says who can open a file, and who could by its link.
func (c *Things) LookWide(ctx context.Context, account, id string) (Openness, error) {
	t, by, err := c.widening(ctx, account, id)
	if err != nil {
		return Openness{}, err
	}
	return c.openness(ctx, by, t)
}

func (c *Things) openness(ctx context.Context, by acting, t cupboard.Thing) (Openness, error) {
	people, err := c.cup.People(ctx, by.as, t.ID)
	if err != nil {
		return Openness{}, notFound(err)
	}
	school, err := c.school(ctx, by, t)
	if err != nil {
		return Openness{}, err
	}
	book, err := c.book(ctx)
	if err != nil {
		return Openness{}, err
	}
	out := Openness{School: school, Named: len(people), Accounts: map[schoolbook.Role]int{}}
	for _, a := range book.all {
		out.Accounts[a.Role]++
	}
	return out, nil
}

// OpenToSchool opens a file to everybody of the school who has its link, to read or to
// comment, or takes that back. was is what was looked at.
func (c *Things) OpenToSchool(ctx context.Context, account, key, id string, to, was access.Level) (Openness, error) {
	if to > access.Comment {
		return Openness{}, &Invalid{"level", "no-such-level", nil}
	}
	t, by, err := c.widening(ctx, account, id)
	if err != nil {
		return Openness{}, err
	}
	now, err := c.openness(ctx, by, t)
	if err != nil || now.School == to {
		return now, err
	}
	if now.School != was {
		return Openness{}, &Changed{Field: "level"}
	}
	if err := c.cup.SetRule(ctx, by.as, "school/"+account+"/"+key, id, cupboard.RuleChange{School: &to}); err != nil {
		return Openness{}, notFound(err)
	}
	what := "link-opened"
	if to == access.Nothing {
		what = "link-shut"
	}
	act := c.act(ctx, account, what, map[string]any{"thing": id, "name": t.Name, "level": to.String()}, by.home.Key.Class)
	if err := c.Store.Change(ctx, act, nil, func(*store.Store) error { return nil }); err != nil {
		return Openness{}, err
	}
	now.School = to
	return now, c.lookAround(ctx, t)
}
