// Package naming turns patterns of text and columns into names that are safe
// on every common file system, tells equal names apart, and orders names the
// way the school's language does.
package naming

import (
	"fmt"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/rivo/uniseg"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/record"
)

// personColumns name a person; a mark that tells two equal names apart stands
// after the last of them.
var personColumns = map[record.Field]bool{record.Given: true, record.Family: true, record.Preferred: true, record.Number: true}

// A Part is one piece of a Pattern: a column, or as many of its first letters as First
// says, or else fixed text.
type Part struct {
	Column record.Field `json:"column,omitempty"`
	First  int          `json:"first,omitempty"`
	Text   string       `json:"text,omitempty"`
}

// How much a pattern may be, in parts and bytes of a part's text, and a name that somebody
// types for a thing, in bytes.
const (
	MostParts = 40
	MostText  = 100
	MostName  = 240
)

// Bounded refuses a pattern of too many parts, or with too long a text in one, at a field.
func (p Pattern) Bounded(field string) error {
	if len(p) > MostParts {
		return change.Refuse(field, "missing")
	}
	for _, part := range p {
		if len(part.Text) > MostText {
			return change.TooLong(field, MostText)
		}
	}
	return nil
}

// Tidy is what somebody typed on one line, without white space around it.
func Tidy(s string) string { return strings.Join(strings.Fields(s), " ") }

// Folder is what a folder that somebody named will be called, and nothing where the name has
// nothing in it.
func Folder(typed string) string {
	if Tidy(typed) == "" {
		return ""
	}
	return Safe(typed, "")
}

// MostLetters are as many first letters as can be asked for.
const MostLetters = 20

// value is what is in a part's column, or the beginning of it.
func (p Part) value(values record.Getter) string {
	v := said(values.Get(p.Column))
	if p.First == 0 || len(v) <= p.First {
		return v
	}
	end := 0
	letters := uniseg.NewGraphemes(v)
	for n := 0; n < p.First && letters.Next(); n++ {
		_, end = letters.Positions()
	}
	return strings.TrimSpace(v[:end])
}

// said is a value with its spaces tidied, or nothing where it has only signs that a name
// may not have: Safe would leave dashes of those, which nobody wrote.
func said(value string) string {
	for _, r := range value {
		if !strings.ContainsRune(forbidden, r) && !unicode.IsSpace(r) && !unicode.IsControl(r) &&
			r != unicode.ReplacementChar && !isDirection(r) {
			return clean(value)
		}
	}
	return ""
}

// A Pattern is a list of parts, in the order they appear in the name.
type Pattern []Part

// A SyntaxError says where a written pattern can't be read. Offset counts
// bytes from 0.
type SyntaxError struct {
	Offset int
	Code   string // "bracket-open", "bracket-empty", "bracket-stray", "column-unknown"
	Text   string
}

func (e *SyntaxError) Error() string {
	return fmt.Sprintf("pattern: %s at byte %d %q", e.Code, e.Offset, e.Text)
}

// Parse reads a written pattern such as "[Period] [Family name] – [Title]".
// A doubled bracket is a literal one, read from the left; in a column's brackets a
// backslash is before one. First letters of a column are "[Family name[1]]". Columns that can't be
// picked are refused; where nothing is said about that, every column is taken.
func Parse(s string, known record.Vocabulary) (Pattern, error) {
	var p Pattern
	var text strings.Builder
	flush := func() {
		if text.Len() > 0 {
			p = append(p, Part{Text: text.String()})
			text.Reset()
		}
	}
	for i := 0; i < len(s); {
		switch {
		case strings.HasPrefix(s[i:], "[["):
			text.WriteByte('[')
			i += 2
		case strings.HasPrefix(s[i:], "]]"):
			text.WriteByte(']')
			i += 2
		case s[i] == ']':
			return nil, &SyntaxError{i, "bracket-stray", "]"}
		case s[i] == '[':
			name, first, end := heading(s[i:])
			if end < 0 {
				return nil, &SyntaxError{i, "bracket-open", s[i:]}
			}
			if name == "" {
				return nil, &SyntaxError{i, "bracket-empty", "[]"}
			}
			column := record.Named(name)
			if known != nil && !known.Has(column) {
				return nil, &SyntaxError{i, "column-unknown", name}
			}
			flush()
			p = append(p, Part{Column: column, First: first})
			i += end + 1
		default:
			text.WriteByte(s[i])
			i++
		}
	}
	flush()
	return p, nil
}

// Column reads a column in the brackets that s begins with, as it is written in a
// pattern; label is what is in them, and end where they do. ok is false where
// there is none.
func Column(s string) (p Part, label string, end int, ok bool) {
	if !strings.HasPrefix(s, "[") {
		return Part{}, "", 0, false
	}
	name, first, at := heading(s)
	if at < 0 || name == "" {
		return Part{}, "", 0, false
	}
	return Part{Column: record.Named(name), First: first}, name, at + 1, true
}

// heading reads what is in the brackets that s begins with, and where they
// end; -1 where they don't. A backslash takes the next byte as it is, for headings
// that have brackets in them; a number in brackets of its own at the end is how many
// first letters are meant.
func heading(s string) (name string, first, end int) {
	var b strings.Builder
	for i := 1; i < len(s); i++ {
		switch {
		case s[i] == '\\' && i+1 < len(s):
			i++
			b.WriteByte(s[i])
		case s[i] == ']':
			return strings.TrimSpace(b.String()), 0, i
		case s[i] == '[':
			if n, after, ok := letters(s[i:]); ok {
				return strings.TrimSpace(b.String()), n, i + after
			}
			b.WriteByte(s[i])
		default:
			b.WriteByte(s[i])
		}
	}
	return "", 0, -1
}

