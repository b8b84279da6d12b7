// Package cupboardtest holds the contract every cupboard must keep, as tests
// that any storage can be put to.
package cupboardtest

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"strings"
	"sync"
	"testing"
	"time"

	"jollysatchel/internal/core/access"
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
		{"the owner of a tree is told of all in it", held},
		{"what is ceded passes on alone", ceded},
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
