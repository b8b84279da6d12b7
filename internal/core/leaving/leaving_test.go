package leaving_test

import (
	"fmt"
	"maps"
	"slices"
	"testing"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/leaving"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	. "jollysatchel/internal/core/picture/picturetest"
	"jollysatchel/internal/core/room"
)

// leave has a student leave a class as it stands.
func leave(p *picture.Picture, i int) *picture.Picture {
	c := p.Class
	c.Left = append(slices.Clone(c.Left), c.Students[i])
	c.Students = slices.Delete(slices.Clone(c.Students), i, i+1)
	c.Left[len(c.Left)-1].LeftAt, c.Left[len(c.Left)-1].Gone = Noon, true
	return With(c, p.Made, p.Handouts...)
}

func ExampleLeavers() {
	p := leave(Pack(Of(Class(2), Handout("h", "Charts"))), 1)
	for _, l := range leaving.Leavers(p, nil) {
		fmt.Println(l.Student.SortName(), "has", l.Copies, "copy,", l.Begun, "begun, and", l.Own, "things of their own")
	}
	// Output: Family1, Given1 has 1 copy, 0 begun, and 0 things of their own
}

// Who leaves reaches nothing of the class's after the steps, but what is theirs; nobody else
// loses anything. Whatever became of what they reached meanwhile.
func TestRevoking(t *testing.T) {
	passed := Handout("h", "Charts")
	passed.Settings.Passing = "read"
	for what, meanwhile := range map[string]func(c *picture.Class, p *picture.Picture, h *handout.Handout){
		"nothing else":     func(*picture.Class, *picture.Picture, *handout.Handout) {},
		"nobody is let in": func(_ *picture.Class, _ *picture.Picture, h *handout.Handout) { h.Settings.Passing = "nothing" },
		"it was withdrawn": func(_ *picture.Class, _ *picture.Picture, h *handout.Handout) { h.WithdrawnAt = Noon },
		"its owner is left out": func(_ *picture.Class, _ *picture.Picture, h *handout.Handout) {
			h.Settings.Out = map[string]string{"r0": handout.SitsOut}
		},
		"its owner isn't known": func(c *picture.Class, _ *picture.Picture, _ *handout.Handout) {
			c.Students[0].Problem = &packing.Reason{Code: "account-unknown"}
		},
		"it lies in the bin": func(_ *picture.Class, p *picture.Picture, _ *handout.Handout) {
			See(p, Copy(p, "h", 0), func(st *ledger.Seen) { st.Place = ledger.InBin })
		},
		"it was taken elsewhere": func(_ *picture.Class, p *picture.Picture, _ *handout.Handout) {
			See(p, Copy(p, "h", 0), func(st *ledger.Seen) { st.Parent = "other" })
		},
		"the plan has fewer places": func(c *picture.Class, _ *picture.Picture, _ *handout.Handout) {
			c.Plan.Places = slices.DeleteFunc(c.Plan.AllPlaces(), func(x room.Place) bool { return x.ID == string(packing.Table) })
		},
	} {
		p := Of(Class(3), passed)
		p.LetIn["h"] = map[string][]string{"r0": {"r1", "r2"}}
		p = Pack(p)
		if Copy(p, "h", 0).Granted["s1"] != access.Read {
			t.Fatalf("%s: nobody was let in: %v", what, Copy(p, "h", 0).Granted)
		}
		c, h := p.Class, p.Handouts[0]
		c.Students = slices.Clone(c.Students)
		meanwhile(&c, p, &h)
		p = leave(With(c, p.Made, h), 1)
		has := map[string]map[string]bool{} // account → keys of what gives it anything itself
		for k, e := range p.Entries {
			for account := range e.Granted {
				if has[account] == nil {
					has[account] = map[string]bool{}
				}
				has[account][k.String()] = true
			}
		}
		before := maps.Clone(has["s2"])
		for _, step := range leaving.Revoking(p, map[string]bool{"s1": true}) {
			if step.Act != packing.Take || step.Account != "s1" || !has["s1"][step.Key.String()] {
				t.Errorf("%s: %s %s of %s", what, step.Act, step.Key, step.Account)
			}
			delete(has[step.Account], step.Key.String())
		}
		for key := range has["s1"] {
			if k, _ := packing.ParseKey(key); k.Whom.Row != "r1" {
				t.Errorf("%s: who left reaches %s", what, key)
			}
		}
		if len(has["s1"]) == 0 || !maps.Equal(before, has["s2"]) {
			t.Errorf("%s: who left keeps %v, who stays %d of %d", what, has["s1"], len(has["s2"]), len(before))
		}
	}
}

