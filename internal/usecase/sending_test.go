package usecase_test

import (
	"testing"

	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/packing"
)

// A handout goes out by itself once, at the time that was set last; what it packs is
// worked out then; what keeps it from going out is said.
func TestSendNow(t *testing.T) {
	a, c := school(t, 3)
	set := func(h handout.Handout, ch handout.Change) handout.Handout {
		t.Helper()
		h, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, ch, handout.Change{})
		if err != nil {
			t.Fatal(err)
		}
		return h
	}
	h := apptest.Handout(t, a, c, "# Log\n")
	later := clock.System().AddDate(0, 0, 2).Format("2006-01-02T15:04")
	h = set(h, handout.Change{Send: &later})
	send := func(at string) handout.Handout {
		t.Helper()
		if err := a.Cases.Packing.SendNow(ctx, c.ID, h.ID, at); err != nil {
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
	h = set(h, handout.Change{Title: ptr("")})
	if now := send(later); now.Packed() || now.SendProblem == nil || now.SendProblem.Code != "missing" {
		t.Errorf("without a title: packed %v, %+v", now.Packed(), now.SendProblem)
	}
	tabs, err := a.Cases.Registers.Rail(ctx, "oduya")
	if err != nil || len(tabs) != 1 || len(tabs[0].Notes) == 0 || tabs[0].Notes[0].Reason.Code != "handouts-unsent" {
		t.Errorf("the class says %+v, %v", tabs, err)
	}
	h = set(h, handout.Change{Title: &title, Send: &later})
	if h.SendProblem != nil {
		t.Errorf("set again: %+v", h.SendProblem)
	}
	if _, err := a.Cases.Rosters.SetLeft(ctx, "oduya", c.ID, []string{c.Students[2].ID}, true); err != nil {
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
		_, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Send: &send}, handout.Change{})
		return err
	}
	wantInvalid(t, change("soon"), "send", "not-a-time")
	wantInvalid(t, change("2020-01-01T08:00"), "send", "time-past")
	apptest.Pack(t, a, c, &h)
	wantInvalid(t, change(clock.System().AddDate(0, 0, 2).Format("2006-01-02T15:04")), "send", "packed-already")
}
