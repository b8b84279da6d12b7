package lists

import (
	"maps"
	"slices"
	"strings"

	"jollysatchel/internal/core/record"
)

// A State is how one row of a roster stood at some time: what the class's own
// list said. Whom it was linked to is not part of it, for that follows from the
// address.
type State struct {
	record.Record
	Confirmed string `json:"confirmed,omitempty"`
	Left      int64  `json:"left,omitempty"` // milliseconds since 1970; 0: in the class
}

// Same reports whether two states of a row are one.
func (s State) Same(o State) bool {
	return s.Confirmed == o.Confirmed && s.Left == o.Left && s.Address == o.Address && len(record.Diff(s.Record, o.Record)) == 0
}

// A RowChange is a row before and after; nil where it wasn't there.
type RowChange struct {
	Row    string `json:"row"`
	Before *State `json:"before"`
	After  *State `json:"after"`
}

// What names the change: added, removed, left, returned or changed.
func (c RowChange) What() string {
	switch {
	case c.Before == nil:
		return "added"
	case c.After == nil:
		return "removed"
	case c.Before.Left == 0 && c.After.Left != 0:
		return "left"
	case c.Before.Left != 0 && c.After.Left == 0:
		return "returned"
	}
	return "changed"
}

// Fields are the values that changed, of a row that was there before and after.
func (c RowChange) Fields() []record.FieldChange {
	if c.Before == nil || c.After == nil {
		return nil
	}
	return record.Diff(c.Before.Record, c.After.Record)
}

// Differences lists what changed between two states of a roster, by row.
func Differences(before, after map[string]State) []RowChange {
	var out []RowChange
	for _, row := range slices.Sorted(maps.Keys(after)) {
		a := after[row]
		if b, ok := before[row]; !ok {
			out = append(out, RowChange{Row: row, After: &a})
		} else if !b.Same(a) {
			out = append(out, RowChange{Row: row, Before: &b, After: &a})
		}
	}
	for _, row := range slices.Sorted(maps.Keys(before)) {
		b := before[row]
		if _, there := after[row]; !there {
			out = append(out, RowChange{Row: row, Before: &b})
		}
	}
	return out
}

// Back returns what a roster is once changes are taken back: a state for every
// row, nil for one that goes. whole says that the act was a whole list, packed
// that something was packed in the class since. The code says why it can't be:
// "packed-since" (the way back is then the list as it stood before) or
// "changed-since".
func Back(changes []RowChange, now map[string]State, whole, packed bool) (back map[string]*State, code string) {
	back = make(map[string]*State, len(changes))
	for _, c := range changes {
		if packed && (whole || c.Before == nil) {
			return nil, "packed-since"
		}
		s, there := now[c.Row]
		if c.After == nil || !there || !s.Same(*c.After) {
			return nil, "changed-since"
		}
		back[c.Row] = c.Before
	}
	return back, ""
}

// Before returns the roster as it stood before the last of acts, which are
// given newest first.
func Before(now map[string]State, acts [][]RowChange) []State {
	then := maps.Clone(now)
	for _, act := range acts {
		for _, c := range act {
			if c.Before == nil {
				delete(then, c.Row)
			} else {
				then[c.Row] = *c.Before
			}
		}
	}
	var out []State
	for _, row := range slices.Sorted(maps.Keys(then)) {
		if s := then[row]; s.Left == 0 {
			out = append(out, s)
		}
	}
	return out
}

// A Clash is two rows of a class that have one address: the row that is there,
// the name of the other, and whether that one has left.
type Clash struct {
	Row, Other string
	Left       bool
}

// Clashing finds two rows of one address, at least one of them in the class; nil
// where there are none. One who has left keeps the address: they come back to
// their row, it is not given to another. Of two in the class the other is the one whose
// address wasn't changed.
func Clashing(rows map[string]State, changed map[string]bool) *Clash {
	owner := make(map[string]string, len(rows))
	ids := slices.Sorted(maps.Keys(rows))
	slices.SortStableFunc(ids, func(a, b string) int { // by who had it first
		rank := map[bool]int{true: 1}
		return rank[changed[a]] - rank[changed[b]]
	})
	for _, gone := range []bool{true, false} {
		for _, id := range ids {
			s := rows[id]
			a := strings.ToLower(s.Address)
			if a == "" || (s.Left != 0) != gone {
				continue
			}
			if o, taken := owner[a]; taken && !gone {
				return &Clash{Row: id, Other: rows[o].Name(), Left: rows[o].Left != 0}
			}
			owner[a] = id
		}
	}
	return nil
}
