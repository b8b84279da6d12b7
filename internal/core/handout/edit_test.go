package handout_test

import (
	"cmp"
	"errors"
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/telling"
)

func ptr[T any](v T) *T { return &v }

var begun = time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)

// around is a class of some students, with a pocket, and two templates of oduya's.
func around(students int) handout.Setting {
	at := handout.Setting{
		Plan: room.Usual(), By: "oduya", Now: begun, Known: record.VocabularyOf(func(func(record.Record) bool) {}),
		Templates: map[string]handout.Template{"log": {ID: "log", Account: "oduya", Name: "Field log.md"},
			"map": {ID: "map", Account: "oduya", Name: "Map.md"}, "theirs": {ID: "theirs", Account: "lindqvist", Name: "X.md"},
			"gone": {ID: "gone", Account: "oduya", Name: "Y.md", Removed: true}},
	}
	at.Plan.Pockets = []room.Pocket{{ID: "f", Name: "Field work"}}
	for i := range students {
		at.Students = append(at.Students, choosing.Student{Row: fmt.Sprint("r", i), Values: record.Values{record.Level: string("AB"[i%2])}})
	}
	return at
}

func fresh() handout.Handout {
	return handout.Handout{ID: "h", Title: "Knots", Zone: "Europe/Dublin", Settings: handout.Usual(handout.EachName)}
}

func given(templates ...string) *[]handout.GivenDocument {
	out := []handout.GivenDocument{}
	for _, t := range templates {
		out = append(out, handout.GivenDocument{Template: t})
	}
	return &out
}

