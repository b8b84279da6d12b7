package tables

import (
	"archive/zip"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"
)

// What reading any file may cost.
const (
	mostMemory = 600 << 20
	mostTime   = 20 * time.Second // of the processors
)

const readInChild = "JOLLY_READ_IN_CHILD"

func TestMain(m *testing.M) {
	if path := os.Getenv(readInChild); path != "" {
		b, err := os.ReadFile(path)
		if err != nil {
			panic(err)
		}
		// The machine may be busy with other tests: it is not the wall clock that is measured.
		ctx, cancel := context.WithTimeout(context.Background(), 10*ReadTime)
		defer cancel()
		book, err := read(ctx, b, Hint{})
		var te *Error
		switch {
		case errors.As(err, &te):
			fmt.Print(te.Code)
		case err != nil:
			fmt.Print(err)
		default:
			fmt.Print("read ", len(book.Sheets[0].Table.Rows))
		}
		os.Exit(0)
	}
	os.Exit(m.Run())
}

// costs reads a file in a program of its own: what came of it, and that it took
// no more memory and time than any file may.
func costs(t *testing.T, b func(io.Writer)) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "list")
	f, err := os.Create(path)
	if err != nil {
		t.Fatal(err)
	}
	b(f)
	if err := f.Close(); err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command(os.Args[0])
	cmd.Env = append(os.Environ(), readInChild+"="+path)
	out, err := cmd.Output()
	if err != nil {
		t.Errorf("%v: %s", err, out)
	}
	took := cmd.ProcessState.UserTime() + cmd.ProcessState.SystemTime()
	memory := cmd.ProcessState.SysUsage().(*syscall.Rusage).Maxrss << 10
	size, _ := os.Stat(path)
	t.Logf("%s: %d kB took %d MB, %.1f s", out, size.Size()>>10, memory>>20, took.Seconds())
	if memory > mostMemory || took > mostTime {
		t.Errorf("%d kB took %d MB and %.1f s", size.Size()>>10, memory>>20, took.Seconds())
	}
	return string(out)
}

type member struct {
	name  string
	parts []part
}

// A part is a text so many times.
type part struct {
	text  string
	times int
}

func text(name string, parts ...any) member {
	m := member{name: name}
	for _, p := range parts {
		switch p := p.(type) {
		case string:
			m.parts = append(m.parts, part{p, 1})
		case part:
			m.parts = append(m.parts, p)
		}
	}
	return m
}

func archive(members ...member) func(io.Writer) {
	return func(to io.Writer) {
		z := zip.NewWriter(to)
		for _, m := range members {
			w, err := z.Create(m.name)
			if err != nil {
				panic(err)
			}
			for _, p := range m.parts {
				write(w, p)
			}
		}
		if err := z.Close(); err != nil {
			panic(err)
		}
	}
}

func write(w io.Writer, p part) {
	many := min(p.times, max(1, 1<<16/max(1, len(p.text))))
	block := []byte(strings.Repeat(p.text, many))
	for left := p.times; left > 0; left -= many {
		if left < many {
			block = block[:left*len(p.text)]
		}
		if _, err := w.Write(block); err != nil {
			panic(err)
		}
	}
}

// bookOf is a workbook with one sheet and shared texts.
func bookOf(shared, sheet member, more ...member) func(io.Writer) {
	return bookAt("worksheets/sheet1.xml", shared, sheet, more...)
}

// bookAt is one whose sheet is said to be somewhere.
func bookAt(at string, shared, sheet member, more ...member) func(io.Writer) {
	return archive(append([]member{
		text("[Content_Types].xml", `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/></Types>`),
		text("_rels/.rels", `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>`),
		text("xl/workbook.xml", `<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="A" sheetId="1" r:id="rId1"/></sheets></workbook>`),
		text("xl/_rels/workbook.xml.rels",
			`<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="`+at+`"/><Relationship Id="rId2" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/sharedStrings" Target="sharedStrings.xml"/></Relationships>`),
		shared, sheet}, more...)...)
}

