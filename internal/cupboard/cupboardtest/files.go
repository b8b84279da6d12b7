package cupboardtest

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"reflect"
	"slices"
	"strings"
	"sync"
	"testing"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/cupboard"
)

func madeFor(t *testing.T, r *room) {
	class := r.folder("oduya", "", "Class")
	r.share(class.ID, map[string]access.Level{"lindqvist": access.Edit})
	who := map[string]access.Level{"dube": access.Owner, "nobody": access.Read}
	f, err := r.MakeFolder(r.ctx, "oduya", "made for", cupboard.NewThing{Parent: class.ID, Name: "Dube", StandsAlone: true, Grants: who})
	r.ok(err)
	want := access.Rule{Grants: map[string]access.Level{"dube": access.Edit}, StandsAlone: true}
	if !reflect.DeepEqual(f.Rule, want) {
		t.Errorf("made with %+v, want %+v", f.Rule, want)
	}
	if got, err := r.Get(r.ctx, "dube", f.ID); err != nil || got.Level != access.Edit || !reflect.DeepEqual(got.Rule, access.Rule{}) {
		t.Errorf("whom it is for sees %+v, %v", got, err)
	}
	_, err = r.Get(r.ctx, "lindqvist", f.ID)
	r.is(err, cupboard.ErrNotFound, "somebody it isn't for")
	r.share(f.ID, map[string]access.Level{"eriksen": access.Read})
	want.Grants["eriksen"] = access.Read
	if f, err = r.MakeFolder(r.ctx, "oduya", "made for", cupboard.NewThing{Parent: class.ID, Grants: who}); err != nil ||
		!reflect.DeepEqual(f.Rule, want) {
		t.Errorf("made again, it is told as %+v, %v; want %+v", f.Rule, err, want)
	}
	_, err = r.MakeFolder(r.ctx, "lindqvist", r.key(), cupboard.NewThing{Parent: class.ID, Name: "x", Grants: who})
	r.is(err, cupboard.ErrNoRight, "giving access in another's tree")
	own, err := r.MakeFolder(r.ctx, "lindqvist", r.key(), cupboard.NewThing{Parent: class.ID, Name: "x", StandsAlone: true, Grants: who})
	r.ok(err)
	template := r.file("lindqvist", own.ID, "log.md", "# Log")
	c, err := r.CopyFile(r.ctx, "lindqvist", r.key(), cupboard.Source{ID: template.ID},
		cupboard.NewThing{Parent: own.ID, Name: "Log", StandsAlone: true, Grants: map[string]access.Level{"eriksen": access.Comment}})
	r.ok(err)
	if got, err := r.Get(r.ctx, "eriksen", c.ID); err != nil || got.Level != access.Comment {
		t.Errorf("whom a copy is for sees %+v, %v", got, err)
	}
	_, err = r.Get(r.ctx, "eriksen", template.ID)
	r.is(err, cupboard.ErrNotFound, "the source of a copy")
}

func renewing(t *testing.T, r *room) {
	class := r.folder("oduya", "", "Class")
	template := r.file("lindqvist", "", "log.md", "# Log")
	c, err := r.CopyFile(r.ctx, "oduya", r.key(), cupboard.Source{ID: template.ID, Reader: "lindqvist"},
		cupboard.NewThing{Parent: class.ID, Name: "log.md", Grants: map[string]access.Level{"dube": access.Edit}})
	r.ok(err)
	if c.SHA != template.SHA || c.SHA == "" {
		t.Errorf("a copy has the content %q, its source %q", c.SHA, template.SHA)
	}
	_, err = r.Write(r.ctx, "lindqvist", r.key(), template.ID, 1, strings.NewReader("# Log, again"))
	r.ok(err)
	source := cupboard.Source{ID: template.ID, Reader: "lindqvist"}
	for range 2 {
		v, err := r.Renew(r.ctx, "oduya", "renewed", c.ID, 1, source)
		r.ok(err)
		if v.Number != 2 || r.text("dube", c.ID, 2) != "# Log, again" || r.text("dube", c.ID, 1) != "# Log" {
			t.Errorf("version %d says %q, the first %q", v.Number, r.text("dube", c.ID, 2), r.text("dube", c.ID, 1))
		}
	}
	_, err = r.Write(r.ctx, "dube", r.key(), c.ID, 2, strings.NewReader("# Log, again\n\nmine"))
	r.ok(err)
	var conflict *cupboard.Conflict
	if _, err = r.Renew(r.ctx, "oduya", r.key(), c.ID, 2, source); !errors.As(err, &conflict) || conflict.Current.Number != 3 {
		t.Errorf("renewed over what was written: %v", err)
	}
	_, err = r.Renew(r.ctx, "oduya", r.key(), c.ID, 3, cupboard.Source{ID: template.ID})
	r.is(err, cupboard.ErrNotFound, "from what oduya can't read")
	_, err = r.Renew(r.ctx, "eriksen", r.key(), c.ID, 3, source)
	r.is(err, cupboard.ErrNotFound, "by a classmate")
}

