package lists_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"jollysatchel/internal/core/lists"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
)

func of(class, period, name string) roster.Student {
	return roster.Student{Record: record.Record{Given: name, Address: strings.ToLower(name) + "@school.example", Class: class, Period: period}}
}

func TestTermPlan(t *testing.T) {
	teacher := func(class, period, name, account string) lists.TermTeacher {
		return lists.TermTeacher{Class: class, Period: period, Name: name, Address: name + "@school.example", Account: account}
	}
	known := func(a string) bool { return a != "eve@school.example" }
	lines := lists.TermPlan(
		[]roster.Student{of("Boats", "1", "Ana"), of("Boats", "2", "Ana"), of("Tides", "", "Bo"), of("Boats", "1", "Eve"),
			of("Boats", "1", "Ana"), of("", "", "Nobody"), of("Knots", "", "Cy")},
		[]lists.TermTeacher{teacher("Boats", "1", "Kim", ""), teacher("Boats", "1", "Lee", "lee"),
			teacher("boats", "1", "Max", "max"), teacher("Boats", "1", "Lee", "lee"), teacher("Tides", "", "Lee", "lee"),
			teacher("Maps", "", "Lee", "lee"), teacher("", "", "Kim", "kim")},
		[]lists.TermClass{{ID: "7", Name: "TIDES", Period: ""}}, known)
	var got []string
	for _, l := range lines {
		got = append(got, fmt.Sprint(l.Act, " ", l.Name, l.Period, " ", l.Owner.Account, "+", len(l.Others), " ",
			len(l.Strangers), " ", len(l.Students), "/", l.Unknown, " ", l.ClassID))
	}
	want := "make Boats1 lee+1 1 2/1 |no-owner Boats2 +0 0 1/0 |there Tides lee+0 0 1/0 7|no-owner Knots +0 0 1/0 |make Maps lee+0 0 0/0 "
	if strings.Join(got, "|") != want {
		t.Errorf("%s\nnot\n%s", strings.Join(got, "|"), want)
	}
}

// However a list is mixed, each student is in each of their classes once, every class has one
// line, and the digest changes with what is done.
func TestTermPlanCounts(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 5))
	for range 200 {
		var students []roster.Student
		want := map[string]bool{}
		for range r.IntN(40) {
			class, name := fmt.Sprint("C", r.IntN(4)), fmt.Sprint("N", r.IntN(9))
			students = append(students, of(class, "", name))
			want[class+name] = true
		}
		lines := lists.TermPlan(students, nil, nil, func(string) bool { return true })
		got, classes := 0, map[string]bool{}
		for _, l := range lines {
			if classes[l.Key] {
				t.Fatalf("%s has two lines", l.Name)
			}
			classes[l.Key] = true
			got += len(l.Students)
		}
		if got != len(want) {
			t.Fatalf("%d in classes, not %d", got, len(want))
		}
		more := lists.TermPlan(append(students, of("C0", "", "Other")), nil, nil, func(string) bool { return true })
		if lists.TermDigest(lines) == lists.TermDigest(more) {
			t.Fatal("one more, and the same digest")
		}
	}
}
