package usecase_test

import (
	"errors"
	"fmt"
	"reflect"
	"strings"
	"testing"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/usecase/pack"
	"jollysatchel/internal/usecase/seam"
)

// A twin is a school where oduya and the stranger each have a class of the same
// students, packed, with a handout.
type twin struct {
	t            *testing.T
	a            *app.App
	mine, theirs picture.Class   // oduya's, the stranger's
	work         handout.Handout // of the stranger's class
}

func twins(t *testing.T, n int) *twin {
	t.Helper()
	a := apptest.Open(t)
	apptest.People(t, a, n+3)
	apptest.Account(t, a, "again0", "Given0", "Family0")
	w := &twin{t: t, a: a, mine: apptest.Class(t, a, apptest.List(n))}
	h := apptest.Handout(t, a, w.mine, "# Log\n")
	apptest.Pack(t, a, w.mine, nil)
	apptest.Pack(t, a, w.mine, &h)
	c, err := a.Cases.Classes.CreateClass(ctx, "stranger", "8A", "Boat Workshop 8A", "", false)
	w.ok(err)
	w.list(c.ID, apptest.List(n))
	tpl, err := a.Cases.Handouts.AddTemplate(ctx, "stranger", "Knot card.md", "text/markdown", strings.NewReader("# Knots\n"))
	w.ok(err)
	w.work, err = a.Cases.Handouts.NewHandout(ctx, "stranger", c.ID, tpl.ID)
	w.ok(err)
	w.theirs = apptest.Load(t, a, c.ID)
	w.pack("", pack.Part{})
	w.pack(w.work.ID, pack.Part{})
	return w
}

func (w *twin) ok(err error) {
	w.t.Helper()
	if err != nil {
		w.t.Fatal(err)
	}
}

func (w *twin) list(class, list string) {
	w.t.Helper()
	d, err := w.a.Cases.Lists.BringDraft(ctx, "stranger", class, "", strings.NewReader(list))
	w.ok(err)
	_, err = w.a.Cases.Lists.Accept(ctx, "stranger", class, d.LookedAt())
	w.ok(err)
}

func (w *twin) pack(handout string, part pack.Part) {
	w.t.Helper()
	run, err := w.a.Cases.Packing.Pack(ctx, "stranger", w.theirs.ID, handout, part)
	var invalid *change.Invalid
	if errors.As(err, &invalid) && invalid.Code == "nothing-to-pack" {
		return
	}
	w.ok(err)
	apptest.Wait(w.t, w.a, run.ID)
}

// settle packs everything of the stranger's class there is to pack and to change,
// ticked or not.
func (w *twin) settle() {
	w.t.Helper()
	l, err := w.a.Cases.Packing.RoomList(ctx, w.theirs.ID)
	w.ok(err)
	var part pack.Part
	for _, line := range l.Lines {
		if line.Section == packing.ToChange {
			part.Changes = append(part.Changes, line.Step.String())
		}
	}
	w.pack("", part)
	w.pack(w.work.ID, pack.Part{})
	_, err = w.a.Cases.Packing.TopUp(ctx, "stranger", w.theirs.ID, pack.Part{})
	w.ok(err)
	open, err := w.a.Store.OpenRuns(ctx)
	w.ok(err)
	for _, r := range open {
		apptest.Wait(w.t, w.a, r)
	}
}

