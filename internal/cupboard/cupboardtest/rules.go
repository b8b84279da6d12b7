package cupboardtest

import (
	"errors"
	"strings"
	"testing"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/cupboard"
)

func accessEnforced(t *testing.T, r *room) {
	class := r.folder("oduya", "", "Class")
	satchel := r.folder("oduya", class.ID, "Dube")
	r.share(satchel.ID, map[string]access.Level{"dube": access.Edit})
	read := r.file("oduya", class.ID, "rules.md", "read me")
	r.share(read.ID, map[string]access.Level{"dube": access.Read})
	essay := r.file("dube", satchel.ID, "essay.md", "mine")
	if got, err := r.Get(r.ctx, "dube", essay.ID); err != nil || got.Level != access.Owner || got.Owner != "dube" ||
		len(got.Path) != 1 || got.Path[0].Name != "Dube" {
		t.Errorf("the student sees %+v, %v", got, err)
	}
	if got, err := r.Get(r.ctx, "oduya", essay.ID); err != nil || got.Level != access.Edit || len(got.Path) != 2 {
		t.Errorf("the teacher sees %+v, %v", got, err)
	}
	_, err := r.Write(r.ctx, "dube", r.key(), read.ID, 1, strings.NewReader("changed"))
	r.is(err, cupboard.ErrNoRight, "writing what can only be read")
	_, err = r.MakeFolder(r.ctx, "dube", r.key(), cupboard.NewThing{Parent: class.ID, Name: "x"})
	r.is(err, cupboard.ErrNotFound, "adding to a folder that may not be seen")
	_, err = r.Get(r.ctx, "eriksen", essay.ID)
	r.is(err, cupboard.ErrNotFound, "a classmate")
	who, err := r.Cupboard.People(r.ctx, "oduya", essay.ID)
	r.ok(err)
	if len(who) != 2 || who["dube"].Level != access.Owner || who["oduya"].Level != access.Edit {
		t.Errorf("people %v", who)
	}
	_, err = r.Cupboard.People(r.ctx, "dube", read.ID)
	r.is(err, cupboard.ErrNoRight, "asking who else can read")
}

func hidden(t *testing.T, r *room) {
	secret := r.file("oduya", "", "template.md", "secret")
	for what, call := range map[string]func(id string) error{
		"get":      func(id string) error { _, err := r.Get(r.ctx, "dube", id); return err },
		"list":     func(id string) error { _, err := r.List(r.ctx, "dube", id); return err },
		"open":     func(id string) error { _, _, err := r.Open(r.ctx, "dube", id, 0); return err },
		"versions": func(id string) error { _, err := r.Versions(r.ctx, "dube", id); return err },
		"weight":   func(id string) error { _, err := r.Weight(r.ctx, "dube", id); return err },
		"write": func(id string) error {
			_, err := r.Write(r.ctx, "dube", r.key(), id, 1, strings.NewReader("x"))
			return err
		},
		"share": func(id string) error {
			return r.Share(r.ctx, "dube", r.key(), id, map[string]access.Level{"dube": access.Edit})
		},
		"copy": func(id string) error {
			_, err := r.CopyFile(r.ctx, "dube", r.key(), cupboard.Source{ID: id}, cupboard.NewThing{Name: "mine"})
			return err
		},
		"point": func(id string) error {
			_, err := r.MakePointer(r.ctx, "dube", r.key(), id, cupboard.NewThing{Name: "mine"})
			return err
		},
		"people":    func(id string) error { _, err := r.Cupboard.People(r.ctx, "dube", id); return err },
		"rename":    func(id string) error { return r.Rename(r.ctx, "dube", r.key(), id, "mine") },
		"move":      func(id string) error { return r.Move(r.ctx, "dube", r.key(), id, "") },
		"bin":       func(id string) error { return r.Bin(r.ctx, "dube", r.key(), id, nil) },
		"restore":   func(id string) error { return r.Restore(r.ctx, "dube", r.key(), id) },
		"close":     func(id string) error { return r.Close(r.ctx, "dube", r.key(), id, access.Mark{}) },
		"reopen":    func(id string) error { return r.Reopen(r.ctx, "dube", r.key(), id) },
		"hand over": func(id string) error { return r.HandOver(r.ctx, "dube", r.key(), id, "dube") },
	} {
		for _, id := range []string{secret.ID, "0198a0c0-0000-7000-8000-000000000000", "no id at all"} {
			r.is(call(id), cupboard.ErrNotFound, what+" of "+id)
		}
	}
	_, err := r.ByLink(r.ctx, "dube", secret.Link)
	r.is(err, cupboard.ErrNotFound, "a link in the wrong hands")
	if got, err := r.ByLink(r.ctx, "oduya", secret.Link); err != nil || got.ID != secret.ID {
		t.Errorf("the link leads to %+v, %v", got, err)
	}
	st, err := r.Cupboard.States(r.ctx, "dube", []string{secret.ID})
	if err != nil || len(st) != 0 {
		t.Errorf("states tell of %v, %v", st, err)
	}
}

