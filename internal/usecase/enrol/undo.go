package enrol

import (
	"context"
	"errors"
	"maps"
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/lists"
	"jollysatchel/internal/store"
	"jollysatchel/internal/store/kept"
	"jollysatchel/internal/usecase/seam"
)

// Undo takes an act back in all classes it touched, where nothing has changed
// since and, for rows that were added, nothing was packed. Classes it made go
// with it, while nothing is in them.
func (c *Rosters) Undo(ctx context.Context, by, class, batch string) error {
	entries, err := c.Store.Batch(ctx, batch)
	if err != nil {
		return err
	}
	if !slices.ContainsFunc(entries, func(e kept.HistoryEntry) bool { return e.ClassID == class }) {
		return seam.ErrNotFound
	}
	mine, err := c.Store.Taught(ctx, by)
	if err != nil {
		return err
	}
	var cs []string
	for _, e := range entries {
		if !slices.ContainsFunc(mine, func(cl classes.Class) bool { return cl.ID == e.ClassID }) {
			return change.Refuse("history", "other-class")
		}
		cs = append(cs, e.ClassID)
	}
	act := c.Act(ctx, by, "taken-back", map[string]string{"batch": batch}, cs...)
	_, err = c.changeRosters(ctx, rosterAct{by: by, kind: "undone", source: entries[0].Source}, act, func(rs *rosters) error {
		entries, err := rs.tx.Batch(ctx, batch) // as they are now
		if err != nil {
			return err
		}
		if err := rs.tx.MarkUndone(ctx, batch, c.Now()); errors.Is(err, store.ErrNotFound) {
			return change.Refuse("history", "undone-already")
		} else if err != nil {
			return err
		}
		rs.also = true
		for _, e := range entries {
			if err := c.back(ctx, rs, e); err != nil {
				return err
			}
		}
		return nil
	})
	return err
}

// back takes one entry back in its class.
func (c *roll) back(ctx context.Context, rs *rosters, e kept.HistoryEntry) error {
	r := rs.of[e.ClassID]
	if e.Kind == "relinked" {
		return change.Refuse("history", "not-undoable") // the address says whom a row is linked to
	}
	packed, err := rs.tx.PackedSince(ctx, e.ID)
	if err != nil {
		return err
	}
	back, code := lists.Back(e.Changes, r.States(), e.Kind == "list", packed)
	if code != "" {
		return change.Refuse("history", code)
	}
	for _, row := range slices.Sorted(maps.Keys(back)) {
		if back[row] == nil {
			r.Remove(row)
		} else if at, err := r.at(row); err != nil {
			return err
		} else {
			at.Put(*back[row])
		}
	}
	if err := r.Apart(); err != nil {
		return err
	}
	if !e.Made || len(r.Rows) > 0 {
		return nil
	}
	if err := rs.tx.DeleteRows(ctx, e.ClassID, r.Removed); err != nil {
		return err
	}
	empty, err := rs.tx.Untouched(ctx, e.ClassID)
	if err != nil || !empty {
		return err
	}
	delete(rs.of, e.ClassID)
	rs.ids = slices.DeleteFunc(rs.ids, func(id string) bool { return id == e.ClassID })
	return rs.tx.DeleteClass(ctx, e.ClassID)
}
