package usecase_test

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"reflect"
	"strings"
	"sync"
	"testing"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

// marked has the cupboard told what is closed, by several programs at once, and waits for it.
func marked(t *testing.T, a *app.App, c picture.Class) {
	t.Helper()
	var all sync.WaitGroup
	for range 3 {
		all.Go(func() {
			if err := a.Cases.Packing.KeepMarks(ctx); err != nil {
				t.Error(err)
			}
		})
	}
	all.Wait()
	rest(t, a, c)
}

// direct writes in a copy past the program, as the storage's own page would.
func direct(a *app.App, account, thing string) error {
	got, err := a.Cup.Get(ctx, "oduya", thing)
	if err != nil {
		return err
	}
	_, err = a.Cup.Write(ctx, account, store.NewID(), thing, got.Version, strings.NewReader("# Log\n\nPast you.\n"))
	return err
}

// The cupboard itself closes copies from the due moment on, whoever writes past the program, but to staff
// and whoever has extra time; it opens them again when they are due later, or pens are up. Each change is
// one run, however many programs say it; the door check agrees, and finds a mark that was taken away.
func TestMarks(t *testing.T) {
	a, c, h, now, copyOf := timed(t, 3, handout.Change{Then: ptr(handout.ThenClose)})
	zone := a.Charter.School().Zone
	until := now.Now().In(zone).Add(90 * time.Minute).Format("2006-01-02T15:04")
	edit(t, a, c, &h, handout.Change{Extra: &handout.ExtraTime{Rows: []string{c.Students[2].ID}, Until: until}})
	say := func(what string, want [3]error) {
		t.Helper()
		for i, w := range want {
			if err := direct(a, fmt.Sprint("s", i), copyOf(i)); !errors.Is(err, w) {
				t.Errorf("%s: student %d writes past us: %v, want %v", what, i, err, w)
			}
		}
		if found, _ := checked(t, a, c); len(found) > 0 {
			t.Errorf("%s: the door check finds %v", what, found)
		}
	}
	runs := func() (n int) {
		t.Helper()
		all, err := a.Cases.Registers.PastRuns(ctx, c.ID)
		if err != nil {
			t.Fatal(err)
		}
		for _, r := range all {
			if r.Kind == ledger.MarkRun {
				n++
			}
		}
		return n
	}
	marked(t, a, c)
	say("before it is due", [3]error{})
	now.Set(now.Now().Add(time.Hour + time.Second)) // nothing is said to the cupboard at the moment itself
	say("due", [3]error{cupboard.ErrNoRight, cupboard.ErrNoRight, nil})
	if err := direct(a, "oduya", copyOf(0)); err != nil {
		t.Errorf("the teacher writes in a closed copy: %v", err)
	}
	now.Set(now.Now().Add(40 * time.Minute))
	say("once extra time is over", [3]error{cupboard.ErrNoRight, cupboard.ErrNoRight, cupboard.ErrNoRight})
	if err := a.Cup.Reopen(ctx, "oduya", store.NewID(), copyOf(1)); err != nil {
		t.Fatal(err)
	}
	found, ids := checked(t, a, c)
	if len(found) != 1 || !strings.HasPrefix(found[0], "not-closed") {
		t.Errorf("a mark that was taken away: %v", found)
	}
	mended(t, a, c, ids)
	say("put right", [3]error{cupboard.ErrNoRight, cupboard.ErrNoRight, cupboard.ErrNoRight})
	if n := runs(); n != 1 {
		t.Errorf("%d runs said when copies close", n)
	}
	later := now.Now().In(zone).Add(time.Hour).Format("2006-01-02T15:04")
	edit(t, a, c, &h, handout.Change{Due: &later})
	if err := writes(t, a, "s0", "at once", copyOf(0)); err != nil { // before the cupboard was told
		t.Errorf("due later, and a student writes: %v", err)
	}
	marked(t, a, c)
	say("due later", [3]error{})
	if err := a.Cases.Handouts.SayPens(ctx, "oduya", c.ID, h.ID, []string{c.Students[1].ID}, true); err != nil {
		t.Fatal(err)
	}
	var refused *change.Invalid
	if err := writes(t, a, "s1", "too late", copyOf(1)); !errors.As(err, &refused) || refused.Code != "copy-closed" {
		t.Errorf("pens down, and a student writes: %v", err)
	}
	marked(t, a, c)
	say("pens down for one", [3]error{nil, cupboard.ErrNoRight, nil})
	if err := a.Cases.Handouts.SayPens(ctx, "oduya", c.ID, h.ID, nil, false); err != nil {
		t.Fatal(err)
	}
	if v, err := a.Cases.Things.View(ctx, "s1", copyOf(1)); err != nil || v.Level < access.Edit {
		t.Errorf("pens up, and the student sees it at %v, %v", v.Level, err)
	}
	marked(t, a, c)
	say("pens up", [3]error{})
	if st, err := a.Cup.States(ctx, "oduya", []string{copyOf(1)}); err != nil || st[copyOf(1)].Closed != nil {
		t.Errorf("a mark is left: %+v, %v", st[copyOf(1)].Closed, err)
	}
	// A mark that isn't ours no student lifts.
	if err := a.Cup.Close(ctx, "oduya", store.NewID(), copyOf(1), access.Mark{Since: now.Now().Add(-time.Minute), By: "oduya"}); err != nil {
		t.Fatal(err)
	}
	if v, err := a.Cases.Things.View(ctx, "s1", copyOf(1)); err != nil || v.Level != access.Read {
		t.Errorf("closed by hand in the cupboard, and the student sees it at %v, %v", v.Level, err)
	}
	if err := writes(t, a, "s1", "by hand", copyOf(1)); !errors.Is(err, cupboard.ErrNoRight) {
		t.Errorf("closed by hand in the cupboard, and a student writes: %v", err)
	}
	if found, _ := checked(t, a, c); len(found) != 1 || !strings.HasPrefix(found[0], "closed") {
		t.Errorf("closed by hand in the cupboard: %v", found)
	}
}

