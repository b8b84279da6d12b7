package tables

import (
	"archive/zip"
	"encoding/xml"
	"io"
	"slices"
	"strconv"
	"strings"

	"jollysatchel/internal/core/roster"
)

// ods is the spreadsheet format of ISO/IEC 26300 (OpenDocument). Cells are
// read as people see them: the text that is kept beside every value.
type ods struct{}

const odsType = "application/vnd.oasis.opendocument.spreadsheet"

func (ods) name() string { return "ods" }

func (ods) recognises(b []byte) bool {
	if !has(b, "content.xml") {
		return false
	}
	p, err := unpack(b)
	if err != nil {
		return true // read says why
	}
	kind, err := p.member("mimetype", 1000)
	return err == nil && strings.HasPrefix(string(kind), odsType)
}

// read walks over the content twice: first to see that it is whole and keeps to
// the limits of a text in XML, then to read what is in it.
func (ods) read(b []byte, left *budget) (Book, error) {
	p, err := unpack(b)
	if err != nil {
		return Book{}, err
	}
	i := slices.IndexFunc(p.File, func(f *zip.File) bool { return f.Name == "content.xml" })
	if i < 0 {
		return Book{}, &Error{Code: "archive-lacks", Args: map[string]string{"file": "content.xml"}}
	}
	if err := walk(p.File[i], left, func(tag, []byte) error { return nil }); err != nil {
		return Book{}, err
	}
	content, err := p.File[i].Open()
	if err != nil {
		return Book{}, err
	}
	defer content.Close()
	r := odsReader{xml: xml.NewDecoder(content), hidden: map[string]bool{}, left: left}
	for {
		tok, err := r.xml.RawToken()
		if err == io.EOF {
			return r.book, nil
		}
		if err != nil {
			return Book{}, &Error{Code: "damaged", Args: map[string]string{"what": "content.xml"}}
		}
		if err := left.tick(); err != nil {
			return Book{}, err
		}
		start, ok := tok.(xml.StartElement)
		if !ok {
			continue
		}
		switch start.Name.Local {
		case "style":
			r.style = attribute(start, "name")
		case "table-properties":
			if attribute(start, "display") == "false" {
				r.hidden[r.style] = true
			}
		case "table":
			if err := r.table(start); err != nil {
				return Book{}, err
			}
		}
	}
}

type odsReader struct {
	xml    *xml.Decoder
	book   Book
	style  string
	hidden map[string]bool // table styles that are not shown
	left   *budget
}

func attribute(e xml.StartElement, name string) string {
	for _, a := range e.Attr {
		if a.Name.Local == name {
			return a.Value
		}
	}
	return ""
}

// times reads a number of repetitions or a span: 1 where none is given.
func times(e xml.StartElement, name string) int {
	n, err := strconv.Atoi(attribute(e, name))
	if err != nil || n < 1 {
		return 1
	}
	return n
}

// shown reports whether a row or column is seen.
func shown(e xml.StartElement) bool {
	v := attribute(e, "visibility")
	return v != "collapse" && v != "filter"
}

func (r *odsReader) table(table xml.StartElement) error {
	sheet := Sheet{Name: attribute(table, "name"), Hidden: r.hidden[attribute(table, "style-name")]}
	type span struct{ from, to, column int }
	var spans []span
	columns, line, width := 0, 0, 0
	err := r.within(table.Name.Local, func(e xml.StartElement) error {
		switch e.Name.Local {
		case "table-column":
			n := min(times(e, "number-columns-repeated"), MaxColumns)
			for i := columns; !shown(e) && i < min(columns+n, MaxColumns); i++ {
				sheet.Table.HiddenColumns = append(sheet.Table.HiddenColumns, i)
			}
			columns = min(columns+n, MaxColumns)
		case "table-row":
			cells, down, err := r.row(e)
			if err != nil {
				return err
			}
			n := min(times(e, "number-rows-repeated"), MaxRows+1)
			if len(cells) == 0 {
				line = min(line+n, MaxRows+1)
				return nil
			}
			for line > len(sheet.Table.Rows) { // blank rows, known to be above something
				if err := grow(&sheet.Table, roster.Row{Line: len(sheet.Table.Rows) + 1, Cells: []string{}}); err != nil {
					return err
				}
			}
			for range n {
				line++
				for _, c := range cells {
					if err := r.left.take(1, len(c)); err != nil {
						return err
					}
				}
				if err := grow(&sheet.Table, roster.Row{Line: line, Cells: append([]string{}, cells...), Hidden: !shown(e)}); err != nil {
					return err
				}
			}
			for column, rows := range down {
				spans = append(spans, span{line - 1, line + rows - 2, column})
			}
			width = max(width, len(cells))
		}
		return nil
	})
	if err != nil {
		return err
	}
	for _, s := range spans {
		if err := spread(&sheet.Table, s.from, s.to, s.column, r.left); err != nil {
			return err
		}
	}
	sheet.Table.HiddenColumns = slices.DeleteFunc(sheet.Table.HiddenColumns, func(c int) bool { return c >= width })
	r.book.Sheets = append(r.book.Sheets, sheet)
	return nil
}

