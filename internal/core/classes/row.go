package classes

import (
	"time"

	"jollysatchel/internal/core/lists"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
)

// A Row puts somebody in one class. It belongs to that class alone.
type Row struct {
	roster.ClassRow
	ClassID string
	Added   int       // order in which rows came
	LeftAt  time.Time // zero: in the class
}

// State is the row as history keeps it.
func (r Row) State() lists.State {
	s := lists.State{Record: r.Record, Confirmed: r.Confirmed}
	if r.Gone {
		s.Left = r.LeftAt.UnixMilli()
	}
	return s
}

// Put brings the row to a state of its history; whom it is linked to follows
// from the address.
func (r *Row) Put(s lists.State) {
	r.Record, r.Confirmed, r.Gone, r.LeftAt = s.Record, s.Confirmed, s.Left != 0, time.Time{}
	if r.Gone {
		r.LeftAt = time.UnixMilli(s.Left).UTC()
	}
}

// SetLeft ends the row at a time, or reopens it.
func (r *Row) SetLeft(left bool, at time.Time) {
	r.Gone, r.LeftAt = left, time.Time{}
	if left {
		r.LeftAt = at.UTC().Truncate(time.Millisecond)
	}
}

// Return brings somebody who has left back to their row, with what is said of
// them now; what isn't said stays.
func (r *Row) Return(says record.Record) {
	for _, f := range record.Listed {
		if v := says.Get(f); v != "" {
			r.Set(f, v)
		}
	}
	r.Gone, r.LeftAt = false, time.Time{}
}
