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
	"jollysatchel/internal/core/ledger"
)

// A Cupboard is a storage service. In each call as is the account on whose
// behalf it is made: the service enforces what that account may do. What as may
// not see is ErrNotFound, the same as what isn't there. Every call may also fail
// with ErrUnavailable or *TooFast and is worth repeating then, a changing one
// with its key: whatever came between, what was done with a key before isn't done
// again. A call that was refused leaves its key unused. The key of a call that
// makes a thing is known for as long as the cupboard is; when that thing has
// ended, the answer is ErrNotFound.
type Cupboard interface {
	Reader
	Writer
	Owner
	Feed
	Meter
}

// A Reader looks.
type Reader interface {
	// Get returns a thing as can read, with the path as may see.
	Get(ctx context.Context, as, id string) (Thing, error)
	// ByLink returns the thing a link leads to.
	ByLink(ctx context.Context, as, link string) (Thing, error)
	// List returns what is in a folder, by name.
	List(ctx context.Context, as, folder string) ([]Thing, error)
	// Roots returns what is at the top of as's own things, and what as can read
	// of others without seeing the folder it is in.
	Roots(ctx context.Context, as string) ([]Thing, error)
	// Find returns folders that as can read and whose name holds a text, whatever its
	// case, by name; most at the most.
	Find(ctx context.Context, as, text string, most int) ([]Thing, error)
	// Binned returns what is in as's bin, newest first.
	Binned(ctx context.Context, as string) ([]Binned, error)
	// Open returns a version's content, to be read from any place; version 0 is
	// the newest. Close it.
	Open(ctx context.Context, as, id string, version int) (io.ReadSeekCloser, Version, error)
	// Versions returns a file's versions, newest first. To whom a link alone lets in there is
	// the newest and no other, here and for Open.
	Versions(ctx context.Context, as, id string) ([]Version, error)
	// States tells how things stand: those of ids that as can read, or could while
	// they lay where they lay, and those that have ended. What as can't read is
	// left out: that is not the same as gone.
	States(ctx context.Context, as string, ids []string) (map[string]ledger.Seen, error)
	// Weight returns how many bytes the versions of everything in a folder weigh
	// together, at any depth, for no folder of everything that as owns; content that is
	// there several times weighs once.
	Weight(ctx context.Context, as, folder string) (int64, error)
	// Held returns everything that is in some folders, in no order: a level of a tree at a time.
	// It is told to the owner of those folders or of one above, of each thing whether they can
	// read it or not; folders of others are left out.
	Held(ctx context.Context, as string, folders []string) ([]Held, error)
	// People returns who has which level on a thing and why; as must be able to
	// edit it.
	People(ctx context.Context, as, id string) (map[string]access.Reason, error)
}

// A Writer makes things and writes them.
type Writer interface {
	// MakeFolder makes a folder owned by as. It needs can edit on the parent; an
	// empty parent is the top of as's own things.
	MakeFolder(ctx context.Context, as, key string, f NewThing) (Thing, error)
	// CopyFile makes a file owned by as with the present content of source. The
	// source is neither changed nor shared.
	CopyFile(ctx context.Context, as, key string, source Source, f NewThing) (Thing, error)
	// AddFile makes a file owned by as with the content read from r.
	AddFile(ctx context.Context, as, key string, f NewThing, r io.Reader) (Thing, error)
	// Renew adds a version with the present content of source, as Write would: the ones
	// before stay. The source is neither changed nor shared.
	Renew(ctx context.Context, as, key, id string, base int, source Source) (Version, error)
	// MakePointer makes a pointer to target; it gives no access to it.
	MakePointer(ctx context.Context, as, key, target string, f NewThing) (Thing, error)
	// Write adds a version. base is the version the writer began from: when it
	// is no longer the newest, nothing is written and a *Conflict tells so.
	Write(ctx context.Context, as, key, id string, base int, r io.Reader) (Version, error)
}

// An Owner changes what is theirs. A tree is a folder that stands alone, or lies
// at the top, with what is in it: rules inside are its owner's to change, and not
// those of anyone who added a thing. Names, places and the bin are for a thing's
// owner too; what is in a folder must then all be theirs, else a *Refused tells
// how much isn't.
type Owner interface {
	// Share raises people to at least the levels given; it never lowers one.
	// People the service doesn't know are named in an *UnknownPeople error; the
	// others are given access all the same.
	Share(ctx context.Context, as, key, id string, grants map[string]access.Level) error
	// SetRule changes a thing's own rule as c says, in the bin too, where it holds from when
	// the thing is back; the levels of others stay. What the rules above give stays too.
	SetRule(ctx context.Context, as, key, id string, c RuleChange) error
	// Close puts a mark on a thing, in the place of one it has. Rules stay as they
	// are, and the owner of the tree may still change all; an owner within whom the
	// mark holds may neither name, move, hand over nor bin.
	Close(ctx context.Context, as, key, id string, m access.Mark) error
	// Reopen takes the mark away.
	Reopen(ctx context.Context, as, key, id string) error
	// Rename gives a thing another name; id, link and content stay.
	Rename(ctx context.Context, as, key, id, name string) error
	// Move puts a thing with what is in it into another folder, which as must be
	// able to edit; an empty one is the top of as's own things. A folder can't be
	// put into itself: ErrInside.
	Move(ctx context.Context, as, key, id, folder string) error
	// HandOver passes a thing as owns, with everything in it that as owns, on to
	// another account. What was open to the school is shut, unless a whole tree passes on.
	HandOver(ctx context.Context, as, key, id, to string) error
	// Cede passes a thing that as owns on to another account, and nothing that is in it.
	Cede(ctx context.Context, as, key, id, to string) error
	// Transfer passes a thing that as owns and keeps on to another account, with everything
	// in it that as owns, and puts it into a folder that this account may edit: all of it or
	// nothing. What is others' in it comes along.
	Transfer(ctx context.Context, as, key, id, to, folder string) error
	// Bin puts a thing with what is in it into the bin for the cupboard's term:
	// nobody reaches it there. What belongs to others is in their bin too. seen, unless
	// it is nil, has files that are to go there as they were looked at: when one has
	// another version by now, or one of somebody else's came to them, nothing is binned
	// and a *Conflict tells so.
	Bin(ctx context.Context, as, key, id string, seen Seen) error
	// Restore puts a thing of as's bin back to where it lay. Where that folder is in the bin
	// as well, it goes to the top of as's own things, if the tree was as's; in the tree of
	// another it waits for that folder: ErrWaits.
	Restore(ctx context.Context, as, key, id string) error
	// Remove ends a thing with everything in it, for good, in the bin or not.
	Remove(ctx context.Context, as, key, id string) error
}

