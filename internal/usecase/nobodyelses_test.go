package usecase_test

import (
	"testing"

	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/usecase/pack"
)

// Typing a student on a list tells nothing of what their other classes are called.
func TestOtherClassesNames(t *testing.T) {
	a, _ := school(t, 1)
	there, err := a.Cases.Classes.CreateClass(ctx, "stranger", "8A", "Boats 8A", "1", false)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Rosters.AddStudents(ctx, "stranger", there.ID,
		[]record.Record{{Family: "Family0", Given: "Another", Address: "s0@kestrelquay.example"}}); err != nil {
		t.Fatal(err)
	}
	for by, also := range map[string]int{"stranger": 0, "oduya": 1, "office": 1} {
		lines, err := a.Cases.Rosters.Roster(ctx, by, there.ID)
		if err != nil || len(lines) != 1 || len(lines[0].Also) != also {
			t.Fatalf("%s: %+v, %v", by, lines, err)
		}
		for _, r := range lines[0].Remarks {
			if told := r.Args["class"] != ""; r.Code != "book-says" && told != (also == 1) {
				t.Errorf("%s is told %+v", by, r)
			}
		}
	}
}

// While a student's address is another account's than the one that has their things, nothing
// more is given to either, in a run that was paused, too: first the teacher says whose it is.
func TestAddressCorrectedWhilePaused(t *testing.T) {
	a, c := school(t, 2)
	apptest.Pack(t, a, c, nil)
	apptest.Account(t, a, "right", "Given0", "Family0")
	h := apptest.Handout(t, a, c, "# Log")
	run, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, h.ID, pack.Part{})
	if err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.Packing.Pause(ctx, "oduya", c.ID, run.ID); err != nil {
		t.Fatal(err)
	}
	row := c.Students[0].ID
	if _, err := a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID,
		[]classes.Edit{{Row: row, Field: record.Address, Value: "right@kestrelquay.example"}}); err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.Packing.Resume(ctx, "oduya", c.ID, run.ID); err != nil {
		t.Fatal(err)
	}
	if run = apptest.Wait(t, a, run.ID); run.Stuck != 1 {
		t.Errorf("carried on: %+v", run)
	}
	key := packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Copy, ID: h.ID, Slot: 1}, Whom: packing.Whom{Row: row}}
	if e, err := a.Store.EntryByKey(ctx, key); err == nil {
		t.Errorf("made for %v", e.Granted)
	}
	apptest.Look(t, a)
	list, err := a.Cases.Packing.RoomList(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	var ticked []string
	for _, l := range list.Lines {
		if l.Step.Act == packing.Relink {
			ticked = append(ticked, l.Step.String())
		}
	}
	next, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, "", pack.Part{Part: packing.Part{Changes: ticked}, Seen: list.Digest()})
	if err != nil {
		t.Fatal(err)
	}
	apptest.Wait(t, a, next.ID)
	if _, err := a.Cases.Packing.TopUp(ctx, "oduya", c.ID, pack.Part{Part: packing.Part{Rows: []string{row}}}); err != nil {
		t.Fatal(err)
	}
	settle(t, a)
	for account, want := range map[string]access.Level{"right": access.Edit, "s0": access.Nothing} {
		if l := levelOf(t, a, account, entry(t, a, key).Thing); l != want {
			t.Errorf("%s has %v on the copy, want %v", account, l, want)
		}
		if l := levelOf(t, a, account, entry(t, a, room.SatchelKey(c.ID, row)).Thing); l != want {
			t.Errorf("%s has %v on the satchel, want %v", account, l, want)
		}
	}
}

// What a teacher who is switched off had set to go out by itself stays, and says why.
func TestSwitchedOffSendsNothing(t *testing.T) {
	a, c := school(t, 1)
	if err := a.Store.AddStaff(ctx, classes.Member{ClassID: c.ID, Account: "lindqvist", Role: classes.Teacher}); err != nil {
		t.Fatal(err)
	}
	apptest.Pack(t, a, c, nil)
	h := apptest.Handout(t, a, c, "# Log")
	at := a.Now().AddDate(0, 0, 1).Format("2006-01-02T15:04")
	if _, err := a.Cases.Handouts.ChangeHandout(ctx, "lindqvist", c.ID, h.ID, handout.Change{Send: &at}, handout.Change{}); err != nil {
		t.Fatal(err)
	}
	off := true
	if err := a.Cases.People.ChangeAccount(ctx, "office", "lindqvist", accounts.Change{Off: &off}, accounts.Change{}); err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.Packing.SendNow(ctx, c.ID, h.ID, at); err != nil {
		t.Fatal(err)
	}
	now, err := a.Store.Handout(ctx, c.ID, h.ID)
	if err != nil || now.Packed() || now.SendProblem == nil || now.SendProblem.Code != "not-teaching" {
		t.Errorf("%+v, %v", now, err)
	}
}
