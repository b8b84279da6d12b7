package registers

import (
	"context"
	"encoding/json"
	"slices"
	"strconv"
	"strings"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/school"
	"jollysatchel/internal/core/words"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// How much of a record is shown at once, and written into a file.
const (
	logPage     = 100
	ledgerPage  = 100
	mostRecords = 50_000
	mostRuns    = 50
)

// A LogLine is what somebody did, in words.
type LogLine struct {
	store.LogLine
	Who  string
	Text string
}

// LogPage returns what was done in a class, or to the school and its accounts where class is empty,
// newest first, and whether there is more.
// find, if not empty, is looked for in who did it, what was done and what it was
// about; before is the number of the entry those wanted are older than.
func (c *Registers) LogPage(ctx context.Context, class, find string, before int64) ([]LogLine, bool, error) {
	out, err := c.logOf(ctx, class, find, before, logPage+1)
	if len(out) > logPage {
		return out[:logPage], true, err
	}
	return out, false, err
}

func (c *Registers) logOf(ctx context.Context, class, find string, before int64, most int) ([]LogLine, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return nil, err
	}
	f := store.LogFilter{Text: naming.Tidy(find), Before: before, Most: most, Deleted: words.English.Reason["deleted"],
		Only: school.Acts}
	if f.Text != "" {
		low := strings.ToLower(f.Text)
		for act, text := range words.English.Act {
			if strings.Contains(strings.ToLower(words.Fill(text)), low) {
				f.Acts = append(f.Acts, act)
			}
		}
		for _, a := range book.All {
			if strings.Contains(strings.ToLower(a.Name()), low) {
				f.Accounts = append(f.Accounts, a.ID)
			}
		}
	}
	lines, err := c.Store.LogPage(ctx, class, f)
	if err != nil {
		return nil, err
	}
	out := make([]LogLine, len(lines))
	for i, l := range lines {
		var told []change.Told
		if err := json.Unmarshal(l.Told, &told); err != nil {
			return nil, err
		}
		text := words.Act(l.Act, l.Title, l.Name, l.Count)
		if more := words.Changes(told, l.Count); more != "" {
			text += ": " + more
		}
		out[i] = LogLine{l, book.Account(l.Account).Name(), text}
	}
	return out, nil
}

// ExportLog is a class's log, or the school's, as a table.
func (c *Registers) ExportLog(ctx context.Context, class, find string) ([][]string, error) {
	lines, err := c.logOf(ctx, class, find, 0, mostRecords)
	out := [][]string{{"When", "Who", "What"}}
	for _, l := range lines {
		out = append(out, []string{c.Moment(l.At), l.Who, l.Text})
	}
	return out, err
}

// A LedgerGrant is who was given which level, or had it taken away.
type LedgerGrant struct {
	Name  string
	Level access.Level // Nothing: taken away
	At    time.Time
}

// A LedgerLine is a thing that was made, with everything that was done about it.
type LedgerLine struct {
	ledger.Entry
	Student string
	Here    bool // the student is in the class
	Grants  []LedgerGrant
}

// LedgerPage returns what was made in a class, the newest first, and whether there is
// more. find, if not empty, is looked for in names of things and of students.
func (c *Registers) LedgerPage(ctx context.Context, class, find string, from int) ([]LedgerLine, bool, error) {
	out, err := c.ledgerOf(ctx, class, find, from, ledgerPage+1)
	if len(out) > ledgerPage {
		return out[:ledgerPage], true, err
	}
	return out, false, err
}

func (c *Registers) ledgerOf(ctx context.Context, class, find string, from, most int) ([]LedgerLine, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return nil, err
	}
	rows, err := c.Store.Rows(ctx, class)
	if err != nil {
		return nil, err
	}
	f := store.LedgerFilter{Text: naming.Tidy(find), From: from, Most: most}
	names, here := make(map[string]string, len(rows)), make(map[string]bool, len(rows))
	for _, r := range rows {
		names[r.ID], here[r.ID] = r.SortName(), r.LeftAt.IsZero()
		if f.Text != "" && strings.Contains(strings.ToLower(r.Name()+" "+r.SortName()), strings.ToLower(f.Text)) {
			f.Rows = append(f.Rows, r.ID)
		}
	}
	entries, err := c.Store.LedgerPage(ctx, class, f)
	if err != nil {
		return nil, err
	}
	ids := make([]string, len(entries))
	at := make(map[string]int, len(entries))
	out := make([]LedgerLine, len(entries))
	for i, e := range entries {
		ids[i], at[e.ID] = e.ID, i
		out[i] = LedgerLine{Entry: e, Student: names[e.Key.Whom.Row], Here: here[e.Key.Whom.Row]}
	}
	grants, err := c.Store.Grants(ctx, ids)
	for _, g := range grants {
		l := &out[at[g.LedgerID]]
		l.Grants = append(l.Grants, LedgerGrant{book.Account(g.Account).Name(), g.Level, g.At})
	}
	return out, err
}

// ExportLedger is a class's ledger as a table; base is where the application
// answers, for links.
func (c *Registers) ExportLedger(ctx context.Context, class, find, base string) ([][]string, error) {
	lines, err := c.ledgerOf(ctx, class, find, 0, mostRecords)
	out := [][]string{{"Name", "Kind", "Student", "Link", "Id", "Made", "Shared", "Ended", "Run", "Given"}}
	for _, l := range lines {
		var given []string
		for _, g := range l.Grants {
			given = append(given, c.Moment(g.At)+" "+g.Name+" "+g.Level.String())
		}
		out = append(out, []string{l.Name, string(l.Key.What.Purpose), l.Student, base + "/go/" + l.Link, l.Thing,
			c.Moment(l.MadeAt), c.Moment(l.SharedAt), c.Moment(l.EndedAt), l.RunID, short(strings.Join(given, "; "))})
	}
	return out, err
}

