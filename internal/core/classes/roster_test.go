package classes_test

import (
	"errors"
	"fmt"
	"slices"
	"testing"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
)

func counted() func() string {
	n := 0
	return func() string { n++; return fmt.Sprint("new", n) }
}

func row(id, given, address string) classes.Row {
	return classes.Row{ClassID: "class",
		ClassRow: roster.ClassRow{ID: id, Record: record.Record{Given: given, Family: "Dube", Address: address}}}
}

// Anyone who comes gets a row, anyone who comes back gets theirs again, anyone who is there is refused.
func TestRosterAdd(t *testing.T) {
	left := row("b", "Ada", "ada@kestrelquay.example")
	left.SetLeft(true, time.Unix(1, 500))
	r := classes.NewRoster("class", []classes.Row{row("a", "Thandiwe", "td@kestrelquay.example"), left}, counted())
	err := r.Add([]record.Record{{Given: "Ines", Family: "Islet", Address: "ines@kestrelquay.example"},
		{Given: "Ada", Family: "Dube", Address: "ada@kestrelquay.example", Team: "B"}})
	if err != nil {
		t.Fatal(err)
	}
	if back := r.At("b"); back.Gone || !back.LeftAt.IsZero() || back.Team != "B" {
		t.Errorf("who came back: %+v", back)
	}
	if len(r.Rows) != 3 || r.At("new1").Given != "Ines" || r.At("new1").ClassID != "class" || r.At("nobody") != nil {
		t.Errorf("%+v", r.Rows)
	}
	var rows []string
	for _, c := range r.Changes() {
		rows = append(rows, c.Row)
	}
	slices.Sort(rows)
	var put []string
	for _, x := range r.Changed() {
		put = append(put, x.ID)
	}
	slices.Sort(put)
	if !slices.Equal(rows, []string{"b", "new1"}) || !slices.Equal(put, rows) {
		t.Errorf("history has %v, what is written %v", rows, put)
	}
	var invalid *change.Invalid
	if err := r.Add([]record.Record{{Given: "T", Family: "D", Address: "TD@kestrelquay.example"}}); !errors.As(err, &invalid) ||
		invalid.Code != "student-there" {
		t.Errorf("who is there already: %v", err)
	}
	r.Remove("a")
	if len(r.Rows) != 2 || !slices.Equal(r.Removed, []string{"a"}) {
		t.Errorf("%+v, %v", r.Rows, r.Removed)
	}
}

// Two students of a class have no address in common: whose it was first keeps it.
func TestRosterApart(t *testing.T) {
	r := classes.NewRoster("class",
		[]classes.Row{row("a", "Ada", "one@kestrelquay.example"), row("b", "Bram", "two@kestrelquay.example")}, counted())
	r.At("b").Address = "ONE@kestrelquay.example"
	var invalid *change.Invalid
	if err := r.Apart(); !errors.As(err, &invalid) || invalid.Code != "address-twice" || invalid.Args["row"] != "b" {
		t.Errorf("%v", err)
	}
	r.At("a").SetLeft(true, time.Unix(1, 0))
	if err := r.Apart(); !errors.As(err, &invalid) || invalid.Code != "address-of-leaver" {
		t.Errorf("the address of somebody who left: %v", err)
	}
}

// A class holds so many and no more; who left doesn't count.
func TestRosterBounded(t *testing.T) {
	rows := make([]classes.Row, roster.MaxStudents+1)
	for i := range rows {
		rows[i] = row(fmt.Sprint(i), "x", "")
	}
	r := classes.NewRoster("class", rows, counted())
	var invalid *change.Invalid
	if err := r.Bounded(); !errors.As(err, &invalid) || invalid.Field != "list" {
		t.Errorf("%v", err)
	}
	r.Rows[0].SetLeft(true, time.Unix(1, 0))
	if err := r.Bounded(); err != nil {
		t.Errorf("%v", err)
	}
}

// What is typed over what somebody else typed is told, with both; what can't be is refused.
func TestEdit(t *testing.T) {
	ptr := func(s string) *string { return &s }
	r := row("a", "Ada", "")
	for _, x := range []struct {
		e    classes.Edit
		code string
	}{
		{classes.Edit{Field: record.Given, Value: "  Ida  May ", Was: ptr("Ada")}, ""},
		{classes.Edit{Field: record.Given, Value: "Ida May", Was: ptr("Ada")}, ""}, // it is already like that
		{classes.Edit{Field: record.Given, Value: "Eva", Was: ptr("Ada")}, "changed"},
		{classes.Edit{Field: record.Address, Value: "no address"}, "address-malformed"},
		{classes.Edit{Field: record.Class, Value: "8A"}, "no-such-cell"},
		{classes.Edit{Field: record.Team, Value: "B"}, ""},
		{classes.Edit{Field: record.Family, Value: ""}, ""},
		{classes.Edit{Field: record.Given, Value: ""}, "name-missing"},
	} {
		now := r
		err := x.e.Apply(&now)
		var invalid *change.Invalid
		var changed *change.Changed
		switch {
		case errors.As(err, &changed):
			if x.code != "changed" || changed.Theirs != "Ida May" || changed.Yours != "Eva" {
				t.Errorf("%+v: %+v", x.e, changed)
			}
		case errors.As(err, &invalid):
			if invalid.Code != x.code {
				t.Errorf("%+v: %v", x.e, err)
			}
		case err != nil || x.code != "":
			t.Errorf("%+v: %v, want %s", x.e, err, x.code)
		default:
			r = now
		}
	}
	if r.Given != "Ida May" || r.Team != "B" || r.Family != "" {
		t.Errorf("%+v", r)
	}
}
