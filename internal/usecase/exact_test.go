package usecase_test

import (
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/wall"
	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/things"
)

// An hourglass is a clock that stands still until it is set, forward or back.
type hourglass struct{ at atomic.Pointer[time.Time] }

func (h *hourglass) Set(t time.Time) { h.at.Store(&t) }
func (h *hourglass) Now() time.Time  { return h.at.Load().UTC().Truncate(time.Microsecond) }

// A closer is a class whose copies close again and again, in two programs on one database.
type closer struct {
	*testing.T
	url    string
	apps   [2]*app.App
	clocks [2]*hourglass
	class  picture.Class
	h      handout.Handout
	copies []string
	kept   map[string]int    // versions that were answered, by copy
	late   map[string]string // texts that came too late, by copy
	writes int
}

func (c *closer) open(i int) {
	c.Helper()
	a, err := app.Open(ctx, app.Settings{Database: c.url, School: apptest.School, Pace: 10_000, Now: c.clocks[i].Now})
	if err != nil {
		c.Fatal(err)
	}
	c.apps[i] = a
}

func (c *closer) set(at time.Time) {
	for _, x := range c.clocks {
		x.Set(at)
	}
}

// write has a student write in their copy through one of the programs, and says whether it was taken.
func (c *closer) write(by, student int) bool {
	c.Helper()
	thing, err := c.apps[by].Cases.Things.Get(ctx, "oduya", c.copies[student])
	if err != nil {
		c.Fatal(err)
	}
	c.writes++
	text := fmt.Sprint("# Log\n\nWritten ", c.writes)
	v, err := c.apps[by].Cases.Things.WriteText(ctx, fmt.Sprint("s", student), store.NewID(), thing, things.Typed{Base: thing.Version, Text: text})
	var refused *change.Invalid
	switch {
	case err == nil:
		c.kept[thing.ID] = v.Number
	case errors.As(err, &refused) && refused.Code == "copy-closed":
		c.late[thing.ID] = text
	default:
		c.Fatal(err)
	}
	return err == nil
}

// all has some students write at the same moment, through both programs; want says whether it is to be taken.
func (c *closer) all(try int, what string, students []int, want bool) {
	c.Helper()
	for i, s := range students {
		if c.write(i%2, s) != want {
			c.Fatalf("try %d, %s: student %d's text was taken: %v", try, what, s, !want)
		}
	}
}

