package usecase_test

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"testing"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/leaving"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/pack"
	"jollysatchel/internal/usecase/registers"
	"jollysatchel/internal/usecase/seam"
)

// entry is what was made for a key of a class.
func entry(t *testing.T, a *app.App, k packing.Key) ledger.Entry {
	t.Helper()
	e, err := a.Store.EntryByKey(ctx, k)
	if err != nil {
		t.Fatalf("%s: %v", k, err)
	}
	return e
}

func satchelOf(t *testing.T, a *app.App, c picture.Class, i int) ledger.Entry {
	t.Helper()
	return entry(t, a, room.SatchelKey(c.ID, c.Students[i].ID))
}

// levelOf is what an account has on a thing, as the cupboard has it.
func levelOf(t *testing.T, a *app.App, account, thing string) access.Level {
	t.Helper()
	x, err := a.Cup.Get(ctx, account, thing)
	if errors.Is(err, cupboard.ErrNotFound) {
		return access.Nothing
	}
	if err != nil {
		t.Fatal(err)
	}
	return x.Level
}

// packed packs what the room's list offers, with all that is to be changed.
func packed(t *testing.T, a *app.App, class string) ledger.Run {
	t.Helper()
	apptest.Look(t, a)
	l, err := a.Cases.Packing.RoomList(ctx, class)
	if err != nil {
		t.Fatal(err)
	}
	part := pack.Part{Seen: l.Digest()}
	for _, line := range l.Lines {
		if line.Section == packing.ToChange {
			part.Changes = append(part.Changes, line.Step.String())
		}
	}
	run, err := a.Cases.Packing.Pack(ctx, "oduya", class, "", part)
	if err != nil {
		t.Fatal(err)
	}
	return apptest.Wait(t, a, run.ID)
}

func addPlace(name string, whom room.For, level string) (ch room.Change) {
	ch.Places.Add = []room.PlaceParts{{Name: &name, For: &whom, Level: &level}}
	return ch
}

// A class's folder is put where the teacher says; levels are made once and shared
// by classes; id and link stay when it moves.
func TestBase(t *testing.T) {
	a, c := school(t, 2)
	mk := func(as, parent, name string) cupboard.Thing {
		x, err := a.Cup.MakeFolder(ctx, as, store.NewID(), cupboard.NewThing{Parent: parent, Name: name})
		if err != nil {
			t.Fatal(err)
		}
		return x
	}
	shelf, theirs := mk("oduya", "", "Year books"), mk("stranger", "", "Private")
	apptest.Pack(t, a, c, nil)
	folder := entry(t, a, packing.Key{Class: c.ID, What: packing.What{Purpose: packing.ClassFolder}})
	set := func(base string) error {
		ch := room.Change{}
		ch.To.Base = &base
		return a.Cases.Rooms.ChangeRoom(ctx, "oduya", c.ID, ch)
	}
	if err := set(theirs.ID); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("a folder of somebody else's: %v", err)
	}
	if err := a.Cup.Share(ctx, "stranger", store.NewID(), theirs.ID, map[string]access.Level{"oduya": access.Read}); err != nil {
		t.Fatal(err)
	}
	wantInvalid(t, set(theirs.ID), "base", "base-no-right")
	wantInvalid(t, set(satchelOf(t, a, c, 0).Thing), "base", "base-inside")
	for i := range 41 {
		mk("oduya", shelf.ID, fmt.Sprint("Chart ", i))
	}
	if f, err := a.Cases.Things.FindFolders(ctx, "oduya", " chart "); err != nil || len(f.Folders) != 40 || !f.Further ||
		f.Folders[0].Path[0].Name != "Year books" {
		t.Errorf("%d found, further %v, %v", len(f.Folders), f.Further, err)
	}
	if f, err := a.Cases.Things.FindFolders(ctx, "oduya", "PRIVATE"); err != nil || len(f.Folders) != 1 || f.Further ||
		f.Folders[0].ID != theirs.ID {
		t.Errorf("%+v, %v", f, err)
	}
	_, err := a.Cases.Things.FindFolders(ctx, "oduya", strings.Repeat("x", 241))
	wantInvalid(t, err, "find", "too-long")
	file, err := a.Cup.AddFile(ctx, "oduya", store.NewID(), cupboard.NewThing{Parent: shelf.ID, Name: "a.txt"}, strings.NewReader("a"))
	if err != nil {
		t.Fatal(err)
	}
	wantInvalid(t, set(file.ID), "base", "base-not-folder")
	if err := set("urn:uuid:0198a0c0-0000-7000-8000-000000000000"); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("no id: %v", err)
	}

	other := apptest.Class(t, a, apptest.List(1))
	wantInvalid(t, func() error {
		ch := room.Change{}
		ch.To.Base = &folder.Thing
		return a.Cases.Rooms.ChangeRoom(ctx, "oduya", other.ID, ch)
	}(), "base", "base-of-class")
	for _, class := range []string{c.ID, other.ID} {
		ch := room.Change{}
		term := "Autumn"
		ch.To.Base, ch.To.Term, ch.To.Path = &shelf.ID, &term, &[]naming.Pattern{{{Text: "Boats"}}, {{Column: record.Term}}}
		if err := a.Cases.Rooms.ChangeRoom(ctx, "oduya", class, ch); err != nil {
			t.Fatal(err)
		}
		if run := packed(t, a, class); run.Stuck > 0 {
			t.Fatalf("%+v", run)
		}
	}
	apptest.Look(t, a)
	there, err := a.Cup.Get(ctx, "oduya", folder.Thing)
	if err != nil {
		t.Fatal(err)
	}
	var path []string
	for _, crumb := range there.Path {
		path = append(path, crumb.Name)
	}
	if fmt.Sprint(path) != "[Year books Boats Autumn]" || there.Link != folder.Link {
		t.Errorf("it lies in %v, link %s, was %s", path, there.Link, folder.Link)
	}
	beside, err := a.Cup.List(ctx, "oduya", there.Parent)
	if err != nil || len(beside) != 2 {
		t.Errorf("in one level lie %d, %v", len(beside), err)
	}
	if l := levelOf(t, a, "s0", satchelOf(t, a, c, 0).Thing); l != access.Edit {
		t.Errorf("after the move the student has %v", l)
	}
	if l, err := a.Cases.Packing.RoomList(ctx, c.ID); err != nil || l.Counts()[packing.ToChange]+l.Counts()[packing.ToPack] > 0 {
		t.Errorf("%v, %v", l.Counts(), err)
	}
}

