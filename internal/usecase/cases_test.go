package usecase_test

import (
	"context"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"sync"
	"testing"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/draft"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/progress"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/register"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/usecase/enrol"
	"jollysatchel/internal/usecase/pack"
	"jollysatchel/internal/usecase/seam"
)

var ctx = context.Background()

func school(t *testing.T, n int) (*app.App, picture.Class) {
	t.Helper()
	a := apptest.Open(t)
	apptest.People(t, a, n+1)
	return a, apptest.Class(t, a, apptest.List(n))
}

func paste(t *testing.T, a *app.App, class, list string) draft.View {
	t.Helper()
	d, err := a.Cases.Lists.BringDraft(ctx, "oduya", class, "", strings.NewReader(list))
	if err != nil {
		t.Fatal(err)
	}
	return d
}

// take accepts the list that waits in a class, as it is now.
func take(a *app.App, class string) (enrol.Accepted, error) {
	d, err := a.Cases.Lists.Draft(ctx, "oduya", class)
	if err != nil {
		return enrol.Accepted{}, err
	}
	return a.Cases.Lists.Accept(ctx, "oduya", class, d.LookedAt())
}

func wantInvalid(t *testing.T, err error, field, code string) {
	t.Helper()
	var invalid *change.Invalid
	if !errors.As(err, &invalid) || invalid.Field != field || invalid.Code != code {
		t.Errorf("%v, want %s at %s", err, code, field)
	}
}

// docs are new documents of some templates.
func docs(templates ...string) *[]handout.GivenDocument {
	out := []handout.GivenDocument{}
	for _, id := range templates {
		out = append(out, handout.GivenDocument{Template: id})
	}
	return &out
}

func ptr[T any](v T) *T { return &v }

func TestCreateClass(t *testing.T) {
	a := apptest.Open(t)
	for _, c := range []struct{ code, name, period, wantCode, field, problem string }{
		{"", "Tide Watch 7B", "3", "7B", "", ""},
		{"", "Weather Station Club", "", "WSC", "", ""},
		{"", "Harbour", "", "Harb", "", ""},
		{"X1", "  Boat   Workshop ", "", "X1", "", ""},
		{"", "   ", "", "", "name", "missing"},
		{"", strings.Repeat("x", 121), "", "", "name", "too-long"},
		{"a code too long", "x", "", "", "code", "too-long"},
		{"", "x", strings.Repeat("3", 21), "", "period", "too-long"},
	} {
		got, err := a.Cases.Classes.CreateClass(ctx, "oduya", c.code, c.name, c.period, false)
		if c.problem != "" {
			wantInvalid(t, err, c.field, c.problem)
			continue
		}
		if err != nil || got.Code != c.wantCode || got.Name != strings.Join(strings.Fields(c.name), " ") {
			t.Errorf("%q: %+v, %v", c.name, got, err)
		}
	}
	all, err := a.Store.Classes(ctx, "oduya")
	if err != nil || len(all) != 4 {
		t.Errorf("%d classes, %v: a refused one was made", len(all), err)
	}
	if none, _ := a.Store.Classes(ctx, "lindqvist"); len(none) != 0 {
		t.Errorf("another teacher has %d classes", len(none))
	}
}

// A newer list adds and brings up to date; nobody is removed, nobody doubled.
func TestAccept(t *testing.T) {
	a, c := school(t, 3)
	rows := func() map[string]string {
		m := map[string]string{}
		for _, s := range apptest.Load(t, a, c.ID).Students {
			m[s.ID] = s.Name() + " " + s.Account + " " + s.Level
		}
		return m
	}
	before := rows()
	paste(t, a, c.ID, apptest.List(3))
	if n, err := take(a, c.ID); err != nil || n.Students != 3 || !reflect.DeepEqual(rows(), before) {
		t.Errorf("the same list again: %+v, %v: %v became %v", n, err, before, rows())
	}
	paste(t, a, c.ID, "No,Surname,First,Email,Level\n70000,Family0,Newname,s0@kestrelquay.example,B\n70003,Family3,Given3,s3@kestrelquay.example,A\n")
	if _, err := take(a, c.ID); err != nil {
		t.Fatal(err)
	}
	after := rows()
	if len(after) != 4 {
		t.Errorf("after a list of two: %v", after)
	}
	for id := range before {
		if after[id] == "" {
			t.Errorf("%s is gone", before[id])
		}
	}
	if got := fmt.Sprint(after); !strings.Contains(got, "Newname Family0 s0 B") || !strings.Contains(got, "Given3 Family3 s3 A") {
		t.Error(got)
	}
	if _, err := take(a, c.ID); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("accepted twice: %v", err)
	}
}

