package packer_test

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"slices"
	"strconv"
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
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/cupboard"
	cupboardstandin "jollysatchel/internal/cupboard/standin"
	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/store/mail"
	"jollysatchel/internal/usecase/pack"
)

var ctx = context.Background()

// whole checks that class and handouts are complete: nothing missing, nothing
// doubled, nothing shared with anybody it isn't for.
func whole(t *testing.T, a *app.App, c picture.Class, handouts int) {
	t.Helper()
	n := len(c.Students)
	for kind, want := range map[string]int{"folder": 5 + n + min(handouts, 1) + handouts, "file": handouts + handouts*n,
		"pointer": handouts * n} {
		var got int
		if err := a.Store.DB.Get(&got, `select count(*) from standin.things where kind = $1`, kind); err != nil {
			t.Fatal(err)
		}
		if got != want {
			t.Errorf("%d things of kind %s, want %d", got, kind, want)
		}
	}
	entries, err := a.Store.Ledger(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	accounts := map[string]string{}
	for _, s := range c.Students {
		accounts[s.ID] = s.Account
	}
	for _, e := range entries {
		if !e.Shared() {
			t.Errorf("%s is not shared", e.Key)
		}
		if p := e.Key.What.Purpose; p != packing.Satchel && p != packing.Copy {
			continue
		}
		people, err := a.Cup.People(ctx, "oduya", e.Thing)
		if err != nil {
			t.Fatal(err)
		}
		if who := accounts[e.Key.Whom.Row]; len(people) != 2 || people[who].Level.String() != "edit" ||
			people["oduya"].Level.String() != "owner" {
			t.Errorf("%s of %s is open to %v", e.Key, who, people)
		}
	}
	l, err := a.Cases.Packing.RoomList(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	if left := l.Counts()[packing.ToPack]; left != 0 {
		t.Errorf("%d lines are left to pack", left)
	}
}

func TestPack(t *testing.T) {
	a := apptest.Open(t)
	apptest.People(t, a, 12)
	c := apptest.Class(t, a, apptest.List(12))
	before := a.Cup.Requests()
	r := apptest.Pack(t, a, c, nil)
	if r.Packed != 17 || r.Stuck != 0 || r.Told != 0 {
		t.Errorf("room: %+v", r)
	}
	if used := a.Cup.Requests() - before; used > 12+5+1 {
		t.Errorf("%d cupboard requests for 12 satchels and 5 places, each made with whom it is for, and one look", used)
	}
	h := apptest.Handout(t, a, c, "# Log\n")
	before = a.Cup.Requests()
	r = apptest.Pack(t, a, c, &h)
	if r.Packed != 14 || r.Stuck != 0 || r.Told != 12 {
		t.Errorf("handout: %+v", r)
	}
	if used := a.Cup.Requests() - before; used > 2*12+2+1+1 {
		t.Errorf("%d cupboard requests for 12 copies, at most 2 each, 2 folders, one look and one into the document", used)
	}
	whole(t, a, c, 1)
	if _, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, h.ID, pack.Part{}); err == nil {
		t.Error("packing again packed something")
	}
	whole(t, a, c, 1)
}

// A newcomer is topped up and nothing else is touched.
func TestTopUp(t *testing.T) {
	a := apptest.Open(t)
	apptest.People(t, a, 6)
	c := apptest.Class(t, a, apptest.List(5))
	apptest.Pack(t, a, c, nil)
	h := apptest.Handout(t, a, c, "# Log\n")
	apptest.Pack(t, a, c, &h)
	again := apptest.Class(t, a, apptest.List(1)) // another class with one of them: a satchel of its own
	if l, err := a.Cases.Packing.Missing(ctx, again.ID); err != nil || len(l.Lines) != 0 {
		t.Errorf("a class that isn't packed lacks %d, %v", len(l.Lines), err)
	}
	accept(t, a, c.ID, apptest.List(6))
	c = apptest.Load(t, a, c.ID)
	if n, err := a.Cases.Packing.TopUp(ctx, "oduya", c.ID, pack.Part{}); err != nil || n != 1 {
		t.Fatalf("topped up %d, %v", n, err)
	}
	runs, err := a.Store.OpenRuns(ctx)
	if err != nil || len(runs) != 2 {
		t.Fatalf("runs %v, %v", runs, err)
	}
	steps := 0
	for _, r := range runs {
		steps += apptest.Wait(t, a, r).Total
	}
	if steps != 7 { // room: shelf and table open to the newcomer, satchel; handout, listed before that: the same and the copy
		t.Errorf("%d lines for one newcomer", steps)
	}
	whole(t, a, c, 1)
}

func accept(t *testing.T, a *app.App, class, list string) {
	t.Helper()
	d, err := a.Cases.Lists.BringDraft(ctx, "oduya", class, "", strings.NewReader(list))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Lists.Accept(ctx, "oduya", class, d.LookedAt()); err != nil {
		t.Fatal(err)
	}
}

// A student's own problem stays on that line; mended there, only that student's
// lines are packed.
func TestStuckAndFixed(t *testing.T) {
	a := apptest.Open(t)
	apptest.People(t, a, 4)
	apptest.Account(t, a, "other", "Ono", "Odd")
	c := apptest.Class(t, a, strings.Replace(apptest.List(4), "s2@", "other@", 1))
	r := apptest.Pack(t, a, c, nil)
	if r.Packed != 8 || r.Stuck != 1 {
		t.Fatalf("%+v", r)
	}
	steps, err := a.Store.Steps(ctx, r.ID)
	if err != nil {
		t.Fatal(err)
	}
	var stuck ledger.Step
	for _, s := range steps {
		if s.State == packing.Stuck {
			stuck = s
		}
	}
	if stuck.Reason == nil || stuck.Reason.Code != "account-other-name" {
		t.Fatalf("stuck for %+v", stuck.Reason)
	}
	for address, code := range map[string]string{"nonsense": "address-malformed",
		"who@kestrelquay.example": "account-unknown", "s1@kestrelquay.example": "address-twice"} {
		err := a.Cases.Packing.FixLine(ctx, "oduya", c.ID, r.ID, stuck.Seq, address)
		if invalid, ok := err.(*change.Invalid); !ok || invalid.Code != code {
			t.Errorf("fixed with %s: %v, want %s", address, err, code)
		}
	}
	if err := a.Cases.Packing.FixLine(ctx, "oduya", c.ID, r.ID, stuck.Seq, "s2@kestrelquay.example"); err != nil {
		t.Fatal(err)
	}
	if r = apptest.Wait(t, a, r.ID); r.Packed != 9 || r.Stuck != 0 {
		t.Errorf("after mending: %+v", r)
	}
	c = apptest.Load(t, a, c.ID)
	if n, err := a.Cases.Packing.TopUp(ctx, "oduya", c.ID, pack.Part{}); err != nil {
		t.Errorf("topping shelf and table up: %d, %v", n, err)
	}
	open, _ := a.Store.OpenRuns(ctx)
	for _, id := range open {
		apptest.Wait(t, a, id)
	}
	whole(t, a, c, 0)
}

func TestPauseAndStop(t *testing.T) {
	a := apptest.Open(t)
	apptest.People(t, a, 5)
	c := apptest.Class(t, a, apptest.List(5))
	r, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, "", pack.Part{})
	if err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.Packing.Pause(ctx, "oduya", c.ID, r.ID); err != nil {
		t.Fatal(err)
	}
	a.Packer.Drive(ctx, r.ID)
	if r, _ = a.Store.Run(ctx, r.ID); r.Packed != 0 || r.State != ledger.RunPaused {
		t.Errorf("paused: %+v", r)
	}
	if err := a.Cases.Packing.Resume(ctx, "oduya", c.ID, r.ID); err != nil {
		t.Fatal(err)
	}
	if r = apptest.Wait(t, a, r.ID); r.Packed != 10 {
		t.Errorf("carried on: %+v", r)
	}
	whole(t, a, c, 0)
}

