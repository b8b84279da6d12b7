package demo_test

import (
	"context"
	"testing"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/demo"
	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/usecase/seam"
)

func TestZZ(t *testing.T) {
	lisbon, _ := time.LoadLocation("Europe/Lisbon")
	at := time.Date(2026, 11, 25, 11, 40, 0, 0, time.UTC)
	set := app.Settings{Database: pgtest.New(t), School: seam.School{Zone: lisbon}, Now: func() time.Time { return at },
		Demo: true, Pace: 10_000, Here: "http://satchel.test", ShowStandins: true}
	if _, err := demo.Ensure(context.Background(), set); err != nil {
		t.Fatal(err)
	}
	a := apptest.With(t, set)
	apptest.Look(t, a)
	cs, err := a.Store.Classes(context.Background(), "")
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range cs {
		r, err := a.Cases.Doors.Check(context.Background(), "", c.ID)
		if err != nil {
			t.Fatal(err)
		}
		t.Logf("%s: %d students %d things %d doors tried %d wrong %v more %d", c.Name, r.Result.Students, r.Result.Things, r.Result.Doors, r.Result.Tried, r.Result.Wrong, r.Result.More)
		for _, l := range r.Result.Lines {
			t.Logf("   %s %s who %v for %s is %s should %s why %v key %s", l.Kind, l.Name, l.Who, l.For, l.Is, l.Should, l.Why, l.Key)
		}
	}
}
