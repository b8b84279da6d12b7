package register_test

import (
	"testing"
	"time"

	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/register"
)

// Due times of what was given, each handout once, as the student's own clock has it.
func TestDues(t *testing.T) {
	due := time.Date(2026, 11, 27, 17, 0, 0, 0, time.UTC)
	packed := func(id string, due time.Time) handout.Handout {
		return handout.Handout{ID: id, Due: due, Zone: "UTC", PackedAt: due.AddDate(0, 0, -7), Settings: handout.Usual(handout.EachName)}
	}
	log := packed("log", due)
	log.Settings.Extra = map[string]string{"r1": "2026-11-27T17:30", "r2": "2026-11-28T08:00"}
	home := register.Home{Row: "r1", Class: classes.Class{Name: "Tide Watch 7B"}, Copies: []register.StudentCopy{
		{Thing: "t1", Handout: log}, {Thing: "t2", Handout: log}, {Thing: "t3", Handout: packed("none", time.Time{})}}}
	if got := home.Dues(); len(got) != 1 || got[0].Thing != "t1" || !got[0].At.Equal(due.Add(30*time.Minute)) || got[0].Class != "Tide Watch 7B" {
		t.Errorf("%+v", got)
	}
	notice, draft := packed("notice", due), packed("draft", due)
	notice.Settings.Way, draft.PackedAt = handout.NoticeName, time.Time{}
	if got := register.DuesOf("Tide Watch 7B", []handout.Handout{log, notice, draft, packed("none", time.Time{})}); len(got) != 1 || !got[0].At.Equal(due) {
		t.Errorf("of the class %+v", got)
	}
}
