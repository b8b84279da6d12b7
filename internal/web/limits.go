package web

import (
	"sync"
	"time"

	"golang.org/x/time/rate"
)

// mostNames are remembered by a limiter. Anyone who comes when there are as many shares one allowance
// with all others who do, until some are forgotten.
const mostNames = 100_000

// A limiter allows each name so many events a second, with a burst.
type limiter struct {
	mu    sync.Mutex
	rate  rate.Limit
	burst int
	names map[string]*rate.Limiter
	swept time.Time
}

func newLimiter(perSecond float64, burst int) *limiter {
	return &limiter{rate: rate.Limit(perSecond), burst: burst, names: map[string]*rate.Limiter{}}
}

// allow spends one, where there is one left.
func (l *limiter) allow(name string) bool { return l.allowN(name, 1) }

// allowN spends n, where that many are left; n is at most the burst.
func (l *limiter) allowN(name string, n int) bool {
	return l.of(name, func(one *rate.Limiter, now time.Time) bool { return one.AllowN(now, n) })
}

// giveBack takes one that was spent back.
func (l *limiter) giveBack(name string) {
	l.of(name, func(one *rate.Limiter, now time.Time) bool { return one.AllowN(now, -1) })
}

func (l *limiter) of(name string, ask func(*rate.Limiter, time.Time) bool) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	now := time.Now()
	if now.Sub(l.swept) > time.Minute || len(l.names) >= mostNames && now.Sub(l.swept) > time.Second { // forget who has all tries again
		for k, v := range l.names {
			if v.TokensAt(now) >= float64(l.burst) {
				delete(l.names, k)
			}
		}
		l.swept = now
	}
	one, ok := l.names[name]
	if !ok && len(l.names) >= mostNames {
		name = "" // nobody is called that
		one, ok = l.names[name]
	}
	if !ok {
		one = rate.NewLimiter(l.rate, l.burst)
		l.names[name] = one
	}
	return ask(one, now)
}
