package web

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"net/http"
	"slices"
	"sync"
	"time"

	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// A hub passes the ids of changed classes to everybody who watches.
type hub struct {
	mu       sync.Mutex
	watchers map[*watcher]bool
	over     chan struct{} // closed when no more news come
}

// A watcher has what changed since it was asked last.
type watcher struct {
	wake    chan struct{}
	mu      sync.Mutex
	changed []string
	all     bool // more than is kept, or than was heard of: any class may have
}

// mostChanged are as many classes as a watcher is told of by name.
const mostChanged = 64

func newHub() *hub {
	return &hub{watchers: map[*watcher]bool{}, over: make(chan struct{})}
}

func (h *hub) watch() (w *watcher, leave func()) {
	w = &watcher{wake: make(chan struct{}, 1)}
	h.mu.Lock()
	h.watchers[w] = true
	h.mu.Unlock()
	return w, func() {
		h.mu.Lock()
		delete(h.watchers, w)
		h.mu.Unlock()
	}
}

// tell says that a class changed; of no class, that any may have.
func (h *hub) tell(class string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for w := range h.watchers {
		w.add(class)
	}
}

func (w *watcher) add(class string) {
	w.mu.Lock()
	defer w.mu.Unlock()
	switch {
	case w.all || slices.Contains(w.changed, class):
	case class == "" || len(w.changed) == mostChanged:
		w.all, w.changed = true, nil
	default:
		w.changed = append(w.changed, class)
	}
	select {
	case w.wake <- struct{}{}:
	default: // it wakes already
	}
}

// take returns what changed, and forgets it; none is all.
func (w *watcher) take() []string {
	w.mu.Lock()
	defer w.mu.Unlock()
	changed := w.changed
	w.all, w.changed = false, nil
	return changed
}

// run listens to the database, so that news of every program arrives.
func (h *hub) run(ctx context.Context, listen Listen, log *slog.Logger) {
	for ctx.Err() == nil {
		if err := listen(ctx, h.tell); err != nil && ctx.Err() == nil {
			log.Warn("listening for news", "error", err)
			select {
			case <-ctx.Done():
			case <-time.After(time.Second):
			}
		}
	}
}

// A news is one event: a class changed, and what is being packed there.
type news struct {
	Class    string    `json:"class"`
	Revision int64     `json:"revision"`
	Runs     []api.Run `json:"runs"`
}

// stream is the answer to Events.
type stream struct {
	s       *Server
	ctx     context.Context
	account string
	told    map[string]bool // classes that news came of
}

// Events implements the route of that name: first the present state of every
// class, then each change. Several changes in a short while are one event.
func (s *Server) Events(ctx context.Context, _ api.EventsRequestObject) (api.EventsResponseObject, error) {
	return stream{s: s, ctx: desk.Gin(ctx).Request.Context(), account: desk.Account(ctx), told: map[string]bool{}}, nil
}

// VisitEventsResponse implements api.EventsResponseObject.
func (e stream) VisitEventsResponse(w http.ResponseWriter) error {
	done, ok := e.s.watching.Enter(e.account)
	if !ok {
		return errStreams
	}
	defer done()
	rc := http.NewResponseController(w)
	w = untilTaken{w, rc}
	token := e.s.Sessions.Token(e.ctx)
	watcher, leave := e.s.hub.watch()
	defer leave()
	w.Header().Set("Content-Type", "text/event-stream")
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(http.StatusOK)
	if err := e.send(w, nil); err != nil {
		return err
	}
	if _, err := fmt.Fprint(w, "event: ready\ndata: {}\n\n"); err != nil {
		return err
	}
	w.(http.Flusher).Flush()
	beat := time.NewTicker(20 * time.Second)
	defer beat.Stop()
	still := time.NewTicker(stillEvery)
	defer still.Stop()
	for {
		select {
		case <-e.ctx.Done():
			return nil
		case <-e.s.hub.over:
			return nil
		case <-still.C:
			if in, err := e.s.stillIn(token, e.account); err != nil || !in {
				return err
			}
		case <-beat.C:
			if _, err := fmt.Fprint(w, ": still here\n\n"); err != nil {
				return err
			}
			w.(http.Flusher).Flush()
		case <-watcher.wake:
			select { // what changes within a moment is one
			case <-e.ctx.Done():
				return nil
			case <-time.After(120 * time.Millisecond):
			}
			if err := e.send(w, watcher.take()); err != nil {
				return err
			}
		}
	}
}

// stillEvery is how soon a stream ends after its session.
const stillEvery = 4 * time.Second

// stillIn reports whether a session is still that of an account of the school.
func (s *Server) stillIn(token, account string) (bool, error) {
	ctx, cancel := context.WithTimeout(context.Background(), stillEvery) // that of the request has the session as it was
	defer cancel()
	now, err := s.Sessions.Load(ctx, token)
	if err != nil {
		return false, err
	}
	a, err := s.signedIn(now)
	if errors.Is(err, errSignIn) {
		return false, nil
	}
	return a.ID == account, err
}

// untilTaken writes what has to be taken soon, or the stream ends.
type untilTaken struct {
	http.ResponseWriter
	rc *http.ResponseController
}

func (w untilTaken) Write(b []byte) (int, error) {
	_ = w.rc.SetWriteDeadline(time.Now().Add(30 * time.Second))
	return w.ResponseWriter.Write(b)
}

// Flush implements http.Flusher.
func (w untilTaken) Flush() { _ = w.rc.Flush() }

// send tells of those of some classes on whose staff the watcher is; of no
// classes, of all.
func (e stream) send(w http.ResponseWriter, classes []string) error {
	mine, err := e.s.Desk.Classes.Watched(e.ctx, e.account, classes)
	if err != nil {
		return err
	}
	still := map[string]bool{}
	for _, c := range mine {
		still[c.ID], e.told[c.ID] = true, true
		runs, err := e.s.Runs(e.ctx, c.ID)
		if err != nil {
			return err
		}
		b, err := json.Marshal(news{c.ID, c.Revision, runs})
		if err != nil {
			return err
		}
		if _, err := fmt.Fprintf(w, "data: %s\n\n", b); err != nil {
			return err
		}
	}
	if len(classes) == 0 {
		classes = slices.Collect(maps.Keys(e.told))
	}
	for _, id := range classes { // no longer theirs: they are told once, and see that it is so
		if !e.told[id] || still[id] {
			continue
		}
		delete(e.told, id)
		if _, err := fmt.Fprintf(w, "data: {\"class\":%q,\"revision\":0,\"runs\":[]}\n\n", id); err != nil {
			return err
		}
	}
	w.(http.Flusher).Flush()
	return nil
}