// within calls do for every element inside the one just begun, groups and the
// like passed through, up to its end.
func (r *odsReader) within(name string, do func(xml.StartElement) error) error {
	depth := 1
	for depth > 0 {
		tok, err := r.xml.RawToken()
		if err != nil {
			return &Error{Code: "damaged", Args: map[string]string{"what": "content.xml"}}
		}
		if err := r.left.tick(); err != nil {
			return err
		}
		switch e := tok.(type) {
		case xml.StartElement:
			switch e.Name.Local {
			case "table-row":
				if err := do(e); err != nil {
					return err
				}
				continue
			case name:
				depth++
			}
			if err := do(e); err != nil {
				return err
			}
		case xml.EndElement:
			if e.Name.Local == name {
				depth--
			}
		}
	}
	return nil
}

// row reads a row's cells up to its end; down says over how many rows a
// column's cell is merged.
func (r *odsReader) row(row xml.StartElement) (cells []string, down map[int]int, err error) {
	blank := 0
	err = r.within(row.Name.Local, func(e xml.StartElement) error {
		if e.Name.Local != "table-cell" && e.Name.Local != "covered-table-cell" {
			return nil
		}
		n := times(e, "number-columns-repeated")
		text, err := r.cell(e.Name.Local)
		if err != nil {
			return err
		}
		if text == "" {
			blank = min(blank+min(n, MaxColumns), MaxColumns)
			return nil
		}
		if n > MaxColumns || len(cells)+blank+n > MaxColumns {
			return &Error{Code: "too-many-columns"}
		}
		for range blank {
			cells = append(cells, "")
		}
		blank = 0
		if rows := times(e, "number-rows-spanned"); rows > 1 {
			if down == nil {
				down = map[int]int{}
			}
			down[len(cells)] = min(rows, MaxRows)
		}
		for range n {
			cells = append(cells, text)
		}
		return nil
	})
	return cells, down, err
}

// cell reads a cell's text up to its end: paragraphs as lines, without the
// notes pinned to it.
func (r *odsReader) cell(name string) (string, error) {
	var b strings.Builder
	write := func(text string) {
		if b.Len() <= MaxCellText { // the rest is passed by
			b.WriteString(text)
		}
	}
	paragraphs, inside, note := 0, 0, 0
	for {
		tok, err := r.xml.RawToken()
		if err != nil {
			return "", &Error{Code: "damaged", Args: map[string]string{"what": "content.xml"}}
		}
		if err := r.left.tick(); err != nil {
			return "", err
		}
		switch e := tok.(type) {
		case xml.StartElement:
			switch {
			case e.Name.Local == "annotation":
				note++
			case note > 0:
			case e.Name.Local == "p":
				if inside++; inside == 1 {
					if paragraphs > 0 {
						write("\n")
					}
					paragraphs++
				}
			case e.Name.Local == "s":
				write(strings.Repeat(" ", min(times(e, "c"), 1000)))
			case e.Name.Local == "tab":
				write("\t")
			case e.Name.Local == "line-break":
				write("\n")
			}
		case xml.EndElement:
			switch {
			case e.Name.Local == "annotation":
				note--
			case e.Name.Local == name:
				return keep(b.String()), nil
			case e.Name.Local == "p" && note == 0:
				inside--
			}
		case xml.CharData:
			if inside > 0 && note == 0 {
				write(string(e))
			}
		}
	}
}
