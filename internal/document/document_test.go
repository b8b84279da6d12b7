package document

import (
	"errors"
	"strings"
	"testing"
	"time"
)

func TestSame(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want bool
	}{
		{"# Log\n\ntext", "Log\n===\n\ntext\n", true},
		{"* a\n* b", "- a\n- b\n", true},
		{"| a |\n| --- |\n| 1 |", "|a|\n|-|\n|1|\n", true},
		{"- [ ] boots", "- [x] boots", false},
		{"text", "text.", false},
		{"a <kbd>b</kbd>", "a b", false}, // raw HTML is part of the document although it isn't shown
		{"<!-- note -->\n\ntext", "text", false},
		{"a  \nb", "a\nb", false}, // a hard line break
	} {
		if got := Same(c.a, c.b); got != c.want {
			t.Errorf("Same(%q, %q) = %v", c.a, c.b, got)
		}
	}
}

func TestPlain(t *testing.T) {
	in := "# Log\n\nLow *water* at [eleven](https://example.com).\n\n| a | b |\n| --- | --- |\n| 1 | 2 |\n\n- [x] boots & coat\n\n<script>alert(1)</script>"
	if got, err := Plain(in); err != nil || got != "Log Low water at eleven . a b 1 2 boots & coat" {
		t.Errorf("%q", got)
	}
}

func TestHTMLIsHarmless(t *testing.T) {
	for _, in := range []string{
		"<script>alert(1)</script>", "<img src=x onerror=alert(1)>", "[a](javascript:alert(1))",
		"![a](javascript:alert(1))", "<style>*{}</style>", "<form action=x><input name=y></form>",
		"<iframe src=x>", "![a](http://example.com/a.png)", "<img src='HTTP://example.com/a.png'>",
		"[a](data:text/html;base64,xx)", "<a href=\"&#106;avascript:alert(1)\">x</a>", "`<script>`\n\n    <script>",
	} {
		html, _ := HTML(in)
		got := strings.ToLower(html)
		for _, bad := range []string{"<script", "onerror", "javascript:", "<style", "<form", "<iframe", "data:text", "name=", "src=\"http:"} {
			if strings.Contains(got, bad) {
				t.Errorf("%q renders as %q", in, got)
			}
		}
	}
}

// An address can be clicked where it stands bare too, and is no other word for it.
func TestAddresses(t *testing.T) {
	for in, want := range map[string]string{
		"See https://tides.example/today.":         `See <a href="https://tides.example/today" rel="nofollow">https://tides.example/today</a>.`,
		"Write to ada@kestrelquay.example":         `Write to <a href="mailto:ada@kestrelquay.example" rel="nofollow">ada@kestrelquay.example</a>`,
		"[the table](https://tides.example/today)": `<a href="https://tides.example/today" rel="nofollow">the table</a>`,
		"`https://tides.example`":                  `<code>https://tides.example</code>`,
		"javascript://alert(1)":                    `javascript://alert(1)`,
	} {
		if html, ok := HTML(in); !ok || strings.TrimSpace(html) != "<p>"+want+"</p>" {
			t.Errorf("%q renders as %q", in, html)
		}
	}
	if got, err := Plain("See https://tides.example/today."); err != nil || got != "See https://tides.example/today." {
		t.Errorf("its words are %q, %v", got, err)
	}
}

