package usecase_test

import (
	"errors"
	"strings"
	"testing"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/usecase/pack"
)

// handedOver has what is handed over to rows looked at and done.
func handedOver(t *testing.T, a *app.App, c picture.Class, rows []string, handout string, staff bool) {
	t.Helper()
	look, err := a.Cases.Leaving.PreviewHandOver(ctx, c.ID, rows, handout)
	if err != nil {
		t.Fatal(err)
	}
	run, err := a.Cases.Leaving.HandOver(ctx, "oduya", c.ID, rows, handout, staff, look.Seen)
	if err != nil {
		t.Fatal(err)
	}
	if r := apptest.Wait(t, a, run.ID); r.Stuck > 0 || r.Passed > 0 {
		t.Fatalf("handing over ended %+v", r)
	}
	apptest.Look(t, a)
}

// What is handed over is the students' own: all of a class, with staff or without them, or the copies of
// one handout; what the student put in stays theirs. Nothing of the class is done with it any more, which
// each list says, and the door check finds nothing wrong.
func TestHandingOver(t *testing.T) {
	a, c, thing := staffed(t, 4)
	row := func(i int) []string { return []string{c.Students[i].ID} }
	own, err := a.Cases.Things.AddFile(ctx, "s0", "own", thing(packing.Satchel, 0), "my pool.txt", "text/plain", strings.NewReader("a limpet"))
	if err != nil {
		t.Fatal(err)
	}
	apptest.Look(t, a)
	look, err := a.Cases.Leaving.PreviewHandOver(ctx, c.ID, nil, "")
	if err != nil || len(look.Lines) != 4 || look.Lines[0].Things != 3 || look.Lines[0].Own != 1 || look.Lines[0].Why != nil {
		t.Fatalf("what would be handed over: %+v, %v", look.Lines, err)
	}
	if _, err := a.Cases.Leaving.HandOver(ctx, "oduya", c.ID, nil, "", true, "x"); !errors.As(err, new(*change.Changed)) {
		t.Errorf("what wasn't looked at: %v", err)
	}
	handedOver(t, a, c, row(0), "", true)
	handedOver(t, a, c, row(1), "", false)
	s, err := a.Cases.Packing.PictureNow(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	first, second := s.Handouts[0], s.Handouts[1]
	handedOver(t, a, c, row(2), first.ID, true)
	for _, x := range []struct {
		what, who, thing string
		want             access.Level
	}{
		{"a satchel, to its student", "s0", thing(packing.Satchel, 0), access.Owner},
		{"its copy", "s0", thing(packing.Copy, 0), access.Owner},
		{"what was theirs", "s0", own.ID, access.Owner},
		{"its copy, to staff who stay", "lindqvist", thing(packing.Copy, 0), access.Edit},
		{"its satchel, to the owner teacher", "oduya", thing(packing.Satchel, 0), access.Edit},
		{"a satchel without staff, to its student", "s1", thing(packing.Satchel, 1), access.Owner},
		{"it, to the owner teacher", "oduya", thing(packing.Satchel, 1), access.Nothing},
		{"its copy, to the assistant", "helper", thing(packing.Copy, 1), access.Nothing},
		{"a copy alone", "s2", thing(packing.Copy, 2), access.Owner},
		{"the satchel that it is in", "s2", thing(packing.Satchel, 2), access.Edit},
		{"what nobody handed over", "s3", thing(packing.Copy, 3), access.Edit},
	} {
		if got := levelOf(t, a, x.who, x.thing); got != x.want {
			t.Errorf("%s: %v, want %v", x.what, got, x.want)
		}
	}
	lowered := s.Entries[packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Copy, ID: second.ID, Slot: 1}, Whom: packing.Whom{Row: row(1)[0]}}]
	if got := levelOf(t, a, "lindqvist", lowered.Thing); got != access.Nothing {
		t.Errorf("a copy that stands alone, to staff who were let out: %v", got)
	}
	if found, _ := checked(t, a, c); len(found) > 0 {
		t.Errorf("the door check finds %v", found)
	}
	left, done := packingLeft(t, a, c, first.ID)
	if done["handed-over"] != 5 || left != 0 { // two satchels, and a copy of each of three
		t.Errorf("the handout's list: %v, %d to pack or to change", done, left)
	}
	if touched, err := a.Cases.Packing.PreviewWithdraw(ctx, c.ID, first.ID); err != nil || len(touched) != 1 {
		t.Errorf("withdrawing takes %d copies, %v", len(touched), err)
	}
	if again, err := a.Cases.Leaving.PreviewHandOver(ctx, c.ID, row(0), ""); err != nil || again.Lines[0].Why == nil {
		t.Errorf("handed over again: %+v, %v", again.Lines, err)
	}
	// What comes later: into a satchel that staff reach it is packed, into another it isn't, and that is said.
	h := apptest.Handout(t, a, c, "# Later\n")
	run, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, h.ID, pack.Part{})
	if err != nil {
		t.Fatal(err)
	}
	if r := apptest.Wait(t, a, run.ID); r.Stuck != 1 || r.Made < 3 {
		t.Errorf("a handout after it: %+v", r)
	}
}

// packingLeft counts what a handout's list leaves to pack or to change, and its reasons.
func packingLeft(t *testing.T, a *app.App, c picture.Class, handout string) (left int, why map[string]int) {
	t.Helper()
	l, err := a.Cases.Packing.HandoutList(ctx, c.ID, load(t, a, c.ID, handout))
	if err != nil {
		t.Fatal(err)
	}
	why = map[string]int{}
	for _, line := range l.Lines {
		if line.Reason != nil {
			why[line.Reason.Code]++
		}
		if line.Section == packing.ToPack || line.Section == packing.ToChange || line.Section == packing.NeedsFixing {
			left++
		}
	}
	return left, why
}
