package usecase_test

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
	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/draft"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/lists"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/store"
	"jollysatchel/internal/store/kept"
	"jollysatchel/internal/usecase/enrol"
	"jollysatchel/internal/usecase/pack"
	"jollysatchel/internal/usecase/seam"
)

// writers is how many work at the same moment.
const writers = 8

// together does things at the same moment and returns what each answered.
func together(n int, do func(i int) error) []error {
	errs := make([]error, n)
	var wg sync.WaitGroup
	begin := make(chan struct{})
	for i := range n {
		wg.Go(func() {
			<-begin
			errs[i] = do(i)
		})
	}
	close(begin)
	wg.Wait()
	return errs
}

// oneKept checks that of several who changed one thing from the same value one
// had their way, and every other was told both values.
func oneKept(t *testing.T, what, now string, yours []string, errs []error) {
	t.Helper()
	kept := 0
	for i, err := range errs {
		var changed *change.Changed
		switch {
		case err == nil:
			kept++
			if now != yours[i] {
				t.Errorf("%s: %q was answered as kept and there is %q", what, yours[i], now)
			}
		case errors.As(err, &changed):
			if changed.Yours != yours[i] || !slices.Contains(yours, changed.Theirs) {
				t.Errorf("%s: told %+v", what, changed)
			}
		default:
			t.Errorf("%s: %v", what, err)
		}
	}
	if kept != 1 {
		t.Errorf("%s: %d of %d were kept", what, kept, len(errs))
	}
}

func none(t *testing.T, what string, errs []error) {
	t.Helper()
	for _, err := range errs {
		if err != nil {
			t.Errorf("%s: %v", what, err)
		}
	}
}

