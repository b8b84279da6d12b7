package enrol

import (
	"cmp"
	"context"
	"errors"
	"io"
	"slices"

	"jollysatchel/internal/core/draft"
	"jollysatchel/internal/core/lists"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/core/words"
	"jollysatchel/internal/store"
	"jollysatchel/internal/tables"
	"jollysatchel/internal/usecase/seam"
)

// BringDraft reads a list in any format and keeps it for a class in place of the
// one before. What the account said about lists of this shape is remembered.
func (c *Lists) BringDraft(ctx context.Context, by, class, source string, list io.Reader) (draft.View, error) {
	b, err := tables.Bytes(list)
	if err != nil {
		return draft.View{}, err
	}
	leave, err := c.turns.Take(ctx, by) // one person's lists wait for one another
	if err != nil {
		return draft.View{}, err
	}
	book, err := c.ReadList(ctx, b, "")
	leave()
	if err != nil {
		return draft.View{}, err
	}
	return c.bring(ctx, by, class, source, book, false, b)
}

// BringBook keeps a list that was read already.
func (c *Lists) BringBook(ctx context.Context, by, class, source string, book tables.Book) (draft.View, error) {
	return c.bring(ctx, by, class, source, book, false, nil)
}

// bring keeps what was read; original is what it was read from, if that is known.
func (c *Lists) bring(ctx context.Context, by, class, source string, book tables.Book, own bool, original []byte) (draft.View, error) {
	d, err := draftOf(class, source, book)
	if err != nil {
		return draft.View{}, err
	}
	d.Settings.Own, d.ChangedAt = own, c.Now()
	chosen, err := book.Sheet("")
	if err != nil {
		return draft.View{}, err
	}
	if err := c.recall(ctx, by, &d, chosen.Table); err != nil {
		return draft.View{}, err
	}
	if len(book.Readings) < 2 {
		original = nil // there is one way to read it
	}
	id, args := d.ID, map[string]string{"source": cmp.Or(source, words.English.Reason["pasted"])}
	err = c.Store.Change(ctx, c.draftAct(ctx, by, "list-brought", class, args), &id,
		func(tx *store.Store) error {
			if err := tx.HoldDraft(ctx, class); err != nil {
				return err
			}
			return tx.PutDraft(ctx, d, original)
		})
	if err != nil {
		return draft.View{}, err
	}
	return c.Draft(ctx, by, class)
}

// draftAct is an act on a class's draft: the class itself isn't held, so that a
// long list keeps nobody waiting.
func (c *Lists) draftAct(ctx context.Context, by, what, class string, args any) store.Act {
	a := c.Act(ctx, by, what, args)
	a.About = class
	return a
}

func draftOf(class, source string, book tables.Book) (draft.Draft, error) {
	d := draft.Draft{ID: store.NewID(), ClassID: class, Source: source}
	chosen, err := book.Sheet("")
	if err != nil {
		return d, err
	}
	d.Settings.Sheet = chosen.Name
	for _, s := range book.Sheets {
		if s.Name == chosen.Name || !s.Blank() {
			d.Sheets = append(d.Sheets, draft.Sheet{Name: s.Name, Hidden: s.Hidden, Rows: s.Table.Rows, HiddenColumns: s.Table.HiddenColumns})
		}
	}
	for _, t := range book.Teachers {
		d.Settings.Teachers = append(d.Settings.Teachers,
			draft.Teacher{Class: t.Class, Period: t.Period, Name: naming.Tidy(t.Given + " " + t.Family), Address: t.Address})
	}
	for _, r := range book.Readings {
		d.Settings.Encodings = append(d.Settings.Encodings, draft.Reading(r))
	}
	if len(book.Readings) > 0 {
		d.Settings.Encoding = book.Readings[0].Encoding
	}
	return d, nil
}

// recall takes over the roles the account gave to the columns of a list of the
// same shape.
func (c *Lists) recall(ctx context.Context, by string, d *draft.Draft, t roster.Table) error {
	roles, err := c.Store.Shape(ctx, by, draft.Shape(t.Rows))
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	d.Settings.OfSheet.Roles = roles
	return err
}

// Draft returns the class's list that waits to be accepted.
func (c *Lists) Draft(ctx context.Context, by, class string) (draft.View, error) {
	d, err := c.Store.Draft(ctx, class)
	if err != nil {
		return draft.View{}, seam.NotFound(err)
	}
	book, err := c.Book(ctx)
	if err != nil {
		return draft.View{}, err
	}
	out, err := c.readDraft(ctx, c.Store, book, d)
	if err != nil {
		return draft.View{}, err
	}
	return out, c.plan(ctx, c.Store, by, &out)
}

// readDraft reads the rows of a draft as they were corrected.
func (c *Lists) readDraft(ctx context.Context, st *store.Store, book *seam.Known, d draft.Draft) (draft.View, error) {
	rows, err := st.DraftRows(ctx, d)
	if err != nil {
		return draft.View{}, err
	}
	home, err := st.Class(ctx, d.ClassID)
	if err != nil {
		return draft.View{}, err
	}
	return d.Of(rows, c.School().Domain, book.Rule(), book.ForClass(home.OfStaff).Knows), nil
}

// plan compares a draft with the classes it is for, as st has them.
func (c *Lists) plan(ctx context.Context, st *store.Store, by string, d *draft.View) error {
	mine, err := st.Taught(ctx, by)
	if err != nil {
		return err
	}
	d.Classes = mine
	cs := make([]lists.PlanClass, len(mine))
	for i, cl := range mine {
		cs[i] = lists.PlanClass{ID: cl.ID, Code: cl.Code, Name: cl.Name, Period: cl.Period}
	}
	parts := lists.Parts(d.Read, cs, d.Answers)
	for i := range cs {
		if !slices.ContainsFunc(parts, func(p lists.Part) bool { return p.Target == cs[i].ID }) {
			continue
		}
		rows, err := st.Rows(ctx, cs[i].ID)
		if err != nil {
			return err
		}
		for _, r := range rows {
			cs[i].Rows = append(cs[i].Rows, r.ClassRow)
		}
	}
	d.Plan = lists.MakePlan(d.Read, parts, cs, d.Answers)
	d.Looked = d.Plan.Digest(d.Answers)
	return nil
}