// letters reads "[2]]", and says where its last bracket is.
func letters(s string) (n, at int, ok bool) {
	number, _, ok := strings.Cut(s[1:], "]]")
	n, err := strconv.Atoi(number)
	return n, len(number) + 2, ok && err == nil && n > 0 && n <= MostLetters && number == strconv.Itoa(n)
}

// String writes the pattern so that Parse reads the same parts again.
func (p Pattern) String() string {
	quoted := strings.NewReplacer(`\`, `\\`, "[", `\[`, "]", `\]`)
	double := strings.NewReplacer("[", "[[", "]", "]]")
	var b strings.Builder
	for _, part := range p {
		if part.Column != "" {
			b.WriteString("[" + quoted.Replace(part.Column.Label()))
			if part.First > 0 {
				fmt.Fprintf(&b, "[%d]", part.First)
			}
			b.WriteByte(']')
		} else {
			b.WriteString(double.Replace(part.Text))
		}
	}
	return b.String()
}

const separators = " -–—_·,.;:/|"

var closing = map[rune]rune{'(': ')', '[': ']', '{': '}', '<': '>'}

// A glyph is one rune of a name being built. Only text the pattern itself
// holds may be stripped as a separator; a student's own full stop stays.
type glyph struct {
	r     rune
	fixed bool // from the pattern's text
	gap   bool // stands for a column without a value
}

func (g glyph) separator() bool { return g.fixed && strings.ContainsRune(separators, g.r) }

// Render fills the pattern's columns with values. Space is collapsed; around a
// column without a value the separators go, as do brackets left empty.
func (p Pattern) Render(values record.Getter) string {
	return p.RenderMarked(values, "")
}

// RenderMarked renders like Render and puts mark after the last person column
// that has a value, else at the end.
func (p Pattern) RenderMarked(values record.Getter, mark string) string {
	last := -1
	for i, part := range p {
		if mark != "" && personColumns[part.Column] && part.value(values) != "" {
			last = i
		}
	}
	if name, whole := p.joined(values, mark, last); whole {
		return name
	}
	var gs []glyph
	for i, part := range p {
		if part.Column == "" {
			for _, r := range part.Text {
				gs = append(gs, glyph{r: r, fixed: true})
			}
			continue
		}
		v := part.value(values)
		if mark != "" && i == last {
			v += " " + mark
		}
		if v == "" {
			gs = append(gs, glyph{gap: true})
		}
		for _, r := range v {
			gs = append(gs, glyph{r: r})
		}
	}
	gs = closeGaps(gs)
	var b strings.Builder
	for _, g := range gs {
		b.WriteRune(g.r)
	}
	name := clean(b.String())
	if mark != "" && last < 0 {
		name = clean(name + " " + mark)
	}
	return name
}

// joined renders a pattern of whose columns none is without a value: nothing is
// to be stripped then. whole is false where one is.
func (p Pattern) joined(values record.Getter, mark string, last int) (name string, whole bool) {
	var b strings.Builder
	for i, part := range p {
		if part.Column == "" {
			b.WriteString(part.Text)
			continue
		}
		v := part.value(values)
		if v == "" {
			return "", false
		}
		b.WriteString(v)
		if mark != "" && i == last {
			b.WriteString(" " + mark)
		}
	}
	if mark != "" && last < 0 {
		b.WriteString(" " + mark)
	}
	return clean(b.String()), true
}

// closeGaps removes each gap with the separators around it. Between two things
// that stay, one separator run stays: the right one if it is more than space.
func closeGaps(gs []glyph) []glyph {
	for {
		at := -1
		for i, g := range gs {
			if g.gap {
				at = i
				break
			}
		}
		if at < 0 {
			return gs
		}
		from, to := at, at+1
		leftRun, rightRun := at, at+1
		for {
			for from > 0 && gs[from-1].separator() {
				from--
			}
			for to < len(gs) && gs[to].separator() {
				to++
			}
			if from > 0 && to < len(gs) && gs[from-1].fixed && gs[to].fixed && closing[gs[from-1].r] != 0 && closing[gs[from-1].r] == gs[to].r {
				from, to = from-1, to+1
				leftRun, rightRun = from, to
				continue
			}
			break
		}
		var keep []glyph
		if from > 0 && to < len(gs) {
			keep = gs[rightRun:to]
			if blank(keep) && !blank(gs[from:leftRun]) || len(keep) == 0 {
				keep = gs[from:leftRun]
			}
		}
		next := append([]glyph{}, gs[:from]...)
		next = append(next, keep...)
		gs = append(next, gs[to:]...)
	}
}

func blank(gs []glyph) bool {
	for _, g := range gs {
		if g.r != ' ' {
			return false
		}
	}
	return true
}

// clean collapses every run of white space to one space and trims both ends.
func clean(s string) string {
	if tidy(s) {
		return s
	}
	return strings.Join(strings.Fields(s), " ")
}

// tidy reports, quickly, a text that clean leaves as it is.
func tidy(s string) bool {
	for i, r := range s {
		if r == ' ' && (i == 0 || i == len(s)-1 || s[i-1] == ' ') || r != ' ' && unicode.IsSpace(r) {
			return false
		}
	}
	return utf8.ValidString(s)
}
