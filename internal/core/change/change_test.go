package change_test

import (
	"errors"
	"fmt"
	"reflect"
	"testing"

	"jollysatchel/internal/core/change"
)

func ExamplePut() {
	theirs, looked := "Knot card", "Knots"
	err := change.Put(&looked, "title", &theirs, "Knots and bends")
	fmt.Println(theirs, err)
	looked = "Knot card"
	err = change.Put(&looked, "title", &theirs, "Knots and bends")
	fmt.Println(theirs, err)
	// Output:
	// Knot card changed meanwhile: title
	// Knots and bends <nil>
}

// Of what was looked at, what there is and what it is to be: somebody else's change is told,
// unless it says the same, and nothing is put in its place.
func TestPut(t *testing.T) {
	word := func(s string) *string { return &s }
	for _, x := range []struct {
		was          *string
		theirs       string
		yours        string
		told, stands bool
	}{
		{nil, "a", "b", false, false},
		{word("a"), "a", "b", false, false},
		{word("a"), "c", "b", true, true},
		{word("a"), "b", "b", false, false},
		{word(""), "", "b", false, false},
	} {
		theirs := x.theirs
		err := change.Put(x.was, "f", &theirs, x.yours)
		var changed *change.Changed
		if errors.As(err, &changed) != x.told || x.told && *changed != (change.Changed{Field: "f", Yours: x.yours, Theirs: x.theirs}) {
			t.Errorf("%+v: %v", x, err)
		}
		if stands := theirs == x.theirs && theirs != x.yours; stands != x.stands {
			t.Errorf("%+v: it is %q", x, theirs)
		}
		list := []string{x.theirs}
		var was *[]string
		if x.was != nil {
			was = &[]string{*x.was}
		}
		if err := change.PutSame(was, "f", &list, []string{x.yours}); (err != nil) != x.told || (list[0] == x.yours) != (theirs == x.yours) {
			t.Errorf("a list, %+v: %v, %q", x, err, list)
		}
	}
}

func TestRefuse(t *testing.T) {
	if got := change.Refuse("f", "c", "a", "1", "b", "2"); !reflect.DeepEqual(got,
		&change.Invalid{Field: "f", Code: "c", Args: map[string]string{"a": "1", "b": "2"}}) {
		t.Errorf("%+v", got)
	}
	if got := change.TooLong("f", 3); got.Code != "too-long" || got.Args["most"] != "3" {
		t.Errorf("%+v", got)
	}
	if got := change.Refuse("f", "c"); got.Args != nil {
		t.Errorf("%+v", got)
	}
}
