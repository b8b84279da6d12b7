// Package choosing decides who of a class, or of several, is in: conditions on
// columns, hand picks on top, and for everybody one reason.
package choosing

import (
	"slices"
	"strconv"
	"strings"

	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
)

// A Test compares a column with a value.
type Test string

// The tests, the one that is rarely wrong first: "contains 9" also catches 19.
const (
	OneOf      Test = "one-of"
	Is         Test = "is"
	IsNot      Test = "is-not"
	Contains   Test = "contains"
	StartsWith Test = "starts-with"
	Greater    Test = "greater"
	Smaller    Test = "smaller"
	Empty      Test = "empty"
	NotEmpty   Test = "not-empty"
)

// Tests lists every test in the order a teacher is offered them.
var Tests = []Test{OneOf, Is, IsNot, Contains, StartsWith, Greater, Smaller, Empty, NotEmpty}

// A Condition is a test on one column. Values has one value, OneOf any number,
// Empty and NotEmpty none.
type Condition struct {
	Column record.Field `json:"column"`
	Test   Test         `json:"test"`
	Values []string     `json:"values"`
}

// A Choice says who is in. The zero value is everybody.
type Choice struct {
	Any        bool            `json:"any"` // any of the conditions, else all of them
	Conditions []Condition     `json:"conditions"`
	Ticked     map[string]bool `json:"ticked"` // by row: true taken in by hand, false left out by hand
	// Picked leaves out everybody who isn't taken in by hand, also who joins later.
	Picked bool `json:"picked,omitempty"`
}

// A Student is what choosing needs to know of one.
type Student struct {
	Row     string
	Left    bool
	SitsOut bool
	Values  record.Getter
}

func (s Student) get(f record.Field) string {
	if s.Values == nil {
		return ""
	}
	return s.Values.Get(f)
}

// A Reason why a student is in or out.
type Reason string

// The reasons, in the order they are asked: the first that holds is the one.
const (
	Left        Reason = "left"
	SitsOut     Reason = "sits-out"
	Unticked    Reason = "unticked"
	Ticked      Reason = "ticked"
	ByCondition Reason = "condition"
	Everybody   Reason = "everybody"
)

// An Outcome of choosing for one student.
type Outcome struct {
	Row    string
	In     bool
	Reason Reason
	// Failed is the first condition that doesn't hold, for who is out by
	// condition; -1 for none.
	Failed int
}

// Choose gives every student exactly one outcome with one reason, in their
// order. In + out = all.
func Choose(students []Student, c Choice) []Outcome {
	out := make([]Outcome, len(students))
	for i, s := range students {
		out[i] = c.outcome(s)
	}
	return out
}

func (c Choice) outcome(s Student) Outcome {
	o := Outcome{Row: s.Row, Failed: -1}
	ticked, byHand := c.Ticked[s.Row]
	switch {
	case s.Left:
		o.Reason = Left
	case s.SitsOut:
		o.Reason = SitsOut
	case byHand && !ticked:
		o.Reason = Unticked
	case byHand:
		o.In, o.Reason = true, Ticked
	case c.Picked:
		o.Reason = Unticked
	case len(c.Conditions) > 0:
		o.Reason = ByCondition
		o.Failed = c.failed(s)
		o.In = o.Failed < 0
	default:
		o.In, o.Reason = true, Everybody
	}
	return o
}

// failed returns the place of the condition that keeps a student out, -1 where
// none does.
func (c Choice) failed(s Student) int {
	first := -1
	for i, cond := range c.Conditions {
		if cond.Holds(s.get(cond.Column)) {
			if c.Any {
				return -1
			}
		} else if first < 0 {
			first = i
		}
	}
	return first
}

// Holds reports whether a value passes the test. Text compares without regard
// to case, accents kept; two numbers compare as numbers, so that 9 is 9.0 and
// less than 10.
func (c Condition) Holds(value string) bool {
	value = strings.TrimSpace(value)
	against := ""
	if len(c.Values) > 0 {
		against = strings.TrimSpace(c.Values[0])
	}
	switch c.Test {
	case OneOf:
		return slices.ContainsFunc(c.Values, func(v string) bool { return equal(value, strings.TrimSpace(v)) })
	case Is:
		return equal(value, against)
	case IsNot:
		return !equal(value, against)
	case Contains:
		return strings.Contains(naming.Fold(value), naming.Fold(against))
	case StartsWith:
		return strings.HasPrefix(naming.Fold(value), naming.Fold(against))
	case Greater:
		return value != "" && compare(value, against) > 0
	case Smaller:
		return value != "" && compare(value, against) < 0
	case Empty:
		return value == ""
	case NotEmpty:
		return value != ""
	}
	return false
}

// Whole reports whether a condition says all it needs; one that is being typed
// doesn't yet.
func (c Condition) Whole() bool {
	switch c.Test {
	case Empty, NotEmpty:
		return c.Column != ""
	case OneOf:
		return c.Column != "" && len(c.Values) > 0
	}
	return c.Column != "" && slices.Contains(Tests, c.Test) && len(c.Values) == 1 && strings.TrimSpace(c.Values[0]) != ""
}

// What a choice may hold, wherever it comes from.
const (
	MaxConditions = 20
	MaxValues     = 500 // of one condition
	maxValue      = 500 // bytes
)

// Refused says why a choice can't be kept or asked for, by code and arguments;
// no code where it can.
func (c Choice) Refused() (code string, args map[string]string) {
	if len(c.Conditions) > MaxConditions {
		return "too-many-conditions", map[string]string{"most": strconv.Itoa(MaxConditions)}
	}
	if i := slices.IndexFunc(c.Conditions, Condition.tooLong); i >= 0 {
		return "too-long", map[string]string{"place": strconv.Itoa(i + 1), "most": strconv.Itoa(maxValue)}
	}
	return "", nil
}

// tooLong reports a condition of more, or longer, values than may be.
func (c Condition) tooLong() bool {
	return len(c.Values) > MaxValues || len(c.Column) > maxValue ||
		slices.ContainsFunc(c.Values, func(v string) bool { return len(v) > maxValue })
}

// Plain is the choice without a difference between none and empty.
func (c Choice) Plain() Choice {
	p := Choice{Any: c.Any && len(c.Conditions) > 1, Picked: c.Picked, Conditions: []Condition{}, Ticked: map[string]bool{}}
	for _, cond := range c.Conditions {
		cond.Values = append([]string{}, cond.Values...)
		p.Conditions = append(p.Conditions, cond)
	}
	for row, on := range c.Ticked {
		p.Ticked[row] = on
	}
	return p
}

func equal(a, b string) bool {
	x, okX := number(a)
	y, okY := number(b)
	if okX && okY {
		return x == y
	}
	return naming.Fold(a) == naming.Fold(b)
}

func compare(a, b string) int {
	x, okX := number(a)
	y, okY := number(b)
	switch {
	case okX && okY && x < y:
		return -1
	case okX && okY && x > y:
		return 1
	case okX && okY:
		return 0
	case okX != okY: // a number and a word have no order
		return 0
	}
	return strings.Compare(naming.Fold(a), naming.Fold(b))
}

// number reads a number as people write it, with a point or a comma. With zeros
// in front it is no number but a student's or a room's, and stays text.
func number(s string) (float64, bool) {
	// no hexadecimal, no infinity
	if s == "" || len(s) > 1 && s[0] == '0' && s[1] >= '0' && s[1] <= '9' || strings.ContainsAny(s, "xXpPeEiInN_") {
		return 0, false
	}
	f, err := strconv.ParseFloat(strings.Replace(s, ",", ".", 1), 64)
	return f, err == nil
}
