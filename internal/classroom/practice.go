package classroom

import (
	"context"
	"fmt"
	"strings"

	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/schoolbook"
	"jollysatchel/internal/store"
)

// A Practice makes accounts for invented students known to the school book and
// the cupboard, and forgets them again.
type Practice interface {
	Enrol(ctx context.Context, accounts []schoolbook.Account) error
	Dismiss(ctx context.Context, ids []string) error
}

// PracticePrefix begins the ids of invented accounts.
const PracticePrefix = "practice-"

// practiceNames are invented; given and family name in turn.
var practiceNames = [][2]string{
	{"Anemone", "Ashlar"}, {"Bram", "Bollard"}, {"Coralie", "Cleat"}, {"Dario", "Dinghy"}, {"Elke", "Eddy"}, {"Finlo", "Fathom"},
	{"Greta", "Gunwale"}, {"Hugo", "Halyard"}, {"Ines", "Islet"}, {"Jorn", "Jetty"}, {"Kaja", "Keel"}, {"Lorcan", "Lantern"},
	{"Maud", "Mooring"}, {"Nuno", "Narrows"}, {"Oonagh", "Oar"}, {"Piet", "Pontoon"}, {"Quilla", "Quayside"}, {"Rasmus", "Rudder"},
	{"Signe", "Seawall"}, {"Tove", "Tiller"}, {"Ulrik", "Undertow"}, {"Vasco", "Vane"}, {"Willa", "Windlass"}, {"Yara", "Yawl"},
}

// MakePractice hangs up a class of invented students, with accounts of their
// own, so that everything can be tried in it.
func (c *Classroom) MakePractice(ctx context.Context, by string) (store.Class, error) {
	cl, err := c.classOf("TRY", "Practice class", "")
	if err != nil {
		return cl, err
	}
	cl.Practice = true
	mark := cl.ID[len(cl.ID)-6:]
	var accounts []schoolbook.Account
	var students []roster.Student
	known := map[string]schoolbook.Account{}
	for i, n := range practiceNames {
		a := schoolbook.Account{
			ID: PracticePrefix + mark + fmt.Sprintf("-%02d", i+1), Given: n[0], Family: n[1], Number: strings.ToUpper(mark) + fmt.Sprintf("%02d", i+1), Role: schoolbook.Student,
			Address: strings.ToLower(n[0]+"."+n[1]) + "." + mark + "@practice." + or(c.School.Domain, "school.example"),
		}
		accounts = append(accounts, a)
		known[a.Address] = a
		students = append(students, roster.Student{
			Given: n[0], Family: n[1], Address: a.Address, Number: a.Number, Period: string('1' + rune(i%2)), Level: string('A' + rune(i%3)), Team: string('A' + rune(i%4)), Extra: map[string]string{},
		})
	}
	if err := c.Practice.Enrol(ctx, accounts); err != nil {
		return cl, err
	}
	_, err = c.changeRosters(ctx, by, "list", "", nil, func(tx *store.Store, _ rosterStates) ([]string, error) {
		if err := tx.InsertClass(ctx, cl, by); err != nil {
			return nil, err
		}
		a := accepter{Classroom: c, tx: tx, accounts: known}
		for _, s := range students {
			if err := a.join(ctx, cl.ID, s, nil); err != nil {
				return nil, err
			}
		}
		return []string{cl.ID}, nil
	})
	return cl, err
}

// ClearPractice ends a practice class with all that was made in it.
func (c *Classroom) ClearPractice(ctx context.Context, cl Class) error {
	if !cl.Practice {
		return &Invalid{"class", "not-practice", nil}
	}
	runs, err := c.Store.RecentRuns(ctx, cl.ID)
	if err != nil {
		return err
	}
	for _, r := range runs {
		if err := c.Stop(ctx, r); err != nil {
			return err
		}
	}
	var ids []string
	all, err := c.Store.AllMembers(ctx, cl.ID)
	if err != nil {
		return err
	}
	for _, m := range all {
		if strings.HasPrefix(m.Account.String, PracticePrefix) {
			ids = append(ids, m.Account.String)
		}
	}
	folder, err := c.Store.EntryByKey(ctx, string(room.ClassKey(cl.ID)))
	if err == nil {
		err = c.Cup.Remove(ctx, cl.Owner(), cl.ID+"/clear", folder.Thing)
	}
	if err != nil && notFound(err) != ErrNotFound {
		return err
	}
	if err := c.Store.Tx(ctx, func(tx *store.Store) error { return tx.DeleteClass(ctx, cl.ID) }); err != nil {
		return notFound(err)
	}
	return c.Practice.Dismiss(ctx, ids)
}
