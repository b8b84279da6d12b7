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

// table makes a table of lines with cells parted by |.
func table(lines ...string) Table {
	var t Table
	for i, l := range lines {
		row := Row{Line: i + 1}
		if strings.HasPrefix(l, "#") {
			row.Hidden, l = true, l[1:]
		}
		if l != "" {
			row.Cells = strings.Split(l, "|")
		}
		t.Rows = append(t.Rows, row)
	}
	return t
}

func ExampleRead() {
	t := table(
		"Surname|First|E-mail",
		"Dube|Nokuthula|nokuthula.dube@kestrelquay.example",
		"Haugen|Sunniva|sunniva.kestrelquay.example",
	)
	r := Read(t, Options{})
	fmt.Println(r.Columns[0].Role, r.Columns[1].Role, r.Columns[2].Role)
	fmt.Println(r.Students[0].Name())
	fmt.Println(r.Findings[0].Row, r.Findings[0].Code, r.Findings[0].Args["suggestion"])
	// Output:
	// family given address
	// Nokuthula Dube
	// 3 address-malformed sunniva@kestrelquay.example
}

func TestRoles(t *testing.T) {
	for _, c := range []struct {
		what  string
		lines []string
		want  []Role
		head  int
	}{
		{"any order", []string{"Period|Email|Last name|First name|Student ID", "3|a@b.example|Dube|N|1"},
			[]Role{Period, Address, Family, Given, Number}, 1},
		{"other languages", []string{"Nachname|Vorname|E-Mail-Adresse|Klasse", "Dube|N|a@b.example|7B"},
			[]Role{Family, Given, Address, Class}, 1},
		{"pupils by number", []string{"Learner|Set|School e-mail|Pupil no|AdmissionNo", "Dube, N|A|a@b.example|0101|7"},
			[]Role{Full, Level, Address, Number, Extra}, 1},
		{"Czech", []string{"Příjmení|Jméno|E-mailová adresa|Třída", "Dvořák|Jiří|a@b.example|7B"},
			[]Role{Family, Given, Address, Class}, 1},
		{"Japanese", []string{"学籍番号|姓|名|メールアドレス|クラス", "0101|中村|そら|a@b.example|7B"},
			[]Role{Number, Family, Given, Address, Class}, 1},
		{"Finnish", []string{"Sukunimi|Etunimi|Sähköposti|Luokka", "Laine|Aino|a@b.example|7B"}, []Role{Family, Given, Address, Class}, 1},
		{"wording", []string{"Student e-mail (school)|PUPIL NAME|Tutor Group|Boat group|Reading level",
			"a@b.example|N Dube|7B|Gull|A"}, []Role{Address, Full, Class, Extra, Level}, 1},
		{"Korean", []string{"학번|성명|이메일|반|조", "0101|김서준|a@b.example|7B|1"}, []Role{Number, Full, Address, Class, Team}, 1},
		{"a group is a team", []string{"Nom|Prénom|Courriel|Groupe", "Dube|N|a@b.example|Bleu"}, []Role{Family, Given, Address, Team}, 1},
		{"a group that is a class", []string{"Surname|First|Email|Group", "Dube|N|a@b.example|7B", "Eze|K|k@b.example|7B"},
			[]Role{Family, Given, Address, Class}, 1},
		{"values that say they are teams",
			[]string{"Surname|First|Email|Where", "Dube|N|a@b.example|Ryhmä 1", "Eze|K|k@b.example|Ryhmä 1"},
			[]Role{Family, Given, Address, Team}, 1},
		{"title lines above", []string{"Class list 7B", "", "Surname|Forename|Mail", "Dube|N|a@b.example"}, []Role{Family, Given, Address}, 3},
		{"values decide an odd heading", []string{"Surname|First|Contact", "Dube|N|a@b.example", "Eze|K|k@b.example"},
			[]Role{Family, Given, Address}, 1},
		{"no headings", []string{"70411|Dube|Nokuthula|n@b.example", "70412|Eze|Kelechi|k@b.example"}, []Role{Number, Family, Given, Address}, 0},
		{"no headings, full name", []string{"Nokuthula Dube|n@b.example", "Kelechi Eze|k@b.example"}, []Role{Full, Address}, 0},
		{"no heading names the names", []string{"Nickname|Who|Contact|Boat", "Noki|Nokuthula Dube|n@b.example|Gull"},
			[]Role{Preferred, Full, Address, Extra}, 1},
		{"a role is given once", []string{"Name|Email|Email 2", "N Dube|a@b.example|p@c.example"}, []Role{Full, Address, Extra}, 1},
		{"full name beside its parts is kept", []string{"Name|First name|Last name", "N Dube|N|Dube"}, []Role{Extra, Given, Family}, 1},
	} {
		r := Read(table(c.lines...), Options{})
		var got []Role
		for _, col := range r.Columns {
			got = append(got, col.Role)
			if col.Confidence < 0 || col.Confidence > 1 {
				t.Errorf("%s: confidence %v", c.what, col.Confidence)
			}
		}
		if !slices.Equal(got, c.want) || r.HeadingRow != c.head {
			t.Errorf("%s: %v, heading row %d; want %v, %d", c.what, got, r.HeadingRow, c.want, c.head)
		}
	}
	r := Read(table("A|B", "Dube|n@b.example"), Options{Roles: map[int]Role{0: Given}})
	if r.Columns[0].Role != Given || r.Columns[0].Confidence != 1 {
		t.Errorf("what the teacher said doesn't hold: %+v", r.Columns[0])
	}
}

