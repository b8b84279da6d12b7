package desk

import (
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/progress"
	"jollysatchel/internal/core/register"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/core/wall"
	"jollysatchel/internal/document"
	"jollysatchel/internal/web/api"
)

// Due is when a handout is due, as clocks show it; empty for never.
func Due(h handout.Handout) string {
	if h.Due.IsZero() {
		return ""
	}
	return h.Due.Format("2006-01-02T15:04")
}

// DueFor is when a handout is due for one row, with its extra time.
func DueFor(h handout.Handout, row string) string {
	if at, ok := h.DueFor(row); ok {
		h.Due = wall.At(at, h.Zone)
	}
	return Due(h)
}

// ClosingView is a closing as it is shown, with the names of accounts.
func ClosingView(c handout.Closing, names map[string]string) *api.Closing {
	return &api.Closing{At: c.At.UTC(), By: names[c.By]}
}

// Headings are what handouts are under, as the contract has them.
func Headings(all []handout.Heading) []api.Heading {
	out := []api.Heading{}
	for _, h := range all {
		out = append(out, api.Heading{Id: h.ID, Title: h.Title, Folded: h.Folded})
	}
	return out
}

// WithIt is what is said with a handout: its instructions as HTML, and its links.
func WithIt(h handout.Handout) (html string, links []api.HandoutLink) {
	if h.Settings.Instructions != "" {
		html, _ = document.HTML(h.Settings.Instructions)
	}
	links = []api.HandoutLink{}
	for _, l := range h.Settings.Links {
		links = append(links, api.HandoutLink{Words: l.Words, Address: l.Address})
	}
	return html, links
}

// notices are a class's as a student sees them.
func notices(all []handout.Handout) []api.Notice {
	out := []api.Notice{}
	for _, h := range all {
		n := api.Notice{Id: h.ID, Title: h.Title, ForParents: h.Settings.ForParents, PostedAt: h.PackedAt}
		n.Html, n.Links = WithIt(h)
		out = append(out, n)
	}
	return out
}

// ReasonOf is a reason as the contract has it.
func ReasonOf(r packing.Reason) api.Reason {
	args := r.Args
	if args == nil {
		args = map[string]string{}
	}
	return api.Reason{Code: r.Code, Args: &args}
}

// ReasonPtr is ReasonOf of one that may be none.
func ReasonPtr(r *packing.Reason) *api.Reason {
	if r == nil {
		return nil
	}
	out := ReasonOf(*r)
	return &out
}

// LevelWord is a level as the interface names it.
func LevelWord(l access.Level) api.AccessLevel { return api.AccessLevel(l.String()) }

// Moment is a time that may be none.
func Moment(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	u := t.UTC()
	return &u
}

// WhoseThing says whose a thing of a key is.
func WhoseThing(k packing.Key) api.Whose {
	switch {
	case k.Whom.Row != "":
		return api.WhoseStudent
	case k.Whom.Team != "":
		return api.WhoseTeam
	}
	return api.WhoseClass
}

// CueView is a cue, or none.
func CueView(c room.Cue) *api.Cue {
	if c == (room.Cue{}) {
		return nil
	}
	return &api.Cue{Colour: api.CueColour(c.Colour), Symbol: api.CueSymbol(c.Symbol)}
}

// ShownView is a state that was shown, with the names of accounts as far as they are asked for.
func ShownView(x ledger.Snapshot, names map[string]string) *api.ShownState {
	return &api.ShownState{Version: x.Version, At: x.At, By: OrNone(names[x.By]), Word: x.Word, Asked: x.Asked,
		SeenBy: OrNone(names[x.SeenBy]), SeenAt: Moment(x.SeenAt)}
}

// MailText is a mail's text as the core has it; nil: the usual one.
func MailText(t *api.MailText) *telling.Text {
	if t == nil {
		return nil
	}
	return &telling.Text{Subject: t.Subject, Body: t.Body}
}

