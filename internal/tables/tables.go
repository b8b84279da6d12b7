// Package tables reads open file formats into the core's tables. Bytes go in,
// cells come out; what the cells mean is not known here.
package tables

import (
	"fmt"
	"io"

	"jollysatchel/internal/core/roster"
)

// Limits of a class list. Up to there a large list is read, not refused.
const (
	MaxBytes   = 64 << 20
	MaxRows    = 250_000
	MaxColumns = 1_000
)

// An Error says why a file can't be read as a table. Line is the line of the
// file where that was seen, 0 where it has none.
type Error struct {
	Code string // empty, too-large, too-many-rows, too-many-columns, not-a-table, quote-open
	Line int
	Args map[string]string
}

var messages = map[string]string{
	"empty":            "There is nothing in it: no row, no cell.",
	"too-large":        "The file is larger than 64 MiB.",
	"too-many-rows":    "The list has more than 250,000 rows.",
	"too-many-columns": "A row has more than 1,000 columns.",
	"not-a-table":      "This is not a table of text: it looks like a program, a picture or another kind of file.",
	"quote-open":       "A quotation mark is opened and never closed.",
}

func (e *Error) Error() string {
	if e.Line > 0 {
		return fmt.Sprintf("line %d: %s", e.Line, messages[e.Code])
	}
	return messages[e.Code]
}

// Read reads all of r, at most MaxBytes, and makes a table of it. The error is
// an *Error where the content is at fault.
func Read(r io.Reader) (roster.Table, error) {
	b, err := io.ReadAll(io.LimitReader(r, MaxBytes+1))
	if err != nil {
		return roster.Table{}, fmt.Errorf("reading the list: %w", err)
	}
	if len(b) > MaxBytes {
		return roster.Table{}, &Error{Code: "too-large"}
	}
	return Delimited(b)
}
