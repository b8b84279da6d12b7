package store

import (
	"bytes"
	"context"
	"encoding/gob"
	"errors"
	"slices"
	"time"

	"jollysatchel/internal/core/draft"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/store/pg"
	"jollysatchel/internal/store/sheets"
)

// HoldDraft keeps a class's draft from being changed by others until the
// transaction ends. Where classes are held too, they are held before.
func (s *Store) HoldDraft(ctx context.Context, class string) error {
	return s.Exec(ctx, `select pg_advisory_xact_lock(hashtextextended('draft ' || $1, 0))`, class)
}

// PutDraft keeps a list in place of the one the class had. original is what a
// text was read from, where that can be done in several ways.
func (s *Store) PutDraft(ctx context.Context, d draft.Draft, original []byte) error {
	if err := s.Exec(ctx, `delete from drafts where class_id = $1`, d.ClassID); err != nil {
		return err
	}
	if err := s.Exec(ctx, `insert into drafts (id, class_id, revision, source, settings, original, changed_at)
		values ($1, $2, 1, $3, $4, $5, $6)`,
		d.ID, d.ClassID, d.Source, pg.AsJSON[draft.Settings]{V: d.Settings}, original, d.ChangedAt); err != nil {
		return err
	}
	if err := s.putSheets(ctx, d); err != nil {
		return err
	}
	for _, sheet := range d.Sheets { // looked at next, and they never change; should this fail yet, nobody asks for them
		s.sheets.Put(sheets.Key{Draft: d.ID, Sheet: sheet.Name, Encoding: d.Settings.Encoding}, sheet.Rows)
	}
	return nil
}

func (s *Store) putSheets(ctx context.Context, d draft.Draft) error {
	for n, sheet := range d.Sheets {
		var b bytes.Buffer
		if err := gob.NewEncoder(&b).Encode(sheet.Rows); err != nil {
			return err
		}
		if err := s.Exec(ctx, `insert into draft_sheets (draft_id, n, name, hidden, hidden_columns, rows) values ($1, $2, $3, $4, $5, $6)`,
			d.ID, n, sheet.Name, sheet.Hidden, pg.AsJSON[[]int]{V: sheet.HiddenColumns}, b.Bytes()); err != nil {
			return err
		}
	}
	return nil
}

// Draft returns a class's draft without its rows.
func (s *Store) Draft(ctx context.Context, class string) (draft.Draft, error) {
	if !pg.ValidID(class) {
		return draft.Draft{}, pg.ErrNotFound
	}
	var d struct {
		ID        string                    `db:"id"`
		Revision  int64                     `db:"revision"`
		Source    string                    `db:"source"`
		Settings  pg.AsJSON[draft.Settings] `db:"settings"`
		Ambiguous bool                      `db:"ambiguous"`
		ChangedAt time.Time                 `db:"changed_at"`
	}
	if err := s.Get(ctx, &d, `select id, revision, source, settings, original is not null as ambiguous, changed_at
		from drafts where class_id = $1`, class); err != nil {
		return draft.Draft{}, err
	}
	out := draft.Draft{ID: d.ID, ClassID: class, Revision: d.Revision, Source: d.Source, Settings: d.Settings.V,
		Ambiguous: d.Ambiguous, ChangedAt: d.ChangedAt.UTC()}
	var found []struct {
		Name          string           `db:"name"`
		Hidden        bool             `db:"hidden"`
		HiddenColumns pg.AsJSON[[]int] `db:"hidden_columns"`
	}
	if err := s.All(ctx, &found, `select name, hidden, hidden_columns from draft_sheets where draft_id = $1 order by n`, d.ID); err != nil {
		return draft.Draft{}, err
	}
	for _, sh := range found {
		out.Sheets = append(out.Sheets, draft.Sheet{Name: sh.Name, Hidden: sh.Hidden, HiddenColumns: sh.HiddenColumns.V})
	}
	return out, nil
}

