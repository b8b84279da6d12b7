// Package store keeps classes, rosters, handouts, runs and the ledger in
// PostgreSQL. It holds no rule of the job; constraints hold those that must
// never break.
package store

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgtype"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"

	"jollysatchel/internal/store/kept"
	"jollysatchel/internal/store/mail"
	"jollysatchel/internal/store/pg"
	"jollysatchel/internal/store/sheets"
	"jollysatchel/internal/store/signing"
)

//go:embed migrations/*.sql
var migrations embed.FS

// ErrNotFound says that there is no such row.
var ErrNotFound = pg.ErrNotFound

// NewID returns a UUIDv7: ids sort by the time they were made.
func NewID() string { return pg.NewID() }

// ValidID reports whether id could be one, as we write them: others are not looked
// for.
func ValidID(id string) bool { return pg.ValidID(id) }

// Away reports that the database doesn't answer; DiskFull that it can't write.
var (
	Away     = pg.Away
	DiskFull = pg.DiskFull
)

// A Store is the application's database; what is told by mail and who signs in are subjects of their
// own within it. Its methods run on the pool, or in a transaction begun by Tx.
type Store struct {
	*pg.Base
	mail.Mail
	signing.Signing
	kept.Kept
	sheets *sheets.Cache
}

func on(b *pg.Base, cache *sheets.Cache) *Store {
	return &Store{Base: b, Mail: mail.Mail{Base: b}, Signing: signing.Signing{Base: b}, Kept: kept.Kept{Base: b}, sheets: cache}
}

// Open connects to the database at url; sqlx and the job queue share the pool.
func Open(ctx context.Context, url string) (*Store, error) {
	cfg, err := pgxpool.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("database address: %w", err)
	}
	cfg.MaxConns = max(cfg.MaxConns, 24)
	cfg.AfterConnect = func(_ context.Context, c *pgx.Conn) error { // moments are read in UTC, wherever the machine is
		c.TypeMap().RegisterType(&pgtype.Type{Name: "timestamptz", OID: pgtype.TimestamptzOID,
			Codec: &pgtype.TimestamptzCodec{ScanLocation: time.UTC}})
		return nil
	}
	pool, err := pgxpool.NewWithConfig(ctx, cfg)
	if err != nil {
		return nil, err
	}
	if err := pool.Ping(ctx); err != nil {
		pool.Close()
		return nil, fmt.Errorf("database: %w", err)
	}
	db := sqlx.NewDb(stdlib.OpenDBFromPool(pool), "pgx")
	return on(&pg.Base{Pool: pool, DB: db, Q: db}, sheets.New()), nil
}

// ErrEarlier says that the data was made by a version nothing leads on from.
var ErrEarlier = errors.New("the data was made by an earlier version and can't be taken over: begin afresh (make demo-reset)")

// ErrNewer says that the database was brought up to date by a newer version of the program, which
// this one doesn't know.
var ErrNewer = errors.New("the database is of a newer version of the program: start that one")

// Migrate brings the application's and the job queue's tables up to date.
func (s *Store) Migrate(ctx context.Context) error {
	var earlier bool
	if err := s.Get(ctx, &earlier, `select to_regclass('public.people') is not null`); err != nil {
		return err
	}
	if earlier {
		return ErrEarlier
	}
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectPostgres, s.DB.DB, dir)
	if err != nil {
		return err
	}
	known := p.ListSources()
	if at, err := p.GetDBVersion(ctx); err != nil {
		return err
	} else if at > known[len(known)-1].Version {
		return ErrNewer
	}
	if _, err := p.Up(ctx); err != nil {
		return err
	}
	m, err := rivermigrate.New(riverpgxv5.New(s.Pool), nil)
	if err != nil {
		return err
	}
	_, err = m.Migrate(ctx, rivermigrate.DirectionUp, nil)
	return err
}

// Tx runs do in one transaction. Never call the cupboard inside.
func (s *Store) Tx(ctx context.Context, do func(*Store) error) error {
	return s.InTx(ctx, func(b *pg.Base) error { return do(on(b, s.sheets)) })
}
