package draft_test

import (
	"errors"
	"strings"
	"testing"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/draft"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
)

func ptr[T any](v T) *T { return &v }

// refused reports that an error refuses a field for a reason.
func refused(err error, field, code string) bool {
	var invalid *change.Invalid
	return errors.As(err, &invalid) && invalid.Field == field && invalid.Code == code
}

// What several people answer about a list all stands, each in its place; who looked at something
// that is another by now is told so, and nothing of theirs is kept.
func TestApply(t *testing.T) {
	d := draft.Draft{ID: "one", Sheets: []draft.Sheet{{Name: "Tides"}, {Name: "Lights"}}, Settings: draft.Settings{Sheet: "Tides"}}
	for _, ch := range []draft.Change{
		{Role: &draft.RoleChange{Field: 0, Role: roster.Given}}, {Role: &draft.RoleChange{Field: 1, Role: roster.Given}},
		{LeftOut: &draft.RowChange{Row: 3, Out: true}}, {Same: &draft.RowChange{Row: 4, Out: true}},
		{Heading: ptr(2), Was: ptr("")}, {Said: &draft.SaidChange{Line: 5, Row: "new"}},
		{Said: &draft.SaidChange{Line: 5}, Was: ptr("new")}, {Tick: &draft.TickChange{Key: "k"}},
		{Target: &draft.TargetChange{Group: "g", Class: "out"}}, {Without: ptr(true)}, {FamilyFirst: ptr(true)},
		{ByPeriod: ptr(true)}, {NoStaff: ptr(true)},
	} {
		if err := d.Apply(ch); err != nil {
			t.Fatalf("%+v: %v", ch, err)
		}
	}
	of := d.Settings.OfSheet
	if len(of.Roles) != 1 || of.Roles[1] != roster.Given {
		t.Errorf("a role that stands once is in %v", of.Roles)
	}
	if !of.LeftOut[3] || !of.Same[4] || *of.Heading != 2 || len(of.Said) != 0 || of.Ticked["k"] || len(of.Ticked) != 1 ||
		of.Targets["g"] != "out" || !d.Settings.Without || !d.Settings.FamilyFirst || !d.Settings.ByPeriod || !d.Settings.NoStaff {
		t.Errorf("%+v", d.Settings)
	}
	var changed *change.Changed
	for _, ch := range []draft.Change{
		{Heading: ptr(7), Was: ptr("1")}, {Sheet: ptr("Lights"), Was: ptr("Lamps")},
		{Target: &draft.TargetChange{Group: "g", Class: "new"}, Was: ptr("")},
		{Role: &draft.RoleChange{Field: 1, Role: roster.Family}, Was: ptr("none")},
	} {
		if err := d.Apply(ch); !errors.As(err, &changed) {
			t.Errorf("%+v over what somebody else said: %v", ch, err)
		}
	}
	if err := d.Apply(draft.Change{Role: &draft.RoleChange{Role: "captain"}}); !refused(err, "role", "no-such-role") {
		t.Error(err)
	}
	if err := d.Apply(draft.Change{Derive: ptr(roster.AddressRule("[rank]"))}); !refused(err, "derive", "no-such-rule") {
		t.Error(err)
	}
	if err := d.Apply(draft.Change{Sheet: ptr("Buoys")}); !refused(err, "sheet", "no-such-sheet") {
		t.Error(err)
	}
	if err := d.Apply(draft.Change{Sheet: ptr("Lights"), Was: ptr("Tides")}); err != nil ||
		d.Settings.Sheet != "Lights" || len(d.Settings.OfSheet.Roles) != 0 || !d.Settings.Without {
		t.Errorf("what was said of the other sheet is forgotten, what was said of the list stays: %v, %+v", err, d.Settings)
	}
}

// A cell is corrected where it is, within what a value and a row may hold.
func TestCell(t *testing.T) {
	rows := []roster.Row{{Line: 4, Cells: []string{"Ada", strings.Repeat("x", roster.MaxValue+9)}}}
	for _, x := range []struct {
		ch         draft.CellChange
		was        *string
		field, bad string
	}{
		{draft.CellChange{Row: 4, Field: 0, Value: "Ida"}, ptr("Ada"), "", ""},
		{draft.CellChange{Row: 4, Field: 1, Value: "short"}, ptr(roster.Clip(rows[0].Cells[1])), "", ""}, // as it was shown
		{draft.CellChange{Row: 4, Field: roster.MaxFields - 1, Value: "far out"}, ptr(""), "", ""},
		{draft.CellChange{Row: 4, Field: roster.MaxFields, Value: "x"}, nil, "cell", "no-such-cell"},
		{draft.CellChange{Row: 4, Field: -1, Value: "x"}, nil, "cell", "no-such-cell"},
		{draft.CellChange{Row: 5, Field: 0, Value: "x"}, nil, "cell", "no-such-cell"},
		{draft.CellChange{Row: 4, Field: 0, Value: strings.Repeat("y", roster.MaxValue+1)}, nil, "cell", "too-long"},
	} {
		cell, err := x.ch.At(rows, x.was)
		if x.bad == "" && (err != nil || cell != draft.Cell{Line: x.ch.Row, Field: x.ch.Field, Value: x.ch.Value}) ||
			x.bad != "" && !refused(err, x.field, x.bad) {
			t.Errorf("%+v: %+v, %v", x.ch, cell, err)
		}
	}
	var changed *change.Changed
	if _, err := (draft.CellChange{Row: 4, Field: 0, Value: "Ida"}).At(rows, ptr("Eva")); !errors.As(err, &changed) ||
		changed.Theirs != "Ada" {
		t.Error(err)
	}
}

// A list is read as it was answered: with the columns said, and without what was left out.
func TestOf(t *testing.T) {
	d := draft.Draft{ClassID: "class",
		Settings: draft.Settings{Derive: "",
			OfSheet: draft.SheetAnswers{Roles: map[int]roster.Role{0: roster.Family, 1: roster.Given}, LeftOut: map[int]bool{2: true}}}}
	rows := []roster.Row{{Line: 1, Cells: []string{"Dube", "Thandiwe"}}, {Line: 2, Cells: []string{"Total", "1"}}}
	v := d.Of(rows, "kestrelquay.example", "", func(string, record.Record) roster.Knowing { return roster.Knowing{} })
	if len(v.Read.Students) != 1 || v.Read.Students[0].Given != "Thandiwe" || v.Answers.Home != "class" || v.Answers.Derived {
		t.Errorf("%+v, %+v", v.Read.Students, v.Answers)
	}
}
