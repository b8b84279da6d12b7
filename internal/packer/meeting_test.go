package packer_test

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/cupboard/standin"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/pack"
	"jollysatchel/internal/usecase/seam"
)

// driving works on every open run as it comes, until the function it returns is called,
// which leaves none open.
func driving(t *testing.T, a *app.App) (rest func()) {
	run, stop := context.WithCancel(ctx)
	var all sync.WaitGroup
	all.Go(func() {
		for run.Err() == nil {
			runs, err := a.Store.OpenRuns(ctx)
			if err != nil {
				t.Error(err)
				return
			}
			for _, id := range runs {
				all.Go(func() { a.Packer.Drive(ctx, id) })
			}
			select {
			case <-run.Done():
			case <-time.After(2 * time.Millisecond):
			}
		}
	})
	return func() {
		stop()
		all.Wait()
		settleAll(t, a)
		apptest.Look(t, a)
	}
}

// a meeting is a class in which acts meet: a handout whose students may let each other in.
type meeting struct {
	t     *testing.T
	a     *app.App
	r     *rand.Rand
	class picture.Class
	h     handout.Handout
}

func meet(t *testing.T) *meeting {
	a := apptest.Open(t)
	apptest.People(t, a, 12)
	c := apptest.Class(t, a, apptest.List(6))
	apptest.Pack(t, a, c, nil)
	h := apptest.Handout(t, a, c, "# Log\n")
	passing := "edit"
	h, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Passing: &passing}, handout.Change{})
	if err != nil {
		t.Fatal(err)
	}
	apptest.Pack(t, a, c, &h)
	apptest.Look(t, a)
	a.Cup.SetWeather(standin.Weather{Delay: time.Millisecond})
	return &meeting{t: t, a: a, r: rand.New(rand.NewPCG(19, 3)), class: apptest.Load(t, a, c.ID), h: h}
}

// soon lets a moment pass, another each time, so that the next act finds the one before at
// any point of its way.
func (m *meeting) soon() { <-time.After(time.Duration(m.r.IntN(12)) * time.Millisecond) }

func (m *meeting) must(err error) {
	m.t.Helper()
	if err != nil {
		m.t.Fatal(err)
	}
}

// copies are the handout's, as the cupboard has them, by row.
func (m *meeting) copies(handout string) map[string]ledger.Seen {
	m.t.Helper()
	entries, err := m.a.Store.Ledger(ctx, m.class.ID)
	m.must(err)
	out := map[string]ledger.Seen{}
	for _, e := range entries {
		if e.Key.What.Purpose == packing.Copy && e.Key.What.ID == handout {
			states, err := m.a.Cup.States(ctx, "oduya", []string{e.Thing})
			m.must(err)
			out[e.Key.Whom.Row] = states[e.Thing]
		}
	}
	return out
}

// copiesOf are some things as the cupboard has them, by row.
func (m *meeting) copiesOf(things map[string]string) map[string]ledger.Seen {
	m.t.Helper()
	out := map[string]ledger.Seen{}
	for row, thing := range things {
		states, err := m.a.Cup.States(ctx, "oduya", []string{thing})
		m.must(err)
		out[row] = states[thing]
	}
	return out
}

func (m *meeting) withdraw(handout string, begun bool) error {
	for { // anyone who is told that it changed looks again
		look, err := m.a.Cases.Packing.PreviewWithdraw(ctx, m.class.ID, handout)
		if err == nil {
			_, err = m.a.Cases.Packing.Withdraw(ctx, "oduya", m.class.ID, handout, begun, look.Digest())
		}
		if !errors.As(err, new(*change.Changed)) {
			return nothing(err)
		}
	}
}

// handingOver looks at what would be handed over, and is the act of doing it as it was seen then.
func (m *meeting) handingOver(handout string) func() error {
	look, err := m.a.Cases.Leaving.PreviewHandOver(ctx, m.class.ID, nil, handout)
	m.must(err)
	return func() error {
		_, err := m.a.Cases.Leaving.HandOver(ctx, "oduya", m.class.ID, nil, handout, true, look.Seen)
		if errors.As(err, new(*change.Changed)) { // withdrawn before it was asked for
			return nil
		}
		return err
	}
}

