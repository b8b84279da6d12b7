package usecase_test

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"sync"
	"testing"

	"golang.org/x/text/encoding/charmap"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/draft"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/lists"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/progress"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/register"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/tables"
	"jollysatchel/internal/usecase/enrol"
	"jollysatchel/internal/usecase/pack"
	"jollysatchel/internal/usecase/seam"
)

func accept(t *testing.T, a *app.App, class, list string) enrol.Accepted {
	t.Helper()
	paste(t, a, class, list)
	out, err := take(a, class)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

func kinds(d draft.View) string {
	var out []string
	for _, l := range d.Plan.Lines {
		name := ""
		if l.Student != nil {
			name = l.Student.Name()
		} else {
			name = l.Row.Name()
		}
		out = append(out, fmt.Sprintf("%s %s %v", l.Kind, name, l.Accepted))
	}
	return strings.Join(out, "; ")
}

// toChange carries out every line to change that is ticked or of some acts, and
// what is to be packed besides, and returns what the lines said.
func toChange(t *testing.T, a *app.App, c picture.Class, also ...packing.Act) []string {
	t.Helper()
	l, err := a.Cases.Packing.RoomList(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	part := pack.Part{Seen: l.Digest()}
	var said []string
	for _, line := range l.Lines {
		if line.Section == packing.ToChange && (line.Ticked || slices.Contains(also, line.Step.Act)) {
			part.Changes = append(part.Changes, line.Step.String())
			said = append(said, string(line.Wanted.Key.What.Purpose)+" "+line.Reason.Code)
		}
	}
	run, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, "", part)
	if err != nil {
		t.Fatal(err)
	}
	if r := apptest.Wait(t, a, run.ID); r.Stuck > 0 {
		t.Fatalf("%d lines are stuck", r.Stuck)
	}
	return said
}

// A newer list with everything that can happen to a class that was packed: what
// follows for names and access is in the next packing list; contents, ids
// and links stay; packed again, nothing is left to pack or to change.
func TestNewerListCarriesThrough(t *testing.T) {
	a, c := school(t, 4)
	apptest.People(t, a, 12)
	apptest.Account(t, a, "s1new", "Given1", "Family1")
	apptest.Pack(t, a, c, nil)
	h := apptest.Handout(t, a, c, "# Log\n")
	apptest.Pack(t, a, c, &h)
	entries := func() map[string]ledger.Entry {
		entries, err := a.Store.Ledger(ctx, c.ID)
		if err != nil {
			t.Fatal(err)
		}
		m := map[string]ledger.Entry{}
		for _, e := range entries {
			m[e.Key.String()] = e
		}
		return m
	}
	before := entries()
	reach := func(account string, e ledger.Entry) bool {
		_, err := a.Cup.Get(ctx, account, e.Thing)
		if err != nil && !errors.Is(err, cupboard.ErrNotFound) {
			t.Fatal(err)
		}
		return err == nil
	}
	find := func(m map[string]ledger.Entry, purpose, name string) ledger.Entry {
		for _, e := range m {
			if string(e.Key.What.Purpose) == purpose && strings.Contains(e.Name, name) {
				return e
			}
		}
		t.Fatalf("no %s of %s", purpose, name)
		return ledger.Entry{}
	}

	// 0 has another name, 1 the address of another account of the same name, 2 is missing, one is new.
	d := paste(t, a, c.ID, "No,Surname,First,Email,Period\n70000,Khumalo,Given0,s0@kestrelquay.example,3\n70001,Family1,Given1,s1new@kestrelquay.example,3\n70003,Family3,Given3,s3@kestrelquay.example,3\n90000,Family9,Nia,s9@kestrelquay.example,3\n")
	want := "changed Given0 Khumalo true; changed Given1 Family1 true; unchanged Given3 Family3 true; joined Nia Family9 true; left Given2 Family2 true"
	if got := kinds(d); got != want {
		t.Fatalf("compared: %s", got)
	}
	out, err := take(a, c.ID)
	if err != nil || out.Counts[roster.Changed] != 2 || out.Counts[roster.Left] != 1 || out.Batch == "" {
		t.Fatalf("%+v, %v", out, err)
	}
	c = apptest.Load(t, a, c.ID)
	satchel2 := find(before, "satchel", "Family2")
	if !reach("s2", satchel2) || !reach("s2", find(before, "shelf", "")) {
		t.Error("accepting alone took access away")
	}
	if reg, err := a.Cases.Registers.Register(ctx, c.ID); err != nil || fmt.Sprint(states(reg, "Family1")) != "[not-shared not-shared]" {
		t.Errorf("who has another account now is shown as %v, %v", states(reg, "Family1"), err)
	}
	if l, err := a.Cases.Packing.Missing(ctx, c.ID); err != nil || len(served(l)) != 1 {
		t.Errorf("a top-up would serve %v, %v: the newcomer alone", served(l), err)
	}
	said := toChange(t, a, c, packing.Relink)
	slices.Sort(said)
	if got := strings.Join(said, ", "); got != "account relink, copy rename, satchel rename, shelf take-away, table take-away" {
		t.Errorf("to change: %s", got)
	}
	after := entries()
	for key, e := range before {
		if now := after[key]; now.Thing != e.Thing || now.Link != e.Link {
			t.Errorf("%s has become another thing", e.Name)
		}
	}
	satchel, copied := find(after, "satchel", "Khumalo, Given0"), find(after, "copy", "3 Khumalo")
	for _, e := range []ledger.Entry{satchel, copied} {
		if th, err := a.Cup.Get(ctx, "s0", e.Thing); err != nil || th.Name != e.Name {
			t.Errorf("%s is called %q for its student, %v", e.Name, th.Name, err)
		}
	}
	one := find(after, "satchel", "Family1")
	for _, e := range []ledger.Entry{one, find(after, "copy", "Family1")} {
		if reach("s1", e) || !reach("s1new", e) {
			t.Errorf("%s: reached by the former address %v, by the new one %v", e.Name, reach("s1", e), reach("s1new", e))
		}
	}
	if reach("s1", find(after, "shelf", "")) || !reach("s1new", find(after, "table", "")) {
		t.Error("the former account still reaches the shelf, or the new one doesn't reach the table")
	}
	if reach("s2", find(after, "shelf", "")) || reach("s2", find(after, "table", "")) {
		t.Error("one who left still reaches the shelf or the table")
	}
	if !reach("s2", satchel2) || !reach("s2", find(after, "copy", "Family2")) {
		t.Error("one who left lost the own satchel or copy")
	}
	l, err := a.Cases.Packing.RoomList(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	if n := l.Counts(); n[packing.ToChange] != 0 || n[packing.ToPack] != 0 {
		t.Errorf("after a full run: %v", n)
	}

	// 2 is back: the same row, the same satchel.
	accept(t, a, c.ID, "No,Surname,First,Email\n70002,Family2,Given2,s2@kestrelquay.example\n")
	c = apptest.Load(t, a, c.ID)
	apptest.Pack(t, a, c, nil)
	if back := find(entries(), "satchel", "Family2"); back.Thing != satchel2.Thing || !reach("s2", find(after, "shelf", "")) {
		t.Errorf("back with %+v", back)
	}
}

// states are what the Register shows of a student.
func states(reg register.Register, family string) (out []progress.State) {
	for i, s := range reg.Class.Students {
		if s.Family == family {
			for _, col := range reg.Columns {
				out = append(out, col.Cells[i].State)
			}
		}
	}
	return out
}

// What a person renamed keeps its name unless the teacher ticks it.
func TestNamesGivenByPeopleStay(t *testing.T) {
	a, c := school(t, 1)
	apptest.Pack(t, a, c, nil)
	e, err := a.Store.EntryByKey(ctx, room.SatchelKey(c.ID, c.Students[0].ID))
	if err != nil {
		t.Fatal(err)
	}
	if err := a.Cup.Rename(ctx, "oduya", "by hand", e.Thing, "My satchel"); err != nil {
		t.Fatal(err)
	}
	accept(t, a, c.ID, "No,Surname,First,Email\n70000,Khumalo,Given0,s0@kestrelquay.example\n")
	l, err := a.Cases.Packing.RoomList(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	i := slices.IndexFunc(l.Lines, func(x packing.Line) bool { return x.Section == packing.ToChange })
	if i < 0 || l.Lines[i].Ticked || l.Lines[i].Change.Rename != "Khumalo, Given0" {
		t.Errorf("%+v", l.Lines)
	}
}

func TestPartialListTakesNobodyOff(t *testing.T) {
	a, c := school(t, 4)
	d := paste(t, a, c.ID, "No,Surname,First,Email\n90000,Nunes,Nia,s9@kestrelquay.example\n")
	if !d.Plan.Partial || strings.Contains(kinds(d), "left Given0 Family0 true") {
		t.Fatalf("%v %s", d.Plan.Partial, kinds(d))
	}
	tick := draft.Change{Tick: &draft.TickChange{Key: "o" + c.Students[0].ID, On: true}}
	if d, err := a.Cases.Lists.ChangeDraft(ctx, "oduya", c.ID, "", []draft.Change{tick}); err != nil ||
		!strings.Contains(kinds(d), "left Given0 Family0 true") {
		t.Fatalf("%v %s", err, kinds(d))
	}
	if _, err := take(a, c.ID); err != nil {
		t.Fatal(err)
	}
	if n := len(apptest.Load(t, a, c.ID).Students); n != 4 {
		t.Errorf("%d students: one ticked off, one new", n)
	}
}

// A doubtful student is asked about, and nothing is accepted before; every
// answer does what it says.
func TestDoubtfulIsAsked(t *testing.T) {
	list := "No,Surname,First,Email\n70000,Other,Name,s9@kestrelquay.example\n70001,Family1,Given1,s1@kestrelquay.example\n"
	for _, c := range []struct {
		what   string
		change func(c picture.Class) draft.Change
		want   string // names of the class afterwards
	}{
		{"it is she", func(c picture.Class) draft.Change {
			return draft.Change{Said: &draft.SaidChange{Line: 2, Row: c.Students[0].ID}}
		}, "Given1 Family1, Name Other"},
		{"somebody new", func(picture.Class) draft.Change {
			return draft.Change{Said: &draft.SaidChange{Line: 2, Row: "new"}}
		}, "Given1 Family1, Name Other"},
		{"left for later", func(picture.Class) draft.Change {
			return draft.Change{Tick: &draft.TickChange{Key: "n2", On: false}}
		}, "Given0 Family0, Given1 Family1"},
	} {
		a, cl := school(t, 2)
		if d := paste(t, a, cl.ID, list); kinds(d) != "doubtful Name Other true; unchanged Given1 Family1 true" ||
			len(d.Plan.Lines[0].Candidates) != 1 {
			t.Fatalf("%s", kinds(d))
		}
		_, err := take(a, cl.ID)
		wantInvalid(t, err, "list", "doubtful")
		if _, err := a.Cases.Lists.ChangeDraft(ctx, "oduya", cl.ID, "", []draft.Change{c.change(cl)}); err != nil {
			t.Fatal(err)
		}
		if _, err := take(a, cl.ID); err != nil {
			t.Fatalf("%s: %v", c.what, err)
		}
		var names []string
		for _, s := range apptest.Load(t, a, cl.ID).Students {
			names = append(names, s.Name())
		}
		if got := strings.Join(names, ", "); got != c.want {
			t.Errorf("%s: %s, want %s", c.what, got, c.want)
		}
	}
}

// One file with several classes: those there are, one that is made, one that
// is left out; a student who changes class; teachers from the file.
func TestSeveralClasses(t *testing.T) {
	a, seven := school(t, 4)
	eight, err := a.Cases.Classes.CreateClass(ctx, "oduya", "8A", "Boat Workshop 8A", "", false)
	if err != nil {
		t.Fatal(err)
	}
	book, err := tables.Read(strings.NewReader(
		"No,Surname,First,Email,Class\n70000,Family0,Given0,s0@kestrelquay.example,Tide Watch 7B\n70001,Family1,Given1,s1@kestrelquay.example,8A\n70002,Family2,Given2,s2@kestrelquay.example,7B\n90001,New,One,s4@kestrelquay.example,Harbour Club\n90002,Not,Here,x@kestrelquay.example,Elsewhere\n70003,Family3,Given3,s3@kestrelquay.example,7B\n"))
	if err != nil {
		t.Fatal(err)
	}
	book.Teachers = []tables.Teacher{{Class: "Harbour Club", Given: "Mats", Family: "Lindqvist",
		Address: "lindqvist@kestrelquay.example"}, {Class: "Harbour Club", Given: "No", Family: "Body", Address: "nobody@kestrelquay.example"}}
	d, err := a.Cases.Lists.BringBook(ctx, "oduya", seven.ID, "all.csv", book)
	if err != nil {
		t.Fatal(err)
	}
	var targets []string
	for _, g := range d.Plan.Parts {
		targets = append(targets, g.Class+" "+map[string]string{seven.ID: "7B", eight.ID: "8A"}[g.Target]+g.Target[:min(3, len(g.Target))])
	}
	if len(d.Plan.Parts) != 5 || d.Plan.Parts[0].Target != seven.ID || d.Plan.Parts[1].Target != lists.NoClass ||
		d.Plan.Parts[1].Why != lists.PartElsewhere || d.Plan.Parts[2].Target != seven.ID || d.Plan.Parts[3].Target != lists.NoClass {
		t.Fatalf("groups %v", targets)
	}
	// Another class of theirs is changed from here only where the teacher says so.
	if strings.Contains(kinds(d), "moved") {
		t.Errorf("unasked: %s", kinds(d))
	}
	there := draft.Change{Target: &draft.TargetChange{Group: d.Plan.Parts[1].Key, Class: eight.ID}}
	if d, err = a.Cases.Lists.ChangeDraft(ctx, "oduya", seven.ID, "", []draft.Change{there}); err != nil {
		t.Fatal(err)
	}
	if !strings.Contains(kinds(d), "moved Given1 Family1 true") {
		t.Errorf("%s", kinds(d))
	}
	// A class is made only where the teacher says so.
	leave := draft.Change{Target: &draft.TargetChange{Group: d.Plan.Parts[3].Key, Class: lists.NewClass}}
	if d, err = a.Cases.Lists.ChangeDraft(ctx, "oduya", seven.ID, "", []draft.Change{leave}); err != nil ||
		strings.Contains(kinds(d), "Here Not") {
		t.Fatalf("%v %s", err, kinds(d))
	}
	out, err := take(a, seven.ID)
	if err != nil || len(out.Classes) != 3 || out.Classes[0] != seven.ID {
		t.Fatalf("%+v, %v", out, err)
	}
	names := func(id string) string {
		var n []string
		for _, s := range apptest.Load(t, a, id).Students {
			n = append(n, s.Family)
		}
		return strings.Join(n, " ")
	}
	club := apptest.Load(t, a, out.Classes[2])
	if names(seven.ID) != "Family0 Family2 Family3" || names(eight.ID) != "Family1" || names(club.ID) != "New" || club.Name != "Harbour Club" {
		t.Errorf("7B %q, 8A %q, %s %q", names(seven.ID), names(eight.ID), club.Name, names(club.ID))
	}
	if len(club.Staff) != 2 || club.Owner() != "oduya" || club.Staff[1].Account != "lindqvist" {
		t.Errorf("staff %+v", club.Staff)
	}
	// All of it is taken back in one act, in every class.
	if err := a.Cases.Rosters.Undo(ctx, "oduya", seven.ID, out.Batch); err != nil {
		t.Fatal(err)
	}
	if names(seven.ID) != "Family0 Family1 Family2 Family3" || names(eight.ID) != "" {
		t.Errorf("taken back: 7B %q, 8A %q", names(seven.ID), names(eight.ID))
	}
	if _, err := a.Cases.Classes.Class(ctx, club.ID); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("the class it made is still there: %v", err)
	}
	wantInvalid(t, a.Cases.Rosters.Undo(ctx, "oduya", seven.ID, out.Batch), "history", "undone-already")
}

// Another's class is never a target, whatever is asked for.
func TestTargetsAreOnesOwn(t *testing.T) {
	a, c := school(t, 1)
	other, err := a.Cases.Classes.CreateClass(ctx, "lindqvist", "", "Weather Station Club", "", false)
	if err != nil {
		t.Fatal(err)
	}
	d := paste(t, a, c.ID, "Surname,First,Email,Class\nFamily0,Given0,s0@kestrelquay.example,Weather Station Club\nX,Y,s9@kestrelquay.example,7B\n")
	d, err = a.Cases.Lists.ChangeDraft(ctx, "oduya", c.ID, "",
		[]draft.Change{{Target: &draft.TargetChange{Group: d.Plan.Parts[0].Key, Class: other.ID}}})
	if err != nil || d.Plan.Parts[0].Target != lists.Undecided {
		t.Errorf("%+v, %v", d.Plan.Parts[0], err)
	}
}

// After something was packed on an import it can't simply be taken back; the
// list as it stood before comes back as a list to compare and accept.
func TestWayBackAfterPacking(t *testing.T) {
	a, c := school(t, 3)
	apptest.Pack(t, a, c, nil)
	out := accept(t, a, c.ID, "No,Surname,First,Email,Level\n70000,Khumalo,Given0,s0@kestrelquay.example,B\n70001,Family1,Given1,s1@kestrelquay.example,\n90000,Family3,Nia,s3@kestrelquay.example,\n")
	toChange(t, a, apptest.Load(t, a, c.ID))
	wantInvalid(t, a.Cases.Rosters.Undo(ctx, "oduya", c.ID, out.Batch), "history", "packed-since")
	d, err := a.Cases.Lists.ListBefore(ctx, "oduya", c.ID, out.Batch)
	if err != nil {
		t.Fatal(err)
	}
	if got := kinds(d); got != "changed Given0 Family0 true; unchanged Given1 Family1 true; returned Given2 Family2 true; left Nia Family3 true" {
		t.Errorf("the list as it stood: %s", got)
	}
	if _, err := take(a, c.ID); err != nil {
		t.Fatal(err)
	}
	var names []string
	for _, s := range apptest.Load(t, a, c.ID).Students {
		names = append(names, s.Name()+s.Level)
	}
	if got := strings.Join(names, ", "); got != "Given0 Family0, Given1 Family1, Given2 Family2" {
		t.Errorf("after the way back: %s", got)
	}
}

func TestEditRoster(t *testing.T) {
	a, c := school(t, 3)
	row := func(i int) string { return c.Students[i].ID }
	state := func() []lists.State {
		var out []lists.State
		for _, s := range apptest.Load(t, a, c.ID).Students {
			out = append(out, s.State())
		}
		return out
	}
	before := state()
	for _, e := range []struct {
		edits       []classes.Edit
		field, code string
	}{
		{[]classes.Edit{{Row: row(0), Field: "level", Value: "A"}, {Row: row(1), Field: "address", Value: "no address"}},
			"address", "address-malformed"},
		{[]classes.Edit{{Row: row(1), Field: "address", Value: "S0@kestrelquay.example"}}, "address", "address-twice"},
		{[]classes.Edit{{Row: row(1), Field: "given", Value: ""}, {Row: row(1), Field: "family", Value: " "}}, "family", "name-missing"},
		{[]classes.Edit{{Row: row(1), Field: "captain", Value: "x"}}, "captain", "no-such-cell"},
		{[]classes.Edit{{Row: row(1), Field: "extra:", Value: "x"}}, "extra:", "no-such-cell"},
		{[]classes.Edit{{Row: row(1), Field: "team", Value: strings.Repeat("x", roster.MaxValue+1)}}, "team", "too-long"},
		{[]classes.Edit{{Row: row(1), Field: record.Extra(strings.Repeat("x", roster.MaxHeading+1)), Value: "x"}},
			string(record.Extra(strings.Repeat("x", roster.MaxHeading+1))), "no-such-cell"},
	} {
		_, err := a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID, e.edits)
		wantInvalid(t, err, e.field, e.code)
		if !reflect.DeepEqual(state(), before) {
			t.Fatalf("%v was half accepted", e.edits)
		}
	}
	if _, err := a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID,
		[]classes.Edit{{Row: "0198a0c0-0000-7000-8000-000000000000", Field: "level", Value: "A"}}); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("a row that isn't there: %v", err)
	}
	batch, err := a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID,
		[]classes.Edit{{Row: row(0), Field: "level", Value: " A "}, {Row: row(1), Field: "level", Value: "A"},
			{Row: row(1), Field: "extra:Boat", Value: "Gull"}, {Row: row(2), Field: "address", Value: "s3@kestrelquay.example"}})
	if err != nil {
		t.Fatal(err)
	}
	now := state()
	if now[0].Level != "A" || now[1].Extra["Boat"] != "Gull" || now[2].Address != "s3@kestrelquay.example" {
		t.Errorf("%+v", now)
	}
	if nothing, err := a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID,
		[]classes.Edit{{Row: row(0), Field: "level", Value: "A"}}); err != nil || nothing != "" {
		t.Errorf("nothing changed and %q is kept, %v", nothing, err)
	}
	history, err := a.Store.History(ctx, c.ID, 10)
	if err != nil || len(history) != 2 || history[0].Kind != "edit" || history[0].Batch != batch ||
		len(history[0].Changes) != 3 || history[1].Kind != "list" {
		t.Errorf("history %+v, %v", history, err)
	}
	// A later change is in the way of taking an earlier one back.
	later, err := a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID, []classes.Edit{{Row: row(0), Field: "level", Value: "B"}})
	if err != nil {
		t.Fatal(err)
	}
	wantInvalid(t, a.Cases.Rosters.Undo(ctx, "oduya", c.ID, batch), "history", "changed-since")
	for _, b := range []string{later, batch} {
		if err := a.Cases.Rosters.Undo(ctx, "oduya", c.ID, b); err != nil {
			t.Fatal(err)
		}
	}
	if !reflect.DeepEqual(state(), before) {
		t.Errorf("taken back: %+v, before %+v", state(), before)
	}
	if err := a.Cases.Rosters.Undo(ctx, "oduya", c.ID, "0198a0c0-0000-7000-8000-000000000000"); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("an act that never was: %v", err)
	}
}

