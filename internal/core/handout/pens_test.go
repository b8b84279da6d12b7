package handout_test

import (
	"errors"
	"testing"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/pens"
)

// When copies close, for whom: by themselves when they are due, by hand, and by hand for single rows.
func TestCloses(t *testing.T) {
	due := time.Date(2026, 11, 27, 17, 0, 0, 0, time.UTC)
	before, after := due.Add(-time.Millisecond), due.Add(time.Millisecond)
	down := pens.Hand{Down: true, At: before.Add(-time.Hour), By: "oduya"}
	up := pens.Hand{At: after, By: "oduya"}
	for name, x := range map[string]struct {
		then   string
		none   bool // no due time
		pens   *pens.Hand
		hands  map[string]pens.Hand
		extra  string
		at     time.Time
		closed bool
		by     string
	}{
		"it stays open":                        {at: after},
		"not yet":                              {then: handout.ThenClose, at: before},
		"from the moment on":                   {then: handout.ThenClose, at: due, closed: true},
		"without a due time":                   {then: handout.ThenClose, none: true, at: after},
		"by hand, before":                      {then: handout.ThenClose, pens: &down, at: before, closed: true, by: "oduya"},
		"by hand, where it would stay open":    {pens: &down, at: before, closed: true, by: "oduya"},
		"opened again":                         {then: handout.ThenClose, pens: &up, at: after},
		"one, by hand":                         {hands: map[string]pens.Hand{"r1": down}, at: before, closed: true, by: "oduya"},
		"another, by hand":                     {hands: map[string]pens.Hand{"r2": down}, at: after},
		"one opened where all are closed":      {pens: &down, hands: map[string]pens.Hand{"r1": up}, at: after},
		"one opened that closed by itself":     {then: handout.ThenClose, hands: map[string]pens.Hand{"r1": up}, at: after},
		"extra time":                           {then: handout.ThenClose, extra: "2026-11-27T17:30", at: after},
		"extra time over":                      {then: handout.ThenClose, extra: "2026-11-27T17:30", at: due.Add(30 * time.Minute), closed: true},
		"extra time that ends before":          {then: handout.ThenClose, extra: "2026-11-27T16:30", at: due, closed: true},
		"extra time, all closed by hand":       {pens: &down, extra: "2026-11-27T17:30", at: after},
		"extra time over, closed by hand":      {pens: &down, extra: "2026-11-27T17:30", at: due.Add(time.Hour), closed: true, by: "oduya"},
		"extra time, that one closed by hand":  {extra: "2026-11-27T17:30", hands: map[string]pens.Hand{"r1": down}, at: before, closed: true, by: "oduya"},
		"extra time where it stays open":       {extra: "2026-11-27T17:30", at: due.Add(time.Hour)},
		"another opened that closed by itself": {then: handout.ThenClose, hands: map[string]pens.Hand{"r2": up}, at: after, closed: true},
	} {
		h := handout.Handout{Due: due, Zone: "UTC", Settings: handout.Sentence{Then: x.then, Pens: x.pens, Hands: x.hands}}
		if x.extra != "" {
			h.Settings.Extra = map[string]string{"r1": x.extra, "r2": "2026-12-24T08:00"}
		}
		if x.none {
			h.Due = time.Time{}
		}
		c, ok := h.Closes("r1")
		if closed := ok && c.Closed(x.at); closed != x.closed || closed && c.By != x.by {
			t.Errorf("%s: %v, closed %v by %q", name, c.At, closed, c.By)
		}
	}
}

