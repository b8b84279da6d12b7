package naming

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"testing"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"

	"jollysatchel/internal/core/record"
)

func ExamplePattern_Render() {
	p, err := Parse("[Period] [Family name] – [Title]", nil)
	if err != nil {
		panic(err)
	}
	fmt.Println(p.Render(record.Values{record.Period: "3", record.Family: "Dube", record.Title: "Rock-pool field log"}))
	fmt.Println(p.Render(record.Values{record.Family: "Dube", record.Title: "Rock-pool field log"}))
	// Output:
	// 3 Dube – Rock-pool field log
	// Dube – Rock-pool field log
}

func TestRender(t *testing.T) {
	all := record.Values{record.Period: "3", record.Family: "de la Cruz", record.Given: "Mateo", record.Title: "Log",
		record.Team: "Gull", record.Number: "70412"}
	without := func(cols ...record.Field) record.Values {
		m := record.Values{}
		for k, v := range all {
			if !slices.Contains(cols, k) {
				m[k] = v
			}
		}
		return m
	}
	for _, c := range []struct {
		pattern string
		values  record.Values
		want    string
	}{
		{"[Family name], [Given name] – [Title]", all, "de la Cruz, Mateo – Log"},
		{"[Family name], [Given name] – [Title]", without(record.Given), "de la Cruz – Log"},
		{"[Family name], [Given name] – [Title]", without(record.Family), "Mateo – Log"},
		{"[Family name], [Given name] – [Title]", without(record.Title), "de la Cruz, Mateo"},
		{"[Family name], [Given name] – [Title]", without(record.Family, record.Given), "Log"},
		{"[Family name], [Given name] – [Title]", without(record.Family, record.Given, record.Title), ""},
		{"[Period] [Family name] – [Title]", without(record.Family), "3 – Log"},
		{"[Title] ([Team])", without(record.Team), "Log"},
		{"[Title] ([Team]) [Period]", without(record.Team), "Log 3"},
		{"[Title] [[[Team]]]", all, "Log [Gull]"},
		{"[Title] [[[Team]]]", without(record.Team), "Log"},
		{"  [Title]   [Period]  ", all, "Log 3"},
		{"[Title]. [Team]", record.Values{record.Title: "St.", record.Team: ""}, "St."}, // the value's own stop stays
		{"Unit 4: [Title]", all, "Unit 4: Log"},
		{"[Period]|[Team]|[Title]", without(record.Team), "3|Log"},
		{"[Family name]", record.Values{record.Family: "van\u00a0 der  Berg"}, "van der Berg"},
		{"[Family name], [Given name] – [Title]",
			record.Values{record.Family: "Dube", record.Given: " ??/ \"", record.Title: "Log"}, "Dube – Log"},
		{"[Family name] [Team]", record.Values{record.Family: "Dube", record.Team: "\u202e|\u202c"}, "Dube"},
		{"[Family name] [Team]", record.Values{record.Family: "Dube", record.Team: "7/8"}, "Dube 7/8"}, // Safe sees to it
	} {
		p, err := Parse(c.pattern, nil)
		if err != nil {
			t.Errorf("%q: %v", c.pattern, err)
			continue
		}
		if got := p.Render(c.values); got != c.want {
			t.Errorf("%q of %v = %q, want %q", c.pattern, c.values, got, c.want)
		}
	}
}

func TestRenderMarked(t *testing.T) {
	v := record.Values{record.Period: "3", record.Family: "Marsh", record.Title: "Log"}
	for pattern, want := range map[string]string{
		"[Period] [Family name] – [Title]": "3 Marsh 70412 – Log", // after the last person column
		"[Title] – [Family name]":          "Log – Marsh 70412",
		"[Title] [Period]":                 "Log 3 70412", // no person column: at the end
	} {
		p, _ := Parse(pattern, nil)
		if got := p.RenderMarked(v, "70412"); got != want {
			t.Errorf("%q marked = %q, want %q", pattern, got, want)
		}
	}
}

