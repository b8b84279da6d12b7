package picture_test

import (
	"fmt"
	"maps"
	"slices"
	"testing"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	. "jollysatchel/internal/core/picture/picturetest"
	"jollysatchel/internal/core/room"
)

func ExamplePicture_Lacking() {
	p := Of(Class(3), Handout("h", "Charts"))
	p = Pack(p)
	delete(p.Entries, Copy(p, "h", 1).Key)
	l := p.Lacking()
	fmt.Println(l.Students, "student of", len(p.Students), "would get something of", l.Subjects[0].Title)
	// Output: 1 student of 3 would get something of Charts
}

// Where everything is made as it is wanted there is nothing to pack, to change or to fix.
func TestPackedLacksNothing(t *testing.T) {
	p := Pack(Of(Class(4), Handout("h1", "Charts"), Handout("h2", "Charts")))
	for _, l := range []packing.List{p.RoomList(), p.HandoutList(p.Handouts[0]), p.Missing(), p.Outstanding()} {
		for _, line := range l.Lines {
			if line.Section != packing.AlreadyThere {
				t.Errorf("%s %s %s", line.Section, line.Step.Act, line.Wanted.Key)
			}
		}
	}
	if l := p.Lacking(); l.Students+l.Changes+len(l.Subjects) != 0 {
		t.Errorf("it lacks %+v", l)
	}
}

// Of two handouts of one title and document no student has two things of one name, whichever is
// looked at, and what is made keeps its name.
func TestNamesOfTwoHandouts(t *testing.T) {
	p := Pack(Of(Class(4), Handout("h1", "Charts"), Handout("h2", "Charts")))
	for i := range 4 {
		a, b := Copy(p, "h1", i), Copy(p, "h2", i)
		if a.Name == b.Name {
			t.Errorf("both are called %s", a.Name)
		}
		for _, h := range p.Handouts {
			for _, w := range p.Way(h).Own(p.Room) {
				if e := p.Entries[w.Key]; e != nil && e.Name != w.Name {
					t.Errorf("%s is called %s and would be %s", w.Key, e.Name, w.Name)
				}
			}
		}
	}
}

// A copy that comes back from the bin beside another that took its name has a name of its own,
// also of a student who isn't given one any more.
func TestBackAs(t *testing.T) {
	for _, who := range []string{"in the class", "left", "left out"} {
		c := Class(2)
		p := Pack(Of(c, Handout("h1", "Charts")))
		old := Copy(p, "h1", 1)
		See(p, old, func(st *ledger.Seen) { st.Place = ledger.InBin })
		second := Handout("h2", "Charts")
		p = Pack(With(c, p.Made, p.Handouts[0], second))
		if Copy(p, "h2", 1).Name != old.Name {
			t.Fatalf("%s: the name of what is in the bin wasn't free", who)
		}
		switch who {
		case "left":
			c.Left, c.Students = c.Students[1:], c.Students[:1]
		case "left out":
			p.Handouts[0].Settings.Out = map[string]string{"r1": handout.SitsOut}
		}
		p = With(c, p.Made, p.Handouts...)
		name := p.BackAs(p.Handouts[0])[old.Key]
		if name == "" || name == old.Name {
			t.Errorf("%s: it comes back as %q, beside %q", who, name, old.Name)
		}
		if again := p.BackAs(p.Handouts[0])[Copy(p, "h1", 0).Key]; again != "" {
			t.Errorf("%s: one that kept its name is called %q", who, again)
		}
	}
}

// A student reaches their own, staff everything, nobody else's is reached.
func TestLevel(t *testing.T) {
	p := Pack(Of(Class(3), Handout("h", "Charts")))
	for _, c := range []struct {
		who  string
		want access.Level
	}{{"s0", access.Edit}, {"s1", access.Nothing}, {Owner, access.Owner}, {"ash", access.Comment}, {"nobody", access.Nothing}} {
		if got := p.Level(Copy(p, "h", 0), c.who, Noon); got != c.want {
			t.Errorf("%s has %s, want %s", c.who, got, c.want)
		}
	}
}