func TestAcceptRefused(t *testing.T) {
	a, c := school(t, 1)
	var many strings.Builder
	many.WriteString("Surname,First,Email\n")
	for i := range roster.MaxStudents + 1 {
		fmt.Fprintf(&many, "F%d,G%d,x%d@kestrelquay.example\n", i, i, i)
	}
	for what, list := range map[string]string{"nobody": "Surname,First,Email\n,,\n",
		"no-address-column": "Surname,First\nDube,N\n", "too-many-students": many.String()} {
		paste(t, a, c.ID, list)
		_, err := take(a, c.ID)
		wantInvalid(t, err, "list", what)
		if n := len(apptest.Load(t, a, c.ID).Students); n != 1 {
			t.Errorf("%s: the class has %d students", what, n)
		}
		if _, err := a.Cases.Lists.Draft(ctx, "oduya", c.ID); err != nil {
			t.Errorf("%s: the list was lost: %v", what, err)
		}
	}
}

func TestChangeDraft(t *testing.T) {
	a, c := school(t, 2)
	paste(t, a, c.ID, "What,Who,Mail\nx,Nokuthula Dube,wrong\ny,Kelechi Eze,s1@kestrelquay.example\n")
	change := func(ch draft.Change) draft.View {
		t.Helper()
		d, err := a.Cases.Lists.ChangeDraft(ctx, "oduya", c.ID, "", []draft.Change{ch})
		if err != nil {
			t.Fatal(err)
		}
		return d
	}
	if d := change(draft.Change{Cell: &draft.CellChange{Row: 2, Field: 2, Value: "s0@kestrelquay.example"}}); d.Read.Counts.Students != 2 {
		t.Errorf("after the correction: %+v", d.Read.Counts)
	}
	if d := change(draft.Change{Role: &draft.RoleChange{Field: 0, Role: roster.Team}}); d.Read.Students[0].Team != "x" {
		t.Errorf("after saying what column 0 is: %+v", d.Read.Students[0])
	}
	if d := change(draft.Change{LeftOut: &draft.RowChange{Row: 3, Out: true}}); d.Read.Counts.Students != 1 || d.Read.Counts.LeftOut != 1 {
		t.Errorf("after leaving one out: %+v", d.Read.Counts)
	}
	if d := change(draft.Change{LeftOut: &draft.RowChange{Row: 3}}); d.Read.Counts.Students != 2 {
		t.Errorf("after taking it in again: %+v", d.Read.Counts)
	}
	if d := change(draft.Change{Heading: ptr(0)}); d.Read.HeadingRow != 0 || d.Read.Counts.Rows != 3 {
		t.Errorf("without a heading row: %+v", d.Read.Counts)
	}
	for _, bad := range []draft.Change{
		{Cell: &draft.CellChange{Row: 99, Field: 0}}, {Cell: &draft.CellChange{Row: 2, Field: -1}},
		{Cell: &draft.CellChange{Row: 2, Field: 5000}},
	} {
		_, err := a.Cases.Lists.ChangeDraft(ctx, "oduya", c.ID, "", []draft.Change{bad})
		wantInvalid(t, err, "cell", "no-such-cell")
	}
	_, err := a.Cases.Lists.ChangeDraft(ctx, "oduya", c.ID, "", []draft.Change{{Role: &draft.RoleChange{Field: 0, Role: "captain"}}})
	wantInvalid(t, err, "role", "no-such-role")
}