// A run that is stopped while it is packed makes nothing more; what was made
// stays, and the rest comes with the next list.
func TestStop(t *testing.T) {
	const n = 40
	a := apptest.Open(t)
	apptest.People(t, a, n)
	c := apptest.Class(t, a, apptest.List(n))
	a.Cup.SetWeather(cupboardstandin.Weather{Limit: 30}) // it takes seconds, however fast the machine is
	r, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, "", pack.Part{})
	if err != nil {
		t.Fatal(err)
	}
	var driving sync.WaitGroup
	driving.Go(func() { a.Packer.Drive(ctx, r.ID) })
	for now := r; now.Packed < 8; {
		if now, err = a.Store.Run(ctx, r.ID); err != nil {
			t.Fatal(err)
		}
	}
	if err := a.Cases.Packing.Stop(ctx, "oduya", c.ID, r.ID); err != nil {
		t.Fatal(err)
	}
	driving.Wait()
	stopped, err := a.Store.Run(ctx, r.ID)
	if err != nil || stopped.State != ledger.RunStopped || stopped.Packed >= stopped.Total {
		t.Fatalf("stopped: %+v, %v", stopped, err)
	}
	before := a.Cup.Requests()
	a.Packer.Drive(ctx, r.ID)
	if err := a.Cases.Packing.Resume(ctx, "oduya", c.ID, r.ID); err != nil { // it is over
		t.Fatal(err)
	}
	a.Packer.Drive(ctx, r.ID)
	if now, err := a.Store.Run(ctx, r.ID); err != nil || now.State != ledger.RunStopped ||
		now.Packed != stopped.Packed || a.Cup.Requests() != before {
		t.Errorf("it goes on: %+v, %v", now, err)
	}
	entries, err := a.Store.Ledger(ctx, c.ID)
	if err != nil || len(entries) != stopped.Packed {
		t.Errorf("%d made, %d lines packed, %v", len(entries), stopped.Packed, err)
	}
	a.Cup.SetWeather(cupboardstandin.Weather{})
	apptest.Pack(t, a, c, nil)
	whole(t, a, c, 0)
}

