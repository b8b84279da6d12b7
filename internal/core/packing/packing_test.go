package packing

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"testing"

	"jollysatchel/internal/core/access"
)

func satchel(row string) Key {
	return Key{Class: "7B", What: What{Purpose: Satchel}, Whom: Whom{Row: row}}
}

func ExampleCompute() {
	dube := Wanted{Key: satchel("dube"), Name: "Dube, Nokuthula"}
	eriksen := Wanted{Key: satchel("eriksen"), Name: "Eriksen, Jonas"}
	actual := map[Key]Actual{dube.Key: {Thing: "t1", State: Here, Name: "Dube, Nokuthula"}}
	for _, line := range Compute([]Wanted{dube, eriksen}, nil, nil, actual).Lines {
		fmt.Println(line.Section, line.Step.Act, line.Wanted.Name)
	}
	// Output:
	// already-there  Dube, Nokuthula
	// to-pack make Eriksen, Jonas
}

func TestKeys(t *testing.T) {
	written := map[string]Key{
		"c1/class/class":        {Class: "c1", What: What{Purpose: ClassFolder}},
		"c1/satchel/row.r1":     {Class: "c1", What: What{Purpose: Satchel}, Whom: Whom{Row: "r1"}},
		"c1/pocket.p1/row.r1":   {Class: "c1", What: What{Purpose: Pocket, ID: "p1"}, Whom: Whom{Row: "r1"}},
		"c1/copy.h1.2/team.gul": {Class: "c1", What: What{Purpose: Copy, ID: "h1", Slot: 2}, Whom: Whom{Team: "gul"}},
		"c1/copy.h1.1/row.gul":  {Class: "c1", What: What{Purpose: Copy, ID: "h1", Slot: 1}, Whom: Whom{Row: "gul"}},
	}
	for text, k := range written {
		if got, err := ParseKey(text); err != nil || got != k || k.String() != text {
			t.Errorf("%s is read as %+v, %v; %+v is written %s", text, got, err, k, k)
		}
	}
	for _, bad := range []string{"", "c1", "c1/satchel", "c1//class", "/class/class", "c1/copy.h.x/class",
		"c1/copy.h.1.1/class", "c1/copy.h.01/class", "c1/satchel/crew.g", "c1/satchel/row.", "c1/class/class/1"} {
		if k, err := ParseKey(bad); err == nil {
			t.Errorf("%q is read as %+v", bad, k)
		}
	}
	var none Key
	if b, err := none.MarshalText(); err != nil || len(b) != 0 || none.UnmarshalText(nil) != nil || none.UnmarshalText([]byte("x")) == nil {
		t.Errorf("no key is written %q, %v", b, err)
	}
	k := satchel("r1")
	if a, b := (StepKey{Key: k, Act: Make, Generation: 1}), (StepKey{Key: k, Act: Make, Generation: 2}); a.String() == b.String() || a == b {
		t.Error("another generation is the same step")
	}
	if a, b := (StepKey{Key: k, Act: Take, Account: "x", Generation: 1}),
		(StepKey{Key: k, Act: Take, Account: "y", Generation: 1}); a.String() == b.String() {
		t.Error("taking away from another is the same step")
	}
}