func TestCorrectAddress(t *testing.T) {
	a, c := school(t, 2)
	paste(t, a, c.ID, "No,Surname,First,Email\n70009,Odd,One,odd@kestrelquay.example\n")
	if _, err := take(a, c.ID); err != nil {
		t.Fatal(err)
	}
	c = apptest.Load(t, a, c.ID)
	var odd picture.Student
	for _, s := range c.Students {
		if s.Family == "Odd" {
			odd = s
		}
	}
	if odd.Waits == nil || odd.Waits.Code != "account-unknown" || odd.Problem != nil {
		t.Fatalf("waits for %v, problem %v", odd.Waits, odd.Problem)
	}
	for address, code := range map[string]string{"": "address-malformed", "x": "address-malformed",
		"nobody@kestrelquay.example": "account-unknown", "S1@kestrelquay.example": "address-twice"} {
		wantInvalid(t, a.Cases.Rosters.CorrectAddress(ctx, "oduya", c.ID, odd.ID, address), "address", code)
	}
	if err := a.Cases.Rosters.CorrectAddress(ctx, "oduya", c.ID, "0198a0c0-0000-7000-8000-000000000000",
		"s2@kestrelquay.example"); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("a row that isn't there: %v", err)
	}
	// The account may be one that another class has too: nothing of that class changes.
	known := apptest.Class(t, a, "No,Surname,First,Email\n70002,Family2,Given2,s2@kestrelquay.example\n").Students[0]
	wantInvalid(t, a.Cases.Rosters.CorrectAddress(ctx, "oduya", c.ID, odd.ID, "s2@kestrelquay.example"), "address", "account-other-name")
	if _, err := a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID,
		[]classes.Edit{{Row: odd.ID, Field: record.Family, Value: "Family2"}}); err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.Rosters.CorrectAddress(ctx, "oduya", c.ID, odd.ID, " S2@kestrelquay.example "); err != nil {
		t.Fatal(err)
	}
	now, ok := apptest.Load(t, a, c.ID).Student(odd.ID)
	if !ok || now.Account != "s2" || now.ID == known.ID || now.Problem != nil {
		t.Errorf("the row is %+v", now)
	}
}

// An account the school book comes to know later is met without being asked.
func TestMeetsAccountsLater(t *testing.T) {
	a := apptest.Open(t)
	c := apptest.Class(t, a, apptest.List(2))
	if c.Students[0].Waits == nil {
		t.Fatal("an empty school book knows the student")
	}
	apptest.People(t, a, 2)
	if again := apptest.Load(t, a, c.ID); again.Students[0].Waits != nil || again.Students[0].Account != "s0" {
		t.Errorf("%+v", again.Students[0])
	}
}