func TestAddAndLeave(t *testing.T) {
	a, c := school(t, 2)
	_, err := a.Cases.Rosters.AddStudents(ctx, "oduya", c.ID, []record.Record{{Given: " ", Address: "s2@kestrelquay.example"}})
	wantInvalid(t, err, "family", "name-missing")
	_, err = a.Cases.Rosters.AddStudents(ctx, "oduya", c.ID, []record.Record{{Family: "X", Address: "x"}})
	wantInvalid(t, err, "address", "address-malformed")
	_, err = a.Cases.Rosters.AddStudents(ctx, "oduya", c.ID, []record.Record{{Family: "X", Address: "S1@kestrelquay.example"}})
	wantInvalid(t, err, "address", "student-there")
	batch, err := a.Cases.Rosters.AddStudents(ctx, "oduya", c.ID,
		[]record.Record{{Given: "Given2", Family: "Family2", Address: "s2@kestrelquay.example"}})
	if err != nil {
		t.Fatal(err)
	}
	if n := len(apptest.Load(t, a, c.ID).Students); n != 3 {
		t.Fatalf("%d students", n)
	}
	if err := a.Cases.Rosters.Undo(ctx, "oduya", c.ID, batch); err != nil {
		t.Fatal(err)
	}
	if rows, err := a.Store.Rows(ctx, c.ID); err != nil || len(rows) != 2 {
		t.Errorf("%d rows are left of two, %v", len(rows), err)
	}
	rows := []string{c.Students[0].ID}
	if _, err := a.Cases.Rosters.SetLeft(ctx, "oduya", c.ID, rows, true); err != nil {
		t.Fatal(err)
	}
	if left := apptest.Load(t, a, c.ID); len(left.Students) != 1 {
		t.Errorf("%d are still there", len(left.Students))
	}
	// The address stays theirs while they are gone; back they come with it.
	_, err = a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID,
		[]classes.Edit{{Row: c.Students[1].ID, Field: "address", Value: "s0@kestrelquay.example"}})
	wantInvalid(t, err, "address", "address-of-leaver")
	if _, err = a.Cases.Rosters.SetLeft(ctx, "oduya", c.ID, rows, false); err != nil {
		t.Fatal(err)
	}
	if back, ok := apptest.Load(t, a, c.ID).Student(rows[0]); !ok || back.Account != "s0" {
		t.Errorf("back: %+v", back)
	}
}

