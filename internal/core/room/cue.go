package room

import "slices"

// A Cue is a colour and a symbol by which a young student knows the own satchel;
// either may be empty.
type Cue struct{ Colour, Symbol string }

// The colours and symbols there are; their drawings are the interface's.
var (
	Colours = []string{"leather", "tide", "moss", "plum", "brass", "slate", "coral", "sand"}
	Symbols = []string{"anchor", "shell", "kite", "lamp", "buoy", "oar", "feather", "star"}
)

// Known reports a cue of colours and symbols there are.
func (c Cue) Known() bool {
	return (c.Colour == "" || slices.Contains(Colours, c.Colour)) && (c.Symbol == "" || slices.Contains(Symbols, c.Symbol))
}

// Deal gives every row a cue that no other has, as long as there are enough: symbols
// go round within each colour. Cues that are set already stay and aren't given again.
func Deal(rows []string, set map[string]Cue) map[string]Cue {
	used := map[Cue]bool{}
	for _, c := range set {
		used[c] = true
	}
	out := map[string]Cue{}
	n := 0
	next := func() Cue {
		all := len(Colours) * len(Symbols)
		for range all {
			c := Cue{Colours[(n+n/len(Colours))%len(Colours)], Symbols[n%len(Symbols)]}
			if n++; !used[c] {
				used[c] = true
				return c
			}
		}
		n++ // all are given: they are given again
		return Cue{Colours[n%len(Colours)], Symbols[n/len(Colours)%len(Symbols)]}
	}
	for _, row := range rows {
		if c, there := set[row]; there {
			out[row] = c
		} else {
			out[row] = next()
		}
	}
	return out
}