// Two hundred copies close together from the moment on that they are due, a hundred times in make soak:
// across a restart, a clock that goes back, and two programs, of which one's clock is behind. Nothing is
// written after it but what is kept beside the copy.
func TestClosesExactly(t *testing.T) {
	tries := 8
	if n, err := strconv.Atoi(os.Getenv("CLOSINGS")); err == nil {
		tries = n
	}
	const students = 200
	c := &closer{T: t, url: pgtest.New(t), clocks: [2]*hourglass{{}, {}}, kept: map[string]int{}, late: map[string]string{}}
	start := clock.System()
	c.set(start)
	c.open(0)
	apptest.People(t, c.apps[0], students)
	c.class = apptest.Class(t, c.apps[0], apptest.List(students))
	apptest.Pack(t, c.apps[0], c.class, nil)
	h := apptest.Handout(t, c.apps[0], c.class, "# Log\n\nWhere did you stand?\n")
	edit(t, c.apps[0], c.class, &h, handout.Change{Then: ptr(handout.ThenClose)})
	apptest.Pack(t, c.apps[0], c.class, &h)
	c.h = h
	reg, err := c.apps[0].Cases.Registers.Register(ctx, c.class.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, cell := range reg.Columns[1].Cells {
		c.copies = append(c.copies, cell.Entry.Thing)
	}
	c.open(1)
	defer func() {
		for _, a := range c.apps {
			a.Close()
		}
	}()
	r := rand.New(rand.NewPCG(22, 200))
	due := start.Truncate(time.Minute)
	for try := range tries {
		due = due.Add(time.Hour)
		c.set(due.Add(-30 * time.Minute))
		text := wall.Written(wall.At(due, c.h.Zone))
		edit(t, c.apps[try%2], c.class, &c.h, handout.Change{Due: &text})
		some := r.Perm(students)[:10]
		if try == 0 {
			some = r.Perm(students)
		}
		if try%4 == 2 {
			marked(t, c.apps[0], c.class)
		}
		c.set(due.Add(-time.Microsecond))
		c.all(try, "a moment before", some[:8], true)
		switch try % 4 {
		case 0: // the one's clock is behind
			c.set(due)
			c.clocks[1].Set(due.Add(-2 * time.Second))
			if c.write(0, some[0]) {
				t.Fatalf("try %d: taken when due", try)
			}
		case 1: // the clocks go back, once somebody was refused
			c.set(due)
			if c.write(1, some[0]) {
				t.Fatalf("try %d: taken when due", try)
			}
			c.set(due.Add(-time.Minute))
		case 2: // both start again meanwhile
			for i := range c.apps {
				c.apps[i].Close()
				c.open(i)
			}
			c.set(due)
		case 3: // one starts again with a clock that went back
			c.set(due)
			if c.write(1, some[0]) {
				t.Fatalf("try %d: taken when due", try)
			}
			c.apps[1].Close()
			c.clocks[1].Set(due.Add(-10 * time.Second))
			c.open(1)
		}
		c.all(try, "when due", some, false)
		c.set(due.Add(time.Minute))
		c.all(try, "after it", some[:4], false)
		for _, s := range some {
			c.beside(s)
		}
	}
	for i, thing := range c.copies {
		v, err := c.apps[0].Cases.Things.Get(ctx, "oduya", thing)
		if err != nil {
			t.Fatal(err)
		}
		if want := max(c.kept[thing], 1); v.Version != want {
			t.Errorf("student %d's copy is at version %d, %d were answered", i, v.Version, want)
		}
	}
}

// beside looks for what a student sent too late, which is one text: none was taken meanwhile. Then it is
// settled.
func (c *closer) beside(student int) {
	c.Helper()
	thing := c.copies[student]
	late, err := c.apps[0].Cases.Things.Late(ctx, "oduya", thing)
	if err != nil || len(late) != 1 || late[0].Text != c.late[thing] {
		c.Fatalf("student %d: beside the copy is %+v, sent %q, %v", student, late, c.late[thing], err)
	}
	if err := c.apps[0].Cases.Things.SettleLate(ctx, "oduya", thing, late[0].Account, late[0].At, false); err != nil {
		c.Fatal(err)
	}
}

// A hundred times two write at the very moment at which copies close: what is answered is there, what is
// refused is beside it, and nothing is in both.
func TestWritingAsItCloses(t *testing.T) {
	a, c, h, now, copyOf := timed(t, 2, handout.Change{Then: ptr(handout.ThenClose)})
	due, _ := h.DueAt()
	for try := range 100 {
		due = due.Add(time.Hour)
		now.Set(due.Add(-30 * time.Minute))
		text := wall.Written(wall.At(due, h.Zone))
		edit(t, a, c, &h, handout.Change{Due: &text})
		now.Set(due.Add(-time.Duration(try%12) * time.Millisecond)) // each reading moves it on by one
		var all sync.WaitGroup
		for i := range 2 {
			all.Go(func() {
				thing, err := a.Cases.Things.Get(ctx, "oduya", copyOf(i))
				if err != nil {
					t.Error(err)
					return
				}
				said := fmt.Sprintf("# Log\n\n%d of %d", try, i)
				_, err = a.Cases.Things.WriteText(ctx, fmt.Sprint("s", i), store.NewID(), thing, things.Typed{Base: thing.Version, Text: said})
				_, f, _, e := a.Cases.Things.Open(ctx, "oduya", thing.ID, 0)
				if e != nil {
					t.Error(e)
					return
				}
				defer f.Close()
				is, e := io.ReadAll(f)
				if e != nil {
					t.Error(e)
				}
				late, e := a.Cases.Things.Late(ctx, "oduya", thing.ID)
				beside := e == nil && len(late) == 1 && late[0].Text == said
				if beside {
					e = a.Cases.Things.SettleLate(ctx, "oduya", thing.ID, late[0].Account, late[0].At, false)
				}
				if in := string(is) == said; in != (err == nil) || beside == in || e != nil {
					t.Errorf("try %d: answered %v, in the copy %v, beside it %v", try, err, in, beside)
				}
			})
		}
		all.Wait()
	}
}

// The moment a handout is due follows the rules of its zone as they are: where they were changed since, and
// the program started again, copies close by the new ones.
func TestZoneRuleChanged(t *testing.T) {
	if url := os.Getenv("CHANGED_RULE"); url != "" {
		afterRuleChanged(t, url)
		return
	}
	url := pgtest.New(t)
	now := &hourglass{}
	now.Set(time.Date(2026, 11, 27, 9, 0, 0, 0, time.UTC))
	a := apptest.With(t, app.Settings{Database: url, School: apptest.School, Pace: 10_000, Now: now.Now})
	apptest.People(t, a, 1)
	c := apptest.Class(t, a, apptest.List(1))
	apptest.Pack(t, a, c, nil)
	h := apptest.Handout(t, a, c, "# Log\n")
	edit(t, a, c, &h, handout.Change{Then: ptr(handout.ThenClose), Due: ptr("2026-11-27T17:00")})
	apptest.Pack(t, a, c, &h)
	h.Zone = "Europe/Lisbon"
	if err := a.Store.SaveHandout(ctx, h); err != nil {
		t.Fatal(err)
	}
	if at, ok := h.DueAt(); !ok || at.UTC().Hour() != 17 {
		t.Fatalf("due at %v", at)
	}
	rules := t.TempDir() // in which Lisbon has the clocks of Kathmandu, as if its parliament had said so
	data, err := os.ReadFile("/usr/share/zoneinfo/Asia/Kathmandu")
	if err == nil {
		err = os.Mkdir(filepath.Join(rules, "Europe"), 0o755)
	}
	if err == nil {
		err = os.WriteFile(filepath.Join(rules, "Europe/Lisbon"), data, 0o600)
	}
	if err != nil {
		t.Fatal(err)
	}
	child := exec.Command(os.Args[0], "-test.run=^TestZoneRuleChanged$", "-test.count=1")
	child.Env = append(os.Environ(), "CHANGED_RULE="+url, "ZONEINFO="+rules, "CHANGED_CLASS="+c.ID)
	if out, err := child.CombinedOutput(); err != nil {
		t.Errorf("with the new rule: %v\n%s", err, out)
	}
}

// afterRuleChanged is the program that starts with the new rule: 17:00 there is 11:15 in UTC.
func afterRuleChanged(t *testing.T, url string) {
	now := &hourglass{}
	moment := time.Date(2026, 11, 27, 11, 15, 0, 0, time.UTC)
	now.Set(moment.Add(-time.Microsecond))
	a := apptest.With(t, app.Settings{Database: url, School: apptest.School, Pace: 10_000, Now: now.Now})
	reg, err := a.Cases.Registers.Register(ctx, os.Getenv("CHANGED_CLASS"))
	if err != nil {
		t.Fatal(err)
	}
	mine := reg.Columns[1].Cells[0].Entry.Thing
	if err := writes(t, a, "s0", "before", mine); err != nil {
		t.Errorf("a moment before it is due by the new rule: %v", err)
	}
	now.Set(moment)
	wantInvalid(t, writes(t, a, "s0", "due", mine), "text", "copy-closed")
}