// Anyone who changes different things at the same moment has them all kept; of
// several who change one thing, one has it and the others are told.
func TestEightWriters(t *testing.T) {
	a, c := school(t, writers)
	apptest.Pack(t, a, c, nil)
	rooms := a.Cases
	said := func(what string) []string {
		out := make([]string, writers)
		for i := range out {
			out[i] = fmt.Sprint(what, i)
		}
		return out
	}

	d := paste(t, a, c.ID, apptest.List(writers))
	draft := func(row, field int, value string, was *string) error {
		_, err := rooms.Lists.ChangeDraft(ctx, "oduya", c.ID, d.ID,
			[]draft.Change{{Cell: &draft.CellChange{Row: row, Field: field, Value: value}, Was: was}})
		return err
	}
	values := said("Corrected")
	none(t, "cells of a draft", together(writers*5, func(i int) error { return draft(2+i%writers, 1+i/writers%4, fmt.Sprint("v", i), nil) }))
	now, err := rooms.Lists.Draft(ctx, "oduya", c.ID)
	if err != nil || now.Revision != d.Revision+writers*5 {
		t.Errorf("revision %d, %v", now.Revision, err)
	}
	for i := range writers * 4 {
		if got := now.Rows[1+i%writers].Cells[1+i/writers%4]; got != fmt.Sprint("v", i) && got != fmt.Sprint("v", i+writers*4) {
			t.Errorf("cell %d is %q", i, got)
		}
	}
	errs := together(writers, func(i int) error { return draft(3, 5, values[i], ptr("")) })
	if now, err = rooms.Lists.Draft(ctx, "oduya", c.ID); err != nil {
		t.Fatal(err)
	}
	oneKept(t, "one cell of a draft", now.Rows[2].Cells[5], values, errs)

	row := func(i int) string { return c.Students[i].ID }
	edit := func(row string, f record.Field, value string, was *string) error {
		_, err := rooms.Rosters.EditRoster(ctx, "oduya", c.ID, []classes.Edit{{Row: row, Field: f, Value: value, Was: was}})
		return err
	}
	none(t, "cells of a roster", together(writers*4, func(i int) error {
		return edit(row(i%writers), []record.Field{record.Level, record.Team, record.Preferred,
			record.Extra("Boat")}[i/writers], fmt.Sprint("v", i), ptr(""))
	}))
	for i, s := range apptest.Load(t, a, c.ID).Students {
		if got := fmt.Sprint(s.Level, s.Team, s.Preferred, s.Extra["Boat"]); got != fmt.Sprint("v", i, "v", i+8, "v", i+16, "v", i+24) {
			t.Errorf("student %d: %s", i, got)
		}
	}
	errs = together(writers, func(i int) error { return edit(row(0), record.Extra("Bus"), values[i], ptr("")) })
	st, _ := apptest.Load(t, a, c.ID).Student(row(0))
	oneKept(t, "one cell of a roster", st.Extra["Bus"], values, errs)

	none(t, "pockets", together(writers, func(i int) error {
		return rooms.Rooms.ChangeRoom(ctx, "oduya", c.ID, addPockets(values[i]))
	}))
	if p := apptest.Load(t, a, c.ID).Plan.Pockets; len(p) != writers {
		t.Errorf("pockets %+v", p)
	}
	usual := apptest.Load(t, a, c.ID).Plan.Satchel
	errs = together(writers, func(i int) error {
		return rooms.Rooms.ChangeRoom(ctx, "oduya", c.ID, nameSatchels(naming.Pattern{{Column: record.Family}, {Text: values[i]}}, &usual))
	})
	written := make([]string, writers)
	for i, v := range values {
		written[i] = "[Family name]" + v
	}
	oneKept(t, "what satchels are called", apptest.Load(t, a, c.ID).Plan.Satchel.String(), written, errs)

	h := apptest.Handout(t, a, c, "# Log\n")
	change := func(ch, was handout.Change) error {
		_, err := rooms.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, ch, was)
		return err
	}
	parts := []handout.Change{{Title: ptr("Low water")}, {Level: ptr("comment")}, {Due: ptr("2026-12-01T17:00")},
		{Message: ptr("Boots.")}, {Out: map[string]string{row(1): "sits-out"}},
		{Out: map[string]string{row(2): "unticked"}}, {Out: map[string]string{row(3): "sits-out"}},
		{Name: &naming.Pattern{{Column: record.Title}}}}
	none(t, "parts of a handout", together(len(parts), func(i int) error { return change(parts[i], handout.Change{}) }))
	h, err = a.Store.Handout(ctx, c.ID, h.ID)
	if err != nil {
		t.Fatal(err)
	}
	if s := h.Settings; h.Title != "Low water" || s.Level != "comment" || h.Due.IsZero() || s.Message != "Boots." ||
		len(apptest.Load(t, a, c.ID).Out(h)) != 3 || s.Name.String() != "[Title]" {
		t.Errorf("handout %+v", h)
	}
	errs = together(writers, func(i int) error {
		return change(handout.Change{Title: &values[i]}, handout.Change{Title: ptr("Low water")})
	})
	if h, err = a.Store.Handout(ctx, c.ID, h.ID); err != nil {
		t.Fatal(err)
	}
	oneKept(t, "one title", h.Title, values, errs)
}

