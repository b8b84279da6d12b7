package doors

import (
	"context"
	"slices"

	"jollysatchel/internal/core/doorcheck"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/usecase/seam"
)

// mostClasses of a person are looked at at once.
const mostClasses = 40

// An InClass is what somebody reaches in one class. What people put there themselves is the class's own
// business: it is counted, not named.
type InClass struct {
	ID, Name string
	Reach    []doorcheck.Told
	Own      int
}

// Everywhere is what somebody reaches in all classes; More reports that there are further ones.
type Everywhere struct {
	Name    string
	Classes []InClass
	More    bool
}

// Everywhere is what an account reaches now in every class of the school, by the classes' names: those it
// stands in or did, those on whose staff it is, and those of whose things it reaches any.
func (c *Doors) Everywhere(ctx context.Context, account string) (out Everywhere, err error) {
	book, err := c.Book(ctx)
	if err != nil {
		return out, err
	}
	if book.Account(account).ID == "" {
		return out, seam.ErrNotFound
	}
	out.Name = book.Account(account).Name()
	ids, err := c.classesOf(ctx, account)
	if err != nil {
		return out, err
	}
	out.More = len(ids) > mostClasses
	for _, id := range ids[:min(len(ids), mostClasses)] {
		l, err := c.look(ctx, id)
		if seam.NotFound(err) == seam.ErrNotFound {
			continue // it ended meanwhile
		}
		if err != nil {
			return out, err
		}
		in := InClass{ID: id, Name: l.Class.Name}
		var named []doorcheck.Reach
		for _, r := range c.what(l, account) {
			if l.ByThing[r.Thing] == nil {
				in.Own++
				continue
			}
			named = append(named, r)
		}
		if in.Reach = l.told(named); len(named)+in.Own > 0 {
			out.Classes = append(out.Classes, in)
		}
	}
	cs := out.Classes
	naming.NewOrder(c.School().Language).Sort(len(cs), func(i int) string { return cs[i].Name },
		func(i, j int) { cs[i], cs[j] = cs[j], cs[i] })
	return out, nil
}

// classesOf are the classes that an account has to do with, or reaches anything of.
func (c *Doors) classesOf(ctx context.Context, account string) (out []string, err error) {
	add := func(id string) {
		if !slices.Contains(out, id) {
			out = append(out, id)
		}
	}
	rows, err := c.Store.RowsOf(ctx, account)
	if err != nil {
		return nil, err
	}
	for _, r := range rows {
		add(r.ClassID)
	}
	taught, err := c.Store.Classes(ctx, account)
	if err != nil {
		return nil, err
	}
	for _, cl := range taught {
		add(cl.ID)
	}
	roots, err := c.cup.Roots(ctx, account)
	if err != nil {
		return nil, seam.NotFound(err)
	}
	ids := make([]string, len(roots))
	for i, t := range roots {
		ids[i] = t.ID
	}
	entries, err := c.Store.EntriesByThing(ctx, ids)
	for _, id := range ids {
		if e, ok := entries[id]; ok {
			add(e.Key.Class)
		}
	}
	return out, err
}

// Table is what somebody reaches in all classes, as a table.
func (e Everywhere) Table() (out [][]string) {
	for _, in := range e.Classes {
		for i, row := range doorcheck.ReachTable(in.Reach) {
			switch {
			case i > 0:
				row = append([]string{in.Name}, row...)
			case len(out) > 0:
				continue
			default:
				row = append([]string{"Class"}, row...)
			}
			out = append(out, row)
		}
	}
	return out
}

// WhatOfStaff is everything in a class that one of its staff reaches now, with why.
func (c *Doors) WhatOfStaff(ctx context.Context, class, account string) ([]doorcheck.Told, error) {
	l, err := c.look(ctx, class)
	if err != nil {
		return nil, err
	}
	if _, of := l.Class.Member(account); !of {
		return nil, seam.ErrNotFound
	}
	return l.told(c.what(l, account)), nil
}
