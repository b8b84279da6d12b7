package picture

import (
	"cmp"
	"slices"
	"strings"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/core/teams"
)

// A Class is one class as it stands: its staff, its students in the order the
// school's language lists names, and those who have left.
type Class struct {
	classes.Class
	Staff    []classes.Member
	Teacher  string // name of the owner teacher
	Students []Student
	Left     []Student
}

// A Student is a row of a class with whom it is linked to.
type Student struct {
	classes.Row
	Problem *packing.Reason // what keeps the student from being given anything new, or nil
	Waits   *packing.Reason // why they have no account yet: what is made for them waits for it; nil: it doesn't
	Opens   *packing.Reason // when the class opens to them: what is made for them waits for that; nil: it doesn't
	Relink  string          // the account the address belongs to, where another was given the student's things
	Remarks []roster.Remark // where the school book says something else
}

// Wants is the account the student's things are for: the one the address
// belongs to.
func (s Student) Wants() string { return cmp.Or(s.Relink, s.Account) }

// Later says why what is made for the student waits; nil: it doesn't.
func (s Student) Later() *packing.Reason { return cmp.Or(s.Waits, s.Opens) }

// Owner is the account that owns what is made in the class: the owner teacher's, or
// the school's.
func (c Class) Owner() string { return cmp.Or(c.HeldBy, c.Staff[0].Account) }

// Student returns the student with a row.
func (c Class) Student(row string) (Student, bool) {
	if i := slices.IndexFunc(c.Students, func(s Student) bool { return s.ID == row }); i >= 0 {
		return c.Students[i], true
	}
	return Student{}, false
}

// NameOf returns whose a row is, as lists have it; empty where it isn't the class's.
func (c Class) NameOf(row string) string {
	if s, ok := c.Student(row); ok {
		return s.SortName()
	}
	return ""
}

// listed are the class's students by row, for looking up many.
func (c Class) listed() map[string]*Student {
	out := make(map[string]*Student, len(c.Students))
	for i := range c.Students {
		out[c.Students[i].ID] = &c.Students[i]
	}
	return out
}

// Member returns what an account is on a class's staff.
func (c Class) Member(account string) (classes.Member, bool) {
	i := slices.IndexFunc(c.Staff, func(m classes.Member) bool { return m.Account == account })
	if i < 0 {
		return classes.Member{}, false
	}
	return c.Staff[i], true
}

// InClass is a student's record as names and conditions see it.
func (c Class) InClass(s Student) record.InClass {
	return record.InClass{Record: s.Record, ClassCode: c.Code, ClassTitle: c.Name, ClassPeriod: c.Period, Teacher: c.Teacher}
}

// Choosable are the class's students as choosing sees them.
func (c Class) Choosable() []choosing.Student {
	students := make([]choosing.Student, len(c.Students))
	for i, s := range c.Students {
		students[i] = choosing.Student{Row: s.ID, Values: c.InClass(s)}
	}
	return students
}

// Out says who gets no copy of a handout and why: by hand or by its choice.
func (c Class) Out(h handout.Handout) map[string]string { return h.Out(c.Choosable()) }

// Vocabulary is the columns that names and conditions of the class can use.
func (c Class) Vocabulary() record.Vocabulary { return VocabularyOf(c) }

// VocabularyOf is the columns that some classes have together.
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

// ForRoom is the class as rooms and handouts see it, with the names of its own places; satchels
// are the names they were packed with, by row.
func (cl Class) ForRoom(names room.Names, sets []teams.Set, satchels map[string]string) room.Class {
	r := room.Class{
		ID: cl.ID, Folder: naming.Tidy(cl.Code + " " + strings.TrimSuffix(cl.Name, " "+cl.Code)), Owner: cl.Owner(), Names: names,
		Own: record.Values{record.Code: cl.Code, record.ClassName: cl.Name, record.Period: cl.Period,
			record.Teacher: cl.Teacher, record.Initials: record.InitialsOf(cl.Teacher)}, Teams: map[record.Field][]room.Team{},
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
		account := s.Account
		if s.Opens != nil {
			account = ""
		}
		r.Students = append(r.Students, room.Student{
			Row: s.ID, Account: account, Problem: s.Problem, Waits: s.Later(), Added: s.Added, Packed: satchels[s.ID], Values: cl.InClass(s),
			Relink: s.Relink, Name: s.SortName(),
		})
	}
	return r
}

// Teams are the teams of a set with the rows that are in them.
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

// Notices are those of a class's handouts that are up for all of these students, newest first.
func (cl Class) Notices(all []handout.Handout) []handout.Handout {
	var out []handout.Handout
	for _, h := range slices.Backward(all) {
		if h.Settings.Way == handout.NoticeName && h.Packed() && len(cl.Out(h)) == 0 {
			out = append(out, h)
		}
	}
	return out
}
