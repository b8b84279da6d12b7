package registers

import (
	"context"

	"jollysatchel/internal/core/register"
	"jollysatchel/internal/store"
)

// GetEyes returns what a student sees of a class on their own page. That somebody looked is
// logged; nothing of the student's is noted as opened.
func (c *Registers) GetEyes(ctx context.Context, by, class, row string) (name string, h register.Home, err error) {
	st, book, err := c.StudentOf(ctx, class, row)
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
