package enrol

import (
	"context"
	"fmt"
	"strings"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/lists"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/core/teams"
	"jollysatchel/internal/store"
	"jollysatchel/internal/store/kept"
	"jollysatchel/internal/usecase/seam"
)

// An openRoster is one class's, while it is changed.
type openRoster struct {
	*classes.Roster
	ofStaff bool // a group of staff
	made    bool // the class itself is made by the act
}

func (r *openRoster) at(row string) (*classes.Row, error) {
	if at := r.At(row); at != nil {
		return at, nil
	}
	return nil, seam.ErrNotFound
}

// rosters are the rosters of classes that are held, while they are changed.
type rosters struct {
	tx   *store.Store
	book *seam.Known
	of   map[string]*openRoster
	ids  []string
	also bool // something beside rows is changed
}

func (rs *rosters) open(ctx context.Context, class string) error {
	rows, err := rs.tx.Rows(ctx, class)
	if err != nil {
		return err
	}
	cl, err := rs.tx.Class(ctx, class)
	if err != nil {
		return err
	}
	rs.of[class], rs.ids = &openRoster{Roster: classes.NewRoster(class, rows, store.NewID), ofStaff: cl.OfStaff}, append(rs.ids, class)
	return nil
}

// made adds a class that the act has made.
func (rs *rosters) made(class string) *openRoster {
	r := &openRoster{Roster: classes.NewRoster(class, nil, store.NewID), made: true}
	rs.of[class], rs.ids = r, append(rs.ids, class)
	return r
}

// keep writes what has changed, links the rows by their addresses and adds the
// teams they name. It returns what changed of each class.
func (rs *rosters) keep(ctx context.Context) (map[string][]lists.RowChange, error) {
	changes := map[string][]lists.RowChange{}
	for _, id := range rs.ids {
		r := rs.of[id]
		if err := r.Bounded(); err != nil {
			return nil, err
		}
		if len(r.Removed) > 0 {
			if err := rs.tx.DeleteRows(ctx, id, r.Removed); err != nil {
				return nil, err
			}
		}
		for i, l := range seam.Links(r.Rows, rs.book.ForClass(r.ofStaff)) {
			r.Rows[i].Account, r.Rows[i].LinkedBy = l.Account, l.LinkedBy
		}
		if err := rs.tx.SaveRows(ctx, id, r.Changed()); err != nil {
			return nil, err
		}
		if err := rs.teams(ctx, id); err != nil {
			return nil, err
		}
		changes[id] = r.Changes()
	}
	return changes, nil
}

// teams adds the teams that rows name and the class doesn't have.
func (rs *rosters) teams(ctx context.Context, class string) error {
	cl, err := rs.tx.Class(ctx, class)
	if err != nil {
		return err
	}
	return seam.AddTeams(ctx, rs.tx, class, cl.Plan, rs.of[class].Records())
}

// A rosterAct is a change of rosters as its history tells it.
type rosterAct struct{ by, kind, source string }

// changeRosters does something to the rosters of classes, all or nothing, and
// keeps every row's state before and after. Acts on one class follow each other,
// so that none works on what another is changing. The batch that comes back
// names the act for taking it back; it is empty where nothing changed.
func (c *roll) changeRosters(ctx context.Context, of rosterAct, act store.Act, do func(rs *rosters) error) (string, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return "", err
	}
	batch := ""
	err = c.Store.Change(ctx, act, &batch, func(tx *store.Store) error {
		var err error
		also := false
		batch, err = c.inRosters(ctx, tx, book, of, act, func(rs *rosters) error {
			err := do(rs)
			also = rs.also
			return err
		})
		if err == nil && batch == "" && !also {
			return store.ErrUnchanged
		}
		return err
	})
	return batch, seam.NotFound(err)
}

// inRosters is changeRosters within a change that is under way.
func (c *roll) inRosters(ctx context.Context, tx *store.Store, book *seam.Known, of rosterAct, act store.Act,
	do func(rs *rosters) error) (string, error) {
	rs := &rosters{tx: tx, book: book, of: map[string]*openRoster{}}
	for _, id := range act.Classes {
		if rs.of[id] != nil {
			continue
		}
		if err := rs.open(ctx, id); err != nil {
			return "", err
		}
	}
	if err := do(rs); err != nil {
		return "", err
	}
	changes, err := rs.keep(ctx)
	if err != nil {
		return "", err
	}
	batch, any := store.NewID(), false
	for _, id := range rs.ids {
		if len(changes[id]) == 0 && !rs.of[id].made {
			continue
		}
		any = true
		h := kept.HistoryEntry{ID: store.NewID(), ClassID: id, Batch: batch, At: c.Now(), Account: of.by, Kind: of.kind,
			Source: of.source, Made: rs.of[id].made, Changes: changes[id]}
		if err := tx.InsertHistory(ctx, h); err != nil {
			return "", err
		}
		if err := c.leaving.Revoke(ctx, tx, book, of.by, id); err != nil {
			return "", err
		}
	}
	if !any {
		return "", nil
	}
	return batch, nil
}

// mostEdits bounds one act: every cell of a column of the largest class.
const mostEdits = 5 * roster.MaxStudents

