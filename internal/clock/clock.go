// Package clock gives the program its one source of time.
package clock

import (
	"os"
	"sync"
	"time"
)

// A Clock says what time it is.
type Clock func() time.Time

// Ahead names the environment variable that sets System ahead of the machine's clock, or
// behind it: a duration such as 36h. The whole check is run at chosen moments with it.
const Ahead = "JOLLY_CLOCK_AHEAD"

var ahead = func() time.Duration {
	d, _ := time.ParseDuration(os.Getenv(Ahead)) // nothing said: 0
	return d
}()

// System is the machine's clock, in UTC, to the microsecond the database keeps.
func System() time.Time { return time.Now().Add(ahead).UTC().Truncate(time.Microsecond) }

// A Manual clock stands still until it is set: the demo plays its days with it.
type Manual struct {
	mu  sync.Mutex
	now time.Time
}

// Set puts the clock to t.
func (m *Manual) Set(t time.Time) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.now = t.UTC().Truncate(time.Microsecond)
}

// Now is the time last set; each reading moves it on by a millisecond, so that
// things done one after the other keep their order.
func (m *Manual) Now() time.Time {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.now = m.now.Add(time.Millisecond)
	return m.now
}
