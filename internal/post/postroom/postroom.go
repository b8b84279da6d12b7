// Package postroom is the stand-in for mail: a real SMTP server on loopback that keeps
// what it gets, to be read on screen. It can be told to suffer.
package postroom

import (
	"bytes"
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"math/rand/v2"
	"net"
	"strings"
	"sync"
	"time"

	_ "github.com/emersion/go-message/charset" // what mails are written in
	"github.com/emersion/go-message/mail"
	"github.com/emersion/go-smtp"
	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/database"

	"jollysatchel/internal/clock"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Migrate brings the postroom's schema up to date.
func Migrate(ctx context.Context, db *sql.DB) error {
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	store, err := database.NewStore(database.DialectPostgres, "postroom_versions")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectCustom, db, dir, goose.WithStore(store))
	if err != nil {
		return err
	}
	_, err = p.Up(ctx)
	return err
}

// A Weather is what the postroom suffers.
type Weather struct {
	Refuses float64       // share of mails that are to come later
	Lost    float64       // share of which nothing is answered; every second is kept all the same
	Delay   time.Duration // before each answer to a mail
}

// What the postroom keeps to.
const (
	mostBytes = 1 << 20 // of a mail
	mostKept  = 20_000  // mails; older ones are thrown away
)

// A Postroom is a mail server with the mailboxes of everybody.
type Postroom struct {
	db  *sqlx.DB
	now clock.Clock
	// Unknown reports an address that has no mailbox here.
	Unknown func(ctx context.Context, address string) bool

	mu      sync.Mutex
	weather Weather
	server  *smtp.Server
	port    int
}

// New returns a postroom on db. Migrate must have been called on it once.
func New(db *sqlx.DB, now clock.Clock) *Postroom { return &Postroom{db: db, now: now} }

// Weather is what it suffers.
func (p *Postroom) Weather() Weather {
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.weather
}

// SetWeather has it suffer something else.
func (p *Postroom) SetWeather(w Weather) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.weather = w
}

// Port is where it listens on loopback, from the first time it is asked until it is closed; 0
// where the system has no room.
func (p *Postroom) Port() int {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.server == nil {
		l, err := net.Listen("tcp", "127.0.0.1:0")
		if err != nil {
			return 0
		}
		p.open(l)
	}
	return p.port
}

func (p *Postroom) open(l net.Listener) {
	s := smtp.NewServer(smtp.BackendFunc(func(c *smtp.Conn) (smtp.Session, error) { return &session{Postroom: p, line: c}, nil }))
	s.Domain, s.MaxMessageBytes, s.MaxRecipients = "postroom", mostBytes, 1
	s.ReadTimeout, s.WriteTimeout = time.Minute, time.Minute
	s.EnableSMTPUTF8 = true
	s.ErrorLog = quiet{}
	p.server, p.port = s, l.Addr().(*net.TCPAddr).Port
	go func() { _ = s.Serve(l) }() // ends with Close
}

// Close ends it.
func (p *Postroom) Close() error {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.server == nil {
		return nil
	}
	return p.server.Close()
}

// quiet takes what the server has to say of lines that broke.
type quiet struct{}

func (quiet) Printf(string, ...any) {}
func (quiet) Println(...any)        {}

// A session is one line on which mails come.
type session struct {
	*Postroom
	line *smtp.Conn
	from string
	to   string
}

func (s *session) Reset()        { s.from, s.to = "", "" }
func (s *session) Logout() error { return nil }

// Mail implements smtp.Session.
func (s *session) Mail(from string, _ *smtp.MailOptions) error {
	s.from = from
	return nil
}

// Rcpt implements smtp.Session.
func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error {
	if s.Unknown != nil && s.Unknown(context.Background(), to) {
		return &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1}, Message: "There is no such mailbox here"}
	}
	if rand.Float64() < s.Weather().Refuses {
		return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 2}, Message: "Not now, try again later"}
	}
	s.to = strings.ToLower(to)
	return nil
}

// Data implements smtp.Session.
func (s *session) Data(r io.Reader) error {
	content, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	w := s.Weather()
	time.Sleep(w.Delay)
	if lost := rand.Float64() < w.Lost; !lost || rand.IntN(2) == 0 {
		if err := s.keep(context.Background(), s.from, s.to, content); err != nil {
			return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 0}, Message: "It couldn't be kept"}
		}
		if !lost {
			return nil
		}
	}
	return errors.Join(errors.New("lost"), s.line.Conn().Close())
}

