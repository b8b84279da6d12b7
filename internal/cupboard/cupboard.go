// Package cupboard is the storage service as the application sees it: folders
// and files with lasting ids, one owner each, rules, pointers and versions.
// Every change carries a key; a change sent again with the same key is not
// done again, its first answer is given instead.
package cupboard

import (
	"context"
	"errors"
	"fmt"
	"io"
	"strings"
	"time"

	"jollysatchel/internal/core/access"
)

// A Cupboard is a storage service. as is the account on whose behalf a call is
// made: the service enforces what that account may do. What as may not see is
// ErrNotFound, the same as what isn't there.
type Cupboard interface {
	// MakeFolder makes a folder owned by as. It needs can edit on the parent; an
	// empty parent is the top of as's own things.
	MakeFolder(ctx context.Context, as, key string, f NewThing) (Thing, error)
	// CopyFile makes a file owned by as with the present content of source. The
	// source is neither changed nor shared.
	CopyFile(ctx context.Context, as, key string, source Source, f NewThing) (Thing, error)
	// AddFile makes a file owned by as with the content read from r.
	AddFile(ctx context.Context, as, key string, f NewThing, r io.Reader) (Thing, error)
	// MakePointer makes a pointer to target; it gives no access to it.
	MakePointer(ctx context.Context, as, key, target string, f NewThing) (Thing, error)
	// Share raises people to at least the levels given; it never lowers one.
	// People the service doesn't know are named in an *UnknownPeople error; the
	// others are given access all the same.
	Share(ctx context.Context, as, key, id string, grants map[string]access.Level) error

	// SetRule changes a thing's own rule as c says; the levels of others stay. What
	// the rules above give stays too.
	SetRule(ctx context.Context, as, key, id string, c RuleChange) error
	// Rename gives a thing another name; id, link and content stay.
	Rename(ctx context.Context, as, key, id, name string) error
	// Remove ends a thing with everything in it, for good.
	Remove(ctx context.Context, as, key, id string) error

	// Get returns a thing as can read, with the path as may see.
	Get(ctx context.Context, as, id string) (Thing, error)
	// ByLink returns the thing a link leads to.
	ByLink(ctx context.Context, as, link string) (Thing, error)
	// List returns what lies in a folder, by name.
	List(ctx context.Context, as, folder string) ([]Thing, error)
	// Open returns a version's content; version 0 is the newest. Close it.
	Open(ctx context.Context, as, id string, version int) (io.ReadCloser, Version, error)
	// Write adds a version. base is the version the writer began from: when it
	// is no longer the newest, nothing is written and a *Conflict tells so.
	Write(ctx context.Context, as, key, id string, base int, r io.Reader) (Version, error)
	// Versions returns a file's versions, newest first.
	Versions(ctx context.Context, as, id string) ([]Version, error)
	// States tells how things stand, for those of ids that as can read.
	States(ctx context.Context, as string, ids []string) (map[string]State, error)
	// People returns who has which level on a thing and why; as must be able to
	// edit it.
	People(ctx context.Context, as, id string) (map[string]access.Reason, error)
}

// A Kind is what a thing is.
type Kind string

// The kinds of things.
const (
	Folder  Kind = "folder"
	File    Kind = "file"
	Pointer Kind = "pointer"
)

// A NewThing says what to make and where. A thing that stands alone is out of
// reach of the rules above from its first moment.
type NewThing struct {
	Parent      string
	Name        string
	MediaType   string // of a file
	StandsAlone bool
}

// A Source is a file whose content is copied. Reader is the account whose right
// to read it is used; empty: that of the account the copy is made for.
type Source struct{ ID, Reader string }

// A RuleChange gives people exactly the levels it names, Nothing taking them
// away, and says whether the thing stands alone, where that is to change.
type RuleChange struct {
	Levels      map[string]access.Level
	StandsAlone *bool
}

// A Thing is a folder, file or pointer as one account sees it.
type Thing struct {
	ID        string
	Link      string // unguessable part of its lasting link
	Kind      Kind
	Name      string
	Parent    string
	Owner     string
	Target    string // of a pointer
	MediaType string
	Size      int64
	Version   int
	MadeAt    time.Time
	ChangedAt time.Time
	ChangedBy string
	Level     access.Level // of the account that asked
	Path      []Crumb      // the folders above as far as that account may see, outermost first
}

// A Crumb is one folder on the way to a thing.
type Crumb struct{ ID, Name string }

// A Version is one kept state of a file. Numbers count from 1.
type Version struct {
	Number int
	Size   int64
	SHA    string // SHA-256 of the content, hexadecimal
	At     time.Time
	By     string
}

// A State is how a thing stands, for joining with the ledger.
type State struct {
	Name      string
	Parent    string
	Rule      access.Rule // its own
	Version   int
	SHA       string
	ChangedAt time.Time
	ChangedBy string
	Inside    int       // things in a folder made by others than its owner, at any depth
	InsideAt  time.Time // newest change among them
}

// Errors every cupboard gives. Unavailable and TooFast are worth trying again.
var (
	ErrNotFound    = errors.New("cupboard: no such thing")
	ErrNoRight     = errors.New("cupboard: not allowed")
	ErrUnavailable = errors.New("cupboard: not available")
)

// UnknownPeople names accounts the service doesn't know.
type UnknownPeople struct{ Accounts []string }

func (e *UnknownPeople) Error() string {
	return "cupboard: unknown people: " + strings.Join(e.Accounts, ", ")
}

// TooFast says that the request limit is reached and when to come again.
type TooFast struct{ After time.Duration }

func (e *TooFast) Error() string { return fmt.Sprintf("cupboard: too fast, again in %v", e.After) }

// A Conflict says that a file has a newer version than the writer began from.
type Conflict struct{ Current Version }

func (e *Conflict) Error() string {
	return fmt.Sprintf("cupboard: version %d is newer", e.Current.Number)
}
