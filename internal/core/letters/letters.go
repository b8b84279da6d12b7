// Package letters is whom of a class is told what, in which words and when.
package letters

import (
	"cmp"
	"errors"
	"slices"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/core/wall"
	"jollysatchel/internal/core/words"
)

// ErrNoHandout says that what is to be told of isn't there.
var ErrNoHandout = errors.New("letters: no such handout")

// A School is what letters say of it, and what they may do.
type School struct {
	Site        string // where its pages are, without a slash at its end
	Domain      string // of its addresses
	OutsideMail bool   // people may write to addresses of other domains that are no account's
	Zone        *time.Location
}

// A Sender is who tells.
type Sender struct{ Account, Address, Name string }

// A Book is what a class's letters are made of. Wishes are how people want to be told, by account.
type Book struct {
	*picture.Picture
	School School
	Now    time.Time
	Wishes map[string]telling.Wished
	at     map[string]int // row → its place among the students
}

// Of is the book of a class's letters at a moment.
func Of(p *picture.Picture, school School, now time.Time, wishes map[string]telling.Wished) *Book {
	b := &Book{Picture: p, School: school, Now: now, Wishes: wishes, at: make(map[string]int, len(p.Students))}
	for i, st := range p.Students {
		b.at[st.ID] = i
	}
	return b
}

// Accounts are those of a class's students.
func Accounts(p *picture.Picture) []string {
	out := make([]string, 0, len(p.Students))
	for _, st := range p.Students {
		if st.Account != "" {
			out = append(out, st.Account)
		}
	}
	return out
}

// reader is a student as somebody who may be told: at their own address or, of a column,
// at those that are there.
func (m *Book) reader(row string, of record.Field) telling.Reader {
	st := m.Students[m.at[row]]
	r := telling.Reader{Row: row, Account: st.Account, Name: st.CallName()}
	if of != "" {
		r.Account, r.Outside = "", true
		r.Addresses, r.Bad = telling.Addresses(st.Get(of))
		return r
	}
	r.Addresses, r.Bad = telling.Addresses(st.Address)
	r.Addresses = r.Addresses[:min(len(r.Addresses), 1)]
	r.Wish = m.Wishes[st.Account].Wish
	return r
}

// wayIn is where a student's own of a handout is, or, of none, their satchel.
func (m *Book) wayIn(h *handout.Handout, row string) string {
	keys := []packing.Key{room.SatchelKey(m.ID, row)}
	if h != nil {
		if h.Settings.Way == handout.NoticeName {
			return m.School.Site + "/"
		}
		keys = m.KeysOf(*h)(row)
	}
	var links []string
	for _, k := range keys {
		if e := m.Entries[k]; e != nil && e.Shared() && m.State(e).Place == ledger.Lies {
			links = append(links, e.Link)
		}
	}
	switch {
	case len(links) == 1:
		return m.School.Site + "/go/" + links[0]
	case len(links) > 1:
		return m.School.Site + "/door/" + m.ID + "/" + h.ID
	}
	return m.School.Site + "/"
}

// values are the columns of a message to a student.
func (m *Book) values(h *handout.Handout, row string) telling.Values {
	st := m.Room.Students[m.at[row]]
	own := map[string]string{telling.Name: calledName(m.Students[m.at[row]].Record), telling.Link: m.wayIn(h, row)}
	if h == nil {
		return telling.Values{Class: m.Known, Own: own, Rest: record.With{Own: record.DayValues(m.Today, m.Plan.Term), Rest: st.Values}}
	}
	if due, ok := h.DueAt(); ok && h.Settings.Way != handout.NoticeName {
		own[telling.Due] = due.In(m.School.Zone).Format("Mon 2 Jan, 15:04")
	}
	own[telling.Says] = h.Settings.Message
	day := record.DayValues(cmp.Or(h.Settings.Date, m.Today), m.Plan.Term)
	day[record.Title] = h.Title
	return telling.Values{Class: m.Known, Own: own, Rest: record.With{Own: day, Rest: st.Values}}
}

// gets says of a row whether a handout has something for it: anyone who has no level, or no team,
// isn't told that they were given something.
func (m *Book) gets(h handout.Handout) func(row string) bool {
	if h.Settings.Way == handout.NoticeName {
		return func(string) bool { return true }
	}
	given := map[packing.Key]bool{}
	for _, w := range m.Way(h).Own(m.Room) {
		given[w.Key] = w.Problem == nil
	}
	keys := m.KeysOf(h)
	return func(row string) bool {
		return slices.ContainsFunc(keys(row), func(k packing.Key) bool { return given[k] })
	}
}

// calledName is how a student is spoken to.
func calledName(r record.Record) string { return cmp.Or(r.Preferred, cmp.Or(r.Given, r.Name())) }

// A Tale is a telling of something: to whom, in which words, by whom.
type Tale struct {
	Kind    telling.Kind
	Handout *handout.Handout
	Text    telling.Text
	By      Sender
	About   string // what it tells of; each row has one of it
	Column  record.Field
	After   time.Duration // how long it waits: it may be changed until then
}

