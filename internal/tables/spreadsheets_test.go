package tables

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"reflect"
	"runtime"
	"slices"
	"strings"
	"testing"

	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/japanese"
	utf16 "golang.org/x/text/encoding/unicode"

	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/officetest"
)

// office has LibreOffice, headless, bring a file into another format.
func office(t *testing.T, file, filter string) []byte {
	t.Helper()
	in := ""
	if strings.HasSuffix(file, ".csv") {
		in = "CSV:44,34,76,1,1/2/2/2/3/2/4/2/5/2"
	}
	return officetest.Convert(t, in, filter, file)[0]
}

// awkward is a list with whatever cells can hold.
var awkward = [][]string{
	{"No", "Family name", "Given name", "E-mail", "Note"},
	{"07041", "Dube", "Nokuthula", "n.dube@kestrelquay.example", "two\nlines"},
	{"07042", "O’Brien-Núñez", "  Mario", "m@kestrelquay.example", "a, \"quoted\"; word"},
	{"07043", "李", "小龍", "li@kestrelquay.example", "1/2"},
	{},
	{"7044", "Țepeș", "Ioana", "i@kestrelquay.example", "3.50"},
	{"", "", "Zoë", "", "two  spaces"},
}

func commas(rows [][]string) []byte {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	for _, r := range rows {
		if len(r) == 0 {
			r = []string{"", "", "", "", ""}
		}
		w.Write(r)
	}
	w.Flush()
	return b.Bytes()
}

// sheetCells are a sheet's cells without blank ends.
func sheetCells(t *testing.T, b []byte, sheet string) [][]string {
	t.Helper()
	tab, err := ReadSheet(bytes.NewReader(b), sheet)
	if err != nil {
		t.Fatal(err)
	}
	out := [][]string{}
	for i, r := range tab.Rows {
		if r.Line != i+1 {
			t.Errorf("row %d stands at line %d", i, r.Line)
		}
		out = append(out, append([]string{}, trimmed(r.Cells)...))
	}
	return out
}

func blankEnds(rows [][]string) [][]string {
	out := [][]string{}
	for _, r := range rows {
		out = append(out, append([]string{}, trimmed(r)...))
	}
	return out
}

// Spreadsheets that LibreOffice makes of delimited text have the cells of that
// text, and what we write opens there and comes back with the same cells.
func TestAgainstLibreOffice(t *testing.T) {
	list := officetest.File(t, "list.csv", commas(awkward))
	for _, ending := range []string{"xlsx", "ods"} {
		if got := sheetCells(t, office(t, list, ending), ""); !reflect.DeepEqual(got, blankEnds(awkward)) {
			t.Errorf("%s by LibreOffice: %q", ending, got)
		}
	}
	rows := append(slices.Clone(awkward), []string{"=1+1", "+49", "-3", "@here", "=HYPERLINK(\"x\")"})
	for _, as := range []Writing{XLSX, ODS} {
		var b bytes.Buffer
		if err := Write(&b, as, "Tide Watch 7B: all?", rows); err != nil {
			t.Fatal(err)
		}
		if got := sheetCells(t, b.Bytes(), "Tide Watch 7B  all"); !reflect.DeepEqual(got, blankEnds(rows)) {
			t.Errorf("%s of our own: %q", as, got)
		}
		back := office(t, officetest.File(t, "ours."+string(as), b.Bytes()), "csv:Text - txt - csv (StarCalc):44,34,76,1,,0,false,true,false")
		if got := sheetCells(t, back, ""); !reflect.DeepEqual(got, blankEnds(rows)) {
			t.Errorf("our %s comes back from LibreOffice as %q", as, got)
		}
	}
}

