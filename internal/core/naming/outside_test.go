package naming

import (
	"bufio"
	"compress/bzip2"
	"encoding/json"
	"io"
	"os"
	"os/exec"
	"path"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/rivo/uniseg"
	"golang.org/x/text/unicode/norm"
)

// unicodeData yields the lines of a file of the package unicode-data (Debian)
// without their comments.
func unicodeData(t *testing.T, name string) []string {
	t.Helper()
	var in io.Reader
	f, err := os.Open("/usr/share/unicode/" + name)
	if err == nil {
		defer f.Close()
		in = f
	} else {
		packed, err := os.Open("/usr/share/unicode/" + name + ".bz2")
		if err != nil {
			t.Fatal("the package unicode-data is needed: ", err)
		}
		defer packed.Close()
		in = bzip2.NewReader(packed)
	}
	var out []string
	lines := bufio.NewScanner(in)
	lines.Buffer(nil, 1<<20)
	for lines.Scan() {
		line, _, _ := strings.Cut(lines.Text(), "#")
		if line = strings.TrimSpace(line); line != "" {
			out = append(out, line)
		}
	}
	if err := lines.Err(); err != nil || len(out) == 0 {
		t.Fatal(name, err)
	}
	return out
}

func runes(t *testing.T, hex string) string {
	t.Helper()
	var b strings.Builder
	for _, h := range strings.Fields(hex) {
		n, err := strconv.ParseUint(h, 16, 32)
		if err != nil {
			t.Fatal(err)
		}
		b.WriteRune(rune(n))
	}
	return b.String()
}

// CaseFolding.txt, common and full folding: both sides of every line are equal
// names. Characters newer than the tables of x/text are passed over.
func TestFoldAgainstUnicode(t *testing.T) {
	n, newer := 0, 0
	for _, line := range unicodeData(t, "CaseFolding.txt") {
		f := strings.Split(line, ";")
		if kind := strings.TrimSpace(f[1]); kind != "C" && kind != "F" {
			continue
		}
		from, to := runes(t, f[0]), runes(t, f[2])
		if Fold(from) != Fold(to) {
			if r, _ := utf8.DecodeRuneInString(from); !norm.NFC.IsNormalString(from) || r >= 0x1C89 && r <= 0x1C8A ||
				r >= 0xA7CB && r <= 0xA7DC || r >= 0x10D50 && r <= 0x10D65 || r >= 0x16EA0 && r <= 0x16EB8 {
				newer++
				continue
			}
			t.Errorf("%q and %q are two names", from, to)
		}
		n++
	}
	if n < 1400 || newer > 200 {
		t.Errorf("%d pairs checked, %d passed over", n, newer)
	}
}

// NormalizationTest.txt: whichever way a letter is put together, it is one
// name. Columns 2 and 4 are the composed forms.
func TestNormalFormsAgainstUnicode(t *testing.T) {
	n := 0
	for _, line := range unicodeData(t, "NormalizationTest.txt") {
		f := strings.Split(line, ";")
		if len(f) < 5 {
			continue
		}
		source, nfc, nfd := "x"+runes(t, f[0]), "x"+runes(t, f[1]), "x"+runes(t, f[2])
		if norm.NFC.String(nfc) != nfc {
			continue // newer than the tables of x/text
		}
		if a, b, c := Fold(source), Fold(nfc), Fold(nfd); a != b || b != c {
			t.Errorf("%q, %q and %q are not one name", source, nfc, nfd)
		}
		n++
	}
	if n < 15000 {
		t.Errorf("%d lines checked", n)
	}
}

// GraphemeBreakTest.txt: a cut never falls where the file says there is no
// boundary (×).
func TestCutAgainstUnicode(t *testing.T) {
	n, differ := 0, 0
	for _, line := range unicodeData(t, "auxiliary/GraphemeBreakTest.txt") {
		var text strings.Builder
		ends := map[int]bool{0: true}
		for part := range strings.FieldsSeq(line) {
			switch part {
			case "÷":
				ends[text.Len()] = true
			case "×":
			default:
				text.WriteString(runes(t, part))
			}
		}
		s := text.String()
		if uniseg.GraphemeClusterCount(s) != len(ends)-1 {
			differ++ // another version of the standard than the library's
			continue
		}
		for limit := range len(s) {
			if c := cut(s, limit); !ends[len(c)] || len(c) > limit || !strings.HasPrefix(s, c) {
				t.Errorf("%q cut at %d is %q", s, limit, c)
			}
		}
		n++
	}
	if n < 550 || differ > 40 {
		t.Errorf("%d lines checked, %d differ", n, differ)
	}
}

// Names made of the package blns (npm, a big list of nasty strings) and of our
// own nasty ones pass the package filename-reserved-regex (npm): no forbidden
// character, no reserved device name, nothing that steps out of a folder.
func TestSafeAgainstReservedNames(t *testing.T) {
	cmd := exec.Command("node", "--input-type=module", "-e", `
		import reserved, { windowsReservedNameRegex } from 'filename-reserved-regex'
		import { createRequire } from 'module'
		const blns = createRequire(import.meta.url)('blns')
		console.log(JSON.stringify({ characters: reserved().source, names: windowsReservedNameRegex().source, nasty: blns }))`)
	cmd.Dir = "../../../ui"
	out, err := cmd.Output()
	if err != nil {
		t.Fatalf("the packages in ui/node_modules, installed by make: %v", err)
	}
	var theirs struct {
		Characters, Names string
		Nasty             []string
	}
	if err := json.Unmarshal(out, &theirs); err != nil {
		t.Fatal(err)
	}
	// The same expressions in Go's syntax: \u{0} is \x{0}.
	characters := regexp.MustCompile(strings.NewReplacer(`\u{`, `\x{`, `\/`, `/`).Replace(theirs.Characters))
	names := regexp.MustCompile("(?i)" + theirs.Names)
	nasty := append(theirs.Nasty, "..", ".", "", " ", "con", "CON.txt", "nul .tar.gz", "COM¹", "lpt9.x", "a/../b",
		`c:\d`, "x\x00y", "a\u202egpj.exe", strings.Repeat("é", 300), strings.Repeat("👩‍👩‍👧", 60), "trailing. . ", "\ufefflead")
	if len(nasty) < 400 {
		t.Fatalf("%d nasty strings", len(nasty))
	}
	for _, s := range nasty {
		for _, ending := range []string{"", ".md"} {
			got := Safe(s, ending)
			if characters.MatchString(got) || names.MatchString(got) || got == "" || len(got) > MaxBytes ||
				!utf8.ValidString(got) || got != path.Base(got) || strings.HasPrefix(got, ".") && ending == "" {
				t.Errorf("Safe(%q, %q) = %q", s, ending, got)
			}
			if again := Safe(strings.TrimSuffix(got, ending), ending); again != got {
				t.Errorf("Safe of the safe name %q is %q", got, again)
			}
		}
	}
}
