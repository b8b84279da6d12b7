package handout

import (
	"slices"
	"strings"
	"testing"
)

func TestMoved(t *testing.T) {
	for _, c := range []struct{ order, id, before, want string }{
		{"abc", "c", "a", "cab"}, {"abc", "a", "c", "bac"}, {"abc", "a", "", "bca"}, {"abc", "b", "b", "acb"},
		{"abc", "x", "b", "axbc"}, {"abc", "x", "nobody", "abcx"}, {"", "x", "", "x"},
	} {
		if got := strings.Join(Moved(strings.Split(c.order, ""), c.id, c.before), ""); got != c.want {
			t.Errorf("%s before %s in %s: %s, want %s", c.id, c.before, c.order, got, c.want)
		}
	}
	order := []string{"a", "b"}
	Moved(order, "b", "a")
	if !slices.Equal(order, []string{"a", "b"}) {
		t.Error("what was given changed")
	}
}
