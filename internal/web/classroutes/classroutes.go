// Package classroutes answers for classes: lists that are brought in, rosters, those who leave, the Register and what is on
// record, and who reaches what.
package classroutes

import (
	"jollysatchel/internal/usecase"
	"jollysatchel/internal/usecase/doors"
	"jollysatchel/internal/usecase/enrol"
	"jollysatchel/internal/usecase/leave"
	"jollysatchel/internal/usecase/people"
	"jollysatchel/internal/usecase/practice"
	"jollysatchel/internal/usecase/registers"
	"jollysatchel/internal/usecase/rooms"
	"jollysatchel/internal/usecase/things"
	"jollysatchel/internal/web/desk"
)

// Classes are the routes of classes: lists that are brought in, rosters, those who leave, how a class stands and
// what is on record, and who reaches what. Each knows the desk and the use cases it asks, and nothing else.
type Classes struct {
	*enrolRoutes
	*leaveRoutes
	*registerRoutes
	*doorRoutes
}

// New are the routes of classes, of a desk and the use cases.
func New(d *desk.Desk, c *usecase.Cases) *Classes {
	return &Classes{
		&enrolRoutes{d, c.Lists, c.Rosters, c.Practice, c.People, c.Registers},
		&leaveRoutes{d, c.Leaving},
		&registerRoutes{d, c.Registers, c.Rooms, c.Things, c.People, newWritten()},
		&doorRoutes{d, c.Doors},
	}
}

// enrolRoutes are of classes, the lists that are brought in and the rosters.
type enrolRoutes struct {
	*desk.Desk
	lists     *enrol.Lists
	rosters   *enrol.Rosters
	practice  *practice.Practice
	people    *people.People
	registers *registers.Registers
}

// leaveRoutes are of those who leave.
type leaveRoutes struct {
	*desk.Desk
	leaving *leave.Leaving
}

// registerRoutes are of pages that tell how classes stand, and of what is on record.
type registerRoutes struct {
	*desk.Desk
	registers *registers.Registers
	rooms     *rooms.Rooms
	things    *things.Things
	people    *people.People
	written   *written
}

// doorRoutes are of door checks.
type doorRoutes struct {
	*desk.Desk
	doors *doors.Doors
}