func TestJudge(t *testing.T) {
	folder := Key{Class: "c", What: What{Purpose: HandoutFolder, ID: "h"}}
	wish := Wanted{Key: satchel("r"), Name: "Log", Pointers: []Key{folder},
		Rule: access.Rule{Grants: map[string]access.Level{"dube": access.Edit}}}
	full := access.Rule{Grants: map[string]access.Level{"dube": access.Edit}}
	pointed := map[Key]bool{folder: true}
	doubt := wish
	doubt.Problem = &Reason{Code: "account-unknown"}
	for _, c := range []struct {
		what       string
		wanted     Wanted
		actual     Actual
		want       Section
		act        Act
		generation int
		reason     string
	}{
		{"never made", wish, Actual{}, ToPack, Make, 1, ""},
		{"made anew before", wish, Actual{Generation: 2}, ToPack, Make, 3, ""},
		{"here", wish, Actual{Thing: "t", Generation: 1, State: Here, Name: "Log", Rule: full, Pointed: pointed}, AlreadyThere, None, 1, ""},
		{"renamed", wish, Actual{Thing: "t", Generation: 1, State: Here, Name: "My log", Rule: full, Pointed: pointed},
			AlreadyThere, None, 1, "renamed"},
		{"moved", wish, Actual{Thing: "t", Generation: 1, State: Elsewhere, Name: "Log", Rule: full, Pointed: pointed},
			AlreadyThere, None, 1, "moved"},
		{"made, not shared", wish, Actual{Thing: "t", Generation: 1, State: Unshared, Name: "Log"}, ToPack, Share, 1, ""},
		{"somebody lacks access", wish,
			Actual{Thing: "t", Generation: 4, State: Here, Name: "Log",
				Rule: access.Rule{Grants: map[string]access.Level{"dube": access.Read}}, Pointed: pointed}, ToPack, Share, 4, ""},
		{"open to the school", wish, Actual{Thing: "t", Generation: 1, State: Here, Name: "Log",
			Rule: access.Rule{Grants: full.Grants, School: access.Read}, Pointed: pointed}, AlreadyThere, None, 1, "open-to-school"},
		{"somebody has more", wish, Actual{Thing: "t", Generation: 1, State: Here, Name: "Log",
			Rule: access.Rule{Grants: map[string]access.Level{"dube": access.Edit, "eze": access.Edit}}, Pointed: pointed},
			AlreadyThere, None, 1, ""},
		{"no pointer", wish, Actual{Thing: "t", Generation: 1, State: Here, Name: "Log", Rule: full}, ToPack, Point, 1, ""},
		{"in the bin", wish, Actual{Thing: "t", Generation: 1, State: InBin}, NeedsFixing, Make, 2, "in-bin"},
		{"gone", wish, Actual{Thing: "t", Generation: 1, State: Gone}, NeedsFixing, Make, 2, "gone"},
		{"a person's problem", doubt, Actual{}, NeedsFixing, Make, 1, "account-unknown"},
		{"a problem before it was shared", doubt, Actual{Thing: "t", Generation: 1, State: Unshared, Name: "Log"},
			NeedsFixing, Share, 1, "account-unknown"},
		{"a problem later on", doubt, Actual{Thing: "t", Generation: 1, State: Here, Name: "Log", Rule: full,
			Pointed: pointed}, NeedsFixing, None, 1, "account-unknown"},
		{"a problem later on, and something lacks", doubt, Actual{Thing: "t", Generation: 1, State: Here, Name: "Log"},
			NeedsFixing, None, 1, "account-unknown"},
	} {
		line := Compute([]Wanted{c.wanted}, nil, nil, map[Key]Actual{c.wanted.Key: c.actual}).Lines[0]
		reason := ""
		if line.Reason != nil {
			reason = line.Reason.Code
		}
		if line.Section != c.want || line.Step.Act != c.act || line.Step.Generation != c.generation || reason != c.reason {
			t.Errorf("%s: %s %+v %q, want %s %s %d %q", c.what, line.Section, line.Step, reason, c.want, c.act, c.generation, c.reason)
		}
		if line.Section == NeedsFixing && len(line.Remedies) == 0 {
			t.Errorf("%s: nothing mends it", c.what)
		}
	}
}

// Linking a row again takes from anyone who had its things what is its own, and the
// places from those who are no student's any more; nothing else.
func TestFollowing(t *testing.T) {
	shelf := Key{Class: "c", What: What{Purpose: Shelf}}
	line := func(section Section, key Key, act Act, account string) Line {
		return Line{Section: section, Step: StepKey{Key: key, Act: act, Account: account, Generation: 1}, Wanted: Wanted{Key: key}}
	}
	own, place := line(ToChange, satchel("r"), Take, "old"), line(ToChange, shelf, Take, "old")
	l := List{Lines: []Line{
		own, place,
		line(ToChange, satchel("other"), Take, "old"), line(ToChange, shelf, Take, "stranger"), line(ToChange, satchel("r"), Rename, ""),
		line(ToChange, shelf, Lower, "old"), line(ToPack, satchel("r"), Make, ""), line(AlreadyThere, shelf, None, ""),
	}}
	if got := l.Following([]string{"r"}, map[string]bool{"old": true}); !slices.Equal(got, []string{own.Step.String(), place.Step.String()}) {
		t.Errorf("%q", got)
	}
	if got := l.Following([]string{"r"}, nil); !slices.Equal(got, []string{own.Step.String()}) {
		t.Errorf("an account that is another student's now: %q", got)
	}
	if got := l.Following(nil, nil); len(got) != 0 {
		t.Errorf("no row: %q", got)
	}
}

func has(accounts ...string) map[string]access.Level {
	m := map[string]access.Level{}
	for _, a := range accounts {
		m[a] = access.Edit
	}
	return m
}