// What can't be is refused at its place, and nothing of the change is kept.
func TestEditRefused(t *testing.T) {
	packed := func(h *handout.Handout) {
		h.PackedAt = begun
		h.Settings.Documents = []handout.GivenDocument{{Slot: 1, Template: "log"}}
	}
	perTeam := func(h *handout.Handout) { h.Settings.Way = handout.TeamName }
	long := func(n int) *string { return ptr(strings.Repeat("x", n)) }
	condition := choosing.Condition{Column: record.Level, Test: choosing.Is}
	for _, x := range []struct {
		to          handout.Change
		is          func(*handout.Handout)
		field, code string
	}{
		{handout.Change{Title: long(handout.MostTitle + 1)}, nil, "title", "too-long"},
		{handout.Change{Way: ptr(handout.WayName("thrown"))}, nil, "way", "no-such-way"},
		{handout.Change{Way: ptr(handout.TeamName)}, packed, "way", "packed-already"},
		{handout.Change{By: ptr(record.Extra("Set"))}, nil, "by", "column-unknown"},
		{handout.Change{By: ptr(record.Period)}, packed, "by", "packed-already"},
		{handout.Change{Teams: ptr(record.Extra("Boat"))}, nil, "teams", "column-unknown"},
		{handout.Change{Documents: given("theirs")}, nil, "documents", "no-such-template"},
		{handout.Change{Documents: given("gone")}, nil, "documents", "no-such-template"},
		{handout.Change{Documents: &[]handout.GivenDocument{{Slot: 1000, Template: "log"}}}, nil, "documents", "no-such-template"},
		{handout.Change{Documents: given()}, packed, "documents", "packed-already"},
		{handout.Change{Documents: &[]handout.GivenDocument{{Slot: 1, Template: "map"}}}, packed, "documents", "packed-already"},
		{handout.Change{Documents: &[]handout.GivenDocument{{Template: "log", For: *long(naming.MostText + 1)}}}, nil, "documents", "too-long"},
		{handout.Change{Name: &naming.Pattern{}}, nil, "name", "missing"},
		{handout.Change{Name: &naming.Pattern{{Column: record.Extra("Set")}}}, nil, "name", "column-unknown"},
		{handout.Change{Name: &naming.Pattern{{Text: *long(naming.MostText + 1)}}}, nil, "name", "too-long"},
		{handout.Change{Pocket: ptr("p")}, nil, "pocket", "no-such-pocket"},
		{handout.Change{Level: ptr("own")}, nil, "level", "no-such-level"},
		{handout.Change{Level: ptr("nothing")}, nil, "level", "no-such-level"},
		{handout.Change{Classmates: ptr("edit")}, nil, "classmates", "no-such-level"},
		{handout.Change{Classmates: ptr("read")}, nil, "classmates", "too-many-classmates"},
		{handout.Change{Passing: ptr("edit")}, func(h *handout.Handout) { h.Settings.Level = "comment" }, "passing", "more-than-own"},
		{handout.Change{Choice: &choosing.Choice{Conditions: []choosing.Condition{condition}}}, nil, "choice", "condition-unfinished"},
		{handout.Change{Out: map[string]string{"r99": handout.SitsOut}}, nil, "out", "no-such-student"},
		{handout.Change{Out: map[string]string{"r1": "tired"}}, nil, "out", "no-such-reason"},
		{handout.Change{Own: &handout.OwnParts{Rows: []string{"r1"}}}, perTeam, "own", "not-own"},
		{handout.Change{Own: &handout.OwnParts{Rows: []string{"r99"}}}, nil, "own", "no-such-student"},
		{handout.Change{Own: &handout.OwnParts{Rows: []string{"r1"}, Level: ptr("owner")}}, nil, "level", "no-such-level"},
		{handout.Change{Own: &handout.OwnParts{Rows: []string{"r1"}, Pocket: ptr("p")}}, nil, "pocket", "no-such-pocket"},
		{handout.Change{Due: ptr("2026-11-27T17:00:01")}, nil, "due", "not-a-time"},
		{handout.Change{Send: ptr("soon")}, nil, "send", "not-a-time"},
		{handout.Change{Send: ptr("2026-11-25T09:00")}, nil, "send", "time-past"},
		{handout.Change{Send: ptr("2026-12-01T07:45")}, packed, "send", "packed-already"},
		{handout.Change{Message: long(handout.MostMessage + 1)}, nil, "message", "too-long"},
		{handout.Change{Instructions: long(handout.MostInstructions + 1)}, nil, "instructions", "too-long"},
		{handout.Change{Links: &[]handout.Link{{Address: "mailto:a@kestrelquay.example"}}}, nil, "links", "link-scheme"},
		{handout.Change{Links: ptr(make([]handout.Link, handout.MostLinks+1))}, nil, "links", "too-many-links"},
		{handout.Change{Tell: ptr(telling.When("loudly"))}, nil, "tell", "no-such-choice"},
		{handout.Change{Mail: &telling.Text{Subject: "Knots"}}, nil, "mail", "missing"},
		{handout.Change{MailChanged: &telling.Text{Subject: "x", Body: *long(telling.MostBody + 1)}}, nil, "mailChanged", "too-long"},
	} {
		h := fresh()
		if x.is != nil {
			x.is(&h)
		}
		before := change.Digest(h)
		_, err := handout.Edit{To: x.to}.Of(h, around(handout.MostClassmates+1))
		var invalid *change.Invalid
		if !errors.As(err, &invalid) || invalid.Field != x.field || invalid.Code != x.code {
			t.Errorf("%s %s: %v", x.field, x.code, err)
		}
		if change.Digest(h) != before {
			t.Errorf("%s %s: what was there is another", x.field, x.code)
		}
	}
}

