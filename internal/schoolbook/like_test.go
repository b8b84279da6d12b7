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

func TestFind(t *testing.T) {
	accounts := []Account{
		{Address: "nokuthula.dube@kq.example", Given: "Nokuthula", Family: "Dube", Number: "70411"}, {Address: "zoe.nunez@kq.example", Given: "Zoë", Family: "Núñez"},
		{Address: "mateo.delacruz@kq.example", Given: "Mateo", Family: "de la Cruz"}, {Address: "x.y@kq.example", Given: "小龍", Family: "李"},
	}
	for query, want := range map[string]string{
		"dube nok": "Dube", "NOK": "Dube", "nunez": "Núñez", "ñúñ": "Núñez", "zoe": "Núñez", "cruz la": "de la Cruz", "704": "Dube", "nokuthula.dube@kq": "Dube", "李": "李", "kq nobody": "", "": "", " . ": "",
	} {
		got := ""
		if found := Find(query, accounts, 5); len(found) > 0 {
			got = found[0].Family
		}
		if got != want {
			t.Errorf("Find(%q) = %q, want %q", query, got, want)
		}
	}
	if n := len(Find("example", accounts, 2)); n != 2 {
		t.Errorf("%d found, two asked for", n)
	}
}