// A class's things can be the school's: before anything is made, and later, with all
// there is; everybody reaches what they reached, and packing goes on.
func TestSchoolOwns(t *testing.T) {
	a, c := school(t, 3)
	own := func(school bool) error {
		ch := room.Change{}
		ch.To.School = &school
		return a.Cases.Rooms.ChangeRoom(ctx, "oduya", c.ID, ch)
	}
	if err := a.Store.AddStaff(ctx, classes.Member{ClassID: c.ID, Account: "lindqvist", Role: classes.Teacher}); err != nil {
		t.Fatal(err)
	}
	apptest.Pack(t, a, c, nil)
	h := apptest.Handout(t, a, c, "# Log\n")
	h, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Level: ptr("comment")}, handout.Change{})
	if err != nil {
		t.Fatal(err)
	}
	run, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, h.ID, pack.Part{})
	if err != nil {
		t.Fatal(err)
	}
	wantInvalid(t, own(true), "school", "being-packed")
	apptest.Wait(t, a, run.ID)
	satchel := satchelOf(t, a, c, 0)
	work := entry(t, a, packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Copy, ID: h.ID, Slot: 1},
		Whom: packing.Whom{Row: c.Students[0].ID}})
	for _, x := range []struct {
		school bool
		owner  string
	}{{true, seam.SchoolAccount}, {false, "oduya"}, {true, seam.SchoolAccount}} {
		if err := own(x.school); err != nil {
			t.Fatal(err)
		}
		settle(t, a)
		if cl := apptest.Load(t, a, c.ID); cl.Owner() != x.owner {
			t.Fatalf("it is %s's, want %s's", cl.Owner(), x.owner)
		}
		if n, err := a.Cases.Packing.TopUp(ctx, "oduya", c.ID, pack.Part{}); err != nil {
			t.Fatal(n, err)
		}
		settle(t, a)
		for _, thing := range []string{satchel.Thing, work.Thing} {
			if s, err := a.Cup.Get(ctx, x.owner, thing); err != nil || s.Owner != x.owner {
				t.Errorf("owned by %s, want %s, %v", s.Owner, x.owner, err)
			}
		}
		for account, want := range map[string]access.Level{"s0": access.Comment, "s1": access.Nothing,
			"lindqvist": access.Edit, "stranger": access.Nothing} {
			if l := levelOf(t, a, account, work.Thing); l != want {
				t.Errorf("%s's: %s has %v on the copy, want %v", x.owner, account, l, want)
			}
		}
		if l := levelOf(t, a, "oduya", work.Thing); l < access.Edit {
			t.Errorf("%s's: the teacher has %v on the copy", x.owner, l)
		}
		if l, err := a.Cases.Packing.RoomList(ctx, c.ID); err != nil ||
			l.Counts()[packing.ToPack]+l.Counts()[packing.NeedsFixing]+l.Counts()[packing.ToChange] > 0 {
			t.Errorf("%s's: %v, %v", x.owner, l.Counts(), err)
		}
	}
	// Teachers name and move what is the school's; a newcomer is packed for.
	if err := a.Cases.Things.Rename(ctx, "lindqvist", store.NewID(), satchel.Thing, "Other"); err != nil {
		t.Error(err)
	}
	if _, err := a.Cases.Rosters.AddStudents(ctx, "oduya", c.ID,
		[]record.Record{{Family: "Family3", Given: "Given3", Address: "s3@kestrelquay.example"}}); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Packing.TopUp(ctx, "oduya", c.ID, pack.Part{}); err != nil {
		t.Fatal(err)
	}
	settle(t, a)
	cl := apptest.Load(t, a, c.ID)
	for i := range cl.Students {
		if e := satchelOf(t, a, cl, i); levelOf(t, a, cl.Students[i].Account, e.Thing) != access.Edit {
			t.Errorf("%s doesn't reach the own satchel", cl.Students[i].Account)
		}
	}
}

// The tree shows what each would see, in parts.
func TestTree(t *testing.T) {
	const n = 70 // more than are shown at once
	a, c := school(t, n)
	if err := a.Cases.Rooms.ChangeRoom(ctx, "oduya", c.ID, addPlace("Hand in", room.ForStudent, "edit")); err != nil {
		t.Fatal(err)
	}
	tree := func(eyes, under string, from int) picture.Tree {
		x, err := a.Cases.Packing.Tree(ctx, c.ID, eyes, under, from)
		if err != nil {
			t.Fatal(err)
		}
		return x
	}
	top := tree(pack.StaffEyes, "", 0)
	if len(top.Nodes) != 1 || top.Nodes[0].Inside != 5 || top.Folders != 1+4+n+1+n || top.Grants != 4*n || top.States["new"] != top.Folders {
		t.Fatalf("%d nodes, %d folders, %d grants, %v", len(top.Nodes), top.Folders, top.Grants, top.States)
	}
	cloakroom := c.ID + "/cloakroom/class"
	first := tree(pack.StaffEyes, cloakroom, 0)
	rest := tree(pack.StaffEyes, cloakroom, len(first.Nodes))
	if len(first.Nodes)+len(rest.Nodes) != n || first.More != len(rest.Nodes) || rest.More != 0 || first.Nodes[0].Key == rest.Nodes[0].Key {
		t.Errorf("%d and %d of %d, %d more", len(first.Nodes), len(rest.Nodes), n, first.More)
	}
	if x := tree(pack.AssistantEyes, "", 0).Nodes[0]; x.Level != access.Comment || x.Inside != 5 {
		t.Errorf("an assistant sees %+v", x)
	}
	mine := tree(c.Students[3].ID, "", 0)
	var seen []string
	for _, x := range mine.Nodes {
		seen = append(seen, string(x.Key.What.Purpose)+" "+x.Level.String()+" "+x.Why)
	}
	if want := []string{"shelf read own", "table edit own", "place edit own", "satchel edit own"}; !slices.Equal(seen, want) {
		t.Errorf("a student sees %v, want %v", seen, want)
	}
	for _, x := range mine.Nodes {
		if x.Row != "" && x.Row != c.Students[3].ID {
			t.Errorf("a student sees %s", x.Key)
		}
	}
	if _, err := a.Cases.Packing.Tree(ctx, c.ID, "nobody", "", 0); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("nobody's eyes: %v", err)
	}
	if _, err := a.Cases.Packing.Tree(ctx, c.ID, pack.StaffEyes, "other/cloakroom/class", 0); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("another class's folder: %v", err)
	}
}

