package seam

import (
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/schoolbook"
	"jollysatchel/internal/store"
	"jollysatchel/internal/store/mail"
)

// What use cases answer with, by the names anyone who asks knows them by.
type (
	// A MessageFilter says which of a class's messages are meant.
	MessageFilter = mail.MessageFilter
	// A Thing is a folder, file or pointer as one account sees it.
	Thing = cupboard.Thing
	// A Version is one kept state of a file.
	Version = cupboard.Version
)

// File is the kind of a thing that has content.
const File = cupboard.File

// Errors of use cases besides ErrNotFound.
var (
	ErrNoRight = cupboard.ErrNoRight   // may be read, not changed
	ErrRefused = schoolbook.ErrRefused // address and password don't fit
	ErrKey     = store.ErrKey          // a key was used for something else
)

// BadText reports that text was refused for a character no text holds.
func BadText(err error) bool { return store.BadText(err) }

// NoDatabase reports that the database can't be reached just now.
func NoDatabase(err error) bool { return store.Away(err) }

// DiskFull reports that there is no room to write, or that nothing may be written.
func DiskFull(err error) bool { return store.DiskFull(err) }

// NewKey returns a key for an asking that came without.
func NewKey() string { return store.NewID() }