// A list that was replaced, corrected or changed its meaning since it was looked
// at isn't accepted; one that was accepted isn't accepted again; what is pasted
// meanwhile isn't lost.
func TestAcceptingMeanwhile(t *testing.T) {
	a, c := school(t, 3)
	apptest.People(t, a, 12)
	rooms := a.Cases
	accept := func(class string, l draft.Looked) error {
		_, err := rooms.Lists.Accept(ctx, "oduya", class, l)
		return err
	}
	wantChanged := func(what string, err error) {
		t.Helper()
		var changed *change.Changed
		if !errors.As(err, &changed) {
			t.Errorf("%s: %v", what, err)
		}
	}
	list := "No,Surname,First,Email,Level\n70000,Family0,Given0,s0@kestrelquay.example,A\n70001,Family1,Given1,s1@kestrelquay.example,A\n70002,Family2,Given2,s2@kestrelquay.example,A\n"

	old := paste(t, a, c.ID, list)
	d := paste(t, a, c.ID, list)
	wantChanged("a list that was replaced", accept(c.ID, old.LookedAt()))
	if _, err := rooms.Lists.ChangeDraft(ctx, "oduya", c.ID, old.ID, nil); err == nil {
		t.Error("a list that was replaced is corrected")
	}
	if _, err := rooms.Lists.ChangeDraft(ctx, "lindqvist", c.ID, d.ID,
		[]draft.Change{{LeftOut: &draft.RowChange{Row: 3, Out: true}}}); err != nil {
		t.Fatal(err)
	}
	wantChanged("a list that was corrected", accept(c.ID, d.LookedAt()))
	wantChanged("dropping it", rooms.Lists.DropDraft(ctx, "oduya", c.ID, d.LookedAt()))
	d, _ = rooms.Lists.Draft(ctx, "oduya", c.ID)
	if _, err := rooms.Rosters.EditRoster(ctx, "lindqvist", c.ID,
		[]classes.Edit{{Row: c.Students[0].ID, Field: record.Level, Value: "C"}}); err != nil {
		t.Fatal(err)
	}
	wantChanged("a roster edited since", accept(c.ID, d.LookedAt()))
	if s, _ := apptest.Load(t, a, c.ID).Student(c.Students[0].ID); s.Level != "C" {
		t.Errorf("the co-teacher's level became %q", s.Level)
	}
	d, _ = rooms.Lists.Draft(ctx, "oduya", c.ID)
	if err := accept(c.ID, d.LookedAt()); err != nil {
		t.Errorf("looked at again: %v", err)
	}

	for round := range 10 {
		cl, err := rooms.Classes.CreateClass(ctx, "oduya", "", fmt.Sprint("Round ", round), "", false)
		if err != nil {
			t.Fatal(err)
		}
		d := paste(t, a, cl.ID, "Surname,First,Email,Class\nFamily4,Given4,s4@kestrelquay.example,New"+fmt.Sprint(
			round)+"\nFamily5,Given5,s5@kestrelquay.example,Other"+fmt.Sprint(round)+"\n")
		for _, p := range d.Plan.Parts {
			if d, err = rooms.Lists.ChangeDraft(ctx, "oduya", cl.ID, d.ID,
				[]draft.Change{{Target: &draft.TargetChange{Group: p.Key, Class: lists.NewClass}}}); err != nil {
				t.Fatal(err)
			}
		}
		before, _ := a.Store.Classes(ctx, "oduya")
		kept := 0
		for _, err := range together(4, func(int) error { return accept(cl.ID, d.LookedAt()) }) {
			if err == nil {
				kept++
			}
		}
		after, _ := a.Store.Classes(ctx, "oduya")
		if kept != 1 || len(after) != len(before)+2 {
			t.Errorf("round %d: accepted %d times, %d classes made", round, kept, len(after)-len(before))
		}

		// A list pasted while another is accepted is there afterwards, whole.
		d = paste(t, a, cl.ID, "Surname,First,Email\nFamily6,Given6,s6@kestrelquay.example\n")
		errs := together(2, func(i int) error {
			if i == 0 {
				return accept(cl.ID, d.LookedAt())
			}
			_, err := rooms.Lists.BringDraft(ctx, "lindqvist", cl.ID, "",
				strings.NewReader("Surname,First,Email\nFamily7,Given7,s7@kestrelquay.example\n"))
			return err
		})
		if errs[1] != nil {
			t.Errorf("round %d: pasting: %v", round, errs[1])
		}
		now, err := rooms.Lists.Draft(ctx, "oduya", cl.ID)
		if err != nil || len(now.Read.Students) != 1 || now.Read.Students[0].Family != "Family7" {
			t.Errorf("round %d: the list that was pasted is lost: %v", round, err)
		}
		if n := len(apptest.Load(t, a, cl.ID).Students); (errs[0] == nil) != (n == 1) {
			t.Errorf("round %d: accepted %v, and %d students", round, errs[0], n)
		}
	}

	// With one key, all are answered alike and it is done once.
	d = paste(t, a, c.ID, "Surname,First,Email\nFamily8,Given8,s8@kestrelquay.example\n")
	answers := make([]enrol.Accepted, 6)
	asked := seam.Asked(ctx, "a key of an accept", d.ID)
	none(t, "with one key", together(len(answers), func(i int) (err error) {
		answers[i], err = rooms.Lists.Accept(asked, "oduya", c.ID, d.LookedAt())
		return err
	}))
	for _, got := range answers {
		if got.Batch == "" || got.Batch != answers[0].Batch || got.Students != 1 {
			t.Errorf("answered %+v and %+v", answers[0], got)
		}
	}
	if _, err := rooms.Rosters.AddStudents(seam.Asked(ctx, "a key of an accept", "x"), "oduya", c.ID,
		[]record.Record{{Family: "Else"}}); !errors.Is(err, store.ErrKey) {
		t.Errorf("the key for something else: %v", err)
	}
}

