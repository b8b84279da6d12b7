package room

import (
	"cmp"
	"slices"
	"strconv"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
)

// Limits of a plan.
const (
	MostPlaces  = 40
	MostPockets = 40
	MostDepth   = 6 // of places in places
	MostLevels  = 6 // of a path
)

// A Problem is what is wrong with a plan, at its place: Field is "places",
// "pockets", "satchel", "within", "path" or "name", At the place in that list.
type Problem struct {
	Field string
	At    int
	Code  string
	Args  map[string]string
}

// Check returns what is wrong with a plan, none where it can be packed. names are
// the school's; known are the columns of the class's students, and sets those of
// them that teams come of.
func (p Plan) Check(names Names, known record.Vocabulary) []Problem {
	var out []Problem
	add := func(field string, at int, code string, args ...string) {
		a := map[string]string{}
		for i := 0; i+1 < len(args); i += 2 {
			a[args[i]] = args[i+1]
		}
		out = append(out, Problem{field, at, code, a})
	}
	columns := func(field string, at int, pattern naming.Pattern, own bool) {
		for _, part := range pattern {
			switch {
			case part.Column == "":
			case !part.Column.Known() || known != nil && !known.Has(part.Column):
				add(field, at, "column-unknown", "column", cmp.Or(part.Column.Label(), string(part.Column)))
			case own && !part.Column.Own() && part.Column != record.Period:
				add(field, at, "column-of-students", "column", part.Column.Label())
			case part.Column == record.Title, part.Column == record.Original:
				add(field, at, "column-of-handouts", "column", part.Column.Label())
			}
		}
	}
	levels := func(field string, path []naming.Pattern, own bool) {
		if len(path) > MostLevels {
			add(field, MostLevels, "too-many-levels", "most", strconv.Itoa(MostLevels))
			return
		}
		for i, pattern := range path {
			if len(pattern) == 0 {
				add(field, i, "missing")
			}
			columns(field, i, pattern, own)
		}
	}
	if len(p.Satchel) == 0 {
		add("satchel", 0, "missing")
	}
	columns("satchel", 0, p.Satchel, false)
	if len(p.Satchel) > 0 && !slices.ContainsFunc(p.Satchel, func(x naming.Part) bool { return x.Column != "" && !x.Column.Own() }) {
		add("satchel", 0, "all-equal")
	}
	levels("within", p.Within, false)
	levels("path", p.Path, true)
	p.checkPockets(add)
	p.checkPlaces(names, known, add)
	return out
}

func (p Plan) checkPockets(add func(string, int, string, ...string)) {
	if len(p.Pockets) > MostPockets {
		add("pockets", MostPockets, "too-many", "most", strconv.Itoa(MostPockets))
		return
	}
	seen := map[string]bool{}
	for i, pocket := range p.Pockets {
		fold := naming.Fold(naming.Safe(pocket.Name, ""))
		switch {
		case blankName(pocket.Name):
			add("pockets", i, "missing")
		case seen[fold]:
			add("pockets", i, "pocket-twice", "name", pocket.Name)
		}
		seen[fold] = true
	}
}

func blankName(s string) bool { return s == "" || naming.Safe(s, "") == naming.Nameless }

func (p Plan) checkPlaces(names Names, known record.Vocabulary, add func(string, int, string, ...string)) {
	all := p.AllPlaces()
	if len(all) > MostPlaces {
		add("places", MostPlaces, "too-many-places", "most", strconv.Itoa(MostPlaces))
		return
	}
	at := map[string]int{}
	for i, x := range all {
		if _, twice := at[x.ID]; twice || x.ID == "" {
			add("places", i, "place-id")
			return
		}
		at[x.ID] = i
	}
	for _, needed := range []Place{{ID: Drawer}, {ID: Cloakroom}} {
		if _, there := at[needed.ID]; !there {
			add("places", 0, "place-needed", "name", needed.Called(names))
		}
	}
	seen := map[[2]string]bool{}
	for i, x := range all {
		name := x.Called(names)
		fold := [2]string{x.Under, naming.Fold(name)}
		level, word := access.ParseLevel(x.Level)
		switch {
		case x.Name == "" && !x.Usual(), x.Name != "" && blankName(x.Name):
			add("places", i, "missing")
		case seen[fold]:
			add("places", i, "place-twice", "name", name)
		case !slices.Contains([]For{ForClass, ForTeam, ForStudent, ForStaff}, x.For):
			add("places", i, "for-unknown", "value", string(x.For))
		case x.For != ForStaff && (!word || level < access.Read || level > access.Edit):
			add("places", i, "level-unknown", "value", x.Level)
		case x.Needed() && (x.ID == Drawer && x.For != ForStaff || x.ID == Cloakroom && (x.For != ForStudent || level != access.Edit)):
			add("places", i, "place-fixed", "name", name)
		case x.HandIn && (x.For != ForStudent || level != access.Edit):
			add("places", i, "hand-in", "name", name)
		case x.For == ForTeam && (x.Set == "" || !x.Set.Known() || known != nil && !known.Has(x.Set)):
			add("places", i, "set-unknown", "name", name)
		default:
			p.checkAbove(all, at, i, name, names, add)
		}
		seen[fold] = true
	}
}

// checkAbove looks at what a place is in. All below is open to above: a place
// can't be for fewer people, or for less, than the one it is in.
func (p Plan) checkAbove(all []Place, at map[string]int, i int, name string, names Names, add func(string, int, string, ...string)) {
	x := all[i]
	depth := 1
	for under := x.Under; under != ""; depth++ {
		j, there := at[under]
		switch {
		case !there:
			add("places", i, "under-unknown", "name", name)
			return
		case depth > len(all):
			add("places", i, "under-circle", "name", name)
			return
		}
		under = all[j].Under
	}
	if depth > MostDepth {
		add("places", i, "too-deep", "most", strconv.Itoa(MostDepth))
		return
	}
	if x.Under == "" {
		return
	}
	above := all[at[x.Under]]
	switch {
	case above.ID == Cloakroom:
		add("places", i, "under-cloakroom", "name", name)
	case above.For == ForStaff:
	case above.For != x.For, above.Set != x.Set, x.level() < above.level(), x.Needed():
		add("places", i, "under-wider", "name", name, "above", above.Called(names))
	}
}
