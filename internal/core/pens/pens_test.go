package pens_test

import (
	"testing"
	"time"

	"jollysatchel/internal/core/pens"
)

// What is said of all ends what was said of single ones; what is so already stays as it was said.
func TestSay(t *testing.T) {
	there := []string{"a", "b", "c"}
	at := func(minute int, down bool) pens.Hand {
		return pens.Hand{Down: down, At: time.Date(2026, 11, 27, 9, minute, 0, 0, time.UTC), By: "oduya"}
	}
	down := func(s pens.Said) (out string) {
		for _, row := range append([]string{""}, there...) {
			if h, is := s.Down(row); is {
				out += row + h.At.Format("(04)")
			}
		}
		return out
	}
	var s pens.Said
	for i, x := range []struct {
		rows []string
		down bool
		want string
	}{
		{nil, false, ""}, {[]string{"b"}, true, "b(01)"}, {[]string{"b", "c"}, true, "b(01)c(02)"}, {nil, true, "(03)a(03)b(03)c(03)"},
		{nil, true, "(03)a(03)b(03)c(03)"}, {[]string{"a"}, false, "(03)b(03)c(03)"}, {nil, true, "(06)a(06)b(06)c(06)"}, {nil, false, ""},
	} {
		before := s
		s = s.Say(x.rows, there, at(i, x.down))
		if got := down(s); got != x.want {
			t.Errorf("step %d: down are %s, want %s", i, got, x.want)
		}
		if same := s.Same(before); same != (down(before) == down(s)) {
			t.Errorf("step %d: the same is %v", i, same)
		}
	}
}

// Extra time in per cent is of the time there was, up to the whole minute; of no time there is none.
func TestExtra(t *testing.T) {
	due := time.Date(2026, 11, 27, 17, 0, 0, 0, time.UTC)
	for _, x := range []struct {
		extra pens.Extra
		from  time.Duration // before it is due
		want  time.Duration // after
		none  bool
	}{
		{extra: pens.Extra{}, from: time.Hour, none: true}, {extra: pens.Extra{Minutes: 15}, from: time.Hour, want: 15 * time.Minute},
		{extra: pens.Extra{Minutes: 15}, from: -time.Hour, want: 15 * time.Minute},
		{extra: pens.Extra{Percent: 25}, from: time.Hour, want: 15 * time.Minute},
		{extra: pens.Extra{Percent: 25}, from: 50 * time.Minute, want: 13 * time.Minute}, // 12 and a half
		{extra: pens.Extra{Percent: 25}, from: -time.Hour, none: true}, {extra: pens.Extra{Percent: 1}, from: time.Minute, want: time.Minute},
	} {
		until, ok := x.extra.After(due.Add(-x.from), due)
		if ok == x.none || ok && !until.Equal(due.Add(x.want)) {
			t.Errorf("%+v of %v: until %v, %v", x.extra, x.from, until, ok)
		}
	}
	for _, bad := range []pens.Extra{{Minutes: -1}, {Minutes: pens.MostMinutes + 1}, {Percent: pens.MostPercent + 1}, {Minutes: 1, Percent: 1}} {
		if bad.Check() == nil {
			t.Errorf("%+v is said", bad)
		}
	}
}
