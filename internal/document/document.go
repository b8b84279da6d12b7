// Package document renders text documents: CommonMark with tables and task
// lists. It is the one place that says when two texts are the same document.
package document

import (
	"io"
	"net/url"
	"path"
	"strings"

	"github.com/microcosm-cc/bluemonday"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
	"github.com/yuin/goldmark/renderer/html"
	"github.com/yuin/goldmark/text"
	xhtml "golang.org/x/net/html"
)

var markdown = goldmark.New(goldmark.WithExtensions(extension.Table, extension.TaskList, extension.Strikethrough))

// shown is markdown with the addresses in it as links, also where they stand bare.
var shown = goldmark.New(goldmark.WithExtensions(extension.Table, extension.TaskList, extension.Strikethrough,
	extension.Linkify))

var policy = func() *bluemonday.Policy {
	p := bluemonday.UGCPolicy()
	p.AllowAttrs("type", "checked", "disabled").OnElements("input")
	p.RewriteSrc(func(u *url.URL) { // a picture that comes unencrypted tells others who reads what
		if u.Scheme == "http" {
			*u = url.URL{}
		}
	})
	return p
}()

// whole renders everything, raw HTML too: for comparing, never for showing.
var whole = goldmark.New(goldmark.WithExtensions(extension.Table, extension.TaskList, extension.Strikethrough),
	goldmark.WithRendererOptions(html.WithUnsafe()))

// rendered renders a text within bounds.
func rendered(by goldmark.Markdown, source string) (string, error) {
	if err := bounded(source); err != nil {
		return "", err
	}
	b := []byte(source)
	doc := by.Parser().Parse(text.NewReader(b))
	if err := expanded(doc); err != nil {
		return "", err
	}
	var out upTo
	err := by.Renderer().Render(&out, b, doc)
	return out.String(), err
}

// HTML renders a text as safe HTML: no script, style or form survives. One that is
// too tangled is shown as it was typed, and ok is false.
func HTML(source string) (safe string, ok bool) {
	out, err := rendered(shown, source)
	if err != nil {
		return "<pre>" + xhtml.EscapeString(source) + "</pre>", false
	}
	return policy.Sanitize(out), true
}

// Plain returns the words of a text as the CommonMark renderer gives it, or
// ErrTangled.
func Plain(source string) (string, error) {
	in, err := rendered(markdown, source)
	if err != nil {
		return "", err
	}
	var out strings.Builder
	z := xhtml.NewTokenizer(strings.NewReader(in))
	for {
		switch z.Next() {
		case xhtml.ErrorToken:
			return strings.Join(strings.Fields(out.String()), " "), nil
		case xhtml.TextToken:
			out.Write(z.Text())
		default:
			out.WriteByte(' ')
		}
	}
}

// Same reports whether two texts are the same document: equal CommonMark
// renderings, with nothing left out. Of tangled ones only equal texts are.
func Same(a, b string) bool {
	if a == b {
		return true
	}
	x, errX := rendered(whole, a)
	y, errY := rendered(whole, b)
	return errX == nil && errY == nil && x == y
}

// MaxText is the largest text document, in bytes, that is opened for writing.
const MaxText = 1 << 20

// ReadText reads a text document; ok is false where it is larger than MaxText.
func ReadText(r io.Reader) (text string, ok bool, err error) {
	b, err := io.ReadAll(io.LimitReader(r, MaxText+1))
	return string(b), len(b) <= MaxText, err
}

// IsTextName reports whether a file of a name is a text document.
func IsTextName(name string) bool {
	ending := strings.ToLower(path.Ext(name))
	return ending == ".md" || ending == ".markdown"
}

// IsText reports whether a media type is that of a text document.
func IsText(mediaType string) bool {
	return strings.HasPrefix(mediaType, "text/markdown")
}