func TestSheetsShapesAndRules(t *testing.T) {
	a := apptest.Open(t)
	apptest.People(t, a, 2)
	c, err := a.Cases.Classes.CreateClass(ctx, "oduya", "", "Weather Station Club", "", false)
	if err != nil {
		t.Fatal(err)
	}
	row := func(cells ...string) roster.Row { return roster.Row{Cells: cells} }
	number := func(rows ...roster.Row) roster.Table {
		for i := range rows {
			rows[i].Line = i + 1
		}
		return roster.Table{Rows: rows}
	}
	book := tables.Book{Sheets: []tables.Sheet{
		{Name: "Cover", Table: number(row(""))}, {Name: "Old", Hidden: true, Table: number(row("Name"), row("Gone Person"))},
		{Name: "7B", Table: number(row("Who", "Boat"), row("Kovács Anna", "Gull"), row("Given1 Family1", "Tern"))},
	}}
	d, err := a.Cases.Lists.BringBook(ctx, "oduya", c.ID, "book.xlsx", book)
	if err != nil || d.Settings.Sheet != "7B" || len(d.Sheets) != 2 {
		t.Fatalf("%+v, %v", d.Settings, err)
	}
	edit := func(ch draft.Change) draft.View {
		t.Helper()
		d, err := a.Cases.Lists.ChangeDraft(ctx, "oduya", c.ID, "", []draft.Change{ch})
		if err != nil {
			t.Fatal(err)
		}
		return d
	}
	edit(draft.Change{Heading: ptr(1)})
	d = edit(draft.Change{Role: &draft.RoleChange{Field: 0, Role: roster.Full}})
	if len(d.Read.Students) != 2 || d.Read.Students[0].Family != "Anna" {
		t.Fatalf("%+v", d.Read)
	}
	if d = edit(draft.Change{FamilyFirst: ptr(true)}); d.Read.Students[0].Family != "Kovács" {
		t.Errorf("family first: %+v", d.Read.Students[0])
	}
	edit(draft.Change{FamilyFirst: ptr(false)})
	d = edit(draft.Change{Derive: ptr(roster.AddressRule("[given].[family]"))})
	if d.Read.Students[0].Address != "kovacs.anna@kestrelquay.example" || d.Read.Errors() != 0 {
		t.Errorf("derived: %+v %+v", d.Read.Students[0], d.Read.Findings)
	}
	// The school book knows Given1 Family1 by another address: that is said.
	if f := d.Read.Findings[1]; f.Code != "account-unknown" || f.Args["suggestion"] != "s1@kestrelquay.example" {
		t.Errorf("%+v", f)
	}
	_, err = a.Cases.Lists.ChangeDraft(ctx, "oduya", c.ID, "", []draft.Change{{Derive: ptr(roster.AddressRule("[nonsense]"))}})
	wantInvalid(t, err, "derive", "no-such-rule")
	_, err = a.Cases.Lists.ChangeDraft(ctx, "oduya", c.ID, "", []draft.Change{{Sheet: ptr("8A")}})
	wantInvalid(t, err, "sheet", "no-such-sheet")
	if d = edit(draft.Change{Sheet: ptr("Old")}); len(d.Read.Students) != 1 {
		t.Errorf("the other sheet: %+v", d.Read)
	}
	if d = edit(draft.Change{Sheet: ptr("7B")}); len(d.Rows) != 3 {
		t.Errorf("and back: %+v", d.Rows)
	}
	// What was said about the columns is remembered for a list of that shape, for
	// this teacher alone.
	paste(t, a, c.ID, "Berth,Surname,E-mail\n4,Dube,n@kestrelquay.example\n")
	edit(draft.Change{Role: &draft.RoleChange{Field: 0, Role: roster.Number}})
	if d = paste(t, a, c.ID, "BERTH,Surname,E-Mail\n9,Eze,k@kestrelquay.example\n"); d.Read.Students[0].Number != "9" {
		t.Errorf("not remembered: %+v", d.Read)
	}
	other, err := tables.Read(strings.NewReader("Berth,Surname,E-mail\n9,Eze,k@kestrelquay.example\n"))
	if err != nil {
		t.Fatal(err)
	}
	if d, err = a.Cases.Lists.BringBook(ctx, "lindqvist", c.ID, "", other); err != nil || d.Read.Students[0].Number != "" {
		t.Errorf("remembered for another: %+v, %v", d.Read, err)
	}
}

