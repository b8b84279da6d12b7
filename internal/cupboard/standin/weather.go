package standin

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"strconv"
	"strings"
	"sync"
	"time"

	"golang.org/x/time/rate"

	"jollysatchel/internal/cupboard"
)

// Weather is what the stand-in is told to suffer. The zero value is calm.
type Weather struct {
	Delay  time.Duration // before each answer
	Errors float64       // share of requests that fail without effect
	Lost   float64       // share of requests that are done and not answered
	Limit  float64       // requests a second; 0: no limit
	// Unknown are accounts that it takes for people it doesn't know.
	Unknown []string
}

// Calm reports that nothing is suffered.
func (w Weather) Calm() bool {
	return w.Delay == 0 && w.Errors == 0 && w.Lost == 0 && w.Limit == 0 && len(w.Unknown) == 0
}

// KeepWeather keeps a weather, under the name of what suffers it, for the next start.
func (s *Standin) KeepWeather(ctx context.Context, of string, weather any) error {
	b, err := json.Marshal(weather)
	if err != nil {
		return err
	}
	_, err = s.db.ExecContext(ctx, `insert into standin.weather (name, said) values ($1, $2) on conflict (name) do update
		set said = excluded.said`, of, string(b))
	return err
}

// KeptWeather fills into with the weather that was kept; where none was, it is left as it is.
func (s *Standin) KeptWeather(ctx context.Context, of string, into any) error {
	var b []byte
	if err := s.db.GetContext(ctx, &b, `select said from standin.weather where name = $1`, of); err != nil {
		if errors.Is(err, sql.ErrNoRows) {
			return nil
		}
		return err
	}
	return json.Unmarshal(b, into)
}

// ParseWeather reads "delay=300ms,errors=0.2,lost=0.05,limit=20"; every part
// may be left out.
func ParseWeather(s string) (Weather, error) {
	var w Weather
	for _, part := range strings.Split(s, ",") {
		if part = strings.TrimSpace(part); part == "" {
			continue
		}
		name, value, _ := strings.Cut(part, "=")
		var err error
		switch name {
		case "delay":
			w.Delay, err = time.ParseDuration(value)
		case "errors":
			w.Errors, err = strconv.ParseFloat(value, 64)
		case "lost":
			w.Lost, err = strconv.ParseFloat(value, 64)
		case "limit":
			w.Limit, err = strconv.ParseFloat(value, 64)
		default:
			err = fmt.Errorf("no such part")
		}
		if err != nil {
			return w, fmt.Errorf("weather %q: %w", part, err)
		}
	}
	return w, nil
}

type weather struct {
	mu       sync.Mutex
	now      Weather
	limiter  *rate.Limiter
	random   *rand.Rand
	requests int
	refused  int // of those, for coming too fast
}

func newWeather() *weather { return &weather{random: rand.New(rand.NewPCG(7, 41))} }

// SetWeather changes what the stand-in suffers from now on.
func (s *Standin) SetWeather(w Weather) {
	s.weather.mu.Lock()
	defer s.weather.mu.Unlock()
	s.weather.now, s.weather.limiter = w, nil
	if w.Limit > 0 {
		s.weather.limiter = rate.NewLimiter(rate.Limit(w.Limit), max(1, int(w.Limit)))
	}
}

// Weather returns what the stand-in suffers now.
func (s *Standin) Weather() Weather {
	s.weather.mu.Lock()
	defer s.weather.mu.Unlock()
	return s.weather.now
}

// Figures are how much the stand-in holds.
type Figures struct {
	Folders  int64 `db:"folders"`
	Files    int64 `db:"files"`
	Pointers int64 `db:"pointers"`
	Binned   int64 `db:"binned"` // things in the bin, with what is in them
	Versions int64 `db:"versions"`
	Contents int64 `db:"contents"` // distinct
	Bytes    int64 `db:"bytes"`    // that those weigh
	People   int64 `db:"people"`
	Requests int64 // answered or refused since the program began
}

// Figures counts what the stand-in holds. It suffers no weather.
func (s *Standin) Figures(ctx context.Context) (Figures, error) {
	var f Figures
	err := s.db.GetContext(ctx, &f, `select
		count(*) filter (where kind = 'folder') as folders, count(*) filter (where kind = 'file') as files,
			count(*) filter (where kind = 'pointer') as pointers,
		(select count(*) from standin.things t where exists (select 1 from standin.things b
			where b.bin_until is not null and (b.id = t.id or b.id = any(t.above)))) as binned,
		(select count(*) from standin.versions) as versions, (select count(*) from standin.contents) as contents,
			(select coalesce(sum(size), 0) from standin.contents) as bytes,
		(select count(*) from standin.people) as people
		from standin.things`)
	f.Requests = int64(s.Requests())
	return f, err
}

// Requests returns how many requests the stand-in has answered or refused.
func (s *Standin) Requests() int {
	s.weather.mu.Lock()
	defer s.weather.mu.Unlock()
	return s.weather.requests
}

// Answered returns how many of them weren't refused for coming too fast.
func (s *Standin) Answered() int {
	s.weather.mu.Lock()
	defer s.weather.mu.Unlock()
	return s.weather.requests - s.weather.refused
}

// suffer does one request in the present weather.
func suffer[T any](ctx context.Context, w *weather, do func() (T, error)) (T, error) {
	var none T
	w.mu.Lock()
	w.requests++
	now := w.now
	fails, lost := w.random.Float64() < now.Errors, w.random.Float64() < now.Lost
	var wait time.Duration
	if w.limiter != nil {
		if r := w.limiter.Reserve(); r.Delay() > 0 {
			wait = r.Delay()
			r.Cancel()
		}
	}
	if wait > 0 {
		w.refused++
	}
	w.mu.Unlock()
	if wait > 0 {
		return none, &cupboard.TooFast{After: wait}
	}
	if now.Delay > 0 {
		select {
		case <-ctx.Done():
			return none, ctx.Err()
		case <-time.After(now.Delay):
		}
	}
	if fails {
		return none, cupboard.ErrUnavailable
	}
	out, err := do()
	if lost {
		return none, cupboard.ErrUnavailable
	}
	return out, err
}
