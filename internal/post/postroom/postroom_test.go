package postroom_test

import (
	"context"
	"fmt"
	"net"
	"net/smtp"
	"strings"
	"testing"
	"time"

	"github.com/jmoiron/sqlx"

	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/post/postroom"
)

var ctx = context.Background()

func open(t *testing.T) (*postroom.Postroom, *sqlx.DB, string) {
	t.Helper()
	db, err := sqlx.Open("pgx", pgtest.New(t))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { db.Close() })
	if err := postroom.Migrate(ctx, db.DB); err != nil {
		t.Fatal(err)
	}
	p := postroom.New(db, time.Now)
	port := p.Port()
	if port == 0 {
		t.Fatal("it doesn't listen")
	}
	t.Cleanup(func() {
		if err := p.Close(); err != nil {
			t.Error(err)
		}
	})
	return p, db, net.JoinHostPort("127.0.0.1", fmt.Sprint(port))
}

// send sends a mail as any program would, with a client of the standard library.
func send(at, to, text string) error {
	return smtp.SendMail(at, nil, "a@school.example", []string{to}, []byte(strings.ReplaceAll(text, "\n", "\r\n")))
}

func latest(t *testing.T, p *postroom.Postroom) postroom.Letter {
	t.Helper()
	all, _, err := p.Mails(ctx, "", 0)
	if err != nil || len(all) == 0 {
		t.Fatal(all, err)
	}
	l, there, err := p.Letter(ctx, all[0].N)
	if err != nil || !there {
		t.Fatal(there, err)
	}
	return l
}

// The examples of RFC 2047, section 8, are shown as it says, but for the comments' brackets
// around them.
func TestEncodedWords(t *testing.T) {
	p, _, at := open(t)
	for encoded, shown := range map[string]string{
		"=?ISO-8859-1?Q?a?=":                            "a",
		"=?ISO-8859-1?Q?a?= b":                          "a b",
		"=?ISO-8859-1?Q?a?= =?ISO-8859-1?Q?b?=":         "ab",
		"=?ISO-8859-1?Q?a?=  =?ISO-8859-1?Q?b?=":        "ab",
		"=?ISO-8859-1?Q?a?=\n =?ISO-8859-1?Q?b?=":       "ab",
		"=?ISO-8859-1?Q?a_b?=":                          "a b",
		"=?ISO-8859-1?Q?a?= =?ISO-8859-2?Q?_b?=":        "a b",
		"=?ISO-8859-1?B?SWYgeW91IGNhbiByZWFkIHRoaXM=?=": "If you can read this",
	} {
		if err := send(at, "b@school.example", "Subject: "+encoded+"\nContent-Type: text/plain\n\nHello\n"); err != nil {
			t.Fatal(err)
		}
		if l := latest(t, p); l.Subject != shown || strings.TrimSpace(l.Text) != "Hello" {
			t.Errorf("%q is shown as %q, not %q; %q", encoded, l.Subject, shown, l.Text)
		}
	}
}

// A mailbox has what comes twice under one Message-ID once; without one, each is another.
func TestOncePerMessageID(t *testing.T) {
	p, _, at := open(t)
	for _, to := range []string{"b@school.example", "B@School.example", "c@school.example"} {
		if err := send(at, to, "Message-ID: <1@school.example>\nSubject: x\n\nHello\n"); err != nil {
			t.Fatal(err)
		}
	}
	for range 2 {
		if err := send(at, "d@school.example", "Subject: y\n\nHello\n"); err != nil {
			t.Fatal(err)
		}
	}
	all, _, err := p.Mails(ctx, "", 0)
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, m := range all {
		got = append(got, fmt.Sprint(m.Mailbox, " ", m.Came))
	}
	if strings.Join(got, ", ") != "d@school.example 1, d@school.example 1, c@school.example 1, b@school.example 2" {
		t.Errorf("%q", got)
	}
}

// Whatever comes is kept as it came, and shown as far as it can be read.
func TestOddMails(t *testing.T) {
	p, _, at := open(t)
	for _, text := range []string{"no headers at all", "Subject: =?nonsense?Q?x?=\n\n\x80\xff",
		"Content-Type: multipart/mixed; boundary=x\n\n--x\nbroken",
		"Content-Type: text/plain; charset=unheard-of\nSubject: ok\n\nHello", "Content-Disposition: attachment\n\nHello",
		"Subject: \x00nul\n\nx"} {
		if err := send(at, "b@school.example", text); err != nil {
			t.Errorf("%q: %v", text, err)
			continue
		}
		if l := latest(t, p); len(l.Content) == 0 {
			t.Errorf("%q isn't kept", text)
		}
	}
	if err := send(at, "b@school.example", "Subject: large\n\n"+strings.Repeat("0123456789\n", 100_000)); err == nil ||
		!strings.Contains(err.Error(), "552") {
		t.Errorf("more than a mail may be: %v", err)
	}
	if err := smtp.SendMail(at, nil, "a@school.example", []string{"b@school.example", "c@school.example"}, []byte("x")); err == nil {
		t.Error("one mail to two mailboxes")
	}
}

func TestWeather(t *testing.T) {
	p, db, at := open(t)
	p.Unknown = func(_ context.Context, address string) bool { return strings.HasPrefix(address, "nobody@") }
	if err := send(at, "nobody@school.example", "x"); err == nil || !strings.HasPrefix(err.Error(), "550") {
		t.Errorf("to nobody: %v", err)
	}
	p.SetWeather(postroom.Weather{Refuses: 1})
	if err := send(at, "b@school.example", "x"); err == nil || !strings.HasPrefix(err.Error(), "451") {
		t.Errorf("refused: %v", err)
	}
	p.SetWeather(postroom.Weather{Lost: 1})
	for range 40 {
		if err := send(at, "b@school.example", "Subject: x\n\nx"); err == nil {
			t.Error("it was answered")
		}
	}
	if n, err := p.Count(ctx); err != nil || n == 0 || n == 40 {
		t.Errorf("of 40 that weren't answered %d are there, %v", n, err)
	}
	if _, err := db.Exec(`select setval(pg_get_serial_sequence('postroom.mails', 'n'), 30000)`); err != nil {
		t.Fatal(err)
	}
	p.SetWeather(postroom.Weather{})
	if err := send(at, "b@school.example", "Subject: last\n\nx"); err != nil {
		t.Fatal(err)
	}
	if err := p.Forget(ctx); err != nil {
		t.Fatal(err)
	}
	if n, err := p.Count(ctx); err != nil || n != 1 {
		t.Errorf("%d are kept, %v", n, err)
	}
}
