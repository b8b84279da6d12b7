package picture

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"

	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
)

// Stale are the copies whose document was changed since they were given. Of one made
// before what it was given with was kept, times decide.
func (s *Picture) Stale(handout string, documents map[int]ledger.Seen, works map[string]ledger.Work) Copies {
	h, _ := s.Handout(handout)
	return s.CopiesOf(handout, works, func(e *ledger.Entry, st ledger.Seen) bool {
		if s.besides(h, e) {
			return false
		}
		document, given := documents[e.Key.What.Slot], e.GivenSHA
		if given == "" && st.Version == e.Given {
			given = st.SHA
		}
		if document.SHA == "" || given == "" {
			return document.SHA != "" && document.ChangedAt.After(e.MadeAt)
		}
		return given != document.SHA
	})
}

// besides reports that the same document was given once more beside a copy.
func (s *Picture) besides(h handout.Handout, e *ledger.Entry) bool {
	documents := h.Settings.Documents
	i := slices.IndexFunc(documents, func(d handout.GivenDocument) bool { return d.Slot == e.Key.What.Slot })
	return i >= 0 && slices.ContainsFunc(documents, func(d handout.GivenDocument) bool {
		k := e.Key
		k.What.Slot = d.Slot
		return d.Slot > e.Key.What.Slot && d.Template == documents[i].Template && slices.Contains(d.Only, k.Whom.Row) && s.Entries[k] != nil
	})
}

// A GivenCopy is a copy of a handout that lies somewhere.
type GivenCopy struct {
	Entry ledger.Entry
	Name  string // whose it is, as listed; of several, what it is called
	Begun bool   // somebody has begun with it
	Base  int    // its version
}

// Seen is the copy as it was looked at.
func (g GivenCopy) Seen() map[string]int { return map[string]int{g.Entry.Thing: g.Base} }

// Copies are copies of a handout, untouched ones first.
type Copies []GivenCopy

// Digest tells what was looked at from what there is now.
func (c Copies) Digest() string {
	sum := sha256.New()
	for _, x := range c {
		fmt.Fprintln(sum, x.Entry.Thing, x.Base, x.Begun)
	}
	return hex.EncodeToString(sum.Sum(nil)[:12])
}

// CopiesOf are those copies of a handout that lie somewhere and are meant, and weren't handed over.
func (s *Picture) CopiesOf(handout string, works map[string]ledger.Work, meant func(e *ledger.Entry, st ledger.Seen) bool) Copies {
	var out Copies
	listed := s.listed()
	for k, e := range s.Entries {
		st := s.State(e)
		if k.What.Purpose != packing.Copy || k.What.ID != handout || st.Place != ledger.Lies || e.HandedTo != "" || !meant(e, st) {
			continue
		}
		x := GivenCopy{Entry: *e, Name: st.Name, Begun: e.Begun(st.Version, works[e.Thing]), Base: max(st.Version, e.Given)}
		if student := listed[k.Whom.Row]; student != nil {
			x.Name = student.SortName()
		}
		out = append(out, x)
	}
	rank := map[bool]int{true: 1}
	slices.SortFunc(out, func(a, b GivenCopy) int {
		return cmp.Or(rank[a.Begun]-rank[b.Begun], cmp.Compare(a.Name, b.Name), cmp.Compare(a.Entry.Thing, b.Entry.Thing))
	})
	return out
}

// AnyCopy means every copy.
func AnyCopy(*ledger.Entry, ledger.Seen) bool { return true }
