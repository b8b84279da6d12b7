package packing

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"

	"jollysatchel/internal/core/access"
)

func ExampleCompute() {
	dube := Wish{Key: MakeKey("7B", []string{"satchel"}, "dube", 1), Name: "Dube, Nokuthula"}
	eriksen := Wish{Key: MakeKey("7B", []string{"satchel"}, "eriksen", 1), Name: "Eriksen, Jonas"}
	found := map[Key]Found{dube.Key: {Thing: "t1", State: Here, Name: "Dube, Nokuthula"}}
	for _, line := range Compute([]Wish{dube, eriksen}, nil, found).Lines {
		fmt.Println(line.Section, line.Act, line.Wish.Name)
	}
	// Output:
	// already-there  Dube, Nokuthula
	// to-pack make Eriksen, Jonas
}

func TestKeys(t *testing.T) {
	a := MakeKey("c1", []string{"copy", "h1", "1"}, "p1", 1)
	if a != "c1/copy.h1.1/p1/1" {
		t.Errorf("key %s", a)
	}
	if b := MakeKey("c1", []string{"copy", "h1", "1"}, "p1", 2); a == b {
		t.Error("another generation has the same key")
	}
	if !strings.Contains(string(MakeKey("c1", []string{"class"}, "", 1)), "/class/class/") {
		t.Error("a key for the class names no person")
	}
}

func TestJudge(t *testing.T) {
	wish := Wish{Key: "k", Name: "Log", Pointer: "folder", Rule: access.Rule{Grants: map[string]access.Level{"dube": access.Edit}}}
	full := map[string]access.Level{"dube": access.Edit}
	doubt := wish
	doubt.Problem = &Reason{Code: "account-unknown"}
	for _, c := range []struct {
		what   string
		wish   Wish
		found  Found
		want   Section
		act    Act
		reason string
	}{
		{"never made", wish, Found{}, ToPack, Make, ""},
		{"here", wish, Found{Thing: "t", State: Here, Name: "Log", Granted: full, Pointed: true}, AlreadyThere, None, ""},
		{"renamed", wish, Found{Thing: "t", State: Here, Name: "My log", Granted: full, Pointed: true}, AlreadyThere, None, "renamed"},
		{"moved", wish, Found{Thing: "t", State: Elsewhere, Name: "Log", Granted: full, Pointed: true}, AlreadyThere, None, "moved"},
		{"made, not shared", wish, Found{Thing: "t", State: Unshared, Name: "Log"}, ToPack, Share, ""},
		{"somebody lacks access", wish, Found{Thing: "t", State: Here, Name: "Log", Granted: map[string]access.Level{"dube": access.Read}, Pointed: true}, ToPack, Share, ""},
		{"somebody has more", wish, Found{Thing: "t", State: Here, Name: "Log", Granted: map[string]access.Level{"dube": access.Edit, "eze": access.Edit}, Pointed: true}, AlreadyThere, None, ""},
		{"no pointer", wish, Found{Thing: "t", State: Here, Name: "Log", Granted: full}, ToPack, Point, ""},
		{"in the bin", wish, Found{Thing: "t", State: InBin}, NeedsFixing, None, "in-bin"},
		{"gone", wish, Found{Thing: "t", State: Gone}, NeedsFixing, None, "gone"},
		{"a person's problem", doubt, Found{}, NeedsFixing, None, "account-unknown"},
		{"a problem later on", doubt, Found{Thing: "t", State: Here, Name: "Log", Granted: full, Pointed: true}, AlreadyThere, None, ""},
	} {
		line := Compute([]Wish{c.wish}, nil, map[Key]Found{"k": c.found}).Lines[0]
		reason := ""
		if line.Reason != nil {
			reason = line.Reason.Code
		}
		if line.Section != c.want || line.Act != c.act || reason != c.reason {
			t.Errorf("%s: %s %s %q, want %s %s %q", c.what, line.Section, line.Act, reason, c.want, c.act, c.reason)
		}
		if line.Section == NeedsFixing && len(line.Remedies) == 0 {
			t.Errorf("%s: nothing mends it", c.what)
		}
	}
}

