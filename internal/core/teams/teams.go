// Package teams divides students into teams of one size, levels spread evenly,
// pairs kept apart where that can be.
package teams

import (
	"slices"
	"strconv"

	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
)

// A Student to be put into a team.
type Student struct {
	Row   string
	Level string
}

// A Pair of rows that shouldn't be in one team.
type Pair [2]string

// Names returns what n teams are called: A, B, C and so on, 1, 2, 3 where there
// are more than 26.
func Names(n int) []string {
	out := make([]string, n)
	for i := range out {
		if n <= 26 {
			out[i] = string(rune('A' + i))
		} else {
			out[i] = strconv.Itoa(i + 1)
		}
	}
	return out
}

// A Shuffle puts n things in an order that chance decides, as that of
// math/rand/v2 does: chance comes from outside, with a seed of the caller's.
type Shuffle func(n int, swap func(i, j int))

// Deal puts the students into n teams and returns the place of each student's
// team, and the pairs that couldn't be kept apart. Team sizes differ by one at
// most, and so does every level's number in the teams unless a pair asks for
// more. The same students, shuffle and pairs give the same teams.
func Deal(students []Student, n int, shuffle Shuffle, apart []Pair) (team []int, together []Pair) {
	team = make([]int, len(students))
	if n < 1 {
		return team, apart
	}
	byLevel := map[string][]int{}
	var levels []string
	for i, s := range students {
		if byLevel[s.Level] == nil {
			levels = append(levels, s.Level)
		}
		byLevel[s.Level] = append(byLevel[s.Level], i)
	}
	slices.Sort(levels)
	next := 0
	for _, l := range levels {
		group := byLevel[l]
		shuffle(len(group), func(a, b int) { group[a], group[b] = group[b], group[a] })
		for _, i := range group {
			team[i] = next % n
			next++
		}
	}
	return team, keepApart(students, team, apart)
}

// keepApart exchanges students while that leaves fewer pairs together: with
// one of the same level first, else with anybody.
func keepApart(students []Student, team []int, apart []Pair) []Pair {
	at := make(map[string]int, len(students))
	for i, s := range students {
		at[s.Row] = i
	}
	foes := map[int][]int{}
	var pairs []Pair
	for _, p := range apart {
		a, okA := at[p[0]]
		b, okB := at[p[1]]
		if okA && okB && a != b {
			foes[a], foes[b] = append(foes[a], b), append(foes[b], a)
			pairs = append(pairs, p)
		}
	}
	bad := func(i, t int) int {
		n := 0
		for _, f := range foes[i] {
			if team[f] == t {
				n++
			}
		}
		return n
	}
	exchange := func(i int, sameLevel bool) bool {
		for j := range students {
			if team[j] == team[i] || sameLevel && students[j].Level != students[i].Level {
				continue
			}
			before := bad(i, team[i]) + bad(j, team[j])
			team[i], team[j] = team[j], team[i]
			if bad(i, team[i])+bad(j, team[j]) < before {
				return true
			}
			team[i], team[j] = team[j], team[i]
		}
		return false
	}
	for improved := true; improved; {
		improved = false
		for i := range students {
			for bad(i, team[i]) > 0 && (exchange(i, true) || exchange(i, false)) {
				improved = true
			}
		}
	}
	var together []Pair
	for _, p := range pairs {
		if team[at[p[0]]] == team[at[p[1]]] {
			together = append(together, p)
		}
	}
	return together
}

// A Team has an id that stays whatever it is called.
type Team struct{ ID, Name string }

// A Set is a column of teams. A student is in at most one team of it.
type Set struct {
	ID    string
	Field record.Field
	Teams []Team
}

// Of returns the team a student is in.
func (s Set) Of(r record.Record) (Team, bool) {
	name := naming.Fold(r.Get(s.Field))
	for _, t := range s.Teams {
		if name != "" && naming.Fold(t.Name) == name {
			return t, true
		}
	}
	return Team{}, false
}

// Lacks lists the names that students have in the column and no team of the set
// is called yet, in the order they appear.
func (s Set) Lacks(students []record.Record) []string {
	known := map[string]bool{"": true}
	for _, t := range s.Teams {
		known[naming.Fold(t.Name)] = true
	}
	var out []string
	for _, r := range students {
		if name := r.Get(s.Field); !known[naming.Fold(name)] {
			known[naming.Fold(name)] = true
			out = append(out, name)
		}
	}
	return out
}

// SetOf returns the set of teams of a column; one without an id where there is none.
func SetOf(sets []Set, f record.Field) Set {
	if i := slices.IndexFunc(sets, func(s Set) bool { return s.Field == f }); i >= 0 {
		return sets[i]
	}
	return Set{Field: f}
}

// In are the ids of the teams of all sets that somebody is in.
func In(sets []Set, r record.Record) []string {
	in := []string{}
	for _, set := range sets {
		if team, ok := set.Of(r); ok {
			in = append(in, team.ID)
		}
	}
	return in
}
