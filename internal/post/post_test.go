package post_test

import (
	"bytes"
	"context"
	"crypto/tls"
	"encoding/json"
	"errors"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"os/exec"
	"strings"
	"testing"
	"time"

	"github.com/emersion/go-sasl"
	"github.com/emersion/go-smtp"
	"github.com/wneessen/go-mail"

	"jollysatchel/internal/core/school"
	"jollysatchel/internal/post"
)

var at = time.Date(2026, 11, 26, 7, 40, 0, 0, time.FixedZone("", 3600))

func sample() post.Mail {
	return post.Mail{
		ID: "0193", From: post.Person{Name: "Ifeoma Oduya (Kestrel Quay School)", Address: "satchel@kestrelquay.example"},
		ReplyTo: post.Person{Name: "Ifeoma Oduya", Address: "ifeoma.oduya@kestrelquay.example"},
		To:      post.Person{Name: "Nokuthula Dube", Address: "nokuthula.dube@kestrelquay.example"}, Subject: "Rock pools", Body: "Hello", At: at,
	}
}

// As Python's email package reads it (https://docs.python.org/3/library/email.html). Names
// are decoded by its email.header: its newer parser puts a space between the encoded words
// of a name, which RFC 2047 6.2 says is none.
const reader = `
import sys, json, email, email.policy, email.header, email.utils
out = []
for m in json.load(sys.stdin):
    e = email.message_from_string(m, policy=email.policy.default)
    part = lambda kind: e.get_body((kind,)).get_content()
    raw = email.message_from_string(m)
    word = lambda s: str(email.header.make_header(email.header.decode_header(s)))
    person = lambda h: [[' '.join(word(name).split()), a] for name, a in email.utils.getaddresses(raw.get_all(h, []))]
    out.append({'Subject': e['subject'], 'From': person('from'), 'To': person('to'), 'Reply': person('reply-to'),
	'Text': part('plain'), 'HTML': part('html'), 'Names': [k.lower() for k in e.keys()],
        'Date': e['date'].datetime.isoformat(), 'ID': e['message-id'], 'Off': e['list-unsubscribe'], 'Defects': [str(d) for d in e.defects]})
json.dump(out, sys.stdout)
`

type seen struct {
	Subject, Text, HTML, Date, ID, Off string
	From, To, Reply                    [][2]string
	Names, Defects                     []string
}

func python(t *testing.T, mails ...post.Mail) []seen {
	t.Helper()
	var texts []string
	for _, m := range mails {
		b, err := m.Bytes()
		if err != nil {
			t.Fatalf("%q: %v", m.Subject, err)
		}
		for _, l := range strings.Split(string(b), "\r\n") {
			if len(l) > 998 || strings.ContainsAny(l, "\r\n") { // RFC 5322 2.1.1
				t.Errorf("%q: a line of %d bytes", m.Subject, len(l))
			}
			if strings.ContainsFunc(l, func(r rune) bool { return r > 126 }) {
				t.Errorf("%q: not 7 bits: %q", m.Subject, l)
			}
		}
		texts = append(texts, string(b))
	}
	in, err := json.Marshal(texts)
	if err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command("python3", "-c", reader)
	cmd.Stdin = bytes.NewReader(in)
	var stderr bytes.Buffer
	cmd.Stderr = &stderr
	b, err := cmd.Output()
	if err != nil {
		t.Fatalf("%v: %s", err, stderr.String())
	}
	var out []seen
	if err := json.Unmarshal(b, &out); err != nil {
		t.Fatal(err)
	}
	return out
}

