package tables

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"reflect"
	"runtime"
	"strings"
	"testing"
	"unicode/utf16"

	"golang.org/x/text/encoding/charmap"

	"jollysatchel/internal/core/roster"
)

func ExampleRead() {
	t, err := ReadSheet(strings.NewReader("Surname;First\nDube;\"Nokuthula\n(Noki)\"\n\nEze;Kelechi\n"), "")
	if err != nil {
		panic(err)
	}
	for _, r := range t.Rows {
		fmt.Printf("%d %q\n", r.Line, r.Cells)
	}
	// Output:
	// 1 ["Surname" "First"]
	// 2 ["Dube" "Nokuthula\n(Noki)"]
	// 3 []
	// 4 ["Eze" "Kelechi"]
}

// readDelimited reads delimited text whatever it looks like.
func readDelimited(b []byte) (roster.Table, error) {
	book, err := delimited{}.read(b, newBudget(context.Background()))
	if err != nil {
		return roster.Table{}, err
	}
	return book.Sheets[0].Table, nil
}

func cells(t roster.Table) [][]string {
	out := [][]string{}
	for _, r := range t.Rows {
		out = append(out, r.Cells)
	}
	return out
}

// RFC 4180, section 2, rule by rule.
func TestRFC4180(t *testing.T) {
	for _, c := range []struct {
		rule, in string
		want     [][]string
	}{
		{"1: lines end with CRLF", "aaa,bbb,ccc\r\nzzz,yyy,xxx\r\n", [][]string{{"aaa", "bbb", "ccc"}, {"zzz", "yyy", "xxx"}}},
		{"2: the last may have no end", "aaa,bbb,ccc\r\nzzz,yyy,xxx", [][]string{{"aaa", "bbb", "ccc"}, {"zzz", "yyy", "xxx"}}},
		{"4: spaces belong to the field", "a, b ,c", [][]string{{"a", " b ", "c"}}},
		{"5: quoted fields", "\"aaa\",\"bbb\",\"ccc\"\r\nzzz,yyy,xxx", [][]string{{"aaa", "bbb", "ccc"}, {"zzz", "yyy", "xxx"}}},
		{"6: line breaks, quotes and commas in them", "\"aaa\",\"b\nbb\",\"c,cc\"\nzzz,yyy,xxx",
			[][]string{{"aaa", "b\nbb", "c,cc"}, {"zzz", "yyy", "xxx"}}},
		{"7: doubled quotes", "\"aaa\",\"b\"\"bb\",\"ccc\"", [][]string{{"aaa", "b\"bb", "ccc"}}},
	} {
		got, err := readDelimited([]byte(c.in))
		if err != nil || !reflect.DeepEqual(cells(got), c.want) {
			t.Errorf("%s: %q, %v", c.rule, cells(got), err)
		}
	}
}

// The csv-spectrum files (npm, version 2.0.0): each with the records it holds.
func TestCSVSpectrum(t *testing.T) {
	files, err := filepath.Glob("testdata/outside/csv-spectrum/csvs/*.csv")
	if err != nil || len(files) < 10 {
		t.Fatalf("%d files, %v", len(files), err)
	}
	for _, file := range files {
		b, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		j, err := os.ReadFile(filepath.Join("testdata/outside/csv-spectrum/json", strings.TrimSuffix(filepath.Base(file), ".csv")+".json"))
		if err != nil {
			t.Fatal(err)
		}
		var want []map[string]string
		if j = bytes.TrimSpace(j); j[0] == '{' { // one file's single record stands without its list
			j = []byte("[" + string(j) + "]")
		}
		if err := json.Unmarshal(j, &want); err != nil {
			t.Fatal(file, err)
		}
		got, err := readDelimited(b)
		if err != nil {
			t.Errorf("%s: %v", file, err)
			continue
		}
		var records []map[string]string
		for _, row := range got.Rows[1:] {
			m := map[string]string{}
			for i, h := range got.Rows[0].Cells {
				m[h] = strings.ReplaceAll(row.Cells[i], "\r\n", "\n")
			}
			records = append(records, m)
		}
		for i := range want {
			for k, v := range want[i] {
				want[i][k] = strings.ReplaceAll(v, "\r\n", "\n")
			}
		}
		if strings.HasSuffix(file, "location_coordinates.csv") { // its two files disagree about a telephone number
			want[0]["Contact Phone Number"] = records[0]["Contact Phone Number"]
		}
		if !reflect.DeepEqual(records, want) {
			t.Errorf("%s: %q, want %q", file, records, want)
		}
	}
}

