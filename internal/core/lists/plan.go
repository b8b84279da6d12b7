// Package lists says what a list that was read would do, and nothing else: in one class or several
// (who joins, moves, changes or leaves), in the school book, in a new term; and what takes it back.
package lists

import (
	"slices"
	"strconv"
	"strings"

	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
)

// Targets of a part of a list besides the ids of classes.
const (
	NewClass  = "new" // a class is made for it
	NoClass   = "out" // it is left out
	Undecided = ""    // the teacher is asked
)

// Why a part of a list is for the class it is for, where the teacher hasn't said.
const (
	PartFits    = "fits"    // it names one of the teacher's classes
	PartAlone   = "alone"   // the whole list is one part
	PartNone    = "none"    // its rows name no class
	PartOthers  = "others"  // other parts name classes of the teacher's, this one none
	PartUnsure  = "unsure"  // the column may be something else than classes
	PartAsk     = "ask"     // it may be a new class or this one: asked
	PartSaid    = "said"    // the teacher said so
	PartSeveral = "several" // it names several classes of the teacher's: asked

	PartElsewhere = "elsewhere" // it names another class of the teacher's than the list was brought to: only if they say so
)

// A PlanClass is a class a list can be for. Rows are those it has, loaded for
// the classes that parts are for.
type PlanClass struct {
	ID, Code, Name, Period string
	Rows                   []roster.ClassRow
}

// Answers are what the teacher said about a list.
type Answers struct {
	Home     string            // the class it was brought to
	ByPeriod bool              // periods are classes of their own
	Targets  map[string]string // part → class id, NewClass or NoClass
	Said     map[int]string    // line → row it is, "new" for nobody's
	Ticked   map[string]bool   // lines and fields of the plan
	Own      bool              // our own roster as it once stood: an empty cell means empty
	Without  bool              // accept without addresses
	Derived  bool              // missing addresses are made by a rule
	Same     map[int]bool      // lines whose address is theirs although the school book has another name
}

// A Part is the students of one class of the list, and which class that is.
type Part struct {
	Group
	Target string // class id, NewClass, NoClass or Undecided
	Name   string // of the class it is, or would be
	Why    string
}

// Parts divides a list by class and says which class each part is for: what the
// teacher said, else the one class of theirs it names, else, where nothing else
// can be meant, the class the list was brought to; a list of another class of theirs
// alone is asked about. A class is made only where
// the teacher says so.
func Parts(list roster.Result, classes []PlanClass, a Answers) []Part {
	groups := Groups(list.Students, a.ByPeriod)
	fits := make([][]string, len(groups))
	some, home := false, false // parts name classes of the teacher's, the one it was brought to
	for i, g := range groups {
		for _, c := range classes {
			if g.SameClass(Named{Code: c.Code, Name: c.Name, Period: c.Period}) {
				fits[i] = append(fits[i], c.ID)
			}
		}
		some = some || len(fits[i]) > 0
		home = home || len(fits[i]) == 1 && fits[i][0] == a.Home
	}
	unsure := !sureOf(list, roster.Class) && !a.ByPeriod
	out := make([]Part, 0, len(groups))
	for i, g := range groups {
		p := Part{Group: g, Name: strings.TrimSpace(g.Class + " " + g.Period)}
		switch {
		case len(groups) == 1 && (len(fits[i]) != 1 || home):
			p.Target, p.Why = a.Home, PartAlone
		case len(fits[i]) == 1 && fits[i][0] == a.Home:
			p.Target, p.Why = a.Home, PartFits
		case len(fits[i]) == 1 && home:
			p.Target, p.Why = NoClass, PartElsewhere
		case len(fits[i]) == 1:
			p.Target, p.Why = Undecided, PartElsewhere
		case len(fits[i]) > 1:
			p.Target, p.Why = Undecided, PartSeveral
		case g.Class == "" && g.Period == "":
			p.Target, p.Why = a.Home, PartNone
		case some:
			p.Target, p.Why = NoClass, PartOthers
		case unsure:
			p.Target, p.Why = a.Home, PartUnsure
		default:
			p.Target, p.Why = Undecided, PartAsk
		}
		if said, ok := a.Targets[g.Key]; ok && said != "" {
			p.Target, p.Why = said, PartSaid
		}
		if c := slices.IndexFunc(classes, func(c PlanClass) bool { return c.ID == p.Target }); c >= 0 {
			p.Name = classes[c].Name
		} else if p.Target != NoClass && p.Target != Undecided && p.Target != NewClass {
			p.Target, p.Why = Undecided, PartAsk // no class of the teacher's
		}
		out = append(out, p)
	}
	return out
}

// sureOf reports that the column with a role is surely one.
func sureOf(r roster.Result, role roster.Role) bool {
	return slices.ContainsFunc(r.Columns, func(c roster.Column) bool { return c.Role == role && c.Confidence > 0.75 })
}

// A PlanLine is one line of the comparison of a list with the classes it is
// for, and what accepting it does.
type PlanLine struct {
	Key        string
	Kind       roster.Kind
	By, Why    string
	Student    *roster.Student  // as the list has it
	Row        *roster.ClassRow // as the class has it
	From       string           // class id the row is in
	Class      string           // where the student will be: class id, or NewClass
	Group      string
	Fields     []PlanField
	Candidates []roster.ClassRow
	Accepted   bool
}

