package picture

import (
	"cmp"
	"slices"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/room"
)

// A Node is a thing of the room as it should be, seen by somebody.
type Node struct {
	packing.Wanted
	Place  room.Place // of the plan, where it is one of those
	Row    string     // whose it is
	Team   string     // name of the team whose it is
	State  string     // what packing does about it: new, share, rename, move, fix, left-out or there
	Note   *packing.Reason
	People int          // students its own rule names
	Given  access.Level // what it gives them, the highest
	Level  access.Level // of anyone who looks
	Why    string       // where that comes from: owner, own, above, or alone
	Inside int          // what is in it that they see
}

// A Tree is the children of one node, and how many things there are in all.
type Tree struct {
	Nodes   []Node
	More    int // children that aren't shown
	Folders int // of everything that is wanted, seen or not
	Files   int
	Grants  int            // people named in own rules, all together
	States  map[string]int // things by State
}

// mostNodes is how many children of a node are shown at once.
const mostNodes = 60

// Tree shows what is under a node as it should be at a moment, as an account sees it; children are
// shown from from on.
func (s *Picture) Tree(account string, under packing.Key, from int, now time.Time) Tree {
	wanted, _ := s.everything()
	states := s.nodeStates(wanted)
	wanted = s.promised(wanted)
	world := packing.WorldOf(wanted)
	t := Tree{Nodes: []Node{}, States: map[string]int{}}
	sees := func(k packing.Key) access.Reason { return access.Effective(account, world.Chain(k), now) }
	// What is in a folder that isn't seen stands where that would stand.
	shown := map[packing.Key]packing.Key{{}: {}} // key → the nearest above that is seen
	inside := map[packing.Key]int{}
	var below []packing.Wanted
	for _, w := range wanted {
		t.States[states[w.Key].state]++
		if w.Kind == packing.File {
			t.Files++
		} else {
			t.Folders++
		}
		t.Grants += len(w.Rule.Grants)
		at := shown[w.Parent]
		shown[w.Key] = at
		if sees(w.Key).Level < access.Read {
			continue
		}
		shown[w.Key] = w.Key
		inside[at]++
		if at == under {
			below = append(below, w)
		}
	}
	from = min(max(from, 0), len(below))
	for _, w := range below[from:min(len(below), from+mostNodes)] {
		n := s.node(w, states[w.Key], sees(w.Key))
		n.Inside = inside[w.Key]
		t.Nodes = append(t.Nodes, n)
	}
	t.More = len(below) - from - len(t.Nodes)
	return t
}

// Eyes is the account with which the things of a student are seen as they should be; who has none yet has one for that.
func (s Student) Eyes() string { return cmp.Or(s.Account, "\x00"+s.ID) }

// promised is what is wanted as it will be once nobody waits for an address or for the class to open.
func (s *Picture) promised(wanted []packing.Wanted) []packing.Wanted {
	if len(room.Waiting(s.Room.Students)) == 0 {
		return wanted
	}
	then, listed := *s, s.listed()
	then.Room.Students = slices.Clone(s.Room.Students)
	for i, st := range then.Room.Students {
		if st.Waits != nil {
			then.Room.Students[i].Account, then.Room.Students[i].Waits = listed[st.Row].Eyes(), nil
		}
	}
	all, _ := then.everything()
	return all
}

func (s *Picture) node(w packing.Wanted, st nodeState, why access.Reason) Node {
	n := Node{Wanted: w, Row: w.Key.Whom.Row, State: st.state, Note: st.note, Level: why.Level, People: len(w.Rule.Grants)}
	staff := map[string]bool{}
	for _, m := range s.Room.Staff {
		staff[m.Account] = true
	}
	for account, l := range w.Rule.Grants {
		if staff[account] {
			n.People--
			continue
		}
		n.Given = max(n.Given, l)
	}
	switch {
	case w.Key.What.Purpose == packing.Place:
		n.Place, _ = s.Plan.Place(w.Key.What.ID)
	default:
		n.Place, _ = s.Plan.Place(string(w.Key.What.Purpose))
	}
	for _, teams := range s.Room.Teams {
		for _, t := range teams {
			if w.Key.Whom.Team == t.ID {
				n.Team = t.Name
			}
		}
	}
	switch {
	case why.Owned:
		n.Why = "owner"
	case why.From != w.Key.String():
		n.Why = "above"
	case w.Rule.StandsAlone:
		n.Why = "alone"
	default:
		n.Why = "own"
	}
	return n
}

type nodeState struct {
	state string
	note  *packing.Reason
}

// nodeStates says what a packing list of everything does about each thing.
func (s *Picture) nodeStates(wanted []packing.Wanted) map[packing.Key]nodeState {
	out := make(map[packing.Key]nodeState, len(wanted))
	for _, line := range packing.Compute(wanted, nil, nil, s.actual(wanted)).Lines {
		key := line.Wanted.Key
		switch {
		case line.Section == packing.ToChange:
			if line.Step.Act == packing.Rename || line.Step.Act == packing.Move {
				out[key] = nodeState{string(line.Step.Act), line.Reason}
			}
		case line.Section == packing.NeedsFixing:
			out[key] = nodeState{"fix", line.Reason}
		case line.Section == packing.LeftOut:
			out[key] = nodeState{"left-out", line.Reason}
		case line.Step.Act == packing.Make:
			out[key] = nodeState{"new", nil}
		case line.Section == packing.ToPack:
			out[key] = nodeState{"share", nil}
		default:
			out[key] = nodeState{"there", line.Reason}
		}
	}
	return out
}
