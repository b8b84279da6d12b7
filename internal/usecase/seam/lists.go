package seam

import (
	"context"
	"time"

	"jollysatchel/internal/gate"
	"jollysatchel/internal/tables"
)

// Two lists are read at a time, in all of a program; a few more wait.
var lists = gate.New(2, 8, 40*time.Second)

// ReadList reads a list; of one in older letters, in those in which it has most names of the
// school book, unless an encoding is said.
func (c *House) ReadList(ctx context.Context, b []byte, encoding string) (tables.Book, error) {
	known, err := c.Book(ctx)
	if err != nil {
		return tables.Book{}, err
	}
	leave, err := lists.Enter(ctx)
	if err != nil {
		return tables.Book{}, err
	}
	defer leave()
	var book tables.Book
	gate.Aside(func() { book, err = tables.ReadAs(ctx, b, tables.Hint{Encoding: encoding, Known: known.IsName}) })
	return book, err
}
