package letters_test

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/letters"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	. "jollysatchel/internal/core/picture/picturetest"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/telling"
)

var lisbon = func() *time.Location {
	zone, err := time.LoadLocation("Europe/Lisbon")
	if err != nil {
		panic(err)
	}
	return zone
}()

// book is the book of letters of a class with addresses, of which one student has none.
func book(p *picture.Picture, wishes ...telling.Wished) *letters.Book {
	of := map[string]telling.Wished{}
	for _, w := range wishes {
		of[w.Account] = w
	}
	return letters.Of(p, letters.School{Site: "https://satchel.example", Domain: "school.example", Zone: lisbon}, Noon, of)
}

func class(n int) picture.Class {
	c := Class(n)
	for i := range c.Students {
		c.Students[i].Address = fmt.Sprintf("s%d@school.example", i)
	}
	return c
}

func ExampleBook_Messages() {
	p := Pack(Of(class(1), Handout("h", "Charts")))
	tale := letters.Tale{Kind: telling.Given, Handout: &p.Handouts[0],
		Text: telling.Text{Subject: "[Title]", Body: "Hello [Name],\n[Link]"},
		By:   letters.Sender{Account: Owner, Name: "T. Oduya"}, About: "given/h"}
	for _, m := range book(p).Messages(tale, []string{"r0"}) {
		fmt.Println(m.ToAddress, m.Subject, m.About)
		fmt.Println(m.Body)
	}
	// Output:
	// s0@school.example Charts given/h/r0/s0
	// Hello Given0,
	// https://satchel.example/go/link-c/copy.h.1/row.r0
}

// Anyone who can't be told, or wants nothing, gets none; a digest waits for its hour by the school's
// clocks; what is said twice at once may be changed until then.
func TestMessages(t *testing.T) {
	c := class(5)
	c.Students[1].Address = ""
	c.Students[2].Address, c.Students[2].Account = "somewhere@else.example", ""
	p := Pack(Of(c, Handout("h", "Charts")))
	b := book(p, telling.Wished{Account: "s3", Wish: telling.Together, At: "07:30"}, telling.Wished{Account: "s4", Wish: telling.Off})
	tale := letters.Tale{Kind: telling.Given, Handout: &p.Handouts[0], Text: telling.Text{Subject: "x", Body: "y"}, After: time.Minute}
	got := map[string]telling.Message{}
	for _, m := range b.Messages(tale, []string{"r0", "r1", "r2", "r3", "r4"}) {
		got[m.Row] = m
	}
	if len(got) != 2 || !got["r0"].NotBefore.Equal(Noon.Add(time.Minute)) || got["r0"].HandoutID != "h" {
		t.Errorf("they are %+v", got)
	}
	if at := got["r3"].NotBefore.In(lisbon).Format("2 Jan 15:04"); got["r3"].State != telling.Gathering || at != "24 Nov 07:30" {
		t.Errorf("who wants one a day is %s until %s", got["r3"].State, at)
	}
}

// The link in a letter leads to what is one's own: the copy, the place of several, or home.
func TestWayIn(t *testing.T) {
	link := func(p *picture.Picture, h *handout.Handout) string {
		t.Helper()
		tale := letters.Tale{Kind: telling.Written, Handout: h, Text: telling.Text{Subject: "x", Body: "[Link]"}}
		return book(p).Messages(tale, []string{"r0"})[0].Body
	}
	one := Handout("h", "Charts")
	p := Pack(Of(class(1), one))
	if got := link(p, &one); !strings.HasSuffix(got, "/go/link-c/copy.h.1/row.r0") {
		t.Errorf("of one copy: %s", got)
	}
	if got := link(p, nil); !strings.HasSuffix(got, "/go/link-c/satchel/row.r0") {
		t.Errorf("of no handout: %s", got)
	}
	two := one
	two.Settings.Documents = append(two.Settings.Documents, handout.GivenDocument{Slot: 2, Template: "t"})
	p = Pack(Of(class(1), two))
	if got := link(p, &two); !strings.HasSuffix(got, "/door/c/h") {
		t.Errorf("of two copies: %s", got)
	}
	See(p, Copy(p, "h", 0), func(st *ledger.Seen) { st.Place = ledger.InBin })
	if got := link(p, &two); !strings.HasSuffix(got, "/go/link-c/copy.h.2/row.r0") {
		t.Errorf("of two copies, one binned: %s", got)
	}
	if got := link(Of(class(1), one), &one); got != "https://satchel.example/" {
		t.Errorf("of what isn't made: %s", got)
	}
}