// What is taken out of the plan stays until it is binned on purpose, after it was
// counted; what the teacher left in the bin isn't asked about again.
func TestKeptAndLeft(t *testing.T) {
	a, c := school(t, 3)
	if err := a.Cases.Rooms.ChangeRoom(ctx, "oduya", c.ID, addPlace("Hand in", room.ForStudent, "edit")); err != nil {
		t.Fatal(err)
	}
	apptest.Pack(t, a, c, nil)
	id := apptest.Load(t, a, c.ID).Plan.Places[4].ID
	mine := entry(t, a, packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Place, ID: id},
		Whom: packing.Whom{Row: c.Students[0].ID}})
	if _, err := a.Cup.MakeFolder(ctx, "s0", store.NewID(), cupboard.NewThing{Parent: mine.Thing, Name: "Essay"}); err != nil {
		t.Fatal(err)
	}
	var ch room.Change
	ch.Places.Remove = []string{id, room.Shelf}
	if err := a.Cases.Rooms.ChangeRoom(ctx, "oduya", c.ID, ch); err != nil {
		t.Fatal(err)
	}
	if l, err := a.Cases.Packing.RoomList(ctx, c.ID); err != nil || l.Counts()[packing.AlreadyThere] != len(l.Lines) {
		t.Errorf("out of the plan: %v, %v", l.Counts(), err)
	}
	apptest.Look(t, a)
	if _, err := a.Cases.Packing.RoomList(ctx, c.ID); err != nil {
		t.Fatal(err)
	}
	kept, err := a.Cases.Packing.Leftovers(ctx, c.ID)
	if err != nil || len(kept) != 2 {
		t.Fatalf("%+v, %v", kept, err)
	}
	i := slices.IndexFunc(kept, func(k picture.Leftover) bool { return k.ID == id })
	if k := kept[i]; k.Name != "Hand in" || k.Things != 4 || k.Inside != 1 || k.Newest == "" {
		t.Errorf("%+v", k)
	}
	if _, err := a.Cases.Packing.BinLeftover(ctx, "oduya", c.ID, id, 4, 0); !errors.As(err, new(*change.Changed)) {
		t.Errorf("binned what wasn't looked at: %v", err)
	}
	run, err := a.Cases.Packing.BinLeftover(ctx, "oduya", c.ID, id, 4, 1)
	if err != nil {
		t.Fatal(err)
	}
	if run = apptest.Wait(t, a, run.ID); run.Packed != 4 || run.Stuck != 0 {
		t.Errorf("%+v", run)
	}
	if l := levelOf(t, a, "s0", mine.Thing); l != access.Nothing {
		t.Errorf("what was binned is open to its student: %v", l)
	}
	if bin, err := a.Cases.Things.Binned(ctx, "s0"); err != nil || len(bin) != 1 || bin[0].Name != "Essay" {
		t.Errorf("the student's own bin holds %v, %v", bin, err)
	}
	if kept, err = a.Cases.Packing.Leftovers(ctx, c.ID); err != nil || len(kept) != 1 || kept[0].ID != room.Shelf {
		t.Errorf("kept then: %+v, %v", kept, err)
	}

	// The shelf comes back into the plan, and is the one there was.
	shelf := entry(t, a, packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Shelf}})
	back := room.Change{}
	back.Places.Add = []room.PlaceParts{{Usual: ptr(room.Shelf)}}
	if err := a.Cases.Rooms.ChangeRoom(ctx, "oduya", c.ID, back); err != nil {
		t.Fatal(err)
	}
	if l, err := a.Cases.Packing.RoomList(ctx, c.ID); err != nil || l.Counts()[packing.ToPack] != 0 ||
		entry(t, a, shelf.Key).Thing != shelf.Thing {
		t.Errorf("the shelf is back: %v, %v", l.Counts(), err)
	}

	// Something binned by hand is asked about until it is left so.
	table := entry(t, a, packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Table}})
	if err := a.Cup.Bin(ctx, "oduya", store.NewID(), table.Thing, nil); err != nil {
		t.Fatal(err)
	}
	counts := func() map[packing.Section]int {
		l, err := a.Cases.Packing.RoomList(ctx, c.ID)
		if err != nil {
			t.Fatal(err)
		}
		return l.Counts()
	}
	if n := counts(); n[packing.NeedsFixing] != 1 {
		t.Errorf("in the bin: %v", n)
	}
	for _, be := range []bool{true, false} {
		if err := a.Cases.Packing.LeaveAsIs(ctx, "oduya", c.ID, table.Key.String(), be); err != nil {
			t.Fatal(err)
		}
		if n := counts(); (n[packing.LeftOut] == 1) != be || (n[packing.NeedsFixing] == 1) == be {
			t.Errorf("left as it is %v: %v", be, n)
		}
	}
	if err := a.Cases.Packing.LeaveAsIs(ctx, "oduya", c.ID, "other/table/class", true); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("of another class: %v", err)
	}
}

// A run is taken back while nobody has begun, and what it made can be packed again.
func TestTakeBack(t *testing.T) {
	a, c := school(t, 3)
	packed := apptest.Pack(t, a, c, nil)
	h := apptest.Handout(t, a, c, "# Log\n")
	run := apptest.Pack(t, a, c, &h)
	back := func() picture.Backing {
		apptest.Look(t, a)
		b, err := a.Cases.Packing.TakingBack(ctx, c.ID, run.ID)
		if err != nil {
			t.Fatal(err)
		}
		return b
	}
	if b := back(); len(b.Lines) != 5 || b.Held != 0 {
		t.Fatalf("%d lines, %d held", len(b.Lines), b.Held)
	}
	if _, err := a.Cases.Packing.TakeBack(ctx, "oduya", c.ID, run.ID, 4); !errors.As(err, new(*change.Changed)) {
		t.Errorf("taken back what wasn't looked at: %v", err)
	}
	first := entry(t, a, packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Copy, ID: h.ID, Slot: 1},
		Whom: packing.Whom{Row: c.Students[0].ID}})
	if _, err := a.Cases.Things.Write(ctx, "s0", store.NewID(), first.Thing, 1, strings.NewReader("# Log\n\nI stood here.\n")); err != nil {
		t.Fatal(err)
	}
	if b := back(); b.Held != 1 ||
		b.Lines[slices.IndexFunc(b.Lines, func(l picture.BackLine) bool { return l.Reason != nil })].Reason.Code != "begun" {
		t.Errorf("begun: %+v", b)
	}
	_, err := a.Cases.Packing.TakeBack(ctx, "oduya", c.ID, run.ID, 5)
	wantInvalid(t, err, "list", "begun-already")
	// What holds it says so, whatever else it holds.
	room, err := a.Cases.Packing.TakingBack(ctx, c.ID, packed.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, l := range room.Lines {
		want := map[packing.Purpose]string{packing.ClassFolder: "inside-begun", packing.Cloakroom: "inside-begun"}[l.Entry.Key.What.Purpose]
		if l.Entry.Key.What.Purpose == packing.Satchel {
			if want = "inside-later"; l.Entry.Key.Whom.Row == c.Students[0].ID {
				want = "inside-begun"
			}
		}
		if want != "" && (l.Reason == nil || l.Reason.Code != want) {
			t.Errorf("%s: %+v, want %s", l.Name, l.Reason, want)
		}
	}

	// One nobody began: all goes to the bin, and the handout is as before.
	again := apptest.Handout(t, a, c, "# Card\n")
	run = apptest.Pack(t, a, c, &again)
	made := back()
	taken, err := a.Cases.Packing.TakeBack(ctx, "oduya", c.ID, run.ID, len(made.Lines))
	if err != nil {
		t.Fatal(err)
	}
	if taken = apptest.Wait(t, a, taken.ID); taken.Packed != len(made.Lines) || taken.Stuck != 0 {
		t.Errorf("%+v", taken)
	}
	if now, err := a.Store.Handout(ctx, c.ID, again.ID); err != nil || now.Packed() {
		t.Errorf("it is packed still, %v", err)
	}
	if l, err := a.Cases.Packing.Missing(ctx, c.ID); err != nil || len(l.Lines) != 0 {
		t.Errorf("a top-up would bring it back: %d, %v", len(l.Lines), err)
	}
	if run = apptest.Pack(t, a, c, &again); run.Packed != len(made.Lines) || run.Stuck != 0 {
		t.Errorf("packed again: %+v", run)
	}
}

// A class that keeps in step serves anyone who joins, and leaves changes alone.
func TestKeepInStep(t *testing.T) {
	a, c := school(t, 3)
	apptest.People(t, a, 5)
	apptest.Pack(t, a, c, nil)
	h := apptest.Handout(t, a, c, "# Log\n")
	apptest.Pack(t, a, c, &h)
	join := func(i int, address string) {
		if _, err := a.Cases.Rosters.AddStudents(ctx, "oduya", c.ID,
			[]record.Record{{Family: fmt.Sprint("Family", i), Given: fmt.Sprint("Given", i), Address: address}}); err != nil {
			t.Fatal(err)
		}
	}
	step := func() (made int) {
		t.Helper()
		if err := a.Cases.Packing.KeepInStep(ctx); err != nil {
			t.Fatal(err)
		}
		runs, err := a.Store.OpenRuns(ctx)
		if err != nil {
			t.Fatal(err)
		}
		for _, id := range runs {
			made += apptest.Wait(t, a, id).Made
		}
		apptest.Look(t, a)
		return made
	}
	join(3, "s3@kestrelquay.example")
	if n := step(); n != 0 {
		t.Errorf("off, and %d things were made", n)
	}
	on := true
	ch := room.Change{}
	ch.To.KeepInStep = &on
	if err := a.Cases.Rooms.ChangeRoom(ctx, "oduya", c.ID, ch); err != nil {
		t.Fatal(err)
	}
	if n := step(); n != 2 {
		t.Errorf("on, and %d things were made, want a satchel and a copy", n)
	}
	if n := step(); n != 0 {
		t.Errorf("again: %d", n)
	}
	// One whose address is wrong waits for the teacher, and isn't tried again and again.
	join(9, "lindqvist@kestrelquay.example")
	if n := step() + step(); n != 0 {
		t.Errorf("a teacher's address: %d things were made", n)
	}
	join(8, "nobody@kestrelquay.example") // provided for, and it waits
	if n, again := step(), step(); n != 2 || again != 0 {
		t.Errorf("an unknown address: %d and %d things were made", n, again)
	}
	if runs, err := a.Store.PastRuns(ctx, c.ID, 50); err != nil || len(runs) > 6 {
		t.Errorf("%d runs, %v", len(runs), err)
	}
	// A new name is a line to change: for the teacher to tick.
	if _, err := a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID,
		[]classes.Edit{{Row: c.Students[0].ID, Field: record.Family, Value: "Renamed"}}); err != nil {
		t.Fatal(err)
	}
	step()
	if e := satchelOf(t, a, c, 0); strings.Contains(e.Name, "Renamed") {
		t.Errorf("renamed by itself: %s", e.Name)
	}
	// Who wished it no longer teaches here.
	if err := a.Store.SetKeepInStep(ctx, c.ID, "stranger"); err != nil {
		t.Fatal(err)
	}
	join(4, "s4@kestrelquay.example")
	if n := step(); n != 0 {
		t.Errorf("wished by a stranger: %d", n)
	}
}

