// Package usecase is what people can do here, a room each: none knows another, what they have in
// common is the seam's, and what one needs of another is a small interface of its own. The rules
// are the core's; the storage is the cupboard's.
package usecase

import (
	"log/slog"

	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/schoolbook"
	"jollysatchel/internal/store"
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

// Cases are all there are.
type Cases struct {
	Classes   *enrol.Classes
	Practice  *practice.Practice
	Leaving   *leave.Leaving
	Lists     *enrol.Lists
	Rosters   *enrol.Rosters
	Rooms     *rooms.Rooms
	Handouts  *handouts.Handouts
	Packing   *pack.Packing
	Registers *registers.Registers
	Things    *things.Things
	People    *people.People
	Telling   *tell.Telling
	Doors     *doors.Doors
}

// Parts are what they stand on.
type Parts struct {
	Charter   *seam.Charter
	Store     *store.Store
	Cup       cupboard.Cupboard
	Observer  seam.Observer
	Book      schoolbook.Book
	Packer    seam.Packer
	Directory seam.Directory
	Practice  practice.Accounts // of invented students
	Now       clock.Clock
	Folders   room.Names // names of the places, in the school's words
	Sending   handouts.Sending
	Courier   seam.Courier
	Log       *slog.Logger
}

// New puts the use cases together.
func New(p Parts) *Cases {
	h := seam.NewHouse(p.Charter, p.Store, p.Book, p.Now, p.Folders, p.Courier, p.Observer, p.Log)
	left := leave.New(h, p.Cup, p.Packer)
	classes, lists, rosters := enrol.New(h, p.Directory, left)
	packs := pack.New(h, p.Cup, p.Packer, left, rosters)
	return &Cases{
		Classes: classes, Lists: lists, Rosters: rosters, Practice: practice.New(h, p.Cup, p.Practice, classes, packs), Leaving: left,
		Rooms: rooms.New(h, p.Cup, p.Packer), Handouts: handouts.New(h, p.Cup, p.Sending), Packing: packs,
		Registers: registers.New(h, p.Cup), Things: things.New(h, p.Cup), People: people.New(h, p.Directory), Telling: tell.New(h),
		Doors: doors.New(h, p.Cup, p.Packer),
	}
}