// What is written is what Python's email package reads, in any script; nothing that
// somebody types becomes a header.
func TestPythonReadsIt(t *testing.T) {
	texts := []string{
		"Rock pools", "Ebbe & Flut – 3 °C", "岩場の観察記録",
		"Журнал наблюдений за погодой на пристани в ноябре и декабре",
		"سجلّ حوض الصخور", "👩🏽‍🔬 boots", "=?utf-8?q?not=20this?=", `"quoted" \ and (comment), <angled>;`,
		strings.TrimSpace(strings.Repeat("long words ", 18)), "é" + strings.Repeat("x", 150),
		"e\u0301 combining",
	}
	var mails []post.Mail
	for _, s := range texts {
		m := sample()
		m.Subject, m.To.Name, m.ReplyTo.Name = s, s, s
		m.Body = s + "\n\n.\n..dots\nFrom here on\n" + s + "\nhttps://satchel.example/go/a?b=1&c=%20."
		mails = append(mails, m)
	}
	for i, got := range python(t, mails...) {
		m, want := mails[i], strings.TrimSpace(texts[i])
		name := strings.ReplaceAll(want, "=?", "= ?")
		if got.Subject != want || got.To[0] != [2]string{name, m.To.Address} ||
			got.Reply[0] != [2]string{name, m.ReplyTo.Address} || got.From[0] != [2]string{m.From.Name, m.From.Address} {
			t.Errorf("%q:\n%+q", want, got)
		}
		if strings.TrimRight(strings.ReplaceAll(got.Text, "\r\n", "\n"), "\n") != m.Body {
			t.Errorf("%q: text %q", want, got.Text)
		}
		if got.Date != "2026-11-26T07:40:00+01:00" || got.ID != "<0193@kestrelquay.example>" || len(got.Defects) > 0 {
			t.Errorf("%q: %s %s %v", want, got.Date, got.ID, got.Defects)
		}
	}
}

func TestNothingBecomesAHeader(t *testing.T) {
	evil := []string{"a\r\nBcc: all@school.example", "a\nBcc: all@school.example", "a\rBcc: x", "a\u2028Bcc: x",
		"a\x00b", "a\r\n\r\n<b>body</b>"}
	var mails []post.Mail
	for _, s := range evil {
		m := sample()
		m.Subject, m.To.Name, m.From.Name, m.ReplyTo.Name = s, s, s, s
		mails = append(mails, m)
	}
	for i, got := range python(t, mails...) {
		for _, name := range got.Names {
			if name == "bcc" || name == "cc" {
				t.Errorf("%q became a header", evil[i])
			}
		}
		if len(got.To) != 1 || got.To[0][1] != sample().To.Address || strings.TrimSpace(got.Text) != "Hello" {
			t.Errorf("%q: %v %q", evil[i], got.To, got.Text)
		}
	}
	m := sample()
	m.To.Address = "a@school.example>\r\nBcc: <b@school.example"
	if _, err := m.Bytes(); err == nil {
		t.Error("an address that is none was taken")
	}
}

func TestTurnedOffWhereItFits(t *testing.T) {
	m := sample()
	m.Off = "https://satchel.example/account"
	got := python(t, m, sample())
	if got[0].Off != "<https://satchel.example/account>" || got[1].Off != "" {
		t.Errorf("%q, %q", got[0].Off, got[1].Off)
	}
}

func TestHTML(t *testing.T) {
	got := post.HTML("Hello <b>&\nyou\n\nhttps://satchel.example/go/a?b=\"1\". Bye")
	want := "<p>Hello &lt;b&gt;&amp;<br>\nyou</p>\n<p><a href=\"https://satchel.example/go/a?b=&#34;1&#34;\">https://satchel.example/go/a?b=&#34;1&#34;</a>. Bye</p>"
	if !strings.Contains(got, want) {
		t.Errorf("%s", got)
	}
}

// A server says what each session is told.
type server struct {
	rcpt func(to string) error
	data func(c *smtp.Conn) error
	got  []string
}

type session struct {
	*server
	line *smtp.Conn
	to   string
}

func (s *server) NewSession(c *smtp.Conn) (smtp.Session, error) {
	return &session{server: s, line: c}, nil
}
func (s *session) AuthMechanisms() []string { return []string{sasl.Plain} }
func (s *session) Auth(string) (sasl.Server, error) {
	return sasl.NewPlainServer(func(_, user, password string) error {
		if user != "satchel" || password != "low water" {
			return smtp.ErrAuthFailed
		}
		return nil
	}), nil
}
func (s *session) Reset()                               {}
func (s *session) Logout() error                        { return nil }
func (s *session) Mail(string, *smtp.MailOptions) error { return nil }
func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error {
	s.to = to
	if s.rcpt != nil {
		return s.rcpt(to)
	}
	return nil
}
func (s *session) Data(r io.Reader) error {
	if _, err := io.Copy(io.Discard, r); err != nil {
		return err
	}
	if s.data != nil {
		if err := s.data(s.line); err != nil {
			return err
		}
	}
	s.got = append(s.got, s.to)
	return nil
}

func serve(t *testing.T, s *server) post.SMTP { return serveWith(t, s, nil) }