func TestToChange(t *testing.T) {
	wish := Wish{Key: "k", Name: "Khumalo – Log", Rule: access.Rule{Grants: map[string]access.Level{"khumalo": access.Edit}}}
	doubt := wish
	doubt.Problem = &Reason{Code: "account-unknown"}
	has := func(accounts ...string) map[string]access.Level {
		m := map[string]access.Level{}
		for _, a := range accounts {
			m[a] = access.Edit
		}
		return m
	}
	for _, c := range []struct {
		what   string
		wish   Wish
		found  Found
		reason string
		ticked bool
		change Change
	}{
		{"nothing", wish, Found{State: Here, Name: "Khumalo – Log", Given: "Khumalo – Log", Granted: has("khumalo"), Ours: has("khumalo")}, "", false, Change{}},
		{"another name", wish, Found{State: Here, Name: "Dube – Log", Given: "Dube – Log", Granted: has("khumalo")}, "rename", true, Change{Rename: "Khumalo – Log", From: "Dube – Log"}},
		{"another name, renamed by somebody", wish, Found{State: Here, Name: "My log", Given: "Dube – Log", Granted: has("khumalo")}, "rename", false, Change{Rename: "Khumalo – Log", From: "My log"}},
		{"renamed by somebody, else the same", wish, Found{State: Here, Name: "My log", Given: "Khumalo – Log", Granted: has("khumalo")}, "", false, Change{}},
		{"given to one who should have none", wish, Found{State: Here, Name: "Khumalo – Log", Granted: has("khumalo", "dube"), Ours: has("dube")}, "take-away", true, Change{Take: []string{"dube"}}},
		{"given by staff", wish, Found{State: Here, Name: "Khumalo – Log", Granted: has("khumalo", "dube")}, "", false, Change{}},
		{"given once, taken away since", wish, Found{State: Here, Name: "Khumalo – Log", Granted: has("khumalo"), Ours: has("dube")}, "", false, Change{}},
		{"both, and the student must be fixed first", doubt, Found{State: Elsewhere, Name: "Dube – Log", Given: "Dube – Log", Granted: has("khumalo", "dube"), Ours: has("dube")}, "rename-and-take-away", false, Change{Rename: "Khumalo – Log", From: "Dube – Log", Take: []string{"dube"}}},
		{"gone", wish, Found{State: Gone, Name: "x", Given: "x"}, "", false, Change{}},
	} {
		c.found.Thing = "t"
		var line Line
		for _, l := range Compute([]Wish{c.wish}, nil, map[Key]Found{"k": c.found}).Lines {
			if l.Section == ToChange {
				line = l
			}
		}
		reason, change := "", Change{}
		if line.Reason != nil {
			reason, change = line.Reason.Code, *line.Wish.Change
		}
		if reason != c.reason || line.Ticked != c.ticked || !reflect.DeepEqual(change, c.change) {
			t.Errorf("%s: %q ticked %v %+v", c.what, reason, line.Ticked, change)
		}
		if reason != "" && line.Wish.Key != ChangeKey("k") {
			t.Errorf("%s: key %s", c.what, line.Wish.Key)
		}
	}
}

// A list on random classes: every wish and absentee has exactly one line, the
// same arguments give the same list, and after everything was packed nothing
// is left to pack.
func TestProperties(t *testing.T) {
	random := rand.New(rand.NewPCG(5, 8))
	for range 400 {
		var wishes []Wish
		found := map[Key]Found{}
		for i := range random.IntN(30) {
			w := Wish{Key: Key(fmt.Sprint("k", i)), Name: fmt.Sprint("n", i), Rule: access.Rule{Grants: map[string]access.Level{"p": access.Level(1 + random.IntN(3))}}}
			if i > 0 && random.IntN(2) == 0 {
				w.Parent = wishes[random.IntN(i)].Key
			}
			if random.IntN(8) == 0 {
				w.Problem = &Reason{Code: "account-unknown"}
			}
			wishes = append(wishes, w)
			if s := []State{Missing, Missing, Here, Elsewhere, Unshared, InBin, Gone}[random.IntN(7)]; s != Missing {
				f := Found{Thing: "t", State: s, Name: w.Name, Given: w.Name, Granted: map[string]access.Level{"p": access.Level(random.IntN(4)), "q": access.Level(random.IntN(2))}}
				if random.IntN(3) == 0 {
					f.Name, f.Given = "old", "old"
				}
				if random.IntN(3) == 0 {
					f.Ours = map[string]access.Level{"q": access.Read}
				}
				found[w.Key] = f
			}
		}
		absent := []Absent{{Row: "r", Name: "x", Reason: Reason{Code: "sits-out"}}}
		l := Compute(wishes, absent, found)
		var changes []Line
		var rest []Line
		for _, line := range l.Lines {
			if line.Section == ToChange {
				changes = append(changes, line)
			} else {
				rest = append(rest, line)
			}
		}
		if len(rest) != len(wishes)+1 || !reflect.DeepEqual(l, Compute(wishes, absent, found)) {
			t.Fatal("lines are missing, or the list changed by itself")
		}
		toPack := map[Key]bool{}
		for i, line := range rest[:len(wishes)] {
			w := wishes[i]
			if line.Wish.Key != w.Key {
				t.Fatal("the order changed")
			}
			if line.Section == ToPack {
				toPack[w.Key] = true
				if f := found[w.Parent]; w.Parent != "" && line.Act == Make && !toPack[w.Parent] && (f.Thing == "" || f.State == InBin || f.State == Gone) {
					t.Fatalf("%s would be packed into something that isn't there", w.Key)
				}
			}
			if line.Act != None && line.Section != ToPack {
				t.Fatalf("%+v does something although it isn't to pack", line)
			}
		}
		for _, w := range wishes { // pack it
			if toPack[w.Key] {
				f := found[w.Key]
				if f.Granted == nil {
					f.Granted = map[string]access.Level{}
				}
				f.Thing, f.Name = "t", w.Name
				if f.State == Missing || f.State == Unshared {
					f.State = Here
				}
				for p, level := range w.Rule.Grants {
					f.Granted[p] = max(level, f.Granted[p])
				}
				found[w.Key] = f
			}
		}
		for _, line := range changes { // and change it
			key := Key(strings.TrimSuffix(string(line.Wish.Key), "#change"))
			f := found[key]
			if c := line.Wish.Change; c.Rename != "" {
				f.Name, f.Given = c.Rename, c.Rename
			}
			for _, a := range line.Wish.Change.Take {
				delete(f.Granted, a)
			}
			found[key] = f
		}
		if n := Compute(wishes, absent, found).Counts(); n[ToPack]+n[ToChange] != 0 {
			t.Fatalf("%v are left after a full run", n)
		}
	}
}
