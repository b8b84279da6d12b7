package practice

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"strings"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// Accounts makes those of invented students known to the school book and the cupboard, and
// forgets them again.
type Accounts interface {
	Enrol(ctx context.Context, accounts []accounts.Account) error
	Dismiss(ctx context.Context, ids []string) error
}

// Classes add one.
type Classes interface {
	// AddClassWith adds a class for its owner within a change, with students of its own.
	AddClassWith(ctx context.Context, tx *store.Store, book *seam.Known, cl classes.Class, owner string, students []record.Record) error
}

// Runs are of packing lists.
type Runs interface {
	// Stop ends one.
	Stop(ctx context.Context, by, class, run string) error
}

// A Practice is a class of invented students, in which everything can be tried.
type Practice struct {
	*seam.House
	cup      cupboard.Cupboard
	accounts Accounts
	classes  Classes
	runs     Runs
}

// NewPractice builds it of what it stands on.
func New(h *seam.House, cup cupboard.Cupboard, accounts Accounts, classes Classes, runs Runs) *Practice {
	return &Practice{House: h, cup: cup, accounts: accounts, classes: classes, runs: runs}
}

// practiceNames are invented; given and family name in turn.
var practiceNames = [][2]string{
	{"Anemone", "Ashlar"}, {"Bram", "Bollard"}, {"Coralie", "Cleat"}, {"Dario", "Dinghy"}, {"Elke", "Eddy"}, {"Finlo", "Fathom"},
	{"Greta", "Gunwale"}, {"Hugo", "Halyard"}, {"Ines", "Islet"}, {"Jorn", "Jetty"}, {"Kaja", "Keel"}, {"Lorcan", "Lantern"},
	{"Maud", "Mooring"}, {"Nuno", "Narrows"}, {"Oonagh", "Oar"}, {"Piet", "Pontoon"}, {"Quilla", "Quayside"}, {"Rasmus", "Rudder"},
	{"Signe", "Seawall"}, {"Tove", "Tiller"}, {"Ulrik", "Undertow"}, {"Vasco", "Vane"}, {"Willa", "Windlass"}, {"Yara", "Yawl"},
}

// Make adds a class of invented students, with accounts of their
// own, so that everything can be tried in it.
func (c *Practice) Make(ctx context.Context, by string) (classes.Class, error) {
	cl, err := classes.New(store.NewID(), c.Now()).Called("TRY", "Practice class", "")
	if err != nil {
		return cl, err
	}
	cl.Practice = true
	mark := cl.ID[len(cl.ID)-6:]
	var all []accounts.Account
	var students []record.Record
	for i, n := range practiceNames {
		a := accounts.Account{
			ID: seam.PracticePrefix + mark + fmt.Sprintf("-%02d", i+1), Given: n[0], Family: n[1],
			Number: strings.ToUpper(mark) + fmt.Sprintf("%02d", i+1), Role: accounts.Student,
			Address: strings.ToLower(n[0]+"."+n[1]) + "." + mark + "@practice." + cmp.Or(c.School().Domain, "school.example"),
		}
		all = append(all, a)
		students = append(students, record.Record{
			Given: n[0], Family: n[1], Address: a.Address, Number: a.Number, Period: string('1' + rune(i%2)),
			Level: string('A' + rune(i%3)), Team: string('A' + rune(i%4)), Extra: map[string]string{},
		})
	}
	if err := c.accounts.Enrol(ctx, all); err != nil {
		return cl, err
	}
	id := cl.ID
	book, err := c.Book(ctx)
	if err == nil {
		err = c.Store.Change(ctx, c.Act(ctx, by, "practice-made", map[string]string{"class": cl.ID}), &id, func(tx *store.Store) error {
			return c.classes.AddClassWith(ctx, tx, book, cl, by, students)
		})
	}
	if err != nil || id != cl.ID { // not made, or made when it was asked for before
		var ids []string
		for _, a := range all {
			ids = append(ids, a.ID)
		}
		if err := errors.Join(err, c.accounts.Dismiss(ctx, ids)); err != nil {
			return cl, err
		}
	}
	return c.Store.Class(ctx, id)
}

// Clear ends a practice class with all that was made in it.
func (c *Practice) Clear(ctx context.Context, by, class string) error {
	cl, err := c.Store.Class(ctx, class)
	if err != nil {
		return seam.NotFound(err)
	}
	if !cl.Practice {
		return change.Refuse("class", "not-practice")
	}
	runs, err := c.Store.RecentRuns(ctx, class)
	if err != nil {
		return err
	}
	for _, r := range runs {
		if err := c.runs.Stop(seam.Within(ctx, r.ID), by, class, r.ID); err != nil {
			return err
		}
	}
	staff, err := c.Store.Staff(ctx, class)
	if err != nil {
		return err
	}
	all, err := c.Store.Rows(ctx, class)
	if err != nil {
		return err
	}
	var ids []string
	for _, r := range all {
		if strings.HasPrefix(r.Account, seam.PracticePrefix) {
			ids = append(ids, r.Account)
		}
	}
	folder, err := c.Store.EntryByKey(ctx, packing.Key{Class: class, What: packing.What{Purpose: packing.ClassFolder}})
	if err == nil {
		err = c.cup.Remove(ctx, cmp.Or(cl.HeldBy, staff[0].Account), class+"/clear", folder.Thing)
	}
	if err != nil && seam.NotFound(err) != seam.ErrNotFound {
		return err
	}
	if err := c.Store.Change(ctx, c.Act(ctx, by, "practice-cleared", map[string]string{}, class), nil, func(tx *store.Store) error {
		return tx.DeleteClass(ctx, class)
	}); err != nil {
		return seam.NotFound(err)
	}
	return c.accounts.Dismiss(ctx, ids)
}