// nothing forgives that there was nothing to do.
func nothing(err error) error {
	var invalid *change.Invalid
	if errors.As(err, &invalid) && invalid.Code == "nothing-to-pack" {
		return nil
	}
	return err
}

// Two acts about the same things that meet end in what the later one wants, wherever the
// earlier one is on its way: each pair as often as MEETINGS says, which make soak-packing does a
// hundred times.
func TestActsMeet(t *testing.T) {
	times := often("MEETINGS", 6)
	t.Run("let in and out", func(t *testing.T) {
		t.Parallel()
		m := meet(t)
		me, mate := m.class.Students[0], m.class.Students[1]
		for n := range times {
			rest := driving(t, m.a)
			for _, in := range []bool{true, false, true}[:2+n%2] {
				m.must(m.a.Cases.Packing.LetIn(ctx, me.Account, m.h.ID, mate.ID, in))
				m.soon()
			}
			rest()
			want := []access.Level{access.Nothing, access.Edit}[n%2]
			if got := m.copies(m.h.ID)[me.ID].Rule.Grants[mate.Account]; got != want {
				t.Fatalf("the %dth time: the classmate has %v, want %v", n, got, want)
			}
		}
	})
	t.Run("withdraw and bring back", func(t *testing.T) {
		t.Parallel()
		m := meet(t)
		withdrawn := false
		for n := range times {
			rest := driving(t, m.a)
			for range 2 + n%2 {
				if withdrawn = !withdrawn; withdrawn {
					m.must(m.withdraw(m.h.ID, true))
				} else {
					m.must(m.a.Cases.Packing.BringBack(ctx, "oduya", m.class.ID, m.h.ID))
				}
				m.soon()
			}
			rest()
			m.all(n, m.h.ID, map[bool]ledger.Place{true: ledger.InBin, false: ledger.Lies}[withdrawn])
		}
	})
	t.Run("hand over and withdraw", func(t *testing.T) {
		t.Parallel()
		m := meet(t)
		for n := range times {
			h := apptest.Handout(t, m.a, m.class, "# Another\n")
			apptest.Pack(t, m.a, m.class, &h)
			apptest.Look(t, m.a)
			rest := driving(t, m.a)
			acts := []func() error{
				func() error { return m.withdraw(h.ID, true) },
				m.handingOver(h.ID),
			}
			if n%2 == 1 {
				slices.Reverse(acts)
			}
			for _, act := range acts {
				m.must(act())
				m.soon()
			}
			rest()
			entries, err := m.a.Store.Ledger(ctx, m.class.ID)
			m.must(err)
			for _, e := range entries {
				if e.Key.What.Purpose != packing.Copy || e.Key.What.ID != h.ID {
					continue
				}
				states, err := m.a.Cup.States(ctx, "oduya", []string{e.Thing})
				m.must(err)
				st, handed := states[e.Thing], e.HandedTo != ""
				if handed != (st.Place == ledger.Lies) || handed != (st.Owner == e.HandedTo) || !handed && st.Owner != "oduya" {
					t.Fatalf("the %dth time: handed over to %q, and it is %s and %s's", n, e.HandedTo, st.Place, st.Owner)
				}
			}
		}
	})
	t.Run("hand all over and withdraw", func(t *testing.T) { // a satchel, and a copy that lies in it
		t.Parallel()
		for n := range max(times/6, 2) {
			m := meet(t)
			rest := driving(t, m.a)
			acts := []func() error{
				func() error { return m.withdraw(m.h.ID, true) },
				m.handingOver(""),
			}
			if n%2 == 1 {
				slices.Reverse(acts)
			}
			for _, act := range acts {
				m.must(act())
				m.soon()
			}
			rest()
			entries, err := m.a.Store.Ledger(ctx, m.class.ID)
			m.must(err)
			for _, e := range entries {
				states, err := m.a.Cup.States(ctx, "oduya", []string{e.Thing})
				m.must(err)
				if st := states[e.Thing]; e.Key.Whom.Row != "" && (e.HandedTo != "" && st.Owner != e.HandedTo || e.HandedTo == "" && st.Owner != "oduya") {
					t.Fatalf("the %dth time: %s is handed over to %q and %s's", n, e.Key, e.HandedTo, st.Owner)
				}
			}
		}
	})
	t.Run("close and hand over", func(t *testing.T) { // a satchel with what is in it
		t.Parallel()
		for n := range max(times/6, 2) {
			m := meet(t)
			rest := driving(t, m.a)
			acts := []func() error{
				func() error {
					return errors.Join(m.a.Cases.Rooms.SayPens(ctx, "oduya", m.class.ID, room.Cloakroom, nil, true),
						m.a.Cases.Handouts.SayPens(ctx, "oduya", m.class.ID, m.h.ID, nil, true), m.a.Cases.Packing.KeepMarks(ctx))
				},
				m.handingOver(""),
			}
			if n%2 == 1 {
				slices.Reverse(acts)
			}
			for _, act := range acts {
				m.must(act())
				m.soon()
			}
			rest()
			m.must(m.a.Cases.Packing.KeepMarks(ctx))
			rest = driving(t, m.a)
			rest()
			entries, err := m.a.Store.Ledger(ctx, m.class.ID)
			m.must(err)
			for _, e := range entries {
				states, err := m.a.Cup.States(ctx, "oduya", []string{e.Thing})
				m.must(err)
				if e.HandedTo != "" && (states[e.Thing].Closed != nil || e.Mark != nil) {
					t.Fatalf("the %dth time: %s is handed over and closed", n, e.Key)
				}
			}
		}
	})
	t.Run("pack and withdraw", func(t *testing.T) {
		t.Parallel()
		m := meet(t)
		for n := range times {
			h := apptest.Handout(t, m.a, m.class, "# Another\n")
			rest := driving(t, m.a)
			_, err := m.a.Cases.Packing.Pack(ctx, "oduya", m.class.ID, h.ID, pack.Part{})
			m.must(err)
			m.soon()
			m.must(m.withdraw(h.ID, true))
			rest()
			m.all(n, h.ID, ledger.InBin)
		}
	})
	t.Run("write and withdraw", func(t *testing.T) {
		t.Parallel()
		m := meet(t)
		for n := range times {
			written := map[string]bool{}
			before := m.copies(m.h.ID)
			entries := m.things()
			rest := driving(t, m.a)
			var all sync.WaitGroup
			var mu sync.Mutex
			all.Go(func() {
				for _, st := range m.class.Students {
					m.soon()
					_, err := m.a.Cases.Things.Write(ctx, st.Account, store.NewID(), entries[st.ID], before[st.ID].Version,
						strings.NewReader(fmt.Sprintf("# Log\n\nwritten the %dth time\n", n)))
					mu.Lock()
					written[st.ID] = err == nil
					mu.Unlock()
				}
			})
			m.must(m.withdraw(m.h.ID, false))
			all.Wait()
			rest()
			for row, st := range m.copies(m.h.ID) {
				if begun := st.Version > 1; begun != (st.Place == ledger.Lies) || written[row] != (st.Version > before[row].Version) {
					t.Fatalf("the %dth time: written %v, and the copy is %s at version %d", n, written[row], st.Place, st.Version)
				}
			}
			rest = driving(t, m.a)
			m.must(m.a.Cases.Packing.BringBack(ctx, "oduya", m.class.ID, m.h.ID))
			rest()
			m.all(n, m.h.ID, ledger.Lies)
			if n%8 == 7 { // all are begun by now: another handout
				m.h = apptest.Handout(t, m.a, m.class, "# Another\n")
				apptest.Pack(t, m.a, m.class, &m.h)
			}
		}
	})
	t.Run("write and take back", func(t *testing.T) {
		t.Parallel()
		m := meet(t)
		for n := range times {
			h := apptest.Handout(t, m.a, m.class, fmt.Sprintf("# The %dth\n", n))
			run := apptest.Pack(t, m.a, m.class, &h)
			apptest.Look(t, m.a)
			before, entries := m.copies(h.ID), map[string]string{}
			all, err := m.a.Store.Ledger(ctx, m.class.ID)
			m.must(err)
			for _, e := range all {
				if e.Key.What.ID == h.ID && e.Key.What.Purpose == packing.Copy {
					entries[e.Key.Whom.Row] = e.Thing
				}
			}
			rest := driving(t, m.a)
			var writing sync.WaitGroup
			written := map[string]bool{}
			writing.Go(func() {
				for _, st := range m.class.Students {
					m.soon()
					_, err := m.a.Cases.Things.Write(ctx, st.Account, store.NewID(), entries[st.ID], before[st.ID].Version,
						strings.NewReader("# Log\n\nwritten\n"))
					written[st.ID] = err == nil
				}
			})
			back, err := m.a.Cases.Packing.TakingBack(ctx, m.class.ID, run.ID)
			m.must(err)
			_, err = m.a.Cases.Packing.TakeBack(ctx, "oduya", m.class.ID, run.ID, len(back.Lines))
			var begun *change.Invalid
			if kept := errors.As(err, &begun); !kept {
				m.must(err)
			}
			writing.Wait()
			rest()
			for row, st := range m.copiesOf(entries) {
				if written[row] != (st.Version > before[row].Version) || st.Version > before[row].Version &&
					st.Place != ledger.Lies || begun == nil && st.Version == before[row].Version && st.Place != ledger.InBin {
					t.Fatalf("the %dth time: written %v, taken back %v, and the copy is %s at version %d", n, written[row],
						begun == nil, st.Place, st.Version)
				}
			}
		}
	})
	t.Run("pack and pack", func(t *testing.T) {
		t.Parallel()
		m := meet(t)
		for range times {
			rest := driving(t, m.a)
			var all sync.WaitGroup
			for range 2 {
				h := apptest.Handout(t, m.a, m.class, "# Another\n")
				all.Go(func() {
					if _, err := m.a.Cases.Packing.Pack(ctx, "oduya", m.class.ID, h.ID, pack.Part{}); err != nil {
						t.Error(err)
					}
				})
			}
			all.Wait()
			rest()
		}
		m.namesDiffer(1 + 2*times)
		// Somebody who joins is given all of them at once, told apart as well.
		accept(t, m.a, m.class.ID, apptest.List(7))
		joined := apptest.Load(t, m.a, m.class.ID)
		if _, err := m.a.Cases.Packing.TopUp(ctx, "oduya", joined.ID, pack.Part{}); err != nil {
			t.Fatal(err)
		}
		settleAll(t, m.a)
		m.class = joined
		m.namesDiffer(1 + 2*times)
		missing, err := m.a.Cases.Packing.Missing(ctx, joined.ID)
		m.must(err)
		if n := missing.Counts(); n[packing.ToPack] != 0 || n[packing.ToChange] != 0 {
			t.Errorf("after it: %v", n)
		}
	})
	t.Run("pack and become known", func(t *testing.T) {
		t.Parallel()
		meet(t).arriving(times)
	})
	t.Run("pack and open", func(t *testing.T) {
		t.Parallel()
		meet(t).opening(times)
	})
	t.Run("staff made and removed", func(t *testing.T) {
		t.Parallel()
		m := meet(t)
		folder, err := m.a.Store.EntryByKey(ctx, packing.Key{Class: m.class.ID, What: packing.What{Purpose: packing.ClassFolder}})
		m.must(err)
		role := ""
		for n := range times {
			rest := driving(t, m.a)
			for range 2 + n%2 {
				was := role
				role = map[bool]string{true: "teacher", false: ""}[role == ""]
				m.must(m.a.Cases.Rooms.SetStaff(ctx, "oduya", m.class.ID, "amaral", role, was))
				m.soon()
			}
			rest()
			th, err := m.a.Cup.Get(ctx, "amaral", folder.Thing)
			if in := err == nil && th.Level == access.Edit; in != (role != "") {
				t.Fatalf("the %dth time: of the staff: %v, and the folder says %v, %v", n, role != "", th.Level, err)
			}
		}
	})
	t.Run("leave and return", func(t *testing.T) {
		t.Parallel()
		m := meet(t)
		shelf, err := m.a.Store.EntryByKey(ctx, packing.Key{Class: m.class.ID, What: packing.What{Purpose: packing.Shelf}})
		m.must(err)
		st := m.class.Students[2]
		for n := range times {
			rest := driving(t, m.a)
			for _, left := range []bool{true, false, true}[:2+n%2] {
				_, err := m.a.Cases.Rosters.SetLeft(ctx, "oduya", m.class.ID, []string{st.ID}, left)
				m.must(err)
				if !left { // what they lack is packed at once
					_, err := m.a.Cases.Packing.TopUp(ctx, "oduya", m.class.ID, pack.Part{})
					m.must(err)
				}
				m.soon()
			}
			rest()
			if n%2 == 0 { // the top-up may have come before the taking was done
				_, err := m.a.Cases.Packing.TopUp(ctx, "oduya", m.class.ID, pack.Part{})
				m.must(err)
				settleAll(t, m.a)
			}
			_, err := m.a.Cup.Get(ctx, st.Account, shelf.Thing)
			if in := err == nil; in != (n%2 == 0) {
				t.Fatalf("the %dth time: on the list: %v, and the shelf says %v", n, n%2 == 0, err)
			}
			if n%2 == 1 {
				_, err := m.a.Cases.Rosters.SetLeft(ctx, "oduya", m.class.ID, []string{st.ID}, false)
				m.must(err)
				_, err = m.a.Cases.Packing.TopUp(ctx, "oduya", m.class.ID, pack.Part{})
				m.must(err)
				settleAll(t, m.a)
			}
		}
	})
}

