package usecase_test

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/register"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/document"
	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/usecase/things"
)

// timed is a class with a packed handout that is due in an hour, by a clock that is set by hand.
func timed(t *testing.T, students int, ch handout.Change) (*app.App, picture.Class, handout.Handout, *clock.Manual, func(row int) string) {
	t.Helper()
	now := &clock.Manual{}
	now.Set(clock.System())
	a := apptest.With(t, app.Settings{Database: pgtest.New(t), School: apptest.School, Pace: 10_000, Now: now.Now})
	apptest.People(t, a, students+1)
	c := apptest.Class(t, a, apptest.List(students))
	apptest.Pack(t, a, c, nil)
	h := apptest.Handout(t, a, c, "# Log\n\nWhere did you stand?\n")
	due := now.Now().In(a.Charter.School().Zone).Add(time.Hour).Format("2006-01-02T15:04")
	ch.Due = &due
	h, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, ch, handout.Change{})
	if err != nil {
		t.Fatal(err)
	}
	apptest.Pack(t, a, c, &h)
	if h, err = a.Cases.Handouts.Handout(ctx, c.ID, h.ID); err != nil {
		t.Fatal(err)
	}
	apptest.Look(t, a)
	r, err := a.Cases.Registers.Register(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	return a, c, h, now, func(row int) string { return r.Columns[1].Cells[row].Entry.Thing }
}

// version is the number of a copy's newest version.
func version(t *testing.T, a *app.App, thing string) int {
	t.Helper()
	v, err := a.Cases.Things.Get(ctx, "oduya", thing)
	if err != nil {
		t.Fatal(err)
	}
	return v.Version
}

// writes has somebody add to a copy, under a key.
func writes(t *testing.T, a *app.App, account, key, thing string) error {
	t.Helper()
	base := version(t, a, thing)
	_, err := a.Cases.Things.Write(ctx, account, key, thing, base, strings.NewReader(fmt.Sprint("# Log\n\nHere. ", key)))
	return err
}

// Copies close by themselves: from the due moment on, by the program's own clock, nothing is written in
// them but by staff; what was answered before is answered again; and they open as they were when they are
// due later.
func TestCopiesClose(t *testing.T) {
	a, c, h, now, copyOf := timed(t, 2, handout.Change{Then: ptr(handout.ThenClose)})
	mine := copyOf(0)
	due, _ := h.DueAt()
	if err := writes(t, a, "s0", "in time", mine); err != nil {
		t.Fatal(err)
	}
	now.Set(due.Add(-50 * time.Millisecond))
	if err := writes(t, a, "s0", "at the last", mine); err != nil {
		t.Errorf("before it is due: %v", err)
	}
	before := version(t, a, mine)

	// What begins before and ends after comes too late.
	now.Set(due.Add(-time.Second))
	slow := io.MultiReader(strings.NewReader("# Log\n\nSlowly"), funcReader(func() { now.Set(due) }), strings.NewReader(" written."))
	_, err := a.Cases.Things.Write(ctx, "s0", "slow", mine, before, slow)
	wantInvalid(t, err, "text", "copy-closed")

	now.Set(due)
	for _, key := range []string{"late", "later"} {
		wantInvalid(t, writes(t, a, "s0", key, mine), "text", "copy-closed")
	}
	if n := version(t, a, mine); n != before {
		t.Errorf("version %d, %d before", n, before)
	}
	if _, err := a.Cases.Things.Write(ctx, "s0", "at the last", mine, before-1, strings.NewReader("# Log\n\nHere. at the last")); err != nil {
		t.Errorf("what was answered in time, asked again: %v", err)
	}
	wantInvalid(t, a.Cases.Things.Rename(ctx, "s0", store.NewID(), mine, "Mine"), "text", "copy-closed")
	satchel, err := a.Store.EntryByKey(ctx, room.SatchelKey(c.ID, c.Students[0].ID))
	if err != nil {
		t.Fatal(err)
	}
	folder, err := a.Cases.Things.MakeFolder(ctx, "s0", store.NewID(), satchel.Thing, "Done")
	if err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.Things.Move(ctx, "s0", store.NewID(), []string{mine}, folder.ID); err != nil {
		t.Errorf("a closed copy isn't arranged: %v", err)
	}
	wantInvalid(t, writes(t, a, "s0", "from another folder", mine), "text", "copy-closed")
	if v, err := a.Cases.Things.View(ctx, "s0", mine); err != nil || v.Level != access.Read || v.Closing == nil || !v.Closing.At.Equal(due) {
		t.Errorf("the student sees %v, closing %+v, %v", v.Level, v.Closing, err)
	}
	if v, err := a.Cases.Things.View(ctx, "oduya", mine); err != nil || v.Level < access.Edit || v.Closing == nil {
		t.Errorf("the teacher sees %v, closing %+v, %v", v.Level, v.Closing, err)
	}
	apptest.Look(t, a)
	home, err := a.Cases.Registers.Home(ctx, "s0")
	if err != nil || len(home) != 1 || len(home[0].Copies) != 1 {
		t.Fatalf("%+v, %v", home, err)
	}
	if k := home[0].Copies[0]; k.Level != access.Read || k.Closing == nil || !k.Closing.At.Equal(due) {
		t.Errorf("on their page %v, closing %+v", k.Level, k.Closing)
	}
	if err := writes(t, a, "oduya", "staff", mine); err != nil {
		t.Errorf("staff: %v", err)
	}

	later := due.In(a.Charter.School().Zone).Add(time.Hour).Format("2006-01-02T15:04")
	if _, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Due: &later}, handout.Change{}); err != nil {
		t.Fatal(err)
	}
	if err := writes(t, a, "s0", "after all", mine); err != nil {
		t.Errorf("due later: %v", err)
	}
}

