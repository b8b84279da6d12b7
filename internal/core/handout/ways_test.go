package handout

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
)

func doc(slot int, name string) Document {
	return Document{Slot: slot, Thing: "t" + name, Ending: ".md", Original: name}
}

// school is a class of n with levels A and B in turn, every fifth without one, and
// teams of three of which the last student is in none.
func school(n int) room.Class {
	c := class(n)
	for i := range c.Students {
		v := c.Students[i].Values.(record.Values)
		v[record.Level] = []string{"A", "b ", "A", "B", ""}[i%5]
		c.Students[i].Name = v[record.Family]
	}
	c.Teams = map[record.Field][]room.Team{}
	for i := range max(n-1, 0) {
		if i%3 == 0 {
			c.Teams[record.Team] = append(c.Teams[record.Team], room.Team{ID: fmt.Sprint("g", i/3), Name: fmt.Sprint("Crew ", i/3)})
		}
		team := &c.Teams[record.Team][i/3]
		team.Rows = append(team.Rows, c.Students[i].Row)
	}
	return c
}

// count is how many copies are wanted, in how many places they are reached, how many
// people reach any, and how many students must be fixed.
func count(w Way, c room.Class) (copies, places, people, fix int) {
	wanted, _ := w.Wanted(c)
	who := map[string]bool{}
	for _, x := range wanted {
		switch {
		case x.Key.What.Purpose != packing.Copy:
		case x.Key.What.Slot == 0:
			fix++
		default:
			copies++
			places += 1 + len(x.Pointers)
			for p := range x.Rule.Grants {
				who[p] = true
			}
		}
	}
	return copies, places, len(who), fix
}

// The counts are the facts of the trade: k documents for n students are k·n, each
// reached in two places; by level, n; per team, one for each; for all, one and no copy.
// Source: common practice, no published source.
func TestCounts(t *testing.T) {
	for _, n := range []int{0, 1, 4, 25, 35} {
		c, s := school(n), settings()
		s.Documents = []Document{doc(1, "One"), doc(2, "Two"), doc(3, "Three")}
		s.By, s.Teams = record.Level, record.Team
		if copies, places, people, fix := count(OneEach{room.Usual(), s}, c); copies != 3*n || places != 2*3*n || people != n || fix != 0 {
			t.Errorf("one each of 3 for %d: %d copies in %d places, %d people, %d to fix", n, copies, places, people, fix)
		}
		byLevel := s
		byLevel.Documents = slices.Clone(s.Documents)
		byLevel.Documents[0].For, byLevel.Documents[1].For = "a", "B"
		if copies, places, people, fix := count(ByLevel{room.Usual(), byLevel}, c); copies != n-n/5 || places != 2*copies ||
			people != copies || fix != n/5 {
			t.Errorf("by level for %d: %d copies in %d places, %d people, %d to fix", n, copies, places, people, fix)
		}
		s.Documents = s.Documents[:1]
		teams := (n + 1) / 3 // of all but the last student
		if copies, places, people, fix := count(PerTeam{room.Usual(), s}, c); copies != teams ||
			places != teams+max(n-1, 0) || people != max(n-1, 0) || fix != min(n, 1) {
			t.Errorf("per team for %d: %d copies in %d places, %d people, %d to fix", n, copies, places, people, fix)
		}
		if copies, places, people, fix := count(OneForAll{room.Usual(), s}, c); copies != 1 || places != 1+n || people != n || fix != 0 {
			t.Errorf("one for all %d: %d documents in %d places, %d people, %d to fix", n, copies, places, people, fix)
		}
	}
}

// Several documents of one student differ in name; one's own pattern is kept, and one
// that says the original name isn't told it twice.
func TestNamesOfSeveral(t *testing.T) {
	s := settings()
	s.Documents = []Document{doc(1, "Map"), doc(2, "Tides"), doc(3, "Map")}
	s.Documents[1].Name = append(UsualName(), s.Name[1], s.Name[2])
	wanted := OneEach{room.Usual(), s}.Own(class(1))
	var names []string
	for _, w := range wanted[2:] {
		names = append(names, w.Name)
	}
	want := "3 Familys0 – Rock-pool field log – Map.md | 3 Familys0 – Rock-pool field log Familys0.md | 3 Familys0 – Rock-pool field log – Map (2).md"
	if got := strings.Join(names, " | "); got != want {
		t.Errorf("%s\nwant %s", got, want)
	}
}

