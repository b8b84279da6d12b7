package classes_test

import (
	"errors"
	"testing"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
)

// Lisbon's clocks are put on at 1:00 on 28 March 2027 and back at 2:00 on 31 October (tz database).
func TestOpening(t *testing.T) {
	now := time.Date(2027, 3, 20, 9, 0, 0, 0, time.UTC)
	for at, code := range map[string]string{"": "", "2027-03-29T08:00": "", "2027-03-28T01:30": "", "2027-03-20T09:00": "time-past",
		"2026-03-29T08:00": "time-past", "2028-03-20T09:00": "", "2028-03-21T10:00": "opening-far", "Monday": "not-a-time",
		"2027-03-29T08:00:30": "not-a-time", "2027-02-30T08:00": "not-a-time"} {
		_, err := classes.CheckOpening(at, "Europe/Lisbon", now)
		var invalid *change.Invalid
		if errors.As(err, &invalid) != (code != "") || code != "" && invalid.Code != code {
			t.Errorf("%q: %v, want %q", at, err, code)
		}
	}
	o, err := classes.CheckOpening("2027-03-29T08:00", "Europe/Lisbon", now)
	if err != nil {
		t.Fatal(err)
	}
	moment := time.Date(2027, 3, 29, 7, 0, 0, 0, time.UTC) // summer time by then
	byHand, _ := classes.CheckOpening("", "Europe/Lisbon", now)
	some := o.LetIn([]string{"a"}).LetIn([]string{"b", "a"})
	for _, c := range []struct {
		what string
		o    *classes.Opening
		row  string
		at   time.Time
		want string
	}{
		{"before", o, "a", moment.Add(-time.Millisecond), "opens"},
		{"then", o, "a", moment, ""},
		{"let in before", some, "a", now, ""},
		{"let in too", some, "b", now, ""},
		{"another", some, "c", now, "opens"},
		{"by hand", byHand, "a", moment.AddDate(1, 0, 0), "opens-by-hand"},
		{"by hand, said", byHand.LetIn(nil), "a", now, ""},
		{"never closed", nil, "a", now, ""},
	} {
		got := ""
		if why := c.o.Waits(c.row, c.at); why != nil {
			got = why.Code
		}
		if got != c.want {
			t.Errorf("%s: %q, want %q", c.what, got, c.want)
		}
	}
	if len(o.Rows) != 0 || len(some.Rows) != 2 {
		t.Errorf("let in: %v, %v", o.Rows, some.Rows)
	}
	if !o.Passed(moment) || o.Passed(moment.Add(-1)) || byHand.Passed(moment) || !(*classes.Opening)(nil).Passed(now) {
		t.Error("the time has come where it hasn't, or hasn't where it has")
	}
}
