package room

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
)

func withTeams(c Class, n int) Class {
	c.Teams = map[record.Field][]Team{}
	var teams []Team
	for i := range n {
		teams = append(teams, Team{ID: fmt.Sprint("t", i), Name: fmt.Sprint("Crew ", i)})
	}
	for i, s := range c.Students {
		if n > 0 && i%(n+1) < n { // every so often somebody is in none
			teams[i%(n+1)].Rows = append(teams[i%(n+1)].Rows, s.Row)
		}
	}
	c.Teams[record.Team] = teams
	return c
}

func codesOf(problems []Problem) (out []string) {
	for _, p := range problems {
		out = append(out, fmt.Sprintf("%s %d %s", p.Field, p.At, p.Code))
	}
	return out
}

// What is wrong with a plan is said at its place.
func TestCheck(t *testing.T) {
	usual := UsualPlaces()
	with := func(more ...Place) Plan {
		p := Usual()
		p.Places = append(slices.Clone(usual), more...)
		return p
	}
	own := func(p naming.Pattern) Plan { x := Usual(); x.Satchel = p; return x }
	column := func(f record.Field) naming.Pattern { return naming.Pattern{{Column: f}} }
	path := func(levels ...naming.Pattern) Plan { x := Usual(); x.Path = levels; return x }
	crowd := with()
	for i := range 10_000 {
		crowd.Places = append(crowd.Places, Place{ID: fmt.Sprint(i), Name: fmt.Sprint(i), For: ForClass, Level: "read"})
	}
	deep := with()
	for i := range MostDepth + 1 {
		under := ""
		if i > 0 {
			under = fmt.Sprint("d", i-1)
		}
		deep.Places = append(deep.Places, Place{ID: fmt.Sprint("d", i), Name: "Deep", For: ForClass, Level: "read", Under: under})
	}
	known := record.Vocabulary{record.Family, record.Given, record.Period, record.Team, record.Title, record.Term, record.Code}
	pocketed := Usual()
	pocketed.Pockets = []Pocket{{"a", "Field work"}, {"b", "field WORK"}, {"c", " . "}}
	for _, c := range []struct {
		what string
		plan Plan
		want string
	}{
		{"usual", Usual(), ""},
		{"usual, written out", with(), ""},
		{"a place of each kind", with(Place{ID: "1", Name: "Crews", For: ForTeam, Level: "edit", Set: record.Team,
			Under: Drawer}, Place{ID: "2", Name: "In", For: ForStudent, Level: "edit", HandIn: true},
			Place{ID: "3", Name: "Keys", For: ForStaff}, Place{ID: "4", Name: "Songs", For: ForClass, Level: "comment"}), ""},
		{"in one another", with(Place{ID: "1", Name: "Crews", For: ForTeam, Level: "read", Set: record.Team},
			Place{ID: "2", Name: "Logs", For: ForTeam, Level: "edit", Set: record.Team, Under: "1"},
			Place{ID: "3", Name: "Old", For: ForClass, Level: "read", Under: Shelf}), ""},
		{"no drawer", Plan{Satchel: Usual().Satchel, Places: []Place{usual[3]}}, "places 0 place-needed"},
		{"no name", with(Place{ID: "1", For: ForStaff}), "places 4 missing"},
		{"only dots", with(Place{ID: "1", Name: "..", For: ForStaff}), "places 4 missing"},
		{"one id twice", with(Place{ID: Shelf, Name: "Again", For: ForStaff}), "places 4 place-id"},
		{"one name twice", with(Place{ID: "1", Name: "SHELF", For: ForStaff}), "places 4 place-twice"},
		{"one name in two places", with(Place{ID: "1", Name: "Shelf", For: ForStaff, Under: Drawer}), ""},
		{"for the moon", with(Place{ID: "1", Name: "X", For: "moon", Level: "read"}), "places 4 for-unknown"},
		{"an unknown level", with(Place{ID: "1", Name: "X", For: ForClass, Level: "owner"}), "places 4 level-unknown"},
		{"hand in to read", with(Place{ID: "1", Name: "X", For: ForStudent, Level: "read", HandIn: true}), "places 4 hand-in"},
		{"teams of nothing", with(Place{ID: "1", Name: "X", For: ForTeam, Level: "read"}), "places 4 set-unknown"},
		{"teams of a column there isn't",
			with(Place{ID: "1", Name: "X", For: ForTeam, Level: "read", Set: record.Extra("Boat")}), "places 4 set-unknown"},
		{"in what isn't there", with(Place{ID: "1", Name: "X", For: ForStaff, Under: "9"}), "places 4 under-unknown"},
		{"in itself", with(Place{ID: "1", Name: "X", For: ForStaff, Under: "1"}), "places 4 under-circle"},
		{"a circle", with(Place{ID: "1", Name: "X", For: ForStaff, Under: "2"},
			Place{ID: "2", Name: "Y", For: ForStaff, Under: "1"}), "places 4 under-circle,places 5 under-circle"},
		{"among the satchels", with(Place{ID: "1", Name: "X", For: ForStudent, Level: "edit", Under: Cloakroom}), "places 4 under-cloakroom"},
		{"staff's on the shelf", with(Place{ID: "1", Name: "X", For: ForStaff, Under: Shelf}), "places 4 under-wider"},
		{"to read on the table", with(Place{ID: "1", Name: "X", For: ForClass, Level: "read", Under: Table}), "places 4 under-wider"},
		{"one's own on the shelf", with(Place{ID: "1", Name: "X", For: ForStudent, Level: "edit", Under: Shelf}), "places 4 under-wider"},
		{"a drawer for all", Plan{Satchel: Usual().Satchel,
			Places: []Place{usual[3], {ID: Drawer, For: ForClass, Level: "read"}}}, "places 1 place-fixed"},
		{"10,000 places", crowd, fmt.Sprintf("places %d too-many-places", MostPlaces)},
		{"too deep", deep, fmt.Sprintf("places %d too-deep", 4+MostDepth)},
		{"pockets", pocketed, "pockets 1 pocket-twice,pockets 2 missing"},
		{"no name of satchels", own(nil), "satchel 0 missing"},
		{"all satchels equal", own(naming.Pattern{{Text: "Satchel "}, {Column: record.Term}}), "satchel 0 all-equal"},
		{"a column there isn't", own(column(record.Extra("House"))), "satchel 0 column-unknown"},
		{"a handout's column", own(append(column(record.Title), column(record.Family)...)), "satchel 0 column-of-handouts"},
		{"a path of terms", path(column(record.Term), naming.Pattern{{Text: "Year "}, {Column: record.Period}}), ""},
		{"a path of students", path(column(record.Family)), "path 0 column-of-students"},
		{"an empty level", path(nil), "path 0 missing"},
		{"a long path", path(make([]naming.Pattern, MostLevels+1)...), fmt.Sprintf("path %d too-many-levels", MostLevels)},
	} {
		if got := strings.Join(codesOf(c.plan.Check(English, known)), ","); got != c.want {
			t.Errorf("%s: %q, want %q", c.what, got, c.want)
		}
	}
}

