package usecase_test

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/usecase/things"
)

// spreadClass is a packed class of four with a column “Goes to” (green, Green, a link, nothing) and
// what each of them put onto the table; the last of the things is the teacher's.
func spreadClass(t *testing.T) (a *app.App, c picture.Class, table string, ids []string, elsewhere cupboard.Thing) {
	t.Helper()
	a = apptest.Open(t)
	apptest.People(t, a, 5)
	elsewhere, err := a.Cases.Things.MakeFolder(ctx, "oduya", store.NewID(), "", "Elsewhere")
	if err != nil {
		t.Fatal(err)
	}
	groups := []string{"green", "Green", "https://satchel.kestrelquay.example/go/" + elsewhere.Link, ""}
	list := "No,Surname,First,Email,Goes to\n"
	for i, g := range groups {
		list += fmt.Sprintf("%d,Family%d,Given%d,s%d@kestrelquay.example,%s\n", 70000+i, i, i, i, g)
	}
	c = apptest.Class(t, a, list)
	if err := a.Store.AddStaff(ctx, classes.Member{ClassID: c.ID, Account: "lindqvist", Role: classes.Teacher}); err != nil {
		t.Fatal(err)
	}
	if err := a.Store.AddStaff(ctx, classes.Member{ClassID: c.ID, Account: "amaral", Role: classes.Assistant}); err != nil {
		t.Fatal(err)
	}
	apptest.Pack(t, a, c, nil)
	table = entry(t, a, packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Table}}).Thing
	for _, who := range []string{"s0", "s1", "s2", "s3", "oduya"} {
		f, err := a.Cases.Things.AddFile(ctx, who, store.NewID(), table, who+".md", "text/markdown", strings.NewReader("from "+who))
		if err != nil {
			t.Fatal(err)
		}
		ids = append(ids, f.ID)
	}
	return a, c, table, ids, elsewhere
}

func names(t *testing.T, a *app.App, folder string) string {
	t.Helper()
	inside, err := a.Cup.List(ctx, "oduya", folder)
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for _, x := range inside {
		out = append(out, x.Name)
	}
	slices.Sort(out)
	return strings.Join(out, " ")
}

// Each thing goes to the folder its row names: two names that differ in case are one,
// made on the spot; a link leads elsewhere; what names nothing stays, or goes with the
// rest. Ids and links stay, and who would reach it is said first.
func TestSpread(t *testing.T) {
	a, c, table, ids, elsewhere := spreadClass(t)
	ask := things.Spreading{Things: ids, By: record.Extra("Goes to"), To: table}
	s, err := a.Cases.Things.PreviewSpread(ctx, "oduya", ask)
	if err != nil || fmt.Sprint(s.To) != fmt.Sprintf("[{ green [%s %s]} {%s Elsewhere [%s]}]", ids[0], ids[1], elsewhere.ID, ids[2]) ||
		fmt.Sprint(s.Stay) != fmt.Sprintf("[{%s nothing-said} {%s of-nobody}]", ids[3], ids[4]) {
		t.Fatalf("%+v, %+v, %v", s.To, s.Stay, err)
	}
	if fmt.Sprint(s.Gain) != "[]" || fmt.Sprint(s.Lose) != "[Given0 Family0 Given1 Family1 Given3 Family3 Mats Lindqvist Rita Amaral]" {
		t.Errorf("gain %v, lose %v", s.Gain, s.Lose)
	}
	if now := names(t, a, table); now != "oduya.md s0.md s1.md s2.md s3.md" {
		t.Errorf("looking changed the table: %s", now)
	}
	before, err := a.Cup.Get(ctx, "oduya", ids[0])
	if err != nil {
		t.Fatal(err)
	}
	key := store.NewID()
	for range 2 { // the answer was lost, and it is asked again
		stay, err := a.Cases.Things.SpreadOut(seam.Asked(ctx, key, ask), "oduya", key, ask, s.Digest())
		if err != nil || len(stay) > 0 {
			t.Fatalf("%v, %v", stay, err)
		}
	}
	ask.Things = slices.Delete(slices.Clone(ids), 2, 3) // that isn't the class's any more
	if s, err = a.Cases.Things.PreviewSpread(ctx, "oduya", ask); err != nil || len(s.To) > 0 {
		t.Fatalf("left to move: %+v, %v", s.To, err)
	}
	if now := names(t, a, table); now != "green oduya.md s3.md" {
		t.Errorf("the table has %s", now)
	}
	if now := names(t, a, elsewhere.ID); now != "s2.md" {
		t.Errorf("elsewhere has %s", now)
	}
	after, err := a.Cup.Get(ctx, "oduya", ids[0])
	if err != nil || after.Link != before.Link || after.Owner != "s0" || after.Path[len(after.Path)-1].Name != "green" {
		t.Errorf("%+v, %v", after, err)
	}
	log, _, err := a.Cases.Registers.LogPage(ctx, c.ID, "", 0)
	if err != nil || log[0].Act != "things-spread" || log[0].Count != 3 || log[0].Account != "oduya" {
		t.Errorf("the log says %+v, %v", log[0], err)
	}
}

