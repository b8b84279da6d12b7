package usecase_test

import (
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/pens"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/usecase/things"
)

// placed is a class's thing of a purpose, of one of its rows where it has one.
func placed(t *testing.T, a *app.App, class string, what packing.Purpose, row string) string {
	t.Helper()
	e, err := a.Store.EntryByKey(ctx, packing.Key{Class: class, What: packing.What{Purpose: what}, Whom: packing.Whom{Row: row}})
	if err != nil {
		t.Fatal(err)
	}
	return e.Thing
}

// adds has somebody put a file into a folder.
func adds(a *app.App, account, folder string) error {
	_, err := a.Cases.Things.AddFile(ctx, account, store.NewID(), folder, "Notes.md", "text/markdown", strings.NewReader("# Notes\n"))
	return err
}

// A satchel that is closed is closed with all that is in it, at once by the program and then by the cupboard
// itself, to everybody but staff; a table for all. Nothing is added, moved, renamed or binned there, what
// comes later is kept beside it, and it opens as it was. The door check agrees all along.
func TestPlacesClose(t *testing.T) {
	a, c, _, _, copyOf := timed(t, 2, handout.Change{})
	satchel := placed(t, a, c.ID, packing.Satchel, c.Students[0].ID)
	table := placed(t, a, c.ID, packing.Table, "")
	mine := copyOf(0)
	own, err := a.Cases.Things.AddFile(ctx, "s0", store.NewID(), satchel, "Mine.md", "text/markdown", strings.NewReader("# Mine\n"))
	if err != nil {
		t.Fatal(err)
	}
	pens := func(place string, down bool, rows ...string) {
		t.Helper()
		for range 2 { // said twice it is the same
			if err := a.Cases.Rooms.SayPens(ctx, "oduya", c.ID, place, rows, down); err != nil {
				t.Fatal(err)
			}
		}
	}
	right := func(what string) {
		t.Helper()
		marked(t, a, c)
		if found, _ := checked(t, a, c); len(found) > 0 {
			t.Errorf("%s: the door check finds %v", what, found)
		}
	}
	acts := func(account string) map[string]error {
		_, folder := a.Cases.Things.MakeFolder(ctx, account, store.NewID(), satchel, "Folder")
		return map[string]error{"write in a copy": writes(t, a, account, store.NewID(), mine), "write in their own": writes(t, a, account, store.NewID(), own.ID),
			"add": adds(a, account, satchel), "make a folder": folder,
			"rename":       a.Cases.Things.Rename(ctx, account, store.NewID(), own.ID, "Mine "+store.NewID()[:4]+".md"),
			"move it out":  a.Cases.Things.Move(ctx, account, store.NewID(), []string{own.ID}, table),
			"move it back": a.Cases.Things.Move(ctx, account, store.NewID(), []string{own.ID}, satchel)}
	}
	pens(room.Cloakroom, true, c.Students[0].ID)
	for _, when := range []string{"at once", "with the cupboard's mark"} {
		for what, err := range acts("s0") {
			wantInvalid(t, err, "text", "place-closed")
			if err == nil {
				t.Errorf("%s: %s", when, what)
			}
		}
		wantInvalid(t, a.Cases.Things.Bin(ctx, "s0", store.NewID(), []string{own.ID}, 0), "text", "place-closed")
		if err := errors.Join(adds(a, "s1", placed(t, a, c.ID, packing.Satchel, c.Students[1].ID)), adds(a, "s0", table)); err != nil {
			t.Errorf("%s: another satchel, and the table: %v", when, err)
		}
		for what, err := range acts("oduya") {
			if err != nil && what != "move it back" {
				t.Errorf("%s: staff %s: %v", when, what, err)
			}
		}
		if err := a.Cases.Things.Move(ctx, "oduya", store.NewID(), []string{own.ID}, satchel); err != nil {
			t.Fatal(err)
		}
		v, err := a.Cases.Things.View(ctx, "s0", satchel)
		if err != nil || v.Level != access.Read || v.Closing == nil || v.Closing.By != "oduya" || len(v.Arrange) > 0 {
			t.Errorf("%s: the student sees %v, closing %+v, may arrange %v, %v", when, v.Level, v.Closing, v.Arrange, err)
		}
		home, err := a.Cases.Registers.Home(ctx, "s0")
		if err != nil || home[0].Shut[home[0].Satchel] == nil || home[0].Copies[0].Level != access.Read || home[0].Copies[0].Closing == nil {
			t.Errorf("%s: on their page %+v, %v", when, home, err)
		}
		right(when)
	}
	if err := direct(a, "s0", mine); !errors.Is(err, cupboard.ErrNoRight) {
		t.Errorf("past us: %v", err)
	}
	thing, err := a.Cases.Things.Get(ctx, "oduya", own.ID)
	if err != nil {
		t.Fatal(err)
	}
	_, err = a.Cases.Things.WriteText(ctx, "s0", store.NewID(), thing, things.Typed{Base: thing.Version, Text: "# Late\n"})
	wantInvalid(t, err, "text", "place-closed")
	if late, err := a.Cases.Things.Late(ctx, "oduya", own.ID); err != nil || len(late) != 1 || late[0].Text != "# Late\n" {
		t.Errorf("what came later: %+v, %v", late, err)
	}

	pens(room.Cloakroom, true)
	pens(room.Cloakroom, false, c.Students[0].ID)
	if err := adds(a, "s0", satchel); err != nil { // before the cupboard was told
		t.Errorf("opened for one, and they add: %v", err)
	}
	if err := writes(t, a, "s0", store.NewID(), mine); err != nil {
		t.Errorf("opened for one, and they write: %v", err)
	}
	wantInvalid(t, adds(a, "s1", placed(t, a, c.ID, packing.Satchel, c.Students[1].ID)), "text", "place-closed")
	pens(room.Table, true)
	wantInvalid(t, adds(a, "s0", table), "text", "place-closed")
	right("all but one, and the table")
	pens(room.Cloakroom, false)
	pens(room.Table, false)
	right("all open")
	closedTeam(t, a, c.ID, pens, right)
	for account, folder := range map[string]string{"s0": table, "s1": placed(t, a, c.ID, packing.Satchel, c.Students[1].ID)} {
		if err := adds(a, account, folder); err != nil {
			t.Errorf("%s, all open: %v", account, err)
		}
	}
	for _, x := range []struct {
		place, code string
		rows        []string
	}{{"attic", "no-such-place", nil}, {room.Shelf, "not-written-in", nil}, {room.Drawer, "not-written-in", nil},
		{room.Table, "not-of-students", []string{c.Students[0].ID}}} {
		err := a.Cases.Rooms.SayPens(ctx, "oduya", c.ID, x.place, x.rows, true)
		wantInvalid(t, err, map[bool]string{true: "rows", false: "place"}[x.rows != nil], x.code)
	}
	if err := a.Cases.Rooms.SayPens(ctx, "oduya", c.ID, room.Cloakroom, []string{store.NewID()}, true); err != seam.ErrNotFound {
		t.Errorf("a row of another class: %v", err)
	}
}

