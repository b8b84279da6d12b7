package telling

import (
	"strconv"
	"strings"
	"time"

	"jollysatchel/internal/core/words"
)

// DigestOf is one message of several to one person, in their order, each under its subject; one
// alone stays what it is. It has no id.
func DigestOf(parts []Message, school string, now time.Time) Message {
	first := parts[0]
	d := Message{
		Account: first.Account, Kind: Digest, About: "digest/" + first.ID, FromName: school, ToName: first.ToName, ToAddress: first.ToAddress,
		State: Waiting, NotBefore: now, MadeAt: now,
	}
	if len(parts) == 1 {
		d.Subject, d.Body, d.FromName, d.ReplyTo, d.SentBy = first.Subject, first.Body, first.FromName, first.ReplyTo, first.SentBy
		return d
	}
	bodies := make([]string, len(parts))
	for i, p := range parts {
		bodies[i] = p.Subject + "\n\n" + p.Body
	}
	d.Subject, d.Body = words.Mail("digest", "n", strconv.Itoa(len(parts)), "school", school), strings.Join(bodies, "\n\n* * *\n\n")
	return d
}

// CodeFor is the message that brings somebody their code, good until a moment in words.
func CodeFor(account, name, address, code, until, school, site string, now time.Time) Message {
	return Message{
		Account: account, Kind: Code, FromName: school, ToName: name, ToAddress: address, State: Waiting, NotBefore: now, MadeAt: now,
		Subject: words.Mail("code-subject", "school", school),
		Body:    words.Mail("code-body", "name", name, "code", code, "until", until, "site", site),
	}
}

// From is who a message says it is from.
func (m Message) From(school string) string {
	if m.FromName == "" || m.FromName == school {
		return m.FromName
	}
	return words.Mail("from", "name", m.FromName, "school", school)
}

// Foot is what stands below a message's text, and where anyone who gets it says that they want no
// more of its kind; empty for one that they can't do without.
func (m Message) Foot(school, site string) (text, off string) {
	text = words.Mail("foot", "school", school)
	if m.Account != "" && (m.Kind.Notice() || m.Kind == Digest) {
		off = site + "/account"
		text = words.Mail("foot-notice", "school", school, "site", off)
	}
	return "\n\n-- \n" + text + "\n", off
}