// left takes a student off the list and has what follows done.
func left(t *testing.T, a *app.App, c picture.Class, i int) {
	t.Helper()
	if _, err := a.Cases.Rosters.SetLeft(ctx, "oduya", c.ID, []string{c.Students[i].ID}, true); err != nil {
		t.Fatal(err)
	}
	settle(t, a)
}

func settle(t *testing.T, a *app.App) {
	t.Helper()
	runs, err := a.Store.OpenRuns(ctx)
	if err != nil {
		t.Fatal(err)
	}
	for _, id := range runs {
		if r := apptest.Wait(t, a, id); r.Stuck > 0 {
			t.Fatalf("%+v", r)
		}
	}
	apptest.Look(t, a)
}

// Who left: asked once, counted, nothing by itself; the archive is whole, the bin
// has a way back, handing over makes the student the owner.
func TestLeavers(t *testing.T) {
	a, c := school(t, 4)
	if err := a.Cases.Rooms.ChangeRoom(ctx, "oduya", c.ID, addPockets("Field work")); err != nil {
		t.Fatal(err)
	}
	apptest.Pack(t, a, c, nil)
	h := apptest.Handout(t, a, c, "# Log\n")
	edit(t, a, c, &h, handout.Change{Pocket: &apptest.Load(t, a, c.ID).Plan.Pockets[0].ID})
	apptest.Pack(t, a, c, &h)
	satchel := satchelOf(t, a, c, 0)
	for _, name := range []string{"a/b.txt", "same.txt", "SAME.txt"} {
		if _, err := a.Cases.Things.AddFile(ctx, "s0", store.NewID(), satchel.Thing, name, "text/plain",
			strings.NewReader("mine "+name)); err != nil {
			t.Fatal(err)
		}
	}
	for i := range 3 {
		left(t, a, c, i)
	}
	all, err := a.Cases.Leaving.Leavers(ctx, c.ID)
	if err != nil || len(all) != 3 {
		t.Fatalf("%d left, %v", len(all), err)
	}
	of := func(i int) leaving.Leaver {
		t.Helper()
		all, err := a.Cases.Leaving.Leavers(ctx, c.ID)
		if err != nil {
			t.Fatal(err)
		}
		return all[slices.IndexFunc(all, func(l leaving.Leaver) bool { return l.Student.ID == c.Students[i].ID })]
	}
	if l := of(0); l.Decision != "" || l.Copies != 1 || l.Own != 3 || l.Newest.IsZero() || l.Binned || len(l.Things) != 1 {
		t.Errorf("%+v", l)
	}
	if l := levelOf(t, a, "s0", satchel.Thing); l != access.Edit {
		t.Errorf("leaving took the satchel away: %v", l)
	}

	var b bytes.Buffer
	if err := a.Cases.Leaving.Archive(ctx, c.ID, c.Students[0].ID, &b); err != nil {
		t.Fatal(err)
	}
	z, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
	if err != nil {
		t.Fatal(err)
	}
	var names []string
	for _, f := range z.File {
		names = append(names, f.Name)
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		if content, err := io.ReadAll(r); err != nil || strings.HasSuffix(f.Name, "same.txt") && string(content) != "mine same.txt" {
			t.Errorf("%s: %q, %v", f.Name, content, err)
		}
	}
	top := satchel.Name + "/"
	for _, want := range []string{top, top + "b.txt", top + "same.txt", top + "SAME (2).txt", top + "Field work/",
		top + "Field work/" + entry(t, a,
			packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Copy, ID: h.ID, Slot: 1},
				Whom: packing.Whom{Row: c.Students[0].ID}}).Name, "About this archive.txt"} {
		if !slices.Contains(names, want) {
			t.Errorf("the archive lacks %s: %q", want, names)
		}
	}
	if !slices.IsSortedFunc(names[:len(names)-1], func(a, b string) int { return strings.Compare(strings.ToLower(a), strings.ToLower(b)) }) {
		t.Logf("in the order of the folders: %q", names)
	}

	decide := func(i int, what string, own int) error {
		return a.Cases.Leaving.Decide(ctx, "oduya", c.ID, c.Students[i].ID, what, own)
	}
	if err := decide(0, classes.Bin, 0); !errors.As(err, new(*change.Changed)) {
		t.Errorf("binned without what is the student's being counted: %v", err)
	}
	if err := decide(3, classes.Keep, 0); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("somebody who is there: %v", err)
	}
	wantInvalid(t, decide(0, "eat", 3), "decision", "not-one-of")
	for i, what := range []string{classes.Bin, classes.HandOver, classes.Keep} {
		if err := decide(i, what, of(i).Own); err != nil {
			t.Fatalf("%s: %v", what, err)
		}
	}
	settle(t, a)
	if l := of(0); !l.Binned || l.BinUntil.IsZero() || levelOf(t, a, "s0", satchel.Thing) != access.Nothing {
		t.Errorf("binned: %+v", l)
	}
	if bin, err := a.Cases.Things.Binned(ctx, "s0"); err != nil || len(bin) != 3 {
		t.Errorf("the student's own bin: %d, %v", len(bin), err)
	}
	if l := of(1); !l.Owned || levelOf(t, a, "s1", satchelOf(t, a, c, 1).Thing) != access.Owner ||
		levelOf(t, a, "oduya", satchelOf(t, a, c, 1).Thing) != access.Edit {
		t.Errorf("handed over: %+v, the teacher has %v", l, levelOf(t, a, "oduya", satchelOf(t, a, c, 1).Thing))
	}
	if l := of(2); l.Decision != classes.Keep || levelOf(t, a, "s2", satchelOf(t, a, c, 2).Thing) != access.Edit {
		t.Errorf("kept: %+v", l)
	}
	if err := decide(0, leaving.BringBack, of(0).Own); err != nil {
		t.Fatal(err)
	}
	settle(t, a)
	if l := levelOf(t, a, "s0", satchel.Thing); l != access.Edit {
		t.Errorf("brought back, and the student has %v", l)
	}
	// Who comes back has the same satchel, and leaving again is asked about again.
	if _, err := a.Cases.Rosters.SetLeft(ctx, "oduya", c.ID, []string{c.Students[2].ID}, false); err != nil {
		t.Fatal(err)
	}
	left(t, a, c, 2)
	if l := of(2); l.Decision != "" {
		t.Errorf("leaving again is decided already: %+v", l)
	}
	if found, _ := checked(t, a, c); len(found) > 0 {
		t.Errorf("the door check finds %v", found)
	}
}

