package handout

import (
	"strings"
	"testing"

	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/telling"
)

func TestLinks(t *testing.T) {
	for address, want := range map[string]string{
		"https://tides.example/bay?d=1#x":       "",
		"HTTP://tides.example":                  "",
		"  https://tides.example/a b":           "link-unreadable",
		"https://tídes.example/é":               "",
		"javascript:alert(1)":                   "link-scheme",
		" JaVaScRiPt:alert(1)":                  "link-scheme",
		"java\nscript:alert(1)":                 "link-unreadable",
		"data:text/html,x":                      "link-scheme",
		"//tides.example/x":                     "link-scheme",
		"tides.example":                         "link-scheme",
		"mailto:a@tides.example":                "link-scheme",
		"https:///x":                            "link-unreadable",
		"https://school.example@tides.example/": "link-unreadable",
		"https://tides.example/\x00":            "link-unreadable",
		"":                                      "link-scheme",
		"https://tides.example/" + strings.Repeat("x", 2_000): "link-long",
	} {
		if got := (Link{"Tide tables", address}).Tidy().Problem(); got != want {
			t.Errorf("%q: %q, want %q", address, got, want)
		}
	}
	if got := (Link{"  ", " https://tides.example/bay "}).Tidy(); got != (Link{"tides.example", "https://tides.example/bay"}) {
		t.Errorf("%+v", got)
	}
	if got := (Link{strings.Repeat("w", 201), "https://tides.example"}).Problem(); got != "link-long" {
		t.Errorf("long words: %q", got)
	}
}

// A notice makes nothing, and says who isn't meant.
func TestNotice(t *testing.T) {
	c := room.Class{ID: "c", Students: []room.Student{{Row: "a", Name: "A"}, {Row: "b", Name: "B"}}}
	w, absent := Of(NoticeName, room.Plan{}, Settings{Out: map[string]string{"b": SitsOut}}).Wanted(c)
	if len(w) != 0 || len(absent) != 1 || absent[0].Whom.Row != "b" || absent[0].Reason.Code != SitsOut {
		t.Errorf("%v %v", w, absent)
	}
}

// A notice comes to no place that people look into: they are told of it, where nobody
// says something else; what is in their satchels isn't told (common practice, no published
// source).
func TestUsual(t *testing.T) {
	for way, want := range map[WayName]telling.When{NoticeName: telling.First, EachName: telling.Not, "": telling.Not,
		ForAllName: telling.Not} {
		if got := way.Tells(telling.Usual); got != want {
			t.Errorf("%q: %q", way, got)
		}
	}
	if NoticeName.Tells(telling.Not) != telling.Not || EachName.Tells(telling.Changes) != telling.Changes {
		t.Error("what was said doesn't hold")
	}
}
