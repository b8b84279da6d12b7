package picture

import (
	"cmp"
	"slices"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
)

// A Kept is a place or pocket that the plan no longer has, with what there is of it.
type Leftover struct {
	ID     string // of the place or pocket
	Name   string
	Things int // folders of it
	Inside int // things others put into them
	Newest string
}

// Kept are places and pockets that the plan no longer has, with what there is of each; days are
// those of a zone.
func (s *Picture) Leftovers(zone *time.Location) []Leftover {
	out := []Leftover{}
	at := map[string]int{}
	for _, e := range s.Unplanned() {
		id := PlaceID(e.Key)
		i, there := at[id]
		st := s.State(e)
		if !there {
			i = len(out)
			at[id] = i
			out = append(out, Leftover{ID: id, Name: st.Name})
		}
		k := &out[i]
		k.Things++
		if e.Key.Whom == (packing.Whom{}) || e.Key.What.Purpose == packing.Pocket {
			k.Name = st.Name
			k.Inside += st.Inside
		}
		if day := st.InsideAt.In(zone).Format("2006-01-02"); !st.InsideAt.IsZero() && day > k.Newest {
			k.Newest = day
		}
	}
	return out
}

// PlaceID is the id of the place or pocket something was made for.
func PlaceID(k packing.Key) string { return cmp.Or(k.What.ID, string(k.What.Purpose)) }

// Unplanned are the entries of places and pockets that aren't wanted any more, the
// folders that hold others first.
func (s *Picture) Unplanned() []*ledger.Entry {
	wanted, _ := s.everything()
	world := packing.WorldOf(wanted)
	var out []*ledger.Entry
	for k, e := range s.Entries {
		switch k.What.Purpose {
		case packing.Place, packing.Pocket, packing.Shelf, packing.Table:
		default:
			continue
		}
		if _, there := world[k]; there || e.HandedTo != "" || stateIn(s.State(e), true) != packing.Here {
			continue
		}
		if st, in := s.Student(k.Whom.Row); k.Whom.Row != "" && (!in || st.Gone) {
			continue // of one who left: that is for the teacher to say
		}
		out = append(out, e)
	}
	slices.SortFunc(out, func(a, b *ledger.Entry) int {
		whole := func(e *ledger.Entry) int {
			if e.Key.Whom == (packing.Whom{}) {
				return 0
			}
			return 1
		}
		if d := whole(a) - whole(b); d != 0 {
			return d
		}
		return cmp.Compare(a.Key.String(), b.Key.String())
	})
	return out
}

// Discarding is the step that puts something into the bin.
func (s *Picture) Discarding(e *ledger.Entry) packing.Step {
	kind := packing.Folder
	if e.Key.What.Purpose == packing.Copy {
		kind = packing.File
	}
	return packing.Step{
		StepKey: packing.StepKey{Key: e.Key, Act: packing.Discard, Generation: e.Generation},
		Wanted: packing.Wanted{Key: e.Key, Kind: kind, Name: s.State(e).Name, Owner: s.Owner(),
			Rule: access.Rule{Grants: map[string]access.Level{}}},
		Change: &packing.Change{Ends: true}, State: packing.Waiting,
	}
}
