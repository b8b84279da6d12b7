// Package classes is what a class is: its room plan, its students and its staff, as plain
// values.
package classes

import (
	"time"

	"jollysatchel/internal/core/pens"
	"jollysatchel/internal/core/room"
)

// A Class is one class with its room plan.
type Class struct {
	ID        string    `db:"id"`
	Code      string    `db:"code"`
	Name      string    `db:"name"`
	Period    string    `db:"period"`
	Plan      room.Plan `db:"-"`
	Revision  int64     `db:"revision"` // grows with every change the Register shows
	Wants     int64     `db:"wants"`    // grows with every change of what is wanted
	CreatedAt time.Time `db:"created_at"`
	Practice  bool      `db:"practice"` // with invented students, to be cleared away
	// KeepInStep is who wished that anyone who joins is topped up by itself; empty: nobody.
	KeepInStep string `db:"keep_in_step"`
	// HeldBy is the account that owns what was made in the class; empty: the owner
	// teacher's.
	HeldBy string `db:"held_by"`
	// OfStaff says that its members are teachers of the school, and not students.
	OfStaff bool `db:"of_staff"`
	// Pens is what was said by hand of its places, by their ids; Extra the time that rows have in every
	// handout beyond its due time.
	Pens  map[string]pens.Said  `db:"-"`
	Extra map[string]pens.Extra `db:"-"`
	// Opening is when its students come to have what is made for them; nil: at once.
	Opening *Opening `db:"-"`
}

// Roles of a class's staff.
const (
	Owner     = "owner"
	Teacher   = "teacher"
	Assistant = "assistant"
)

// A Member is an account on a class's staff.
type Member struct {
	ClassID string `db:"class_id"`
	Account string `db:"account"`
	Role    string `db:"role"`
}
