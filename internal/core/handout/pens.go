package handout

import (
	"slices"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/pens"
	"jollysatchel/internal/core/wall"
)

// ThenClose is what happens to copies once a handout is due, where they don't stay open.
const ThenClose = "close"

// A Closing is the moment from which on a copy can be read and not written in.
type Closing struct {
	At time.Time
	By string // the account that closed it by hand; empty: it closes by itself
}

// Closed reports whether it has closed at a moment, which is the first it is closed at.
func (c Closing) Closed(at time.Time) bool { return !at.Before(c.At) }

// Closes is when copies close for a row of the class, on whose copy, or in whose name, it is
// written; ok is false where they stay open. What was said of that row by hand counts before what
// was said of all, and that before the due time. Extra time holds against both of these.
func (h Handout) Closes(row string) (c Closing, ok bool) {
	if hand, one := h.Settings.Hands[row]; one {
		return Closing{hand.At, hand.By}, hand.Down
	}
	due, timed := h.DueAt()
	c, ok = Closing{At: due}, timed && h.Settings.Then == ThenClose
	if pens := h.Settings.Pens; pens != nil {
		c, ok = Closing{pens.At, pens.By}, pens.Down
	}
	if until, extra := h.ExtraFor(row); extra && until.After(c.At) {
		c.At = until
	}
	return c, ok
}

// DueFor is the moment it is due for a row, with the extra time of that; ok is false for none.
func (h Handout) DueFor(row string) (at time.Time, ok bool) {
	at, ok = h.DueAt()
	if until, extra := h.ExtraFor(row); ok && extra && until.After(at) {
		at = until
	}
	return at, ok
}

// ExtraFor is until when a row has extra time: as was said of this handout, else what the row has in all
// of them; ok is false for one that has none.
func (h Handout) ExtraFor(row string) (until time.Time, ok bool) {
	if at, err := wall.Parse(h.Settings.Extra[row]); err == nil {
		return wall.Moment(at, h.Zone), true
	}
	standing, due := h.Standing[row], time.Time{}
	if standing == (pens.Extra{}) {
		return time.Time{}, false
	}
	if due, ok = h.DueAt(); ok {
		until, ok = standing.After(h.PackedAt, due)
	}
	return until, ok
}

// Say puts pens down or up by hand: for some rows of the class, for all where none is named. What
// was said of single ones before ends where all are meant. The result is the same handout where
// everybody it is about is like that already.
func (h Handout) Say(rows, all []string, hand pens.Hand) Handout {
	closed := func(h Handout, row string) bool {
		c, ok := h.Closes(row)
		return ok && c.Closed(hand.At)
	}
	next := h
	if len(rows) == 0 {
		next.Settings.Pens, next.Settings.Hands = &hand, nil
		rows = append(all, "")
	} else {
		next.Settings.Hands = cloned(h.Settings.Hands)
		for _, row := range rows {
			if closed(h, row) != hand.Down {
				next.Settings.Hands[row] = hand
			}
		}
	}
	if !slices.ContainsFunc(rows, func(row string) bool { return closed(h, row) != closed(next, row) }) {
		return h
	}
	return next
}

// show says when everybody's copies are kept as they are then; not in the past.
func (e editing) show() error {
	if e.To.Show == nil {
		return nil
	}
	s := e.set()
	if s.Way == NoticeName {
		return change.Refuse("show", "not-of-a-notice")
	}
	if *e.To.Show != "" {
		at, err := time.Parse(wall.Minute, *e.To.Show)
		if err != nil {
			return change.Refuse("show", "not-a-time")
		}
		if !wall.Moment(at, e.h.Zone).After(e.Now) {
			return change.Refuse("show", "time-past")
		}
	}
	return change.Put(e.Was.Show, "show", &s.Show, *e.To.Show)
}

// An ExtraTime gives some rows of the class more time: until a wall-clock time; or so many minutes beyond
// the due time; or so many per cent of the time there was, from when it was packed to when it is due;
// nothing of these takes it away.
type ExtraTime struct {
	Rows    []string `json:"rows"`
	Until   string   `json:"until"`
	Minutes int      `json:"minutes,omitempty"`
	Percent int      `json:"percent,omitempty"`
}

// none reports that extra time is taken away.
func (x ExtraTime) none() bool { return x.Until == "" && x.Minutes == 0 && x.Percent == 0 }

// until is the wall-clock time that extra time is until, to the minute.
func (e editing) until(x *ExtraTime) (time.Time, error) {
	by := pens.Extra{Minutes: x.Minutes, Percent: x.Percent}
	if err := by.Check(); err != nil {
		return time.Time{}, err
	}
	if x.Until != "" {
		at, err := time.Parse(wall.Minute, x.Until)
		if err != nil {
			err = change.Refuse("extra", "not-a-time")
		}
		return at, err
	}
	at, ok := by.After(e.h.PackedAt, wall.Moment(e.h.Due, e.h.Zone))
	if !ok {
		return time.Time{}, change.Refuse("extra", "extra-of-no-time")
	}
	return wall.At(at, e.h.Zone), nil
}

// extra gives single students more time than the others have.
func (e editing) extra() error {
	x := e.To.Extra
	if x == nil {
		return nil
	}
	s := e.set()
	if s.Way == NoticeName {
		return change.Refuse("extra", "not-of-a-notice")
	}
	until := ""
	if !x.none() {
		if e.h.Due.IsZero() {
			return change.Refuse("extra", "extra-without-due")
		}
		at, err := e.until(x)
		if err != nil {
			return err
		}
		until = at.Format(wall.Minute)
		if !wall.Moment(at, e.h.Zone).After(wall.Moment(e.h.Due, e.h.Zone)) {
			return change.Refuse("extra", "extra-before-due")
		}
	}
	s.Extra = cloned(s.Extra)
	for _, row := range x.Rows {
		if !e.there(row) {
			return change.Refuse("extra", "no-such-student")
		}
		if delete(s.Extra, row); until != "" {
			s.Extra[row] = until
		}
	}
	if len(s.Extra) == 0 {
		s.Extra = nil
	}
	return nil
}
