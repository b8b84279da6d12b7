// Package store keeps classes, rosters, handouts, runs and the ledger in
// PostgreSQL. It holds no rule of the job; constraints hold those that must
// never break.
package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgtype"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"

	"jollysatchel/internal/core/roster"
)

//go:embed migrations/*.sql
var migrations embed.FS

// ErrNotFound says that there is no such row.
var ErrNotFound = errors.New("store: not found")

// A Store is the application's database. Its methods run on Q: the pool, or a
// transaction begun by Tx.
type Store struct {
	Pool   *pgxpool.Pool
	DB     *sqlx.DB
	Q      sqlx.ExtContext
	sheets *sheetCache
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
	return &Store{Pool: pool, DB: db, Q: db, sheets: &sheetCache{rows: map[sheetKey][]roster.Row{}}}, nil
}

// Close ends all connections.
func (s *Store) Close() {
	s.DB.Close()
	s.Pool.Close()
}

// ErrEarlier says that the data was made by a version nothing leads on from.
var ErrEarlier = errors.New("the data was made by an earlier version and can't be taken over: begin afresh (make demo-reset)")

// ErrNewer says that the database was brought up to date by a newer version of the program, which
// this one doesn't know.
var ErrNewer = errors.New("the database is of a newer version of the program: start that one")

// Alone does what no two programs may do to a database at once, under a name;
// another waits, with a connection of its own.
func (s *Store) Alone(ctx context.Context, name string, do func() error) error {
	conn, err := s.Pool.Acquire(ctx)
	if err != nil {
		return err
	}
	defer conn.Release()
	if _, err := conn.Exec(ctx, `select pg_advisory_lock(hashtextextended($1, 0))`, name); err != nil {
		return err
	}
	defer func() {
		if _, err := conn.Exec(context.WithoutCancel(ctx), `select pg_advisory_unlock(hashtextextended($1, 0))`, name); err != nil {
			conn.Conn().Close(context.WithoutCancel(ctx)) // which gives it up as well
		}
	}()
	return do()
}

// Migrate brings the application's and the job queue's tables up to date.
func (s *Store) Migrate(ctx context.Context) error {
	var earlier bool
	if err := s.get(ctx, &earlier, `select to_regclass('public.people') is not null`); err != nil {
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
	tx, err := s.DB.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback()
	if err := do(&Store{Pool: s.Pool, DB: s.DB, Q: tx, sheets: s.sheets}); err != nil {
		return err
	}
	return tx.Commit()
}

// SQLTx returns the transaction the store runs in, nil outside of one.
func (s *Store) SQLTx() *sql.Tx {
	if tx, ok := s.Q.(*sqlx.Tx); ok {
		return tx.Tx
	}
	return nil
}

// Listen tells of each class that changes, in any program, until ctx ends or the
// database goes away. At first it tells of no class: of what changed before nobody told.
func (s *Store) Listen(ctx context.Context, tell func(class string)) error {
	conn, err := s.Pool.Acquire(ctx)
	if err != nil {
		return err
	}
	defer conn.Release()
	if _, err := conn.Exec(ctx, "listen jolly"); err != nil {
		return err
	}
	tell("")
	for {
		n, err := conn.Conn().WaitForNotification(ctx)
		if err != nil {
			return err
		}
		tell(n.Payload)
	}
}

func (s *Store) get(ctx context.Context, into any, query string, args ...any) error {
	err := sqlx.GetContext(ctx, s.Q, into, query, args...)
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	return err
}

func (s *Store) all(ctx context.Context, into any, query string, args ...any) error {
	return sqlx.SelectContext(ctx, s.Q, into, query, args...)
}

func (s *Store) exec(ctx context.Context, query string, args ...any) error {
	_, err := s.Q.ExecContext(ctx, query, args...)
	return err
}

// one executes and wants exactly one row changed.
func (s *Store) one(ctx context.Context, query string, args ...any) error {
	res, err := s.Q.ExecContext(ctx, query, args...)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return ErrNotFound
	}
	return nil
}

// NewID returns a UUIDv7: ids sort by the time they were made.
func NewID() string { return uuid.Must(uuid.NewV7()).String() }

// ValidID reports whether id could be one, as we write them: others are not looked
// for.
func ValidID(id string) bool {
	u, err := uuid.Parse(id)
	return err == nil && u.String() == id
}

// A stored row is as the database holds it, and makes a plain value.
type stored[P any] interface{ plain() P }

// plainly returns all rows of a query as plain values.
func plainly[R stored[P], P any](ctx context.Context, s *Store, query string, args ...any) ([]P, error) {
	var rows []R
	if err := s.all(ctx, &rows, query, args...); err != nil {
		return nil, err
	}
	out := make([]P, len(rows))
	for i, r := range rows {
		out[i] = r.plain()
	}
	return out, nil
}

// onePlainly returns the one row of a query as a plain value, or ErrNotFound.
func onePlainly[R stored[P], P any](ctx context.Context, s *Store, query string, args ...any) (P, error) {
	var r R
	if err := s.get(ctx, &r, query, args...); err != nil {
		var none P
		return none, err
	}
	return r.plain(), nil
}

// asJSON keeps a value as jsonb.
type asJSON[T any] struct{ V T }

// Value implements driver.Valuer.
func (j asJSON[T]) Value() (driver.Value, error) {
	b, err := json.Marshal(j.V)
	return string(b), err
}

// Scan implements sql.Scanner.
func (j *asJSON[T]) Scan(src any) error {
	switch v := src.(type) {
	case nil:
		return nil
	case []byte:
		return json.Unmarshal(v, &j.V)
	case string:
		return json.Unmarshal([]byte(v), &j.V)
	}
	return fmt.Errorf("jsonb from %T", src)
}
