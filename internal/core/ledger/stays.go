package ledger

import (
	"slices"
	"strconv"

	"jollysatchel/internal/core/packing"
)

// Stands is how a thing stands, as far as it says whether its run can be taken back.
type Stands struct {
	Lies   bool // where it was put, or elsewhere, and not in the bin
	Begun  bool
	Words  int // of what was begun
	Inside int // things that others put in
}

// inside are the reasons of folders for what is in them, the weightiest last.
var inside = []string{"", "inside-later", "inside-put", "inside-begun"}

// Stays says why things stay where they are when a run is taken back: one that was begun and a
// folder in which others put something each by itself, other folders by the weightiest of what
// is in them; what another run made counts too. What goes isn't in it.
func (w Where) Stays(run string, is func(*Entry) Stands) map[*Entry]packing.Reason {
	out, own := map[*Entry]packing.Reason{}, map[*Entry]packing.Reason{}
	for _, e := range w.Things {
		above := ""
		switch s := is(e); {
		case !s.Lies:
			continue
		case s.Begun:
			own[e], above = packing.Reason{Code: "begun", Args: map[string]string{"words": strconv.Itoa(s.Words)}}, "inside-begun"
		case s.Inside > 0:
			own[e], above = packing.Reason{Code: "inside", Args: map[string]string{"count": strconv.Itoa(s.Inside)}}, "inside-put"
		case e.RunID != run:
			above = "inside-later"
		default:
			continue
		}
		in, _ := w.Above(e)
		for _, folder := range in {
			if slices.Index(inside, above) > slices.Index(inside, out[folder].Code) {
				out[folder] = packing.Reason{Code: above}
			}
		}
	}
	for e, why := range own {
		out[e] = why
	}
	return out
}
