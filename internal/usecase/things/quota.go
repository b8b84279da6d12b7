package things

import (
	"cmp"
	"context"
	"io"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/usecase/seam"
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
	f := Filled{Most: c.quota()}
	var err error
	f.Used, err = c.cup.Weight(ctx, account, place)
	return f, seam.NotFound(err)
}

// staffTimes as much as a student may somebody of the staff have outside of what is counted by
// its place. What was weighed is taken for a moment for what it was, of so many.
const (
	staffTimes  = 20
	weighedFor  = 10 * time.Second
	mostWeighed = 2000
)

// A bound is how much may come in where: one place, what an account has outside of those, or
// the whole school.
type bound struct {
	place, code string
	of          Filled
}

// bounds are those that hold for what comes in around a thing: its place's or, outside of all,
// its owner's, and the school's.
func (c *Things) bounds(ctx context.Context, account string, t cupboard.Thing) ([]bound, error) {
	place, err := c.counted(ctx, t)
	if err != nil {
		return nil, err
	}
	out := []bound{{place: "", code: "full-school", of: Filled{Most: cmp.Or(c.School().Disk, seam.UsualDisk)}}, {place: place, code: "full"}}
	if place == "" {
		owner := account
		if t.Kind == cupboard.File {
			owner = t.Owner
		}
		out[1].place, out[1].code = "account/"+owner, "full-account"
	}
	return out, nil
}

// weigh says how much there is of a bound.
func (c *Things) weigh(ctx context.Context, account string, b *bound) (err error) {
	owner, of := strings.CutPrefix(b.place, "account/")
	switch {
	case b.place == "":
		b.of.Used, err = c.all.weight(b.place, func() (int64, error) { return c.cup.Kept(ctx) })
		return err
	case of:
		book, err := c.Book(ctx)
		if err != nil {
			return err
		}
		if b.of.Most = c.quota(); book.Account(owner).Role != accounts.Student {
			b.of.Most *= staffTimes
		}
		b.of.Used, err = c.all.weight(b.place, func() (int64, error) { return c.cup.Weight(ctx, owner, "") })
		return err
	}
	b.of, err = c.filled(ctx, account, b.place)
	return err
}

// A weighing remembers for a moment what weighs long: all of an account's, all of the school's.
type weighing struct {
	mu sync.Mutex
	of map[string]*weighed
}

type weighed struct {
	at    time.Time
	bytes int64
}

// weight is what weighs of a name, as it was a moment ago, with what came in since.
func (w *weighing) weight(name string, weigh func() (int64, error)) (int64, error) {
	w.mu.Lock()
	if x := w.of[name]; x != nil && time.Since(x.at) < weighedFor {
		defer w.mu.Unlock()
		return x.bytes, nil
	}
	w.mu.Unlock()
	n, err := weigh()
	if err != nil {
		return 0, err
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.of == nil || len(w.of) > mostWeighed {
		w.of = map[string]*weighed{}
	}
	w.of[name] = &weighed{time.Now(), n}
	return n, nil
}

// add counts what came in.
func (w *weighing) add(name string, bytes int64) {
	w.mu.Lock()
	defer w.mu.Unlock()
	if x := w.of[name]; x != nil {
		x.bytes += bytes
	}
}

// roomFor lets no more of a content through than there is room for around a thing,
// beside what comes in there at the same time. done is told whether it was kept.
func (c *Things) roomFor(ctx context.Context, account string, t cupboard.Thing, content io.Reader) (room io.Reader,
	done func(error), err error) {
	bounds, err := c.bounds(ctx, account, t)
	if err != nil {
		return nil, nil, err
	}
	r := &roomFor{r: content, coming: &c.coming, all: &c.all, bounds: bounds}
	for i := range bounds {
		r.coming.begin(bounds[i].place) // before it is weighed: what is kept meanwhile counts here or there
	}
	for i := range bounds {
		if err := c.weigh(ctx, account, &bounds[i]); err != nil {
			r.end(err)
			return nil, nil, err
		}
	}
	return r, r.end, nil
}

type roomFor struct {
	r      io.Reader
	coming *coming
	all    *weighing
	bounds []bound
	mine   int64
}

func (r *roomFor) Read(p []byte) (int, error) {
	n, err := r.r.Read(p)
	r.mine += int64(n)
	for _, b := range r.bounds {
		if b.of.Used+r.coming.add(b.place, int64(n)) > b.of.Most && n > 0 {
			return 0, change.Refuse("file", b.code, "most", strconv.FormatInt(b.of.Most/1_000_000, 10))
		}
	}
	return n, err
}

func (r *roomFor) end(err error) {
	unkept := r.mine
	if err == nil {
		unkept = 0 // it counts until nothing comes in any more
	}
	for _, b := range r.bounds {
		r.all.add(b.place, r.mine-unkept)
		r.coming.end(b.place, unkept)
	}
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
