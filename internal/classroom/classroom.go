// Package classroom does what a teacher or student asks for: it joins roster,
// room and handout with what is found, and hands packing lists to the packer.
// The rules are the core's; the storage is the cupboard's.
package classroom

import (
	"context"
	"errors"
	"strings"
	"time"

	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/packer"
	"jollysatchel/internal/schoolbook"
	"jollysatchel/internal/store"
)

// A School is what the whole school has in common.
type School struct {
	Name     string
	Domain   string // of its addresses; empty: not checked
	Zone     *time.Location
	Language string // BCP 47
	// Words are the school's own for what screens call class, period and handout,
	// by the names the interface gives them: class, Class, classes, period,
	// Period, handout, Handout, handouts, Handouts.
	Words map[string]string
}

// A Classroom serves every class of the school.
type Classroom struct {
	School   School
	Store    *store.Store
	Cup      cupboard.Cupboard
	Book     schoolbook.Book
	Packer   *packer.Packer
	Practice Practice // makes invented accounts
	Now      clock.Clock
	Folders  room.Names // names of the places, in the school's words
}

// An Invalid says what can't be accepted and where: Field is the name of the
// field as the caller knows it.
type Invalid struct {
	Field, Code string
	Args        map[string]string
}

func (e *Invalid) Error() string { return "invalid " + e.Field + ": " + e.Code }

// ErrNotFound is the one answer for what isn't there and what isn't yours.
var ErrNotFound = errors.New("classroom: not there")

// CreateClass hangs up a new class owned by the account.
func (c *Classroom) CreateClass(ctx context.Context, owner, code, name, period string) (store.Class, error) {
	cl, err := c.classOf(code, name, period)
	if err != nil {
		return cl, err
	}
	return cl, c.Store.Tx(ctx, func(tx *store.Store) error { return tx.InsertClass(ctx, cl, owner) })
}

// classOf checks what a new class is called.
func (c *Classroom) classOf(code, name, period string) (store.Class, error) {
	code, name, period = tidy(code), tidy(name), tidy(period)
	switch {
	case name == "":
		return store.Class{}, &Invalid{"name", "missing", nil}
	case len(name) > 120:
		return store.Class{}, &Invalid{"name", "too-long", nil}
	case len([]rune(code)) > 12:
		return store.Class{}, &Invalid{"code", "too-long", nil}
	case len([]rune(period)) > 20:
		return store.Class{}, &Invalid{"period", "too-long", nil}
	}
	if code == "" {
		code = shortCode(name)
	}
	return store.Class{ID: store.NewID(), Code: code, Name: name, Period: period, Plan: store.JSON[room.Plan]{V: room.Usual()}, CreatedAt: c.Now()}, nil
}

// shortCode makes a code of a name: its last word where that has a figure
// ("7B"), else the first letters of its words.
func shortCode(name string) string {
	words := strings.Fields(name)
	if last := words[len(words)-1]; len(words) > 1 && len([]rune(last)) <= 6 && strings.ContainsAny(last, "0123456789") {
		return last
	}
	code := ""
	for _, w := range words {
		code += strings.ToUpper(string([]rune(w)[:1]))
	}
	return string([]rune(code)[:min(4, len([]rune(code)))])
}

func tidy(s string) string { return strings.Join(strings.Fields(s), " ") }

// A Student is a member of a class with everything the core needs.
type Student struct {
	store.Member
	Suggestion string // likely right address, where the school book knows none
	room       room.Student
}

// Name is the student's name as it is spoken.
func (s Student) Name() string {
	g := s.Given
	if s.Preferred != "" {
		g = s.Preferred
	}
	return tidy(g + " " + s.Family)
}

// SortName is the student's name as it is listed: family name first.
func (s Student) SortName() string {
	if s.Family == "" || s.Given == "" {
		return s.Family + s.Given
	}
	return s.Family + ", " + s.Given
}

// Problem is what keeps the student from being given anything, or nil.
func (s Student) Problem() *packing.Reason { return s.room.Problem }

// A Class is one class as it stands: its staff, its students in the order the
// school's language lists names.
type Class struct {
	store.Class
	Staff    []store.StaffMember
	Students []Student
}

// Owner is the account of the owner teacher.
func (c Class) Owner() string { return c.Staff[0].Account }

// Student returns the student with a row.
func (c Class) Student(row string) (Student, bool) {
	for _, s := range c.Students {
		if s.ID == row {
			return s, true
		}
	}
	return Student{}, false
}