// world is everything that is oduya's class's: rows, plan, history, ledger, and
// of every thing its name, place, rule and everybody who reaches it; and what
// its students find in it.
func (w *twin) world() map[string]string {
	w.t.Helper()
	out := map[string]string{}
	class := w.mine.ID
	rows, err := w.a.Store.Rows(ctx, class)
	w.ok(err)
	for _, r := range rows {
		out["row "+r.ID] = fmt.Sprintf("%+v", r)
	}
	cl, err := w.a.Store.Class(ctx, class)
	w.ok(err)
	cl.Revision = 0 // news is no change
	out["class"] = fmt.Sprintf("%+v", cl)
	history, err := w.a.Store.History(ctx, class, 99)
	w.ok(err)
	out["history"] = fmt.Sprint(len(history))
	ledger, err := w.a.Store.Ledger(ctx, class)
	w.ok(err)
	var ids []string
	for _, e := range ledger {
		ids = append(ids, e.Thing)
	}
	states, err := w.a.Cup.States(ctx, "oduya", ids)
	w.ok(err)
	for _, e := range ledger {
		people, err := w.a.Cup.People(ctx, "oduya", e.Thing)
		w.ok(err)
		st := states[e.Thing]
		out["thing "+e.Key.String()] = fmt.Sprintf("%+v %s %s %v %v", e, st.Name, st.Parent, st.Rule, people)
	}
	for _, s := range w.mine.Students {
		home, err := w.a.Cases.Registers.Home(ctx, s.Account)
		w.ok(err)
		for _, h := range home {
			if h.Class.ID == class {
				out["home "+s.Account] = fmt.Sprint(h.Satchel, h.Shelf, h.Table, h.Added, h.Pockets, len(h.Copies),
					h.Copies[0].Thing, h.Copies[0].Level)
			}
		}
	}
	return out
}