// A list without headings is remembered by what its columns hold.
func TestHeadlessListIsRemembered(t *testing.T) {
	a := apptest.Open(t)
	apptest.People(t, a, 4)
	c, err := a.Cases.Classes.CreateClass(ctx, "oduya", "", "Weather Station Club", "", false)
	if err != nil {
		t.Fatal(err)
	}
	list := func(n int) string {
		return fmt.Sprintf("4%d,Given%d,Family%d,s%d@kestrelquay.example,R%d\n5%d,Given%d,Family%d,s%d@kestrelquay.example,R%d\n", n, n, n, n, n, n, n+1, n+1, n+1, n+1)
	}
	d := paste(t, a, c.ID, list(0))
	if d.Read.HeadingRow != 0 || d.Read.Columns[0].Role == roster.Number && d.Read.Columns[4].Role == roster.Team {
		t.Fatalf("nothing to say about %+v", d.Read.Columns)
	}
	var said []draft.Change
	for field, role := range []roster.Role{roster.Number, roster.Given, roster.Family, roster.Address, roster.Team} {
		said = append(said, draft.Change{Role: &draft.RoleChange{Field: field, Role: role}})
	}
	if _, err = a.Cases.Lists.ChangeDraft(ctx, "oduya", c.ID, d.ID, said); err != nil {
		t.Fatal(err)
	}
	d = paste(t, a, c.ID, list(2))
	if s := d.Read.Students[1]; s.Number != "52" || s.Given != "Given3" || s.Team != "R3" {
		t.Errorf("not remembered: %+v", s)
	}
	if d = paste(t, a, c.ID, "Nia,Fjord,s0@kestrelquay.example\n"); d.Read.Students[0].Number != "" {
		t.Errorf("remembered for a list of another shape: %+v", d.Read.Students[0])
	}
}

