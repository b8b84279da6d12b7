// Package observer keeps what was last seen of the ledger's things in the
// cupboard, so that nobody who looks at a page waits for it: it follows the
// cupboard's changes, looks at what they concern, and counts the words of copies
// that were written.
package observer

import (
	"context"
	"errors"
	"log/slog"
	"slices"
	"sync"
	"time"

	"jollysatchel/internal/clock"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

// What an observer keeps to.
const (
	every    = 2 * time.Second // it looks for changes
	lease    = 30 * time.Second
	page     = 500              // changes read at once
	stepTime = 20 * time.Second // a question may take; less than the lease
	atOnce   = 2000             // things asked about in one question
)

// A Cupboard is what an observer needs of one.
type Cupboard interface {
	cupboard.Reader
	cupboard.Feed
}

// An Observer looks at the cupboard until it is stopped. Any number of programs
// may have one: they take turns.
type Observer struct {
	Zone func() *time.Location // the school's, now

	store *store.Store
	cup   Cupboard
	now   clock.Clock
	log   *slog.Logger
	name  string
	soon  chan struct{}

	following sync.Mutex
}

// New returns an observer. Run begins its work; CatchUp and Look work without.
func New(st *store.Store, cup Cupboard, zone func() *time.Location, now clock.Clock, log *slog.Logger) *Observer {
	return &Observer{Zone: zone, store: st, cup: cup, now: now, log: log, name: store.NewID(), soon: make(chan struct{}, 1)}
}

// Soon has the changes read at once: somebody knows that there is one.
func (o *Observer) Soon() {
	select {
	case o.soon <- struct{}{}:
	default: // it will be already
	}
}

// Run follows the cupboard until ctx ends. Words are counted beside it: a document
// that takes long doesn't keep anybody from seeing what changed.
func (o *Observer) Run(ctx context.Context) {
	tick := time.NewTicker(every)
	defer tick.Stop()
	written := make(chan struct{}, 1)
	var counting sync.WaitGroup
	counting.Go(func() {
		for range written {
			if err := o.measure(ctx); err != nil && ctx.Err() == nil {
				o.log.Warn("words can't be counted", "error", err)
			}
		}
	})
	defer counting.Wait()
	defer close(written)
	for {
		if err := o.follow(ctx); err != nil && ctx.Err() == nil {
			o.log.Warn("the cupboard can't be looked at", "error", err)
		}
		select {
		case written <- struct{}{}:
		default: // at it
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		case <-o.soon:
		}
	}
}

// CatchUp reads the cupboard's changes to their end, looks at what they concern
// and counts the words of what was written. Where another program is at it,
// CatchUp leaves it to that.
func (o *Observer) CatchUp(ctx context.Context) error {
	if err := o.follow(ctx); err != nil {
		return err
	}
	return o.measure(ctx)
}

// follow reads the cupboard's changes to their end.
func (o *Observer) follow(ctx context.Context) error {
	o.following.Lock()
	defer o.following.Unlock()
	for more := true; more; {
		var err error
		if more, err = o.turn(ctx); err != nil {
			return err
		}
	}
	return nil
}

// turn reads one page of changes; more says that there may be another.
func (o *Observer) turn(ctx context.Context) (more bool, err error) {
	feed, err := o.store.ClaimFeed(ctx, o.name, lease)
	if errors.Is(err, store.ErrNotFound) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	defer func() { err = errors.Join(err, o.store.ReleaseFeed(context.WithoutCancel(ctx), o.name)) }()
	if feed.Position == nil {
		return true, o.beginAnew(ctx)
	}
	changes, next, err := o.changes(ctx, cupboard.Position(*feed.Position))
	if errors.Is(err, cupboard.ErrTooOld) {
		return true, o.beginAnew(ctx)
	}
	if err != nil {
		return false, err
	}
	if len(changes) > 0 {
		var changed, above []string
		for _, c := range changes {
			changed, above = append(changed, c.Thing), append(above, c.Above...)
		}
		concerns, err := o.store.ConcernsOf(ctx, unique(changed), unique(above))
		if err != nil {
			return false, err
		}
		if err := o.see(ctx, concerns, true); err != nil {
			return false, err
		}
	}
	return len(changes) == page, o.store.AdvanceFeed(ctx, o.name, string(next), o.now())
}

// beginAnew looks at everything: what changed until now isn't known.
func (o *Observer) beginAnew(ctx context.Context) error {
	end, err := o.cup.Position(ctx)
	if err != nil {
		return err
	}
	all, err := o.store.AllConcerns(ctx)
	if err != nil {
		return err
	}
	if err := o.see(ctx, all, true); err != nil {
		return err
	}
	return o.store.AdvanceFeed(ctx, o.name, string(end), o.now())
}

// Observe asks how some things of the ledger stand now.
func (o *Observer) Observe(ctx context.Context, concerns []store.Concern) error {
	return o.see(ctx, concerns, false)
}

// see asks the cupboard about things, in the name of each class's owner teacher,
// and keeps the answers.
func (o *Observer) see(ctx context.Context, concerns []store.Concern, told bool) error {
	of := map[string][]store.Concern{}
	for _, c := range concerns {
		of[c.Owner] = append(of[c.Owner], c)
	}
	for owner, theirs := range of {
		for some := range slices.Chunk(theirs, atOnce) {
			if told { // a whole school takes longer than one turn
				if _, err := o.store.ClaimFeed(ctx, o.name, lease); err != nil {
					return err
				}
			}
			if err := o.seeSome(ctx, owner, some, told); err != nil {
				return err
			}
		}
	}
	return nil
}

func (o *Observer) seeSome(ctx context.Context, owner string, some []store.Concern, told bool) error {
	for len(some) > 0 {
		later, err := o.ask(ctx, owner, some, told)
		if err != nil {
			return err
		}
		some = slices.DeleteFunc(slices.Clone(some), func(c store.Concern) bool { return !later[c.Thing] })
	}
	return nil
}

// ask asks once, and returns those of which later was heard meanwhile.
func (o *Observer) ask(ctx context.Context, owner string, some []store.Concern, told bool) (later map[string]bool, err error) {
	ctx, cancel := context.WithTimeout(ctx, stepTime)
	defer cancel()
	things := make([]string, len(some))
	for i, c := range some {
		things[i] = c.Thing
	}
	asking, err := o.store.Asking(ctx)
	if err != nil {
		return nil, err
	}
	states, err := o.cup.States(ctx, owner, things)
	if err != nil {
		return nil, err
	}
	return o.store.Observe(ctx, asking, some, states, told)
}

func (o *Observer) changes(ctx context.Context, since cupboard.Position) ([]cupboard.Change, cupboard.Position, error) {
	ctx, cancel := context.WithTimeout(ctx, stepTime)
	defer cancel()
	return o.cup.Changes(ctx, since, page)
}

func unique(ids []string) []string {
	slices.Sort(ids)
	return slices.Compact(ids)
}
