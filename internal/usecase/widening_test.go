package usecase_test

import (
	"errors"
	"strings"
	"testing"

	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// A copy is opened to the school by its link and shut again, by the class's teachers
// alone; who could get in is told first, and everybody who looks sees that it is so.
func TestOpenToSchool(t *testing.T) {
	a, c := school(t, 2)
	apptest.Account(t, a, "eriksen", "Jonas", "Eriksen")
	for account, role := range map[string]string{"lindqvist": classes.Teacher, "amaral": classes.Assistant} {
		if err := a.Store.AddStaff(ctx, classes.Member{ClassID: c.ID, Account: account, Role: role}); err != nil {
			t.Fatal(err)
		}
	}
	apptest.Pack(t, a, c, nil)
	h := apptest.Handout(t, a, c, "# Log")
	apptest.Pack(t, a, c, &h)
	entries, err := a.Store.Ledger(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	var copies []ledger.Entry
	for _, e := range entries {
		if e.Key.What.Purpose == packing.Copy {
			copies = append(copies, e)
		}
	}
	id := copies[0].Thing
	own, err := a.Cup.AddFile(ctx, "s0", "own",
		cupboard.NewThing{Parent: entryOf(entries, room.SatchelKey(c.ID, c.Students[0].ID)).Thing, Name: "mine.md"}, strings.NewReader("x"))
	if err != nil {
		t.Fatal(err)
	}
	open := func(who, thing string, to, was access.Level) error {
		_, err := a.Cases.Things.OpenToSchool(ctx, who, seam.NewKey(), thing, to, was)
		return err
	}
	for _, no := range []struct {
		who, thing string
	}{{"amaral", id}, {"s0", id}, {"oduya", own.ID}, {"lindqvist", entryOf(entries, room.SatchelKey(c.ID, c.Students[0].ID)).Thing}} {
		if err := open(no.who, no.thing, access.Read, access.Nothing); !errors.Is(err, seam.ErrNoRight) && !errors.Is(err, seam.ErrNotFound) {
			t.Errorf("%s opened %s: %v", no.who, no.thing, err)
		}
	}
	wantInvalid(t, open("oduya", id, access.Edit, access.Nothing), "level", "no-such-level")
	if _, err := a.Cases.Things.Follow(ctx, "eriksen", copies[0].Link); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("a stranger, before: %v", err)
	}
	reach, err := a.Cases.Things.PreviewWidening(ctx, "lindqvist", id)
	if n := reach.Accounts[accounts.Student]; err != nil || reach.School != access.Nothing || reach.Named < 4 || n < 3 {
		t.Errorf("who could get in: %+v, %v", reach, err)
	}
	if err := open("lindqvist", id, access.Read, access.Nothing); err != nil {
		t.Fatal(err)
	}
	if v, err := a.Cases.Things.Follow(ctx, "eriksen", copies[0].Link); err != nil || v.Level != access.Read ||
		len(v.Path) > 0 || v.School != nil || v.Class != "" || v.Handout != nil {
		t.Errorf("a stranger with the link: %+v, %v", v, err)
	}
	if v, err := a.Cases.Things.View(ctx, "s0", id); err != nil || v.Class == "" || v.Handout == nil {
		t.Errorf("whose it is: %+v, %v", v, err)
	}
	if v, err := a.Cases.Things.View(ctx, "oduya", id); err != nil || v.School == nil || *v.School != access.Read {
		t.Errorf("the owner sees %+v, %v", v.School, err)
	}
	var changed *change.Changed
	if err := open("oduya", id, access.Comment, access.Nothing); !errors.As(err, &changed) {
		t.Errorf("what another changed meanwhile: %v", err)
	}
	l, err := a.Cases.Packing.HandoutList(ctx, c.ID, load(t, a, c.ID, h.ID))
	if err != nil {
		t.Fatal(err)
	}
	told := 0
	for _, line := range l.Lines {
		if line.Reason != nil && line.Reason.Code == "open-to-school" && line.Thing == id && line.Section == packing.AlreadyThere {
			told++
		}
	}
	if told != 1 {
		t.Errorf("the packing list tells of %d", told)
	}
	log, _, err := a.Cases.Registers.LogPage(ctx, c.ID, "", 0)
	if err != nil || log[0].Act != "link-opened" {
		t.Errorf("log %+v, %v", log, err)
	}
	if err := open("oduya", id, access.Nothing, access.Read); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Things.Follow(ctx, "eriksen", copies[0].Link); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("a stranger, after: %v", err)
	}
}

func entryOf(all []ledger.Entry, k packing.Key) ledger.Entry {
	for _, e := range all {
		if e.Key == k {
			return e
		}
	}
	return ledger.Entry{}
}

// What a student has begun is nobody else's to show to the school: it can't be opened, and
// what is open is shut once a student writes in it.
func TestBegunIsShut(t *testing.T) {
	a, c := school(t, 2)
	apptest.Account(t, a, "eriksen", "Jonas", "Eriksen")
	apptest.Pack(t, a, c, nil)
	h := apptest.Handout(t, a, c, "# Log")
	apptest.Pack(t, a, c, &h)
	copyOf := func(i int) ledger.Entry {
		return entry(t, a, packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Copy, ID: h.ID, Slot: 1},
			Whom: packing.Whom{Row: c.Students[i].ID}})
	}
	write := func(i int) {
		t.Helper()
		if _, err := a.Cases.Things.Write(ctx, c.Students[i].Account, store.NewID(), copyOf(i).Thing, 1,
			strings.NewReader("# Log\n\nmine")); err != nil {
			t.Fatal(err)
		}
	}
	write(0)
	_, err := a.Cases.Things.OpenToSchool(ctx, "oduya", seam.NewKey(), copyOf(0).Thing, access.Read, access.Nothing)
	wantInvalid(t, err, "level", "begun-by-student")
	if _, err := a.Cases.Things.OpenToSchool(ctx, "oduya", seam.NewKey(), copyOf(1).Thing, access.Read, access.Nothing); err != nil {
		t.Fatal(err)
	}
	if l := levelOf(t, a, "eriksen", copyOf(1).Thing); l != access.Read {
		t.Errorf("untouched and open: %v", l)
	}
	write(1)
	if l := levelOf(t, a, "eriksen", copyOf(1).Thing); l != access.Nothing {
		t.Errorf("begun, and a stranger still has %v", l)
	}
}