func TestToChange(t *testing.T) {
	wish := Wanted{Key: satchel("r"), Name: "Khumalo – Log", Owner: "oduya",
		Rule: access.Rule{Grants: map[string]access.Level{"khumalo": access.Edit}}}
	doubt, reading := wish, wish
	doubt.Problem = &Reason{Code: "account-unknown"}
	reading.Rule = access.Rule{StandsAlone: true, Grants: map[string]access.Level{"khumalo": access.Read}}
	for _, c := range []struct {
		what   string
		wanted Wanted
		actual Actual
		want   string // act, account, reason, ticked
	}{
		{"nothing", wish, Actual{State: Here, Name: "Khumalo – Log", LastName: "Khumalo – Log", Granted: has("khumalo"),
			Rule: access.Rule{Grants: has("khumalo")}}, ""},
		{"another name", wish, Actual{State: Here, Name: "Dube – Log", LastName: "Dube – Log"}, "rename  rename true"},
		{"another name, renamed by somebody", wish, Actual{State: Here, Name: "My log", LastName: "Dube – Log"}, "rename  rename false"},
		{"renamed by somebody, else the same", wish, Actual{State: Here, Name: "My log", LastName: "Khumalo – Log"}, ""},
		{"given to one who should have none", wish,
			Actual{State: Here, Name: "Khumalo – Log", Granted: has("dube"),
				Rule: access.Rule{Grants: has("khumalo", "dube")}}, "take dube take-away true"},
		{"given by staff", wish, Actual{State: Here, Name: "Khumalo – Log", Rule: access.Rule{Grants: has("khumalo", "dube")}}, ""},
		{"given once, taken away since", wish,
			Actual{State: Here, Name: "Khumalo – Log", Granted: has("dube"), Rule: access.Rule{Grants: has("khumalo")}}, ""},
		{"a lower level is wanted", reading,
			Actual{State: Here, Name: "Khumalo – Log", Granted: has("khumalo"), Rule: access.Rule{Grants: has("khumalo")}},
			"lower khumalo lower true"},
		{"a lower level, raised by staff", reading,
			Actual{State: Here, Name: "Khumalo – Log", Granted: map[string]access.Level{"khumalo": access.Comment},
				Rule: access.Rule{Grants: has("khumalo")}}, "lower khumalo lower false"},
		{"a higher level is no change", wish,
			Actual{State: Here, Name: "Khumalo – Log", Granted: map[string]access.Level{"khumalo": access.Read},
				Rule: access.Rule{Grants: map[string]access.Level{"khumalo": access.Read}}}, ""},
		{"all at once, and the student must be fixed first", doubt,
			Actual{State: Elsewhere, Name: "Dube – Log", LastName: "Dube – Log", Granted: has("dube", "eze"),
				Rule: access.Rule{Grants: has("khumalo", "dube", "eze")}}, "rename  rename false; take dube take-away false; take eze take-away false"},
		{"gone", wish, Actual{State: Gone, Name: "x", LastName: "x"}, ""},
	} {
		c.actual.Thing = "t"
		got := ""
		for _, l := range Compute([]Wanted{c.wanted}, nil, nil, map[Key]Actual{c.wanted.Key: c.actual}).Lines {
			if l.Section == ToChange {
				if got != "" {
					got += "; "
				}
				got += fmt.Sprintf("%s %s %s %v", l.Step.Act, l.Step.Account, l.Reason.Code, l.Ticked)
			}
		}
		if got != c.want {
			t.Errorf("%s: %q, want %q", c.what, got, c.want)
		}
	}
}

