package gate

import (
	"context"
	"errors"
	"sync"
	"syscall"
	"testing"
	"time"
)

func TestGate(t *testing.T) {
	ctx := context.Background()
	g := New(2, 1, time.Minute)
	first, err := g.Enter(ctx)
	if err != nil {
		t.Fatal(err)
	}
	second, err := g.Enter(ctx)
	if err != nil {
		t.Fatal(err)
	}
	let := make(chan error)
	go func() {
		leave, err := g.Enter(ctx)
		if err == nil {
			defer leave()
		}
		let <- err
	}()
	for g.waiting.Load() == 0 { // until it waits
		select {
		case err := <-let:
			t.Fatalf("a third was let through: %v", err)
		default:
		}
	}
	if _, err := g.Enter(ctx); !errors.Is(err, ErrBusy) {
		t.Errorf("beside a full queue: %v", err)
	}
	first()
	if err := <-let; err != nil {
		t.Errorf("who waited: %v", err)
	}
	second()

	g = New(1, 1, time.Millisecond)
	leave, err := g.Enter(ctx)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := g.Enter(ctx); !errors.Is(err, ErrBusy) {
		t.Errorf("after the longest wait: %v", err)
	}
	gone, stop := context.WithCancel(ctx)
	stop()
	g.wait = time.Minute
	if _, err := g.Enter(gone); !errors.Is(err, context.Canceled) {
		t.Errorf("of one who is gone: %v", err)
	}
	leave()
}

// However many come, no more than a few are inside.
func TestNeverMore(t *testing.T) {
	g := New(3, 100, time.Minute)
	var mu sync.Mutex
	var wg sync.WaitGroup
	inside, most := 0, 0
	for range 100 {
		wg.Go(func() {
			leave, err := g.Enter(context.Background())
			if err != nil {
				t.Error(err)
				return
			}
			mu.Lock()
			inside++
			most = max(most, inside)
			mu.Unlock()
			mu.Lock()
			inside--
			mu.Unlock()
			leave()
		})
	}
	wg.Wait()
	if most > 3 || inside != 0 {
		t.Errorf("%d at once, %d still inside", most, inside)
	}
}

// Work aside has a lower priority, and what goes wrong in it goes wrong for who
// asked for it; the thread's priority stays with nobody else.
func TestAside(t *testing.T) {
	was, err := syscall.Getpriority(syscall.PRIO_PROCESS, syscall.Gettid())
	if err != nil {
		t.Fatal(err)
	}
	var aside int
	Aside(func() { aside, err = syscall.Getpriority(syscall.PRIO_PROCESS, syscall.Gettid()) })
	if err != nil || aside != max(was-lower, 20-lowest) { // the call returns 20 less the priority
		t.Errorf("aside %d, beside %d, %v", aside, was, err)
	}
	defer func() {
		if p := recover(); p != "no" {
			t.Errorf("recovered %v", p)
		}
	}()
	Aside(func() { panic("no") })
}

// One at a time for each name; anyone who gives up leaves the queue, and nothing is kept of names that
// nobody waits for.
func TestTurns(t *testing.T) {
	ctx := context.Background()
	var turns Turns
	leave, err := turns.Take(ctx, "oduya")
	if err != nil {
		t.Fatal(err)
	}
	other, err := turns.Take(ctx, "lindqvist") // has a turn of their own
	if err != nil {
		t.Fatal(err)
	}
	other()
	gone, give := context.WithCancel(ctx)
	give()
	if _, err := turns.Take(gone, "oduya"); !errors.Is(err, context.Canceled) {
		t.Errorf("who gave up: %v", err)
	}
	at := 0
	var all sync.WaitGroup
	for range 20 {
		all.Go(func() {
			leave, err := turns.Take(ctx, "oduya")
			if err != nil {
				t.Error(err)
				return
			}
			defer leave()
			at++ // the race detector, and the count, tell where two are in at once
		})
	}
	leave()
	all.Wait()
	if at != 20 || len(turns.names) != 0 {
		t.Errorf("%d had their turn, %d names are kept", at, len(turns.names))
	}
}
