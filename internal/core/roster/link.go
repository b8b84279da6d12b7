package roster

import (
	"slices"
	"strings"

	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
)

// A ClassRow is one row of a class's roster as it stands. What its class's list
// says is its own; whom it is linked to is found by its address.
type ClassRow struct {
	ID string
	record.Record
	Account   string // of the student it is linked to; empty for none
	LinkedBy  string // the address by which it was linked
	Confirmed string // the account somebody said is this student's, whatever its name
	Gone      bool   // has left the class
	Holding   bool   // the account was given access to something in the class
}

// An Account is somebody in the school book, as far as a roster asks.
type Account struct {
	ID, Address, Given, Family string
	Student                    bool
}

func (a Account) record() record.Record { return record.Record{Given: a.Given, Family: a.Family} }

// A Book answers from the school book.
type Book interface {
	ByAddress(address string) (Account, bool) // case aside
	ByID(id string) (Account, bool)
}

// Codes of what keeps a row from being linked, or of what the school book says
// otherwise than the row.
const (
	NoAddress        = "no-address"
	AccountUnknown   = "account-unknown"
	AccountNoStudent = "account-not-student"
	AccountOtherName = "account-other-name"
	AccountTwice     = "account-twice"
	BookSays         = "book-says"
	ClassSays        = "class-says"
	AnotherClassSays = "another-class-says"
)

// A Remark is something a row should know of: Field and Value are what taking it
// over would put into the row, if it can be taken over.
type Remark struct {
	Code  string
	Args  map[string]string
	Field record.Field
	Value string
}

// A Linking is whom a row is linked to. Problem, where there is one, keeps
// anything new from being given; what was given before stays.
type Linking struct {
	Account  string // linked to from now on; empty for none
	LinkedBy string
	Relink   string // the account the address belongs to, where another was given things: asked, never done by itself
	Problem  *Remark
	Remarks  []Remark
}

// Waits reports that what is made for the row waits for an account: it says no address, or one of nobody yet.
// Any other problem is a question that somebody answers first.
func (l Linking) Waits() bool {
	return l.Account == "" && l.Problem != nil && (l.Problem.Code == NoAddress || l.Problem.Code == AccountUnknown)
}

// Links says for every row of a class whom it is linked to, by its address. An
// account whose name has nothing in common with the row's, or that is of the
// staff, or that another row of the class has, is not linked. Anyone who was given
// something keeps it until the teacher links the row again.
func Links(rows []ClassRow, book Book) []Linking {
	holder := make(map[string]int, len(rows))
	for i, r := range rows {
		if r.Account != "" {
			holder[r.Account] = i
		}
	}
	out := make([]Linking, len(rows))
	for i, r := range rows {
		l := Linking{Account: r.Account, LinkedBy: r.LinkedBy}
		to, problem := target(r, book)
		if h, taken := holder[to.ID]; taken && h != i && problem == nil {
			problem = remark(AccountTwice, "address", r.Address, "other", rows[h].Name())
		}
		switch {
		case problem == nil && to.ID == r.Account:
			l.LinkedBy = to.Address
		case problem == nil && r.Holding:
			l.Relink = to.ID
		case problem == nil:
			delete(holder, r.Account)
			l.Account, l.LinkedBy = to.ID, to.Address
		case movedInBook(r, book, problem):
			problem = nil
		case !r.Holding:
			delete(holder, r.Account)
			l.Account, l.LinkedBy = "", ""
		}
		if l.Account != "" {
			holder[l.Account] = i
		}
		l.Problem = problem
		if a, ok := book.ByID(l.Account); ok && problem == nil && l.Relink == "" {
			l.Remarks = bookRemarks(r, a)
		}
		out[i] = l
	}
	return out
}

// target is the account a row's address belongs to, or why it is nobody's to be
// linked to.
func target(r ClassRow, book Book) (Account, *Remark) {
	if r.Address == "" {
		return Account{}, remark(NoAddress)
	}
	a, known := book.ByAddress(r.Address)
	switch {
	case !known:
		return a, remark(AccountUnknown, "address", r.Address)
	case !a.Student:
		return a, remark(AccountNoStudent, "address", r.Address)
	case a.ID != r.Confirmed && a.ID != r.Account && !SameName(r.Record, a.record()):
		return a, remark(AccountOtherName, "address", r.Address, "theirs", a.record().Name())
	}
	return a, nil
}

// movedInBook reports that the account a row is linked to has got another
// address in the school book while the row kept the one it was linked by.
func movedInBook(r ClassRow, book Book, problem *Remark) bool {
	if r.Account == "" || problem.Code != AccountUnknown || !strings.EqualFold(r.Address, r.LinkedBy) {
		return false
	}
	a, ok := book.ByID(r.Account)
	return ok && a.Student
}

// bookRemarks tell of a name or address the school book has differently.
func bookRemarks(r ClassRow, a Account) []Remark {
	var out []Remark
	if !strings.EqualFold(a.Address, r.Address) && a.Address != "" {
		out = append(out, Remark{Code: BookSays, Args: map[string]string{"value": a.Address}, Field: record.Address, Value: a.Address})
	}
	if sameWords(r.Record, a.record()) {
		return out
	}
	for _, f := range []struct {
		field record.Field
		value string
	}{{record.Given, a.Given}, {record.Family, a.Family}} {
		if f.value != "" && naming.Fold(f.value) != naming.Fold(r.Get(f.field)) {
			out = append(out, Remark{Code: BookSays, Args: map[string]string{"value": f.value}, Field: f.field, Value: f.value})
		}
	}
	return out
}

// ClassRemarks tell of a name or address another class of the same student has
// otherwise. code is that class's, empty for who may not know it.
func ClassRemarks(r, other record.Record, code string) []Remark {
	var out []Remark
	for _, f := range []record.Field{record.Given, record.Family, record.Address} {
		if theirs := other.Get(f); theirs != "" && naming.Fold(theirs) != naming.Fold(r.Get(f)) {
			said := Remark{Code: ClassSays, Args: map[string]string{"value": theirs, "class": code}, Field: f, Value: theirs}
			if code == "" {
				said.Code = AnotherClassSays
				delete(said.Args, "class")
			}
			out = append(out, said)
		}
	}
	return out
}

func remark(code string, pairs ...string) *Remark {
	n := Remark{Code: code, Args: make(map[string]string, len(pairs)/2)}
	for i := 0; i+1 < len(pairs); i += 2 {
		n.Args[pairs[i]] = pairs[i+1]
	}
	return &n
}

// SameName reports that two names have a word in common, or that one of them is
// none: nothing speaks against their being one student's.
func SameName(a, b record.Record) bool {
	if a.Family == b.Family && a.Family != "" {
		return true
	}
	x, y := nameWords(a), nameWords(b)
	if len(x) == 0 || len(y) == 0 {
		return true
	}
	return slices.ContainsFunc(x, func(w string) bool { return slices.Contains(y, w) })
}

// sameWords reports that every word of b's name is one of a's, in any order.
func sameWords(a, b record.Record) bool {
	x := nameWords(a)
	return !slices.ContainsFunc(nameWords(b), func(w string) bool { return !slices.Contains(x, w) })
}

// nameWords are the words of a name, folded, accents off.
func nameWords(r record.Record) []string {
	return strings.Fields(Plain(r.Given + " " + r.Family + " " + r.Preferred))
}
