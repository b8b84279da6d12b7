package people

import (
	"context"

	"jollysatchel/internal/core/school"
	"jollysatchel/internal/store"
)

// ChangeSchool says what the school is. All programs know within seconds.
func (c *People) ChangeSchool(ctx context.Context, by string, ch, was school.Change) error {
	err := c.Store.Change(ctx, c.Act(ctx, by, "school-changed", ch), nil, func(tx *store.Store) error {
		return c.sayIn(ctx, tx, ch, was)
	})
	if err != nil {
		return err
	}
	return c.Charter.Read(ctx)
}

// sayIn keeps a change within a transaction.
func (c *People) sayIn(ctx context.Context, tx *store.Store, ch, was school.Change) error {
	said, _, err := tx.SchoolSettings(ctx)
	if err != nil {
		return err
	}
	next, err := ch.Of(said, c.Charter.Over(said).Settings(), was, c.Charter.Fixed())
	if err != nil {
		return err
	}
	return tx.SaveSchoolSettings(ctx, next, c.Now())
}

// FixedSchool are the names of what can't be said otherwise.
func (c *People) FixedSchool() []string { return c.Charter.Fixed() }
