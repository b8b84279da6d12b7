package usecase_test

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/doorcheck"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/pack"
	"jollysatchel/internal/usecase/seam"
)

// checked is what a check finds, as kind, name and people.
func checked(t *testing.T, a *app.App, c picture.Class) (found []string, ids map[string]string) {
	t.Helper()
	r, err := a.Cases.Doors.Check(ctx, "oduya", c.ID)
	if err != nil {
		t.Fatal(err)
	}
	ids = map[string]string{}
	for _, l := range r.Result.Lines {
		says := fmt.Sprintf("%s of %s: %s for %q, %s not %s", l.Kind, l.Name, strings.Join(l.Who, " "), l.For, l.Is, l.Should)
		found, ids[string(l.Kind)] = append(found, says), l.ID
	}
	for _, w := range r.Result.Wrong {
		found = append(found, fmt.Sprintf("%s of %s opens: %v", w.Name, w.Who, !w.Opens))
	}
	return found, ids
}

// mended puts right what is found and waits for it.
func mended(t *testing.T, a *app.App, c picture.Class, ids map[string]string) {
	t.Helper()
	var all []string
	for _, id := range ids {
		all = append(all, id)
	}
	run, err := a.Cases.Doors.Mend(ctx, "oduya", c.ID, all)
	if err != nil {
		t.Fatal(err)
	}
	if r := apptest.Wait(t, a, run.ID); r.Stuck > 0 || r.Passed > 0 {
		steps, _ := a.Store.Steps(ctx, run.ID)
		t.Fatalf("mending ended %+v with %+v", r, steps)
	}
}

// staffed is a class with two teachers, an assistant, a handout that is read alone and one to write.
func staffed(t *testing.T, students int) (*app.App, picture.Class, func(purpose packing.Purpose, row int) string) {
	t.Helper()
	a := apptest.Open(t)
	apptest.People(t, a, students+2)
	c := apptest.Class(t, a, apptest.List(students))
	apptest.Account(t, a, "helper", "Hale", "Percy")
	for who, role := range map[string]string{"lindqvist": classes.Teacher, "helper": classes.Assistant} {
		if err := a.Store.AddStaff(ctx, classes.Member{ClassID: c.ID, Account: who, Role: role}); err != nil {
			t.Fatal(err)
		}
	}
	apptest.Pack(t, a, c, nil)
	for i, level := range []string{"edit", "read"} {
		h := apptest.Handout(t, a, c, "# Log\n\nWhere did you stand?\n")
		h, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Level: &level, Title: ptr(fmt.Sprint("Sheet ", i))}, handout.Change{})
		if err != nil {
			t.Fatal(err)
		}
		apptest.Pack(t, a, c, &h)
	}
	apptest.Look(t, a)
	return a, c, func(purpose packing.Purpose, row int) string {
		s, err := a.Cases.Packing.PictureNow(ctx, c.ID)
		if err != nil {
			t.Fatal(err)
		}
		k := s.Room.Key(purpose)
		switch purpose {
		case packing.Satchel:
			k = room.SatchelKey(c.ID, c.Students[row].ID)
		case packing.Copy:
			k = packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Copy, ID: s.Handouts[0].ID, Slot: 1}, Whom: packing.Whom{Row: c.Students[row].ID}}
		}
		if s.Entries[k] == nil {
			t.Fatalf("no %s", k)
		}
		return s.Entries[k].Thing
	}
}