// Random rosters, teams, levels and choices: every student is given something, left
// out or to be fixed, one of these; nobody reaches another's copy; a team's copy is its
// members'; two things in one folder never have one name; parents and folders of
// pointers are before what needs them.
func TestWays(t *testing.T) {
	for seed := range uint64(400) {
		r := rand.New(rand.NewPCG(seed, 5))
		c := school(r.IntN(12))
		for i := range c.Students {
			if r.IntN(6) == 0 {
				c.Students[i].Account, c.Students[i].Problem = "", &packing.Reason{Code: "address-missing"}
			}
		}
		s := settings()
		s.By, s.Teams, s.Level = record.Level, record.Team, access.Level(1+r.IntN(3))
		s.Classmates = access.Level(r.IntN(3))
		s.Documents = nil
		for i := range 1 + r.IntN(3) {
			d := doc(i+1, fmt.Sprint("D", r.IntN(2)))
			d.For = []string{"A", "B", "C"}[i]
			s.Documents = append(s.Documents, d)
		}
		for _, st := range c.Students {
			if r.IntN(5) == 0 {
				s.Out[st.Row] = SitsOut
			}
		}
		plan := room.Usual()
		plan.Pockets = []room.Pocket{{ID: "f", Name: "Field work"}}
		s.Pocket = []string{"", "f"}[r.IntN(2)]
		name := []WayName{EachName, LevelName, TeamName, ForAllName}[r.IntN(4)]
		wanted, absent := Of(name, plan, s).Wanted(c)
		check(t, fmt.Sprintf("seed %d, %s", seed, name), c, s, wanted, absent)
	}
}

// Handouts of one class, of equal titles, documents and patterns, come one after the other: no
// folder holds, or points to, two things of one name, and once packed each keeps its own.
func TestBeside(t *testing.T) {
	for seed := range uint64(200) {
		r := rand.New(rand.NewPCG(seed, 19))
		c := school(2 + r.IntN(6))
		plan := room.Usual()
		plan.Pockets = []room.Pocket{{ID: "f", Name: "Field work"}}
		packed := map[packing.Key]string{}
		in := map[packing.Key][]string{} // folder → names
		var all []Way
		for n := range 2 + r.IntN(5) {
			s := settings()
			s.ID, s.Packed, s.Teams, s.By = fmt.Sprint("h", n), packed, record.Team, record.Level
			s.Pocket = []string{"", "f"}[r.IntN(2)]
			s.Documents = []Document{doc(1, "Lab"), doc(2, []string{"Lab", "LAB", "Map"}[r.IntN(3)])}
			s.Documents[1].Ending = []string{".md", ".odt"}[r.IntN(2)]
			if r.IntN(2) == 0 {
				s.Name = naming.Pattern{{Column: record.Original}}
			}
			before := map[packing.Key][]string{}
			for folder, names := range in {
				before[folder] = slices.Clone(names)
			}
			s.Beside = func(folder packing.Key) []string { return before[folder] }
			way := Of([]WayName{EachName, LevelName, TeamName, ForAllName}[r.IntN(4)], plan, s)
			all = append(all, way)
			for _, w := range way.Own(c) {
				if w.Key.What.ID != s.ID || w.Problem != nil {
					continue
				}
				packed[w.Key] = w.Name
				for _, folder := range append([]packing.Key{w.Parent}, w.Pointers...) {
					for _, other := range in[folder] {
						if naming.Fold(other) == naming.Fold(w.Name) {
							t.Errorf("seed %d: two in %s are called %q", seed, folder, w.Name)
						}
					}
					in[folder] = append(in[folder], w.Name)
				}
			}
		}
		for _, way := range all {
			for _, w := range way.Own(c) {
				if name, was := packed[w.Key]; was && w.Problem == nil && w.Name != name {
					t.Errorf("seed %d: %q becomes %q", seed, name, w.Name)
				}
			}
		}
	}
}