// 20 % errors, 5 % lost answers, a request limit and a delay: complete, once.
func TestBadWeather(t *testing.T) {
	a := apptest.Open(t)
	apptest.People(t, a, 10)
	c := apptest.Class(t, a, apptest.List(10))
	h := apptest.Handout(t, a, c, "# Log\n")
	w := cupboardstandin.Weather{Errors: 0.2, Lost: 0.05, Limit: 60, Delay: 20 * time.Millisecond}
	if os.Getenv("WEATHER") == "full" {
		w.Limit, w.Delay = 20, 300*time.Millisecond
	}
	a.Cup.SetWeather(w)
	var r ledger.Run
	for {
		var err error
		if r, err = a.Cases.Packing.Pack(ctx, "oduya", c.ID, h.ID, pack.Part{}); err == nil {
			break
		}
	}
	if r = apptest.Wait(t, a, r.ID); r.Stuck != 0 {
		t.Errorf("%+v", r)
	}
	a.Cup.SetWeather(cupboardstandin.Weather{})
	whole(t, a, c, 1)
}

// How long a list will take is told by how long the last lines took, whatever one that is put off
// waits for.
func TestPerLine(t *testing.T) {
	a := apptest.Open(t)
	apptest.People(t, a, 10)
	c := apptest.Class(t, a, apptest.List(10))
	before := a.Packer.PerLine()
	a.Cup.SetWeather(cupboardstandin.Weather{Delay: time.Second})
	apptest.Pack(t, a, c, nil)
	slow := a.Packer.PerLine()
	if slow < 4*before {
		t.Errorf("a line takes %s where each answer takes a second, %s before", slow, before)
	}
	a.Cup.SetWeather(cupboardstandin.Weather{})
	for range 4 {
		h := apptest.Handout(t, a, c, "# Log\n")
		apptest.Pack(t, a, c, &h)
	}
	fast := a.Packer.PerLine()
	if fast > slow/2 {
		t.Errorf("a line takes %s in calm weather, %s before it", fast, slow)
	}
	a.Cup.SetWeather(cupboardstandin.Weather{Limit: 20}) // lines are put off
	h := apptest.Handout(t, a, c, "# Log\n")
	apptest.Pack(t, a, c, &h)
	if limited := a.Packer.PerLine(); limited > slow/2 {
		t.Errorf("a line takes %s where it is put off, %s before", limited, fast)
	}
}

