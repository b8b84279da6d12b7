package roster

import (
	"strings"
	"unicode"
)

// particles begin a family name where they are in small letters before its
// last word. Common practice, no published source.
var particles = map[string]bool{"de": true, "da": true, "do": true, "dos": true, "das": true, "del": true,
	"della": true, "di": true, "la": true, "las": true, "los": true, "le": true, "van": true, "von": true, "der": true,
	"den": true, "ter": true, "ten": true, "zu": true, "af": true, "av": true, "el": true, "al": true, "bin": true,
	"bint": true, "ben": true, "ibn": true, "y": true, "e": true, "ní": true, "nic": true, "mac": true, "ó": true,
	"st": true, "st.": true, "san": true}

// SplitName parts a full name into given and family name. "Family, Given" is
// parted at the comma; otherwise the last word is the family name, with the
// particles before it, or the first word where the family name comes first. A
// single name is the family name.
func SplitName(full string, familyFirst bool) (given, family string) {
	full = strings.Join(strings.Fields(full), " ")
	if f, g, ok := strings.Cut(full, ","); ok {
		return strings.TrimSpace(g), strings.TrimSpace(f)
	}
	words := strings.Fields(full)
	if len(words) < 2 {
		return "", full
	}
	if familyFirst {
		return strings.Join(words[1:], " "), words[0]
	}
	at := len(words) - 1
	for at > 1 && particles[strings.ToLower(words[at-1])] {
		at--
	}
	return strings.Join(words[:at], " "), strings.Join(words[at:], " ")
}

// isTidy reports printable ASCII without spaces at the ends or doubled: what
// most cells are.
func isTidy(s string) bool {
	for i := 0; i < len(s); i++ {
		if c := s[i]; c < 0x20 || c >= 0x7f || c == ' ' && (i == 0 || i == len(s)-1 || s[i-1] == ' ') {
			return false
		}
	}
	return true
}

// tidy takes out what is not seen: control and direction characters, zero
// width spaces, doubled space. odd reports whether there was any but space.
func tidy(s string) (out string, odd bool) {
	s = strings.Map(func(r rune) rune {
		switch {
		case r == '\t' || r == '\n' || r == '\r':
			return ' '
		case r == '\u00a0' || r == '\u202f' || r == '\u3000':
			return ' '
		case unicode.IsControl(r), r == unicode.ReplacementChar, r == '\u200b', r == '\ufeff', r >= '\u202a' &&
			r <= '\u202e', r >= '\u2066' && r <= '\u2069', r == '\u200e', r == '\u200f':
			odd = true
			return -1
		}
		return r
	}, s)
	return strings.Join(strings.Fields(s), " "), odd
}

func plainASCII(s string) bool {
	for i := 0; i < len(s); i++ {
		if s[i] >= 0x80 {
			return false
		}
	}
	return true
}

// mixesScripts reports a word with Latin letters beside Cyrillic or Greek
// ones: they look alike and are not (UTS #39).
func mixesScripts(s string) bool {
	latin, other := false, false
	for _, r := range s {
		switch {
		case r < 0x80 && unicode.IsLetter(r), unicode.Is(unicode.Latin, r):
			latin = true
		case unicode.Is(unicode.Cyrillic, r), unicode.Is(unicode.Greek, r):
			other = true
		case !unicode.IsLetter(r) && !unicode.IsMark(r):
			latin, other = false, false
		}
		if latin && other {
			return true
		}
	}
	return false
}
