package usecase_test

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/planfile"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// An earlier handout is begun again: the same in the same class, and in another class
// what fits there; what doesn't is told. Another teacher's documents stay theirs, and
// a class one doesn't teach isn't there.
func TestUseAgain(t *testing.T) {
	a := apptest.Open(t)
	apptest.People(t, a, 4)
	boat := record.Extra("Boat")
	c := apptest.Class(t, a, "No,Surname,First,Email,Boat\n1,Family0,Given0,s0@kestrelquay.example,Gull\n2,Family1,Given1,s1@kestrelquay.example,Tern\n")
	other := apptest.Class(t, a, "No,Surname,First,Email\n1,Family2,Given2,s2@kestrelquay.example\n")
	for _, class := range []string{c.ID, other.ID} {
		if err := a.Store.AddStaff(ctx, classes.Member{ClassID: class, Account: "lindqvist", Role: classes.Teacher}); err != nil {
			t.Fatal(err)
		}
	}
	plan := room.Usual()
	plan.Pockets = []room.Pocket{{ID: "f", Name: "Field work"}}
	if err := a.Cases.Rooms.ReadRoomFile(ctx, "oduya", c.ID, planfile.WriteRoom(plan), nil); err != nil {
		t.Fatal(err)
	}
	c = apptest.Load(t, a, c.ID)
	h, err := a.Cases.Handouts.NewHandout(ctx, "oduya", c.ID, "")
	if err != nil {
		t.Fatal(err)
	}
	doc := func(by, name string) string {
		t.Helper()
		tpl, err := a.Cases.Handouts.AddTemplate(ctx, by, name+".md", "text/markdown", strings.NewReader("# "+name))
		if err != nil {
			t.Fatal(err)
		}
		return tpl.ID
	}
	change := func(by string, ch handout.Change) {
		t.Helper()
		if h, err = a.Cases.Handouts.ChangeHandout(ctx, by, c.ID, h.ID, ch, handout.Change{}); err != nil {
			t.Fatal(err)
		}
	}
	way, due := handout.TeamName, "2027-01-08T17:00"
	change("oduya", handout.Change{
		Title: ptr("Charts"), Way: &way, Teams: &boat, Documents: docs(doc("oduya", "Coast")),
		Name: &naming.Pattern{{Column: boat}, {Text: " "}, {Column: record.Title}}, Due: &due, Level: ptr("comment"), Message: ptr("Boots!"),
		Pocket: &c.Plan.Pockets[0].ID, Out: map[string]string{c.Students[0].ID: handout.SitsOut},
		Choice: &choosing.Choice{Conditions: []choosing.Condition{{Column: boat, Test: choosing.OneOf, Values: []string{"Gull", "Tern"}}}},
	})
	more := append(slices.Clone(h.Settings.Documents), handout.GivenDocument{Template: doc("lindqvist", "Sea")})
	change("lindqvist", handout.Change{Documents: &more})

	again := func(by, to string, want ...string) handout.Handout {
		t.Helper()
		id, without, err := a.Cases.Handouts.UseAgain(ctx, by, c.ID, h.ID, to)
		if err != nil || !slices.Equal(without, want) {
			t.Fatalf("without %v, %v; want %v", without, err, want)
		}
		out, err := a.Store.Handout(ctx, to, id)
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	same := again("oduya", c.ID, handout.WithoutDocuments)
	if s, was := same.Settings, h.Settings; same.Title != "Charts" || s.Way != way || s.Teams != boat ||
		s.Name.String() != was.Name.String() || s.Pocket != was.Pocket || s.Level != "comment" || s.Message != "Boots!" ||
		len(s.Choice.Conditions) != 1 ||
		len(s.Documents) != 1 || s.Documents[0].Template != was.Documents[0].Template || len(s.Out) != 0 || !same.Due.IsZero() || same.Packed() {
		t.Errorf("in the same class: %+v", same)
	}
	there := again("oduya", other.ID, handout.WithoutDocuments, handout.WithoutName, handout.WithoutColumn,
		handout.WithoutPocket, handout.WithoutChoice)
	if s := there.Settings; s.Teams != record.Team || s.Name.String() != handout.UsualNameOf(way).String() ||
		s.Pocket != "" || len(s.Choice.Conditions) != 0 || s.Level != "comment" {
		t.Errorf("in another class: %+v", s)
	}
	if theirs := again("lindqvist", other.ID, handout.WithoutDocuments, handout.WithoutName, handout.WithoutColumn,
		handout.WithoutPocket, handout.WithoutChoice); len(theirs.Settings.Documents) != 1 ||
		theirs.Settings.Documents[0].Template != more[1].Template {
		t.Errorf("by the other teacher: %+v", theirs.Settings.Documents)
	}
	if _, _, err := a.Cases.Handouts.UseAgain(ctx, "stranger", c.ID, h.ID, other.ID); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("into a class of others: %v", err)
	}
	key := store.NewID()
	one, _, err := a.Cases.Handouts.UseAgain(seam.Asked(ctx, key, h.ID), "oduya", c.ID, h.ID, other.ID)
	if err != nil {
		t.Fatal(err)
	}
	two, without, err := a.Cases.Handouts.UseAgain(seam.Asked(ctx, key, h.ID), "oduya", c.ID, h.ID, other.ID)
	if err != nil || one != two || len(without) != 5 {
		t.Errorf("asked again: %s and %s, without %s, %v", one, two, fmt.Sprint(without), err)
	}
}
