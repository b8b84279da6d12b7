package tables

import (
	"bytes"
	"cmp"
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/japanese"
	utf16 "golang.org/x/text/encoding/unicode"
)

// A Hint helps to read a text whose letters are in an older encoding: Encoding is the one it is
// in, by a name that Book.Readings has, empty where that isn't known; Known says of a word
// whether it is somebody's name.
type Hint struct {
	Encoding string
	Known    func(word string) bool
}

// A Reading is one way to read the letters of a text. Example is the first word
// it reads differently than the reading that was taken, which has Instead.
type Reading struct{ Encoding, Example, Instead string }

// decode brings the bytes to UTF-8 without a byte order mark. A mark decides;
// then UTF-16 by its zero bytes, UTF-8 by its form, and else the one of the
// older encodings in which most words are known names, or look most like words, or the one
// asked for. Of text in an older encoding the readings are told, the one taken first.
func decode(b []byte, as Hint) (text []byte, readings []Reading, err error) {
	var enc encoding.Encoding
	switch {
	case bytes.HasPrefix(b, []byte{0xEF, 0xBB, 0xBF}):
		b = b[3:]
	case bytes.HasPrefix(b, []byte{0xFF, 0xFE}), bytes.HasPrefix(b, []byte{0xFE, 0xFF}):
		enc = utf16.UTF16(utf16.LittleEndian, utf16.ExpectBOM)
	default:
		enc = unmarked16(b)
	}
	if enc == nil {
		if binary(b) {
			return nil, nil, &Error{Code: "not-a-table"}
		}
		if utf8.Valid(b) {
			return b, nil, nil
		}
		enc, readings = older(b, as)
	}
	out, err := enc.NewDecoder().Bytes(b)
	if err != nil || binary(out) {
		return nil, nil, &Error{Code: "not-a-table"}
	}
	return out, readings, nil
}

// unmarked16 knows UTF-16 without a mark by its separators and line ends, one half of which is
// zero: it is always the same half.
func unmarked16(b []byte) encoding.Encoding {
	head := b[:min(len(b), 1<<16)&^1]
	if len(b)%2 != 0 || len(head) < 4 {
		return nil
	}
	plains, little, big := 0, 0, 0
	for i := 0; i+1 < len(head); i += 2 {
		lo, hi := head[i], head[i+1]
		switch {
		case hi == 0 && divides(lo):
			little++
		case lo == 0 && divides(hi):
			big++
		case hi == 0 && plain(lo) || lo == 0 && plain(hi):
			plains++
		}
	}
	if (plains+little+big)*20 < len(head)/2 {
		return nil
	}
	switch {
	case little > 0 && big*10 <= little:
		return utf16.UTF16(utf16.LittleEndian, utf16.IgnoreBOM)
	case big > 0 && little*10 <= big:
		return utf16.UTF16(utf16.BigEndian, utf16.IgnoreBOM)
	}
	return nil
}

func divides(c byte) bool { return strings.IndexByte("\t\n\r,;", c) >= 0 }