// Who leaves is out of every place of the class and of teams at once, also of those
// that the plan no longer has; the own places stay.
func TestLeavingClosesPlaces(t *testing.T) {
	a, c := school(t, 3)
	var edits []classes.Edit
	for _, st := range c.Students {
		edits = append(edits, classes.Edit{Row: st.ID, Field: record.Team, Value: "Gull"})
	}
	if _, err := a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID, edits); err != nil {
		t.Fatal(err)
	}
	for _, ch := range []room.Change{addPlace("Songs", room.ForClass, "comment"),
		addPlace("Crews", room.ForTeam, "edit"), addPlace("Hand in", room.ForStudent, "edit"),
		addPlace("Old", room.ForClass, "edit"), addPlace("Old crews", room.ForTeam, "edit")} {
		if err := a.Cases.Rooms.ChangeRoom(ctx, "oduya", c.ID, ch); err != nil {
			t.Fatal(err)
		}
	}
	apptest.Pack(t, a, c, nil)
	var ch room.Change
	for _, p := range apptest.Load(t, a, c.ID).Plan.Places {
		if strings.HasPrefix(p.Name, "Old") {
			ch.Places.Remove = append(ch.Places.Remove, p.ID)
		}
	}
	if err := a.Cases.Rooms.ChangeRoom(ctx, "oduya", c.ID, ch); err != nil {
		t.Fatal(err)
	}
	reached := func(account string) (names []string) {
		entries, err := a.Store.Ledger(ctx, c.ID)
		if err != nil {
			t.Fatal(err)
		}
		for _, e := range entries {
			if levelOf(t, a, account, e.Thing) > access.Nothing {
				names = append(names, e.Name)
			}
		}
		slices.Sort(names)
		return names
	}
	if got := fmt.Sprint(reached("s0")); got != "[Family0, Given0 Family0, Given0 Gull Gull Old Shelf Songs Table]" {
		t.Errorf("before: %s", got)
	}
	left(t, a, c, 0)
	if got := fmt.Sprint(reached("s0")); got != "[Family0, Given0 Family0, Given0]" {
		t.Errorf("after leaving: %s", got)
	}
	if got := fmt.Sprint(reached("s1")); got != "[Family1, Given1 Family1, Given1 Gull Gull Old Shelf Songs Table]" {
		t.Errorf("who is there: %s", got)
	}
	if found, err := a.Store.Lingering(ctx, c.ID); err != nil || len(found) > 0 {
		t.Errorf("still lingering: %v, %v", found, err)
	}
}

