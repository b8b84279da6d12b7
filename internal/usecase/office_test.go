package usecase_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// codesOf are the notes of a class on somebody's rail.
func codesOf(t *testing.T, a *app.App, account, class string) string {
	t.Helper()
	tabs, err := a.Cases.Registers.Rail(ctx, account)
	if err != nil {
		t.Fatal(err)
	}
	for _, p := range tabs {
		if p.ID == class {
			var out []string
			for _, n := range p.Notes {
				out = append(out, fmt.Sprint(n.Reason.Code, " ", n.Count))
			}
			return strings.Join(out, ", ")
		}
	}
	return "not on the rail"
}

// The office finds every class by its name, code or owner, a page at a time, also those in
// which something needs attention and nobody looked.
func TestAllClasses(t *testing.T) {
	a, c := school(t, 2)
	for i := range 60 {
		if _, err := a.Cases.Classes.CreateClass(ctx, "stranger", "", fmt.Sprintf("Club %02d", i), "", false); err != nil {
			t.Fatal(err)
		}
	}
	h := apptest.Handout(t, a, c, "# Log\n")
	apptest.Pack(t, a, c, &h)
	if _, err := a.Cases.Lists.BringDraft(ctx, "oduya", c.ID, "", strings.NewReader(apptest.List(3))); err != nil {
		t.Fatal(err)
	}
	page, all, err := a.Cases.Registers.AllClasses(ctx, "", false, 0)
	if err != nil || all != 61 || len(page) != 50 || page[0].Name != "Club 00" {
		t.Fatal(len(page), all, err)
	}
	last, all, err := a.Cases.Registers.AllClasses(ctx, "", false, 50)
	if err != nil || all != 61 || len(last) != 11 || last[10].Name != "Tide Watch 7B" || last[10].Students != 2 ||
		last[10].Staff[0].Name != "Ifeoma Oduya" {
		t.Fatalf("%+v %d %v", last, all, err)
	}
	for text, want := range map[string]int{"7b": 1, "ifeo": 1, "club 0": 10, "Sten": 60, "nothing": 0, "%": 0} {
		if _, n, err := a.Cases.Registers.AllClasses(ctx, text, false, 0); err != nil || n != want {
			t.Errorf("%q: %d, not %d, %v", text, n, want, err)
		}
	}
	needing := func() int {
		_, n, err := a.Cases.Registers.AllClasses(ctx, "", true, 0)
		if err != nil {
			t.Fatal(err)
		}
		return n
	}
	if _, err := a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID,
		[]classes.Edit{{Row: c.Students[0].ID, Field: "address", Value: "nobody@kestrelquay.example"}}); err != nil {
		t.Fatal(err)
	}
	if n := needing(); n != 0 {
		t.Errorf("%d are known to need something before anybody looked", n)
	}
	for range 8 {
		if err := a.Cases.Registers.LookAround(ctx); err != nil {
			t.Fatal(err)
		}
	}
	if n := needing(); n != 1 {
		t.Errorf("%d need something", n)
	}
	if mine := codesOf(t, a, "office", c.ID); mine != "not on the rail" {
		t.Errorf("the office's own rail has %s", mine)
	}
}

