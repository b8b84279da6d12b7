package seam

import (
	"context"
	"time"

	"jollysatchel/internal/core/handout"
)

// wobble is how far a clock may go back, or be behind another program's, without opening what closed: one
// that goes back further was wrong before.
const wobble = 15 * time.Minute

// Closed reports whether something has closed: by our own clock, or because it was taken to have before, by
// this program or another, and the clock went back since.
func (c *House) Closed(ctx context.Context, closing handout.Closing) (bool, error) {
	now := c.Now()
	switch early := closing.At.Sub(now); {
	case early > wobble:
		return false, nil
	case early > 0:
		latest, err := c.Store.Passed(ctx)
		return !latest.Before(closing.At), err
	case early < -wobble: // no clock that is right says otherwise
		return true, nil
	}
	if seen := c.passed.Load(); seen != nil && !seen.Before(closing.At) {
		return true, nil
	}
	at := closing.At
	if err := c.Store.SetPassed(ctx, at); err != nil {
		return true, err
	}
	c.passed.Store(&at)
	return true, nil
}