func serveWith(t *testing.T, s *server, secret *tls.Config) post.SMTP {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	x := smtp.NewServer(s)
	x.TLSConfig = secret
	x.ErrorLog = quiet{}
	go x.Serve(l)
	t.Cleanup(func() { x.Close() })
	return post.SMTP{Host: "127.0.0.1", Port: l.Addr().(*net.TCPAddr).Port, Security: school.Open, Patience: 2 * time.Second}
}

type quiet struct{}

func (quiet) Printf(string, ...any) {}
func (quiet) Println(...any)        {}

func to(names ...string) []post.Mail {
	var out []post.Mail
	for _, n := range names {
		m := sample()
		m.To = post.Person{Address: n + "@kestrelquay.example"}
		out = append(out, m)
	}
	return out
}

// send sends mails and returns what came of each, "-" where nothing was tried.
func send(p post.Post, mails []post.Mail) []string {
	out := make([]string, len(mails))
	for i := range out {
		out[i] = "-"
	}
	p.Send(context.Background(), mails, func(i int, err error) {
		var r *post.Refusal
		switch {
		case err == nil:
			out[i] = "taken"
		case !errors.As(err, &r):
			out[i] = "no refusal: " + err.Error()
		case r.ForGood:
			out[i] = "for good: " + r.Text
		default:
			out[i] = "later: " + r.Text
		}
	})
	return out
}

// One that is refused doesn't keep the next from being taken; a line that breaks is
// begun again.
func TestEachForItself(t *testing.T) {
	s := &server{rcpt: func(to string) error {
		switch {
		case strings.HasPrefix(to, "nobody"):
			return &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1}, Message: "No such mailbox"}
		case strings.HasPrefix(to, "busy"):
			return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 2}, Message: "Later, please"}
		}
		return nil
	}}
	cut := true
	s.data = func(c *smtp.Conn) error {
		if !cut {
			return nil
		}
		cut = false
		return errors.Join(errors.New("cut"), c.Conn().Close())
	}
	got := send(serve(t, s), to("cut", "nobody", "a", "busy", "b"))
	if !strings.HasPrefix(got[0], "later: ") || got[1] != "for good: 5.1.1 No such mailbox" || got[2] != "taken" ||
		got[3] != "later: 4.3.2 Later, please" || got[4] != "taken" {
		t.Errorf("%q", got)
	}
	if strings.Join(s.got, " ") != "a@kestrelquay.example b@kestrelquay.example" {
		t.Errorf("%q", s.got)
	}
}

func TestSignsIn(t *testing.T) {
	s := &server{}
	certified := httptest.NewTLSServer(nil) // for its certificate
	defer certified.Close()
	roots := certified.Client().Transport.(*http.Transport).TLSClientConfig.RootCAs
	p := serveWith(t, s, &tls.Config{Certificates: certified.TLS.Certificates})
	p.Security, p.User, p.Password = school.StartTLS, "satchel", "low water"
	if got := send(p, to("a")); !strings.Contains(got[0], "certificate") {
		t.Errorf("a server nobody vouches for: %q", got)
	}
	p = p.With(mail.WithTLSConfig(&tls.Config{RootCAs: roots, ServerName: "example.com"}))
	if got := send(p, to("a")); got[0] != "taken" {
		t.Error(got)
	}
	p.Password = "high water"
	got := send(p, to("a", "b"))
	if !strings.HasPrefix(got[0], "later: ") || got[1] != "-" { // it is about the school, not about a mail
		t.Errorf("%q", got)
	}
}

// A server that says nothing, one that isn't there and one that can't be spoken to in
// secret: each mail waits, none is lost.
func TestServersThatDont(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	silent := post.SMTP{Host: "127.0.0.1", Port: l.Addr().(*net.TCPAddr).Port, Security: school.Open, Patience: 200 * time.Millisecond}
	plain := serve(t, &server{})
	plain.Security = school.StartTLS
	gone := silent
	gone.Port = 1
	wrong := serve(t, &server{})
	wrong.Security = school.TLS
	for name, p := range map[string]post.SMTP{"silent": silent, "gone": gone, "no secret": plain, "other": wrong} {
		begun := time.Now()
		got := send(p, to("a", "b"))
		if !strings.HasPrefix(got[0], "later: ") || got[1] != "-" {
			t.Errorf("%s: %q", name, got)
		}
		if time.Since(begun) > 10*time.Second {
			t.Errorf("%s: waited %s", name, time.Since(begun))
		}
	}
}
