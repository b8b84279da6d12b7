package roster

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"

	"jollysatchel/internal/core/record"
)

// students writes lists shortly: "number given family address class level".
func students(lines ...string) []Student {
	var out []Student
	for i, l := range lines {
		f := strings.Split(l, "|")
		for len(f) < 6 {
			f = append(f, "")
		}
		out = append(out, Student{Row: i + 2,
			Record: record.Record{Number: f[0], Given: f[1], Family: f[2], Address: f[3], Class: f[4], Level: f[5]}})
	}
	return out
}

func known(lines ...string) []Known {
	var out []Known
	for _, l := range lines {
		gone := strings.HasPrefix(l, "-")
		out = append(out, Known{Student: students(strings.TrimPrefix(l, "-"))[0], Gone: gone})
	}
	return out
}

func ExampleCompare() {
	old := known("1|Nokuthula|Dube|n@kq.example|7B|A", "2|Kelechi|Eze|k@kq.example|7B|A")
	list := students("1|Nokuthula|Dube-Khumalo|n@kq.example|7B|B", "3|Finn|Ó Laoire|f@kq.example|7B|A")
	for _, d := range Compare(old, list, CompareOptions{}) {
		fmt.Println(d.Kind, d.Old, d.New, d.Fields)
	}
	// Output:
	// changed 0 0 [{family Dube Dube-Khumalo} {level A B}]
	// joined -1 1 []
	// left 1 -1 []
}

func TestCompare(t *testing.T) {
	dube := "1|Nokuthula|Dube|n@kq.example|7B|A"
	for _, c := range []struct {
		what string
		old  []Known
		list []Student
		opt  CompareOptions
		want []string // kind old new by/why candidates
	}{
		{"nothing new", known(dube), students(dube), CompareOptions{}, []string{"unchanged 0 0 number"}},
		{"number first, address corrected", known(dube), students("1|Nokuthula|Dube|nokuthula@kq.example|7B|A"),
			CompareOptions{}, []string{"changed 0 0 number"}},
		{"no number: address, name corrected", known("|Nokutula|Dube|n@kq.example|7B"),
			students("|Nokuthula|Dube|N@KQ.example|7B"), CompareOptions{}, []string{"changed 0 0 address"}},
		{"no number, another address: name", known("|Nokuthula|Dube|n@kq.example|7B"),
			students("|Nokuthula|DUBE|nd@kq.example|7B"), CompareOptions{}, []string{"changed 0 0 name"}},
		{"the number is somebody else's", known(dube), students("1|Kelechi|Eze|k@kq.example|7B"), CompareOptions{},
			[]string{"doubtful -1 0 number-reused [0]"}},
		{"the number is somebody else's, the address one's own", known(dube, "2|Kelechi|Eze|k@kq.example|7B"),
			students("1|Kelechi|Eze|k@kq.example|7B"), CompareOptions{}, []string{"doubtful -1 0 number-reused [1 0]"}},
		{"the address is somebody else's", known("|Nokuthula|Dube|n@kq.example|7B"),
			students("|Kelechi|Eze|n@kq.example|7B"), CompareOptions{}, []string{"doubtful -1 0 address-reused [0]"}},
		{"married, same number and address", known(dube), students("1|Nokuthula|Khumalo|n@kq.example|7B|A"),
			CompareOptions{}, []string{"changed 0 0 number"}},
		{"the same name, another number", known(dube), students("9|Nokuthula|Dube|d@kq.example|7B"), CompareOptions{},
			[]string{"doubtful -1 0 number-differs [0]"}},
		{"two of the name there", known("|Eero|Rautio|a@kq.example|7B", "|Eero|Rautio|b@kq.example|7B"),
			students("|Eero|Rautio|c@kq.example|7B"), CompareOptions{}, []string{"doubtful -1 0 same-name [0 1]"}},
		{"a name nearly the same", known("|Nokuthula|Dube|n@kq.example|7B"), students("|Thula|Dube|t@kq.example|7B"),
			CompareOptions{}, []string{"doubtful -1 0 name-like [0]"}},
		{"a sister: other number, other address", known(dube), students("5|Thandi|Dube|t@kq.example|7B", dube),
			CompareOptions{}, []string{"joined -1 0 ", "unchanged 0 1 number"}},
		{"moved", known(dube), students("1|Nokuthula|Dube|n@kq.example|8A|A"), CompareOptions{}, []string{"moved 0 0 number"}},
		{"no class column: nobody moved", known(dube), students("1|Nokuthula|Dube|n@kq.example||A"),
			CompareOptions{Has: map[record.Field]bool{"given": true, "family": true, "number": true, "address": true,
				"level": true}}, []string{"unchanged 0 0 number"}},
		{"in two classes, one of them changes", known("1|N|Dube|n@kq.example|7B", "1|N|Dube|n@kq.example|8A"),
			students("1|N|Dube|n@kq.example|8A", "1|N|Dube|n@kq.example|9C"), CompareOptions{},
			[]string{"unchanged 1 0 number", "moved 0 1 number"}},
		{"came from one of two", known("1|N|Dube|n@kq.example|7B", "1|N|Dube|n@kq.example|8A"),
			students("1|N|Dube|n@kq.example|9C"), CompareOptions{}, []string{"doubtful -1 0 several-rows [0 1]"}},
		{"returned", known("-" + dube), students(dube), CompareOptions{}, []string{"returned 0 0 number"}},
		{"had left another class", known("-" + dube), students("1|Nokuthula|Dube|n@kq.example|8A"), CompareOptions{}, []string{"joined -1 0 "}},
		{"had left and still has", known("-"+dube, "2|Kelechi|Eze|k@kq.example|7B"),
			students("2|Kelechi|Eze|k@kq.example|7B"), CompareOptions{}, []string{"unchanged 1 0 number"}},
		{"missing", known(dube, "2|Kelechi|Eze|k@kq.example|7B"), students(dube), CompareOptions{},
			[]string{"unchanged 0 0 number", "left 1 -1 "}},
		{"a number left out is shown", known(dube), students("|Nokuthula|Dube|n@kq.example|7B|A"), CompareOptions{},
			[]string{"changed 0 0 address"}},
		{"one old row, two new ones of the number elsewhere", known(dube),
			students("1|Nokuthula|Dube|n@kq.example|8A|A", "1|Nokuthula|Dube|n@kq.example|9C|A"), CompareOptions{},
			[]string{"doubtful -1 0 several-rows [0]", "doubtful -1 1 several-rows [0]"}},
		{"a class that isn't mentioned", known(dube, "2|Kelechi|Eze|k@kq.example|8A"),
			students("3|Finn|Fay|f@kq.example|8A"), CompareOptions{}, []string{"joined -1 0 ", "unchanged 0 -1 ", "left 1 -1 "}},
		{"said: it is she", known(dube), students("1|Kelechi|Eze|k@kq.example|7B"), CompareOptions{Said: map[int]int{0: 0}},
			[]string{"changed 0 0 said"}},
		{"said: it is nobody", known(dube), students("1|Kelechi|Eze|k@kq.example|7B"),
			CompareOptions{Said: map[int]int{0: -1}}, []string{"joined -1 0 said", "left 0 -1 "}},
	} {
		var got []string
		for _, d := range Compare(c.old, c.list, c.opt) {
			line := fmt.Sprintf("%s %d %d %s", d.Kind, d.Old, d.New, d.By+d.Why)
			if len(d.Candidates) > 0 {
				line += fmt.Sprint(" ", d.Candidates)
			}
			got = append(got, line)
		}
		if !slices.Equal(got, c.want) {
			t.Errorf("%s: %q, want %q", c.what, got, c.want)
		}
	}
}

