// Package telling says what people are told by post: of which events, in which words,
// and who of them can't be reached.
package telling

import (
	"slices"
	"strings"
	"unicode"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/filling"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
)

// A When says of which events of a handout its people are told.
type When string

// What can be told of: nothing; that somebody has something of it for the first time;
// that, and what changes in it later. Nothing said is Usual.
const (
	Usual   When = ""
	Not     When = "not"
	First   When = "first"
	Changes When = "changes"
)

// Known reports whether there is such a choice.
func (w When) Known() bool { return w == Usual || w == Not || w == First || w == Changes }

// A Kind says what a message is about.
type Kind string

// The kinds. Digest has several others in it; Trial is the office's, to try the post.
const (
	Given   Kind = "given"   // something is there for the first time
	Changed Kind = "changed" // something became another, or more
	Written Kind = "written" // somebody writes
	Digest  Kind = "digest"
	Trial   Kind = "trial"
	Code    Kind = "code" // for the next sign-in
)

// Notice reports a kind that people may turn off for themselves, or have in a digest.
func (k Kind) Notice() bool { return k == Given || k == Changed || k == Written }

// What texts of messages keep to, in bytes.
const (
	MostSubject = 200
	MostBody    = 6000
)

// A Text is what is written, with columns in square brackets.
type Text struct {
	Subject string `json:"subject"`
	Body    string `json:"body"`
}

// Tidy is a text as it is kept; without a word it stands for the usual one. The error names
// the field, where a part is too long or missing.
func (t Text) Tidy(field string) (Text, error) {
	t.Subject, t.Body = naming.Tidy(t.Subject), strings.TrimSpace(strings.ReplaceAll(t.Body, "\r\n", "\n"))
	switch {
	case len(t.Subject) > MostSubject:
		return t, change.TooLong(field, MostSubject)
	case len(t.Body) > MostBody:
		return t, change.TooLong(field, MostBody)
	case t != (Text{}) && (t.Subject == "" || t.Body == ""):
		return t, change.Refuse(field, "missing")
	}
	return t, nil
}

// Columns that only messages have. A class's own column of such a name comes first.
const (
	Link = "Link"    // the person's own
	Due  = "Due"     // when it closes, as people say it
	Says = "Message" // what the handout says
	Name = "Name"    // by which a student goes
)

// Own are their names, as people read them.
var Own = []string{Name, Link, Due, Says}

// Values are the columns of one message: those of messages by their name, then those
// of the class.
type Values struct {
	Class record.Vocabulary
	Own   map[string]string
	Rest  record.Getter
}

// own returns the name of a column that only messages have.
func (v Values) own(f record.Field) (string, bool) {
	if v.Class.Has(f) {
		return "", false
	}
	heading, _ := f.Heading()
	for _, name := range Own {
		if strings.EqualFold(name, heading) {
			return name, true
		}
	}
	return "", false
}

// Has reports whether a message can ask for a column.
func (v Values) Has(f record.Field) bool {
	_, own := v.own(f)
	return own || v.Class.Has(f)
}

// Get implements record.Getter.
func (v Values) Get(f record.Field) string {
	if name, own := v.own(f); own {
		return v.Own[name]
	}
	return v.Rest.Get(f)
}

// A Letter is a text with its columns filled in for somebody. Empty are the columns that
// had no value.
type Letter struct {
	Text
	Empty []string
}

// For fills the columns in. A line of the body in which columns stand, all of them
// without a value, is left out; no two empty lines follow each other. The subject is one
// line.
func (t Text) For(v Values) Letter {
	var out Letter
	out.Subject, _ = out.line(t.Subject, v)
	out.Subject = strings.Join(strings.Fields(out.Subject), " ")
	var lines []string
	for _, l := range strings.Split(strings.ReplaceAll(t.Body, "\r\n", "\n"), "\n") {
		filled, stays := out.line(l, v)
		filled = strings.TrimRightFunc(filled, unicode.IsSpace)
		if stays && (filled != "" || len(lines) > 0 && lines[len(lines)-1] != "") {
			lines = append(lines, filled)
		}
	}
	out.Body = strings.TrimSpace(strings.Join(lines, "\n"))
	return out
}

