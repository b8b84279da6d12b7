package roster

import (
	"regexp"
	"strings"
	"unicode/utf8"
)

// The forms of both halves follow the WHATWG HTML rule for <input type=email>
// ("valid e-mail address"), widened to the letters of RFC 6531 and narrowed by
// RFC 5322 dot-atom: no dot first, last or doubled.

// localForm reports whether s may be before the @.
func localForm(s string) bool {
	last := byte('.')
	for i := 0; i < len(s); i++ {
		c := s[i]
		if c == '.' {
			if last == '.' {
				return false
			}
		} else if !letterOrDigit(c) && strings.IndexByte("!#$%&'*+/=?^_`{|}~-", c) < 0 {
			return false
		}
		last = c
	}
	return last != '.'
}

// domainForm reports whether s may stand after the @: labels of letters,
// digits and inner hyphens, of 63 characters at most.
func domainForm(s string) bool {
	for label := range strings.SplitSeq(s, ".") {
		if label == "" || label[0] == '-' || label[len(label)-1] == '-' || len(label) > 63 && utf8.RuneCountInString(label) > 63 {
			return false
		}
		for i := 0; i < len(label); i++ {
			if c := label[i]; !letterOrDigit(c) && c != '-' {
				return false
			}
		}
	}
	return true
}

// letterOrDigit takes every byte of a character beyond ASCII for a letter's.
func letterOrDigit(c byte) bool {
	return c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' || c >= 0x80
}

// usualAddress reports an address of letters, figures, inner single dots,
// hyphens and underlines in small ASCII, as nearly all are: its form is right,
// and it is its own lower case. It says no of others that may be right as well.
func usualAddress(a string) bool {
	if len(a) > 100 {
		return false
	}
	at, last := -1, byte('.')
	for i := 0; i < len(a); i++ {
		c := a[i]
		switch {
		case c >= 'a' && c <= 'z', c >= '0' && c <= '9':
		case c == '.':
			if last == '.' || last == '@' || last == '-' {
				return false
			}
		case c == '@':
			if at >= 0 || last == '.' || i > 60 {
				return false
			}
			at = i
		case c == '-':
			if last == '.' || last == '@' {
				return false
			}
		case c == '_' && at < 0:
		default:
			return false
		}
		last = c
	}
	return at > 0 && len(a)-at <= 60 && last != '.' && last != '@' && last != '-'
}

// MostAddress is how long an address may be, in bytes (RFC 5321 4.5.3.1.3, less the brackets).
const MostAddress = 254

// AddressForm checks an address's form. It returns an empty string where the
// form is right, else what is wrong: "no-at", "two-ats", "space", "local",
// "domain", "too-long" (RFC 5321 4.5.3.1: 64 bytes before the @, 254 in all)
// or "not-text".
func AddressForm(a string) string {
	at, ats, space, ascii := -1, 0, false, true
	for i := 0; i < len(a); i++ {
		switch c := a[i]; {
		case c == '@':
			at = i
			ats++
		case c == ' ' || c == '\t':
			space = true
		case c >= 0x80:
			ascii = false
		}
	}
	switch {
	case !ascii && !utf8.ValidString(a):
		return "not-text"
	case at < 0:
		return "no-at"
	case space || !ascii && strings.ContainsAny(a, "\u00a0\u200b"):
		return "space"
	case ats > 1:
		return "two-ats"
	case at > 64 || len(a) > MostAddress:
		return "too-long"
	case !localForm(a[:at]):
		return "local"
	case !domainForm(a[at+1:]):
		return "domain"
	}
	return ""
}

// atSign is how people write an @ so that no machine reads it.
var atSign = regexp.MustCompile(`(?i)\s*[(\[{<]\s*at\s*[)\]}>]\s*`)

// mendAddress offers what a malformed address was likely meant to be, or "".
func mendAddress(a, domain string) string {
	m := atSign.ReplaceAllString(a, "@")
	m = strings.Map(func(r rune) rune {
		switch r {
		case ' ', '\t', '\u00a0', '\u200b':
			return -1
		case '＠':
			return '@'
		}
		return r
	}, m)
	if i := strings.LastIndexByte(m, '<'); i >= 0 {
		m = strings.TrimSuffix(m[i+1:], ">")
	}
	m = strings.TrimSuffix(strings.TrimPrefix(m, "mailto:"), ".")
	for strings.Contains(m, "@@") || strings.Contains(m, "..") {
		m = strings.ReplaceAll(strings.ReplaceAll(m, "@@", "@"), "..", ".")
	}
	if domain != "" && !strings.Contains(m, "@") {
		if i := strings.LastIndex(strings.ToLower(m), strings.ToLower(domain)); i > 0 {
			m = strings.TrimRight(m[:i], ".-_") + "@" + domain
		} else if !strings.Contains(m, ".") || AddressForm(m+"@"+domain) == "" {
			m += "@" + domain
		}
	}
	if AddressForm(m) == "" && m != a {
		return m
	}
	return ""
}

func domainOf(address string) string {
	return strings.ToLower(address[strings.LastIndexByte(address, '@')+1:])
}

// usualDomain returns the domain most of the addresses have, if most have one.
func usualDomain(rows []Row, field int) string {
	n, counts := 0, map[string]int{}
	for _, r := range sample(rows) {
		if field < len(r.Cells) {
			if a := strings.TrimSpace(r.Cells[field]); AddressForm(a) == "" {
				counts[domainOf(a)]++
				n++
			}
		}
	}
	for d, c := range counts {
		if c*2 > n {
			return d
		}
	}
	return ""
}

// SameAddress reports that two addresses are one: letters of ASCII compare without case, all
// others as they are. Unicode's folding would take letters that only look alike, such as the
// Kelvin sign and K, for one.
func SameAddress(a, b string) bool { return lowerASCII(a) == lowerASCII(b) }

// InDomain reports that an address is of a domain, compared likewise; every address is of none.
func InDomain(address, domain string) bool {
	return domain == "" || strings.HasSuffix(lowerASCII(address), "@"+lowerASCII(domain))
}

func lowerASCII(s string) string {
	return strings.Map(func(r rune) rune {
		if 'A' <= r && r <= 'Z' {
			return r + 'a' - 'A'
		}
		return r
	}, s)
}
