package classroom

import (
	"context"
	"slices"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

// A DeskThing is one thing of a student as the side desk shows it.
type DeskThing struct {
	Handout  *store.Handout // nil for the satchel
	Cell     Cell
	Days     []int // words on each of the last seven days
	OpenedAt time.Time
	People   map[string]access.Reason
	Where    []cupboard.Crumb
	Inside   []cupboard.Thing // of a satchel
}

// Desk returns a student of a class with everything of theirs, the satchel first.
func (c *Classroom) Desk(ctx context.Context, class, row string) (Class, Student, []DeskThing, error) {
	reg, err := c.Register(ctx, class)
	if err != nil {
		return Class{}, Student{}, nil, err
	}
	at := slices.IndexFunc(reg.Class.Students, func(s Student) bool { return s.ID == row })
	if at < 0 {
		return Class{}, Student{}, nil, ErrNotFound
	}
	opened, err := c.Store.Openings(ctx, class)
	if err != nil {
		return Class{}, Student{}, nil, err
	}
	counts, err := c.Store.WorkDays(ctx, class)
	if err != nil {
		return Class{}, Student{}, nil, err
	}
	var out []DeskThing
	for _, col := range reg.Columns {
		t := DeskThing{Handout: col.Handout, Cell: col.Cells[at]}
		if e := t.Cell.Entry; e != nil {
			t.OpenedAt = opened[e.Thing]
			var mine []store.WorkDay
			for _, d := range counts {
				if d.Thing == e.Thing {
					mine = append(mine, d)
				}
			}
			t.Days = PerDay(mine, reg.Days)
			if err := c.details(ctx, reg.Class, e, &t); err != nil {
				return Class{}, Student{}, nil, err
			}
		}
		out = append(out, t)
	}
	return reg.Class, reg.Class.Students[at], out, nil
}

// details asks the cupboard who reaches a thing, where it lies and what is in it.
func (c *Classroom) details(ctx context.Context, cl Class, e *store.Entry, t *DeskThing) error {
	thing, err := c.Cup.Get(ctx, cl.Owner(), e.Thing)
	if err != nil {
		if notFound(err) == ErrNotFound {
			return nil
		}
		return err
	}
	for i, crumb := range thing.Path {
		if i > 0 {
			t.Where = append(t.Where, crumb)
		}
	}
	if t.People, err = c.Cup.People(ctx, cl.Owner(), e.Thing); err != nil {
		return err
	}
	if t.Handout == nil {
		t.Inside, err = c.Cup.List(ctx, cl.Owner(), e.Thing)
	}
	return err
}
