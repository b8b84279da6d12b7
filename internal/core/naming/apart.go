package naming

import (
	"sort"
	"strconv"
	"strings"

	"jollysatchel/internal/core/record"
)

// Rules by which equal names are told apart, as the teacher sees them.
const (
	ByNumber  = "student-number"
	ByPeriod  = "period"
	ByCounter = "counter"
)

// An Item is one name to be given under a parent.
type Item struct {
	Values record.Getter
	Added  int     // when the row was added: smaller is earlier
	Packed string  // the name it already has; kept while it says what the values say
	Own    Pattern // in place of the one for all; empty: none
	// Beside are the names of what else is of one's own where it is, though not of the
	// other items; asked only of one that is named again. Nil: nothing.
	Beside func() []string
}

// by is the pattern an item is named by.
func (it Item) by(all Pattern) Pattern {
	if len(it.Own) > 0 {
		return it.Own
	}
	return all
}

// A Name is what TellApart gives an Item. By is the rule by which it was told
// apart, empty where no mark was needed.
type Name struct {
	Name    string
	By      string
	Altered string // what making it safe did to it; nothing of one that is packed
}

// TellApart renders pattern, or an item's own, for every item, makes the names safe and tells
// equal ones apart: by student number, else by period, else by a counter in
// the order of Added. taken holds other names under the same parent. Names
// already packed stay as they are for any newcomer; one whose own values have
// changed since is named again. One that is called as something else beside it has a
// counter before its ending: that tells things of one person apart, not people. The
// result has one Name per item, in order, and no two are equal by Fold unless they
// were packed so.
func TellApart(pattern Pattern, ending string, items []Item, taken []string) []Name {
	out := make([]Name, len(items))
	var fresh []int // those to be named
	for i, it := range items {
		if it.Packed != "" && comesFrom(it.Packed, it.by(pattern), ending, it.Values) {
			out[i] = Name{Name: it.Packed}
		} else {
			fresh = append(fresh, i)
		}
	}
	if len(fresh) == 0 {
		return out
	}
	used := make(map[string]bool, len(items)+len(taken))
	for _, t := range taken {
		used[Fold(t)] = true
	}
	for _, n := range out {
		if n.Name != "" {
			used[Fold(n.Name)] = true
		}
	}
	groups := map[string][]int{}
	for _, i := range fresh {
		it := items[i]
		plain := it.by(pattern).Render(it.Values)
		out[i] = Name{Name: Safe(plain, ending), Altered: Altered(plain, ending)}
		k := Fold(out[i].Name)
		groups[k] = append(groups[k], i)
	}
	keys := make([]string, 0, len(groups))
	for k := range groups {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	var crowded []string
	for _, k := range keys {
		if len(groups[k]) == 1 && !used[k] {
			used[k] = true
			continue
		}
		crowded = append(crowded, k)
	}
	for _, k := range crowded {
		group := groups[k]
		sort.SliceStable(group, func(a, b int) bool { return items[group[a]].Added < items[group[b]].Added })
		if !tryColumn(pattern, ending, items, out, used, group, record.Number, ByNumber) &&
			!tryColumn(pattern, ending, items, out, used, group, record.Period, ByPeriod) {
			count(pattern, ending, items, out, used, group)
		}
	}
	for _, i := range fresh {
		standBeside(&out[i], ending, items[i], used)
	}
	return out
}

// standBeside gives a name a counter where something else beside it is called the same.
func standBeside(n *Name, ending string, it Item, used map[string]bool) {
	if it.Beside == nil {
		return
	}
	beside := map[string]bool{}
	for _, name := range it.Beside() {
		beside[Fold(name)] = true
	}
	if !beside[Fold(n.Name)] {
		return
	}
	n.Name, n.By = free(strings.TrimSuffix(n.Name, ending), ending, func(k string) bool { return beside[k] || used[k] }), ByCounter
	used[Fold(n.Name)] = true
}

// Free returns a safe name that isn't among those taken, which are given by Fold:
// where it is, a counter follows, for which a long name is shortened. It ends
// after one more try than there are names taken.
func Free(name, ending string, taken map[string]bool) string {
	return free(name, ending, func(k string) bool { return taken[k] })
}

func free(name, ending string, taken func(folded string) bool) string {
	out := Safe(name, ending)
	for n := 2; taken(Fold(out)); n++ {
		out = numbered(name, ending, strconv.Itoa(n))
	}
	return out
}

// Numbered is a safe name with a number before its ending, as Free and TellApart give it.
func Numbered(name, ending string, n int) string {
	return numbered(strings.TrimSuffix(name, ending), ending, strconv.Itoa(n))
}

// numbered is a name, without its ending, with a number before it.
func numbered(name, ending, n string) string {
	mark := " (" + n + ")"
	return Safe(trimEnds(cut(Safe(name, ""), MaxBytes-len(ending)-len(mark)))+mark, ending)
}

// numberOf is the number that a name has before its ending, as numbered gives it.
func numberOf(name, ending string) (n string, ok bool) {
	stem, closed := strings.CutSuffix(strings.TrimSuffix(name, ending), ")")
	at := strings.LastIndex(stem, " (")
	if !closed || at < 0 {
		return "", false
	}
	n = stem[at+2:]
	v, err := strconv.Atoi(n)
	return n, err == nil && v > 1
}

// comesFrom reports whether a packed name is what the values give, with or
// without a mark that told it apart.
func comesFrom(packed string, p Pattern, ending string, values record.Getter) bool {
	if n, ok := numberOf(packed, ending); ok {
		return oneGives(packed, p, ending, values, func(name string) bool {
			return name == packed || numbered(strings.TrimSuffix(name, ending), ending, n) == packed
		})
	}
	return oneGives(packed, p, ending, values, func(name string) bool { return name == packed })
}

// oneGives reports whether one of the names that the values give is the one; packed
// is where marks are looked for.
func oneGives(packed string, p Pattern, ending string, values record.Getter, is func(string) bool) bool {
	if is(Safe(p.Render(values), ending)) {
		return true
	}
	for _, column := range []record.Field{record.Number, record.Period} {
		v := said(values.Get(column))
		if v == "" || alnum(v) && !strings.Contains(packed, v) { // safe names keep letters and digits
			continue
		}
		if is(marked(p, ending, values, v)) {
			return true
		}
	}
	for _, n := range counters(packed) {
		if is(marked(p, ending, values, n)) {
			return true
		}
	}
	return false
}

// alnum reports a text of ASCII letters and digits alone.
func alnum(s string) bool {
	for i := range len(s) {
		if c := s[i]; c < '0' || c > '9' && c < 'A' || c > 'Z' && c < 'a' || c > 'z' {
			return false
		}
	}
	return true
}

// counters are the numbers from 1 to 99 that a name could be told apart by: a counter
// is behind a space, or at the beginning where there is nothing else. What follows
// it may be a digit of a value.
func counters(name string) []string {
	digit := func(i int, from byte) bool { return i < len(name) && name[i] >= from && name[i] <= '9' }
	var out []string
	for i := range len(name) {
		if i > 0 && name[i-1] != ' ' || !digit(i, '1') {
			continue
		}
		out = append(out, name[i:i+1])
		if digit(i+1, '0') {
			out = append(out, name[i:i+2])
		}
	}
	return out
}

// tryColumn marks every name of group with a column's value; it changes
// nothing and reports false unless that makes all of them new and different.
func tryColumn(p Pattern, ending string, items []Item, out []Name, used map[string]bool, group []int,
	column record.Field, rule string) bool {
	names := make([]string, len(group))
	seen := map[string]bool{}
	for n, i := range group {
		v := said(items[i].Values.Get(column))
		if v == "" {
			return false
		}
		names[n] = marked(items[i].by(p), ending, items[i].Values, v)
		k := Fold(names[n])
		if seen[k] || used[k] {
			return false
		}
		seen[k] = true
	}
	for n, i := range group {
		out[i].Name, out[i].By = names[n], rule
		used[Fold(names[n])] = true
	}
	return true
}

func count(p Pattern, ending string, items []Item, out []Name, used map[string]bool, group []int) {
	n := 1
	for _, i := range group {
		for {
			name := marked(items[i].by(p), ending, items[i].Values, strconv.Itoa(n))
			n++
			if k := Fold(name); !used[k] {
				out[i].Name, out[i].By = name, ByCounter
				used[k] = true
				break
			}
		}
	}
}

// marked renders with a mark and, where the name would be cut, shortens the
// pattern's values rather than lose the mark.
func marked(p Pattern, ending string, values record.Getter, mark string) string {
	full := p.RenderMarked(values, mark)
	if len(Safe(full, ""))+len(ending) <= MaxBytes {
		return Safe(full, ending)
	}
	plain := Safe(p.Render(values), "")
	return Safe(trimEnds(cut(plain, MaxBytes-len(ending)-len(mark)-1))+" "+mark, ending)
}