// Whatever a teacher does in one class, and whatever the school book learns:
// nothing of another class changes, though both have the same students.
func TestOneClassNeverTouchesAnother(t *testing.T) {
	w := twins(t, 4)
	rooms, theirs := w.a.Cases, w.theirs.ID
	row := func(i int) string { return w.theirs.Students[i].ID }
	edit := func(i int, f record.Field, v string) func() error {
		return func() error {
			_, err := rooms.Rosters.EditRoster(ctx, "stranger", theirs, []classes.Edit{{Row: row(i), Field: f, Value: v}})
			return err
		}
	}
	editing := func(ch handout.Change) func() error {
		return func() error {
			_, err := rooms.Handouts.ChangeHandout(ctx, "stranger", theirs, w.work.ID, ch, handout.Change{})
			return err
		}
	}
	list := func(text string) func() error { return func() error { w.list(theirs, text); return nil } }
	batch := ""
	book := func(a accounts.Account) func() error {
		return func() error { return errors.Join(w.a.Book.Add(ctx, a, ""), w.a.Book.Update(ctx, a)) }
	}
	for _, act := range []struct {
		what string
		do   func() error
	}{
		{"a family name", edit(0, record.Family, "Taken")},
		{"given and preferred names", edit(1, record.Preferred, "Taken")},
		{"a number", edit(2, record.Number, "1")},
		{"an address nobody has", edit(0, record.Address, "nobody@kestrelquay.example")},
		{"another student's address", edit(0, record.Address, "s5@kestrelquay.example")},
		{"the same student's other account", edit(0, record.Address, "again0@kestrelquay.example")},
		{"the address of another's student, said to be theirs", func() error {
			if err := edit(1, record.Address, "s6@kestrelquay.example")(); err != nil {
				return err
			}
			_, err := rooms.Rosters.ConfirmAccount(ctx, "stranger", theirs, row(1))
			return err
		}},
		{"an address is freed", edit(3, record.Address, "")},
		{"level, team, period, columns", func() error {
			_, err := rooms.Rosters.EditRoster(ctx, "stranger", theirs,
				[]classes.Edit{{Row: row(2), Field: record.Level, Value: "A"}, {Row: row(2), Field: record.Team, Value: "Gull"},
					{Row: row(2), Field: record.Extra("Boat"), Value: "red"}})
			return err
		}},
		{"a team renamed", func() error {
			o, err := rooms.Classes.Overview(ctx, theirs)
			if err != nil || len(o.Teams) != 1 {
				return fmt.Errorf("%v %v", o.Teams, err)
			}
			_, err = rooms.Rosters.RenameTeam(ctx, "stranger", theirs, o.Teams[0].ID, "Tern")
			return err
		}},
		{"students taken off", func() error {
			_, err := rooms.Rosters.SetLeft(ctx, "stranger", theirs, []string{row(2), row(3)}, true)
			return err
		}},
		{"and back on", func() error {
			_, err := rooms.Rosters.SetLeft(ctx, "stranger", theirs, []string{row(2), row(3)}, false)
			return err
		}},
		{"one added under another name", func() error {
			var err error
			batch, err = rooms.Rosters.AddStudents(ctx, "stranger", theirs,
				[]record.Record{{Given: "Not", Family: "Them", Address: "s4@kestrelquay.example", Number: "7"}})
			return err
		}},
		{"and taken back", func() error {
			err := rooms.Rosters.Undo(ctx, "stranger", theirs, batch)
			var invalid *change.Invalid
			if errors.As(err, &invalid) && invalid.Code == "packed-since" {
				return nil
			}
			return err
		}},
		{"a list with other names and addresses",
			list("No,Surname,First,Email\n70000,Other,Given0,s0@kestrelquay.example\n70002,Family2,Renamed,s2@kestrelquay.example\n70003,Family3,Given3,again0@kestrelquay.example\n")},
		{"a list of nobody there", list("No,Surname,First,Email\n1,Family5,Given5,s5@kestrelquay.example\n")},
		{"a handout's title, level, due time and name",
			editing(handout.Change{Title: ptr("Other"), Level: ptr("read"), Due: ptr("2026-12-01T17:00"),
				Name: &naming.Pattern{{Column: record.Title}, {Text: " "}, {Column: record.Given}}})},
		{"a handout's choice", editing(
			handout.Change{Choice: &choosing.Choice{Conditions: []choosing.Condition{{Column: record.Level, Test: choosing.Is,
				Values: []string{"A"}}}}})},
		{"satchels called otherwise, and pockets", func() error {
			ch := addPockets("Field work")
			ch.To.Satchel = &naming.Pattern{{Column: record.Number}}
			return rooms.Rooms.ChangeRoom(ctx, "stranger", theirs, ch)
		}},
		{"the book learns an address",
			book(accounts.Account{ID: "late", Address: "nobody@kestrelquay.example", Given: "Given0", Family: "Taken", Role: accounts.Student})},
		{"the book gives one another name",
			book(accounts.Account{ID: "s1", Address: "s1@kestrelquay.example", Given: "Given1", Family: "Married", Role: accounts.Student})},
	} {
		before := w.world()
		if err := act.do(); err != nil {
			t.Fatalf("%s: %v", act.what, err)
		}
		w.settle()
		after := w.world()
		for k, v := range before {
			if after[k] != v {
				t.Errorf("%s: %s was\n%s\nand is\n%s", act.what, k, v, after[k])
			}
		}
		if len(after) != len(before) {
			t.Errorf("%s: %d facts became %d", act.what, len(before), len(after))
		}
	}
}

