package enrol

import (
	"context"
	"fmt"
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/draft"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// ChangeDraft applies corrections to the draft with an id, on what it is then:
// corrections of different places all stand, no matter who makes them. A draft that
// was replaced meanwhile is not changed.
func (c *Lists) ChangeDraft(ctx context.Context, by, class, id string, changes []draft.Change) (draft.View, error) {
	if len(changes) > draft.MostChanges {
		return draft.View{}, change.Refuse("changes", "too-many", "most", fmt.Sprint(draft.MostChanges))
	}
	var shape string
	var roles map[int]roster.Role
	err := c.Store.Change(ctx, c.draftAct(ctx, by, "list-corrected", class, changes), nil, func(tx *store.Store) error {
		e, err := c.editDraft(ctx, tx, class, id)
		if err != nil {
			return err
		}
		for _, ch := range changes {
			if err := e.apply(ctx, ch); err != nil {
				return err
			}
			if ch.Role != nil {
				rows, err := e.cells(ctx)
				if err != nil {
					return err
				}
				shape, roles = draft.Shape(rows), e.Settings.OfSheet.Roles
			}
		}
		e.ChangedAt = c.Now()
		_, err = tx.SaveDraft(ctx, e.Draft)
		return err
	})
	if err != nil {
		return draft.View{}, seam.NotFound(err)
	}
	if shape != "" {
		if err := c.Store.SaveShape(ctx, by, shape, roles); err != nil {
			return draft.View{}, err
		}
	}
	return c.Draft(ctx, by, class)
}

// A draftEdit is a draft that is held while it is corrected.
type draftEdit struct {
	draft.Draft
	house *seam.House
	tx    *store.Store
	rows  []roster.Row
}

// editDraft holds the draft with an id.
func (c *Lists) editDraft(ctx context.Context, tx *store.Store, class, id string) (*draftEdit, error) {
	if err := tx.HoldDraft(ctx, class); err != nil {
		return nil, err
	}
	d, err := tx.Draft(ctx, class)
	switch {
	case err != nil:
		return nil, err
	case id != "" && d.ID != id:
		return nil, &change.Changed{Field: "draft"}
	}
	return &draftEdit{Draft: d, house: c.House, tx: tx}, nil
}

func (e *draftEdit) cells(ctx context.Context) ([]roster.Row, error) {
	var err error
	if e.rows == nil {
		e.rows, err = e.tx.DraftRows(ctx, e.Draft)
	}
	return e.rows, err
}

func (e *draftEdit) apply(ctx context.Context, ch draft.Change) error {
	switch {
	case ch.Cell != nil:
		rows, err := e.cells(ctx)
		if err != nil {
			return err
		}
		cell, err := ch.Cell.At(rows, ch.Was)
		if err != nil {
			return err
		}
		e.rows = nil
		return e.tx.SetDraftCell(ctx, e.Draft, cell)
	case ch.Encoding != nil:
		return e.readAs(ctx, *ch.Encoding)
	}
	sheet := e.Settings.Sheet
	err := e.Draft.Apply(ch)
	if e.Settings.Sheet != sheet {
		e.rows = nil
	}
	return err
}

// readAs reads the letters of the list in another of the ways they can be read.
func (e *draftEdit) readAs(ctx context.Context, encoding string) error {
	if !slices.ContainsFunc(e.Settings.Encodings, func(r draft.Reading) bool { return r.Encoding == encoding }) {
		return change.Refuse("encoding", "no-such-encoding")
	}
	original, err := e.tx.DraftOriginal(ctx, e.ID)
	if err != nil {
		return err
	}
	book, err := e.house.ReadList(ctx, original, encoding)
	if err != nil {
		return err
	}
	again, err := draftOf(e.ClassID, e.Source, book)
	if err != nil {
		return err
	}
	e.Sheets, e.Settings.Encoding, e.Settings.Encodings, e.rows = again.Sheets, encoding, again.Settings.Encodings, nil
	return e.tx.RereadDraft(ctx, e.Draft)
}
