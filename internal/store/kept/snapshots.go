package kept

import (
	"context"
	"database/sql"
	"time"

	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/store/pg"
)

type snapshotRow struct {
	ClassID   string       `db:"class_id"`
	HandoutID string       `db:"handout_id"`
	Thing     string       `db:"thing"`
	Version   int          `db:"version"`
	By        string       `db:"by"`
	At        time.Time    `db:"at"`
	Word      string       `db:"word"`
	Asked     bool         `db:"asked"`
	SeenBy    string       `db:"seen_by"`
	SeenAt    sql.NullTime `db:"seen_at"`
}

func (r snapshotRow) snapshot() ledger.Snapshot {
	return ledger.Snapshot{ClassID: r.ClassID, HandoutID: r.HandoutID, Thing: r.Thing, Version: r.Version, By: r.By, At: r.At.UTC(),
		Word: r.Word, Asked: r.Asked, SeenBy: r.SeenBy, SeenAt: pg.OrZero(r.SeenAt)}
}

const snapshotColumns = `class_id, handout_id, thing, version, by, at, word, asked, seen_by, seen_at`

// PutSnapshots keeps states that were shown. One that was shown before is shown again where somebody asks
// who didn't, or says something else.
func (s Kept) PutSnapshots(ctx context.Context, all []ledger.Snapshot) error {
	type one struct {
		ID      string    `json:"id"`
		Class   string    `json:"class"`
		Handout string    `json:"handout"`
		Thing   string    `json:"thing"`
		Version int       `json:"version"`
		By      string    `json:"by"`
		At      time.Time `json:"at"`
		Word    string    `json:"word"`
		Asked   bool      `json:"asked"`
	}
	rows := make([]one, len(all))
	for i, x := range all {
		rows[i] = one{pg.NewID(), x.ClassID, x.HandoutID, x.Thing, x.Version, x.By, x.At, x.Word, x.Asked}
	}
	return s.Exec(ctx, `insert into snapshots (id, class_id, handout_id, thing, version, by, at, word, asked)
		select id, class, handout, thing, version, by, at, word, asked from jsonb_to_recordset($1::jsonb) as x(id uuid, class uuid,
			handout uuid, thing text, version int, by text, at timestamptz, word text, asked boolean)
		on conflict (thing, version) do update set by = excluded.by, at = excluded.at,
			word = excluded.word, asked = excluded.asked, seen_by = '', seen_at = null
			where excluded.asked and (not snapshots.asked or excluded.word <> snapshots.word)`, pg.AsJSON[[]one]{V: rows})
}

// SnapshotsOf are the states of a draft that were shown, newest first.
func (s Kept) SnapshotsOf(ctx context.Context, thing string) ([]ledger.Snapshot, error) {
	return s.snapshots(ctx, `select `+snapshotColumns+` from snapshots where thing = $1 order by version desc`, thing)
}

// NewestSnapshots are the last states that were shown of a class's drafts, by thing.
func (s Kept) NewestSnapshots(ctx context.Context, class string) (map[string]ledger.Snapshot, error) {
	all, err := s.snapshots(ctx, `select distinct on (thing) `+snapshotColumns+` from snapshots where class_id = $1
		order by thing, version desc`, class)
	out := make(map[string]ledger.Snapshot, len(all))
	for _, x := range all {
		out[x.Thing] = x
	}
	return out, err
}

func (s Kept) snapshots(ctx context.Context, query string, args ...any) ([]ledger.Snapshot, error) {
	var rows []snapshotRow
	err := s.All(ctx, &rows, query, args...)
	out := make([]ledger.Snapshot, len(rows))
	for i, r := range rows {
		out[i] = r.snapshot()
	}
	return out, err
}

// SeeSnapshot notes who of staff looked at a state first; it reports whether it was this one.
func (s Kept) SeeSnapshot(ctx context.Context, thing string, version int, account string, at time.Time) (bool, error) {
	res, err := s.Q.ExecContext(ctx, `update snapshots set seen_by = $3, seen_at = $4
		where thing = $1 and version = $2 and seen_at is null`, thing, version, account, at)
	if err != nil {
		return false, err
	}
	n, err := res.RowsAffected()
	return n > 0, err
}
