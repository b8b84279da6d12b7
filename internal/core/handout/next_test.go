package handout_test

import (
	"slices"
	"testing"
	"time"

	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/telling"
)

// The next handout begins with what was chosen for the last, and with nothing that is that one's own.
func TestNext(t *testing.T) {
	plan := room.Usual()
	plan.Pockets = []room.Pocket{{ID: "p1", Name: "Field work"}}
	s := handout.Usual(handout.EachName)
	s.Level, s.Classmates, s.Passing, s.Pocket, s.Then, s.Tell = "comment", "read", "read", "p1", handout.ThenClose, telling.First
	s.Documents = []handout.GivenDocument{{Slot: 1, Template: "t"}}
	s.Message, s.Instructions, s.Date, s.Show = "Bring boots.", "Read it.", "2026-11-27", "2026-11-28T08:00"
	s.Out, s.Choice = map[string]string{"r1": handout.SitsOut}, choosing.Choice{Picked: true, Ticked: map[string]bool{"r2": true}}
	s.Extra, s.Levels = map[string]string{"r1": "2026-12-24T08:00"}, map[string]string{"r1": "read"}
	s.Mail = &telling.Text{Subject: "Boots"}
	last := handout.Handout{PackedAt: time.Now(), Settings: s}
	next := handout.Handout{Settings: s.Next(plan, record.Vocabulary{record.Period, record.Family, record.Title})}
	if d := next.Differs(last); !slices.Equal(d, []string{}) {
		t.Errorf("it differs in %v", d)
	}
	n := next.Settings
	if len(n.Documents)+len(n.Out)+len(n.Extra)+len(n.Levels) > 0 || n.Message+n.Instructions+n.Date+n.Show != "" || n.Choice.Picked || n.Mail != nil {
		t.Errorf("it begins with what was the last one's own: %+v", n)
	}
	for part, change := range map[string]func(*handout.Sentence){
		handout.PartWay: func(s *handout.Sentence) { s.Way = handout.ForAllName }, handout.PartAccess: func(s *handout.Sentence) { s.Passing = "" },
		handout.PartName: func(s *handout.Sentence) { s.Pocket = "" }, handout.PartThen: func(s *handout.Sentence) { s.Then = "" },
		handout.PartTold: func(s *handout.Sentence) { s.Tell = telling.Not }} {
		other := next
		change(&other.Settings)
		if d := other.Differs(last); !slices.Equal(d, []string{part}) {
			t.Errorf("with another %s it differs in %v", part, d)
		}
	}
	s.Name = naming.Pattern{{Text: "Week 3"}}
	if n := s.Next(plan, nil); n.Name.String() != handout.UsualName().String() {
		t.Errorf("a name without a title comes along: %s", n.Name)
	}
}

// A class's habit is the weekday and hour of most of its last handouts, a day from now at least.
func TestHabit(t *testing.T) {
	at := func(s string) time.Time {
		x, err := time.Parse("2006-01-02T15:04", s)
		if err != nil {
			t.Fatal(err)
		}
		return x
	}
	given := func(dues ...string) (all []handout.Handout) { // the newest first
		for _, d := range dues {
			h := handout.Handout{}
			if d != "" {
				h.Due = at(d)
			}
			all = append(all, h)
		}
		return all
	}
	const fri, wed, mon = "2026-11-06T17:00", "2026-11-11T12:30", "2026-11-09T08:00"
	for name, x := range map[string]struct {
		all       []handout.Handout
		now, want string
	}{
		"none":                    {nil, "2026-11-12T10:00", ""},
		"never due":               {given("", ""), "2026-11-12T10:00", ""},
		"one":                     {given(fri), "2026-11-12T10:00", "2026-11-13T17:00"},
		"less than a day from it": {given(fri), "2026-11-12T17:01", "2026-11-20T17:00"},
		"just a day from it":      {given(fri), "2026-11-12T17:00", "2026-11-13T17:00"},
		"the newest of as many":   {given(wed, fri), "2026-11-12T10:00", "2026-11-18T12:30"},
		"most":                    {given(fri, wed, fri), "2026-11-12T10:00", "2026-11-13T17:00"},
		"some never due":          {given("", mon, "", mon, fri), "2026-11-12T10:00", "2026-11-16T08:00"},
		"over the turn of a year": {given(fri), "2026-12-31T10:00", "2027-01-01T17:00"},
	} {
		want := time.Time{}
		if x.want != "" {
			want = at(x.want)
		}
		if got := handout.Habit(x.all, at(x.now)); !got.Equal(want) {
			t.Errorf("%s: %v, want %v", name, got, want)
		}
	}
}