// Where letters could be read in two ways, one act reads them the other way, and
// one more the first again; what was corrected by hand stays.
func TestLettersReadAnotherWay(t *testing.T) {
	a, c := school(t, 1)
	list, err := charmap.Windows1250.NewEncoder().
		String("No;Surname;First;Email\n70000;Ľubica;Dvořák;s0@kestrelquay.example\n70001;Erdős;Nia;s1@kestrelquay.example\n")
	if err != nil {
		t.Fatal(err)
	}
	d := paste(t, a, c.ID, list)
	set := d.Settings
	if len(set.Encodings) < 2 || set.Encodings[0].Encoding != set.Encoding || set.Encodings[1].Instead != "Ľubica" ||
		d.Read.Students[0].Family != "Ľubica" {
		t.Fatalf("%+v, %+v", set.Encodings, d.Read.Students)
	}
	other := set.Encodings[1]
	edit := func(ch draft.Change) {
		t.Helper()
		if d, err = a.Cases.Lists.ChangeDraft(ctx, "oduya", c.ID, d.ID, []draft.Change{ch}); err != nil {
			t.Fatal(err)
		}
	}
	edit(draft.Change{Cell: &draft.CellChange{Row: 3, Field: 2, Value: "Anja"}})
	edit(draft.Change{Encoding: &other.Encoding})
	if s := d.Read.Students; s[0].Family != other.Example || s[1].Given != "Anja" ||
		d.Settings.Encoding != other.Encoding || d.Settings.Encodings[0].Encoding != other.Encoding {
		t.Errorf("read another way: %+v %+v", s, d.Settings.Encodings)
	}
	edit(draft.Change{Encoding: &set.Encoding})
	if s := d.Read.Students; s[0].Family != "Ľubica" || s[1].Given != "Anja" {
		t.Errorf("and back: %+v", s)
	}
	for _, no := range []string{"", "utf-8", "Windows 1251"} {
		_, err := a.Cases.Lists.ChangeDraft(ctx, "oduya", c.ID, d.ID, []draft.Change{{Encoding: &no}})
		wantInvalid(t, err, "encoding", "no-such-encoding")
	}
}

// Anyone who asks for what is already like that changes nothing: the log has nothing of it, and nobody is
// told to look again.
func TestNothingChanged(t *testing.T) {
	a, c := school(t, 2)
	h := apptest.Handout(t, a, c, "# Log\n")
	title, left, name := "Tides", "Family0", record.Family
	acts := []func() error{
		func() error {
			_, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Title: &title}, handout.Change{})
			return err
		},
		func() error {
			_, err := a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID, []classes.Edit{{Row: c.Students[0].ID, Field: name, Value: left}})
			return err
		},
		func() error {
			_, err := a.Cases.Rosters.SetLeft(ctx, "oduya", c.ID, []string{c.Students[1].ID}, false)
			return err
		},
	}
	for range 2 {
		for _, act := range acts {
			if err := act(); err != nil {
				t.Fatal(err)
			}
		}
	}
	var said []string
	log, err := a.Store.Log(ctx, c.ID, 20)
	for _, e := range log {
		said = append(said, e.Act)
	}
	slices.Reverse(said)
	if want := []string{"list-brought", "list-accepted", "handout-begun", "handout-changed"}; err != nil || !slices.Equal(said, want) {
		t.Errorf("the log has %v, %v", said, err)
	}
	if now := apptest.Load(t, a, c.ID); now.Revision != c.Revision+2 {
		t.Errorf("revision %d after %d", now.Revision, c.Revision)
	}
}

