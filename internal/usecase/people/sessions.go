package people

import (
	"context"

	"jollysatchel/internal/store/signing"
	"jollysatchel/internal/usecase/seam"
)

// Sessions are where an account is signed in, the latest used first.
func (c *People) Sessions(ctx context.Context, account string) ([]signing.Session, error) {
	return c.Store.Sessions(ctx, account)
}

// MarkSession says whose a session is, and on what.
func (c *People) MarkSession(ctx context.Context, token, account, agent string) error {
	return c.Store.MarkSession(ctx, token, account, agent, c.Now())
}

// SeeSession notes that a session is used.
func (c *People) SeeSession(ctx context.Context, token string) error {
	return c.Store.SeeSession(ctx, token, c.Now())
}

// EndSession ends one of an account's sessions.
func (c *People) EndSession(ctx context.Context, account, id string) error {
	return seam.NotFound(c.Store.EndSession(ctx, account, id))
}

// EndSessions ends all sessions of some accounts, but for one token's; empty: for none.
func (c *People) EndSessions(ctx context.Context, accounts []string, but string) error {
	return c.Store.EndSessions(ctx, accounts, but)
}
