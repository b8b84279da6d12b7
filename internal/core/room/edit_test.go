package room_test

import (
	"errors"
	"fmt"
	"reflect"
	"strings"
	"testing"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
)

func ptr[T any](v T) *T { return &v }

// ids names what is added n1, n2, …
func ids() func() string {
	n := 0
	return func() string { n++; return fmt.Sprint("n", n) }
}

// edited is the usual plan with two pockets and a place for teams.
func edited() room.Plan {
	p := room.Usual()
	p.Pockets = []room.Pocket{{ID: "f", Name: "Field work"}, {ID: "p", Name: "Photographs"}}
	p.Places = append(p.AllPlaces(), room.Place{ID: "crew", Name: "Crews", For: room.ForTeam, Level: "edit", Set: record.Team})
	return p
}

func place(t *testing.T, p room.Plan, id string) room.Place {
	t.Helper()
	for _, x := range p.AllPlaces() {
		if x.ID == id {
			return x
		}
	}
	t.Fatalf("there is no place %s", id)
	return room.Place{}
}

// What several change of different parts all stands; over somebody else's change of the same
// part both values are told.
func TestChangeOf(t *testing.T) {
	var ch room.Change
	ch.To.Term, ch.Was.Term = ptr("  Autumn  term "), ptr("")
	ch.Pockets.Add, ch.Pockets.Remove = []string{" Maps ", " "}, []string{"p", "long gone"}
	ch.Pockets.Rename = []room.PocketName{{ID: "f", Name: "Out: doors", Was: ptr("Field work")}}
	ch.Pockets.Order = []string{"n1"}
	got, err := ch.Of(edited(), ids())
	if want := []room.Pocket{{ID: "n1", Name: "Maps"}, {ID: "f", Name: naming.Safe("Out: doors", "")},
		{ID: "n2"}}; err != nil || got.Term != "Autumn term" || !reflect.DeepEqual(got.Pockets, want) {
		t.Errorf("%q, %+v, %v", got.Term, got.Pockets, err)
	}
	if before := edited(); !reflect.DeepEqual(before.Pockets[0], room.Pocket{ID: "f", Name: "Field work"}) {
		t.Error("the plan that was changed is another")
	}
	for what, x := range map[string]func(*room.Change){
		"a term":             func(ch *room.Change) { ch.To.Term, ch.Was.Term = ptr("Spring"), ptr("Winter") },
		"a pocket":           func(ch *room.Change) { ch.Pockets.Rename = []room.PocketName{{ID: "f", Name: "A", Was: ptr("B")}} },
		"a pocket that went": func(ch *room.Change) { ch.Pockets.Rename = []room.PocketName{{ID: "x", Name: "A"}} },
		"a place": func(ch *room.Change) {
			ch.Places.Change = []room.PlaceChange{{ID: "crew", To: room.PlaceParts{Name: ptr("A")}, Was: room.PlaceParts{Name: ptr("B")}}}
		},
		"a place that went": func(ch *room.Change) {
			ch.Places.Change = []room.PlaceChange{{ID: "x", To: room.PlaceParts{Name: ptr("A")}}}
		},
	} {
		var ch room.Change
		x(&ch)
		if _, err := ch.Of(edited(), ids()); !errors.As(err, new(*change.Changed)) {
			t.Errorf("%s: %v", what, err)
		}
	}
}

// What goes with who a place is for follows: staff have no level, handing in is editing, and only
// teams come of a column. What is in a place that goes comes to be where that lay.
func TestChangeOfPlaces(t *testing.T) {
	of := func(plan room.Plan, ch func(*room.Change)) room.Plan {
		t.Helper()
		var c room.Change
		ch(&c)
		got, err := c.Of(plan, ids())
		if err != nil {
			t.Fatal(err)
		}
		return got
	}
	plan := of(edited(), func(c *room.Change) {
		c.Places.Add = []room.PlaceParts{{Name: ptr("Post box"), HandIn: ptr(true), For: ptr(room.ForStudent),
			Under: ptr("crew")}, {Name: ptr("Notes"), For: ptr(room.ForStaff)}}
	})
	if p := place(t, plan, "n1"); p.Level != "edit" || !p.HandIn || p.Under != "crew" {
		t.Errorf("handing in: %+v", p)
	}
	if p := place(t, plan, "n2"); p.Level != "" || p.HandIn {
		t.Errorf("staff's: %+v", p)
	}
	plan = of(plan, func(c *room.Change) {
		c.Places.Change = []room.PlaceChange{{ID: "n1", To: room.PlaceParts{For: ptr(room.ForClass)}},
			{ID: "n2", To: room.PlaceParts{For: ptr(room.ForTeam)}}, {ID: "crew", To: room.PlaceParts{For: ptr(room.ForClass)}}}
	})
	for id, want := range map[string]room.Place{"n1": {Level: "edit"}, "n2": {Level: "read", Set: record.Team}, "crew": {Level: "edit"}} {
		if p := place(t, plan, id); p.Level != want.Level || p.HandIn || p.Set != want.Set {
			t.Errorf("%s becomes %+v", id, p)
		}
	}
	plan = of(plan, func(c *room.Change) { c.Places.Remove = []string{"crew", "long gone"} })
	if p := place(t, plan, "n1"); p.Under != "" {
		t.Errorf("it lies in %q", p.Under)
	}
}

// One beyond what a plan's texts may be is refused at its place.
func TestBounded(t *testing.T) {
	long := func(n int) string { return strings.Repeat("x", n) }
	for field, x := range map[string]func(*room.Plan){
		"satchel": func(p *room.Plan) { p.Satchel = naming.Pattern{{Text: long(naming.MostText + 1)}} },
		"name":    func(p *room.Plan) { p.Name = long(room.MostName + 1) },
		"term":    func(p *room.Plan) { p.Term = long(naming.MostText + 1) },
		"places":  func(p *room.Plan) { p.Places = []room.Place{{Name: long(naming.MostName + 1)}} },
		"pockets": func(p *room.Plan) { p.Pockets = []room.Pocket{{Name: long(naming.MostName + 1)}} },
	} {
		p := edited()
		if err := p.Bounded(); err != nil {
			t.Fatal(err)
		}
		x(&p)
		var invalid *change.Invalid
		if err := p.Bounded(); !errors.As(err, &invalid) || invalid.Field != field || invalid.Code != "too-long" {
			t.Errorf("%s: %v", field, err)
		}
	}
}