func TestChangeHandout(t *testing.T) {
	a, c := school(t, 2)
	h := apptest.Handout(t, a, c, "# Log\n")
	if h.Title != "Rock-pool field log" || h.Settings.Level != "edit" {
		t.Errorf("a new handout: %+v", h)
	}
	row := c.Students[0].ID
	for _, ok := range []handout.Change{
		{Title: ptr("  Low   water ")}, {Level: ptr("comment")}, {Due: ptr("2026-11-27T17:00")},
		{Message: ptr("Take boots.")}, {Out: map[string]string{row: "sits-out"}},
		{Name: &naming.Pattern{{Column: record.Title}, {Text: " "}, {Column: record.Family}}},
	} {
		var err error
		if h, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, ok, handout.Change{}); err != nil {
			t.Fatal(err)
		}
	}
	kept, err := a.Store.Handout(ctx, c.ID, h.ID)
	if err != nil || kept.Title != "Low water" || kept.Settings.Level != "comment" ||
		kept.Due.Format("2006-01-02 15:04") != "2026-11-27 17:00" || kept.Settings.Message != "Take boots." ||
		kept.Settings.Out[row] != "sits-out" || kept.Settings.Name.String() != "[Title] [Family name]" {
		t.Errorf("kept %+v, %v", kept, err)
	}
	for _, bad := range []struct {
		ch          handout.Change
		field, code string
	}{
		{handout.Change{Title: ptr(strings.Repeat("x", 201))}, "title", "too-long"},
		{handout.Change{Level: ptr("owner")}, "level", "no-such-level"}, {handout.Change{Level: ptr("nothing")}, "level", "no-such-level"},
		{handout.Change{Due: ptr("Friday")}, "due", "not-a-time"}, {handout.Change{Pocket: ptr("p9")}, "pocket", "no-such-pocket"},
		{handout.Change{Out: map[string]string{"somebody": "sits-out"}}, "out", "no-such-student"},
		{handout.Change{Out: map[string]string{row: "ill"}}, "out", "no-such-reason"},
		{handout.Change{Name: &naming.Pattern{}}, "name", "missing"},
		{handout.Change{Name: &naming.Pattern{{Column: "extra:Shoe size"}}}, "name", "column-unknown"},
		{handout.Change{Documents: docs("0198a0c0-0000-7000-8000-000000000000")}, "documents", "no-such-template"},
		{handout.Change{Documents: docs(slices.Repeat([]string{"0198a0c0-0000-7000-8000-000000000000"}, 21)...)},
			"documents", "too-many-documents"},
		{handout.Change{Way: ptr(handout.WayName("by-chance"))}, "way", "no-such-way"},
		{handout.Change{By: ptr(record.Extra("Shoe size"))}, "by", "column-unknown"},
		{handout.Change{Message: ptr(strings.Repeat("x", 2001))}, "message", "too-long"},
	} {
		_, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, kept.ID, bad.ch, handout.Change{})
		wantInvalid(t, err, bad.field, bad.code)
	}
	if again, _ := a.Store.Handout(ctx, c.ID, h.ID); !reflect.DeepEqual(again, kept) {
		t.Error("a refused change was kept")
	}
	// Somebody else's template is as if it weren't there.
	theirs, err := a.Cases.Handouts.AddTemplate(ctx, "stranger", "secret.md", "text/markdown", strings.NewReader("x"))
	if err != nil {
		t.Fatal(err)
	}
	_, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, kept.ID, handout.Change{Documents: docs(theirs.ID)}, handout.Change{})
	wantInvalid(t, err, "documents", "no-such-template")
	apptest.Pack(t, a, c, &kept)
	second := apptest.Handout(t, a, c, "other")
	packed, _ := a.Store.Handout(ctx, c.ID, h.ID)
	_, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, packed.ID,
		handout.Change{Documents: &second.Settings.Documents}, handout.Change{})
	wantInvalid(t, err, "documents", "packed-already")
	if err := a.Cases.Handouts.DeleteHandout(ctx, "oduya", c.ID, h.ID); err == nil {
		t.Error("a packed handout was thrown away")
	}
}

func TestPackNeedsItsParts(t *testing.T) {
	a, c := school(t, 1)
	h, err := a.Cases.Handouts.NewHandout(ctx, "oduya", c.ID, "")
	if err != nil {
		t.Fatal(err)
	}
	_, err = a.Cases.Packing.Pack(ctx, "oduya", c.ID, h.ID, pack.Part{})
	wantInvalid(t, err, "title", "missing")
	if h, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Title: ptr("Log")}, handout.Change{}); err != nil {
		t.Fatal(err)
	}
	_, err = a.Cases.Packing.Pack(ctx, "oduya", c.ID, h.ID, pack.Part{})
	wantInvalid(t, err, "documents", "missing")
	apptest.Pack(t, a, c, nil)
	_, err = a.Cases.Packing.Pack(ctx, "oduya", c.ID, "", pack.Part{})
	wantInvalid(t, err, "list", "nothing-to-pack")
}

func addPockets(names ...string) (ch room.Change) {
	ch.Pockets.Add = names
	return ch
}

func dropPocket(id string) (ch room.Change) {
	ch.Pockets.Remove = []string{id}
	return ch
}

func nameSatchels(p naming.Pattern, was *naming.Pattern) (ch room.Change) {
	ch.To.Satchel, ch.Was.Satchel = &p, was
	return ch
}