func TestFieldsThatChanged(t *testing.T) {
	old := []Known{{Student: Student{Record: record.Record{Given: "N", Family: "Dube", Number: "1",
		Address: "n@kq.example", Team: "Gull", Extra: map[string]string{"Boat": "red", "Bus": "4"}}}}}
	list := []Student{{Record: record.Record{Given: "N", Family: "Dube", Number: "1", Address: "N@kq.example",
		Extra: map[string]string{"Boat": "blue", "Panel": "2"}}}}
	want := []record.FieldChange{{Field: "team", From: "Gull"}, {Field: "extra:Boat", From: "red", To: "blue"},
		{Field: "extra:Panel", To: "2"}}
	if d := Compare(old, list, CompareOptions{})[0]; !reflect.DeepEqual(d.Fields, want) {
		t.Errorf("%v, want %v", d.Fields, want)
	}
	// Where an address is blank, the list takes none away; the class's own roster does.
	blank := []Student{{Record: record.Record{Given: "N", Family: "Dube", Number: "1"}}}
	has := map[record.Field]bool{record.Address: true, record.Team: true}
	if d := Compare(old, blank, CompareOptions{Has: has})[0]; !reflect.DeepEqual(d.Fields, want[:1]) {
		t.Errorf("of a blank address: %v", d.Fields)
	}
	if d := Compare(old, blank, CompareOptions{})[0]; len(d.Fields) != 2 || d.Fields[0].Field != record.Address {
		t.Errorf("of a blank address in their own roster: %v", d.Fields)
	}
	// A list without teams, and with a column of levels nobody filled in.
	r := Read(table("Given name|Family name|No|Level|Boat", "N|Dube|1||blue"), Options{})
	if has := r.Fields(); has["level"] || !has["given"] || !has["extra:Boat"] || has["team"] {
		t.Errorf("the list has %v", has)
	}
	if d := Compare(old, list, CompareOptions{Has: r.Fields()})[0]; !reflect.DeepEqual(d.Fields, want[1:2]) {
		t.Errorf("of what the list has: %v", d.Fields)
	}
}

