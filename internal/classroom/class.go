package classroom

import (
	"context"
	"strings"
	"sync"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/store"
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

// isName reports whether a word with letters beyond ASCII is part of somebody's name.
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

// A bookIndex is the school book as it is now, for one who looks things up.
type Known struct {
	*knownBook
	asked int // suggestions looked for
}

// book returns the school book, read anew where it has changed.
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
	b := &knownBook{Revision: revision, school: c.School().Name, All: all, byAddress: make(map[string]int, len(all)), byID: make(map[string]int, len(all))}
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

// account returns the account with an id, or none of that name.
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

// like returns the address a wrong one was likely meant to be, or none.
func (b *Known) Like(address, name string) string {
	if b.asked++; b.asked > mostSuggestions {
		return ""
	}
	return accounts.Like(address, name, b.All)
}

// A classBook is the school book as a class asks it: whoever can be in the class is a
// student, and of a group of staff that is its teachers.
type ClassBook struct {
	*Known
	ofStaff bool
}

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

// class reads a class from st.
func (c *House) ReadClass(ctx context.Context, st *store.Store, book *Known, id string) (picture.Class, error) {
	var out picture.Class
	var err error
	if out.Class, err = st.Class(ctx, id); err != nil {
		return out, NotFound(err)
	}
	if out.Staff, err = st.Staff(ctx, id); err != nil {
		return out, err
	}
	if len(out.Staff) > 0 {
		out.Teacher = book.Account(out.Staff[0].Account).Name()
	}
	rows, err := st.Rows(ctx, id)
	if err != nil {
		return out, err
	}
	for _, s := range Students(rows, book.ForClass(out.OfStaff)) {
		if s.Gone {
			out.Left = append(out.Left, s)
		} else {
			out.Students = append(out.Students, s)
		}
	}
	order := naming.NewOrder(c.School().Language)
	for _, of := range [][]picture.Student{out.Students, out.Left} {
		order.Sort(len(of), func(i int) string { return of[i].SortName() }, func(i, j int) { of[i], of[j] = of[j], of[i] })
	}
	return out, nil
}

// students are rows with whom they are linked to, in their order.
func Students(rows []classes.Row, book *ClassBook) []picture.Student {
	out := make([]picture.Student, len(rows))
	for i, l := range Links(rows, book) {
		s := picture.Student{Row: rows[i], Relink: l.Relink, Remarks: l.Remarks}
		s.Account, s.LinkedBy = l.Account, l.LinkedBy
		if p := l.Problem; p != nil && !s.Gone {
			s.Problem = &packing.Reason{Code: p.Code, Args: p.Args}
			if p.Code == roster.AccountUnknown {
				if like := book.Like(s.Address, s.Name()); like != "" {
					s.Problem.Args["suggestion"] = like
				}
			}
		}
		out[i] = s
	}
	return out
}

func Links(rows []classes.Row, book *ClassBook) []roster.Linking {
	of := make([]roster.ClassRow, len(rows))
	for i, r := range rows {
		of[i] = r.ClassRow
	}
	return roster.Links(of, book)
}

// called is the name of an account.
func (b *knownBook) Called(account string) string { return b.Account(account).Name() }
