package telling_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/telling"
)

func values(own map[string]string, rest record.Values, extra ...record.Field) telling.Values {
	v := telling.Values{Class: append(record.Vocabulary{record.Given, record.Family, record.Title, record.Teacher,
		record.ClassName}, extra...), Own: own, Rest: rest}
	return v
}

func TestLetters(t *testing.T) {
	own := map[string]string{telling.Name: "Ximena", telling.Link: "https://satchel.example/go/abc", telling.Says: "Bring boots.\nAnd a hat."}
	rest := record.Values{record.Given: "Ximena", record.Title: "Rock pools", record.Extra("Boat"): "Petrel"}
	for _, x := range []struct {
		name, body, want string
		empty            []string
	}{
		{"columns", "Hello [Name], [Title]: [Link]", "Hello Ximena, Rock pools: https://satchel.example/go/abc", nil},
		{"first letters", "[Given name[2]]", "Xi", nil},
		{"a column of the class's own", "Boat [Boat].", "Boat Petrel.", nil},
		{"any case", "[link]", "https://satchel.example/go/abc", nil},
		{"what is no column stays", "Take [care] of it, [ ] done", "Take [care] of it, [ ] done", nil},
		{"the message has its lines", "[Message]", "Bring boots.\nAnd a hat.", nil},
		{"a line without any of its values goes, and so does the space about it", "One\n\nUntil [Due].\n\nTwo", "One\n\nTwo", []string{"Due"}},
		{"a line with some of them stays", "Dear [Family name] [Given name]", "Dear  Ximena", []string{"Family name"}},
		{"no space before and after", "\n\n [Due]\nHello\n\n\n\nBye \n\n", "Hello\n\nBye", []string{"Due"}},
		{"lines of other systems", "One\r\nTwo", "One\nTwo", nil},
	} {
		t.Run(x.name, func(t *testing.T) {
			got := telling.Text{Body: x.body}.For(values(own, rest, record.Extra("Boat")))
			if got.Body != x.want || !slices.Equal(got.Empty, x.empty) {
				t.Errorf("%q with %v empty, not %q with %v", got.Body, got.Empty, x.want, x.empty)
			}
		})
	}
}

// A subject is one line, whatever a column holds.
func TestSubjectIsOneLine(t *testing.T) {
	rest := record.Values{record.Title: "Rock\r\nBcc: all@school.example\npools"}
	got := telling.Text{Subject: "About\n[Title] [Message]"}.For(values(map[string]string{telling.Says: "a\r\nb"}, rest))
	if strings.ContainsAny(got.Subject, "\r\n") || !strings.HasSuffix(got.Subject, "pools a b") {
		t.Errorf("%q", got.Subject)
	}
}

// A list's own column called like one of a message's comes first.
func TestOwnColumnOfTheClassFirst(t *testing.T) {
	v := values(map[string]string{telling.Due: "Fri 27 Nov, 17:00"}, record.Values{record.Extra("Due"): "next week"}, record.Extra("Due"))
	if got := (telling.Text{Body: "[Due]"}).For(v); got.Body != "next week" {
		t.Errorf("%q", got.Body)
	}
}

func TestStrange(t *testing.T) {
	got := telling.Text{Subject: "[Titel]", Body: "[Name] [Vorname] [x]"}.Strange(values(nil, nil))
	if !slices.Equal(got, []string{"Titel", "Vorname"}) {
		t.Errorf("%q", got)
	}
}

func TestAddresses(t *testing.T) {
	for _, x := range []struct{ cell, good, bad string }{
		{"", "[]", "[]"},
		{"a@school.example", "[a@school.example]", "[]"},
		{"Ana Reis <Ana@School.example>; b@school.example,\nc@school.example", "[ana@school.example b@school.example c@school.example]", "[]"},
		{"a@b@c.example d@school.example", "[d@school.example]", "[a@b@c.example]"},
		{"none", "[]", "[]"},
		{"a@x.example b@x.example c@x.example d@x.example e@x.example f@x.example",
			"[a@x.example b@x.example c@x.example d@x.example e@x.example]", "[]"},
	} {
		good, bad := telling.Addresses(x.cell)
		if fmt.Sprint(good) != x.good || fmt.Sprint(bad) != x.bad {
			t.Errorf("%q: %v and %v", x.cell, good, bad)
		}
	}
}

