package post

import (
	"context"
	"errors"
	"strconv"
	"strings"
	"time"

	gomail "github.com/wneessen/go-mail"
	"github.com/wneessen/go-mail/smtp"

	"jollysatchel/internal/core/school"
)

// An SMTP sends mails to a server, which passes them on.
type SMTP struct {
	Host           string
	Port           int    // 0: the usual one
	Security       string // school.StartTLS, school.TLS or school.Open
	User, Password string // empty: it isn't signed in
	// Patience is how long each step may take; 0: patience.
	Patience time.Duration
	options  []gomail.Option
}

// patience is how long a server may take for each step.
const patience = 15 * time.Second

var _ Post = SMTP{}

// With is the server with more options, which tests need.
func (s SMTP) With(o ...gomail.Option) SMTP {
	s.options = o
	return s
}

// client is what speaks to the server.
func (s SMTP) client() (*gomail.Client, error) {
	wait := s.Patience
	if wait == 0 {
		wait = patience
	}
	o := []gomail.Option{gomail.WithTimeout(wait), gomail.WithoutNoop()}
	switch s.Security {
	case school.TLS:
		o = append(o, gomail.WithSSLPort(false))
	case school.Open:
		o = append(o, gomail.WithTLSPolicy(gomail.NoTLS))
	default:
		o = append(o, gomail.WithTLSPortPolicy(gomail.TLSMandatory))
	}
	if s.Port > 0 {
		o = append(o, gomail.WithPort(s.Port))
	}
	if s.User != "" {
		o = append(o, gomail.WithSMTPAuth(gomail.SMTPAuthAutoDiscover), gomail.WithUsername(s.User), gomail.WithPassword(s.Password))
	}
	return gomail.NewClient(s.Host, append(o, s.options...)...)
}

// Send implements Post, over one connection as long as it holds.
func (s SMTP) Send(ctx context.Context, mails []Mail, done func(int, error)) {
	client, err := s.client()
	if err != nil {
		done(0, &Refusal{Text: err.Error()})
		return
	}
	var line *smtp.Client
	defer func() {
		if line != nil {
			_ = client.CloseWithSMTPClient(line) // everything was answered
		}
	}()
	for i, m := range mails {
		if ctx.Err() != nil {
			return
		}
		msg, err := m.message()
		if err != nil {
			done(i, &Refusal{Text: strings.TrimPrefix(err.Error(), "post: "), ForGood: true})
			continue
		}
		if line == nil {
			if line, err = client.DialToSMTPClientWithContext(ctx); err != nil {
				done(i, refusal(err, false)) // the others meet the same
				return
			}
		}
		err = client.SendWithSMTPClient(line, msg)
		if msg.IsDelivered() { // whatever became of the line
			done(i, nil)
		} else {
			done(i, refusal(err, true))
		}
		var sent *gomail.SendError
		if err != nil && !(errors.As(err, &sent) && sent.ErrorCode() > 0) { // no answer: the line is broken
			_ = line.Close()
			line = nil
		}
	}
}

// refusal is what a server said. mine tells that it was about one mail, and not about
// who sends.
func refusal(err error, mine bool) *Refusal {
	var sent *gomail.SendError
	if errors.As(err, &sent) && sent.ErrorCode() > 0 {
		return &Refusal{Code: sent.ErrorCode(), Text: answer(sent), ForGood: mine && !sent.IsTemp() && sent.ErrorCode() >= 500}
	}
	return &Refusal{Text: said(err)}
}

// answer is what the server itself said, without what the client says around it.
func answer(e *gomail.SendError) string {
	text := said(e)
	if _, after, ok := strings.Cut(text, strconv.Itoa(e.ErrorCode())+" "); ok {
		text, _, _ = strings.Cut(after, ", affected ")
		text = strings.Trim(text, `"`)
	}
	return text
}

// mostSaid bytes are kept of what a server says.
const mostSaid = 300

// said is what is in an error, on one line.
func said(err error) string {
	if err == nil {
		return "no answer"
	}
	text := plain(err.Error())
	if len(text) > mostSaid {
		text = strings.ToValidUTF8(text[:mostSaid], "") + " …"
	}
	return text
}
