package lists

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
)

// book is a school book of "id address given family", staff marked with a +.
type book map[string]roster.Account

// table makes a table of lines with cells parted by |.
func table(lines ...string) roster.Table {
	var t roster.Table
	for i, l := range lines {
		t.Rows = append(t.Rows, roster.Row{Line: i + 1, Cells: strings.Split(l, "|")})
	}
	return t
}

func bookOf(lines ...string) book {
	b := book{}
	for _, l := range lines {
		f := strings.Fields(strings.TrimPrefix(l, "+"))
		b[f[0]] = roster.Account{ID: f[0], Address: f[1], Given: f[2], Family: f[3], Student: !strings.HasPrefix(l, "+")}
	}
	return b
}

func (b book) ByID(id string) (roster.Account, bool) { a, ok := b[id]; return a, ok }

func (b book) ByAddress(address string) (roster.Account, bool) {
	for _, a := range b {
		if strings.EqualFold(a.Address, address) {
			return a, true
		}
	}
	return roster.Account{}, false
}

func row(given, family, address string) roster.ClassRow {
	return roster.ClassRow{ID: given, Record: record.Record{Given: given, Family: family, Address: address}}
}

// Who a row is linked to, and what keeps it from being linked.
func TestLinks(t *testing.T) {
	b := bookOf("a a@kq.example Ama Dube", "b b@kq.example Bo Eze", "c c@kq.example Cy Fay", "+t t@kq.example Ama Dube")
	linked := func(r roster.ClassRow, account, by string, given bool) roster.ClassRow {
		r.Account, r.LinkedBy, r.Holding = account, by, given
		return r
	}
	confirmed := row("Ama", "Dube", "b@kq.example")
	confirmed.Confirmed = "b"
	for _, c := range []struct {
		what string
		rows []roster.ClassRow
		want string // of each row: account, relink, problem, remarks
	}{
		{"by address, case aside", []roster.ClassRow{row("Ama", "Dube", "A@kq.example")}, "a   "},
		{"nobody's address", []roster.ClassRow{row("Ama", "Dube", "x@kq.example")}, "  account-unknown "},
		{"no address", []roster.ClassRow{row("Ama", "Dube", "")}, "  no-address "},
		{"a teacher's address", []roster.ClassRow{row("Ama", "Dube", "t@kq.example")}, "  account-not-student "},
		{"another's address", []roster.ClassRow{row("Ama", "Dube", "b@kq.example")}, "  account-other-name "},
		{"another's address, confirmed", []roster.ClassRow{confirmed}, "b   book-says given, book-says family"},
		{"one word of the name in common", []roster.ClassRow{row("Ama", "Khumalo", "a@kq.example")}, "a   book-says family"},
		{"names in another order", []roster.ClassRow{row("Dube", "Ama", "a@kq.example")}, "a   "},
		{"two rows of one address: the first has it",
			[]roster.ClassRow{row("Ama", "Dube", "a@kq.example"), row("Ama", "Dubé", "a@kq.example")}, "a   ;   account-twice "},
		{"who is linked keeps the account",
			[]roster.ClassRow{row("Ama", "Dube", "a@kq.example"),
				linked(row("Am", "Dube", "a@kq.example"), "a", "a@kq.example", true)}, "  account-twice ; a   book-says given"},
		{"another address, nothing given yet", []roster.ClassRow{linked(row("Bo", "Eze", "b@kq.example"), "a", "a@kq.example", false)}, "b   "},
		{"another address, things given", []roster.ClassRow{linked(row("Bo", "Eze", "b@kq.example"), "a", "a@kq.example", true)}, "a b  "},
		{"a wrong address, things given", []roster.ClassRow{linked(row("Ama", "Dube", "x@kq.example"), "a", "a@kq.example", true)},
			"a  account-unknown "},
		{"a wrong address, nothing given",
			[]roster.ClassRow{linked(row("Ama", "Dube", "x@kq.example"), "a", "a@kq.example", false)}, "  account-unknown "},
		{"the book has another address",
			[]roster.ClassRow{linked(row("Ama", "Dube", "old@kq.example"), "a", "old@kq.example", true)}, "a   book-says address"},
		{"an account is freed before another takes it",
			[]roster.ClassRow{linked(row("Bo", "Eze", "b@kq.example"), "a", "a@kq.example", false), row("Ama", "Dube", "a@kq.example")}, "b   ; a   "},
	} {
		var got []string
		for _, l := range roster.Links(c.rows, b) {
			problem, remarks := "", []string{}
			if l.Problem != nil {
				problem = l.Problem.Code
			}
			for _, r := range l.Remarks {
				remarks = append(remarks, r.Code+" "+string(r.Field))
			}
			got = append(got, fmt.Sprintf("%s %s %s %s", l.Account, l.Relink, problem, strings.Join(remarks, ", ")))
		}
		if g := strings.Join(got, "; "); g != c.want {
			t.Errorf("%s: %q, want %q", c.what, g, c.want)
		}
	}
	ours := record.Record{Given: "Ama", Family: "Dube", Address: "a@kq.example"}
	if r := roster.ClassRemarks(ours, record.Record{Given: "ama", Family: "Khumalo"}, "8A"); len(r) != 1 ||
		r[0].Field != record.Family || r[0].Value != "Khumalo" || r[0].Args["class"] != "8A" {
		t.Errorf("8A says %+v", r)
	}
}