// randomPlan is some plan that can be packed.
func randomPlan(r *rand.Rand) Plan {
	for {
		p := Usual()
		p.Day, p.Term = "2026-11-25", "Autumn"
		for i := range r.IntN(4) {
			p.Pockets = append(p.Pockets, Pocket{fmt.Sprint("p", i), fmt.Sprint("Pocket ", i)})
		}
		if r.IntN(3) == 0 {
			p.Within = []naming.Pattern{{{Column: record.Period}}}
		}
		if r.IntN(3) == 0 {
			p.Path = []naming.Pattern{{{Column: record.SchoolYear}}, {{Column: record.Term}}}
		}
		if r.IntN(4) > 0 {
			p.Places = UsualPlaces()
			if r.IntN(4) == 0 {
				p.Places = p.Places[1:] // no shelf
			}
			for i := range r.IntN(6) {
				x := Place{ID: fmt.Sprint("x", i), Name: fmt.Sprint("Place ", i), For: []For{ForClass, ForTeam, ForStudent, ForStaff}[r.IntN(4)]}
				if x.For != ForStaff {
					x.Level = []string{"read", "comment", "edit"}[r.IntN(3)]
				}
				if x.For == ForTeam {
					x.Set = record.Team
				}
				x.HandIn = x.For == ForStudent && x.Level == "edit" && r.IntN(2) == 0
				if r.IntN(2) == 0 {
					x.Under = p.Places[r.IntN(len(p.Places))].ID
				}
				p.Places = append(p.Places, x)
			}
			r.Shuffle(len(p.Places), func(i, j int) { p.Places[i], p.Places[j] = p.Places[j], p.Places[i] })
		}
		if len(p.Check(English, nil)) == 0 {
			return p
		}
	}
}

// may is what somebody of the class may do with a thing, said from the plan alone.
func may(p Plan, c Class, key packing.Key, student Student) access.Level {
	mine := key.Whom.Row == student.Row
	for _, team := range c.Teams[record.Team] {
		mine = mine || key.Whom.Team == team.ID && slices.Contains(team.Rows, student.Row)
	}
	var best access.Level
	switch key.What.Purpose {
	case packing.Satchel, packing.Pocket:
		if mine {
			best = access.Edit
		}
	case packing.Shelf, packing.Table, packing.Place:
		id := key.What.ID
		if id == "" {
			id = string(key.What.Purpose)
		}
		place, _ := p.Place(id)
		for {
			switch level, _ := access.ParseLevel(place.Level); {
			case place.For == ForClass, place.For != ForStaff && mine:
				best = max(best, level)
			}
			if place.Under == "" {
				return best
			}
			place, _ = p.Place(place.Under)
		}
	}
	return best
}

