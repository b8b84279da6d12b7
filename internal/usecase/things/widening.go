package things

import (
	"cmp"
	"context"
	"errors"
	"slices"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// An Openness is who can open a file, and who could if its link were open to the school.
type Openness struct {
	School access.Level // what everybody of the school may do with its link now
	Named  int          // who can open it without that
	// Accounts of the school, by role: all who could.
	Accounts map[accounts.Role]int
}

// widening is a file that an account may open to the whole school by its link: one of a
// class's that is its teacher's, and not what a student made.
func (c *Things) widening(ctx context.Context, account, id string) (cupboard.Thing, acting, error) {
	t, err := c.Get(ctx, account, id)
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

// school is what everybody of the school may do with a thing who has its link.
func (c *Things) school(ctx context.Context, by acting, t cupboard.Thing) (access.Level, error) {
	states, err := c.cup.States(ctx, by.as, []string{t.ID})
	return states[t.ID].Rule.School, seam.NotFound(err)
}

// written reports whether somebody else than the staff of its class wrote in a thing.
func (c *Things) written(ctx context.Context, by acting, id string) (bool, error) {
	versions, err := c.cup.Versions(ctx, by.as, id)
	if err != nil {
		return false, seam.NotFound(err)
	}
	staff, err := c.Store.Staff(ctx, by.home.Key.Class)
	if err != nil {
		return false, err
	}
	return slices.ContainsFunc(versions, func(v cupboard.Version) bool {
		return v.By != by.as && !slices.ContainsFunc(staff, func(m classes.Member) bool { return m.Account == v.By })
	}), nil
}

// shut takes from everybody of the school what they may do with a thing.
func (c *Things) shut(ctx context.Context, as, id string) error {
	nobody := access.Nothing
	return seam.NotFound(c.cup.SetRule(ctx, as, "shut/"+store.NewID(), id, cupboard.RuleChange{School: &nobody}))
}

// shutBegun shuts a thing of a class that is open to the school once somebody else than its
// staff wrote in it: what a student has begun is nobody else's to show.
func (c *Things) shutBegun(ctx context.Context, account string, t cupboard.Thing) error {
	e, ok, err := c.home(ctx, t)
	if err != nil || !ok {
		return err
	}
	staff, err := c.Store.Staff(ctx, e.Key.Class)
	if err != nil || slices.ContainsFunc(staff, func(m classes.Member) bool { return m.Account == account }) {
		return err
	}
	keeper, err := c.Store.OwnerOfThings(ctx, e.Key.Class)
	if err != nil || keeper == account {
		return err
	}
	states, err := c.cup.States(ctx, keeper, []string{t.ID})
	if err != nil || states[t.ID].Rule.School == access.Nothing {
		return err
	}
	if err := c.shut(ctx, keeper, t.ID); err != nil {
		return err
	}
	act := c.Act(seam.Within(ctx, "shut"), account, "link-shut-begun", map[string]any{"thing": t.ID, "name": t.Name}, e.Key.Class)
	return c.Store.Change(ctx, act, nil, func(*store.Store) error { return nil })
}

// PreviewWidening says who can open a file, and who could by its link.
func (c *Things) PreviewWidening(ctx context.Context, account, id string) (Openness, error) {
	t, by, err := c.widening(ctx, account, id)
	if err != nil {
		return Openness{}, err
	}
	return c.openness(ctx, by, t)
}

func (c *Things) openness(ctx context.Context, by acting, t cupboard.Thing) (Openness, error) {
	people, err := c.cup.People(ctx, by.as, t.ID)
	if err != nil {
		return Openness{}, seam.NotFound(err)
	}
	school, err := c.school(ctx, by, t)
	if err != nil {
		return Openness{}, err
	}
	book, err := c.Book(ctx)
	if err != nil {
		return Openness{}, err
	}
	out := Openness{School: school, Named: len(people), Accounts: map[accounts.Role]int{}}
	for _, a := range book.All {
		out.Accounts[a.Role]++
	}
	return out, nil
}

// OpenToSchool opens a file to everybody of the school who has its link, to read or to
// comment, or takes that back. was is what was looked at.
func (c *Things) OpenToSchool(ctx context.Context, account, key, id string, to, was access.Level) (Openness, error) {
	if to > access.Comment {
		return Openness{}, change.Refuse("level", "no-such-level")
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
		return Openness{}, &change.Changed{Field: "level"}
	}
	if to > access.Nothing {
		if begun, err := c.written(ctx, by, id); err != nil || begun {
			return Openness{}, cmp.Or(err, error(change.Refuse("level", "begun-by-student")))
		}
	}
	if err := c.cup.SetRule(ctx, by.as, "school/"+account+"/"+key, id, cupboard.RuleChange{School: &to}); err != nil {
		return Openness{}, seam.NotFound(err)
	}
	if to > access.Nothing { // somebody may have begun in this moment, and saw it shut
		if begun, err := c.written(ctx, by, id); err != nil || begun {
			return Openness{}, errors.Join(err, c.shut(ctx, by.as, id), change.Refuse("level", "begun-by-student"))
		}
	}
	what := "link-opened"
	if to == access.Nothing {
		what = "link-shut"
	}
	act := c.Act(ctx, account, what, map[string]any{"thing": id, "name": t.Name, "level": to.String()}, by.home.Key.Class)
	if err := c.Store.Change(ctx, act, nil, func(*store.Store) error { return nil }); err != nil {
		return Openness{}, err
	}
	now.School = to
	return now, c.lookAround(ctx, t)
}