// namesDiffer checks that nobody has two copies of one name, of as many as they were given.
func (m *meeting) namesDiffer(each int) {
	m.t.Helper()
	entries, err := m.a.Store.Ledger(ctx, m.class.ID)
	m.must(err)
	of, copies := map[string]bool{}, 0
	for _, e := range entries {
		if e.Key.What.Purpose != packing.Copy {
			continue
		}
		copies++
		if at := e.Key.Whom.Row + "/" + strings.ToLower(e.Name); of[at] {
			m.t.Fatalf("two copies are called %s", at)
		} else {
			of[at] = true
		}
	}
	if want := each * len(m.class.Students); copies != want {
		m.t.Fatalf("%d copies, want %d", copies, want)
	}
}

// things are the handout's copies by row.
func (m *meeting) things() map[string]string {
	entries, err := m.a.Store.Ledger(ctx, m.class.ID)
	m.must(err)
	out := map[string]string{}
	for _, e := range entries {
		if e.Key.What.Purpose == packing.Copy && e.Key.What.ID == m.h.ID {
			out[e.Key.Whom.Row] = e.Thing
		}
	}
	return out
}

// all checks where the copies of a handout are, and that nothing is stuck.
func (m *meeting) all(n int, handout string, want ledger.Place) {
	m.t.Helper()
	for row, st := range m.copies(handout) {
		if st.Place != want {
			m.t.Fatalf("the %dth time: the copy of %s is %s, want %s", n, row, st.Place, want)
		}
	}
	runs, err := m.a.Store.RecentRuns(ctx, m.class.ID)
	m.must(err)
	if i := slices.IndexFunc(runs, func(r ledger.Run) bool { return r.Stuck > 0 }); i >= 0 {
		m.t.Fatalf("the %dth time: stuck: %+v", n, runs[i])
	}
}

