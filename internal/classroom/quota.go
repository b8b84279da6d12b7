package classroom

import (
	"context"
	"io"
	"slices"
	"strconv"
	"sync"

	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/cupboard"
)

// Filled is how much of a satchel, or of a place the class writes in together, is
// filled, in bytes.
type Filled struct{ Used, Most int64 }

// counted returns the place around a thing whose content is counted: a satchel, the
// table, or a place of the class's own; empty outside of those.
func (c *Things) counted(ctx context.Context, t cupboard.Thing) (place string, err error) {
	ids := []string{t.ID}
	for _, crumb := range slices.Backward(t.Path) { // the nearest counts
		ids = append(ids, crumb.ID)
	}
	entries, err := c.Store.EntriesByThing(ctx, ids)
	if err != nil {
		return "", err
	}
	for _, id := range ids {
		e, there := entries[id]
		if p := e.Key.What.Purpose; there && (p == packing.Satchel || p == packing.Table || p == packing.Place) {
			return id, nil
		}
	}
	return "", nil
}

// filled says how much there is in a place that is counted.
func (c *Things) filled(ctx context.Context, account, place string) (Filled, error) {
	f := Filled{Most: c.School().Quota}
	if f.Most == 0 {
		f.Most = UsualQuota
	}
	var err error
	f.Used, err = c.cup.Weight(ctx, account, place)
	return f, notFound(err)
}

// roomFor lets no more of a content through than there is room for around a thing,
// beside what comes in there at the same time. done is told whether it was kept.
func (c *Things) roomFor(ctx context.Context, account string, t cupboard.Thing, content io.Reader) (room io.Reader, done func(error), err error) {
	place, err := c.counted(ctx, t)
	if err != nil || place == "" {
		return content, func(error) {}, err
	}
	r := &roomFor{r: content, coming: &c.coming, place: place}
	r.coming.begin(place) // before it is weighed: what is kept meanwhile counts here or there
	if r.of, err = c.filled(ctx, account, place); err != nil {
		r.end(err)
		return nil, nil, err
	}
	return r, r.end, nil
}

type roomFor struct {
	r      io.Reader
	of     Filled
	coming *coming
	place  string
	mine   int64
}

func (r *roomFor) Read(p []byte) (int, error) {
	n, err := r.r.Read(p)
	r.mine += int64(n)
	if r.of.Used+r.coming.add(r.place, int64(n)) > r.of.Most {
		return 0, &Invalid{"file", "full", map[string]string{"most": strconv.FormatInt(r.of.Most/1_000_000, 10)}}
	}
	return n, err
}

func (r *roomFor) end(err error) {
	if err == nil {
		r.mine = 0 // it counts until nothing comes in any more
	}
	r.coming.end(r.place, r.mine)
}

// coming counts what comes into each place of this program since it was last quiet
// there.
type coming struct {
	mu     sync.Mutex
	places map[string]*arrivals
}

type arrivals struct {
	bytes int64
	now   int // how many are on their way
}

func (k *coming) begin(place string) {
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.places == nil {
		k.places = map[string]*arrivals{}
	}
	if k.places[place] == nil {
		k.places[place] = &arrivals{}
	}
	k.places[place].now++
}

func (k *coming) add(place string, n int64) int64 {
	k.mu.Lock()
	defer k.mu.Unlock()
	a := k.places[place]
	a.bytes += n
	return a.bytes
}

func (k *coming) end(place string, unkept int64) {
	k.mu.Lock()
	defer k.mu.Unlock()
	a := k.places[place]
	a.bytes -= unkept
	if a.now--; a.now == 0 {
		delete(k.places, place)
	}
}
