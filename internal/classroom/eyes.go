package classroom

import (
	"cmp"
	"context"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// studentOf is a student on a class's list who has an account.
func (c *house) studentOf(ctx context.Context, class, row string) (picture.Student, *seam.Known, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return picture.Student{}, nil, err
	}
	cl, err := c.ReadClass(ctx, c.Store, book, class)
	if err != nil {
		return picture.Student{}, nil, seam.NotFound(err)
	}
	st, ok := cl.Student(row)
	switch {
	case !ok:
		return picture.Student{}, nil, seam.ErrNotFound
	case st.Account == "":
		return picture.Student{}, nil, change.Refuse("row", "no-eyes", "name", st.Name())
	}
	return st, book, nil
}

// LookAs returns what a student sees of a class on their own page. That somebody looked is
// logged; nothing of the student's is noted as opened.
func (c *Registers) LookAs(ctx context.Context, by, class, row string) (name string, h Home, err error) {
	st, book, err := c.studentOf(ctx, class, row)
	if err != nil {
		return "", h, err
	}
	act := c.Act(ctx, by, "looked-as", map[string]string{"row": row, "name": st.CallName()})
	act.About = class
	if err := c.Store.Change(ctx, act, nil, func(*store.Store) error { return nil }); err != nil {
		return "", h, err
	}
	h, err = c.homeIn(ctx, st.Account, st.Row, book)
	return st.CallName(), h, err
}

// LookAtAs returns a thing of a class, and what lies in it, as a student of the class reaches
// them; by must reach the thing, too.
func (c *Things) LookAtAs(ctx context.Context, by, class, row, thing string) (name string, t cupboard.Thing, folder bool, inside []cupboard.Thing, err error) {
	st, _, err := c.studentOf(ctx, class, row)
	if err != nil {
		return "", t, false, nil, err
	}
	mine, err := c.cup.Get(ctx, by, thing)
	if err == nil && mine.Kind == cupboard.Pointer {
		mine, err = c.cup.Get(ctx, by, mine.Target)
	}
	if err != nil {
		return "", t, false, nil, seam.NotFound(err)
	}
	if who, err := c.actor(ctx, by, mine); err != nil || who.home == nil || who.home.Key.Class != class { // of this class alone
		return "", t, false, nil, cmp.Or(err, seam.ErrNotFound)
	}
	if t, err = c.cup.Get(ctx, st.Account, thing); err == nil && t.Kind == cupboard.Pointer {
		t, err = c.cup.Get(ctx, st.Account, t.Target)
	}
	if err != nil {
		return "", t, false, nil, seam.NotFound(err)
	}
	act := c.Act(ctx, by, "looked-at-as", map[string]string{"row": row, "thing": t.ID, "title": t.Name, "name": st.CallName()})
	act.About = class
	if err := c.Store.Change(ctx, act, nil, func(*store.Store) error { return nil }); err != nil {
		return "", t, false, nil, err
	}
	if folder = t.Kind == cupboard.Folder; folder {
		inside, err = c.cup.List(ctx, st.Account, t.ID)
	}
	return st.CallName(), t, folder, inside, seam.NotFound(err)
}