// Open, closed and open again: after any history of that, everybody has exactly what they had before.
func TestClosedAndOpenAgain(t *testing.T) {
	a, c, h, now, copyOf := timed(t, 3, handout.Change{})
	r := rand.New(rand.NewPCG(22, 60))
	levels := func() (out []any) {
		t.Helper()
		for i := range 3 {
			st, err := a.Cup.States(ctx, "oduya", []string{copyOf(i)})
			if err != nil {
				t.Fatal(err)
			}
			x := st[copyOf(i)]
			out = append(out, x.Rule, x.Closed, x.Owner, x.Parent, levelOf(t, a, fmt.Sprint("s", i), copyOf(i)), levelOf(t, a, "oduya", copyOf(i)))
		}
		return out
	}
	before := levels()
	for history := range 60 {
		for range 1 + r.IntN(3) {
			var rows []string
			if r.IntN(2) == 0 {
				rows = []string{c.Students[r.IntN(3)].ID}
			}
			if err := a.Cases.Handouts.SayPens(ctx, "oduya", c.ID, h.ID, rows, r.IntN(3) > 0); err != nil {
				t.Fatal(err)
			}
			if r.IntN(2) == 0 {
				marked(t, a, c)
			}
			now.Set(now.Now().Add(time.Second))
		}
		if err := a.Cases.Handouts.SayPens(ctx, "oduya", c.ID, h.ID, nil, false); err != nil {
			t.Fatal(err)
		}
		marked(t, a, c)
		if after := levels(); !reflect.DeepEqual(before, after) {
			t.Fatalf("history %d: %+v, and before %+v", history, after, before)
		}
	}
}

// A mark that the cupboard won't have is said once, and again when it is another; what was closed and
// handed over can be written in by whose it is.
func TestMarksRefused(t *testing.T) {
	a, c, h, now, copyOf := timed(t, 2, handout.Change{})
	s, err := a.Cases.Packing.PictureNow(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	satchel, alone := s.Entries[room.SatchelKey(c.ID, c.Students[0].ID)].Thing, true
	if err := errors.Join(a.Cup.SetRule(ctx, "oduya", "alone", satchel, cupboard.RuleChange{StandsAlone: &alone}),
		a.Cup.Cede(ctx, "oduya", "cede", satchel, "s0")); err != nil { // the tree is s0's now
		t.Fatal(err)
	}
	pens := func(down bool) {
		t.Helper()
		if err := a.Cases.Handouts.SayPens(ctx, "oduya", c.ID, h.ID, nil, down); err != nil {
			t.Fatal(err)
		}
		now.Set(now.Now().Add(time.Second))
	}
	said := func() (stuck, packed int) {
		t.Helper()
		for range 3 {
			if err := errors.Join(a.Store.Touch(ctx, c.ID), a.Cases.Packing.KeepMarks(ctx)); err != nil {
				t.Fatal(err)
			}
			runs, err := a.Store.OpenRuns(ctx)
			if err != nil {
				t.Fatal(err)
			}
			for _, id := range runs {
				apptest.Wait(t, a, id)
			}
		}
		all, err := a.Cases.Registers.PastRuns(ctx, c.ID)
		if err != nil {
			t.Fatal(err)
		}
		for _, r := range all {
			if r.Kind == ledger.MarkRun {
				stuck, packed = stuck+r.Stuck, packed+r.Packed
			}
		}
		return stuck, packed
	}
	pens(true)
	if stuck, packed := said(); stuck != 1 || packed != 1 {
		t.Errorf("said: %d stuck, %d packed", stuck, packed)
	}
	pens(false)
	pens(true)
	if stuck, packed := said(); stuck != 2 || packed != 2 {
		t.Errorf("said again, as it is another: %d stuck, %d packed", stuck, packed)
	}
	handedOver(t, a, c, []string{c.Students[1].ID}, h.ID, true)
	if err := writes(t, a, "s1", "mine now", copyOf(1)); err != nil {
		t.Errorf("handed over while it was closed: %v", err)
	}
}
