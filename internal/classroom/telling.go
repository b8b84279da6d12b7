package classroom

import (
	"context"
	"slices"
	"strconv"
	"strings"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/core/wall"
	"jollysatchel/internal/core/words"
	"jollysatchel/internal/store"
)

// A Courier carries messages out.
type Courier interface {
	// Post keeps messages within tx and has them sent once it is committed; of what somebody
	// was told before they aren't told again. It returns how many are new.
	Post(ctx context.Context, tx *store.Store, of []telling.Message) (int, error)
	// Wake has what waits sent once tx is committed.
	Wake(ctx context.Context, tx *store.Store) error
}

// Telling tells people by post.
type Telling struct{ *house }

// mails are what a class's messages are made of.
type mails struct {
	*picture.Picture
	school School
	now    time.Time
	at     map[string]int // row → its place among the students
	wish   map[string]telling.Wished
}

// mailsOf prepares messages of a class.
func (c *house) mailsOf(ctx context.Context, st *store.Store, s *picture.Picture) (*mails, error) {
	m := &mails{Picture: s, school: c.School(), now: c.Now(), at: make(map[string]int, len(s.Students))}
	accounts := make([]string, 0, len(s.Students))
	for i, x := range s.Students {
		m.at[x.ID] = i
		if x.Account != "" {
			accounts = append(accounts, x.Account)
		}
	}
	var err error
	m.wish, err = st.Wishes(ctx, accounts)
	return m, err
}

// reader is a student as somebody who may be told: at their own address or, of a column,
// at those that stand there.
func (m *mails) reader(row string, of record.Field) telling.Reader {
	st := m.Students[m.at[row]]
	r := telling.Reader{Row: row, Account: st.Account, Name: st.CallName()}
	if of != "" {
		r.Account, r.Outside = "", true
		r.Addresses, r.Bad = telling.Addresses(st.Get(of))
		return r
	}
	r.Addresses, r.Bad = telling.Addresses(st.Address)
	r.Addresses = r.Addresses[:min(len(r.Addresses), 1)]
	r.Wish = m.wish[st.Account].Wish
	return r
}