// Of random plans, everybody reaches exactly what the plan says: nobody anything
// of another team's or student's, staff everything. Everything wanted comes once,
// after what it is in, and under different names where it is together.
func TestRandomPlans(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	r := rand.New(rand.NewPCG(seed, 1))
	for round := range 300 {
		p := randomPlan(r)
		c := withTeams(class(r.IntN(9)), r.IntN(4))
		for i := range c.Students {
			c.Students[i].Values.(record.Values)[record.Period] = fmt.Sprint(r.IntN(3))
		}
		wanted, absent := p.Wanted(c)
		lies := map[packing.Key]map[string]bool{{}: {}}
		for _, w := range wanted {
			if lies[w.Key] != nil || lies[w.Parent] == nil || lies[w.Parent][naming.Fold(w.Name)] || w.Owner != c.Owner {
				t.Fatalf("seed %d, round %d: %s is twice, stands before what it lies in, or has a name that is there", seed, round, w.Key)
			}
			lies[w.Key], lies[w.Parent][naming.Fold(w.Name)] = map[string]bool{}, true
			chain := packing.Chain(wanted, w.Key)
			for _, s := range c.Students {
				if got, want := access.Effective(s.Account, chain, time.Time{}).Level, may(p, c, w.Key, s); got != want {
					t.Fatalf("seed %d, round %d: %s has %v on %s, want %v\n%+v", seed, round, s.Account, got, w.Key, want, p.Places)
				}
			}
			for who, want := range map[string]access.Level{"oduya": access.Owner, "lindqvist": access.Edit,
				"amaral": access.Comment, "stranger": access.Nothing} {
				if got := access.Effective(who, chain, time.Time{}).Level; got != want {
					t.Fatalf("seed %d, round %d: %s has %v on %s", seed, round, who, got, w.Key)
				}
			}
		}
		teams, sets := 0, 0
		for _, team := range c.Teams[record.Team] {
			teams += len(team.Rows)
		}
		for _, x := range p.AllPlaces() {
			if above, _ := p.Place(x.Under); x.For == ForTeam && above.For != ForTeam {
				sets++
			}
		}
		if len(absent) != sets*(len(c.Students)-teams) {
			t.Fatalf("seed %d, round %d: %d are in no team, %d are said to be", seed, round, len(c.Students)-teams, len(absent))
		}
	}
}

// Levels between the cloakroom and the satchels: one for all of a period, none
// where there is no value, and a student of another period is on another.
func TestLevels(t *testing.T) {
	c := class(3)
	p := Usual()
	p.Within = []naming.Pattern{{{Text: "Period "}, {Column: record.Period}}, {{Column: record.Level}}}
	for i, period := range []string{"3", "3", "4"} {
		c.Students[i].Values.(record.Values)[record.Period] = period
	}
	c.Students[1].Values.(record.Values)[record.Level] = "B"
	var got []string
	names := map[packing.Key]string{}
	for _, w := range wantedOf(c, p) {
		names[w.Key] = names[w.Parent] + "/" + w.Name
		if w.Key.What.Purpose == packing.Level || w.Key.What.Purpose == packing.Satchel {
			got = append(got, strings.TrimPrefix(names[w.Key], "/7B Tide Watch/Cloakroom/"))
		}
	}
	want := []string{"Period 3", "Period 3/Family s0, Given", "Period 3/B", "Period 3/B/Family s1, Given", "Period 4",
		"Period 4/Family s2, Given"}
	if !slices.Equal(got, want) {
		t.Errorf("%q\nwant %q", got, want)
	}
}

func TestPath(t *testing.T) {
	c := class(0)
	c.Own = record.Values{record.Code: "7B"}
	p := Usual()
	p.Base, p.Day = "base", "2027-03-01"
	p.Path = []naming.Pattern{{{Column: record.SchoolYear}}, {{Column: record.Term}}, {{Text: "Boats/"}, {Column: record.Code}}}
	w := wantedOf(c, p)[0]
	if !slices.Equal(w.Path, []string{"2026-27", "Boats-7B"}) || w.Spot() != "/base/2026-27/Boats-7B" {
		t.Errorf("the class folder lies in %q, %q", w.Path, w.Spot())
	}
}

// Whatever places are called, this machine's file system takes their names and
// gives the same ones back.
func TestNamesCanBeMade(t *testing.T) {
	top := t.TempDir()
	p := Usual()
	p.Places = UsualPlaces()
	for i, name := range []string{"CON", "a/b", "..", "tab\tnew\nline", "\u202ebackwards", "null\x00byte",
		strings.Repeat("é", 300), "\xff\xfe", "👩‍👩‍👧‍👦 crew", "trail. ", "-rf", "~", "$(id)", "%2e%2e",
		"Ångström", "Ångström"} {
		p.Places = append(p.Places, Place{ID: fmt.Sprint("n", i), Name: name, For: ForStudent, Level: "edit"})
	}
	paths := map[packing.Key]string{{}: top}
	for _, w := range wantedOf(class(2), p) {
		paths[w.Key] = filepath.Join(paths[w.Parent], w.Name)
		if err := os.MkdirAll(paths[w.Key], 0o700); err != nil {
			t.Fatalf("%q: %v", w.Name, err)
		}
		entries, err := os.ReadDir(paths[w.Parent])
		if err != nil || !slices.ContainsFunc(entries, func(e os.DirEntry) bool { return e.Name() == w.Name }) {
			t.Errorf("%q isn't read back: %v", w.Name, err)
		}
	}
}
