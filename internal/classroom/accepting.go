package classroom

import (
	"context"
	"database/sql"
	"errors"
	"slices"
	"strconv"
	"strings"

	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/schoolbook"
	"jollysatchel/internal/store"
)

// Targets of a group besides the ids of classes.
const (
	NewClass = "new"
	NoClass  = "out"
)

// A DraftGroup is the students of one class of the list, and which class of
// ours that is.
type DraftGroup struct {
	roster.Group
	Target   string // class id, NewClass or NoClass
	Name     string // of the class it is, or will be
	Teachers []store.DraftTeacher
}

// A DraftLine is one line of the comparison of a list with the classes it is
// for, and what accepting it does.
type DraftLine struct {
	Key        string
	Kind       roster.Kind
	By, Why    string
	Student    *roster.Student // as the list has it
	Member     *store.Member   // as the class has it
	Class      string          // where the student will be: class id, or NewClass
	Group      string
	Fields     []DraftField
	Candidates []store.Member
	Also       []string // codes of other classes where a changed name or address will show
	Accepted   bool
}

// A DraftField is one value that differs. An empty cell over a value isn't
// accepted unless the teacher ticks it.
type DraftField struct {
	roster.FieldChange
	Key      string
	Accepted bool
}

// compare says which classes the list is for and what it changes in them.
func (c *Classroom) compare(ctx context.Context, by string, d *Draft) error {
	classes, err := c.Store.Taught(ctx, by)
	if err != nil {
		return err
	}
	d.Groups = c.groups(d, classes)
	students := make([]roster.Student, 0, len(d.Read.Students))
	var places []int    // in Read.Students
	var group []string  // of each
	var target []string // of each
	wanted := map[string]bool{}
	for _, g := range d.Groups {
		if g.Target == NoClass {
			continue
		}
		if g.Target != NewClass {
			wanted[g.Target] = true
		}
		for _, i := range g.Students {
			s := d.Read.Students[i]
			s.Class = g.Target
			if g.Target == NewClass {
				s.Class = NewClass + g.Key
			}
			students, places, group, target = append(students, s), append(places, i), append(group, g.Key), append(target, g.Target)
		}
	}
	var old []roster.Known
	var members []store.Member
	also := map[string]map[string][]string{}
	for _, cl := range classes {
		if !wanted[cl.ID] {
			continue
		}
		all, err := c.Store.AllMembers(ctx, cl.ID)
		if err != nil {
			return err
		}
		if also[cl.ID], err = c.Store.OtherClasses(ctx, cl.ID); err != nil {
			return err
		}
		for _, m := range all {
			old, members = append(old, roster.Known{Student: studentOf(m), Gone: m.LeftAt.Valid}), append(members, m)
		}
	}
	d.Compared = len(old) > 0
	has := d.Read.Fields()
	has[string(roster.Class)] = true // every row has one now: the class it is for
	if d.Settings.V.Derive != "" {
		has[string(roster.Address)] = true
	}
	if d.Settings.V.Own {
		has = nil // our own roster says everything, blank columns too
	}
	opt := roster.CompareOptions{Has: has, Said: map[int]int{}}
	for n, i := range places {
		switch row := d.Settings.V.Said[d.Read.Students[i].Row]; row {
		case "":
		case "new":
			opt.Said[n] = -1
		default:
			if o := slices.IndexFunc(members, func(m store.Member) bool { return m.ID == row }); o >= 0 {
				opt.Said[n] = o
			}
		}
	}
	comparison := roster.Compare(old, students, opt)
	d.Partial = comparison.Partial(old)
	ticked := func(key string, usual bool) bool {
		if said, ok := d.Settings.V.Ticked[key]; ok {
			return said
		}
		return usual
	}
	for _, diff := range comparison {
		line := DraftLine{Kind: diff.Kind, By: diff.By, Why: diff.Why}
		if diff.New >= 0 {
			line.Student = &d.Read.Students[places[diff.New]]
			line.Key, line.Class, line.Group = "n"+strconv.Itoa(line.Student.Row), target[diff.New], group[diff.New]
		}
		if diff.Old >= 0 {
			line.Member = &members[diff.Old]
			if line.Key == "" {
				line.Key, line.Class = "o"+line.Member.ID, line.Member.ClassID
			}
		}
		if line.Kind == roster.Moved && line.Class == line.Member.ClassID {
			line.Kind = roster.Changed // another period of the same class
		}
		for _, o := range diff.Candidates {
			line.Candidates = append(line.Candidates, members[o])
		}
		any := false
		for _, f := range diff.Fields {
			if f.Field == string(roster.Class) {
				continue
			}
			key := line.Key + "/" + f.Field
			df := DraftField{f, key, ticked(key, !f.Empties() || d.Settings.V.Own)}
			any = any || df.Accepted
			line.Fields = append(line.Fields, df)
			if slices.Contains(personFields, f.Field) {
				line.Also = also[line.Member.ClassID][line.Member.PersonID]
			}
		}
		line.Accepted = ticked(line.Key, line.Kind != roster.Left && line.Kind != roster.Changed || line.Kind == roster.Left && !d.Partial || any)
		d.Lines = append(d.Lines, line)
	}
	return nil
}

