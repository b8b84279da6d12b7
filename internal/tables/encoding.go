package tables

import (
	"bytes"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	utf16 "golang.org/x/text/encoding/unicode"
)

// decode brings the bytes to UTF-8 without a byte order mark. A mark decides;
// then UTF-16 by its zero bytes, UTF-8 by its form, and else the one of the
// older encodings in which the words look most like words.
func decode(b []byte) ([]byte, error) {
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
			return nil, &Error{Code: "not-a-table"}
		}
		if utf8.Valid(b) {
			return b, nil
		}
		enc = older(b)
	}
	out, err := enc.NewDecoder().Bytes(b)
	if err != nil || binary(out) {
		return nil, &Error{Code: "not-a-table"}
	}
	return out, nil
}

// unmarked16 knows UTF-16 without a mark by the zero halves of its separators,
// figures and line ends.
func unmarked16(b []byte) encoding.Encoding {
	head := b[:min(len(b), 1<<16)&^1]
	if len(b)%2 != 0 || len(head) < 4 {
		return nil
	}
	little, big := 0, 0
	for i := 0; i+1 < len(head); i += 2 {
		switch {
		case head[i+1] == 0 && plain(head[i]):
			little++
		case head[i] == 0 && plain(head[i+1]):
			big++
		case head[i] == 0 || head[i+1] == 0:
			return nil // neither half is text
		}
	}
	pairs := len(head) / 2
	switch {
	case little*20 >= pairs && big == 0:
		return utf16.UTF16(utf16.LittleEndian, utf16.IgnoreBOM)
	case big*20 >= pairs && little == 0:
		return utf16.UTF16(utf16.BigEndian, utf16.IgnoreBOM)
	}
	return nil
}

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

// olderEncodings are tried in this order; the first of equals is taken. ISO
// 8859-1 is read as Windows-1252, as the WHATWG Encoding Standard has it.
var olderEncodings = []encoding.Encoding{charmap.Windows1252, charmap.Windows1250, charmap.ISO8859_15, charmap.ISO8859_2, charmap.Macintosh}

// alphabets are the letters beyond ASCII of languages written in these
// encodings. Common practice, no published source.
var alphabets = func() []map[rune]bool {
	var out []map[rune]bool
	for _, letters := range []string{
		"àâæçéèêëîïôœùûüÿ", "äöüßé", "áéíñóúüç", "ãáâàçéêíõóôúü", "åäöæøéüà", "áðéíóúýþæö", "àèéìíòóùî", "ëïéèöüáóíê", "àçèéíïòóúü", "äõöüšž", // 1252
		"ąćęłńóśźż", "áčďéěíňóřšťúůýž", "áäčďéíĺľňóôŕšťúýž", "áéíóöőúüű", "čćđšž", "ăâîşţ", "çëé", // 1250
	} {
		set := map[rune]bool{}
		for _, r := range letters {
			set[r] = true
		}
		out = append(out, set)
	}
	return out
}()

// older picks the encoding in which most words are words of some language, and
// most of all words of one.
func older(b []byte) encoding.Encoding {
	var words [][]byte
	seen := map[string]bool{}
	for _, w := range bytes.FieldsFunc(b[:min(len(b), 1<<20)], func(r rune) bool { return r < 0x80 && !unicode.IsLetter(r) }) {
		if !ascii(w) && !seen[string(w)] {
			seen[string(w)] = true
			if words = append(words, w); len(words) >= 2000 {
				break
			}
		}
	}
	best, most := olderEncodings[0], -1<<30
	for _, enc := range olderEncodings {
		score := 0
		perLanguage := make([]int, len(alphabets))
		for _, w := range words {
			text, err := enc.NewDecoder().String(string(w))
			if err != nil {
				score -= 10
				continue
			}
			score += looks(text, perLanguage)
		}
		one := 0
		for _, n := range perLanguage {
			one = max(one, n)
		}
		if score += one; score > most {
			best, most = enc, score
		}
	}
	return best
}

// looks says how much a text looks like a word and counts it with every
// language that has all its letters.
func looks(text string, perLanguage []int) int {
	score := 0
	var before rune
	letters := []rune{}
	for _, r := range text {
		switch {
		case r == utf8.RuneError || unicode.IsControl(r):
			return -10
		case r < 0x80:
		case !unicode.IsLetter(r) && !unicode.IsPunct(r):
			score -= 3 // a sign amid letters
		case unicode.IsLetter(r):
			letters = append(letters, unicode.ToLower(r))
		}
		if unicode.IsUpper(r) && unicode.IsLower(before) && r >= 0x80 {
			score -= 3
		}
		before = r
	}
	if len(letters) == 0 {
		return score
	}
	known := false
	for i, set := range alphabets {
		all := true
		for _, l := range letters {
			all = all && set[l]
		}
		if all {
			perLanguage[i]++
			known = true
		}
	}
	if known {
		score += 2
	}
	return score
}

func ascii(b []byte) bool {
	return strings.IndexFunc(string(b), func(r rune) bool { return r >= 0x80 }) < 0
}
