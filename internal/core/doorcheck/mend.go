package doorcheck

import (
	"jollysatchel/internal/core/access"
)

// A Mend is what puts a difference right: what is changed about its thing, and nothing else.
type Mend struct {
	Levels map[string]access.Level // what its own rule gives people from then on; Nothing takes it away
	Alone  *bool                   // whether it stands alone
	Shut   bool                    // its link
	Owner  string                  // to whom it is passed on, by whoever has it
	Name   string
	Move   bool // to where it should lie
	Back   bool // out of the bin
	Anew   bool // made again
	Bin    bool
	Open   bool         // its mark is taken away
	Mark   *access.Mark // or another is put in its place
}

// Mend says what puts a difference right; ok is false where nothing does.
func (w World) Mend(d Difference) (m Mend, ok bool) { return w.work().mend(d) }

func (w *worked) mend(d Difference) (m Mend, ok bool) {
	f := w.found[d.Thing]
	if f == nil {
		return m, false
	}
	own := w.own(f)
	switch d.Kind {
	case Missing, Extra, WrongLevel, WrongPerson:
		m.Levels = map[string]access.Level{}
		for _, p := range d.Who {
			m.Levels[p] = own.Rule.Grants[p]
		}
		if d.For != "" {
			m.Levels[d.For] = own.Rule.Grants[d.For]
		}
	case WrongOwner:
		m.Owner = d.For
	case OpenToSchool:
		m.Shut = true
	case NotOpen, NotAlone:
		m.Alone = &own.Rule.StandsAlone
	case LostToStaff:
		if len(d.Who) == 0 { // out of everybody's sight: there is nobody who could
			return m, false
		}
		m.Alone = &own.Rule.StandsAlone
	case Closed:
		m.Open = true
	case NotClosed:
		m.Mark = own.Closed
	case Renamed:
		m.Name = d.Called
	case Moved:
		m.Move = true
	case InBin:
		m.Back = true
	case Gone:
		m.Anew = true
	case Unknown:
		m.Bin = true
	default:
		return m, false
	}
	return m, true
}

// Usual reports that a difference is one to put right unless somebody says otherwise: where a
// thing lies and what it is called may be meant so, and what is binned or made anew is for a
// teacher to say.
func (d Difference) Usual() bool {
	switch d.Kind {
	case Renamed, Moved, InBin, Gone, Unknown:
		return false
	}
	return true
}
