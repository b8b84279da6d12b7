package tables

import (
	"bytes"
	"context"
	"errors"
	"io"
	"strconv"
	"strings"
	"time"
)

// What may be read of one file, over all its sheets, with everything that
// repeats counted as often as it is seen.
const (
	MaxCells = 4_000_000 // the blank ones before a filled one too
	MaxText  = MaxBytes  // bytes of text in cells
	ReadTime = 20 * time.Second
	// MaxCellText is how many bytes of a cell's text are kept: all that spreadsheets write in
	// one, and more than any value of a list may have, so that what was cut is too long there
	// and its row is told of.
	MaxCellText = 128 << 10

	maxUnpacked = 192 << 20 // bytes a packed file may swell to
	maxMembers  = 10_000    // of a packed file
	maxShared   = 1_500_000 // different texts of a workbook
	maxSettings = 8 << 20   // bytes of each part that only describes the others
	maxTag      = 256 << 10 // bytes of one tag, or of the text between two: more than spreadsheets write in a cell
	maxDepth    = 64        // elements in elements
)

// A budget is what may still be read of a file.
type budget struct {
	ctx         context.Context
	cells, text int
	ticks       int
}

func newBudget(ctx context.Context) *budget {
	return &budget{ctx: ctx, cells: MaxCells, text: MaxText}
}

// keep is what is kept of a cell's text.
func keep(text string) string {
	if len(text) <= MaxCellText {
		return text
	}
	return strings.Clone(strings.ToValidUTF8(text[:MaxCellText], "")) // else the rest stays with it
}

// take spends a number of cells that have so many bytes of text each.
func (b *budget) take(cells, text int) error {
	if b.cells -= cells; b.cells < 0 || cells > MaxCells {
		return &Error{Code: "too-many-cells"}
	}
	return b.spend(cells * text)
}

// spend spends the text of a cell that is counted elsewhere.
func (b *budget) spend(text int) error {
	if b.text -= text; b.text < 0 {
		return &Error{Code: "too-much-text"}
	}
	return b.tick()
}

// tick asks now and then whether the time is up.
func (b *budget) tick() error {
	if b.ticks++; b.ticks%1024 != 0 {
		return nil
	}
	return b.late()
}

// late says that the time is up, or that nobody waits any more.
func (b *budget) late() error {
	err := b.ctx.Err()
	if errors.Is(err, context.DeadlineExceeded) {
		return &Error{Code: "read-too-long", Args: map[string]string{"seconds": strconv.Itoa(int(ReadTime.Seconds()))}}
	}
	return err
}

// A tag is one tag of an XML text, as it is written.
type tag struct {
	name   []byte // without its prefix
	rest   []byte // attributes
	closes bool   // an end tag
	empty  bool   // begun and ended in one
}

// scanXML walks over an XML text tag by tag: at is given each with the text
// since the one before. Nothing is kept, so that a text is known to be harmless
// before a reader makes anything of it: its tags and texts are of ordinary length,
// its elements not deep in one another, its letters in UTF-8. Both slices hold
// until at returns.
func scanXML(r io.Reader, what string, b *budget, at func(t tag, text []byte) error) error {
	damaged := &Error{Code: "damaged", Args: map[string]string{"what": what}}
	in := newCutter(r)
	depth := 0
	for {
		text, inside, err := in.next()
		if err == io.EOF && depth == 0 {
			return nil
		}
		if own := (*Error)(nil); errors.As(err, &own) {
			return err
		}
		if err != nil {
			return damaged
		}
		t := parseTag(inside)
		switch {
		case bytes.HasPrefix(inside, []byte("?xml")):
			if e := t.attribute("encoding"); e != nil && !bytes.EqualFold(e, []byte("utf-8")) && !bytes.EqualFold(e, []byte("us-ascii")) {
				return damaged
			}
			continue
		case len(inside) == 0 || inside[0] == '?':
			continue
		case inside[0] == '!':
			if bytes.HasPrefix(inside, []byte("!DOCTYPE")) || bytes.HasPrefix(inside, []byte("!ENTITY")) {
				return damaged
			}
			continue
		case t.closes:
			depth--
		case !t.empty:
			if depth++; depth > maxDepth {
				return damaged
			}
		}
		if err := at(t, text); err != nil {
			return err
		}
		if err := b.tick(); err != nil {
			return err
		}
	}
}

