package wall_test

import (
	"fmt"
	"os/exec"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/core/wall"
)

// Every half hour around every change of clocks in ten years, in five zones, is the
// moment that Python's zoneinfo has for it: of a time that comes twice the first, and
// one that is left out as much later as clocks are put on.
func TestMoment(t *testing.T) {
	var script strings.Builder
	script.WriteString("from datetime import datetime\nfrom zoneinfo import ZoneInfo\n")
	var got []string
	ask := func(zone, written string) {
		at, err := wall.Parse(written)
		if err != nil {
			t.Fatal(err)
		}
		got = append(got, fmt.Sprintf("%s %s %d", zone, written, wall.Moment(at, zone).Unix()))
		fmt.Fprintf(&script, "print(%q, %q, int(datetime.fromisoformat(%q).replace(tzinfo=ZoneInfo(%q)).timestamp()))\n",
			zone, written, written, zone)
	}
	for _, zone := range []string{"Asia/Kathmandu", "Atlantic/Azores", "UTC"} {
		for _, written := range []string{"2026-03-28T17:00", "2026-03-29T12:00", "2026-10-25T12:00", "2026-11-27T17:00", "2027-07-01T08:30"} {
			ask(zone, written)
		}
	}
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
				ask(name, at.In(zone).Add(time.Duration(k)*30*time.Minute).Format(wall.Minute))
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

func TestWritten(t *testing.T) {
	for _, x := range []string{"2026-11-27T17:00", "2026-11-27T17:00:09"} {
		at, err := wall.Parse(x)
		if got := wall.Written(at); err != nil || got != x {
			t.Errorf("%s is written %s: %v", x, got, err)
		}
	}
	if got := wall.Written(time.Time{}); got != "" {
		t.Errorf("no time is written %s", got)
	}
	for _, x := range []string{"", "soon", "2026-11-27", "2026-13-01T10:00", "2026-11-27T17:00Z", "2026-11-27 17:00"} {
		if at, err := wall.Parse(x); err == nil {
			t.Errorf("%q is %v", x, at)
		}
	}
}

// A zone that isn't known is UTC.
func TestNoSuchZone(t *testing.T) {
	at := time.Date(2026, 7, 1, 9, 0, 0, 0, time.UTC)
	if got := wall.Moment(at, "Sea/Nowhere"); !got.Equal(at) {
		t.Errorf("%v", got)
	}
}
