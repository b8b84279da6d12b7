package roster

import "testing"

func TestBegins(t *testing.T) {
	for _, c := range []struct {
		query, text string
		want        bool
	}{
		{"dub", "Nokuthula Dube", true}, {"dube nok", "Nokuthula Dube", true}, {"ube", "Nokuthula Dube", false},
		{"angstrom", "Freja Ångström", true}, {"Ångström", "Freja Angstrom", true}, {"o darcy", "Orla D’Arcy", false},
		{"arcy", "Orla D’Arcy", true}, {"", "Orla", false}, {" - ", "Orla", false}, {"70436 m", "Rowan Marsh 70436", true},
	} {
		if got := Begins(c.query)(c.text); got != c.want {
			t.Errorf("%q in %q: %v", c.query, c.text, got)
		}
	}
}
