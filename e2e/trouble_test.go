package e2e

import (
	"context"
	"io"
	"net"
	"net/http"
	"net/url"
	"strings"
	"sync"
	"testing"

	"github.com/go-rod/rod/lib/proto"
)

// A wire leads to a database and can be cut.
type wire struct {
	to    string
	l     net.Listener
	mu    sync.Mutex
	cut   bool
	conns map[net.Conn]bool
}

// wired returns a database's address through a wire.
func wired(t *testing.T, address string) (string, *wire) {
	t.Helper()
	u, err := url.Parse(address)
	if err != nil {
		t.Fatal(err)
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	w := &wire{to: u.Host, l: l, conns: map[net.Conn]bool{}}
	t.Cleanup(func() { l.Close() })
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			go w.carry(c)
		}
	}()
	u.Host = l.Addr().String()
	return u.String(), w
}

func (w *wire) carry(c net.Conn) {
	defer c.Close()
	far, err := net.Dial("tcp", w.to)
	if err != nil {
		return
	}
	defer far.Close()
	w.mu.Lock()
	if w.cut {
		w.mu.Unlock()
		return
	}
	w.conns[c], w.conns[far] = true, true
	w.mu.Unlock()
	go func() { io.Copy(far, c); far.Close() }()
	io.Copy(c, far)
	w.mu.Lock()
	defer w.mu.Unlock()
	delete(w.conns, c)
	delete(w.conns, far)
}

func (w *wire) set(cut bool) {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.cut = cut
	for c := range w.conns {
		if cut {
			c.Close()
		}
	}
}

// While the database is away every page says so, and comes back by itself; what is
// written meanwhile is kept.
func TestDatabaseAway(t *testing.T) {
	s := start(t)
	s.stop() // and comes back with a wire between
	address, w := wired(t, s.database())
	s.env = append(s.env, "DATABASE_URL="+address)
	s.run()
	teacher := s.visit(t, "^503 ").at("staff-oduya", "Tide Watch 7B")
	teacher.until(`() => document.querySelectorAll('tbody tr[data-student]').length === 28`)
	student := s.visit(t, "^503 ").be("student-nokuthula.dube")
	student.el("main a")

	w.set(true)
	teacher.clickOn("header nav a", "Roster")
	teacher.see("[data-trouble]", "The database is not answering")
	w.set(false)
	teacher.gone("[data-trouble]")
	teacher.until(`() => document.querySelectorAll('tr[data-student]').length >= 28`)

	w.set(true)
	student.page.MustReload()
	student.see("#app", "The database is not answering")
	w.set(false)
	student.el("main a")
}

// A page whose program doesn't come is loaded again: the program was renewed while this page was
// open, or the connection was away just then. One that never comes is said, and not asked for again.
func TestPageDoesNotCome(t *testing.T) {
	s := start(t)
	p := s.visit(t, "^404 .*/assets/|dynamically imported module").at("staff-oduya", "Tide Watch 7B")
	without := func(file string, answers ...int) func() { // each once, the last one always
		ctx, stop := context.WithCancel(context.Background())
		go p.page.Context(ctx).EachEvent(func(e *proto.FetchRequestPaused) {
			switch {
			case answers[0] == http.StatusOK:
				proto.FetchContinueRequest{RequestID: e.RequestID}.Call(p.page)
			case answers[0] == 0:
				proto.FetchFailRequest{RequestID: e.RequestID, ErrorReason: proto.NetworkErrorReasonInternetDisconnected}.Call(p.page)
			default:
				proto.FetchFulfillRequest{RequestID: e.RequestID, ResponseCode: answers[0], Body: []byte("{}")}.Call(p.page)
			}
			if len(answers) > 1 {
				answers = answers[1:]
			}
		})()
		p.must(proto.FetchEnable{Patterns: []*proto.FetchRequestPattern{{URLPattern: "*/assets/" + file}}}.Call(p.page), "holding files")
		return func() {
			stop()
			p.must(proto.FetchDisable{}.Call(p.page), "letting files go")
		}
	}
	through := without("LogPage-*.js", http.StatusNotFound, http.StatusOK)
	p.clickOn("header nav a", "Log")
	p.see("main .records", "Changes")
	through()

	through = without("RoomPage-*.js", 0, http.StatusOK)
	p.clickOn("header nav a", "Room")
	p.see("main .eyes", "The plan")
	through()

	through = without("RosterPage-*.js", http.StatusNotFound)
	p.clickOn("header nav a", "Roster")
	p.see("[role=alert]", "Part of this page did not load")
	through()
	p.clickOn("[role=alert] button", "Load the page again")
	p.see("main", "Update the class list")
}

func (s *server) database() string {
	for _, v := range s.env {
		if value, ok := strings.CutPrefix(v, "DATABASE_URL="); ok {
			return value
		}
	}
	return ""
}
