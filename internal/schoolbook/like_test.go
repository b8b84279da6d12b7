package schoolbook

import "testing"

func TestLike(t *testing.T) {
	accounts := []Account{
		{Address: "pedro.oliveira@kq.example", Given: "Pedro", Family: "Oliveira"}, {Address: "maren.dahl@kq.example", Given: "Maren", Family: "Dahl"},
		{Address: "eero.rautio2@kq.example", Given: "Eero", Family: "Rautio"}, {Address: "eero.rautio3@kq.example", Given: "Eero", Family: "Rautio"},
	}
	for _, c := range []struct{ address, name, want string }{
		{"pedro.olveira@kq.example", "", "pedro.oliveira@kq.example"},  // one letter left out
		{"Pedro.Oliveria@kq.example", "", "pedro.oliveira@kq.example"}, // two letters changed places
		{"maren@kq.example", "Maren Dahl", "maren.dahl@kq.example"},    // by the name
		{"eero.rautio@kq.example", "Eero Rautio", ""},                  // two are as near, two have the name
		{"someone.else@kq.example", "Someone Else", ""}, {"", "", ""},
		{"maren.dahl@kq.example", "", ""}, // it is right already
	} {
		if got := Like(c.address, c.name, accounts); got != c.want {
			t.Errorf("Like(%q, %q) = %q, want %q", c.address, c.name, got, c.want)
		}
	}
	// Distances from memory, the usual examples of the measure.
	for _, c := range []struct {
		a, b string
		want int
	}{{"kitten", "sitting", 3}, {"flaw", "lawn", 2}, {"", "abc", 3}, {"ñandú", "nandu", 2}} {
		if got := editDistance(c.a, c.b, 9); got != c.want {
			t.Errorf("%q to %q is %d, want %d", c.a, c.b, got, c.want)
		}
	}
}
