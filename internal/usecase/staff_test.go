package usecase_test

import (
	"errors"
	"fmt"
	"testing"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/room"
)

// settled waits until nothing is being packed.
func settled(t *testing.T, a *app.App) {
	t.Helper()
	runs, err := a.Store.OpenRuns(ctx)
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range runs {
		apptest.Wait(t, a, r)
	}
}

// Who joins the staff reaches everything in the class at their level at once, also what
// stands alone, and who leaves it nothing; what they may do follows.
func TestStaff(t *testing.T) {
	a, c := school(t, 2)
	apptest.Pack(t, a, c, nil)
	h, level := apptest.Handout(t, a, c, "# Log"), "read" // its copies stand alone
	var err error
	if h, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Level: &level}, handout.Change{}); err != nil {
		t.Fatal(err)
	}
	apptest.Pack(t, a, c, &h)
	ledger, err := a.Store.Ledger(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	satchel := entryOf(ledger, room.SatchelKey(c.ID, c.Students[0].ID)).Thing
	var copies []string
	for _, e := range ledger {
		if e.Key.What.Purpose == packing.Copy {
			copies = append(copies, e.Thing)
		}
	}
	may := func(who string) string {
		level := func(id string) string {
			th, err := a.Cup.Get(ctx, who, id)
			if err != nil {
				return access.Nothing.String()
			}
			return th.Level.String()
		}
		return level(satchel) + " " + level(copies[0]) + " " + level(copies[1])
	}
	set := func(account, role, was string) error {
		err := a.Cases.Rooms.SetStaff(ctx, "oduya", c.ID, account, role, was)
		settled(t, a)
		return err
	}
	for _, step := range []struct{ role, was, want string }{
		{classes.Assistant, "", "comment comment comment"}, {classes.Teacher, classes.Assistant, "edit edit edit"},
		{classes.Assistant, classes.Teacher, "comment comment comment"}, {"", classes.Assistant, "nothing nothing nothing"},
	} {
		if err := set("amaral", step.role, step.was); err != nil {
			t.Fatal(err)
		}
		if got := may("amaral"); got != step.want {
			t.Errorf("as %q: %s, want %s", step.role, got, step.want)
		}
		if standing, err := a.Cases.Classes.Standing(ctx, c.ID, "amaral"); err != nil || standing != step.role {
			t.Errorf("they are %q, %v, want %q", standing, err, step.role)
		}
	}
	wantInvalid(t, set("oduya", classes.Assistant, classes.Owner), "account", "owner-stays")
	wantInvalid(t, set("s0", classes.Teacher, ""), "account", "no-teacher")
	wantInvalid(t, set("nobody", classes.Teacher, ""), "account", "no-teacher")
	wantInvalid(t, set("amaral", classes.Owner, ""), "role", "no-such-role")
	var changed *change.Changed
	if err := set("amaral", classes.Teacher, classes.Assistant); !errors.As(err, &changed) {
		t.Errorf("of what another changed: %v", err)
	}
	for i := range 29 {
		if err := a.Store.AddStaff(ctx, classes.Member{ClassID: c.ID, Account: fmt.Sprint("more", i), Role: classes.Teacher}); err != nil {
			t.Fatal(err)
		}
	}
	wantInvalid(t, set("amaral", classes.Teacher, ""), "account", "too-many-staff")
}

// Another owner owns all that was made, the one before reaches it as a co-teacher, and what
// is packed from then on is theirs. It can be done before anything is made, and back.
func TestHandOver(t *testing.T) {
	a, c := school(t, 2)
	edit := func(to, was string) error {
		err := a.Cases.Rooms.HandOver(ctx, "office", c.ID, to, was)
		settled(t, a)
		return err
	}
	for _, step := range [][2]string{{"lindqvist", "oduya"}, {"oduya", "lindqvist"}} {
		if err := edit(step[0], step[1]); err != nil {
			t.Fatal(err)
		}
	}
	apptest.Pack(t, a, apptest.Load(t, a, c.ID), nil)
	var changed *change.Changed
	if err := edit("amaral", "lindqvist"); !errors.As(err, &changed) {
		t.Errorf("of another owner: %v", err)
	}
	wantInvalid(t, edit("s0", "oduya"), "account", "no-teacher")
	if err := edit("amaral", "oduya"); err != nil {
		t.Fatal(err)
	}
	h := apptest.Handout(t, a, apptest.Load(t, a, c.ID), "# Log")
	apptest.Pack(t, a, apptest.Load(t, a, c.ID), &h)
	ledger, err := a.Store.Ledger(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range ledger {
		states, err := a.Cup.States(ctx, "amaral", []string{e.Thing})
		if err != nil || states[e.Thing].Owner != "amaral" {
			t.Errorf("%s is %q's, %v", e.Name, states[e.Thing].Owner, err)
		}
		if th, err := a.Cup.Get(ctx, "oduya", e.Thing); err != nil || th.Level != access.Edit {
			t.Errorf("the one before has %v on %s, %v", th.Level, e.Name, err)
		}
	}
	l, err := a.Cases.Packing.RoomList(ctx, c.ID)
	if err != nil || l.Counts()[packing.ToPack]+l.Counts()[packing.ToChange] > 0 {
		t.Errorf("left to do: %v, %v", l.Counts(), err)
	}
	if cl := apptest.Load(t, a, c.ID); cl.Staff[0].Account != "amaral" || cl.HeldBy != "" || cl.Teacher != "Rita Amaral" {
		t.Errorf("the class is %s's, held by %q", cl.Teacher, cl.HeldBy)
	}
}