func TestPockets(t *testing.T) {
	a, c := school(t, 2)
	change := func(ch room.Change) error { return a.Cases.Rooms.ChangeRoom(ctx, "oduya", c.ID, ch) }
	if err := change(addPockets("Field work", " Photographs ")); err != nil {
		t.Fatal(err)
	}
	c = apptest.Load(t, a, c.ID)
	first := c.Plan.Pockets
	if len(first) != 2 || first[1].Name != "Photographs" {
		t.Fatalf("pockets %+v", first)
	}
	apptest.Pack(t, a, c, nil)
	// One more appears for all with the next packing; those there keep their ids.
	if err := change(addPockets("Reading")); err != nil {
		t.Fatal(err)
	}
	c = apptest.Load(t, a, c.ID)
	if p := c.Plan.Pockets; len(p) != 3 || p[0] != first[0] || p[1] != first[1] {
		t.Errorf("pockets %+v, before %+v", p, first)
	}
	l, err := a.Cases.Packing.RoomList(ctx, c.ID)
	if err != nil || l.Counts()[packing.ToPack] != 2 {
		t.Errorf("%v to pack, %v", l.Counts(), err)
	}
	if err := change(dropPocket(first[0].ID)); err != nil {
		t.Fatal(err)
	}
	if p := apptest.Load(t, a, c.ID).Plan.Pockets; len(p) != 2 || p[0] != first[1] {
		t.Errorf("one taken away: %+v", p)
	}
	many := make([]string, 60)
	for i := range many {
		many[i] = fmt.Sprint("Pocket ", i)
	}
	for _, bad := range []struct {
		pockets []string
		code    string
	}{{[]string{"A", "a"}, "pocket-twice"}, {[]string{"  "}, "missing"}, {many, "too-many"}} {
		wantInvalid(t, change(addPockets(bad.pockets...)), "pockets", bad.code)
	}
	wantInvalid(t, change(nameSatchels(naming.Pattern{{Column: "extra:Shoe size"}}, nil)), "satchel", "column-unknown")
}