// Five people and a student do things to one class at once, by chance. At rest nobody reaches
// more than the core says, what is withdrawn is in the bin but for what was begun, what isn't
// is where it was unless somebody binned it, and whatever was answered as written is there;
// packed once more, everybody reaches exactly what the core says. A failure prints its seed
// (HISTORY_SEED); SCHEDULES is how many are tried.
func TestSchedules(t *testing.T) {
	seed := seeded("SCHEDULES")
	for round := range often("SCHEDULES", 3) {
		t.Run(fmt.Sprint(round), func(t *testing.T) {
			t.Parallel()
			schedule(t, seed, round)
		})
	}
}

func schedule(t *testing.T, seed uint64, round int) {
	m := meet(t)
	h := &history{t: t, a: m.a, r: rand.New(rand.NewPCG(seed, uint64(round))), class: m.class.ID,
		guest: map[string]bool{}, texts: map[string][]string{}, log: []string{fmt.Sprintf("HISTORY_SEED=%d, round %d", seed, round)}}
	var mu sync.Mutex // of the log, the texts and what was binned by hand
	byHand := map[string]bool{}
	said := func(who, what string, err error) {
		mu.Lock()
		defer mu.Unlock()
		h.log = append(h.log, fmt.Sprintf("%s %s: %v", who, what, err))
	}
	copies := m.things()
	rest := driving(t, m.a)
	var all sync.WaitGroup
	for n, who := range []string{"oduya", "oduya", "lindqvist", "oduya", "oduya", "s0"} {
		r := rand.New(rand.NewPCG(seed, uint64(round*10+n+1)))
		all.Go(func() {
			for range 4 {
				<-time.After(time.Duration(r.IntN(15)) * time.Millisecond)
				st, mate := m.class.Students[r.IntN(6)], m.class.Students[r.IntN(6)]
				thing := copies[st.ID]
				what, err := "", error(nil)
				switch act := r.IntN(13); {
				case who == "s0" && act < 5, act == 0:
					versions, e := m.a.Cup.Versions(ctx, st.Account, thing)
					if what, err = "writes for "+st.Account, e; e == nil {
						text := fmt.Sprintf("written %d\n", r.IntN(1_000_000))
						if _, err = m.a.Cases.Things.Write(ctx, st.Account, store.NewID(), thing, versions[0].Number, strings.NewReader(text)); err == nil {
							mu.Lock()
							h.texts[thing] = append(h.texts[thing], text)
							mu.Unlock()
						}
					}
				case act == 1:
					what, err = "lets in for "+st.Account, m.a.Cases.Packing.LetIn(ctx, st.Account, m.h.ID, mate.ID, true)
				case act == 2:
					what, err = "lets out for "+st.Account, m.a.Cases.Packing.LetIn(ctx, st.Account, m.h.ID, mate.ID, false)
				case act == 3:
					what, err = "withdraws", m.withdraw(m.h.ID, r.IntN(2) == 0)
				case act == 4:
					what, err = "brings back", m.a.Cases.Packing.BringBack(ctx, "oduya", m.class.ID, m.h.ID)
				case act == 5:
					what = "packs"
					_, err = m.a.Cases.Packing.TopUp(ctx, "oduya", m.class.ID, pack.Part{})
				case act == 6:
					what = "has left or not: " + st.Account
					_, err = m.a.Cases.Rosters.SetLeft(ctx, "oduya", m.class.ID, []string{st.ID}, r.IntN(2) == 0)
				case act == 7:
					what = "bins the copy of " + st.Account
					if err = m.a.Cases.Things.Bin(ctx, "oduya", store.NewID(), []string{thing}, 0); err == nil {
						mu.Lock()
						byHand[thing] = true
						mu.Unlock()
					}
				case act == 8:
					name := fmt.Sprint("Tide Watch ", r.IntN(1000))
					what, err = "calls the class "+name,
						m.a.Cases.Classes.ChangeClass(ctx, "oduya", m.class.ID, classes.Change{Name: &name}, classes.Change{})
				case act == 9:
					what = "packs another of the same document"
					other, e := m.a.Cases.Handouts.NewHandout(ctx, "oduya", m.class.ID, m.h.Settings.Documents[0].Template)
					if err = e; err == nil {
						_, err = m.a.Cases.Packing.Pack(ctx, "oduya", m.class.ID, other.ID, pack.Part{})
					}
				case act == 10:
					what = "packs another and takes it back"
					err = m.packAndTakeBack()
				case act == 11:
					what = "gives the document again"
					err = m.giveAgain(fmt.Sprintf("# Log %d\n", r.IntN(1_000_000)), []pack.BegunCopy{pack.LeaveBegun, pack.ReplaceBegun}[r.IntN(2)])
				default:
					if what, err = "restores the copy of "+st.Account, m.a.Cases.Things.Restore(ctx, "oduya", store.NewID(), thing); err == nil {
						mu.Lock()
						byHand[thing] = true
						mu.Unlock()
					}
				}
				said(who, what, err)
				if err != nil && !errors.Is(err, seam.ErrNotFound) && !errors.Is(err, cupboard.ErrNotFound) &&
					!errors.Is(err, cupboard.ErrNoRight) && !errors.As(err, new(*change.Invalid)) &&
					!errors.As(err, new(*change.Changed)) && !errors.As(err, new(*cupboard.Conflict)) {
					t.Errorf("%s %s: %v", who, what, err)
				}
			}
		})
	}
	all.Wait()
	rest()
	now, err := m.a.Store.Handout(ctx, m.class.ID, m.h.ID)
	if err != nil {
		t.Fatal(err)
	}
	for row, st := range m.copies(m.h.ID) {
		thing := copies[row]
		switch {
		case byHand[thing]: // by hand or not: either order of what met is one
		case now.Withdrawn() && st.Version == 1 && st.Place != ledger.InBin:
			h.fatal("withdrawn, and the untouched copy of %s is %s", row, st.Place)
		case !now.Withdrawn() && st.Place != ledger.Lies:
			m.story(handout.CopyKey(m.class.ID, m.h.ID, 1, packing.Whom{Row: row}).String())
			h.fatal("not withdrawn, and the copy of %s is %s", row, st.Place)
		}
	}
	h.noMore()
	if now.Withdrawn() {
		if err := m.a.Cases.Packing.BringBack(ctx, "oduya", m.class.ID, m.h.ID); err != nil {
			h.fatal("bringing back: %v", err)
		}
	}
	settleAll(t, m.a)
	h.noMore()
	if left := h.everything(); len(left) > 0 {
		h.fatal("%d lines are left: %+v", len(left), left[0])
	}
	h.asSaid()
	h.kept()
	m.oneOfEachName(h, byHand)
}

