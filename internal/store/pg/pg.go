// Package pg asks a database, in a transaction or outside of one: one row, all of them, as plain
// values; and changes it.
package pg

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jmoiron/sqlx"
)

// ErrNotFound says that there is no such row.
var ErrNotFound = errors.New("store: not found")

// A Base is a database. Its methods run on Q: the pool, or a transaction begun by InTx.
type Base struct {
	Pool *pgxpool.Pool
	DB   *sqlx.DB
	Q    sqlx.ExtContext
}

// Close ends all connections.
func (s *Base) Close() {
	s.DB.Close()
	s.Pool.Close()
}

// Alone does what no two programs may do to a database at once, under a name;
// another waits, with a connection of its own.
func (s *Base) Alone(ctx context.Context, name string, do func() error) error {
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

// InTx runs do in one transaction. Never call the cupboard inside.
func (s *Base) InTx(ctx context.Context, do func(*Base) error) error {
	tx, err := s.DB.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback()
	if err := do(&Base{Pool: s.Pool, DB: s.DB, Q: tx}); err != nil {
		return err
	}
	return tx.Commit()
}

// SQLTx returns the transaction the store runs in, nil outside of one.
func (s *Base) SQLTx() *sql.Tx {
	if tx, ok := s.Q.(*sqlx.Tx); ok {
		return tx.Tx
	}
	return nil
}

// Listen tells of each class that changes, in any program, until ctx ends or the
// database goes away. At first it tells of no class: of what changed before nobody told.
func (s *Base) Listen(ctx context.Context, tell func(class string)) error {
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

// Get reads one row; ErrNotFound where there is none.
func (s *Base) Get(ctx context.Context, into any, query string, args ...any) error {
	err := sqlx.GetContext(ctx, s.Q, into, query, args...)
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	return err
}

// All reads all rows.
func (s *Base) All(ctx context.Context, into any, query string, args ...any) error {
	return sqlx.SelectContext(ctx, s.Q, into, query, args...)
}

// Exec executes, and doesn't mind how many rows are changed.
func (s *Base) Exec(ctx context.Context, query string, args ...any) error {
	_, err := s.Q.ExecContext(ctx, query, args...)
	return err
}

// One executes and wants exactly one row changed.
func (s *Base) One(ctx context.Context, query string, args ...any) error {
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

// A Stored row is as the database holds it, and makes a plain value.
type Stored[P any] interface{ Plain() P }

// Plainly returns all rows of a query as plain values.
func Plainly[R Stored[P], P any](ctx context.Context, s *Base, query string, args ...any) ([]P, error) {
	var rows []R
	if err := s.All(ctx, &rows, query, args...); err != nil {
		return nil, err
	}
	out := make([]P, len(rows))
	for i, r := range rows {
		out[i] = r.Plain()
	}
	return out, nil
}

// OnePlainly returns the one row of a query as a plain value, or ErrNotFound.
func OnePlainly[R Stored[P], P any](ctx context.Context, s *Base, query string, args ...any) (P, error) {
	var r R
	if err := s.Get(ctx, &r, query, args...); err != nil {
		var none P
		return none, err
	}
	return r.Plain(), nil
}

// AsJSON keeps a value as jsonb.
type AsJSON[T any] struct{ V T }

// Value implements driver.Valuer.
func (j AsJSON[T]) Value() (driver.Value, error) {
	b, err := json.Marshal(j.V)
	return string(b), err
}

// Scan implements sql.Scanner.
func (j *AsJSON[T]) Scan(src any) error {
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

// OrZero is a moment, or the zero time where there is none.
func OrZero(t sql.NullTime) time.Time {
	if !t.Valid {
		return time.Time{}
	}
	return t.Time.UTC()
}
