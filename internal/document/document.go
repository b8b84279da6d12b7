// Package document renders text documents: CommonMark with tables and task
// lists. It is the one place that says when two texts are the same document.
package document

import (
	"bytes"
	"io"
	"strings"

	"github.com/microcosm-cc/bluemonday"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
	"github.com/yuin/goldmark/renderer/html"
	xhtml "golang.org/x/net/html"
)

var markdown = goldmark.New(goldmark.WithExtensions(extension.Table, extension.TaskList, extension.Strikethrough))

var policy = func() *bluemonday.Policy {
	p := bluemonday.UGCPolicy()
	p.AllowAttrs("type", "checked", "disabled").OnElements("input")
	return p
}()

// HTML renders a text as safe HTML: no script, style or form survives.
func HTML(text string) string {
	var b bytes.Buffer
	if err := markdown.Convert([]byte(text), &b); err != nil {
		return ""
	}
	return policy.Sanitize(b.String())
}

// Plain returns the words of a text as the CommonMark renderer gives it.
func Plain(text string) string {
	var b bytes.Buffer
	if err := markdown.Convert([]byte(text), &b); err != nil {
		return text
	}
	var out strings.Builder
	z := xhtml.NewTokenizer(&b)
	for {
		switch z.Next() {
		case xhtml.ErrorToken:
			return strings.Join(strings.Fields(out.String()), " ")
		case xhtml.TextToken:
			out.Write(z.Text())
		default:
			out.WriteByte(' ')
		}
	}
}

// whole renders everything, raw HTML too: for comparing, never for showing.
var whole = goldmark.New(goldmark.WithExtensions(extension.Table, extension.TaskList, extension.Strikethrough), goldmark.WithRendererOptions(html.WithUnsafe()))

// Same reports whether two texts are the same document: equal CommonMark
// renderings, with nothing left out.
func Same(a, b string) bool {
	if a == b {
		return true
	}
	var x, y bytes.Buffer
	return whole.Convert([]byte(a), &x) == nil && whole.Convert([]byte(b), &y) == nil && bytes.Equal(x.Bytes(), y.Bytes())
}

// MaxText is the largest text document, in bytes, that is opened for writing.
const MaxText = 1 << 20

// ReadText reads a text document; ok is false where it is larger than MaxText.
func ReadText(r io.Reader) (text string, ok bool, err error) {
	b, err := io.ReadAll(io.LimitReader(r, MaxText+1))
	return string(b), len(b) <= MaxText, err
}

// IsText reports whether a media type is that of a text document.
func IsText(mediaType string) bool {
	return strings.HasPrefix(mediaType, "text/markdown")
}
