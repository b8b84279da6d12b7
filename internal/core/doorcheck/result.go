package doorcheck

import (
	"slices"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
)

// A Line is a difference as it is shown and kept, with why it is one.
type Line struct {
	Difference
	ID    string         `json:"id"`
	Why   packing.Reason `json:"why"`
	Mends bool           `json:"mends"`           // something puts it right
	Usual bool           `json:"usual"`           // and is meant to, unless somebody says otherwise
	Where string         `json:"where,omitempty"` // what the folder is called that it lies in
	// Others are whom it concerns beside those it names.
	Others int `json:"others,omitempty"`
}

// Known reports a line that other notes tell of: what was never given is lacking, or stuck.
func (l Line) Known() bool { return l.Why.Code == NeverShared }

// NeverShared is why somebody lacks what nobody gave them yet.
const NeverShared = "door-never-shared"

// A Try is a door that was tried as somebody.
type Try struct {
	Who   string `json:"who"`
	Thing string `json:"thing"`
	Name  string `json:"name"`
	Opens bool   `json:"opens"` // by the rules
}

// A Result is what is kept of a check.
type Result struct {
	Students int    `json:"students"`
	Staff    int    `json:"staff"`
	Things   int    `json:"things"`
	Doors    int    `json:"doors"`   // that are as they should be
	Tried    int    `json:"tried"`   // as the students themselves
	Wrong    []Try  `json:"wrong"`   // of those, that did otherwise than the rules say
	Passing  int    `json:"passing"` // things that a list was being packed about
	Lines    []Line `json:"lines"`
	Left     []Line `json:"left"` // left as they are
	More     int    `json:"more"` // lines beyond those that are kept
}

// What is kept of a check: so many lines, each with so many people.
const (
	mostLines  = 1000
	mostPeople = 40
)

// Took is the result of a report, where left are the differences that are left as they are.
func Took(w World, r Report, why func(Difference) packing.Reason, left map[string]bool) Result {
	out := Result{Staff: len(w.Staff) + 1, Things: r.Things, Wrong: []Try{}, Lines: []Line{}, Left: []Line{}}
	at := w.work()
	for _, d := range r.Differences {
		_, mends := at.mend(d)
		line := Line{Difference: d, ID: d.ID(), Why: why(d), Mends: mends, Usual: mends && d.Usual()}
		if in := at.found[d.In]; in != nil {
			line.Where = in.Name
		}
		if line.Others = max(len(d.Who)-mostPeople, 0); line.Others > 0 {
			line.Who = d.Who[:mostPeople]
		}
		switch {
		case left[line.ID]:
			out.Left = append(out.Left, line)
		case len(out.Lines) < mostLines:
			out.Lines = append(out.Lines, line)
		default:
			out.More++
		}
	}
	out.Doors = max(r.Doors-len(out.Lines)-out.More, 0)
	return out
}

// Tries are doors to try as some students, seed saying which: of each a thing that is theirs, and
// one that is another's or staff's. Nothing is tried about which there is a difference.
func (w World) Tries(most int, students []string, seed uint64, differs []Difference) []Try {
	at := w.work()
	odd := map[string]bool{}
	for _, d := range differs {
		odd[d.Thing] = true
	}
	if len(students) == 0 || len(w.Found) == 0 {
		return nil
	}
	var out []Try
	for i := range most {
		who := students[(seed+uint64(i/2))%uint64(len(students))]
		opens := i%2 == 0
		from := seed*31 + uint64(i)*17
		for j := range w.Found { // the first from some place on that does
			f := &w.Found[(from+uint64(j))%uint64(len(w.Found))]
			chain := at.lies(f)
			if odd[f.ID] || f.Place != ledger.Lies || slices.ContainsFunc(chain, func(t access.Thing) bool { return odd[t.ID] }) {
				continue
			}
			if (access.Effective(who, chain, w.At).Level >= access.Read) == opens {
				out = append(out, Try{Who: who, Thing: f.ID, Name: f.Name, Opens: opens})
				break
			}
		}
	}
	return out
}

// Noted is how many of the lines are to be told of where nobody asked.
func (r Result) Noted() int {
	n := r.More + len(r.Wrong)
	for _, l := range r.Lines {
		if !l.Known() {
			n++
		}
	}
	return n
}