// packAndTakeBack packs another handout of the same document and takes that back at once.
func (m *meeting) packAndTakeBack() error {
	other, err := m.a.Cases.Handouts.NewHandout(ctx, "oduya", m.class.ID, m.h.Settings.Documents[0].Template)
	if err != nil {
		return err
	}
	run, err := m.a.Cases.Packing.Pack(ctx, "oduya", m.class.ID, other.ID, pack.Part{})
	if err != nil {
		return err
	}
	back, err := m.a.Cases.Packing.TakingBack(ctx, m.class.ID, run.ID)
	if err == nil {
		_, err = m.a.Cases.Packing.TakeBack(ctx, "oduya", m.class.ID, run.ID, len(back.Lines))
	}
	return err
}

// giveAgain changes the handout's document and gives it again.
func (m *meeting) giveAgain(text string, begun pack.BegunCopy) error {
	t, err := m.a.Store.Template(ctx, m.h.Settings.Documents[0].Template)
	if err != nil {
		return err
	}
	versions, err := m.a.Cup.Versions(ctx, "oduya", t.Thing)
	if err != nil {
		return err
	}
	if _, err := m.a.Cup.Write(ctx, "oduya", store.NewID(), t.Thing, versions[0].Number, strings.NewReader(text)); err != nil {
		return err
	}
	look, err := m.a.Cases.Packing.PreviewReissue(ctx, m.class.ID, m.h.ID)
	if err != nil {
		return err
	}
	_, err = m.a.Cases.Packing.Reissue(ctx, "oduya", m.class.ID, m.h.ID, begun, look.Digest())
	return err
}

