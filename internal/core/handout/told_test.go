package handout

import (
	"slices"
	"testing"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/telling"
)

// The log of another class hears nothing of this one's students and pockets.
func TestShared(t *testing.T) {
	due := change.Told{What: "due", From: "2026-11-20T17:00", To: "2026-11-23T17:00"}
	got := Shared([]change.Told{due, {What: "pocket", From: "Field work", To: "Notes"}, {What: "choice"}, {What: "own"},
		{What: "out", Whose: "Dube, Nokuthula", From: "in", To: "sits-out"}})
	if want := []change.Told{due, {What: "pocket"}}; !slices.Equal(got, want) {
		t.Errorf("%+v, want %+v", got, want)
	}
}

// What was changed is told with both values, what is long without them, and nothing else is told.
func TestTold(t *testing.T) {
	at := time.Date(2026, 11, 20, 17, 0, 0, 0, time.UTC)
	plan := room.Plan{Pockets: []room.Pocket{{ID: "p1", Name: "Field work"}}}
	name := func(row string) string { return map[string]string{"r1": "Dube, Nokuthula", "r2": "Kaya, Deniz"}[row] }
	for what, c := range map[string]struct {
		do   func(h *Handout)
		want []change.Told
	}{
		"nothing":    {func(h *Handout) { h.ChangedAt = at }, nil},
		"title":      {func(h *Handout) { h.Title = "Knots" }, []change.Told{{What: "title", From: "Knot card", To: "Knots"}}},
		"due":        {func(h *Handout) { h.Due = at.Add(72 * time.Hour) }, []change.Told{{What: "due", From: "2026-11-20T17:00", To: "2026-11-23T17:00"}}},
		"no due":     {func(h *Handout) { h.Due = time.Time{} }, []change.Told{{What: "due", From: "2026-11-20T17:00"}}},
		"way":        {func(h *Handout) { h.Settings.Way = TeamName }, []change.Told{{What: "way", From: "one-each", To: "per-team"}}},
		"the same":   {func(h *Handout) { h.Settings.Way = EachName }, nil},
		"classmates": {func(h *Handout) { h.Settings.Classmates = "read" }, []change.Told{{What: "classmates", From: "nothing", To: "read"}}},
		"place":      {func(h *Handout) { h.Settings.Pocket = "p1" }, []change.Told{{What: "pocket", To: "Field work"}}},
		"name": {func(h *Handout) { h.Settings.Name = naming.Pattern{{Column: record.Title}} },
			[]change.Told{{What: "name", From: UsualName().String(), To: "[Title]"}}},
		"more documents": {func(h *Handout) { h.Settings.Documents = []GivenDocument{{Slot: 1}, {Slot: 2}} },
			[]change.Told{{What: "documents", From: "1", To: "2"}}},
		"another document": {func(h *Handout) { h.Settings.Documents = []GivenDocument{{Slot: 1, Template: "other"}} },
			[]change.Told{{What: "documents"}}},
		"note":   {func(h *Handout) { h.Settings.Message = "Low water is at 11:20." }, []change.Told{{What: "message"}}},
		"choice": {func(h *Handout) { h.Settings.Choice = choosing.Choice{Picked: true} }, []change.Told{{What: "choice"}}},
		"told":   {func(h *Handout) { h.Settings.Tell = telling.First }, []change.Told{{What: "tell", To: "first"}}},
		"sits out": {func(h *Handout) { h.Settings.Out = map[string]string{"r2": "sits-out"} },
			[]change.Told{{What: "out", Whose: "Dube, Nokuthula", From: "sits-out", To: "in"},
				{What: "out", Whose: "Kaya, Deniz", From: "in", To: "sits-out"}}},
	} {
		before := Handout{Title: "Knot card", Due: at, Settings: Usual(EachName)}
		before.Settings.Documents = []GivenDocument{{Slot: 1}}
		before.Settings.Out = map[string]string{"r1": "sits-out"}
		after := before
		if c.do(&after); what != "sits out" {
			after.Settings.Out = map[string]string{"r1": "sits-out"}
		}
		if got := Told(before, after, plan, name); !slices.Equal(got, c.want) {
			t.Errorf("%s: %+v, want %+v", what, got, c.want)
		}
	}
}
