package handout

import (
	"strconv"
	"strings"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/core/wall"
	"jollysatchel/internal/core/words"
)

// due says when it is due, by the clocks of its zone.
func (e editing) due() error {
	if e.To.Due == nil {
		return nil
	}
	now := wall.Written(e.h.Due)
	if err := change.Unless(e.Was.Due, "due", now, *e.To.Due); err != nil {
		return err
	}
	var t time.Time
	if *e.To.Due != "" {
		var err error
		if t, err = time.Parse(wall.Minute, *e.To.Due); err != nil {
			return change.Refuse("due", "not-a-time")
		}
	}
	if !t.Equal(e.h.Due) {
		e.set().Pens, e.set().Hands = nil, nil // what was said by hand was said of the other time
	}
	e.h.Due = t
	return nil
}

// then says whether copies close once it is due.
func (e editing) then() error {
	if e.To.Then == nil {
		return nil
	}
	if *e.To.Then != "" && *e.To.Then != ThenClose {
		return change.Refuse("then", "no-such-choice")
	}
	if *e.To.Then != "" && e.set().Way == NoticeName {
		return change.Refuse("then", "not-of-a-notice")
	}
	now := e.set().Then
	if err := change.Put(e.Was.Then, "then", &e.set().Then, *e.To.Then); err != nil {
		return err
	}
	if now != e.set().Then {
		e.set().Pens, e.set().Hands = nil, nil
	}
	return nil
}

// send says when it is packed by itself; not in the past, nor once it is packed.
func (e editing) send() error {
	if e.To.Send == nil {
		return nil
	}
	if err := e.packed("send", *e.To.Send == ""); err != nil {
		return err
	}
	if err := change.Unless(e.Was.Send, "send", wall.Written(e.h.Send), *e.To.Send); err != nil {
		return err
	}
	e.h.Send, e.h.SendBy, e.h.SendProblem = time.Time{}, "", nil
	if *e.To.Send == "" {
		return nil
	}
	t, err := wall.Parse(*e.To.Send)
	if err != nil {
		return change.Refuse("send", "not-a-time")
	}
	if !wall.Moment(t, e.h.Zone).After(e.Now) {
		return change.Refuse("send", "time-past")
	}
	e.h.Send, e.h.SendBy = t, e.By
	return nil
}

// message is what is said with it in a few words.
func (e editing) message() error {
	if e.To.Message == nil {
		return nil
	}
	to := strings.TrimSpace(*e.To.Message)
	if len(to) > MostMessage {
		return change.TooLong("message", MostMessage)
	}
	return change.Put(e.Was.Message, "message", &e.set().Message, to)
}

// instructions are a formatted text.
func (e editing) instructions() error {
	if e.To.Instructions == nil {
		return nil
	}
	to := strings.TrimSpace(*e.To.Instructions)
	if len(to) > MostInstructions {
		return change.TooLong("instructions", MostInstructions)
	}
	return change.Put(e.Was.Instructions, "instructions", &e.set().Instructions, to)
}

// links are given as they are to be.
func (e editing) links() error {
	if e.To.Links == nil {
		return nil
	}
	if len(*e.To.Links) > MostLinks {
		return change.TooMany("links", "too-many-links", MostLinks)
	}
	to := make([]Link, len(*e.To.Links))
	for i, l := range *e.To.Links {
		to[i] = l.Tidy()
		if code := to[i].Problem(); code != "" {
			return change.Refuse("links", code, "place", strconv.Itoa(i+1), "most", strconv.Itoa(MostAddress))
		}
	}
	if e.Was.Links != nil {
		was := change.Digest(*e.Was.Links)
		if err := change.Unless(&was, "links", change.Digest(append([]Link{}, e.set().Links...)), change.Digest(to)); err != nil {
			return err
		}
	}
	e.set().Links = to
	return nil
}

func (e editing) forParents() error {
	if e.To.ForParents == nil {
		return nil
	}
	return change.PutSame(e.Was.ForParents, "forParents", &e.set().ForParents, *e.To.ForParents)
}

// tell says of what its people are told by post.
func (e editing) tell() error {
	if e.To.Tell == nil {
		return nil
	}
	if !e.To.Tell.Known() {
		return change.Refuse("tell", "no-such-choice")
	}
	way := e.set().Way
	if err := change.Unless(e.Was.Tell, "tell", way.Tells(e.set().Tell), way.Tells(*e.To.Tell)); err != nil {
		return err
	}
	e.set().Tell = *e.To.Tell
	return nil
}

// mail says in which words.
func (e editing) mail() error {
	for _, x := range []struct {
		field   string
		to, was *telling.Text
		is      **telling.Text
		kind    telling.Kind
	}{{"mail", e.To.Mail, e.Was.Mail, &e.set().Mail, telling.Given},
		{"mailChanged", e.To.MailChanged, e.Was.MailChanged, &e.set().MailChanged, telling.Changed}} {
		if x.to == nil {
			continue
		}
		to, err := x.to.Tidy(x.field)
		if err != nil {
			return err
		}
		if err := change.UnlessSame(x.was, x.field, e.h.Mail(x.kind), to); err != nil {
			return err
		}
		*x.is = nil
		if to != (telling.Text{}) && to != e.h.usualMail(x.kind) {
			*x.is = &to
		}
	}
	return nil
}

// Mail is what a handout's message of a kind, Given or Changed, says.
func (h Handout) Mail(kind telling.Kind) telling.Text {
	own := h.Settings.Mail
	if kind == telling.Changed {
		own = h.Settings.MailChanged
	}
	if own != nil {
		return *own
	}
	return h.usualMail(kind)
}

// usualMail is what it says where its teacher said nothing.
func (h Handout) usualMail(kind telling.Kind) telling.Text {
	t := telling.Text{Subject: words.Mail(string(kind) + "-subject"), Body: words.Mail(string(kind) + "-body")}
	if kind == telling.Given && h.Settings.Way == NoticeName {
		t.Body = words.Mail("notice-body")
	}
	return t
}
