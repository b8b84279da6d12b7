package passwords

import (
	"math/rand/v2"
	"strings"
	"testing"
)

func TestWeak(t *testing.T) {
	own := []string{"Nokuthula Dube", "nokuthula.dube@kestrelquay.example"}
	for password, want := range map[string]string{
		"": "password-short", "short": "password-short", "äöüßéèêñç": "password-short", strings.Repeat("a1", 200): "password-long",
		"Password123": "password-known", "password!!!!": "password-known", "Welcome2026!": "password-known",
		"qwertyuiop": "password-known", "1234567890": "password-known", "abcabcabcabc": "password-known", "aaaaaaaaaaaa": "password-known",
		"nokuthula1": "password-own", "Dube.Nokuthula.7": "password-own", "kestrelquay99": "password-own",
		"low water at eleven": "", "nokuthula likes tides": "", "äöüßéèêñçà": "", "correct horse": "",
	} {
		if got := Weak(password, own...); got != want {
			t.Errorf("%q: %q, want %q", password, got, want)
		}
	}
}

// A code reads back as it was made, however it is typed, and two are hardly ever alike.
func TestCodes(t *testing.T) {
	seen := map[string]bool{}
	for range 2000 {
		var b [codeLength]byte
		for i := range b {
			b[i] = byte(rand.IntN(256))
		}
		c := Code(b)
		if seen[c] || len(c) != codeLength+1 || strings.ContainsAny(c, "01IO") {
			t.Fatalf("code %q", c)
		}
		seen[c] = true
		plain := PlainCode(c)
		for _, typed := range []string{strings.ToLower(c), " " + c + " ", strings.ReplaceAll(c, "-", ""), strings.ReplaceAll(c, "-", " – ")} {
			if PlainCode(typed) != plain {
				t.Fatalf("%q reads %q, want %q", typed, PlainCode(typed), plain)
			}
		}
	}
	if PlainCode("O0O0") == "" || PlainCode("") != "" {
		t.Error("letters that are in no code vanish")
	}
}
