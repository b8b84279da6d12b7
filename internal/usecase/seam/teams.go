package seam

import (
	"context"
	"slices"

	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/teams"
	"jollysatchel/internal/store"
)

// AddTeams adds the teams that the columns name which places, or handouts, are for.
func (c *House) AddTeams(ctx context.Context, tx *store.Store, cl picture.Class, plan room.Plan, more ...record.Field) error {
	records := make([]record.Record, len(cl.Students))
	for i, s := range cl.Students {
		records[i] = s.Record
	}
	return AddTeams(ctx, tx, cl.ID, plan, records, more...)
}

// AddTeams adds the teams of records to the sets there are, those of a plan's places
// and more.
func AddTeams(ctx context.Context, tx *store.Store, class string, plan room.Plan, records []record.Record, more ...record.Field) error {
	sets, err := tx.TeamSets(ctx, class)
	if err != nil {
		return err
	}
	fields := append([]record.Field{record.Team}, more...)
	for _, set := range sets {
		fields = append(fields, set.Field)
	}
	for _, p := range plan.AllPlaces() {
		fields = append(fields, p.Set)
	}
	slices.Sort(fields)
	for _, f := range slices.Compact(fields) {
		if f == "" {
			continue
		}
		if lacks := teams.SetOf(sets, f).Lacks(records); len(lacks) > 0 {
			if err := tx.AddTeams(ctx, class, f, lacks); err != nil {
				return err
			}
		}
	}
	return nil
}

// TeamsOf are a class's teams with their ids.
func (c *House) TeamsOf(ctx context.Context, class string) ([]teams.Team, error) {
	sets, err := c.Store.TeamSets(ctx, class)
	return teams.SetOf(sets, record.Team).Teams, err
}
