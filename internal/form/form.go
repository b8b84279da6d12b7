// Package form fills columns in inside files: texts, and the texts and spreadsheets of
// office programs. Only the parts of a file that hold text are read; of those, only what
// is in brackets changes, and whatever else is in the file is passed on as it is.
package form

import (
	"archive/zip"
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
	"unicode/utf8"

	"jollysatchel/internal/core/filling"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/document"
)

// How much of a file is looked at.
const (
	MostFile    = 64 << 20  // bytes of a whole file
	mostText    = 8 << 20   // bytes, unpacked, of all parts of it that hold text
	mostEntries = 20_000    // of an archive
	mostParts   = 20_000    // columns asked for in one file
	mostTokens  = 2_000_000 // tags and texts in one file
	mostWritten = MostFile  // bytes of a copy
	mostMissing = 20        // labels told that are no column
)

// ErrUnreadable says that a file isn't what its name says, or holds more than is looked at.
var ErrUnreadable = errors.New("form: can't be read")

// A kind is a kind of file by its ending: for an archive, how its text is marked up, and
// which of its entries hold text.
type kind struct {
	style  filling.Style
	markup *markup
	holds  func(entry string) bool
}

var kinds = map[string]kind{
	".md":   {style: filling.Marked},
	".txt":  {},
	".odt":  {markup: &openText, holds: within("content.xml", "styles.xml")},
	".ods":  {markup: &openText, holds: within("content.xml", "styles.xml")},
	".docx": {markup: &officeText, holds: beginning("word/", "document", "header", "footer", "footnotes", "endnotes")},
	".xlsx": {markup: &officeSheet, holds: beginning("xl/", "sharedStrings", "worksheets/sheet")},
}

func within(names ...string) func(string) bool {
	return func(entry string) bool { return slices.Contains(names, entry) }
}

func beginning(folder string, names ...string) func(string) bool {
	return func(entry string) bool {
		rest, in := strings.CutPrefix(entry, folder)
		return in && strings.HasSuffix(rest, ".xml") && slices.ContainsFunc(names, func(n string) bool { return strings.HasPrefix(rest, n) })
	}
}

// Can reports whether files of an ending can ask for columns.
func Can(ending string) bool {
	_, can := kinds[strings.ToLower(ending)]
	return can
}

// A Form is a file that asks for columns. It reads the file again for each copy. Close it
// where it was taken.
type Form struct {
	Asks    []filling.Part // the columns, each once, in the order of the file
	Missing []string       // what looks like a column and is none
	style   filling.Style
	file    *os.File // of its own
	archive *zip.Reader
	texts   map[string][]piece // by entry of the archive; of a text, of ""
}

// A piece of a text: bytes as they are, or a column.
type piece struct {
	bytes []byte
	part  *filling.Part
}

// Take reads a form of so many bytes from r, which needn't be kept.
func Take(ctx context.Context, r io.Reader, size int64, ending string, known func(record.Field) bool) (*Form, error) {
	if !Can(ending) {
		return &Form{}, nil
	}
	if size > MostFile {
		return nil, ErrUnreadable
	}
	file, err := os.CreateTemp("", "jollysatchel-*")
	if err != nil {
		return nil, fmt.Errorf("form: %w", err)
	}
	var f *Form
	if err = os.Remove(file.Name()); err == nil { // it is gone when it is closed
		if size, err = io.Copy(file, r); err == nil {
			f, err = Read(ctx, file, size, ending, known)
		}
	}
	if err != nil {
		file.Close()
		return nil, err
	}
	f.file = file
	return f, nil
}

// Close lets go of the file of a form that was taken.
func (f *Form) Close() {
	if f.file != nil {
		f.file.Close()
	}
}

// Read looks through a file of so many bytes for the columns that are known. A form that
// asks for none needn't be filled in. The error is ErrUnreadable, that of the file, or that of
// ctx, which ends it soon.
func Read(ctx context.Context, file io.ReaderAt, size int64, ending string, known func(record.Field) bool) (*Form, error) {
	k, can := kinds[strings.ToLower(ending)]
	f := &Form{style: k.style, texts: map[string][]piece{}}
	if !can {
		return f, nil
	}
	if size > MostFile {
		return nil, ErrUnreadable
	}
	reading := &reading{ctx: ctx, form: f, known: known}
	if k.markup == nil {
		if size > document.MaxText {
			return nil, ErrUnreadable
		}
		text, err := io.ReadAll(io.NewSectionReader(file, 0, size))
		if err != nil {
			return nil, err
		}
		if !utf8.Valid(text) || bytes.IndexByte(text, 0) >= 0 {
			return nil, ErrUnreadable
		}
		reading.plain(text)
		return f, nil
	}
	archive, err := zip.NewReader(file, size)
	if err != nil || len(archive.File) > mostEntries || !apart(archive.File, size) {
		return nil, ErrUnreadable
	}
	f.archive = archive
	left := int64(mostText)
	for _, entry := range archive.File {
		if !k.holds(entry.Name) {
			continue
		}
		text, err := unpacked(entry, left)
		if err != nil {
			return nil, err
		}
		left -= int64(len(text))
		if err := reading.marked(entry.Name, text, *k.markup); err != nil {
			return nil, err
		}
	}
	return f, nil
}

