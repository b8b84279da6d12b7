// Package classroom does what a teacher or student asks for: it joins roster,
// room and handout with what is found, and hands packing lists to the packer.
// The rules are the core's; the storage is the cupboard's.
package classroom

import (
	"context"
	"log/slog"
	"strings"
	"sync"
	"time"

	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/gate"
	"jollysatchel/internal/schoolbook"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/people"
	"jollysatchel/internal/usecase/registers"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/usecase/tell"
	"jollysatchel/internal/usecase/things"
)

// A Classroom is every use case of the school's classes. Each stands for itself;
// what they have in common is the house.
type Classroom struct {
	Classes   *Classes
	Lists     *Lists
	Rosters   *Rosters
	Rooms     *Rooms
	Handouts  *Handouts
	Packing   *Packing
	Registers *registers.Registers
	Things    *things.Things
	People    *people.People
	Telling   *tell.Telling
}

// Parts are what a classroom stands on.
type Parts struct {
	Charter   *seam.Charter
	Store     *store.Store
	Cup       cupboard.Cupboard
	Observer  seam.Observer
	Book      schoolbook.Book
	Packer    Packer
	Directory seam.Directory
	Practice  Practice // makes invented accounts
	Now       clock.Clock
	Folders   room.Names // names of the places, in the school's words
	Sending   Sending
	Courier   seam.Courier
	Log       *slog.Logger
}

// A Packer carries lists out.
type Packer interface {
	// Enqueue adds a run with its lines within tx.
	Enqueue(ctx context.Context, tx *store.Store, r ledger.Run, steps []packing.Step) error
	// Wake has a run worked on once tx is committed.
	Wake(ctx context.Context, tx *store.Store, r ledger.Run) error
}

// A Sending has a handout packed at its time.
type Sending interface {
	// SendAt has SendNow called with the handout as it is, at a moment, once tx is
	// committed.
	SendAt(ctx context.Context, tx *store.Store, h handout.Handout, at time.Time) error
}

// New puts the use cases together.
func New(p Parts) *Classroom {
	h := &house{House: seam.NewHouse(p.Charter, p.Store, p.Book, p.Now, p.Folders, p.Courier, p.Log)}
	rosters := &Rosters{h}
	packs := &Packing{h, p.Cup, p.Packer, p.Observer, rosters, &sync.Map{}}
	h.closeOff = packs.closeOff
	return &Classroom{
		Classes: &Classes{h, p.Cup, p.Practice, packs}, Lists: &Lists{house: h, directory: p.Directory}, Rosters: rosters, Rooms: &Rooms{h, p.Cup, packs}, Handouts: &Handouts{h, p.Cup, p.Sending}, Packing: packs,
		Registers: registers.NewRegisters(h.House, p.Cup), Things: things.NewThings(h.House, p.Cup, p.Observer), People: people.NewPeople(h.House, p.Directory), Telling: tell.NewTelling(h.House),
	}
}

// A house is what the use cases of classes have in common.
type house struct {
	*seam.House
	// closeOff takes the class's places from whoever leaves it in a change.
	closeOff func(ctx context.Context, tx *store.Store, book *seam.Known, by, class string) error
}

// School is what the whole school has in common, as it is now.
func (c *Classroom) School() seam.School { return c.People.School() }

// Classes hang up classes and take them down.
type Classes struct {
	*house
	cup      cupboard.Cupboard
	practice Practice
	packing  *Packing
}

// Lists are what is brought in for a class and not accepted yet.
type Lists struct {
	*house
	directory seam.Directory
	turns     gate.Turns // of a person's
}

// Rosters are the rows of classes and their history.
type Rosters struct{ *house }

// Rooms are the plans of classes, and who is chosen in them.
type Rooms struct {
	*house
	cup     cupboard.Reader
	packing *Packing
}

// Handouts are what is handed out, and the templates for it.
type Handouts struct {
	*house
	cup     cupboard.Cupboard
	sending Sending
}

// Packing makes lists of what is to be packed, and runs of them.
type Packing struct {
	*house
	cup      cupboard.Reader
	packer   Packer
	observer seam.Observer
	rosters  *Rosters
	stepped  *sync.Map // class → its tag when it was last looked at for keeping in step
}

