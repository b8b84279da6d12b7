package app

import (
	"net"
	"net/http"
	"testing"
	"time"
)

// a line is a connection from an address.
type line struct {
	net.Conn
	from   string
	closed bool
}

func (l *line) RemoteAddr() net.Addr {
	return &net.TCPAddr{IP: net.ParseIP(l.from), Port: 1}
}

func (l *line) Close() error { l.closed = true; return nil }

// Anyone who holds thousands of connections on which nothing is asked loses those that wait longest,
// and nobody else loses any; what is at work is never closed.
func TestCrowd(t *testing.T) {
	k, now := newCrowd(100), time.Date(2026, 11, 29, 7, 40, 0, 0, time.UTC)
	k.now = func() time.Time { now = now.Add(time.Second); return now }
	come := func(from string, s ...http.ConnState) *line {
		l := &line{from: from}
		for _, x := range append([]http.ConnState{http.StateNew}, s...) {
			k.state(l, x)
		}
		return l
	}
	honest := []*line{come("192.0.2.1", http.StateActive, http.StateIdle), come("192.0.2.2", http.StateActive)}
	var held []*line
	for range 400 {
		held = append(held, come("198.51.100.7"))
	}
	working := come("198.51.100.7", http.StateActive)
	for range 200 {
		held = append(held, come("198.51.100.7"))
	}
	honest = append(honest, come("192.0.2.3"), working)
	for i, l := range honest {
		if l.closed {
			t.Errorf("honest connection %d was closed", i)
		}
	}
	open := 0
	for _, l := range held {
		if !l.closed {
			open++
		}
	}
	if len(k.of) != 100 || open != 96 || !held[0].closed || held[len(held)-1].closed {
		t.Errorf("%d are known, %d of those that wait are open", len(k.of), open)
	}
	for _, l := range append(held, honest...) {
		k.state(l, http.StateClosed)
	}
	if len(k.of)+len(k.by) != 0 {
		t.Errorf("remembered after all are closed: %d, %d", len(k.of), len(k.by))
	}
}