func TestParse(t *testing.T) {
	known := record.Vocabulary{record.Title, record.Period}
	for _, c := range []struct {
		in, code string
		offset   int
	}{
		{"[Title", "bracket-open", 0}, {"x []", "bracket-empty", 2}, {"a]b", "bracket-stray", 1},
		{"[Title] [Boat]", "column-unknown", 8}, {"[[Title]", "bracket-stray", 7},
	} {
		_, err := Parse(c.in, known)
		se, ok := err.(*SyntaxError)
		if !ok || se.Code != c.code || se.Offset != c.offset {
			t.Errorf("Parse(%q) = %v, want %s at %d", c.in, err, c.code, c.offset)
		}
	}
	random := rand.New(rand.NewPCG(1, 2))
	for range 2000 {
		var want Pattern
		for n := random.IntN(5); n > 0; n-- {
			if last := len(want) - 1; random.IntN(2) == 0 || last >= 0 && want[last].Text != "" {
				want = append(want, Part{Column: []record.Field{record.Title, record.Period, record.Extra("Boat group"),
					record.Extra("Title"), record.Extra(`[A] \ [[b]]`), record.Extra("a[2]")}[random.IntN(6)], First: max(0, random.IntN(8)-4)})
			} else {
				want = append(want, Part{Text: []string{" – ", "[", "]]", "a[b]c", "x"}[random.IntN(5)]})
			}
		}
		got, err := Parse(want.String(), nil)
		if err != nil || len(got)+len(want) > 0 && !reflect.DeepEqual(got, want) {
			t.Fatalf("Parse(%q) = %v, %v; want %v", want.String(), got, err, want)
		}
	}
}

// First letters are whole letters, whatever they are made of, and no space is left behind them.
func TestFirstLetters(t *testing.T) {
	p, err := Parse("[Family name[1]][Given name[3]]", nil)
	if err != nil || len(p) != 2 || p[0].First != 1 || p[1].First != 3 {
		t.Fatal(p, err)
	}
	for given, want := range map[string]string{"Nokuthula": "DNok", "Jo": "DJo", "A\u0301sa Lind": "DA\u0301sa",
		"Jo Anna": "DJo", "👩‍👩‍👧x": "D👩‍👩‍👧x", "": "D"} {
		if got := p.Render(record.Values{record.Family: "Dube", record.Given: given}); got != want {
			t.Errorf("of %q %q, want %q", given, got, want)
		}
	}
	for _, literal := range []string{"[a[0]]", "[a[21]]", "[a[01]]", "[a[x]]"} {
		if p, err := Parse(literal, nil); err == nil && p[0].First != 0 {
			t.Errorf("%q asks for %d letters", literal, p[0].First)
		}
	}
}

func TestSafe(t *testing.T) {
	for _, c := range []struct{ in, ending, want string }{
		{"Rock-pool: field log", ".md", "Rock-pool- field log.md"},
		{"a/b\\c|d", "", "a-b-c-d"},
		{`"Low water?" <now>*`, "", "'Low water' now"},
		{"CON", "", "CON_"}, {"con.txt", "", "con_.txt"}, {"Lpt1", ".md", "Lpt1_.md"}, {"Conrad", "", "Conrad"}, {"COM¹", "", "COM¹_"},
		{"ends with dots...", "", "ends with dots"}, {"..hidden", "", "hidden"}, {" . ", "", Nameless}, {"", ".md", Nameless + ".md"},
		{"a\u202egnp.exe", "", "agnp.exe"}, {"zero\u200bwidth\ufeff", "", "zerowidth"}, {"tab\there\n", "", "tab here"}, {"bell\a", "", "bell"},
		{"E\u0301lodie", "", "Élodie"}, {"bad\xff", "", "bad"},
	} {
		if got := Safe(c.in, c.ending); got != c.want {
			t.Errorf("Safe(%q, %q) = %q, want %q", c.in, c.ending, got, c.want)
		}
	}
}

