package classroom

import (
	"errors"

	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/school"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/schoolbook"
	"jollysatchel/internal/store"
)

// What use cases answer with, by the names whoever asks knows them by.
type (
	// A Handout is one delivery of a template.
	Handout = handout.Handout
	// A Template is a document a teacher hands out.
	Template = handout.Template
	// A Document is one that a handout gives.
	Document = handout.GivenDocument
	// A Heading is what some of a class's handouts stand under.
	Heading = handout.Heading
	// A Run carries one packing list out.
	Run = ledger.Run
	// PostSettings are how the school's mail goes out.
	PostSettings = school.Post
	// ServiceSettings are the school's own service that people sign in with.
	ServiceSettings = school.Service
	// A MessageFilter says which of a class's messages are meant.
	MessageFilter = store.MessageFilter
	// An Account is a person's entry in the school book.
	Account = schoolbook.Account
	// A Role is what an account is at the school.
	Role = schoolbook.Role
	// A Thing is a folder, file or pointer as one account sees it.
	Thing = cupboard.Thing
	// A Version is one kept state of a file.
	Version = cupboard.Version
)

// Roles at the school, and on the staff of a class.
const (
	Office     = schoolbook.Office
	AStudent   = schoolbook.Student
	OfStaff    = schoolbook.Staff
	OwnsClass  = classes.Owner
	Assists    = classes.Assistant
	RunPacking = ledger.RunPacking // state of a run under way
	File       = cupboard.File     // kind of a thing
)

// Errors of use cases besides ErrNotFound.
var (
	ErrNoRight = cupboard.ErrNoRight   // may be read, not changed
	ErrRefused = schoolbook.ErrRefused // address and password don't fit
	ErrKey     = store.ErrKey          // a key was used for something else
)

// Unavailable reports that the cupboard doesn't answer just now: it is worth
// trying again.
func Unavailable(err error) bool {
	var fast *cupboard.TooFast
	return errors.Is(err, cupboard.ErrUnavailable) || errors.As(err, &fast)
}

// BadText reports that text was refused for a character no text holds.
func BadText(err error) bool { return store.BadText(err) }

// NoDatabase reports that the database can't be reached just now.
func NoDatabase(err error) bool { return store.Away(err) }

// DiskFull reports that there is no room to write, or that nothing may be written.
func DiskFull(err error) bool { return store.DiskFull(err) }

// NewKey returns a key for an asking that came without.
func NewKey() string { return store.NewID() }
