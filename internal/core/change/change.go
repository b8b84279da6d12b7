// Package change is how what people change is held against what it is by then: what can't be
// refuses by its place and reason, and what somebody else changed meanwhile is told with both
// values. Nothing that was refused is kept.
package change

import (
	"encoding/json"
	"slices"
	"strconv"
)

// An Invalid says which field of what was asked for can't be as it is, and why: a code that has
// words, with their arguments.
type Invalid struct {
	Field, Code string
	Args        map[string]string
}

func (e *Invalid) Error() string { return "invalid " + e.Field + ": " + e.Code }

// Refuse returns an Invalid; args are names and values of the arguments in turn.
func Refuse(field, code string, args ...string) *Invalid {
	e := &Invalid{Field: field, Code: code}
	for i := 0; i+1 < len(args); i += 2 {
		if e.Args == nil {
			e.Args = map[string]string{}
		}
		e.Args[args[i]] = args[i+1]
	}
	return e
}

// TooMany refuses more than most of something.
func TooMany(field, code string, most int) *Invalid {
	return Refuse(field, code, "most", strconv.Itoa(most))
}

// TooLong refuses a text of more than most bytes.
func TooLong(field string, most int) *Invalid { return TooMany(field, "too-long", most) }

// A Changed says that what was looked at isn't what there is: somebody changed it meanwhile.
// Where one value is meant, both stand here.
type Changed struct{ Field, Row, Yours, Theirs string }

func (e *Changed) Error() string { return "changed meanwhile: " + e.Field }

// Unless returns a Changed with both texts, unless theirs, which is kept now, is what was looked
// at or what it is to be anyway. Without a was nobody looked.
func Unless[T ~string](was *T, field string, theirs, yours T) error {
	if was != nil && theirs != *was && theirs != yours {
		return &Changed{Field: field, Yours: string(yours), Theirs: string(theirs)}
	}
	return nil
}

// Put is Unless, and puts yours in place of theirs.
func Put[T ~string](was *T, field string, theirs *T, yours T) error {
	if err := Unless(was, field, *theirs, yours); err != nil {
		return err
	}
	*theirs = yours
	return nil
}

// UnlessSame is Unless for what isn't a text: it is told that it changed, without the values.
func UnlessSame[T any](was *T, field string, theirs, yours T) error {
	if was != nil && Digest(theirs) != Digest(*was) && Digest(theirs) != Digest(yours) {
		return &Changed{Field: field}
	}
	return nil
}

// PutSame is UnlessSame, and puts yours in place of theirs.
func PutSame[T any](was *T, field string, theirs *T, yours T) error {
	if err := UnlessSame(was, field, *theirs, yours); err != nil {
		return err
	}
	*theirs = yours
	return nil
}

// Digest is the same for values that say the same.
func Digest(v any) string {
	b, err := json.Marshal(v)
	if err != nil {
		return ""
	}
	return string(b)
}

// A Told is one thing that a change changed, as the log keeps it: what, whose where it is one
// person's, and from what to what, as codes or as texts. Both empty: it is too long to tell.
type Told struct {
	What  string `json:"what"`
	Whose string `json:"whose,omitempty"`
	From  string `json:"from,omitempty"`
	To    string `json:"to,omitempty"`
}

// Differing returns those that say of something that it is another than it was.
func Differing(told ...Told) []Told {
	return slices.DeleteFunc(told, func(t Told) bool { return t.From == t.To })
}

// MostTold bounds how many of them the log keeps of one change.
const MostTold = 5
