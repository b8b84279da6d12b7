// Package desk is what the routes of all rooms have in common: who asks, what a request may cost, and how answers are
// written.
package desk

import (
	"context"
	"log/slog"
	"net/netip"
	"sync"
	"time"

	"github.com/alexedwards/scs/v2"

	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/gate"
	"jollysatchel/internal/usecase/enrol"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/web/api"
)

// A Desk is what the routes of all rooms have in common: who asks, from where, in which class, and
// how much that costs.
type Desk struct {
	School    func() seam.School // as it is now
	Now       clock.Clock
	Log       *slog.Logger
	Proxies   []netip.Prefix
	Classes   *enrol.Classes
	Sessions  *scs.SessionManager
	rendering *Counter   // of what costs, of an account, at once
	turns     gate.Turns // of an account's
	Shows     *gate.Gate // documents that are shown
	Compares  *gate.Gate // texts that are compared, and files that are looked into
}

// New is the desk of a school, of what it stands on.
func New(school func() seam.School, now clock.Clock, log *slog.Logger, proxies []netip.Prefix, classes *enrol.Classes,
	sessions *scs.SessionManager) *Desk {
	return &Desk{
		School: school, Now: now, Log: log, Proxies: proxies, Classes: classes, Sessions: sessions,
		rendering: NewCounter(mostRendering), Shows: gate.New(2, 40, 10*time.Second), Compares: gate.New(1, 40, 10*time.Second),
	}
}

// mostRendering is how much that costs a person has under way at once: a page asks for one or two.
const mostRendering = 6

// Costly lets a request of an account through a gate, within the account's share: what one
// person asks for comes one after another, so that others wait for one of it, and not for all.
func (s *Desk) Costly(ctx context.Context, g *gate.Gate) (leave func(), err error) {
	done, ok := s.rendering.Enter(Account(ctx))
	if !ok {
		return nil, ErrPace
	}
	turn, err := s.turns.Take(ctx, Account(ctx))
	if err != nil {
		done()
		return nil, err
	}
	through, err := g.Enter(ctx)
	if err != nil {
		turn()
		done()
		return nil, err
	}
	return func() { through(); turn(); done() }, nil
}

// A Counter counts what each name has under way at once, up to a limit.
type Counter struct {
	mu    sync.Mutex
	most  int
	names map[string]int
}

// NewCounter lets each name have most under way at once.
func NewCounter(most int) *Counter { return &Counter{most: most, names: map[string]int{}} }

// Enter counts one more, until leave is called; ok is false where there are as
// many as there may be.
func (n *Counter) Enter(name string) (leave func(), ok bool) {
	n.mu.Lock()
	defer n.mu.Unlock()
	if n.names[name] >= n.most {
		return nil, false
	}
	n.names[name]++
	return func() {
		n.mu.Lock()
		defer n.mu.Unlock()
		if n.names[name]--; n.names[name] == 0 {
			delete(n.names, name)
		}
	}, true
}

// Class loads the route's class; guard has let it through.
func (s *Desk) Class(ctx context.Context) (picture.Class, error) {
	return s.Classes.Class(ctx, Gin(ctx).GetString(ClassKey))
}

// Members are a class's staff as the contract has them.
func Members(staff []accounts.Member) []api.StaffMember {
	out := []api.StaffMember{}
	for _, m := range staff {
		out = append(out, api.StaffMember{Account: m.Account, Name: m.Name, Role: api.StaffMemberRole(m.Role)})
	}
	return out
}

// Pockets are those of a plan as the contract has them.
func Pockets(ps []room.Pocket) []api.Pocket {
	out := []api.Pocket{}
	for _, p := range ps {
		out = append(out, api.Pocket{Id: p.ID, Name: p.Name})
	}
	return out
}

// Deref is what a pointer leads to; of none, the zero value.
func Deref[T any](p *T) (v T) {
	if p != nil {
		v = *p
	}
	return v
}
