package packer_test

import (
	"errors"
	"io"
	"slices"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/pack"
)

// document changes what the first document of a handout says.
func document(t *testing.T, a *app.App, h handout.Handout, text string, base int) {
	t.Helper()
	tpl, err := a.Store.Template(ctx, h.Settings.Documents[0].Template)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Things.Write(ctx, "oduya", store.NewID(), tpl.Thing, base, strings.NewReader(text)); err != nil {
		t.Fatal(err)
	}
}

// given is what the newest state of a copy says.
func given(t *testing.T, a *app.App, c picture.Class, h handout.Handout, whom packing.Whom) string {
	t.Helper()
	e, err := a.Store.EntryByKey(ctx, handout.CopyKey(c.ID, h.ID, 1, whom))
	if err != nil {
		t.Fatal(err)
	}
	_, f, _, err := a.Cases.Things.Open(ctx, "oduya", e.Thing, 0)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	b, err := io.ReadAll(f)
	if err != nil {
		t.Fatal(err)
	}
	return string(b)
}

// Columns stand filled in inside each copy, also when a changed document is given again;
// a copy isn't begun by that, and isn't asked to be given again.
func TestFilledIn(t *testing.T) {
	a, c := wayClass(t)
	h := hand(t, a, c, handout.Change{}, "Log")
	document(t, a, h, "# [Title] of [Given name] [Family name[1]].\n\n[Level] [Nothing]\n", 1)
	apptest.Pack(t, a, c, &h)
	if got := given(t, a, c, h, packing.Whom{Row: rowOf(c, 1)}); got != "# Charts of Given1 F.\n\nB [Nothing]\n" {
		t.Fatalf("%q", got)
	}
	if got := given(t, a, c, h, packing.Whom{Row: rowOf(c, 3)}); got != "# Charts of Given3 F.\n\n [Nothing]\n" {
		t.Errorf("without a level: %q", got)
	}
	apptest.Look(t, a)
	if stale, err := a.Cases.Packing.PreviewReissue(ctx, c.ID, h.ID); err != nil || len(stale) != 0 {
		t.Errorf("%d copies to give again at once, %v", len(stale), err)
	}
	document(t, a, h, "New for [Given name]", 2)
	apptest.Look(t, a)
	stale, err := a.Cases.Packing.PreviewReissue(ctx, c.ID, h.ID)
	if err != nil || len(stale) != 5 || stale[0].Begun {
		t.Fatalf("%d copies to give again, %v", len(stale), err)
	}
	run, err := a.Cases.Packing.Reissue(ctx, "oduya", c.ID, h.ID, pack.LeaveBegun, stale.Digest())
	if err != nil {
		t.Fatal(err)
	}
	a.Packer.Drive(ctx, run.ID)
	if got := given(t, a, c, h, packing.Whom{Row: rowOf(c, 1)}); got != "New for Given1" {
		t.Errorf("%q", got)
	}
	apptest.Look(t, a)
	if stale, err := a.Cases.Packing.PreviewReissue(ctx, c.ID, h.ID); err != nil || len(stale) != 0 {
		t.Errorf("%d copies to give again after that, %v", len(stale), err)
	}
	// That was the teacher: of the students nobody changed anything.
	reg, err := a.Cases.Registers.Register(ctx, c.ID)
	if err != nil || slices.ContainsFunc(reg.Changed, func(at time.Time) bool { return !at.IsZero() }) {
		t.Errorf("last changes: %v, %v", reg.Changed, err)
	}
	var used [2]int
	for i, text := range []string{"# Plain", "# [Title]"} {
		more := hand(t, a, c, handout.Change{}, "More")
		document(t, a, more, text, 1)
		before := a.Cup.Requests()
		apptest.Pack(t, a, c, &more)
		used[i] = int(a.Cup.Requests() - before)
	}
	if used[0] != used[1] {
		t.Errorf("%d requests where columns are filled in, %d where none are", used[1], used[0])
	}
}