// What was taken away by other hands isn't taken again.
func TestRevokingWhatIsGone(t *testing.T) {
	p := Of(Class(2), Handout("h", "Charts"))
	p.Handouts[0].Settings.Passing = "read"
	p.LetIn["h"] = map[string][]string{"r0": {"r1"}}
	p = leave(Pack(p), 1)
	for _, e := range p.Entries {
		See(p, e, func(st *ledger.Seen) { st.Rule = access.Rule{Grants: map[string]access.Level{}} })
	}
	if steps := leaving.Revoking(p, map[string]bool{"s1": true}); len(steps) != 0 {
		t.Errorf("%d steps, the first %s", len(steps), steps[0].Key)
	}
}

// Of a leaver all that is theirs is counted once: the satchel first, and what doesn't be in it.
func TestLeaver(t *testing.T) {
	p := leave(Pack(Of(Class(2), Handout("h1", "Charts"), Handout("h2", "Tides"))), 1)
	See(p, Copy(p, "h2", 1), func(st *ledger.Seen) { st.Parent, st.Version = p.Entries[p.Room.Key(packing.Shelf)].Thing, 2 })
	satchel := p.Entries[room.SatchelKey("c", "r1")]
	See(p, satchel, func(st *ledger.Seen) { st.Inside, st.InsideAt = 4, Noon })
	l := leaving.Leavers(p, map[string]ledger.Work{Copy(p, "h2", 1).Thing: {Version: 2, Begun: true}})[0]
	if l.Copies != 2 || l.Begun != 1 || l.Own != 4 || l.Owned || l.Binned || len(l.Things) != 2 || l.Things[0].Thing != satchel.Thing {
		t.Errorf("a leaver has %+v", l)
	}
	for decision, want := range map[string]packing.Act{classes.HandOver: packing.HandOver, classes.Bin: packing.Discard,
		leaving.BringBack: packing.Restore} {
		steps := l.Steps(p, decision)
		if len(steps) != 2 || steps[0].Act != want || steps[0].Key != satchel.Key || decision == classes.HandOver && steps[1].Change.To != "s1" {
			t.Errorf("%s: %+v", decision, steps)
		}
	}
	if steps := l.Steps(p, classes.Keep); len(steps) != 0 {
		t.Errorf("to keep them, %+v", steps)
	}
	p.Decisions["r1"] = classes.Decision{Decision: classes.Keep, At: Noon}
	if l := leaving.Leavers(p, nil)[0]; l.Decision != classes.Keep {
		t.Errorf("what was decided when they left is %q", l.Decision)
	}
	p.Decisions["r1"] = classes.Decision{Decision: classes.Keep, At: Noon.AddDate(0, 0, -1)}
	if l := leaving.Leavers(p, nil)[0]; l.Decision != "" {
		t.Errorf("what was decided before they left counts: %q", l.Decision)
	}
	for _, e := range p.Entries {
		See(p, e, func(st *ledger.Seen) { st.Place = ledger.Gone })
	}
	if all := leaving.Leavers(p, nil); len(all) != 0 {
		t.Errorf("of whom nothing is left: %+v", all)
	}
}

// A satchel that comes along is taken from those who don't teach the class it comes to; its
// pockets are those of the same name there.
func TestBringing(t *testing.T) {
	there := Pack(Of(Class(2), Handout("h", "Charts")))
	here := Class(2)
	here.Staff = here.Staff[:1]
	b := leaving.Bringing("entry", "thing", "r1", Of(here), there)
	if b.Owner != Owner || !slices.Equal(b.Readers, []string{"ash"}) || !slices.Equal(b.Copies, []string{Copy(there, "h", 1).Thing}) {
		t.Errorf("it is %+v", b)
	}
	for id, pocket := range b.Pockets {
		if e := there.ByThing[id[1:]]; e == nil || pocket != e.Key.What.ID || e.Key.Whom.Row != "r1" {
			t.Errorf("%s becomes %s", id, pocket)
		}
	}
	if len(b.Pockets) != len(here.Plan.Pockets) {
		t.Errorf("%d pockets of %d", len(b.Pockets), len(here.Plan.Pockets))
	}
}
