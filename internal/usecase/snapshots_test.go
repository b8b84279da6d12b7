package usecase_test

import (
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"
	"time"

	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// A student asks for a look at a draft, which goes on; staff see it with its word, what was written
// since, and are the first who looked or not; nobody else is told. Owner, place and access stay.
func TestShown(t *testing.T) {
	a, c, _, now, copyOf := timed(t, 2, handout.Change{})
	mine := copyOf(0)
	if err := writes(t, a, "s0", "one", mine); err != nil {
		t.Fatal(err)
	}
	before, err := a.Cup.States(ctx, "oduya", []string{mine})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Things.Show(ctx, "s0", mine, strings.Repeat("x", ledger.MostWord+1)); err == nil {
		t.Error("a word too long")
	}
	shown, err := a.Cases.Things.Show(ctx, "s0", mine, "  Is the table right? ")
	if err != nil || shown.Version != 2 || shown.Word != "Is the table right?" {
		t.Fatalf("shown: %+v, %v", shown, err)
	}
	waits := func() int {
		t.Helper()
		tabs, err := a.Cases.Registers.Rail(ctx, "oduya")
		if err != nil {
			t.Fatal(err)
		}
		for _, n := range tabs[0].Notes {
			if n.Reason.Code == "asked-to-look" {
				return n.Count
			}
		}
		return 0
	}
	if n := waits(); n != 1 {
		t.Errorf("%d wait to be looked at", n)
	}
	now.Set(now.Now().Add(time.Minute))
	if _, err := a.Cases.Things.Write(ctx, "s0", "two", mine, 2, strings.NewReader("# Log\n\nHere. one and five words more here")); err != nil {
		t.Fatal(err)
	}
	seen, err := a.Cases.Things.Shown(ctx, "oduya", mine)
	if err != nil || len(seen.All) != 1 || seen.Since == nil || *seen.Since != 5 || seen.Version != 3 || seen.All[0].Seen() {
		t.Errorf("what the teacher sees: %+v, %v", seen, err)
	}
	if _, err := a.Cases.Things.Shown(ctx, "s1", mine); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("a classmate: %v", err)
	}
	if _, err := a.Cases.Things.Show(ctx, "s1", mine, ""); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("a classmate shows it: %v", err)
	}
	for _, who := range []string{"s0", "s1", "stranger"} { // only staff's look is one
		if err := a.Cases.Things.LookedAt(ctx, who, mine, 2); err != nil && !errors.Is(err, seam.ErrNotFound) {
			t.Errorf("%s looks: %v", who, err)
		}
	}
	if n := waits(); n != 1 {
		t.Errorf("%d wait once others looked", n)
	}
	if err := a.Cases.Things.LookedAt(ctx, "oduya", mine, 2); err != nil {
		t.Fatal(err)
	}
	if seen, err = a.Cases.Things.Shown(ctx, "s0", mine); err != nil || seen.All[0].SeenBy != "oduya" || waits() != 0 {
		t.Errorf("what the student sees: %+v, %v", seen, err)
	}
	apptest.Look(t, a)
	r, err := a.Cases.Registers.Register(ctx, c.ID)
	if err != nil || r.Columns[1].Cells[0].Shown == nil || !r.Columns[1].Cells[0].Since || r.Columns[1].Cells[1].Shown != nil {
		t.Errorf("the Register: %+v, %v", r.Columns[1].Cells[0], err)
	}
	after, err := a.Cup.States(ctx, "oduya", []string{mine})
	x, y := before[mine], after[mine]
	if err != nil || x.Owner != y.Owner || x.Parent != y.Parent || fmt.Sprint(x.Rule) != fmt.Sprint(y.Rule) {
		t.Errorf("showing changed the copy: %+v, then %+v", x, y)
	}
}

// Everybody's copies are kept as they are, by a teacher or at a set time: once, whichever program is
// first; and each kept state is what was there.
func TestShownAll(t *testing.T) {
	a, c, h, now, copyOf := timed(t, 3, handout.Change{})
	if err := writes(t, a, "s1", "one", copyOf(1)); err != nil {
		t.Fatal(err)
	}
	if n, err := a.Cases.Things.ShowAll(ctx, "oduya", c.ID, h.ID, nil); err != nil || n != 3 {
		t.Fatalf("%d kept, %v", n, err)
	}
	at := now.Now().In(a.Charter.School().Zone).Add(30 * time.Minute).Format("2006-01-02T15:04")
	if _, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Show: &at}, handout.Change{}); err != nil {
		t.Fatal(err)
	}
	past := "2020-01-01T10:00"
	_, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Show: &past}, handout.Change{})
	wantInvalid(t, err, "show", "time-past")
	states := func() (n int) {
		t.Helper()
		for i := range 3 {
			s, err := a.Cases.Things.Shown(ctx, "oduya", copyOf(i))
			if err != nil {
				t.Fatal(err)
			}
			n += len(s.All)
		}
		return n
	}
	if err := a.Cases.Things.ShowDue(ctx); err != nil || states() != 3 {
		t.Errorf("before its time there are %d, %v", states(), err)
	}
	if err := writes(t, a, "s1", "two", copyOf(1)); err != nil {
		t.Fatal(err)
	}
	now.Set(now.Now().Add(31 * time.Minute))
	var both sync.WaitGroup
	for range 4 { // several programs
		both.Go(func() {
			if err := a.Cases.Things.ShowDue(ctx); err != nil {
				t.Error(err)
			}
		})
	}
	both.Wait()
	if n := states(); n != 4 { // the one that was written in since
		t.Errorf("at its time there are %d", n)
	}
	if said := load(t, a, c.ID, h.ID).Settings.Show; said != "" {
		t.Errorf("it is to be done again: %s", said)
	}
	entries, err := a.Store.Log(ctx, c.ID, 20)
	done := 0
	for _, e := range entries {
		if e.Act == "shown-all" {
			done++
		}
	}
	if err != nil || done != 2 {
		t.Errorf("in the log %d times, %v", done, err)
	}
}

// Showing meets writing, a hundred times: what is shown is a state that was there, and every answered
// text is.
func TestShowAndWrite(t *testing.T) {
	a, _, _, _, copyOf := timed(t, 1, handout.Change{})
	mine := copyOf(0)
	for n := range 100 {
		base := version(t, a, mine)
		var both sync.WaitGroup
		both.Go(func() {
			_, err := a.Cases.Things.Write(ctx, "s0", store.NewID(), mine, base, strings.NewReader(fmt.Sprintf("# Log\n\nHere, %d\n", n)))
			if err != nil {
				t.Error(err)
			}
		})
		both.Go(func() {
			if x, err := a.Cases.Things.Show(ctx, "s0", mine, fmt.Sprint("word ", n)); n < ledger.MostSnapshots-2 && (err != nil || x.Version != base && x.Version != base+1) {
				t.Errorf("round %d: shown at %d of %d, %v", n, x.Version, base, err)
			}
		})
		both.Wait()
		if v := version(t, a, mine); v != base+1 {
			t.Fatalf("round %d: version %d after %d", n, v, base)
		}
	}
	shown, err := a.Cases.Things.Shown(ctx, "s0", mine)
	if err != nil || len(shown.All) < 90 || len(shown.All) > ledger.MostSnapshots {
		t.Errorf("%d shown, %v", len(shown.All), err)
	}
}
