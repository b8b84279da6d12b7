// Package gate lets a few through at once where each costs much, and has a few
// more wait in a queue.
package gate

import (
	"context"
	"errors"
	"sync/atomic"
	"time"
)

// ErrBusy says that there were too many before: it is worth trying again in a
// moment.
var ErrBusy = errors.New("gate: busy")

// A Gate is what is gone through. It is made by New.
type Gate struct {
	inside  chan struct{}
	waiting atomic.Int64
	queue   int64
	wait    time.Duration
}

// New returns a gate that lets so many through at once and has so many more wait,
// each no longer than wait.
func New(atOnce, queue int, wait time.Duration) *Gate {
	return &Gate{inside: make(chan struct{}, atOnce), queue: int64(queue), wait: wait}
}

// Enter waits to be let through. leave must be called once, afterwards. The
// error is ErrBusy where the queue is full or moves too slowly, else that of ctx.
func (g *Gate) Enter(ctx context.Context) (leave func(), err error) {
	leave = func() { <-g.inside }
	select {
	case g.inside <- struct{}{}:
		return leave, nil
	default:
	}
	defer g.waiting.Add(-1)
	if g.waiting.Add(1) > g.queue {
		return nil, ErrBusy
	}
	late := time.NewTimer(g.wait)
	defer late.Stop()
	select {
	case g.inside <- struct{}{}:
		return leave, nil
	case <-ctx.Done():
		return nil, ctx.Err()
	case <-late.C:
		return nil, ErrBusy
	}
}
