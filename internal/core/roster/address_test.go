package roster

import "testing"

// Letters that only look like an address's, or that Unicode folds to them, are others.
func TestSameAddress(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want bool
	}{
		{"Ana.Reis@School.example", "ana.reis@school.EXAMPLE", true}, {"kai@school.example", "\u212Aai@school.example", false},
		{"sofia@school.example", "\u017Fofia@school.example", false}, {"ana@school.example", "аna@school.example", false},
		{"é@school.example", "É@school.example", false},
	} {
		if SameAddress(c.a, c.b) != c.want {
			t.Errorf("%q and %q: %v", c.a, c.b, !c.want)
		}
	}
	for address, want := range map[string]bool{"a@School.example": true, "a@xschool.example": false,
		"a@sub.school.example": false, "a@\u017Fchool.example": false} {
		if InDomain(address, "school.example") != want || !InDomain(address, "") {
			t.Errorf("%q", address)
		}
	}
}