// A Meter tells the program how full the cupboard is.
type Meter interface {
	// Kept returns how many bytes all contents weigh together, each once.
	Kept(ctx context.Context) (int64, error)
}

// A Feed tells the program, not a person, what changes. It says of which things,
// and nothing about them.
type Feed interface {
	// Position returns where the feed ends now.
	Position(ctx context.Context) (Position, error)
	// Changes returns what changed after a position, oldest first and most at the
	// most, and the position after the last: no change is ever left out, and none
	// told twice. An empty position is the beginning. Changes are kept for a term;
	// after it, ErrTooOld.
	Changes(ctx context.Context, since Position, most int) ([]Change, Position, error)
}

// A Position is a place in the feed, as the cupboard writes it.
type Position string

// A Change says that something about a thing is different, or about what is in
// it: its content, name, rule, place, owner or mark, or that it was made or has
// ended. One of a folder that reaches what is in it is told of each of those.
type Change struct {
	Thing string
	Above []string // the folders it is in, and those it lay in before a move
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
// reach of the rules above from its first moment, and Grants are in force from
// then on: they need the right that sharing it would need. Who the service doesn't
// know isn't given any; the answer's Rule tells who was.
type NewThing struct {
	Parent      string
	Name        string
	MediaType   string // of a file
	StandsAlone bool
	Grants      map[string]access.Level
}

// A Source is a file whose content is copied. Reader is the account whose right
// to read it is used; empty: that of the account the copy is made for.
type Source struct{ ID, Reader string }

// A RuleChange gives people exactly the levels it names, Nothing taking them
// away, and says whether the thing stands alone, and what everybody may do who has the
// link, where that is to change. What is open so is listed to nobody.
type RuleChange struct {
	Levels      map[string]access.Level
	StandsAlone *bool
	School      *access.Level
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
	Closed    *access.Mark // the nearest there is, its own or of a folder above
	Level     access.Level // of the account that asked
	Rule      access.Rule  // its own; told to the owner who makes it, and to nobody else
	SHA       string       // SHA-256 of a file's newest content, hexadecimal
	Path      []Crumb      // the folders above as far as that account may see, outermost first
}

// A Held is a thing as the owner of what it lies in is told of it: how it stands, and nothing of
// its content.
type Held struct {
	ID     string
	Kind   Kind
	Name   string
	Parent string
	Owner  string
	Rule   access.Rule
	Closed *access.Mark // its own
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

// A Binned is a thing in a bin.
type Binned struct {
	Thing
	At    time.Time
	By    string
	Until time.Time // then it ends
}

// Errors every cupboard gives. ErrUnavailable is worth trying again.
var (
	ErrNotFound    = errors.New("cupboard: no such thing")
	ErrNoRight     = errors.New("cupboard: not allowed")
	ErrInside      = errors.New("cupboard: a folder can't lie in itself")
	ErrWaits       = errors.New("cupboard: what it lies in is in the bin")
	ErrTooOld      = errors.New("cupboard: the changes since then are no longer known")
	ErrUnavailable = errors.New("cupboard: not available")
)

// A Refused says that as may do something with a thing but not with all that is
// in it. It is an ErrNoRight.
type Refused struct{ Missing int }

func (e *Refused) Error() string {
	return fmt.Sprintf("cupboard: not allowed for %d things in it", e.Missing)
}

// Is reports that a refusal is one for want of a right.
func (e *Refused) Is(target error) bool { return target == ErrNoRight }

// UnknownPeople names accounts the service doesn't know.
type UnknownPeople struct{ Accounts []string }

func (e *UnknownPeople) Error() string {
	return "cupboard: unknown people: " + strings.Join(e.Accounts, ", ")
}

// TooFast says that the request limit is reached and when to come again.
type TooFast struct{ After time.Duration }

func (e *TooFast) Error() string { return fmt.Sprintf("cupboard: too fast, again in %v", e.After) }

// Seen are the versions of files that were looked at, by thing.
type Seen map[string]int

// A Conflict says that a file has a newer version than the writer began from.
type Conflict struct{ Current Version }

func (e *Conflict) Error() string {
	return fmt.Sprintf("cupboard: version %d is newer", e.Current.Number)
}
