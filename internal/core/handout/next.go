package handout

import (
	"slices"
	"time"

	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
)

// Last is the handout that the next one of a class begins like: the one packed last; notices and what was
// withdrawn aside. ok is false where there is none.
func Last(all []Handout) (last Handout, ok bool) {
	for _, h := range all {
		if h.Packed() && h.Settings.Way != NoticeName && (!ok || h.PackedAt.After(last.PackedAt)) {
			last, ok = h, true
		}
	}
	return last, ok
}

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
// last ones that were due, of as many the newest, at the first such a day or more after what clocks show now. It is
// zero where none was due.
func Habit(all []Handout, now time.Time) time.Time {
	packed := slices.DeleteFunc(slices.Clone(all), func(h Handout) bool {
		return !h.Packed() || h.Due.IsZero() || h.Settings.Way == NoticeName
	})
	slices.SortStableFunc(packed, func(a, b Handout) int { return b.PackedAt.Compare(a.PackedAt) })
	type slot struct {
		day   time.Weekday
		clock time.Duration // since midnight
	}
	of := func(t time.Time) slot {
		return slot{t.Weekday(), t.Sub(time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC))}
	}
	count, best := map[slot]int{}, slot{}
	for _, h := range packed[:min(len(packed), Lately)] {
		count[of(h.Due)]++
	}
	if len(count) == 0 {
		return time.Time{}
	}
	for _, h := range slices.Backward(packed[:min(len(packed), Lately)]) { // of as many, the newest
		if s := of(h.Due); count[s] >= count[best] {
			best = s
		}
	}
	day := time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, time.UTC)
	for {
		if at := day.Add(best.clock); day.Weekday() == best.day && !at.Before(now.AddDate(0, 0, 1)) {
			return at
		}
		day = day.AddDate(0, 0, 1)
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
	out := []string{}
	for _, x := range []struct {
		part string
		same bool
	}{
		{PartWay, a.Way == b.Way && a.By == b.By && a.Teams == b.Teams},
		{PartAccess, a.Level == b.Level && none(a.Classmates) == none(b.Classmates) && none(a.Passing) == none(b.Passing)},
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

// none is a level that may be said as nothing.
func none(level string) string {
	if level == "" {
		return "nothing"
	}
	return level
}
