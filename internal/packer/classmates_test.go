package packer_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/usecase/pack"
	"jollysatchel/internal/usecase/seam"
)

func word(s string) *string { return &s }

// Classmates reach each other's copies where that was said, without the way to them; who
// joins is let in, who leaves is out, and it can be taken back.
func TestClassmates(t *testing.T) {
	a, c := wayClass(t)
	h := hand(t, a, c, handout.Change{Classmates: word("comment")}, "Log")
	apptest.Pack(t, a, c, &h)
	if got := reaches(t, a, c, "s1"); strings.Count(got, ":comment") != 4 || strings.Count(got, ":edit") != 1 {
		t.Fatalf("s1 reaches %s", got)
	}
	e, err := a.Store.EntryByKey(ctx, handout.CopyKey(c.ID, h.ID, 1, packing.Whom{Row: rowOf(c, 0)}))
	if err != nil {
		t.Fatal(err)
	}
	if th, err := a.Cup.Get(ctx, "s1", e.Thing); err != nil || len(th.Path) != 0 {
		t.Errorf("a classmate sees the way %v, %v", th.Path, err)
	}
	nothingLeft(t, a, c, h, 0)
	found, err := a.Cases.Registers.MatesCopies(ctx, "s1", h.ID)
	title, copies := found.Title, found.Copies
	var names []string
	for _, x := range copies {
		names = append(names, x.Name)
	}
	if got := strings.Join(names, ", "); err != nil || title != "Charts" ||
		got != "Given0 Family0, Given2 Family2, Given3 Family3, Given4 Family4" {
		t.Errorf("the page of %s lists %s, %v", title, got, err)
	}
	for _, who := range []string{"oduya", "stranger"} {
		if _, err := a.Cases.Registers.MatesCopies(ctx, who, h.ID); !errors.Is(err, seam.ErrNotFound) {
			t.Errorf("%s is told the copies: %v", who, err)
		}
	}

	// Who leaves is out of the others' copies at once, and keeps their own.
	if _, err := a.Cases.Rosters.SetLeft(ctx, "oduya", c.ID, []string{rowOf(c, 0)}, true); err != nil {
		t.Fatal(err)
	}
	settleAll(t, a)
	if got := reaches(t, a, c, "s0"); strings.Count(got, ":comment") != 0 || strings.Count(got, ":edit") != 1 {
		t.Errorf("who left reaches %s", got)
	}
	if lingering, err := a.Store.Lingering(ctx, ""); err != nil || len(lingering) != 0 {
		t.Errorf("%v still linger, %v", lingering, err)
	}

	// Less, and then nothing: lines to change, until packed.
	for _, level := range []string{"read", "nothing"} {
		if h, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Classmates: &level}, handout.Change{}); err != nil {
			t.Fatal(err)
		}
		l, err := a.Cases.Packing.HandoutList(ctx, c.ID, h)
		if err != nil {
			t.Fatal(err)
		}
		part := pack.Part{Seen: l.Digest()}
		for _, line := range l.Lines {
			if line.Section == packing.ToChange {
				part.Changes = append(part.Changes, line.Step.String())
			}
		}
		if len(part.Changes) != 4*3 {
			t.Errorf("%s: %d lines to change", level, len(part.Changes))
		}
		if _, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, h.ID, part); err != nil {
			t.Fatal(err)
		}
		settleAll(t, a)
		want := map[string]int{"read": 3, "nothing": 0}[level]
		if got := reaches(t, a, c, "s1"); strings.Count(got, ":read") != want || strings.Count(got, ":edit") != 1 {
			t.Errorf("%s: s1 reaches %s", level, got)
		}
	}
}