func TestFindings(t *testing.T) {
	head := "No|Surname|First|Email|Class|Boat"
	known := func(a string, _ record.Record) Knowing {
		switch a {
		case "n@kq.example":
			return Knowing{Known: true, Account: Account{ID: "n", Given: "Nokuthula", Family: "Dube", Student: true}}
		case "t@kq.example":
			return Knowing{Known: true, Account: Account{ID: "t", Given: "Ifeoma", Family: "Oduya"}}
		}
		return Knowing{Suggestion: "p.oliveira@kq.example"}
	}
	for _, c := range []struct {
		what  string
		lines []string
		opt   Options
		want  []string // row code
		in    int
	}{
		{"clean", []string{head, "1|Dube|N|n@kq.example|7B|"}, Options{}, nil, 1},
		{"no name", []string{head, "1|||n@kq.example|7B|"}, Options{}, []string{"2 name-missing"}, 0},
		{"no address", []string{head, "1|Dube|N||7B|"}, Options{}, []string{"2 address-missing"}, 0},
		{"no address, for later", []string{head, "1|Dube|N||7B|", "2|Eze|K||7B|", "3|Ito|S|s@|7B|"}, Options{Later: true},
			[]string{"2 address-later", "3 address-later", "4 address-malformed"}, 2},
		{"malformed", []string{head, "1|Dube|N|n@@kq.example|7B|", "2|Eze|K|k kq.example|7B|"}, Options{},
			[]string{"2 address-malformed", "3 address-malformed"}, 0},
		{"same number", []string{head, "1|Dube|N|n@kq.example|7B|", "1|Dube|N|other@kq.example|7B|"}, Options{}, []string{"3 student-twice"}, 1},
		{"same number in another class", []string{head, "1|Dube|N|n@kq.example|7B|", "1|Dube|N|n@kq.example|8A|"}, Options{}, nil, 2},
		{"same address and name", []string{head, "|Dube|N|n@kq.example|7B|", "|Dube|N|N@KQ.example|7B|"}, Options{},
			[]string{"3 student-twice"}, 1},
		{"same address, another name", []string{head, "1|Dube|N|n@kq.example|7B|", "2|Eze|K|n@kq.example|7B|"}, Options{},
			[]string{"3 address-twice"}, 1},
		{"two of one name", []string{head, "1|Rautio|Eero|a@kq.example|7B|", "2|RAUTIO|eero|b@kq.example|7B|"}, Options{},
			[]string{"2 same-name", "3 same-name"}, 2},
		{"no address column", []string{"Surname|First", "Dube|N"}, Options{}, []string{"1 no-address-column"}, 1},
		{"unknown account", []string{head, "1|Oliveira|P|p.olveira@kq.example|7B|"}, Options{Known: known}, []string{"2 account-unknown"}, 1},
		{"another's account", []string{head, "1|Eze|K|n@kq.example|7B|"}, Options{Known: known}, []string{"2 account-other-name"}, 1},
		{"another's account, and it is the same student", []string{head, "1|Eze|K|n@kq.example|7B|"},
			Options{Known: known, Same: map[int]bool{2: true}}, nil, 1},
		{"a teacher's account", []string{head, "1|Oduya|I|t@kq.example|7B|"}, Options{Known: known}, []string{"2 account-not-student"}, 0},
		{"two teams", []string{"Surname|First|Email|Team", "Dube|N|n@kq.example|Gull, Tern"}, Options{}, []string{"2 two-teams"}, 1},
		{"a value too long", []string{head, "1|Dube|N|n@kq.example|7B|" + strings.Repeat("x", MaxValue+1)}, Options{},
			[]string{"2 value-too-long"}, 0},
		{"a value as long as may be", []string{head, "1|Dube|N|n@kq.example|7B|" + strings.Repeat("x", MaxValue)}, Options{}, nil, 1},
		{"values beyond the last heading", []string{"Surname|First|Email", "Dube|N|n@kq.example|late"}, Options{},
			[]string{"1 heading-missing"}, 1},
		{"other domain", []string{head, "1|Dube|N|n@home.example|7B|"}, Options{Domain: "kq.example"}, []string{"2 domain-other"}, 1},
		{"heading twice", []string{"Surname|First|Email|Boat|boat", "Dube|N|n@kq.example|a|b"}, Options{}, []string{"1 heading-twice"}, 1},
		{"zeros lost", []string{head, "07041|Dube|N|n@kq.example|7B|", "07042|Eze|K|k@kq.example|7B|",
			"7043|Fay|F|f@kq.example|7B|"}, Options{}, []string{"4 zeros-lost"}, 3},
		{"odd characters", []string{head, "1|Du\u200bbe|N|n@kq.example|7B|"}, Options{}, []string{"2 odd-characters"}, 1},
		{"look-alike", []string{head, "1|Dub\u0435|N|n@kq.example|7B|"}, Options{}, []string{"2 look-alike"}, 1},
		{"blank rows", []string{head, "", " | ||||", "1|Dube|N|n@kq.example|7B|"}, Options{}, []string{"2 blank-row", "3 blank-row"}, 1},
		{"hidden", []string{head, "#1|Dube|N|n@kq.example|7B|"}, Options{}, []string{"2 hidden-row"}, 0},
		{"heading again", []string{head, "1|Dube|N|n@kq.example|7B|", head}, Options{}, []string{"3 heading-again"}, 1},
		{"total", []string{head, "1|Dube|N|n@kq.example|7B|", "Total|1||||"}, Options{}, []string{"3 total-row"}, 1},
		{"a total under the addresses", []string{"Name|Email", "N Dube|n@kq.example", "Total|6"}, Options{}, []string{"3 total-row"}, 1},
		{"a total taken in", []string{"Name|Email", "Total|t@kq.example", "Total|6"},
			Options{LeftOut: map[int]bool{3: false}}, []string{"3 address-malformed"}, 1},
		{"hidden and taken in", []string{head, "#1|Dube|N|n@kq.example|7B|"}, Options{LeftOut: map[int]bool{2: false}}, nil, 1},
		{"a student called Total", []string{head, "1|Total|N|n@kq.example|7B|"}, Options{}, nil, 1},
		{"addresses made by the school's rule", []string{"Surname|First", "Dube|N", "李|小龍"},
			Options{Derive: "[given].[family]", Domain: "kq.example"}, []string{"3 address-missing"}, 1},
		{"one address made by the rule", []string{head, "1|Dube|N||7B|"}, Options{Derive: "[given].[family]", Domain: "kq.example"}, nil, 1},
		{"left out by hand", []string{head, "1|Dube|N|n@kq.example|7B|"}, Options{LeftOut: map[int]bool{2: true}}, []string{"2 row-left-out"}, 0},
	} {
		r := Read(table(c.lines...), c.opt)
		var got []string
		for _, f := range r.Findings {
			got = append(got, fmt.Sprintf("%d %s", f.Row, f.Code))
			if f.Message == "" || strings.ContainsAny(f.Message+f.Remedy, "{}") || f.Args == nil {
				t.Errorf("%s: %s says %q, %q", c.what, f.Code, f.Message, f.Remedy)
			}
		}
		if !slices.Equal(got, c.want) || len(r.Students) != c.in {
			t.Errorf("%s: %v with %d students, want %v with %d", c.what, got, len(r.Students), c.want, c.in)
		}
	}
}

