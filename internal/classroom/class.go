package classroom

import (
	"context"
	"slices"
	"strings"
	"sync"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/core/teams"
	"jollysatchel/internal/schoolbook"
	"jollysatchel/internal/store"
)

// A Student is a row of a class with whom it is linked to.
type Student struct {
	classes.Row
	Problem *packing.Reason // what keeps the student from being given anything new, or nil
	Relink  string          // the account the address belongs to, where another was given the student's things
	Remarks []roster.Remark // what the school book says otherwise
}

// Wants is the account the student's things are for: the one the address
// belongs to.
func (s Student) Wants() string { return or(s.Relink, s.Account) }

// A Class is one class as it stands: its staff, its students in the order the
// school's language lists names, and those who have left.
type Class struct {
	classes.Class
	Staff    []classes.Member
	Teacher  string // name of the owner teacher
	Students []Student
	Left     []Student
}

// Owner is the account that owns what is made in the class: the owner teacher's, or
// the school's.
func (c Class) Owner() string { return or(c.HeldBy, c.Staff[0].Account) }

// Student returns the student with a row.
func (c Class) Student(row string) (Student, bool) {
	if i := slices.IndexFunc(c.Students, func(s Student) bool { return s.ID == row }); i >= 0 {
		return c.Students[i], true
	}
	return Student{}, false
}

// A knownBook is the school book as it was at a revision, for looking up many. It
// is the same for everybody and never changed.
type knownBook struct {
	revision  string
	all       []schoolbook.Account
	byAddress map[string]int
	byID      map[string]int
	school    string // what the school is called
	names     func() map[string]bool
}

// isName reports whether a word with letters beyond ASCII is part of somebody's name.
func (b *knownBook) isName(word string) bool { return b.names()[naming.Fold(word)] }