// A folder was made, the answer lost, and one of those it was for left before it
// was asked for again: they are known to have it, and to lose it.
func TestMadeForWhoLeft(t *testing.T) {
	a := apptest.Open(t)
	apptest.People(t, a, 3)
	c := apptest.Class(t, a, apptest.List(3))
	step := packing.StepKey{Key: packing.Key{Class: c.ID, What: packing.What{Purpose: packing.ClassFolder}}, Act: packing.Make, Generation: 1}
	made, err := a.Cup.MakeFolder(ctx, "oduya", step.String(),
		cupboard.NewThing{Name: "Class", Grants: map[string]access.Level{"s0": access.Edit}})
	if err != nil {
		t.Fatal(err)
	}
	apptest.Pack(t, a, c, nil)
	l, err := a.Cases.Packing.RoomList(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	i := slices.IndexFunc(l.Lines, func(l packing.Line) bool { return l.Step.Act == packing.Take })
	if i < 0 || l.Lines[i].Thing != made.ID || l.Lines[i].Step.Account != "s0" || l.Lines[i].Section != packing.ToChange {
		t.Errorf("%+v", l.Counts())
	}
	r, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, "", pack.Part{Part: packing.Part{Changes: []string{l.Lines[i].Step.String()}}})
	if err != nil {
		t.Fatal(err)
	}
	apptest.Wait(t, a, r.ID)
	whole(t, a, c, 0)
}

// Two programs on one database share a run and do nothing twice.
func TestTwoPrograms(t *testing.T) {
	url := pgtest.New(t)
	a, b := apptest.At(t, url), apptest.At(t, url)
	apptest.People(t, a, 20)
	c := apptest.Class(t, a, apptest.List(20))
	h := apptest.Handout(t, a, c, "# Log\n")
	for _, x := range []*app.App{a, b} {
		if err := x.Start(ctx); err != nil {
			t.Fatal(err)
		}
		defer x.Stop(ctx)
	}
	r, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, h.ID, pack.Part{})
	if err != nil {
		t.Fatal(err)
	}
	apptest.Wait(t, b, r.ID)
	whole(t, a, c, 1)
}

// The program is killed at random moments of a run, again and again; the next
// one carries on by itself. The child is this test program itself.
func TestKilled(t *testing.T) {
	if url := os.Getenv("JOLLY_TEST_CHILD"); url != "" {
		a := apptest.At(t, url)
		a.Cup.SetWeather(cupboardstandin.Weather{Delay: 15 * time.Millisecond, Errors: 0.1, Lost: 0.1})
		if err := a.Start(ctx); err != nil {
			t.Fatal(err)
		}
		fmt.Println("packing")
		select {} // until killed
	}
	for kills := often("KILLS", 3); kills > 0; kills -= killed(t) {
	}
}

// often is how often something is tried: as many times as the environment says.
func often(name string, usual int) int {
	if n, err := strconv.Atoi(os.Getenv(name)); err == nil && n > 0 {
		return n
	}
	return usual
}

// seeded is what chance begins with: HISTORY_SEED, or else the same in every check and another
// each time where more is tried than there (name says how much).
func seeded(name string) uint64 {
	if s, err := strconv.ParseUint(os.Getenv("HISTORY_SEED"), 10, 64); err == nil {
		return s
	}
	if os.Getenv(name) != "" {
		return uint64(time.Now().UnixNano())
	}
	return 20
}

// killed packs a class while its program is killed up to six times, and returns how
// often it was.
func killed(t *testing.T) (kills int) {
	url := pgtest.New(t)
	a := apptest.At(t, url)
	apptest.People(t, a, 25)
	c := apptest.Class(t, a, apptest.List(25))
	h := apptest.Handout(t, a, c, "# Log\n")
	first := telling.First
	if _, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Tell: &first}, handout.Change{}); err != nil {
		t.Fatal(err)
	}
	r, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, h.ID, pack.Part{})
	if err != nil {
		t.Fatal(err)
	}
	kills = killing(t, a, url, r.ID, 6)
	if kills < 3 {
		t.Errorf("the run was over after %d kills", kills)
	}
	if r = apptest.Wait(t, a, r.ID); r.Stuck != 0 || r.Packed != r.Total {
		t.Errorf("%+v", r)
	}
	whole(t, a, c, 1)
	// each once, by one row each
	if told, _, _, err := a.Cases.Telling.Messages(ctx, c.ID, mail.MessageFilter{}); err != nil || len(told) != len(c.Students) {
		t.Errorf("%d messages for %d students, %v", len(told), len(c.Students), err)
	}
	more := closedAndKilled(t, a, url, c, h)
	t.Logf("killed %d times, and %d times while it said what is closed; complete after it", kills, more)
	return kills + more
}