// short is a text that fits a spreadsheet's cell.
func short(s string) string {
	const most = 8000
	if len(s) <= most {
		return s
	}
	return strings.ToValidUTF8(s[:most], "") + " …"
}

// PastRuns returns a class's latest runs, the newest first.
func (c *Registers) PastRuns(ctx context.Context, class string) ([]ledger.Run, error) {
	return c.Store.PastRuns(ctx, class, mostRuns)
}

// A Link leads to a thing of a class: a student's own, or a place's.
type Link struct {
	Row     string // empty: a place
	Student string
	Address string
	Name    string // of the thing
	Place   string // path of folders it is in
	Link    string // unguessable part
}

// Links are the links to every student's satchel, or copies of a handout, in the
// order of the roster, after those to the class's shared places. Things that
// aren't there, or aren't shared yet, have none.
func (c *Registers) Links(ctx context.Context, class, handout string) ([]Link, error) {
	r, err := c.Reading(ctx, class)
	if err != nil {
		return nil, err
	}
	title := r.Name
	if handout != "" {
		h, ok := r.Handout(handout)
		if !ok {
			return nil, seam.ErrNotFound
		}
		title += " – " + h.Title
	}
	out := []Link{}
	for _, p := range r.Plan.AllPlaces() {
		e := r.Entries[r.Room.PlaceKey(p.ID, packing.Whom{})]
		if handout == "" && p.For == "class" && e != nil && r.State(e).Place == ledger.Lies {
			out = append(out, Link{Name: r.State(e).Name, Place: r.Name, Link: e.Link})
		}
	}
	of := map[string][]*ledger.Entry{}
	for k, e := range r.Entries {
		if k.Whom.Row == "" || !e.Shared() || r.State(e).Place != ledger.Lies {
			continue
		}
		if handout == "" && k.What.Purpose == packing.Satchel || handout != "" && k.What.Purpose == packing.Copy && k.What.ID == handout {
			of[k.Whom.Row] = append(of[k.Whom.Row], e)
		}
	}
	for _, st := range r.Students {
		mine := of[st.ID]
		slices.SortFunc(mine, func(a, b *ledger.Entry) int { return a.Key.What.Slot - b.Key.What.Slot })
		for _, e := range mine {
			out = append(out, Link{Row: st.ID, Student: st.SortName(), Address: st.Address, Name: r.State(e).Name, Place: title, Link: e.Link})
		}
	}
	return out, nil
}

// ExportLinks is Links as a table.
func (c *Registers) ExportLinks(ctx context.Context, class, handout, base string) ([][]string, error) {
	links, err := c.Links(ctx, class, handout)
	out := [][]string{{"Student", "Address", "What", "Link"}}
	for _, l := range links {
		out = append(out, []string{l.Student, l.Address, l.Name, base + "/go/" + l.Link})
	}
	return out, err
}

// ExportRegister is the Register as a table, of some rows or, for none, of all: for each
// student what the satchel's link is, how everything stands, the words written and when
// something was last changed.
func (c *Registers) ExportRegister(ctx context.Context, class string, rows []string, base string) ([][]string, error) {
	r, err := c.Register(ctx, class)
	if err != nil {
		return nil, err
	}
	head := []string{"Student", "Student number", "Address", "Satchel", "Link"}
	for _, col := range r.Columns[1:] {
		head = append(head, short(col.Handout.Title), short(col.Handout.Title)+" – words")
	}
	out := [][]string{append(head, "Last change")}
	for i, st := range r.Class.Students {
		if len(rows) > 0 && !slices.Contains(rows, st.ID) {
			continue
		}
		line := []string{st.SortName(), st.Number, st.Address}
		for n, col := range r.Columns {
			cell := col.Cells[i]
			line = append(line, words.English.State[string(cell.State)])
			switch {
			case n > 0:
				line = append(line, strconv.Itoa(cell.Words))
			case cell.Entry != nil:
				line = append(line, base+"/go/"+cell.Entry.Link)
			default:
				line = append(line, "")
			}
		}
		out = append(out, append(line, c.Moment(r.Changed[i])))
	}
	return out, nil
}

// FrontDoor leads an account to its own thing of a class: the satchel, or the copy
// of a handout. Anyone who has none there is told nothing; of the staff, the class
// itself is the answer.
func (c *Registers) FrontDoor(ctx context.Context, account, class, handout string) (thing string, staff bool, err error) {
	if !store.ValidID(class) || handout != "" && !store.ValidID(handout) {
		return "", false, seam.ErrNotFound
	}
	members, err := c.Store.Staff(ctx, class)
	if err != nil {
		return "", false, err
	}
	if slices.ContainsFunc(members, func(m classes.Member) bool { return m.Account == account }) {
		if handout != "" {
			if _, err := c.Store.Handout(ctx, class, handout); err != nil {
				return "", false, seam.NotFound(err)
			}
		}
		return "", true, nil
	}
	rows, err := c.Store.RowsOf(ctx, account)
	if err != nil {
		return "", false, err
	}
	book, err := c.Book(ctx)
	if err != nil {
		return "", false, err
	}
	for _, row := range rows {
		if row.ClassID != class {
			continue
		}
		h, err := c.homeIn(ctx, account, row, book)
		if err != nil {
			return "", false, err
		}
		if handout == "" && h.Satchel != "" {
			return h.Satchel, false, nil
		}
		for _, k := range h.Copies {
			if handout != "" && k.Handout.ID == handout {
				return k.Thing, false, nil
			}
		}
	}
	return "", false, seam.ErrNotFound
}