// Which lines become steps, and what happened to a waiting one when the class
// changed before it was done.
func TestSteps(t *testing.T) {
	a, b := Wanted{Key: satchel("a"), Name: "A"}, Wanted{Key: satchel("b"), Name: "B", Problem: &Reason{Code: "no-address"}}
	gone, renamed := Wanted{Key: satchel("g"), Name: "G"}, Wanted{Key: satchel("n"), Name: "New", Rule: access.Rule{Grants: has("x")}}
	actual := map[Key]Actual{
		gone.Key: {Thing: "t", State: Gone, Generation: 1},
		renamed.Key: {Thing: "u", State: Here, Generation: 1, Name: "Old", LastName: "Old", Granted: has("y"),
			Rule: access.Rule{Grants: has("x", "y")}},
	}
	link := Link{Key: Key{Class: "7B", What: What{Purpose: Account}, Whom: Whom{Row: "a"}}, From: "a1", To: "a2"}
	l := Compute([]Wanted{a, b, gone, renamed}, nil, []Link{link}, actual)
	said := func(part Part) (out []string) {
		for _, s := range l.Steps(part) {
			out = append(out, fmt.Sprintf("%s %s %d", s.Key.Whom.Row+" "+string(s.Act), s.State, s.Generation))
		}
		return out
	}
	var all []string
	for _, line := range l.Lines {
		all = append(all, line.Step.String())
	}
	for _, c := range []struct {
		what string
		part Part
		want []string
	}{
		{"nothing ticked", Part{}, []string{"a make waiting 1", "b make stuck 1", "g make stuck 2"}},
		{"everything ticked", Part{Changes: all},
			[]string{"a make waiting 1", "b make stuck 1", "g make stuck 2", "n rename waiting 1", "n take waiting 1"}},
		{"made anew", Part{Rows: []string{"g"}, Anew: []string{gone.Key.String()}}, []string{"g make waiting 2"}},
		{"anew where nothing is gone", Part{Rows: []string{"b"}, Anew: []string{b.Key.String()}}, []string{"b make stuck 1"}},
		{"one row", Part{Rows: []string{"a"}}, []string{"a make waiting 1"}},
	} {
		if got := said(c.part); !slices.Equal(got, c.want) {
			t.Errorf("%s: %q, want %q", c.what, got, c.want)
		}
	}
	steps := l.Steps(Part{Changes: all})
	now := func(ws ...Wanted) map[Key]Wanted {
		m := map[Key]Wanted{}
		for _, w := range ws {
			m[w.Key] = w
		}
		return m
	}
	moved, fixed, back, again := a, b, renamed, renamed
	moved.Name, fixed.Problem, back.Name = "A2", nil, "Old"
	again.Rule = access.Rule{Grants: has("x", "y")}
	for _, c := range []struct {
		what string
		step Step
		now  map[Key]Wanted
		want string
	}{
		{"as it was", steps[0], now(a), "waiting A "},
		{"another name", steps[0], now(moved), "waiting A2 "},
		{"not wanted any more", steps[0], now(), "passed-over A no-longer-wanted"},
		{"to be fixed first", steps[0], now(Wanted{Key: a.Key, Problem: b.Problem}), "stuck  no-address"},
		{"renamed back", steps[3], now(back), "passed-over Old wanted-again"},
		{"to be renamed otherwise", steps[3], now(Wanted{Key: renamed.Key, Name: "Newer"}), "waiting Newer "},
		{"access wanted again", steps[4], now(again), "passed-over New wanted-again"},
		{"access still not wanted", steps[4], now(renamed), "waiting New "},
	} {
		s := c.step.Again(c.now)
		reason := ""
		if s.Reason != nil {
			reason = s.Reason.Code
		}
		if got := fmt.Sprintf("%s %s %s", s.State, s.Wanted.Name, reason); got != c.want {
			t.Errorf("%s: %q, want %q", c.what, got, c.want)
		}
	}
	if s := steps[3].Again(now(Wanted{Key: renamed.Key, Name: "Newer"})); s.Change.Rename != "Newer" || steps[3].Change.Rename != "New" {
		t.Errorf("renames to %q, and the step before to %q", s.Change.Rename, steps[3].Change.Rename)
	}
}

// A list on random classes of rows and teams: everything wanted and everybody
// absent has exactly one line, the same arguments give the same list, no line to
// pack takes or lowers anything, and after everything was done nothing is left.
func TestProperties(t *testing.T) {
	random := rand.New(rand.NewPCG(5, 8))
	for round := range 600 {
		wanted, actual := randomClass(random)
		absent := []Absent{{Whom: Whom{Row: "r"}, Name: "x", Reason: Reason{Code: "sits-out"}}}
		l := Compute(wanted, absent, nil, actual)
		var changed, rest []Line
		for _, line := range l.Lines {
			if line.Section == ToChange {
				changed = append(changed, line)
			} else {
				rest = append(rest, line)
			}
		}
		if len(rest) != len(wanted)+1 || !reflect.DeepEqual(l, Compute(wanted, absent, nil, actual)) ||
			l.Digest() != Compute(wanted, absent, nil, actual).Digest() {
			t.Fatalf("round %d: lines are missing, or the list changed by itself", round)
		}
		toPack := map[Key]bool{}
		for i, line := range rest[:len(wanted)] {
			w := wanted[i]
			if line.Wanted.Key != w.Key {
				t.Fatal("the order changed")
			}
			if line.Section == ToPack {
				toPack[w.Key] = true
				if a := actual[w.Parent]; w.Parent != (Key{}) && line.Step.Act == Make && !toPack[w.Parent] &&
					(a.Thing == "" || a.State == InBin || a.State == Gone) {
					t.Fatalf("%s would be packed into something that isn't there", w.Key)
				}
			}
			if line.Section == ToPack && line.Step.Act == None || line.Section == AlreadyThere && line.Step.Act != None ||
				(line.Change != nil) != (actual[w.Key].NameTaken && actual[w.Key].Name != w.Name) {
				t.Fatalf("%+v does something although it isn't to pack", line)
			}
		}
		before := l.Digest()
		for _, line := range append(rest, changed...) {
			actual[line.Wanted.Key] = done(line, actual[line.Wanted.Key])
		}
		after := Compute(wanted, absent, nil, actual)
		if n := after.Counts(); n[ToPack]+n[ToChange] != 0 {
			t.Fatalf("round %d: %v are left after a full run", round, n)
		}
		if len(toPack)+len(changed) > 0 && after.Digest() == before {
			t.Fatal("a list that does nothing more looks like the one before")
		}
	}
}