// In the hour that comes twice copies close at the first of the two, and a time that clocks leave
// out is as much later as they are put on.
func TestClosesByTheClock(t *testing.T) {
	for due, want := range map[string]string{
		"2026-10-25T01:30": "2026-10-25T00:30:00Z", "2026-03-29T01:30": "2026-03-29T01:30:00Z", "2026-11-27T17:00": "2026-11-27T17:00:00Z"} {
		at, err := time.Parse("2006-01-02T15:04", due)
		if err != nil {
			t.Fatal(err)
		}
		h := handout.Handout{Due: at, Zone: "Europe/Lisbon", Settings: handout.Sentence{Then: handout.ThenClose}}
		if c, ok := h.Closes(""); !ok || c.At.UTC().Format(time.RFC3339) != want {
			t.Errorf("due %s closes at %v, want %s", due, c.At.UTC(), want)
		}
	}
}

// What is said by hand is said of those it is about, and of nobody who is like that already.
func TestSay(t *testing.T) {
	now := time.Date(2026, 11, 27, 17, 0, 0, 0, time.UTC)
	all := []string{"r1", "r2", "r3"}
	closed := func(h handout.Handout, at time.Time) (out string) {
		for _, row := range all {
			if c, ok := h.Closes(row); ok && c.Closed(at) {
				out += row
			}
		}
		return out
	}
	h := handout.Handout{Zone: "UTC"}
	for i, x := range []struct {
		rows []string
		down bool
		want string
	}{
		{nil, false, ""}, {[]string{"r2"}, true, "r2"}, {nil, true, "r1r2r3"}, {[]string{"r1"}, false, "r2r3"},
		{[]string{"r1", "r2"}, true, "r1r2r3"}, {nil, false, ""}, {[]string{"r3"}, false, ""},
	} {
		at := now.Add(time.Duration(i) * time.Minute)
		before := change.Digest(h)
		was := closed(h, at)
		h = h.Say(x.rows, all, pens.Hand{Down: x.down, At: at, By: "oduya"})
		if got := closed(h, at); got != x.want {
			t.Errorf("step %d: closed are %s, want %s", i, got, x.want)
		}
		if same := change.Digest(h) == before; same != (was == x.want) {
			t.Errorf("step %d: unchanged is %v, closed were %q and are %q", i, same, was, x.want)
		}
	}
	if c, ok := h.Closes("r1"); ok {
		t.Errorf("opened for all, it closes %v", c)
	}
}

// Another due time takes the place of what was said by hand, and another choice of what happens then.
func TestDueTakesOver(t *testing.T) {
	hand := pens.Hand{Down: true, By: "oduya"}
	text := func(s string) *string { return &s }
	for name, x := range map[string]struct {
		to   handout.Change
		kept bool
	}{
		"another time":     {handout.Change{Due: text("2026-12-01T17:00")}, false},
		"the same time":    {handout.Change{Due: text("2026-11-27T17:00")}, true},
		"copies close":     {handout.Change{Then: text(handout.ThenClose)}, false},
		"they stay open":   {handout.Change{Then: text("")}, true},
		"something else":   {handout.Change{Message: text("Bring a pencil.")}, true},
		"no due time":      {handout.Change{Due: text("")}, false},
		"close at another": {handout.Change{Due: text("2026-12-01T17:00"), Then: text(handout.ThenClose)}, false},
	} {
		h := handout.Handout{Zone: "UTC", Due: time.Date(2026, 11, 27, 17, 0, 0, 0, time.UTC),
			Settings: handout.Sentence{Pens: &hand, Hands: map[string]pens.Hand{"r1": hand}}}
		got, err := handout.Edit{To: x.to}.Of(h, handout.Setting{})
		if err != nil {
			t.Errorf("%s: %v", name, err)
		}
		if kept := got.Settings.Pens != nil && got.Settings.Hands != nil; kept != x.kept {
			t.Errorf("%s: what was said by hand is kept: %v", name, kept)
		}
	}
	_, err := handout.Edit{To: handout.Change{Then: text("burn")}}.Of(handout.Handout{}, handout.Setting{})
	if err == nil {
		t.Error("no such choice, and it is taken")
	}
	if _, err := (handout.Edit{To: handout.Change{Then: text(handout.ThenClose)}}).Of(
		handout.Handout{Settings: handout.Usual(handout.NoticeName)}, handout.Setting{}); err == nil {
		t.Error("a notice closes")
	}
}