func TestPartial(t *testing.T) {
	old := known("1|N|Dube|n@kq.example|7B", "2|K|Eze|k@kq.example|7B", "3|F|Fay|f@kq.example|7B", "-4|G|Gale|g@kq.example|7B")
	for what, c := range map[string]struct {
		list []Student
		want bool
	}{
		"two of three missing": {students("1|N|Dube|n@kq.example|7B", "9|New|One|o@kq.example|7B"), true},
		"one missing":          {students("1|N|Dube|n@kq.example|7B", "2|K|Eze|k@kq.example|7B"), false},
	} {
		if got := Compare(old, c.list, CompareOptions{}).Partial(old); got != c.want {
			t.Errorf("%s: %v", what, got)
		}
	}
	if Compare(nil, students("1|N|Dube|n@kq.example|7B"), CompareOptions{}).Partial(nil) {
		t.Error("a first list is partial")
	}
}

func randomList(r *rand.Rand) []Student {
	pick := func(s ...string) string { return s[r.IntN(len(s))] }
	var lines []string
	for range r.IntN(25) {
		lines = append(lines, strings.Join([]string{pick("", "1", "2", "3", "4", "5"), pick("N", "K", "F", ""),
			pick("Dube", "Eze", "Ó Laoire", "de la Cruz"),
			pick("", "a@kq.example", "b@kq.example", "C@kq.example", "d@kq.example"), pick("7B", "8A"), pick("A", "B")}, "|"))
	}
	return students(lines...)
}

// Over random lists: every student of either list is in exactly one line
// or is a candidate of a doubtful one; a list compared with itself has changed
// nothing; what was answered is not asked again.
func TestCompareProperties(t *testing.T) {
	r := rand.New(rand.NewPCG(13, 21))
	for range 3000 {
		a, b := randomList(r), randomList(r)
		old := make([]Known, len(a))
		for i, s := range a {
			old[i] = Known{Student: s, Gone: r.IntN(6) == 0}
		}
		got := Compare(old, b, CompareOptions{})
		news, olds, maybe := map[int]int{}, map[int]int{}, map[int]bool{}
		said := map[int]int{}
		for _, d := range got {
			if d.New >= 0 {
				news[d.New]++
			}
			if d.Old >= 0 {
				olds[d.Old]++
			}
			for _, c := range d.Candidates {
				maybe[c] = true
			}
			if d.Kind == Doubtful {
				said[d.New] = d.Candidates[0]
			}
			if d.New < 0 && d.Kind != Left && d.Kind != Unchanged || (d.Kind == Doubtful) != (len(d.Candidates) > 0) ||
				(d.Kind == Changed || d.Kind == Moved) != (len(d.Fields) > 0 && d.Kind != Returned) {
				t.Fatalf("%+v", d)
			}
		}
		for n := range b {
			if news[n] != 1 {
				t.Fatalf("new student %d stands in %d lines: %+v", n, news[n], got)
			}
		}
		for o, k := range old {
			if olds[o] > 1 || olds[o] == 0 && !k.Gone && !maybe[o] {
				t.Fatalf("old student %d stands in %d lines: %+v", o, olds[o], got)
			}
		}
		if x, y := facts(got), facts(shuffled(r, old, b)); !slices.Equal(x, y) {
			t.Fatalf("another order of rows gives\n%q\nfor\n%q", y, x)
		}
		for _, d := range Compare(old, b, CompareOptions{Said: said}) {
			if _, answered := said[d.New]; answered && d.Kind == Doubtful {
				t.Fatalf("asked again: %+v", d)
			}
		}
		res := Read(tableOf(a), Options{})
		clean := make([]Known, len(res.Students))
		for i, s := range res.Students {
			clean[i].Student = s
		}
		for _, d := range Compare(clean, res.Students, CompareOptions{}) {
			if d.Kind != Unchanged && d.Kind != Doubtful {
				t.Fatalf("compared with itself: %+v of %+v", d, res.Students)
			}
		}
	}
}