// Every act that names something of another class finds nothing.
func TestIdsOfAnotherClassAreNothing(t *testing.T) {
	w := twins(t, 2)
	rooms, theirs, mine := w.a.Cases, w.theirs.ID, w.mine
	_, err := rooms.Rosters.EditRoster(ctx, "oduya", mine.ID, []classes.Edit{{Row: mine.Students[0].ID, Field: record.Team, Value: "Gull"}})
	w.ok(err)
	o, err := rooms.Classes.Overview(ctx, mine.ID)
	w.ok(err)
	history, err := w.a.Store.History(ctx, mine.ID, 9)
	w.ok(err)
	handouts, err := w.a.Store.Handouts(ctx, mine.ID)
	w.ok(err)
	runs, err := w.a.Store.RecentRuns(ctx, mine.ID)
	w.ok(err)
	row, run, h := mine.Students[0].ID, runs[len(runs)-1].ID, handouts[0].ID
	before := w.world()
	for what, do := range map[string]func() error{
		"a cell": func() error {
			_, err := rooms.Rosters.EditRoster(ctx, "stranger", theirs, []classes.Edit{{Row: row, Field: record.Level, Value: "A"}})
			return err
		},
		"an address": func() error {
			return rooms.Rosters.CorrectAddress(ctx, "stranger", theirs, row, "s1@kestrelquay.example")
		},
		"a confirmation": func() error { _, err := rooms.Rosters.ConfirmAccount(ctx, "stranger", theirs, row); return err },
		"a row to end": func() error {
			_, err := rooms.Rosters.SetLeft(ctx, "stranger", theirs, []string{row}, true)
			return err
		},
		"a team": func() error {
			_, err := rooms.Rosters.RenameTeam(ctx, "stranger", theirs, o.Teams[0].ID, "x")
			return err
		},
		"an act":         func() error { return rooms.Rosters.Undo(ctx, "stranger", theirs, history[0].Batch) },
		"an act as list": func() error { _, err := rooms.Lists.ListBefore(ctx, "stranger", theirs, history[0].Batch); return err },
		"a handout": func() error {
			_, err := rooms.Handouts.ChangeHandout(ctx, "stranger", theirs, h, handout.Change{Title: ptr("x")}, handout.Change{})
			return err
		},
		"one to throw":    func() error { return rooms.Handouts.DeleteHandout(ctx, "stranger", theirs, h) },
		"one to pack":     func() error { _, err := rooms.Packing.Pack(ctx, "stranger", theirs, h, pack.Part{}); return err },
		"a run to pause":  func() error { return rooms.Packing.Pause(ctx, "stranger", theirs, run) },
		"a run to resume": func() error { return rooms.Packing.Resume(ctx, "stranger", theirs, run) },
		"a run to stop":   func() error { return rooms.Packing.Stop(ctx, "stranger", theirs, run) },
		"a stuck line":    func() error { return rooms.Packing.FixLine(ctx, "stranger", theirs, run, 1, "") },
		"a student":       func() error { _, err := rooms.Registers.Panel(ctx, theirs, row); return err },
		"a class": func() error {
			_, err := rooms.Rooms.Choose(ctx, "stranger", []string{mine.ID}, nil, choosing.Choice{})
			return err
		},
	} {
		if err := do(); !errors.Is(err, seam.ErrNotFound) {
			t.Errorf("%s of another class: %v", what, err)
		}
	}
	if after := w.world(); !reflect.DeepEqual(before, after) {
		t.Error("something of the other class changed")
	}
}