// closedTeam closes a place that each team has: at once, though students see nothing of the folder above theirs.
func closedTeam(t *testing.T, a *app.App, class string, pens func(place string, down bool, rows ...string), right func(string)) {
	t.Helper()
	cl := apptest.Load(t, a, class)
	if _, err := a.Cases.Rosters.EditRoster(ctx, "oduya", class, []classes.Edit{
		{Row: cl.Students[0].ID, Field: record.Team, Value: "Gull"}, {Row: cl.Students[1].ID, Field: record.Team, Value: "Tern"}}); err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.Rooms.ChangeRoom(ctx, "oduya", class, addPlace("Crews", room.ForTeam, "edit")); err != nil {
		t.Fatal(err)
	}
	cl = apptest.Load(t, a, class)
	apptest.Pack(t, a, cl, nil)
	apptest.Look(t, a)
	crews, gull := "", ""
	for _, p := range cl.Plan.AllPlaces() {
		if p.Name == "Crews" {
			crews = p.ID
		}
	}
	entries, err := a.Store.Ledger(ctx, class)
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range entries {
		if e.Key.What.ID == crews && e.Granted["s0"] >= access.Edit {
			gull = e.Thing
		}
	}
	pens(crews, true)
	wantInvalid(t, adds(a, "s0", gull), "text", "place-closed")
	right("a team's place is closed")
	if _, err := a.Cup.MakeFolder(ctx, "s0", store.NewID(), cupboard.NewThing{Parent: gull, Name: "Past us"}); !errors.Is(err, cupboard.ErrNoRight) {
		t.Errorf("past us: %v", err)
	}
	pens(crews, false)
	if err := adds(a, "s0", gull); err != nil { // before the cupboard was told
		t.Errorf("a team's place is open again: %v", err)
	}
	right("a team's place is open")
}

