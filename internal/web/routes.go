package web

import (
	"context"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/service"
	"jollysatchel/internal/usecase/people"
	"jollysatchel/internal/usecase/tell"
	"jollysatchel/internal/web/classroutes"
	"jollysatchel/internal/web/desk"
	"jollysatchel/internal/web/handroutes"
)

// peopleRoutes are of accounts, of ways in, and of what the school is.
type peopleRoutes struct {
	*desk.Desk
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
type tellRoutes struct {
	*desk.Desk
	telling  *tell.Telling
	people   *people.People
	Postroom Postroom
	tryPost  func(ctx context.Context, to accounts.Account) error
}

// routes are those of all rooms.
type routes struct {
	*classroutes.Classes
	*handroutes.Given
	*peopleRoutes
	*tellRoutes
}

func newRoutes(o Options, d *desk.Desk) routes {
	c := o.Cases
	return routes{
		classroutes.New(d, c), handroutes.New(d, c),
		&peopleRoutes{
			Desk: d, people: c.People, Demo: o.Demo, Standins: o.Standins, PostReady: o.PostReady,
			ServiceSecret: o.ServiceSecret, service: &service.Service{},
			lately: &recentAccounts{known: map[string]accounts.Account{}}, tries: newLimiter(1.0/6, 10),
			strangers: newLimiter(0.5, 40), starts: newLimiter(5, 300),
		},
		&tellRoutes{d, c.Telling, c.People, o.Postroom, o.TryPost},
	}
}
