package demo_test

import (
	"context"
	"errors"
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/progress"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/demo"
	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/tables"
	"jollysatchel/internal/usecase/seam"
)

// moments at which the demo may be started first: Sundays and other days, a minute before
// and after midnight, the nights in which Lisbon's clocks change, a leap day, New Year's Eve.
// scripts/moments runs the whole check at each; the first few are tried here always, the
// others with MOMENTS=all.
var moments = strings.Fields(`
	2026-11-29T15:00:00Z 2026-12-03T05:00:00Z 2026-12-02T23:59:00Z 2026-10-25T00:30:00Z 2028-02-29T10:00:00Z
	2026-11-30T07:40:00Z 2026-12-01T00:01:00Z 2026-12-04T17:00:00Z 2026-12-05T12:00:00Z
	2026-10-25T01:30:00Z 2027-03-28T00:59:00Z 2027-03-28T02:30:00Z 2026-12-31T23:59:00Z 2027-01-01T00:01:00Z`)

// The demo has what it promises on the first start: classes of 28, 31 and 9, one not set
// up, and a Register with every state there is, the same whenever that start is; a second
// start leaves it as it is.
func TestDemo(t *testing.T) {
	lisbon, err := time.LoadLocation("Europe/Lisbon")
	if err != nil {
		t.Fatal(err)
	}
	moments := moments
	if os.Getenv("MOMENTS") != "all" {
		moments = moments[:3]
	}
	stories := make([]string, len(moments))
	t.Run("at", func(t *testing.T) {
		for i, moment := range moments {
			t.Run(moment, func(t *testing.T) {
				t.Parallel()
				at, err := time.Parse(time.RFC3339, moment)
				if err != nil {
					t.Fatal(err)
				}
				now := func() time.Time { return at }
				stories[i] = story(t, app.Settings{Database: pgtest.New(t), School: seam.School{Zone: lisbon}, Now: now}, i == 0)
			})
		}
	})
	for i, moment := range moments {
		if stories[i] != stories[0] {
			t.Errorf("first started at %s the Register shows\n%s\nand at %s\n%s", moments[0], stories[0], moment, stories[i])
		}
	}
}

// story is what the demo's Registers show, in words.
func story(t *testing.T, s app.Settings, again bool) string {
	ctx := context.Background()
	for range 2 {
		people, err := demo.Ensure(ctx, s)
		if err != nil || len(people) < 5 {
			t.Fatalf("%d people, %v", len(people), err)
		}
		if !again {
			break
		}
	}
	a := apptest.With(t, s)
	if again {
		demoPassword(t, s, a)
	}
	classes, err := a.Store.Classes(ctx, "")
	if err != nil {
		t.Fatal(err)
	}
	var tells strings.Builder
	sizes, states := map[string]int{}, map[progress.State]int{}
	for _, c := range classes {
		cl := apptest.Load(t, a, c.ID)
		sizes[c.Name] = len(cl.Students)
		reg, err := a.Cases.Registers.Register(ctx, c.ID)
		if err != nil {
			t.Fatal(err)
		}
		for _, col := range reg.Columns {
			of := map[progress.State]int{}
			for _, cell := range col.Cells {
				of[cell.State]++
				states[cell.State]++
				if cell.Changed.After(s.Now()) {
					t.Errorf("%s was changed in the future", cell.Entry.Name)
				}
			}
			title := "Satchel"
			if col.Handout != nil {
				title = col.Handout.Title
			}
			fmt.Fprintln(&tells, c.Name, title, of)
		}
	}
	if len(classes) != 4 || sizes["Tide Watch 7B"] != 28 || sizes["Boat Workshop 8A"] != 31 ||
		sizes["Weather Station Club"] != 9 || sizes["Harbour History 9D"] != 0 {
		t.Errorf("classes %v", sizes)
	}
	for _, st := range []progress.State{progress.Stuck, progress.Out, progress.NotMade, progress.Shared, progress.Opened, progress.Working} {
		if states[st] == 0 {
			t.Errorf("the Register shows nothing %s: %v", st, states)
		}
	}
	return tells.String()
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
	if _, err := served.Cases.People.SignIn(ctx, address, demo.Password); !errors.Is(err, seam.ErrRefused) {
		t.Errorf("the demo's password under serve: %v", err)
	}
	s.Demo = true
	shown, err := app.Open(ctx, s)
	if err != nil {
		t.Fatal(err)
	}
	defer shown.Close()
	if a, err := shown.Cases.People.SignIn(ctx, address, demo.Password); err != nil || a.Address != address {
		t.Errorf("the demo's password in the demo: %+v, %v", a, err)
	}
}