// apart reports that the entries of an archive have each a name and bytes of their own: one
// whose entries share bytes becomes many times as large where it is written again.
func apart(entries []*zip.File, size int64) bool {
	type span struct{ from, to int64 }
	names, spans := make(map[string]bool, len(entries)), make([]span, 0, len(entries))
	for _, e := range entries {
		from, err := e.DataOffset()
		to := from + int64(e.CompressedSize64)
		if err != nil || names[e.Name] || to < from || to > size {
			return false
		}
		names[e.Name] = true
		spans = append(spans, span{from, to})
	}
	slices.SortFunc(spans, func(a, b span) int { return cmp.Or(cmp.Compare(a.from, b.from), cmp.Compare(a.to, b.to)) })
	for i := 1; i < len(spans); i++ {
		if spans[i].from < spans[i-1].to {
			return false
		}
	}
	return true
}

// unpacked reads an entry of an archive that is no longer than most.
func unpacked(entry *zip.File, most int64) ([]byte, error) {
	r, err := entry.Open()
	if err != nil {
		return nil, ErrUnreadable
	}
	defer r.Close()
	text, err := io.ReadAll(io.LimitReader(r, most+1))
	if err != nil || int64(len(text)) > most {
		return nil, ErrUnreadable
	}
	return text, nil
}

// A reading is a form that is being read.
type reading struct {
	ctx    context.Context
	form   *Form
	known  func(record.Field) bool
	parts  int
	tokens int
}

// goesOn counts a tag or a text, and says whether to go on.
func (r *reading) goesOn() error {
	if r.tokens++; r.tokens > mostTokens || r.parts > mostParts {
		return ErrUnreadable
	}
	if r.tokens%1024 == 0 {
		return r.ctx.Err()
	}
	return nil
}

// find returns the known columns of a text, and notes what it asks for.
func (r *reading) find(text string) []filling.Part {
	var out []filling.Part
	for _, p := range filling.Find(text, r.form.style, r.known) {
		f := r.form
		switch {
		case !p.Known:
			if len(f.Missing) < mostMissing && !slices.Contains(f.Missing, p.Label) {
				f.Missing = append(f.Missing, p.Label)
			}
			continue
		case !slices.ContainsFunc(f.Asks, func(a filling.Part) bool { return a.Asked == p.Asked }):
			f.Asks = append(f.Asks, p)
		}
		out = append(out, p)
	}
	r.parts += len(out)
	return out
}

func (r *reading) plain(text []byte) {
	at := 0
	for _, p := range r.find(string(text)) {
		r.form.texts[""] = append(r.form.texts[""], piece{bytes: text[at:p.From]}, piece{part: &p})
		at = p.To
	}
	r.form.texts[""] = append(r.form.texts[""], piece{bytes: text[at:]})
}

// Write writes the file with values in the place of its columns.
func (f *Form) Write(w io.Writer, values record.Getter) error {
	w = &bounded{w, mostWritten}
	if f.archive == nil {
		return f.text(w, "", values)
	}
	out := zip.NewWriter(w)
	if err := out.SetComment(f.archive.Comment); err != nil {
		return fmt.Errorf("form: %w", err)
	}
	for _, entry := range f.archive.File {
		if len(f.texts[entry.Name]) == 0 {
			if err := out.Copy(entry); err != nil {
				return fmt.Errorf("form: %s: %w", entry.Name, err)
			}
			continue
		}
		to, err := out.CreateHeader(&zip.FileHeader{Name: entry.Name, Comment: entry.Comment, NonUTF8: entry.NonUTF8,
			Method: entry.Method, Modified: entry.Modified, ExternalAttrs: entry.ExternalAttrs})
		if err != nil {
			return fmt.Errorf("form: %s: %w", entry.Name, err)
		}
		if err := f.text(to, entry.Name, values); err != nil {
			return err
		}
	}
	return out.Close()
}

// bounded writes no more than so many bytes.
type bounded struct {
	io.Writer
	left int64
}

func (b *bounded) Write(p []byte) (int, error) {
	if b.left -= int64(len(p)); b.left < 0 {
		return 0, ErrUnreadable
	}
	return b.Writer.Write(p)
}

// text writes the pieces of a text.
func (f *Form) text(w io.Writer, entry string, values record.Getter) error {
	for _, p := range f.texts[entry] {
		b := p.bytes
		if p.part != nil {
			b = []byte(p.part.Value(f.style, values))
			if f.archive != nil {
				b = escaped(string(b))
			}
		}
		if _, err := w.Write(b); err != nil {
			return fmt.Errorf("form: %w", err)
		}
	}
	return nil
}
