package usecase_test

import (
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/pack"
	"jollysatchel/internal/usecase/seam"
)

// trio is a handout of one document for a class of three, all of a second of three and,
// as nobody is ticked there yet, nobody of a third. It returns it and its partners.
func trio(t *testing.T, a *app.App) (h handout.Handout, cs []picture.Class, partners []handout.Handout) {
	t.Helper()
	apptest.People(t, a, 9)
	for n := range 3 {
		list := "No,Surname,First,Email\n"
		for i := range 3 {
			list += fmt.Sprintf("%d,Family%d,Given%d,s%d@kestrelquay.example\n", 3*n+i, 3*n+i, 3*n+i, 3*n+i)
		}
		cs = append(cs, apptest.Class(t, a, list))
	}
	h = apptest.Handout(t, a, cs[0], "# Knots")
	for n, cl := range cs[1:] {
		id, err := a.Cases.Handouts.AlsoFor(ctx, "oduya", h.ClassID, h.ID, cl.ID, n == 1)
		if err != nil {
			t.Fatal(err)
		}
		partners = append(partners, load(t, a, cl.ID, id))
	}
	return h, cs, partners
}

func load(t *testing.T, a *app.App, class, id string) handout.Handout {
	t.Helper()
	h, err := a.Store.Handout(ctx, class, id)
	if err != nil {
		t.Fatal(err)
	}
	return h
}

// One handout for two classes and one student of a third gives seven copies in one act;
// what was looked at in one class and is different by then packs nothing in any.
func TestTogether(t *testing.T) {
	a := apptest.Open(t)
	h, cs, with := trio(t, a)
	row := cs[2].Students[1].ID
	if _, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", cs[2].ID, with[1].ID,
		handout.Change{Out: map[string]string{row: ""}}, handout.Change{}); err != nil {
		t.Fatal(err)
	}
	if again := load(t, a, h.ClassID, h.ID); len(again.Settings.Choice.Ticked)+len(load(t, a, cs[1].ID, with[0].ID).
		Settings.Choice.Ticked) > 0 {
		t.Error("who is ticked in one class is in another, too")
	}
	parts := map[string]pack.Part{}
	for i, x := range append([]handout.Handout{h}, with...) {
		l, err := a.Cases.Packing.HandoutList(ctx, x.ClassID, load(t, a, x.ClassID, x.ID))
		if err != nil {
			t.Fatal(err)
		}
		parts[cs[i].ID] = pack.Part{Seen: l.Digest()}
	}
	old := parts[cs[1].ID]
	parts[cs[1].ID] = pack.Part{Seen: "another"}
	var changed *change.Changed
	if _, err := a.Cases.Packing.PackTogether(ctx, "oduya", h.ClassID, h.ID, parts); !errors.As(err, &changed) {
		t.Errorf("a list that is otherwise: %v", err)
	}
	delete(parts, cs[1].ID)
	if _, err := a.Cases.Packing.PackTogether(ctx, "oduya", h.ClassID, h.ID, parts); !errors.As(err, &changed) {
		t.Errorf("a class that nobody looked at: %v", err)
	}
	if load(t, a, h.ClassID, h.ID).Fixed() {
		t.Fatal("packed in part")
	}
	parts[cs[1].ID] = old
	runs, err := a.Cases.Packing.PackTogether(ctx, "oduya", h.ClassID, h.ID, parts)
	if err != nil || len(runs) != 3 {
		t.Fatalf("%d runs, %v", len(runs), err)
	}
	for _, r := range runs {
		apptest.Wait(t, a, r.ID)
	}
	for i, want := range []int{3, 3, 1} {
		n := 0
		entries, err := a.Store.Ledger(ctx, cs[i].ID)
		if err != nil {
			t.Fatal(err)
		}
		for _, e := range entries {
			if e.Key.What.Purpose == packing.Copy {
				n++
			}
		}
		if n != want {
			t.Errorf("class %d has %d copies, want %d", i, n, want)
		}
	}
	way := handout.ForAllName
	_, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", h.ClassID, h.ID, handout.Change{Way: &way}, handout.Change{})
	wantInvalid(t, err, "way", "packed-already")
	if err := a.Cases.Handouts.NotFor(ctx, "oduya", h.ClassID, h.ID, cs[1].ID); err != nil {
		t.Fatal(err)
	}
	if own := load(t, a, cs[1].ID, with[0].ID); own.Together != "" || !own.Packed() {
		t.Errorf("what was packed there: %+v", own)
	}
}

