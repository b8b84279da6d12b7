package choosing

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"jollysatchel/internal/core/record"
)

func ExampleChoose() {
	class := []Student{
		{Row: "1", Values: record.Values{"Period": "9"}}, {Row: "2", Values: record.Values{"Period": "19"}},
		{Row: "3", SitsOut: true, Values: record.Values{"Period": "9"}}, {Row: "4", Left: true},
	}
	for _, o := range Choose(class, Choice{Conditions: []Condition{{"Period", OneOf, []string{"9"}}}, Ticked: map[string]bool{"4": true}}) {
		fmt.Println(o.Row, o.In, o.Reason)
	}
	// Output:
	// 1 true condition
	// 2 false condition
	// 3 false sits-out
	// 4 false left
}

func TestHolds(t *testing.T) {
	for _, c := range []struct {
		test   Test
		values []string
		yes    []string
		no     []string
	}{
		{OneOf, []string{"9", "10"}, []string{"9", " 10 ", "9.0"}, []string{"19", "", "x"}},
		{Is, []string{"Gull"}, []string{"gull", "GULL"}, []string{"Gulls", ""}},
		{Is, []string{"Ærø"}, []string{"ÆRØ"}, []string{"Aero"}},
		{Is, []string{"07"}, []string{"07"}, []string{"7", "7.0"}},
		{IsNot, []string{"Gull"}, []string{"Tern", ""}, []string{"gull"}},
		{Contains, []string{"9"}, []string{"9", "19", "9B"}, []string{"8"}},
		{StartsWith, []string{"9"}, []string{"9", "9B"}, []string{"19"}},
		{Greater, []string{"9"}, []string{"10", "9,5"}, []string{"9", "8", "", "x"}},
		{Smaller, []string{"10"}, []string{"9", "-1", "9.99"}, []string{"10", "11", "", "x"}},
		{Smaller, []string{"M"}, []string{"Dube"}, []string{"Nunes", "3"}},
		{Empty, nil, []string{"", "  "}, []string{"0"}},
		{NotEmpty, nil, []string{"0"}, []string{"", " "}},
		{"unheard of", []string{"x"}, nil, []string{"x", ""}},
	} {
		cond := Condition{"Column", c.test, c.values}
		for _, v := range c.yes {
			if !cond.Holds(v) {
				t.Errorf("%q %s %q doesn't hold", v, c.test, c.values)
			}
		}
		for _, v := range c.no {
			if cond.Holds(v) {
				t.Errorf("%q %s %q holds", v, c.test, c.values)
			}
		}
	}
}

func TestReasonsInTurn(t *testing.T) {
	cond := []Condition{{"Level", Is, []string{"A"}}, {"Period", Is, []string{"3"}}}
	a3 := record.Values{"Level": "A", "Period": "3"}
	a4 := record.Values{"Level": "A", "Period": "4"}
	for _, c := range []struct {
		what   string
		s      Student
		choice Choice
		in     bool
		reason Reason
		failed int
	}{
		{"everybody", Student{Row: "r"}, Choice{}, true, Everybody, -1},
		{"left first of all", Student{Row: "r", Left: true, SitsOut: true}, Choice{Ticked: map[string]bool{"r": true}}, false, Left, -1},
		{"sits out before hand picks", Student{Row: "r", SitsOut: true}, Choice{Ticked: map[string]bool{"r": true}}, false, SitsOut, -1},
		{"unticked against the condition", Student{Row: "r", Values: a3},
			Choice{Conditions: cond, Ticked: map[string]bool{"r": false}}, false, Unticked, -1},
		{"ticked against the condition", Student{Row: "r"}, Choice{Conditions: cond, Ticked: map[string]bool{"r": true}}, true, Ticked, -1},
		{"all of", Student{Row: "r", Values: a3}, Choice{Conditions: cond}, true, ByCondition, -1},
		{"not all of", Student{Row: "r", Values: a4}, Choice{Conditions: cond}, false, ByCondition, 1},
		{"any of", Student{Row: "r", Values: a4}, Choice{Any: true, Conditions: cond}, true, ByCondition, -1},
		{"not any of", Student{Row: "r"}, Choice{Any: true, Conditions: cond}, false, ByCondition, 0},
	} {
		if o := Choose([]Student{c.s}, c.choice)[0]; o.In != c.in || o.Reason != c.reason || o.Failed != c.failed {
			t.Errorf("%s: %+v", c.what, o)
		}
	}
	for _, c := range []Condition{{}, {"A", Is, nil}, {"A", Is, []string{" "}}, {"A", OneOf, nil},
		{"A", "odd", []string{"x"}}, {"", Empty, nil}} {
		if c.Whole() {
			t.Errorf("%+v is taken for whole", c)
		}
	}
	if !(Condition{"A", Empty, nil}).Whole() || !(Condition{"A", OneOf, []string{"x", "y"}}).Whole() {
		t.Error("a whole condition isn't taken for one")
	}
}