// Python's csv module reads the same bytes into the same cells.
func TestAgainstPython(t *testing.T) {
	if _, err := exec.LookPath("python3"); err != nil {
		t.Fatal("python3 is needed: ", err)
	}
	for _, in := range []string{
		"a,b\n1,2\n", "\"x\ny\",z\n\n\n,\n", "a,\"b\"\"c\"\r\n\r\nd,e", "one\ntwo\n", ",,\n\"\",\" \"\n", "é,ü\n\"Ångström, F\",x\n",
	} {
		cmd := exec.Command("python3", "-c",
			"import csv,json,sys,io;print(json.dumps(list(csv.reader(io.StringIO(sys.stdin.buffer.read().decode('utf-8'),newline='')))))")
		cmd.Stdin = strings.NewReader(in)
		out, err := cmd.Output()
		if err != nil {
			t.Fatal(err)
		}
		var want [][]string
		if err := json.Unmarshal(out, &want); err != nil {
			t.Fatal(err)
		}
		got, err := readDelimited([]byte(in))
		if err != nil || !reflect.DeepEqual(cells(got), want) {
			t.Errorf("%q: %q, %v; Python has %q", in, cells(got), err, want)
		}
	}
}

func TestSeparatorsAndEncodings(t *testing.T) {
	want := [][]string{{"Família", "Given, first", "N"}, {"Gonçalves", "Hugo", "1"}}
	write := func(sep string) string {
		return "Família" + sep + "\"Given, first\"" + sep + "N\nGonçalves" + sep + "Hugo" + sep + "1\n"
	}
	utf16le := []byte{0xFF, 0xFE}
	for _, u := range utf16.Encode([]rune(write("\t"))) {
		utf16le = append(utf16le, byte(u), byte(u>>8))
	}
	cp1252, err := charmap.Windows1252.NewEncoder().String(write(";"))
	if err != nil {
		t.Fatal(err)
	}
	for what, in := range map[string][]byte{
		"comma": []byte(write(",")), "semicolon": []byte(write(";")), "tab": []byte(write("\t")),
		"byte order mark": []byte("\ufeff" + write(",")),
		"UTF-16":          utf16le, "Windows-1252": []byte(cp1252), "old line ends": []byte(strings.ReplaceAll(write(","), "\n", "\r")),
	} {
		got, err := readDelimited(in)
		if err != nil || !reflect.DeepEqual(cells(got), want) {
			t.Errorf("%s: %q, %v", what, cells(got), err)
		}
	}
}

func TestLooseQuotes(t *testing.T) {
	got, err := readDelimited([]byte("name,size\nrope,5\" thick\n\nchain,3\n"))
	if err != nil || !reflect.DeepEqual(cells(got), [][]string{{"name", "size"}, {"rope", `5" thick`}, {}, {"chain", "3"}}) {
		t.Errorf("%q, %v", cells(got), err)
	}
}

func TestRefused(t *testing.T) {
	for _, c := range []struct {
		what string
		in   []byte
		code string
	}{
		{"nothing", nil, "empty"},
		{"only blanks", []byte(" \n\t\n"), "empty"},
		{"a picture", []byte("\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR"), "not-a-table"},
		{"control characters", bytes.Repeat([]byte("a\x01b"), 50), "not-a-table"},
		{"an open quotation mark", []byte("a,b\n1,\"2\n3,4\n"), "quote-open"},
		{"an open quotation mark among loose ones", []byte("a,b\nx\"y,\"2\n3,4\n"), "quote-open"},
		{"too many rows", bytes.Repeat([]byte("a,b\n"), MaxRows+1), "too-many-rows"},
		{"too many blank rows", append(bytes.Repeat([]byte("\n"), MaxRows+1), 'a'), "too-many-rows"},
		{"too many columns", bytes.Repeat([]byte("a,"), MaxColumns), "too-many-columns"},
		{"too large", bytes.Repeat([]byte("abcdefg,hijklmno\n"), MaxBytes/16), "list-too-large"},
	} {
		_, err := Read(bytes.NewReader(c.in))
		var te *Error
		if !errors.As(err, &te) || te.Code != c.code || te.Error() == "" {
			t.Errorf("%s: %v, want %s", c.what, err, c.code)
		}
	}
	if got, err := ReadSheet(bytes.NewReader(bytes.Repeat([]byte("a,b\n"), MaxRows)), ""); err != nil || len(got.Rows) != MaxRows {
		t.Errorf("a list at the limit is refused: %v", err)
	}
}

