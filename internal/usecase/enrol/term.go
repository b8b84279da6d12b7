package enrol

import (
	"bytes"
	"context"
	"slices"
	"strconv"
	"strings"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/lists"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/store"
	"jollysatchel/internal/tables"
	"jollysatchel/internal/usecase/seam"
)

// mostTermClasses are added at once.
const mostTermClasses = 500

// A Term is what a list of many classes, with their teachers and students, would do.
type Term struct {
	Lines []lists.TermLine
	Seen  string // digest of what was looked at
	Wrong int    // rows that can't be read
}

// PreviewTerm reads an open roster archive, or any list with a column of classes, and says which
// classes it would add.
func (c *Lists) PreviewTerm(ctx context.Context, list []byte) (Term, error) {
	b, err := tables.Bytes(bytes.NewReader(list))
	if err != nil {
		return Term{}, err
	}
	read, err := c.ReadList(ctx, b, "")
	if err != nil {
		return Term{}, err
	}
	book, err := c.Book(ctx)
	if err != nil {
		return Term{}, err
	}
	return c.termOf(ctx, c.Store, book, read)
}

func (c *Lists) termOf(ctx context.Context, st *store.Store, book *seam.Known, read tables.Book) (Term, error) {
	sheet, err := read.Sheet("")
	if err != nil {
		return Term{}, err
	}
	people := roster.Read(sheet.Table, roster.Options{Domain: c.School().Domain, Later: true, MostWarnings: 1})
	var teachers []lists.TermTeacher
	for _, t := range read.Teachers {
		x := lists.TermTeacher{Class: naming.Tidy(t.Class), Period: naming.Tidy(t.Period),
			Name: naming.Tidy(t.Given + " " + t.Family), Address: t.Address}
		if a := book.AccountAt(t.Address); a.Role == accounts.Staff && !a.Off {
			x.Account = a.ID
		}
		teachers = append(teachers, x)
	}
	cs, err := st.Classes(ctx, "")
	if err != nil {
		return Term{}, err
	}
	there := make([]lists.TermClass, len(cs))
	for i, cl := range cs {
		there[i] = lists.TermClass{ID: cl.ID, Name: cl.Name, Period: cl.Period}
	}
	lines := lists.TermPlan(people.Students, teachers, there, func(address string) bool {
		return book.AccountAt(address).Role == accounts.Student
	})
	out := Term{Lines: lines, Seen: lists.TermDigest(lines)}
	for _, f := range people.Findings {
		if f.Severity == roster.Error {
			out.Wrong++
		}
	}
	return out, nil
}

// BringTerm adds the classes of a list that are chosen by their keys, each with its owner,
// the others who teach it and its students: all of them or none, where the list does what was
// looked at. It returns how many.
func (c *Lists) BringTerm(ctx context.Context, by string, list []byte, seen string, keys []string) (int, error) {
	b, err := tables.Bytes(bytes.NewReader(list))
	if err != nil {
		return 0, err
	}
	read, err := c.ReadList(ctx, b, "")
	if err != nil {
		return 0, err
	}
	book, err := c.Book(ctx)
	if err != nil {
		return 0, err
	}
	if len(keys) > mostTermClasses {
		return 0, change.TooMany("classes", "too-many", mostTermClasses)
	}
	n := 0
	args := map[string]any{"things": len(keys)}
	act := c.Act(ctx, by, "term-brought", args)
	err = c.Store.Change(ctx, act, &n, func(tx *store.Store) error {
		if err := tx.HoldTerm(ctx); err != nil {
			return err
		}
		term, err := c.termOf(ctx, tx, book, read)
		if err != nil {
			return err
		}
		if term.Seen != seen {
			return &change.Changed{Field: "list"}
		}
		n = 0
		var made []string
		_, err = c.inRosters(ctx, tx, book, rosterAct{by, "list", ""}, act, func(rs *rosters) error {
			for _, l := range term.Lines {
				if l.Act != lists.TermMake || !slices.Contains(keys, l.Key) {
					continue
				}
				if err := c.addClassOf(ctx, tx, rs, l); err != nil {
					return err
				}
				n++
			}
			made = rs.ids
			return nil
		})
		if err == nil {
			err = tx.Place(ctx, made, by, c.Now())
		}
		if err == nil && n == 0 {
			err = change.Refuse("classes", "nothing-to-do")
		}
		args["things"] = n
		return err
	})
	return n, err
}

// addClassOf adds one class of a list.
func (c *Lists) addClassOf(ctx context.Context, tx *store.Store, rs *rosters, l lists.TermLine) error {
	cl, err := c.newClass("", strings.TrimSpace(l.Name), l.Period)
	if err != nil {
		return err
	}
	if len(l.Others) >= classes.MostStaff {
		return change.Refuse("classes", "too-many-staff-of", "name", cl.Name, "most", strconv.Itoa(classes.MostStaff))
	}
	others := make([]string, len(l.Others))
	for i, t := range l.Others {
		others[i] = t.Account
	}
	if err := addClass(ctx, tx, cl, l.Owner.Account, others...); err != nil {
		return err
	}
	r := rs.made(cl.ID)
	for _, s := range l.Students {
		r.Join(s, "")
	}
	return r.Apart()
}
