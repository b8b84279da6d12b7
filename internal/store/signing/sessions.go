// Package signing keeps who is signed in and from where, who may be let in, and by which codes and
// pictures.
package signing

import (
	"context"
	"time"

	"jollysatchel/internal/store/pg"
)

// Signing is the part of the store that keeps it.
type Signing struct{ *pg.Base }

// A Session is somebody signed in on something.
type Session struct {
	ID      string    `db:"id"`
	Token   string    `db:"token"`
	Agent   string    `db:"agent"` // what it is used with
	BeganAt time.Time `db:"began_at"`
	SeenAt  time.Time `db:"seen_at"`
	Until   time.Time `db:"expiry"`
}

// MarkSession says whose a session is, and on what.
func (s Signing) MarkSession(ctx context.Context, token, account, agent string, at time.Time) error {
	return s.One(ctx, `update sessions set id = $2, account = $3, agent = $4, began_at = $5, seen_at = $5
		where token = $1`, token, pg.NewID(), account, agent, at)
}

// SeeSession notes that a session is used.
func (s Signing) SeeSession(ctx context.Context, token string, at time.Time) error {
	return s.Exec(ctx, `update sessions set seen_at = $2 where token = $1 and seen_at < $2::timestamptz - interval '1 minute'`, token, at)
}

// Sessions are an account's, the latest used first.
func (s Signing) Sessions(ctx context.Context, account string) ([]Session, error) {
	out := []Session{}
	return out, s.All(ctx, &out, `select id, token, agent, began_at, seen_at, expiry from sessions
		where account = $1 and account <> '' and expiry > current_timestamp order by seen_at desc, id limit 100`, account)
}

// EndSession ends one of an account's.
func (s Signing) EndSession(ctx context.Context, account, id string) error {
	return s.One(ctx, `delete from sessions where account = $1 and account <> '' and id = $2 and id <> ''`, account, id)
}

// EndSessions ends all of some accounts, but for one token's; empty: for none.
func (s Signing) EndSessions(ctx context.Context, accounts []string, but string) error {
	return s.Exec(ctx, `delete from sessions where account = any($1) and account <> '' and token <> $2`, accounts, but)
}