func sharing(t *testing.T, r *room) {
	f := r.folder("oduya", "", "Shelf")
	level := func(want access.Level) {
		t.Helper()
		got, err := r.Get(r.ctx, "dube", f.ID)
		if err != nil || got.Level != want {
			t.Errorf("level %v, %v; want %v", got.Level, err, want)
		}
	}
	r.share(f.ID, map[string]access.Level{"dube": access.Comment})
	level(access.Comment)
	r.share(f.ID, map[string]access.Level{"dube": access.Read, "eriksen": access.Read})
	level(access.Comment)
	r.share(f.ID, map[string]access.Level{"dube": access.Edit})
	level(access.Edit)
	r.share(f.ID, map[string]access.Level{"dube": access.Owner})
	level(access.Edit) // a rule makes nobody the owner
}

func unknownPeople(t *testing.T, r *room) {
	f := r.folder("oduya", "", "Shelf")
	err := r.Share(r.ctx, "oduya", r.key(), f.ID, map[string]access.Level{"dube": access.Read, "nobody": access.Read})
	var unknown *cupboard.UnknownPeople
	if !errors.As(err, &unknown) || len(unknown.Accounts) != 1 || unknown.Accounts[0] != "nobody" {
		t.Errorf("error %v", err)
	}
	if _, err := r.Get(r.ctx, "dube", f.ID); err != nil {
		t.Errorf("the other was not given access: %v", err)
	}
}

func settingRules(t *testing.T, r *room) {
	class := r.folder("oduya", "", "Class")
	satchel := r.folder("oduya", class.ID, "Dube")
	r.share(satchel.ID, map[string]access.Level{"dube": access.Edit, "eriksen": access.Read})
	note := r.file("dube", satchel.ID, "note", "mine")
	set := func(as, key string, c cupboard.RuleChange) error { return r.SetRule(r.ctx, as, key, satchel.ID, c) }
	away := cupboard.RuleChange{Levels: map[string]access.Level{"dube": access.Nothing, "lindqvist": access.Nothing}}
	r.ok(set("oduya", "away", away))
	_, err := r.Get(r.ctx, "dube", satchel.ID)
	r.is(err, cupboard.ErrNotFound, "after it was taken away")
	if _, err := r.Get(r.ctx, "eriksen", satchel.ID); err != nil {
		t.Errorf("another lost access too: %v", err)
	}
	if _, err := r.Get(r.ctx, "dube", note.ID); err != nil {
		t.Errorf("the own file in it: %v", err)
	}
	r.share(satchel.ID, map[string]access.Level{"dube": access.Edit})
	r.ok(set("oduya", "away", away)) // sent again: not done again
	if _, err := r.Get(r.ctx, "dube", satchel.ID); err != nil {
		t.Errorf("a request sent again was done again: %v", err)
	}
	r.ok(r.Bin(r.ctx, "oduya", r.key(), satchel.ID, nil))
	r.ok(set("oduya", "away in the bin", away))
	r.ok(r.Restore(r.ctx, "oduya", r.key(), satchel.ID))
	_, err = r.Get(r.ctx, "dube", satchel.ID)
	r.is(err, cupboard.ErrNotFound, "after it was taken away in the bin")
	r.share(satchel.ID, map[string]access.Level{"dube": access.Edit})
	r.is(set("dube", r.key(), away), cupboard.ErrNoRight, "by one who may edit")
	r.is(set("lindqvist", r.key(), away), cupboard.ErrNotFound, "by one who sees nothing")

	// A copy in it that stands alone and may only be read, and may be edited again.
	c := r.file("oduya", satchel.ID, "log.md", "x")
	r.share(c.ID, map[string]access.Level{"dube": access.Edit})
	alone, open := true, false
	r.ok(r.SetRule(r.ctx, "oduya", r.key(), c.ID,
		cupboard.RuleChange{Levels: map[string]access.Level{"dube": access.Read}, StandsAlone: &alone}))
	if got, err := r.Get(r.ctx, "dube", c.ID); err != nil || got.Level != access.Read {
		t.Errorf("lowered: %v, %v", got.Level, err)
	}
	states, err := r.Cupboard.States(r.ctx, "oduya", []string{c.ID})
	r.ok(err)
	if rule := states[c.ID].Rule; !rule.StandsAlone || rule.Grants["dube"] != access.Read {
		t.Errorf("its rule is %+v", rule)
	}
	r.ok(r.SetRule(r.ctx, "oduya", r.key(), c.ID, cupboard.RuleChange{StandsAlone: &open}))
	if got, err := r.Get(r.ctx, "dube", c.ID); err != nil || got.Level != access.Edit {
		t.Errorf("open to the satchel again: %v, %v", got.Level, err)
	}
}

