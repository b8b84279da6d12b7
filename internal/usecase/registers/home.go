package registers

import (
	"context"

	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/register"
	"jollysatchel/internal/core/teams"
	"jollysatchel/internal/usecase/seam"
)

// Home returns the classes of an account and what the student has in each:
// nobody else's things are looked at.
func (c *Registers) Home(ctx context.Context, account string) ([]register.Home, error) {
	rows, err := c.Store.RowsOf(ctx, account)
	if err != nil {
		return nil, err
	}
	book, err := c.Book(ctx)
	if err != nil {
		return nil, err
	}
	out := []register.Home{}
	for _, row := range rows {
		h, err := c.homeIn(ctx, account, row, book)
		if err != nil {
			return nil, err
		}
		if !row.Gone || h.Satchel != "" || len(h.Copies) > 0 {
			out = append(out, h)
		}
	}
	return out, nil
}

func (c *Registers) homeIn(ctx context.Context, account string, row classes.Row, book *seam.Known) (register.Home, error) {
	h := register.Home{Row: row.ID, Left: row.Gone}
	var err error
	if h.Class, err = c.Store.Class(ctx, row.ClassID); err != nil {
		return h, err
	}
	staff, err := c.Store.Staff(ctx, row.ClassID)
	if err != nil {
		return h, err
	}
	h.Staff = book.Members(staff)
	sets, err := c.Store.TeamSets(ctx, row.ClassID)
	if err != nil {
		return h, err
	}
	in := teams.In(sets, row.Record)
	entries, err := c.Store.LedgerOf(ctx, row.ClassID, row.ID, in)
	if err != nil {
		return h, err
	}
	s := &picture.Picture{Class: picture.Class{Class: h.Class, Staff: staff}, Made: picture.MadeOf(entries)}
	if s.Seen, err = c.Store.ObservedOf(ctx, row.ClassID, row.ID, in); err != nil {
		return h, err
	}
	cues, err := c.Store.Cues(ctx, row.ClassID)
	if err != nil {
		return h, err
	}
	h.Cue = cues[row.ID]
	works, err := c.Store.WorksOf(ctx, row.ClassID, row.ID, in)
	if err != nil {
		return h, err
	}
	handouts, err := c.Store.Handouts(ctx, row.ClassID)
	if err != nil {
		return h, err
	}
	byID := map[string]handout.Handout{}
	for _, x := range handouts {
		byID[x.ID] = x
	}
	if h.Headings, err = c.Store.Headings(ctx, row.ClassID); err != nil {
		return h, err
	}
	if h.Waits = h.Class.Opening.Waits(row.ID, c.Now()); !row.Gone && h.Waits == nil {
		h.Notices = picture.Class{Class: h.Class, Students: []picture.Student{{Row: row}}}.Notices(handouts)
	}
	for i := range entries {
		h.Put(s, &entries[i], account, byID, works, c.Now())
	}
	if err := c.opened(ctx, account, &h); err != nil {
		return h, err
	}
	h.Arrange(s, c.School().Language)
	return h, nil
}

// opened says of a student's copies when they opened them.
func (c *Registers) opened(ctx context.Context, account string, h *register.Home) error {
	things := make([]string, len(h.Copies))
	for i, k := range h.Copies {
		things[i] = k.Thing
	}
	opened, err := c.Store.OpenedBy(ctx, account, things)
	for i := range h.Copies {
		h.Copies[i].Opened = opened[h.Copies[i].Thing]
	}
	return err
}
