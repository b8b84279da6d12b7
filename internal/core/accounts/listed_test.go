package accounts

import (
	"strings"
	"testing"

	"jollysatchel/internal/core/roster"
)

// A list makes no account that the office couldn't: one letter beyond the bound is wrong, and says
// which column; what only leaves is let go whatever it is called.
func TestBound(t *testing.T) {
	long := func(n int) roster.BookEntry {
		return roster.BookEntry{Given: "Maren", Family: strings.Repeat("x", n), Address: "maren@kq.example", Number: "7"}
	}
	lines := []roster.BookLine{
		{Act: roster.BookEnter, To: long(MostName)},
		{Act: roster.BookEnter, To: long(MostName + 1)},
		{Act: roster.BookChange, To: roster.BookEntry{Given: "Maren", Address: "maren@kq.example", Number: strings.Repeat("7", MostNumber+1)}},
		{Act: roster.BookLeave, To: long(MostName + 1)},
		{Act: roster.BookSame, To: long(MostName + 1)},
		// it was called so before
		{Act: roster.BookChange, Now: long(MostName + 1),
			To: roster.BookEntry{Given: "Mara", Family: long(MostName + 1).Family, Address: "maren@kq.example"}},
	}
	Bound(lines)
	for i, want := range []struct {
		act          roster.BookAct
		column, most string
	}{{roster.BookEnter, "", ""}, {roster.BookWrong, "Family name", "200"}, {roster.BookWrong, "Student number", "100"},
		{roster.BookLeave, "", ""}, {roster.BookSame, "", ""}, {roster.BookChange, "", ""}} {
		if l := lines[i]; l.Act != want.act || l.Args["column"] != want.column || l.Args["most"] != want.most ||
			(l.Code != "") != (want.column != "") {
			t.Errorf("line %d: %+v", i, l)
		}
	}
}
