package classroom

import (
	"context"
	"sync"
)

// turns lets one at a time through for each name, within this program.
type turns struct {
	mu    sync.Mutex
	names map[string]chan struct{}
	users map[string]int
}

func (t *turns) alone(ctx context.Context, name string, do func() error) error {
	t.mu.Lock()
	if t.names == nil {
		t.names, t.users = map[string]chan struct{}{}, map[string]int{}
	}
	turn, there := t.names[name]
	if !there {
		turn = make(chan struct{}, 1)
		t.names[name] = turn
	}
	t.users[name]++
	t.mu.Unlock()
	defer func() {
		t.mu.Lock()
		defer t.mu.Unlock()
		if t.users[name]--; t.users[name] == 0 {
			delete(t.users, name)
			delete(t.names, name)
		}
	}()
	select {
	case turn <- struct{}{}:
	case <-ctx.Done():
		return ctx.Err()
	}
	defer func() { <-turn }()
	return do()
}
