package kept

import (
	"context"
	"time"
)

// Passed is the latest moment at which something closed that any program took to have come.
func (s Kept) Passed(ctx context.Context) (at time.Time, err error) {
	return at, s.Get(ctx, &at, `select at from passed`)
}

// SetPassed notes that a moment has come.
func (s Kept) SetPassed(ctx context.Context, at time.Time) error {
	return s.Exec(ctx, `update passed set at = $1 where at < $1`, at)
}
