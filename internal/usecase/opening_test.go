package usecase_test

import (
	"errors"
	"slices"
	"testing"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/usecase/seam"
)

// given has what waits given where it can be, and waits for its end.
func given(t *testing.T, a *app.App) (runs int) {
	t.Helper()
	if err := a.Cases.Packing.GiveWaiting(ctx); err != nil {
		t.Fatal(err)
	}
	open, err := a.Store.OpenRuns(ctx)
	if err != nil {
		t.Fatal(err)
	}
	for _, id := range open {
		if r := apptest.Wait(t, a, id); r.Stuck != 0 || r.Made != 0 {
			t.Errorf("what follows: %+v", r)
		}
	}
	apptest.Look(t, a)
	return len(open)
}

// reach are the purposes of a class's things that an account has a level on, by the cupboard.
func reach(t *testing.T, a *app.App, c picture.Class, account string) (out []string) {
	t.Helper()
	entries, err := a.Store.Ledger(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range entries {
		people, err := a.Cup.People(ctx, "oduya", e.Thing)
		if err != nil {
			t.Fatal(err)
		}
		if people[account].Level > 0 && (e.Key.What.Purpose != packing.Pocket) {
			out = append(out, string(e.Key.What.Purpose))
		}
	}
	slices.Sort(out)
	return out
}

// A class is packed whole the week before. Its students reach nothing until its time has come by the school's clocks, but
// for those who are let in before; then they have everything, in a run for the room and each handout.
func TestOpensLater(t *testing.T) {
	now := &clock.Manual{}
	now.Set(time.Date(2026, 12, 4, 15, 0, 0, 0, time.UTC))
	a := apptest.With(t, app.Settings{Database: pgtest.New(t), School: apptest.School, Pace: 10_000, Now: now.Now})
	apptest.People(t, a, 3)
	c := apptest.Class(t, a, apptest.List(3))
	zone := a.Charter.School().Zone
	opens := time.Date(2026, 12, 7, 8, 0, 0, 0, zone)
	for at, code := range map[string]string{"2026-12-04T08:00": "time-past", "Monday": "not-a-time", "2028-01-01T08:00": "opening-far"} {
		wantInvalid(t, a.Cases.Rooms.OpenLater(ctx, "oduya", c.ID, at), "at", code)
	}
	if err := a.Cases.Rooms.OpenLater(ctx, "oduya", c.ID, "2026-12-07T08:00"); err != nil {
		t.Fatal(err)
	}
	h := apptest.Handout(t, a, c, "# Log\n")
	if n := apptest.Pack(t, a, c, nil).Stuck + apptest.Pack(t, a, c, &h).Stuck; n != 0 {
		t.Errorf("%d lines are stuck", n)
	}
	apptest.Look(t, a)
	all := []string{"copy", "satchel", "shelf", "table"}
	check := func(what string, runs int, want map[string]bool) {
		t.Helper()
		if n := given(t, a); n != runs {
			t.Errorf("%s: %d runs follow, want %d", what, n, runs)
		}
		for account, open := range want {
			got := reach(t, a, c, account)
			if open != slices.Equal(got, all) || !open && len(got) > 0 {
				t.Errorf("%s: %s reaches %v", what, account, got)
			}
			homes, err := a.Cases.Registers.Home(ctx, account)
			if err != nil || len(homes) != 1 || (homes[0].Waits == nil) != open || (len(homes[0].Copies) == 1) != open {
				t.Errorf("%s: %s sees %+v, %v", what, account, homes, err)
			}
		}
		doors, err := a.Cases.Doors.Check(ctx, "oduya", c.ID)
		if err != nil || len(doors.Result.Lines) != 0 || len(doors.Result.Wrong) != 0 || doors.Result.Tried == 0 {
			t.Errorf("%s: the door check: %+v, %v", what, doors.Result, err)
		}
		if l, err := a.Cases.Packing.Missing(ctx, c.ID); err != nil || len(l.Lines) != 0 {
			t.Errorf("%s: a top-up would pack %+v, %v", what, l.Lines, err)
		}
	}
	check("before", 0, map[string]bool{"s0": false, "s1": false, "s2": false})
	if err := a.Cases.Rooms.Open(ctx, "oduya", c.ID, []string{c.Students[1].ID}); err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.Rooms.Open(ctx, "oduya", c.ID, []string{"0198a0c0-0000-7000-8000-000000000000"}); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("somebody of no class: %v", err)
	}
	check("one is let in", 2, map[string]bool{"s0": false, "s1": true, "s2": false})
	if err := a.Cases.Rooms.OpenLater(ctx, "oduya", c.ID, "2026-12-07T09:00"); err != nil { // put off, and back
		t.Fatal(err)
	}
	if err := a.Cases.Rooms.OpenLater(ctx, "oduya", c.ID, "2026-12-07T08:00"); err != nil {
		t.Fatal(err)
	}
	now.Set(opens.Add(-time.Minute))
	check("a minute before", 0, map[string]bool{"s0": false, "s1": true, "s2": false})
	now.Set(opens)
	check("then", 2, map[string]bool{"s0": true, "s1": true, "s2": true})
	now.Set(opens.Add(-time.Hour))
	check("the clock goes back", 0, map[string]bool{"s0": true, "s1": true, "s2": true})
	wantInvalid(t, a.Cases.Rooms.OpenLater(ctx, "oduya", c.ID, "2026-12-08T08:00"), "at", "open-already")
}

// By hand: opened for everybody by an act, once. A class that opens later is seen as it will be.
func TestOpenedByHand(t *testing.T) {
	a, c := school(t, 2)
	if err := a.Cases.Rooms.OpenLater(ctx, "oduya", c.ID, ""); err != nil {
		t.Fatal(err)
	}
	apptest.Pack(t, a, c, nil)
	tree, err := a.Cases.Packing.Tree(ctx, c.ID, c.Students[0].ID, "", 0)
	if err != nil || len(tree.Nodes) != 3 {
		t.Errorf("they will see %+v, %v", tree.Nodes, err)
	}
	if n := given(t, a); n != 0 || len(reach(t, a, c, "s0")) != 0 {
		t.Errorf("%d runs before it is opened", n)
	}
	for want := range 2 {
		if err := a.Cases.Rooms.Open(ctx, "lindqvist", c.ID, nil); err != nil {
			t.Fatal(err)
		}
		if n := given(t, a); n != 1-want || !slices.Equal(reach(t, a, c, "s0"), []string{"satchel", "shelf", "table"}) {
			t.Errorf("opened %d times: %d runs", want+1, n)
		}
	}
	if k := room.SatchelKey(c.ID, c.Students[0].ID); apptest.Load(t, a, c.ID).Opening != nil {
		t.Errorf("%s waits still", k)
	}
}