func FuzzDelimited(f *testing.F) {
	for _, s := range []string{"a,b\n", "\"", "a\"b\n\n\"c", "\xff\xfea\x00", "\r\r\n", "\x1eend\x1e", "\"a\"b,c\n\n"} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, b []byte) {
		got, err := readDelimited(b)
		if err != nil {
			return
		}
		for i, r := range got.Rows {
			if r.Line != i+1 {
				t.Fatalf("row %d is at line %d", i, r.Line)
			}
			if strings.Contains(strings.Join(r.Cells, ""), sentinel) && !bytes.Contains(b, []byte(sentinel)) {
				t.Fatalf("the sentinel got into row %d of %q", i, b)
			}
		}
	})
}

func BenchmarkReadRoster(b *testing.B) {
	in := List(50_000)
	b.Run("ours", func(b *testing.B) {
		// All that is allocated is more than what is ever alive at once.
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		defer func() {
			runtime.ReadMemStats(&after)
			b.ReportMetric(float64(after.TotalAlloc-before.TotalAlloc)/float64(b.N)/float64(len(in)), "allocated/file")
		}()
		for b.Loop() {
			t, err := ReadSheet(bytes.NewReader(in), "")
			if err != nil {
				b.Fatal(err)
			}
			if r := roster.Read(t, roster.Options{}); r.Counts.Students != 50_000 {
				b.Fatalf("%+v", r.Counts)
			}
		}
	})
	b.Run("encoding/csv", func(b *testing.B) {
		for b.Loop() {
			if _, err := reader(in, ',', false).ReadAll(); err != nil {
				b.Fatal(err)
			}
		}
	})
}

// List writes a class list of n rows.
func List(n int) []byte {
	var b bytes.Buffer
	b.WriteString("Stud No,Surname,First name,E-mail (school),Class,Period,Set,Boat group\n")
	for i := range n {
		fmt.Fprintf(&b, "%d,Surname%d,Given%d,given.surname%d@kestrelquay.example,7B,%d,A,Gull\n", 100000+i, i, i, i, i%8)
	}
	return b.Bytes()
}

// A sign that is in each cell of a column doesn't divide the list.
func TestSignInsideCells(t *testing.T) {
	for _, sep := range []string{",", "\t", ";"} {
		inside := map[string]string{",": ";", "\t": ";", ";": ","}[sep]
		list := "Class list 7B\n\n" + strings.Join([]string{"Surname", "First", "Email", "Home"}, sep) + "\n"
		for i := range 30 {
			list += fmt.Sprintf("Dube%s N%s n%d@kq.example%s", sep, sep, i, sep) +
				strings.Repeat(fmt.Sprintf("a%d@far.example%s ", i, inside), 5) + "\n"
		}
		got, err := readDelimited([]byte(list))
		if err != nil || len(got.Rows) != 33 || len(got.Rows[4].Cells) != 4 {
			t.Errorf("%q: %d rows, %q, %v", sep, len(got.Rows), got.Rows[min(4, len(got.Rows)-1)].Cells, err)
		}
	}
}

// A cell that is far too long keeps its row out with a reason; the others are read. What is
// cut is still too long for a list, and nothing holds on to the rest of it.
func TestLongCell(t *testing.T) {
	rows := [][]string{{"Surname", "First", "Email", "Notes"},
		{"Dube", "N", "n@kq.example", strings.Repeat("é", 1_000_000)}, {"Marsh", "I", "i@kq.example", "short"}}
	odd := [][]string{{"Surname", "First", "Email", "Notes"},
		{"Dube", "N", "n@kq.example", strings.Repeat("é", 30_000)}, {"Marsh", "I", "i@kq.example", "short"}}
	for as, rows := range map[Writing][][]string{CSV: rows, XLSX: odd, ODS: odd} {
		var b bytes.Buffer
		if err := Write(&b, as, "List", rows); err != nil {
			t.Fatal(err)
		}
		sheet, err := ReadSheet(&b, "")
		if err != nil {
			t.Fatal(as, err)
		}
		if n := len(sheet.Rows[1].Cells[3]); n > MaxCellText || n <= roster.MaxValue {
			t.Errorf("%v: %d bytes are kept", as, n)
		}
		r := roster.Read(sheet, roster.Options{})
		if len(r.Students) != 1 || r.Students[0].Family != "Marsh" || len(r.Findings) != 1 ||
			r.Findings[0].Code != "value-too-long" || r.Findings[0].Row != 2 {
			t.Errorf("%v: %+v %+v", as, r.Students, r.Findings)
		}
	}
}
