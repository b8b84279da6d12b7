package ledger_test

import (
	"testing"

	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
)

// Where things lie is followed to the class's own folder, through whatever folders of the
// class they are in, and no further; a circle, which no cupboard has, ends.
func TestWhere(t *testing.T) {
	things := map[string]*ledger.Entry{}
	add := func(thing string, purpose packing.Purpose) {
		things[thing] = &ledger.Entry{Thing: thing, Key: packing.Key{Class: "c", What: packing.What{Purpose: purpose}}}
	}
	add("class", packing.ClassFolder)
	add("cloakroom", packing.Cloakroom)
	add("satchel", packing.Satchel)
	add("pocket", packing.Pocket)
	add("table", packing.Place)
	for _, copied := range []string{"copy", "own", "fresh", "round", "back"} {
		add(copied, packing.Copy)
	}
	parents := map[string]string{
		"class": "the teacher's", "cloakroom": "class", "satchel": "cloakroom", "pocket": "satchel", "copy": "pocket",
		"own": "a student's own folder", "round": "back", "back": "round",
	}
	w := ledger.Where{Things: things, Parent: func(e *ledger.Entry) string { return parents[e.Thing] }}
	for thing, want := range map[string]struct {
		above        []string
		known, under bool // the satchel
	}{
		"class":     {nil, true, false},
		"cloakroom": {[]string{"class"}, true, false},
		"satchel":   {[]string{"cloakroom", "class"}, true, true},
		"copy":      {[]string{"pocket", "satchel", "cloakroom", "class"}, true, true},
		"own":       {nil, false, true},
		"fresh":     {nil, false, true},
		"table":     {nil, false, false},
		"round":     {[]string{"back", "round"}, false, true},
	} {
		in, known := w.Above(things[thing])
		got := []string{}
		for _, e := range in {
			got = append(got, e.Thing)
		}
		if known != want.known || len(got) != len(want.above) {
			t.Fatalf("%s lies in %v, known %v; want %v, %v", thing, got, known, want.above, want.known)
		}
		for i := range got {
			if got[i] != want.above[i] {
				t.Errorf("%s lies in %v, want %v", thing, got, want.above)
			}
		}
		if under := w.Under(things[thing], things["satchel"]); under != want.under {
			t.Errorf("%s under the satchel: %v", thing, under)
		}
	}
}