// Packing beside a change of its handout: the change stands, and what is packed
// is what was looked at, or nothing.
func TestPackingMeanwhile(t *testing.T) {
	a, c := school(t, 2)
	apptest.Pack(t, a, c, nil)
	for round := range 12 {
		h := apptest.Handout(t, a, c, "# Log\n")
		l, err := a.Cases.Packing.HandoutList(ctx, c.ID, h)
		if err != nil {
			t.Fatal(err)
		}
		title := fmt.Sprint("Title ", round)
		var run ledger.Run
		errs := together(2, func(i int) (err error) {
			if i == 0 {
				run, err = a.Cases.Packing.Pack(ctx, "oduya", c.ID, h.ID, pack.Part{Seen: l.Digest()})
				return err
			}
			_, err = a.Cases.Handouts.ChangeHandout(ctx, "lindqvist", c.ID, h.ID, handout.Change{Title: &title}, handout.Change{})
			return err
		})
		now, err := a.Store.Handout(ctx, c.ID, h.ID)
		if err != nil || errs[1] != nil || now.Title != title {
			t.Errorf("round %d: the title is %q, %v %v", round, now.Title, errs[1], err)
		}
		var changed *change.Changed
		switch {
		case errs[0] == nil:
			if !now.Packed() || now.Settings.Date == "" {
				t.Errorf("round %d: packed, and the handout doesn't say so: %+v", round, now)
			}
			if r := apptest.Wait(t, a, run.ID); r.Stuck != 0 {
				t.Errorf("round %d: %+v", round, r)
			}
		case !errors.As(errs[0], &changed) || now.Packed():
			t.Errorf("round %d: %v, packed %v", round, errs[0], now.Packed())
		}
	}
}

// Packing beside a run that makes one thing after the other: each asking comes
// through, everything is made once, and nothing is left.
func TestPackingBesideARun(t *testing.T) {
	a, c := school(t, 25)
	hs := make([]handout.Handout, 4)
	for i := range hs {
		hs[i] = apptest.Handout(t, a, c, "# Log\n")
	}
	runs := make([]ledger.Run, len(hs))
	errs := together(len(hs), func(i int) (err error) {
		if runs[i], err = a.Cases.Packing.Pack(ctx, "oduya", c.ID, hs[i].ID, pack.Part{}); err == nil {
			a.Packer.Drive(ctx, runs[i].ID)
		}
		return err
	})
	none(t, "packing beside a run", errs)
	for _, r := range runs {
		if r = apptest.Wait(t, a, r.ID); r.Stuck != 0 {
			t.Errorf("%+v", r)
			steps, err := a.Store.Steps(ctx, r.ID)
			for _, st := range steps {
				if st.State == packing.Stuck {
					t.Errorf("%s: %+v, %v", st.StepKey, st.Reason, err)
				}
			}
		}
	}
	entries, err := a.Store.Ledger(ctx, c.ID)
	if want := 5 + 25 + 1 + len(hs)*(1+25); err != nil || len(entries) != want {
		t.Errorf("%d things are in the ledger, want %d, %v", len(entries), want, err)
	}
	for _, h := range hs {
		if l, err := a.Cases.Packing.HandoutList(ctx, c.ID, h); err != nil || l.Counts()[packing.ToPack]+l.Counts()[packing.ToChange] != 0 {
			t.Errorf("%v are left, %v", l.Counts(), err)
		}
	}
}