// Class loads a class. Students whose address the school book has come to know
// are given their account on the way.
func (c *Classroom) Class(ctx context.Context, id string) (Class, error) {
	var out Class
	var err error
	if out.Class, err = c.Store.Class(ctx, id); err != nil {
		return out, notFound(err)
	}
	if out.Staff, err = c.Store.Staff(ctx, id); err != nil {
		return out, err
	}
	members, err := c.Store.Members(ctx, id)
	if err != nil {
		return out, err
	}
	if err := c.meet(ctx, members); err != nil {
		return out, err
	}
	ledger, err := c.Store.Ledger(ctx, id)
	if err != nil {
		return out, err
	}
	satchels := map[string]string{}
	for _, e := range ledger {
		if e.Purpose == "satchel" {
			satchels[e.PersonID.String] = e.Name
		}
	}
	var accounts []schoolbook.Account
	for _, m := range members {
		s := Student{Member: m}
		if !m.Account.Valid && m.Address != "" {
			if accounts == nil {
				if accounts, err = c.Book.All(ctx); err != nil {
					return out, err
				}
			}
			s.Suggestion = schoolbook.Like(m.Address, tidy(m.Given+" "+m.Family), accounts)
		}
		s.room = room.Student{Row: m.ID, Person: m.PersonID, Account: m.Account.String, Problem: problem(s), Added: m.Added, Packed: satchels[m.PersonID], Values: values(out.Class, m)}
		out.Students = append(out.Students, s)
	}
	order := naming.NewOrder(c.School.Language)
	order.Sort(len(out.Students), func(i int) string { return out.Students[i].SortName() }, func(i, j int) {
		out.Students[i], out.Students[j] = out.Students[j], out.Students[i]
	})
	return out, nil
}

func problem(s Student) *packing.Reason {
	switch {
	case s.Account.Valid:
		return nil
	case s.Address == "":
		return &packing.Reason{Code: "no-address", Args: map[string]string{}}
	}
	args := map[string]string{"address": s.Address}
	if s.Suggestion != "" {
		args["suggestion"] = s.Suggestion
	}
	return &packing.Reason{Code: "account-unknown", Args: args}
}

// meet looks up the accounts of members who have none yet.
func (c *Classroom) meet(ctx context.Context, members []store.Member) error {
	var ask []string
	for _, m := range members {
		if !m.Account.Valid && m.Address != "" {
			ask = append(ask, m.Address)
		}
	}
	if len(ask) == 0 {
		return nil
	}
	known, err := c.Book.ByAddress(ctx, ask)
	if err != nil {
		return err
	}
	for i, m := range members {
		a, ok := known[strings.ToLower(m.Address)]
		if !ok || m.Account.Valid {
			continue
		}
		if err := c.Store.SetAddress(ctx, m.PersonID, m.Address, a.ID); err != nil {
			return err
		}
		members[i].Account.String, members[i].Account.Valid = a.ID, true
	}
	return nil
}

// values are the columns of one student for patterns. A single name stands as
// the family name, so that no name begins with a gap.
func values(cl store.Class, m store.Member) map[string]string {
	v := map[string]string{}
	for h, x := range m.Extra.V {
		v[h] = x
	}
	family, given := m.Family, m.Given
	if family == "" {
		family, given = given, ""
	}
	period := m.Period
	if period == "" {
		period = cl.Period
	}
	v[naming.Family], v[naming.Given], v[naming.Preferred], v[naming.Number] = family, given, m.Preferred, m.Number
	v[naming.Class], v[naming.Period], v[naming.Level], v[naming.Team] = cl.Code, period, m.Level, m.Team
	return v
}

// Columns are the columns a name pattern of the class can use.
func (c Class) Columns() []string {
	out := []string{naming.Period, naming.Family, naming.Given, naming.Preferred, naming.Number, naming.Class, naming.Level, naming.Team, naming.Title, naming.Date, naming.Year}
	seen := map[string]bool{}
	for _, o := range out {
		seen[o] = true
	}
	for _, s := range c.Students {
		for _, h := range sortedKeys(s.Extra.V) {
			if !seen[h] {
				seen[h] = true
				out = append(out, h)
			}
		}
	}
	return out
}

// forRoom is the class as core/room and core/handout see it.
func (c *Classroom) forRoom(cl Class) room.Class {
	r := room.Class{ID: cl.ID, Folder: tidy(cl.Code + " " + strings.TrimSuffix(cl.Name, " "+cl.Code)), Owner: cl.Owner(), Names: c.Folders}
	for _, s := range cl.Staff {
		level := access.Edit
		if s.Role == store.RoleAssistant {
			level = access.Comment
		}
		r.Staff = append(r.Staff, room.Staff{Account: s.Account, Level: level})
	}
	for _, s := range cl.Students {
		r.Students = append(r.Students, s.room)
	}
	return r
}

func notFound(err error) error {
	if errors.Is(err, store.ErrNotFound) || errors.Is(err, cupboard.ErrNotFound) {
		return ErrNotFound
	}
	return err
}
