package roster

import (
	"regexp"
	"strings"
	"unicode/utf8"
)

// local and domain follow the WHATWG HTML rule for <input type=email> ("valid
// e-mail address"), widened to the letters of RFC 6531 and narrowed by RFC 5322
// dot-atom: no dot first, last or doubled.
var (
	localForm  = regexp.MustCompile("^[a-zA-Z0-9!#$%&'*+/=?^_`{|}~\\x{80}-\\x{10FFFF}-]+(\\.[a-zA-Z0-9!#$%&'*+/=?^_`{|}~\\x{80}-\\x{10FFFF}-]+)*$")
	domainForm = regexp.MustCompile(`^[a-zA-Z0-9\x{80}-\x{10FFFF}]([a-zA-Z0-9\x{80}-\x{10FFFF}-]{0,61}[a-zA-Z0-9\x{80}-\x{10FFFF}])?(\.[a-zA-Z0-9\x{80}-\x{10FFFF}]([a-zA-Z0-9\x{80}-\x{10FFFF}-]{0,61}[a-zA-Z0-9\x{80}-\x{10FFFF}])?)*$`)
)

// AddressForm checks an address's form. It returns an empty string where the
// form is right, else what is wrong: "no-at", "two-ats", "space", "local",
// "domain", "too-long" (RFC 5321 4.5.3.1: 64 bytes before the @, 254 in all)
// or "not-text".
func AddressForm(a string) string {
	if !utf8.ValidString(a) {
		return "not-text"
	}
	at := strings.LastIndexByte(a, '@')
	switch {
	case at < 0:
		return "no-at"
	case strings.ContainsAny(a, " \t\u00a0\u200b"):
		return "space"
	case strings.Count(a, "@") > 1:
		return "two-ats"
	case at > 64 || len(a) > 254:
		return "too-long"
	case !localForm.MatchString(a[:at]):
		return "local"
	case !domainForm.MatchString(a[at+1:]):
		return "domain"
	}
	return ""
}

// mendAddress offers what a malformed address was likely meant to be, or "".
func mendAddress(a, domain string) string {
	m := strings.Map(func(r rune) rune {
		switch r {
		case ' ', '\t', '\u00a0', '\u200b':
			return -1
		case '＠':
			return '@'
		}
		return r
	}, a)
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