// funcReader does something where a reader comes to it, and gives nothing.
type funcReader func()

func (f funcReader) Read([]byte) (int, error) {
	f()
	return 0, io.EOF
}

// By hand a class's copies close at once, those of some or of all; and open again.
func TestPensByHand(t *testing.T) {
	a, c, h, _, copyOf := timed(t, 3, handout.Change{})
	pens := func(down bool, rows ...string) error {
		return a.Cases.Handouts.SayPens(ctx, "oduya", c.ID, h.ID, rows, down)
	}
	open := func() (out string) {
		for i := range 3 {
			if err := writes(t, a, fmt.Sprint("s", i), store.NewID(), copyOf(i)); err == nil {
				out += fmt.Sprint(i)
			}
		}
		return out
	}
	first, second := c.Students[0].ID, c.Students[1].ID
	for i, x := range []struct {
		down bool
		rows []string
		want string
	}{{true, []string{first}, "12"}, {true, nil, ""}, {false, []string{second}, "1"}, {true, []string{second}, ""}, {false, nil, "012"}} {
		for range 2 { // said twice it is the same
			if err := pens(x.down, x.rows...); err != nil {
				t.Fatal(err)
			}
		}
		if got := open(); got != x.want {
			t.Errorf("step %d: %q can write, want %q", i, got, x.want)
		}
	}
	lines, _, err := a.Cases.Registers.LogPage(ctx, c.ID, "", 0)
	told := 0
	for _, l := range lines {
		if strings.HasPrefix(l.Act, "pens-") {
			told++
		}
	}
	if err != nil || told != 5 {
		t.Errorf("%d entries of the log, %v", told, err)
	}
	if err := pens(true, store.NewID()); err != seam.ErrNotFound {
		t.Errorf("a row of another class: %v", err)
	}
	draft := apptest.Handout(t, a, c, "# Other\n")
	wantInvalid(t, a.Cases.Handouts.SayPens(ctx, "oduya", c.ID, draft.ID, nil, true), "handout", "not-packed")
}

// Pens down while a student writes, a hundred times: once it is answered nothing more is written, and
// every answered text is there.
func TestPensAndWriting(t *testing.T) {
	a, c, h, _, copyOf := timed(t, 1, handout.Change{})
	mine := copyOf(0)
	for i := range 100 {
		var all sync.WaitGroup
		answered := -1
		all.Go(func() {
			base := version(t, a, mine)
			v, err := a.Cases.Things.Write(ctx, "s0", store.NewID(), mine, base, bytes.NewReader(fmt.Appendf(nil, "# Log\n\nmeets %d", i)))
			if err == nil {
				answered = v.Number
			}
		})
		if err := a.Cases.Handouts.SayPens(ctx, "oduya", c.ID, h.ID, nil, true); err != nil {
			t.Fatal(err)
		}
		wantInvalid(t, writes(t, a, "s0", store.NewID(), mine), "text", "copy-closed")
		all.Wait()
		if n := version(t, a, mine); answered >= 0 && n != answered {
			t.Fatalf("%d: answered as version %d, the newest is %d", i, answered, n)
		}
		if err := a.Cases.Handouts.SayPens(ctx, "oduya", c.ID, h.ID, nil, false); err != nil {
			t.Fatal(err)
		}
	}
	if err := writes(t, a, "s0", "at rest", mine); err != nil {
		t.Error(err)
	}
}