func TestSplitName(t *testing.T) {
	for full, want := range map[string][2]string{
		"Nokuthula Dube": {"Nokuthula", "Dube"}, "de la Cruz, Mateo": {"Mateo", "de la Cruz"}, "Mateo de la Cruz": {"Mateo", "de la Cruz"},
		"Wilhelmina van der Aerschot": {"Wilhelmina", "van der Aerschot"}, "Ximena": {"", "Ximena"},
		"Saoirse Ní Bhriain": {"Saoirse", "Ní Bhriain"},
		"Orla D’Arcy":        {"Orla", "D’Arcy"}, "  Thị Minh   Khai Trần ": {"Thị Minh Khai", "Trần"},
		"Van Morris": {"Van", "Morris"},
	} {
		if g, f := SplitName(full, false); g != want[0] || f != want[1] {
			t.Errorf("SplitName(%q) = %q, %q; want %q", full, g, f, want)
		}
	}
}

// Where the school says so, the family name comes first.
func TestFamilyFirst(t *testing.T) {
	for full, want := range map[string][2]string{"Kovács Anna Mária": {"Anna Mária", "Kovács"},
		"李 小龍": {"小龍", "李"}, "Dube, Nokuthula": {"Nokuthula", "Dube"}, "Ximena": {"", "Ximena"}} {
		if g, f := SplitName(full, true); g != want[0] || f != want[1] {
			t.Errorf("SplitName(%q) = %q, %q; want %q", full, g, f, want)
		}
	}
	r := Read(table("Name|Email", "Kovács Anna|a@kq.example"), Options{FamilyFirst: true})
	if s := r.Students[0]; s.Family != "Kovács" || s.Given != "Anna" {
		t.Errorf("read as %+v", s)
	}
}

