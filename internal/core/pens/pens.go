// Package pens is what a class's staff say of when its things close for writing: by hand, of a place or a
// handout, for all of its rows or for some; and the extra time that a row has in every handout.
package pens

import (
	"maps"
	"slices"
	"strconv"
	"time"

	"jollysatchel/internal/core/change"
)

// A Hand is what a teacher said by hand: pens down, or up again.
type Hand struct {
	Down bool      `json:"down"`
	At   time.Time `json:"at"`
	By   string    `json:"by"` // account
}

// Said is what was said by hand of one thing that several rows of the class have: of all of them, and of
// single ones since.
type Said struct {
	All  *Hand           `json:"all,omitempty"`
	Rows map[string]Hand `json:"rows,omitempty"`
}

// Of is what was said for a row, which may be none; ok is false where nothing was.
func (s Said) Of(row string) (h Hand, ok bool) {
	if h, ok = s.Rows[row]; !ok && s.All != nil {
		h, ok = *s.All, true
	}
	return h, ok
}

// Down reports whether pens are down for a row, and since when and by whom.
func (s Said) Down(row string) (Hand, bool) {
	h, _ := s.Of(row)
	return h, h.Down
}

// Say puts pens down or up for some rows, for all where none is named: what was said of single ones before
// ends then. What is so already stays as it was said. there are the rows that there are now.
func (s Said) Say(rows, there []string, hand Hand) Said {
	so := func(row string) bool { _, down := s.Down(row); return down == hand.Down }
	if len(rows) == 0 {
		if so("") && !slices.ContainsFunc(there, func(row string) bool { return !so(row) }) {
			return s
		}
		return Said{All: &hand}
	}
	next := Said{All: s.All, Rows: maps.Clone(s.Rows)}
	if next.Rows == nil {
		next.Rows = map[string]Hand{}
	}
	for _, row := range rows {
		if !so(row) {
			next.Rows[row] = hand
		}
	}
	return next
}

// Same reports whether two say the same.
func (s Said) Same(o Said) bool {
	if (s.All == nil) != (o.All == nil) || s.All != nil && !s.All.same(*o.All) {
		return false
	}
	return maps.EqualFunc(s.Rows, o.Rows, Hand.same)
}

func (h Hand) same(o Hand) bool { return h.Down == o.Down && h.By == o.By && h.At.Equal(o.At) }

// What extra time can be said in.
const (
	MostMinutes = 60 * 24 * 60
	MostPercent = 1000
)

// Extra is the time that a row has beyond the due time: so many minutes, or so many per cent of the time
// there was, from when a handout was packed to when it is due; nothing of these is none.
type Extra struct {
	Minutes int `json:"minutes,omitempty"`
	Percent int `json:"percent,omitempty"`
}

// String is how it is told: 25 %, or 15 min; empty for none.
func (x Extra) String() string {
	switch {
	case x.Percent > 0:
		return strconv.Itoa(x.Percent) + " %"
	case x.Minutes > 0:
		return strconv.Itoa(x.Minutes) + " min"
	}
	return ""
}

// Check refuses what can't be said.
func (x Extra) Check() error {
	if x.Minutes < 0 || x.Minutes > MostMinutes || x.Percent < 0 || x.Percent > MostPercent || x.Minutes > 0 && x.Percent > 0 {
		return change.Refuse("extra", "not-a-time")
	}
	return nil
}

// After is the moment it is until, up to the next whole minute, of something that was there from one moment
// on and is due at another; ok is false where that is no time, or it adds nothing.
func (x Extra) After(from, due time.Time) (until time.Time, ok bool) {
	more := time.Duration(x.Minutes) * time.Minute
	if x.Percent > 0 {
		if from.IsZero() || !from.Before(due) {
			return time.Time{}, false
		}
		more = due.Sub(from) / 100 * time.Duration(x.Percent)
	}
	return due.Add(more + time.Minute - time.Nanosecond).Truncate(time.Minute), more > 0
}
