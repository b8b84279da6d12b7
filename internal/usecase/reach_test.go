package usecase_test

import (
	"errors"
	"strings"
	"testing"

	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/register"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/pack"
)

// What a student makes, moves or brings back of a class stays within its staff's reach, and
// the panel says who reaches a copy wherever its student put it.
func TestWithinReach(t *testing.T) {
	a, c := school(t, 3)
	apptest.Pack(t, a, c, nil)
	h := apptest.Handout(t, a, c, "# Log")
	apptest.Pack(t, a, c, &h)
	satchel := satchelOf(t, a, c, 0)
	own, err := a.Cup.MakeFolder(ctx, "s0", "own", cupboard.NewThing{Parent: satchel.Thing, Name: "Mine"})
	if err != nil {
		t.Fatal(err)
	}
	there, err := a.Cases.Classes.CreateClass(ctx, "stranger", "8A", "Boats 8A", "1", false)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Rosters.AddStudents(ctx, "stranger", there.ID,
		[]record.Record{{Family: "Family0", Given: "Given0", Address: "s0@kestrelquay.example"}}); err != nil {
		t.Fatal(err)
	}
	run, err := a.Cases.Packing.Pack(ctx, "stranger", there.ID, "", pack.Part{})
	if err != nil {
		t.Fatal(err)
	}
	apptest.Wait(t, a, run.ID)
	other := entry(t, a, room.SatchelKey(there.ID, apptest.Load(t, a, there.ID).Students[0].ID))
	wantInvalid(t, a.Cases.Things.Move(ctx, "s0", store.NewID(), []string{own.ID}, other.Thing), "to", "stays-in-class")
	shelf := entry(t, a, packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Table}})
	if err := a.Cases.Things.Move(ctx, "s0", store.NewID(), []string{own.ID}, shelf.Thing); err != nil {
		t.Errorf("to the table of the same class: %v", err)
	}
	if err := a.Cases.Things.Move(ctx, "s0", store.NewID(), []string{own.ID}, satchel.Thing); err != nil {
		t.Fatal(err)
	}

	copied := entry(t, a, packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Copy, ID: h.ID, Slot: 1},
		Whom: packing.Whom{Row: c.Students[0].ID}})
	if err := a.Cases.Things.Move(ctx, "s0", store.NewID(), []string{copied.Thing}, own.ID); err != nil {
		t.Fatal(err)
	}
	apptest.Look(t, a)
	panel, err := a.Cases.Registers.Panel(ctx, c.ID, c.Students[0].ID)
	if err != nil || len(panel.Things) != 2 {
		t.Fatalf("%+v, %v", panel, err)
	}
	if got := panel.Things[1]; len(got.Reach) != 2 || strings.Join(got.Where, "/") != "Cloakroom/Family0, Given0/Mine" {
		t.Errorf("a copy that was tidied away: %+v in %v", got.Reach, got.Where)
	}

	if err := a.Cases.Things.Move(ctx, "oduya", store.NewID(), []string{satchel.Thing},
		entry(t, a, packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Shelf}}).Thing); err != nil {
		t.Fatal(err)
	}
	apptest.Look(t, a)
	if panel, err = a.Cases.Registers.Panel(ctx, c.ID, c.Students[0].ID); err != nil {
		t.Fatal(err)
	}
	mates := 0
	for _, r := range panel.Things[0].Reach {
		if r.As == register.AsMate {
			mates++
		}
	}
	if mates != 2 {
		t.Errorf("a satchel on the shelf is said to be open to %d classmates: %+v", mates, panel.Things[0].Reach)
	}

	if err := a.Cup.Bin(ctx, "oduya", "bin", satchel.Thing, nil); err != nil {
		t.Fatal(err)
	}
	wantInvalid(t, a.Cases.Things.Restore(ctx, "s0", store.NewID(), own.ID), "thing", "waits-for-folder")
	if err := a.Cup.Restore(ctx, "oduya", "back", satchel.Thing); err != nil {
		t.Fatal(err)
	}
	if l := levelOf(t, a, "oduya", own.ID); l != access.Edit {
		t.Errorf("what came back with its satchel: the teacher has %v", l)
	}
}

// Who moves something needs the right in both places: not that of the owner they act for.
func TestAssistantElsewhere(t *testing.T) {
	a, c := school(t, 1)
	other := apptest.Class(t, a, apptest.List(1))
	for _, s := range []classes.Member{{ClassID: c.ID, Account: "lindqvist", Role: classes.Teacher},
		{ClassID: other.ID, Account: "lindqvist", Role: classes.Assistant}} {
		if err := a.Store.AddStaff(ctx, s); err != nil {
			t.Fatal(err)
		}
	}
	apptest.Pack(t, a, c, nil)
	apptest.Pack(t, a, other, nil)
	table := func(class string) string {
		return entry(t, a, packing.Key{Class: class, What: packing.What{Purpose: packing.Table}}).Thing
	}
	f, err := a.Cases.Things.AddFile(ctx, "oduya", "sheet", table(c.ID), "sheet.txt", "text/plain", strings.NewReader("x"))
	if err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.Things.Move(ctx, "lindqvist", store.NewID(), []string{f.ID}, table(other.ID)); !errors.Is(err, cupboard.ErrNoRight) {
		t.Errorf("into a class where lindqvist assists: %v", err)
	}
	if err := a.Cases.Things.Move(ctx, "oduya", store.NewID(), []string{f.ID}, table(other.ID)); err != nil {
		t.Errorf("by who teaches both: %v", err)
	}
}