func finding(t *testing.T, r *room) {
	class := r.folder("oduya", "", "Class of 100%")
	r.share(class.ID, map[string]access.Level{"lindqvist": access.Edit})
	satchel := r.folder("oduya", class.ID, "Dube, 100 things")
	r.share(satchel.ID, map[string]access.Level{"dube": access.Edit})
	own := r.folder("dube", satchel.ID, "My 100 DRAWINGS")
	r.file("dube", satchel.ID, "100.md", "no folder")
	binned := r.folder("oduya", class.ID, "Old 100")
	r.folder("oduya", binned.ID, "Older 100")
	r.ok(r.Bin(r.ctx, "oduya", r.key(), binned.ID, nil))
	for _, x := range []struct {
		as, text string
		most     int
		want     []string
	}{
		{"oduya", "100", 9, []string{class.ID, satchel.ID, own.ID}},
		{"lindqvist", "100", 9, []string{class.ID, satchel.ID, own.ID}},
		{"dube", "100", 9, []string{satchel.ID, own.ID}},
		{"dube", "drawings", 9, []string{own.ID}},
		{"oduya", "100%", 9, []string{class.ID}},
		{"oduya", "100", 2, []string{class.ID, satchel.ID}},
		{"eriksen", "100", 9, nil},
	} {
		found, err := r.Find(r.ctx, x.as, x.text, x.most)
		r.ok(err)
		var ids []string
		for _, f := range found {
			ids = append(ids, f.ID)
		}
		if !slices.Equal(ids, x.want) {
			t.Errorf("%s finds %d folders with %q, want %d", x.as, len(ids), x.text, len(x.want))
		}
	}
	if found, err := r.Find(r.ctx, "dube", "drawings", 1); err != nil || len(found) != 1 || len(found[0].Path) != 1 {
		t.Errorf("the way to what was found: %+v, %v", found, err)
	}
}

func onlyOwnerShares(t *testing.T, r *room) {
	class := r.folder("oduya", "", "Class")
	r.share(class.ID, map[string]access.Level{"lindqvist": access.Edit})
	satchel := r.folder("oduya", class.ID, "Dube")
	r.share(satchel.ID, map[string]access.Level{"dube": access.Edit})
	essay := r.file("dube", satchel.ID, "essay.md", "mine")
	r.is(r.Share(r.ctx, "dube", r.key(), essay.ID, map[string]access.Level{"eriksen": access.Read}), cupboard.ErrNoRight,
		"a student passing access on")
	r.is(r.Share(r.ctx, "dube", r.key(), satchel.ID, map[string]access.Level{"eriksen": access.Read}),
		cupboard.ErrNoRight, "a student opening the satchel")
}

func copies(t *testing.T, r *room) {
	template := r.file("oduya", "", "log.md", "# Log")
	satchel := r.folder("oduya", "", "Dube")
	r.share(satchel.ID, map[string]access.Level{"dube": access.Edit})
	c, err := r.CopyFile(r.ctx, "oduya", r.key(), cupboard.Source{ID: template.ID},
		cupboard.NewThing{Parent: satchel.ID, Name: "3 Dube – Log.md"})
	r.ok(err)
	if c.Owner != "oduya" || c.MediaType != template.MediaType || c.Version != 1 || c.Size != 5 || r.text("dube", c.ID, 0) != "# Log" {
		t.Errorf("copy %+v", c)
	}
	_, err = r.Write(r.ctx, "dube", r.key(), c.ID, 1, strings.NewReader("# Log\n\nI was there."))
	r.ok(err)
	if r.text("oduya", template.ID, 0) != "# Log" {
		t.Error("the template changed")
	}
	_, err = r.Get(r.ctx, "dube", template.ID)
	r.is(err, cupboard.ErrNotFound, "the template is shared with nobody")
	_, err = r.CopyFile(r.ctx, "oduya", r.key(), cupboard.Source{ID: satchel.ID}, cupboard.NewThing{Name: "x"})
	r.is(err, cupboard.ErrNotFound, "copying a folder")
}

func contents(t *testing.T, r *room) {
	for _, n := range []int{0, 1, 256<<10 - 1, 256 << 10, 256<<10 + 1, 1_500_000} {
		text := strings.Repeat("tide ", n/5+1)[:n]
		f := r.file("oduya", "", "x", text)
		sum := sha256.Sum256([]byte(text))
		got, v, err := r.Open(r.ctx, "oduya", f.ID, 0)
		r.ok(err)
		b, err := io.ReadAll(got)
		r.ok(err)
		got.Close()
		if string(b) != text || v.Size != int64(n) || v.SHA != hex.EncodeToString(sum[:]) || f.Size != int64(n) {
			t.Errorf("%d bytes came back as %d, version %+v", n, len(b), v)
		}
	}
}