// What a spreadsheet would take for a formula is text in every export
// (OWASP, CSV injection), and comes back into our own reader.
func TestExportsRunNothing(t *testing.T) {
	rows := [][]string{{"Name", "Note"}, {"=cmd|' /C calc'!A0", "+1"}, {"-1", "@SUM(A1)"}, {"\t=1", "a=b"}}
	var b bytes.Buffer
	if err := Write(&b, CSV, "", rows); err != nil {
		t.Fatal(err)
	}
	rec, err := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(b.Bytes(), []byte("\ufeff")))).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	for i, row := range rec {
		for j, c := range row {
			if strings.ContainsAny(c[:1], "=+-@\t\r") || strings.TrimPrefix(c, "'") != rows[i][j] {
				t.Errorf("cell %q became %q", rows[i][j], c)
			}
		}
	}
	b.Reset()
	if err := Write(&b, XLSX, "x", rows); err != nil {
		t.Fatal(err)
	}
	f, err := excelize.OpenReader(&b)
	if err != nil {
		t.Fatal(err)
	}
	for _, cell := range []string{"A2", "B2", "A3", "B3"} {
		if formula, err := f.GetCellFormula("x", cell); formula != "" || err != nil {
			t.Errorf("%s holds the formula %q, %v", cell, formula, err)
		}
	}
}

// A workbook as people leave them: several sheets, hidden rows, columns and
// sheets, merged headings, dates and numbers in their form.
func TestWorkbook(t *testing.T) {
	f := excelize.NewFile()
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	set := func(sheet string, cells map[string]any) {
		for at, v := range cells {
			must(f.SetCellValue(sheet, at, v))
		}
	}
	must(f.SetSheetName("Sheet1", "Old"))
	set("Old", map[string]any{"A1": "Surname", "A2": "Gone"})
	must(f.SetSheetVisible("Old", true))
	_, err := f.NewSheet("7B")
	must(err)
	set("7B", map[string]any{"A1": "Class", "B1": "Name", "B2": "Surname", "C2": "First", "D2": "Born", "E2": "Share",
		"F2": "Secret", "A3": "7B", "B3": "Dube", "C3": "N", "D3": 45000, "E3": 0.5, "F3": "x", "B4": "Eze", "C4": "K", "B5": "Fay"})
	must(f.MergeCell("7B", "A1", "A2"))
	must(f.MergeCell("7B", "B1", "C1"))
	must(f.MergeCell("7B", "A3", "A5"))
	date, err := f.NewStyle(&excelize.Style{CustomNumFmt: ptr("yyyy-mm-dd")})
	must(err)
	must(f.SetCellStyle("7B", "D3", "D3", date))
	percent, err := f.NewStyle(&excelize.Style{NumFmt: 9})
	must(err)
	must(f.SetCellStyle("7B", "E3", "E3", percent))
	must(f.SetRowVisible("7B", 4, false))
	must(f.SetColVisible("7B", "F", false))
	f.SetActiveSheet(1)
	must(f.SetSheetVisible("Old", false))
	var b bytes.Buffer
	must(f.Write(&b))

	book, err := Read(bytes.NewReader(b.Bytes()))
	must(err)
	if len(book.Sheets) != 2 || !book.Sheets[0].Hidden || book.Format != "xlsx" {
		t.Errorf("%+v", book)
	}
	s, err := book.Sheet("")
	must(err)
	want := [][]string{{"Class", "Name"}, {"Class", "Surname", "First", "Born", "Share", "Secret"},
		{"7B", "Dube", "N", "2023-03-15", "50%", "x"}, {"7B", "Eze", "K"}, {"7B", "Fay"}}
	if s.Name != "7B" || !reflect.DeepEqual(cells(s.Table), want) {
		t.Errorf("sheet %s: %q", s.Name, cells(s.Table))
	}
	if !s.Table.Rows[3].Hidden || s.Table.Rows[2].Hidden || !slices.Equal(s.Table.HiddenColumns, []int{5}) {
		t.Errorf("hidden: %+v", s.Table)
	}
	if r := roster.Read(s.Table, roster.Options{}); r.HeadingRow != 2 || r.Counts.Hidden != 1 || !r.Columns[5].Hidden {
		t.Errorf("read as %+v", r)
	}
	if old, err := book.Sheet("old"); err != nil || cells(old.Table)[1][0] != "Gone" {
		t.Errorf("the hidden sheet by its name: %+v, %v", old, err)
	}
	if second, err := book.Sheet("2"); err != nil || second.Name != "7B" {
		t.Errorf("the second sheet: %+v, %v", second, err)
	}
	var te *Error
	if _, err := book.Sheet("8A"); !errors.As(err, &te) || te.Code != "no-such-sheet" || !strings.Contains(te.Error(), "Old, 7B") {
		t.Errorf("no such sheet: %v", err)
	}
	// The same through OpenDocument, which has all of this in its own way.
	path := officetest.File(t, "book.xlsx", b.Bytes())
	asODS, err := Read(bytes.NewReader(office(t, path, "ods")))
	must(err)
	o, err := asODS.Sheet("")
	must(err)
	if o.Name != "7B" || !asODS.Sheets[0].Hidden || !reflect.DeepEqual(blankEnds(cells(o.Table)), want) ||
		!o.Table.Rows[3].Hidden || !slices.Equal(o.Table.HiddenColumns, []int{5}) {
		t.Errorf("as OpenDocument: %+v", asODS)
	}
}