// HasDraft reports whether a list waits in a class.
func (s *Store) HasDraft(ctx context.Context, class string) (bool, error) {
	var there bool
	return there, s.Get(ctx, &there, `select exists (select 1 from drafts where class_id = $1)`, class)
}

// DraftOriginal returns what an ambiguous draft was read from.
func (s *Store) DraftOriginal(ctx context.Context, draft string) ([]byte, error) {
	var b []byte
	return b, s.Get(ctx, &b, `select original from drafts where id = $1 and original is not null`, draft)
}

// RereadDraft puts other rows in place of a draft's: the same list, its letters
// read in another way. What was corrected in its cells is kept.
func (s *Store) RereadDraft(ctx context.Context, d draft.Draft) error {
	if err := s.Exec(ctx, `delete from draft_sheets where draft_id = $1`, d.ID); err != nil {
		return err
	}
	s.sheets.Forget(d.ID)
	return s.putSheets(ctx, d)
}

// DraftRows returns the rows of a draft's sheet as they were corrected. They are
// shared with others: nobody writes to them.
func (s *Store) DraftRows(ctx context.Context, d draft.Draft) ([]roster.Row, error) {
	rows, err := s.sheetRows(ctx, d)
	if err != nil {
		return nil, err
	}
	var cells []draft.Cell
	if err := s.All(ctx, &cells, `select line, field, value from draft_cells
		where draft_id = $1 and sheet = $2`, d.ID, d.Settings.Sheet); err != nil || len(cells) == 0 {
		return rows, err
	}
	rows = slices.Clone(rows)
	at := make(map[int]int, len(cells))
	for _, c := range cells {
		at[c.Line] = -1
	}
	for i, r := range rows {
		if _, wanted := at[r.Line]; wanted {
			at[r.Line] = i
			rows[i].Cells = slices.Clone(r.Cells)
		}
	}
	for _, c := range cells {
		i := at[c.Line]
		if i < 0 {
			continue
		}
		for len(rows[i].Cells) <= c.Field {
			rows[i].Cells = append(rows[i].Cells, "")
		}
		rows[i].Cells[c.Field] = c.Value
	}
	return rows, nil
}

func (s *Store) sheetRows(ctx context.Context, d draft.Draft) ([]roster.Row, error) {
	key := sheets.Key{Draft: d.ID, Sheet: d.Settings.Sheet, Encoding: d.Settings.Encoding}
	if rows, ok := s.sheets.Get(key); ok {
		return rows, nil
	}
	var b []byte
	if err := s.Get(ctx, &b, `select rows from draft_sheets where draft_id = $1 and name = $2`, d.ID, d.Settings.Sheet); err != nil {
		if errors.Is(err, pg.ErrNotFound) {
			return nil, nil
		}
		return nil, err
	}
	var rows []roster.Row
	if err := gob.NewDecoder(bytes.NewReader(b)).Decode(&rows); err != nil {
		return nil, err
	}
	s.sheets.Put(key, rows)
	return rows, nil
}

// SetDraftCell keeps a corrected cell.
func (s *Store) SetDraftCell(ctx context.Context, d draft.Draft, c draft.Cell) error {
	return s.Exec(ctx, `insert into draft_cells (draft_id, sheet, line, field, value) values ($1, $2, $3, $4, $5)
		on conflict (draft_id, sheet, line, field) do update set value = excluded.value`,
		d.ID, d.Settings.Sheet, c.Line, c.Field, c.Value)
}

// SaveDraft keeps what was answered about a draft and returns its new revision.
func (s *Store) SaveDraft(ctx context.Context, d draft.Draft) (int64, error) {
	var revision int64
	return revision, s.Get(ctx, &revision, `update drafts set settings = $2, changed_at = $3, revision = revision + 1
		where id = $1 returning revision`, d.ID, pg.AsJSON[draft.Settings]{V: d.Settings}, d.ChangedAt)
}

// DeleteDraft forgets a draft by its id.
func (s *Store) DeleteDraft(ctx context.Context, draft string) error {
	return s.One(ctx, `delete from drafts where id = $1`, draft)
}