func weights(t *testing.T, r *room) {
	top := r.folder("oduya", "", "Class")
	inner := r.folder("oduya", top.ID, "Dube")
	f := r.file("oduya", inner.ID, "log.md", "four")
	r.file("oduya", inner.ID, "same.md", "four")
	r.file("oduya", "", "elsewhere.md", "twelve bytes")
	_, err := r.Write(r.ctx, "oduya", r.key(), f.ID, 1, strings.NewReader("seven b"))
	r.ok(err)
	for _, id := range []string{top.ID, inner.ID} {
		if n, err := r.Weight(r.ctx, "oduya", id); err != nil || n != 11 {
			t.Errorf("weighs %d, %v", n, err)
		}
	}
	if n, err := r.Weight(r.ctx, "oduya", f.ID); err != nil || n != 0 {
		t.Errorf("nothing lies in a file: %d, %v", n, err)
	}
}

func noPlaceTaken(t *testing.T, r *room) {
	large := strings.Repeat("salt and kelp ", 50_000) // more than goes in one piece
	f := r.file("oduya", "", "log.md", "one")
	g := r.file("oduya", "", "chart.md", large)
	r.file("oduya", "", "same.md", "one")
	kept := func(what string, want int) {
		t.Helper()
		if n, err := r.Kept(r.ctx); err != nil || n != int64(want) {
			t.Errorf("%s: %d bytes are kept, %v, want %d", what, n, err, want)
		}
	}
	kept("each content once", 3+len(large))
	var conflict *cupboard.Conflict
	if _, err := r.Write(r.ctx, "oduya", r.key(), f.ID, 7, strings.NewReader(large+"!")); !errors.As(err, &conflict) {
		t.Fatal(err)
	}
	if _, err := r.AddFile(r.ctx, "stranger", r.key(), cupboard.NewThing{Name: "own.md"}, strings.NewReader("not kept")); err == nil {
		t.Fatal("somebody unknown adds a file")
	}
	kept("what was refused", 3+len(large))
	r.ok(r.Remove(r.ctx, "oduya", r.key(), f.ID))
	r.ok(r.Remove(r.ctx, "oduya", r.key(), g.ID))
	r.ok(r.Stage.Forget(r.ctx))
	kept("what has ended", 3)
	again := r.file("oduya", "", "again.md", large)
	if got := r.text("oduya", again.ID, 1); got != large {
		t.Errorf("what was dropped and came again reads as %d bytes", len(got))
	}
}

func keptWhileDropped(t *testing.T, r *room) {
	f := r.file("oduya", "", "log.md", "one")
	for i := range 100 {
		text := fmt.Sprint("the same ", i)
		old := r.file("oduya", "", "old.md", text)
		r.ok(r.Remove(r.ctx, "oduya", r.key(), old.ID))
		var both sync.WaitGroup
		both.Go(func() {
			if err := r.Stage.Forget(r.ctx); err != nil {
				t.Error(err)
			}
		})
		both.Go(func() {
			if v, err := r.Write(r.ctx, "oduya", fmt.Sprint("w", i), f.ID, i+1, strings.NewReader(text)); err != nil || v.Number != i+2 {
				t.Errorf("written as %d, %v", v.Number, err)
			}
		})
		both.Wait()
		if got := r.text("oduya", f.ID, 0); got != text {
			t.Fatalf("%d: reads as %q", i, got)
		}
	}
}

func versions(t *testing.T, r *room) {
	f := r.file("oduya", "", "log.md", "one")
	v2, err := r.Write(r.ctx, "oduya", "w1", f.ID, 1, strings.NewReader("two"))
	r.ok(err)
	again, err := r.Write(r.ctx, "oduya", "w1", f.ID, 1, strings.NewReader("two"))
	if err != nil || again.Number != v2.Number {
		t.Errorf("the same write again: %+v, %v", again, err)
	}
	_, err = r.Write(r.ctx, "oduya", "w2", f.ID, 1, strings.NewReader("three"))
	var conflict *cupboard.Conflict
	if !errors.As(err, &conflict) || conflict.Current.Number != 2 || conflict.Current.By != "oduya" {
		t.Errorf("a late write: %v", err)
	}
	vs, err := r.Versions(r.ctx, "oduya", f.ID)
	r.ok(err)
	if len(vs) != 2 || vs[0].Number != 2 || vs[1].Number != 1 {
		t.Errorf("versions %+v", vs)
	}
	if r.text("oduya", f.ID, 1) != "one" || r.text("oduya", f.ID, 0) != "two" {
		t.Error("an earlier version changed")
	}
	_, _, err = r.Open(r.ctx, "oduya", f.ID, 9)
	r.is(err, cupboard.ErrNotFound, "a version that isn't there")
	folder := r.folder("oduya", "", "folder")
	_, err = r.Write(r.ctx, "oduya", r.key(), folder.ID, 1, strings.NewReader("x"))
	r.is(err, cupboard.ErrNoRight, "writing a folder")
}

