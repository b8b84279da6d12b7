// Package passwords says what is wrong with a password, and makes codes for the first
// sign-in.
package passwords

import (
	_ "embed"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

// What a password keeps to: length first, in letters, as NIST SP 800-63B, section 5.1.1,
// has it; no rules on which letters.
const (
	Least = 10  // letters
	Most  = 256 // bytes
)

// common are passwords that are tried first by anyone who guesses, in lower case. From memory.
//
//go:embed common.txt
var common string

var known = func() map[string]bool {
	m := map[string]bool{}
	for word := range strings.FieldsSeq(common) {
		m[word] = true
	}
	return m
}()

// Weak returns why a password can't be one, empty where it can: "password-short",
// "password-long", "password-known", or "password-own" where it is little more than what
// is in own, such as the person's names and address.
func Weak(password string, own ...string) (code string) {
	password = norm.NFC.String(password)
	low := strings.ToLower(password)
	switch {
	case len(password) > Most:
		return "password-long"
	case utf8.RuneCountInString(password) < Least:
		return "password-short"
	case known[low], known[bare(low)], monotone(low):
		return "password-known"
	}
	rest := low
	for _, o := range own {
		for _, part := range strings.FieldsFunc(strings.ToLower(o), func(r rune) bool { return strings.ContainsRune(" .@-_'’", r) }) {
			if utf8.RuneCountInString(part) >= 3 {
				rest = strings.ReplaceAll(rest, part, "")
			}
		}
	}
	if utf8.RuneCountInString(bare(rest)) < 4 && rest != low {
		return "password-own"
	}
	return ""
}

// bare is a password without the figures and marks people put around a word.
func bare(s string) string { return strings.Trim(s, "0123456789!?.,*#$-_ ") }

// monotone reports a password that repeats up to three letters, or counts on.
func monotone(s string) bool {
	for n := 1; n <= 3; n++ {
		if len(s) > n && strings.Repeat(s[:n], len(s)/n+1)[:len(s)] == s {
			return true
		}
	}
	for _, row := range []string{"01234567890123456789", "98765432109876543210", "abcdefghijklmnopqrstuvwxyz",
		"zyxwvutsrqponmlkjihgfedcba", "qwertyuiopasdfghjklzxcvbnm"} {
		if strings.Contains(row, s) {
			return true
		}
	}
	return false
}

// letters of codes: none that is taken for another.
const letters = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789"

// codeLength is how many letters a code has: 5 bits each.
const codeLength = 10

// Code writes random bytes, one for each letter, as a code to read off a slip.
func Code(random [codeLength]byte) string {
	var b strings.Builder
	for i, r := range random {
		if i == codeLength/2 {
			b.WriteByte('-')
		}
		b.WriteByte(letters[int(r)%len(letters)])
	}
	return b.String()
}

// PlainCode is a code as it was made, however it was typed: in any case, with or without
// its mark, O or 0 for the Q that they look like.
func PlainCode(typed string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case r == 'O' || r == '0':
			return 'Q'
		case strings.ContainsRune(letters, r):
			return r
		}
		return -1
	}, strings.ToUpper(typed))
}