// changes are two that differ of each part that both somebody and somebody else can change,
// and how a page says what there is of it.
var changes = map[string]struct {
	a, b handout.Change
	is   func(handout.Handout) handout.Change
}{
	"title": {handout.Change{Title: ptr("A")}, handout.Change{Title: ptr("B")}, func(h handout.Handout) handout.Change {
		return handout.Change{Title: &h.Title}
	}},
	"way": {handout.Change{Way: ptr(handout.LevelName)}, handout.Change{Way: ptr(handout.TeamName)}, func(h handout.Handout) handout.Change {
		return handout.Change{Way: ptr(cmp.Or(h.Settings.Way, handout.EachName))}
	}},
	"by": {handout.Change{By: ptr(record.Level)}, handout.Change{By: ptr(record.Period)},
		func(h handout.Handout) handout.Change { return handout.Change{By: &h.Settings.By} }},
	"documents": {handout.Change{Documents: given("log")}, handout.Change{Documents: given("map", "log")},
		func(h handout.Handout) handout.Change { return handout.Change{Documents: &h.Settings.Documents} }},
	"name": {handout.Change{Name: &naming.Pattern{{Column: record.Title}}},
		handout.Change{Name: &naming.Pattern{{Text: "x"}}}, func(h handout.Handout) handout.Change {
			return handout.Change{Name: &h.Settings.Name}
		}},
	"level": {handout.Change{Level: ptr("read")}, handout.Change{Level: ptr("comment")},
		func(h handout.Handout) handout.Change { return handout.Change{Level: &h.Settings.Level} }},
	"choice": {handout.Change{Choice: &choosing.Choice{Picked: true}},
		handout.Change{Choice: &choosing.Choice{Conditions: []choosing.Condition{{Column: record.Level, Test: choosing.Is,
			Values: []string{"A"}}}}}, func(h handout.Handout) handout.Change { return handout.Change{Choice: &h.Settings.Choice} }},
	"due": {handout.Change{Due: ptr("2026-12-04T17:00")}, handout.Change{Due: ptr("2026-12-05T17:00")},
		func(h handout.Handout) handout.Change { return handout.Change{Due: ptr("")} }},
	"send": {handout.Change{Send: ptr("2026-12-01T07:45")}, handout.Change{Send: ptr("2026-12-02T07:45")},
		func(h handout.Handout) handout.Change { return handout.Change{Send: ptr("")} }},
	"message": {handout.Change{Message: ptr("A")}, handout.Change{Message: ptr("B")},
		func(h handout.Handout) handout.Change { return handout.Change{Message: &h.Settings.Message} }},
	"instructions": {handout.Change{Instructions: ptr("A")}, handout.Change{Instructions: ptr("B")},
		func(h handout.Handout) handout.Change { return handout.Change{Instructions: &h.Settings.Instructions} }},
	"tell": {handout.Change{Tell: ptr(telling.First)}, handout.Change{Tell: ptr(telling.Changes)},
		func(h handout.Handout) handout.Change { return handout.Change{Tell: ptr(telling.Not)} }},
	"mail": {handout.Change{Mail: &telling.Text{Subject: "A", Body: "a"}},
		handout.Change{Mail: &telling.Text{Subject: "B", Body: "b"}}, func(h handout.Handout) handout.Change {
			return handout.Change{Mail: ptr(h.Mail(telling.Given))}
		}},
}

// Of any part: who looked at what there is changes it; who looked before somebody else changed
// it is told and nothing is put in its place; who says the same again changes nothing.
func TestEditMeanwhile(t *testing.T) {
	at := around(8)
	for part, x := range changes {
		h := fresh()
		first, err := handout.Edit{To: x.a, Was: x.is(h)}.Of(h, at)
		if err != nil || handout.Same(first, h) {
			t.Errorf("%s: %v, changed %v", part, err, !handout.Same(first, h))
			continue
		}
		var changed *change.Changed
		if _, err := (handout.Edit{To: x.b, Was: x.is(h)}).Of(first, at); !errors.As(err, &changed) || changed.Field != part {
			t.Errorf("%s over another's: %v", part, err)
		}
		if part == "documents" { // a document without a slot is a new one
			continue
		}
		if again, err := (handout.Edit{To: x.a, Was: x.is(h)}).Of(first, at); err != nil || !handout.Same(again, first) {
			t.Errorf("%s once more: %v", part, err)
		}
	}
}

// Changes of different parts all stand, in whichever order they come (the way of handing out
// gives a name that nobody chose another, and a level its column).
func TestEditAnyOrder(t *testing.T) {
	at := around(8)
	parts := []string{"title", "documents", "name", "level", "choice", "due", "send", "message", "instructions", "tell", "mail"}
	made := func(of []string) handout.Handout {
		h := fresh()
		for _, p := range of {
			var err error
			if h, err = (handout.Edit{To: changes[p].a}).Of(h, at); err != nil {
				t.Fatal(p, err)
			}
		}
		return h
	}
	want := made(parts)
	r := rand.New(rand.NewPCG(20, 11))
	for range 200 {
		order := slices.Clone(parts)
		r.Shuffle(len(order), func(i, j int) { order[i], order[j] = order[j], order[i] })
		if got := made(order); !handout.Same(got, want) {
			t.Fatalf("%v:\n%s\n%s", order, change.Digest(got), change.Digest(want))
		}
	}
}