var classes = []PlanClass{
	{ID: "c7", Code: "7B", Name: "Tide Watch 7B"}, {ID: "c8", Code: "8A", Name: "Boat Workshop 8A"},
	{ID: "d1", Code: "9C", Name: "Harbour 9C", Period: "1"}, {ID: "d2", Code: "9C", Name: "Harbour 9C", Period: "2"},
}

// Which class a part of a list is for; a class is made only where the teacher
// says so.
func TestParts(t *testing.T) {
	for _, c := range []struct {
		what, heading string
		values        string // of the class column
		answers       Answers
		want          string
	}{
		{"one part", "Class", "7B", Answers{}, "c7 alone"},
		{"one part that is called otherwise", "Class", "SCI-7-B2", Answers{}, "c7 alone"},
		{"one part of another class", "Class", "8A", Answers{}, " elsewhere"},
		{"one part of another class, said", "Class", "8A", Answers{Targets: map[string]string{"8a/": "c7"}}, "c7 said"},
		{"two classes there are", "Class", "7B 8A", Answers{}, "c7 fits, out elsewhere"},
		{"others alone", "Class", "8A 9D", Answers{}, " elsewhere, out others"},
		{"one of another's", "Class", "7B 6D", Answers{}, "c7 fits, out others"},
		{"new ones", "Class", "6D 6E", Answers{}, " ask, ask"},
		{"teams under a heading that may be anything", "Group", "Gull Tern Skua", Answers{}, "c7 alone"},
		{"classes under a heading that may be anything", "Group", "7B 7B 7B 8A 8A 8A", Answers{}, "c7 fits, out elsewhere"},
		{"sets", "Set", "1 2", Answers{}, "c7 alone"},
		{"forms", "Form", "Red Blue", Answers{}, "c7 unsure, c7 unsure"},
		{"rows without a class", "Class", "7B -", Answers{}, "c7 fits, c7 none"},
		{"two of ours are called so", "Class", "7B 9C", Answers{}, "c7 fits,  several"},
		{"said: new", "Class", "6D 6E", Answers{Targets: map[string]string{"6d/": NewClass}}, "new said,  ask"},
		{"said: another's class", "Class", "7B 8A", Answers{Targets: map[string]string{"8a/": "stranger"}}, "c7 fits,  ask"},
	} {
		lines := []string{"No|Surname|First|" + c.heading}
		for i, v := range strings.Fields(c.values) {
			lines = append(lines, fmt.Sprintf("%d|Family%d|Given|%s", i, i, strings.Trim(v, "-")))
		}
		c.answers.Home, c.answers.Without = "c7", true
		res := roster.Read(table(lines...), roster.Options{Derive: "[family]", Domain: "kq.example"})
		var got []string
		for _, p := range Parts(res, classes, c.answers) {
			got = append(got, p.Target+" "+p.Why)
		}
		if g := strings.TrimPrefix(strings.Join(got, ", "),
			" "); g != strings.TrimPrefix(strings.ReplaceAll(c.want, " ask, ask", " ask,  ask"), " ") {
			t.Errorf("%s: %q, want %q", c.what, g, c.want)
		}
	}
}