// A class as it was packed is proven; each change made in the cupboard behind our back is found under
// its name, with whom it concerns, and put right; then it is proven again.
func TestDoorCheck(t *testing.T) {
	a, c, thing := staffed(t, 4)
	if found, _ := checked(t, a, c); len(found) > 0 {
		t.Fatalf("as it was packed: %v", found)
	}
	first, err := a.Cases.Doors.Check(ctx, "oduya", c.ID)
	if err != nil || first.Result.Students != 4 || first.Result.Staff != 3 || first.Result.Tried != 12 || first.Result.Things < 4*3+5 {
		t.Fatalf("the proof: %+v, %v", first.Result, err)
	}
	if all, err := a.Cases.Doors.All(ctx); err != nil || len(all) != 1 || all[0].Last.By != "Ifeoma Oduya" {
		t.Errorf("for the office: %+v, %v", all, err)
	}
	alone, school := true, access.Read
	rule := func(id string, ch cupboard.RuleChange) error {
		return a.Cup.SetRule(ctx, "oduya", store.NewID(), id, ch)
	}
	levels := func(who string, l access.Level) cupboard.RuleChange {
		return cupboard.RuleChange{Levels: map[string]access.Level{who: l}}
	}
	for _, x := range []struct {
		what string
		do   func() error
		want string
	}{
		{"too much", func() error { return rule(thing(packing.Satchel, 0), levels("s1", access.Edit)) }, "extra of %: s1 for \"\", edit not nothing"},
		{"missing", func() error { return rule(thing(packing.Satchel, 1), levels("s1", access.Nothing)) }, "missing of %: s1 for \"\", nothing not edit"},
		{"on the shelf", func() error { return rule(thing(packing.Shelf, 0), levels("s2", access.Edit)) }, "wrong-level of Shelf: s2 for \"\", edit not read"},
		{"a link", func() error { return rule(thing(packing.Copy, 0), cupboard.RuleChange{School: &school}) }, "open-school of %:  for \"\", read not nothing"},
		{"alone", func() error { return rule(thing(packing.Satchel, 2), cupboard.RuleChange{StandsAlone: &alone}) },
			"lost-to-staff of %: helper lindqvist for \"\", nothing not nothing"},
		{"another owner", func() error { return a.Cup.Cede(ctx, "oduya", store.NewID(), thing(packing.Satchel, 3), "s3") },
			"wrong-owner of %: s3 for \"oduya\", owner not owner"},
		{"another name", func() error { return a.Cup.Rename(ctx, "oduya", store.NewID(), thing(packing.Table, 0), "Desk") },
			"renamed of Desk:  for \"\", nothing not nothing"},
		{"moved", func() error {
			return a.Cup.Move(ctx, "oduya", store.NewID(), thing(packing.Satchel, 0), thing(packing.Shelf, 0))
		}, "moved of %: s1 s2 s3 for \"\", nothing not nothing"},
		{"in the bin", func() error { return a.Cup.Bin(ctx, "oduya", store.NewID(), thing(packing.Copy, 1), nil) },
			"in-bin of %:  for \"\", nothing not nothing"},
		{"ended", func() error { return a.Cup.Remove(ctx, "oduya", store.NewID(), thing(packing.Copy, 2)) },
			"gone of %:  for \"\", nothing not nothing"},
		{"closed", func() error {
			return a.Cup.Close(ctx, "oduya", store.NewID(), thing(packing.Copy, 3), access.Mark{By: "oduya", Since: a.Now().Add(-time.Hour)})
		}, "closed of %:  for \"\", nothing not nothing"},
		{"somebody's own", func() error {
			_, err := a.Cup.MakeFolder(ctx, "s1", store.NewID(), cupboard.NewThing{Parent: thing(packing.Satchel, 1), Name: "Mine"})
			if err != nil {
				return err
			}
			all, err := a.Cup.List(ctx, "s1", thing(packing.Satchel, 1))
			return errors.Join(err, rule(all[0].ID, levels("s2", access.Read)))
		}, "extra of Mine: s2 for \"\", read not nothing"},
		{"a stranger's", func() error {
			_, err := a.Cup.MakeFolder(ctx, "oduya", store.NewID(), cupboard.NewThing{Parent: thing(packing.Table, 0), Name: "Odd"})
			if err != nil {
				return err
			}
			all, err := a.Cup.List(ctx, "oduya", thing(packing.Table, 0))
			return errors.Join(err, a.Cup.Cede(ctx, "oduya", store.NewID(), all[0].ID, "s5"))
		}, "unknown of Odd: s5 for \"\", nothing not nothing"},
	} {
		if err := x.do(); err != nil {
			t.Fatalf("%s: %v", x.what, err)
		}
		found, ids := checked(t, a, c)
		if before, after, _ := strings.Cut(x.want, "%"); len(found) != 1 || !strings.HasPrefix(found[0], before) || !strings.HasSuffix(found[0], after) {
			t.Errorf("%s: found %v, want %q", x.what, found, x.want)
		}
		if table, err := a.Cases.Doors.Export(ctx, c.ID); err != nil || len(table) != 10 || table[9][0] == "" || table[9][6] == "" ||
			table[1][1] != "1" {
			t.Errorf("%s, as a table: %q, %v", x.what, table, err)
		}
		mended(t, a, c, ids)
		if found, _ := checked(t, a, c); len(found) > 0 {
			t.Fatalf("%s, mended: %v", x.what, found)
		}
		if _, err := a.Cases.Doors.Mend(ctx, "oduya", c.ID, slices.Collect(maps.Values(ids))); !errors.As(err, new(*change.Changed)) {
			t.Errorf("%s, put right again: %v", x.what, err)
		}
	}
}