// Messages are those of a tale to some rows, without ids; anyone who can't be told gets none.
func (m *Book) Messages(t Tale, rows []string) []telling.Message {
	readers := make([]telling.Reader, len(rows))
	for i, row := range rows {
		readers[i] = m.reader(row, t.Column)
	}
	odd := telling.Odd(readers, m.School.Domain, m.School.OutsideMail)
	now := m.Now
	var out []telling.Message
	for i, r := range readers {
		if !odd[i].Reached() {
			continue
		}
		letter := t.Text.For(m.values(t.Handout, r.Row))
		msg := telling.Message{
			ClassID: m.ID, Row: r.Row, Account: r.Account, Kind: t.Kind, SentBy: t.By.Account, ReplyTo: t.By.Address,
			FromName: t.By.Name, ToName: r.Name,
			Subject: letter.Subject, Body: letter.Body, State: telling.Waiting, NotBefore: now.Add(t.After), MadeAt: now,
		}
		if t.Handout != nil {
			msg.HandoutID = t.Handout.ID
		}
		if r.Wish == telling.Together {
			msg.State, msg.NotBefore = telling.Gathering, nextTime(now, m.Wishes[r.Account].At, m.School.Zone)
		}
		if msg.Outside = t.Column != ""; msg.Outside {
			msg.ToName = ""
		}
		for _, a := range r.Addresses {
			msg.ToAddress, msg.About = a, t.About+"/"+r.Row+"/"+cmp.Or(r.Account, a)
			out = append(out, msg)
		}
	}
	return out
}

// nextTime is when a time of day, "15:30", comes next by a zone's clocks.
func nextTime(now time.Time, at string, zone *time.Location) time.Time {
	clock, err := time.Parse("15:04", at)
	if err != nil {
		return now
	}
	here := now.In(zone)
	for days := 0; ; days++ {
		at := time.Date(here.Year(), here.Month(), here.Day()+days, clock.Hour(), clock.Minute(), 0, 0, time.UTC)
		if next := wall.Moment(at, zone.String()); next.After(now) {
			return next
		}
	}
}

// Preview is a tale as it would go out to some rows; whose is shown is one of them.
func (m *Book) Preview(t Tale, rows []string, whose string) Preview {
	out := Preview{Text: t.Text, Lacking: map[string]int{}}
	readers := make([]telling.Reader, len(rows))
	for i, row := range rows {
		readers[i] = m.reader(row, t.Column)
	}
	odd := telling.Odd(readers, m.School.Domain, m.School.OutsideMail)
	for i, r := range readers {
		st := m.Students[m.at[r.Row]]
		out.Readers = append(out.Readers, Meant{r.Row, st.SortName(), odd[i]})
		letter := t.Text.For(m.values(t.Handout, r.Row))
		if odd[i].Reached() {
			out.Messages += len(r.Addresses)
			for _, label := range letter.Empty {
				out.Lacking[label]++
			}
		}
		if out.Row == "" || r.Row == whose {
			out.Row, out.Name, out.Letter, out.To = r.Row, st.SortName(), letter, r.Addresses
		}
	}
	if len(rows) > 0 {
		v := m.values(t.Handout, rows[0])
		out.Strange = t.Text.Strange(v)
		out.Columns = append(out.Columns, telling.Own...)
		for _, f := range v.Class {
			out.Columns = append(out.Columns, f.Label())
		}
	}
	return out
}

// Tale is what is asked to be told, and whom.
func (m *Book) Tale(ask Ask) (Tale, []string, error) {
	t := Tale{Kind: ask.Kind, Column: ask.Column}
	if ask.Kind != telling.Written && (ask.Kind != telling.Given && ask.Kind != telling.Changed || ask.Handout == "") {
		return t, nil, change.Refuse("kind", "no-such-choice")
	}
	if _, heading := ask.Column.Heading(); ask.Column != "" && (!heading || !m.Known.Has(ask.Column)) {
		return t, nil, change.Refuse("column", "column-unknown", "column", ask.Column.Label())
	}
	out := map[string]string{}
	if ask.Handout != "" {
		h, ok := m.Handout(ask.Handout)
		if !ok {
			return t, nil, ErrNoHandout
		}
		t.Handout, out = &h, m.Out(h)
	}
	switch {
	case ask.Text != nil:
		text, err := ask.Text.Tidy("text")
		if err != nil {
			return t, nil, err
		}
		t.Text = text
	case ask.Kind == telling.Written:
		t.Text = telling.Text{Subject: words.Mail("written-subject"), Body: words.Mail("written-body")}
	default:
		t.Text = t.Handout.Mail(ask.Kind)
	}
	gets := func(string) bool { return true }
	if ask.Kind != telling.Written {
		gets = m.gets(*t.Handout)
	}
	var rows []string
	for _, st := range m.Students {
		_, absent := out[st.ID]
		absent = absent || !gets(st.ID)
		if len(ask.Rows) > 0 && slices.Contains(ask.Rows, st.ID) || len(ask.Rows) == 0 && !absent {
			rows = append(rows, st.ID)
		}
	}
	return t, rows, nil
}

// News are the rows of those who were given something for the first time, and of those who
// had something of it before, in the order of the class. What somebody was let into of a
// classmate's isn't theirs.
func News(students []picture.Student, given []ledger.Given, told map[string]bool) (first, later []string) {
	gave, renewed := map[string]bool{}, map[string]bool{} // by account
	row := map[string]string{}                            // account → row
	for _, st := range students {
		if st.Account != "" {
			row[st.Account] = st.ID
		}
	}
	for _, g := range given {
		k := g.Key
		if row[g.Account] == "" || k.Whom.Row != "" && k.Whom.Row != row[g.Account] {
			continue
		}
		if g.Renewed {
			renewed[g.Account] = true
		} else {
			gave[g.Account] = true
		}
	}
	for _, st := range students {
		switch {
		case gave[st.Account] && !told[st.Account]:
			first = append(first, st.ID)
		case gave[st.Account] || renewed[st.Account]:
			later = append(later, st.ID)
		}
	}
	return first, later
}
