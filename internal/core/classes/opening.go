package classes

import (
	"slices"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/wall"
)

// An Opening says that what is made in a class is for its students later: until then it is closed to them on purpose, and
// access follows by itself.
type Opening struct {
	At   string   `json:"at,omitempty"`   // what the clocks of the zone show then; empty: when staff say so
	Zone string   `json:"zone,omitempty"` // name in the time zone database
	Rows []string `json:"rows,omitempty"` // who is let in before all others
}

// MostAhead is how long before it opens a class can be prepared.
const MostAhead = 366 * 24 * time.Hour

// CheckOpening is an opening at a wall-clock time of a zone, or, where that is empty, by hand. It is refused where that isn't
// a time, is over, or is more than MostAhead from now.
func CheckOpening(at, zone string, now time.Time) (*Opening, error) {
	o := &Opening{At: at, Zone: zone}
	if at == "" {
		return o, nil
	}
	t, err := wall.Parse(at)
	if err != nil || t.Second() != 0 {
		return nil, change.Refuse("at", "not-a-time")
	}
	switch moment := wall.Moment(t, zone); {
	case !moment.After(now):
		return nil, change.Refuse("at", "time-past")
	case moment.Sub(now) > MostAhead:
		return nil, change.Refuse("at", "opening-far")
	}
	return o, nil
}

// Passed reports that the opening's time has come.
func (o *Opening) Passed(now time.Time) bool {
	if o == nil || o.At == "" {
		return o == nil
	}
	t, err := wall.Parse(o.At)
	return err == nil && !now.Before(wall.Moment(t, o.Zone))
}

// Waits says why a row's student doesn't have what is made for them yet; nil where they do.
func (o *Opening) Waits(row string, now time.Time) *packing.Reason {
	switch {
	case o.Passed(now), slices.Contains(o.Rows, row):
		return nil
	case o.At == "":
		return &packing.Reason{Code: OpensByHand}
	}
	return &packing.Reason{Code: Opens, Args: map[string]string{"at": o.At}}
}

// Reasons why students don't have something yet that is made for them.
const (
	Opens       = "opens"
	OpensByHand = "opens-by-hand"
)

// LetIn opens the class for some rows before all others; for everybody where none is named, and then nothing waits any more.
func (o *Opening) LetIn(rows []string) *Opening {
	if o == nil || len(rows) == 0 {
		return nil
	}
	next := &Opening{At: o.At, Zone: o.Zone, Rows: slices.Clone(o.Rows)}
	for _, row := range rows {
		if !slices.Contains(next.Rows, row) {
			next.Rows = append(next.Rows, row)
		}
	}
	return next
}
