package cupboardtest

import (
	"errors"
	"strings"
	"testing"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/cupboard"
)

// state is how a thing stands, as its class's teacher sees it.
func (r *room) state(id string) ledger.Seen {
	r.t.Helper()
	got, err := r.States(r.ctx, "oduya", []string{id})
	r.ok(err)
	return got[id]
}

func (r *room) level(as, id string) access.Level {
	r.t.Helper()
	got, err := r.Get(r.ctx, as, id)
	if err != nil && !errors.Is(err, cupboard.ErrNotFound) {
		r.t.Fatal(err)
	}
	return got.Level
}

// classroom is a class with a satchel of dube's in it, both oduya's.
func (r *room) classroom() (class, satchel cupboard.Thing) {
	r.t.Helper()
	class, err := r.MakeFolder(r.ctx, "oduya", r.key(), cupboard.NewThing{Name: "Class", StandsAlone: true})
	r.ok(err)
	satchel = r.folder("oduya", class.ID, "Dube")
	r.share(satchel.ID, map[string]access.Level{"dube": access.Edit})
	return class, satchel
}

// Each call is made, then its opposite, then the call again with its first key:
// the opposite stands.
func doneOnce(t *testing.T, r *room) {
	mark := access.Mark{By: "oduya"}
	nothing := map[string]access.Level{"dube": access.Nothing}
	for _, c := range []struct {
		what     string
		call     func(key, id, other string) error
		opposite func(id, home string) error
	}{
		{"share", func(key, id, _ string) error {
			return r.Share(r.ctx, "oduya", key, id, map[string]access.Level{"dube": access.Edit})
		},
			func(id, _ string) error {
				return r.SetRule(r.ctx, "oduya", r.key(), id, cupboard.RuleChange{Levels: nothing})
			}},
		{"set a rule", func(key, id, _ string) error {
			return r.SetRule(r.ctx, "oduya", key, id, cupboard.RuleChange{Levels: map[string]access.Level{"dube": access.Read}})
		}, func(id, _ string) error {
			return r.SetRule(r.ctx, "oduya", r.key(), id, cupboard.RuleChange{Levels: nothing})
		}},
		{"lower a rule", func(key, id, _ string) error {
			return r.SetRule(r.ctx, "oduya", key, id, cupboard.RuleChange{Levels: nothing})
		},
			func(id, _ string) error {
				return r.Share(r.ctx, "oduya", r.key(), id, map[string]access.Level{"dube": access.Edit})
			}},
		{"rename", func(key, id, _ string) error { return r.Rename(r.ctx, "oduya", key, id, "Second") },
			func(id, _ string) error { return r.Rename(r.ctx, "oduya", r.key(), id, "First") }},
		{"move", func(key, id, other string) error { return r.Move(r.ctx, "oduya", key, id, other) },
			func(id, home string) error { return r.Move(r.ctx, "oduya", r.key(), id, home) }},
		{"bin", func(key, id, _ string) error { return r.Bin(r.ctx, "oduya", key, id, nil) },
			func(id, _ string) error { return r.Restore(r.ctx, "oduya", r.key(), id) }},
		{"close", func(key, id, _ string) error { return r.Close(r.ctx, "oduya", key, id, mark) },
			func(id, _ string) error { return r.Reopen(r.ctx, "oduya", r.key(), id) }},
		{"hand over", func(key, id, _ string) error { return r.HandOver(r.ctx, "oduya", key, id, "lindqvist") },
			func(id, _ string) error { return r.HandOver(r.ctx, "lindqvist", r.key(), id, "oduya") }},
	} {
		class, _ := r.classroom()
		home, other := r.folder("oduya", class.ID, "Home"), r.folder("oduya", class.ID, "Other")
		f := r.folder("oduya", home.ID, "First")
		key := r.key()
		r.ok(c.call(key, f.ID, other.ID))
		first := r.state(f.ID)
		r.ok(c.opposite(f.ID, home.ID))
		before := r.state(f.ID)
		if same(first, before) {
			t.Errorf("%s: the opposite changed nothing: %+v", c.what, before)
		}
		r.ok(c.call(key, f.ID, other.ID))
		if after := r.state(f.ID); !same(before, after) {
			t.Errorf("%s: done again with its key: %+v became %+v", c.what, before, after)
		}
	}
}