// Family emoji, flags and combining marks are cut as wholes (UAX #29).
func TestSafeCutsAtGraphemes(t *testing.T) {
	family := "👩‍👩‍👧‍👦"
	for _, unit := range []string{family, "🇵🇹", "ẹ́", "क्षि", "x"} {
		got := Safe(strings.Repeat(unit, 300), ".md")
		if len(got) > MaxBytes || !strings.HasSuffix(got, ".md") || len(got)+len(norm.NFC.String(unit)) <= MaxBytes {
			t.Errorf("%q ×300: %d bytes", unit, len(got))
		}
		if strings.Trim(strings.TrimSuffix(got, ".md"), norm.NFC.String(unit)) != "" {
			t.Errorf("%q ×300 was cut inside: ends %q", unit, got[len(got)-20:])
		}
	}
}

func FuzzSafe(f *testing.F) {
	for _, s := range []string{"", "CON.CON", "a\u0301", "\u202e", "....", "x/y", strings.Repeat("ï", 300), "nul ", "\u2126"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		got := Safe(s, ".md")
		stem := strings.TrimSuffix(got, ".md")
		if again := Safe(stem, ".md"); again != got {
			t.Errorf("Safe(%q) = %q, and again %q", s, got, again)
		}
		if len(got) > MaxBytes || !utf8.ValidString(got) || !norm.NFC.IsNormalString(got) ||
			strings.ContainsAny(got, "/\\:|\"<>?*\x00\n") || stem == "" || strings.HasSuffix(stem, " ") {
			t.Errorf("Safe(%q) = %q", s, got)
		}
	})
}

func TestTellApart(t *testing.T) {
	p, _ := Parse("[Family name] – [Title]", nil)
	item := func(family, number, period string, added int) Item {
		return Item{Values: record.Values{record.Family: family, record.Number: number, record.Period: period, record.Title: "Log"}, Added: added}
	}
	packed := item("Marsh", "1", "3", 1)
	packed.Packed = "Marsh – Log.md"
	for _, c := range []struct {
		what  string
		items []Item
		want  []Name
	}{
		{"different", []Item{item("Adeyemi", "1", "", 1), item("Dube", "2", "", 2)},
			[]Name{{"Adeyemi – Log.md", "", ""}, {"Dube – Log.md", "", ""}}},
		{"by number", []Item{item("Marsh", "1", "", 1), item("marsh", "2", "", 2)},
			[]Name{{"Marsh 1 – Log.md", ByNumber, ""}, {"marsh 2 – Log.md", ByNumber, ""}}},
		{"by period", []Item{item("Marsh", "", "3", 1), item("Marsh", "", "5", 2)},
			[]Name{{"Marsh 3 – Log.md", ByPeriod, ""}, {"Marsh 5 – Log.md", ByPeriod, ""}}},
		{"by counter, earliest row first", []Item{item("Marsh", "", "", 9), item("Marsh", "", "", 2)},
			[]Name{{"Marsh 2 – Log.md", ByCounter, ""}, {"Marsh 1 – Log.md", ByCounter, ""}}},
		{"numbers that no name can have", []Item{item("Marsh", "/", "", 1), item("Marsh", "?", "", 2)},
			[]Name{{"Marsh 1 – Log.md", ByCounter, ""}, {"Marsh 2 – Log.md", ByCounter, ""}}},
		{"a packed name stays with its mark",
			[]Item{{Values: record.Values{record.Family: "Marsh", record.Title: "Log"}, Packed: "Marsh 2 – Log.md"}},
			[]Name{{"Marsh 2 – Log.md", "", ""}}},
		{"a packed name of other values is given anew",
			[]Item{{Values: record.Values{record.Family: "Khumalo", record.Title: "Log"}, Packed: "Dube – Log.md"}},
			[]Name{{"Khumalo – Log.md", "", ""}}},
		{"characters no folder can have", []Item{item("O/Hara", "", "", 1)}, []Name{{"O-Hara – Log.md", "", Replaced}}},
		{"far too long", []Item{item(strings.Repeat("Ä", 200), "", "", 1)}, []Name{{Safe(strings.Repeat("Ä", 200), ".md"), "", Shortened}}},
		{"a packed name stays", []Item{packed, item("Marsh", "7", "", 2)},
			[]Name{{"Marsh – Log.md", "", ""}, {"Marsh 7 – Log.md", ByNumber, ""}}},
	} {
		if got := TellApart(p, ".md", c.items, nil); !reflect.DeepEqual(got, c.want) {
			t.Errorf("%s: %v, want %v", c.what, got, c.want)
		}
	}
}

