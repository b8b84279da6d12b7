package classroom

import (
	"context"
	"slices"
	"strconv"

	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/teams"
	"jollysatchel/internal/store"
)

// A RoomChange is what the teacher changes about the room plan. Was is the
// pattern that was looked at, where the pattern changes.
type RoomChange struct {
	Satchel *naming.Pattern `json:"satchel,omitempty"`
	Was     *naming.Pattern `json:"was,omitempty"`
	Add     []string        `json:"add,omitempty"`    // names of new pockets
	Remove  []string        `json:"remove,omitempty"` // ids of pockets
}

// mostPockets bounds what every satchel of a class has.
const mostPockets = 40

// ChangeRoom changes the room plan as it is now: pockets that several people add
// or remove all come and go.
func (c *Rooms) ChangeRoom(ctx context.Context, by, class string, ch RoomChange) error {
	book, err := c.book(ctx)
	if err != nil {
		return err
	}
	return notFound(c.Store.Change(ctx, c.act(ctx, by, "room-changed", ch, class), nil, func(tx *store.Store) error {
		cl, err := c.class(ctx, tx, book, class)
		if err != nil {
			return err
		}
		plan := cl.Plan
		if ch.Satchel != nil {
			if err := checkPattern(cl, *ch.Satchel); err != nil {
				return err
			}
			if ch.Was != nil {
				was := ch.Was.String()
				if err := unless(&was, "name", plan.Satchel.String(), ch.Satchel.String()); err != nil {
					return err
				}
			}
			plan.Satchel = *ch.Satchel
		}
		plan.Pockets = slices.DeleteFunc(slices.Clone(plan.Pockets), func(p room.Pocket) bool { return slices.Contains(ch.Remove, p.ID) })
		for _, name := range ch.Add {
			if plan, err = addPocket(plan, name); err != nil {
				return err
			}
		}
		return tx.SavePlan(ctx, class, plan)
	}))
}

// addPocket adds a pocket, which appears in every satchel with the next packing.
func addPocket(plan room.Plan, name string) (room.Plan, error) {
	if tidy(name) == "" {
		return plan, &Invalid{"pockets", "missing", nil}
	}
	name = naming.Safe(name, "")
	switch {
	case slices.ContainsFunc(plan.Pockets, func(p room.Pocket) bool { return naming.Fold(p.Name) == naming.Fold(name) }):
		return plan, &Invalid{"pockets", "pocket-twice", map[string]string{"name": name}}
	case len(plan.Pockets) >= mostPockets:
		return plan, &Invalid{"pockets", "too-many", map[string]string{"most": strconv.Itoa(mostPockets)}}
	}
	plan.Pockets = append(plan.Pockets, room.Pocket{ID: store.NewID(), Name: name})
	return plan, nil
}

// setOf returns the set of teams of a column; one without an id where there is none.
func setOf(sets []teams.Set, f record.Field) teams.Set {
	if i := slices.IndexFunc(sets, func(s teams.Set) bool { return s.Field == f }); i >= 0 {
		return sets[i]
	}
	return teams.Set{Field: f}
}

// teams are a class's teams with their ids.
func (c *house) teams(ctx context.Context, class string) ([]teams.Team, error) {
	sets, err := c.Store.TeamSets(ctx, class)
	return setOf(sets, record.Team).Teams, err
}