// Somebody who changed class: the satchel comes along once the former class says yes, with
// id, link and what the student put in, to the new owner, and away from the former staff,
// who go on reading its copies. Anyone who asks sees nothing of it, nor what that class is called.
func TestFormer(t *testing.T) {
	a, c := school(t, 2)
	if err := a.Cases.Rooms.ChangeRoom(ctx, "oduya", c.ID, addPockets("Field work", "Old things")); err != nil {
		t.Fatal(err)
	}
	c = apptest.Load(t, a, c.ID)
	if err := a.Store.AddStaff(ctx, classes.Member{ClassID: c.ID, Account: "lindqvist", Role: classes.Teacher}); err != nil {
		t.Fatal(err)
	}
	apptest.Pack(t, a, c, nil)
	h := apptest.Handout(t, a, c, "# Log\n")
	apptest.Pack(t, a, c, &h)
	satchel := satchelOf(t, a, c, 0)
	work := entry(t, a, packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Copy, ID: h.ID, Slot: 1},
		Whom: packing.Whom{Row: c.Students[0].ID}})

	there, err := a.Cases.Classes.CreateClass(ctx, "stranger", "8A", "Boats 8A", "1", false)
	if err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.Rooms.ChangeRoom(ctx, "stranger", there.ID, addPockets("FIELD work")); err != nil {
		t.Fatal(err)
	}
	come := func(i int) string {
		if _, err := a.Cases.Rosters.AddStudents(ctx, "stranger", there.ID,
			[]record.Record{{Family: fmt.Sprint("Family", i), Given: fmt.Sprint("Given", i),
				Address: fmt.Sprintf("s%d@kestrelquay.example", i)}}); err != nil {
			t.Fatal(err)
		}
		cl := apptest.Load(t, a, there.ID)
		return cl.Students[slices.IndexFunc(cl.Students, func(s picture.Student) bool {
			return s.Address == fmt.Sprintf("s%d@kestrelquay.example", i)
		})].ID
	}
	row := come(0)
	if _, err := a.Cases.Leaving.Former(ctx, "stranger", there.ID, row, true); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("while the student is in the former class: %v", err)
	}
	own, err := a.Cases.Things.AddFile(ctx, "s0", "own", satchel.Thing, "my pool.txt", "text/plain", strings.NewReader("a limpet"))
	if err != nil {
		t.Fatal(err)
	}
	left(t, a, c, 0)
	run, err := a.Cases.Packing.Pack(ctx, "stranger", there.ID, "", pack.Part{})
	if err != nil {
		t.Fatal(err)
	}
	apptest.Wait(t, a, run.ID)
	if _, err := a.Store.EntryByKey(ctx, room.SatchelKey(there.ID, row)); err == nil {
		t.Fatal("a new satchel was made before anybody was asked")
	}
	problem := func() packing.Reason {
		list, err := a.Cases.Packing.RoomList(ctx, there.ID)
		if err != nil {
			t.Fatal(err)
		}
		for _, l := range list.Lines {
			if l.Wanted.Key == room.SatchelKey(there.ID, row) && l.Reason != nil {
				return *l.Reason
			}
		}
		return packing.Reason{}
	}
	if p := problem(); p.Code != packing.MovedHere || len(p.Args) > 0 {
		t.Errorf("what the list asks: %+v", p)
	}
	asked := func() {
		t.Helper()
		if asked, err := a.Cases.Leaving.Former(ctx, "stranger", there.ID, row, true); err != nil || !asked {
			t.Fatalf("asking: %v, %v", asked, err)
		}
		leavers, err := a.Cases.Leaving.Leavers(ctx, c.ID)
		if err != nil || len(leavers) != 1 || leavers[0].Request == nil || leavers[0].Request.By != "Sten Stranger" ||
			leavers[0].Request.Class != "Boats 8A" || leavers[0].Request.Row != row || leavers[0].Own != 1 {
			t.Errorf("what the former class sees: %+v, %v", leavers, err)
		}
	}
	asked()
	settle(t, a)
	if l := levelOf(t, a, "stranger", satchel.Thing); l != access.Nothing || problem().Code != packing.SatchelAsked {
		t.Errorf("asked and not answered: %v on the satchel, %+v", l, problem())
	}
	for _, who := range []string{"stranger", "amaral", "s0", "s1"} {
		if err := a.Cases.Leaving.AnswerRequest(ctx, who, c.ID, c.Students[0].ID, row, true); !errors.Is(err, seam.ErrNotFound) {
			t.Errorf("%s says yes: %v", who, err)
		}
	}
	if err := a.Cases.Leaving.AnswerRequest(ctx, "stranger", there.ID, row, row, true); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("from the class that asks: %v", err)
	}
	if err := a.Cases.Leaving.AnswerRequest(ctx, "lindqvist", c.ID, c.Students[0].ID, c.Students[1].ID,
		true); !errors.As(err, new(*change.Changed)) {
		t.Errorf("a yes to what another asked: %v", err)
	}
	if err := a.Cases.Leaving.AnswerRequest(ctx, "lindqvist", c.ID, c.Students[0].ID, row, false); err != nil {
		t.Fatal(err)
	}
	if problem().Code != packing.SatchelRefused {
		t.Errorf("refused: %+v", problem())
	}
	if _, err := a.Cases.Leaving.Former(ctx, "stranger", there.ID, row, true); !errors.As(err, new(*change.Changed)) {
		t.Errorf("asked again after a no: %v", err)
	}
	if err := a.Store.Decide(ctx, there.ID, classes.Decision{RowID: row, Decision: classes.Keep, By: "stranger", At: a.Now()}); err != nil {
		t.Fatal(err)
	}
	asked()
	if _, err := a.Cases.Rosters.SetLeft(ctx, "oduya", c.ID, []string{c.Students[0].ID}, false); err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.Leaving.AnswerRequest(ctx, "lindqvist", c.ID, c.Students[0].ID, row, true); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("for somebody who came back: %v", err)
	}
	left(t, a, c, 0)
	if err := a.Cases.Leaving.AnswerRequest(ctx, "lindqvist", c.ID, c.Students[0].ID, row, true); err != nil {
		t.Fatal(err)
	}
	if problem().Code != packing.SatchelComing {
		t.Errorf("said yes to: %+v", problem())
	}
	settle(t, a)
	if l := levelOf(t, a, "s0", own.ID); l != access.Owner {
		t.Errorf("what the student put in: %v", l)
	}
	now := entry(t, a, room.SatchelKey(there.ID, row))
	if now.Thing != satchel.Thing || now.Link != satchel.Link {
		t.Errorf("another one came: %+v", now)
	}
	for account, want := range map[string]access.Level{"s0": access.Edit, "stranger": access.Owner,
		"oduya": access.Nothing, "lindqvist": access.Nothing} {
		if l := levelOf(t, a, account, satchel.Thing); l != want {
			t.Errorf("%s has %v on the satchel, want %v", account, l, want)
		}
	}
	for account, want := range map[string]access.Level{"s0": access.Edit, "oduya": access.Read, "lindqvist": access.Read} {
		if l := levelOf(t, a, account, work.Thing); l != want {
			t.Errorf("%s has %v on the copy, want %v", account, l, want)
		}
	}
	// The former class closes its copies: this one isn't its any more.
	if err := a.Cases.Handouts.SayPens(ctx, "oduya", c.ID, h.ID, nil, true); err != nil {
		t.Fatal(err)
	}
	if err := writes(t, a, "s0", "after the move", work.Thing); err != nil {
		t.Errorf("closed by the former class: %v", err)
	}
	if v, err := a.Cases.Things.View(ctx, "s0", work.Thing); err != nil || v.Closing != nil || v.Level < access.Edit {
		t.Errorf("the student sees %v, closing %+v, %v", v.Level, v.Closing, err)
	}
	if list, err := a.Cases.Packing.RoomList(ctx, there.ID); err != nil || list.Counts()[packing.ToPack] != 0 ||
		list.Counts()[packing.NeedsFixing] != 0 {
		t.Errorf("left to pack: %+v, %v", list.Counts(), err)
	}
	// The other stays where it was: a new one is made.
	left(t, a, c, 1)
	second := come(1)
	if _, err := a.Cases.Leaving.Former(ctx, "stranger", there.ID, second, false); err != nil {
		t.Fatal(err)
	}
	if run, err = a.Cases.Packing.Pack(ctx, "stranger", there.ID, "", pack.Part{}); err != nil {
		t.Fatal(err)
	}
	apptest.Wait(t, a, run.ID)
	if e := entry(t, a, room.SatchelKey(there.ID, second)); e.Thing == satchelOf(t, a, c, 1).Thing {
		t.Error("the former satchel came along unasked")
	}
	// Who teaches both isn't asked.
	third, err := a.Cases.Classes.CreateClass(ctx, "lindqvist", "9A", "Charts 9A", "1", false)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Rosters.AddStudents(ctx, "lindqvist", third.ID,
		[]record.Record{{Family: "Family1", Given: "Given1", Address: "s1@kestrelquay.example"}}); err != nil {
		t.Fatal(err)
	}
	left(t, a, apptest.Load(t, a, there.ID),
		slices.IndexFunc(apptest.Load(t, a, there.ID).Students, func(s picture.Student) bool { return s.ID == second }))
	if run, err = a.Cases.Packing.Pack(ctx, "lindqvist", third.ID, "", pack.Part{}); err != nil {
		t.Fatal(err)
	}
	apptest.Wait(t, a, run.ID)
	row = apptest.Load(t, a, third.ID).Students[0].ID
	if asked, err := a.Cases.Leaving.Former(ctx, "lindqvist", third.ID, row, true); err != nil || !asked {
		t.Errorf("of a class that lindqvist doesn't teach: %v, %v", asked, err)
	}
	if err := a.Store.AddStaff(ctx, classes.Member{ClassID: there.ID, Account: "lindqvist", Role: classes.Teacher}); err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.Leaving.AnswerRequest(ctx, "office", there.ID, second, row, false); err != nil {
		t.Errorf("the office says no: %v", err)
	}
	if asked, err := a.Cases.Leaving.Former(ctx, "lindqvist", third.ID, row, true); err != nil || asked {
		t.Errorf("of a class that lindqvist teaches: %v, %v", asked, err)
	}
	settle(t, a)
	if l := levelOf(t, a, "lindqvist", entry(t, a, room.SatchelKey(third.ID, row)).Thing); l != access.Owner {
		t.Errorf("lindqvist has %v", l)
	}
	if run, err = a.Cases.Packing.Pack(ctx, "stranger", there.ID, "", pack.Part{}); err != nil { // lindqvist teaches there since
		t.Fatal(err)
	}
	apptest.Wait(t, a, run.ID)
	for _, id := range []string{c.ID, there.ID, third.ID} {
		if found, _ := checked(t, a, apptest.Load(t, a, id)); len(found) > 0 {
			t.Errorf("the door check finds %v", found)
		}
	}
}

// Colours and symbols are dealt so that no two students have the same, and stay.
func TestCues(t *testing.T) {
	a, c := school(t, 4)
	if err := a.Cases.Rooms.SetCue(ctx, "oduya", c.ID, c.Students[1].ID, room.Cue{Colour: "moss", Symbol: "kite"}); err != nil {
		t.Fatal(err)
	}
	wantInvalid(t, a.Cases.Rooms.SetCue(ctx, "oduya", c.ID, c.Students[1].ID, room.Cue{Colour: "pink"}), "cue", "not-one-of")
	other := apptest.Class(t, a, apptest.List(1))
	if err := a.Cases.Rooms.SetCue(ctx, "oduya", c.ID, other.Students[0].ID, room.Cue{Colour: "moss"}); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("a row of another class: %v", err)
	}
	for range 2 {
		if err := a.Cases.Rooms.DealCues(ctx, "oduya", c.ID); err != nil {
			t.Fatal(err)
		}
	}
	cues, err := a.Cases.Rooms.Cues(ctx, c.ID)
	if err != nil || len(cues) != 4 || cues[c.Students[1].ID] != (room.Cue{Colour: "moss", Symbol: "kite"}) {
		t.Errorf("%v, %v", cues, err)
	}
	seen := map[room.Cue]bool{}
	for _, cue := range cues {
		seen[cue] = true
	}
	apptest.Pack(t, a, c, nil)
	homes, err := a.Cases.Registers.Home(ctx, "s1")
	if err != nil || len(seen) != 4 || homes[0].Cue != cues[c.Students[1].ID] {
		t.Errorf("%d different, the home has %+v, %v", len(seen), homes[0].Cue, err)
	}
}