func TestTellApartProperties(t *testing.T) {
	random := rand.New(rand.NewPCG(3, 5))
	p, _ := Parse("[Period] [Family name] – [Title]", nil)
	long := strings.Repeat("Zuiderzee", 40)
	for range 500 {
		var items []Item
		for i := range 1 + random.IntN(30) {
			it := Item{Added: random.IntN(5), Values: record.Values{
				record.Family: []string{"Marsh", "marsh", "MARSH", "Ma\u0301rsh", "Mársh", "", long, long + "!"}[random.IntN(8)],
				record.Number: []string{"", "1", "2", "3"}[random.IntN(4)], record.Period: []string{"", "3", "5"}[random.IntN(3)], record.Title: "Log",
			}}
			if random.IntN(4) == 0 {
				it.Own = Pattern{{Column: record.Title}, {Text: " of "}, {Column: record.Family}}
			}
			if random.IntN(6) == 0 {
				// As this item was packed once, alone or told apart; never two alike.
				it.Packed = TellApart(p, ".md", []Item{it}, nil)[0].Name
				if random.IntN(2) == 0 {
					it.Packed = marked(it.by(p), ".md", it.Values, fmt.Sprint(50+i))
				}
				if slices.ContainsFunc(items, func(o Item) bool { return Fold(o.Packed) == Fold(it.Packed) }) ||
					Fold(it.Packed) == Fold("Marsh – Log.md") {
					it.Packed = ""
				}
			}
			items = append(items, it)
		}
		names := TellApart(p, ".md", items, []string{"Marsh – Log.md"})
		seen := map[string]bool{Fold("Marsh – Log.md"): true}
		for i, n := range names {
			if items[i].Packed != "" && n.Name != items[i].Packed {
				t.Fatalf("packed name %q became %q", items[i].Packed, n.Name)
			}
			if seen[Fold(n.Name)] {
				t.Fatalf("%q was given twice in %v", n.Name, names)
			}
			seen[Fold(n.Name)] = true
			if len(n.Name) > MaxBytes {
				t.Fatalf("%q is too long", n.Name)
			}
		}
		if again := TellApart(p, ".md", items, []string{"Marsh – Log.md"}); !reflect.DeepEqual(names, again) {
			t.Fatal("the same items gave other names")
		}
	}
}

// Where languages differ: Swedish puts Å and Ö after Z, German beside A and O;
// Danish has Aa as Å; Lithuanian Y beside I. Common practice of each language;
// from memory.
func TestOrder(t *testing.T) {
	for lang, want := range map[string][]string{
		"en": {"0, c", "2 b", "10 a", "010 b", "Adeyemi", "Ångström", "de la Cruz", "Éloi", "Zandstra"},
		"sv": {"Adeyemi", "Zandstra", "Ångström", "Öberg"},
		"de": {"Adeyemi", "Ångström", "Öberg", "Zandstra"},
		"da": {"Adeyemi", "Zandstra", "Aagaard"},
		"et": {"Saar", "Zobel", "Tamm"},
	} {
		got := slices.Clone(want)
		slices.Reverse(got)
		NewOrder(lang).Sort(len(got), func(i int) string { return got[i] }, func(i, j int) { got[i], got[j] = got[j], got[i] })
		if !slices.Equal(got, want) {
			t.Errorf("%s: %v, want %v", lang, got, want)
		}
	}
}