func plain(c byte) bool {
	return c >= 0x20 && c < 0x7f || c == '\t' || c == '\n' || c == '\r'
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

// An older encoding, by the name it is told by.
type olderEncoding interface {
	encoding.Encoding
	fmt.Stringer
}

// olderEncodings are tried in this order; the first of equals is taken. ISO
// 8859-1 is read as Windows-1252, as the WHATWG Encoding Standard has it.
var olderEncodings = []olderEncoding{
	charmap.Windows1252, charmap.Windows1250, charmap.ISO8859_15, charmap.ISO8859_2, charmap.Macintosh,
	charmap.CodePage850, charmap.Windows1251, japanese.ShiftJIS.(olderEncoding),
}

// alphabets are the letters beyond ASCII of languages written in these
// encodings. Common practice, no published source.
var alphabets = func() []map[rune]bool {
	var out []map[rune]bool
	for _, letters := range []string{
		// 1252
		"àâæçéèêëîïôœùûüÿ", "äöüßé", "áéíñóúüç", "ãáâàçéêíõóôúü",
		"åäöæøéüà", "áðéíóúýþæö", "àèéìíòóùî", "ëïéèöüáóíê", "àçèéíïòóúü", "äõöüšž",
		// 1251
		"абвгдежзийклмнопрстуфхцчшщъыьэюяё",
		"абвгдежзийклмнопрстуфхцчшщьюяєіїґ",
		"абвгдежзийклмнопрстуфхцчшыьэюяёіў", "абвгдђежзијклљмнњопрстћуфхцчџш",
		// 1250
		"ąćęłńóśźż", "áčďéěíňóřšťúůýž", "áäčďéíĺľňóôŕšťúýž", "áéíóöőúüű",
		"čćđšž", "ăâîşţ", "çëé",
	} {
		set := map[rune]bool{}
		for _, r := range letters {
			set[r] = true
		}
		out = append(out, set)
	}
	return out
}()

// mostReadings of a text are told.
const mostReadings = 4

// forName is what a known name is worth, beside a word that looks like one.
const forName = 20

// older picks the encoding in which most words are names that are known, or words of some
// language, and most of all words of one, and tells the readings that differ, the likeliest
// first. What as names is taken before any.
func older(b []byte, as Hint) (encoding.Encoding, []Reading) {
	words := oddWords(b)
	type scored struct {
		enc   olderEncoding
		score int
		texts []string
	}
	all := make([]scored, len(olderEncodings))
	for i, enc := range olderEncodings {
		all[i].enc = enc
		perLanguage := make([]int, len(alphabets)+1)
		for _, w := range words {
			text, err := enc.NewDecoder().String(string(w))
			if err != nil {
				text = string(utf8.RuneError)
			}
			all[i].texts = append(all[i].texts, text)
			all[i].score += looks(text, perLanguage)
			if as.Known != nil && as.Known(text) {
				all[i].score += forName
			}
		}
		all[i].score += slices.Max(perLanguage)
		if enc.String() == as.Encoding {
			all[i].score = 1 << 30
		}
	}
	slices.SortStableFunc(all, func(x, y scored) int { return cmp.Compare(y.score, x.score) })
	taken := all[0]
	var readings []Reading
	for i, other := range all[1:] {
		n := slices.IndexFunc(other.texts, func(text string) bool { return strings.ContainsFunc(text, unreadable) })
		same := slices.ContainsFunc(all[:i+1], func(before scored) bool { return slices.Equal(before.texts, other.texts) })
		if n >= 0 || same || other.score < 0 || len(readings)+1 == mostReadings {
			continue
		}
		for n, text := range other.texts {
			if text != taken.texts[n] {
				readings = append(readings, Reading{other.enc.String(), text, taken.texts[n]})
				break
			}
		}
	}
	if len(readings) == 0 {
		return taken.enc, nil
	}
	first := Reading{taken.enc.String(), readings[0].Instead, readings[0].Instead}
	return taken.enc, append([]Reading{first}, readings...)
}

func unreadable(r rune) bool { return r == utf8.RuneError || unicode.IsControl(r) }

// oddWords are the different words with letters beyond ASCII, up to a number
// that is enough to judge by. No letter of any of the encodings has a byte below 0x40.
func oddWords(b []byte) [][]byte {
	var words [][]byte
	seen := map[string]bool{}
	for _, w := range bytes.FieldsFunc(b[:min(len(b), 1<<20)], func(r rune) bool { return r < 0x40 }) {
		if !ascii(w) && !seen[string(w)] {
			seen[string(w)] = true
			if words = append(words, w); len(words) >= 2000 {
				break
			}
		}
	}
	return words
}

// looks says how much a text looks like a word and counts it with every
// language that has all its letters.
func looks(text string, perLanguage []int) int {
	score := 0
	var odd []rune
	latin, others, small := false, false, strings.ContainsFunc(text, unicode.IsLower)
	letters := []rune(text)
	at := func(i int) rune {
		if i < 0 || i >= len(letters) {
			return 0
		}
		return letters[i]
	}
	for i, r := range letters {
		before, l := at(i-1), unicode.IsLetter(r)
		if l && unicode.Is(unicode.Latin, r) {
			latin = true
		} else if l {
			others = true
		}
		switch {
		case unreadable(r):
			return -10
		case l && r >= 0x80:
			odd = append(odd, unicode.ToLower(r))
		case r == '’' && (unicode.IsLetter(before) || unicode.IsLetter(at(i+1))):
			score += 2 // O’Brien, ’t Hooft
		case r < 0x80 || strings.ContainsRune("’–—・", r):
		case !unicode.IsPunct(r) || unicode.IsLetter(before) && unicode.IsLetter(at(i+1)):
			score -= 3 // a sign amid letters
		}
		if unicode.IsUpper(r) && (r >= 0x80 && small && unicode.IsUpper(before) || unicode.IsLower(before) && max(r, before) >= 0x80) {
			score -= 3
		}
	}
	if latin && others {
		score -= 3
	}
	if len(odd) == 0 {
		return score
	}
	known := false
	count := func(language int, has func(rune) bool) {
		if !slices.ContainsFunc(odd, func(r rune) bool { return !has(r) }) {
			perLanguage[language]++
			known = true
		}
	}
	for i, set := range alphabets {
		count(i, func(r rune) bool { return set[r] })
	}
	count(len(alphabets), japaneseLetter)
	if known {
		score += 2
	}
	return score
}

// japaneseLetter reports a letter of Japanese as it is written in full: half as wide ones are
// what other letters look like.
func japaneseLetter(r rune) bool {
	return unicode.In(r, unicode.Han, unicode.Hiragana, unicode.Katakana) && r < 0xFF00 || r == 'ー' || r == '・'
}

func ascii(b []byte) bool {
	return strings.IndexFunc(string(b), func(r rune) bool { return r >= 0x80 }) < 0
}