// closedAndKilled has the cupboard told that the copies of a handout are closed while its program is killed.
func closedAndKilled(t *testing.T, a *app.App, url string, c picture.Class, h handout.Handout) (kills int) {
	t.Helper()
	if err := errors.Join(a.Cases.Handouts.SayPens(ctx, "oduya", c.ID, h.ID, nil, true), a.Cases.Packing.KeepMarks(ctx)); err != nil {
		t.Fatal(err)
	}
	marks := func() (out []ledger.Run) {
		t.Helper()
		all, err := a.Store.RecentRuns(ctx, c.ID)
		if err != nil {
			t.Fatal(err)
		}
		return slices.DeleteFunc(all, func(r ledger.Run) bool { return r.Kind != ledger.MarkRun })
	}
	if len(marks()) != 1 {
		t.Fatalf("%d runs say what is closed", len(marks()))
	}
	kills = killing(t, a, url, marks()[0].ID, 3)
	if r := apptest.Wait(t, a, marks()[0].ID); len(marks()) != 1 || r.Packed != len(c.Students) || r.Stuck != 0 {
		t.Errorf("%+v, one of %d", r, len(marks()))
	}
	entries, err := a.Store.Ledger(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range entries {
		states, err := a.Cup.States(ctx, "oduya", []string{e.Thing})
		if copied := e.Key.What.Purpose == packing.Copy; err != nil || copied != (states[e.Thing].Closed != nil) ||
			!access.SameMark(states[e.Thing].Closed, e.Mark) {
			t.Errorf("%s is closed by %+v, we said %+v, %v", e.Key, states[e.Thing].Closed, e.Mark, err)
		}
	}
	return kills
}

// killing has a run done by a program that is killed again and again, and returns how often it was.
func killing(t *testing.T, a *app.App, url, run string, most int) (kills int) {
	t.Helper()
	for ; kills < most; kills++ {
		child := exec.Command(os.Args[0], "-test.run", "^TestKilled$")
		child.Env = append(os.Environ(), "JOLLY_TEST_CHILD="+url)
		out, err := child.StdoutPipe()
		if err != nil {
			t.Fatal(err)
		}
		if err := child.Start(); err != nil {
			t.Fatal(err)
		}
		if _, err := out.Read(make([]byte, 8)); err != nil {
			t.Fatal("the child doesn't start: ", err)
		}
		now, err := a.Store.Run(ctx, run)
		if err != nil {
			t.Fatal(err)
		}
		goal := now.Packed + 4 + kills*3 // kill it once it has come so far
		poll := time.NewTicker(5 * time.Millisecond)
		for now.Packed < goal && now.State == ledger.RunPacking && now.Packed < now.Total-5 {
			<-poll.C
			if now, err = a.Store.Run(ctx, run); err != nil {
				t.Fatal(err)
			}
		}
		poll.Stop()
		if err := child.Process.Kill(); err != nil {
			t.Fatal(err)
		}
		child.Wait()
		if now.State != ledger.RunPacking {
			break
		}
		// The killed program's leases end by the database's clock; let them.
		if _, err := a.Store.DB.Exec(`update steps set lease_until = clock_timestamp() where lease_until is not null`); err != nil {
			t.Fatal(err)
		}
	}
	return kills
}

// BenchmarkLimit packs 60 satchels and copies under a request limit and tells how
// much longer it takes than the requests need at that rate.
func BenchmarkLimit(b *testing.B) {
	const limit = 40
	var ratios []float64
	for b.Loop() {
		a := apptest.Open(b)
		apptest.People(b, a, 60)
		c := apptest.Class(b, a, apptest.List(60))
		h := apptest.Handout(b, a, c, "# Log\n")
		a.Cup.SetWeather(cupboardstandin.Weather{Limit: limit})
		before, began := a.Cup.Answered(), time.Now()
		if r := apptest.Pack(b, a, c, &h); r.Stuck > 0 {
			b.Fatalf("%+v", r)
		}
		asked := float64(a.Cup.Answered()-before) - limit // a second's worth is free at the beginning
		ratios = append(ratios, time.Since(began).Seconds()/(asked/limit))
	}
	b.ReportMetric(median(ratios), "ratio")
}

// BenchmarkSchool packs a whole school: 2,000 students in 80 classes of one owner,
// a satchel each, all runs at once, and tells how long the lists and the packing
// take.
func BenchmarkSchool(b *testing.B) {
	for b.Loop() {
		a := apptest.Open(b)
		const cs, students = 80, 25
		apptest.People(b, a, cs*students)
		var all []picture.Class
		for i := range cs {
			c, err := a.Cases.Classes.CreateClass(ctx, "oduya", fmt.Sprint(i), fmt.Sprint("Class ", i), "1", false)
			if err != nil {
				b.Fatal(err)
			}
			list := "No,Surname,First,Email\n"
			for k := range students {
				n := i*students + k
				list += fmt.Sprintf("%d,Family%d,Given%d,s%d@kestrelquay.example\n", 70000+n, n, n, n)
			}
			d, err := a.Cases.Lists.BringDraft(ctx, "oduya", c.ID, "", strings.NewReader(list))
			if err != nil {
				b.Fatal(err)
			}
			if _, err := a.Cases.Lists.Accept(ctx, "oduya", c.ID, d.LookedAt()); err != nil {
				b.Fatal(err)
			}
			all = append(all, apptest.Load(b, a, c.ID))
		}
		began := time.Now()
		lists, err := a.Cases.Packing.Everywhere(ctx, "oduya")
		if err != nil || len(lists) != cs {
			b.Fatal(len(lists), err)
		}
		listed := time.Since(began)
		var part []pack.Somewhere
		for _, l := range lists {
			part = append(part, pack.Somewhere{Class: l.Class.ID, Seen: l.List.Digest()})
		}
		began = time.Now()
		if _, err := a.Cases.Packing.PackEverywhere(ctx, "oduya", part); err != nil {
			b.Fatal(err)
		}
		enqueued := time.Since(began)
		runs, err := a.Store.OpenRuns(ctx)
		if err != nil {
			b.Fatal(err)
		}
		var wg sync.WaitGroup
		few := make(chan struct{}, 4)
		for _, id := range runs {
			wg.Go(func() {
				few <- struct{}{}
				defer func() { <-few }()
				apptest.Wait(b, a, id)
			})
		}
		wg.Wait()
		b.ReportMetric(listed.Seconds(), "list-s")
		b.ReportMetric(enqueued.Seconds(), "enqueue-s")
		b.ReportMetric(time.Since(began).Seconds(), "pack-s")
		for _, c := range all {
			l, err := a.Cases.Packing.RoomList(ctx, c.ID)
			if err != nil || l.Counts()[packing.ToPack] > 0 {
				b.Fatal(l.Counts(), err)
			}
		}
	}
}

// BenchmarkPack packs 30 satchels and 30 copies in calm weather, and beside it
// a plain loop writes the same final rows in one transaction for each student;
// the two in turn, nine times after a first one that isn't counted.
func BenchmarkPack(b *testing.B) {
	againstPlain(b, 30, 11, func(a *app.App, c picture.Class) *handout.Handout {
		h := apptest.Handout(b, a, c, "# Log\n")
		return &h
	})
}

// BenchmarkPackSeveral is BenchmarkPack for 35 copies of three documents each, in a room
// that is packed already.
func BenchmarkPackSeveral(b *testing.B) {
	againstPlain(b, 35, 25, func(a *app.App, c picture.Class) *handout.Handout {
		apptest.Pack(b, a, c, nil)
		h := apptest.Handout(b, a, c, "# Log\n")
		for slot := 2; slot <= 3; slot++ {
			tpl, err := a.Cases.Handouts.AddTemplate(ctx, "oduya", fmt.Sprintf("Sheet %d.md", slot), "text/markdown", strings.NewReader("# Sheet\n"))
			if err != nil {
				b.Fatal(err)
			}
			h.Settings.Documents = append(h.Settings.Documents, handout.GivenDocument{Slot: slot, Template: tpl.ID})
		}
		h, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Documents: &h.Settings.Documents}, handout.Change{})
		if err != nil {
			b.Fatal(err)
		}
		return &h
	})
}