// Restoring and reopening, with the opposite between.
func restoredOnce(t *testing.T, r *room) {
	mark := access.Mark{By: "oduya"}
	_, satchel := r.classroom()
	r.ok(r.Bin(r.ctx, "oduya", r.key(), satchel.ID, nil))
	r.ok(r.Restore(r.ctx, "oduya", "back", satchel.ID))
	r.ok(r.Bin(r.ctx, "oduya", r.key(), satchel.ID, nil))
	r.ok(r.Restore(r.ctx, "oduya", "back", satchel.ID))
	if st := r.state(satchel.ID); st.Place != ledger.InBin {
		t.Errorf("restored again with its key: %+v", st)
	}
	_, satchel = r.classroom()
	r.ok(r.Close(r.ctx, "oduya", r.key(), satchel.ID, mark))
	r.ok(r.Reopen(r.ctx, "oduya", "open", satchel.ID))
	r.ok(r.Close(r.ctx, "oduya", r.key(), satchel.ID, mark))
	r.ok(r.Reopen(r.ctx, "oduya", "open", satchel.ID))
	if st := r.state(satchel.ID); st.Closed == nil {
		t.Errorf("reopened again with its key: %+v", st)
	}
}

// What was made with a key is in the bin, then it has ended.
func madeOnceForEver(t *testing.T, r *room) {
	make := map[string]func(key, parent string) (cupboard.Thing, error){
		"folder": func(key, parent string) (cupboard.Thing, error) {
			return r.MakeFolder(r.ctx, "oduya", key, cupboard.NewThing{Parent: parent, Name: "x"})
		},
		"file": func(key, parent string) (cupboard.Thing, error) {
			return r.AddFile(r.ctx, "oduya", key, cupboard.NewThing{Parent: parent, Name: "x"}, strings.NewReader("x"))
		},
		"copy": func(key, parent string) (cupboard.Thing, error) {
			return r.CopyFile(r.ctx, "oduya", key, cupboard.Source{ID: r.file("oduya", "", "s", "x").ID},
				cupboard.NewThing{Parent: parent, Name: "x"})
		},
		"pointer": func(key, parent string) (cupboard.Thing, error) {
			return r.MakePointer(r.ctx, "oduya", key, r.file("oduya", "", "s", "x").ID, cupboard.NewThing{Parent: parent, Name: "x"})
		},
	}
	for what, do := range make {
		class, _ := r.classroom()
		key := r.key()
		a, err := do(key, class.ID)
		r.ok(err)
		r.ok(r.Bin(r.ctx, "oduya", r.key(), a.ID, nil))
		if b, err := do(key, class.ID); err != nil || b.ID != a.ID {
			t.Errorf("%s in the bin: %+v, %v", what, b, err)
		}
		r.ok(r.Remove(r.ctx, "oduya", r.key(), a.ID))
		_, err = do(key, class.ID)
		r.is(err, cupboard.ErrNotFound, what+" that has ended, asked for again")
	}
}

// What was written with a key was written, though it is closed by now.
func writtenOnce(t *testing.T, r *room) {
	_, satchel := r.classroom()
	f := r.file("dube", satchel.ID, "note", "one")
	v, err := r.Write(r.ctx, "dube", "w", f.ID, 1, strings.NewReader("two"))
	r.ok(err)
	r.ok(r.Close(r.ctx, "oduya", r.key(), satchel.ID, access.Mark{By: "oduya"}))
	if again, err := r.Write(r.ctx, "dube", "w", f.ID, 1, strings.NewReader("two")); err != nil || again.Number != v.Number {
		t.Errorf("written before it was closed, asked again: %+v, %v", again, err)
	}
	_, err = r.Write(r.ctx, "dube", "w2", f.ID, 2, strings.NewReader("three"))
	r.is(err, cupboard.ErrNoRight, "writing what is closed")
}

// same compares what the calls change.
func same(a, b ledger.Seen) bool {
	return a.Place == b.Place && a.Name == b.Name && a.Parent == b.Parent && a.Owner == b.Owner &&
		a.Rule.Grants["dube"] == b.Rule.Grants["dube"] && (a.Closed == nil) == (b.Closed == nil)
}

