// Package filling finds the columns that a text asks for in square brackets, as in
// "Dear [Given name]," and says what is in their place.
package filling

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
)

// MostBytes is how long what is in brackets may be, brackets included.
const MostBytes = 200

// A Style is how a text is written.
type Style int

// The styles. In Marked text a backslash takes away the meaning of what follows, and
// what is put in keeps none; brackets that are a link's or a box's are left.
const (
	Plain Style = iota
	Marked
)

// A Part is something in brackets. From and To are the bytes of the text it takes.
type Part struct {
	From, To int
	Asked    naming.Part // the column, and how many first letters of it
	Label    string      // what is in the brackets
	Known    bool        // there is such a column
}

// Find returns what is in brackets in a text, in its order: the columns that are
// known, and what looks as if one was meant. A column is written as in a pattern of
// names; known says which there are.
func Find(text string, style Style, known func(record.Field) bool) []Part {
	var out []Part
	for i := 0; i < len(text); i++ {
		next := strings.IndexByte(text[i:], '[')
		if next < 0 {
			break
		}
		i += next
		from := i
		if style == Marked && escaped(text, i) {
			from--
		}
		if strings.IndexByte(text[i:min(len(text), from+MostBytes)], ']') < 0 {
			continue
		}
		window, at := opened(text[from:min(len(text), from+MostBytes)], style)
		asked, label, end, ok := naming.Column(window)
		if !ok || strings.ContainsAny(window[:end], "\r\n") {
			continue
		}
		to := from + at(end)
		if style == Marked && elsewhere(text[to:]) {
			continue
		}
		p := Part{From: from, To: to, Asked: asked, Label: label, Known: known(asked.Column)}
		if p.Known || meant(label) {
			out = append(out, p)
			i = to - 1
		}
	}
	return out
}

// escaped reports that an odd number of backslashes are before byte i.
func escaped(text string, i int) bool {
	n := 0
	for n < i && text[i-1-n] == '\\' {
		n++
	}
	return n%2 == 1
}

// opened is a piece of text without the backslashes that take meanings away; at says
// where in the text a byte of it is.
func opened(text string, style Style) (plain string, at func(int) int) {
	if style == Plain || !strings.Contains(text, `\`) {
		return text, func(i int) int { return i }
	}
	var b strings.Builder
	places := make([]int, 0, len(text)+1)
	for i := 0; i < len(text); i++ {
		if text[i] == '\\' && i+1 < len(text) && punctuation(rune(text[i+1])) {
			i++
		}
		b.WriteByte(text[i])
		places = append(places, i)
	}
	places = append(places, len(text))
	return b.String(), func(i int) int { return places[i-1] + 1 }
}

// punctuation is what a backslash can be before: https://spec.commonmark.org/0.31.2/#backslash-escapes
func punctuation(r rune) bool {
	return r < utf8.RuneSelf && r > ' ' && r != 0x7f && !unicode.IsLetter(r) && !unicode.IsDigit(r)
}

// elsewhere reports that what follows a bracket makes it the words of a link.
func elsewhere(after string) bool {
	return strings.HasPrefix(after, "(") || strings.HasPrefix(after, "[")
}

// meant reports a text that looks as if a column was meant by it: some letters, such as
// a heading has, and not the cross of a box that is ticked.
func meant(label string) bool {
	first, size := utf8.DecodeRuneInString(label)
	return unicode.IsLetter(first) && len(label) > size && len(label) <= 60
}

// Value is what is in the place of a part: the column's value as names have it, on
// one line, written in the style of the text.
func (p Part) Value(style Style, values record.Getter) string {
	v := naming.Pattern{p.Asked}.Render(values)
	v = strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return -1
		}
		return r
	}, v)
	if style == Plain {
		return v
	}
	var b strings.Builder
	for i, r := range v {
		if strings.ContainsRune("\\`*_[]<>&~|", r) || i == begins(v) {
			b.WriteByte('\\')
		}
		b.WriteRune(r)
	}
	return b.String()
}

// begins is where in a text the character stands that would make a heading, a quote or
// an item of a list of it, were it at the beginning of a line; -1 for none.
func begins(v string) int {
	digits := len(v) - len(strings.TrimLeft(v, "0123456789"))
	switch {
	case v == "":
		return -1
	case strings.ContainsRune("#+-=", rune(v[0])):
		return 0
	case digits > 0 && digits < len(v) && (v[digits] == '.' || v[digits] == ')'):
		return digits
	}
	return -1
}