// A list that does something else by now than the one that was looked at isn't
// packed; one that does the same is, whatever else has changed.
func TestPackingWhatWasLookedAt(t *testing.T) {
	a, c := school(t, 3)
	h := apptest.Handout(t, a, c, "# Log\n")
	for _, handout := range []string{"", h.ID} {
		list := func() string {
			t.Helper()
			l, err := a.Cases.Packing.RoomList(ctx, c.ID)
			if handout != "" {
				now, _ := a.Store.Handout(ctx, c.ID, h.ID)
				l, err = a.Cases.Packing.HandoutList(ctx, c.ID, now)
			}
			if err != nil {
				t.Fatal(err)
			}
			return l.Digest()
		}
		seen := list()
		edit := func(f record.Field, v string) {
			t.Helper()
			if _, err := a.Cases.Rosters.EditRoster(ctx, "lindqvist", c.ID,
				[]classes.Edit{{Row: c.Students[0].ID, Field: f, Value: v}}); err != nil {
				t.Fatal(err)
			}
		}
		edit(record.Family, "Khumalo"+handout[:min(3, len(handout))])
		var changed *change.Changed
		if _, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, handout, pack.Part{Seen: seen}); !errors.As(err, &changed) {
			t.Errorf("%q: a name changed, and the list that was looked at is packed: %v", handout, err)
		}
		seen = list()
		edit(record.Level, "A"+handout)
		run, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, handout, pack.Part{Seen: seen})
		if err != nil {
			t.Fatalf("%q: looked at, and a level changed since: %v", handout, err)
		}
		apptest.Wait(t, a, run.ID)
	}
}

// A run that was paused or waits is computed again: who was taken off, has
// another address or another name since gets nothing, or gets it as it is now.
func TestPausedCorrectedCarriedOn(t *testing.T) {
	a, c := school(t, 5)
	apptest.Account(t, a, "new1", "Given1", "Family1")
	run, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, "", pack.Part{})
	if err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.Packing.Pause(ctx, "oduya", c.ID, run.ID); err != nil {
		t.Fatal(err)
	}
	row := func(i int) string { return c.Students[i].ID }
	if _, err := a.Cases.Rosters.SetLeft(ctx, "lindqvist", c.ID, []string{row(0)}, true); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Rosters.EditRoster(ctx, "lindqvist", c.ID, []classes.Edit{
		{Row: row(1), Field: record.Address, Value: "new1@kestrelquay.example"},
		{Row: row(2), Field: record.Family, Value: "Khumalo"}, {Row: row(3), Field: record.Address, Value: "nobody@kestrelquay.example"},
	}); err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.Packing.Resume(ctx, "oduya", c.ID, run.ID); err != nil {
		t.Fatal(err)
	}
	r := apptest.Wait(t, a, run.ID)
	if r.Passed != 1 || r.Stuck != 0 || r.Packed != r.Total-1 {
		t.Errorf("%+v", r)
	}
	reached := map[string][]string{}
	entries, err := a.Store.Ledger(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range entries {
		people, err := a.Cup.People(ctx, "oduya", e.Thing)
		if err != nil {
			t.Fatal(err)
		}
		for who := range people {
			reached[who] = append(reached[who], e.Name)
		}
	}
	for _, gone := range []string{"s0", "s1", "s3"} {
		if len(reached[gone]) > 0 {
			t.Errorf("%s got %v", gone, reached[gone])
		}
	}
	for who, satchel := range map[string]string{"new1": "Family1, Given1", "s2": "Khumalo, Given2", "s4": "Family4, Given4"} {
		if !slices.Contains(reached[who], satchel) || len(reached[who]) != 3 {
			t.Errorf("%s reaches %v", who, reached[who])
		}
	}
}

