package record

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"
)

func ExampleDiff() {
	before := Record{Given: "Nokuthula", Family: "Dube", Address: "n.dube@kestrelquay.example", Extra: map[string]string{"House": "Gull"}}
	after := before
	after.Family, after.Address = "Khumalo", "N.Dube@kestrelquay.example"
	after.Set(Extra("House"), "")
	for _, c := range Diff(before, after) {
		fmt.Printf("%s: %q → %q, empties %v\n", c.Field, c.From, c.To, c.Empties())
	}
	// Output:
	// family: "Dube" → "Khumalo", empties false
	// extra:House: "Gull" → "", empties true
}

// A field that is set is the only one that differs, and setting it back leaves
// nothing; a copy made before keeps its values.
func TestSetGetDiff(t *testing.T) {
	start := Record{Given: "Nia", Family: "Fjord", Extra: map[string]string{"Title": "Captain"}}
	for _, f := range append(slices.Clone(Listed), Extra("Title"), Extra("Year"), Extra("family")) {
		r := start
		if !r.Set(f, "other") || r.Get(f) != "other" {
			t.Errorf("%s can't be set", f)
		}
		d := Diff(start, r)
		if len(d) != 1 || d[0] != (FieldChange{f, start.Get(f), "other"}) {
			t.Errorf("%s: %+v", f, d)
		}
		r.Set(f, d[0].From)
		if d := Diff(start, r); len(d) != 0 && !(len(d) == 1 && d[0].From == "" && d[0].To == "") {
			t.Errorf("%s set back: %+v", f, d)
		}
	}
	if start.Get(Extra("Title")) != "Captain" || len(start.Extra) != 1 {
		t.Errorf("a copy changed: %+v", start)
	}
	for _, f := range []Field{Title, Code, "", "extra:", "shoe"} {
		r := start
		if r.Set(f, "x") || len(Diff(start, r)) != 0 {
			t.Errorf("%q was set: %+v", f, r)
		}
	}
}

// What a field is called names it again, also where a list has a column of its
// own that is called like one of ours.
func TestLabels(t *testing.T) {
	all := append(slices.Clone(Listed), Code, ClassName, Title, Date, Term, Year, SchoolYear)
	for _, f := range slices.Clone(all) {
		all = append(all, Extra(f.Label()), Extra(strings.ToUpper(f.Label())))
	}
	all = append(all, Extra("House"), Extra("House (list)"), Extra("Title (list)"), Extra("café"))
	seen := map[string]Field{}
	for _, f := range all {
		label := f.Label()
		if label == "" || Named(label) != f {
			t.Errorf("%s is called %q, which names %s", f, label, Named(label))
		}
		if other, twice := seen[label]; twice && other != f {
			t.Errorf("%s and %s are both called %q", f, other, label)
		}
		seen[label] = f
		if _, extra := f.Heading(); !f.Known() || f.Own() && extra {
			t.Errorf("%s isn't known, or is a list's and ours at once", f)
		}
	}
	for _, f := range []Field{"", "extra:", "shoe", "h:shoe"} {
		if f.Known() {
			t.Errorf("%q is known", f)
		}
	}
}

func TestNames(t *testing.T) {
	for _, c := range []struct {
		r                 Record
		name, call, order string
		nameless          bool
	}{
		{Record{Given: "Nia", Family: "Fjord"}, "Nia Fjord", "Nia Fjord", "Fjord, Nia", false},
		{Record{Given: "Nia", Family: "Fjord", Preferred: "Nini"}, "Nia Fjord", "Nini Fjord", "Fjord, Nia", false},
		{Record{Given: "Nia"}, "Nia", "Nia", "Nia", false},
		{Record{Family: "Fjord"}, "Fjord", "Fjord", "Fjord", false},
		{Record{Preferred: "Nini"}, "Nini", "Nini", "", false},
		{Record{}, "", "", "", true},
	} {
		if c.r.Name() != c.name || c.r.CallName() != c.call || c.r.SortName() != c.order || c.r.Nameless() != c.nameless {
			t.Errorf("%+v: %q, %q, %q, %v", c.r, c.r.Name(), c.r.CallName(), c.r.SortName(), c.r.Nameless())
		}
	}
}

// A class's own code, period and title are beside a list's columns of the
// same name; neither hides the other.
func TestInClass(t *testing.T) {
	r := Record{Given: "Cher", Class: "7B", Extra: map[string]string{"Title": "Captain", "Class": "Tide"}}
	c := With{Own: Values{Title: "Log"}, Rest: InClass{Record: r, ClassCode: "7B/2", ClassPeriod: "3"}}
	for f, want := range map[Field]string{
		Title: "Log", Extra("Title"): "Captain", Code: "7B/2", Class: "7B", Extra("Class"): "Tide",
		Period: "3", Family: "Cher", Given: "", Level: "", Date: "", Extra("none"): "",
	} {
		if got := c.Get(f); got != want {
			t.Errorf("%s: %q, want %q", f, got, want)
		}
	}
	r.Period, r.Family = "5", "Holm"
	c.Rest = InClass{Record: r, ClassPeriod: "3"}
	if c.Get(Period) != "5" || c.Get(Family) != "Holm" || c.Get(Given) != "Cher" {
		t.Error("the class's period or a single name is put over the row's own")
	}
}

func TestVocabulary(t *testing.T) {
	v := VocabularyOf(func(yield func(Record) bool) {
		for _, extra := range []map[string]string{{"Year": "9", "House": ""}, {"House": "Gull", "": "x"}, nil} {
			if !yield(Record{Extra: extra}) {
				return
			}
		}
	})
	if n := len(v); !slices.Equal(v[n-2:], []Field{Extra("House"), Extra("Year")}) || !v.Has(Year) || v.Has(Extra("")) {
		t.Errorf("%v", v)
	}
	seen := maps.Collect(func(yield func(Field, bool) bool) {
		for _, f := range v {
			if !yield(f, true) {
				return
			}
		}
	})
	if len(seen) != len(v) {
		t.Errorf("a field stands twice: %v", v)
	}
}
