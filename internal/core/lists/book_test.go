package lists

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"jollysatchel/internal/core/roster"
)

func list(lines ...string) roster.Result {
	var t roster.Table
	for i, l := range append([]string{"Number,Given name,Family name,Email"}, lines...) {
		t.Rows = append(t.Rows, roster.Row{Line: i + 1, Cells: strings.Split(l, ",")})
	}
	return roster.Read(t, roster.Options{})
}

func TestBookPlan(t *testing.T) {
	book := []BookEntry{
		{"a", "Nokuthula", "Dube", "1", "dube@kq.example", false},
		{"b", "Tariq", "Bensaïd", "2", "bensaid@kq.example", false},
		{"c", "Freja", "Ångström", "", "freja@kq.example", true},
		{"d", "Left", "Behind", "9", "left@kq.example", false},
		{"e", "Off", "Already", "8", "off@kq.example", true},
	}
	read := list("1,Nokuthula,Dube,Dube@kq.example", "2,Tariq,Ben Saïd,tariq.bensaid@kq.example",
		",Freja,Ångström,freja@kq.example", "4,Wren,Ashdown,wren@kq.example", "5,Staff,Too,oduya@kq.example",
		"6,Takes,Another,left@kq.example", "7,No,Address,")
	got := map[string]string{}
	for _, l := range BookPlan(read, book, map[string]bool{"oduya@kq.example": true}) {
		got[fmt.Sprint(l.Row, l.To.ID)] += string(l.Act) + " " + l.Code + ";"
	}
	want := map[string]string{"2a": "change ;", "3b": "change ;", "4c": "change ;", "5": "enter ;",
		"6": "wrong address-elsewhere;", "7d": "change ;", "8": "wrong address-missing;"}
	for k, w := range want {
		if got[k] != w {
			t.Errorf("line %s: %q, want %q", k, got[k], w)
		}
	}
	if len(got) != len(want) {
		t.Errorf("%v", got)
	}
	if lines := BookPlan(list("1,Nokuthula,Dube,dube@kq.example"), book, nil); lines[0].Act != BookSame ||
		len(lines) != 3 || lines[1].Act != BookLeave || lines[1].To.ID != "b" || lines[2].To.ID != "d" {
		t.Errorf("%+v", lines)
	}
}

// Every person of a list has one line, every account one at most; done again and again, the
// same list soon does nothing more, and nobody ever has another's address.
func TestBookPlanSettles(t *testing.T) {
	for seed := range uint64(400) {
		r := rand.New(rand.NewPCG(seed, 3))
		var book []BookEntry
		used := map[string]bool{}
		for i := range r.IntN(8) {
			a := fmt.Sprintf("p%d@kq.example", r.IntN(10))
			if !used[a] {
				used[a] = true
				book = append(book, BookEntry{ID: fmt.Sprint("id", i), Given: "G", Family: fmt.Sprint("F", r.IntN(4)),
					Number: []string{"", "1", "2", "3"}[r.IntN(4)], Address: a, Off: r.IntN(4) == 0})
			}
		}
		var lines []string
		for range r.IntN(8) {
			lines = append(lines, fmt.Sprintf("%s,G,F%d,p%d@kq.example", []string{"", "1", "2", "3", "4"}[r.IntN(5)], r.IntN(4), r.IntN(10)))
		}
		read := list(lines...)
		// What another's address keeps out comes in once that one has its own.
		for round := 0; ; round++ {
			plan := BookPlan(read, book, nil)
			of, accounts, next, done := map[int]int{}, map[string]int{}, map[string]BookEntry{}, true
			for _, a := range book {
				next[a.ID] = a
			}
			for i, l := range plan {
				if l.Row > 0 && (l.Act != BookWrong || l.Code == "address-elsewhere") {
					of[l.Row]++
				}
				if l.To.ID != "" {
					accounts[l.To.ID]++
				}
				if l.Act == BookEnter {
					l.To.ID = fmt.Sprint("new", round, "-", i)
				}
				if l.Act != BookSame && l.Act != BookWrong {
					done, next[l.To.ID] = false, l.To
				}
			}
			for _, s := range read.Students {
				if of[s.Row] != 1 {
					t.Fatalf("seed %d: row %d has %d lines: %+v", seed, s.Row, of[s.Row], plan)
				}
			}
			for id, n := range accounts {
				if n > 1 {
					t.Fatalf("seed %d: %s has %d lines", seed, id, n)
				}
			}
			addresses := map[string]bool{}
			book = book[:0:0]
			for _, a := range next {
				if addresses[strings.ToLower(a.Address)] {
					t.Fatalf("seed %d: %s twice in %+v of %+v", seed, a.Address, next, plan)
				}
				addresses[strings.ToLower(a.Address)] = true
				book = append(book, a)
			}
			if done {
				break
			}
			if round > 12 {
				t.Fatalf("seed %d: it never settles: %+v", seed, plan)
			}
		}
	}
}