// What a list does to a class, act by act; what is refused; and that nothing
// else is done.
func TestPlan(t *testing.T) {
	home := PlanClass{ID: "c7", Code: "7B", Name: "Tide Watch 7B",
		Rows: []roster.ClassRow{row("Ama", "Dube", "a@kq.example"), row("Bo", "Eze", "b@kq.example"), row("Cy", "Fay", "c@kq.example")}}
	home.Rows[0].Number, home.Rows[0].Level = "1", "A"
	away := PlanClass{ID: "c8", Code: "8A", Name: "Boat Workshop 8A", Rows: []roster.ClassRow{row("Di", "Gale", "d@kq.example")}}
	away.Rows[0].Preferred = "Didi"
	said := func(p Plan, a Answers) string {
		var out []string
		for _, act := range p.Acts(a) {
			out = append(out, fmt.Sprintf("%s %s %s %s", act.Kind, act.Class, act.Row, act.Record.Name()+act.Record.Level))
		}
		return strings.Join(out, "; ")
	}
	for _, c := range []struct {
		what    string
		list    []string
		answers Answers
		want    string
		refused string
	}{
		{"the same", []string{"First|Surname|Email", "Ama|Dube|a@kq.example", "Bo|Eze|b@kq.example", "Cy|Fay|c@kq.example"}, Answers{}, "", ""},
		{"one changed, one new, one left",
			[]string{"First|Surname|Email|Level", "Ama|Dube|a@kq.example|B", "Bo|Eze|b@kq.example|", "Ed|Hay|e@kq.example|C"},
			Answers{}, "set c7 Ama Ama DubeB; join c7  Ed HayC; leave c7 Cy Cy Fay", ""},
		{"an empty cell over a value, ticked",
			[]string{"First|Surname|Email|Level", "Ama|Dube|a@kq.example|", "Bo|Eze|b@kq.example|C", "Cy|Fay|c@kq.example|"},
			Answers{Ticked: map[string]bool{"n2/level": true}}, "set c7 Ama Ama Dube; set c7 Bo Bo EzeC", ""},
		{"most are missing: nobody leaves", []string{"First|Surname|Email", "Ama|Dube|a@kq.example"}, Answers{}, "", ""},
		{"from another class, who keeps what the list doesn't say",
			[]string{"First|Surname|Email|Class", "Di|Gale|d@kq.example|7B", "Ama|Dube|a@kq.example|7B",
				"Bo|Eze|b@kq.example|7B", "Cy|Fay|c@kq.example|7B", "Ed|Hay|e@kq.example|8A"},
			Answers{Targets: map[string]string{"8a/": "c8"}}, "leave c8 Di Di Gale; join c7  Di Gale; join c8  Ed Hay", ""},
		{"another class of theirs, unasked: it stays as it is",
			[]string{"First|Surname|Email|Class", "Di|Gale|d@kq.example|7B", "Ama|Dube|a@kq.example|7B",
				"Bo|Eze|b@kq.example|7B", "Cy|Fay|c@kq.example|7B", "Ed|Hay|e@kq.example|8A"}, Answers{}, "join c7  Di Gale", ""},
		{"in doubt", []string{"First|Surname|Email", "Zed|Zed|a@kq.example", "Bo|Eze|b@kq.example", "Cy|Fay|c@kq.example"},
			Answers{}, "", "doubtful"},
		{"a new class nobody decided on",
			[]string{"First|Surname|Email|Class", "Ed|Hay|e@kq.example|6D", "Flo|Ito|f@kq.example|6E"}, Answers{}, "", "which-class"},
		{"nobody at all", []string{"First|Surname|Email", "||"}, Answers{}, "", "nobody"},
		{"no addresses", []string{"First|Surname", "Ama|Dube", "Bo|Eze", "Cy|Fay"}, Answers{}, "", "no-address-column"},
	} {
		c.answers.Home = "c7"
		res := roster.Read(table(c.list...), roster.Options{})
		all := []PlanClass{home, away}
		p := MakePlan(res, Parts(res, all, c.answers), all, c.answers)
		refused := ""
		if r := p.Refused(res, c.answers); r != nil {
			refused = r.Code
		}
		if refused != c.refused {
			t.Errorf("%s: refused %q, want %q", c.what, refused, c.refused)
		}
		if got := said(p, c.answers); c.refused == "" && got != c.want {
			t.Errorf("%s: %q, want %q", c.what, got, c.want)
		}
		for _, act := range p.Acts(c.answers) {
			if act.Kind == Join && act.Record.Name() == "Di Gale" && act.Record.Preferred != "Didi" && len(c.answers.Targets) > 0 {
				t.Errorf("one who moved lost the preferred name: %+v", act.Record)
			}
		}
		before := p.Digest(c.answers)
		changed := home
		changed.Rows = slices.Clone(home.Rows)
		changed.Rows[0].Level = "Z"
		all = []PlanClass{changed, away}
		if q := MakePlan(res, Parts(res, all, c.answers), all, c.answers); q.Digest(c.answers) == before && strings.Contains(c.want, "Ama") {
			t.Errorf("%s: a class that changed meanwhile gives the plan that was looked at", c.what)
		}
	}
}

