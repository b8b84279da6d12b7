package tables

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"encoding/xml"
	"fmt"
	"io"
	"strconv"
	"strings"
	"unicode/utf16"

	"github.com/xuri/excelize/v2"
)

// MaxSheetCell is how many UTF-16 units a spreadsheet's cell holds; what is longer
// would be cut without a word (the published limits of spreadsheets, from memory).
const MaxSheetCell = 32_767

// A Writing is a format tables are written in.
type Writing string

// The formats; delimited text is RFC 4180 in UTF-8 with a byte order mark, so
// that spreadsheets take it for what it is.
const (
	CSV  Writing = "csv"
	XLSX Writing = "xlsx"
	ODS  Writing = "ods"
)

// MediaType of each format.
func (w Writing) MediaType() string {
	switch w {
	case XLSX:
		return "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
	case ODS:
		return odsType
	}
	return "text/csv; charset=utf-8"
}

// Write writes the rows as one table, the first as its heading. All cells are
// text, so that zeros in front stay and nothing is taken for a formula; in
// delimited text, which can't say so, an apostrophe goes before what would be.
func Write(to io.Writer, as Writing, sheet string, rows [][]string) error {
	if as != CSV {
		for i, row := range rows {
			for _, cell := range row {
				if len(utf16.Encode([]rune(cell))) > MaxSheetCell {
					return &Error{Code: "cell-too-long-to-write", Line: i + 1, Args: map[string]string{"most": strconv.Itoa(MaxSheetCell)}}
				}
			}
		}
	}
	switch as {
	case CSV:
		return writeCSV(to, rows)
	case XLSX:
		return writeXLSX(to, sheet, rows)
	case ODS:
		return writeODS(to, sheet, rows)
	}
	return fmt.Errorf("tables: no way of writing %q", as)
}

// Harmless returns a cell of delimited text that no spreadsheet takes for a
// formula (OWASP, CSV injection).
func Harmless(cell string) string {
	if cell != "" && strings.IndexByte("=+-@\t\r", cell[0]) >= 0 {
		return "'" + cell
	}
	return cell
}

func writeCSV(to io.Writer, rows [][]string) error {
	if _, err := io.WriteString(to, "\ufeff"); err != nil {
		return err
	}
	w := csv.NewWriter(to)
	w.UseCRLF = true
	for _, row := range rows {
		safe := make([]string, len(row))
		for i, c := range row {
			safe[i] = Harmless(c)
		}
		if err := w.Write(safe); err != nil {
			return err
		}
	}
	w.Flush()
	return w.Error()
}

func writeXLSX(to io.Writer, sheet string, rows [][]string) error {
	f := excelize.NewFile()
	defer f.Close()
	if err := f.SetSheetName("Sheet1", sheetName(sheet)); err != nil {
		return err
	}
	sw, err := f.NewStreamWriter(sheetName(sheet))
	if err != nil {
		return err
	}
	// "@" is the form of text: what is typed there later stays text too.
	text, err := f.NewStyle(&excelize.Style{NumFmt: 49})
	if err != nil {
		return err
	}
	head, err := f.NewStyle(&excelize.Style{NumFmt: 49, Font: &excelize.Font{Bold: true}})
	if err != nil {
		return err
	}
	for i, row := range rows {
		cells := make([]any, len(row))
		for j, c := range row {
			style := text
			if i == 0 {
				style = head
			}
			cells[j] = excelize.Cell{StyleID: style, Value: printable(c)}
		}
		at, err := excelize.CoordinatesToCellName(1, i+1)
		if err != nil {
			return err
		}
		if err := sw.SetRow(at, cells); err != nil {
			return err
		}
	}
	if err := sw.Flush(); err != nil {
		return err
	}
	return f.Write(to)
}

// sheetName is a name a spreadsheet's sheet may have: at most 31 letters,
// without the characters that name places.
func sheetName(s string) string {
	s = strings.Trim(strings.Map(func(r rune) rune {
		if strings.ContainsRune(`:\/?*[]`, r) || r < 0x20 {
			return ' '
		}
		return r
	}, s), "' ")
	if r := []rune(s); len(r) > 31 {
		s = strings.TrimSpace(string(r[:31]))
	}
	if s == "" {
		return "List"
	}
	return s
}

// printable leaves out what XML can't hold.
func printable(s string) string {
	return strings.Map(func(r rune) rune {
		if r < 0x20 && r != '\t' && r != '\n' && r != '\r' || r == 0xFFFE || r == 0xFFFF {
			return -1
		}
		return r
	}, s)
}

const (
	odsManifest = xml.Header +
		`<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0" manifest:version="1.2">` +
		`<manifest:file-entry manifest:full-path="/" manifest:version="1.2" manifest:media-type="` + odsType + `"/>` +
		`<manifest:file-entry manifest:full-path="content.xml" manifest:media-type="text/xml"/>` +
		`</manifest:manifest>`
	odsHead = xml.Header +
		`<office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0"` +
		` xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0"` +
		` xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0"` +
		` xmlns:style="urn:oasis:names:tc:opendocument:xmlns:style:1.0" office:version="1.2">` +
		`<office:body><office:spreadsheet>`
	odsFoot = `</office:spreadsheet></office:body></office:document-content>`
)

// writeODS writes the least an OpenDocument spreadsheet is made of; the kind
// of the file stands first and unpacked, as ISO/IEC 26300 asks.
func writeODS(to io.Writer, sheet string, rows [][]string) error {
	z := zip.NewWriter(to)
	kind, err := z.CreateHeader(&zip.FileHeader{Name: "mimetype", Method: zip.Store})
	if err != nil {
		return err
	}
	if _, err := io.WriteString(kind, odsType); err != nil {
		return err
	}
	manifest, err := z.Create("META-INF/manifest.xml")
	if err != nil {
		return err
	}
	if _, err := io.WriteString(manifest, odsManifest); err != nil {
		return err
	}
	content, err := z.Create("content.xml")
	if err != nil {
		return err
	}
	var b bytes.Buffer
	b.WriteString(odsHead)
	b.WriteString(`<table:table table:name="` + escaped(sheetName(sheet)) + `">`)
	for _, row := range rows {
		b.WriteString(`<table:table-row>`)
		for _, c := range row {
			if c == "" {
				b.WriteString(`<table:table-cell/>`)
				continue
			}
			b.WriteString(`<table:table-cell office:value-type="string">`)
			for p := range strings.SplitSeq(strings.ReplaceAll(printable(c), "\r\n", "\n"), "\n") {
				b.WriteString(`<text:p>` + spaced(p) + `</text:p>`)
			}
			b.WriteString(`</table:table-cell>`)
		}
		b.WriteString(`</table:table-row>`)
		if b.Len() > 1<<16 {
			if _, err := b.WriteTo(content); err != nil {
				return err
			}
		}
	}
	b.WriteString(`</table:table>` + odsFoot)
	if _, err := b.WriteTo(content); err != nil {
		return err
	}
	return z.Close()
}

func escaped(s string) string {
	var b bytes.Buffer
	xml.EscapeText(&b, []byte(s)) // a buffer takes everything
	return b.String()
}

// spaced writes text as OpenDocument keeps it: runs of spaces and tabs are
// elements, else they would be taken for one.
func spaced(s string) string {
	var b strings.Builder
	for i, part := range strings.Split(s, "\t") {
		if i > 0 {
			b.WriteString(`<text:tab/>`)
		}
		for j, word := range strings.Split(part, " ") {
			if j > 0 {
				b.WriteString(`<text:s/>`)
			}
			b.WriteString(escaped(word))
		}
	}
	return b.String()
}
