package ledger_test

import (
	"testing"

	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
)

// What holds a folder is the weightiest of what is in it, whichever is looked at first, and
// what a thing is itself comes before that.
func TestStays(t *testing.T) {
	things, parents, stands := map[string]*ledger.Entry{}, map[string]string{}, map[string]ledger.Stands{}
	add := func(thing, parent, run string, purpose packing.Purpose, s ledger.Stands) {
		things[thing] = &ledger.Entry{Thing: thing, RunID: run, Key: packing.Key{What: packing.What{Purpose: purpose}}}
		parents[thing], stands[thing] = parent, s
	}
	lies := ledger.Stands{Lies: true}
	add("class", "", "room", packing.ClassFolder, lies)
	add("cloakroom", "class", "room", packing.Cloakroom, lies)
	for _, whose := range []string{"Ana", "Ben", "Caz", "Dee", "Eli"} {
		add(whose, "cloakroom", "room", packing.Satchel, lies)
	}
	add("Ana's copy", "Ana", "log", packing.Copy, ledger.Stands{Lies: true, Begun: true, Words: 33})
	add("Ana's card", "Ana", "card", packing.Copy, lies)
	add("Ben's copy", "Ben", "log", packing.Copy, lies)
	stands["Caz"] = ledger.Stands{Lies: true, Inside: 2}
	add("Caz's copy", "Caz", "log", packing.Copy, ledger.Stands{Lies: true, Begun: true})
	add("Dee's copy", "Dee", "log", packing.Copy, ledger.Stands{Begun: true}) // in the bin
	add("drawer", "class", "room", packing.Drawer, lies)
	add("Eli's pocket", "Eli", "room", packing.Pocket, ledger.Stands{Lies: true, Inside: 1})
	w := ledger.Where{Things: things, Parent: func(e *ledger.Entry) string { return parents[e.Thing] }}
	got := w.Stays("room", func(e *ledger.Entry) ledger.Stands { return stands[e.Thing] })
	for thing, want := range map[string]string{
		"class": "inside-begun", "cloakroom": "inside-begun", "Ana": "inside-begun", "Ana's copy": "begun", "Ana's card": "",
		"Ben": "inside-later", "Caz": "inside", "Caz's copy": "begun", "Dee": "", "drawer": "", "Eli": "inside-put", "Eli's pocket": "inside",
	} {
		if why := got[things[thing]]; why.Code != want {
			t.Errorf("%s stays for %q, want %q", thing, why.Code, want)
		}
	}
	if args := got[things["Ana's copy"]].Args; args["words"] != "33" {
		t.Errorf("begun with %v", args)
	}
	if args := got[things["Caz"]].Args; args["count"] != "2" {
		t.Errorf("others' things: %v", args)
	}
}
