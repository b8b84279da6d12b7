package packer_test

import (
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/usecase/pack"
)

// followed has what waits given where it can be, and waits for its end; it returns how many runs that took.
func followed(t *testing.T, a *app.App) (runs int) {
	t.Helper()
	if err := a.Cases.Packing.GiveWaiting(ctx); err != nil {
		t.Fatal(err)
	}
	open, err := a.Store.OpenRuns(ctx)
	if err != nil {
		t.Fatal(err)
	}
	for _, id := range open {
		if r := apptest.Wait(t, a, id); r.Stuck != 0 || r.Made != 0 {
			t.Errorf("what follows: %+v", r)
		}
	}
	apptest.Look(t, a)
	return len(open)
}

// One whom the school doesn't know yet has satchel and copies as all others. Access to all of it follows by itself once
// they are known: to nothing else, in a run for the room and each handout, and nothing is made again.
func TestMadeBeforeTheAddress(t *testing.T) {
	a := apptest.Open(t)
	apptest.People(t, a, 3)
	c := apptest.Class(t, a, apptest.List(3)+"70003,Late,Comer,comer@kestrelquay.example,3\n70004,Never,Known,,3\n")
	if r := apptest.Pack(t, a, c, nil); r.Stuck != 0 || r.Packed != 10 {
		t.Fatalf("the room: %+v", r)
	}
	h := apptest.Handout(t, a, c, "# Log\n")
	level := "read"
	h, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Classmates: &level}, handout.Change{})
	if err != nil {
		t.Fatal(err)
	}
	if r := apptest.Pack(t, a, c, &h); r.Stuck != 0 || r.Made != 7 {
		t.Fatalf("the handout: %+v", r)
	}
	apptest.Look(t, a)
	before, err := a.Store.Ledger(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	if n := followed(t, a); n != 0 {
		t.Errorf("nobody is known, and %d runs follow", n)
	}
	if l, err := a.Cases.Packing.Missing(ctx, c.ID); err != nil || len(l.Lines) != 0 {
		t.Errorf("a top-up would pack %+v, %v", l.Lines, err)
	}
	if rows, err := a.Store.RowsOf(ctx, "comer"); err != nil || len(rows) != 0 {
		t.Errorf("they are in %v, %v", rows, err)
	}
	apptest.Account(t, a, "impostor", "Ono", "Odd") // somebody of another name gets nothing by that address
	if err := a.Cases.Rosters.CorrectAddress(ctx, "oduya", c.ID, c.Students[3].ID, "impostor@kestrelquay.example"); err == nil {
		t.Error("the address of another is taken")
	}
	if n := followed(t, a); n != 0 {
		t.Errorf("somebody of another name is known, and %d runs follow", n)
	}
	apptest.Account(t, a, "comer", "Comer", "Late")
	if n := followed(t, a); n != 2 {
		t.Errorf("%d runs follow, want one for the room and one for the handout", n)
	}
	if n := followed(t, a); n != 0 {
		t.Errorf("%d runs follow once more", n)
	}
	if rows, err := a.Store.RowsOf(ctx, "comer"); err != nil || len(rows) != 1 || rows[0].ClassID != c.ID {
		t.Errorf("they are in %v, %v", rows, err)
	}
	after, err := a.Store.Ledger(ctx, c.ID)
	if err != nil || len(after) != len(before) {
		t.Fatalf("%d things, were %d, %v", len(after), len(before), err)
	}
	row := apptest.Load(t, a, c.ID)
	for i, e := range after {
		if e.Thing != before[i].Thing {
			t.Errorf("%s is another thing", e.Key)
		}
		want := access.Nothing
		switch p := e.Key.What.Purpose; {
		case p == packing.Shelf, p == packing.Copy && row.NameOf(e.Key.Whom.Row) != "Late, Comer":
			want = access.Read
		case p == packing.Table, p == packing.Copy, p == packing.Satchel && row.NameOf(e.Key.Whom.Row) == "Late, Comer":
			want = access.Edit
		}
		people, err := a.Cup.People(ctx, "oduya", e.Thing)
		if err != nil || people["comer"].Level != want {
			t.Errorf("%s: they have %s, want %s, %v", e.Key, people["comer"].Level, want, err)
		}
		// The one who is never known waits on, for the same.
		if waits := strings.Join(e.Waits, " "); (want != access.Nothing || p(e) && strings.HasPrefix(row.NameOf(e.Key.Whom.Row), "Never")) !=
			(waits != "") && e.Key.What.Purpose != packing.Satchel {
			t.Errorf("%s waits for %q", e.Key, waits)
		}
	}
}

