// Package cupboardtest holds the contract every cupboard must keep, as tests
// that any storage can be put to.
package cupboardtest

import (
	"bytes"
	"context"
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
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/cupboard"
)

// The people a cupboard under test must know.
var People = []string{"oduya", "lindqvist", "dube", "eriksen"}

// A Stage is a cupboard under test, empty, that knows People and nobody else.
type Stage struct {
	Cupboard cupboard.Cupboard
	Pass     func(time.Duration)         // lets time pass
	Again    func() cupboard.Cupboard    // the same cupboard as another program sees it
	Storm    func(errors, lost float64)  // shares of requests that fail, and of answers that are lost
	Forget   func(context.Context) error // drops what is older than its term
}

// Run puts a cupboard to the contract, in calm weather and in bad.
func Run(t *testing.T, fresh func(t *testing.T) Stage) {
	t.Run("calm", func(t *testing.T) { run(t, fresh) })
	t.Run("bad weather", func(t *testing.T) {
		run(t, func(t *testing.T) Stage {
			s := fresh(t)
			s.Storm(0.2, 0.1)
			s.Cupboard = persistent{cupboard.Patient{Cupboard: s.Cupboard}}
			again := s.Again
			s.Again = func() cupboard.Cupboard { return persistent{cupboard.Patient{Cupboard: again()}} }
			return s
		})
	})
}

// persistent also sends contents again.
type persistent struct{ cupboard.Patient }

func repeat[T any](r io.Reader, do func(io.Reader) (T, error)) (T, error) {
	content, err := io.ReadAll(r)
	var out T
	for try := 0; err == nil; try++ {
		if out, err = do(bytes.NewReader(content)); errors.Is(err, cupboard.ErrUnavailable) && try < 20 {
			err = nil
			continue
		}
		break
	}
	return out, err
}

func (p persistent) AddFile(ctx context.Context, as, key string, f cupboard.NewThing, r io.Reader) (cupboard.Thing, error) {
	return repeat(r, func(r io.Reader) (cupboard.Thing, error) { return p.Patient.AddFile(ctx, as, key, f, r) })
}

func (p persistent) Write(ctx context.Context, as, key, id string, base int, r io.Reader) (cupboard.Version, error) {
	return repeat(r, func(r io.Reader) (cupboard.Version, error) { return p.Patient.Write(ctx, as, key, id, base, r) })
}

func run(t *testing.T, fresh func(t *testing.T) Stage) {
	for _, test := range []struct {
		name string
		run  func(*testing.T, *room)
	}{
		{"made once for each key", madeOnce},
		{"made once for simultaneous requests", madeOnceAtOnce},
		{"access is enforced", accessEnforced},
		{"what may not be seen isn't there", hidden},
		{"sharing raises and never lowers", sharing},
		{"unknown people don't stop the others", unknownPeople},
		{"made with whom it is for", madeFor},
		{"renewed from a source, the earlier state kept", renewing},
		{"folders are found by what they are called", finding},
		{"only the tree's owner shares", onlyOwnerShares},
		{"rules are changed as said", settingRules},
		{"open to the school by its link", openToSchool},
		{"copies of what another may read", lending},
		{"renaming changes nothing else", renaming},
		{"what is removed is gone with all in it", removing},
		{"copies are independent", copies},
		{"contents of any size come back", contents},
		{"what is in a folder weighs", weights},
		{"what is refused or has ended takes no place", noPlaceTaken},
		{"what comes again while it is dropped is kept", keptWhileDropped},
		{"versions and conflicts", versions},
		{"pointers give no access", pointers},
		{"states", states},
		{"what others put in is counted wherever it goes, and whoever's it becomes", counting},
		{"every changing call is done once for its key", doneOnce},
		{"restored and reopened once for each key", restoredOnce},
		{"what was made with a key is the answer in the bin, and gone after it", madeOnceForEver},
		{"written once for each key, closed meanwhile or not", writtenOnce},
		{"moving keeps contents and links, and folders out of themselves", moving},
		{"what as owns in a folder is handed over with it", handingOver},
		{"a folder passes from one tree to another in one", transferring},
		{"the bin keeps things for a term", bin},
		{"what is in a folder must all be theirs", refusals},
		{"what a student put into what was binned lies in their own bin", othersInBin},
		{"a closed thing can be read by who could write", closing},
		{"roots", roots},
		{"contents are read from any place", seeking},
		{"changes are told once each, across a restart", changes},
		{"changes under way at the same time are not missed", changesAtOnce},
		{"changes that are no longer known are said to be", changesTooOld},
	} {
		t.Run(test.name, func(t *testing.T) {
			stage := fresh(t)
			test.run(t, &room{t: t, Cupboard: stage.Cupboard, Stage: stage, ctx: context.Background()})
		})
	}
}