// A class is called something else: the next packing offers its folder's new name; of two who do it at
// once the second is told; what is too long or missing is refused.
func TestCalledOtherwise(t *testing.T) {
	a, c := school(t, 2)
	apptest.Pack(t, a, c, nil)
	edit := func(ch, was classes.Change) error {
		return a.Cases.Classes.ChangeClass(ctx, "oduya", c.ID, ch, was)
	}
	if err := edit(classes.Change{Name: ptr(" Tide  Watch "), Code: ptr("")}, classes.Change{Name: &c.Name}); err != nil {
		t.Fatal(err)
	}
	if now := apptest.Load(t, a, c.ID); now.Name != "Tide Watch" || now.Code != "TW" || now.Period != c.Period {
		t.Errorf("%+v", now.Class)
	}
	l, err := a.Cases.Packing.RoomList(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	i := slices.IndexFunc(l.Lines, func(x packing.Line) bool { return x.Section == packing.ToChange })
	if i < 0 || l.Lines[i].Wanted.Key.What.Purpose != packing.ClassFolder || l.Lines[i].Change.Rename != "TW Tide Watch" {
		t.Errorf("lines to change: %+v", l.Counts())
	}
	var changed *change.Changed
	if err := edit(classes.Change{Name: ptr("Another")}, classes.Change{Name: &c.Name}); !errors.As(err, &changed) ||
		changed.Theirs != "Tide Watch" {
		t.Errorf("over another's: %v", err)
	}
	wantInvalid(t, edit(classes.Change{Name: ptr(" ")}, classes.Change{}), "name", "missing")
	wantInvalid(t, edit(classes.Change{Code: ptr(strings.Repeat("x", 13))}, classes.Change{}), "code", "too-long")
	before := apptest.Load(t, a, c.ID).Revision
	if err := edit(classes.Change{Code: ptr("TW")}, classes.Change{}); err != nil || apptest.Load(t, a, c.ID).Revision != before {
		t.Errorf("as it is: %v", err)
	}
}

// What a run is making isn't missing; it is once the run was stopped.
func TestNothingMissingUnderWay(t *testing.T) {
	a, c := school(t, 3)
	apptest.Pack(t, a, c, nil)
	h := apptest.Handout(t, a, c, "# Log\n")
	missing := func() [2]int {
		t.Helper()
		l, err := a.Cases.Packing.Missing(ctx, c.ID)
		if err != nil {
			t.Fatal(err)
		}
		o, err := a.Cases.Registers.Register(ctx, c.ID)
		if err != nil {
			t.Fatal(err)
		}
		return [2]int{len(l.Lines), o.Missing}
	}
	r, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, h.ID, pack.Part{})
	if err != nil {
		t.Fatal(err)
	}
	if got := missing(); got != [2]int{} {
		t.Errorf("while it is packed %v are missing", got)
	}
	if err := a.Cases.Packing.Stop(ctx, "oduya", c.ID, r.ID); err != nil {
		t.Fatal(err)
	}
	if got := missing(); got[0] < 3 || got[1] != 3 {
		t.Errorf("once it was stopped %v are missing", got)
	}
}

// Of letters that could be read in several ways, those are taken first in which a list has the
// names that the school book knows.
func TestLettersOfKnownNames(t *testing.T) {
	a := apptest.Open(t)
	apptest.Account(t, a, "s0", "Ana", "Bălan")
	c := apptest.Class(t, a, "Surname,First,Email\nDube,N,s0@kestrelquay.example\n")
	list, err := charmap.Windows1250.NewEncoder().String("Surname;First;Email\nBălan;Ana;s0@kestrelquay.example\n")
	if err != nil {
		t.Fatal(err)
	}
	if d := paste(t, a, c.ID, list); d.Read.Students[0].Family != "Bălan" || len(d.Settings.Encodings) < 2 ||
		d.Settings.Encodings[1].Example != "Bãlan" {
		t.Errorf("%+v, %+v", d.Read.Students, d.Settings.Encodings)
	}
}

// A list's own Title and Year columns are picked, named and kept beside the
// handout's own.
func TestListsOwnTitleAndYear(t *testing.T) {
	a := apptest.Open(t)
	apptest.People(t, a, 1)
	c := apptest.Class(t, a, "Surname,First,Email,Title,Year\nFamily0,Given0,s0@kestrelquay.example,Captain,9\n")
	h := apptest.Handout(t, a, c, "# Log\n")
	name, err := naming.Parse("[Title (list)] [Year (list)] [Family name] – [Title] [Year]", c.Vocabulary())
	if err != nil {
		t.Fatal(err)
	}
	h, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Name: &name, Title: ptr("Log")}, handout.Change{})
	if err != nil {
		t.Fatal(err)
	}
	apptest.Pack(t, a, c, &h)
	entries, err := a.Store.Ledger(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	want := "Captain 9 Family0 – Log " + a.Now().Format("2006")
	for _, e := range entries {
		if e.Key.What.Purpose == packing.Copy && strings.TrimSuffix(e.Name, ".md") != want {
			t.Errorf("the copy is called %q, want %q", e.Name, want)
		}
	}
	rows, err := a.Store.Rows(ctx, c.ID)
	if err != nil || rows[0].Extra["Title"] != "Captain" || rows[0].Extra["Year"] != "9" || rows[0].Level != "" {
		t.Errorf("%+v, %v", rows, err)
	}
}

func TestExportComesBack(t *testing.T) {
	a, c := school(t, 3)
	if _, err := a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID,
		[]classes.Edit{{Row: c.Students[0].ID, Field: "extra:Boat", Value: "=1+1"},
			{Row: c.Students[1].ID, Field: "preferred", Value: "Noki"}}); err != nil {
		t.Fatal(err)
	}
	c = apptest.Load(t, a, c.ID)
	for _, as := range []tables.Writing{tables.XLSX, tables.ODS} {
		var b strings.Builder
		if err := tables.Write(&b, as, c.Name, a.Cases.Rosters.ExportRoster(c)); err != nil {
			t.Fatal(err)
		}
		d := paste(t, a, c.ID, b.String())
		for _, l := range d.Plan.Lines {
			if l.Kind != roster.Unchanged {
				t.Errorf("%s: %s %+v", as, kinds(d), l.Fields)
			}
		}
		if d.Read.Errors() > 0 || len(d.Plan.Lines) != 3 {
			t.Errorf("%s: %+v", as, d.Read.Findings)
		}
	}
}

// A handout's choice decides who gets a copy; hand picks go on top; everybody
// has one reason.
func TestHandoutByChoice(t *testing.T) {
	a, c := school(t, 4)
	var edits []classes.Edit
	for i, level := range []string{"A", "B", "A", "B"} {
		edits = append(edits, classes.Edit{Row: c.Students[i].ID, Field: "level", Value: level})
	}
	if _, err := a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID, edits); err != nil {
		t.Fatal(err)
	}
	c = apptest.Load(t, a, c.ID)
	h := apptest.Handout(t, a, c, "# Log\n")
	_, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID,
		handout.Change{Choice: &choosing.Choice{Conditions: []choosing.Condition{{Column: record.Level, Test: choosing.Is}}}}, handout.Change{})
	wantInvalid(t, err, "choice", "condition-unfinished")
	row := func(i int) string { return c.Students[i].ID }
	h, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{
		Choice: &choosing.Choice{Conditions: []choosing.Condition{{Column: record.Level, Test: choosing.OneOf,
			Values: []string{"A"}}}, Ticked: map[string]bool{row(1): true}},
		Out: map[string]string{row(2): "sits-out"},
	}, handout.Change{})
	if err != nil {
		t.Fatal(err)
	}
	if out := c.Out(h); !reflect.DeepEqual(out, map[string]string{row(2): "sits-out", row(3): "condition"}) {
		t.Errorf("out: %v", out)
	}
	apptest.Pack(t, a, c, &h)
	for i, want := range []bool{true, true, false, false} {
		_, err := a.Store.EntryByKey(ctx, handout.CopyKey(c.ID, h.ID, 1, packing.Whom{Row: c.Students[i].ID}))
		if (err == nil) != want {
			t.Errorf("student %d has a copy: %v", i, err == nil)
		}
	}
	chosen, err := a.Cases.Rooms.Choose(ctx, "oduya", []string{c.ID}, []string{row(3)},
		choosing.Choice{Conditions: []choosing.Condition{{Column: record.Level, Test: choosing.Is, Values: []string{"B"}},
			{Column: record.Team, Test: choosing.Is}}})
	if err != nil || len(chosen) != 4 || !chosen[1].In || chosen[0].In || chosen[3].In || chosen[3].Reason != choosing.SitsOut {
		t.Errorf("chosen: %+v, %v", chosen, err)
	}
	if _, err := a.Cases.Rooms.Choose(ctx, "stranger", []string{c.ID}, nil, choosing.Choice{}); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("a stranger chooses: %v", err)
	}
}