// Teams may read each other's, and more students than may be are refused.
func TestTeamsRead(t *testing.T) {
	a, c := wayClass(t)
	crew := record.Extra("Crew")
	if !c.Vocabulary().Has(crew) {
		crew = record.Team
	}
	h := hand(t, a, c, handout.Change{Way: way(handout.TeamName), Teams: &crew, Classmates: word("read")}, "Map")
	apptest.Pack(t, a, c, &h)
	if got := reaches(t, a, c, "s0"); got != "Gull – Charts.md:edit Tern – Charts.md:read" {
		t.Errorf("s0 reaches %s", got)
	}
	var invalid *change.Invalid
	if _, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Classmates: word("edit")},
		handout.Change{}); !errors.As(err, &invalid) {
		t.Errorf("classmates who may write: %v", err)
	}
	apptest.People(t, a, 70)
	var list strings.Builder
	list.WriteString("No,Surname,First,Email\n")
	for i := range 65 {
		fmt.Fprintf(&list, "%d,Many%d,Given%d,s%d@kestrelquay.example\n", 80000+i, i, i, i)
	}
	large := apptest.Class(t, a, list.String())
	draft, err := a.Cases.Handouts.NewHandout(ctx, "oduya", large.ID, "")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", large.ID, draft.ID,
		handout.Change{Classmates: word("read")}, handout.Change{}); !errors.As(err, &invalid) || invalid.Code != "too-many-classmates" {
		t.Errorf("65 classmates: %v", err)
	}
}

// Who leaves is out of every classmate's copy, also of those of who left before or is
// left out now.
func TestClassmatesLeave(t *testing.T) {
	a, c := wayClass(t)
	h := hand(t, a, c, handout.Change{Classmates: word("read")}, "Log")
	apptest.Pack(t, a, c, &h)
	if _, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID,
		handout.Change{Out: map[string]string{rowOf(c, 4): handout.SitsOut}}, handout.Change{}); err != nil {
		t.Fatal(err)
	}
	for _, i := range []int{0, 1} {
		if _, err := a.Cases.Rosters.SetLeft(ctx, "oduya", c.ID, []string{rowOf(c, i)}, true); err != nil {
			t.Fatal(err)
		}
		settleAll(t, a)
		if got := reaches(t, a, c, fmt.Sprint("s", i)); strings.Count(got, ":read") != 0 || strings.Count(got, ":edit") != 1 {
			t.Errorf("s%d, who left, reaches %s", i, got)
		}
	}
	if lingering, err := a.Store.Lingering(ctx, ""); err != nil || len(lingering) != 0 {
		t.Errorf("%v still linger, %v", lingering, err)
	}
}

// Nobody's copy waits because the cupboard doesn't know a classmate yet; once it does,
// what is lacking is lines to pack.
func TestClassmateUnknown(t *testing.T) {
	a, c := wayClass(t)
	if _, err := a.Store.DB.Exec(`delete from standin.people where account = 's4'`); err != nil {
		t.Fatal(err)
	}
	h := hand(t, a, c, handout.Change{Classmates: word("read")}, "Log")
	l, err := a.Cases.Packing.HandoutList(ctx, c.ID, h)
	if err != nil {
		t.Fatal(err)
	}
	run, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, h.ID, pack.Part{Seen: l.Digest()})
	if err != nil {
		t.Fatal(err)
	}
	a.Packer.Drive(ctx, run.ID)
	if got := reaches(t, a, c, "s1"); strings.Count(got, ":read") != 4 || strings.Count(got, ":edit") != 1 {
		t.Errorf("s1 reaches %s", got)
	}
	lines, err := a.Store.Steps(ctx, run.ID)
	if err != nil {
		t.Fatal(err)
	}
	stuck := 0
	for _, line := range lines {
		if line.State == packing.Stuck && line.Key.What.Purpose == packing.Copy {
			stuck++
		}
	}
	if stuck != 1 {
		t.Errorf("%d copies are stuck, not s4's alone", stuck)
	}
	if _, err := a.Store.DB.Exec(`insert into standin.people (account) values ('s4')`); err != nil {
		t.Fatal(err)
	}
	for _, rows := range [][]string{{rowOf(c, 4)}, nil} { // s4's own things first, then what classmates lack
		if _, err := a.Cases.Packing.TopUp(ctx, "oduya", c.ID, pack.Part{Part: packing.Part{Rows: rows}}); err != nil {
			t.Fatal(err)
		}
		settleAll(t, a)
	}
	if got := reaches(t, a, c, "s4"); strings.Count(got, ":read") != 4 || strings.Count(got, ":edit") != 1 {
		t.Errorf("s4 reaches %s", got)
	}
}
