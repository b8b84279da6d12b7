package demo_test

import (
	"context"
	"errors"
	"os"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/classroom"
	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/progress"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/demo"
	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/tables"
)

// The demo has what it promises on the first start: classes of 28, 31 and 9,
// one not set up, and a Register with every state there is; a second start
// leaves it as it is.
func TestDemo(t *testing.T) {
	ctx := context.Background()
	s := app.Settings{Database: pgtest.New(t), School: classroom.School{Zone: time.UTC}, Now: clock.System}
	for range 2 {
		people, err := demo.Ensure(ctx, s)
		if err != nil || len(people) < 5 {
			t.Fatalf("%d people, %v", len(people), err)
		}
	}
	a := apptest.At(t, s.Database)
	demoPassword(t, s, a)
	classes, err := a.Store.Classes(ctx, "")
	if err != nil {
		t.Fatal(err)
	}
	sizes, states := map[string]int{}, map[progress.State]int{}
	for _, c := range classes {
		cl := apptest.Load(t, a, c.ID)
		sizes[c.Name] = len(cl.Students)
		reg, err := a.Rooms.Register(ctx, c.ID)
		if err != nil {
			t.Fatal(err)
		}
		for _, col := range reg.Columns {
			for _, cell := range col.Cells {
				states[cell.State]++
				if cell.Changed.After(time.Now()) {
					t.Errorf("%s was changed in the future", cell.Entry.Name)
				}
			}
		}
	}
	if len(classes) != 4 || sizes["Tide Watch 7B"] != 28 || sizes["Boat Workshop 8A"] != 31 || sizes["Weather Station Club"] != 9 || sizes["Harbour History 9D"] != 0 {
		t.Errorf("classes %v", sizes)
	}
	for _, st := range []progress.State{progress.Stuck, progress.Out, progress.NotMade, progress.Shared, progress.Opened, progress.Working} {
		if states[st] == 0 {
			t.Errorf("the Register shows nothing %s: %v", st, states)
		}
	}
}

func TestHistoryList(t *testing.T) {
	file, err := os.ReadFile("../../docs/harbour-history.csv")
	if err != nil || string(file) != demo.HistoryList() {
		t.Errorf("docs/harbour-history.csv isn't the demo's list (%v)", err)
	}
	tab, err := tables.ReadSheet(strings.NewReader(demo.HistoryList()), "")
	if err != nil {
		t.Fatal(err)
	}
	if r := roster.Read(tab, roster.Options{}); r.Counts.Students != 28 || len(r.Findings) != 0 {
		t.Errorf("%+v %+v", r.Counts, r.Findings)
	}
}

// demoPassword checks that the password that is printed for all to see opens the
// demo and nothing else.
func demoPassword(t *testing.T, s app.Settings, served *app.App) {
	t.Helper()
	ctx := context.Background()
	const address = "ifeoma.oduya@kestrelquay.example"
	if _, err := served.Rooms.SignIn(ctx, address, demo.Password); !errors.Is(err, classroom.ErrRefused) {
		t.Errorf("the demo's password under serve: %v", err)
	}
	s.Demo = true
	shown, err := app.Open(ctx, s)
	if err != nil {
		t.Fatal(err)
	}
	defer shown.Close()
	if a, err := shown.Rooms.SignIn(ctx, address, demo.Password); err != nil || a.Address != address {
		t.Errorf("the demo's password in the demo: %+v, %v", a, err)
	}
}