type room struct {
	t *testing.T
	cupboard.Cupboard
	Stage Stage
	ctx   context.Context
	n     int
}

func (r *room) key() string {
	r.n++
	return fmt.Sprint("key", r.n)
}

func (r *room) folder(as, parent, name string) cupboard.Thing {
	r.t.Helper()
	f, err := r.MakeFolder(r.ctx, as, r.key(), cupboard.NewThing{Parent: parent, Name: name})
	r.ok(err)
	return f
}

func (r *room) file(as, parent, name, text string) cupboard.Thing {
	r.t.Helper()
	f, err := r.AddFile(r.ctx, as, r.key(), cupboard.NewThing{Parent: parent, Name: name, MediaType: "text/markdown"}, strings.NewReader(text))
	r.ok(err)
	return f
}

func (r *room) share(id string, grants map[string]access.Level) {
	r.t.Helper()
	r.ok(r.Share(r.ctx, "oduya", r.key(), id, grants))
}

func (r *room) text(as, id string, version int) string {
	r.t.Helper()
	f, _, err := r.Open(r.ctx, as, id, version)
	r.ok(err)
	defer f.Close()
	b, err := io.ReadAll(f)
	r.ok(err)
	return string(b)
}

func (r *room) ok(err error) {
	r.t.Helper()
	if err != nil {
		r.t.Fatal(err)
	}
}

func (r *room) is(err, want error, what string) {
	r.t.Helper()
	if !errors.Is(err, want) {
		r.t.Errorf("%s: %v, want %v", what, err, want)
	}
}

func madeOnce(t *testing.T, r *room) {
	a, err := r.MakeFolder(r.ctx, "oduya", "same", cupboard.NewThing{Name: "Satchel"})
	r.ok(err)
	b, err := r.MakeFolder(r.ctx, "oduya", "same", cupboard.NewThing{Name: "another name"})
	r.ok(err)
	if a.ID != b.ID || a.Link != b.Link || b.Name != "Satchel" {
		t.Errorf("the same key made %+v and %+v", a, b)
	}
	c, err := r.MakeFolder(r.ctx, "oduya", "other", cupboard.NewThing{Name: "Satchel"})
	r.ok(err)
	if c.ID == a.ID || c.Link == a.Link || len(c.Link) < 20 {
		t.Errorf("another key made %+v", c)
	}
}

func madeOnceAtOnce(t *testing.T, r *room) {
	top := r.folder("oduya", "", "Class")
	ids := make([]string, 8)
	var wg sync.WaitGroup
	for i := range ids {
		wg.Go(func() {
			f, err := r.MakeFolder(r.ctx, "oduya", "at once", cupboard.NewThing{Parent: top.ID, Name: "Satchel"})
			if err != nil {
				t.Error(err)
			}
			ids[i] = f.ID
		})
	}
	wg.Wait()
	for _, id := range ids {
		if id != ids[0] {
			t.Fatalf("one key, several folders: %v", ids)
		}
	}
	if there, err := r.List(r.ctx, "oduya", top.ID); err != nil || len(there) != 1 {
		t.Errorf("%d folders, %v", len(there), err)
	}
}

