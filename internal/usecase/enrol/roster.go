package enrol

import (
	"context"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/store/kept"
)

// A RosterLine is a student of a class as the roster shows it.
type RosterLine struct {
	picture.Student
	Also    []string // codes of those other classes the student is in that anyone who looks may know of
	SitsOut []string // titles of handouts
}

// Roster returns a class's students, those who have left last, to an account. What other
// classes are called is told to their own staff, and to the office.
func (c *Rosters) Roster(ctx context.Context, by, class string) ([]RosterLine, error) {
	cl, book, err := c.ClassNow(ctx, class)
	if err != nil {
		return nil, err
	}
	others, err := c.Store.Others(ctx, class)
	if err != nil {
		return nil, err
	}
	handouts, err := c.Store.Handouts(ctx, class)
	if err != nil {
		return nil, err
	}
	mine, err := c.Store.Classes(ctx, by)
	if err != nil {
		return nil, err
	}
	knows := map[string]bool{}
	for _, x := range mine {
		knows[x.ID] = true
	}
	office := book.Account(by).Role == accounts.Office
	var out []RosterLine
	for _, st := range cl.Students {
		line := RosterLine{Student: st}
		for _, o := range others[st.Account] {
			code := ""
			if office || knows[o.Class] {
				code = o.Code
				line.Also = append(line.Also, code)
			}
			line.Remarks = append(line.Remarks, roster.ClassRemarks(st.Record, o.Record, code)...)
		}
		for _, h := range handouts {
			if h.Settings.Out[st.ID] == handout.SitsOut {
				line.SitsOut = append(line.SitsOut, h.Title)
			}
		}
		out = append(out, line)
	}
	for _, st := range cl.Left {
		out = append(out, RosterLine{Student: st})
	}
	return out, nil
}

// mostHistory is how many changes of a roster are shown.
const mostHistory = 200

// History returns the latest changes of a class's roster, newest first.
func (c *Rosters) History(ctx context.Context, class string) ([]kept.HistoryEntry, error) {
	return c.Store.History(ctx, class, mostHistory)
}

// ExportRoster is the class's roster as a table, in the order of names.
func (c *Rosters) ExportRoster(cl picture.Class) [][]string {
	var records []record.Record
	for _, s := range cl.Students {
		records = append(records, s.Record)
	}
	return record.Table(cl.Name, records)
}
