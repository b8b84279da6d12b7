package document

import (
	"strings"
	"testing"
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
	if got := Plain(in); got != "Log Low water at eleven . a b 1 2 boots & coat" {
		t.Errorf("%q", got)
	}
}

func TestHTMLIsHarmless(t *testing.T) {
	for _, in := range []string{
		"<script>alert(1)</script>", "<img src=x onerror=alert(1)>", "[a](javascript:alert(1))", "![a](javascript:alert(1))", "<style>*{}</style>", "<form action=x><input name=y></form>",
		"<iframe src=x>", "[a](data:text/html;base64,xx)", "<a href=\"&#106;avascript:alert(1)\">x</a>", "`<script>`\n\n    <script>",
	} {
		got := strings.ToLower(HTML(in))
		for _, bad := range []string{"<script", "onerror", "javascript:", "<style", "<form", "<iframe", "data:text", "name="} {
			if strings.Contains(got, bad) {
				t.Errorf("%q renders as %q", in, got)
			}
		}
	}
}