// What is another for one student stands on the Register at theirs, and at nobody else's.
func TestApart(t *testing.T) {
	a, c, h, _, _ := timed(t, 3, handout.Change{})
	until, read := "2099-01-01T08:00", "read"
	rows := func(i int) []string { return []string{c.Students[i].ID} }
	edit(t, a, c, &h, handout.Change{Extra: &handout.ExtraTime{Rows: rows(0), Until: until}})
	edit(t, a, c, &h, handout.Change{Own: &handout.OwnParts{Rows: rows(1), Level: &read}})
	if err := errors.Join(a.Cases.Rooms.SayPens(ctx, "oduya", c.ID, room.Cloakroom, rows(2), true),
		a.Cases.Handouts.SayPens(ctx, "oduya", c.ID, h.ID, rows(2), true)); err != nil {
		t.Fatal(err)
	}
	r, err := a.Cases.Registers.Register(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	for column, want := range [][]string{{"", "", "closed"}, {"extra", "read", "closed"}} {
		for i, cell := range r.Columns[column].Cells {
			got := cell.Apart.Level
			if !cell.Apart.Extra.IsZero() {
				got += "extra"
			}
			if cell.Apart.Hand != nil && cell.Apart.Hand.Down {
				got += "closed"
			}
			if got != want[i] {
				t.Errorf("column %d, student %d: %q, want %q", column, i, got, want[i])
			}
		}
	}
}

// A satchel is closed while its student adds to it, a hundred times: once that is answered nothing is added,
// and every answered file is there.
func TestClosingMeetsAdding(t *testing.T) {
	a, c, _, _, _ := timed(t, 1, handout.Change{})
	satchel := placed(t, a, c.ID, packing.Satchel, c.Students[0].ID)
	there := func() int {
		t.Helper()
		v, err := a.Cases.Things.View(ctx, "oduya", satchel)
		if err != nil {
			t.Fatal(err)
		}
		return len(v.Inside)
	}
	for i := range 100 {
		before, added := there(), 0
		var all sync.WaitGroup
		all.Go(func() {
			if adds(a, "s0", satchel) == nil {
				added = 1
			}
		})
		all.Go(func() {
			if i%3 == 0 {
				_ = a.Cases.Packing.KeepMarks(ctx)
			}
		})
		if err := a.Cases.Rooms.SayPens(ctx, "oduya", c.ID, room.Cloakroom, nil, true); err != nil {
			t.Fatal(err)
		}
		wantInvalid(t, adds(a, "s0", satchel), "text", "place-closed")
		all.Wait()
		if n := there(); n != before+added {
			t.Fatalf("%d: %d things, %d before and %d added", i, n, before, added)
		}
		if err := a.Cases.Rooms.SayPens(ctx, "oduya", c.ID, room.Cloakroom, nil, false); err != nil {
			t.Fatal(err)
		}
		if err := adds(a, "s0", satchel); err != nil {
			t.Fatalf("%d: open again: %v", i, err)
		}
	}
	marked(t, a, c)
	if found, _ := checked(t, a, c); len(found) > 0 {
		t.Errorf("at rest the door check finds %v", found)
	}
}

// What is closed and handed over is its student's own: it opens, and nothing closes it any more.
func TestClosedSatchelHandedOver(t *testing.T) {
	a, c, _, _, copyOf := timed(t, 2, handout.Change{})
	if err := a.Cases.Rooms.SayPens(ctx, "oduya", c.ID, room.Cloakroom, nil, true); err != nil {
		t.Fatal(err)
	}
	marked(t, a, c)
	handedOver(t, a, c, []string{c.Students[0].ID}, "", true)
	if err := direct(a, "s0", copyOf(0)); err != nil {
		t.Errorf("past us: %v", err)
	}
	if err := errors.Join(writes(t, a, "s0", store.NewID(), copyOf(0)), adds(a, "s0", placed(t, a, c.ID, packing.Satchel, c.Students[0].ID))); err != nil {
		t.Errorf("their own: %v", err)
	}
	marked(t, a, c)
	if found, _ := checked(t, a, c); len(found) > 0 {
		t.Errorf("the door check finds %v", found)
	}
}

// Extra time of a student in all handouts of a class holds in each, to the minute, where none is said of
// one; it goes again, and every change says whose.
func TestStandingExtraTime(t *testing.T) {
	a, c, h, now, copyOf := timed(t, 2, handout.Change{Then: ptr(handout.ThenClose)})
	first := c.Students[0].ID
	give := func(x pens.Extra) {
		t.Helper()
		if err := a.Cases.Handouts.GiveExtra(ctx, "oduya", c.ID, []string{first}, x); err != nil {
			t.Fatal(err)
		}
	}
	until := func() time.Duration {
		t.Helper()
		h, err := a.Cases.Handouts.Handout(ctx, c.ID, h.ID)
		if err != nil {
			t.Fatal(err)
		}
		due, _ := h.DueAt()
		closing, ok := h.Closes(first)
		if !ok {
			t.Fatal("it stays open")
		}
		return closing.At.Sub(due)
	}
	due, _ := h.DueAt()
	give(pens.Extra{Minutes: 20})
	if d := until(); d != 20*time.Minute {
		t.Errorf("20 minutes are %v", d)
	}
	give(pens.Extra{Percent: 50})
	if d := until(); d < 29*time.Minute || d > 31*time.Minute { // packed within this minute, due in an hour
		t.Errorf("half of an hour is %v", d)
	}
	give(pens.Extra{Minutes: 20})
	marked(t, a, c)
	now.Set(due.Add(time.Minute))
	if err := errors.Join(writes(t, a, "s0", "in extra time", copyOf(0)), direct(a, "s0", copyOf(0))); err != nil {
		t.Errorf("in extra time: %v", err)
	}
	wantInvalid(t, writes(t, a, "s1", "late", copyOf(1)), "text", "copy-closed")
	if found, _ := checked(t, a, c); len(found) > 0 {
		t.Errorf("the door check finds %v", found)
	}
	d, err := a.Cases.Registers.Panel(ctx, c.ID, first)
	if err != nil || d.Standing != (pens.Extra{Minutes: 20}) || d.Things[1].Apart.Extra.IsZero() || !d.Things[1].Apart.Always {
		t.Errorf("the panel says %+v, %v", d, err)
	}
	give(pens.Extra{})
	wantInvalid(t, writes(t, a, "s0", "taken away", copyOf(0)), "text", "copy-closed")
	for _, rows := range [][]string{{store.NewID()}, {first, store.NewID()}} {
		if err := a.Cases.Handouts.GiveExtra(ctx, "oduya", c.ID, rows, pens.Extra{Minutes: 5}); err != seam.ErrNotFound {
			t.Errorf("a row of another class: %v", err)
		}
	}
	wantInvalid(t, a.Cases.Handouts.GiveExtra(ctx, "oduya", c.ID, []string{first}, pens.Extra{Minutes: pens.MostMinutes + 1}), "extra", "not-a-time")
	lines, _, err := a.Cases.Registers.LogPage(ctx, c.ID, "", 0)
	told := 0
	for _, l := range lines {
		if strings.HasPrefix(l.Act, "standing-extra") && strings.Contains(fmt.Sprint(l), c.Students[0].SortName()) {
			told++
		}
	}
	if err != nil || told != 4 {
		t.Errorf("%d lines of the log, %v", told, err)
	}
}
