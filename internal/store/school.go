package store

import (
	"context"
	"errors"
	"time"

	"jollysatchel/internal/core/school"
	"jollysatchel/internal/store/pg"
)

// SchoolSettings returns what was said; there is false where nothing ever was. Within a
// transaction, nobody else changes it until that ends.
func (s *Store) SchoolSettings(ctx context.Context) (out school.Settings, there bool, err error) {
	var row struct {
		Settings pg.AsJSON[school.Settings] `db:"settings"`
	}
	query := `select settings from school`
	if s.SQLTx() != nil {
		query += ` for update`
	}
	err = s.Get(ctx, &row, query)
	if errors.Is(err, pg.ErrNotFound) {
		return out, false, nil
	}
	return row.Settings.V, err == nil, err
}

// SaveSchoolSettings keeps what was said.
func (s *Store) SaveSchoolSettings(ctx context.Context, to school.Settings, at time.Time) error {
	return s.Exec(ctx, `insert into school (settings, changed_at) values ($1, $2) on conflict (id) do update
		set settings = excluded.settings, changed_at = excluded.changed_at`, pg.AsJSON[school.Settings]{V: to}, at)
}

// A FirstKey opens the first start once: its digest is kept, not itself.
type FirstKey struct {
	Digest  []byte    `db:"digest"`
	Address string    `db:"address"` // of the account it mends; empty: whatever is said
	Until   time.Time `db:"until"`
}

// InsertFirstKey keeps one; those before it open nothing any more.
func (s *Store) InsertFirstKey(ctx context.Context, k FirstKey) error {
	return s.Exec(ctx, `with before as (delete from first_keys
		where address = $2) insert into first_keys (digest, address, until) values ($1, $2, $3)`, k.Digest, k.Address, k.Until)
}

// FirstKey returns the key of a digest; within a transaction it is held until that ends.
func (s *Store) FirstKey(ctx context.Context, digest []byte) (FirstKey, error) {
	var k FirstKey
	query := `select digest, address, until from first_keys where digest = $1`
	if s.SQLTx() != nil {
		query += ` for update`
	}
	return k, s.Get(ctx, &k, query, digest)
}

// SpendFirstKey has a key open nothing any more.
func (s *Store) SpendFirstKey(ctx context.Context, digest []byte) error {
	return s.One(ctx, `delete from first_keys where digest = $1`, digest)
}
