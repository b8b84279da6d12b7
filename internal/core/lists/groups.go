package lists

import (
	"strings"

	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/roster"
)

// A Group is the students of one class in a list that holds several.
type Group struct {
	Key      string `json:"key"`
	Class    string `json:"class"`
	Period   string `json:"period"` // only where periods are classes of their own
	Students []int  `json:"-"`      // places in the list
}

// Groups divides a list by its class column, and by period too where periods
// are classes of their own, in the order they first appear.
func Groups(list []roster.Student, byPeriod bool) []Group {
	at := map[string]int{}
	var out []Group
	for i, s := range list {
		period := ""
		if byPeriod {
			period = s.Period
		}
		key := naming.Fold(s.Class) + "/" + naming.Fold(period)
		g, ok := at[key]
		if !ok {
			g = len(out)
			at[key] = g
			out = append(out, Group{Key: key, Class: s.Class, Period: period})
		}
		out[g].Students = append(out[g].Students, i)
	}
	return out
}

// A Named is a class there is, as a list may name it.
type Named struct{ Code, Name, Period string }

// SameClass reports whether a list's class is one there is: its name or code
// is the same, or code and name together are, and where both have a period it
// is the same. A name that ends in the code may be said without it.
func (g Group) SameClass(c Named) bool {
	if g.Period != "" && c.Period != "" && naming.Fold(g.Period) != naming.Fold(c.Period) {
		return false
	}
	said := plainWords(g.Class)
	if said == "" {
		return false
	}
	for _, name := range []string{c.Code, c.Name, c.Code + " " + c.Name, c.Name + " " + c.Code, strings.TrimSuffix(c.Name, " "+c.Code)} {
		if plainWords(name) == said {
			return true
		}
	}
	return false
}

func plainWords(s string) string { return strings.Join(strings.Fields(roster.Plain(s)), " ") }