// personFields belong to the person and show in every class.
var personFields = []string{string(roster.Given), string(roster.Family), string(roster.Preferred), string(roster.Address), string(roster.Number)}

// studentOf is a member as the core compares it, its class the class's id.
func studentOf(m store.Member) roster.Student {
	return roster.Student{
		Given: m.Given, Family: m.Family, Preferred: m.Preferred, Address: m.Address, Number: m.Number,
		Class: m.ClassID, Period: m.Period, Level: m.Level, Team: m.Team, Extra: m.Extra.V,
	}
}

// groups divides the list and says which class each part is: what the teacher
// said, else the class it names, else, where there is one part alone, the
// class the list was brought to.
func (c *Classroom) groups(d *Draft, classes []store.Class) []DraftGroup {
	var out []DraftGroup
	groups := roster.Groups(d.Read.Students, d.Settings.V.ByPeriod)
	for _, g := range groups {
		dg := DraftGroup{Group: g, Target: NewClass, Name: tidy(g.Class + " " + g.Period)}
		if len(groups) == 1 {
			dg.Target = d.ClassID
		}
		var fits []string
		for _, cl := range classes {
			if g.SameClass(roster.Named{Code: cl.Code, Name: cl.Name, Period: cl.Period}) {
				fits = append(fits, cl.ID)
			}
		}
		if len(groups) > 1 && len(fits) == 1 { // of two that fit none is guessed
			dg.Target = fits[0]
		}
		if len(groups) > 1 && g.Class == "" && dg.Target == NewClass {
			dg.Target = d.ClassID // rows that name no class are this one's
		}
		if said := d.Settings.V.Targets[g.Key]; said != "" {
			dg.Target = said
		}
		if i := slices.IndexFunc(classes, func(cl store.Class) bool { return cl.ID == dg.Target }); i >= 0 {
			dg.Name = classes[i].Name
		} else if dg.Target != NoClass {
			dg.Target = NewClass
		}
		for _, t := range d.Settings.V.Teachers {
			if (roster.Group{Class: t.Class}).SameClass(roster.Named{Name: g.Class}) && (g.Period == "" || t.Period == g.Period) {
				dg.Teachers = append(dg.Teachers, t)
			}
		}
		out = append(out, dg)
	}
	return out
}

// An Accepted says what accepting a list did.
type Accepted struct {
	Students int // in the list's classes, of the list
	Counts   map[roster.Kind]int
	Classes  []string // ids, the one the list was brought to first if it is among them
	Batch    string   // for taking it back
}