// TextView is a mail's text as the contract has it.
func TextView(t telling.Text) api.MailText { return api.MailText{Subject: t.Subject, Body: t.Body} }

// Postroomed reports that the school's mails come into the postroom.
func (s *Desk) Postroomed() bool { return s.School().PostServer() == "" }

// Closers are the accounts that closed copies of homes by hand.
func Closers(homes ...register.Home) (accounts []string) {
	for _, h := range homes {
		for _, k := range h.Copies {
			if k.Closing != nil && k.Closing.By != "" {
				accounts = append(accounts, k.Closing.By)
			}
		}
		for _, c := range h.Shut {
			accounts = append(accounts, c.By)
		}
	}
	return accounts
}

// HomeView is a class as one of its students sees it; names are those of who closed something.
func HomeView(c register.Home, names map[string]string) api.HomeClass {
	v := api.HomeClass{Id: c.Class.ID, Code: c.Class.Code, Name: c.Class.Name, Staff: []string{},
		Pockets: []api.Pocket{}, Cue: CueView(c.Cue), Places: []api.HomePlace{}, Added: c.Added, Copies: []api.HomeCopy{},
		Notices: notices(c.Notices), Headings: Headings(c.Headings), Satchel: OrNone(c.Satchel), Shelf: OrNone(c.Shelf), Table: OrNone(c.Table)}
	v.Waits = ReasonPtr(c.Waits)
	for _, m := range c.Staff {
		v.Staff = append(v.Staff, m.Name)
	}
	for _, p := range c.Pockets {
		v.Pockets = append(v.Pockets, api.Pocket{Id: p.ID, Name: p.Name})
	}
	v.ShelfName, v.TableName = OrNone(c.Called[c.Shelf]), OrNone(c.Called[c.Table])
	shut := func(thing string) *api.Closing {
		if c.Shut[thing] == nil {
			return nil
		}
		return ClosingView(*c.Shut[thing], names)
	}
	v.Closing, v.TableClosing = shut(c.Satchel), shut(c.Table)
	for _, p := range c.Places {
		v.Places = append(v.Places, api.HomePlace{Id: p.ID, Name: p.Name, Level: LevelWord(p.Level), HandIn: p.HandIn, Team: p.Team,
			Closing: shut(p.ID)})
	}
	of := map[string]int{}            // documents of a handout
	said := map[string]api.HomeCopy{} // what is said with it
	for _, k := range c.Copies {
		of[k.Handout.ID]++
	}
	for _, k := range c.Copies {
		hc := api.HomeCopy{Thing: k.Thing, Title: k.Handout.Title, Of: WhoseThing(k.Key), Fresh: !k.Opened && !k.Work.Begun,
			Text: document.IsTextName(k.Name), RenewedAt: Moment(k.Renewed), ClassId: c.Class.ID, Due: DueFor(k.Handout, c.Row),
			State: api.CellState(progress.Shared), Words: k.Work.Added, Level: LevelWord(k.Level),
			Message: k.Handout.Settings.Message, Heading: k.Handout.Heading, Handout: k.Handout.ID,
			Mates: k.Handout.MatesRead() || k.Handout.PassedOn()}
		with, known := said[k.Handout.ID]
		if !known {
			with.InstructionsHtml, with.Links = WithIt(k.Handout)
			said[k.Handout.ID] = with
		}
		hc.InstructionsHtml, hc.Links = with.InstructionsHtml, with.Links
		if k.Closing != nil {
			hc.Closing = ClosingView(*k.Closing, names)
		}
		if of[k.Handout.ID] > 1 {
			hc.Document = k.Name
		}
		if k.Work.Begun {
			hc.State, hc.Fill = api.CellState(progress.Working), 50
		}
		if k.Level < access.Edit {
			hc.Fill = 0
		}
		v.Copies = append(v.Copies, hc)
	}
	return v
}

// OrNone is an id that may be none.
func OrNone(id string) *string {
	if id == "" {
		return nil
	}
	return &id
}
