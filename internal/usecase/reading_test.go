package usecase_test

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"reflect"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/jmoiron/sqlx"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/register"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/cupboard/standin"
)

// counting counts the statements that go to the database.
type counting struct {
	sqlx.ExtContext
	n atomic.Int64
}

func (c *counting) QueryContext(ctx context.Context, q string, args ...any) (*sql.Rows, error) {
	c.n.Add(1)
	return c.ExtContext.QueryContext(ctx, q, args...)
}

func (c *counting) QueryxContext(ctx context.Context, q string, args ...any) (*sqlx.Rows, error) {
	c.n.Add(1)
	return c.ExtContext.QueryxContext(ctx, q, args...)
}

func (c *counting) QueryRowxContext(ctx context.Context, q string, args ...any) *sqlx.Row {
	c.n.Add(1)
	return c.ExtContext.QueryRowxContext(ctx, q, args...)
}

func (c *counting) ExecContext(ctx context.Context, q string, args ...any) (sql.Result, error) {
	c.n.Add(1)
	return c.ExtContext.ExecContext(ctx, q, args...)
}

// pages are those that show how a class stands.
func pages(a *app.App, c picture.Class) map[string]func() error {
	return map[string]func() error{
		"register":     func() error { _, err := a.Cases.Registers.Register(ctx, c.ID); return err },
		"panel":        func() error { _, err := a.Cases.Registers.Panel(ctx, c.ID, c.Students[0].ID); return err },
		"handouts":     func() error { _, err := a.Cases.Registers.HandoutTags(ctx, c.ID); return err },
		"home":         func() error { _, err := a.Cases.Registers.Home(ctx, "s0"); return err },
		"weeks":        func() error { _, err := a.Cases.Registers.Weeks(ctx, c.ID, ""); return err },
		"weeks of all": func() error { _, err := a.Cases.Registers.AllWeeks(ctx, "oduya"); return err },
		"rail": func() error {
			tabs, err := a.Cases.Registers.Rail(ctx, "oduya")
			if err == nil && (len(tabs) == 0 || tabs[0].Troubled) {
				err = fmt.Errorf("%+v", tabs)
			}
			return err
		},
	}
}

// What a page asks of the database doesn't grow with what there is, and of the
// cupboard it asks nothing. Looked at again it asks next to nothing; looked at
// by many at once it is read once.
func TestPagesAskLittle(t *testing.T) {
	a, c := school(t, 3)
	apptest.Pack(t, a, c, nil)
	count := &counting{ExtContext: a.Store.Q}
	a.Store.Q = count
	ask := func(do func() error) (n int64) {
		t.Helper()
		before := count.n.Load()
		if err := do(); err != nil {
			t.Fatal(err)
		}
		return count.n.Load() - before
	}
	first := map[string]int64{}
	for _, handouts := range []int{1, 6} {
		apptest.Full(t, a, c, handouts)
		requests := a.Cup.Requests()
		for page, do := range pages(a, c) {
			if err := a.Store.Touch(ctx, c.ID); err != nil {
				t.Fatal(err)
			}
			n := ask(do)
			if handouts == 1 {
				first[page] = n
			} else if n != first[page] {
				t.Errorf("%s: %d statements with 1 handout, %d with 7", page, first[page], n)
			}
			if again := ask(do); page != "home" && again > 5 {
				t.Errorf("%s, looked at again: %d statements", page, again)
			}
		}
		if n := a.Cup.Requests() - requests; n != 0 {
			t.Errorf("%d requests to the cupboard", n)
		}
	}
	if err := a.Store.Touch(ctx, c.ID); err != nil {
		t.Fatal(err)
	}
	many := ask(func() error {
		var all sync.WaitGroup
		for range 20 {
			all.Go(func() {
				if _, err := a.Cases.Registers.Register(ctx, c.ID); err != nil {
					t.Error(err)
				}
			})
		}
		all.Wait()
		return nil
	})
	if many > first["register"]+19 {
		t.Errorf("20 readers: %d statements, one alone %d", many, first["register"])
	}
}