// facts are what a comparison says, whatever the order.
func facts(c Comparison) []string {
	var out []string
	for _, d := range c {
		slices.Sort(d.Candidates)
		out = append(out, fmt.Sprintf("%s %d %d %s %s %v %v", d.Kind, d.Old, d.New, d.By, d.Why, d.Fields, d.Candidates))
	}
	slices.Sort(out)
	return out
}

// shuffled compares the lists in another order and gives every place its
// number in the first order again.
func shuffled(r *rand.Rand, old []Known, list []Student) Comparison {
	po, pn := r.Perm(len(old)), r.Perm(len(list))
	o2, n2 := make([]Known, len(old)), make([]Student, len(list))
	for i, p := range po {
		o2[i] = old[p]
	}
	for i, p := range pn {
		n2[i] = list[p]
	}
	c := Compare(o2, n2, CompareOptions{})
	for i, d := range c {
		if d.Old >= 0 {
			c[i].Old = po[d.Old]
		}
		if d.New >= 0 {
			c[i].New = pn[d.New]
		}
		for j, o := range d.Candidates {
			c[i].Candidates[j] = po[o]
		}
		slices.Sort(c[i].Candidates)
	}
	return c
}

func tableOf(list []Student) Table {
	lines := []string{"No|First|Surname|Email|Class|Level"}
	for _, s := range list {
		lines = append(lines, strings.Join([]string{s.Number, s.Given, s.Family, s.Address, s.Class, s.Level}, "|"))
	}
	return table(lines...)
}

func TestDerive(t *testing.T) {
	for _, c := range []struct {
		rule          AddressRule
		given, family string
		want          string
	}{
		{"[given].[family]", "Nokuthula", "Dube", "nokuthula.dube@kq.example"},
		{"[given].[family]", "Zoë", "O’Brien-Núñez", "zoe.obrien-nunez@kq.example"},
		{"[given].[family]", "Mateo", "de la Cruz", "mateo.delacruz@kq.example"},
		{"[given].[family]", "Søren", "Weiß", "soren.weiss@kq.example"},
		{"[given].[family]", "Łukasz", "Ðorđe", "lukasz.dorde@kq.example"},
		{"[g].[family]", "Åse", "Dahl", "a.dahl@kq.example"},
		{"[family][g]", "Kelechi", "Eze", "ezek@kq.example"},
		{"s-[number]", "Kelechi", "Eze", "s-70412@kq.example"},
		{"[given].[family]", "", "Ximena", ""},
		{"[given].[family]", "小龍", "李", ""},
		{"[nonsense]", "Kelechi", "Eze", ""},
	} {
		if got := c.rule.Derive(record.Record{Given: c.given, Family: c.family, Number: "70412"}, "kq.example"); got != c.want {
			t.Errorf("%s of %s %s: %q, want %q", c.rule, c.given, c.family, got, c.want)
		}
	}
	if got := AddressRule("[given]").Derive(record.Record{Given: "N"}, ""); got != "" {
		t.Errorf("without a domain: %q", got)
	}
	rule, part := GuessRule(students("1|Nokuthula|Dube|ndube@kq.example", "2|Kelechi|Eze|keze@kq.example",
		"3|Finn|Fay|other@kq.example", "4|Li|Wei|"))
	if rule != "[g][family]" || part != 0.5 {
		t.Errorf("guessed %s for %v", rule, part)
	}
	if rule, part := GuessRule(nil); rule != Rules[0] || part != 0 {
		t.Errorf("of nobody: %s, %v", rule, part)
	}
}

func BenchmarkCompare(b *testing.B) {
	for _, n := range []int{25_000, 50_000} {
		old := make([]Known, n)
		list := make([]Student, n)
		for i := range n {
			s := Student{Row: i, Record: record.Record{Number: fmt.Sprint(100000 + i), Given: fmt.Sprint("Given", i),
				Family: fmt.Sprint("Family", i), Address: fmt.Sprintf("g.f%d@kestrelquay.example", i),
				Class: fmt.Sprint("C", i%80), Extra: map[string]string{"Boat": "Gull"}}}
			old[i].Student = s
			switch i % 50 {
			case 0:
				s.Family += "x"
			case 1:
				s.Class = "Other"
			case 2:
				s.Number, s.Address = "", ""
			case 3:
				s.Number, s.Address, s.Given, s.Family = fmt.Sprint("n", i), fmt.Sprintf("new%d@kestrelquay.example", i), "New", fmt.Sprint("Person", i)
			}
			list[i] = s
		}
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			for b.Loop() {
				if c := Compare(old, list, CompareOptions{}); len(c) < n {
					b.Fatal(len(c))
				}
			}
		})
	}
}
