package lists

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strings"

	"jollysatchel/internal/core/roster"
)

// A BookEntry is an account of the school book as far as a list can change it.
type BookEntry struct {
	ID, Given, Family, Number, Address string
	Off                                bool // it is switched off
}

// A BookAct is what a list does to the school book at one line.
type BookAct string

// The acts. Who isn't in the list any more is switched off only where that is asked for,
// and never removed.
const (
	BookEnter  BookAct = "enter"
	BookChange BookAct = "change" // also who is switched on again
	BookSame   BookAct = "same"
	BookLeave  BookAct = "leave" // in the book, not in the list
	BookWrong  BookAct = "wrong" // it can't be done: Code says why
)

// A BookLine is what happens to one account, or to one row of the list.
type BookLine struct {
	Act     BookAct
	Row     int       // of the list; 0: none
	Now, To BookEntry // as it is, and as it is to be
	Code    string    // of what is wrong: a finding's, or "address-elsewhere"
	Args    map[string]string
}

// BookPlan compares a list that was read with the accounts of one role; others are the
// addresses of all other accounts, in lower case. Each of the list's people is the account
// of their number, else of their address, and has exactly one line; each account has one at
// most. Lines of rows that couldn't be read come first, then the list's order, then who is
// in it no more.
func BookPlan(read roster.Result, book []BookEntry, others map[string]bool) []BookLine {
	var out []BookLine
	for _, f := range read.Findings {
		if f.Severity == roster.Error {
			out = append(out, BookLine{Act: BookWrong, Row: f.Row, Code: f.Code, Args: f.Args})
		}
	}
	byNumber, byAddress := map[string]int{}, map[string]int{}
	for i, a := range book {
		if a.Number != "" {
			if _, twice := byNumber[a.Number]; twice {
				byNumber[a.Number] = -1 // it tells nobody apart
			} else {
				byNumber[a.Number] = i
			}
		}
		byAddress[strings.ToLower(a.Address)] = i
	}
	taken := make([]bool, len(book))
	before := map[BookEntry]bool{}
	for _, s := range read.Students {
		to := BookEntry{Given: s.Given, Family: s.Family, Number: s.Number, Address: s.Address}
		if before[to] { // in another class, too
			continue
		}
		before[to] = true
		at, known := -1, false
		if s.Number != "" {
			at, known = lookUp(byNumber, s.Number)
		}
		owner, has := lookUp(byAddress, strings.ToLower(s.Address))
		if !known {
			at, known = owner, has
		}
		line := BookLine{Act: BookEnter, Row: s.Row, To: to}
		switch {
		case others[strings.ToLower(s.Address)], known && has && owner != at, known && taken[at]:
			line.Act, line.Code, line.Args = BookWrong, "address-elsewhere", map[string]string{"address": s.Address}
		case known:
			taken[at] = true
			line.Now, line.To.ID = book[at], book[at].ID
			if line.To.Number == "" {
				line.To.Number = line.Now.Number // a list without numbers takes none away
			}
			if line.Act = BookChange; line.To == line.Now {
				line.Act = BookSame
			}
		}
		out = append(out, line)
	}
	for i, a := range book {
		if !taken[i] && !a.Off {
			gone := a
			gone.Off = true
			out = append(out, BookLine{Act: BookLeave, Now: a, To: gone})
		}
	}
	return out
}

func lookUp(m map[string]int, key string) (at int, there bool) {
	i, ok := m[key]
	return i, ok && i >= 0
}

// BookDigest tells what was looked at from what there is now.
func BookDigest(lines []BookLine) string {
	sum := sha256.New()
	for _, l := range lines {
		fmt.Fprintln(sum, l.Act, l.Row, l.Now, l.To, l.Code)
	}
	return hex.EncodeToString(sum.Sum(nil)[:12])
}