// What is in the bin isn't beside anything, but for what the next act may bring back; what was
// moved by hand is told from what was put elsewhere.
func TestState(t *testing.T) {
	p := Pack(Of(Class(1), Handout("h", "Charts")))
	e := Copy(p, "h", 0)
	for _, c := range []struct {
		bound ledger.Bound
		place ledger.Place
		want  ledger.Place
	}{
		{ledger.BoundNowhere, ledger.Lies, ledger.Lies}, {ledger.BoundNowhere, ledger.InBin, ledger.InBin},
		{ledger.BoundForBin, ledger.Lies, ledger.InBin},
		{ledger.BoundBack, ledger.InBin, ledger.Lies}, {ledger.BoundForBin, ledger.Gone, ledger.Gone},
		{ledger.BoundBack, ledger.Gone, ledger.Gone},
	} {
		See(p, e, func(st *ledger.Seen) { st.Place = c.place })
		e.Bound = c.bound
		if got := p.State(e).Place; got != c.want {
			t.Errorf("bound for %q, seen %s: it is %s, want %s", c.bound, c.place, got, c.want)
		}
	}
	e.Bound = ledger.BoundNowhere
	delete(p.Seen, e.Thing)
	if st := p.State(e); st.Place != ledger.Lies || !maps.Equal(st.Rule.Grants, e.Granted) {
		t.Errorf("one that nobody saw yet stands as %+v", st)
	}
}

// Copies are stale where their document was changed since, untouched ones first; a second of the
// same document makes up for the first.
func TestStale(t *testing.T) {
	p := Pack(Of(Class(3), Handout("h", "Charts")))
	for i := range 3 {
		Copy(p, "h", i).GivenSHA = []string{"old", "old", "new"}[i]
	}
	See(p, Copy(p, "h", 0), func(st *ledger.Seen) { st.Version = 2 })
	works := map[string]ledger.Work{Copy(p, "h", 0).Thing: {Version: 2, Begun: true}}
	stale := p.Stale("h", map[int]ledger.Seen{1: {SHA: "new"}}, works)
	if len(stale) != 2 || stale[0].Begun || !stale[1].Begun || stale[1].Base != 2 {
		t.Fatalf("stale are %+v", stale)
	}
	if a, b := stale.Digest(), p.Stale("h", map[int]ledger.Seen{1: {SHA: "new"}},
		map[string]ledger.Work{Copy(p, "h", 0).Thing: {Version: 2}}).Digest(); a == b {
		t.Error("a begun copy is the same to look at as one that is kept as it was")
	}
	first := p.Handouts[0].Settings.Documents[0]
	second := first
	second.Slot, second.Only = 2, []string{"r0"}
	p.Handouts[0].Settings.Documents = append(p.Handouts[0].Settings.Documents, second)
	p = Pack(p)
	if stale = p.Stale("h", map[int]ledger.Seen{1: {SHA: "new"}, 2: {SHA: "new"}}, works); len(stale) != 1 || stale[0].Begun {
		t.Errorf("beside a second one, stale are %+v", stale)
	}
}

// What a run made can be taken back, folders before what is in them; what somebody began holds
// what it is in.
func TestTakingBack(t *testing.T) {
	p := Pack(Of(Class(2), Handout("h", "Charts")))
	run := ledger.Run{ID: "run"}
	b := p.TakingBack(run, nil)
	if b.Held != 0 || len(b.Lines) != len(p.Entries) || b.Lines[0].Entry.Key.What.Purpose != packing.ClassFolder {
		t.Fatalf("%d of %d, %d held, first %s", len(b.Lines), len(p.Entries), b.Held, b.Lines[0].Entry.Key)
	}
	at := map[string]int{}
	for i, l := range b.Lines {
		at[l.Entry.Thing] = i
		if above, in := at[l.Entry.PutIn]; l.Entry.PutIn != "" && (!in || above >= i) {
			t.Errorf("%s stands before what it lies in", l.Entry.Key)
		}
	}
	See(p, Copy(p, "h", 0), func(st *ledger.Seen) { st.Version = 2 })
	held := map[packing.Purpose]bool{}
	for _, l := range p.TakingBack(run, map[string]ledger.Work{Copy(p, "h", 0).Thing: {Version: 2, Begun: true}}).Lines {
		if l.Reason != nil {
			held[l.Entry.Key.What.Purpose] = true
			if l.Entry.Key.Whom.Row == "r1" {
				t.Errorf("%s is held by another's", l.Entry.Key)
			}
		}
	}
	if want := []packing.Purpose{packing.ClassFolder, packing.Cloakroom, packing.Copy,
		packing.Satchel}; !slices.Equal(slices.Sorted(maps.Keys(held)), slices.Sorted(slices.Values(want))) {
		t.Errorf("held are %v", held)
	}
	files := p.FilesIn()
	if n := len(files[p.Entries[room.SatchelKey("c", "r0")].Thing]); n != 1 || files[Copy(p, "h", 0).Thing][Copy(p, "h", 0).Thing] != 2 {
		t.Errorf("%d copies lie in a satchel: %v", n, files)
	}
}

