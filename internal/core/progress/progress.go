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

// PerDay turns a copy's tallies, oldest first, into the words added on each of
// days. A day on which words were taken out counts as none. Without tallies it is
// nil.
func PerDay(tallies []Tally, days []time.Time) []int {
	if len(tallies) == 0 {
		return nil
	}
	out := make([]int, len(days))
	before := 0
	for _, t := range tallies {
		for i, day := range days {
			if t.Day.Equal(day) {
				out[i] = max(0, t.Added-before)
			}
		}
		before = t.Added
	}
	return out
}