func accessEnforced(t *testing.T, r *room) {
	class := r.folder("oduya", "", "Class")
	satchel := r.folder("oduya", class.ID, "Dube")
	r.share(satchel.ID, map[string]access.Level{"dube": access.Edit})
	read := r.file("oduya", class.ID, "rules.md", "read me")
	r.share(read.ID, map[string]access.Level{"dube": access.Read})
	essay := r.file("dube", satchel.ID, "essay.md", "mine")
	if got, err := r.Get(r.ctx, "dube", essay.ID); err != nil || got.Level != access.Owner || got.Owner != "dube" || len(got.Path) != 1 || got.Path[0].Name != "Dube" {
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
	if f, err = r.MakeFolder(r.ctx, "oduya", "made for", cupboard.NewThing{Parent: class.ID, Grants: who}); err != nil || !reflect.DeepEqual(f.Rule, want) {
		t.Errorf("made again, it is told as %+v, %v; want %+v", f.Rule, err, want)
	}
	_, err = r.MakeFolder(r.ctx, "lindqvist", r.key(), cupboard.NewThing{Parent: class.ID, Name: "x", Grants: who})
	r.is(err, cupboard.ErrNoRight, "giving access in another's tree")
	own, err := r.MakeFolder(r.ctx, "lindqvist", r.key(), cupboard.NewThing{Parent: class.ID, Name: "x", StandsAlone: true, Grants: who})
	r.ok(err)
	template := r.file("lindqvist", own.ID, "log.md", "# Log")
	c, err := r.CopyFile(r.ctx, "lindqvist", r.key(), cupboard.Source{ID: template.ID}, cupboard.NewThing{Parent: own.ID, Name: "Log", StandsAlone: true, Grants: map[string]access.Level{"eriksen": access.Comment}})
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
	c, err := r.CopyFile(r.ctx, "oduya", r.key(), cupboard.Source{ID: template.ID, Reader: "lindqvist"}, cupboard.NewThing{Parent: class.ID, Name: "log.md", Grants: map[string]access.Level{"dube": access.Edit}})
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
	r.is(r.Share(r.ctx, "dube", r.key(), essay.ID, map[string]access.Level{"eriksen": access.Read}), cupboard.ErrNoRight, "a student passing access on")
	r.is(r.Share(r.ctx, "dube", r.key(), satchel.ID, map[string]access.Level{"eriksen": access.Read}), cupboard.ErrNoRight, "a student opening the satchel")
}

func copies(t *testing.T, r *room) {
	template := r.file("oduya", "", "log.md", "# Log")
	satchel := r.folder("oduya", "", "Dube")
	r.share(satchel.ID, map[string]access.Level{"dube": access.Edit})
	c, err := r.CopyFile(r.ctx, "oduya", r.key(), cupboard.Source{ID: template.ID}, cupboard.NewThing{Parent: satchel.ID, Name: "3 Dube – Log.md"})
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
	got, err := r.Cupboard.States(r.ctx, "oduya", []string{satchel.ID, c.ID, theirs.ID, "0198a0c0-0000-7000-8000-000000000000", "no id at all"})
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
	if s.Place != ledger.Lies || s.Owner != "oduya" || s.Inside != 2 || s.InsideAt.IsZero() || s.Rule.Grants["dube"] != access.Edit || s.Parent != class.ID || f.Version != 2 || f.ChangedBy != "dube" {
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
	r.ok(r.SetRule(r.ctx, "oduya", r.key(), c.ID, cupboard.RuleChange{Levels: map[string]access.Level{"dube": access.Read}, StandsAlone: &alone}))
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

// What is opened to the school is reached by whoever has its link or id, at most as said,
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
	if vs, err := r.Versions(r.ctx, "eriksen", sheet.ID); err != nil || len(vs) != 1 || vs[0].Number != 2 || r.text("eriksen", sheet.ID, 2) != "second" {
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
	c, err := r.CopyFile(r.ctx, "oduya", r.key(), cupboard.Source{ID: template.ID, Reader: "lindqvist"}, cupboard.NewThing{Parent: class.ID, Name: "log.md"})
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
