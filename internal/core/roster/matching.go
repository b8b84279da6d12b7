package roster

import (
	"slices"
	"strings"

	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
)

type matcher struct {
	old   []Known
	list  []Student
	opt   CompareOptions
	of    []int    // per new student the old one, -1 for none
	by    []string // how
	doubt map[int]Difference
	taken []bool
	// addresses are the places in the older list of those with an address.
	addresses map[string][]int
}

// at is the class and period a row is in, of what the newer list tells.
func (m *matcher) at(s Student) string {
	at := m.class(s)
	if m.has(Period) {
		at += "\x00" + naming.Fold(s.Period)
	}
	return at
}

// class is the class a row is in, if the newer list tells it.
func (m *matcher) class(s Student) string {
	if !m.has(Class) {
		return ""
	}
	return naming.Fold(s.Class)
}

func (m *matcher) has(r Role) bool { return m.opt.Has == nil || m.opt.Has[record.Field(r)] }

func (m *matcher) take(n, o int, by string) { m.of[n], m.by[n], m.taken[o] = o, by, true }

// open reports whether nothing has been found for a new student yet.
func (m *matcher) open(n int) bool {
	_, asked := m.doubt[n]
	return m.of[n] < 0 && !asked && m.by[n] == ""
}

func (m *matcher) said() {
	for n := range m.list {
		o, ok := m.opt.Said[n]
		switch {
		case !ok:
		case o < 0 || o >= len(m.old) || m.taken[o]:
			m.by[n] = "said"
		default:
			m.take(n, o, "said")
		}
	}
}

func byNumber(s Student) string { return s.Number }

func byAddress(s Student) string { return strings.ToLower(s.Address) }

// index finds places in the older list by a key.
func (m *matcher) index(key func(Student) string) map[string][]int {
	index := make(map[string][]int, len(m.old))
	for o, k := range m.old {
		if v := key(k.Student); v != "" {
			index[v] = append(index[v], o)
		}
	}
	return index
}

// pass recognises students by a key that belongs to one person. A person may
// are in several classes: the row of the same class is taken first, then the
// one that is left. Where several could be meant, on either side, all are
// asked about, so that the order of rows decides nothing.
func (m *matcher) pass(by string, index map[string][]int, key func(Student) string) {
	for _, same := range []bool{true, false} {
		news := map[string][]int{}
		var order []string
		for n, s := range m.list {
			v := key(s)
			if v == "" || len(index[v]) == 0 || !m.open(n) {
				continue
			}
			if same {
				v += "\x00" + m.at(s)
			}
			if news[v] == nil {
				order = append(order, v)
			}
			news[v] = append(news[v], n)
		}
		for _, v := range order {
			m.pair(by, news[v], m.candidates(index[key(m.list[news[v][0]])], m.list[news[v][0]], same))
		}
	}
}

// candidates are those of the older list that a student can be, of the same
// class or, then, of any: who is there before who has left, and a return is to
// the class that was left.
func (m *matcher) candidates(among []int, s Student, same bool) []int {
	var here, gone []int
	for _, o := range among {
		switch {
		case m.taken[o] || same && m.at(m.old[o].Student) != m.at(s):
		case !m.old[o].Gone:
			here = append(here, o)
		case same:
			gone = append(gone, o)
		}
	}
	if len(here) == 0 {
		return gone
	}
	return here
}

func (m *matcher) pair(by string, news, olds []int) {
	switch {
	case len(olds) == 0:
	case len(olds) > 1 || len(news) > 1:
		for _, n := range news {
			m.ask(n, "several-rows", olds)
		}
	case m.agrees(by, olds[0], m.list[news[0]]):
		m.take(news[0], olds[0], by)
	default:
		m.ask(news[0], by+"-reused", olds)
	}
}

// agrees reports that nothing speaks against two students being one: a number
// that fits needs a name or an address that is alike, an address that fits a
// name that is.
func (m *matcher) agrees(by string, o int, s Student) bool {
	k := m.old[o].Student
	if SameName(k.Record, s.Record) {
		return true
	}
	return by == "number" && s.Address != "" && strings.EqualFold(k.Address, s.Address)
}

// ask leaves a student in doubt. Where the number is somebody else's, the one
// with the address is a candidate too, and the likelier.
func (m *matcher) ask(n int, why string, candidates []int) {
	if why == "number-reused" && m.list[n].Address != "" {
		for _, o := range m.addresses[strings.ToLower(m.list[n].Address)] {
			if !slices.Contains(candidates, o) {
				candidates = append([]int{o}, candidates...)
			}
		}
	}
	if len(candidates) <= mostCandidates {
		m.doubt[n] = Difference{Kind: Doubtful, Old: -1, New: n, Why: why, Candidates: slices.Clone(candidates)}
	}
}

// names recognises by name those nothing else was found for, where one student
// on either side has the name: within the class and period, then within the class.
func (m *matcher) names() {
	for _, place := range []func(Student) string{m.at, m.class} {
		key := func(s Student) string { return naming.Fold(s.Name()) + "\x00" + place(s) }
		theirs, ours := map[string][]int{}, map[string]int{}
		for o, k := range m.old {
			if !m.taken[o] {
				theirs[key(k.Student)] = append(theirs[key(k.Student)], o)
			}
		}
		for n, s := range m.list {
			if m.open(n) {
				ours[key(s)]++
			}
		}
		for n, s := range m.list {
			if m.open(n) {
				m.named(n, theirs[key(s)], ours[key(s)])
			}
		}
	}
}

func (m *matcher) named(n int, fits []int, ours int) {
	switch {
	case len(fits) == 0:
	case len(fits) > 1 || ours > 1:
		m.ask(n, "same-name", fits)
	case m.list[n].Number != "" && m.old[fits[0]].Number != "":
		m.ask(n, "number-differs", fits)
	default:
		m.take(n, fits[0], "name")
	}
}

// nearly asks about those left over on both sides who share a class and a word
// of their names: a corrected name, perhaps.
func (m *matcher) nearly() {
	index := map[string][]int{}
	for o, k := range m.old {
		if !m.taken[o] && !k.Gone {
			for _, w := range nameWords(k.Record) {
				index[w+"\x00"+m.class(k.Student)] = append(index[w+"\x00"+m.class(k.Student)], o)
			}
		}
	}
	for n, s := range m.list {
		if !m.open(n) {
			continue
		}
		var fits []int
		for _, w := range nameWords(s.Record) {
			among := index[w+"\x00"+m.class(s)]
			if len(among) > mostCandidates {
				continue
			}
			for _, o := range among {
				k := m.old[o]
				differ := s.Number != "" && k.Number != "" && s.Address != "" && k.Address != "" // other number and other address: another person
				if !m.taken[o] && !differ && !slices.Contains(fits, o) {
					fits = append(fits, o)
				}
			}
		}
		if len(fits) > 0 {
			slices.Sort(fits)
			m.ask(n, "name-like", fits)
		}
	}
}