// A practice class is made, everything works in it, and one act clears it away
// with all that was made; nothing else is touched.
func TestPracticeClass(t *testing.T) {
	a, c := school(t, 2)
	apptest.Pack(t, a, c, nil)
	count := func(query string) int {
		t.Helper()
		var n int
		if err := a.Store.DB.Get(&n, query); err != nil {
			t.Fatal(err)
		}
		return n
	}
	counts := func() []int {
		return []int{count(`select count(*) from standin.things`), count(`select count(*)
			from standin.people`), count(`select count(*)
			from schoolbook.accounts`), count(`select count(*) from rows`), count(`select count(*) from ledger`), count(`select count(*)
			from classes`)}
	}
	before := counts()
	made, err := a.Cases.Practice.Make(ctx, "oduya")
	if err != nil {
		t.Fatal(err)
	}
	p := apptest.Load(t, a, made.ID)
	if len(p.Students) != 24 || p.Students[0].Problem != nil || !p.Practice {
		t.Fatalf("%d students, %+v", len(p.Students), p.Students[0].Problem)
	}
	if r := apptest.Pack(t, a, p, nil); r.Stuck != 0 {
		t.Errorf("%d lines are stuck", r.Stuck)
	}
	h := apptest.Handout(t, a, p, "# Log\n")
	apptest.Pack(t, a, p, &h)
	e, err := a.Store.EntryByKey(ctx, room.SatchelKey(p.ID, p.Students[0].ID))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cup.AddFile(ctx, p.Students[0].Account, "k",
		cupboard.NewThing{Parent: e.Thing, Name: "note", MediaType: "text/plain"}, strings.NewReader("x")); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Practice.Make(ctx, "oduya"); err != nil {
		t.Errorf("a second one: %v", err)
	}
	wantInvalid(t, a.Cases.Practice.Clear(ctx, "oduya", c.ID), "class", "not-practice")
	all, err := a.Store.Classes(ctx, "oduya")
	if err != nil {
		t.Fatal(err)
	}
	for _, cl := range all {
		if cl.Practice {
			if err := a.Cases.Practice.Clear(ctx, "oduya", cl.ID); err != nil {
				t.Fatal(err)
			}
		}
	}
	after := counts()
	after[0]-- // the template stays
	if !reflect.DeepEqual(before, after) {
		t.Errorf("things, people, accounts, rows, ledger, classes: %v before, %v after", before, after)
	}
}

// Covers stand for every way a name is written, and no cover tells the order.
func TestCoverNames(t *testing.T) {
	a, c := school(t, 5)
	covers, err := a.Cases.People.CoverNames(ctx, "oduya")
	if err != nil {
		t.Fatal(err)
	}
	by := map[string]string{}
	for i, cv := range covers {
		if i > 0 && len(cv.Find) > len(covers[i-1].Find) {
			t.Error("a shorter name stands before a longer one")
		}
		by[cv.Find] = cv.Cover
	}
	seen := map[string]bool{}
	for _, s := range c.Students {
		cover := by[s.Name()]
		if cover == "" || seen[cover] || by[s.SortName()] != by[s.Family]+", "+by[s.Given] ||
			cover != by[s.Given]+" "+by[s.Family] || !strings.HasSuffix(by[s.Address], "@cover.example") {
			t.Errorf("%s: %v", s.Name(), by)
		}
		seen[cover] = true
	}
	if none, err := a.Cases.People.CoverNames(ctx, "stranger"); err != nil || len(none) != 0 {
		t.Errorf("a stranger is told %v, %v", none, err)
	}
	if all, err := a.Cases.People.CoverNames(ctx, ""); err != nil || !slices.Equal(all, covers) {
		t.Errorf("the office is told %v, %v", all, err)
	}
	if chosen, err := a.Cases.Rooms.Choose(ctx, "", []string{c.ID}, nil, choosing.Choice{}); err != nil || len(chosen) != 5 {
		t.Errorf("the office chooses among %d, %v", len(chosen), err)
	}
	if _, err := a.Cases.Rooms.Choose(ctx, "stranger", []string{c.ID}, nil, choosing.Choice{}); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("a stranger chooses: %v", err)
	}
	many := choosing.Choice{Conditions: slices.Repeat([]choosing.Condition{{Column: record.Level, Test: choosing.Empty}},
		choosing.MaxConditions+1)}
	_, err = a.Cases.Rooms.Choose(ctx, "oduya", []string{c.ID}, nil, many)
	wantInvalid(t, err, "choice", "too-many-conditions")
}

