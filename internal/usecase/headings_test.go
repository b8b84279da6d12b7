package usecase_test

import (
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"

	"jollysatchel/internal/app"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/usecase/handouts"
)

// listed are the handouts of a class as their list shows them, under its headings.
func listed(t *testing.T, a *app.App, class string) string {
	t.Helper()
	headings, err := a.Cases.Handouts.Headings(ctx, class)
	if err != nil {
		t.Fatal(err)
	}
	tags, err := a.Cases.Registers.HandoutTags(ctx, class)
	if err != nil {
		t.Fatal(err)
	}
	var b strings.Builder
	for _, h := range append([]handout.Heading{{}}, headings...) {
		fmt.Fprintf(&b, "%s(", h.Title)
		for i := len(tags) - 1; i >= 0; i-- {
			if tags[i].Heading == h.ID {
				b.WriteString(tags[i].Title)
			}
		}
		b.WriteString(")")
	}
	return b.String()
}

// Handouts are under headings in their teacher's order; new ones come first.
func TestHeadings(t *testing.T) {
	a, c := school(t, 1)
	ids := map[string]string{}
	begin := func(titles string) {
		t.Helper()
		for _, title := range strings.Split(titles, "") {
			h, err := a.Cases.Handouts.NewNotice(ctx, "oduya", c.ID, nil)
			if err == nil {
				_, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Title: &title}, handout.Change{})
			}
			if err != nil {
				t.Fatal(err)
			}
			ids[title] = h.ID
		}
	}
	add := func(title string) handout.Heading {
		t.Helper()
		h, err := a.Cases.Handouts.AddHeading(ctx, "oduya", c.ID, title)
		if err != nil {
			t.Fatal(err)
		}
		return h
	}
	place := func(title, heading, before string) {
		t.Helper()
		if err := a.Cases.Handouts.PlaceHandout(ctx, "oduya", c.ID, ids[title], heading, ids[before]); err != nil {
			t.Fatal(err)
		}
	}
	want := func(list string) {
		t.Helper()
		if got := listed(t, a, c.ID); got != list {
			t.Fatalf("%s, want %s", got, list)
		}
	}
	begin("abc")
	want("(cba)")
	u1, u2 := add("One"), add("Two")
	want("(cba)Two()One()")
	place("a", u1.ID, "")
	place("b", u1.ID, "a")
	want("(c)Two()One(ba)")
	begin("de")
	want("(edc)Two()One(ba)")
	place("c", "", "e")
	place("a", u2.ID, "nobody")
	want("(ced)Two(a)One(b)")
	if err := a.Cases.Handouts.ChangeHeading(ctx, "oduya", c.ID, u1.ID,
		handouts.HeadingChange{Before: &u2.ID, Title: ptr("Unit one"), Was: ptr("One"), Folded: ptr(true)}); err != nil {
		t.Fatal(err)
	}
	want("(ced)Unit one(b)Two(a)")
	var changed *change.Changed
	if err := a.Cases.Handouts.ChangeHeading(ctx, "oduya", c.ID, u1.ID,
		handouts.HeadingChange{Title: ptr("1"), Was: ptr("One")}); !errors.As(err, &changed) {
		t.Errorf("a title that somebody changed since: %v", err)
	}
	if err := a.Cases.Handouts.RemoveHeading(ctx, "oduya", c.ID, u1.ID); err != nil {
		t.Fatal(err)
	}
	if got := listed(t, a, c.ID); !strings.HasPrefix(got, "(") || !strings.Contains(got, "b") || !strings.HasSuffix(got, "Two(a)") {
		t.Errorf("after a heading was taken away: %s", got)
	}
	var invalid *change.Invalid
	if _, err := a.Cases.Handouts.AddHeading(ctx, "oduya", c.ID, strings.Repeat("x", 10_000)); !errors.As(err, &invalid) ||
		invalid.Code != "too-long" {
		t.Errorf("a heading of 10,000 characters: %v", err)
	}
	if err := a.Cases.Handouts.PlaceHandout(ctx, "oduya", c.ID, ids["b"], u1.ID, ""); !errors.As(err, &invalid) {
		t.Errorf("under a heading that is gone: %v", err)
	}
}

// What several move at once is in one order in the end, with nothing lost.
func TestPlacedAtOnce(t *testing.T) {
	a, c := school(t, 1)
	var ids []string
	for range 6 {
		h, err := a.Cases.Handouts.NewNotice(ctx, "oduya", c.ID, nil)
		if err != nil {
			t.Fatal(err)
		}
		ids = append(ids, h.ID)
	}
	var all sync.WaitGroup
	for i, id := range ids {
		all.Go(func() {
			u, err := a.Cases.Handouts.AddHeading(ctx, "oduya", c.ID, fmt.Sprint("Unit ", i))
			if err == nil {
				err = a.Cases.Handouts.PlaceHandout(ctx, "oduya", c.ID, id, u.ID, "")
			}
			if err != nil {
				t.Error(err)
			}
		})
	}
	all.Wait()
	tags, err := a.Cases.Registers.HandoutTags(ctx, c.ID)
	headings, err2 := a.Cases.Handouts.Headings(ctx, c.ID)
	under := map[string]bool{}
	for _, h := range tags {
		under[h.Heading] = true
	}
	if err != nil || err2 != nil || len(headings) != 6 || len(under) != 6 || under[""] {
		t.Errorf("%d headings, handouts under %d, %v %v", len(headings), len(under), err, err2)
	}
}
