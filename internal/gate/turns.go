package gate

import (
	"context"
	"sync"
)

// Turns let one at a time through for each name, within this program. The zero value is ready.
type Turns struct {
	mu    sync.Mutex
	names map[string]*turn
}

type turn struct {
	taken chan struct{}
	users int
}

// Take waits for the turn of a name. leave must be called once, afterwards. The error is that
// of ctx.
func (t *Turns) Take(ctx context.Context, name string) (leave func(), err error) {
	t.mu.Lock()
	mine := t.names[name]
	if mine == nil {
		if t.names == nil {
			t.names = map[string]*turn{}
		}
		mine = &turn{taken: make(chan struct{}, 1)}
		t.names[name] = mine
	}
	mine.users++
	t.mu.Unlock()
	gone := func() {
		t.mu.Lock()
		defer t.mu.Unlock()
		if mine.users--; mine.users == 0 {
			delete(t.names, name)
		}
	}
	select {
	case mine.taken <- struct{}{}:
		return func() { <-mine.taken; gone() }, nil
	case <-ctx.Done():
		gone()
		return nil, ctx.Err()
	}
}