// againstPlain packs what is begun in a new class, ten times a round, and compares with a
// plain loop that writes the same final rows, so many for each student.
func againstPlain(b *testing.B, students, rows int, begin func(*app.App, picture.Class) *handout.Handout) {
	a := apptest.Open(b)
	apptest.People(b, a, students)
	if _, err := a.Store.DB.Exec(`
		create table plain_things (like standin.things including all);
		create table plain_versions (like standin.versions including all);
		create table plain_answers (like standin.answers including all);
		create table plain_ledger (like ledger including all);
		create table plain_steps (like steps including all)`); err != nil {
		b.Fatal(err)
	}
	var packs, plains, ratios []float64
	for b.Loop() {
		for i := range 10 {
			c := apptest.Class(b, a, apptest.List(students))
			h := begin(a, c)
			began := time.Now()
			if r := apptest.Pack(b, a, c, h); r.Stuck > 0 {
				b.Fatalf("%+v", r)
			}
			packed := time.Since(began).Seconds() * 1000
			plain := plainLoop(b, a, c, rows).Seconds() * 1000
			if i > 0 {
				packs, plains, ratios = append(packs, packed), append(plains, plain), append(ratios, packed/plain)
			}
		}
	}
	b.ReportMetric(median(packs), "pack-ms")
	b.ReportMetric(median(plains), "plain-ms")
	b.ReportMetric(median(ratios), "ratio")
}

