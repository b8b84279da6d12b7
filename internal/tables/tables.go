// Package tables reads open file formats into the core's tables and writes
// tables in them. Bytes go in, cells come out; what the cells mean is not known
// here. Every format is one file behind one small interface.
package tables

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"strconv"
	"strings"

	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/core/words"
)

// Limits of a class list. Up to there a large list is read, not refused.
const (
	MaxBytes   = 64 << 20
	MaxRows    = 250_000
	MaxColumns = roster.MaxFields
)

// A Sheet is one table of a file. Delimited text has one, without a name.
type Sheet struct {
	Name   string
	Hidden bool
	Table  roster.Table
}

// Blank reports that the sheet has no text in it.
func (s Sheet) Blank() bool {
	for _, r := range s.Table.Rows {
		for _, c := range r.Cells {
			if strings.TrimSpace(c) != "" {
				return false
			}
		}
	}
	return true
}

// A Teacher is a member of staff that an open roster archive names for a class.
type Teacher struct {
	Class   string `json:"class"`
	Period  string `json:"period"`
	Given   string `json:"given"`
	Family  string `json:"family"`
	Address string `json:"address"`
}

// A Book is what a file holds: its sheets in their order, and the teachers it
// names, where it does.
type Book struct {
	Format   string // delimited, xlsx, ods, open-roster
	Sheets   []Sheet
	Teachers []Teacher
	// Readings are how the letters of a text in an older encoding can be read,
	// the way they were read first; none where there is no doubt.
	Readings []Reading
}

// Sheet returns the sheet of that name, or of that place from 1 where none has
// it for a name; for an empty name the first that is neither hidden nor blank,
// else the first that isn't blank.
func (b Book) Sheet(name string) (Sheet, error) {
	var names []string
	for _, s := range b.Sheets {
		if name != "" && strings.EqualFold(strings.TrimSpace(s.Name), strings.TrimSpace(name)) {
			return s, nil
		}
		names = append(names, s.Name)
	}
	if n, err := strconv.Atoi(name); err == nil && n >= 1 && n <= len(b.Sheets) {
		return b.Sheets[n-1], nil
	}
	if name != "" {
		return Sheet{}, &Error{Code: "no-such-sheet", Args: map[string]string{"sheet": name, "sheets": strings.Join(names, ", ")}}
	}
	for _, s := range b.Sheets {
		if !s.Hidden && !s.Blank() {
			return s, nil
		}
	}
	for _, s := range b.Sheets {
		if !s.Blank() {
			return s, nil
		}
	}
	return Sheet{}, &Error{Code: "empty"}
}

// A format is one way of writing tables down.
type format interface {
	name() string
	// recognises reports whether a file that begins like this is of the format.
	recognises(b []byte) bool
	// read makes sheets of a file, within a budget. An *Error says what is wrong with it.
	read(b []byte, left *budget) (Book, error)
}

// formats in the order they are tried; the last takes what no other knows.
var formats = []format{xlsx{}, ods{}, openRoster{}, delimited{}}

// An Error says why a file can't be read as a table. Line is the line of the
// file where that was seen, 0 where it has none.
type Error struct {
	Code string // a problem of the catalogue
	Line int
	Args map[string]string
}

func (e *Error) Error() string {
	m := words.Problem(e.Code, e.Args)
	if e.Line > 0 {
		return fmt.Sprintf("line %d: %s", e.Line, m)
	}
	return m
}

// Read reads all of r, at most MaxBytes, in whichever format it is written.
// The error is an *Error where the content is at fault.
func Read(r io.Reader) (Book, error) {
	b, err := Bytes(r)
	if err != nil {
		return Book{}, err
	}
	return ReadAs(context.Background(), b, Hint{})
}

// Bytes returns all of r, at most MaxBytes.
func Bytes(r io.Reader) ([]byte, error) {
	var in bytes.Buffer
	if _, err := in.ReadFrom(io.LimitReader(r, MaxBytes+1)); err != nil {
		return nil, fmt.Errorf("reading the list: %w", err)
	}
	if in.Len() > MaxBytes {
		return nil, &Error{Code: "list-too-large"}
	}
	return in.Bytes(), nil
}

// ReadAs reads a file, of at most MaxBytes, whose letters may be in an older
// encoding; the hint is ignored where the text tells its own. It ends with ctx, and after
// ReadTime.
func ReadAs(ctx context.Context, b []byte, as Hint) (Book, error) {
	ctx, cancel := context.WithTimeout(ctx, ReadTime)
	defer cancel()
	return read(ctx, b, as)
}

func read(ctx context.Context, b []byte, as Hint) (Book, error) {
	for _, f := range formats {
		if f.recognises(b) {
			return guarded(f, b, as, newBudget(ctx))
		}
	}
	return Book{}, &Error{Code: "not-a-table"}
}

// guarded reads a file and takes a panic inside a library for what it means:
// a file that can't be read.
func guarded(f format, b []byte, as Hint, left *budget) (book Book, err error) {
	defer func() {
		if p := recover(); p != nil {
			book, err = Book{}, &Error{Code: "damaged", Args: map[string]string{"what": "it can't be read as " + f.name()}}
		}
	}()
	if d, text := f.(delimited); text {
		d.hint = as
		f = d
	}
	if book, err = f.read(b, left); err == nil {
		err = left.late()
	}
	book.Format = f.name()
	return book, err
}

// ReadSheet reads one sheet of r, as Book.Sheet chooses it.
func ReadSheet(r io.Reader, sheet string) (roster.Table, error) {
	b, err := Read(r)
	if err != nil {
		return roster.Table{}, err
	}
	s, err := b.Sheet(sheet)
	return s.Table, err
}

// grow appends a row, or says that there are too many or that it is too wide.
func grow(t *roster.Table, row roster.Row) error {
	switch {
	case len(row.Cells) > MaxColumns:
		return &Error{Code: "too-many-columns", Line: row.Line}
	case len(t.Rows) >= MaxRows:
		return &Error{Code: "too-many-rows"}
	}
	t.Rows = append(t.Rows, row)
	return nil
}

// trimmed returns a row's cells without the blank ones at its end.
func trimmed(cells []string) []string {
	n := len(cells)
	for n > 0 && cells[n-1] == "" {
		n--
	}
	return cells[:n]
}