// Each to its student's satchel, the rest to one place; by a co-teacher, in the name
// of the class's owner.
func TestSpreadToSatchels(t *testing.T) {
	a, c, table, ids, _ := spreadClass(t)
	drawer := entry(t, a, packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Drawer}}).Thing
	ask := things.Spreading{Things: ids, Rest: drawer}
	s, err := a.Cases.Things.PreviewSpread(ctx, "lindqvist", ask)
	if err != nil || len(s.To) != 5 || len(s.Stay) != 0 {
		t.Fatalf("%+v, %+v, %v", s.To, s.Stay, err)
	}
	if stay, err := a.Cases.Things.SpreadOut(ctx, "lindqvist", store.NewID(), ask, s.Digest()); err != nil || len(stay) > 0 {
		t.Fatalf("%v, %v", stay, err)
	}
	for i := range 4 {
		if got := names(t, a, satchelOf(t, a, c, i).Thing); !strings.Contains(got, fmt.Sprintf("s%d.md", i)) {
			t.Errorf("satchel %d has %s", i, got)
		}
	}
	if got := names(t, a, drawer); !strings.Contains(got, "oduya.md") || names(t, a, table) != "" {
		t.Errorf("the drawer has %s, the table %s", got, names(t, a, table))
	}
	again, err := a.Cases.Things.PreviewSpread(ctx, "oduya", things.Spreading{Things: ids[:1]})
	if err != nil || len(again.To) != 0 || again.Stay[0].Code != things.InPlace {
		t.Errorf("what lies there already: %+v, %v", again.To, err)
	}
}

// Who may not, what isn't there, and what was changed meanwhile.
func TestSpreadRefused(t *testing.T) {
	a, c, table, ids, elsewhere := spreadClass(t)
	group := record.Extra("Goes to")
	look := func(as string, ask things.Spreading) error {
		_, err := a.Cases.Things.PreviewSpread(ctx, as, ask)
		return err
	}
	if err := look("amaral", things.Spreading{Things: ids[:1]}); !errors.Is(err, cupboard.ErrNoRight) {
		t.Errorf("an assistant: %v", err)
	}
	if err := look("s0", things.Spreading{Things: ids[:1]}); !errors.Is(err, cupboard.ErrNoRight) {
		t.Errorf("a student: %v", err)
	}
	if err := look("stranger", things.Spreading{Things: ids[:1]}); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("a stranger: %v", err)
	}
	wantInvalid(t, look("oduya", things.Spreading{Things: []string{elsewhere.ID}}), "things", "of-no-class")
	wantInvalid(t, look("oduya", things.Spreading{Things: ids, By: record.Extra("Shoe size"), To: table}), "by", "column-unknown")
	wantInvalid(t, look("oduya", things.Spreading{Things: ids, By: group, To: ids[0]}), "to", "base-not-folder")
	wantInvalid(t, look("lindqvist",
		things.Spreading{Things: ids, Rest: satchelOf(t, a, c, 0).Thing, By: group, To: elsewhereOf(t, a, "lindqvist")}), "to", "base-no-right")
	var many []string
	for range 201 {
		many = append(many, ids[0])
	}
	wantInvalid(t, look("oduya", things.Spreading{Things: many}), "things", "too-many")
	// A co-teacher doesn't reach the folder the link leads to: it isn't there for them.
	ask := things.Spreading{Things: ids, By: group, To: table}
	s, err := a.Cases.Things.PreviewSpread(ctx, "lindqvist", ask)
	if err != nil || !slices.Contains(s.Stay, things.Stay{Thing: ids[2], Code: things.PlaceAway}) {
		t.Errorf("%+v, %+v, %v", s.To, s.Stay, err)
	}
	if _, err := a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID,
		[]classes.Edit{{Row: c.Students[3].ID, Field: group, Value: "Blue"}}); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Things.SpreadOut(ctx, "lindqvist", store.NewID(), ask, s.Digest()); !errors.As(err, new(*change.Changed)) {
		t.Errorf("a row was changed meanwhile: %v", err)
	}
	if now := names(t, a, table); now != "oduya.md s0.md s1.md s2.md s3.md" {
		t.Errorf("what was refused changed the table: %s", now)
	}
}

// elsewhereOf is a folder of an account's own.
func elsewhereOf(t *testing.T, a *app.App, account string) string {
	t.Helper()
	f, err := a.Cases.Things.MakeFolder(ctx, account, store.NewID(), "", "Own")
	if err != nil {
		t.Fatal(err)
	}
	return f.ID
}

// Two teachers put things into folders of one name at the same moment: it is one folder.
func TestSpreadAtOnce(t *testing.T) {
	a, _, table, ids, _ := spreadClass(t)
	var wg sync.WaitGroup
	for i, who := range []string{"oduya", "lindqvist"} {
		wg.Go(func() {
			ask := things.Spreading{Things: ids[i : i+1], By: record.Extra("Goes to"), To: table}
			s, err := a.Cases.Things.PreviewSpread(ctx, who, ask)
			if err == nil {
				_, err = a.Cases.Things.SpreadOut(ctx, who, store.NewID(), ask, s.Digest())
			}
			if err != nil {
				t.Error(err)
			}
		})
	}
	wg.Wait()
	if now := names(t, a, table); now != "green oduya.md s2.md s3.md" && now != "Green oduya.md s2.md s3.md" {
		t.Errorf("the table has %s", now)
	}
}
