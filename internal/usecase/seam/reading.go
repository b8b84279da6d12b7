package seam

import (
	"context"
	"strconv"
	"sync"
	"time"

	"github.com/hashicorp/golang-lru/v2/simplelru"
	"golang.org/x/sync/errgroup"
	"golang.org/x/sync/singleflight"

	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/register"
)

// A Tag tells one state of a class's pages from another: it is different whenever
// anything on them may be.
type Tag struct {
	Revision int64  // of the class
	Book     string // revision of the school book
	Day      string // in the school's zone
}

// A Reading is a class as it stood at a tag, with everything its pages are made
// of. It is read once, shared, and never changed; what is computed from it is
// computed once.
type Reading struct {
	register.Facts
	at    int64 // what was made is of this state of the class, and what came of it of the tag's day
	Tag   Tag
	Table func() register.Register
	Lacks func() picture.Lacking
	// The lists of the room, and of what a top-up packs.
	RoomNow, MissingNow func() packing.List
	Notes               func() []register.Note
	Parents             func() map[string]string
}

// What is kept of readings: as many as have this many things together.
const (
	keptThings  = 60_000
	readingTime = 30 * time.Second
)

// readings are the latest readings of some classes.
type readings struct {
	flight singleflight.Group
	mu     sync.Mutex
	of     *simplelru.LRU[string, *Reading]
	things int
}

func newReadings() *readings {
	r := &readings{}
	r.of, _ = simplelru.NewLRU(1<<20, func(_ string, old *Reading) { r.things -= old.weight() }) // a size above zero is no error
	return r
}

func (r *Reading) weight() int { return len(r.Entries) + len(r.Students) + 10 }

func (r *readings) get(class string, tag Tag) *Reading {
	r.mu.Lock()
	defer r.mu.Unlock()
	if x, ok := r.of.Get(class); ok && x.Tag == tag {
		return x
	}
	return nil
}

// before returns a class as it stood when it was read last, or nil.
func (r *readings) before(class string) *Reading {
	r.mu.Lock()
	defer r.mu.Unlock()
	x, _ := r.of.Get(class)
	return x
}

func (r *readings) put(class string, x *Reading) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.of.Remove(class)
	r.of.Add(class, x)
	for r.things += x.weight(); r.things > keptThings && r.of.Len() > 1; {
		r.of.RemoveOldest()
	}
}

// TagOf is the tag of a class at a revision, now.
func (c *House) TagOf(ctx context.Context, revision int64) (Tag, error) {
	book, err := c.SchoolBook.Revision(ctx)
	return Tag{revision, book, c.Today()}, err
}

// Reading returns a class as it stands now. Of several who ask at once, one reads.
func (c *House) Reading(ctx context.Context, class string) (*Reading, error) {
	revision, err := c.Store.Revision(ctx, class)
	if err != nil {
		return nil, NotFound(err)
	}
	tag, err := c.TagOf(ctx, revision)
	if err != nil {
		return nil, err
	}
	return c.ReadAt(ctx, class, tag)
}

// ReadAt is Reading of a class at a tag that was just looked up.
func (c *House) ReadAt(ctx context.Context, class string, tag Tag) (*Reading, error) {
	if r := c.readings.get(class, tag); r != nil {
		return r, nil
	}
	answer := c.readings.flight.DoChan(class+" "+tag.String(), func() (any, error) {
		if r := c.readings.get(class, tag); r != nil {
			return r, nil
		}
		ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), readingTime) // others wait for it too
		defer cancel()
		r, err := c.read(ctx, class, tag)
		if err == nil {
			c.readings.put(class, r)
		}
		return r, err
	})
	select {
	case <-ctx.Done():
		return nil, ctx.Err()
	case a := <-answer:
		r, _ := a.Val.(*Reading)
		return r, a.Err
	}
}

// read reads a class again. What was made in it is kept from before where only its
// people changed the class since.
func (c *House) read(ctx context.Context, class string, tag Tag) (*Reading, error) {
	cl, _, err := c.ClassNow(ctx, class)
	if err != nil {
		return nil, err
	}
	coming, err := c.Store.Coming(ctx, class)
	if err != nil {
		return nil, err
	}
	var m *picture.Made
	at := cl.Revision - cl.Wants // every change of the class raises both
	r := &Reading{Tag: tag, at: at}
	if b := c.readings.before(class); b != nil && b.at == at && b.Tag.Day == tag.Day {
		m, r.Work = b.Made, b.Work
	} else {
		var both errgroup.Group
		both.Go(func() (err error) { m, err = madeIn(ctx, c.Store, class); return })
		both.Go(func() (err error) { r.Work, err = c.workIn(ctx, class, tag.Day); return })
		if err := both.Wait(); err != nil {
			return nil, err
		}
	}
	if r.Picture, err = c.pictureOf(ctx, c.Store, cl, m, coming); err != nil {
		return nil, err
	}
	r.Lacks = sync.OnceValue(func() picture.Lacking { return r.LackingBut(r.UnderWay()) })
	r.RoomNow = sync.OnceValue(func() packing.List { return r.RoomList() })
	r.MissingNow = sync.OnceValue(r.Missing)
	r.Parents = sync.OnceValue(r.WantedParents)
	r.Table = sync.OnceValue(func() register.Register { return r.Register(r.Lacks()) })
	r.Notes = sync.OnceValue(func() []register.Note { return r.Attention(r.Lacks(), tag.Day) })
	return r, nil
}

func (c *House) workIn(ctx context.Context, class, day string) (*register.Work, error) {
	w := &register.Work{}
	today, err := time.Parse(time.DateOnly, day)
	if err != nil {
		return nil, err
	}
	for i := 6; i >= 0; i-- {
		w.Days = append(w.Days, today.AddDate(0, 0, -i))
	}
	if w.Works, err = c.Store.Works(ctx, class); err != nil {
		return nil, err
	}
	if w.Opened, err = c.Store.Openings(ctx, class); err != nil {
		return nil, err
	}
	if w.Shown, err = c.Store.NewestSnapshots(ctx, class); err != nil {
		return nil, err
	}
	w.Words, err = c.Store.WorkDays(ctx, class, "", w.Days[0])
	return w, err
}

// String writes a tag for an ETag.
func (t Tag) String() string {
	return strconv.FormatInt(t.Revision, 10) + "-" + t.Book + "-" + t.Day
}
