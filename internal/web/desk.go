package web

import (
	"context"
	"log/slog"
	"net/netip"
	"time"

	"github.com/alexedwards/scs/v2"

	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/gate"
	"jollysatchel/internal/service"
	"jollysatchel/internal/usecase/doors"
	"jollysatchel/internal/usecase/enrol"
	"jollysatchel/internal/usecase/handouts"
	"jollysatchel/internal/usecase/leave"
	"jollysatchel/internal/usecase/pack"
	"jollysatchel/internal/usecase/people"
	"jollysatchel/internal/usecase/practice"
	"jollysatchel/internal/usecase/registers"
	"jollysatchel/internal/usecase/rooms"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/usecase/tell"
	"jollysatchel/internal/usecase/things"
)

// A desk is what the routes of all rooms have in common: who asks, from where, in which class, and
// how much that costs.
type desk struct {
	School    func() seam.School // as it is now
	Now       clock.Clock
	Log       *slog.Logger
	Proxies   []netip.Prefix
	classes   *enrol.Classes
	sessions  *scs.SessionManager
	rendering *counter   // of what costs, of an account, at once
	turns     gate.Turns // of an account's
	shows     *gate.Gate // documents that are shown
	compares  *gate.Gate // texts that are compared, and files that are looked into
}

func newDesk(o Options, sessions *scs.SessionManager) *desk {
	return &desk{
		School: o.School, Now: o.Now, Log: o.Log, Proxies: o.Proxies, classes: o.Cases.Classes, sessions: sessions,
		rendering: newCounter(mostRendering), shows: gate.New(2, 40, 10*time.Second), compares: gate.New(1, 40, 10*time.Second),
	}
}

// The routes of a room know the desk and the use cases they ask, and nothing else.
type (
	// enrolRoutes are of classes, the lists that are brought in and the rosters.
	enrolRoutes struct {
		*desk
		lists     *enrol.Lists
		rosters   *enrol.Rosters
		practice  *practice.Practice
		people    *people.People
		registers *registers.Registers
	}
	// roomRoutes are of room plans, staff and who is chosen.
	roomRoutes struct {
		*desk
		rooms   *rooms.Rooms
		packing *pack.Packing
		things  *things.Things
		people  *people.People
	}
	// packRoutes are of what is handed out, what is to be packed, and its runs.
	packRoutes struct {
		*desk
		handouts  *handouts.Handouts
		packing   *pack.Packing
		rooms     *rooms.Rooms
		people    *people.People
		registers *registers.Registers
	}
	// leaveRoutes are of those who leave.
	leaveRoutes struct {
		*desk
		leaving *leave.Leaving
	}
	// thingRoutes are of folders and documents.
	thingRoutes struct {
		*desk
		things    *things.Things
		people    *people.People
		registers *registers.Registers
	}
	// registerRoutes are of pages that tell how classes stand, and of what is on record.
	registerRoutes struct {
		*desk
		registers *registers.Registers
		rooms     *rooms.Rooms
		things    *things.Things
		people    *people.People
		written   *written
	}
	// doorRoutes are of door checks.
	doorRoutes struct {
		*desk
		doors *doors.Doors
	}
	// peopleRoutes are of accounts, of ways in, and of what the school is.
	peopleRoutes struct {
		*desk
		people        *people.People
		Demo          []DemoPerson
		Standins      Standins
		PostReady     bool
		ServiceSecret string
		service       *service.Service
		lately        *recentAccounts
		tries         *limiter // wrong ones, by origin and account
		strangers     *limiter // wrong ones of an origin
		starts        *limiter // of signing in through the school's own service, of an origin
	}
	// tellRoutes are of messages that people write, and of the postroom.
	tellRoutes struct {
		*desk
		telling  *tell.Telling
		people   *people.People
		Postroom Postroom
		tryPost  func(ctx context.Context, to accounts.Account) error
	}
)

// routes are those of all rooms.
type routes struct {
	*enrolRoutes
	*roomRoutes
	*packRoutes
	*leaveRoutes
	*thingRoutes
	*registerRoutes
	*doorRoutes
	*peopleRoutes
	*tellRoutes
}

func newRoutes(o Options, d *desk) routes {
	c := o.Cases
	return routes{
		&enrolRoutes{d, c.Lists, c.Rosters, c.Practice, c.People, c.Registers},
		&roomRoutes{d, c.Rooms, c.Packing, c.Things, c.People},
		&packRoutes{d, c.Handouts, c.Packing, c.Rooms, c.People, c.Registers},
		&leaveRoutes{d, c.Leaving},
		&thingRoutes{d, c.Things, c.People, c.Registers},
		&registerRoutes{d, c.Registers, c.Rooms, c.Things, c.People, newWritten()},
		&doorRoutes{d, c.Doors},
		&peopleRoutes{
			desk: d, people: c.People, Demo: o.Demo, Standins: o.Standins, PostReady: o.PostReady,
			ServiceSecret: o.ServiceSecret, service: &service.Service{},
			lately: &recentAccounts{known: map[string]accounts.Account{}}, tries: newLimiter(1.0/6, 10),
			strangers: newLimiter(0.5, 40), starts: newLimiter(5, 300),
		},
		&tellRoutes{d, c.Telling, c.People, o.Postroom, o.TryPost},
	}
}
