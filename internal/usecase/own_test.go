package usecase_test

import (
	"slices"
	"strings"
	"testing"

	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/usecase/pack"
)

// Chosen students' copies get a name and a place of their own, as lines to change; others
// stay as they are, and so do those when the handout's name changes. It can be taken back.
func TestOwnNames(t *testing.T) {
	a, c := school(t, 3)
	if err := a.Cases.Rooms.ChangeRoom(ctx, "oduya", c.ID, addPockets("Field work")); err != nil {
		t.Fatal(err)
	}
	c = apptest.Load(t, a, c.ID)
	h := apptest.Handout(t, a, c, "# Log")
	if h.Settings.Pocket != "" {
		t.Error("it is to lie in a pocket that nobody chose")
	}
	edit(t, a, c, &h, handout.Change{Pocket: &c.Plan.Pockets[0].ID})
	apptest.Pack(t, a, c, &h)
	if next := apptest.Handout(t, a, c, "# Log"); next.Settings.Pocket != h.Settings.Pocket {
		t.Error("the next one is to lie elsewhere than the one before")
	}
	rows := []string{c.Students[0].ID, c.Students[1].ID}
	change := func(ch handout.Change) (err error) {
		_, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, ch, handout.Change{})
		return err
	}
	changes := func() (acts []string) {
		t.Helper()
		l, err := a.Cases.Packing.HandoutList(ctx, c.ID, load(t, a, c.ID, h.ID))
		if err != nil {
			t.Fatal(err)
		}
		var keys []string
		for _, line := range l.Lines {
			if line.Section == packing.ToChange {
				acts, keys = append(acts, string(line.Step.Act)+" "+line.Wanted.Name), append(keys, line.Step.String())
			}
		}
		if len(keys) > 0 {
			run, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, h.ID, pack.Part{Part: packing.Part{Changes: keys}})
			if err != nil {
				t.Fatal(err)
			}
			apptest.Wait(t, a, run.ID)
		}
		return acts
	}
	own := &handout.OwnParts{Rows: rows, Name: &naming.Pattern{{Column: record.Given}}, Pocket: ptr("")}
	if err := change(handout.Change{Own: own}); err != nil {
		t.Fatal(err)
	}
	if got := strings.Join(changes(), "; "); strings.Count(got, "rename Given") != 2 ||
		strings.Count(got, "move Given") != 2 || strings.Contains(got, "Given2") {
		t.Errorf("to change: %s", got)
	}
	if err := change(handout.Change{Name: &naming.Pattern{{Column: record.Family}}}); err != nil {
		t.Fatal(err)
	}
	if got := changes(); len(got) != 1 || !strings.HasPrefix(got[0], "rename Family2") {
		t.Errorf("to change where the handout has another name: %v", got)
	}
	if err := change(handout.Change{Own: &handout.OwnParts{Rows: rows[:1], Alike: true}}); err != nil {
		t.Fatal(err)
	}
	if got := strings.Join(changes(), "; "); !strings.Contains(got, "rename Family0") || strings.Contains(got, "Given1") {
		t.Errorf("to change where one is as all: %s", got)
	}

	table, err := a.Cases.Registers.ExportRegister(ctx, c.ID, rows[:1], "http://here")
	if err != nil || len(table) != 2 || table[1][0] != c.Students[0].SortName() || table[1][3] != "shared" ||
		!strings.HasPrefix(table[1][4], "http://here/go/") || table[1][5] != "shared" {
		t.Errorf("as a table: %v, %v", table, err)
	}
	if all, err := a.Cases.Registers.ExportRegister(ctx, c.ID, nil, ""); err != nil || len(all) != 4 {
		t.Errorf("all: %d lines, %v", len(all), err)
	}

	wantInvalid(t, change(handout.Change{Own: &handout.OwnParts{Rows: []string{h.ID}}}), "own", "no-such-student")
	pocket := "elsewhere"
	wantInvalid(t, change(handout.Change{Own: &handout.OwnParts{Rows: rows, Pocket: &pocket}}), "pocket", "no-such-pocket")
	wantInvalid(t, change(handout.Change{Own: &handout.OwnParts{Rows: rows, Name: &naming.Pattern{}}}), "name", "missing")
	one, way := apptest.Handout(t, a, c, "# Sheet"), handout.ForAllName
	if one, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, one.ID, handout.Change{Way: &way}, handout.Change{}); err != nil {
		t.Fatal(err)
	}
	_, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, one.ID, handout.Change{Own: own}, handout.Change{})
	wantInvalid(t, err, "own", "not-own")
}

