package room

import (
	"strings"

	"jollysatchel/internal/core/naming"
)

// A Belonging is a thing and the row of the student it belongs to; empty where it is
// nobody's.
type Belonging struct{ Thing, Row string }

// A Destination is where some of the things go that are spread: what a link leads to,
// or the folder of a name in the folder that was chosen. Only one of them is set.
type Destination struct {
	Link   string // unguessable part of a lasting link
	Name   string
	Things []string
}

// Spread sends each thing to the place named in its row, in the order of the things;
// what says what a row names: an address with a lasting link at its end, or a name,
// which is made safe. Equal names, as the cupboard sees them, are one folder. The rest
// are things of nobody, and those whose row names nothing.
func Spread(things []Belonging, says func(row string) string) (to []Destination, rest []string) {
	at := map[string]int{}
	for _, b := range things {
		said := ""
		if b.Row != "" {
			said = strings.TrimSpace(says(b.Row))
		}
		if said == "" {
			rest = append(rest, b.Thing)
			continue
		}
		d := Destination{Link: linkIn(said)}
		key := "link " + d.Link
		if d.Link == "" {
			d.Name = naming.Safe(said, "")
			key = "name " + naming.Fold(d.Name)
		}
		i, ok := at[key]
		if !ok {
			i = len(to)
			at[key], to = i, append(to, d)
		}
		to[i].Things = append(to[i].Things, b.Thing)
	}
	return to, rest
}

// linkIn is the last part of an address, empty of what isn't one.
func linkIn(said string) string {
	_, path, ok := strings.Cut(said, "://")
	if !ok {
		return ""
	}
	if i := strings.IndexAny(path, "?#"); i >= 0 {
		path = path[:i]
	}
	host, last, _ := strings.Cut(strings.TrimRight(path, "/"), "/")
	if host == "" {
		return ""
	}
	return last[strings.LastIndex(last, "/")+1:]
}