// Taking a list back beside packing it, while the clock goes back: either it is
// taken back or it is packed; every run ends, and nobody who isn't in the class
// reaches anything.
func TestUndoBesidePack(t *testing.T) {
	now := &clock.Manual{}
	at := time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC)
	now.Set(at)
	a, err := app.Open(context.Background(), app.Settings{Database: pgtest.New(t), School: apptest.School, Now: now.Now})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(a.Close)
	apptest.People(t, a, 6)
	for round := range 8 {
		c, err := a.Cases.Classes.CreateClass(ctx, "oduya", "", fmt.Sprint("Round ", round), "", false)
		if err != nil {
			t.Fatal(err)
		}
		d := paste(t, a, c.ID, apptest.List(4))
		accepted, err := a.Cases.Lists.Accept(ctx, "oduya", c.ID, d.LookedAt())
		if err != nil {
			t.Fatal(err)
		}
		now.Set(at.Add(-time.Duration(round) * time.Hour))
		var run ledger.Run
		errs := together(2, func(i int) (err error) {
			if i == 0 {
				return a.Cases.Rosters.Undo(ctx, "oduya", c.ID, accepted.Batch)
			}
			run, err = a.Cases.Packing.Pack(ctx, "lindqvist", c.ID, "", pack.Part{})
			return err
		})
		if errs[1] == nil {
			apptest.Wait(t, a, run.ID)
		}
		in := map[string]bool{}
		for _, s := range apptest.Load(t, a, c.ID).Students {
			in[s.Account] = true
		}
		if errs[0] == nil && len(in) > 0 || errs[0] != nil && len(in) != 4 {
			t.Errorf("round %d: taken back %v, and %d students", round, errs[0], len(in))
		}
		entries, err := a.Store.Ledger(ctx, c.ID)
		if err != nil {
			t.Fatal(err)
		}
		for _, e := range entries {
			people, err := a.Cup.People(ctx, "oduya", e.Thing)
			if err != nil {
				t.Fatal(err)
			}
			for who := range people {
				if who != "oduya" && !in[who] {
					t.Errorf("round %d: %s reaches %s and isn't in the class", round, who, e.Name)
				}
			}
		}
	}
	if open, err := a.Store.OpenRuns(ctx); err != nil || len(open) > 0 {
		t.Errorf("runs that never end: %v, %v", open, err)
	}
}

// Two classes of the same 40 students edited, and brought lists for both from
// either side, at the same moment: nobody meets a deadlock, and all that was
// answered as kept stands.
func TestTwoClassesAtOnce(t *testing.T) {
	a, one := school(t, 40)
	two, err := a.Cases.Classes.CreateClass(ctx, "oduya", "8A", "Boat Workshop 8A", "", false)
	if err != nil {
		t.Fatal(err)
	}
	paste(t, a, two.ID, apptest.List(40))
	if _, err := take(a, two.ID); err != nil {
		t.Fatal(err)
	}
	other := apptest.Load(t, a, two.ID)
	both := func(level string) string {
		var b strings.Builder
		b.WriteString("No,Surname,First,Email,Class,Level\n")
		for i := range 40 {
			for _, class := range []string{"Tide Watch 7B", "Boat Workshop 8A"} {
				fmt.Fprintf(&b, "%d,Family%d,Given%d,s%d@kestrelquay.example,%s,%s\n", 70000+i, i, i, i, class, level)
			}
		}
		return b.String()
	}
	kept := make([]bool, 24)
	errs := together(len(kept), func(i int) error {
		cl, st := one, one.Students[i]
		if i%2 == 1 {
			cl, st = other, other.Students[i]
		}
		switch {
		case i >= 20: // lists of both classes, brought to either
			d, err := a.Cases.Lists.BringDraft(ctx, "oduya", cl.ID, "", strings.NewReader(both(fmt.Sprint("L", i))))
			if err != nil {
				return err
			}
			_, err = a.Cases.Lists.Accept(ctx, "oduya", cl.ID, d.LookedAt())
			kept[i] = err == nil
			var changed *change.Changed
			if errors.As(err, &changed) || errors.Is(err, seam.ErrNotFound) {
				return nil // another list took its place, or the rosters changed since
			}
			return err
		default:
			_, err := a.Cases.Rosters.EditRoster(ctx, "oduya", cl.ID,
				[]classes.Edit{{Row: st.ID, Field: record.Extra("Boat"), Value: fmt.Sprint("B", i)}})
			return err
		}
	})
	none(t, "two classes at once", errs)
	for i := range 20 {
		cl, st := one, one.Students[i]
		if i%2 == 1 {
			cl, st = other, other.Students[i]
		}
		if s, _ := apptest.Load(t, a, cl.ID).Student(st.ID); s.Extra["Boat"] != fmt.Sprint("B", i) {
			t.Errorf("edit %d was answered as kept and is %q", i, s.Extra["Boat"])
		}
	}
}