// line fills one line in, and says whether it stays.
func (l *Letter) line(text string, v Values) (filled string, stays bool) {
	parts := filling.Find(text, filling.Plain, v.Has)
	var b strings.Builder
	at, asked, there := 0, 0, 0
	for _, p := range parts {
		if !p.Known {
			continue
		}
		b.WriteString(text[at:p.From])
		at = p.To
		value := p.Value(filling.Plain, v)
		if name, own := v.own(p.Asked.Column); own && name != Name { // whole, with its lines
			value = v.Own[name]
		}
		if asked++; value != "" {
			there++
		} else {
			l.Empty = append(l.Empty, p.Label)
		}
		b.WriteString(value)
	}
	b.WriteString(text[at:])
	return b.String(), asked == 0 || there > 0
}

// Strange are the words in brackets that look as if a column was meant, and none is.
func (t Text) Strange(v Values) []string {
	var out []string
	for _, text := range []string{t.Subject, t.Body} {
		for _, p := range filling.Find(text, filling.Plain, v.Has) {
			if !p.Known {
				out = append(out, p.Label)
			}
		}
	}
	return out
}

// MostAddresses of one cell are told.
const MostAddresses = 5

// Addresses are those in a cell, and what in it is none: a few may be in one, with
// commas, semicolons or spaces between, and in angle brackets.
func Addresses(cell string) (good, bad []string) {
	apart := func(r rune) bool { return unicode.IsSpace(r) || strings.ContainsRune(",;<>", r) }
	for _, a := range strings.FieldsFunc(cell, apart) {
		switch {
		case !strings.Contains(a, "@"): // a name before it
		case roster.AddressForm(a) != "":
			bad = append(bad, a)
		default:
			good = append(good, strings.ToLower(a))
		}
	}
	return good[:min(len(good), MostAddresses)], bad
}

// An Oddity says why somebody isn't told, or may not be meant.
type Oddity string

// The oddities. Those who have an address in common are both told; all others with one
// of these, but for Digest and OtherDomain, aren't.
const (
	NoAddress   Oddity = "no-address"
	NotAddress  Oddity = "no-such-address"
	TurnedOff   Oddity = "turned-off"
	InDigest    Oddity = "digest"
	Twice       Oddity = "same-address"
	OtherDomain Oddity = "other-domain"
	NotAllowed  Oddity = "not-allowed" // of another domain, which the office doesn't let people write to
)

// Reached reports that somebody with an oddity is told all the same.
func (o Oddity) Reached() bool {
	return o == "" || o == InDigest || o == Twice || o == OtherDomain
}

// A Reader is somebody who may be told: under which addresses, and what they wish.
type Reader struct {
	Row       string
	Account   string
	Name      string
	Addresses []string
	Bad       []string // what stood where an address was meant
	Wish      Wish
	Outside   bool // an address that a column has: it need not be the school's
}

// A Wish is how somebody wants to be told.
type Wish string

// The wishes; nothing said is each by itself.
const (
	Each     Wish = ""
	Together Wish = "digest"
	Off      Wish = "off"
)

// Odd says of each reader what is odd about them, if anything. domain is the school's;
// empty: none to check against. outside says that the office lets people write to addresses
// of other domains that are no account's.
func Odd(of []Reader, domain string, outside bool) []Oddity {
	seen := map[string]int{}
	for _, r := range of {
		for _, a := range r.Addresses {
			seen[a]++
		}
	}
	out := make([]Oddity, len(of))
	for i, r := range of {
		switch {
		case len(r.Addresses) == 0 && len(r.Bad) > 0:
			out[i] = NotAddress
		case len(r.Addresses) == 0:
			out[i] = NoAddress
		case r.Wish == Off:
			out[i] = TurnedOff
		case !outside && (r.Outside || r.Account == "") &&
			slices.ContainsFunc(r.Addresses, func(a string) bool { return !roster.InDomain(a, domain) }):
			out[i] = NotAllowed
		case !r.Outside && seen[r.Addresses[0]] > 1:
			out[i] = Twice
		case !r.Outside && !roster.InDomain(r.Addresses[0], domain):
			out[i] = OtherDomain
		case r.Wish == Together:
			out[i] = InDigest
		}
	}
	return out
}