// The Register through a copy's life: packed, opened, written in, a file added.
func TestRegister(t *testing.T) {
	a, c := school(t, 3)
	h := apptest.Handout(t, a, c, "# Log\n\nWhere did you stand?\n")
	out := c.Students[2].ID
	h, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID,
		handout.Change{Out: map[string]string{out: "sits-out"}}, handout.Change{})
	if err != nil {
		t.Fatal(err)
	}
	apptest.Pack(t, a, c, nil)
	apptest.Pack(t, a, c, &h)
	state := func() [2][3]progress.State {
		t.Helper()
		apptest.Look(t, a)
		r, err := a.Cases.Registers.Register(ctx, c.ID)
		if err != nil || len(r.Columns) != 2 {
			t.Fatal(err)
		}
		var s [2][3]progress.State
		for k, col := range r.Columns {
			for i, cell := range col.Cells {
				s[k][i] = cell.State
			}
		}
		return s
	}
	S, O, W, X := progress.Shared, progress.Opened, progress.Working, progress.Out
	if got := state(); got != [2][3]progress.State{{S, S, S}, {S, S, X}} {
		t.Errorf("packed: %v", got)
	}
	r, _ := a.Cases.Registers.Register(ctx, c.ID)
	copy, satchel := r.Columns[1].Cells[0].Entry.Thing, r.Columns[0].Cells[0].Entry.Thing
	if _, err := a.Cases.Things.See(ctx, "oduya", copy); err != nil { // the teacher's look isn't the student's
		t.Fatal(err)
	}
	if got := state()[1][0]; got != S {
		t.Errorf("the teacher looked: %v", got)
	}
	if _, err := a.Cases.Things.See(ctx, "s0", copy); err != nil {
		t.Fatal(err)
	}
	if got := state()[1][0]; got != O {
		t.Errorf("opened: %v", got)
	}
	if _, err := a.Cases.Things.Write(ctx, "s0", "same-text", copy, 1, strings.NewReader("Log\n===\n\nWhere did you stand?")); err != nil {
		t.Fatal(err)
	}
	if got := state()[1][0]; got != O {
		t.Errorf("saved without a new word: %v", got)
	}
	if _, err := a.Cases.Things.Write(ctx, "s0", "more-text", copy, 2,
		strings.NewReader("# Log\n\nWhere did you stand?\n\nBy the **old** slipway.")); err != nil {
		t.Fatal(err)
	}
	if got := state()[1]; got != [3]progress.State{W, S, X} {
		t.Errorf("written: %v", got)
	}
	if _, err := a.Cases.Things.AddFile(ctx, "s0", "k1", satchel, "pool.png", "image/png", strings.NewReader("x")); err != nil {
		t.Fatal(err)
	}
	apptest.Look(t, a)
	r, _ = a.Cases.Registers.Register(ctx, c.ID)
	if cell := r.Columns[1].Cells[0]; cell.Words != 4 || cell.Fill != 50 || cell.Changed.IsZero() {
		t.Errorf("copy: %+v", cell)
	}
	if r.Columns[0].Cells[0].Inside != 1 || r.Week[0][6] != 4 || r.Changed[0].IsZero() || !r.Changed[1].IsZero() {
		t.Errorf("satchel %+v, week %v, changed %v", r.Columns[0].Cells[0], r.Week, r.Changed)
	}
	// What was written past this program shows as well.
	if _, err := a.Cup.Write(ctx, "s1", "past", r.Columns[1].Cells[1].Entry.Thing, 1, strings.NewReader("# Log\n\nAt the pier.")); err != nil {
		t.Fatal(err)
	}
	if got := state()[1][1]; got != W {
		t.Errorf("written by another way: %v", got)
	}
	d, err := a.Cases.Registers.Panel(ctx, c.ID, c.Students[0].ID)
	if err != nil || len(d.Things) != 2 {
		t.Fatalf("panel %+v, %v", d, err)
	}
	satchelThing, copyThing := d.Things[0], d.Things[1]
	if satchelThing.Cell.Inside != 1 || copyThing.Days[6] != 4 || copyThing.OpenedAt.IsZero() ||
		fmt.Sprint(copyThing.Where) != "[Cloakroom Family0, Given0]" {
		t.Errorf("panel %+v", d.Things)
	}
	people, err := a.Cup.People(ctx, "oduya", copy)
	if err != nil || len(copyThing.Reach) != len(people) || copyThing.Reach[0].As != register.AsStudent ||
		copyThing.Reach[0].Level != people["s0"].Level || copyThing.Reach[1].Level != people["oduya"].Level {
		t.Errorf("the panel says %+v, the cupboard %+v, %v", copyThing.Reach, people, err)
	}
}

// Each student's home holds exactly the own things.
func TestStudentHome(t *testing.T) {
	a, c := school(t, 3)
	h := apptest.Handout(t, a, c, "# Log\n")
	apptest.Pack(t, a, c, &h)
	seen := map[string]string{}
	for _, who := range []string{"s0", "s1", "s2"} {
		home, err := a.Cases.Registers.Home(ctx, who)
		if err != nil || len(home) != 1 || home[0].Satchel == "" || home[0].Shelf == "" || home[0].Table == "" || len(home[0].Copies) != 1 {
			t.Fatalf("%s: %+v, %v", who, home, err)
		}
		for _, id := range []string{home[0].Satchel, home[0].Copies[0].Thing} {
			if seen[id] != "" {
				t.Errorf("%s and %s have the same thing", who, seen[id])
			}
			seen[id] = who
		}
	}
	if home, err := a.Cases.Registers.Home(ctx, "s3"); err != nil || len(home) != 0 {
		t.Errorf("a student on no list: %+v, %v", home, err)
	}
	fresh := apptest.Class(t, a, apptest.List(1)) // not packed yet
	home, err := a.Cases.Registers.Home(ctx, "s0")
	if err != nil || len(home) != 2 || home[1].Class.ID != fresh.ID || home[1].Satchel != "" {
		t.Errorf("a class that isn't packed: %+v, %v", home, err)
	}
}