func sharedOf(parts ...any) member {
	return text("xl/sharedStrings.xml",
		append(append([]any{`<sst xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">`}, parts...), `</sst>`)...)
}

func sheetWith(parts ...any) member {
	return text("xl/worksheets/sheet1.xml",
		append(append([]any{`<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>`},
			parts...), `</worksheet>`)...)
}

func odsWith(parts ...any) func(io.Writer) {
	content := append(append([]any{`<d xmlns:table="t" xmlns:text="x"><table:table table:name="a">`}, parts...), `</table:table></d>`)
	return archive(text("mimetype", odsType), text("content.xml", content...))
}

// tenth is what is read in every check of what is honest and costs seconds; with FULL set, as in
// make soak, it is all.
func tenth(n int) int {
	if os.Getenv("FULL") != "" {
		return n
	}
	return n / 10
}

// Small files that ask for much, in every format: each is refused for what it
// is, with bounded memory and time.
func TestCostOfReading(t *testing.T) {
	long := strings.Repeat("a", 100_000)
	honest := [][]string{{"No", "Surname", "First", "Email", "Class", "Period", "Level", "Team", "Note", "House"}}
	for i := range tenth(100_000) {
		honest = append(honest, []string{fmt.Sprint(70000 + i), fmt.Sprintf("Family%d", i), fmt.Sprintf("Given%d", i),
			fmt.Sprintf("s%d@kestrelquay.example", i), "Tide Watch 7B", "3", "A", "Gull", "", "North"})
	}
	list := func(as Writing) func(io.Writer) {
		return func(to io.Writer) {
			if err := Write(to, as, "List", honest); err != nil {
				panic(err)
			}
		}
	}
	for _, c := range []struct {
		what string
		file func(io.Writer)
		want string
	}{
		{"ODS: cells and rows that repeat",
			odsWith(`<table:table-row table:number-rows-repeated="200000"><table:table-cell table:number-columns-repeated="900"><text:p>a long word</text:p></table:table-cell></table:table-row>`), "too-many-cells"},
		{"ODS: one long text that repeats",
			odsWith(`<table:table-row table:number-rows-repeated="200000"><table:table-cell><text:p>` + long +
				`</text:p></table:table-cell></table:table-row>`), "too-much-text"},
		{"ODS: spaces without end", odsWith(`<table:table-row><table:table-cell><text:p>`,
			part{`<text:s text:c="1000"/>`, tenth(4_000_000)}, `</text:p></table:table-cell></table:table-row>`), "read 1"},
		{"ODS: spaces in many cells", odsWith(`<table:table-row>`,
			part{`<table:table-cell><text:p>` + strings.Repeat(`<text:s text:c="1000"/>`, 100) +
				`</text:p></table:table-cell>`, 1000}, `</table:table-row>`), "too-much-text"},
		{"ODS: merged over all rows", odsWith(part{`<table:table-row>` +
			strings.Repeat(`<table:table-cell table:number-rows-spanned="250000"><text:p>a</text:p></table:table-cell>`, 50) +
			`</table:table-row>`, 6_000}), "too-many-cells"},
		{"ODS: elements in elements", odsWith(part{`<a>`, 40_000_000}), "damaged"},
		{"ODS: a tag without end", odsWith(`<a `, part{`a="" `, 30_000_000}), "damaged"},
		{"ODS: a text without end", odsWith(`<table:table-row><table:table-cell><text:p>`, part{long, 1_900}), "cell-too-long"},
		{"ODS: blank rows", odsWith(part{`<table:table-row table:number-rows-repeated="2000000000"/>`, 1000},
			`<table:table-row><table:table-cell><text:p>a</text:p></table:table-cell></table:table-row>`), "too-many-rows"},
		{"ODS: blank cells", odsWith(`<table:table-row>`,
			part{`<table:table-cell table:number-columns-repeated="9000000000000000000"/>`, 1000},
			`<table:table-cell><text:p>a</text:p></table:table-cell></table:table-row>`), "too-many-columns"},
		{"ODS: nothing, at length", odsWith(part{`<table:table-row/>`, tenth(3_000_000)}), "read 0"},
		{"XLSX: one long shared text",
			bookOf(sharedOf(`<si><t>`+long+`</t></si>`),
				sheetWith(part{`<row>` + strings.Repeat(`<c t="s"><v>0</v></c>`, 1000) + `</row>`, 1000}, `</sheetData>`)), "too-much-text"},
		{"XLSX: a kind in disguise", bookOf(sharedOf(`<si><t>`+long+`</t></si>`),
			sheetWith(part{`<row>` + strings.Repeat(`<c t="&#115;"><v>0</v></c>`, 1000) + `</row>`, 1000}, `</sheetData>`)), "damaged"},
		{"XLSX: a number in disguise",
			bookOf(sharedOf(`<si><t>`+long+`</t></si>`),
				sheetWith(part{`<row>` + strings.Repeat(`<c t="s"><v>&#48;</v></c>`, 1000) + `</row>`, 1000}, `</sheetData>`)), "too-much-text"},
		{"XLSX: cells far to the right",
			bookOf(sharedOf(), sheetWith(part{`<row><c r="ALL1"><v>1</v></c></row>`, 200_000}, `</sheetData>`)), "too-many-cells"},
		{"XLSX: cells beyond", bookOf(sharedOf(),
			sheetWith(part{`<row><c r="XFD1"><v>1</v></c></row>`, 100_000}, `</sheetData>`)), "too-many-cells"},
		{"XLSX: one row without end", bookOf(sharedOf(),
			sheetWith(`<row>`, part{`<c><v>1</v></c>`, 10_000_000}, `</row></sheetData>`)), "too-many-columns"},
		{"XLSX: blanks", bookOf(sharedOf(),
			sheetWith(part{`<row>` + strings.Repeat(`<c s="1"/>`, 100) + `</row>`, tenth(20_000)}, `</sheetData>`)), "read 0"},
		{"XLSX: merged without end", bookOf(sharedOf(),
			sheetWith(`<row r="1"><c r="A1"><v>1</v></c></row><row r="250000"><c r="A250000"><v>1</v></c></row></sheetData><mergeCells>`, part{`<mergeCell ref="A1:A250000"/>`, 5000}, `</mergeCells>`)), "too-many-cells"},
		{"XLSX: rows far down", bookOf(sharedOf(),
			sheetWith(part{`<row r="1048576"><c r="A1048576"><v>1</v></c></row>`, 10}, `</sheetData>`)), "too-many-rows"},
		{"XLSX: shared texts without end", bookOf(sharedOf(part{`<si/>`, 20_000_000}), sheetWith(`</sheetData>`)), "too-many-cells"},
		{"XLSX: shared runs without end",
			bookOf(sharedOf(`<si>`, part{`<r><rPr><b/></rPr><t/></r>`, 6_000_000}, `</si>`), sheetWith(`</sheetData>`)), "too-many-cells"},
		{"XLSX: as many shared texts as may be",
			bookOf(sharedOf(part{`<si><t>Tide Watch</t></si>`, tenth(maxShared)}),
				sheetWith(`<row><c t="s"><v>7</v></c></row></sheetData>`)), "read 1"},
		{"XLSX: styles without end", bookOf(sharedOf(), sheetWith(`</sheetData>`),
			text("xl/styles.xml", `<styleSheet><cellXfs>`, part{`<xf/>`, 10_000_000}, `</cellXfs></styleSheet>`)), "swells"},
		{"XLSX: a sheet elsewhere", bookAt("worksheets/sheet.bin", sharedOf(`<si><t>`+long+`</t></si>`),
			text("xl/worksheets/sheet.bin", `<worksheet><sheetData><row>`, part{`<c t="s"><v>0</v></c>`, 200_000},
				`</row></sheetData></worksheet>`)), "read 0"},
		{"XLSX: a sheet twice", bookOf(sharedOf(`<si><t>`+long+`</t></si>`),
			sheetWith(`<row><c t="s"><v>0</v></c></row></sheetData>`),
			sheetWith(`<row>`, part{`<c t="s"><v>0</v></c>`, 10_000}, `</row></sheetData>`)), "read 1"},
		{"XLSX: letters in disguise", bookOf(sharedOf(),
			text("xl/worksheets/sheet1.xml", `<?xml version="1.0" encoding="utf-16"?><worksheet/>`)), "damaged"},
		{"XLSX: another swelling part",
			bookOf(sharedOf(), sheetWith(`</sheetData>`), text("xl/worksheets/sheet2.xml", part{long, 2_200})), "swells"},
		{"members without end", func(to io.Writer) {
			z := zip.NewWriter(to)
			z.Create("content.xml")
			for i := range 20_000 {
				z.Create(fmt.Sprint(i))
			}
			z.Close()
		}, "archive-unknown"},
		{"commas", func(to io.Writer) { write(to, part{",", MaxBytes}) }, "too-many-cells"},
		{"commas in lines", func(to io.Writer) { write(to, part{strings.Repeat(",", 1100) + "\n", 3000}) }, "too-many-columns"},
		{"lines", func(to io.Writer) { write(to, part{"\n", MaxBytes - 1}); io.WriteString(to, "a") }, "too-many-rows"},
		{"one cell", func(to io.Writer) { write(to, part{"a", MaxBytes}) }, "read 1"},
		{"loose quotes", func(to io.Writer) { write(to, part{"a\"b,\"c\n", MaxBytes / 8}) }, "too-many-cells"},
		{"an older encoding", func(to io.Writer) { write(to, part{"n\xe9e,\xe0\n", MaxBytes / 6}) }, "too-many-cells"},
		{"an open roster of strangers",
			archive(text("classes.csv", "sourcedId\n"),
				text("users.csv", "sourcedId,givenName\n", part{"1,", 1}, part{",", 2_000_000}, "\n",
					part{"2,a\n", tenth(900_000)}), text("enrollments.csv", "userSourcedId\n", part{"1\n", tenth(900_000)})), "read 1"},
		{"an honest list as CSV", list(CSV), fmt.Sprint("read ", len(honest))},
		{"an honest list as XLSX", list(XLSX), fmt.Sprint("read ", len(honest))},
		{"an honest list as ODS", list(ODS), fmt.Sprint("read ", len(honest))},
	} {
		t.Run(c.what, func(t *testing.T) {
			if got := costs(t, c.file); got != c.want {
				t.Errorf("%s, want %s", got, c.want)
			}
		})
	}
}

// A reader of tags cuts anywhere the stream is cut.
func TestScanXML(t *testing.T) {
	const doc = `<?xml version="1.0" encoding='UTF-8'?><!-- a --><x:a b = "1" c='2'><x:b/>text</x:a>`
	for size := 1; size < 20; size++ {
		var got []string
		err := scanXML(&slowly{[]byte(doc), size}, "doc", newBudget(t.Context()), func(tg tag, text []byte) error {
			got = append(got, fmt.Sprintf("%s|%s|%s|%v%v|%s", tg.name, tg.attribute("b"), tg.attribute("c"), tg.closes, tg.empty, text))
			return nil
		})
		if want := "a|1|2|falsefalse|,b|||falsetrue|,a|||truefalse|text"; err != nil || strings.Join(got, ",") != want {
			t.Errorf("%d bytes at once: %q, %v", size, got, err)
		}
	}
}

type slowly struct {
	b    []byte
	size int
}

func (s *slowly) Read(p []byte) (int, error) {
	if len(s.b) == 0 {
		return 0, io.EOF
	}
	n := copy(p, s.b[:min(s.size, len(s.b))])
	s.b = s.b[n:]
	return n, nil
}