// Over random lists, one after the other: what is accepted whole makes those
// who are there equal to the list in every column it has; columns it lacks and
// periods it doesn't mention stay untouched; who is missing is ended, never
// removed.
func TestAcceptingEverything(t *testing.T) {
	a := apptest.Open(t)
	apptest.People(t, a, 0)
	cl, err := a.Cases.Classes.CreateClass(ctx, "oduya", "7B", "Tide Watch 7B", "", false)
	if err != nil {
		t.Fatal(err)
	}
	r := rand.New(rand.NewPCG(1, 2))
	rows := map[string]bool{}
	for round := range 25 {
		withLevel, withBoat, period := r.IntN(2) == 0, r.IntN(2) == 0, fmt.Sprint(3+r.IntN(2))
		head := []string{"No", "Surname", "First", "Email", "Period"}
		if withLevel {
			head = append(head, "Level")
		}
		if withBoat {
			head = append(head, "Boat")
		}
		list := [][]string{head}
		for i := range 12 {
			if r.IntN(3) == 0 {
				continue
			}
			// Numbers of a period are its own, so that nobody changes period by chance.
			n := i
			if period == "4" {
				n += 100
			}
			row := []string{fmt.Sprint(70000 + n), fmt.Sprint("Family", n), fmt.Sprint("Given", r.IntN(3)),
				fmt.Sprintf("s%d@kestrelquay.example", n), period}
			if withLevel {
				row = append(row, []string{"A", "B", ""}[r.IntN(3)])
			}
			if withBoat {
				row = append(row, []string{"Gull", "Tern", ""}[r.IntN(3)])
			}
			list = append(list, row)
		}
		r.Shuffle(len(list)-1, func(i, j int) { list[i+1], list[j+1] = list[j+1], list[i+1] })
		before := map[string]lists.State{}
		for _, s := range apptest.Load(t, a, cl.ID).Students {
			before[s.Number] = s.State()
		}
		var text strings.Builder
		for _, row := range list {
			text.WriteString(strings.Join(row, ",") + "\n")
		}
		d := paste(t, a, cl.ID, text.String())
		var all []draft.Change
		for _, l := range d.Plan.Lines {
			all = append(all, draft.Change{Tick: &draft.TickChange{Key: l.Key, On: true}})
			for _, f := range l.Fields {
				if f.Accepted == (f.To == "") {
					t.Fatalf("an empty cell is ticked, or another isn't: %+v", f)
				}
				all = append(all, draft.Change{Tick: &draft.TickChange{Key: f.Key, On: true}})
			}
		}
		if _, err := a.Cases.Lists.ChangeDraft(ctx, "oduya", cl.ID, "", all); err != nil {
			t.Fatal(err)
		}
		if _, err := take(a, cl.ID); err != nil {
			t.Fatalf("round %d: %v\n%s", round, err, text.String())
		}
		wanted := map[string][]string{}
		for _, row := range list[1:] {
			wanted[row[0]] = row
		}
		there := map[string]bool{}
		for _, s := range apptest.Load(t, a, cl.ID).Students {
			there[s.Number] = true
			row, listed := wanted[s.Number]
			if !listed {
				if s.Period == period {
					t.Errorf("round %d: %s isn't on the list and still there", round, s.Number)
				} else if !reflect.DeepEqual(s.State(), before[s.Number]) {
					t.Errorf("round %d: %s of a period that isn't mentioned changed", round, s.Number)
				}
				continue
			}
			got := []string{s.Number, s.Family, s.Given, s.Address, s.Period}
			if withLevel {
				got = append(got, s.Level)
			} else if old, was := before[s.Number]; was && s.Level != old.Level {
				t.Errorf("round %d: the list has no levels and %s became %q", round, s.Number, s.Level)
			}
			if withBoat {
				got = append(got, s.Extra["Boat"])
			} else if old, was := before[s.Number]; was && s.Extra["Boat"] != old.Extra["Boat"] {
				t.Errorf("round %d: the list has no boats and %s got %q", round, s.Number, s.Extra["Boat"])
			}
			if !slices.Equal(got, row) {
				t.Errorf("round %d: %v, the list has %v", round, got, row)
			}
		}
		for number := range wanted {
			if !there[number] {
				t.Errorf("round %d: %s is missing", round, number)
			}
		}
		members, err := a.Store.Rows(ctx, cl.ID)
		if err != nil {
			t.Fatal(err)
		}
		now := map[string]bool{}
		for _, m := range members {
			now[m.ID] = true
		}
		for id := range rows {
			if !now[id] {
				t.Fatalf("round %d: a row was removed", round)
			}
		}
		rows = now
		if again := paste(t, a, cl.ID, text.String()); len(again.Plan.Lines) > 0 {
			for _, l := range again.Plan.Lines {
				if l.Kind != roster.Unchanged {
					t.Errorf("round %d: the same list again: %s %+v", round, l.Kind, l.Fields)
				}
			}
		}
	}
}

// Two who change the same row at the same moment both have their way, and a
// list that was looked at before another's change isn't accepted over it.
func TestChangesMeanwhile(t *testing.T) {
	a, c := school(t, 2)
	row := c.Students[0].ID
	fields := []record.Field{"level", "team", "period", "preferred", "extra:Boat", "extra:Bus", "extra:Panel"}
	var wg sync.WaitGroup
	for _, f := range fields {
		wg.Go(func() {
			if _, err := a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID, []classes.Edit{{Row: row, Field: f, Value: string(f)}}); err != nil {
				t.Error(err)
			}
		})
	}
	wg.Wait()
	s, _ := apptest.Load(t, a, c.ID).Student(row)
	if s.Level != "level" || s.Team != "team" || s.Period != "period" || s.Preferred != "preferred" || len(s.Extra) != 3 {
		t.Errorf("somebody's change is lost: %+v", s.State())
	}
	d := paste(t, a, c.ID, "No,Surname,First,Email,Level\n70000,Family0,Given0,s0@kestrelquay.example,A\n70001,Family1,Given1,s1@kestrelquay.example,A\n")
	if kinds(d) != "changed Given0 Family0 true; changed Given1 Family1 true" {
		t.Fatal(kinds(d))
	}
	// A student added by another meanwhile, and one addition that can't be: all or none.
	_, err := a.Cases.Rosters.AddStudents(ctx, "oduya", c.ID,
		[]record.Record{{Family: "Family2", Address: "s2@kestrelquay.example"}, {Family: "Again", Address: "S2@kestrelquay.example"}})
	wantInvalid(t, err, "address", "student-there")
	if n := len(apptest.Load(t, a, c.ID).Students); n != 2 {
		t.Errorf("%d students: half of an addition was kept", n)
	}
}

// Taking somebody out or in by hand has its way against the conditions.
func TestPicksByHand(t *testing.T) {
	a, c := school(t, 3)
	h := apptest.Handout(t, a, c, "# Log\n")
	row := func(i int) string { return c.Students[i].ID }
	edit := func(ch handout.Change) map[string]string {
		t.Helper()
		var err error
		if h, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, ch, handout.Change{}); err != nil {
			t.Fatal(err)
		}
		return c.Out(h)
	}
	out := edit(handout.Change{Choice: &choosing.Choice{Conditions: []choosing.Condition{{Column: record.Family,
		Test: choosing.Is, Values: []string{"Family0"}}}}})
	if len(out) != 2 || out[row(1)] != "condition" {
		t.Fatalf("%v", out)
	}
	if out = edit(handout.Change{Out: map[string]string{row(1): "", row(0): "unticked"}}); !reflect.DeepEqual(out,
		map[string]string{row(0): "unticked", row(2): "condition"}) {
		t.Errorf("one taken in, one out: %v", out)
	}
	if out = edit(handout.Change{Out: map[string]string{row(0): "", row(1): "sits-out"}}); !reflect.DeepEqual(out,
		map[string]string{row(1): "sits-out", row(2): "condition"}) {
		t.Errorf("and the other way round: %v", out)
	}
	_, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID,
		handout.Change{Out: map[string]string{row(0): "tired"}}, handout.Change{})
	wantInvalid(t, err, "out", "no-such-reason")
}

// served are the students something of a list is packed for.
func served(l packing.List) map[string]bool {
	out := map[string]bool{}
	for _, line := range l.Lines {
		if row := line.Wanted.Key.Whom.Row; row != "" {
			out[row] = true
		}
	}
	return out
}