// CreateClass hangs up a new class owned by the account. Of a group of staff the members are
// teachers, and not students.
func (c *Classes) CreateClass(ctx context.Context, owner, code, name, period string, ofStaff bool) (classes.Class, error) {
	cl, err := c.classOf(code, name, period)
	if err != nil {
		return cl, err
	}
	cl.OfStaff = ofStaff
	id := cl.ID
	if err := c.Store.Change(ctx, c.Act(ctx, owner, "class-hung-up", map[string]string{"class": cl.ID, "name": cl.Name, "code": cl.Code}), &id, func(tx *store.Store) error {
		if err := moreClasses(ctx, tx, owner); err != nil {
			return err
		}
		return tx.InsertClass(ctx, cl, owner)
	}); err != nil {
		return cl, err
	}
	return c.Store.Class(ctx, id)
}

// A ClassChange says otherwise what a class is called; nil leaves a part as it is. No code is
// one made of the name.
type ClassChange struct {
	Code   *string `json:"code,omitempty"`
	Name   *string `json:"name,omitempty"`
	Period *string `json:"period,omitempty"`
}

// ChangeClass says otherwise what a class is called. Folders and files that are called after
// it are renamed by the next packing, as lines to change.
func (c *Classes) ChangeClass(ctx context.Context, by, class string, ch, was ClassChange) error {
	args := map[string]string{}
	return seam.NotFound(c.Store.Change(ctx, c.Act(ctx, by, "class-changed", args, class), nil, func(tx *store.Store) error {
		now, err := tx.Class(ctx, class)
		if err != nil {
			return err
		}
		next := now
		for _, x := range []struct {
			field          string
			said, was, now *string
		}{{"code", ch.Code, was.Code, &next.Code}, {"name", ch.Name, was.Name, &next.Name}, {"period", ch.Period, was.Period, &next.Period}} {
			if x.said == nil {
				continue
			}
			if err := change.Unless(x.was, x.field, *x.now, naming.Tidy(*x.said)); err != nil {
				return err
			}
			*x.now = *x.said
		}
		checked, err := c.classOf(next.Code, next.Name, next.Period)
		if err != nil {
			return err
		}
		next.Code, next.Name, next.Period = checked.Code, checked.Name, checked.Period
		if next.Code == now.Code && next.Name == now.Name && next.Period == now.Period {
			return store.ErrUnchanged
		}
		args["name"], args["code"] = next.Name, next.Code
		return tx.SaveClassName(ctx, next)
	}))
}

// RemoveClass takes away a class in which there never was anything.
func (c *Classes) RemoveClass(ctx context.Context, by, class string) error {
	err := c.Store.Change(ctx, c.Act(ctx, by, "class-removed", map[string]string{}, class), nil, func(tx *store.Store) error {
		if empty, err := tx.Untouched(ctx, class); err != nil {
			return err
		} else if !empty {
			return change.Refuse("class", "not-empty")
		}
		return tx.DeleteClass(ctx, class)
	})
	return seam.NotFound(err)
}

// classOf checks what a new class is called.
func (c *house) classOf(code, name, period string) (classes.Class, error) {
	code, name, period = naming.Tidy(code), naming.Tidy(name), naming.Tidy(period)
	switch {
	case name == "":
		return classes.Class{}, change.Refuse("name", "missing")
	case len(name) > room.MostName:
		return classes.Class{}, change.TooLong("name", room.MostName)
	case len([]rune(code)) > mostCode:
		return classes.Class{}, change.TooLong("code", mostCode)
	case len([]rune(period)) > mostPeriod:
		return classes.Class{}, change.TooLong("period", mostPeriod)
	}
	if code == "" {
		code = shortCode(name)
	}
	return classes.Class{ID: store.NewID(), Code: code, Name: name, Period: period, Plan: room.Usual(), CreatedAt: c.Now()}, nil
}

// shortCode makes a code of a name: its last word where that has a figure
// ("7B"), else the first letters of its words, and of a single word as it begins.
func shortCode(name string) string {
	words := strings.Fields(name)
	last := words[len(words)-1]
	switch letters := []rune(last); {
	case len(letters) <= 6 && strings.ContainsAny(last, "0123456789"):
		return last
	case len(words) == 1:
		return string(letters[:min(4, len(letters))])
	}
	code := ""
	for _, w := range words {
		code += strings.ToUpper(string([]rune(w)[:1]))
	}
	return string([]rune(code)[:min(4, len([]rune(code)))])
}