// What an undo may take back.
func TestBack(t *testing.T) {
	state := func(family string, left int64) *State {
		return &State{Record: record.Record{Family: family}, Left: left}
	}
	edit := []RowChange{{Row: "r", Before: state("Dube", 0), After: state("Eze", 0)}}
	added := []RowChange{{Row: "r", After: state("Eze", 0)}}
	now := map[string]State{"r": *state("Eze", 0)}
	for _, c := range []struct {
		what          string
		changes       []RowChange
		now           map[string]State
		whole, packed bool
		code, want    string
	}{
		{"an edit", edit, now, false, false, "", "Dube"},
		{"an edit, packed since", edit, now, false, true, "", "Dube"},
		{"a list, packed since", edit, now, true, true, "packed-since", ""},
		{"one added", added, now, false, false, "", "gone"},
		{"one added, packed since", added, now, false, true, "packed-since", ""},
		{"changed by another since", edit, map[string]State{"r": *state("Fay", 0)}, false, false, "changed-since", ""},
		{"has left since", edit, map[string]State{"r": *state("Eze", 9)}, false, false, "changed-since", ""},
		{"gone since", edit, nil, false, false, "changed-since", ""},
	} {
		back, code := Back(c.changes, c.now, c.whole, c.packed)
		got := ""
		if s, ok := back["r"]; ok {
			got = "gone"
			if s != nil {
				got = s.Family
			}
		}
		if code != c.code || got != c.want {
			t.Errorf("%s: %q %q, want %q %q", c.what, code, got, c.code, c.want)
		}
	}
	if d := Differences(map[string]State{"r": *state("Dube", 0), "q": *state("X", 0)},
		map[string]State{"r": *state("Dube", 5), "s": *state("Y", 0)}); len(d) != 3 || d[0].What() != "left" ||
		d[1].What() != "added" || d[2].What() != "removed" {
		t.Errorf("differences %+v", d)
	}
	if then := Before(now, [][]RowChange{edit, added}); len(then) != 0 {
		t.Errorf("before it was added: %+v", then)
	}
	at := func(family, address string, left int64) State {
		return State{Record: record.Record{Family: family, Address: address}, Left: left}
	}
	for what, c := range map[string]struct {
		rows    map[string]State
		changed map[string]bool
		want    string
	}{
		"two there": {map[string]State{"a": at("A", "x@kq.example", 0), "b": at("B", "X@kq.example", 0)}, nil, "b A false"},
		"the first was edited": {map[string]State{"a": at("A", "x@kq.example", 0), "b": at("B", "X@kq.example", 0)},
			map[string]bool{"a": true}, "a B false"},
		"one of them has left": {map[string]State{"a": at("A", "x@kq.example", 9), "b": at("B", "X@kq.example", 0)}, nil, "b A true"},
		"both have left":       {map[string]State{"a": at("A", "x@kq.example", 9), "b": at("B", "X@kq.example", 8)}, nil, ""},
		"none has one":         {map[string]State{"a": at("A", "", 0), "b": at("B", "", 0)}, nil, ""},
	} {
		got := ""
		if k := Clashing(c.rows, c.changed); k != nil {
			got = fmt.Sprint(k.Row, " ", k.Other, " ", k.Left)
		}
		if got != c.want {
			t.Errorf("%s: %q, want %q", what, got, c.want)
		}
	}
}

func TestArriving(t *testing.T) {
	rows := []roster.ClassRow{
		{ID: "gone", Record: record.Record{Given: "Nia", Family: "Fjord", Address: "nia@kestrelquay.example", Number: "7"}, Gone: true},
		{ID: "here", Record: record.Record{Given: "Iris", Family: "Holm", Address: "iris@kestrelquay.example", Number: "8"}},
		{ID: "bare", Record: record.Record{Given: "Ada", Family: "Voss"}},
	}
	for _, c := range []struct {
		what string
		s    record.Record
		row  int
		here bool
	}{
		{"nobody's", record.Record{Given: "Eli", Family: "Ro", Address: "eli@kestrelquay.example", Number: "9"}, -1, false},
		{"no address, no number", record.Record{Given: "Ada", Family: "Voss"}, -1, false},
		{"the address of one who is here", record.Record{Given: "Eli", Family: "Ro", Address: "Iris@kestrelquay.example"}, 1, true},
		{"the number of one who is here", record.Record{Given: "Eli", Family: "Ro", Number: "8"}, 1, true},
		{"one who left is back", record.Record{Given: "Nia", Family: "Khumalo", Address: "NIA@kestrelquay.example"}, 0, false},
		{"another name than the one who left", record.Record{Given: "Eli", Family: "Ro", Address: "nia@kestrelquay.example"}, -1, false},
		{"only the number of one who left", record.Record{Given: "Nia", Family: "Fjord", Number: "7"}, -1, false},
		{"back, with the number of one who is here",
			record.Record{Given: "Nia", Family: "Fjord", Address: "nia@kestrelquay.example", Number: "8"}, 1, true},
	} {
		if row, here := Arriving(rows, c.s); row != c.row || here != c.here {
			t.Errorf("%s: %d %v, want %d %v", c.what, row, here, c.row, c.here)
		}
	}
}
