package classroom

import (
	"context"
	"slices"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

// A MateCopy is a classmate's or another team's copy.
type MateCopy struct{ Thing, Name string }

// MatesCopies are the copies of a handout that a student reaches and that are others', by
// name. Where none are to be read, there is nothing.
func (c *Registers) MatesCopies(ctx context.Context, account, handout string) (title string, copies []MateCopy, err error) {
	h, row, err := c.handoutOf(ctx, account, handout)
	if err != nil {
		return "", nil, err
	}
	book, err := c.book(ctx)
	if err != nil {
		return "", nil, err
	}
	s, err := c.snapshot(ctx, c.Store, book, h.ClassID)
	if err != nil {
		return "", nil, notFound(err)
	}
	mine := map[string]bool{} // teams
	for _, all := range s.room.Teams {
		for _, team := range all {
			mine[team.ID] = slices.Contains(team.Rows, row)
		}
	}
	of := map[string]int{} // copies of one student
	var theirs []*store.Entry
	for k, e := range s.entries {
		if k.What.Purpose != packing.Copy || k.What.ID != handout || k.Whom.Row == row || mine[k.Whom.Team] || k.Whom == (packing.Whom{}) {
			continue
		}
		if s.state(e).Place == cupboard.Lies && s.level(e, account) >= access.Read {
			theirs = append(theirs, e)
			of[k.Whom.Row]++
		}
	}
	for _, e := range theirs {
		x := MateCopy{Thing: e.Thing, Name: s.state(e).Name}
		if student, there := s.Student(e.Key.Whom.Row); there && of[student.ID] > 1 {
			x.Name = student.CallName() + " · " + x.Name
		} else if there {
			x.Name = student.CallName()
		}
		copies = append(copies, x)
	}
	order := naming.NewOrder(c.School.Language)
	order.Sort(len(copies), func(i int) string { return copies[i].Name }, func(i, j int) { copies[i], copies[j] = copies[j], copies[i] })
	return h.Title, copies, nil
}

// handoutOf is a handout of a class whose list a student is in, with their row there;
// only where students may read each other's copies of it.
func (c *Registers) handoutOf(ctx context.Context, account, id string) (store.Handout, string, error) {
	rows, err := c.Store.RowsOf(ctx, account)
	if err != nil {
		return store.Handout{}, "", err
	}
	for _, row := range rows {
		if row.Gone {
			continue
		}
		h, err := c.Store.Handout(ctx, row.ClassID, id)
		if err == nil && h.Packed() && h.MatesRead() {
			return h, row.ID, nil
		}
		if err != nil && notFound(err) != ErrNotFound {
			return h, "", err
		}
	}
	return store.Handout{}, "", ErrNotFound
}