// story tells what runs did for some keys.
func (m *meeting) story(keys ...string) {
	var lines []string
	m.must(m.a.Store.DB.Select(&lines, `select concat_ws(' ', r.started_at, r.kind, left(r.id::text, 23), r.state,
		right(s.key, 50), s.act, s.account, s.generation, s.state, s.reason, s.wanted ->> 'name', s.change)
		from steps s join runs r on r.id = s.run_id where s.key = any($1) order by r.started_at, s.seq`, keys))
	m.t.Logf("what runs did:\n%s", strings.Join(lines, "\n"))
}

// oneOfEachName checks that no satchel holds two of the class's things of one name, but for what
// somebody brought back by hand.
func (m *meeting) oneOfEachName(h *history, byHand map[string]bool) {
	m.t.Helper()
	entries, err := m.a.Store.Ledger(ctx, m.class.ID)
	m.must(err)
	ours := map[string]string{} // thing → key
	for _, e := range entries {
		ours[e.Thing] = e.Key.String()
	}
	for _, e := range entries {
		if e.Key.What.Purpose != packing.Satchel {
			continue
		}
		inside, err := m.a.Cup.List(ctx, "oduya", e.Thing)
		m.must(err)
		there := map[string]string{}
		for _, x := range inside {
			key, name := ours[x.ID], strings.ToLower(x.Name)
			if key == "" || byHand[x.ID] {
				continue
			}
			if there[name] != "" {
				m.story(there[name], key)
				h.fatal("%s and %s are called %s", there[name], key, x.Name)
			}
			there[name] = key
		}
	}
}
