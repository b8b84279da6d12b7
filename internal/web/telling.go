package web

import (
	"bytes"
	"context"
	"strconv"
	"time"

	"jollysatchel/internal/core/letters"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

func messageAsk(b *api.MessageAsk) letters.Ask {
	ask := letters.Ask{Kind: telling.Kind(b.Kind), Handout: desk.Deref(b.Handout), Column: record.Field(desk.Deref(b.Column)),
		Text: desk.MailText(b.Text), Row: desk.Deref(b.Row)}
	if b.Rows != nil {
		ask.Rows = *b.Rows
	}
	return ask
}

// PreviewMessage implements the route of that name.
func (s *tellRoutes) PreviewMessage(ctx context.Context, r api.PreviewMessageRequestObject) (api.PreviewMessageResponseObject, error) {
	look, err := s.telling.PreviewMessage(ctx, r.ClassId, messageAsk(r.Body))
	out := api.PreviewMessage200JSONResponse{
		Text: desk.TextView(look.Text), Subject: look.Letter.Subject, Body: look.Letter.Body, Row: look.Row, Name: look.Name,
		To: orEmpty(look.To), Readers: []api.MessageReader{}, Messages: look.Messages,
		Strange: orEmpty(look.Strange), Lacking: look.Lacking, Columns: orEmpty(look.Columns), Standin: s.Postroomed(),
	}
	for _, x := range look.Readers {
		v := api.MessageReader{Row: x.Row, Name: x.Name}
		if x.Odd != "" {
			odd := api.MessageReaderOdd(x.Odd)
			v.Odd = &odd
		}
		out.Readers = append(out.Readers, v)
	}
	return out, err
}

func orEmpty(s []string) []string {
	if s == nil {
		return []string{}
	}
	return s
}

// SendMessage implements the route of that name.
func (s *tellRoutes) SendMessage(ctx context.Context, r api.SendMessageRequestObject) (api.SendMessageResponseObject, error) {
	n, err := s.telling.SendMessage(desk.About(ctx, nil), desk.Account(ctx), r.ClassId, messageAsk(r.Body))
	return api.SendMessage200JSONResponse{Messages: n}, err
}

// SendAgain implements the route of that name.
func (s *tellRoutes) SendAgain(ctx context.Context, r api.SendAgainRequestObject) (api.SendAgainResponseObject, error) {
	n, err := s.telling.SendAgain(desk.About(ctx, nil), desk.Account(ctx), r.ClassId, r.Body.Messages)
	return api.SendAgain200JSONResponse{Messages: n}, err
}

// ListMessages implements the route of that name.
func (s *tellRoutes) ListMessages(ctx context.Context, r api.ListMessagesRequestObject) (api.ListMessagesResponseObject, error) {
	p := r.Params
	f := seam.MessageFilter{Text: desk.Deref(p.Text), Row: desk.Deref(p.Row), Handout: desk.Deref(p.Handout)}
	if p.State != nil {
		f.State = string(*p.State)
	}
	if p.Before != nil {
		f.Before = *p.Before
	}
	found, more, counts, err := s.telling.Messages(ctx, r.ClassId, f)
	out := api.ListMessages200JSONResponse{Messages: []api.Told{}, More: more, Counts: counts}
	for _, m := range found {
		v := api.Told{
			Id: m.ID, N: m.N, Kind: api.ToldKind(m.Kind), By: m.By, Row: m.Row, Handout: m.HandoutID, Name: m.ToName,
			Address: m.ToAddress, Subject: m.Subject, Body: m.Body,
			State: api.ToldState(m.State), Reason: m.Reason, Tries: m.Tries, MadeAt: m.MadeAt.UTC(), EndedAt: desk.Moment(m.EndedAt),
		}
		if m.EndedAt.IsZero() {
			v.NextAt = desk.Moment(m.NotBefore)
		}
		out.Messages = append(out.Messages, v)
	}
	return out, err
}

// GetWish implements the route of that name.
func (s *tellRoutes) GetWish(ctx context.Context, _ api.GetWishRequestObject) (api.GetWishResponseObject, error) {
	w, err := s.telling.Wish(ctx, desk.Account(ctx))
	return api.GetWish200JSONResponse{Wish: api.WishWish(w.Wish), At: w.At}, err
}

// SetWish implements the route of that name.
func (s *tellRoutes) SetWish(ctx context.Context, r api.SetWishRequestObject) (api.SetWishResponseObject, error) {
	return api.SetWish204Response{}, s.telling.SetWish(ctx, desk.Account(ctx), telling.Wish(r.Body.Wish), r.Body.At)
}

// TryPost implements the route of that name.
func (s *tellRoutes) TryPost(ctx context.Context, _ api.TryPostRequestObject) (api.TryPostResponseObject, error) {
	found, err := s.people.Accounts(ctx, desk.Account(ctx))
	if err != nil {
		return nil, err
	}
	me := found[desk.Account(ctx)]
	out := api.TryPost200JSONResponse{To: me.Address, Server: s.School().PostServer(), Taken: true}
	if err := s.tryPost(desk.Gin(ctx).Request.Context(), me); err != nil {
		out.Taken, out.Answer = false, err.Error()
	}
	return out, nil
}

// A PostWeather is what the stand-in for mail suffers.
type PostWeather struct {
	Refuses, Lost float64 // shares
	Delay         time.Duration
}

// A PostMail is a mail in the stand-in for mail; Content is it as it came.
type PostMail struct {
	N                                       int64
	Mailbox, From, To, Reply, Subject, Text string
	At                                      time.Time
	Came                                    int
	Content                                 []byte
}

// Postroom is the stand-in for mail as its page needs it.
type Postroom interface {
	PostWeather() PostWeather
	SetPostWeather(ctx context.Context, w PostWeather) error // kept for the next start
	Mails(ctx context.Context, text string, before int64) (of []PostMail, more bool, all int64, err error)
	Mail(ctx context.Context, n int64) (m PostMail, there bool, err error)
}

func (s *tellRoutes) postWeather() api.PostWeather {
	w := s.Postroom.PostWeather()
	return api.PostWeather{Refuses: float32(w.Refuses), Lost: float32(w.Lost), Delay: int(w.Delay / time.Millisecond)}
}

// ListPostroom implements the route of that name.
func (s *tellRoutes) ListPostroom(ctx context.Context, r api.ListPostroomRequestObject) (api.ListPostroomResponseObject, error) {
	before := int64(0)
	if r.Params.Before != nil {
		before = *r.Params.Before
	}
	found, more, all, err := s.Postroom.Mails(ctx, desk.Deref(r.Params.Text), before)
	out := api.ListPostroom200JSONResponse{Mails: []api.PostMail{}, More: more, All: all, Weather: s.postWeather()}
	for _, m := range found {
		out.Mails = append(out.Mails, api.PostMail{N: m.N, Mailbox: m.Mailbox, Subject: m.Subject, At: m.At.UTC(), Came: m.Came})
	}
	return out, err
}

// SetPostWeather implements the route of that name.
func (s *tellRoutes) SetPostWeather(ctx context.Context, r api.SetPostWeatherRequestObject) (api.SetPostWeatherResponseObject, error) {
	err := s.Postroom.SetPostWeather(ctx,
		PostWeather{Refuses: float64(r.Body.Refuses), Lost: float64(r.Body.Lost), Delay: time.Duration(r.Body.Delay) * time.Millisecond})
	return api.SetPostWeather200JSONResponse(s.postWeather()), err
}

func (s *tellRoutes) mail(ctx context.Context, n int64) (PostMail, error) {
	m, there, err := s.Postroom.Mail(ctx, n)
	if err == nil && !there {
		err = seam.ErrNotFound
	}
	return m, err
}

// GetMail implements the route of that name.
func (s *tellRoutes) GetMail(ctx context.Context, r api.GetMailRequestObject) (api.GetMailResponseObject, error) {
	m, err := s.mail(ctx, r.MailNumber)
	return api.GetMail200JSONResponse{N: m.N, Mailbox: m.Mailbox, From: m.From, To: m.To, Reply: m.Reply,
		Subject: m.Subject, Text: m.Text, At: m.At.UTC(), Came: m.Came}, err
}

// GetEML implements the route of that name.
func (s *tellRoutes) GetEML(ctx context.Context, r api.GetEMLRequestObject) (api.GetEMLResponseObject, error) {
	m, err := s.mail(ctx, r.MailNumber)
	if err != nil {
		return nil, err
	}
	desk.Gin(ctx).Header("Content-Disposition", desk.Disposition("mail-"+strconv.FormatInt(m.N, 10)+".eml"))
	return api.GetEML200ApplicationoctetStreamResponse{Body: bytes.NewReader(m.Content), ContentLength: int64(len(m.Content))}, nil
}
