package usecase_test

import (
	"strings"
	"sync"
	"testing"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/clock"
	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/enrol"
	"jollysatchel/internal/usecase/seam"
)

// Students ask to be let into a class while its door is open; nobody is in before a teacher
// says so, and anyone who was let in is on the list as if typed.
func TestAskToJoin(t *testing.T) {
	day := &clock.Manual{}
	day.Set(time.Date(2026, 11, 26, 7, 40, 0, 0, time.UTC))
	a, err := app.Open(ctx, app.Settings{Database: pgtest.New(t), School: apptest.School, Now: day.Now})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(a.Close)
	apptest.People(t, a, 5)
	c := apptest.Class(t, a, apptest.List(1))
	if d, err := a.Cases.Rosters.JoinDoor(ctx, c.ID); err != nil || d.Link != "" {
		t.Fatalf("it is open: %+v %v", d, err)
	}
	wantInvalid(t, a.Cases.Rosters.OpenJoinDoor(ctx, "oduya", c.ID, 15*24), "hours", "too-large-number")
	if err := a.Cases.Rosters.OpenJoinDoor(ctx, "oduya", c.ID, 2); err != nil {
		t.Fatal(err)
	}
	d, err := a.Cases.Rosters.JoinDoor(ctx, c.ID)
	if err != nil || d.Link == "" {
		t.Fatal(d, err)
	}
	stands := func(account string) string {
		t.Helper()
		_, s, err := a.Cases.Rosters.AtJoinDoor(ctx, account, d.Link)
		if err != nil {
			return err.Error()
		}
		return s
	}
	if stands("s0") != enrol.IsIn || stands("s1") != enrol.MayAsk {
		t.Errorf("s0 %s, s1 %s", stands("s0"), stands("s1"))
	}
	for _, who := range []string{"s1", "s2", "s1"} {
		if err := a.Cases.Rosters.AskToJoin(ctx, who, d.Link); err != nil {
			t.Fatal(err)
		}
	}
	if err := a.Cases.Rosters.AskToJoin(ctx, "lindqvist", d.Link); err != seam.ErrNotFound {
		t.Errorf("a teacher asks: %v", err)
	}
	if stands("s1") != enrol.HasAsked || codesOf(t, a, "oduya", c.ID) != "joiners-ask 2" || len(apptest.Load(t, a, c.ID).Students) != 1 {
		t.Errorf("%s, %s", stands("s1"), codesOf(t, a, "oduya", c.ID))
	}
	if homes, err := a.Cases.Registers.Home(ctx, "s1"); err != nil || len(homes) != 0 {
		t.Errorf("who asked sees %+v %v", homes, err)
	}
	if err := a.Cases.Rosters.TakeAskers(ctx, "oduya", c.ID, []string{"s2"}, false); err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.Rosters.TakeAskers(ctx, "oduya", c.ID, []string{"s1", "s2", "s3"}, true); err != nil { // s3 never asked
		t.Fatal(err)
	}
	got := apptest.Load(t, a, c.ID).Students
	if len(got) != 2 || got[1].Account != "s1" || got[1].Number != "70001" || stands("s1") != enrol.IsIn || stands("s2") != enrol.MayAsk {
		t.Errorf("%d students, s1 %s, s2 %s", len(got), stands("s1"), stands("s2"))
	}
	for _, who := range []string{"s2", "s3", "s4"} {
		if err := a.Cases.Rosters.AskToJoin(ctx, who, d.Link); err != nil {
			t.Fatal(err)
		}
	}
	var both sync.WaitGroup
	for _, some := range [][]string{{"s2", "s3"}, {"s3", "s4"}} { // by two at the same moment
		both.Go(func() {
			if err := a.Cases.Rosters.TakeAskers(ctx, "oduya", c.ID, some, true); err != nil {
				t.Errorf("%v: %v", some, err)
			}
		})
	}
	both.Wait()
	if got := apptest.Load(t, a, c.ID).Students; len(got) != 5 || strings.Contains(codesOf(t, a, "oduya", c.ID), "joiners-ask") {
		t.Errorf("%d students, %s", len(got), codesOf(t, a, "oduya", c.ID))
	}
	other := apptest.Class(t, a, apptest.List(1))
	if err := a.Cases.Rosters.TakeAskers(ctx, "oduya", other.ID, []string{"s2"}, true); err != nil ||
		len(apptest.Load(t, a, other.ID).Students) != 1 {
		t.Errorf("into another class: %v", err)
	}
	day.Set(day.Now().Add(2 * time.Hour))
	if _, _, err := a.Cases.Rosters.AtJoinDoor(ctx, "s3", d.Link); err != seam.ErrNotFound {
		t.Errorf("after its time: %v", err)
	}
	if err := a.Cases.Rosters.AskToJoin(ctx, "s3", d.Link); err != seam.ErrNotFound {
		t.Errorf("after its time: %v", err)
	}
	if err := a.Cases.Rosters.OpenJoinDoor(ctx, "oduya", c.ID, 2); err != nil {
		t.Fatal(err)
	}
	if next, err := a.Cases.Rosters.JoinDoor(ctx, c.ID); err != nil || next.Link == d.Link {
		t.Errorf("the old link opens again: %v", err)
	}
	if err := a.Cases.Rosters.OpenJoinDoor(ctx, "oduya", store.NewID(), 2); err != seam.ErrNotFound {
		t.Errorf("no such class: %v", err)
	}
}

// A group of staff has teachers as its members, each with a satchel of their own that the
// others don't reach; a student on its list is left out, as a teacher is on a class's.
func TestGroupOfStaff(t *testing.T) {
	a := apptest.Open(t)
	apptest.People(t, a, 1)
	c, err := a.Cases.Classes.CreateClass(ctx, "oduya", "", "Science staff", "", true)
	if err != nil {
		t.Fatal(err)
	}
	accept(t, a, c.ID, "First,Surname,Email\nMats,Lindqvist,lindqvist@kestrelquay.example\nRita,Amaral,amaral@kestrelquay.example\nGiven0,Family0,s0@kestrelquay.example\n")
	got := apptest.Load(t, a, c.ID)
	of := map[string]string{}
	for _, s := range got.Students {
		of[s.Family] = s.Account
		if s.Problem != nil {
			of[s.Family] = s.Problem.Code
		}
	}
	if of["Lindqvist"] != "lindqvist" || of["Amaral"] != "amaral" || len(of) != 2 {
		t.Errorf("%v", of)
	}
	apptest.Pack(t, a, got, nil)
	h := apptest.Handout(t, a, got, "# Minutes\n")
	apptest.Pack(t, a, got, &h)
	homes, err := a.Cases.Registers.Home(ctx, "lindqvist")
	if err != nil || len(homes) != 1 || homes[0].Satchel == "" || len(homes[0].Copies) != 1 {
		t.Fatalf("%+v %v", homes, err)
	}
	if _, err := a.Cup.Get(ctx, "amaral", homes[0].Satchel); err == nil {
		t.Error("another of the group reaches it")
	}
}