// The ending is of the name: a document for each of two programs has no number.
func TestEndings(t *testing.T) {
	s := settings()
	s.Name = naming.Pattern{{Column: record.Original}}
	s.Documents = []Document{doc(1, "Notebook"), doc(2, "Notebook"), doc(3, "notebook")}
	s.Documents[0].Ending, s.Documents[1].Ending = ".docx", ".odt"
	s.Documents[2].Ending = ".odt"
	var names []string
	for _, w := range (OneEach{room.Usual(), s}).Own(class(1))[2:] {
		names = append(names, w.Name)
	}
	if want := "Notebook.docx | Notebook.odt | notebook (2).odt"; strings.Join(names, " | ") != want {
		t.Errorf("%q, want %q", names, want)
	}
}

func check(t *testing.T, what string, c room.Class, s Settings, wanted []packing.Wanted, absent []packing.Absent) {
	t.Helper()
	world := packing.WorldOf(wanted)
	seen, names := map[packing.Key]bool{{}: true}, map[string]bool{}
	given, fix, out := map[string]bool{}, map[string]bool{}, map[string]bool{}
	for _, w := range wanted {
		if seen[w.Key] || !seen[w.Parent] || slices.ContainsFunc(w.Pointers, func(k packing.Key) bool { return !seen[k] }) {
			t.Errorf("%s: %s is twice, or before what it needs", what, w.Key)
		}
		seen[w.Key] = true
		if w.Key.What.Purpose != packing.Copy {
			continue
		}
		if w.Problem != nil {
			fix[w.Key.Whom.Row] = true
			continue
		}
		if in := w.Parent.String() + "/" + strings.ToLower(w.Name); names[in] {
			t.Errorf("%s: two are called %s", what, in)
		} else {
			names[in] = true
		}
		people := access.People(world.Chain(w.Key), time.Time{})
		for _, st := range c.Students {
			if st.Account == "" {
				continue
			}
			mine := w.Key.Whom.Row == st.Row || w.Key.Whom == packing.Whom{} || teamOf(c, w.Key.Whom.Team, st.Row)
			_, left := s.Out[st.Row]
			want := access.Nothing
			if mine && !left {
				want = s.Level
				given[st.Row] = true
			}
			if !left && st.Problem == nil && w.Key.Whom != (packing.Whom{}) {
				want = max(want, s.Classmates)
			}
			if got := people[st.Account].Level; got != want {
				t.Errorf("%s: %s has %s of %s, want %s", what, st.Row, got, w.Key, want)
			}
		}
	}
	for _, a := range absent {
		out[a.Whom.Row] = true
	}
	said := map[string]packing.Section{}
	for _, o := range packing.Compute(wanted, absent, nil, nil).Outcomes() {
		if said[o.Row] != "" {
			t.Errorf("%s: two outcomes for %s", what, o.Row)
		}
		said[o.Row] = o.Section
	}
	for section, of := range map[packing.Section]map[string]bool{packing.AlreadyThere: given, packing.NeedsFixing: fix, packing.LeftOut: out} {
		for row := range of {
			if said[row] != section {
				t.Errorf("%s: the list says %s of %s, not %s", what, said[row], row, section)
			}
		}
	}
	for _, st := range c.Students {
		n := 0
		for _, of := range []map[string]bool{given, fix, out} {
			if of[st.Row] {
				n++
			}
		}
		if n != 1 {
			t.Errorf("%s: %s is in %d of given %v, to fix %v, left out %v", what, st.Row, n, slices.Collect(maps.Keys(given)), fix, out)
		}
	}
}

func teamOf(c room.Class, id, row string) bool {
	return slices.ContainsFunc(c.Teams[record.Team], func(g room.Team) bool { return g.ID == id && slices.Contains(g.Rows, row) })
}