func moving(t *testing.T, r *room) {
	class, satchel := r.classroom()
	pocket := r.folder("oduya", satchel.ID, "Field work")
	deep := r.folder("oduya", pocket.ID, "Deep")
	c := r.file("oduya", deep.ID, "log.md", "text")
	table := r.folder("oduya", class.ID, "Table")
	r.share(table.ID, map[string]access.Level{"eriksen": access.Read})
	for _, into := range []string{pocket.ID, deep.ID} {
		r.is(r.Move(r.ctx, "oduya", r.key(), pocket.ID, into), cupboard.ErrInside, "a folder into itself")
	}
	r.ok(r.Move(r.ctx, "oduya", r.key(), pocket.ID, table.ID))
	got, err := r.Get(r.ctx, "oduya", c.ID)
	r.ok(err)
	if got.Link != c.Link || len(got.Path) != 4 || got.Path[1].ID != table.ID || r.text("eriksen", c.ID, 0) != "text" {
		t.Errorf("moved: %+v", got)
	}
	if l := r.level("dube", c.ID); l != access.Nothing {
		t.Errorf("the rules of where it lay still count: %v", l)
	}
	essay := r.file("dube", satchel.ID, "essay.md", "mine")
	r.ok(r.Move(r.ctx, "dube", r.key(), essay.ID, ""))
	if l := r.level("oduya", essay.ID); l != access.Nothing {
		t.Errorf("at the top of the student's own things: %v", l)
	}
	r.is(r.Move(r.ctx, "dube", r.key(), essay.ID, table.ID), cupboard.ErrNotFound, "into what can't be seen")
	r.is(r.Move(r.ctx, "eriksen", r.key(), c.ID, ""), cupboard.ErrNoRight, "what can only be read")
	r.is(r.Move(r.ctx, "dube", r.key(), essay.ID, essay.ID), cupboard.ErrNotFound, "into a file")
}

func handingOver(t *testing.T, r *room) {
	class, satchel := r.classroom()
	c := r.file("oduya", satchel.ID, "log.md", "text")
	essay := r.file("dube", satchel.ID, "essay.md", "mine")
	r.is(r.HandOver(r.ctx, "dube", r.key(), satchel.ID, "dube"), cupboard.ErrNoRight, "by one who may edit")
	var unknown *cupboard.UnknownPeople
	if err := r.HandOver(r.ctx, "oduya", "pass", class.ID, "nobody"); !errors.As(err, &unknown) {
		t.Errorf("to nobody: %v", err)
	}
	r.ok(r.HandOver(r.ctx, "oduya", "pass", class.ID, "lindqvist"))
	r.ok(r.HandOver(r.ctx, "oduya", "pass", class.ID, "lindqvist")) // asked again by who has nothing any more
	for id, want := range map[string]string{class.ID: "lindqvist", satchel.ID: "lindqvist", c.ID: "lindqvist", essay.ID: "dube"} {
		if got, err := r.Get(r.ctx, "lindqvist", id); err != nil || got.Owner != want {
			t.Errorf("%s belongs to %q, %v; want %q", got.Name, got.Owner, err, want)
		}
	}
	if l := r.level("oduya", satchel.ID); l != access.Nothing {
		t.Errorf("the former owner has %v", l)
	}
	if l := r.level("dube", satchel.ID); l != access.Edit {
		t.Errorf("the student has %v", l)
	}
}

// A satchel passes from one class to another in one: its owner there, its place, and what the
// student put in; by who keeps it alone, and into what the other may edit.
func transferring(t *testing.T, r *room) {
	_, satchel := r.classroom()
	other, err := r.MakeFolder(r.ctx, "lindqvist", r.key(), cupboard.NewThing{Name: "Other", StandsAlone: true})
	r.ok(err)
	c := r.file("oduya", satchel.ID, "log.md", "text")
	essay := r.file("dube", satchel.ID, "essay.md", "mine")
	r.is(r.Transfer(r.ctx, "dube", r.key(), satchel.ID, "lindqvist", other.ID), cupboard.ErrNoRight, "by one who may edit")
	r.is(r.Transfer(r.ctx, "oduya", r.key(), satchel.ID, "eriksen", other.ID), cupboard.ErrNotFound, "into what they can't see")
	r.is(r.Transfer(r.ctx, "oduya", r.key(), satchel.ID, "oduya", satchel.ID), cupboard.ErrInside, "into itself")
	if st := r.state(satchel.ID); st.Owner != "oduya" {
		t.Errorf("a refused transfer changed it: %+v", st)
	}
	r.ok(r.Transfer(r.ctx, "oduya", "across", satchel.ID, "lindqvist", other.ID))
	r.ok(r.Transfer(r.ctx, "oduya", "across", satchel.ID, "lindqvist", other.ID)) // asked again by who has nothing any more
	for id, want := range map[string]string{satchel.ID: "lindqvist", c.ID: "lindqvist", essay.ID: "dube"} {
		if got, err := r.Get(r.ctx, "lindqvist", id); err != nil || got.Owner != want || id == satchel.ID && got.Parent != other.ID {
			t.Errorf("%s belongs to %q in %q, %v", got.Name, got.Owner, got.Parent, err)
		}
	}
	if o, d := r.level("oduya", essay.ID), r.level("dube", satchel.ID); o != access.Nothing || d != access.Edit {
		t.Errorf("the former owner has %v, the student %v", o, d)
	}
}
