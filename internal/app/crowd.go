package app

import (
	"net"
	"net/http"
	"sync"
	"time"
)

// A crowd keeps the number of open connections within a bound: when one more comes, the one that
// has been waiting longest of the address that has most open is closed. So nobody keeps others
// out by holding connections on which nothing is asked.
type crowd struct {
	most int
	now  func() time.Time

	mu sync.Mutex
	of map[net.Conn]*guest
	by map[string]int // open connections of an address
}

// a guest is one connection: since when it waits, if it does.
type guest struct {
	address string
	waits   bool
	since   time.Time
}

func newCrowd(most int) *crowd {
	return &crowd{most: most, now: time.Now, of: map[net.Conn]*guest{}, by: map[string]int{}}
}

// state is told of each connection's, as http.Server does.
func (k *crowd) state(c net.Conn, s http.ConnState) {
	k.mu.Lock()
	defer k.mu.Unlock()
	switch g := k.of[c]; s {
	case http.StateNew:
		address, _, _ := net.SplitHostPort(c.RemoteAddr().String())
		k.of[c] = &guest{address, true, k.now()}
		k.by[address]++
		if len(k.of) > k.most {
			k.showOut(c)
		}
	case http.StateActive:
		if g != nil {
			g.waits = false
		}
	case http.StateIdle:
		if g != nil {
			g.waits, g.since = true, k.now()
		}
	case http.StateClosed, http.StateHijacked:
		k.forget(c)
	}
}

// showOut closes the one that goes, or else the one that came.
func (k *crowd) showOut(came net.Conn) {
	goes := came
	for c, g := range k.of {
		at := k.of[goes]
		if more := k.by[g.address] - k.by[at.address]; g.waits && (more > 0 || more == 0 && g.since.Before(at.since)) {
			goes = c
		}
	}
	k.forget(goes)
	_ = goes.Close() // it may be closed already
}

func (k *crowd) forget(c net.Conn) {
	g := k.of[c]
	if g == nil {
		return
	}
	delete(k.of, c)
	if k.by[g.address]--; k.by[g.address] == 0 {
		delete(k.by, g.address)
	}
}
