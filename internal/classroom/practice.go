package classroom

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
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// A Practice makes accounts for invented students known to the school book and
// the cupboard, and forgets them again.
type Practice interface {
	Enrol(ctx context.Context, accounts []accounts.Account) error
	Dismiss(ctx context.Context, ids []string) error
}

// practiceNames are invented; given and family name in turn.
var practiceNames = [][2]string{
	{"Anemone", "Ashlar"}, {"Bram", "Bollard"}, {"Coralie", "Cleat"}, {"Dario", "Dinghy"}, {"Elke", "Eddy"}, {"Finlo", "Fathom"},
	{"Greta", "Gunwale"}, {"Hugo", "Halyard"}, {"Ines", "Islet"}, {"Jorn", "Jetty"}, {"Kaja", "Keel"}, {"Lorcan", "Lantern"},
	{"Maud", "Mooring"}, {"Nuno", "Narrows"}, {"Oonagh", "Oar"}, {"Piet", "Pontoon"}, {"Quilla", "Quayside"}, {"Rasmus", "Rudder"},
	{"Signe", "Seawall"}, {"Tove", "Tiller"}, {"Ulrik", "Undertow"}, {"Vasco", "Vane"}, {"Willa", "Windlass"}, {"Yara", "Yawl"},
}

// MakePractice hangs up a class of invented students, with accounts of their
// own, so that everything can be tried in it.
func (c *Classes) MakePractice(ctx context.Context, by string) (classes.Class, error) {
	cl, err := c.classOf("TRY", "Practice class", "")
	if err != nil {
		return cl, err
	}
	cl.Practice = true
	mark := cl.ID[len(cl.ID)-6:]
	var all []accounts.Account
	var students []record.Record
	for i, n := range practiceNames {
		a := accounts.Account{
			ID: seam.PracticePrefix + mark + fmt.Sprintf("-%02d", i+1), Given: n[0], Family: n[1], Number: strings.ToUpper(mark) + fmt.Sprintf("%02d", i+1), Role: accounts.Student,
			Address: strings.ToLower(n[0]+"."+n[1]) + "." + mark + "@practice." + cmp.Or(c.School().Domain, "school.example"),
		}
		all = append(all, a)
		students = append(students, record.Record{
			Given: n[0], Family: n[1], Address: a.Address, Number: a.Number, Period: string('1' + rune(i%2)), Level: string('A' + rune(i%3)), Team: string('A' + rune(i%4)), Extra: map[string]string{},
		})
	}
	if err := c.practice.Enrol(ctx, all); err != nil {
		return cl, err
	}
	book, err := c.Book(ctx)
	if err != nil {
		return cl, err
	}
	id := cl.ID
	err = c.Store.Change(ctx, c.Act(ctx, by, "practice-made", map[string]string{"class": cl.ID}), &id, func(tx *store.Store) error {
		if err := moreClasses(ctx, tx, by); err != nil {
			return err
		}
		if err := tx.InsertClass(ctx, cl, by); err != nil {
			return err
		}
		_, err := c.inRosters(ctx, tx, book, rosterAct{by: by, kind: "list"}, store.Act{}, func(rs *rosters) error {
			r := rs.made(cl.ID)
			for _, s := range students {
				r.join(cl.ID, s, "")
			}
			return nil
		})
		return err
	})
	if err != nil || id != cl.ID { // not made, or made when it was asked for before
		var ids []string
		for _, a := range all {
			ids = append(ids, a.ID)
		}
		if err := errors.Join(err, c.practice.Dismiss(ctx, ids)); err != nil {
			return cl, err
		}
	}
	return c.Store.Class(ctx, id)
}

// ClearPractice ends a practice class with all that was made in it.
func (c *Classes) ClearPractice(ctx context.Context, by, class string) error {
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
		if err := c.packing.Stop(seam.Within(ctx, r.ID), by, class, r.ID); err != nil {
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
	return c.practice.Dismiss(ctx, ids)
}
