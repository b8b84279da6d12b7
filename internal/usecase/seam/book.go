package seam

import (
	"context"
	"errors"
	"strings"
	"sync"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/schoolbook"
)

// A knownBook is the school book as it was at a revision, for looking up many. It
// is the same for everybody and never changed.
type knownBook struct {
	Revision  string
	All       []accounts.Account
	byAddress map[string]int
	byID      map[string]int
	school    string // what the school is called
	names     func() map[string]bool
}

// IsName reports whether a word with letters beyond ASCII is part of somebody's name.
func (b *knownBook) IsName(word string) bool { return b.names()[naming.Fold(word)] }

// oddNames are the parts of names that have letters beyond ASCII, folded.
func oddNames(all []accounts.Account) map[string]bool {
	out := map[string]bool{}
	for _, a := range all {
		for _, part := range strings.FieldsFunc(a.Given+" "+a.Family, func(r rune) bool { return r < 0x40 }) {
			if strings.ContainsFunc(part, func(r rune) bool { return r >= 0x80 }) {
				out[naming.Fold(part)] = true
			}
		}
	}
	return out
}

// A Known is the school book as it is now, for one who looks things up.
type Known struct {
	*knownBook
	asked int // suggestions looked for
}

// Book returns the school book, read again where it has changed.
func (c *House) Book(ctx context.Context) (*Known, error) {
	revision, err := c.SchoolBook.Revision(ctx)
	if err != nil {
		return nil, err
	}
	if b := c.known.Load(); b != nil && b.Revision == revision && b.school == c.School().Name {
		return &Known{knownBook: b}, nil
	}
	all, err := c.SchoolBook.All(ctx)
	if err != nil {
		return nil, err
	}
	b := &knownBook{Revision: revision, school: c.School().Name, All: all, byAddress: make(map[string]int, len(all)),
		byID: make(map[string]int, len(all))}
	b.names = sync.OnceValue(func() map[string]bool { return oddNames(all) })
	for i, a := range all {
		b.byAddress[strings.ToLower(a.Address)], b.byID[a.ID] = i, i
	}
	c.known.Store(b)
	return &Known{knownBook: b}, nil
}

func (b *knownBook) at(i int, ok bool) (roster.Account, bool) {
	if !ok {
		return roster.Account{}, false
	}
	a := b.All[i]
	return roster.Account{ID: a.ID, Address: a.Address, Given: a.Given, Family: a.Family, Student: a.Role == accounts.Student}, true
}

// Account returns the account with an id, or none of that name.
func (b *knownBook) Account(id string) accounts.Account {
	if id == SchoolAccount {
		return accounts.Account{ID: id, Given: b.school}
	}
	if i, ok := b.byID[id]; ok {
		return b.All[i]
	}
	return accounts.Account{}
}

// ByAddress implements roster.Book.
func (b *knownBook) ByAddress(address string) (roster.Account, bool) {
	i, ok := b.byAddress[strings.ToLower(address)]
	return b.at(i, ok)
}

// ByID implements roster.Book.
func (b *knownBook) ByID(id string) (roster.Account, bool) {
	i, ok := b.byID[id]
	return b.at(i, ok)
}

// mostSuggestions of likely right addresses are looked for at once: more than a
// page shows, and a list with so many unknown ones is of another school.
const mostSuggestions = 1000

// Like returns the address a wrong one was likely meant to be, or none.
func (b *Known) Like(address, name string) string {
	if b.asked++; b.asked > mostSuggestions {
		return ""
	}
	return accounts.Like(address, name, b.All)
}

// A ClassBook is the school book as a class asks it: anyone who can be in the class is a
// student, and of a group of staff that is its teachers.
type ClassBook struct {
	*Known
	ofStaff bool
}

// Teacher checks that an account is one of the school's teachers that can sign in.
func (b *Known) Teacher(account string) error {
	if a := b.Account(account); a.Role != accounts.Staff || a.Off {
		return change.Refuse("account", "no-teacher")
	}
	return nil
}

// ForClass is the book as a class asks it, which may be one of staff.
func (b *Known) ForClass(ofStaff bool) *ClassBook { return &ClassBook{b, ofStaff} }

func (b *ClassBook) in(a roster.Account, ok bool) (roster.Account, bool) {
	if ok && b.ofStaff {
		a.Student = b.Account(a.ID).Role == accounts.Staff
	}
	return a, ok
}

// ByAddress implements roster.Book.
func (b *ClassBook) ByAddress(address string) (roster.Account, bool) {
	return b.in(b.Known.ByAddress(address))
}

// ByID implements roster.Book.
func (b *ClassBook) ByID(id string) (roster.Account, bool) { return b.in(b.Known.ByID(id)) }

// Called is the name of an account.
func (b *knownBook) Called(account string) string { return b.Account(account).Name() }

// Knows says what the school book has of an address in a list.
func (b *ClassBook) Knows(address string, s record.Record) roster.Knowing {
	if a, ok := b.ByAddress(address); ok {
		return roster.Knowing{Known: true, Account: a}
	}
	return roster.Knowing{Suggestion: b.Like(address, s.Name())}
}

// Rule is the way the school makes most of its addresses.
func (b *Known) Rule() roster.AddressRule {
	var students []roster.Student
	for _, a := range b.All {
		if a.Role == accounts.Student {
			students = append(students, roster.Student{Record: record.Record{Given: a.Given, Family: a.Family,
				Number: a.Number, Address: a.Address}})
		}
	}
	rule, _ := roster.GuessRule(students)
	return rule
}

// Members are a class's staff by name.
func (b *knownBook) Members(staff []classes.Member) []accounts.Member {
	out := make([]accounts.Member, len(staff))
	for i, m := range staff {
		out[i] = accounts.Member{Account: m.Account, Name: b.Account(m.Account).Name(), Role: m.Role}
	}
	return out
}

// SchoolAccount is the school's own account in the cupboard. Nobody signs in as it.
const SchoolAccount = "the-school"

// AccountAt is the account of an address; one without a role where there is none.
func (b *Known) AccountAt(address string) accounts.Account {
	if i, ok := b.byAddress[strings.ToLower(address)]; ok {
		return b.All[i]
	}
	return accounts.Account{}
}

// PracticePrefix begins the ids of invented accounts.
const PracticePrefix = "practice-"

// A Directory keeps the accounts of the school book and makes new ones known to the
// storage.
type Directory interface {
	schoolbook.Keeper
	Known(ctx context.Context, ids ...string) error
}

// BookError is what a keeper said, at its place.
func BookError(err error) error {
	switch {
	case errors.Is(err, schoolbook.ErrTaken):
		return change.Refuse("address", "address-taken")
	case errors.Is(err, schoolbook.ErrLast):
		return change.Refuse("role", "last-office")
	case errors.Is(err, schoolbook.ErrNobody):
		return ErrNotFound
	}
	return err
}