func TestEnding(t *testing.T) {
	for in, want := range map[string]string{"log.md": ".md", "archive.tar.gz": ".gz", ".profile": "", "none": "", "Mr. Smith": "", "x.": ""} {
		if got := Ending(in); got != want {
			t.Errorf("Ending(%q) = %q, want %q", in, got, want)
		}
	}
}

func TestAltered(t *testing.T) {
	for name, want := range map[string]string{
		"Dube – Log": "", "  Dube  –  Log ": "", "O'Hara": "", "Ana/Bo": Replaced, "what?": Replaced, "Log.": Replaced,
		"con": Replaced, strings.Repeat("x", 252): "", strings.Repeat("x", 253): Shortened, strings.Repeat("é", 200): Shortened,
	} {
		if got := Altered(name, ".md"); got != want {
			t.Errorf("%.20q: %q, want %q", name, got, want)
		}
	}
}

// However long the name and however many there are of it, each next one is free,
// keeps its ending and fits.
func TestFree(t *testing.T) {
	for _, name := range []string{"pool", "pool (2)", strings.Repeat("x", 252), strings.Repeat("x", 600),
		strings.Repeat("池", 85), strings.Repeat("👩‍👩‍👧", 30), "", "...", "con"} {
		taken := map[string]bool{}
		for n := range 120 {
			got := Free(name, ".png", taken)
			if taken[Fold(got)] || len(got) > MaxBytes || !strings.HasSuffix(got, ".png") || Safe(strings.TrimSuffix(got, ".png"), ".png") != got {
				t.Fatalf("%.12q, number %d: %q of %d bytes", name, n+1, got, len(got))
			}
			taken[Fold(got)] = true
		}
	}
}

// FuzzFree makes the next free name of any name, in any crowd of others.
func FuzzFree(f *testing.F) {
	f.Add("pool", ".png", uint8(3))
	f.Add(strings.Repeat("池", 85), ".md", uint8(120))
	f.Add("a (2)", "", uint8(9))
	f.Fuzz(func(t *testing.T, name, ending string, crowd uint8) {
		ending = Ending("x" + ending)
		taken := map[string]bool{}
		for range int(crowd) + 1 {
			got := Free(name, ending, taken)
			if taken[Fold(got)] || len(got) > MaxBytes || Safe(strings.TrimSuffix(got, ending), ending) != got {
				t.Fatalf("%q with %q: %q of %d bytes", name, ending, got, len(got))
			}
			taken[Fold(got)] = true
		}
	})
}

// A name that was told apart by a counter is known again whatever its number and what
// follows it: as by trying every counter there is.
func TestCountersAreKnownAgain(t *testing.T) {
	patterns := []string{"[Family name]", "[Family name][Period] x", "[Title] [Family name] – 7", "[Title]",
		"[Period] [Family name] 12", "[Level]"}
	for _, written := range patterns {
		p, err := Parse(written, nil)
		if err != nil {
			t.Fatal(err)
		}
		for _, family := range []string{"Ada", "9", "Ada 12 4", "", strings.Repeat("long ", 60)} {
			values := record.Values{record.Family: family, record.Period: "3", record.Title: "Log 5"}
			for n := 1; n <= 99; n++ {
				if name := marked(p, ".md", values, strconv.Itoa(n)); !comesFrom(name, p, ".md", values) {
					t.Errorf("%s of %q: %q isn't known again", written, family, name)
				}
			}
			for _, other := range []string{"Else 1.md", "100.md", "Ada 100.md"} {
				byAll := false
				for n := 1; n <= 99; n++ {
					byAll = byAll || other == marked(p, ".md", values, strconv.Itoa(n))
				}
				if got := comesFrom(other, p, ".md", values); got != byAll && other != Safe(p.Render(values), ".md") {
					t.Errorf("%s of %q: %q is said to come from it: %v", written, family, other, got)
				}
			}
		}
	}
}
