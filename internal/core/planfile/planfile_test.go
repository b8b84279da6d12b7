package planfile

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"reflect"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
)

// plan has everything a plan can have.
func plan() room.Plan {
	p := room.Usual()
	p.Satchel = naming.Pattern{{Text: "[1] "}, {Column: record.Family}, {Text: " "}, {Column: record.Extra("House")}}
	p.Within = []naming.Pattern{{{Text: "Period "}, {Column: record.Period}}}
	p.Path = []naming.Pattern{{{Column: record.SchoolYear}}, {{Column: record.Term}}}
	p.Pockets = []room.Pocket{{ID: "f", Name: "Field work"}, {ID: "p", Name: "Photographs"}}
	p.Sorted, p.Name, p.Term, p.Base, p.Day = true, "Tide Watch", "Autumn", "folder", "2026-09-14"
	p.Places = append(room.UsualPlaces()[1:],
		room.Place{ID: "c", Name: "Crews", For: room.ForTeam, Level: "edit", Set: record.Extra("Boat group"), Under: room.Drawer},
		room.Place{ID: "l", Name: "Logs", For: room.ForTeam, Level: "edit", Set: record.Extra("Boat group"), Under: "c"},
		room.Place{ID: "h", Name: "Hand in", For: room.ForStudent, Level: "edit", HandIn: true})
	return p
}