func median(x []float64) float64 {
	slices.Sort(x)
	return x[len(x)/2]
}

// plainLoop writes the rows a packed class has, read beforehand: for each
// student one transaction that inserts, row by row, the satchel, the copy, its
// version, its pointer, the keys of making them, the ledger's entries and the run's lines.
func plainLoop(b *testing.B, a *app.App, c picture.Class, each int) time.Duration {
	db := a.Store.DB
	tables := []struct{ into, from string }{
		{"plain_things", `select t.* from standin.things t
			join ledger l on t.id::text = l.thing or t.id::text in (select value from jsonb_each_text(l.pointers))
			where l.row_id = $1 and l.class_id = $2`},
		{"plain_versions", `select v.* from standin.versions v join ledger l on v.thing::text = l.thing where l.row_id = $1 and l.class_id = $2`},
		{"plain_answers", `select x.* from standin.answers x
			join ledger l on x.thing::text = l.thing or x.thing::text in (select value from jsonb_each_text(l.pointers))
			where l.row_id = $1 and l.class_id = $2`},
		{"plain_ledger", `select * from ledger where row_id = $1 and class_id = $2`},
		{"plain_steps", `select s.* from steps s join runs r on r.id = s.run_id where s.key like '%/row.' || $1::text and r.class_id = $2`},
	}
	type row struct{ into, values string }
	students := make([][]row, len(c.Students))
	for i, s := range c.Students {
		for _, t := range tables {
			var found []string
			if err := db.Select(&found, `select to_json(x)::text from (`+t.from+`) x`, s.ID, c.ID); err != nil {
				b.Fatal(err)
			}
			for _, f := range found {
				students[i] = append(students[i], row{t.into, f})
			}
		}
		if len(students[i]) != each {
			b.Fatalf("%d rows for a student", len(students[i]))
		}
	}
	began := time.Now()
	for _, rows := range students {
		tx, err := db.Begin()
		if err != nil {
			b.Fatal(err)
		}
		for _, r := range rows {
			if _, err := tx.Exec(`insert into `+r.into+` select * from json_populate_record(null::`+r.into+`, $1)`, r.values); err != nil {
				b.Fatal(err)
			}
		}
		if err := tx.Commit(); err != nil {
			b.Fatal(err)
		}
	}
	return time.Since(began)
}