// One student can do something else than the others with a copy, before and after it is packed, in
// every way of handing out: the list says so, packing does it, the door check agrees; and back.
func TestOwnLevel(t *testing.T) {
	for _, way := range []handout.WayName{handout.EachName, handout.TeamName, handout.ForAllName} {
		t.Run(string(way), func(t *testing.T) {
			a, c := school(t, 3)
			var edits []classes.Edit
			for _, st := range c.Students {
				edits = append(edits, classes.Edit{Row: st.ID, Field: record.Team, Value: "Gull"})
			}
			if _, err := a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID, edits); err != nil {
				t.Fatal(err)
			}
			apptest.Pack(t, a, c, nil)
			h := apptest.Handout(t, a, c, "# Log")
			edit(t, a, c, &h, handout.Change{Way: &way})
			say := func(row int, level string) {
				t.Helper()
				edit(t, a, c, &h, handout.Change{Own: &handout.OwnParts{Rows: []string{c.Students[row].ID}, Level: &level}})
			}
			pack := func() (acts []string) {
				t.Helper()
				l, err := a.Cases.Packing.HandoutList(ctx, c.ID, load(t, a, c.ID, h.ID))
				if err != nil {
					t.Fatal(err)
				}
				part := pack.Part{}
				for _, line := range l.Lines {
					if line.Section == packing.ToChange {
						acts, part.Changes = append(acts, string(line.Step.Act)+" "+line.Step.Account), append(part.Changes, line.Step.String())
					} else if line.Section == packing.ToPack && line.Step.Act == packing.Share {
						acts = append(acts, "share")
					}
				}
				run, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, h.ID, part)
				if err != nil {
					t.Fatal(err)
				}
				apptest.Wait(t, a, run.ID)
				return acts
			}
			reached := func(want ...access.Level) {
				t.Helper()
				apptest.Look(t, a)
				s, err := a.Cases.Packing.PictureNow(ctx, c.ID)
				if err != nil {
					t.Fatal(err)
				}
				for i, l := range want {
					keys := s.KeysOf(load(t, a, c.ID, h.ID))(c.Students[i].ID)
					if e := s.Entries[keys[0]]; e == nil || levelOf(t, a, c.Students[i].Account, e.Thing) != l {
						t.Errorf("student %d has another level than %s", i, l)
					}
				}
				if found, _ := checked(t, a, c); len(found) > 0 {
					t.Errorf("the door check finds %v", found)
				}
			}
			say(1, "read")
			pack()
			reached(access.Edit, access.Read, access.Edit)
			say(1, "edit")
			say(2, "comment")
			if got := pack(); len(got) == 0 || !slices.Contains(got, "lower s2") || !slices.Contains(got, "share") {
				t.Errorf("to change: %v", got)
			}
			reached(access.Edit, access.Edit, access.Comment)
			if said := load(t, a, c.ID, h.ID).Settings.Levels; len(said) != 1 {
				t.Errorf("said for single ones: %v", said)
			}
			edit(t, a, c, &h, handout.Change{Own: &handout.OwnParts{Rows: []string{c.Students[2].ID}, Alike: true}})
			pack()
			reached(access.Edit, access.Edit, access.Edit)
		})
	}
}