// oddNames are the parts of names that have letters beyond ASCII, folded.
func oddNames(all []schoolbook.Account) map[string]bool {
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
type bookIndex struct {
	*knownBook
	asked int // suggestions looked for
}

// book returns the school book, read anew where it has changed.
func (c *house) book(ctx context.Context) (*bookIndex, error) {
	revision, err := c.Book.Revision(ctx)
	if err != nil {
		return nil, err
	}
	if b := c.known.Load(); b != nil && b.revision == revision && b.school == c.School().Name {
		return &bookIndex{knownBook: b}, nil
	}
	all, err := c.Book.All(ctx)
	if err != nil {
		return nil, err
	}
	b := &knownBook{revision: revision, school: c.School().Name, all: all, byAddress: make(map[string]int, len(all)), byID: make(map[string]int, len(all))}
	b.names = sync.OnceValue(func() map[string]bool { return oddNames(all) })
	for i, a := range all {
		b.byAddress[strings.ToLower(a.Address)], b.byID[a.ID] = i, i
	}
	c.known.Store(b)
	return &bookIndex{knownBook: b}, nil
}

func (b *knownBook) at(i int, ok bool) (roster.Account, bool) {
	if !ok {
		return roster.Account{}, false
	}
	a := b.all[i]
	return roster.Account{ID: a.ID, Address: a.Address, Given: a.Given, Family: a.Family, Student: a.Role == schoolbook.Student}, true
}

// account returns the account with an id, or none of that name.
func (b *knownBook) account(id string) schoolbook.Account {
	if id == SchoolAccount {
		return schoolbook.Account{ID: id, Given: b.school}
	}
	if i, ok := b.byID[id]; ok {
		return b.all[i]
	}
	return schoolbook.Account{}
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
func (b *bookIndex) like(address, name string) string {
	if b.asked++; b.asked > mostSuggestions {
		return ""
	}
	return schoolbook.Like(address, name, b.all)
}

// A classBook is the school book as a class asks it: whoever can be in the class is a
// student, and of a group of staff that is its teachers.
type classBook struct {
	*bookIndex
	ofStaff bool
}

func (b *bookIndex) forClass(ofStaff bool) *classBook { return &classBook{b, ofStaff} }

func (b *classBook) in(a roster.Account, ok bool) (roster.Account, bool) {
	if ok && b.ofStaff {
		a.Student = b.account(a.ID).Role == schoolbook.Staff
	}
	return a, ok
}

// ByAddress implements roster.Book.
func (b *classBook) ByAddress(address string) (roster.Account, bool) {
	return b.in(b.bookIndex.ByAddress(address))
}

// ByID implements roster.Book.
func (b *classBook) ByID(id string) (roster.Account, bool) { return b.in(b.bookIndex.ByID(id)) }

// class reads a class from st.
func (c *house) class(ctx context.Context, st *store.Store, book *bookIndex, id string) (Class, error) {
	var out Class
	var err error
	if out.Class, err = st.Class(ctx, id); err != nil {
		return out, notFound(err)
	}
	if out.Staff, err = st.Staff(ctx, id); err != nil {
		return out, err
	}
	if len(out.Staff) > 0 {
		out.Teacher = book.account(out.Staff[0].Account).Name()
	}
	rows, err := st.Rows(ctx, id)
	if err != nil {
		return out, err
	}
	for _, s := range students(rows, book.forClass(out.OfStaff)) {
		if s.Gone {
			out.Left = append(out.Left, s)
		} else {
			out.Students = append(out.Students, s)
		}
	}
	order := naming.NewOrder(c.School().Language)
	for _, of := range [][]Student{out.Students, out.Left} {
		order.Sort(len(of), func(i int) string { return of[i].SortName() }, func(i, j int) { of[i], of[j] = of[j], of[i] })
	}
	return out, nil
}

// students are rows with whom they are linked to, in their order.
func students(rows []classes.Row, book *classBook) []Student {
	out := make([]Student, len(rows))
	for i, l := range links(rows, book) {
		s := Student{Row: rows[i], Relink: l.Relink, Remarks: l.Remarks}
		s.Account, s.LinkedBy = l.Account, l.LinkedBy
		if p := l.Problem; p != nil && !s.Gone {
			s.Problem = &packing.Reason{Code: p.Code, Args: p.Args}
			if p.Code == roster.AccountUnknown {
				if like := book.like(s.Address, s.Name()); like != "" {
					s.Problem.Args["suggestion"] = like
				}
			}
		}
		out[i] = s
	}
	return out
}

func links(rows []classes.Row, book *classBook) []roster.Linking {
	of := make([]roster.ClassRow, len(rows))
	for i, r := range rows {
		of[i] = r.ClassRow
	}
	return roster.Links(of, book)
}

// inClass is a student's record as names and conditions see it.
func (c Class) InClass(s Student) record.InClass {
	return record.InClass{Record: s.Record, ClassCode: c.Code, ClassTitle: c.Name, ClassPeriod: c.Period, Teacher: c.Teacher}
}

// Vocabulary is the columns that names and conditions of the class can use.
func (c Class) Vocabulary() record.Vocabulary { return VocabularyOf(c) }

// vocabularyOf is the columns that some classes have together.
func VocabularyOf(of ...Class) record.Vocabulary {
	return record.VocabularyOf(func(yield func(record.Record) bool) {
		for _, c := range of {
			for _, s := range c.Students {
				if !yield(s.Record) {
					return
				}
			}
		}
	})
}

// forRoom is the class as rooms and handouts see it, with the names of its own places; satchels
// are the names they were packed with, by row.
func (cl Class) ForRoom(names room.Names, sets []teams.Set, satchels map[string]string) room.Class {
	r := room.Class{
		ID: cl.ID, Folder: naming.Tidy(cl.Code + " " + strings.TrimSuffix(cl.Name, " "+cl.Code)), Owner: cl.Owner(), Names: names,
		Own: record.Values{record.Code: cl.Code, record.ClassName: cl.Name, record.Period: cl.Period, record.Teacher: cl.Teacher, record.Initials: record.InitialsOf(cl.Teacher)}, Teams: map[record.Field][]room.Team{},
	}
	for _, set := range sets {
		r.Teams[set.Field] = cl.Teams(set)
	}
	for _, s := range cl.Staff {
		level := access.Edit
		if s.Role == classes.Assistant {
			level = access.Comment
		}
		r.Staff = append(r.Staff, room.Staff{Account: s.Account, Level: level})
	}
	for _, s := range cl.Students {
		r.Students = append(r.Students, room.Student{
			Row: s.ID, Account: s.Account, Problem: s.Problem, Added: s.Added, Packed: satchels[s.ID], Values: cl.InClass(s), Relink: s.Relink, Name: s.SortName(),
		})
	}
	return r
}

// teams are the teams of a set with the rows that are in them.
func (c Class) Teams(set teams.Set) []room.Team {
	out := make([]room.Team, len(set.Teams))
	at := make(map[string]int, len(set.Teams))
	for i, t := range set.Teams {
		out[i], at[naming.Fold(t.Name)] = room.Team{ID: t.ID, Name: t.Name}, i
	}
	for _, s := range c.Students {
		if i, in := at[naming.Fold(s.Get(set.Field))]; in {
			out[i].Rows = append(out[i].Rows, s.ID)
		}
	}
	return out
}
