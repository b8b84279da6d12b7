// Package handroutes answers for what is made and given: room plans, handouts, packing lists and runs, folders and
// documents.
package handroutes

import (
	"jollysatchel/internal/usecase"
	"jollysatchel/internal/usecase/handouts"
	"jollysatchel/internal/usecase/pack"
	"jollysatchel/internal/usecase/people"
	"jollysatchel/internal/usecase/registers"
	"jollysatchel/internal/usecase/rooms"
	"jollysatchel/internal/usecase/things"
	"jollysatchel/internal/web/desk"
)

// Given are the routes of what is made and given: room plans, handouts, packing and its runs, folders
// and documents. Each knows the desk and the use cases it asks, and nothing else.
type Given struct {
	*roomRoutes
	*packRoutes
	*thingRoutes
}

// New are the routes of what is made and given, of a desk and the use cases.
func New(d *desk.Desk, c *usecase.Cases) *Given {
	return &Given{
		&roomRoutes{d, c.Rooms, c.Packing, c.Things, c.People},
		&packRoutes{d, c.Handouts, c.Packing, c.Rooms, c.People, c.Registers},
		&thingRoutes{d, c.Things, c.People, c.Registers},
	}
}

// roomRoutes are of room plans, staff and who is chosen.
type roomRoutes struct {
	*desk.Desk
	rooms   *rooms.Rooms
	packing *pack.Packing
	things  *things.Things
	people  *people.People
}

// packRoutes are of what is handed out, what is to be packed, and its runs.
type packRoutes struct {
	*desk.Desk
	handouts  *handouts.Handouts
	packing   *pack.Packing
	rooms     *rooms.Rooms
	people    *people.People
	registers *registers.Registers
}

// thingRoutes are of folders and documents.
type thingRoutes struct {
	*desk.Desk
	things    *things.Things
	people    *people.People
	registers *registers.Registers
}