// Accept puts a draft into its classes: all of it that is ticked, or nothing.
// Nobody's things are touched; what follows for satchels and copies stands in
// the next packing list.
func (c *Classroom) Accept(ctx context.Context, by, class string) (Accepted, error) {
	out := Accepted{Counts: map[roster.Kind]int{}}
	d, err := c.Draft(ctx, by, class)
	if err != nil {
		return out, err
	}
	if err := c.acceptable(d); err != nil {
		return out, err
	}
	addresses := make([]string, 0, len(d.Read.Students))
	for _, s := range d.Read.Students {
		addresses = append(addresses, s.Address)
	}
	for _, t := range d.Settings.V.Teachers {
		addresses = append(addresses, t.Address)
	}
	accounts, err := c.Book.ByAddress(ctx, addresses)
	if err != nil {
		return out, err
	}
	ids := map[string]string{} // group → class
	var touched []string
	for _, g := range d.Groups {
		if g.Target != NewClass && g.Target != NoClass {
			ids[g.Key] = g.Target
			touched = append(touched, g.Target)
		}
	}
	out.Batch, err = c.changeRosters(ctx, by, "list", d.Source, touched, func(tx *store.Store, before rosterStates) ([]string, error) {
		var made []string
		for _, g := range d.Groups {
			if g.Target != NewClass {
				continue
			}
			id, err := c.newClass(ctx, tx, by, g, accounts, !d.Settings.V.NoStaff)
			if err != nil {
				return nil, err
			}
			ids[g.Key] = id
			made = append(made, id)
		}
		a := accepter{Classroom: c, tx: tx, accounts: accounts}
		for _, line := range d.Lines {
			if !line.Accepted {
				continue
			}
			// What was looked at is what is changed: not what another made of it since.
			if m := line.Member; m != nil && !same(before[m.ClassID][m.ID], m.State()) {
				return nil, &Invalid{"list", "changed-meanwhile", map[string]string{"name": tidy(m.Given + " " + m.Family)}}
			}
			if err := a.line(ctx, line, ids[line.Group]); err != nil {
				return nil, err
			}
			out.Counts[line.Kind]++
			if line.Student != nil {
				out.Students++
			}
		}
		return made, tx.DeleteDraft(ctx, class)
	})
	for _, g := range d.Groups {
		if id := ids[g.Key]; id != "" && !slices.Contains(out.Classes, id) {
			out.Classes = append(out.Classes, id)
		}
	}
	if i := slices.Index(out.Classes, class); i > 0 {
		out.Classes[0], out.Classes[i] = out.Classes[i], out.Classes[0]
	}
	return out, err
}

// acceptable says why a draft can't be accepted as it stands.
func (c *Classroom) acceptable(d Draft) error {
	noAddresses := d.Settings.V.Derive == "" && !slices.ContainsFunc(d.Read.Columns, func(col roster.Column) bool { return col.Role == roster.Address })
	doubtful, accepted := 0, 0
	size := map[string]int{}
	seen := map[string]string{}
	for _, l := range d.Lines {
		if !l.Accepted {
			continue
		}
		accepted++
		if l.Kind == roster.Doubtful {
			doubtful++
		}
		if l.Student == nil {
			continue
		}
		at := l.Class + "/"
		if l.Class == NewClass {
			at += l.Group
		}
		size[at]++
		for _, key := range []string{l.Student.Number, strings.ToLower(l.Student.Address)} {
			if key == "" {
				continue
			}
			if first, twice := seen[at+key]; twice {
				return &Invalid{"list", "student-twice-in-class", map[string]string{"name": l.Student.Name(), "first": first}}
			}
			seen[at+key] = l.Student.Name()
		}
	}
	for _, n := range size {
		if n > MaxStudents {
			return &Invalid{"list", "too-many-students", map[string]string{"most": strconv.Itoa(MaxStudents), "count": strconv.Itoa(n)}}
		}
	}
	switch {
	case len(d.Read.Students) == 0 || accepted == 0:
		return &Invalid{"list", "nobody", nil}
	case noAddresses && !d.Without:
		return &Invalid{"list", "no-address-column", nil}
	case doubtful > 0:
		return &Invalid{"list", "doubtful", map[string]string{"count": strconv.Itoa(doubtful)}}
	}
	return nil
}

