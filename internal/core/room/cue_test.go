package room

import (
	"fmt"
	"testing"
)

// Of up to 64 students no two have the same cue; those that are set stay.
func TestDealCues(t *testing.T) {
	set := map[string]Cue{"r3": {"plum", "kite"}, "r9": {"leather", "anchor"}}
	var rows []string
	for i := range 64 {
		rows = append(rows, fmt.Sprint("r", i))
	}
	got := Deal(rows, set)
	seen := map[Cue]string{}
	for _, row := range rows {
		c := got[row]
		if other, twice := seen[c]; twice || !c.Known() || c.Colour == "" || c.Symbol == "" {
			t.Errorf("%s has %v, as %s has", row, c, other)
		}
		seen[c] = row
	}
	if got["r3"] != set["r3"] || got["r9"] != set["r9"] {
		t.Errorf("those that were set: %v, %v", got["r3"], got["r9"])
	}
	if more := Deal(append(rows, "r64", "r65"), set); !more["r65"].Known() || more["r65"].Symbol == "" {
		t.Errorf("beyond what there are: %v", more["r65"])
	}
	for c, known := range map[Cue]bool{{}: true, {"moss", ""}: true, {"", "oar"}: true, {"pink", "oar"}: false, {"moss", "crab"}: false} {
		if c.Known() != known {
			t.Errorf("%v is known: %v", c, !known)
		}
	}
}