func schema(t *testing.T, file string) *jsonschema.Schema {
	t.Helper()
	s, err := jsonschema.NewCompiler().Compile("../../../docs/" + file)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func valid(t *testing.T, s *jsonschema.Schema, b []byte) error {
	t.Helper()
	v, err := jsonschema.UnmarshalJSON(bytes.NewReader(b))
	if err != nil {
		t.Fatal(err)
	}
	return s.Validate(v)
}

// A plan that is saved and read again in its own class is the same plan; in
// another, all but its ids, the folder it is in and its day.
func TestThereAndBack(t *testing.T) {
	s := schema(t, "room-plan.schema.json")
	for name, p := range map[string]room.Plan{"all there is": plan(), "usual": room.Usual()} {
		file := WriteRoom(p)
		if err := valid(t, s, file); err != nil {
			t.Errorf("%s: the schema refuses it: %v", name, err)
		}
		var r Reader
		read, err := r.ReadRoom(file)
		if err != nil || len(r.Unknown) > 0 {
			t.Fatalf("%s: %v, unknown %v", name, err, r.Unknown)
		}
		n := 0
		id := func() string { n++; return fmt.Sprint("new", n) }
		same := Adopt(read, p, id)
		if p.Places == nil {
			p.Places = room.UsualPlaces()
		}
		if !reflect.DeepEqual(same, p) || n > 0 {
			t.Errorf("%s: read again\n%+v\nwas\n%+v", name, same, p)
		}
	}
	var r Reader
	read, err := r.ReadRoom(WriteRoom(plan()))
	if err != nil {
		t.Fatal(err)
	}
	n := 0
	elsewhere := Adopt(read, room.Usual(), func() string { n++; return fmt.Sprint("new", n) })
	if elsewhere.Base != "" || elsewhere.Day != "" || n != 5 {
		t.Errorf("%d new ids, in %q, packed %q", n, elsewhere.Base, elsewhere.Day)
	}
	if l := elsewhere.Places[4]; l.Name != "Logs" || l.Under != elsewhere.Places[3].ID || len(elsewhere.Check(room.English, nil)) > 0 {
		t.Errorf("places %+v: %v", elsewhere.Places, elsewhere.Check(room.English, nil))
	}
}

func TestHandoutThereAndBack(t *testing.T) {
	h := Handout{Title: "Rock-pool log", Template: "Log.md", Name: "[Period] [Family name] – [Title]",
		Pocket: "Field work", Level: "edit", Due: "2026-11-27T17:00", Message: "Boots!", Classmates: "read",
		Instructions: "**First** look.", Links: []handout.Link{{Words: "Tides", Address: "https://tides.example"}}, ForParents: true,
		Choice: &choosing.Choice{Conditions: []choosing.Condition{{Column: record.Level, Test: choosing.OneOf,
			Values: []string{"A", "B"}}}, Ticked: map[string]bool{"row": true}}}
	file := WriteHandout(h)
	if err := valid(t, schema(t, "handout.schema.json"), file); err != nil {
		t.Errorf("the schema refuses it: %v", err)
	}
	var r Reader
	read, err := r.ReadHandout(file)
	if err != nil || read.Called.String() != h.Name {
		t.Fatalf("%v, name %v", err, read.Called)
	}
	h.Kind, h.Version = HandoutKind, 1
	if len(read.Choice.Ticked) > 0 || len(h.Choice.Ticked) != 1 {
		t.Errorf("who was ticked: %v in the file, %v here", read.Choice.Ticked, h.Choice.Ticked)
	}
	h.Choice.Ticked = nil
	h.Template, h.Documents = "", []Document{{Template: "Log.md"}}
	if !reflect.DeepEqual(read.Handout, h) {
		t.Errorf("read %+v\nwas %+v", read.Handout, h)
	}

	h = Handout{Title: "Charts", Way: handout.LevelName, By: "Level", Name: "[Family name[1]] [Original name]",
		Level: "read", Documents: []Document{{Template: "A.odt", For: "A"}, {Template: "B.odt", For: "B", Name: "[Title]"}}}
	file = WriteHandout(h)
	if err := valid(t, schema(t, "handout.schema.json"), file); err != nil {
		t.Errorf("the schema refuses it: %v", err)
	}
	read, err = r.ReadHandout(file)
	h.Kind, h.Version = HandoutKind, 1
	if err != nil || !reflect.DeepEqual(read.Handout, h) || read.By != record.Level || read.Called[0].First != 1 ||
		read.Names[1].String() != "[Title]" {
		t.Errorf("%v: %+v", err, read)
	}
	for code, file := range map[string]Handout{"no-such-way": {Way: "by-chance"}, "too-many-documents": {Documents: make([]Document, 21)}} {
		_, err := r.ReadHandout(WriteHandout(file))
		if e, ok := err.(*Error); !ok || e.Code != code {
			t.Errorf("%v, want %s", err, code)
		}
	}
}

// Columns a class hasn't are asked about, all at once; nothing else is lost.
func TestUnknownColumns(t *testing.T) {
	r := Reader{Known: record.Vocabulary{record.Family, record.Period, record.SchoolYear, record.Term, record.Team}}
	file := WriteRoom(plan())
	if _, err := r.ReadRoom(file); err != nil || fmt.Sprint(r.Unknown) != "[House Boat group]" {
		t.Fatalf("%v, unknown %v", err, r.Unknown)
	}
	r = Reader{Known: r.Known, Columns: map[string]record.Field{"House": "", "Boat group": record.Team}}
	p, err := r.ReadRoom(file)
	if err != nil || len(r.Unknown) > 0 || p.Satchel.String() != "[[1]] [Family name] " ||
		p.Places[3].Set != record.Team || len(p.Pockets) != 2 {
		t.Errorf("%v, unknown %v: %+v", err, r.Unknown, p)
	}
}

func TestNoPlan(t *testing.T) {
	for text, code := range map[string]string{
		"":                                   "file-not-json",
		"Dear class,":                        "file-not-json",
		"[]":                                 "file-not-plan",
		"{}":                                 "file-not-plan",
		`{"kind":"jolly-satchel/handout"}`:   "file-not-plan",
		`{"kind":"jolly-satchel/room-plan"}`: "file-version",
		"\xff\xfe{}":                         "file-not-json",
		strings.Repeat(" ", MostBytes+1):     "too-large",
		`{"kind":"jolly-satchel/room-plan","version":2}`:                                                     "file-version",
		`{"kind":"jolly-satchel/room-plan","version":1,"satchel":"[Family name]","pockets":[],"rooms":[]}`:   "file-field",
		`{"kind":"jolly-satchel/room-plan","version":1,"satchel":7,"pockets":[]}`:                            "file-field",
		`{"kind":"jolly-satchel/room-plan","version":1,"satchel":"[Family name","pockets":[]}`:               "pattern",
		`{"kind":"jolly-satchel/room-plan","version":1,"satchel":"a","path":["]"],"pockets":[]}`:             "pattern",
		`{"kind":"jolly-satchel/room-plan","version":1,"satchel":"[Family name]","pockets":[]} and so on`:    "file-not-json",
		`{"kind":"jolly-satchel/room-plan","version":1,"satchel":"[Family name]","pockets":["a",{"b":"c"}]}`: "file-field",
	} {
		var r Reader
		_, err := r.ReadRoom([]byte(text))
		var e *Error
		if !errors.As(err, &e) || e.Code != code {
			t.Errorf("%.80q: %v, want %s", text, err, code)
		}
	}
	s := schema(t, "room-plan.schema.json")
	for _, text := range []string{`{}`,
		`{"kind":"jolly-satchel/room-plan","version":1,"satchel":"x","pockets":[],"places":[]}`,
		`{"kind":"jolly-satchel/room-plan","version":1,"satchel":"x","pockets":[],"more":1}`} {
		if valid(t, s, []byte(text)) == nil {
			t.Errorf("the schema takes %s", text)
		}
	}
}

// FuzzReadRoom holds what reading promises: it never fails but with an Error, and
// what it takes is checked and written without more ado, and read alike.
func FuzzReadRoom(f *testing.F) {
	f.Add(WriteRoom(plan()))
	f.Add(WriteRoom(room.Usual()))
	f.Add([]byte(`{"kind":"jolly-satchel/room-plan","version":1,"satchel":"[[a]] [B]","pockets":["",".."],"places":[{"id":"a","for":"x","under":"a"}]}`))
	f.Fuzz(func(t *testing.T, b []byte) {
		var r Reader
		p, err := r.ReadRoom(b)
		var e *Error
		if err != nil {
			if !errors.As(err, &e) {
				t.Fatalf("%v", err)
			}
			return
		}
		p.Check(room.English, nil)
		again, err := r.ReadRoom(WriteRoom(p))
		if err != nil {
			t.Fatalf("written and not read: %v", err)
		}
		if a, b := WriteRoom(p), WriteRoom(again); !json.Valid(a) || !bytes.Equal(a, b) {
			t.Errorf("%s\n%s", a, b)
		}
	})
}

func ExampleWriteRoom() {
	p := room.Usual()
	p.Pockets = []room.Pocket{{ID: "1", Name: "Field work"}}
	os.Stdout.Write(WriteRoom(p)[:118])
	// Output:
	// {
	//   "kind": "jolly-satchel/room-plan",
	//   "version": 1,
	//   "satchel": "[Family name], [Given name]",
	//   "pockets": [
}