// Files of one name that are added in one moment get names that differ.
func TestAddAtOnce(t *testing.T) {
	a, c := school(t, 1)
	apptest.Pack(t, a, c, nil)
	home, err := a.Cases.Registers.Home(ctx, "s0")
	if err != nil {
		t.Fatal(err)
	}
	long := strings.Repeat("潮", 85) + ".png"
	var all sync.WaitGroup
	for i := range 8 {
		for _, name := range []string{"pool.png", long} {
			all.Go(func() {
				if _, err := a.Cases.Things.AddFile(ctx, "s0", fmt.Sprint(name, i), home[0].Satchel, name, "image/png",
					strings.NewReader(fmt.Sprint(i))); err != nil {
					t.Error(err)
				}
			})
		}
	}
	all.Wait()
	inside, err := a.Cup.List(ctx, "s0", home[0].Satchel)
	if err != nil {
		t.Fatal(err)
	}
	names := map[string]bool{}
	for _, f := range inside {
		names[naming.Fold(f.Name)] = true
		if len(f.Name) > naming.MaxBytes {
			t.Errorf("%q is too long", f.Name)
		}
	}
	if len(inside) != 16 || len(names) != 16 {
		t.Errorf("%d things with %d names", len(inside), len(names))
	}
}

// A satchel holds so much and no more, versions included; what is refused isn't
// kept, and what the class writes on elsewhere isn't counted.
func TestQuota(t *testing.T) {
	one, c := school(t, 2)
	apptest.Pack(t, one, c, nil)
	h := apptest.Handout(t, one, c, "# Log\n")
	apptest.Pack(t, one, c, &h)
	set := one.Settings
	set.School.Quota = 1_000_000
	a, err := app.Open(ctx, set)
	if err != nil {
		t.Fatal(err)
	}
	defer a.Close()
	home, err := a.Cases.Registers.Home(ctx, "s0")
	if err != nil {
		t.Fatal(err)
	}
	satchel, thing := home[0].Satchel, home[0].Copies[0].Thing
	add := func(key string, size int) error {
		_, err := a.Cases.Things.AddFile(ctx, "s0", key, satchel, key+".bin", "application/octet-stream",
			strings.NewReader(strings.Repeat(key[:1], size)))
		return err
	}
	full := func(what string, err error) {
		t.Helper()
		var invalid *change.Invalid
		if !errors.As(err, &invalid) || invalid.Code != "full" || invalid.Args["most"] != "1" {
			t.Errorf("%s: %v", what, err)
		}
	}
	if err := add("a", 900_000); err != nil {
		t.Fatal(err)
	}
	full("a file too much", add("b", 200_000))
	if _, err := a.Cases.Things.Write(ctx, "s0", "a key of a write", thing, 1, strings.NewReader(strings.Repeat("w", 60_000))); err != nil {
		t.Fatal(err)
	}
	_, err = a.Cases.Things.Write(ctx, "s0", "a key of another", thing, 2, strings.NewReader(strings.Repeat("v", 60_000)))
	full("a version too much", err)
	// What was kept is answered again, whatever there is room for by now.
	if err := add("a", 900_000); err != nil {
		t.Errorf("the same file once more: %v", err)
	}
	if _, err := a.Cases.Things.Write(ctx, "s0", "a key of a write", thing, 1, strings.NewReader(strings.Repeat("w", 60_000))); err != nil {
		t.Errorf("the same text once more: %v", err)
	}
	v, err := a.Cases.Things.View(ctx, "s0", satchel)
	if err != nil || v.Filled == nil || v.Filled.Most != 1_000_000 || v.Filled.Used < 960_000 ||
		v.Filled.Used > 970_000 || len(v.Inside) != 2 {
		t.Errorf("filled %+v with %d things, %v", v.Filled, len(v.Inside), err)
	}
	if home, err = a.Cases.Registers.Home(ctx, "s1"); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Things.AddFile(ctx, "s1", "k", home[0].Satchel, "k", "text/plain",
		strings.NewReader(strings.Repeat("k", 600_000))); err != nil {
		t.Errorf("another's satchel: %v", err)
	}
	// Of several that come at once no more are kept than there is room for.
	var all sync.WaitGroup
	for i := range 6 {
		all.Go(func() {
			_, err := a.Cases.Things.AddFile(ctx, "s1", fmt.Sprint("at once ", i), home[0].Satchel, "k", "text/plain",
				strings.NewReader(strings.Repeat(fmt.Sprint(i), 300_000)))
			if err != nil {
				full("one of several", err)
			}
		})
	}
	all.Wait()
	if v, err = a.Cases.Things.View(ctx, "s1", home[0].Satchel); err != nil || v.Filled.Used > v.Filled.Most || v.Filled.Used < 600_000 {
		t.Errorf("after several at once %+v, %v", v.Filled, err)
	}
	if _, err := a.Cases.Things.AddFile(ctx, "s1", "once it is quiet", home[0].Satchel, "k", "text/plain",
		strings.NewReader("k")); err != nil {
		t.Errorf("once it is quiet: %v", err)
	}
}