// What is opened to the school is reached by anyone who has its link or id, at most as said,
// without a path; it is in nobody's list, and its copies aren't open.
func openToSchool(t *testing.T, r *room) {
	class := r.folder("oduya", "", "Class")
	sheet := r.file("oduya", class.ID, "sheet.md", "x")
	comment, nothing := access.Comment, access.Nothing
	open := func(as string, l *access.Level) error {
		return r.SetRule(r.ctx, as, r.key(), sheet.ID, cupboard.RuleChange{School: l})
	}
	_, err := r.ByLink(r.ctx, "eriksen", sheet.Link)
	r.is(err, cupboard.ErrNotFound, "before it was opened")
	r.is(open("eriksen", &comment), cupboard.ErrNotFound, "opened by a stranger")
	r.ok(open("oduya", &comment))
	r.is(open("eriksen", &nothing), cupboard.ErrNoRight, "shut by a stranger")
	got, err := r.ByLink(r.ctx, "eriksen", sheet.Link)
	if r.ok(err); got.Level != access.Comment || len(got.Path) > 0 {
		t.Errorf("by its link: %v, path %v", got.Level, got.Path)
	}
	_, err = r.Write(r.ctx, "eriksen", r.key(), sheet.ID, 1, strings.NewReader("y"))
	r.is(err, cupboard.ErrNoRight, "written by a stranger")
	_, err = r.Write(r.ctx, "oduya", r.key(), sheet.ID, 1, strings.NewReader("second"))
	r.ok(err)
	if vs, err := r.Versions(r.ctx, "eriksen", sheet.ID); err != nil || len(vs) != 1 || vs[0].Number != 2 ||
		r.text("eriksen", sheet.ID, 2) != "second" {
		t.Errorf("what the link shows of its versions: %+v, %v", vs, err)
	}
	_, _, err = r.Open(r.ctx, "eriksen", sheet.ID, 1)
	r.is(err, cupboard.ErrNotFound, "an earlier state by the link")
	roots, err := r.Roots(r.ctx, "eriksen")
	if r.ok(err); len(roots) > 0 {
		t.Errorf("it is listed to a stranger: %v", roots)
	}
	states, err := r.States(r.ctx, "oduya", []string{sheet.ID})
	if r.ok(err); states[sheet.ID].Rule.School != access.Comment {
		t.Errorf("its rule: %+v", states[sheet.ID].Rule)
	}
	twin, err := r.CopyFile(r.ctx, "oduya", r.key(), cupboard.Source{ID: sheet.ID}, cupboard.NewThing{Parent: class.ID, Name: "twin.md"})
	r.ok(err)
	_, err = r.Get(r.ctx, "eriksen", twin.ID)
	r.is(err, cupboard.ErrNotFound, "its copy")
	r.share(sheet.ID, map[string]access.Level{"dube": access.Read}) // changes nothing of it
	r.ok(open("oduya", &nothing))
	_, err = r.Get(r.ctx, "eriksen", sheet.ID)
	r.is(err, cupboard.ErrNotFound, "after it was shut")
	if _, err := r.Get(r.ctx, "dube", sheet.ID); err != nil {
		t.Errorf("one who is named: %v", err)
	}
	r.ok(open("oduya", &comment))
	r.ok(r.HandOver(r.ctx, "oduya", r.key(), class.ID, "lindqvist"))
	if _, err := r.Get(r.ctx, "eriksen", sheet.ID); err != nil {
		t.Errorf("open, with its whole tree handed over: %v", err)
	}
	r.ok(r.HandOver(r.ctx, "lindqvist", r.key(), sheet.ID, "dube"))
	_, err = r.Get(r.ctx, "eriksen", sheet.ID)
	r.is(err, cupboard.ErrNotFound, "handed over")
}

