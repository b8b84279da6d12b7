// Package standin is the cupboard that ships with Jolly Satchel. It behaves
// like a storage service reached over a network, weather included.
package standin

import (
	"context"
	"database/sql"
	"embed"
	"io/fs"

	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/database"

	"jollysatchel/internal/clock"
	"jollysatchel/internal/cupboard"
)

//go:embed migrations/*.sql
var migrations embed.FS

// A Standin is a cupboard on PostgreSQL, in the schema standin.
type Standin struct {
	db      *sqlx.DB
	now     clock.Clock
	weather *weather
}

var _ cupboard.Cupboard = (*Standin)(nil)

// New returns the stand-in on db. Migrate must have been called on it once.
func New(db *sqlx.DB, now clock.Clock) *Standin {
	return &Standin{db: db, now: now, weather: newWeather()}
}

// Migrate brings the stand-in's schema up to date.
func Migrate(ctx context.Context, db *sql.DB) error {
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	store, err := database.NewStore(database.DialectPostgres, "standin_versions")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectCustom, db, dir, goose.WithStore(store))
	if err != nil {
		return err
	}
	if _, err := p.Up(ctx); err != nil {
		return err
	}
	return mendFeed(ctx, db)
}

// AddPeople makes accounts known.
func (s *Standin) AddPeople(ctx context.Context, accounts ...string) error {
	_, err := s.db.ExecContext(ctx, `insert into standin.people (account) select unnest($1::text[]) on conflict do nothing`, accounts)
	return err
}

// RemovePeople makes accounts unknown again that own nothing.
func (s *Standin) RemovePeople(ctx context.Context, accounts ...string) error {
	_, err := s.db.ExecContext(ctx, `delete from standin.people p
		where account = any($1::text[]) and not exists (select 1 from standin.things where owner = p.account)`, accounts)
	return err
}

// tx runs do in a transaction.
func (s *Standin) tx(ctx context.Context, do func(*sqlx.Tx) error) error {
	tx, err := s.db.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback()
	if err := do(tx); err != nil {
		return err
	}
	return tx.Commit()
}
