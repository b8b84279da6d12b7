package kept

import (
	"context"
	"errors"
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
	Draft   string    `db:"draft"` // the window it was typed in
	Base    int       `db:"base"`  // the version it was begun from
}

// ErrFull says that there are as many as may be.
var ErrFull = errors.New("kept: full")

// PutLate keeps what somebody wrote too late, in place of what they wrote so before in the same window on the
// same version; ErrFull where there would be more than most of theirs, or more than so many bytes of them.
func (s Kept) PutLate(ctx context.Context, l Late, most, bytes int) error {
	return s.InTx(ctx, func(tx *pg.Base) error {
		if err := tx.Exec(ctx, `select pg_advisory_xact_lock(hashtext($1))`, "late/"+l.Thing); err != nil {
			return err
		}
		var others struct {
			N     int `db:"n"`
			Bytes int `db:"bytes"`
		}
		if err := tx.Get(ctx, &others, `select count(*) as n, coalesce(sum(octet_length(text)), 0) as bytes from late
			where thing = $1 and account = $2 and not (draft = $3 and base = $4)`, l.Thing, l.Account, l.Draft, l.Base); err != nil {
			return err
		}
		if others.N >= most || others.N > 0 && others.Bytes+len(l.Text) > bytes {
			return ErrFull
		}
		return tx.Exec(ctx, `insert into late (thing, account, class_id, text, at, draft, base) values ($1, $2, $3, $4, $5, $6, $7)
			on conflict (thing, account, draft, base) do update set text = excluded.text, at = excluded.at`,
			l.Thing, l.Account, l.ClassID, l.Text, l.At, l.Draft, l.Base)
	})
}

// LateOf returns what somebody, or for nobody anyone, wrote in a copy after it closed, the oldest first.
func (s Kept) LateOf(ctx context.Context, thing, whose string) ([]Late, error) {
	out := []Late{}
	return out, s.All(ctx, &out, `select thing, account, class_id, text, at, draft, base from late where thing = $1
		and ($2 = '' or account = $2) order by at, account, draft`, thing, whose)
}

// CountLate is how many texts those are.
func (s Kept) CountLate(ctx context.Context, thing, whose string) (n int, err error) {
	return n, s.Get(ctx, &n, `select count(*) from late where thing = $1 and ($2 = '' or account = $2)`, thing, whose)
}

// DropLate forgets what somebody wrote too late at a moment; ErrNotFound where that isn't kept, or
// they wrote more since.
func (s Kept) DropLate(ctx context.Context, thing, account string, at time.Time) error {
	res, err := s.Q.ExecContext(ctx, `delete from late where thing = $1 and account = $2 and at = $3`, thing, account, at)
	if err != nil {
		return err
	}
	if n, err := res.RowsAffected(); err != nil || n == 0 {
		return pg.ErrNotFound
	}
	return nil
}
