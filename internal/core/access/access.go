// Package access answers who may do what with a thing, and why.
package access

import (
	"maps"
	"slices"
	"time"
)

// A Level is what a person may do with a thing. Greater includes smaller.
type Level int

// The levels. Exactly one person is the owner of a thing.
const (
	Nothing Level = iota
	Read          // open, copy, read comments
	Comment       // also comment
	Edit          // also write and, in a folder, add
	Owner         // also rename, move and bin
)

var words = [...]string{"nothing", "read", "comment", "edit", "owner"}

// String returns the level's word: nothing, read, comment, edit or owner.
func (l Level) String() string {
	if l < Nothing || l > Owner {
		return "nothing"
	}
	return words[l]
}

// ParseLevel reads a level's word; ok is false for any other word.
func ParseLevel(word string) (l Level, ok bool) {
	for i, w := range words {
		if w == word {
			return Level(i), true
		}
	}
	return Nothing, false
}

// A Rule names people with levels and says whether the folders above count.
type Rule struct {
	Grants      map[string]Level `json:"grants"`      // person → level
	StandsAlone bool             `json:"standsAlone"` // the rules above don't count
	// School is what anybody of the school may do who has the link: nothing, unless
	// somebody opened it so. Nobody finds it by looking around.
	School Level `json:"school,omitempty"`
}

// Lacks reports whether has gives anybody less than wanted does. More is not less.
func Lacks(has, wanted map[string]Level) bool {
	for who, l := range wanted {
		if has[who] < l {
			return true
		}
	}
	return false
}

// Moved says who would reach a thing that is moved and doesn't now, and who would no
// more: the thing's own rule and owner go along, and what is above is another. now
// has everybody's level on the thing, there that on the folder it comes to be in. One
// that stands alone keeps its people wherever it lies.
func Moved(t Thing, now, there map[string]Level) (gain, lose []string) {
	if t.Rule.StandsAlone {
		return nil, nil
	}
	for who, l := range now {
		if l >= Read && who != t.Owner && t.Rule.Grants[who] < Read && there[who] < Read {
			lose = append(lose, who)
		}
	}
	for who, l := range there {
		if l >= Read && now[who] < Read {
			gain = append(gain, who)
		}
	}
	slices.Sort(gain)
	slices.Sort(lose)
	return gain, lose
}

// A Mark closes a thing and all below it: everyone has at most can read there,
// by any way in, but for those it spares and those it doesn't reach yet. It
// changes no rule.
type Mark struct {
	Since  time.Time            `json:"since"`
	By     string               `json:"by"`     // account
	Spares []string             `json:"spares"` // accounts it never reaches
	Exempt map[string]time.Time `json:"exempt"` // accounts → until when it doesn't reach them
}

// Holds reports whether the mark reaches a person at a moment. No mark reaches
// nobody.
func (m *Mark) Holds(person string, at time.Time) bool {
	return m != nil && !at.Before(m.Since) && !slices.Contains(m.Spares, person) && !at.Before(m.Exempt[person])
}

// SameMark reports whether two marks, or none, close a thing alike.
func SameMark(a, b *Mark) bool {
	if a == nil || b == nil {
		return a == b
	}
	return a.Since.Equal(b.Since) && a.By == b.By && maps.EqualFunc(a.Exempt, b.Exempt, time.Time.Equal) &&
		slices.Equal(slices.Sorted(slices.Values(a.Spares)), slices.Sorted(slices.Values(b.Spares)))
}

// A Thing is what the rules need to know of a folder or file.
type Thing struct {
	ID     string
	Owner  string
	Folder bool
	Rule   Rule
	Closed *Mark // nil: not closed
}

// A Reason says where a level comes from.
type Reason struct {
	Level  Level
	From   string // id of the thing whose owner or rule gives it
	Owned  bool   // by ownership rather than by a rule
	Closed string // id of the thing whose mark keeps it at can read; empty: none does
}

// Effective returns the level person has at a moment on the first thing of
// chain, and why. chain is the thing, then its folder, then that folder's, up to
// the top. The level is the highest that ownership of the thing, its own rule
// and, while open to above, the folders above give, be it to everybody. A folder's owner counts as
// can edit in that folder's own rule. A closed mark on the thing or on any folder
// above leaves at most can read of it.
func Effective(person string, chain []Thing, at time.Time) Reason {
	best := given(person, chain)
	if best.Level <= Read {
		return best
	}
	for _, t := range chain {
		if t.Closed.Holds(person, at) {
			best.Level, best.Closed = Read, t.ID
			break
		}
	}
	return best
}

// Named is the level that ownership and rules give a person by name, without what everybody
// of the school has by a link, and whatever is closed.
func Named(person string, chain []Thing) Level {
	named := slices.Clone(chain)
	for i := range named {
		named[i].Rule.School = Nothing
	}
	return given(person, named).Level
}

// given is what ownership and rules give, whatever is closed.
func given(person string, chain []Thing) Reason {
	best := Reason{Level: Nothing}
	raise := func(l Level, from string, owned bool) {
		if l > best.Level {
			best = Reason{Level: l, From: from, Owned: owned}
		}
	}
	for i, t := range chain {
		if t.Owner == person {
			if i == 0 {
				raise(Owner, t.ID, true)
			} else {
				raise(Edit, t.ID, true)
			}
		}
		if g := t.Rule.Grants[person]; g <= Edit {
			raise(g, t.ID, false)
		}
		if g := t.Rule.School; g <= Edit && person != "" {
			raise(g, t.ID, false)
		}
		if t.Rule.StandsAlone {
			break
		}
	}
	return best
}

// People returns everybody whom ownership or a rule names and who has any level at a
// moment on the first thing of chain. Who has one as everybody of the school has isn't
// among them.
func People(chain []Thing, at time.Time) map[string]Reason {
	out := map[string]Reason{}
	add := func(p string) {
		if _, done := out[p]; done || p == "" {
			return
		}
		if r := Effective(p, chain, at); r.Level > Nothing {
			out[p] = r
		}
	}
	for _, t := range chain {
		add(t.Owner)
		for p := range t.Rule.Grants {
			add(p)
		}
		if t.Rule.StandsAlone {
			break
		}
	}
	return out
}
