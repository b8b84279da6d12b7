package tables

import (
	"bytes"
	"encoding/csv"
	"errors"
	"io"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"jollysatchel/internal/core/roster"
)

// Delimited reads delimited text (RFC 4180, and the separators comma,
// semicolon and tab) in UTF-8, or UTF-16 with a byte order mark; bytes that
// are neither are read as Windows-1252. Every record becomes a row at its
// place in the table: blank lines count, a quoted line break does not, and a
// final line end is no row.
func Delimited(b []byte) (roster.Table, error) {
	b, err := decode(b)
	if err != nil {
		return roster.Table{}, err
	}
	if len(bytes.TrimSpace(b)) == 0 {
		return roster.Table{}, &Error{Code: "empty"}
	}
	b = unixLines(b)
	sep := separator(b)
	t, err := records(b, sep, false)
	if errors.Is(err, csv.ErrBareQuote) || errors.Is(err, csv.ErrQuote) {
		t, err = records(b, sep, true)
	}
	return t, err
}

// decode brings the bytes to UTF-8 without a byte order mark.
func decode(b []byte) ([]byte, error) {
	switch {
	case bytes.HasPrefix(b, []byte{0xEF, 0xBB, 0xBF}):
		b = b[3:]
	case bytes.HasPrefix(b, []byte{0xFF, 0xFE}), bytes.HasPrefix(b, []byte{0xFE, 0xFF}):
		out, err := unicode.UTF16(unicode.LittleEndian, unicode.ExpectBOM).NewDecoder().Bytes(b)
		if err != nil {
			return nil, &Error{Code: "not-a-table"}
		}
		b = out
	}
	if binary(b) {
		return nil, &Error{Code: "not-a-table"}
	}
	if !utf8.Valid(b) {
		out, err := charmap.Windows1252.NewDecoder().Bytes(b)
		if err != nil {
			return nil, &Error{Code: "not-a-table"}
		}
		b = out
	}
	return b, nil
}

// binary reports bytes that no text holds: a NUL, or control characters in
// more than one byte of a hundred.
func binary(b []byte) bool {
	head := b[:min(len(b), 1<<16)]
	if bytes.IndexByte(head, 0) >= 0 {
		return true
	}
	control := 0
	for _, c := range head {
		if c < 0x20 && c != '\t' && c != '\n' && c != '\r' && c != '\f' {
			control++
		}
	}
	return control*100 > len(head)
}

// unixLines makes a lone carriage return, the line end of old files, a line feed.
func unixLines(b []byte) []byte {
	if bytes.IndexByte(b, '\r') < 0 || bytes.IndexByte(b, '\n') >= 0 {
		return b
	}
	return bytes.ReplaceAll(b, []byte{'\r'}, []byte{'\n'})
}

// separator picks the separator that divides the first records most evenly.
func separator(b []byte) rune {
	best, score := ',', 0
	for _, sep := range []rune{'\t', ';', ','} {
		r := reader(b[:min(len(b), 1<<16)], sep, true)
		fields := map[int]int{}
		for range 25 {
			rec, err := r.Read()
			if err != nil {
				break
			}
			fields[len(rec)]++
		}
		for n, times := range fields {
			if s := (n - 1) * times; s > score {
				best, score = sep, s
			}
		}
	}
	return best
}

func reader(b []byte, sep rune, lazy bool) *csv.Reader {
	r := csv.NewReader(bytes.NewReader(b))
	r.Comma, r.LazyQuotes, r.FieldsPerRecord = sep, lazy, -1
	return r
}

// sentinel ends the text when quotes are read loosely: a quote left open
// swallows it, and that is how it is noticed.
const sentinel = "\x1eend\x1e"

func records(b []byte, sep rune, lazy bool) (roster.Table, error) {
	if lazy {
		b = append(append(bytes.Clone(b), '\n'), sentinel...)
	}
	r := reader(b, sep, lazy)
	var t roster.Table
	line, at := 0, 0
	for {
		for {
			n := blankLine(b[at:])
			if n == 0 {
				break
			}
			at += n
			line++
			t.Rows = append(t.Rows, roster.Row{Line: line, Cells: []string{}})
			if len(t.Rows) > MaxRows {
				return roster.Table{}, &Error{Code: "too-many-rows"}
			}
		}
		rec, err := r.Read()
		if err == io.EOF {
			break
		}
		if err != nil {
			var pe *csv.ParseError
			if errors.As(err, &pe) {
				if lazy {
					return roster.Table{}, &Error{Code: "quote-open", Line: pe.StartLine}
				}
			}
			return roster.Table{}, err
		}
		if lazy && at+len(sentinel) < len(b) && int(r.InputOffset()) == len(b) {
			start, _ := r.FieldPos(0)
			return roster.Table{}, &Error{Code: "quote-open", Line: start}
		}
		at = int(r.InputOffset())
		line++
		if len(rec) > MaxColumns {
			return roster.Table{}, &Error{Code: "too-many-columns", Line: line}
		}
		t.Rows = append(t.Rows, roster.Row{Line: line, Cells: rec})
		if len(t.Rows) > MaxRows {
			return roster.Table{}, &Error{Code: "too-many-rows"}
		}
	}
	if lazy {
		t.Rows = t.Rows[:len(t.Rows)-1]
		if n := len(t.Rows); n > 0 && len(t.Rows[n-1].Cells) == 0 && bytes.HasSuffix(b, []byte("\n\n"+sentinel)) {
			t.Rows = t.Rows[:n-1] // the line end that was added
		}
	}
	return t, nil
}

// blankLine returns the length of the blank line b begins with, 0 where it
// begins with none.
func blankLine(b []byte) int {
	switch {
	case len(b) > 0 && b[0] == '\n':
		return 1
	case len(b) > 1 && b[0] == '\r' && b[1] == '\n':
		return 2
	}
	return 0
}