func parseTag(inside []byte) tag {
	var t tag
	if len(inside) > 0 && inside[0] == '/' {
		t.closes, inside = true, inside[1:]
	}
	if n := len(inside); n > 0 && inside[n-1] == '/' {
		t.empty, inside = true, inside[:n-1]
	}
	end := bytes.IndexAny(inside, " \t\r\n")
	if end < 0 {
		end = len(inside)
	}
	t.name, t.rest = inside[:end], inside[end:]
	if i := bytes.LastIndexByte(t.name, ':'); i >= 0 {
		t.name = t.name[i+1:]
	}
	return t
}

// attribute returns the value of an attribute as it is written, nil where the
// tag has none of that name.
func (t tag) attribute(name string) []byte {
	return t.find(func(called []byte) bool { return string(called) == name })
}

// prefixed is attribute of one that has a prefix, whichever.
func (t tag) prefixed(name string) []byte {
	return t.find(func(called []byte) bool {
		i := bytes.IndexByte(called, ':')
		return i >= 0 && string(called[i+1:]) == name
	})
}

func (t tag) find(is func(called []byte) bool) []byte {
	rest := t.rest
	for {
		eq := bytes.IndexByte(rest, '=')
		if eq < 0 {
			return nil
		}
		called := bytes.TrimSpace(rest[:eq])
		rest = bytes.TrimLeft(rest[eq+1:], " \t\r\n")
		if len(rest) == 0 {
			return nil
		}
		end := bytes.IndexByte(rest[1:], rest[0])
		if end < 0 {
			return nil
		}
		value := rest[1 : 1+end]
		rest = rest[end+2:]
		if is(called) {
			return value
		}
	}
}

// number returns an attribute that is a number, 0 where it isn't one.
func (t tag) number(name string) int {
	n, err := strconv.Atoi(string(t.attribute(name)))
	if err != nil {
		return 0
	}
	return n
}

// A cutter cuts a stream into tags and what is before them.
type cutter struct {
	r        io.Reader
	buf      []byte
	from, to int
	err      error
}

func newCutter(r io.Reader) *cutter { return &cutter{r: r, buf: make([]byte, maxTag)} }

// next returns the next tag, without its brackets, and the text before it; both
// hold until it is called again. io.EOF is the end, where text alone stood or
// nothing.
func (s *cutter) next() (text, inside []byte, err error) {
	open, searched := -1, 0
	for {
		rest := s.buf[s.from:s.to]
		if open < 0 {
			if i := bytes.IndexByte(rest[searched:], '<'); i >= 0 {
				open = searched + i
				searched = open + 1
			} else {
				searched = len(rest)
			}
		}
		if open >= 0 {
			if i := bytes.IndexByte(rest[searched:], '>'); i >= 0 {
				s.from += searched + i + 1
				return rest[:open], rest[open+1 : searched+i], nil
			}
			searched = len(rest)
		}
		if s.err == io.EOF && open >= 0 {
			return nil, nil, io.ErrUnexpectedEOF
		}
		if s.err != nil {
			return nil, nil, s.err
		}
		if s.from > 0 {
			s.to = copy(s.buf, rest)
			s.from = 0
		}
		if s.to == len(s.buf) && open >= 0 {
			return nil, nil, io.ErrShortBuffer
		}
		if s.to == len(s.buf) {
			return nil, nil, &Error{Code: "cell-too-long", Args: map[string]string{"most": strconv.Itoa(maxTag >> 10)}}
		}
		n, err := s.r.Read(s.buf[s.to:])
		s.to += n
		if s.err = err; n == 0 && err == nil {
			s.err = io.ErrNoProgress
		}
	}
}
