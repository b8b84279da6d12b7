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
				found[w.Key] = Found{Thing: "t", State: s, Name: w.Name, Granted: map[string]access.Level{"p": access.Level(random.IntN(4))}}
			}
		}
		absent := []Absent{{Row: "r", Name: "x", Reason: Reason{Code: "sits-out"}}}
		l := Compute(wishes, absent, found)
		if len(l.Lines) != len(wishes)+1 || !reflect.DeepEqual(l, Compute(wishes, absent, found)) {
			t.Fatal("lines are missing, or the list changed by itself")
		}
		toPack := map[Key]bool{}
		for i, line := range l.Lines[:len(wishes)] {
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
		if n := Compute(wishes, absent, found).Counts()[ToPack]; n != 0 {
			t.Fatalf("%d lines are left to pack after a full run", n)
		}
	}
}