// A copy for a whole class closes for each as for their own row.
func TestOneForAllCloses(t *testing.T) {
	way := handout.ForAllName
	a, c, h, _, _ := timed(t, 2, handout.Change{Way: &way})
	var shared string
	entries, err := a.Store.Ledger(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range entries {
		if e.Key.What.Purpose == packing.Copy && e.Key.Whom.Row == "" {
			shared = e.Thing
		}
	}
	if err := a.Cases.Handouts.SayPens(ctx, "oduya", c.ID, h.ID, []string{c.Students[0].ID}, true); err != nil {
		t.Fatal(err)
	}
	wantInvalid(t, writes(t, a, "s0", "closed", shared), "text", "copy-closed")
	if err := writes(t, a, "s1", "open", shared); err != nil {
		t.Errorf("another student: %v", err)
	}
}

// One with extra time writes on until theirs ends; it is their own page that says so.
func TestExtraTime(t *testing.T) {
	a, c, h, now, copyOf := timed(t, 2, handout.Change{Then: ptr(handout.ThenClose)})
	due, _ := h.DueAt()
	until := due.In(a.Charter.School().Zone).Add(30 * time.Minute).Format("2006-01-02T15:04")
	if _, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID,
		handout.Change{Extra: &handout.ExtraTime{Rows: []string{c.Students[0].ID}, Until: until}}, handout.Change{}); err != nil {
		t.Fatal(err)
	}
	now.Set(due.Add(time.Minute))
	if err := writes(t, a, "s0", "in extra time", copyOf(0)); err != nil {
		t.Errorf("with extra time: %v", err)
	}
	wantInvalid(t, writes(t, a, "s1", "late", copyOf(1)), "text", "copy-closed")
	for account, want := range map[string]time.Duration{"s0": 30 * time.Minute, "s1": 0} {
		home, err := a.Cases.Registers.Home(ctx, account)
		if err != nil || len(home) != 1 || len(home[0].Copies) != 1 || home[0].Copies[0].Closing == nil ||
			!home[0].Copies[0].Closing.At.Equal(due.Add(want)) {
			t.Errorf("%s sees %+v, %v", account, home, err)
		}
	}
	// Closed by hand for all, extra time holds; for that one by name, it doesn't.
	if err := a.Cases.Handouts.SayPens(ctx, "oduya", c.ID, h.ID, nil, true); err != nil {
		t.Fatal(err)
	}
	if err := writes(t, a, "s0", "still", copyOf(0)); err != nil {
		t.Errorf("all are closed by hand: %v", err)
	}
	if err := a.Cases.Handouts.SayPens(ctx, "oduya", c.ID, h.ID, []string{c.Students[0].ID}, true); err != nil {
		t.Fatal(err)
	}
	wantInvalid(t, writes(t, a, "s0", "closed by name", copyOf(0)), "text", "copy-closed")
	if err := a.Cases.Handouts.SayPens(ctx, "oduya", c.ID, h.ID, nil, false); err != nil {
		t.Fatal(err)
	}
	now.Set(due.Add(31 * time.Minute))
	for i := range 2 {
		if err := writes(t, a, fmt.Sprint("s", i), store.NewID(), copyOf(i)); err != nil {
			t.Errorf("opened for all: %v", err)
		}
	}
}