// The office opens nothing of a class until it joins its staff, which the log has; then it is
// given what the staff have, and loses it when it leaves.
func TestOfficeJoinsAClass(t *testing.T) {
	a, c := school(t, 2)
	apptest.Pack(t, a, c, nil)
	entries, err := a.Store.Ledger(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	satchel := entries[slices.IndexFunc(entries, func(e ledger.Entry) bool { return e.Key.What.Purpose == "satchel" })].Thing
	reaches := func() bool {
		_, err := a.Cup.Get(ctx, "office", satchel)
		return err == nil
	}
	settle := func() {
		t.Helper()
		runs, err := a.Store.OpenRuns(ctx)
		if err != nil {
			t.Fatal(err)
		}
		for _, r := range runs {
			apptest.Wait(t, a, r)
		}
	}
	if reaches() {
		t.Error("a satchel is open to the office")
	}
	if err := a.Cases.Rooms.Join(ctx, "office", c.ID, classes.Assistant); err != nil {
		t.Fatal(err)
	}
	settle()
	if !reaches() || codesOf(t, a, "office", c.ID) == "not on the rail" {
		t.Error("who joined reaches nothing")
	}
	log, _, err := a.Cases.Registers.LogPage(ctx, c.ID, "office", 0)
	if err != nil || len(log) == 0 || log[0].Act != "office-joined" || log[0].Name != "Harbour Office" {
		t.Errorf("%+v %v", log, err)
	}
	if err := a.Cases.Rooms.Join(ctx, "office", c.ID, ""); err != nil {
		t.Fatal(err)
	}
	settle()
	if reaches() {
		t.Error("who left still reaches it")
	}
	wantInvalid(t, a.Cases.Rooms.Join(ctx, "oduya", c.ID, classes.Assistant), "account", "owner-stays")
	wantInvalid(t, a.Cases.Rooms.Join(ctx, "office", c.ID, classes.Owner), "role", "no-such-role")
	if err := a.Cases.Rooms.Join(ctx, "office", store.NewID(), classes.Teacher); err != seam.ErrNotFound {
		t.Errorf("no such class: %v", err)
	}
}

// What is due today or tomorrow, lists that wait and messages that failed are among what
// needs attention; what somebody puts off is gone for them until the next day, or until it
// grows.
func TestTodayInFull(t *testing.T) {
	day := &clock.Manual{}
	day.Set(time.Date(2026, 11, 26, 7, 40, 0, 0, time.UTC))
	a, err := app.Open(ctx, app.Settings{Database: pgtest.New(t), School: apptest.School, Now: day.Now})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(a.Close)
	apptest.People(t, a, 3)
	c := apptest.Class(t, a, apptest.List(2))
	h := apptest.Handout(t, a, c, "# Log\n")
	edit(t, a, c, &h, handout.Change{Title: ptr("Log"), Due: ptr("2026-11-27T00:05")})
	apptest.Pack(t, a, c, &h)
	if got := codesOf(t, a, "oduya", c.ID); got != "due-tomorrow 1" {
		t.Errorf("%s", got)
	}
	if err := a.Cases.Registers.PutOff(ctx, "oduya", c.ID, "due-tomorrow", h.ID, 1); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Lists.BringDraft(ctx, "oduya", c.ID, "", strings.NewReader(apptest.List(3))); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Store.InsertMessages(ctx,
		[]telling.Message{{ID: store.NewID(), ClassID: c.ID, Kind: "written", About: "x", State: telling.Failed}}); err != nil {
		t.Fatal(err)
	}
	if got := codesOf(t, a, "oduya", c.ID); got != "list-waits 1, messages-failed 1" {
		t.Errorf("put off: %s", got)
	}
	if err := a.Cases.Registers.PutOff(ctx, "oduya", c.ID, "messages-failed", "", 1); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Store.InsertMessages(ctx,
		[]telling.Message{{ID: store.NewID(), ClassID: c.ID, Kind: "written", About: "y", State: telling.Failed}}); err != nil {
		t.Fatal(err)
	}
	if got := codesOf(t, a, "oduya", c.ID); got != "list-waits 1, messages-failed 2" {
		t.Errorf("it grew: %s", got)
	}
	if err := a.Cases.Registers.ShowAgain(ctx, "oduya"); err != nil {
		t.Fatal(err)
	}
	day.Set(time.Date(2026, 11, 27, 0, 1, 0, 0, time.UTC))
	if got := codesOf(t, a, "oduya", c.ID); got != "due-today 1, list-waits 1, messages-failed 2" {
		t.Errorf("the next day: %s", got)
	}
}

// Looking with a student's eyes shows what they see and no more, notes nothing as opened, and
// is in the log.
func TestGetEyes(t *testing.T) {
	a, c := school(t, 2)
	h := apptest.Handout(t, a, c, "# Log\n")
	apptest.Pack(t, a, c, &h)
	row := c.Students[0].ID
	name, home, err := a.Cases.Registers.GetEyes(ctx, "oduya", c.ID, row)
	if err != nil || name != "Given0 Family0" || len(home.Copies) != 1 || home.Satchel == "" || home.Copies[0].Opened {
		t.Fatalf("%s %+v %v", name, home, err)
	}
	_, satchel, _, inside, err := a.Cases.Things.LookAtAs(ctx, "oduya", c.ID, row, home.Satchel)
	if err != nil || satchel.Level.String() != "edit" || len(inside) != 1 {
		t.Errorf("%+v %d %v", satchel, len(inside), err)
	}
	if _, copied, _, _, err := a.Cases.Things.LookAtAs(ctx, "oduya", c.ID, row, home.Copies[0].Thing); err != nil ||
		copied.Level.String() != "edit" {
		t.Errorf("%+v %v", copied, err)
	}
	_, other, err := a.Cases.Registers.GetEyes(ctx, "oduya", c.ID, c.Students[1].ID)
	if err != nil {
		t.Fatal(err)
	}
	if _, _, _, _, err := a.Cases.Things.LookAtAs(ctx, "oduya", c.ID, row, other.Satchel); err != seam.ErrNotFound {
		t.Errorf("another's satchel: %v", err)
	}
	if _, again, err := a.Cases.Registers.GetEyes(ctx, "oduya", c.ID, row); err != nil || again.Copies[0].Opened {
		t.Errorf("it counts as opened: %v", err)
	}
	log, _, err := a.Cases.Registers.LogPage(ctx, c.ID, "Given0", 0)
	if err != nil || len(log) != 4 || log[0].Who != "Ifeoma Oduya" {
		t.Errorf("%+v %v", log, err)
	}
	elsewhere := apptest.Class(t, a, apptest.List(1))
	apptest.Pack(t, a, elsewhere, nil)
	homes, err := a.Cases.Registers.Home(ctx, "s0")
	if err != nil || len(homes) != 2 {
		t.Fatal(len(homes), err)
	}
	for _, h := range homes {
		_, _, _, _, err := a.Cases.Things.LookAtAs(ctx, "oduya", c.ID, row, h.Satchel)
		if here := h.Class.ID == c.ID; here != (err == nil) {
			t.Errorf("a satchel of %s: %v", h.Class.Name, err)
		}
	}
	if _, _, err := a.Cases.Registers.GetEyes(ctx, "oduya", elsewhere.ID, row); err != seam.ErrNotFound {
		t.Errorf("a row of another class: %v", err)
	}
}