// A copy is made for one account with what another may read.
func lending(t *testing.T, r *room) {
	template := r.file("lindqvist", "", "template.md", "theirs")
	class := r.folder("oduya", "", "Class")
	_, err := r.CopyFile(r.ctx, "oduya", r.key(), cupboard.Source{ID: template.ID}, cupboard.NewThing{Parent: class.ID, Name: "log.md"})
	r.is(err, cupboard.ErrNotFound, "with the own right")
	c, err := r.CopyFile(r.ctx, "oduya", r.key(), cupboard.Source{ID: template.ID, Reader: "lindqvist"},
		cupboard.NewThing{Parent: class.ID, Name: "log.md"})
	r.ok(err)
	if c.Owner != "oduya" || r.text("oduya", c.ID, 0) != "theirs" {
		t.Errorf("the copy is %+v", c)
	}
	_, err = r.Get(r.ctx, "oduya", template.ID)
	r.is(err, cupboard.ErrNotFound, "the template itself")
}

func renaming(t *testing.T, r *room) {
	class := r.folder("oduya", "", "Class")
	a := r.file("oduya", class.ID, "Dube – Knots", "text")
	r.share(a.ID, map[string]access.Level{"dube": access.Edit})
	r.ok(r.Rename(r.ctx, "oduya", "name", a.ID, "Khumalo – Knots"))
	b, err := r.Get(r.ctx, "oduya", a.ID)
	r.ok(err)
	if b.Name != "Khumalo – Knots" || b.Link != a.Link || b.Version != a.Version || r.text("dube", a.ID, 0) != "text" {
		t.Errorf("%+v became %+v", a, b)
	}
	r.ok(r.Rename(r.ctx, "oduya", r.key(), a.ID, "Third"))
	r.ok(r.Rename(r.ctx, "oduya", "name", a.ID, "Khumalo – Knots"))
	if b, err = r.Get(r.ctx, "oduya", a.ID); err != nil || b.Name != "Third" {
		t.Errorf("a request sent again was done again: %q, %v", b.Name, err)
	}
	r.is(r.Rename(r.ctx, "eriksen", r.key(), a.ID, "x"), cupboard.ErrNotFound, "by one who sees nothing")
}

func removing(t *testing.T, r *room) {
	class := r.folder("oduya", "", "Class")
	satchel := r.folder("oduya", class.ID, "Dube")
	r.share(satchel.ID, map[string]access.Level{"dube": access.Edit})
	note := r.file("dube", satchel.ID, "note", "mine")
	other := r.file("oduya", class.ID, "stays", "text")
	pointer, err := r.MakePointer(r.ctx, "oduya", r.key(), note.ID, cupboard.NewThing{Parent: class.ID, Name: "to it"})
	r.ok(err)
	r.is(r.Remove(r.ctx, "dube", r.key(), satchel.ID), cupboard.ErrNoRight, "by one who may edit")
	r.ok(r.Remove(r.ctx, "oduya", "end", satchel.ID))
	for _, id := range []string{satchel.ID, note.ID} {
		_, err := r.Get(r.ctx, "oduya", id)
		r.is(err, cupboard.ErrNotFound, "removed")
	}
	if _, err := r.Get(r.ctx, "oduya", pointer.ID); err != nil && !errors.Is(err, cupboard.ErrNotFound) {
		t.Errorf("the pointer to it: %v", err)
	}
	if r.text("oduya", other.ID, 0) != "text" {
		t.Error("its neighbour is gone")
	}
	r.ok(r.Remove(r.ctx, "oduya", "end", satchel.ID)) // sent again
}