// A PlanField is one value that differs. An empty cell over a value isn't
// accepted unless the teacher ticks it.
type PlanField struct {
	record.FieldChange
	Key      string
	Accepted bool
}

// A Plan is what a list means for classes: line by line what happens to every
// student, and what accepting it would do.
type Plan struct {
	Parts    []Part
	Compared bool // there is something to compare with
	Partial  bool // the list names so few that it is hardly the whole class
	Lines    []PlanLine
	lacks    map[record.Field]bool // personal fields the list has no column for
}

// MakePlan compares a list with the classes its parts are for.
func MakePlan(list roster.Result, parts []Part, classes []PlanClass, a Answers) Plan {
	p := Plan{Parts: parts}
	in := planInput(list, parts, classes)
	p.Compared = len(in.old) > 0
	opt := roster.CompareOptions{Has: in.has(list, a), Said: in.said(list, a)}
	p.lacks = map[record.Field]bool{}
	for _, f := range []record.Field{record.Preferred, record.Number, record.Address} {
		p.lacks[f] = opt.Has != nil && !opt.Has[f]
	}
	comparison := roster.Compare(in.old, in.students, opt)
	p.Partial = comparison.Partial(in.old)
	p.Lines = make([]PlanLine, 0, len(comparison))
	for _, diff := range comparison {
		p.Lines = append(p.Lines, in.line(list, diff, a, p.Partial))
	}
	return p
}

// An input is a list and its classes as Compare takes them: the class of every
// student is the class's id.
type input struct {
	students []roster.Student
	places   []int // in list.Students
	part     []*Part
	old      []roster.Known
	rows     []*roster.ClassRow
	classOf  []string // of each row
}

func planInput(list roster.Result, parts []Part, classes []PlanClass) input {
	var in input
	wanted := map[string]bool{}
	for i := range parts {
		p := &parts[i]
		if p.Target == NoClass || p.Target == Undecided {
			continue
		}
		wanted[p.Target] = true
		for _, n := range p.Students {
			s := list.Students[n]
			s.Class = p.Target
			if p.Target == NewClass {
				s.Class = NewClass + p.Key
			}
			in.students, in.places, in.part = append(in.students, s), append(in.places, n), append(in.part, p)
		}
	}
	for c := range classes {
		if !wanted[classes[c].ID] {
			continue
		}
		for r := range classes[c].Rows {
			row := &classes[c].Rows[r]
			k := roster.Known{Student: roster.Student{Record: row.Record}, Gone: row.Gone}
			k.Class = classes[c].ID
			in.old, in.rows, in.classOf = append(in.old, k), append(in.rows, row), append(in.classOf, classes[c].ID)
		}
	}
	return in
}

func (in input) has(list roster.Result, a Answers) map[record.Field]bool {
	if a.Own {
		return nil // our own roster says everything, blank columns too
	}
	has := list.Fields()
	has[record.Class] = true // every row has one now: the class it is for
	if a.Derived {
		has[record.Address] = true
	}
	return has
}

func (in input) said(list roster.Result, a Answers) map[int]int {
	said := map[int]int{}
	for n, i := range in.places {
		switch row := a.Said[list.Students[i].Row]; row {
		case "":
		case "new":
			said[n] = -1
		default:
			if o := slices.IndexFunc(in.rows, func(r *roster.ClassRow) bool { return r.ID == row }); o >= 0 {
				said[n] = o
			}
		}
	}
	return said
}

func (in input) line(list roster.Result, diff roster.Difference, a Answers, partial bool) PlanLine {
	l := PlanLine{Kind: diff.Kind, By: diff.By, Why: diff.Why}
	if diff.New >= 0 {
		l.Student = &list.Students[in.places[diff.New]]
		l.Key, l.Class, l.Group = "n"+strconv.Itoa(l.Student.Row), in.part[diff.New].Target, in.part[diff.New].Key
	}
	if diff.Old >= 0 {
		l.Row, l.From = in.rows[diff.Old], in.classOf[diff.Old]
		if l.Key == "" {
			l.Key, l.Class = "o"+l.Row.ID, l.From
		}
	}
	if l.Kind == roster.Moved && l.Class == l.From {
		l.Kind = roster.Changed // another period of the same class
	}
	for _, o := range diff.Candidates {
		l.Candidates = append(l.Candidates, *in.rows[o])
	}
	ticked := func(key string, usual bool) bool {
		if said, ok := a.Ticked[key]; ok {
			return said
		}
		return usual
	}
	any := false
	for _, f := range diff.Fields {
		if f.Field == record.Class {
			continue
		}
		key := l.Key + "/" + string(f.Field)
		pf := PlanField{f, key, ticked(key, !f.Empties() || a.Own)}
		any = any || pf.Accepted
		l.Fields = append(l.Fields, pf)
	}
	usual := true
	switch l.Kind {
	case roster.Left:
		usual = !partial
	case roster.Changed:
		usual = any
	}
	l.Accepted = ticked(l.Key, usual)
	return l
}

// The acts on rows. Moving to another class is Leave and Join: one row ends and
// another begins.
const (
	Join  ActKind = "join"
	Set   ActKind = "set"
	Leave ActKind = "leave"
)
