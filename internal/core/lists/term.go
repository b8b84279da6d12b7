package lists

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strings"

	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
)

// A TermTeacher is one that a list of many classes names for one of them. Account is
// theirs in the school book; empty: it knows none of that address.
type TermTeacher struct {
	Class, Period, Name, Address, Account string
}

// A TermClass is a class that there is.
type TermClass struct{ ID, Name, Period string }

// A TermAct is what a list of many classes does about one of them.
type TermAct string

// The acts. A class that there is stays as it is; one for whom no teacher is known waits
// until one is.
const (
	TermMake    TermAct = "make"
	TermThere   TermAct = "there"
	TermNoOwner TermAct = "no-owner"
)

// A TermLine is one class of a list: who owns it, who teaches with them, and who is in it.
type TermLine struct {
	Act          TermAct
	Key          string // tells it from the others of the list
	Name, Period string
	ClassID      string // of one that is there
	Owner        TermTeacher
	Others       []TermTeacher
	Strangers    []TermTeacher // named, and not in the school book
	Students     []record.Record
	Unknown      int // of them whose address the school book doesn't know
}

// TermPlan says what a list of many classes does: each class once, in the order of the list,
// with the first of its teachers who is known as its owner; who is in it twice is in it
// once. known reports an address that is a student's in the school book.
func TermPlan(students []roster.Student, teachers []TermTeacher, there []TermClass, known func(address string) bool) []TermLine {
	key := func(class, period string) string { return naming.Fold(class) + "\n" + naming.Fold(period) }
	is := make(map[string]string, len(there))
	for _, c := range there {
		is[key(c.Name, c.Period)] = c.ID
	}
	var out []TermLine
	at := map[string]int{}
	line := func(class, period string) *TermLine {
		k := key(class, period)
		i, ok := at[k]
		if !ok {
			i, at[k] = len(out), len(out)
			out = append(out, TermLine{Key: k, Name: class, Period: period, ClassID: is[k]})
		}
		return &out[i]
	}
	in := map[string]bool{}
	for _, s := range students {
		if s.Class == "" {
			continue
		}
		l := line(s.Class, s.Period)
		who := l.Key + "\n" + s.Number + "\n" + strings.ToLower(s.Address) + "\n" + s.SortName()
		if in[who] {
			continue
		}
		in[who] = true
		l.Students = append(l.Students, s.Record)
		if !known(strings.ToLower(s.Address)) {
			l.Unknown++
		}
	}
	for _, t := range teachers {
		if t.Class == "" {
			continue
		}
		l := line(t.Class, t.Period)
		switch {
		case t.Account == "":
			l.Strangers = append(l.Strangers, t)
		case l.Owner.Account == "":
			l.Owner = t
		case l.Owner.Account != t.Account && !taught(l.Others, t.Account):
			l.Others = append(l.Others, t)
		}
	}
	for i := range out {
		switch l := &out[i]; {
		case l.ClassID != "":
			l.Act = TermThere
		case l.Owner.Account == "":
			l.Act = TermNoOwner
		default:
			l.Act = TermMake
		}
	}
	return out
}

func taught(by []TermTeacher, account string) bool {
	for _, t := range by {
		if t.Account == account {
			return true
		}
	}
	return false
}

// TermDigest names what a list does, so that what is done is what was looked at.
func TermDigest(lines []TermLine) string {
	h := sha256.New()
	for _, l := range lines {
		fmt.Fprintf(h, "%q\n", []any{l.Act, l.Key, l.ClassID, l.Owner.Account, l.Others, l.Unknown})
		for _, s := range l.Students {
			fmt.Fprintf(h, "%q\n", []string{s.Number, s.Address, s.SortName()})
		}
	}
	return hex.EncodeToString(h.Sum(nil)[:16])
}