// Eight people do everything to one class at random, all at once: the only
// refusals are those that say that something changed or can't be, and everything
// that was answered as kept is there or was changed by a later answer.
func TestEverythingAtOnce(t *testing.T) {
	a, c := school(t, 6)
	apptest.People(t, a, 20)
	h := apptest.Handout(t, a, c, "# Log\n")
	var mu sync.Mutex
	said := map[string][]string{} // field → values answered as kept
	say := func(f, v string) {
		mu.Lock()
		defer mu.Unlock()
		said[f] = append(said[f], v)
	}
	errs := together(writers, func(w int) error {
		r := rand.New(rand.NewPCG(uint64(w), 7))
		for n := range 8 {
			v := fmt.Sprintf("w%dn%d", w, n)
			var err error
			switch r.IntN(8) {
			case 0:
				if _, err = a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID,
					[]classes.Edit{{Row: c.Students[r.IntN(6)].ID, Field: record.Extra(v), Value: v}}); err == nil {
					say("extra", v)
				}
			case 1:
				if err = a.Cases.Rooms.ChangeRoom(ctx, "oduya", c.ID, addPockets(v)); err == nil {
					say("pocket", v)
				}
			case 2:
				if _, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Message: &v}, handout.Change{}); err == nil {
					say("message", v)
				}
			case 3:
				_, err = a.Cases.Lists.BringDraft(ctx, "oduya", c.ID, "", strings.NewReader(apptest.List(6+r.IntN(6))))
			case 4:
				_, err = take(a, c.ID)
			case 5:
				var run ledger.Run
				if run, err = a.Cases.Packing.Pack(ctx, "oduya", c.ID, "", pack.Part{}); err == nil {
					a.Packer.Drive(ctx, run.ID)
				}
			case 6:
				var history []kept.HistoryEntry
				if history, err = a.Store.History(ctx, c.ID, 1); err == nil && history[0].Kind != "edit" {
					err = a.Cases.Rosters.Undo(ctx, "oduya", c.ID, history[0].Batch)
				}
			case 7:
				_, err = a.Cases.Rosters.AddStudents(ctx, "oduya", c.ID, []record.Record{{Family: v}})
			}
			var invalid *change.Invalid
			var changed *change.Changed
			if err != nil && !errors.As(err, &invalid) && !errors.As(err, &changed) && !errors.Is(err, seam.ErrNotFound) {
				return err
			}
		}
		return nil
	})
	none(t, "everything at once", errs)
	open, err := a.Store.OpenRuns(ctx)
	if err != nil {
		t.Fatal(err)
	}
	for _, id := range open {
		apptest.Wait(t, a, id)
	}
	now := apptest.Load(t, a, c.ID)
	columns := now.Vocabulary()
	for _, v := range said["extra"] {
		if !columns.Has(record.Extra(v)) {
			t.Errorf("the column %s is lost", v)
		}
	}
	if len(now.Plan.Pockets) != len(said["pocket"]) {
		t.Errorf("%d pockets of %d", len(now.Plan.Pockets), len(said["pocket"]))
	}
	if h, err = a.Store.Handout(ctx, c.ID, h.ID); err != nil || len(said["message"]) > 0 &&
		!slices.Contains(said["message"], h.Settings.Message) {
		t.Errorf("message %q of %v, %v", h.Settings.Message, said["message"], err)
	}
	accounts := map[string]int{}
	for _, s := range append(now.Students, now.Left...) {
		if s.Account != "" {
			accounts[s.Account]++
		}
	}
	for who, n := range accounts {
		if n > 1 {
			t.Errorf("%s stands in %d rows", who, n)
		}
	}
	var part pack.Part
	l, err := a.Cases.Packing.RoomList(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, line := range l.Lines {
		if line.Section == packing.ToChange {
			part.Changes = append(part.Changes, line.Step.String())
		}
	}
	if run, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, "", part); err == nil {
		apptest.Wait(t, a, run.ID)
	}
	if l, err = a.Cases.Packing.RoomList(ctx, c.ID); err != nil || l.Counts()[packing.ToPack]+l.Counts()[packing.ToChange] != 0 {
		t.Errorf("after a full run %v is left, %v", l.Counts(), err)
	}
}