// keep puts a mail into a mailbox; the same one again is counted.
func (p *Postroom) keep(ctx context.Context, from, to string, content []byte) error {
	m, err := read(content)
	if err != nil {
		m = Letter{}
	}
	if m.ID == "" { // nothing says that two such are one
		m.ID = fmt.Sprintf("none-%d-%d", p.now().UnixNano(), rand.Uint64())
	}
	_, err = p.db.ExecContext(ctx, `insert into postroom.mails (message_id, mailbox, at, subject, sender, content)
		values ($1, $2, $3, $4, $5, $6) on conflict (message_id, mailbox) do update set came = mails.came + 1`,
		clean(m.ID), clean(to), p.now(), clean(m.Subject), clean(from), content)
	return err
}

func clean(s string) string { return strings.ReplaceAll(strings.ToValidUTF8(s, "\uFFFD"), "\x00", "") }

// A Mail is one as it is in the list.
type Mail struct {
	N       int64     `db:"n"`
	Mailbox string    `db:"mailbox"`
	At      time.Time `db:"at"`
	Subject string    `db:"subject"`
	Came    int       `db:"came"`
}

// page is how many mails are shown at once.
const page = 50

// Mails returns mails, the latest first, of which mailbox or subject hold a text, older
// than one if before isn't 0; and whether there are more.
func (p *Postroom) Mails(ctx context.Context, text string, before int64) ([]Mail, bool, error) {
	out := []Mail{}
	err := p.db.SelectContext(ctx, &out, `select n, mailbox, at, subject, came from postroom.mails
		where ($1 = 0 or n < $1) and ($2 = '' or strpos(lower(mailbox || ' ' || subject), lower($2)) > 0)
		order by n desc limit $3`, before, text, page+1)
	if len(out) > page {
		return out[:page], true, err
	}
	return out, false, err
}

// Count is how many mails there are.
func (p *Postroom) Count(ctx context.Context) (n int64, err error) {
	err = p.db.GetContext(ctx, &n, `select count(*) from postroom.mails`)
	return n, err
}

// A Letter is a mail to be read.
type Letter struct {
	ID            string
	From, To      string
	Subject       string
	At            time.Time
	Text          string
	Mailbox       string
	Came          int
	Content       []byte // as it came
	Pretty, Reply string // Pretty is its text as HTML; Reply is where answers go
}

// Letter returns one mail; ok is false where there is none.
func (p *Postroom) Letter(ctx context.Context, n int64) (l Letter, ok bool, err error) {
	var row struct {
		Mail
		Content []byte `db:"content"`
	}
	err = p.db.GetContext(ctx, &row, `select n, mailbox, at, subject, came, content from postroom.mails where n = $1`, n)
	if errors.Is(err, sql.ErrNoRows) {
		return l, false, nil
	}
	if err != nil {
		return l, false, err
	}
	if l, err = read(row.Content); err != nil { // whatever it is, it can be had as it came
		l, err = Letter{Subject: row.Subject}, nil
	}
	l.Mailbox, l.Came, l.Content = row.Mailbox, row.Came, row.Content
	return l, true, err
}

// read takes a mail apart.
func read(content []byte) (Letter, error) {
	var l Letter
	r, err := mail.CreateReader(bytes.NewReader(content))
	if err != nil {
		return l, err
	}
	defer r.Close()
	if l.ID, err = r.Header.MessageID(); err != nil {
		l.ID = ""
	}
	l.Subject, _ = r.Header.Subject() // what can't be read is shown empty
	l.At, _ = r.Header.Date()
	people := func(name string) string {
		list, _ := r.Header.AddressList(name)
		var out []string
		for _, a := range list {
			out = append(out, strings.TrimSpace(a.Name+" <"+a.Address+">"))
		}
		return strings.Join(out, ", ")
	}
	l.From, l.To, l.Reply = people("From"), people("To"), people("Reply-To")
	for {
		part, err := r.NextPart()
		if errors.Is(err, io.EOF) {
			return l, nil
		}
		if err != nil {
			return l, err
		}
		inline, ok := part.Header.(*mail.InlineHeader)
		if !ok {
			continue
		}
		kind, _, _ := inline.ContentType()
		b, err := io.ReadAll(part.Body)
		if err != nil {
			return l, err
		}
		switch kind {
		case "text/html":
			l.Pretty = string(b)
		case "text/plain":
			l.Text = strings.ReplaceAll(string(b), "\r\n", "\n")
		}
	}
}

// Forget throws away the oldest mails beyond as many as are kept.
func (p *Postroom) Forget(ctx context.Context) error {
	_, err := p.db.ExecContext(ctx, `delete from postroom.mails where n <= (select max(n) from postroom.mails) - $1`, mostKept)
	return err
}
