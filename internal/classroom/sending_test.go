package classroom_test

import (
	"fmt"
	"os/exec"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/classroom"
	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/packing"
)

// A handout goes out by itself once, at the time that was set last; what it packs is
// worked out then; what keeps it from going out is said.
func TestSendNow(t *testing.T) {
	a, c := school(t, 3)
	set := func(h handout.Handout, ch classroom.HandoutChange) handout.Handout {
		t.Helper()
		h, err := a.Rooms.ChangeHandout(ctx, "oduya", c.ID, h.ID, ch, classroom.HandoutChange{})
		if err != nil {
			t.Fatal(err)
		}
		return h
	}
	h := apptest.Handout(t, a, c, "# Log\n")
	later := clock.System().AddDate(0, 0, 2).Format("2006-01-02T15:04")
	h = set(h, classroom.HandoutChange{Send: &later})
	send := func(at string) handout.Handout {
		t.Helper()
		if err := a.Rooms.SendNow(ctx, c.ID, h.ID, at); err != nil {
			t.Fatal(err)
		}
		now, err := a.Store.Handout(ctx, c.ID, h.ID)
		if err != nil {
			t.Fatal(err)
		}
		return now
	}
	if now := send("2026-01-01T08:00"); now.Packed() || now.SendProblem != nil {
		t.Errorf("at a time that isn't set: %+v", now)
	}
	title := h.Title
	h = set(h, classroom.HandoutChange{Title: ptr("")})
	if now := send(later); now.Packed() || now.SendProblem == nil || now.SendProblem.Code != "missing" {
		t.Errorf("without a title: packed %v, %+v", now.Packed(), now.SendProblem)
	}
	tabs, err := a.Rooms.Rail(ctx, "oduya")
	if err != nil || len(tabs) != 1 || len(tabs[0].Notes) == 0 || tabs[0].Notes[0].Reason.Code != "handouts-unsent" {
		t.Errorf("the class says %+v, %v", tabs, err)
	}
	h = set(h, classroom.HandoutChange{Title: &title, Send: &later})
	if h.SendProblem != nil {
		t.Errorf("set again: %+v", h.SendProblem)
	}
	if _, err := a.Rooms.SetLeft(ctx, "oduya", c.ID, []string{c.Students[2].ID}, true); err != nil {
		t.Fatal(err)
	}
	for range 2 { // the job came twice
		if now := send(later); !now.Packed() || !now.Send.IsZero() {
			t.Errorf("packed %v, still set to go out %v", now.Packed(), now.Send)
		}
	}
	runs, err := a.Store.RecentRuns(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range runs {
		apptest.Wait(t, a, r.ID)
	}
	copies := 0
	ledger, err := a.Store.Ledger(ctx, c.ID)
	for _, e := range ledger {
		if e.Key.What.Purpose == packing.Copy {
			copies++
		}
	}
	if err != nil || copies != 2 {
		t.Errorf("%d copies, for the two who are there then, %v", copies, err)
	}
}

func TestSendRefused(t *testing.T) {
	a, c := school(t, 1)
	h := apptest.Handout(t, a, c, "# Log\n")
	change := func(send string) error {
		_, err := a.Rooms.ChangeHandout(ctx, "oduya", c.ID, h.ID, classroom.HandoutChange{Send: &send}, classroom.HandoutChange{})
		return err
	}
	wantInvalid(t, change("soon"), "send", "not-a-time")
	wantInvalid(t, change("2020-01-01T08:00"), "send", "time-past")
	apptest.Pack(t, a, c, &h)
	wantInvalid(t, change(clock.System().AddDate(0, 0, 2).Format("2006-01-02T15:04")), "send", "packed-already")
}

// Every half hour around every change of clocks in ten years, in five zones, is the
// moment that Python's zoneinfo has for it: of a time that comes twice the first, and
// one that is left out as much later as clocks are put on.
func TestWallClocks(t *testing.T) {
	var script strings.Builder
	script.WriteString("from datetime import datetime\nfrom zoneinfo import ZoneInfo\n")
	var got []string
	for _, name := range []string{"Europe/Lisbon", "America/New_York", "Australia/Lord_Howe", "America/Santiago", "Africa/Casablanca"} {
		zone, err := time.LoadLocation(name)
		if err != nil {
			t.Fatal(err)
		}
		for at := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC); at.Year() < 2036; at = at.Add(time.Hour) {
			_, before := at.In(zone).Zone()
			if _, after := at.Add(time.Hour).In(zone).Zone(); before == after {
				continue
			}
			for k := -4; k <= 8; k++ {
				wall := at.In(zone).Add(time.Duration(k) * 30 * time.Minute).Format("2006-01-02T15:04")
				w, err := time.Parse("2006-01-02T15:04", wall)
				if err != nil {
					t.Fatal(err)
				}
				moment, _ := classroom.DueAt(handout.Handout{Zone: name, Due: w})
				got = append(got, fmt.Sprintf("%s %s %d", name, wall, moment.Unix()))
				fmt.Fprintf(&script, "print(%q, %q, int(datetime.fromisoformat(%q).replace(tzinfo=ZoneInfo(%q)).timestamp()))\n", name, wall, wall, name)
			}
		}
	}
	python := exec.Command("python3", "-")
	python.Stdin = strings.NewReader(script.String())
	out, err := python.CombinedOutput()
	if err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	want := strings.Split(strings.TrimSpace(string(out)), "\n")
	if len(want) != len(got) || len(got) < 500 {
		t.Fatalf("%d moments, Python has %d", len(got), len(want))
	}
	wrong := 0
	for i := range got {
		if got[i] != want[i] {
			if wrong++; wrong < 5 {
				t.Errorf("%s, Python has %s", got[i], want[i])
			}
		}
	}
	if wrong > 0 {
		t.Errorf("%d of %d differ", wrong, len(got))
	}
}
