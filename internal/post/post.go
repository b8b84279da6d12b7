// Package post writes mails and sends them over SMTP.
package post

import (
	"bytes"
	"context"
	"encoding/base64"
	"fmt"
	"html"
	"net/mail"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	gomail "github.com/wneessen/go-mail"
)

// A Mail is one letter to one address. Its ID, date and content are the same however
// often it is tried: anyone who gets it twice has the same one.
type Mail struct {
	ID            string // part of its Message-ID before the @
	From, ReplyTo Person // ReplyTo without an address: none
	To            Person
	Subject       string
	Body          string // plain text
	At            time.Time
	// Off is where anyone who gets it turns mail of its kind off; empty: it can't be.
	Off string
}

// A Person has an address, and maybe a name.
type Person struct{ Name, Address string }

// address is the person as headers have them; what no header holds is left out.
func (p Person) address() *mail.Address {
	return &mail.Address{Name: strings.ReplaceAll(plain(p.Name), "=?", "= ?"), Address: p.Address} // no encoded word of RFC 2047
}

// plain is a text on one line, without control characters.
func plain(s string) string {
	s = strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return ' '
		}
		return r
	}, strings.ToValidUTF8(s, ""))
	return strings.Join(strings.Fields(s), " ")
}

// mostEncoded is how many bytes of a text are in one encoded word: behind the name of a
// header, the first fits on its line (RFC 5322 2.1.1), and each is at most 75 long
// (RFC 2047 2).
const mostEncoded = 39

// encoded is a text of one line as a header has it: as it is, or as encoded words of
// RFC 2047, where it isn't ASCII or could be taken for such words.
func encoded(text string) string {
	if !strings.Contains(text, "=?") && !strings.ContainsFunc(text, func(r rune) bool { return r > unicode.MaxASCII }) {
		return text
	}
	var words []string
	chunk := ""
	end := func() {
		words = append(words, "=?utf-8?b?"+base64.StdEncoding.EncodeToString([]byte(chunk))+"?=")
		chunk = ""
	}
	for _, r := range text {
		if len(chunk)+utf8.RuneLen(r) > mostEncoded {
			end()
		}
		chunk += string(r)
	}
	end()
	return strings.Join(words, "\r\n ")
}

// message makes the mail as RFC 5322 has it: text, and the same as HTML.
func (m Mail) message() (*gomail.Msg, error) {
	_, domain, ok := strings.Cut(m.From.Address, "@")
	if !ok || domain == "" {
		return nil, fmt.Errorf("post: %q is no address to send from", m.From.Address)
	}
	msg := gomail.NewMsg(gomail.WithNoDefaultUserAgent())
	for _, x := range []struct {
		to Person
		as gomail.AddrHeader
	}{{m.From, gomail.HeaderFrom}, {m.To, gomail.HeaderTo}, {m.ReplyTo, gomail.HeaderReplyTo}} {
		if x.as == gomail.HeaderReplyTo && x.to.Address == "" {
			continue
		}
		a := x.to.address()
		if alone, err := mail.ParseAddress(a.Address); err != nil || alone.Address != a.Address {
			return nil, fmt.Errorf("post: %q is no address", a.Address)
		}
		msg.SetAddrHeaderFromMailAddress(x.as, a)
	}
	msg.SetMessageIDWithValue(m.ID + "@" + domain)
	msg.SetDateWithValue(m.At)
	if subject := encoded(plain(m.Subject)); subject == plain(m.Subject) {
		msg.Subject(subject)
	} else {
		msg.SetGenHeaderPreformatted(gomail.HeaderSubject, subject)
	}
	msg.SetGenHeader("Auto-Submitted", "auto-generated") // RFC 3834: no machine answers it
	if m.Off != "" {
		msg.SetListUnsubscribe(m.Off)
	}
	body := strings.ReplaceAll(strings.ToValidUTF8(m.Body, ""), "\r\n", "\n")
	msg.SetBodyString(gomail.TypeTextPlain, body)
	msg.AddAlternativeString(gomail.TypeTextHTML, HTML(body))
	return msg, nil
}

// Bytes is the mail as it is sent.
func (m Mail) Bytes() ([]byte, error) {
	msg, err := m.message()
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	_, err = msg.WriteTo(&b)
	return b.Bytes(), err
}

// HTML is a plain text as HTML: its paragraphs and lines, and the addresses of pages in it
// as links. Nothing in it has a meaning of its own.
func HTML(text string) string {
	var b strings.Builder
	b.WriteString("<!doctype html>\n<html><body>\n")
	for _, paragraph := range strings.Split(text, "\n\n") {
		lines := strings.Split(strings.TrimSpace(paragraph), "\n")
		for i, l := range lines {
			lines[i] = linked(l)
		}
		fmt.Fprintf(&b, "<p>%s</p>\n", strings.Join(lines, "<br>\n"))
	}
	b.WriteString("</body></html>\n")
	return b.String()
}

// linked is a line with its addresses of pages as links.
func linked(line string) string {
	words := strings.SplitAfter(line, " ")
	for i, w := range words {
		word := strings.TrimRight(w, " ")
		address := strings.TrimRight(word, ".,;:!?)")
		if !strings.HasPrefix(address, "http://") && !strings.HasPrefix(address, "https://") {
			words[i] = html.EscapeString(w)
			continue
		}
		words[i] = fmt.Sprintf(`<a href="%[1]s">%[1]s</a>%s`, html.EscapeString(address), html.EscapeString(w[len(address):]))
	}
	return strings.Join(words, "")
}

// A Refusal says that a mail wasn't taken. One that is for good needn't be tried again.
type Refusal struct {
	Code    int // as RFC 5321 has it; 0: no answer
	Text    string
	ForGood bool
}

func (r *Refusal) Error() string {
	if r.Code == 0 {
		return "post: " + r.Text
	}
	return fmt.Sprintf("post: %d %s", r.Code, r.Text)
}

// A Post sends mails.
type Post interface {
	// Send sends mails one after the other, as far as it comes until ctx ends. done is told
	// of each what came of it: nothing, or a *Refusal. One that it wasn't told of wasn't
	// tried.
	Send(ctx context.Context, mails []Mail, done func(i int, err error))
}
