package kept

import (
	"context"
	"time"

	"jollysatchel/internal/core/lists"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/store/pg"
)

// A HistoryEntry is one change of a class's roster. Entries of one batch were
// made by one act.
type HistoryEntry struct {
	ID       string            `db:"id"`
	ClassID  string            `db:"class_id"`
	Batch    string            `db:"batch"`
	At       time.Time         `db:"at"`
	Account  string            `db:"account"`
	Kind     string            `db:"kind"` // list, edit, added, left, returned, undone, relinked
	Source   string            `db:"source"`
	Changes  []lists.RowChange `db:"-"`
	Made     bool              `db:"made"` // the class was made by this act
	UndoneAt *time.Time        `db:"undone_at"`
}

type historyRow struct {
	HistoryEntry
	Changes pg.AsJSON[[]lists.RowChange] `db:"changes"`
}

func (r historyRow) Plain() HistoryEntry {
	r.HistoryEntry.Changes = r.Changes.V
	return r.HistoryEntry
}

const historyColumns = `id, class_id, batch, at, account, kind, source, changes, made, undone_at`

// InsertHistory keeps an entry, with the class's wants as they will be once the
// change it is part of is kept.
func (s Kept) InsertHistory(ctx context.Context, h HistoryEntry) error {
	return s.Exec(ctx, `insert into roster_history (`+historyColumns+`, wants) select $1, $2, $3, $4, $5, $6, $7, $8, $9,
		$10, wants + 1 from classes where id = $2`,
		h.ID, h.ClassID, h.Batch, h.At, h.Account, h.Kind, h.Source, pg.AsJSON[[]lists.RowChange]{V: h.Changes}, h.Made, h.UndoneAt)
}

// History returns the latest entries of a class, newest first.
func (s Kept) History(ctx context.Context, class string, most int) ([]HistoryEntry, error) {
	return pg.Plainly[historyRow](ctx, s.Base, `select `+historyColumns+` from roster_history where class_id = $1
		order by n desc limit $2`, class, most)
}

// HistorySince returns the entries of a class from an act on, newest first.
func (s Kept) HistorySince(ctx context.Context, class, batch string) ([]HistoryEntry, error) {
	if !pg.ValidID(batch) {
		return nil, pg.ErrNotFound
	}
	out, err := pg.Plainly[historyRow](ctx, s.Base, `select `+historyColumns+` from roster_history
		where class_id = $1 and n >= (select min(n) from roster_history where class_id = $1 and batch = $2) order by n desc`, class, batch)
	if err == nil && len(out) == 0 {
		err = pg.ErrNotFound
	}
	return out, err
}

// Batch returns the entries of one act in all classes.
func (s Kept) Batch(ctx context.Context, batch string) ([]HistoryEntry, error) {
	if !pg.ValidID(batch) {
		return nil, nil
	}
	return pg.Plainly[historyRow](ctx, s.Base, `select `+historyColumns+` from roster_history where batch = $1 order by n`, batch)
}

// MarkUndone notes that an act was taken back.
func (s Kept) MarkUndone(ctx context.Context, batch string, at time.Time) error {
	return s.One(ctx, `update roster_history set undone_at = $2 where batch = $1 and undone_at is null`, batch, at)
}

// PackedSince reports whether anything was packed in a class after an entry of
// its history, whatever the clock says.
func (s Kept) PackedSince(ctx context.Context, entry string) (bool, error) {
	var packed bool
	return packed, s.Get(ctx, &packed, `select exists (select 1 from roster_history h
		join runs r on r.class_id = h.class_id and r.wants > h.wants where h.id = $1)`, entry)
}

// Shape returns what an account said about lists of a shape.
func (s Kept) Shape(ctx context.Context, account, shape string) (map[int]roster.Role, error) {
	var roles pg.AsJSON[map[int]roster.Role]
	err := s.Get(ctx, &roles, `select roles from shapes where account = $1 and shape = $2`, account, shape)
	return roles.V, err
}

// SaveShape keeps what an account said about lists of a shape.
func (s Kept) SaveShape(ctx context.Context, account, shape string, roles map[int]roster.Role) error {
	return s.Exec(ctx, `insert into shapes (account, shape, roles) values ($1, $2, $3)
		on conflict (account, shape) do update set roles = excluded.roles`,
		account, shape, pg.AsJSON[map[int]roster.Role]{V: roles})
}
