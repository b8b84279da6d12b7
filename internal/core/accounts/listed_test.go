package accounts

import (
	"strings"
	"testing"

	"jollysatchel/internal/core/lists"
)

// A list makes no account that the office couldn't: one letter beyond the bound is wrong, and says
// which column; what only leaves is let go whatever it is called.
func TestBound(t *testing.T) {
	long := func(n int) lists.BookEntry {
		return lists.BookEntry{Given: "Maren", Family: strings.Repeat("x", n), Address: "maren@kq.example", Number: "7"}
	}
	lines := []lists.BookLine{
		{Act: lists.BookEnter, To: long(MostName)},
		{Act: lists.BookEnter, To: long(MostName + 1)},
		{Act: lists.BookChange, To: lists.BookEntry{Given: "Maren", Address: "maren@kq.example", Number: strings.Repeat("7", MostNumber+1)}},
		{Act: lists.BookLeave, To: long(MostName + 1)},
		{Act: lists.BookSame, To: long(MostName + 1)},
		// it was called so before
		{Act: lists.BookChange, Now: long(MostName + 1),
			To: lists.BookEntry{Given: "Mara", Family: long(MostName + 1).Family, Address: "maren@kq.example"}},
	}
	Bound(lines)
	for i, want := range []struct {
		act          lists.BookAct
		column, most string
	}{{lists.BookEnter, "", ""}, {lists.BookWrong, "Family name", "200"}, {lists.BookWrong, "Student number", "100"},
		{lists.BookLeave, "", ""}, {lists.BookSame, "", ""}, {lists.BookChange, "", ""}} {
		if l := lines[i]; l.Act != want.act || l.Args["column"] != want.column || l.Args["most"] != want.most ||
			(l.Code != "") != (want.column != "") {
			t.Errorf("line %d: %+v", i, l)
		}
	}
}
