package roster

import (
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"jollysatchel/internal/core/record"
)

// An AddressRule is how a school makes addresses of names: words in square brackets
// stand for parts of the name, what is around them stands as it is. The parts
// are given, family, g and f (first letters) and number; "[given].[family]" is
// the usual one.
type AddressRule string

// Rules are the ways schools make addresses, the commonest first. Common
// practice, no published source.
var Rules = []AddressRule{"[given].[family]", "[g][family]", "[g].[family]", "[given][family]", "[family].[given]",
	"[family][g]", "[given]_[family]", "[given][f]", "[number]"}

// Derive makes the address of a student by the rule. It is empty where the
// student lacks what the rule needs, or where the letters have no plain form.
func (r AddressRule) Derive(s record.Record, domain string) string {
	given, family := latin(s.Given), latin(s.Family)
	missing := false
	part := func(v string, letters int) string {
		missing = missing || v == ""
		if letters > 0 && len(v) > letters {
			v = v[:letters]
		}
		return v
	}
	var b strings.Builder
	rest := string(r)
	for rest != "" {
		open := strings.IndexByte(rest, '[')
		end := strings.IndexByte(rest, ']')
		if open < 0 || end < open {
			b.WriteString(rest)
			break
		}
		b.WriteString(rest[:open])
		switch rest[open+1 : end] {
		case "given":
			b.WriteString(part(given, 0))
		case "family":
			b.WriteString(part(family, 0))
		case "g":
			b.WriteString(part(given, 1))
		case "f":
			b.WriteString(part(family, 1))
		case "number":
			b.WriteString(part(latin(s.Number), 0))
		default:
			return ""
		}
		rest = rest[end+1:]
	}
	a := b.String() + "@" + strings.ToLower(domain)
	if missing || domain == "" || AddressForm(a) != "" {
		return ""
	}
	return a
}

// GuessRule returns the rule that makes most of the addresses of those who are
// known, and the part of them it makes right, 0 to 1. Known are students with
// names and addresses.
func GuessRule(known []Student) (AddressRule, float64) {
	best, most := Rules[0], 0
	for _, r := range Rules {
		n := 0
		for _, s := range known {
			if s.Address != "" && r.Derive(s.Record, domainOf(s.Address)) == strings.ToLower(s.Address) {
				n++
			}
		}
		if n > most {
			best, most = r, n
		}
	}
	if len(known) == 0 {
		return best, 0
	}
	return best, float64(most) / float64(len(known))
}

// letters that have no accent to lose. Common practice, no published source.
var plainLetters = map[rune]string{'ß': "ss", 'æ': "ae", 'ø': "o", 'œ': "oe", 'ð': "d", 'þ': "th", 'ł': "l",
	'đ': "d", 'ı': "i", 'ħ': "h"}

// latin brings a name to small letters and figures as addresses have them:
// accents, spaces and apostrophes gone, hyphens kept. It is empty where a
// letter has no such form.
func latin(s string) string {
	var b strings.Builder
	for _, r := range norm.NFD.String(strings.ToLower(s)) {
		switch {
		case r >= 'a' && r <= 'z' || r >= '0' && r <= '9' || r == '-':
			b.WriteRune(r)
		case plainLetters[r] != "":
			b.WriteString(plainLetters[r])
		case unicode.IsLetter(r):
			return ""
		}
	}
	return strings.Trim(b.String(), "-")
}