// Everybody has one outcome in their order; any and all agree on one
// condition; a condition and its opposite divide the class.
func TestChooseProperties(t *testing.T) {
	r := rand.New(rand.NewPCG(21, 34))
	values := []string{"", "1", "2", "10", "a", "B"}
	for range 2000 {
		var class []Student
		for i := range r.IntN(30) {
			class = append(class, Student{Row: fmt.Sprint(i), Left: r.IntN(9) == 0, SitsOut: r.IntN(9) == 0,
				Values: record.Values{"C": values[r.IntN(len(values))]}})
		}
		v := values[r.IntN(len(values))]
		is, not := Choice{Conditions: []Condition{{"C", Is, []string{v}}}}, Choice{Conditions: []Condition{{"C", IsNot, []string{v}}}}
		a, b := Choose(class, is), Choose(class, not)
		is.Any = true
		if !slices.Equal(a, Choose(class, is)) {
			t.Fatal("any of one and all of one differ")
		}
		for i, s := range class {
			free := !s.Left && !s.SitsOut
			if a[i].Row != s.Row || a[i].In && b[i].In || free && !a[i].In && !b[i].In || !free && a[i].In {
				t.Fatalf("%+v: %+v, %+v", s, a[i], b[i])
			}
		}
	}
}

func TestRefused(t *testing.T) {
	conds := func(n int, c Condition) Choice { return Choice{Conditions: slices.Repeat([]Condition{c}, n)} }
	values := func(n int) Condition { return Condition{"Period", OneOf, slices.Repeat([]string{"9"}, n)} }
	long := strings.Repeat("x", maxValue)
	for _, c := range []struct {
		what   string
		choice Choice
		code   string
		args   map[string]string
	}{
		{"none", Choice{}, "", nil},
		{"as many as may be", conds(MaxConditions, values(MaxValues)), "", nil},
		{"one more", conds(MaxConditions+1, values(1)), "too-many-conditions", map[string]string{"most": "20"}},
		{"a value more", Choice{Conditions: []Condition{values(1), values(MaxValues + 1)}}, "too-long",
			map[string]string{"place": "2", "most": "500"}},
		{"as long as may be", conds(1, Condition{record.Field(long), Is, []string{long}}), "", nil},
		{"a longer value", conds(1, Condition{"Period", Is, []string{long + "x"}}), "too-long", map[string]string{"place": "1", "most": "500"}},
		{"a longer column", conds(1, Condition{record.Field(long + "x"), Is, []string{"9"}}), "too-long",
			map[string]string{"place": "1", "most": "500"}},
	} {
		if code, args := c.choice.Refused(); code != c.code || !maps.Equal(args, c.args) {
			t.Errorf("%s: %q %v", c.what, code, args)
		}
	}
}

// Picked means nobody but who is ticked, whatever conditions say.
func TestPicked(t *testing.T) {
	c := Choice{Picked: true, Ticked: map[string]bool{"a": true, "b": false}, Conditions: []Condition{{Column: record.Level, Test: NotEmpty}}}
	students := []Student{{Row: "a"}, {Row: "b"}, {Row: "c", Values: record.Values{record.Level: "A"}},
		{Row: "a", Left: true}, {Row: "a", SitsOut: true}}
	want := []Reason{Ticked, Unticked, Unticked, Left, SitsOut}
	for i, o := range Choose(students, c) {
		if o.Reason != want[i] || o.In != (i == 0) {
			t.Errorf("%d: %+v, want %s", i, o, want[i])
		}
	}
}
