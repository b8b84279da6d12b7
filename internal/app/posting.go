package app

import (
	"context"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/core/school"
	"jollysatchel/internal/core/words"
	"jollysatchel/internal/courier"
	"jollysatchel/internal/cupboard/standin"
	"jollysatchel/internal/post"
	"jollysatchel/internal/post/postroom"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/web"
)

// terms are how messages go out at present: through the school's server or, where it has
// none, into the postroom.
func (a *App) terms() courier.Terms {
	is := a.Charter.School()
	return courier.Terms{Post: a.postOf(is), From: is.PostAddress(), School: is.Name, PerMinute: is.Post.PerMinute, Site: is.Site}
}

func (a *App) postOf(is seam.School) post.Post {
	p := is.Post
	if p.Server == "" {
		port := a.Postroom.Port()
		if port == 0 {
			port = 1 // nobody is there: what is to be sent waits, and goes to no other server of this machine
		}
		return post.SMTP{Host: "127.0.0.1", Port: port, Security: school.Open}
	}
	return post.SMTP{Host: p.Server, Port: p.Port, Security: p.Security, User: p.User, Password: a.PostPassword}
}

// noMailbox reports an address of the school's that is nobody's: the postroom has no
// mailbox for it.
func (a *App) noMailbox(ctx context.Context, address string) bool {
	domain := a.Charter.School().Domain
	if domain == "" || !roster.InDomain(address, domain) {
		return false
	}
	_, known, err := a.Cases.People.AccountOf(ctx, address)
	return err == nil && !known
}

// tryPost sends one mail now, past all that waits, and says what the server answered.
func (a *App) tryPost(ctx context.Context, to accounts.Account) error {
	is := a.Charter.School()
	server := is.PostServer()
	if server == "" {
		server = words.Mail("postroom")
	}
	m := post.Mail{
		ID: store.NewID(), From: post.Person{Name: is.Name, Address: is.PostAddress()},
		To: post.Person{Name: to.Name(), Address: to.Address}, At: a.Now(),
		Subject: words.Mail("trial-subject"), Body: words.Mail("trial-body", "school", is.Name, "server", server),
	}
	var failed error
	a.postOf(is).Send(ctx, []post.Mail{m}, func(_ int, err error) { failed = err })
	return failed
}

// mailroom is the postroom as the web's page needs it.
type mailroom struct {
	*postroom.Postroom
	cup *standin.Standin // keeps the weather
}

// PostWeather implements web.Postroom.
func (m mailroom) PostWeather() web.PostWeather {
	w := m.Postroom.Weather()
	return web.PostWeather{Refuses: w.Refuses, Lost: w.Lost, Delay: w.Delay}
}

// SetPostWeather implements web.Postroom.
func (m mailroom) SetPostWeather(ctx context.Context, w web.PostWeather) error {
	now := postroom.Weather{Refuses: w.Refuses, Lost: w.Lost, Delay: w.Delay}
	m.SetWeather(now)
	return m.cup.KeepWeather(ctx, ofPostroom, now)
}

// Mails implements web.Postroom.
func (m mailroom) Mails(ctx context.Context, text string, before int64) (of []web.PostMail, more bool, all int64, err error) {
	found, more, err := m.Postroom.Mails(ctx, text, before)
	for _, x := range found {
		of = append(of, web.PostMail{N: x.N, Mailbox: x.Mailbox, Subject: x.Subject, At: x.At, Came: x.Came})
	}
	if err == nil {
		all, err = m.Count(ctx)
	}
	return of, more, all, err
}

// Mail implements web.Postroom.
func (m mailroom) Mail(ctx context.Context, n int64) (web.PostMail, bool, error) {
	l, there, err := m.Letter(ctx, n)
	return web.PostMail{N: n, Mailbox: l.Mailbox, From: l.From, To: l.To, Reply: l.Reply, Subject: l.Subject,
		Text: l.Text, At: l.At, Came: l.Came, Content: l.Content}, there, err
}