// wayIn is where a student's own of a handout is, or, of none, their satchel.
func (m *mails) wayIn(h *handout.Handout, row string) string {
	keys := []packing.Key{room.SatchelKey(m.ID, row)}
	if h != nil {
		if h.Settings.Way == handout.NoticeName {
			return m.school.Site + "/"
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
		return m.school.Site + "/go/" + links[0]
	case len(links) > 1:
		return m.school.Site + "/door/" + m.ID + "/" + h.ID
	}
	return m.school.Site + "/"
}

// values are the columns of a message to a student.
func (m *mails) values(h *handout.Handout, row string) telling.Values {
	st := m.Room.Students[m.at[row]]
	own := map[string]string{telling.Name: calledName(m.Students[m.at[row]].Record), telling.Link: m.wayIn(h, row)}
	if h == nil {
		return telling.Values{Class: m.Known, Own: own, Rest: record.With{Own: record.DayValues(m.Today, m.Plan.Term), Rest: st.Values}}
	}
	if due, ok := h.DueAt(); ok && h.Settings.Way != handout.NoticeName {
		own[telling.Due] = due.In(m.school.Zone).Format("Mon 2 Jan, 15:04")
	}
	own[telling.Says] = h.Settings.Message
	day := record.DayValues(or(h.Settings.Date, m.Today), m.Plan.Term)
	day[record.Title] = h.Title
	return telling.Values{Class: m.Known, Own: own, Rest: record.With{Own: day, Rest: st.Values}}
}

// gets says of a row whether a handout has something for it: whoever has no level, or no team,
// isn't told that they were given something.
func (m *mails) gets(h handout.Handout) func(row string) bool {
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
func calledName(r record.Record) string { return or(r.Preferred, or(r.Given, r.Name())) }

// A telling of something: to whom, in which words, by whom.
type tale struct {
	kind    telling.Kind
	handout *handout.Handout
	text    telling.Text
	by      Account
	about   string // what it tells of; each row has one of it
	column  record.Field
	after   time.Duration // how long it waits: it may be said otherwise until then
}

// messages are those of a tale to some rows; whoever can't be told gets none.
func (m *mails) messages(t tale, rows []string) []telling.Message {
	readers := make([]telling.Reader, len(rows))
	for i, row := range rows {
		readers[i] = m.reader(row, t.column)
	}
	odd := telling.Odd(readers, m.school.Domain, m.school.OutsideMail)
	now := m.now
	var out []telling.Message
	for i, r := range readers {
		if !odd[i].Reached() {
			continue
		}
		letter := t.text.For(m.values(t.handout, r.Row))
		msg := telling.Message{
			ClassID: m.ID, Row: r.Row, Account: r.Account, Kind: t.kind, SentBy: t.by.ID, ReplyTo: t.by.Address, FromName: t.by.Name(), ToName: r.Name,
			Subject: letter.Subject, Body: letter.Body, State: telling.Waiting, NotBefore: now.Add(t.after), MadeAt: now,
		}
		if t.handout != nil {
			msg.HandoutID = t.handout.ID
		}
		if r.Wish == telling.Together {
			msg.State, msg.NotBefore = telling.Gathering, nextTime(now, m.wish[r.Account].At, m.school.Zone)
		}
		if msg.Outside = t.column != ""; msg.Outside {
			msg.ToName = ""
		}
		for _, a := range r.Addresses {
			msg.ID, msg.ToAddress, msg.About = store.NewID(), a, t.about+"/"+r.Row+"/"+or(r.Account, a)
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

// tell tells a class's students of something within tx. Invented ones aren't told.
func (c *house) tell(ctx context.Context, tx *store.Store, s *picture.Picture, t tale, rows []string) (int, error) {
	if s.Practice {
		return 0, nil
	}
	m, err := c.mailsOf(ctx, tx, s)
	if err != nil {
		return 0, err
	}
	return c.courier.Post(ctx, tx, m.messages(t, rows))
}

// runEnded returns what is to be told of a run that has ended, or was stopped, within the
// transaction in which it does; nil for nothing. Whoever was given a copy of its handout is
// told of the first and, where the handout says so, of those after it and of copies that
// were given anew.
func (c *house) runEnded(ctx context.Context, st *store.Store, run ledger.Run) (func(context.Context, *store.Store) error, error) {
	if run.HandoutID == "" {
		return nil, nil
	}
	h, err := st.Handout(ctx, run.ClassID, run.HandoutID)
	if err != nil || h.Settings.Way.Tells(h.Settings.Tell) == telling.Not {
		return nil, notFound(err)
	}
	book, err := c.book(ctx)
	if err != nil {
		return nil, err
	}
	return func(ctx context.Context, tx *store.Store) error {
		s, err := c.picture(ctx, tx, book, run.ClassID)
		if err != nil {
			return err
		}
		h, ok := s.Handout(run.HandoutID)
		when := h.Settings.Way.Tells(h.Settings.Tell)
		if !ok || h.Withdrawn() || when == telling.Not {
			return nil
		}
		given, err := tx.GivenBy(ctx, run.ID)
		if err != nil {
			return err
		}
		told, err := tx.Told(ctx, h.ID)
		if err != nil {
			return err
		}
		first, later := news(s.Students, given, told)
		by := book.account(run.StartedBy)
		if _, err := c.tell(ctx, tx, s, tale{kind: telling.Given, handout: &h, text: h.Mail(telling.Given), by: by, about: "given/" + h.ID}, first); err != nil {
			return err
		}
		if when != telling.Changes {
			return nil
		}
		_, err = c.tell(ctx, tx, s, tale{kind: telling.Changed, handout: &h, text: h.Mail(telling.Changed), by: by, about: "changed/" + run.ID}, later)
		return err
	}, nil
}

// afterDue is how long it waits to be told that a handout is due at another time, which may
// be typed more than once.
const afterDue = 2 * time.Minute

// toldOfDue tells those who have a handout that it is due at another time, where its people
// are told of changes.
func (c *house) toldOfDue(ctx context.Context, tx *store.Store, book *bookIndex, by string, before, h handout.Handout) error {
	if before.Due.Equal(h.Due) || !h.Packed() || h.Settings.Tell != telling.Changes {
		return nil
	}
	s, err := c.picture(ctx, tx, book, h.ClassID)
	if err != nil {
		return err
	}
	keys := s.KeysOf(h)
	var rows []string
	for _, st := range s.Students {
		for _, k := range keys(st.ID) {
			if e := s.Entries[k]; e != nil && e.Shared() {
				rows = append(rows, st.ID)
				break
			}
		}
	}
	about := "due/" + h.ID + "/"
	if err := tx.DropMessages(ctx, h.ID, about); err != nil {
		return err
	}
	_, err = c.tell(ctx, tx, s, tale{kind: telling.Changed, handout: &h, text: h.Mail(telling.Changed), by: book.account(by), about: about + store.NewID(), after: afterDue}, rows)
	return err
}

// news are the rows of those who were given something for the first time, and of those who
// had something of it before, in the order of the class. What somebody was let into of a
// classmate's isn't theirs.
func news(students []picture.Student, given []store.Given, told map[string]bool) (first, later []string) {
	gave, renewed := map[string]bool{}, map[string]bool{} // by account
	row := map[string]string{}                            // account → row
	for _, st := range students {
		if st.Account != "" {
			row[st.Account] = st.ID
		}
	}
	for _, g := range given {
		k, err := packing.ParseKey(g.Key)
		if err != nil || row[g.Account] == "" || k.Whom.Row != "" && k.Whom.Row != row[g.Account] {
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

// A MessageAsk is a message that somebody wants to send, or to see first: about a handout
// or none, to the rows that are meant (none: all who are in), at their own addresses or
// at those of a column. Kind is telling.Written, or what a handout tells by itself.
type MessageAsk struct {
	Kind    telling.Kind
	Handout string
	Rows    []string
	Column  record.Field
	Text    *telling.Text // nil: what it says where nothing else was said
	Row     string        // whose is shown
}

// A MessageLook is a message as it would go out.
type MessageLook struct {
	Text     telling.Text   // with its columns
	Letter   telling.Letter // to the one who is shown
	Row      string
	Name     string
	To       []string
	Readers  []LookReader // all who are meant, in the order of the class
	Messages int          // that would be sent
	Strange  []string     // words in brackets that are no column
	Lacking  map[string]int
	Columns  []string // that can be asked for, as they are written
}

// A LookReader is somebody who is meant.
type LookReader struct {
	Row, Name string
	Odd       telling.Oddity
}

// LookMessage shows a message before it is sent.
func (c *Telling) LookMessage(ctx context.Context, class string, ask MessageAsk) (MessageLook, error) {
	book, err := c.book(ctx)
	if err != nil {
		return MessageLook{}, err
	}
	s, err := c.picture(ctx, c.Store, book, class)
	if err != nil {
		return MessageLook{}, notFound(err)
	}
	m, err := c.mailsOf(ctx, c.Store, s)
	if err != nil {
		return MessageLook{}, err
	}
	t, rows, err := m.taleOf(ask)
	if err != nil {
		return MessageLook{}, err
	}
	return m.look(t, rows, ask.Row), nil
}

// look is a tale as it would go out to some rows; whose is shown is one of them.
func (m *mails) look(t tale, rows []string, whose string) MessageLook {
	out := MessageLook{Text: t.text, Lacking: map[string]int{}}
	readers := make([]telling.Reader, len(rows))
	for i, row := range rows {
		readers[i] = m.reader(row, t.column)
	}
	odd := telling.Odd(readers, m.school.Domain, m.school.OutsideMail)
	for i, r := range readers {
		st := m.Students[m.at[r.Row]]
		out.Readers = append(out.Readers, LookReader{r.Row, st.SortName(), odd[i]})
		letter := t.text.For(m.values(t.handout, r.Row))
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
		v := m.values(t.handout, rows[0])
		out.Strange = t.text.Strange(v)
		out.Columns = append(out.Columns, telling.Own...)
		for _, f := range v.Class {
			out.Columns = append(out.Columns, f.Label())
		}
	}
	return out
}

// taleOf is what is asked to be told, and whom.
func (m *mails) taleOf(ask MessageAsk) (tale, []string, error) {
	t := tale{kind: ask.Kind, column: ask.Column}
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
			return t, nil, ErrNotFound
		}
		t.handout, out = &h, m.Out(h)
	}
	switch {
	case ask.Text != nil:
		text, err := ask.Text.Tidy("text")
		if err != nil {
			return t, nil, err
		}
		t.text = text
	case ask.Kind == telling.Written:
		t.text = telling.Text{Subject: words.Mail("written-subject"), Body: words.Mail("written-body")}
	default:
		t.text = t.handout.Mail(ask.Kind)
	}
	gets := func(string) bool { return true }
	if ask.Kind != telling.Written {
		gets = m.gets(*t.handout)
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

// SendMessage sends what somebody wrote to some of a class, and returns how many messages
// that are.
func (c *Telling) SendMessage(ctx context.Context, by, class string, ask MessageAsk) (int, error) {
	book, err := c.book(ctx)
	if err != nil {
		return 0, err
	}
	n := 0
	args := map[string]any{"handout": ask.Handout, "rows": ask.Rows}
	err = c.Store.Change(ctx, c.act(ctx, by, "message-sent", args, class), &n, func(tx *store.Store) error {
		s, err := c.picture(ctx, tx, book, class)
		if err != nil {
			return err
		}
		m, err := c.mailsOf(ctx, tx, s)
		if err != nil {
			return err
		}
		ask.Kind = telling.Written
		if ask.Text == nil {
			return change.Refuse("text", "missing")
		}
		t, rows, err := m.taleOf(ask)
		if err != nil {
			return err
		}
		t.by, t.about = book.account(by), "written/"+store.NewID()
		if s.Practice {
			return change.Refuse("rows", "practice-not-told")
		}
		of := m.messages(t, rows)
		if len(of) == 0 {
			return change.Refuse("rows", "nobody-told")
		}
		if err := c.mayWrite(ctx, tx, by, len(of)); err != nil {
			return err
		}
		args["things"], args["title"] = len(of), t.text.Subject
		n, err = c.courier.Post(ctx, tx, of)
		return err
	})
	return n, notFound(err)
}

// messagePage is how many messages are shown at once.
const messagePage = 50

// A Told is a message as its record shows it.
type Told struct {
	telling.Message
	By string // name of who sent it
}

// Messages returns a class's messages, the latest first, whether there are more, and how
// many there are by what became of them.
func (c *Telling) Messages(ctx context.Context, class string, f store.MessageFilter) ([]Told, bool, map[string]int, error) {
	book, err := c.book(ctx)
	if err != nil {
		return nil, false, nil, err
	}
	f.Text, f.Most = naming.Tidy(f.Text), messagePage+1
	found, err := c.Store.Messages(ctx, class, f)
	if err != nil {
		return nil, false, nil, err
	}
	more := len(found) > messagePage
	out := []Told{}
	for _, m := range found[:min(len(found), messagePage)] {
		out = append(out, Told{m, book.account(m.SentBy).Name()})
	}
	counts, err := c.Store.CountMessages(ctx, class)
	return out, more, counts, err
}

// mayWrite refuses messages that are beyond a person's share of a day.
func (c *house) mayWrite(ctx context.Context, tx *store.Store, by string, more int) error {
	if more == 0 {
		return nil
	}
	sent, err := tx.CountWritten(ctx, by, c.Now().Add(-24*time.Hour))
	if err == nil && sent+more > mostMails {
		err = change.TooMany("rows", "too-many-mails", mostMails)
	}
	return err
}

// SendAgain sends messages of a class once more, to the address that each student has now:
// those that failed are tried again, those that were sent go as others of the same words.
// It returns how many go.
func (c *Telling) SendAgain(ctx context.Context, by, class string, ids []string) (int, error) {
	for _, id := range ids {
		if !store.ValidID(id) {
			return 0, ErrNotFound
		}
	}
	book, err := c.book(ctx)
	if err != nil {
		return 0, err
	}
	n := 0
	args := map[string]any{"things": len(ids)}
	err = c.Store.Change(ctx, c.act(ctx, by, "messages-again", args, class), &n, func(tx *store.Store) error {
		found, err := tx.MessagesByID(ctx, class, ids)
		if err != nil {
			return err
		}
		if len(found) == 0 {
			return ErrNotFound
		}
		cl, err := c.class(ctx, tx, book, class)
		if err != nil {
			return err
		}
		now := map[string]string{} // row → address
		for _, st := range cl.Students {
			if good, _ := telling.Addresses(st.Address); len(good) > 0 {
				now[st.ID] = good[0]
			}
		}
		var anew []telling.Message
		retry := map[string]string{}
		for _, m := range found {
			if !m.Outside && now[m.Row] != "" {
				m.ToAddress = now[m.Row]
			}
			switch {
			case m.State == telling.Failed && !m.InDigest:
				retry[m.ID] = m.ToAddress
			case m.State == telling.Failed, m.State == telling.Sent:
				m.ID, m.SentBy = store.NewID(), by
				m.About, m.State, m.NotBefore, m.MadeAt = "again/"+m.ID, telling.Waiting, c.Now(), c.Now()
				anew = append(anew, m)
			}
		}
		if n = len(retry) + len(anew); n == 0 {
			return nil // they are under way
		}
		args["things"] = n
		written := 0
		for _, m := range anew {
			if m.Kind == telling.Written {
				written++
			}
		}
		if err := c.mayWrite(ctx, tx, by, written); err != nil {
			return err
		}
		if err := tx.RetryMessages(ctx, retry, c.Now()); err != nil {
			return err
		}
		if _, err := c.courier.Post(ctx, tx, anew); err != nil {
			return err
		}
		return c.courier.Wake(ctx, tx)
	})
	return n, notFound(err)
}

// usualDigest is the time of day of digests where nothing else was said.
const usualDigest = "16:00"

// Wish is how somebody wants to be told.
func (c *Telling) Wish(ctx context.Context, account string) (telling.Wished, error) {
	found, err := c.Store.Wishes(ctx, []string{account})
	w := found[account]
	w.Account, w.At = account, or(w.At, usualDigest)
	return w, err
}

// SetWish says how somebody wants to be told, of the next message on; what waits for a
// digest goes at once where there is to be none.
func (c *Telling) SetWish(ctx context.Context, account string, w telling.Wish, at string) error {
	if w != telling.Each && w != telling.Together && w != telling.Off {
		return change.Refuse("wish", "no-such-choice")
	}
	if t, err := time.Parse("15:04", at); err != nil || t.Format("15:04") != at {
		return change.Refuse("at", "not-a-time")
	}
	return c.Store.Change(ctx, c.act(ctx, account, "wish-changed", map[string]string{"wish": string(w)}), nil, func(tx *store.Store) error {
		if err := tx.SaveWish(ctx, telling.Wished{Account: account, Wish: w, At: at}, c.Now()); err != nil {
			return err
		}
		return c.courier.Wake(ctx, tx)
	})
}

// PostAddress is where the school's mail comes from.
func (s School) PostAddress() string {
	if s.Post.From != "" {
		return s.Post.From
	}
	domain := s.Domain
	if domain == "" {
		_, host, _ := strings.Cut(s.Site, "://")
		if domain, _, _ = strings.Cut(host, ":"); domain == "" || !strings.Contains(domain, ".") || domain[0] >= '0' && domain[0] <= '9' {
			domain = "school.invalid"
		}
	}
	return "satchel@" + domain
}

// PostServer is the school's mail server as people name it; empty: the stand-in.
func (s School) PostServer() string {
	if s.Post.Server == "" || s.Post.Port == 0 {
		return s.Post.Server
	}
	return s.Post.Server + ":" + strconv.Itoa(s.Post.Port)
}