// What asks for more than in proportion to its length is shown as it was typed,
// soon, and never as much more than it is.
func TestTangled(t *testing.T) {
	r := strings.Repeat
	for what, in := range map[string]string{
		"quotes in quotes":     r(">", 300_000),
		"quotes apart":         r("> ", 300_000),
		"brackets":             r("[", 300_000),
		"brackets in pairs":    r("[", 5000) + r("]", 5000),
		"links in links":       r("[a](", 100_000),
		"pictures in pictures": r("![", 100_000) + r("](a)", 100_000),
		"a wide table":         r("a|", 1000) + "\n" + r("-|", 1000) + "\n" + r("|\n", 100_000),
		"a long table":         "a|b\n-|-\n" + r("|\n", 300_000),
		"many tables":          r(r("a|", 99)+"\n"+r("-|", 99)+"\n"+r("|\n", 99)+"\n", 1000),
		"a long reference":     "[a]: <" + r("x", 6000) + ">\n\n" + r("[a]\n\n", 2000),
		"many references":      r("[a]: b\n", 100_000),
		"many links":           r("[a](b)\n\n", 6000),
		"lists in lists":       r("- ", 100_000) + "a",
		"numbers in numbers":   r("1. ", 100_000) + "a",
		"lists by indentation": func() (s string) {
			for i := range 500 {
				s += r(" ", 2*i) + "- a\n"
			}
			return s
		}(),
		"stars":                 r("*a **a ", 100_000),
		"stars and underscores": r("*a_ ", 100_000),
		"grave accents": func() (s string) {
			for i := range 1000 {
				s += r("`", i) + "a"
			}
			return s
		}(),
		"comments":         r("<!-- a", 100_000),
		"declarations":     r("<!A ", 100_000),
		"processing":       r("<?", 100_000),
		"tags":             r("<a b='", 100_000),
		"more than a text": r("a", MaxText+1),
	} {
		begun := time.Now()
		html, ok := HTML(in)
		if ok || len(html) > 6*len(in)+100 || !strings.HasPrefix(html, "<pre>") {
			t.Errorf("%s: rendered as %d bytes of %d", what, len(html), len(in))
		}
		if _, err := Plain(in); !errors.Is(err, ErrTangled) {
			t.Errorf("%s: its words: %v", what, err)
		}
		if Same(in, in+" ") || !Same(in, in) {
			t.Errorf("%s: compared", what)
		}
		if took := time.Since(begun); took > 5*time.Second {
			t.Errorf("%s took %s", what, took)
		}
	}
	// What looks like addresses is looked through soon, whatever it is taken for.
	for _, in := range []string{"http://", "https://a", "www.", "a@", "a@b", "a@b.c", "https://a.b/((", "ftp://a.b.c ", "mailto:", "www.a.b"} {
		for _, long := range []string{r(in, MaxText/len(in)), r(in+" ", MaxText/(len(in)+1))} {
			begun := time.Now()
			if html, _ := HTML(long); len(html) > 8*mostHTML {
				t.Errorf("%q again and again: %d bytes", in, len(html))
			}
			if took := time.Since(begun); took > 5*time.Second {
				t.Errorf("%q again and again took %s", in, took)
			}
		}
	}
	// What people write is not.
	for what, in := range map[string]string{
		"a long report":   r("Low *water* at [eleven](https://example.com), see the **table**.\n\n", 4000),
		"a check list":    r("- [ ] boots and coat\n", 1400),
		"a table":         "| a | b | c |\n|---|---|---|\n" + r("| 1 | 2 | 3 |\n", 1500),
		"quotes":          "> > > a\n\n- a\n  - b\n    - c\n      1. d\n",
		"code":            "```\n" + r("if a[i] < b[j] { c = *p }\n", 300) + "```\n",
		"a line of stars": r("*", 200),
	} {
		if _, ok := HTML(in); !ok {
			t.Errorf("%s is taken for tangled", what)
		}
	}
}

// FuzzTime repeats what it is given to the longest text there can be: whatever it
// is, it is looked through in bounded time and makes bounded HTML.
func FuzzTime(f *testing.F) {
	for _, s := range []string{">", "[", "![a](", "*a ", "_a*", "`a``", "<!--", "<a ", "|\n", "- ", "1. ", "&", "\\",
		"[a]: b\n", "a\n=\n", "~~~\n", "    a\n", "<div>\n", "a  \n", "- [ ] ", "[a][b]", "a|b\n-|-\n"} {
		f.Add(s, s, uint16(9))
	}
	f.Fuzz(func(t *testing.T, a, b string, every uint16) {
		if a == "" {
			return
		}
		var in strings.Builder
		for i := 0; in.Len() < MaxText-len(a)-len(b)-1; i++ {
			in.WriteString(a)
			if every > 0 && i%int(every) == 0 {
				in.WriteString(b)
				in.WriteString("\n")
			}
		}
		begun := time.Now()
		html, _ := HTML(in.String())
		if took := time.Since(begun); took > 10*time.Second {
			t.Errorf("%q, %q every %d: %s", a, b, every, took)
		}
		if len(html) > 8*mostHTML {
			t.Errorf("%q, %q every %d: %d bytes", a, b, every, len(html))
		}
	})
}
