package things

import (
	"cmp"
	"context"

	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// LookAtAs returns a thing of a class, and what is in it, as a student of the class reaches
// them; by must reach the thing, too.
func (c *Things) LookAtAs(ctx context.Context, by, class, row, thing string) (name string, t cupboard.Thing,
	folder bool, inside []cupboard.Thing, err error) {
	st, _, err := c.StudentOf(ctx, class, row)
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