// Naming, moving and binning reach only what is one's own, or one's class's.
func TestArranging(t *testing.T) {
	a, c := school(t, 2)
	for account, role := range map[string]string{"lindqvist": classes.Teacher, "amaral": classes.Assistant} {
		if err := a.Store.AddStaff(ctx, classes.Member{ClassID: c.ID, Account: account, Role: role}); err != nil {
			t.Fatal(err)
		}
	}
	apptest.Pack(t, a, c, nil)
	h := apptest.Handout(t, a, c, "# Log\n")
	apptest.Pack(t, a, c, &h)
	mine, theirs := satchelOf(t, a, c, 0), satchelOf(t, a, c, 1)
	work := entry(t, a, packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Copy, ID: h.ID, Slot: 1},
		Whom: packing.Whom{Row: c.Students[0].ID}})
	table := entry(t, a, packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Table}})
	own, err := a.Cases.Things.MakeFolder(ctx, "s0", store.NewID(), mine.Thing, "Own order")
	if err != nil {
		t.Fatal(err)
	}
	// What a move would change is said first: the own folder is the student's and the
	// teacher's; on the table everybody reaches it.
	if e, err := a.Cases.Things.MoveEffects(ctx, "s0", []string{own.ID}, table.Thing); err != nil ||
		fmt.Sprint(e.Gain) != "[Given1 Family1]" || len(e.Lose) != 0 {
		t.Errorf("onto the table: %+v, %v", e, err)
	}
	if e, err := a.Cases.Things.MoveEffects(ctx, "lindqvist", []string{own.ID}, theirs.Thing); err != nil ||
		fmt.Sprint(e.Gain) != "[Given1 Family1]" || len(e.Lose) != 0 {
		t.Errorf("into another satchel, whose maker still owns it: %+v, %v", e, err)
	}
	if e, err := a.Cases.Things.MoveEffects(ctx, "oduya", []string{work.Thing}, theirs.Thing); err != nil ||
		fmt.Sprint(e.Gain) != "[Given1 Family1]" || len(e.Lose) != 0 {
		t.Errorf("a copy: %+v, %v", e, err)
	}
	if _, err := a.Cases.Things.MoveEffects(ctx, "stranger", []string{work.Thing}, theirs.Thing); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("a stranger asks: %v", err)
	}
	if all, each, err := a.Cases.Things.Usage(ctx, c.ID); err != nil || all == 0 || len(each) != 2 ||
		each[0].Bytes == 0 || each[0].Bytes > all {
		t.Errorf("room used: %d, %+v, %v", all, each, err)
	}
	rename := func(as, id string) error { return a.Cases.Things.Rename(ctx, as, store.NewID(), id, "Other") }
	move := func(as, id, to string) error { return a.Cases.Things.Move(ctx, as, store.NewID(), []string{id}, to) }
	bin := func(as, id string) error {
		in, err := a.Cases.Things.Inside(ctx, as, id)
		if err != nil {
			return err
		}
		return a.Cases.Things.Bin(ctx, as, store.NewID(), []string{id}, in.Folders+in.Files)
	}
	for _, x := range []struct {
		what string
		do   func() error
		want error // nil: it may be
	}{
		{"a student names a copy", func() error { return rename("s0", work.Thing) }, nil},
		{"a student arranges a copy", func() error { return move("s0", work.Thing, own.ID) }, nil},
		{"a student takes a copy out", func() error { return move("s0", work.Thing, table.Thing) }, cupboard.ErrNoRight},
		{"a student bins a copy", func() error { return bin("s0", work.Thing) }, cupboard.ErrNoRight},
		{"a student bins the satchel", func() error { return bin("s0", mine.Thing) }, cupboard.ErrNoRight},
		{"a classmate names it", func() error { return rename("s1", work.Thing) }, seam.ErrNotFound},
		{"a classmate looks in", func() error { _, err := a.Cases.Things.Inside(ctx, "s1", mine.Thing); return err }, seam.ErrNotFound},
		{"a stranger bins it", func() error { return bin("stranger", own.ID) }, seam.ErrNotFound},
		{"an assistant names it", func() error { return rename("amaral", own.ID) }, cupboard.ErrNoRight},
		{"a co-teacher names it", func() error { return rename("lindqvist", own.ID) }, nil},
		{"a co-teacher moves it to another satchel", func() error { return move("lindqvist", own.ID, theirs.Thing) }, nil},
		{"into itself", func() error { return move("oduya", mine.Thing, mine.Thing) }, &change.Invalid{}},
		{"the class's folder is binned", func() error {
			return bin("oduya", entry(t, a, packing.Key{Class: c.ID, What: packing.What{Purpose: packing.ClassFolder}}).Thing)
		}, &change.Invalid{}},
		{"the teacher bins it", func() error { return bin("oduya", own.ID) }, nil},
	} {
		err := x.do()
		var invalid *change.Invalid
		switch {
		case x.want == nil && err != nil:
			t.Errorf("%s: %v", x.what, err)
		case errors.As(x.want, &invalid):
			if !errors.As(err, &invalid) {
				t.Errorf("%s: %v", x.what, err)
			}
		case !errors.Is(err, x.want):
			t.Errorf("%s: %v, want %v", x.what, err, x.want)
		}
	}
	if err := a.Cases.Things.Bin(ctx, "oduya", store.NewID(), []string{mine.Thing}, 99); !errors.As(err, new(*change.Changed)) {
		t.Errorf("binned without being counted: %v", err)
	}
	// What the student made is in the student's own bin, with a way back.
	bin0, err := a.Cases.Things.Binned(ctx, "s0")
	if err != nil || len(bin0) != 1 {
		t.Fatalf("%d in the student's bin, %v", len(bin0), err)
	}
	if err := a.Cases.Things.Restore(ctx, "s1", store.NewID(), bin0[0].ID); err == nil {
		t.Error("a classmate brought it back")
	}
	if err := a.Cases.Things.Restore(ctx, "s0", store.NewID(), bin0[0].ID); err != nil {
		t.Error(err)
	}
	if _, err := a.Cases.Things.MakeFolder(ctx, "s1", store.NewID(), mine.Thing, "Mine"); err == nil {
		t.Error("a classmate made a folder in a satchel")
	}
}

