package naming

import (
	"path"
	"strings"
	"unicode"

	"github.com/rivo/uniseg"
	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

// MaxBytes is the longest name, in bytes of UTF-8 after NFC: the limit of the
// common Linux file systems (NAME_MAX), and below that of the others.
const MaxBytes = 255

// dashed are the forbidden characters that become a hyphen, dropped those that go; a double
// quote becomes a single one. Source: see reserved.
const (
	dashed    = `/\:|`
	dropped   = `<>?*`
	forbidden = dashed + dropped + `"`
)

// Nameless is the name of a thing whose own name has nothing left in it.
const Nameless = "Unnamed"

// reserved device names, with any ending and in any case.
// Source: "Naming Files, Paths, and Namespaces", Win32 documentation (from memory).
var reserved = func() map[string]bool {
	m := map[string]bool{"con": true, "prn": true, "aux": true, "nul": true, "conin$": true, "conout$": true}
	for _, d := range "0123456789¹²³" {
		m["com"+string(d)] = true
		m["lpt"+string(d)] = true
	}
	return m
}()

// Safe makes name fit for every common file system: forbidden characters
// become a hyphen or go, control and direction characters go, reserved names
// get an underline, the name is NFC and at most MaxBytes long. ending (such as
// ".md", or empty) is kept whole and never counted as part of the name.
// Safe of a safe name is the same name.
func Safe(name, ending string) string {
	if plain(name) && len(name)+len(ending) <= MaxBytes {
		return name + ending
	}
	name = norm.NFC.String(strings.ToValidUTF8(name, ""))
	name = strings.Map(func(r rune) rune {
		switch {
		case strings.ContainsRune(dashed, r):
			return '-'
		case r == '"':
			return '\''
		case strings.ContainsRune(dropped, r):
			return -1
		case r == unicode.ReplacementChar, unicode.IsControl(r) && !unicode.IsSpace(r), isDirection(r):
			return -1
		case unicode.IsSpace(r):
			return ' '
		}
		return r
	}, name)
	name = clean(name)
	name = trimEnds(name)
	stem, rest, dotted := strings.Cut(name, ".")
	if reserved[strings.ToLower(strings.TrimRight(stem, " "))] {
		name = strings.TrimRight(stem, " ") + "_"
		if dotted {
			name += "." + rest
		}
	}
	if name = strings.TrimRight(cut(norm.NFC.String(name), MaxBytes-len(ending)), " ."); name == "" {
		name = Nameless
	}
	return norm.NFC.String(name) + ending
}

// plain reports, quickly, a name that Safe leaves as it is: the common case.
// Another may be safe, too.
func plain(name string) bool {
	if name == "" || name[0] == ' ' || name[0] == '.' || name[len(name)-1] == ' ' || name[len(name)-1] == '.' {
		return false
	}
	beyond := false // ASCII
	for i, r := range name {
		switch {
		case r < ' ' || r == 0x7f || r == ' ' && name[i-1] == ' ':
			return false
		case r == '/', r == '\\', r == ':', r == '|', r == '"', r == '<', r == '>', r == '?', r == '*':
			return false
		case r < 0x80:
		case r == unicode.ReplacementChar, unicode.IsControl(r), unicode.IsSpace(r), isDirection(r):
			return false
		default:
			beyond = true
		}
	}
	if beyond && !norm.NFC.IsNormalString(name) {
		return false
	}
	stem, _, _ := strings.Cut(name, ".")
	return len(stem) > len("conout$") || !reserved[strings.ToLower(strings.TrimRight(stem, " "))]
}

// What Safe does to a name, as who gives it is told.
const (
	Replaced  = "replaced"  // characters became others, or went
	Shortened = "shortened" // it was too long
)

// Altered returns what Safe does to a name with an ending beyond tidying its
// spaces: Shortened, Replaced, or nothing.
func Altered(name, ending string) string {
	if plain(name) && len(name)+len(ending) <= MaxBytes {
		return ""
	}
	tidy := clean(norm.NFC.String(name))
	switch {
	case len(tidy)+len(ending) > MaxBytes:
		return Shortened
	case Safe(name, ending) != tidy+ending:
		return Replaced
	}
	return ""
}

// trimEnds removes what may not begin or end a name: dots and spaces at the
// end, dots at the beginning (they hide a file).
func trimEnds(s string) string {
	return strings.TrimRight(strings.TrimLeft(s, " ."), " .")
}

// isDirection reports characters that change how the text around them is
// shown without being seen themselves: bidirectional controls, zero-width
// space and byte order mark. Joiners stay, several scripts need them.
func isDirection(r rune) bool {
	return r >= '\u202A' && r <= '\u202E' || r >= '\u2066' && r <= '\u2069' || r == '\u200E' || r == '\u200F' ||
		r == '\u061C' || r == '\u200B' || r == '\uFEFF'
}

// cut shortens s to at most limit bytes at a grapheme boundary (UAX #29).
func cut(s string, limit int) string {
	if len(s) <= limit {
		return s
	}
	end, state := 0, -1
	for rest := s; rest != ""; {
		var cluster string
		cluster, rest, _, state = uniseg.FirstGraphemeClusterInString(rest, state)
		if end+len(cluster) > limit {
			break
		}
		end += len(cluster)
	}
	return s[:end]
}

// Ending returns the file ending of name with its dot (".md"), or "" where it
// has none worth keeping: longer than 16 bytes, or with a space in it.
func Ending(name string) string {
	e := path.Ext(name)
	if len(e) < 2 || len(e) > 16 || strings.ContainsAny(e, " ") || len(e) == len(name) {
		return ""
	}
	return e
}

// Fold returns the form in which two names are equal on file systems that
// ignore case: case-folded, NFC.
func Fold(name string) string {
	if ascii(name) { // the common case needs no tables
		return strings.ToLower(name)
	}
	return norm.NFC.String(strings.Map(cherokee, cases.Fold().String(norm.NFC.String(name))))
}

// cherokee folds small Cherokee letters to capitals, as CaseFolding.txt has it;
// the library exchanges the two.
func cherokee(r rune) rune {
	switch {
	case r >= 0xAB70 && r <= 0xABBF:
		return r - 0xAB70 + 0x13A0
	case r >= 0x13F8 && r <= 0x13FD:
		return r - 8
	}
	return r
}

func ascii(s string) bool {
	for i := 0; i < len(s); i++ {
		if s[i] >= 0x80 {
			return false
		}
	}
	return true
}