// Doors are checked once a night by the program itself, and again after something was put right; what
// was found is noted on Today until then.
func TestDoorsAtNight(t *testing.T) {
	now := &clock.Manual{}
	now.Set(time.Date(2026, 11, 30, 1, 0, 0, 0, time.UTC))
	a := apptest.With(t, app.Settings{Database: pgtest.New(t), School: apptest.School, Pace: 10_000, Now: now.Now})
	apptest.People(t, a, 3)
	c := apptest.Class(t, a, apptest.List(2))
	night := func(at time.Time, want int) {
		t.Helper()
		now.Set(at)
		for range 2 { // it is checked once
			if err := a.Cases.Doors.Nightly(ctx); err != nil {
				t.Fatal(err)
			}
		}
		if all, err := a.Cases.Doors.Earlier(ctx, c.ID); err != nil || len(all) != want {
			t.Fatalf("%v: %d checks, want %d; %v", at, len(all), want, err)
		}
	}
	noted := func() int {
		t.Helper()
		tabs, err := a.Cases.Registers.Rail(ctx, "oduya")
		if err != nil {
			t.Fatal(err)
		}
		for _, n := range tabs[0].Notes {
			if n.Reason.Code == "doors-differ" {
				return n.Count
			}
		}
		return 0
	}
	zone := a.Charter.School().Zone
	at := func(day, hour, minute int) time.Time { return time.Date(2026, 11, day, hour, minute, 0, 0, zone) }
	night(at(29, 12, 0), 0) // nothing is packed
	apptest.Pack(t, a, c, nil)
	night(at(29, 12, 1), 1)
	night(at(30, 2, 59), 1)
	night(at(30, 3, 0), 2)
	s, err := a.Cases.Packing.PictureNow(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	shelf := s.Entries[s.Room.Key(packing.Shelf)].Thing
	if err := a.Cup.SetRule(ctx, "oduya", "x", shelf, cupboard.RuleChange{Levels: map[string]access.Level{"s2": access.Read}}); err != nil {
		t.Fatal(err)
	}
	night(at(30, 18, 0), 2)
	if n := noted(); n != 0 {
		t.Errorf("%d noted before it was seen", n)
	}
	now.Set(at(30, 18, 5))
	found, ids := checked(t, a, c)
	if n := noted(); n != 1 || len(found) != 1 {
		t.Errorf("%d noted of %v", n, found)
	}
	now.Set(at(30, 18, 6))
	mended(t, a, c, ids)
	night(at(30, 18, 7), 4)
	if n := noted(); n != 0 {
		t.Errorf("%d noted once it was put right", n)
	}
}

// Two who put the same right at the same moment, somebody who packs meanwhile, and somebody who does
// it again behind our back: at rest each difference that is left is one, and everything asked for is done.
func TestDoorsMeet(t *testing.T) {
	a, c, thing := staffed(t, 3)
	shelf, satchel := thing(packing.Shelf, 0), thing(packing.Satchel, 0)
	for n := range 100 {
		for _, id := range []string{shelf, satchel} {
			if err := a.Cup.SetRule(ctx, "oduya", store.NewID(), id, cupboard.RuleChange{Levels: map[string]access.Level{"s3": access.Edit}}); err != nil {
				t.Fatal(err)
			}
		}
		_, ids := checked(t, a, c)
		r, _, err := a.Cases.Doors.Last(ctx, c.ID)
		if err != nil || len(r.Result.Lines) != 2 {
			t.Fatalf("round %d: %d found (%v), %v", n, len(r.Result.Lines), ids, err)
		}
		var both sync.WaitGroup
		for _, by := range []string{"oduya", "lindqvist"} {
			both.Go(func() {
				_, err := a.Cases.Doors.Mend(ctx, by, c.ID, []string{r.Result.Lines[0].ID, r.Result.Lines[1].ID})
				var changed *change.Changed
				if err != nil && !errors.As(err, &changed) {
					t.Errorf("round %d: %v", n, err)
				}
			})
		}
		both.Go(func() {
			_, err := a.Cases.Packing.TopUp(ctx, "oduya", c.ID, pack.Part{})
			if err != nil {
				t.Errorf("round %d: %v", n, err)
			}
		})
		both.Wait()
		rest(t, a, c)
		if found, _ := checked(t, a, c); len(found) > 0 {
			t.Fatalf("round %d: at rest there is %v", n, found)
		}
	}
}

// rest waits for every run of a class.
func rest(t *testing.T, a *app.App, c picture.Class) {
	t.Helper()
	runs, err := a.Store.OpenRuns(ctx)
	if err != nil {
		t.Fatal(err)
	}
	for _, id := range runs {
		if r := apptest.Wait(t, a, id); r.Stuck > 0 {
			t.Fatalf("a run of %s ended %+v", c.Name, r)
		}
	}
}

// Who reaches a thing, and what somebody reaches, with the way it comes about.
func TestReach(t *testing.T) {
	a, c, thing := staffed(t, 2)
	who := func(id string) (out []string) {
		t.Helper()
		all, err := a.Cases.Doors.Who(ctx, c.ID, id)
		if err != nil {
			t.Fatal(err)
		}
		for _, r := range all {
			out = append(out, fmt.Sprintf("%s %s %s %s", r.Name, r.Level, r.Way, r.Folder))
		}
		slices.Sort(out)
		return out
	}
	school := access.Read
	if err := a.Cup.SetRule(ctx, "oduya", "x", thing(packing.Copy, 0), cupboard.RuleChange{School: &school}); err != nil {
		t.Fatal(err)
	}
	class, sheet := called(t, a, thing(packing.ClassFolder, 0)), called(t, a, thing(packing.Copy, 0))
	want := []string{" read link " + sheet, "Given0 Family0 edit named " + sheet, "Ifeoma Oduya owner owns " + sheet,
		"Mats Lindqvist edit staff " + class, "Hale Percy comment staff " + class}
	slices.Sort(want)
	if got := who(thing(packing.Copy, 0)); !slices.Equal(got, want) {
		t.Errorf("a copy is reached by\n%q, want\n%q", got, want)
	}
	all, err := a.Cases.Doors.What(ctx, c.ID, c.Students[1].ID)
	if err != nil {
		t.Fatal(err)
	}
	var what []string
	for _, r := range all {
		what = append(what, fmt.Sprintf("%s %s %s", r.Thing, r.Level, r.Way))
	}
	if len(what) != 6 || !slices.Contains(what, "Shelf read named") || !slices.Contains(what, "Table edit named") {
		t.Errorf("a student reaches %q", what) // shelf, table, satchel, two copies, and the other's that is open to the school
	}
	if _, err := a.Cases.Doors.Who(ctx, c.ID, "none"); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("of what isn't the class's: %v", err)
	}
}