func randomClass(random *rand.Rand) ([]Wanted, map[Key]Actual) {
	var wanted []Wanted
	actual := map[Key]Actual{}
	folder := Key{Class: "c", What: What{Purpose: HandoutFolder, ID: "h"}}
	for i := range random.IntN(30) {
		whom := Whom{Row: fmt.Sprint("r", i)}
		if random.IntN(4) == 0 {
			whom = Whom{Team: fmt.Sprint("t", i)}
		}
		w := Wanted{
			Key:  Key{Class: "c", What: What{Purpose: Copy, ID: "h", Slot: 1 + random.IntN(3)}, Whom: whom},
			Name: fmt.Sprint("n", i), Owner: "oduya", Rule: access.Rule{Grants: map[string]access.Level{"p": access.Level(1 + random.IntN(3))}},
		}
		if i > 0 && random.IntN(2) == 0 {
			w.Parent = wanted[random.IntN(i)].Key
		}
		if random.IntN(8) == 0 {
			w.Problem = &Reason{Code: "account-unknown"}
		}
		if random.IntN(3) == 0 {
			w.Pointers = []Key{folder}
		}
		wanted = append(wanted, w)
		if s := []State{Missing, Missing, Here, Elsewhere, Unshared, InBin, Gone}[random.IntN(7)]; s != Missing {
			a := Actual{Thing: "t", Generation: 1 + random.IntN(3), State: s, Name: w.Name, LastName: w.Name,
				Rule: access.Rule{Grants: map[string]access.Level{"p": access.Level(random.IntN(4)),
					"q": access.Level(random.IntN(2))}}, Granted: map[string]access.Level{}}
			if random.IntN(3) == 0 {
				a.Name, a.LastName = "old", "old"
				a.NameTaken = s == InBin && random.IntN(2) == 0
			}
			for _, who := range []string{"p", "q"} {
				if random.IntN(3) == 0 {
					a.Granted[who] = a.Rule.Grants[who]
				}
			}
			actual[w.Key] = a
		}
	}
	return wanted, actual
}

// done is what there is after a line was carried out.
func done(line Line, a Actual) Actual {
	w := line.Wanted
	grants := map[string]access.Level{}
	for p, l := range a.Rule.Grants {
		grants[p] = l
	}
	a.Rule.Grants = grants
	switch line.Step.Act {
	case Make, Share, Point:
		if a.State == Missing || a.State == Unshared {
			a.State = Here
		}
		if line.Step.Act == Make {
			a.Thing, a.Name, a.LastName, a.Generation = "t", w.Name, w.Name, line.Step.Generation
		}
		for p, level := range w.Rule.Grants {
			grants[p] = max(level, grants[p])
		}
		a.Pointed = map[Key]bool{}
		for _, f := range w.Pointers {
			a.Pointed[f] = true
		}
	case Rename:
		a.Name, a.LastName = line.Change.Rename, line.Change.Rename
	case Take, Lower:
		grants[line.Step.Account] = line.Change.Level
	}
	return a
}

// FuzzParseKey reads anything: what is a key is written the same again, so that no
// two texts are one key.
func FuzzParseKey(f *testing.F) {
	for _, s := range []string{"c1/class/class", "c1/copy.h1.2/row.r1", "c1/place.p1/team.t1", "//", "a/b.c.0/row.", "a/b/row.x.y"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		k, err := ParseKey(s)
		if err == nil && k.String() != s {
			t.Fatalf("%q is written as %q", s, k)
		}
		if err != nil && k != (Key{}) {
			t.Fatalf("%q is refused and is %+v", s, k)
		}
	})
}
