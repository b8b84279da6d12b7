package accounts

import (
	"errors"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/naming"
)

func TestLike(t *testing.T) {
	all := []Account{
		{Address: "pedro.oliveira@kq.example", Given: "Pedro", Family: "Oliveira"},
		{Address: "maren.dahl@kq.example", Given: "Maren", Family: "Dahl"},
		{Address: "eero.rautio2@kq.example", Given: "Eero", Family: "Rautio"},
		{Address: "eero.rautio3@kq.example", Given: "Eero", Family: "Rautio"},
	}
	for _, c := range []struct{ address, name, want string }{
		{"pedro.olveira@kq.example", "", "pedro.oliveira@kq.example"},  // one letter left out
		{"Pedro.Oliveria@kq.example", "", "pedro.oliveira@kq.example"}, // two letters changed places
		{"maren@kq.example", "Maren Dahl", "maren.dahl@kq.example"},    // by the name
		{"eero.rautio@kq.example", "Eero Rautio", ""},                  // two are as near, two have the name
		{"someone.else@kq.example", "Someone Else", ""}, {"", "", ""},
		{"maren.dahl@kq.example", "", ""}, // it is right already
	} {
		if got := Like(c.address, c.name, all); got != c.want {
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
	all := []Account{
		{Address: "nokuthula.dube@kq.example", Given: "Nokuthula", Family: "Dube", Number: "70411"},
		{Address: "zoe.nunez@kq.example", Given: "Zoë", Family: "Núñez"},
		{Address: "mateo.delacruz@kq.example", Given: "Mateo", Family: "de la Cruz"}, {Address: "x.y@kq.example", Given: "小龍", Family: "李"},
	}
	for query, want := range map[string]string{
		"dube nok": "Dube", "NOK": "Dube", "nunez": "Núñez", "ñúñ": "Núñez", "zoe": "Núñez",
		"cruz la": "de la Cruz", "704": "Dube", "nokuthula.dube@kq": "Dube", "李": "李", "kq nobody": "", "": "", " . ": "",
	} {
		got := ""
		if found := Find(query, all, 5); len(found) > 0 {
			got = found[0].Family
		}
		if got != want {
			t.Errorf("Find(%q) = %q, want %q", query, got, want)
		}
	}
	if n := len(Find("example", all, 2)); n != 2 {
		t.Errorf("%d found, two asked for", n)
	}
}

// An account from before a bound can be switched off.
func TestLongBefore(t *testing.T) {
	a := Account{Given: strings.Repeat("x", MostName+1), Family: "Dahl", Address: "maren@kq.example", Role: Student}
	if err := (Change{Off: new(true)}).Of(&a, Change{}); err != nil || !a.Off {
		t.Errorf("switched off %t, %v", a.Off, err)
	}
	var refused *change.Invalid
	if err := a.Check(); !errors.As(err, &refused) || refused.Code != "too-long" {
		t.Errorf("a new one: %v", err)
	}
}

// What the office says stands as it is said, and nothing of what another said meanwhile is lost.
func TestChangeOf(t *testing.T) {
	of := func(s string) *string { return &s }
	role := func(r Role) *Role { return &r }
	long := strings.Repeat("x", MostName+1)
	for _, c := range []struct {
		what    string
		to, was Change
		want    Account
		field   string
	}{
		{"a name", Change{Given: of(" Maren  "), Family: of("Dahl-Berg")}, Change{Family: of("Dahl")},
			Account{Given: "Maren", Family: "Dahl-Berg", Address: "maren@kq.example", Number: "1", Role: Student}, ""},
		{"a role, and off", Change{Role: role(Staff), Off: new(true)}, Change{},
			Account{Given: "Maren", Family: "Dahl", Address: "maren@kq.example", Number: "1", Role: Staff, Off: true}, ""},
		{"what was changed meanwhile", Change{Family: of("Berg")}, Change{Family: of("Holm")}, Account{}, "family"},
		{"no name", Change{Given: of(""), Family: of(" ")}, Change{}, Account{}, "given"},
		{"no address", Change{Address: of("")}, Change{}, Account{}, "address"},
		{"what is no address", Change{Address: of("maren at kq")}, Change{}, Account{}, "address"},
		{"another role", Change{Role: role("queen")}, Change{}, Account{}, "role"},
		{"a long name", Change{Given: &long}, Change{}, Account{}, "given"},
		{"a long number", Change{Number: &long}, Change{}, Account{}, "number"},
	} {
		a := Account{Given: "Maren", Family: "Dahl", Address: "maren@kq.example", Number: "1", Role: Student}
		err := c.to.Of(&a, c.was)
		var refused *change.Invalid
		var other *change.Changed
		switch {
		case c.field == "" && (err != nil || a != c.want):
			t.Errorf("%s: %+v, %v", c.what, a, err)
		case c.field != "" && !(errors.As(err, &refused) && refused.Field == c.field) && !(errors.As(err, &other) && other.Field == c.field):
			t.Errorf("%s: %v, want it at %s", c.what, err, c.field)
		}
	}
}

// The school book is sorted by a column, empty ones last, equal ones as they stood.
func TestSorted(t *testing.T) {
	all := []Account{
		{ID: "1", Given: "Zoë", Family: "Østby", Address: "b@x.example", Number: "10", Role: Student},
		{ID: "2", Given: "Ari", Family: "Zupan", Address: "a@x.example", Number: "9", Role: Staff},
		{ID: "3", Given: "Ximena", Address: "c@x.example", Role: Student},
		{ID: "4", Given: "Bo", Family: "Østby", Address: "d@x.example", Number: "11", Role: Office},
	}
	for _, c := range []struct {
		by   Column
		down bool
		lang string
		want string
	}{
		{ByBook, false, "en", "1234"}, {ByBook, true, "en", "1234"},
		{ByName, false, "en", "4132"}, {ByName, true, "en", "2314"},
		{ByName, false, "da", "3241"}, // Ø comes after Z in Danish (CLDR; common practice)
		{ByNumber, false, "en", "2143"}, {ByNumber, true, "en", "4123"},
		{ByAddress, false, "en", "2134"}, {ByRole, false, "en", "4213"},
	} {
		got := ""
		for _, a := range Sorted(all, c.by, c.down, naming.NewOrder(c.lang)) {
			got += a.ID
		}
		if got != c.want {
			t.Errorf("by %s, down %v, in %s: %s, want %s", c.by, c.down, c.lang, got, c.want)
		}
	}
}

func TestStanding(t *testing.T) {
	now := time.Date(2026, 11, 30, 8, 0, 0, 0, time.UTC)
	later, before := now.Add(time.Hour), now.Add(-time.Hour)
	for _, c := range []struct {
		a    Account
		want Standing
	}{
		{Account{}, CantSignIn}, {Account{Ready: true}, HasPassword}, {Account{CodeUntil: &before}, CantSignIn},
		{Account{CodeUntil: &later}, HasCode}, {Account{CodeUntil: &later, Ready: true}, HasCode},
		{Account{CodeUntil: &later, Ready: true, Off: true}, SwitchedOff},
	} {
		if got := c.a.Standing(now); got != c.want {
			t.Errorf("%+v: %s, want %s", c.a, got, c.want)
		}
	}
}
