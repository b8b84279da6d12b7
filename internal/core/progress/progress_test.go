package progress

import (
	"fmt"
	"reflect"
	"testing"
	"time"
)

func ExampleCompare() {
	fmt.Println(Compare("Write where you stood.", "Write where you stood. By the old slipway."))
	// Output: {true 4 0}
}

func TestCompare(t *testing.T) {
	for _, c := range []struct {
		before, now string
		want        Change
	}{
		{"a b c", "a  b\nc", Change{}},
		{"", "", Change{}},
		{"a b", "b a", Change{Begun: true}},
		{"a b c", "a c", Change{Begun: true, Removed: 1}},
		{"a a", "a a a b", Change{Begun: true, Added: 2}},
		{"x", "y", Change{Begun: true, Added: 1, Removed: 1}},
	} {
		if got := Compare(c.before, c.now); got != c.want {
			t.Errorf("Compare(%q, %q) = %+v, want %+v", c.before, c.now, got, c.want)
		}
	}
}

func TestMedianAndFill(t *testing.T) {
	for _, c := range []struct {
		words []int
		want  int
	}{{nil, 0}, {[]int{0, 0}, 0}, {[]int{5}, 5}, {[]int{0, 9, 1, 5}, 5}, {[]int{4, 8}, 6}} {
		if got := Median(c.words); got != c.want {
			t.Errorf("Median(%v) = %d, want %d", c.words, got, c.want)
		}
	}
	for _, c := range [][3]int{{0, 10, 0}, {10, 10, 50}, {20, 10, 100}, {50, 10, 100}, {5, 0, 0}, {-3, 10, 0}} {
		if got := Fill(c[0], c[1]); got != c[2] {
			t.Errorf("Fill(%d, %d) = %d, want %d", c[0], c[1], got, c[2])
		}
	}
}

// The first that applies gives the state, whatever else is true.
func TestStateOf(t *testing.T) {
	for bits := range 64 {
		f := Facts{Stuck: bits&1 > 0, Out: bits&2 > 0, Made: bits&4 > 0, Shared: bits&8 > 0, Begun: bits&16 > 0, Opened: bits&32 > 0}
		got := StateOf(f)
		switch {
		case f.Stuck != (got == Stuck),
			got == NotShared && (!f.Made || f.Shared),
			(got == Shared || got == Opened || got == Working) && !(f.Made && f.Shared),
			got == Working && !f.Begun, got == Opened && (f.Begun || !f.Opened),
			got == Out && (f.Made || !f.Out), got == NotMade && (f.Made || f.Out):
			t.Errorf("StateOf(%+v) = %s", f, got)
		}
	}
}

func TestPer(t *testing.T) {
	day := func(d int) time.Time { return time.Date(2026, 11, d, 0, 0, 0, 0, time.UTC) }
	days := []time.Time{day(19), day(20), day(21), day(22)}
	for _, c := range []struct {
		counts []Tally
		want   []int
	}{
		{nil, nil},
		{[]Tally{{Day: day(20), Added: 30}, {Day: day(22), Added: 42}}, []int{0, 30, 0, 12}},
		{[]Tally{{Day: day(10), Added: 25}, {Day: day(19), Added: 40}}, []int{15, 0, 0, 0}},
		// words taken out are no words written
		{[]Tally{{Day: day(19), Added: 40}, {Day: day(20), Added: 10}, {Day: day(21), Added: 15}}, []int{40, 0, 5, 0}},
	} {
		if got := Per(c.counts, days); !reflect.DeepEqual(got, c.want) {
			t.Errorf("%v: %v, want %v", c.counts, got, c.want)
		}
	}
}

// Weeks begin on Mondays (ISO 8601, 3.1.1.22; from memory), checked against the standard library's
// own reckoning of them.
func TestWeeks(t *testing.T) {
	start := time.Date(2019, 12, 20, 0, 0, 0, 0, time.UTC)
	for n := range 3000 {
		today := start.AddDate(0, 0, n)
		since := today.AddDate(0, 0, -n%100)
		got := Weeks(since, today, 8)
		year, week := today.ISOWeek()
		if y, w := got[len(got)-1].ISOWeek(); y != year || w != week || len(got) > 8 {
			t.Fatalf("%v to %v: %v", since, today, got)
		}
		if y, w := since.ISOWeek(); len(got) < 8 {
			if fy, fw := got[0].ISOWeek(); fy != y || fw != w {
				t.Fatalf("%v to %v begin with %v", since, today, got[0])
			}
		}
		for i, day := range got {
			if day.Weekday() != time.Monday || PeriodOf(day, got) != i || PeriodOf(day.AddDate(0, 0, -1), got) != i-1 {
				t.Fatalf("%v to %v: week %d is %v", since, today, i, day)
			}
		}
	}
}
