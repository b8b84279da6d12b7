package form

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"runtime"
	"slices"
	"strings"
	"testing"

	"jollysatchel/internal/core/record"
	"jollysatchel/internal/officetest"
)

func known(f record.Field) bool {
	return slices.Contains([]record.Field{record.Given, record.Family, record.Code, record.Extra("Tutor & group")}, f)
}

var values = record.Values{record.Given: "Ewa <i>", record.Family: "Ó Briain & Łuk", record.Code: "6B",
	record.Extra("Tutor & group"): "North"}

func read(t *testing.T, ending string, b []byte) *Form {
	t.Helper()
	f, err := Read(t.Context(), bytes.NewReader(b), int64(len(b)), ending, known)
	if err != nil {
		t.Fatalf("%s: %v", ending, err)
	}
	return f
}

func filled(t *testing.T, f *Form) []byte {
	t.Helper()
	var out bytes.Buffer
	if err := f.Write(&out, values); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// letter has brackets whole, spread over several formattings, beside blanks, in a
// table, in a list, of no column, and twice.
const letter = `<html><body><h1>Reading log of [Class]</h1>
<p>Dear <b>[Given name]</b> [Family<i> na</i>me], of <i>[</i>Tutor &amp; group] <b>and</b> <u>[Given name[1]].</u> Not [Some thing] &lt;here&gt;.</p>
<table border="1"><tr><td>Name</td><td>[Family name], <b>[Given</b> name]</td></tr><tr><td>Book</td><td> </td></tr></table>
<ul><li>[Class]</li><li>plain</li></ul><p>[Class<br>]</p></body></html>`

const sheet = "Name,Points,Sum\n[Given name] [Family name],3,=B2*2\n[Class] [Class],[Some thing],\"[Tutor & group], late\"\n"

// The values are in what LibreOffice reads of files that LibreOffice wrote, and the
// rest of its own text export is what it was.
func TestLibreOffice(t *testing.T) {
	page, table := officetest.File(t, "letter.html", []byte(letter)), officetest.File(t, "sheet.csv", []byte(sheet))
	const csv = "CSV:44,34,76,1"
	for _, c := range []struct{ ending, file, in, write, text string }{
		{".odt", page, "HTML (StarWriter)", "odt:writer8", "txt:Text (encoded):UTF8"},
		{".docx", page, "HTML (StarWriter)", "docx:MS Word 2007 XML", "txt:Text (encoded):UTF8"},
		{".ods", table, csv, "ods:calc8", "csv:Text - txt - csv (StarCalc):44,34,76,1"},
		{".xlsx", table, csv, "xlsx:Calc MS Excel 2007 XML", "csv:Text - txt - csv (StarCalc):44,34,76,1"},
	} {
		before := officetest.Convert(t, c.in, c.write, c.file)[0]
		form := read(t, c.ending, before)
		after := filled(t, form)
		texts := officetest.Convert(t, "", c.text, officetest.File(t, "before"+c.ending, before), officetest.File(t, "after"+c.ending, after))
		want := strings.NewReplacer("[Given name]", "Ewa <i>", "[Family name]", "Ó Briain & Łuk", "[Class]", "6B",
			"[Tutor & group]", "North", "[Given name[1]]", "E").Replace(string(texts[0]))
		if !strings.Contains(string(texts[0]), "[Family name]") || string(texts[1]) != want {
			t.Errorf("%s: of %q\n%q, want\n%q", c.ending, texts[0], texts[1], want)
		}
		if !slices.Equal(form.Missing, []string{"Some thing"}) {
			t.Errorf("%s lacks %q", c.ending, form.Missing)
		}
		sameBut(t, c.ending, before, after)
	}
}

// sameBut wants an archive to be what it was, byte for byte and in its order, but for
// the entries that hold text.
func sameBut(t *testing.T, ending string, before, after []byte) {
	t.Helper()
	a, b := entries(t, before), entries(t, after)
	if len(a) != len(b) {
		t.Fatalf("%s: %d entries, %d before", ending, len(b), len(a))
	}
	changed := 0
	for i, e := range a {
		switch {
		case e == b[i]:
		case e.name != b[i].name || !kinds[ending].holds(e.name):
			t.Errorf("%s: entry %d is %+v, was %+v", ending, i, b[i], e)
		default:
			changed++
		}
	}
	if changed == 0 {
		t.Errorf("%s: nothing changed", ending)
	}
}

type entry struct {
	name, sum string
	method    uint16
}

func entries(t *testing.T, b []byte) (out []entry) {
	t.Helper()
	r, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range r.File {
		raw, err := f.OpenRaw() // as it is packed
		if err != nil {
			t.Fatal(err)
		}
		sum := sha256.New()
		if _, err := io.Copy(sum, raw); err != nil {
			t.Fatal(err)
		}
		out = append(out, entry{f.Name, fmt.Sprintf("%x", sum.Sum(nil)), f.Method})
	}
	return out
}

// packed is an archive with entries of some names, in pairs of name and content.
func packed(t testing.TB, pairs ...string) []byte {
	t.Helper()
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for i := 0; i < len(pairs); i += 2 {
		to, err := w.Create(pairs[i])
		if err == nil {
			_, err = io.WriteString(to, pairs[i+1])
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func TestText(t *testing.T) {
	for ending, c := range map[string][2]string{
		".txt": {"Dear [Given name], [Class] [Nobody]", "Dear Ewa <i>, 6B [Nobody]"},
		".md":  {"# \\[Class\\]\n\n**[Given name]**\n", "# 6B\n\n**Ewa \\<i\\>**\n"},
		".pdf": {"[Class]", ""},
	} {
		f := read(t, ending, []byte(c[0]))
		if ending == ".pdf" {
			if len(f.Asks) > 0 || Can(ending) {
				t.Errorf("a pdf asks for %v", f.Asks)
			}
			continue
		}
		if got := string(filled(t, f)); got != c[1] || len(f.Asks) != 2 {
			t.Errorf("%s: %q, want %q", ending, got, c[1])
		}
	}
}

func TestRuns(t *testing.T) {
	for xml, want := range map[string]string{
		`<p>a [Class]<s/>b</p>`:                                   `<p>a 6B<s/>b</p>`,
		`<p>[Given<s/>name]</p>`:                                  `<p>Ewa &lt;i&gt;</p>`,
		`<p>[Given<span> na</span>me] &amp; <span>x</span></p>`:   `<p>Ewa &lt;i&gt;<span></span> &amp; <span>x</span></p>`,
		`<p>[Cl<tab/>ass] [Cl<note><p>[Class]</p></note>ass]</p>`: `<p>[Cl<tab/>ass] [Cl<note><p>6B</p></note>ass]</p>`,
		`<p>[Cla</p><p>ss]</p>`:                                   `<p>[Cla</p><p>ss]</p>`,
		`<p><![CDATA[[Class] <x>]]></p>`:                          `<p>6B &lt;x&gt;</p>`,
		`<p a="[Class]"><!--[Class]-->[Class]</p>[Class]`:         `<p a="[Class]"><!--[Class]-->6B</p>[Class]`,
	} {
		b := packed(t, "mimetype", "x", "content.xml", "<all>"+xml+"</all>")
		out := filled(t, read(t, ".odt", b))
		r, _ := zip.NewReader(bytes.NewReader(out), int64(len(out)))
		got, err := unpacked(r.File[1], 1<<20)
		if err != nil || string(got) != "<all>"+want+"</all>" {
			t.Errorf("%s\n%s, want\n%s (%v)", xml, got, want, err)
		}
	}
	b := packed(t, "word/document.xml", `<w:p><w:t>a [Cla</w:t></w:r><w:t>ss] b</w:t></w:p>`)
	if _, err := Read(t.Context(), bytes.NewReader(b), int64(len(b)), ".docx", known); !errors.Is(err, ErrUnreadable) {
		t.Errorf("elements that cross: %v", err)
	}
	b = packed(t, "word/document.xml", `<w:p><w:t>a [Cla</w:t><w:t>ss] b</w:t><w:instrText>[Class]</w:instrText></w:p>`)
	out := filled(t, read(t, ".docx", b))
	r, _ := zip.NewReader(bytes.NewReader(out), int64(len(out)))
	want := `<w:p><w:t xml:space="preserve">a 6B</w:t><w:t xml:space="preserve"> b</w:t><w:instrText>[Class]</w:instrText></w:p>`
	if got, err := unpacked(r.File[0], 1<<20); err != nil || string(got) != want {
		t.Errorf("%s, want %s (%v)", got, want, err)
	}
}

// What isn't what its name says, or asks for too much, is told in one way.
func TestUnreadable(t *testing.T) {
	many := strings.Repeat("[Class]", mostParts+1)
	for name, c := range map[string]struct {
		ending string
		b      []byte
	}{
		"no archive":     {".odt", []byte("[Class]")},
		"no XML":         {".odt", packed(t, "content.xml", "<p>[Class]")},
		"another coding": {".odt", packed(t, "content.xml", `<?xml version="1.0" encoding="UTF-16"?><p>[Class]</p>`)},
		"swells":         {".docx", packed(t, "word/document.xml", "<p>"+strings.Repeat(" ", mostText)+"</p>")},
		"twice":          {".odt", packed(t, "content.xml", "<p/>", "content.xml", "<p>[Class]</p>", "content.xml", "<p>[Class]</p>")},
		"too deep":       {".odt", packed(t, "content.xml", strings.Repeat("<p>", mostDeep+1)+strings.Repeat("</p>", mostDeep+1))},
		"many":           {".odt", packed(t, "content.xml", "<p>"+many+"</p>")},
		"not letters":    {".txt", []byte("[Class]\xff")},
		"long":           {".md", []byte(strings.Repeat("[Class]", 200_000))},
	} {
		if _, err := Read(t.Context(), bytes.NewReader(c.b), int64(len(c.b)), c.ending, known); !errors.Is(err, ErrUnreadable) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := Read(t.Context(), bytes.NewReader(nil), MostFile+1, ".odt", known); !errors.Is(err, ErrUnreadable) {
		t.Errorf("a large file: %v", err)
	}
}

// A template of 20 MB is filled for 30 students with less than a fifth of it allocated
// for each.
func TestLarge(t *testing.T) {
	noise := make([]byte, 20<<20)
	r := rand.NewChaCha8([32]byte{1})
	_, _ = r.Read(noise)
	b := packed(t, "Pictures/1.png", string(noise), "content.xml", "<p>[Given name] [Family name]</p>")
	f := read(t, ".odt", b)
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	for range 30 {
		if err := f.Write(io.Discard, values); err != nil {
			t.Fatal(err)
		}
	}
	runtime.ReadMemStats(&after)
	if each := (after.TotalAlloc - before.TotalAlloc) / 30; each > 4<<20 {
		t.Errorf("%d bytes a copy", each)
	}
}
