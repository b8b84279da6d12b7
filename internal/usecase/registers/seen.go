package registers

import (
	"context"
	"time"
)

// Seen says when the cupboard was last looked at, where that is so long ago that
// it matters to who looks at a page.
func (c *Registers) Seen(ctx context.Context) (time.Time, bool, error) {
	at, err := c.Store.FeedReadAt(ctx)
	return at, err == nil && !at.IsZero() && c.Now().Sub(at) > stale, err
}

// stale is how long ago the cupboard may have been looked at without a word.
const stale = time.Minute