// Examples of RFC 5321 4.5.3.1, RFC 5322 3.2.3, RFC 6531 and of the WHATWG
// HTML standard's rule for input type=email.
func TestAddressForm(t *testing.T) {
	for a, want := range map[string]string{
		"nokuthula.dube@kestrelquay.example": "", "a+b@kq.example": "", "o'leary@kq.example": "",
		"#!$%&'*+/=?^_`{|}~-@kq.example": "", "用户@例子.example": "", "x@localhost": "",
		"sunniva.kestrelquay.example": "no-at", "": "no-at", "a b@kq.example": "space", "a@@kq.example": "two-ats", "a@b@kq.example": "two-ats",
		".a@kq.example": "local", "a.@kq.example": "local", "a..b@kq.example": "local", "@kq.example": "local", "a,b@kq.example": "local",
		"a@": "domain", "a@-kq.example": "domain", "a@kq-.example": "domain", "a@kq..example": "domain",
		"a@kq_.example": "domain", "a@" + strings.Repeat("x", 64) + ".example": "domain",
		strings.Repeat("x", 64) + "@kq.example": "", strings.Repeat("x", 65) + "@kq.example": "too-long", "a\xff@kq.example": "not-text",
	} {
		if usualAddress(a) && (want != "" || strings.ToLower(a) != a) {
			t.Errorf("%q is taken for a usual address", a)
		}
		if got := AddressForm(a); got != want {
			t.Errorf("AddressForm(%q) = %q, want %q", a, got, want)
		}
	}
}