// A team's copy has the team's name and no student's, and a document that is to stay as
// it is does.
func TestFilledForSeveral(t *testing.T) {
	a, c := wayClass(t)
	crew := record.Extra("Crew")
	if !c.Vocabulary().Has(crew) {
		crew = record.Team
	}
	h := hand(t, a, c, handout.Change{Way: way(handout.TeamName), Teams: &crew}, "Map")
	document(t, a, h, "["+crew.Label()+"]: [Family name], [Title]", 1)
	apptest.Pack(t, a, c, &h)
	ledger, err := a.Store.Ledger(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range ledger {
		if e.Key.What.Purpose != packing.Copy || e.Key.Whom.Team == "" {
			continue
		}
		got := given(t, a, c, h, e.Key.Whom)
		if got != "Gull: [Family name], Charts" && got != "Tern: [Family name], Charts" {
			t.Errorf("%q", got)
		}
	}
	plain := hand(t, a, c, handout.Change{Way: way(handout.ForAllName)}, "Plan")
	document(t, a, plain, "[Class], [Title]", 1)
	plain.Settings.Documents[0].Plain = true
	ch := handout.Change{Documents: &plain.Settings.Documents}
	if plain, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, plain.ID, ch, handout.Change{}); err != nil {
		t.Fatal(err)
	}
	apptest.Pack(t, a, c, &plain)
	if got := given(t, a, c, plain, packing.Whom{}); got != "[Class], [Title]" {
		t.Errorf("%q", got)
	}
}

// A new state can come beside what somebody has begun: a second document for them alone,
// with what they wrote as it was, and the page still says what it says of the others.
func TestBeside(t *testing.T) {
	a, c := wayClass(t)
	h := hand(t, a, c, handout.Change{}, "Log")
	apptest.Pack(t, a, c, &h)
	key := handout.CopyKey(c.ID, h.ID, 1, packing.Whom{Row: rowOf(c, 0)})
	e, err := a.Store.EntryByKey(ctx, key)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Things.Write(ctx, "s0", store.NewID(), e.Thing, 1, strings.NewReader("mine")); err != nil {
		t.Fatal(err)
	}
	document(t, a, h, "# Log, mended\n", 1)
	apptest.Look(t, a)
	stale, err := a.Cases.Packing.PreviewReissue(ctx, c.ID, h.ID)
	if err != nil || len(stale) != 5 {
		t.Fatalf("%d copies, %v", len(stale), err)
	}
	if _, err := a.Cases.Packing.Reissue(ctx, "oduya", c.ID, h.ID, pack.BesideBegun, stale.Digest()); err != nil {
		t.Fatal(err)
	}
	settleAll(t, a)
	if got := given(t, a, c, h, packing.Whom{Row: rowOf(c, 0)}); got != "mine" {
		t.Errorf("what was begun says %q", got)
	}
	if got := inSatchel(t, a, c, 0); got != "file 3 Family0 – Charts – Log (2).md, file 3 Family0 – Charts.md" {
		t.Errorf("the satchel holds %s", got)
	}
	if got := inSatchel(t, a, c, 1); got != "file 3 Family1 – Charts.md" {
		t.Errorf("another satchel holds %s", got)
	}
	if h, err = a.Store.Handout(ctx, c.ID, h.ID); err != nil {
		t.Fatal(err)
	}
	nothingLeft(t, a, c, h, 0)
	if stale, err := a.Cases.Packing.PreviewReissue(ctx, c.ID, h.ID); err != nil || len(stale) != 0 {
		t.Errorf("%d copies to give again after that, %v", len(stale), err)
	}
	// A change of the sentence keeps whom it was for.
	ch := handout.Change{Documents: &[]handout.GivenDocument{{Slot: 1, Template: h.Settings.Documents[0].Template},
		{Slot: 2, Template: h.Settings.Documents[0].Template}}}
	if h, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, ch, ch); err != nil || len(h.Settings.Documents[1].Only) != 1 {
		t.Errorf("%+v, %v", h.Settings.Documents, err)
	}
	crew := record.Extra("Crew")
	if !c.Vocabulary().Has(crew) {
		crew = record.Team
	}
	team := hand(t, a, c, handout.Change{Way: way(handout.TeamName), Teams: &crew}, "Map")
	apptest.Pack(t, a, c, &team)
	document(t, a, team, "# Map, mended\n", 1)
	apptest.Look(t, a)
	if stale, err = a.Cases.Packing.PreviewReissue(ctx, c.ID, team.ID); err != nil {
		t.Fatal(err)
	}
	var invalid *change.Invalid
	if _, err := a.Cases.Packing.Reissue(ctx, "oduya", c.ID, team.ID, pack.BesideBegun, stale.Digest()); !errors.As(err, &invalid) ||
		invalid.Code != "beside-several" {
		t.Errorf("beside what several have: %v", err)
	}
}