// Anyone who leaves, a student in the list or a teacher from the staff, is out of the
// class's own places as soon as that stands, without anybody packing; what is the
// student's own stays as it is.
func TestWhoLeft(t *testing.T) {
	a := apptest.Open(t)
	apptest.People(t, a, 3)
	c := apptest.Class(t, a, apptest.List(3))
	if err := a.Store.AddStaff(ctx, classes.Member{ClassID: c.ID, Account: "lindqvist", Role: classes.Teacher}); err != nil {
		t.Fatal(err)
	}
	apptest.Pack(t, a, c, nil)
	h := apptest.Handout(t, a, c, "# Log\n")
	apptest.Pack(t, a, c, &h)
	entries, err := a.Store.Ledger(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	reaches := func(account string, p packing.Purpose) int {
		t.Helper()
		n := 0
		for _, e := range entries {
			if e.Key.What.Purpose == p {
				if _, err := a.Cup.Get(ctx, account, e.Thing); err == nil {
					n++
				} else if !errors.Is(err, cupboard.ErrNotFound) {
					t.Fatal(err)
				}
			}
		}
		return n
	}
	settle := func() {
		t.Helper()
		runs, err := a.Store.OpenRuns(ctx)
		if err != nil {
			t.Fatal(err)
		}
		for _, r := range runs {
			apptest.Wait(t, a, r)
		}
	}
	if n := reaches("s0", packing.Shelf) + reaches("s0", packing.Table) + reaches("lindqvist", packing.Shelf); n != 3 {
		t.Fatalf("before anybody left %d places are open", n)
	}
	row := ""
	for _, st := range c.Students {
		if st.Account == "s0" {
			row = st.ID
		}
	}
	if _, err := a.Cases.Rosters.SetLeft(ctx, "oduya", c.ID, []string{row}, true); err != nil {
		t.Fatal(err)
	}
	settle()
	if n := reaches("s0", packing.Shelf) + reaches("s0", packing.Table); n != 0 {
		t.Errorf("one who left reaches %d of the class's places", n)
	}
	if reaches("s0", packing.Satchel) != 1 || reaches("s0", packing.Copy) != 1 || reaches("s1", packing.Shelf) != 1 {
		t.Error("more was closed than the class's places to one who left")
	}
	if _, err := a.Store.DB.Exec(`delete from staff where class_id = $1 and account = 'lindqvist'`, c.ID); err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.Leaving.RevokeAll(ctx); err != nil {
		t.Fatal(err)
	}
	settle()
	for _, p := range []packing.Purpose{packing.ClassFolder, packing.Shelf, packing.Satchel, packing.Copy, packing.Drawer} {
		if n := reaches("lindqvist", p); n != 0 {
			t.Errorf("a teacher who left reaches %d of %s", n, p)
		}
	}
	runs, err := a.Store.RecentRuns(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.Leaving.RevokeAll(ctx); err != nil {
		t.Fatal(err)
	}
	if again, err := a.Store.RecentRuns(ctx, c.ID); err != nil || len(again) != len(runs) {
		t.Errorf("closed off again: %d runs after %d, %v", len(again), len(runs), err)
	}
	// Where other hands took it away there is nothing to do, and nothing changes.
	for _, e := range entries {
		if e.Key.What.Purpose == packing.Shelf {
			if err := a.Cup.SetRule(ctx, "oduya", "by hand", e.Thing,
				cupboard.RuleChange{Levels: map[string]access.Level{"s2": access.Nothing}}); err != nil {
				t.Fatal(err)
			}
			if _, err := a.Store.DB.Exec(`update rows set left_at = now() where class_id = $1 and account = 's2'`, c.ID); err != nil {
				t.Fatal(err)
			}
		}
	}
	apptest.Look(t, a)
	if err := a.Cases.Leaving.RevokeAll(ctx); err != nil { // the table is closed still
		t.Fatal(err)
	}
	settle()
	was := apptest.Load(t, a, c.ID).Revision
	for range 2 {
		if err := a.Cases.Leaving.RevokeAll(ctx); err != nil {
			t.Fatal(err)
		}
	}
	if now := apptest.Load(t, a, c.ID).Revision; now != was || reaches("s2", packing.Table) != 0 {
		t.Errorf("closing off what is closed raised the revision from %d to %d", was, now)
	}
	// Who returns has them again once that is packed.
	if _, err := a.Cases.Rosters.SetLeft(ctx, "oduya", c.ID, []string{row}, false); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Packing.TopUp(ctx, "oduya", c.ID, pack.Part{}); err != nil {
		t.Fatal(err)
	}
	settle()
	if n := reaches("s0", packing.Shelf); n != 1 {
		t.Error("one who returned has no shelf")
	}
}