// Anyone who is meant by nothing said is who gets something; rows that are named are meant as they are.
func TestAsked(t *testing.T) {
	h := Handout("h", "Charts")
	h.Settings.Out = map[string]string{"r1": handout.SitsOut}
	p := Pack(Of(class(3), h))
	text := telling.Text{Subject: "x", Body: "[Star sign]"}
	for _, c := range []struct {
		ask  letters.Ask
		want []string
		err  string
	}{
		{letters.Ask{Kind: telling.Given, Handout: "h"}, []string{"r0", "r2"}, ""},
		{letters.Ask{Kind: telling.Written, Handout: "h", Text: &text}, []string{"r0", "r2"}, ""},
		{letters.Ask{Kind: telling.Written, Handout: "h", Text: &text, Rows: []string{"r1", "r0"}}, []string{"r0", "r1"}, ""},
		{letters.Ask{Kind: telling.Written, Text: &text}, []string{"r0", "r1", "r2"}, ""},
		{letters.Ask{Kind: telling.Written, Handout: "other"}, nil, letters.ErrNoHandout.Error()},
		{letters.Ask{Kind: telling.Given}, nil, "kind"},
		{letters.Ask{Kind: "howl"}, nil, "kind"},
		{letters.Ask{Kind: telling.Written, Column: record.Extra("Shoe size")}, nil, "column"},
		{letters.Ask{Kind: telling.Written, Text: &telling.Text{Subject: strings.Repeat("x", telling.MostSubject+1), Body: "y"}}, nil, "text"},
	} {
		_, rows, err := book(p).Tale(c.ask)
		var refused *change.Invalid
		said := ""
		if errors.As(err, &refused) {
			said, _, _ = strings.Cut(refused.Field, ".")
		} else if err != nil {
			said = err.Error()
		}
		if said != c.err || c.err == "" && !slices.Equal(rows, c.want) {
			t.Errorf("%+v: %v, %v; want %v, %q", c.ask, rows, err, c.want, c.err)
		}
	}
	b := book(p)
	tale, rows, _ := b.Tale(letters.Ask{Kind: telling.Written, Text: &text})
	v := b.Preview(tale, rows, "r1")
	if v.Row != "r1" || v.Messages != 3 || len(v.Readers) != 3 || !slices.Equal(v.Strange, []string{"Star sign"}) ||
		!slices.Equal(v.To, []string{"s1@school.example"}) {
		t.Errorf("it is shown as %+v", v)
	}
}

// News are for whom something was given: for the first time, or later. What somebody was let
// into of a classmate's is no news.
func TestNews(t *testing.T) {
	p := Of(class(4))
	key := func(row string) packing.Key { return handout.CopyKey("c", "h", 1, packing.Whom{Row: row}) }
	first, later := letters.News(p.Students, []ledger.Given{
		{Key: key("r0"), Account: "s0"}, {Key: key("r1"), Account: "s1"}, {Key: key("r2"), Account: "s2", Renewed: true},
		{Key: key("r0"), Account: "s3"},
		{Key: key("r9"), Account: "s9"}, {Key: handout.CopyKey("c", "h", 1, packing.Whom{Team: "g"}), Account: Owner},
	}, map[string]bool{"s1": true})
	if !slices.Equal(first, []string{"r0"}) || !slices.Equal(later, []string{"r1", "r2"}) {
		t.Errorf("first %v, later %v", first, later)
	}
}
