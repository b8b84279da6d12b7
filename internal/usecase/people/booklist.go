package people

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"strings"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/lists"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/schoolbook"
	"jollysatchel/internal/store"
	"jollysatchel/internal/tables"
	"jollysatchel/internal/usecase/seam"
)

// A BookList is what a list would do to the school book.
type BookList struct {
	Lines []lists.BookLine
	Seen  string // digest of what was looked at
	book  string // revision of the book
}

// PreviewBookList reads a list of people of one role, in any format a class list can have, and
// says what it would do to the school book.
func (c *People) PreviewBookList(ctx context.Context, role accounts.Role, list []byte) (BookList, error) {
	if role != accounts.Student && role != accounts.Staff {
		return BookList{}, change.Refuse("role", "no-such-role")
	}
	b, err := tables.Bytes(bytes.NewReader(list))
	if err != nil {
		return BookList{}, err
	}
	read, err := c.ReadList(ctx, b, "")
	if err != nil {
		return BookList{}, err
	}
	sheet, err := read.Sheet("")
	if err != nil {
		return BookList{}, err
	}
	if role == accounts.Staff && len(read.Teachers) > 0 {
		sheet.Table = teachersOf(read.Teachers)
	}
	book, err := c.Book(ctx)
	if err != nil {
		return BookList{}, err
	}
	var entries []lists.BookEntry
	others := map[string]bool{}
	for _, a := range book.All {
		if a.Role == role && !strings.HasPrefix(a.ID, seam.PracticePrefix) {
			entries = append(entries, lists.BookEntry{ID: a.ID, Given: a.Given, Family: a.Family, Number: a.Number, Address: a.Address, Off: a.Off})
		} else {
			others[strings.ToLower(a.Address)] = true
		}
	}
	lines := lists.BookPlan(roster.Read(sheet.Table, roster.Options{Domain: c.School().Domain, MostWarnings: 1}), entries, others)
	accounts.Bound(lines)
	return BookList{lines, lists.BookDigest(lines), book.Revision}, nil
}

// teachersOf is a table of the teachers that a file names, each once.
func teachersOf(of []tables.Teacher) roster.Table {
	t := roster.Table{Rows: []roster.Row{{Line: 1, Cells: []string{"Family name", "Given name", "Email address"}}}}
	seen := map[string]bool{}
	for _, x := range of {
		if who := x.Family + "\n" + x.Given + "\n" + strings.ToLower(x.Address); !seen[who] {
			seen[who] = true
			t.Rows = append(t.Rows, roster.Row{Line: len(t.Rows) + 1, Cells: []string{x.Family, x.Given, x.Address}})
		}
	}
	return t
}

// BringBookList has a list do what was looked at, all of it or nothing; with away, those
// who are no longer in it are switched off. It returns how many accounts are different.
func (c *People) BringBookList(ctx context.Context, by string, role accounts.Role, list []byte, seen string, away bool) (int, error) {
	look, err := c.PreviewBookList(ctx, role, list)
	if err != nil {
		return 0, err
	}
	if look.Seen != seen {
		return 0, &change.Changed{Field: "list"}
	}
	var put []accounts.Account
	var ids []string
	for _, l := range look.Lines {
		if l.Act == lists.BookEnter || l.Act == lists.BookChange || l.Act == lists.BookLeave && away {
			id := cmp.Or(l.To.ID, store.NewID())
			put, ids = append(put, accounts.Account{ID: id, Given: l.To.Given, Family: l.To.Family, Number: l.To.Number,
				Address: l.To.Address, Off: l.To.Off, Role: role}), append(ids, id)
		}
	}
	if len(put) == 0 {
		return 0, change.Refuse("list", "nothing-to-do")
	}
	if err := c.directory.PutAll(ctx, look.book, put); errors.Is(err, schoolbook.ErrMoved) {
		return 0, &change.Changed{Field: "list"} // it is looked at again
	} else if err != nil {
		return 0, seam.BookError(err)
	}
	if err := c.directory.Known(ctx, ids...); err != nil {
		return 0, err
	}
	act := c.Act(ctx, by, "book-list", map[string]any{"things": len(put)})
	act.Key = ""
	return len(put), c.Store.Change(ctx, act, nil, func(*store.Store) error { return nil })
}
