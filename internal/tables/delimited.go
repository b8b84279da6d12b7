package tables

import (
	"bytes"
	"encoding/csv"
	"errors"
	"io"
	"regexp"
	"slices"
	"strings"

	"jollysatchel/internal/core/roster"
)

// delimited is delimited text (RFC 4180, and the separators comma, semicolon,
// tab and pipe) in any encoding decode knows. Every record becomes a row at its
// place in the table: blank lines count, a quoted line break does not, and a
// final line end is no row. A first line "sep=;" names the separator and is,
// as in a spreadsheet, no row.
type delimited struct{ hint Hint }

func (delimited) name() string { return "delimited" }

func (delimited) recognises([]byte) bool { return true }

// oldWorkbook is how spreadsheets of an old kind, and those with a password, begin.
var oldWorkbook = []byte{0xD0, 0xCF, 0x11, 0xE0, 0xA1, 0xB1, 0x1A, 0xE1}

var sepLine = regexp.MustCompile(`^(?i:"?sep=([,;|\t]|\\t)"?)\r?\n`)

func (d delimited) read(b []byte, left *budget) (Book, error) {
	switch {
	case bytes.HasPrefix(b, oldWorkbook):
		return Book{}, &Error{Code: "old-spreadsheet"}
	case isZip(b):
		return Book{}, &Error{Code: "archive-unknown"}
	}
	b, readings, err := decode(b, d.hint)
	if err != nil {
		return Book{}, err
	}
	if len(bytes.TrimSpace(b)) == 0 {
		return Book{}, &Error{Code: "empty"}
	}
	b = unixLines(b)
	var sep rune
	if m := sepLine.FindSubmatch(b); m != nil {
		b = b[len(m[0]):]
		if sep = rune(m[1][0]); sep == '\\' {
			sep = '\t'
		}
	} else {
		sep = separator(b)
	}
	if bytes.Count(b, []byte(string(sep))) > MaxCells {
		return Book{}, &Error{Code: "too-many-cells"}
	}
	t, err := records(b, sep, false, left)
	if errors.Is(err, csv.ErrBareQuote) || errors.Is(err, csv.ErrQuote) {
		left.cells, left.text = MaxCells, MaxText
		t, err = records(b, sep, true, left)
	}
	if err != nil {
		return Book{}, err
	}
	return Book{Sheets: []Sheet{{Table: t}}, Readings: readings}, nil
}

// unixLines makes a lone carriage return, the line end of old files, a line feed.
func unixLines(b []byte) []byte {
	if bytes.IndexByte(b, '\r') < 0 || bytes.IndexByte(b, '\n') >= 0 {
		return b
	}
	return bytes.ReplaceAll(b, []byte{'\r'}, []byte{'\n'})
}

// separator picks the separator that divides the first records most evenly. One that isn't in
// the first line that has any counts half: it may stand inside of cells.
func separator(b []byte) rune {
	best, score := ',', 0
	first := ""
	for line := range bytes.Lines(b[:min(len(b), 1<<16)]) {
		if bytes.ContainsAny(line, "\t;,|") {
			first = string(line)
			break
		}
	}
	for _, sep := range []rune{'\t', ';', ',', '|'} {
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
			s := 2 * (n - 1) * times
			if !strings.ContainsRune(first, sep) {
				s /= 2
			}
			if s > score {
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

func records(b []byte, sep rune, lazy bool, left *budget) (roster.Table, error) {
	if lazy {
		b = append(append(bytes.Clone(b), '\n'), sentinel...)
	}
	r := reader(b, sep, lazy)
	t := roster.Table{Rows: make([]roster.Row, 0, min(bytes.Count(b, []byte{'\n'})+1, MaxRows))}
	line, at := 0, 0
	for {
		for {
			n := blankLine(b[at:])
			if n == 0 {
				break
			}
			at += n
			line++
			if err := left.tick(); err != nil {
				return roster.Table{}, err
			}
			if err := grow(&t, roster.Row{Line: line, Cells: []string{}}); err != nil {
				return roster.Table{}, err
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
		rec = kept(rec)
		for _, c := range rec {
			if err := left.take(1, len(c)); err != nil {
				return roster.Table{}, err
			}
		}
		if err := grow(&t, roster.Row{Line: line, Cells: rec}); err != nil {
			return roster.Table{}, err
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

// kept is what is kept of a record's cells, which share one text: where any is cut, none
// holds the rest of it.
func kept(rec []string) []string {
	if !slices.ContainsFunc(rec, func(c string) bool { return len(c) > MaxCellText }) {
		return rec
	}
	out := make([]string, len(rec))
	for i, c := range rec {
		out[i] = strings.Clone(keep(c))
	}
	return out
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