// A teacher can't take a student of another class over by typing: the satchel
// stays with the account it was given to until the linking is packed by hand,
// and the account of another name is linked only when somebody says so.
func TestNobodyIsTakenOver(t *testing.T) {
	w := twins(t, 2)
	rooms, theirs := w.a.Cases, w.theirs.ID
	row := w.theirs.Students[0].ID
	put := func(address string) picture.Student {
		t.Helper()
		_, err := rooms.Rosters.EditRoster(ctx, "stranger", theirs, []classes.Edit{{Row: row, Field: record.Address, Value: address}})
		w.ok(err)
		st, _ := apptest.Load(t, w.a, theirs).Student(row)
		return st
	}
	reaches := func(account string) bool {
		home, err := rooms.Registers.Home(ctx, account)
		w.ok(err)
		for _, h := range home {
			if h.Class.ID == theirs && h.Satchel != "" {
				return true
			}
		}
		return false
	}
	if st := put("s2@kestrelquay.example"); st.Problem == nil || st.Problem.Code != "account-other-name" ||
		st.Account != "s0" || st.Problem.Args["theirs"] != "Given2 Family2" {
		t.Errorf("another's address: %+v", st)
	}
	if st := put("lindqvist@kestrelquay.example"); st.Problem == nil || st.Problem.Code != "account-not-student" || st.Account != "s0" {
		t.Errorf("a teacher's address: %+v", st)
	}
	w.settle()
	if !reaches("s0") || reaches("s2") {
		t.Error("access moved by itself")
	}
	st := put("again0@kestrelquay.example")
	if st.Problem != nil || st.Account != "s0" || st.Relink != "again0" {
		t.Errorf("another account of the same name: %+v", st)
	}
	if _, err := rooms.Packing.TopUp(ctx, "stranger", theirs, pack.Part{}); err != nil {
		t.Fatal(err)
	}
	l, err := rooms.Packing.RoomList(ctx, theirs)
	w.ok(err)
	line := l.Lines[0]
	if line.Step.Act != packing.Relink || line.Ticked || line.Change.From != "s0" || line.Change.To != "again0" {
		t.Fatalf("the first line is %+v", line)
	}
	for _, x := range l.Lines[1:] {
		if x.Section == packing.ToPack || x.Section == packing.ToChange {
			t.Errorf("besides linking: %s %+v", x.Section, x.Step)
		}
	}
	w.pack("", pack.Part{Part: packing.Part{Changes: []string{line.Step.String()}}, Seen: l.Digest()})
	if reaches("s0") || !reaches("again0") {
		t.Error("after the linking was packed")
	}
	if l, err = rooms.Packing.RoomList(ctx, theirs); err != nil || l.Counts()[packing.ToPack]+l.Counts()[packing.ToChange] != 0 {
		t.Errorf("left over: %v, %v", l.Counts(), err)
	}
	history, err := w.a.Store.History(ctx, theirs, 1)
	if err != nil || history[0].Kind != "relinked" || history[0].Account != "stranger" {
		t.Errorf("history %+v, %v", history, err)
	}
	wantInvalid(t, rooms.Rosters.Undo(ctx, "stranger", theirs, history[0].Batch), "history", "not-undoable")
}

// What the school book learns later reaches rows by their address; of two rows
// that could be one account, one is linked and the other told so, and neither
// the class nor the rail is lost.
func TestBookLearnsLater(t *testing.T) {
	a, c := school(t, 2)
	batch, err := a.Cases.Rosters.AddStudents(ctx, "oduya", c.ID,
		[]record.Record{{Given: "Given1", Family: "Family1", Address: "late@kestrelquay.example"}})
	if err != nil {
		t.Fatal(err)
	}
	// Their account moves to the other address: two rows of one account.
	if err := a.Book.Update(ctx, accounts.Account{ID: "s1", Address: "late@kestrelquay.example", Given: "Given1",
		Family: "Family1", Role: accounts.Student}); err != nil {
		t.Fatal(err)
	}
	tags, err := a.Cases.Registers.Rail(ctx, "")
	if err != nil || len(tags) != 1 || tags[0].Troubled || tags[0].Students != 3 {
		t.Fatalf("%+v, %v", tags, err)
	}
	var linked, twice int
	for _, s := range apptest.Load(t, a, c.ID).Students {
		if s.Account == "s1" {
			linked++
			if len(s.Remarks) != 1 || s.Remarks[0].Value != "late@kestrelquay.example" {
				t.Errorf("remarks %+v", s.Remarks)
			}
		}
		if s.Problem != nil && s.Problem.Code == "account-twice" {
			twice++
		}
	}
	if linked != 1 || twice != 1 {
		t.Errorf("%d rows linked, %d told", linked, twice)
	}
	apptest.Pack(t, a, c, nil)
	wantInvalid(t, a.Cases.Rosters.Undo(ctx, "oduya", c.ID, batch), "history", "packed-since")
	// An address that is somebody else's by now is refused on the way back, with its reason.
	first, err := a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID,
		[]classes.Edit{{Row: c.Students[0].ID, Field: record.Address, Value: "other@kestrelquay.example"}})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Rosters.AddStudents(ctx, "oduya", c.ID,
		[]record.Record{{Given: "Given0", Family: "Family0", Address: "s0@kestrelquay.example"}}); err != nil {
		t.Fatal(err)
	}
	wantInvalid(t, a.Cases.Rosters.Undo(ctx, "oduya", c.ID, first), "address", "address-twice")
}