func pointers(t *testing.T, r *room) {
	drawer := r.folder("oduya", "", "Drawer")
	f := r.file("oduya", "", "log.md", "x")
	p, err := r.MakePointer(r.ctx, "oduya", r.key(), f.ID, cupboard.NewThing{Parent: drawer.ID, Name: "log.md"})
	r.ok(err)
	if p.Kind != cupboard.Pointer || p.Target != f.ID {
		t.Errorf("pointer %+v", p)
	}
	r.share(drawer.ID, map[string]access.Level{"dube": access.Read})
	if _, err := r.Get(r.ctx, "dube", p.ID); err != nil {
		t.Errorf("the pointer can be read: %v", err)
	}
	_, err = r.Get(r.ctx, "dube", f.ID)
	r.is(err, cupboard.ErrNotFound, "what it points to")
}

func states(t *testing.T, r *room) {
	class := r.folder("oduya", "", "Class")
	satchel := r.folder("oduya", class.ID, "Dube")
	r.share(satchel.ID, map[string]access.Level{"dube": access.Edit})
	pocket := r.folder("oduya", satchel.ID, "Field work")
	r.file("dube", pocket.ID, "pool.png", "x")
	r.file("dube", satchel.ID, "essay.md", "x")
	c := r.file("oduya", satchel.ID, "log.md", "x")
	_, err := r.Write(r.ctx, "dube", r.key(), c.ID, 1, strings.NewReader("y"))
	r.ok(err)
	theirs := r.file("lindqvist", "", "theirs.md", "x")
	got, err := r.Cupboard.States(r.ctx, "oduya",
		[]string{satchel.ID, c.ID, theirs.ID, "0198a0c0-0000-7000-8000-000000000000", "no id at all"})
	r.ok(err)
	for _, id := range []string{"0198a0c0-0000-7000-8000-000000000000", "no id at all"} {
		if got[id].Place != ledger.Gone {
			t.Errorf("%s: %+v", id, got[id])
		}
	}
	if st, told := got[theirs.ID]; told {
		t.Errorf("what can't be read isn't gone: %+v", st)
	}
	s, f := got[satchel.ID], got[c.ID]
	if s.Place != ledger.Lies || s.Owner != "oduya" || s.Inside != 2 || s.InsideAt.IsZero() ||
		s.Rule.Grants["dube"] != access.Edit || s.Parent != class.ID || f.Version != 2 || f.ChangedBy != "dube" {
		t.Errorf("states %+v", got)
	}
}

func counting(t *testing.T, r *room) {
	class, satchel := r.classroom()
	own, err := r.MakeFolder(r.ctx, "dube", r.key(), cupboard.NewThing{Name: "Own", Parent: satchel.ID})
	r.ok(err)
	essay := r.file("dube", own.ID, "essay.md", "x")
	log := r.file("oduya", satchel.ID, "log.md", "x")
	other := r.folder("oduya", class.ID, "Eriksen")
	counts := func(after, as string, want ...int) {
		t.Helper()
		ids := []string{class.ID, satchel.ID, own.ID, other.ID}
		got, err := r.Cupboard.States(r.ctx, as, ids)
		r.ok(err)
		for i, id := range ids {
			if got[id].Inside != want[i] {
				t.Errorf("%s: in %s there are %d of others, want %d", after, got[id].Name, got[id].Inside, want[i])
			}
		}
	}
	counts("made", "oduya", 2, 2, 0, 0)
	r.ok(r.Move(r.ctx, "oduya", r.key(), log.ID, own.ID))
	counts("one's own in another's folder", "oduya", 2, 2, 1, 0)
	r.ok(r.Move(r.ctx, "oduya", r.key(), own.ID, other.ID))
	counts("moved", "oduya", 2, 0, 1, 2)
	r.ok(r.HandOver(r.ctx, "dube", r.key(), essay.ID, "oduya"))
	counts("handed over, as the folder's owner is another", "oduya", 1, 0, 2, 1)
	r.ok(r.HandOver(r.ctx, "oduya", r.key(), class.ID, "lindqvist"))
	counts("all of it another's", "lindqvist", 1, 0, 2, 1)
	r.ok(r.Bin(r.ctx, "lindqvist", r.key(), other.ID, nil))
	counts("binned", "lindqvist", 0, 0, 0, 0)
}