// What somebody reaches in the whole school is told by class, a class that only shared a thing with them by
// hand included; what people put there themselves is counted and not named.
func TestReachEverywhere(t *testing.T) {
	a, c, thing := staffed(t, 3)
	other := apptest.Class(t, a, apptest.List(2))
	apptest.Pack(t, a, other, nil)
	if _, err := a.Cases.Things.AddFile(ctx, "s0", "own", thing(packing.Satchel, 0), "a secret.txt", "text/plain", strings.NewReader("x")); err != nil {
		t.Fatal(err)
	}
	if err := a.Cup.Share(ctx, "oduya", store.NewID(), thing(packing.Copy, 0), map[string]access.Level{"stranger": access.Read}); err != nil {
		t.Fatal(err)
	}
	for account, want := range map[string]map[string][2]int{ // class → named, own
		"s0":       {c.ID: {5, 1}, other.ID: {3, 0}},
		"s2":       {c.ID: {5, 0}}, // not in the other
		"stranger": {c.ID: {1, 0}},
		"office":   {},
	} {
		got, err := a.Cases.Doors.Everywhere(ctx, account)
		if err != nil || got.More {
			t.Fatalf("%s: %v", account, err)
		}
		found := map[string][2]int{}
		for _, in := range got.Classes {
			found[in.ID] = [2]int{len(in.Reach), in.Own}
		}
		if !maps.Equal(found, want) {
			t.Errorf("%s reaches %v, want %v", account, found, want)
		}
		if strings.Contains(fmt.Sprint(got.Table()), "secret") {
			t.Errorf("what %s put there is named: %v", account, got.Table())
		}
	}
	if _, err := a.Cases.Doors.Everywhere(ctx, "nobody"); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("of nobody: %v", err)
	}
	all, err := a.Cases.Doors.WhatOfStaff(ctx, c.ID, "helper")
	if err != nil || len(all) == 0 || all[0].Way != doorcheck.AsStaff || all[0].Level != access.Comment {
		t.Errorf("an assistant reaches %+v, %v", all, err)
	}
	if _, err := a.Cases.Doors.WhatOfStaff(ctx, c.ID, "stranger"); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("of whom isn't staff: %v", err)
	}
}

// a2s is what a thing is called.
func called(t *testing.T, a *app.App, id string) string {
	t.Helper()
	got, err := a.Cup.Get(ctx, "oduya", id)
	if err != nil {
		t.Fatal(err)
	}
	return got.Name
}