// A co-teacher's own template is handed out: every copy is made, and is the
// owner teacher's. A level lowered after packing becomes lines to change, and
// what they do is what the sentence says.
func TestCoTeachersTemplateAndLowerLevel(t *testing.T) {
	a, c := school(t, 3)
	for account, role := range map[string]string{"lindqvist": classes.Teacher, "amaral": classes.Assistant} {
		if err := a.Store.AddStaff(ctx, classes.Member{ClassID: c.ID, Account: account, Role: role}); err != nil {
			t.Fatal(err)
		}
	}
	tpl, err := a.Cases.Handouts.AddTemplate(ctx, "lindqvist", "Barometer diary.md", "text/markdown", strings.NewReader("# Diary\n"))
	if err != nil {
		t.Fatal(err)
	}
	h, err := a.Cases.Handouts.NewHandout(ctx, "lindqvist", c.ID, tpl.ID)
	if err != nil {
		t.Fatal(err)
	}
	run, err := a.Cases.Packing.Pack(ctx, "lindqvist", c.ID, h.ID, pack.Part{})
	if err != nil {
		t.Fatal(err)
	}
	if r := apptest.Wait(t, a, run.ID); r.Stuck != 0 || r.Packed != r.Total {
		t.Fatalf("%+v", r)
	}
	levels := func() map[string]access.Level {
		t.Helper()
		out := map[string]access.Level{}
		reg, err := a.Cases.Registers.Register(ctx, c.ID)
		if err != nil {
			t.Fatal(err)
		}
		people, err := a.Cup.People(ctx, "oduya", reg.Columns[1].Cells[0].Entry.Thing)
		if err != nil {
			t.Fatal(err)
		}
		for who, why := range people {
			out[who] = why.Level
		}
		return out
	}
	want := map[string]access.Level{"oduya": access.Owner, "lindqvist": access.Edit, "amaral": access.Comment, "s0": access.Edit}
	if got := levels(); !reflect.DeepEqual(got, want) {
		t.Errorf("packed: %v", got)
	}
	for _, level := range []string{"read", "edit", "comment"} {
		if _, err := a.Cases.Handouts.ChangeHandout(ctx, "lindqvist", c.ID, h.ID, handout.Change{Level: &level}, handout.Change{}); err != nil {
			t.Fatal(err)
		}
		h, err = a.Store.Handout(ctx, c.ID, h.ID)
		if err != nil {
			t.Fatal(err)
		}
		l, err := a.Cases.Packing.HandoutList(ctx, c.ID, h)
		if err != nil {
			t.Fatal(err)
		}
		part := pack.Part{Seen: l.Digest()}
		for _, line := range l.Lines {
			if line.Section == packing.ToChange && line.Ticked {
				part.Changes = append(part.Changes, line.Step.String())
			}
		}
		if lowered := level != "edit"; lowered && len(part.Changes) != 3 || !lowered && l.Counts()[packing.ToPack] != 3 {
			t.Errorf("%s: %v, %d ticked", level, l.Counts(), len(part.Changes))
		}
		run, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, h.ID, part)
		if err != nil {
			t.Fatal(err)
		}
		if r := apptest.Wait(t, a, run.ID); r.Stuck != 0 {
			t.Errorf("%s: %+v", level, r)
		}
		want["s0"], _ = access.ParseLevel(level)
		if got := levels(); !reflect.DeepEqual(got, want) {
			t.Errorf("%s: %v, want %v", level, got, want)
		}
		if l, err = a.Cases.Packing.HandoutList(ctx, c.ID, h); err != nil || l.Counts()[packing.ToPack]+l.Counts()[packing.ToChange] != 0 {
			t.Errorf("%s: left over %v, %v", level, l.Counts(), err)
		}
	}
}