// Anyone who came from another class is asked about before a satchel is made, until that is decided.
func TestCameAlong(t *testing.T) {
	came := func(row string) bool { return row == "r1" }
	for decision, want := range map[string]string{"": packing.MovedHere, classes.Asked: packing.SatchelAsked,
		classes.Refused: packing.SatchelRefused, classes.Along: packing.SatchelComing, classes.Anew: ""} {
		p := Of(Class(2))
		p.Decisions["r1"] = classes.Decision{RowID: "r1", Decision: decision}
		p.CameAlong(came)
		got := ""
		if asked := p.Room.Students[1].Asked; asked != nil {
			got = asked.Code
		}
		if got != want || p.Room.Students[0].Asked != nil {
			t.Errorf("%q: %q is asked, want %q", decision, got, want)
		}
	}
}

// What is being packed now isn't missing, unless its run rests; a place that the plan no longer
// has is left over.
func TestUnderWayAndLeftOver(t *testing.T) {
	p := Pack(Of(Class(2), Handout("h", "Charts")))
	gone := Copy(p, "h", 0).Key
	delete(p.Entries, gone)
	for _, c := range []struct {
		coming ledger.Coming
		want   int
	}{{ledger.Coming{Key: gone, Gives: true}, 0}, {ledger.Coming{Key: gone, Gives: true, Paused: true}, 1}, {ledger.Coming{Key: gone}, 1}} {
		p.Coming = []ledger.Coming{c.coming}
		if l := p.Missing(); len(l.Lines) != c.want {
			t.Errorf("%+v: %d lines are missing, want %d", c.coming, len(l.Lines), c.want)
		}
	}
	if left := p.Leftovers(Noon.Location()); len(left) != 0 {
		t.Errorf("left over are %+v", left)
	}
	c := p.Class
	c.Plan.Places = slices.DeleteFunc(c.Plan.AllPlaces(), func(x room.Place) bool { return x.ID == string(packing.Table) })
	p = With(c, p.Made, p.Handouts...)
	See(p, p.Entries[packing.Key{Class: "c", What: packing.What{Purpose: packing.Table}}], func(st *ledger.Seen) {
		st.Inside, st.InsideAt = 3, Noon
	})
	if left := p.Leftovers(Noon.Location()); len(left) != 1 ||
		left[0] != (picture.Leftover{ID: "table", Name: "Table", Things: 1, Inside: 3, Newest: "2026-11-23"}) {
		t.Errorf("left over are %+v", left)
	}
}

// Whom a student could let in are those they aren't and who can be reached.
func TestMatesOf(t *testing.T) {
	c := Class(4)
	c.Students[2].Account = ""
	c.Students[3].Problem = &packing.Reason{Code: "account-unknown"}
	h := Handout("h", "Charts")
	p := Of(c, h)
	if mates := p.MatesOf(h, "r0"); mates != nil {
		t.Errorf("nobody lets anybody in, and %+v", mates)
	}
	h.Settings.Passing = "read"
	p = Of(c, h)
	p.LetIn["h"] = map[string][]string{"r0": {"r1"}}
	if mates := p.MatesOf(h, "r0"); len(mates) != 1 || mates[0].Row != "r1" || !mates[0].In {
		t.Errorf("they are %+v", mates)
	}
	for _, w := range p.Way(h).Own(p.Room) {
		if w.Key == handout.CopyKey("c", "h", 1, packing.Whom{Row: "r0"}) &&
			(w.Rule.Grants["s1"] != access.Read || w.Rule.Grants["s0"] != access.Edit) {
			t.Errorf("the copy gives %v", w.Rule.Grants)
		}
	}
}