// What the classes have in common is changed for all of them, by who teaches all of them;
// a co-teacher of one may say who of it is in, and take it out.
func TestTogetherChanges(t *testing.T) {
	a := apptest.Open(t)
	h, cs, with := trio(t, a)
	if err := a.Store.AddStaff(ctx, classes.Member{ClassID: cs[1].ID, Account: "lindqvist", Role: classes.Teacher}); err != nil {
		t.Fatal(err)
	}
	there := func() []handout.Handout {
		return []handout.Handout{load(t, a, h.ClassID, h.ID), load(t, a, cs[1].ID, with[0].ID), load(t, a, cs[2].ID, with[1].ID)}
	}
	_, err := a.Cases.Handouts.ChangeHandout(ctx, "lindqvist", cs[1].ID, with[0].ID, handout.Change{Title: ptr("Mine")}, handout.Change{})
	wantInvalid(t, err, "together", "not-your-class")
	mine := handout.Change{Choice: &choosing.Choice{Picked: true}}
	if _, err := a.Cases.Handouts.ChangeHandout(ctx, "lindqvist", cs[1].ID, with[0].ID, mine, handout.Change{}); err != nil {
		t.Error(err)
	}
	if _, err := a.Cases.Handouts.AlsoFor(ctx, "lindqvist", cs[1].ID, with[0].ID, cs[0].ID, false); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("for a class that isn't theirs: %v", err)
	}
	if err := a.Cases.Handouts.NotFor(ctx, "lindqvist", cs[1].ID, with[0].ID, cs[0].ID); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("out of a class that isn't theirs: %v", err)
	}
	_, err = a.Cases.Handouts.AlsoFor(ctx, "oduya", h.ClassID, h.ID, cs[1].ID, false)
	wantInvalid(t, err, "to", "for-it-already")

	// The other classes' logs say what was changed for all, and nothing of this class's students.
	sits := cs[0].Students[0]
	both := handout.Change{Title: ptr("Knots"), Out: map[string]string{sits.ID: "sits-out"}}
	if _, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", h.ClassID, h.ID, both, handout.Change{}); err != nil {
		t.Fatal(err)
	}
	for _, find := range []string{"Knots", sits.SortName()} {
		log, _, err := a.Cases.Registers.LogPage(ctx, cs[1].ID, find, 0)
		if err != nil || (len(log) > 0) != (find == "Knots") {
			t.Errorf("the other class's log finds %q: %+v, %v", find, log, err)
		}
	}
	if log, _, err := a.Cases.Registers.LogPage(ctx, h.ClassID, "whose", 0); err != nil || len(log) > 0 {
		t.Errorf("a key of what is kept is found: %+v, %v", log, err)
	}

	for n := 3; n <= 21; n++ {
		cl, err := a.Cases.Classes.CreateClass(ctx, "oduya", fmt.Sprint("9", n), fmt.Sprint("Tide Watch ", n), "", false)
		if err != nil {
			t.Fatal(err)
		}
		id, err := a.Cases.Handouts.AlsoFor(ctx, "oduya", h.ClassID, h.ID, cl.ID, false)
		if n == 21 {
			wantInvalid(t, err, "to", "too-many-classes")
		} else if err != nil {
			t.Fatalf("class %d: %v", n, err)
		} else if n == 3 {
			if err := a.Cases.Handouts.NotFor(ctx, "oduya", h.ClassID, h.ID, cl.ID); err != nil {
				t.Error(err)
			}
			if _, err := a.Store.Handout(ctx, cl.ID, id); !errors.Is(err, store.ErrNotFound) {
				t.Errorf("taken out, and there: %v", err)
			}
		}
	}

	// Everybody at once, from all pages: nothing is lost, nobody waits for ever.
	tpl, err := a.Cases.Handouts.AddTemplate(ctx, "oduya", "Second.md", "text/markdown", strings.NewReader("# Two"))
	if err != nil {
		t.Fatal(err)
	}
	more := append(there()[0].Settings.Documents, handout.GivenDocument{Template: tpl.ID})
	var all sync.WaitGroup
	for n, ch := range []handout.Change{{Title: ptr("Ropes")}, {Message: ptr("Bring string.")}, {Documents: &more}} {
		all.Go(func() {
			x := append([]handout.Handout{h}, with...)[n]
			if _, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", x.ClassID, x.ID, ch, handout.Change{}); err != nil {
				t.Errorf("change %d: %v", n, err)
			}
		})
	}
	all.Wait()
	for _, x := range there() {
		if x.Title != "Ropes" || x.Settings.Message != "Bring string." || len(x.Settings.Documents) != 2 || x.Settings.Documents[1].Slot != 2 {
			t.Errorf("in class %s: %q, %q, %+v", x.ClassID, x.Title, x.Settings.Message, x.Settings.Documents)
		}
	}
	if s := there(); !s[1].Settings.Choice.Picked || s[0].Settings.Choice.Picked {
		t.Errorf("who is in: %+v, %+v", s[0].Settings.Choice, s[1].Settings.Choice)
	}
	log, _, err := a.Cases.Registers.LogPage(ctx, cs[2].ID, "", 0)
	if err != nil || !strings.Contains(log[0].Text, "Ropes") {
		t.Errorf("the log of another class: %+v, %v", log, err)
	}
	if err := a.Cases.Handouts.NotFor(ctx, "lindqvist", cs[1].ID, with[0].ID, cs[1].ID); err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.Handouts.DeleteHandout(ctx, "oduya", h.ClassID, h.ID); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Store.Handout(ctx, cs[2].ID, with[1].ID); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("thrown away, and there: %v", err)
	}
	load(t, a, cs[1].ID, with[0].ID)
}