// EditRoster changes cells of a class's roster, all of them or none.
func (c *Rosters) EditRoster(ctx context.Context, by, class string, edits []classes.Edit) (string, error) {
	if len(edits) > mostEdits {
		return "", change.Refuse("edits", "too-many", "most", fmt.Sprint(mostEdits))
	}
	args := map[string]any{}
	return c.changeRosters(ctx, rosterAct{by: by, kind: "edit"}, c.Act(ctx, by, "roster-edited", args, class), func(rs *rosters) error {
		r := rs.of[class]
		var told []change.Told
		for _, e := range edits {
			row, err := r.at(e.Row)
			if err != nil {
				return err
			}
			t, err := e.Tell(row)
			if err != nil {
				return err
			}
			if t.To != t.From {
				told = append(told, t)
			}
		}
		args["things"], args["told"] = len(told), told[:min(len(told), change.MostTold)]
		return r.Apart()
	})
}

// ConfirmAccount says that a row's address is that student's although the school
// book has another name for it.
func (c *Rosters) ConfirmAccount(ctx context.Context, by, class, row string) (string, error) {
	return c.changeRosters(ctx, rosterAct{by: by, kind: "confirmed"},
		c.Act(ctx, by, "account-confirmed", map[string]string{"row": row}, class), func(rs *rosters) error {
			r, err := rs.of[class].at(row)
			if err != nil {
				return err
			}
			a, ok := rs.book.ByAddress(r.Address)
			if !ok || !a.Student {
				return change.Refuse("address", "account-unknown", "address", r.Address)
			}
			r.Confirmed = a.ID
			return nil
		})
}

// CorrectAddress gives a student another address. It is refused where the
// school book knows no student of that address, or one of another name. Access
// follows with the next packing.
func (c *Rosters) CorrectAddress(ctx context.Context, by, class, row, address string) error {
	address = strings.TrimSpace(address)
	if why := roster.AddressForm(address); why != "" {
		return change.Refuse("address", "address-malformed", "value", address, "why", why)
	}
	args := map[string]any{"things": 1}
	_, err := c.changeRosters(ctx, rosterAct{by: by, kind: "edit"}, c.Act(ctx, by, "roster-edited", args, class), func(rs *rosters) error {
		r, err := rs.of[class].at(row)
		if err != nil {
			return err
		}
		args["told"] = []change.Told{{What: record.Address.Label(), Whose: r.SortName(), From: r.Address, To: address}}
		r.Address = address
		if err := rs.of[class].Apart(); err != nil {
			return err
		}
		for i, l := range seam.Links(rs.of[class].Rows, rs.book.ForClass(rs.of[class].ofStaff)) {
			if rs.of[class].Rows[i].ID == row && l.Problem != nil {
				return &change.Invalid{Field: "address", Code: l.Problem.Code, Args: l.Problem.Args}
			}
		}
		return nil
	})
	return err
}

// AddStudents puts students into a class, all of them or none. One who has left
// comes back to the same row.
func (c *Rosters) AddStudents(ctx context.Context, by, class string, students []record.Record) (string, error) {
	if len(students) > roster.MaxStudents {
		return "", lists.TooMany(len(students)).Invalid()
	}
	for i := range students {
		if err := classes.Tidy(&students[i]); err != nil {
			return "", err
		}
	}
	return c.changeRosters(ctx, rosterAct{by: by, kind: "added"}, c.Act(ctx, by, "students-added", students, class), func(rs *rosters) error {
		return rs.of[class].Add(students)
	})
}

// SetLeft ends rows of a class, or reopens them. The students' things stay as
// they are.
func (c *Rosters) SetLeft(ctx context.Context, by, class string, rows []string, left bool) (string, error) {
	kind := "returned"
	if left {
		kind = "left"
	}
	return c.changeRosters(ctx, rosterAct{by: by, kind: kind}, c.Act(ctx, by, "rows-"+kind, rows, class), func(rs *rosters) error {
		for _, id := range rows {
			row, err := rs.of[class].at(id)
			if err != nil {
				return err
			}
			if row.Gone != left {
				row.SetLeft(left, c.Now())
			}
		}
		return rs.of[class].Apart()
	})
}

// RenameTeam gives a team another name, on the rows of its students too.
func (c *Rosters) RenameTeam(ctx context.Context, by, class, team, name string) (string, error) {
	name = naming.Tidy(name)
	switch {
	case name == "":
		return "", change.Refuse("team", "missing")
	case len(name) > roster.MaxValue:
		return "", change.TooLong("team", roster.MaxValue)
	}
	return c.changeRosters(ctx, rosterAct{by: by, kind: "edit"},
		c.Act(ctx, by, "team-renamed", map[string]string{"team": team, "name": name}, class), func(rs *rosters) error {
			sets, err := rs.tx.TeamSets(ctx, class)
			if err != nil {
				return err
			}
			set := teams.SetOf(sets, record.Team)
			for _, t := range set.Teams {
				if t.ID != team && strings.EqualFold(t.Name, name) {
					return change.Refuse("team", "team-there", "name", t.Name)
				}
			}
			r := rs.of[class]
			for i := range r.Rows {
				if t, ok := set.Of(r.Rows[i].Record); ok && t.ID == team {
					r.Rows[i].Set(set.Field, name)
				}
			}
			rs.also = true
			return rs.tx.RenameTeam(ctx, class, team, name)
		})
}