// newClass hangs up a class for a group of the list, with the teachers the
// file names for it where they are staff of the school.
func (c *Classroom) newClass(ctx context.Context, tx *store.Store, by string, g DraftGroup, accounts map[string]schoolbook.Account, staff bool) (string, error) {
	cl, err := c.classOf("", or(tidy(g.Class), "New class"), g.Period)
	if err != nil {
		return "", err
	}
	if err := tx.InsertClass(ctx, cl, by); err != nil {
		return "", err
	}
	for _, t := range g.Teachers {
		a, ok := accounts[strings.ToLower(t.Address)]
		if !staff || !ok || a.Role == schoolbook.Student || a.ID == by {
			continue
		}
		if err := tx.AddStaff(ctx, store.StaffMember{ClassID: cl.ID, Account: a.ID, Role: store.RoleTeacher}); err != nil {
			return "", err
		}
	}
	return cl.ID, nil
}

// An accepter carries lines of a comparison out.
type accepter struct {
	*Classroom
	tx       *store.Store
	accounts map[string]schoolbook.Account
}

func (a accepter) line(ctx context.Context, l DraftLine, class string) error {
	switch l.Kind {
	case roster.Joined:
		return a.join(ctx, class, *l.Student, nil)
	case roster.Moved:
		if err := a.tx.SetLeft(ctx, l.Member.ClassID, []string{l.Member.ID}, sql.NullTime{Time: a.Now(), Valid: true}); err != nil {
			return err
		}
		return a.join(ctx, class, *l.Student, l.Member)
	case roster.Left:
		return a.tx.SetLeft(ctx, l.Member.ClassID, []string{l.Member.ID}, sql.NullTime{Time: a.Now(), Valid: true})
	case roster.Returned:
		if err := a.tx.SetLeft(ctx, l.Member.ClassID, []string{l.Member.ID}, sql.NullTime{}); err != nil {
			return err
		}
		fallthrough
	case roster.Changed:
		to := l.Member.State()
		to.Left = nil
		for _, f := range l.Fields {
			if f.Accepted {
				setField(&to, f.Field, f.To)
			}
		}
		return a.restate(ctx, l.Member.ClassID, l.Member.ID, l.Member.State(), to)
	}
	return nil
}

// join adds a student to a class: the person the school knows already, or a
// new one; was is the row they moved from.
func (a accepter) join(ctx context.Context, class string, s roster.Student, was *store.Member) error {
	account := a.accounts[strings.ToLower(s.Address)].ID
	p, err := a.person(ctx, class, s, account, was)
	if err != nil {
		return err
	}
	p.Given, p.Family = s.Given, s.Family
	p.Preferred, p.Number = or(s.Preferred, p.Preferred), or(s.Number, p.Number)
	if s.Address != "" {
		p.Address, p.Account = s.Address, sql.NullString{String: account, Valid: account != ""}
	}
	if err := a.tx.SavePerson(ctx, p); err != nil {
		return err
	}
	_, err = a.tx.SaveRow(ctx, store.Row{ID: store.NewID(), ClassID: class, PersonID: p.ID, Class: s.Class, Period: s.Period, Level: s.Level, Team: s.Team, Extra: store.JSON[map[string]string]{V: s.Extra}})
	return err
}

// person finds who a student of a list is, or makes somebody new: where the
// school knows nobody like that, and where whom it knows is in the class
// already and the teacher said that this is another.
func (a accepter) person(ctx context.Context, class string, s roster.Student, account string, was *store.Member) (store.Person, error) {
	somebody := store.Person{ID: store.NewID(), CreatedAt: a.Now()}
	if was != nil {
		return store.Person{ID: was.PersonID, Account: was.Account, Number: was.Number, Given: was.Given, Family: was.Family, Preferred: was.Preferred, Address: was.Address}, nil
	}
	p, err := a.tx.PersonLike(ctx, account, s)
	if errors.Is(err, store.ErrNotFound) {
		return somebody, nil
	}
	if err != nil {
		return p, err
	}
	there, err := a.tx.RowOf(ctx, class, p.ID)
	switch {
	case errors.Is(err, store.ErrNotFound), err == nil && there.LeftAt.Valid:
		return p, nil
	case err != nil:
		return p, err
	case account != "" && p.Account.String == account:
		return p, &Invalid{"list", "address-twice", map[string]string{"address": s.Address, "other": tidy(there.Given + " " + there.Family)}}
	}
	return somebody, nil
}

func or(a, b string) string {
	if a != "" {
		return a
	}
	return b
}