// A page of a cupboard that hardly answers comes as it was last seen.
func TestPagesComeInAnyWeather(t *testing.T) {
	a, c := school(t, 3)
	apptest.Pack(t, a, c, nil)
	apptest.Full(t, a, c, 2)
	want, err := a.Cases.Registers.Register(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, weather := range []standin.Weather{{Errors: 0.2}, {Errors: 1}} {
		a.Cup.SetWeather(weather)
		for page, do := range pages(a, c) {
			for range 20 {
				if err := a.Store.Touch(ctx, c.ID); err != nil {
					t.Fatal(err)
				}
				if err := do(); err != nil {
					t.Errorf("%s in %+v: %v", page, weather, err)
				}
			}
		}
	}
	got, err := a.Cases.Registers.Register(ctx, c.ID)
	if err != nil || !reflect.DeepEqual(states(got, "Family0"), states(want, "Family0")) {
		t.Errorf("%v, %v; before %v", states(got, "Family0"), err, states(want, "Family0"))
	}
	// A packing list asks, and is shown as it was last seen where there is no answer.
	list, err := a.Cases.Packing.RoomList(ctx, c.ID)
	if err != nil || len(list.Lines) == 0 {
		t.Errorf("list %+v, %v", list, err)
	}
}

// Opening pages leaves everything as it is.
func TestOpeningChangesNothing(t *testing.T) {
	a, c := school(t, 3)
	h := apptest.Handout(t, a, c, "# Log\n")
	apptest.Pack(t, a, c, &h)
	apptest.Look(t, a)
	reg, err := a.Cases.Registers.Register(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	before, err := a.Store.Class(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, do := range pages(a, c) {
		if err := do(); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := a.Cases.Packing.RoomList(ctx, c.ID); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Packing.HandoutList(ctx, c.ID, h); err != nil {
		t.Fatal(err)
	}
	for _, col := range reg.Columns {
		if _, err := a.Cases.Things.View(ctx, "oduya", col.Cells[0].Entry.Thing); err != nil {
			t.Fatal(err)
		}
	}
	if after, err := a.Store.Class(ctx, c.ID); err != nil || after.Revision != before.Revision || after.Wants != before.Wants {
		t.Errorf("revision %d became %d, wants %d %d, %v", before.Revision, after.Revision, before.Wants, after.Wants, err)
	}
}

// The tag changes with everything that is shown.
func TestTagChanges(t *testing.T) {
	a, c := school(t, 2)
	h := apptest.Handout(t, a, c, "# Log\n")
	apptest.Pack(t, a, c, &h)
	apptest.Look(t, a)
	reg, err := a.Cases.Registers.Register(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	copy := reg.Columns[1].Cells[0].Entry.Thing
	last := reg
	before, err := a.Cases.Registers.Tag(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, x := range []struct {
		what string
		do   func() error
	}{
		{"a cell of the roster", func() error {
			_, err := a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID, []classes.Edit{{Row: c.Students[0].ID, Field: record.Preferred, Value: "Ox"}})
			return err
		}},
		{"the school book learns who somebody is not", func() error { return a.Book.Remove(ctx, []string{"s1"}) }},
		{"a student opens a copy", func() error { _, err := a.Cases.Things.See(ctx, "s0", copy); return err }},
		{"a student writes", func() error {
			_, err := a.Cases.Things.Write(ctx, "s0", "write-it", copy, 1, strings.NewReader("# Log\n\nAt the pier."))
			apptest.Look(t, a)
			return err
		}},
		{"somebody takes access away in the cupboard", func() error {
			err := a.Cup.SetRule(ctx, "oduya", "away", copy, cupboard.RuleChange{Levels: map[string]access.Level{"s0": access.Nothing}})
			apptest.Look(t, a)
			return err
		}},
		{"and bins it", func() error { err := a.Cup.Bin(ctx, "oduya", "bin", copy, nil); apptest.Look(t, a); return err }},
	} {
		if err := x.do(); err != nil {
			t.Fatalf("%s: %v", x.what, err)
		}
		tag, err := a.Cases.Registers.Tag(ctx, c.ID)
		if err != nil || tag == before {
			t.Errorf("%s: tag %v, %v", x.what, tag, err)
		}
		now, err := a.Cases.Registers.Register(ctx, c.ID)
		if err != nil || reflect.DeepEqual(shown(now), shown(last)) {
			t.Errorf("%s isn't shown: %v", x.what, err)
		}
		last, before = now, tag
	}
}

// shown is what of a Register can be seen.
func shown(r register.Register) any {
	var out []string
	for _, col := range r.Columns {
		for _, cell := range col.Cells {
			out = append(out, fmt.Sprint(cell.State, cell.Words, cell.Changed, cell.Reason))
		}
	}
	for _, s := range r.Class.Students {
		out = append(out, s.CallName(), fmt.Sprint(s.Problem))
	}
	return append(out, fmt.Sprint(r.Missing, r.Changes))
}

// What is in the cupboard after an hour of mishaps and what the pages say of
// it are the same, however often they were looked at meanwhile.
func TestObservedIsWhatThereIs(t *testing.T) {
	a, c := school(t, 4)
	h := apptest.Handout(t, a, c, "# Log\n")
	apptest.Pack(t, a, c, &h)
	apptest.Look(t, a)
	ledger, err := a.Store.Ledger(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	a.Cup.SetWeather(standin.Weather{Errors: 0.2, Lost: 0.1, Delay: time.Millisecond})
	cup := cupboard.Patient{Cupboard: a.Cup}
	var busy sync.WaitGroup
	for w := range 3 {
		busy.Go(func() {
			for i, e := range ledger {
				if i%3 != w || e.Key.What.Purpose != "copy" && e.Key.What.Purpose != "satchel" {
					continue
				}
				key := fmt.Sprint("k", w, i)
				if err := cup.Rename(ctx, "oduya", key, e.Thing, "called "+key); err != nil && !errors.Is(err, cupboard.ErrNotFound) {
					t.Error(err)
				}
				if err := cup.SetRule(ctx, "oduya", key+"r", e.Thing,
					cupboard.RuleChange{Levels: map[string]access.Level{"lindqvist": access.Read}}); err != nil && !errors.Is(err, cupboard.ErrNotFound) {
					t.Error(err)
				}
				if i%5 == 0 {
					if err := cup.Bin(ctx, "oduya", key+"b", e.Thing, nil); err != nil && !errors.Is(err, cupboard.ErrNotFound) {
						t.Error(err)
					}
				}
			}
		})
	}
	for range 2 { // two programs look, and a list asks
		busy.Go(func() {
			for range 6 {
				_ = a.Observer.CatchUp(ctx) // in this weather it may not come through
				_, _ = a.Cases.Packing.RoomList(ctx, c.ID)
			}
		})
	}
	busy.Wait()
	a.Cup.SetWeather(standin.Weather{})
	apptest.Look(t, a)
	var ids []string
	for _, e := range ledger {
		ids = append(ids, e.Thing)
	}
	want, err := a.Cup.States(ctx, "oduya", ids)
	if err != nil {
		t.Fatal(err)
	}
	got, err := a.Store.Observed(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, id := range ids {
		if !reflect.DeepEqual(plain(got[id]), plain(want[id])) {
			t.Errorf("observed %+v, there is %+v", got[id], want[id])
		}
	}
}

// plain is a state without its moments, which the database keeps less finely.
func plain(s ledger.Seen) ledger.Seen {
	s.ChangedAt, s.InsideAt, s.BinUntil = time.Time{}, time.Time{}, time.Time{}
	return s
}