// What comes after a copy closed is kept beside it, of each who wrote the newest: its writer and staff
// see it, nobody else; it is taken in once, whole, or forgotten.
func TestLateTexts(t *testing.T) {
	a, c, h, _, copyOf := timed(t, 2, handout.Change{})
	mine := copyOf(0)
	write := func(account, text string) error {
		thing, err := a.Cases.Things.Get(ctx, "oduya", mine)
		if err != nil {
			t.Fatal(err)
		}
		_, err = a.Cases.Things.WriteText(ctx, account, store.NewID(), thing, things.Typed{Base: thing.Version, Text: text})
		return err
	}
	pens := func(down bool) {
		t.Helper()
		if err := a.Cases.Handouts.SayPens(ctx, "oduya", c.ID, h.ID, nil, down); err != nil {
			t.Fatal(err)
		}
	}
	late := func(account string) []things.Lately {
		t.Helper()
		all, err := a.Cases.Things.Late(ctx, account, mine)
		if err != nil {
			t.Fatal(err)
		}
		return all
	}
	if err := write("s0", "# Log\n\nIn time."); err != nil {
		t.Fatal(err)
	}
	pens(true)
	for _, text := range []string{"first", "# Log\n\nLate."} {
		wantInvalid(t, write("s0", text), "text", "copy-closed")
	}
	if err := write("s1", "not theirs"); err == nil {
		t.Error("a stranger writes")
	}
	if err := a.Cases.Rooms.SetStaff(ctx, "oduya", c.ID, "amaral", classes.Assistant, ""); err != nil {
		t.Fatal(err)
	}
	rest(t, a, c)
	for _, account := range []string{"s0", "oduya", "amaral"} {
		if all := late(account); len(all) != 1 || all[0].Text != "# Log\n\nLate." || all[0].Account != "s0" {
			t.Errorf("%s sees %+v", account, all)
		}
	}
	if _, err := a.Cases.Things.Late(ctx, "s1", mine); err != seam.ErrNotFound {
		t.Errorf("a classmate: %v", err)
	}
	tabs, err := a.Cases.Registers.Rail(ctx, "oduya")
	if err != nil || len(tabs) != 1 || !slices.ContainsFunc(tabs[0].Notes, func(n register.Note) bool {
		return n.Reason.Code == "late-texts" && n.About == mine && n.Count == 1
	}) {
		t.Errorf("the class says %+v, %v", tabs, err)
	}
	if ch := late("oduya")[0].Change; ch == nil || ch.Added != 1 || ch.Removed != 2 { // "Late." for "In time."
		t.Errorf("the change is %+v", ch)
	}
	at := late("s0")[0].At
	var changed *change.Changed
	if err := a.Cases.Things.SettleLate(ctx, "oduya", mine, "s0", at.Add(-time.Second), true); !errors.As(err, &changed) {
		t.Errorf("another than was looked at: %v", err)
	}
	wantInvalid(t, a.Cases.Things.SettleLate(ctx, "s0", mine, "s0", at, true), "text", "copy-closed")
	for _, account := range []string{"s1", "amaral"} {
		if err := a.Cases.Things.SettleLate(ctx, account, mine, "s0", at, false); err != seam.ErrNotFound {
			t.Errorf("%s, a classmate or an assistant, forgets it: %v", account, err)
		}
	}

	// What another window sends, or one that began from another state, takes nothing's place; there is a bound.
	thing, err := a.Cases.Things.Get(ctx, "oduya", mine)
	if err != nil {
		t.Fatal(err)
	}
	for i := range 10 {
		_, err := a.Cases.Things.WriteText(ctx, "s0", store.NewID(), thing, things.Typed{Draft: fmt.Sprint("window ", i), Base: 1, Text: fmt.Sprint("# ", i)})
		wantInvalid(t, err, "text", map[bool]string{true: "copy-closed", false: "too-many-late"}[i < 9])
	}
	if texts := late("s0"); len(texts) != 10 || texts[0].Text != "# Log\n\nLate." || texts[9].Text != "# 8" {
		t.Fatalf("of several windows there are %d", len(texts))
	}
	long := strings.Repeat("x", document.MaxText)
	for _, l := range late("s0")[1:] {
		if err := a.Cases.Things.SettleLate(ctx, "s0", mine, "s0", l.At, false); err != nil {
			t.Fatal(err)
		}
	}
	for i, code := range []string{"copy-closed", "too-many-late"} { // beside what is there already
		_, err := a.Cases.Things.WriteText(ctx, "s0", store.NewID(), thing, things.Typed{Draft: fmt.Sprint("long ", i), Base: 1, Text: long})
		wantInvalid(t, err, "text", code)
	}
	for _, l := range late("s0")[1:] {
		if err := a.Cases.Things.SettleLate(ctx, "s0", mine, "s0", l.At, false); err != nil {
			t.Fatal(err)
		}
	}

	before := version(t, a, mine)
	var all sync.WaitGroup
	done := make([]error, 8)
	for i := range done { // two of the staff at once, and more
		all.Go(func() { done[i] = a.Cases.Things.SettleLate(ctx, "oduya", mine, "s0", at, true) })
	}
	all.Wait()
	taken := 0
	for _, err := range done {
		if err == nil {
			taken++
		} else if err != seam.ErrNotFound {
			t.Error(err)
		}
	}
	if n := version(t, a, mine); taken != 1 || n != before+1 || len(late("oduya")) != 0 {
		t.Errorf("taken in %d times, version %d after %d, %d left", taken, n, before, len(late("oduya")))
	}
	_, f, _, err := a.Cases.Things.Open(ctx, "oduya", mine, 0)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	if b, err := io.ReadAll(f); err != nil || string(b) != "# Log\n\nLate." {
		t.Errorf("the copy says %q, %v", b, err)
	}

	// Its writer takes it in once the copy is open again, or forgets it.
	for _, take := range []bool{true, false} {
		wantInvalid(t, write("s0", "# Log\n\nLater."), "text", "copy-closed")
		pens(false)
		n := version(t, a, mine)
		if err := a.Cases.Things.SettleLate(ctx, "s0", mine, "s0", late("s0")[0].At, take); err != nil {
			t.Error(err)
		}
		if got := version(t, a, mine) - n; (got == 1) != take || len(late("s0")) != 0 {
			t.Errorf("take %v: %d versions more, %d left", take, got, len(late("s0")))
		}
		pens(true)
	}
}
