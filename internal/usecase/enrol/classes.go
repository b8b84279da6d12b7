package enrol

import (
	"context"
	"slices"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/teams"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// mostClasses is how many one account adds.
const mostClasses = 500

// newClass is a class that is called so, with the usual room.
func (c *roll) newClass(code, name, period string) (classes.Class, error) {
	return classes.New(store.NewID(), c.Now()).Called(code, name, period)
}

// addClass adds a class for its owner, with others who teach it, unless they have added as many
// as one account may.
func addClass(ctx context.Context, tx *store.Store, cl classes.Class, owner string, others ...string) error {
	n, err := tx.CountClasses(ctx, owner)
	if err != nil {
		return err
	}
	if n >= mostClasses {
		return change.TooMany("class", "too-many-classes-mine", mostClasses)
	}
	if err := tx.InsertClass(ctx, cl, owner); err != nil {
		return err
	}
	for _, account := range others {
		if err := tx.AddStaff(ctx, classes.Member{ClassID: cl.ID, Account: account, Role: classes.Teacher}); err != nil {
			return err
		}
	}
	return nil
}

// AddClassWith adds a class for its owner within a change, with students of its own.
func (c *Classes) AddClassWith(ctx context.Context, tx *store.Store, book *seam.Known, cl classes.Class, owner string,
	students []record.Record) error {
	if err := addClass(ctx, tx, cl, owner); err != nil {
		return err
	}
	_, err := c.inRosters(ctx, tx, book, rosterAct{by: owner, kind: "list"}, store.Act{}, func(rs *rosters) error {
		r := rs.made(cl.ID)
		for _, s := range students {
			r.Join(s, "")
		}
		return nil
	})
	return err
}

// CreateClass adds a new class owned by the account. Of a group of staff the members are
// teachers, and not students.
func (c *Classes) CreateClass(ctx context.Context, owner, code, name, period string, ofStaff bool) (classes.Class, error) {
	cl, err := c.newClass(code, name, period)
	if err != nil {
		return cl, err
	}
	cl.OfStaff = ofStaff
	id := cl.ID
	if err := c.Store.Change(ctx, c.Act(ctx, owner, "class-hung-up",
		map[string]string{"class": cl.ID, "name": cl.Name, "code": cl.Code}), &id, func(tx *store.Store) error {
		return addClass(ctx, tx, cl, owner)
	}); err != nil {
		return cl, err
	}
	return c.Store.Class(ctx, id)
}

// ChangeClass changes what a class is called. Folders and files that are called after
// it are renamed by the next packing, as lines to change.
func (c *Classes) ChangeClass(ctx context.Context, by, class string, ch, was classes.Change) error {
	args := map[string]any{}
	return seam.NotFound(c.Store.Change(ctx, c.Act(ctx, by, "class-changed", args, class), nil, func(tx *store.Store) error {
		now, err := tx.Class(ctx, class)
		if err != nil {
			return err
		}
		next, err := ch.Of(now, was)
		if err != nil {
			return err
		}
		if next.Code == now.Code && next.Name == now.Name && next.Period == now.Period {
			return store.ErrUnchanged
		}
		args["told"] = classes.Told(now, next)
		return tx.SaveClassName(ctx, next)
	}))
}

// RemoveClass takes away a class in which there never was anything.
func (c *Classes) RemoveClass(ctx context.Context, by, class string) error {
	err := c.Store.Change(ctx, c.Act(ctx, by, "class-removed", map[string]string{}, class), nil, func(tx *store.Store) error {
		if empty, err := tx.Untouched(ctx, class); err != nil {
			return err
		} else if !empty {
			return change.Refuse("class", "not-empty")
		}
		return tx.DeleteClass(ctx, class)
	})
	return seam.NotFound(err)
}

// An Overview is what is said of a class at the top of its pages.
type Overview struct {
	picture.Class
	Staff  []accounts.Member
	Teams  []teams.Team
	Packed bool // any satchel was
	Draft  bool // a list waits to be accepted
	Empty  bool // there never was anything in it
}

// Class loads a class. Students whose address the school book has come to know
// are linked in what is returned; it is kept with the next change.
func (c *Classes) Class(ctx context.Context, id string) (picture.Class, error) {
	cl, _, err := c.ClassNow(ctx, id)
	return cl, err
}

// Overview returns what is said of a class at the top of its pages.
func (c *Classes) Overview(ctx context.Context, id string) (Overview, error) {
	cl, book, err := c.ClassNow(ctx, id)
	o := Overview{Class: cl}
	if err != nil {
		return o, err
	}
	o.Staff = book.Members(o.Class.Staff)
	if o.Packed, err = c.Store.AnyMade(ctx, id, packing.Satchel); err != nil {
		return o, err
	}
	if o.Draft, err = c.Store.HasDraft(ctx, id); err != nil {
		return o, err
	}
	if o.Empty, err = c.Store.Untouched(ctx, id); err != nil {
		return o, err
	}
	o.Teams, err = c.TeamsOf(ctx, id)
	return o, err
}

// Standing is what an account is in a class: a role of its staff, or nothing.
// A class without staff, which there is none of, isn't there.
func (c *Classes) Standing(ctx context.Context, class, account string) (string, error) {
	if !store.ValidID(class) {
		return "", seam.ErrNotFound
	}
	staff, err := c.Store.Staff(ctx, class)
	if err != nil {
		return "", err
	}
	if len(staff) == 0 {
		return "", seam.ErrNotFound
	}
	for _, m := range staff {
		if m.Account == account {
			return m.Role, nil
		}
	}
	return "", nil
}

// Watched returns those of some classes on whose staff an account is, with their
// revisions; of no classes, all there are.
func (c *Classes) Watched(ctx context.Context, account string, cs []string) ([]classes.Class, error) {
	all, err := c.Store.Classes(ctx, account)
	if err != nil || cs == nil {
		return all, err
	}
	return slices.DeleteFunc(all, func(cl classes.Class) bool { return !slices.Contains(cs, cl.ID) }), nil
}
