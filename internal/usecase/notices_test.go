package usecase_test

import (
	"errors"
	"slices"
	"strings"
	"testing"

	"jollysatchel/internal/app"
	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/pack"
)

// noticesOf are the titles of the notices on an account's own page.
func noticesOf(t *testing.T, a *app.App, account string) string {
	t.Helper()
	homes, err := a.Cases.Registers.Home(ctx, account)
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for _, h := range homes {
		for _, n := range h.Notices {
			out = append(out, n.Title)
		}
	}
	return strings.Join(out, ", ")
}

// A notice is on the pages of those who are in from when it is put up until it is
// taken down, and nothing is made of it.
func TestNotices(t *testing.T) {
	a, c := school(t, 3)
	set := func(h handout.Handout, ch handout.Change) handout.Handout {
		t.Helper()
		h, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, ch, handout.Change{})
		if err != nil {
			t.Fatal(err)
		}
		return h
	}
	h, err := a.Cases.Handouts.NewNotice(ctx, "oduya", c.ID, nil)
	if err != nil {
		t.Fatal(err)
	}
	var invalid *change.Invalid
	if _, err := a.Cases.Packing.Post(ctx, "oduya", c.ID, h.ID, ""); !errors.As(err, &invalid) || invalid.Field != "title" {
		t.Errorf("without a title: %v", err)
	}
	h = set(h, handout.Change{Title: ptr("Boots")})
	if _, err := a.Cases.Packing.Post(ctx, "oduya", c.ID, h.ID, ""); !errors.As(err, &invalid) || invalid.Field != "instructions" {
		t.Errorf("without words: %v", err)
	}
	h = set(h, handout.Change{Instructions: ptr("Bring **boots**."), Out: map[string]string{c.Students[1].ID: handout.SitsOut}})
	var changed *change.Changed
	if _, err := a.Cases.Packing.Post(ctx, "oduya", c.ID, h.ID, "something else"); !errors.As(err, &changed) {
		t.Errorf("another list: %v", err)
	}
	if got := noticesOf(t, a, "s0"); got != "" {
		t.Errorf("before it is up: %s", got)
	}
	if _, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, h.ID, pack.Part{}); !errors.As(err, &invalid) || invalid.Code != "is-a-notice" {
		t.Errorf("packed: %v", err)
	}
	for range 2 {
		if h, err = a.Cases.Packing.Post(ctx, "oduya", c.ID, h.ID, ""); err != nil || !h.Packed() {
			t.Fatalf("%v, up: %v", err, h.Packed())
		}
	}
	one, err := a.Cases.Handouts.NewNotice(ctx, "oduya", c.ID, []string{c.Students[1].ID})
	if err != nil {
		t.Fatal(err)
	}
	one = set(one, handout.Change{Title: ptr("Glasses"), Links: &[]handout.Link{{Address: "https://lost.example"}}, ForParents: ptr(true)})
	later := clock.System().AddDate(0, 0, 2).Format("2006-01-02T15:04")
	one = set(one, handout.Change{Send: &later})
	for range 2 {
		if err := a.Cases.Packing.SendNow(ctx, c.ID, one.ID, later); err != nil {
			t.Fatal(err)
		}
	}
	for i, want := range []string{"Boots", "Glasses", "Boots"} {
		if got := noticesOf(t, a, c.Students[i].Account); got != want {
			t.Errorf("student %d: %q, want %q", i, got, want)
		}
	}
	if got := noticesOf(t, a, "oduya"); got != "" {
		t.Errorf("the teacher: %s", got)
	}
	reg, err := a.Cases.Registers.Register(ctx, c.ID)
	if err != nil || len(reg.Columns) != 1 {
		t.Errorf("%d columns, %v", len(reg.Columns), err)
	}
	if h, err = a.Cases.Packing.TakeDown(ctx, "oduya", c.ID, h.ID); err != nil || h.Packed() || noticesOf(t, a, "s0") != "" {
		t.Errorf("taken down: %v", err)
	}
	if h, err = a.Cases.Packing.Post(ctx, "oduya", c.ID, h.ID, ""); err != nil || noticesOf(t, a, "s0") != "Boots" {
		t.Errorf("up again: %v", err)
	}
	if _, err := a.Cases.Handouts.NewNotice(ctx, "oduya", c.ID, []string{store.NewID()}); !errors.As(err, &invalid) {
		t.Errorf("for a student of another class: %v", err)
	}
}

// What is said with a handout is bounded, and links lead to pages.
func TestSaidWithIt(t *testing.T) {
	a, c := school(t, 1)
	h, err := a.Cases.Handouts.NewHandout(ctx, "oduya", c.ID, "")
	if err != nil {
		t.Fatal(err)
	}
	link := func(address string) *[]handout.Link { return &[]handout.Link{{Words: "x", Address: address}} }
	many := slices.Repeat(*link("https://tides.example"), handout.MostLinks+1)
	for code, ch := range map[string]handout.Change{
		"too-long":        {Instructions: ptr(strings.Repeat("w", 4001))},
		"link-scheme":     {Links: link("javascript:alert(1)")},
		"link-unreadable": {Links: link("https://")},
		"too-many-links":  {Links: &many},
	} {
		var invalid *change.Invalid
		if _, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, ch, handout.Change{}); !errors.As(err, &invalid) ||
			invalid.Code != code {
			t.Errorf("%s: %v", code, err)
		}
	}
	ch := handout.Change{Links: link("https://tides.example"), Instructions: ptr("a")}
	was := handout.Change{Links: &[]handout.Link{}, Instructions: ptr("")}
	if _, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, ch, was); err != nil {
		t.Error(err)
	}
	var changed *change.Changed
	ch.Links = link("https://ebb.example")
	if _, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, ch, was); !errors.As(err, &changed) {
		t.Errorf("what somebody changed since: %v", err)
	}
}