// randomTable makes a table in which anything can be wrong.
func randomTable(r *rand.Rand) Table {
	pick := func(s ...string) string { return s[r.IntN(len(s))] }
	var t Table
	if r.IntN(4) > 0 {
		t.Rows = append(t.Rows, Row{Line: 1, Cells: []string{"No", "Surname", "First", "Email", "Class"}})
	}
	for range r.IntN(40) {
		row := Row{Line: len(t.Rows) + 1, Hidden: r.IntN(12) == 0}
		row.Cells = []string{
			pick("1", "2", "03", "70411", ""), pick("Dube", "Eze", "Total", "", "Ångström", "Du\u200bbe", "No"), pick("N", "K", "", "Surname"),
			pick("a@kq.example", "b@kq.example", "c@kq.example", "x", "", "d@@kq"), pick("7B", "8A", ""), pick("", "", "more"),
		}[:r.IntN(7)]
		t.Rows = append(t.Rows, row)
	}
	return t
}

// Every row of the input is accounted for exactly once.
func TestNothingVanishes(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 13))
	for range 3000 {
		tab := randomTable(r)
		res := Read(tab, Options{})
		c := res.Counts
		if c.Students+c.Blank+c.Hidden+c.LeftOut != c.Rows || c.Students != len(res.Students) {
			t.Fatalf("counts don't add up: %+v of %v", c, tab)
		}
		ends := map[int]int{}
		for _, s := range res.Students {
			ends[s.Row]++
		}
		out := map[int]bool{}
		for _, f := range res.Findings {
			if f.Code != "no-address-column" && (f.Severity != Warning || f.Code == "hidden-row") {
				out[f.Row] = true
			}
		}
		for row := range out {
			ends[row]++
		}
		for _, row := range tab.Rows {
			if row.Line > res.HeadingRow && ends[row.Line] != 1 {
				t.Fatalf("row %d ended %d times: %v\n%+v", row.Line, ends[row.Line], row, res.Findings)
			}
		}
		if !reflect.DeepEqual(res, Read(tab, Options{})) {
			t.Fatal("the same table was read differently")
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add("Surname|Email\nDube|a@b.example\n\n|")
	f.Add("\u202e|\x00\nTotal|")
	f.Fuzz(func(t *testing.T, s string) {
		res := Read(table(strings.Split(s, "\n")...), Options{})
		if c := res.Counts; c.Students+c.Blank+c.Hidden+c.LeftOut != c.Rows {
			t.Errorf("%q: %+v", s, c)
		}
	})
}

// Whatever is taken for a usual address has a right form, and is its own lower
// case.
func FuzzUsualAddress(f *testing.F) {
	for _, a := range []string{"a.b@kq.example", "a-b@k-q.example", "a_b@kq.example", "-a@b", "a.-b@kq.example", "a@b-.c", "a@b..c"} {
		f.Add(a)
	}
	f.Fuzz(func(t *testing.T, a string) {
		if usualAddress(a) && (AddressForm(a) != "" || strings.ToLower(a) != a) {
			t.Errorf("%q: %s", a, AddressForm(a))
		}
	})
}

// What values say where no heading does, and what is no level.
func TestColumnsByValue(t *testing.T) {
	roles := func(r Result) (out []Role) {
		for _, c := range r.Columns {
			out = append(out, c.Role)
		}
		return out
	}
	var lines []string
	for i := range 12 {
		lines = append(lines, fmt.Sprintf("Family%c|Given%c|s%d@kq.example|%dB|Period %d|Level %c|Team %d|%d", 'A'+i, 'A'+i,
			i, 7+i%2, 1+i%3, 'A'+i%2, 1+i%4, 1+i%3))
	}
	r := Read(table(lines...), Options{})
	if got := roles(r); !slices.Equal(got, []Role{Family, Given, Address, Class, Period, Level, Team, Extra}) {
		t.Errorf("recognised %v", got)
	}
	if c := r.Columns[7]; c.Heading != "Column 8" || r.Students[0].Extra["Column 8"] != "1" {
		t.Errorf("a column without a heading: %+v, %v", c, r.Students[0].Extra)
	}
	// Lists of one shape have one name, with headings and without.
	a, b := Shape(table(lines[:6]...)), Shape(table(lines[6:]...))
	if a == "" || a != b || a == Shape(table("Family|Given|x@kq.example")) {
		t.Errorf("shapes %q and %q", a, b)
	}
	if Shape(table("Surname|E-mail", "Dube|n@kq.example")) != Shape(table("SURNAME|e-mail", "Eze|k@kq.example")) {
		t.Error("the same headings are another shape")
	}
	for _, heading := range []string{"Year", "Grade", "Year group"} {
		r := Read(table("Surname|Email|"+heading, "Dube|n@kq.example|8"), Options{})
		if c := r.Columns[2]; c.Role != Extra || c.Note != "school-year" || r.Students[0].Extra[heading] != "8" {
			t.Errorf("%s: %+v", heading, c)
		}
	}
	wide := Read(table("Surname|First|Email"+strings.Repeat("|x", MaxColumns-2), "Dube|N|n@kq.example"), Options{})
	if f := wide.Findings[0]; f.Code != "too-many-columns" || len(wide.Columns) != MaxColumns {
		t.Errorf("%d columns, %+v", len(wide.Columns), f)
	}
	// Those with a role come first, wherever they stand; the next takes the place of one that
	// isn't kept.
	far := "Surname" + strings.Repeat("|x", 300) + "|Email"
	for _, said := range []map[int]Role{nil, {1: None}} {
		r := Read(table(far, "Dube"+strings.Repeat("|v", 300)+"|n@kq.example"), Options{Roles: said})
		last := MaxColumns - 2 + len(said)
		if n := len(r.Findings); n != last { // too many columns, and of those that are read one heading again and again
			t.Errorf("%d findings with %v said", n, said)
		}
		if len(r.Columns) != 302 || r.Columns[301].Role != Address || r.Students[0].Address != "n@kq.example" ||
			r.Columns[last].Role != Extra || r.Columns[last+1] != (Column{Role: None, Note: "no-room"}) {
			t.Errorf("%+v, %+v, %+v", r.Columns[301], r.Columns[last], r.Columns[last+1])
		}
	}
	long := strings.Repeat("ø", MaxHeading/2)
	if h := Read(table("Surname|Email|x"+long, "Dube|n@kq.example|8"), Options{}).
		Columns[2].Heading; len(h) != MaxHeading-1 || h != "x"+long[:MaxHeading-2] {
		t.Errorf("a long heading is cut to %d bytes: %q", len(h), h)
	}
	// A page is told the first warnings of a kind; every student is read all the same.
	strangers := []string{"Surname|Email"}
	for i := range 20 {
		strangers = append(strangers, fmt.Sprintf("F%d|f%d@home.example", i, i))
	}
	if r := Read(table(strangers...), Options{Domain: "kq.example", MostWarnings: 7}); len(r.Findings) != 7 ||
		len(r.Students) != 20 || r.Findings[6].Row != 8 {
		t.Errorf("%d findings, %d students", len(r.Findings), len(r.Students))
	}
	for in, want := range map[string]string{"n.dube(at)kq.example": "n.dube@kq.example",
		"n.dube [at] kq.example": "n.dube@kq.example", "n.dube{AT}kq.example": "n.dube@kq.example"} {
		if got := mendAddress(in, "kq.example"); got != want {
			t.Errorf("%q is mended to %q, want %q", in, got, want)
		}
	}
}
