// Package progress compares a student's text with the one handed out.
package progress

import (
	"slices"
	"strings"
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
