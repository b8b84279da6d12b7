package store

import (
	"context"
	"time"

	"jollysatchel/internal/store/pg"
)

// A Late is what somebody wrote in a copy after it closed.
type Late struct {
	Thing   string    `db:"thing"`
	Account string    `db:"account"`
	ClassID string    `db:"class_id"`
	Text    string    `db:"text"`
	At      time.Time `db:"at"`
}

// PutLate keeps what somebody wrote too late, in place of what they wrote so before.
func (s *Store) PutLate(ctx context.Context, l Late) error {
	return s.Exec(ctx, `insert into late (thing, account, class_id, text, at) values ($1, $2, $3, $4, $5)
		on conflict (thing, account) do update set text = excluded.text, at = excluded.at`,
		l.Thing, l.Account, l.ClassID, l.Text, l.At)
}

// LateOf returns what was written in a copy after it closed, the oldest first.
func (s *Store) LateOf(ctx context.Context, thing string) ([]Late, error) {
	out := []Late{}
	return out, s.All(ctx, &out, `select thing, account, class_id, text, at from late where thing = $1 order by at, account`, thing)
}

// DropLate forgets what somebody wrote too late at a moment; ErrNotFound where that isn't kept, or
// they wrote more since.
func (s *Store) DropLate(ctx context.Context, thing, account string, at time.Time) error {
	res, err := s.Q.ExecContext(ctx, `delete from late where thing = $1 and account = $2 and at = $3`, thing, account, at)
	if err != nil {
		return err
	}
	if n, err := res.RowsAffected(); err != nil || n == 0 {
		return pg.ErrNotFound
	}
	return nil
}