// Who is taken in against a condition stays in, and sits out alone where that is said.
func TestPicks(t *testing.T) {
	at := around(4)
	h, err := handout.Edit{To: handout.Change{Choice: &choosing.Choice{Conditions: []choosing.Condition{{Column: record.Level, Test: choosing.Is, Values: []string{"A"}}}}}}.Of(fresh(), at)
	if err != nil {
		t.Fatal(err)
	}
	h, err = handout.Edit{To: handout.Change{Out: map[string]string{"r0": handout.SitsOut, "r1": "",
		"r2": handout.Unticked}}, Was: handout.Change{Out: map[string]string{"r1": handout.ByCondition}}}.Of(h, at)
	want := map[string]string{"r0": handout.SitsOut, "r2": handout.Unticked, "r3": handout.ByCondition}
	if got := h.Out(at.Students); err != nil || !reflect.DeepEqual(got, want) {
		t.Errorf("%v are out, want %v: %v", got, want, err)
	}
	h, err = handout.Edit{To: handout.Change{Out: map[string]string{"r0": "", "r2": ""}}}.Of(h, at)
	if got := h.Out(at.Students); err != nil || !reflect.DeepEqual(got, map[string]string{"r3": handout.ByCondition}) {
		t.Errorf("in again, %v are out: %v", got, err)
	}
}

// In another class a handout has all but who is in, what single students have of their own,
// what was given beside, and a pocket that isn't there.
func TestAlike(t *testing.T) {
	plan, there := around(0).Plan, room.Usual()
	h, o := fresh(), handout.Handout{ID: "o", ClassID: "9D", Title: "Old", Settings: handout.Usual(handout.EachName)}
	h.Settings.Message, h.Settings.Pocket, h.Settings.Out = "Bring boots.", "f", map[string]string{"r1": handout.SitsOut}
	h.Settings.Documents = []handout.GivenDocument{{Slot: 1, Template: "log"}, {Slot: 2, Template: "map", Only: []string{"r1"}}}
	o.Settings.Out, o.Settings.Pockets = map[string]string{"q1": handout.Unticked}, map[string]string{"q2": "g"}
	o.Settings.Documents = []handout.GivenDocument{{Slot: 3, Template: "map", Only: []string{"q1"}}}
	got := handout.Alike(h, o, plan, there)
	want := h
	want.ID, want.ClassID = "o", "9D"
	want.Settings.Pocket, want.Settings.Out, want.Settings.Pockets = "", o.Settings.Out, o.Settings.Pockets
	want.Settings.Documents = []handout.GivenDocument{{Slot: 1, Template: "log"}, {Slot: 3, Template: "map", Only: []string{"q1"}}}
	if change.Digest(got) != change.Digest(want) {
		t.Errorf("%s, want %s", change.Digest(got), change.Digest(want))
	}
	there.Pockets = []room.Pocket{{ID: "z", Name: "field WORK"}}
	if got := handout.Alike(h, o, plan, there); got.Settings.Pocket != "z" {
		t.Errorf("its pocket is %q", got.Settings.Pocket)
	}
}

// What is used again says what it can't have in the other class.
func TestAgain(t *testing.T) {
	at := around(0)
	s := handout.Usual(handout.LevelName)
	s.By, s.Pocket, s.Out = record.Extra("Set"), "f", map[string]string{"r1": handout.SitsOut}
	s.Name = naming.Pattern{{Column: record.Extra("Boat")}}
	s.Documents = []handout.GivenDocument{{Slot: 4, Template: "theirs"}, {Slot: 7, Template: "log"}}
	s.Choice = choosing.Choice{Conditions: []choosing.Condition{{Column: record.Extra("Set"), Test: choosing.NotEmpty},
		{Column: record.Level, Test: choosing.NotEmpty}}, Ticked: map[string]bool{"r2": true}}
	got, without := s.Again(at.Plan, room.Usual(), at.Known, func(d handout.GivenDocument) bool { return d.Template == "log" })
	if want := []string{handout.WithoutDocuments, handout.WithoutName, handout.WithoutColumn, handout.WithoutPocket,
		handout.WithoutChoice}; !reflect.DeepEqual(without, want) {
		t.Errorf("without %v, want %v", without, want)
	}
	want := handout.Usual(handout.LevelName)
	want.By, want.Documents, want.Choice = record.Level, []handout.GivenDocument{{Slot: 1, Template: "log"}},
		choosing.Choice{Conditions: s.Choice.Conditions[1:]}
	if change.Digest(got) != change.Digest(want) {
		t.Errorf("%s, want %s", change.Digest(got), change.Digest(want))
	}
	if _, without := s.Again(at.Plan, at.Plan, record.VocabularyOf(func(yield func(record.Record) bool) {
		yield(record.Record{Extra: map[string]string{"Set": "1", "Boat": "2"}})
	}), func(handout.GivenDocument) bool { return true }); without != nil {
		t.Errorf("where all is there it is without %v", without)
	}
}