// Extra time ends after the due time, is some students' of the class, and isn't told in another class.
func TestExtra(t *testing.T) {
	students := []choosing.Student{{Row: "r1"}, {Row: "r2"}}
	due := time.Date(2026, 11, 27, 17, 0, 0, 0, time.UTC)
	for until, code := range map[string]string{"2026-11-27T17:30": "", "": "", "2026-11-27T17:00": "extra-before-due", "soon": "not-a-time"} {
		h := handout.Handout{Zone: "UTC", Due: due, Settings: handout.Sentence{Extra: map[string]string{"r2": "2026-11-28T17:00"}}}
		got, err := handout.Edit{To: handout.Change{Extra: &handout.ExtraTime{Rows: []string{"r1"}, Until: until}}}.Of(h,
			handout.Setting{Students: students})
		var invalid *change.Invalid
		if code != "" && (!errors.As(err, &invalid) || invalid.Code != code) || code == "" && (err != nil || got.Settings.Extra["r1"] != until ||
			got.Settings.Extra["r2"] == "") {
			t.Errorf("until %q: %v, %v", until, got.Settings.Extra, err)
		}
	}
	lisbon := handout.Handout{Zone: "Europe/Lisbon", PackedAt: time.Date(2026, 10, 24, 16, 0, 0, 0, time.UTC),
		Due: time.Date(2026, 10, 25, 0, 30, 0, 0, time.UTC)} // 0:30 in the night in which 2:00 becomes 1:00, seven and a half hours after it was packed
	for want, x := range map[string]handout.ExtraTime{
		"2026-10-25T00:45": {Minutes: 15}, "2026-10-25T02:00": {Minutes: 150}, "2026-10-25T01:38": {Percent: 15}, "2026-10-25T07:00": {Percent: 100},
	} {
		x.Rows = []string{"r1"}
		got, err := handout.Edit{To: handout.Change{Extra: &x}}.Of(lisbon, handout.Setting{Students: students})
		if err != nil || got.Settings.Extra["r1"] != want {
			t.Errorf("%+v is until %s, want %s, %v", x, got.Settings.Extra["r1"], want, err)
		}
	}
	for _, x := range []handout.ExtraTime{{Minutes: -1}, {Minutes: pens.MostMinutes + 1}, {Percent: pens.MostPercent + 1}} {
		x.Rows = []string{"r1"}
		if _, err := (handout.Edit{To: handout.Change{Extra: &x}}).Of(lisbon, handout.Setting{Students: students}); err == nil {
			t.Errorf("%+v is taken", x)
		}
	}
	if _, err := (handout.Edit{To: handout.Change{Extra: &handout.ExtraTime{Rows: []string{"r1"}, Percent: 10}}}).Of(
		handout.Handout{Zone: "UTC", Due: due}, handout.Setting{Students: students}); err == nil {
		t.Error("per cent of no time")
	}
	for code, x := range map[string]struct {
		h   handout.Handout
		row string
	}{
		"extra-without-due": {handout.Handout{Zone: "UTC"}, "r1"},
		"no-such-student":   {handout.Handout{Zone: "UTC", Due: due}, "r9"},
		"not-of-a-notice":   {handout.Handout{Zone: "UTC", Due: due, Settings: handout.Usual(handout.NoticeName)}, "r1"},
	} {
		_, err := handout.Edit{To: handout.Change{Extra: &handout.ExtraTime{Rows: []string{x.row}, Until: "2026-11-27T17:30"}}}.Of(x.h,
			handout.Setting{Students: students})
		var invalid *change.Invalid
		if !errors.As(err, &invalid) || invalid.Code != code {
			t.Errorf("%v, want %s", err, code)
		}
	}
	if (handout.Change{Extra: &handout.ExtraTime{}}).Common() {
		t.Error("extra time is changed in every class")
	}
}