func TestOdd(t *testing.T) {
	at := func(a ...string) []string { return a }
	of := []telling.Reader{
		{Name: "well", Addresses: at("a@school.example")},
		{Name: "none"},
		{Name: "bad", Bad: at("b@@school")},
		{Name: "twin", Addresses: at("c@school.example")},
		{Name: "other twin", Addresses: at("c@school.example"), Wish: telling.Together},
		{Name: "elsewhere", Addresses: at("d@other.example")},
		{Name: "off", Addresses: at("e@school.example"), Wish: telling.Off},
		{Name: "digest", Addresses: at("f@school.example"), Wish: telling.Together},
		{Name: "parent", Addresses: at("g@home.example", "c@school.example"), Outside: true},
	}
	want := []telling.Oddity{"", telling.NoAddress, telling.NotAddress, telling.Twice, telling.Twice,
		telling.OtherDomain, telling.TurnedOff, telling.InDigest, ""}
	for i, got := range telling.Odd(of, "School.example", true) {
		if got != want[i] {
			t.Errorf("%s: %q, not %q", of[i].Name, got, want[i])
		}
		reached := len(of[i].Addresses) > 0 && of[i].Wish != telling.Off
		if got.Reached() != reached {
			t.Errorf("%s: reached %t", of[i].Name, got.Reached())
		}
	}
	if got := telling.Odd(of[5:6], "", false); got[0] != "" {
		t.Errorf("without a domain: %q", got[0])
	}
}

// A digest has each message under its subject; of one alone it is that one, from whom it is.
func TestDigestOf(t *testing.T) {
	now := time.Date(2026, 11, 30, 15, 30, 0, 0, time.UTC)
	parts := []telling.Message{{ID: "1", Account: "s0", Subject: "A", Body: "a\nb", FromName: "T. Oduya",
		SentBy: "oduya", ToAddress: "s0@school.example"}, {ID: "2", Account: "s0", Subject: "B", Body: "c"}}
	d := telling.DigestOf(parts, "Kestrel Quay", now)
	if d.Body != "A\n\na\nb\n\n* * *\n\nB\n\nc" || d.FromName != "Kestrel Quay" || d.SentBy != "" ||
		d.Kind != telling.Digest || d.Account != "s0" || d.ToAddress != "s0@school.example" || !strings.Contains(d.Subject, "2") {
		t.Errorf("of two: %+v", d)
	}
	if d = telling.DigestOf(parts[:1], "Kestrel Quay", now); d.Subject != "A" || d.Body != "a\nb" ||
		d.FromName != "T. Oduya" || d.SentBy != "oduya" {
		t.Errorf("of one: %+v", d)
	}
}

// Anyone who is told of something they needn't be told of can say so; a code has no such way.
func TestFoot(t *testing.T) {
	for kind, want := range map[telling.Kind]string{telling.Given: "https://satchel.example/account",
		telling.Digest: "https://satchel.example/account", telling.Code: ""} {
		text, off := telling.Message{Account: "s0", Kind: kind}.Foot("Kestrel Quay", "https://satchel.example")
		if off != want || !strings.Contains(text, "Kestrel Quay") || want != "" && !strings.Contains(text, want) {
			t.Errorf("%s: %q, %q", kind, text, off)
		}
	}
	if _, off := (telling.Message{Kind: telling.Written}).Foot("Kestrel Quay", "https://satchel.example"); off != "" {
		t.Errorf("an address that is no account's has a way to %s", off)
	}
	if got := (telling.Message{FromName: "Kestrel Quay"}).From("Kestrel Quay"); got != "Kestrel Quay" {
		t.Errorf("the school writes as %q", got)
	}
	if got := (telling.Message{FromName: "T. Oduya"}).From("Kestrel Quay"); !strings.Contains(got, "T. Oduya") ||
		!strings.Contains(got, "Kestrel Quay") {
		t.Errorf("a teacher writes as %q", got)
	}
}

func ExampleText_For() {
	text := telling.Text{Subject: "[Title] – [Class name]", Body: "Hello [Name],\n\nopen for writing until [Due].\n\n[Link]"}
	letter := text.For(telling.Values{
		Class: record.Vocabulary{record.Title, record.ClassName},
		Own:   map[string]string{telling.Name: "Nokuthula", telling.Link: "https://satchel.example/go/k7"},
		Rest:  record.Values{record.Title: "Rock-pool field log", record.ClassName: "Tide Watch 7B"},
	})
	fmt.Println(letter.Subject)
	fmt.Println(letter.Body)
	// Output:
	// Rock-pool field log – Tide Watch 7B
	// Hello Nokuthula,
	//
	// https://satchel.example/go/k7
}
