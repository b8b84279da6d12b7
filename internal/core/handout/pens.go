package handout

import (
	"slices"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/wall"
)

// ThenClose is what happens to copies once a handout is due, where they don't stay open.
const ThenClose = "close"

// A Hand is what a teacher said by hand: pens down, or up again.
type Hand struct {
	Down bool      `json:"down"`
	At   time.Time `json:"at"`
	By   string    `json:"by"` // account
}

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

// ExtraFor is until when a row has extra time; ok is false for one that has none.
func (h Handout) ExtraFor(row string) (until time.Time, ok bool) {
	at, err := wall.Parse(h.Settings.Extra[row])
	if err != nil {
		return time.Time{}, false
	}
	return wall.Moment(at, h.Zone), true
}

// Say puts pens down or up by hand: for some rows of the class, for all where none is named. What
// was said of single ones before ends where all are meant. The result is the same handout where
// everybody it is about is like that already.
func (h Handout) Say(rows, all []string, hand Hand) Handout {
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

// What extra time can be said in.
const (
	MostExtraMinutes = 60 * 24 * 60
	MostExtraPercent = 1000
)

// none reports that extra time is taken away.
func (x ExtraTime) none() bool { return x.Until == "" && x.Minutes == 0 && x.Percent == 0 }

// until is the wall-clock time that extra time is until, to the minute.
func (e editing) until(x *ExtraTime) (time.Time, error) {
	if x.Minutes < 0 || x.Minutes > MostExtraMinutes || x.Percent < 0 || x.Percent > MostExtraPercent {
		return time.Time{}, change.Refuse("extra", "not-a-time")
	}
	if x.Until != "" {
		at, err := time.Parse(wall.Minute, x.Until)
		if err != nil {
			err = change.Refuse("extra", "not-a-time")
		}
		return at, err
	}
	due := wall.Moment(e.h.Due, e.h.Zone)
	more := time.Duration(x.Minutes) * time.Minute
	if x.Percent > 0 {
		if e.h.PackedAt.IsZero() || !e.h.PackedAt.Before(due) {
			return time.Time{}, change.Refuse("extra", "extra-of-no-time")
		}
		more = due.Sub(e.h.PackedAt) / 100 * time.Duration(x.Percent)
	}
	return wall.At(due.Add(more+time.Minute-time.Nanosecond).Truncate(time.Minute), e.h.Zone), nil
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