// The front door leads everybody to their own; links, log and ledger say what there
// is, in words and as files.
func TestRecords(t *testing.T) {
	a, c := school(t, 3)
	apptest.Pack(t, a, c, nil)
	h := apptest.Handout(t, a, c, "# Log\n")
	apptest.Pack(t, a, c, &h)
	for i := range 2 {
		account := fmt.Sprint("s", i)
		if thing, staff, err := a.Cases.Registers.FrontDoor(ctx, account, c.ID, ""); err != nil || staff || thing != satchelOf(t, a, c, i).Thing {
			t.Errorf("%s arrives at %s, %v, %v", account, thing, staff, err)
		}
		if thing, _, err := a.Cases.Registers.FrontDoor(ctx, account, c.ID, h.ID); err != nil || thing == "" {
			t.Errorf("%s finds no copy: %v", account, err)
		}
	}
	if _, staff, err := a.Cases.Registers.FrontDoor(ctx, "oduya", c.ID, h.ID); err != nil || !staff {
		t.Errorf("the teacher: %v, %v", staff, err)
	}
	for _, x := range [][3]string{{"stranger", c.ID, ""}, {"s0", c.ID, c.ID}, {"s0", h.ID, ""}, {"s0", "x", ""}} {
		if _, _, err := a.Cases.Registers.FrontDoor(ctx, x[0], x[1], x[2]); !errors.Is(err, seam.ErrNotFound) {
			t.Errorf("%v: %v", x, err)
		}
	}
	links, err := a.Cases.Registers.Links(ctx, c.ID, "")
	if err != nil || len(links) != 2+3 || links[0].Row != "" || links[2].Student == "" {
		t.Errorf("%+v, %v", links, err)
	}
	if of, err := a.Cases.Registers.Links(ctx, c.ID, h.ID); err != nil || len(of) != 3 {
		t.Errorf("%d links to copies, %v", len(of), err)
	}
	if table, err := a.Cases.Registers.ExportLinks(ctx, c.ID, "", "https://satchel.kestrelquay.example"); err != nil ||
		len(table) != 6 || !strings.HasPrefix(table[3][3], "https://satchel.kestrelquay.example/go/") {
		t.Errorf("%v, %v", table, err)
	}
	log, more, err := a.Cases.Registers.LogPage(ctx, c.ID, "", 0)
	if err != nil || more || len(log) == 0 {
		t.Fatalf("%v, %v", log, err)
	}
	for _, l := range log {
		if l.Text == l.Act || l.Text == "" {
			t.Errorf("%s has no words", l.Act)
		}
	}
	// What the list brought, and what the handout and the student are that an entry is about.
	for act, want := range map[string]string{"list-brought": "imported a list: pasted cells",
		"list-accepted": "accepted a list: pasted cells: 3 students added"} {
		if i := slices.IndexFunc(log, func(l registers.LogLine) bool { return l.Act == act }); i < 0 || log[i].Text != want {
			t.Errorf("%s isn't told as %q", act, want)
		}
	}
	if i := slices.IndexFunc(log, func(l registers.LogLine) bool { return l.Act == "packed" && l.Title != "" }); i < 0 || log[i].Handout != h.ID {
		t.Errorf("packing the handout leads to %+v", log)
	}
	if err := a.Cases.Rooms.ChangeRoom(ctx, "oduya", c.ID, room.Change{To: room.Parts{Term: ptr("Autumn")}}); err != nil {
		t.Fatal(err)
	}
	if log, _, err := a.Cases.Registers.LogPage(ctx, c.ID, "autumn", 0); err != nil || len(log) != 1 ||
		log[0].Text != "changed the room plan: term none → Autumn" {
		t.Errorf("the room's change is told as %+v, %v", log, err)
	}
	log, _, err = a.Cases.Registers.LogPage(ctx, c.ID, "", 0)
	if err != nil {
		t.Fatal(err)
	}
	for find, want := range map[string]int{"packed": 2, "OdUyA": len(log), "Rock-pool": 2, "no such thing": 0, "%": 0} {
		got, _, err := a.Cases.Registers.LogPage(ctx, c.ID, find, 0)
		if err != nil || len(got) != want {
			t.Errorf("%q is found %d times, want %d, %v", find, len(got), want, err)
		}
	}
	if table, err := a.Cases.Registers.ExportLog(ctx, c.ID, ""); err != nil || len(table) != len(log)+1 {
		t.Errorf("%d rows, %v", len(table), err)
	}
	entries, more, err := a.Cases.Registers.LedgerPage(ctx, c.ID, "", 0)
	if err != nil || more || len(entries) != 5+3+2+3 {
		t.Errorf("%d entries, %v", len(entries), err)
	}
	// A grant is added for each who was given something, and one for taking it away.
	left(t, a, c, 0)
	shelf, _, err := a.Cases.Registers.LedgerPage(ctx, c.ID, "Shelf", 0)
	if err != nil || len(shelf) != 1 {
		t.Fatalf("%+v, %v", shelf, err)
	}
	var levels []string
	for _, g := range shelf[0].Grants {
		levels = append(levels, g.Level.String())
	}
	if fmt.Sprint(levels) != "[read read read nothing]" {
		t.Errorf("the shelf's grants: %v", levels)
	}
	if mine, _, err := a.Cases.Registers.LedgerPage(ctx, c.ID, "given1", 0); err != nil || len(mine) != 2 {
		t.Errorf("of one student: %d, %v", len(mine), err)
	}
	if table, err := a.Cases.Registers.ExportLedger(ctx, c.ID, "", "x"); err != nil || len(table) != 14 {
		t.Errorf("%d rows, %v", len(table), err)
	}
}

// A handout saved in one class is begun in another; its copies lie elsewhere when
// the sentence says so later.
func TestHandoutFile(t *testing.T) {
	a, c := school(t, 2)
	if err := a.Cases.Rooms.ChangeRoom(ctx, "oduya", c.ID, addPockets("Field work", "Books")); err != nil {
		t.Fatal(err)
	}
	pockets := apptest.Load(t, a, c.ID).Plan.Pockets
	h := apptest.Handout(t, a, c, "# Log\n")
	h, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID,
		handout.Change{Due: ptr("2026-12-01T17:00"), Message: ptr("Boots!"), Level: ptr("comment"), Pocket: &pockets[1].ID}, handout.Change{})
	if err != nil {
		t.Fatal(err)
	}
	file, title, err := a.Cases.Handouts.HandoutFile(ctx, c.ID, h.ID)
	if err != nil || title != h.Title {
		t.Fatal(title, err)
	}
	other := apptest.Class(t, a, apptest.List(1))
	if err := a.Cases.Rooms.ChangeRoom(ctx, "oduya", other.ID, addPockets("books")); err != nil {
		t.Fatal(err)
	}
	read, err := a.Cases.Handouts.ReadHandoutFile(ctx, "oduya", other.ID, file, nil)
	if err != nil || read.Title != h.Title || read.Settings.Level != "comment" ||
		read.Settings.Documents[0].Template != h.Settings.Documents[0].Template ||
		read.Settings.Pocket != apptest.Load(t, a, other.ID).Plan.Pockets[0].ID || !read.Due.Equal(h.Due) || read.Settings.Message != "Boots!" {
		t.Errorf("%+v, %v", read, err)
	}
	_, err = a.Cases.Handouts.ReadHandoutFile(ctx, "oduya", other.ID, []byte("{}"), nil)
	wantInvalid(t, err, "file", "file-not-handout")
	asks := strings.Replace(string(file), `[Family name]`, `[House]`, 1)
	_, err = a.Cases.Handouts.ReadHandoutFile(ctx, "oduya", other.ID, []byte(asks), nil)
	wantInvalid(t, err, "file", "columns-unknown")
	if read, err = a.Cases.Handouts.ReadHandoutFile(ctx, "oduya", other.ID, []byte(asks),
		map[string]record.Field{"House": record.Given}); err != nil || !strings.Contains(read.Settings.Name.String(), "[Given name]") {
		t.Errorf("%v, %v", read.Settings.Name, err)
	}

	apptest.Pack(t, a, c, &h)
	wantInvalid(t, a.Cases.Rooms.ChangeRoom(ctx, "oduya", c.ID, dropPocket(pockets[1].ID)), "pockets", "pocket-in-use")
	if h, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Pocket: &pockets[0].ID},
		handout.Change{}); err != nil {
		t.Fatal(err)
	}
	work := entry(t, a, packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Copy, ID: h.ID, Slot: 1},
		Whom: packing.Whom{Row: c.Students[0].ID}})
	if run := packed(t, a, c.ID); run.Stuck > 0 {
		t.Fatalf("%+v", run)
	}
	moved, err := a.Cup.Get(ctx, "s0", work.Thing)
	if err != nil || moved.Parent != entry(t, a, room.PocketKey(c.ID, c.Students[0].ID, pockets[0].ID)).Thing ||
		moved.Level != access.Comment {
		t.Errorf("the copy lies in %s with %v, %v", moved.Parent, moved.Level, err)
	}
}
