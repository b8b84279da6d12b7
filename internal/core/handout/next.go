package handout

import (
	"cmp"
	"slices"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
)

// Next is what a handout begins with after an earlier one of its class: the way, access, place, name, closing and
// telling that were chosen there. Its documents, words and times are its own, and it is for everybody. A name
// that says no title is that handout's own, too.
func (s Sentence) Next(plan room.Plan, known record.Vocabulary) Sentence {
	out, _ := s.Again(plan, plan, known, func(GivenDocument) bool { return false })
	usual := Usual(s.Way)
	out.Choice, out.Message, out.Instructions, out.Links, out.ForParents = usual.Choice, "", "", nil, false
	out.Mail, out.MailChanged = nil, nil
	if !slices.ContainsFunc(out.Name, func(p naming.Part) bool { return p.Column == record.Title }) {
		out.Name = usual.Name
	}
	return out
}

// Lately are as many handouts, packed last, as say what the habit of a class is.
const Lately = 5

// Habit is when the next handout of a class is due, as it is its habit: on the weekday and at the time of most of the
// last ones that were due, of as many the newest, at the first such a day or more after what clocks show now. lately
// are those, the newest first; it is zero where none was due.
func Habit(lately []Handout, now time.Time) time.Time {
	type slot struct {
		day   time.Weekday
		clock time.Duration // since midnight
	}
	midnight := func(t time.Time) time.Time { return time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC) }
	count, best := map[slot]int{}, slot{}
	for _, h := range slices.Backward(lately) { // of as many, the newest
		if h.Due.IsZero() {
			continue
		}
		s := slot{h.Due.Weekday(), h.Due.Sub(midnight(h.Due))}
		if count[s]++; count[s] >= count[best] {
			best = s
		}
	}
	if len(count) == 0 {
		return time.Time{}
	}
	for day := midnight(now); ; day = day.AddDate(0, 0, 1) {
		if at := day.Add(best.clock); day.Weekday() == best.day && !at.Before(now.AddDate(0, 0, 1)) {
			return at
		}
	}
}

// The parts in which a handout is as the last one, or not.
const (
	PartWay    = "way"
	PartAccess = "access"
	PartName   = "name"
	PartThen   = "then"
	PartTold   = "told"
)

// Differs are the parts in which a handout isn't as an earlier one.
func (h Handout) Differs(last Handout) []string {
	a, b := h.Settings, last.Settings
	or := func(level string) string { return cmp.Or(level, access.Nothing.String()) }
	out := []string{}
	for _, x := range []struct {
		part string
		same bool
	}{
		{PartWay, a.Way == b.Way && a.By == b.By && a.Teams == b.Teams},
		{PartAccess, a.Level == b.Level && or(a.Classmates) == or(b.Classmates) && or(a.Passing) == or(b.Passing)},
		{PartName, a.Name.String() == b.Name.String() && a.Pocket == b.Pocket},
		{PartThen, a.Then == b.Then},
		{PartTold, a.Way.Tells(a.Tell) == b.Way.Tells(b.Tell) && a.Mail == nil && a.MailChanged == nil},
	} {
		if !x.same {
			out = append(out, x.part)
		}
	}
	return out
}