func ptr[T any](v T) *T { return &v }

func zipped(t *testing.T, members map[string]string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range members {
		w, err := z.Create(name)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := w.Write([]byte(text)); err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// The tables of the OneRoster CSV binding, 1.1 (role among the users) and 1.2
// (preferred name, more columns); column names from memory.
func TestOpenRoster(t *testing.T) {
	b := zipped(t, map[string]string{
		"manifest.csv":    "propertyName,value\nmanifest.version,1.0\noneroster.version,1.2\n",
		"orgs.csv":        "sourcedId,status,dateLastModified,name,type,identifier,parentSourcedId\no1,active,2026-08-01,Kestrel Quay School,school,,\n",
		"classes.csv":     "sourcedId,status,dateLastModified,title,grades,courseSourcedId,classCode,classType,location,schoolSourcedId,termSourcedIds,subjects,subjectCodes,periods\nc1,active,,Tide Watch 7B,07,k1,TW7B,scheduled,,o1,t1,,,3\nc2,active,,Boat Workshop 8A,08,k2,BW8A,scheduled,,o1,t1,,,\nc3,tobedeleted,,Old,08,k2,O,scheduled,,o1,t1,,,\n",
		"users.csv":       "sourcedId,status,dateLastModified,enabledUser,orgSourcedIds,role,username,userIds,givenName,familyName,middleName,identifier,email,preferredGivenName\nu1,active,,true,o1,student,n.dube,,Nokuthula,Dube,,70411,n.dube@kestrelquay.example,Noki\nu2,active,,true,o1,student,k@kestrelquay.example,,Kelechi,Eze,,,,\nu3,active,,true,o1,teacher,,,Ebele,Oduya,,,e.oduya@kestrelquay.example,\nu4,tobedeleted,,true,o1,student,,,Gone,Gone,,,g@kestrelquay.example,\n",
		"enrollments.csv": "sourcedId,status,dateLastModified,classSourcedId,schoolSourcedId,userSourcedId,role,primary,beginDate,endDate\ne1,active,,c1,o1,u1,student,,,\ne2,active,,c2,o1,u1,student,,,\ne3,active,,c1,o1,u2,student,,,\ne4,active,,c1,o1,u3,teacher,true,,\ne5,active,,c1,o1,u4,student,,,\ne6,tobedeleted,,c2,o1,u2,student,,,\ne7,active,,c3,o1,u1,student,,,\n",
	})
	book, err := Read(bytes.NewReader(b))
	if err != nil {
		t.Fatal(err)
	}
	want := [][]string{openRosterHead,
		{"70411", "Dube", "Nokuthula", "Noki", "n.dube@kestrelquay.example", "Tide Watch 7B", "3", ""},
		{"70411", "Dube", "Nokuthula", "Noki", "n.dube@kestrelquay.example", "Boat Workshop 8A", "", ""},
		{"u2", "Eze", "Kelechi", "", "k@kestrelquay.example", "Tide Watch 7B", "3", ""},
	}
	if got := cells(book.Sheets[0].Table); !reflect.DeepEqual(got, want) {
		t.Errorf("%q", got)
	}
	if len(book.Teachers) != 1 || book.Teachers[0].Class != "Tide Watch 7B" || book.Teachers[0].Address != "e.oduya@kestrelquay.example" {
		t.Errorf("teachers %+v", book.Teachers)
	}
	r := roster.Read(book.Sheets[0].Table, roster.Options{})
	if r.Counts.Students != 3 || len(r.Findings) != 0 || r.Students[0].Preferred != "Noki" {
		t.Errorf("read as %+v", r)
	}
}

// A value that a spreadsheet would cut is refused there, with a word, and written
// whole as text.
func TestLongCells(t *testing.T) {
	for long, want := range map[string]string{strings.Repeat("é", MaxSheetCell): "",
		strings.Repeat("é", MaxSheetCell+1): "cell-too-long-to-write", strings.Repeat("𝄞", MaxSheetCell/2+1): "cell-too-long-to-write"} {
		for _, as := range []Writing{XLSX, ODS, CSV} {
			var b bytes.Buffer
			err := Write(&b, as, "List", [][]string{{"Name"}, {long}})
			var te *Error
			if refused := errors.As(err, &te); refused != (want != "" && as != CSV) || refused && (te.Code != want || te.Line != 2) {
				t.Errorf("%d bytes as %s: %v", len(long), as, err)
			}
			if err != nil {
				continue
			}
			book, err := Read(&b)
			if err != nil || book.Sheets[0].Table.Rows[1].Cells[0] != long {
				t.Errorf("%d bytes came back otherwise as %s, %v", len(long), as, err)
			}
		}
	}
}

func TestPackedRefused(t *testing.T) {
	ok := officetest.File(t, "l.csv", commas(awkward))
	whole := office(t, ok, "ods")
	bomb := zipped(t, map[string]string{"xl/workbook.xml": strings.Repeat(" ", 1<<20),
		"xl/worksheets/sheet1.xml": strings.Repeat("<row/>", maxUnpacked/6)})
	for what, c := range map[string]struct {
		b    []byte
		code string
	}{
		"another archive":        {zipped(t, map[string]string{"readme.txt": "hello"}), "archive-unknown"},
		"half a spreadsheet":     {whole[:len(whole)/2], "archive-unknown"},
		"not a workbook inside":  {zipped(t, map[string]string{"xl/workbook.xml": "no"}), "damaged"},
		"not a document inside":  {zipped(t, map[string]string{"mimetype": odsType, "content.xml": "<a><b>"}), "damaged"},
		"an archive without all": {zipped(t, map[string]string{"enrollments.csv": "a\n", "users.csv": "a\n"}), "archive-lacks"},
		"an old workbook":        {append(slices.Clone(oldWorkbook), make([]byte, 600)...), "old-spreadsheet"},
		"one that swells":        {bomb, "swells"},
		"a blank sheet": {zipped(t,
			map[string]string{"mimetype": odsType,
				"content.xml": `<d xmlns:table="t"><table:table table:name="a"><table:table-row/></table:table></d>`}), "empty"},
		"a row without end": {zipped(t,
			map[string]string{"mimetype": odsType,
				"content.xml": `<d xmlns:table="t" xmlns:text="x"><table:table table:name="a"><table:table-row table:number-rows-repeated="1048576"><table:table-cell><text:p>a</text:p></table:table-cell></table:table-row></table:table></d>`}), "too-many-rows"},
	} {
		_, err := ReadSheet(bytes.NewReader(c.b), "")
		var te *Error
		if !errors.As(err, &te) || te.Code != c.code || strings.ContainsAny(te.Error(), "{}") {
			t.Errorf("%s: %v, want %s", what, err, c.code)
		}
	}
}

// Names of many languages in the encodings that hold them, without a mark.
func TestOlderEncodings(t *testing.T) {
	west := "Nom;Prénom\nLefèvre;Zoë\nMüller;Jörg\nGonçalves;João\nÅberg;Søren\nNúñez;Íñigo\n"
	for _, c := range []struct {
		what string
		enc  encoding.Encoding
		text string
	}{
		{"Windows-1252", charmap.Windows1252, west + "O’Brien;Šárka\n"},
		{"ISO 8859-1", charmap.ISO8859_1, west},
		{"ISO 8859-15", charmap.ISO8859_15, "Nom;Prénom\nBœuf;Šimon\nLefèvre;Œdipe\nŽižka;Élodie\n"},
		{"Windows-1250, Polish", charmap.Windows1250, "Nazwisko;Imię\nŁukaszewicz;Żaneta\nŚwiątek;Grażyna\nDąbrowski;Jędrzej\n"},
		{"Windows-1250, Czech", charmap.Windows1250, "Příjmení;Jméno\nDvořák;Jiří\nNěmcová;Růžena\nŠťastný;Ondřej\n"},
		{"Windows-1250, Hungarian", charmap.Windows1250,
			"Vezetéknév;Utónév\nErdős;Gergő\nSzűcs;Ágnes\nTörök;Áron\nKőváry;Bálint\n"},
		{"ISO 8859-2", charmap.ISO8859_2, "Nazwisko;Imię\nŚwiątek;Grażyna\nSikorąś;Zośka\nŹrebak;Michał\n"},
		{"MacRoman", charmap.Macintosh, "Nom;Prénom\nLefèvre;Zoë\nMüller;Jörg\nGonçalves;João\nNúñez;José\n"},
		{"CP850", charmap.CodePage850, "Nachname;Vorname\nMüller;Jörg\nLefèvre;Renée\nÅberg;Søren\nGonçalves;João\n"},
		{"CP850, capitals", charmap.CodePage850, "Nachname;Vorname\nMÜLLER;JÖRG\nSCHÄFER;ÄNNE\n"},
		{"Windows-1251", charmap.Windows1251, "Фамилия;Имя\nДубровский;Иван\nЩукина;Юлия\n"},
		{"Windows-1251, Ukrainian", charmap.Windows1251, "Прізвище;Ім’я\nЇжакевич;Єва\nКовальчук;Іван\n"},
		{"Shift-JIS", japanese.ShiftJIS,
			"学籍番号,姓,名,メールアドレス\n0101,中村,そら,a@kq.example\n0102,ソーン,表子,b@kq.example\n"},
		{"an apostrophe", charmap.Windows1252, "Surname;First\nO’Brien;Nia\nD’Angelo;Bo\n’t Hooft;Jan\n"},
		{"a dash, and marks about a name", charmap.Windows1252, "Surname;First\nDube;Anna–Marie\nEze;Kelechi “Kel”\n"},
		{"UTF-16 without a mark, Japanese", utf16.UTF16(utf16.LittleEndian, utf16.IgnoreBOM),
			"姓,名\n中村　一,そら\n鈴木　二,りく\n"},
		{"UTF-16 without a mark", utf16.UTF16(utf16.LittleEndian, utf16.IgnoreBOM), "Surname,First\n李,小龍\nДубровский,Иван\n"},
		{"UTF-16, big end first", utf16.UTF16(utf16.BigEndian, utf16.UseBOM), "Surname,First\n李,小龍\n"},
		{"UTF-16, big end first, without a mark", utf16.UTF16(utf16.BigEndian, utf16.IgnoreBOM), "Surname,First\nDube,Nokuthula\n"},
	} {
		in, err := c.enc.NewEncoder().Bytes([]byte(c.text))
		if err != nil {
			t.Fatal(c.what, err)
		}
		got, _, err := decode(in, Hint{})
		if err != nil || string(got) != c.text {
			t.Errorf("%s: %q, %v", c.what, got, err)
		}
	}
}

// Of random lists in an older encoding each is read right, or the right reading
// is among those told, with a word of the list as example, and asking for it
// gives it.
func TestRightLettersCanBeHad(t *testing.T) {
	random := rand.New(rand.NewPCG(6, 1))
	kinds := []struct {
		enc   encoding.Encoding
		names []string
	}{
		{charmap.Windows1252, strings.Fields(
			"Lefèvre Zoë Müller Jörg Gonçalves João Åberg Søren Núñez Íñigo Björk Çelik Weiß Fañanás Þóra Kõiv Dupré")},
		{charmap.Windows1250, strings.Fields(
			"Łukaszewicz Żaneta Świątek Grażyna Dąbrowski Jędrzej Dvořák Růžena Erdős Gergő Bălan Ţîrcă Šimić Đurđa Ľubica")},
		{charmap.Macintosh, strings.Fields("Lefèvre Zoë Müller Jörg Gonçalves João Núñez Íñigo Søren Åberg Dupré Anaïs")},
		{charmap.CodePage850, strings.Fields(
			"Lefèvre Zoë Müller Jörg Gonçalves João Núñez Íñigo Søren Åberg Dupré Anaïs Weiß MÜLLER")},
		{charmap.Windows1251, strings.Fields(
			"Дубровский Иван Щукина Юлия Ёлкин Їжакевич Єва Іваненко Ђорђевић Љубица")},
		{japanese.ShiftJIS, strings.Fields("中村 そら 鈴木 りく 佐藤 ソーン 表子 タケル 能登")},
	}
	wrong := 0
	for round := range 500 {
		k := kinds[random.IntN(len(kinds))]
		var b strings.Builder
		b.WriteString("Family;Given\n")
		for range 1 + random.IntN(6) {
			fmt.Fprintf(&b, "%s;%s\n", k.names[random.IntN(len(k.names))], k.names[random.IntN(len(k.names))])
		}
		in, err := k.enc.NewEncoder().Bytes([]byte(b.String()))
		if err != nil {
			t.Fatal(err)
		}
		want, err := k.enc.NewDecoder().String(string(in))
		if err != nil {
			t.Fatal(err)
		}
		got, readings, err := decode(in, Hint{})
		if err != nil {
			t.Fatal(err)
		}
		if string(got) == want {
			continue
		}
		wrong++
		right := slices.IndexFunc(readings, func(r Reading) bool {
			again, _, err := decode(in, Hint{Encoding: r.Encoding})
			return err == nil && string(again) == want
		})
		if right < 1 || !strings.Contains(want, readings[right].Example) || !strings.Contains(string(got), readings[0].Example) {
			t.Errorf("round %d: %q is read as %q, with the readings %v", round, want, got, readings)
		}
	}
	if wrong > 25 {
		t.Errorf("%d of 500 lists are read wrong at first", wrong)
	}
	t.Logf("%d of 500 are read wrong at first", wrong)
}

// The names that are known decide: of a list whose words look like words in several ways, that
// way is taken in which they are somebody's.
func TestKnownNames(t *testing.T) {
	in, err := charmap.Windows1250.NewEncoder().Bytes([]byte("Family;Given\nBălan;Ana\n"))
	if err != nil {
		t.Fatal(err)
	}
	for known, want := range map[string]string{"": "Bãlan", "Bălan": "Bălan"} {
		got, readings, err := decode(in, Hint{Known: func(word string) bool { return word == known }})
		if err != nil || !strings.Contains(string(got), want) || len(readings) < 2 || readings[0].Example != want {
			t.Errorf("with %q known: %q, %v, %v", known, got, readings, err)
		}
		if got, _, _ := decode(in, Hint{Encoding: readings[1].Encoding, Known: func(word string) bool {
			return word == known
		}}); !strings.Contains(string(got), readings[1].Example) {
			t.Errorf("asked for %v it is %q", readings[1], got)
		}
	}
}

func TestSepLineAndPipe(t *testing.T) {
	want := [][]string{{"Surname", "First; Second"}, {"Dube", "N, K"}}
	for what, in := range map[string]string{
		"sep=": "sep=,\r\nSurname,First; Second\r\nDube,\"N, K\"\r\n", "quoted sep=": "\"sep=|\"\nSurname|First; Second\nDube|N, K\n",
		"pipe": "Surname|First; Second\nDube|N, K\n", "tab named": "SEP=\\t\nSurname\tFirst; Second\nDube\tN, K\n",
	} {
		if got := sheetCells(t, []byte(in), ""); !reflect.DeepEqual(got, want) {
			t.Errorf("%s: %q", what, got)
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte("sep=;\na;b"))
	f.Add([]byte("PK\x03\x04"))
	f.Add(written(f, XLSX))
	f.Add(written(f, ODS))
	f.Fuzz(orderly)
}

// orderly checks what holds of every book, whatever was read.
func orderly(t *testing.T, b []byte) {
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	book, err := Read(bytes.NewReader(b))
	runtime.ReadMemStats(&after)
	// All that was ever asked for, which is more than was there at once.
	if took := after.TotalAlloc - before.TotalAlloc; took > 2<<30 {
		t.Errorf("%d bytes asked for %d MB", len(b), took>>20)
	}
	cells, text := 0, 0
	for _, s := range book.Sheets {
		for _, r := range s.Table.Rows {
			cells += len(r.Cells)
			for _, c := range r.Cells {
				text += len(c)
			}
		}
	}
	if cells > MaxCells || text > MaxText {
		t.Errorf("%d cells with %d bytes", cells, text)
	}
	var te *Error
	if err != nil && !errors.As(err, &te) {
		t.Fatalf("%v is no *Error", err)
	}
	for _, s := range book.Sheets {
		for i, r := range s.Table.Rows {
			if r.Line != i+1 || len(r.Cells) > MaxColumns {
				t.Fatalf("row %d of %q is at line %d with %d cells", i, s.Name, r.Line, len(r.Cells))
			}
		}
	}
}

// repacked is a packed file with one member in place of another.
func repacked(t testing.TB, b []byte, member string, text []byte) []byte {
	t.Helper()
	r, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, f := range r.File {
		w, err := z.Create(f.Name)
		if err != nil {
			t.Fatal(err)
		}
		if f.Name == member {
			if _, err := w.Write(text); err != nil {
				t.Fatal(err)
			}
			continue
		}
		in, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		if _, err := io.Copy(w, in); err != nil {
			t.Fatal(err)
		}
		in.Close()
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

func written(t testing.TB, as Writing) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := Write(&b, as, "x", awkward); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func FuzzXLSX(f *testing.F) {
	book := written(f, XLSX)
	f.Add([]byte(`<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData><row r="1" hidden="1"><c r="A1" t="inlineStr"><is><t>a</t></is></c><c r="C1"><v>4.5</v></c></row></sheetData><mergeCells count="1"><mergeCell ref="A1:B3"/></mergeCells></worksheet>`))
	f.Add([]byte(`<worksheet><sheetData><row r="1048576"><c r="XFD1048576" t="s"><v>99</v></c></row></sheetData></worksheet>`))
	f.Fuzz(func(t *testing.T, sheet []byte) { orderly(t, repacked(t, book, "xl/worksheets/sheet1.xml", sheet)) })
}

func FuzzODS(f *testing.F) {
	book := written(f, ODS)
	f.Add([]byte(`<d xmlns:table="t" xmlns:text="x"><table:table table:name="a"><table:table-column table:visibility="collapse" table:number-columns-repeated="9"/><table:table-row table:number-rows-repeated="3"><table:table-cell table:number-columns-repeated="2" table:number-rows-spanned="4"><text:p>a<text:s text:c="3"/>b</text:p></table:table-cell><table:covered-table-cell/></table:table-row></table:table></d>`))
	f.Fuzz(func(t *testing.T, content []byte) { orderly(t, repacked(t, book, "content.xml", content)) })
}

func FuzzOpenRoster(f *testing.F) {
	f.Add("sourcedId,title\nc1,7B\n", "sourcedId,familyName\nu1,Dube\n", "classSourcedId,userSourcedId,role\nc1,u1,student\n")
	f.Add("\xff\xfea\x00", "\"", "a\n\n")
	f.Fuzz(func(t *testing.T, classes, users, enrolments string) {
		orderly(t, zipped(t, map[string]string{"classes.csv": classes, "users.csv": users, "enrollments.csv": enrolments}))
	})
}
