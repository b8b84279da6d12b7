// Package progress compares a student's text with the one handed out.
package progress

import (
	"slices"
	"strings"
	"time"
)

// A Change is what was written since the text was handed out.
type Change struct {
	Begun   bool `json:"begun"`
	Added   int  `json:"added"`   // words
	Removed int  `json:"removed"` // words
}

// Compare counts the words that were added and removed between two plain
// texts, wherever they stand. A copy is not begun while both are equal but for
// white space.
func Compare(handedOut, now string) Change {
	a, b := strings.Fields(handedOut), strings.Fields(now)
	if strings.Join(a, " ") == strings.Join(b, " ") {
		return Change{}
	}
	count := make(map[string]int, len(a))
	for _, w := range a {
		count[w]++
	}
	c := Change{Begun: true}
	for _, w := range b {
		if count[w] > 0 {
			count[w]--
		} else {
			c.Added++
		}
	}
	for _, n := range count {
		c.Removed += n
	}
	return c
}

// Median returns the median of the positive numbers among ns, 0 where there is
// none: the class's measure for how far a student has come.
func Median(ns []int) int {
	var p []int
	for _, n := range ns {
		if n > 0 {
			p = append(p, n)
		}
	}
	if len(p) == 0 {
		return 0
	}
	slices.Sort(p)
	return (p[(len(p)-1)/2] + p[len(p)/2]) / 2
}

// A Tally is how many words there were more than was handed out at the end of a
// day on which a copy was written.
type Tally struct {
	Day   time.Time // midnight, UTC
	Added int
}

// Per turns a copy's tallies, oldest first, into the words added in each of some
// periods: the days they start on, oldest first; each lasts until the next, and the
// last goes on. A day on which words were taken out counts as none. Without tallies it is nil.
func Per(tallies []Tally, starts []time.Time) []int {
	if len(tallies) == 0 {
		return nil
	}
	out := make([]int, len(starts))
	before := 0
	for _, t := range tallies {
		if i := PeriodOf(t.Day, starts); i >= 0 {
			out[i] += max(0, t.Added-before)
		}
		before = t.Added
	}
	return out
}

// PeriodOf says in which of some periods a day lies; -1 is before the first.
func PeriodOf(day time.Time, starts []time.Time) int {
	i := len(starts) - 1
	for i >= 0 && day.Before(starts[i]) {
		i--
	}
	return i
}

// Weeks returns the Mondays with which the weeks begin (ISO 8601) from a day's to
// another's, no more than most of them, the latest. Days are midnights, UTC.
func Weeks(since, today time.Time, most int) []time.Time {
	monday := func(day time.Time) time.Time { return day.AddDate(0, 0, -(int(day.Weekday())+6)%7) }
	first, last := monday(since), monday(today)
	if earliest := last.AddDate(0, 0, -7*(most-1)); first.Before(earliest) {
		first = earliest
	}
	out := []time.Time{last}
	for first.Before(out[0]) {
		out = append([]time.Time{out[0].AddDate(0, 0, -7)}, out...)
	}
	return out
}
