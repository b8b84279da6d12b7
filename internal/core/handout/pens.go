package handout

import "time"

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
// was said of all, and that before the due time.
func (h Handout) Closes(row string) (c Closing, ok bool) {
	hand, one := h.Settings.Hands[row]
	if !one && h.Settings.Pens != nil {
		hand, one = *h.Settings.Pens, true
	}
	if one {
		return Closing{hand.At, hand.By}, hand.Down
	}
	due, timed := h.DueAt()
	return Closing{At: due}, timed && h.Settings.Then == ThenClose
}

// Say puts pens down or up by hand: for some rows of the class, for all where none is named. What
// was said of single ones before ends where all are meant. The result is the same handout where
// everybody it is about is like that already.
func (h Handout) Say(rows, all []string, hand Hand) Handout {
	s := h.Settings
	like := func(row string) bool {
		c, ok := h.Closes(row)
		return (ok && c.Closed(hand.At)) == hand.Down
	}
	if len(rows) == 0 {
		same := like("")
		for _, row := range all {
			same = same && like(row)
		}
		if !same {
			s.Pens, s.Hands = &hand, nil
		}
	} else {
		s.Hands = cloned(s.Hands)
		for _, row := range rows {
			if !like(row) {
				s.Hands[row] = hand
			}
		}
		if len(s.Hands) == 0 {
			s.Hands = nil
		}
	}
	h.Settings = s
	return h
}
