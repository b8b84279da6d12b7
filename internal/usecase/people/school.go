package people

import (
	"context"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/school"
	"jollysatchel/internal/store"
)

// ChangeSchool says what the school is. All programs know within seconds.
func (c *People) ChangeSchool(ctx context.Context, by string, ch, was school.Change) error {
	args := map[string]any{}
	err := c.Store.Change(ctx, c.Act(ctx, by, "school-changed", args), nil, func(tx *store.Store) error {
		told, err := c.sayIn(ctx, tx, ch, was)
		if err == nil && len(told) == 0 {
			return store.ErrUnchanged
		}
		args["things"], args["told"] = len(told), told[:min(len(told), change.MostTold)]
		return err
	})
	if err != nil {
		return err
	}
	return c.Charter.Read(ctx)
}

// sayIn keeps a change within a transaction and returns what it changed.
func (c *People) sayIn(ctx context.Context, tx *store.Store, ch, was school.Change) ([]change.Told, error) {
	said, _, err := tx.SchoolSettings(ctx)
	if err != nil {
		return nil, err
	}
	is := c.Charter.Over(said).Settings()
	next, err := ch.Of(said, is, was, c.Charter.Fixed())
	if err != nil {
		return nil, err
	}
	return school.Told(is, c.Charter.Over(next).Settings()), tx.SaveSchoolSettings(ctx, next, c.Now())
}

// FixedSchool are the names of what can't be changed.
func (c *People) FixedSchool() []string { return c.Charter.Fixed() }