// What was packed in one class is there: what can't be changed any more is refused in
// all, with the class's name. Documents given beside stay that class's.
func TestTogetherPackedThere(t *testing.T) {
	a := apptest.Open(t)
	h, cs, with := trio(t, a)
	apptest.Pack(t, a, cs[1], &with[0])
	way := handout.ForAllName
	_, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", h.ClassID, h.ID, handout.Change{Way: &way}, handout.Change{})
	wantInvalid(t, err, "way", "packed-there")
	_, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", h.ClassID, h.ID,
		handout.Change{Documents: &[]handout.GivenDocument{}}, handout.Change{})
	wantInvalid(t, err, "documents", "packed-there")

	there := load(t, a, cs[1].ID, with[0].ID)
	beside := there.Settings.Documents[0]
	beside.Slot, beside.Only = 2, []string{cs[1].Students[0].ID}
	there.Settings.Documents = append(there.Settings.Documents, beside)
	if err := a.Store.SaveHandout(ctx, there); err != nil {
		t.Fatal(err)
	}
	more := append(load(t, a, h.ClassID, h.ID).Settings.Documents, handout.GivenDocument{Slot: 2, Template: beside.Template})
	if _, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", h.ClassID, h.ID, handout.Change{Documents: &more},
		handout.Change{}); err != nil {
		t.Fatal(err)
	}
	got := load(t, a, cs[1].ID, with[0].ID).Settings.Documents
	if len(got) != 3 || got[1].Slot != 3 || got[2].Slot != 2 || len(got[2].Only) != 1 {
		t.Errorf("documents there: %+v", got)
	}
}
