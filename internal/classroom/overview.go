package classroom

import (
	"context"
	"slices"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/core/teams"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// An Overview is what is said of a class at the top of its pages.
type Overview struct {
	picture.Class
	Staff  []seam.Member
	Teams  []teams.Team
	Packed bool // any satchel was
	Draft  bool // a list waits to be accepted
	Empty  bool // there never was anything in it
}

// Class loads a class. Students whose address the school book has come to know
// are linked in what is returned; it is kept with the next change.
func (c *Classes) Class(ctx context.Context, id string) (picture.Class, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return picture.Class{}, err
	}
	return c.ReadClass(ctx, c.Store, book, id)
}

// Overview returns what is said of a class at the top of its pages.
func (c *Classes) Overview(ctx context.Context, id string) (Overview, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return Overview{}, err
	}
	var o Overview
	if o.Class, err = c.ReadClass(ctx, c.Store, book, id); err != nil {
		return o, err
	}
	o.Staff = book.Members(o.Class.Staff)
	if o.Packed, err = c.Store.AnyMade(ctx, id, packing.Satchel); err != nil {
		return o, err
	}
	if o.Draft, err = c.Store.HasDraft(ctx, id); err != nil {
		return o, err
	}
	if o.Empty, err = c.Store.Untouched(ctx, id); err != nil {
		return o, err
	}
	o.Teams, err = c.teams(ctx, id)
	return o, err
}

// Standing is what an account is in a class: a role of its staff, or nothing.
// A class without staff, which there is none of, isn't there.
func (c *Classes) Standing(ctx context.Context, class, account string) (string, error) {
	if !store.ValidID(class) {
		return "", seam.ErrNotFound
	}
	staff, err := c.Store.Staff(ctx, class)
	if err != nil {
		return "", err
	}
	if len(staff) == 0 {
		return "", seam.ErrNotFound
	}
	for _, m := range staff {
		if m.Account == account {
			return m.Role, nil
		}
	}
	return "", nil
}

// Watched returns those of some classes on whose staff an account is, with their
// revisions; of no classes, all there are.
func (c *Classes) Watched(ctx context.Context, account string, cs []string) ([]classes.Class, error) {
	all, err := c.Store.Classes(ctx, account)
	if err != nil || cs == nil {
		return all, err
	}
	return slices.DeleteFunc(all, func(cl classes.Class) bool { return !slices.Contains(cs, cl.ID) }), nil
}

// A RosterLine is a student of a class as the roster shows it.
type RosterLine struct {
	picture.Student
	Also    []string // codes of those other classes the student is in that whoever looks may know of
	SitsOut []string // titles of handouts
}

// Roster returns a class's students, those who have left last, to an account. What other
// classes are called is told to their own staff, and to the office.
func (c *Rosters) Roster(ctx context.Context, by, class string) ([]RosterLine, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return nil, err
	}
	cl, err := c.ReadClass(ctx, c.Store, book, class)
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
func (c *Rosters) History(ctx context.Context, class string) ([]store.HistoryEntry, error) {
	return c.Store.History(ctx, class, mostHistory)
}

// Handout returns a handout of a class.
func (c *Handouts) Handout(ctx context.Context, class, id string) (handout.Handout, error) {
	h, err := c.Store.Handout(ctx, class, id)
	return h, seam.NotFound(err)
}

// Template returns a template that is used in a handout.
func (c *Handouts) Template(ctx context.Context, id string) (handout.Template, error) {
	t, err := c.Store.Template(ctx, id)
	return t, seam.NotFound(err)
}

// Templates returns an account's templates, newest first.
func (c *Handouts) Templates(ctx context.Context, account string) ([]handout.Template, error) {
	return c.Store.Templates(ctx, account)
}

// Runs returns a class's latest runs, newest first.
func (c *Packing) Runs(ctx context.Context, class string) ([]ledger.Run, error) {
	return c.Store.RecentRuns(ctx, class)
}

// Run returns a run of a class.
func (c *Packing) Run(ctx context.Context, class, id string) (ledger.Run, error) {
	return runOf(ctx, c.Store, class, id)
}

// Lines returns the lines of a run.
func (c *Packing) Lines(ctx context.Context, run string) ([]ledger.Step, error) {
	return c.Store.Steps(ctx, run)
}
