package classes_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/room"
)

// A class without a code gets one of its name; what is beyond a bound is refused at its field.
func TestCalled(t *testing.T) {
	long := func(n int) string { return strings.Repeat("é", n) }
	for _, x := range []struct{ code, name, period, wantCode, field, wrong string }{
		{"7B", "  Tide   Watch ", "3", "7B", "", ""},
		{"", "Tide Watch 7B", "", "7B", "", ""},
		{"", "Astronomy", "", "Astr", "", ""},
		{"", "deep sea biology", "", "DSB", "", ""},
		{"", "a b c d e f", "", "ABCD", "", ""},
		{"", "Room 12345678", "", "R1", "", ""},
		{"7B", " ", "", "", "name", "missing"},
		{"7B", strings.Repeat("x", room.MostName), "", "7B", "", ""},
		{"7B", strings.Repeat("x", room.MostName+1), "", "", "name", "too-long"},
		{long(classes.MostCode), "A", "", long(classes.MostCode), "", ""},
		{long(classes.MostCode + 1), "A", "", "", "code", "too-long"},
		{"", "A", long(classes.MostPeriod), "A", "", ""},
		{"", "A", long(classes.MostPeriod + 1), "", "period", "too-long"},
	} {
		cl, err := classes.New("id", time.Time{}).Called(x.code, x.name, x.period)
		var invalid *change.Invalid
		switch {
		case x.field == "" && (err != nil || cl.Code != x.wantCode || cl.Name != strings.Join(strings.Fields(x.name), " ") || cl.ID != "id"):
			t.Errorf("%q %q %q: %+v, %v", x.code, x.name, x.period, cl, err)
		case x.field != "" && (!errors.As(err, &invalid) || invalid.Field != x.field || invalid.Code != x.wrong):
			t.Errorf("%q %q %q: %v, want %s %s", x.code, x.name, x.period, err, x.field, x.wrong)
		}
	}
}

// Two who rename a class meet: what was looked at and is another by now is told, other parts stand.
func TestChangeMeets(t *testing.T) {
	now, err := classes.New("id", time.Time{}).Called("7B", "Tide Watch", "3")
	if err != nil {
		t.Fatal(err)
	}
	ptr := func(s string) *string { return &s }
	next, err := (classes.Change{Name: ptr("Low Water"), Code: ptr("")}).Of(now, classes.Change{Name: ptr("Tide Watch")})
	if err != nil || next.Name != "Low Water" || next.Code != "LW" || next.Period != "3" {
		t.Errorf("%+v, %v", next, err)
	}
	var changed *change.Changed
	if _, err := (classes.Change{Name: ptr("Another")}).
		Of(next, classes.Change{Name: ptr("Tide Watch")}); !errors.As(err, &changed) || changed.Field != "name" || changed.Theirs != "Low Water" {
		t.Errorf("%v", err)
	}
	if same, err := (classes.Change{Name: ptr(" Low  Water")}).
		Of(next, classes.Change{Name: ptr("Tide Watch")}); err != nil || same.Name != next.Name {
		t.Errorf("what is so already is no clash: %+v, %v", same, err)
	}
}
