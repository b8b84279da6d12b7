package handout

import (
	"time"

	"jollysatchel/internal/core/packing"
)

// A Stood is a class list as it stood when a handout was packed.
type Stood struct {
	ID       string    `db:"id"`
	At       time.Time `db:"at"`
	By       string    `db:"by"` // account
	Students []StoodStudent
}

// A StoodStudent is one student of such a list, by the name of then.
type StoodStudent struct {
	packing.Outcome
	Name string `json:"name"`
}

// A Partner is the handout of another class that one of a class is one with.
type Partner struct {
	Handout string `db:"handout"` // that of the class asked about
	ID      string `db:"id"`
	ClassID string `db:"class_id"`
	Code    string `db:"code"` // of its class
	Name    string `db:"name"`
}