// p reports what is somebody's own.
func p(e ledger.Entry) bool { return e.Key.Whom.Row != "" }

// arriving has students come whom the school knows only while things are made for them.
func (m *meeting) arriving(rounds int) {
	for i := range rounds {
		id := fmt.Sprint("late", i)
		_, err := m.a.Cases.Rosters.AddStudents(ctx, "oduya", m.class.ID,
			[]record.Record{{Family: "Late", Given: fmt.Sprint("Comer", i), Address: id + "@kestrelquay.example"}})
		m.must(err)
		rest := driving(m.t, m.a)
		var all sync.WaitGroup
		all.Go(func() {
			if _, err := m.a.Cases.Packing.TopUp(ctx, "oduya", m.class.ID, pack.Part{}); nothing(err) != nil {
				m.t.Error(err)
			}
		})
		all.Go(func() {
			for range 4 {
				if err := m.a.Cases.Packing.GiveWaiting(ctx); err != nil {
					m.t.Error(err)
				}
			}
		})
		m.soon()
		apptest.Account(m.t, m.a, id, fmt.Sprint("Comer", i), "Late")
		all.Wait()
		rest()
		for followed(m.t, m.a) > 0 {
		}
		m.reaches(id)
	}
}

// reaches fails where somebody lacks something of theirs.
func (m *meeting) reaches(account string) {
	m.t.Helper()
	entries, err := m.a.Store.Ledger(ctx, m.class.ID)
	m.must(err)
	rows, err := m.a.Store.RowsOf(ctx, account)
	m.must(err)
	i := slices.IndexFunc(rows, func(r classes.Row) bool { return r.ClassID == m.class.ID })
	if i < 0 {
		m.t.Fatalf("%s isn't in the class, but in %d others", account, len(rows))
	}
	found := 0
	for _, e := range entries {
		if what := e.Key.What.Purpose; e.Key.Whom.Row == rows[i].ID || what == packing.Shelf || what == packing.Table {
			people, err := m.a.Cup.People(ctx, "oduya", e.Thing)
			m.must(err)
			if found++; people[account].Level == access.Nothing {
				m.t.Errorf("%s doesn't reach %s", account, e.Key)
			}
		}
	}
	if found != 4 {
		m.t.Errorf("%s has %d things, want a satchel and a copy beside shelf and table", account, found)
	}
}

// opening has classes opened, to one and to all, while their room is packed.
func (m *meeting) opening(rounds int) {
	for range rounds {
		m.class = apptest.Class(m.t, m.a, apptest.List(3))
		class, first := m.class.ID, m.class.Students[0].ID
		m.must(m.a.Cases.Rooms.OpenLater(ctx, "oduya", class, ""))
		h := apptest.Handout(m.t, m.a, m.class, "# Log\n")
		rest := driving(m.t, m.a)
		var all sync.WaitGroup
		for _, id := range []string{"", h.ID} {
			all.Go(func() {
				if _, err := m.a.Cases.Packing.Pack(ctx, "oduya", class, id, pack.Part{}); err != nil {
					m.t.Error(err)
				}
			})
		}
		for _, rows := range [][]string{{first}, nil} {
			later := time.Duration(m.r.IntN(12)) * time.Millisecond
			all.Go(func() {
				<-time.After(later)
				err := m.a.Cases.Rooms.Open(ctx, "lindqvist", class, rows)
				if e := m.a.Cases.Packing.GiveWaiting(ctx); err != nil || e != nil {
					m.t.Error(err, e)
				}
			})
		}
		all.Wait()
		rest()
		for followed(m.t, m.a) > 0 {
		}
		for _, account := range []string{"s0", "s1", "s2"} {
			m.reaches(account)
		}
	}
}
