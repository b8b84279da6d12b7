package enrol

import (
	"context"
	"crypto/rand"
	"errors"
	"slices"
	"time"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/store"
	"jollysatchel/internal/store/signing"
	"jollysatchel/internal/usecase/seam"
)

// What asking to be let into a class keeps to.
const (
	mostJoinHours = 14 * 24 // that a door is open
	mostAsks      = 500     // of a class
)

// An Asker is somebody who asked to be let into a class.
type Asker struct {
	accounts.Account
	At time.Time
}

// A JoinDoor is where students ask to be let into a class; without a link it is shut. Who
// asked stands here until somebody says yes or no.
type JoinDoor struct {
	Link  string
	Until time.Time
	Asked []Asker
}

// JoinDoor returns a class's.
func (c *Rosters) JoinDoor(ctx context.Context, class string) (JoinDoor, error) {
	var out JoinDoor
	d, err := c.Store.JoinDoor(ctx, class)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return out, err
	}
	if d.Until.After(c.Now()) {
		out.Link, out.Until = d.Link, d.Until
	}
	asks, err := c.Store.JoinAsks(ctx, class)
	if err != nil {
		return out, err
	}
	book, err := c.Book(ctx)
	for _, a := range asks {
		out.Asked = append(out.Asked, Asker{book.Account(a.Account), a.At})
	}
	return out, err
}

// OpenJoinDoor lets students ask to be let into a class for some hours; 0 shuts it.
func (c *Rosters) OpenJoinDoor(ctx context.Context, by, class string, hours int) error {
	if hours < 0 || hours > mostJoinHours {
		return change.TooMany("hours", "too-large-number", mostJoinHours)
	}
	what := map[bool]string{true: "join-door-opened", false: "join-door-shut"}[hours > 0]
	until := c.Now().Add(time.Duration(hours) * time.Hour)
	return seam.NotFound(c.Store.Change(ctx, c.Act(ctx, by, what, map[string]any{"until": until}, class), nil, func(tx *store.Store) error {
		if hours == 0 {
			return tx.ShutJoinDoor(ctx, class)
		}
		return tx.OpenJoinDoor(ctx, signing.JoinDoor{ClassID: class, Link: rand.Text(), OpenedBy: by, Until: until}, c.Now())
	}))
}

// errNobodyAsks ends a change about those who ask by which nothing would change.
var errNobodyAsks = errors.New("nobody of them asks")

// TakeAskers puts some who asked on a class's list, as the school book has them, or says no to
// them; anyone who was taken by another, or refused, is left out. On the list they are as if
// somebody had typed them: the same findings, undone alike.
func (c *Rosters) TakeAskers(ctx context.Context, by, class string, accounts []string, in bool) error {
	book, err := c.Book(ctx)
	if err != nil {
		return err
	}
	students := []record.Record{}
	args := map[string]any{}
	answered := func(tx *store.Store) error {
		asks, err := tx.JoinAsks(ctx, class)
		if err != nil {
			return err
		}
		students = students[:0]
		names := []string{}
		for _, ask := range asks {
			if slices.Contains(accounts, ask.Account) {
				a := book.Account(ask.Account)
				names = append(names, a.Name())
				st := record.Record{Given: a.Given, Family: a.Family, Number: a.Number, Address: a.Address}
				if err := classes.Tidy(&st); err != nil {
					return err
				}
				students = append(students, st)
			}
		}
		if len(students) == 0 {
			return errNobodyAsks
		}
		args["things"], args["names"] = len(names), names
		return tx.DropJoinAsks(ctx, class, accounts)
	}
	if in {
		_, err = c.changeRosters(ctx, rosterAct{by: by, kind: "added"}, c.Act(ctx, by, "students-added", &students, class),
			func(rs *rosters) error {
				if err := answered(rs.tx); err != nil {
					return err
				}
				rs.also = true
				return rs.of[class].Add(students)
			})
	} else {
		err = seam.NotFound(c.Store.Change(ctx, c.Act(ctx, by, "askers-refused", args, class), nil, answered))
	}
	if errors.Is(err, errNobodyAsks) {
		return nil
	}
	return err
}

// How somebody is at a class's door.
const (
	MayAsk   = "open"
	HasAsked = "asked"
	IsIn     = "in"
)

// AtJoinDoor says which class a link asks for, and how an account is there.
func (c *Rosters) AtJoinDoor(ctx context.Context, account, link string) (classes.Class, string, error) {
	d, err := c.Store.JoinDoorAt(ctx, link, c.Now())
	if err != nil {
		return classes.Class{}, "", seam.NotFound(err)
	}
	cl, err := c.Store.Class(ctx, d.ClassID)
	if err != nil {
		return cl, "", seam.NotFound(err)
	}
	rows, err := c.Store.RowsOf(ctx, account)
	if err != nil {
		return cl, "", err
	}
	if slices.ContainsFunc(rows, func(r classes.Row) bool { return r.ClassID == cl.ID && !r.Gone }) {
		return cl, IsIn, nil
	}
	asks, err := c.Store.JoinAsks(ctx, cl.ID)
	if slices.ContainsFunc(asks, func(a signing.JoinAsk) bool { return a.Account == account }) {
		return cl, HasAsked, err
	}
	return cl, MayAsk, err
}

// AskToJoin has a student ask to be let into the class of a link.
func (c *Rosters) AskToJoin(ctx context.Context, account, link string) error {
	d, err := c.Store.JoinDoorAt(ctx, link, c.Now())
	if err != nil {
		return seam.NotFound(err)
	}
	book, err := c.Book(ctx)
	if err != nil {
		return err
	}
	if a := book.Account(account); a.Role != accounts.Student || a.Off {
		return seam.ErrNotFound
	}
	return seam.NotFound(c.Store.Change(ctx, c.Act(ctx, account, "asked-to-join", map[string]string{}, d.ClassID), nil,
		func(tx *store.Store) error {
			if _, err := tx.JoinDoorAt(ctx, link, c.Now()); err != nil { // it may be shut by now
				return err
			}
			full, err := tx.InsertJoinAsk(ctx, d.ClassID, account, c.Now(), mostAsks)
			if full {
				return change.TooMany("link", "too-many-ask", mostAsks)
			}
			return err
		}))
}
