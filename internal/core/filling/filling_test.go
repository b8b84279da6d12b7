package filling

import (
	"slices"
	"strings"
	"testing"

	"jollysatchel/internal/core/record"
)

var fields = []record.Field{record.Family, record.Given, record.Code, record.Title, record.Extra("Tutor [group]"),
	record.Extra("Locker_no")}

func known(f record.Field) bool { return slices.Contains(fields, f) }

// fill puts values into a text as the files' fillers do.
func fill(text string, style Style, values record.Getter) string {
	var b strings.Builder
	at := 0
	for _, p := range Find(text, style, known) {
		if p.Known {
			b.WriteString(text[at:p.From] + p.Value(style, values))
			at = p.To
		}
	}
	return b.String() + text[at:]
}

func TestFill(t *testing.T) {
	values := record.Values{record.Family: "Ó Briain-Łuk", record.Given: "Ewa", record.Code: "6B",
		record.Title: "1. *Rivers*", record.Extra("Tutor [group]"): "North", record.Extra("Locker_no"): "17"}
	long := strings.Repeat("x", MostBytes)
	for _, c := range []struct {
		style      Style
		text, want string
	}{
		{Plain, "Dear [Given name] [Family name], class [Class]", "Dear Ewa Ó Briain-Łuk, class 6B"},
		{Plain, "[given NAME][Family name[1]].", "EwaÓ."},
		{Plain, "[Title] and [Tutor \\[group\\]]", "1. *Rivers* and North"},
		{Plain, "[ Given name ]", "Ewa"},
		{Plain, "[Givn name] [1] [] [ ", "[Givn name] [1] [] [ "},
		{Plain, "[Given\nname]", "[Given\nname]"},
		{Plain, "[[Given name]]", "[Ewa]"},
		{Plain, "[" + long + "] [Given name]", "[" + long + "] Ewa"},
		{Marked, "[Title]", `1\. \*Rivers\*`},
		{Marked, `\[Given name\], \[Locker\_no\], [Locker_no], \[Family name\[1\]\]`, "Ewa, 17, 17, Ó"},
		{Marked, "[Class](there.md) [Class][1] [x] [ ] [Class]: so", "[Class](there.md) [Class][1] [x] [ ] 6B: so"},
		{Marked, `\\[Class]`, `\\6B`},
		{Marked, "[Family name]", "Ó Briain-Łuk"},
	} {
		if got := fill(c.text, c.style, values); got != c.want {
			t.Errorf("%q: %q, want %q", c.text, got, c.want)
		}
	}
}

func TestValueIsText(t *testing.T) {
	p := Find("[Given name]", Marked, known)[0]
	for value, want := range map[string]string{
		"- item": `\- item`, "# head": `\# head`, "12) a": `12\) a`, "<b>x</b>": `\<b\>x\</b\>`, "a\tb\x07": "a b", "": "",
		"Ann-Marie": "Ann-Marie", "&copy;": `\&copy;`,
	} {
		if got := p.Value(Marked, record.Values{record.Given: value}); got != want {
			t.Errorf("%q: %q, want %q", value, got, want)
		}
	}
}

// Whatever a text holds, parts are in order within it and begin and end with a bracket;
// with every column's value its own brackets, nothing changes.
func FuzzFind(f *testing.F) {
	for _, s := range []string{"[Given name]", `\[Given name\[2\]\]`, "[[[a]]]", "[é", `[a\]`, "[" + strings.Repeat("[", 300)} {
		f.Add(s, true)
	}
	f.Fuzz(func(t *testing.T, text string, marked bool) {
		style := Plain
		if marked {
			style = Marked
		}
		at := 0
		for _, p := range Find(text, style, known) {
			if p.From < at || p.To > len(text) || p.To-p.From > MostBytes+1 || text[p.To-1] != ']' ||
				strings.TrimLeft(text[p.From:p.From+2], `\`)[0] != '[' {
				t.Fatalf("%q: %+v after %d", text, p, at)
			}
			at = p.To
		}
	})
}

func TestMissing(t *testing.T) {
	var labels []string
	for _, p := range Find("[Givn name], [see below], [2], [x], [Class]", Plain, known) {
		if !p.Known {
			labels = append(labels, p.Label)
		}
	}
	if want := []string{"Givn name", "see below"}; !slices.Equal(labels, want) {
		t.Errorf("%q", labels)
	}
}