func TestAddFile(t *testing.T) {
	a, c := school(t, 2)
	apptest.Pack(t, a, c, nil)
	home, err := a.Cases.Registers.Home(ctx, "s0")
	if err != nil {
		t.Fatal(err)
	}
	satchel := home[0].Satchel
	add := func(key, name string) string {
		t.Helper()
		f, err := a.Cases.Things.AddFile(ctx, "s0", key, satchel, name, "text/plain", strings.NewReader("x"))
		if err != nil {
			t.Fatal(err)
		}
		return f.Name
	}
	for _, c := range [][3]string{
		{"k1", "pool.png", "pool.png"}, {"k2", "POOL.png", "POOL (2).png"}, {"k3", "pool.png", "pool (3).png"},
		{"k4", `C:\home\..\a:b?.txt`, "a-b.txt"}, {"k5", "../../etc/passwd", "passwd"}, {"k6", "...", "Unnamed"},
	} {
		if got := add(c[0], c[1]); got != c[2] {
			t.Errorf("%q is kept as %q, want %q", c[1], got, c[2])
		}
	}
	add("k1", "pool.png") // sent again after a lost answer
	if inside, _ := a.Cup.List(ctx, "s0", satchel); len(inside) != 6 {
		t.Errorf("%d things after six files", len(inside))
	}
	_, err = a.Cases.Things.AddFile(ctx, "s1", "k", satchel, "x", "text/plain", strings.NewReader("x"))
	if !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("a classmate adding: %v", err)
	}
	_, err = a.Cases.Things.AddFile(ctx, "s0", "k", home[0].Shelf, "x", "text/plain", strings.NewReader("x"))
	if !errors.Is(err, cupboard.ErrNoRight) {
		t.Errorf("adding to the shelf: %v", err)
	}
}

func TestAttention(t *testing.T) {
	a, c := school(t, 2)
	codes := func() string {
		t.Helper()
		tags, err := a.Cases.Registers.Rail(ctx, "oduya")
		if err != nil || len(tags) != 1 {
			t.Fatal(tags, err)
		}
		out := fmt.Sprint(tags[0].Ready)
		for _, n := range tags[0].Notes {
			out += fmt.Sprintf(" %s=%d", n.Reason.Code, n.Count)
		}
		return out
	}
	if got := codes(); got != "false" {
		t.Errorf("before packing: %s", got)
	}
	apptest.Pack(t, a, c, nil)
	if got := codes(); got != "true" {
		t.Errorf("packed: %s", got)
	}
	paste(t, a, c.ID, "No,Surname,First,Email\n1,Family2,One,s2@kestrelquay.example\n2,Odd,One,odd@kestrelquay.example\n")
	if _, err := take(a, c.ID); err != nil {
		t.Fatal(err)
	}
	if got := codes(); got != "true students-missing=2" {
		t.Errorf("with a newcomer and an unknown address: %s", got)
	}
}
