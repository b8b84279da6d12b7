package room

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
)

func class(n int) Class {
	c := Class{ID: "c", Folder: "7B Tide Watch", Owner: "oduya", Names: English,
		Staff: []Staff{{"oduya", access.Edit}, {"lindqvist", access.Edit}, {"amaral", access.Comment}}}
	for i := range n {
		id := fmt.Sprint("s", i)
		c.Students = append(c.Students,
			Student{Row: "row-" + id, Account: id, Added: i, Values: record.Values{record.Family: "Family " + id, record.Given: "Given"}})
	}
	return c
}

func wantedOf(c Class, p Plan) []packing.Wanted {
	w, _ := p.Wanted(c)
	return w
}

func ExamplePlan_Wanted() {
	for _, w := range wantedOf(class(1), Usual()) {
		fmt.Println(w.Key.What.Purpose, "·", w.Name)
	}
	// Output:
	// class · 7B Tide Watch
	// shelf · Shelf
	// table · Table
	// drawer · Drawer
	// cloakroom · Cloakroom
	// satchel · Family s0, Given
}

// The counts and who reaches what: common practice, no published source.
func TestUsualRoom(t *testing.T) {
	for _, n := range []int{0, 1, 28} {
		plan := Usual()
		plan.Pockets = []Pocket{{"f", "Field work"}, {"p", "Photographs"}}
		c := class(n)
		wanted := wantedOf(c, plan)
		if want := 1 + 4 + n + 2*n; len(wanted) != want {
			t.Errorf("%d students: %d things, want %d", n, len(wanted), want)
		}
		if len(wantedOf(c, Usual())) != 1+4+n {
			t.Errorf("%d students without pockets", n)
		}
		seen := map[packing.Key]bool{}
		for _, w := range wanted {
			if seen[w.Key] || w.Parent != (packing.Key{}) && !seen[w.Parent] {
				t.Errorf("%s is twice, or stands before what it lies in", w.Key)
			}
			seen[w.Key] = true
			chain := packing.Chain(wanted, w.Key)
			if l := access.Effective("oduya", chain, time.Time{}).Level; l != access.Owner {
				t.Errorf("the owner teacher has %v on %s", l, w.Key.What.Purpose)
			}
			if l := access.Effective("lindqvist", chain, time.Time{}).Level; l != access.Edit {
				t.Errorf("the co-teacher has %v on %s", l, w.Key.What.Purpose)
			}
			if l := access.Effective("amaral", chain, time.Time{}).Level; l != access.Comment {
				t.Errorf("the assistant has %v on %s", l, w.Key.What.Purpose)
			}
		}
		for _, s := range c.Students {
			reach := map[packing.Purpose]access.Level{}
			for _, w := range wanted {
				if l := access.Effective(s.Account, packing.Chain(wanted, w.Key), time.Time{}).Level; l > access.Nothing &&
					w.Key.What.Purpose != "pocket" {
					if w.Key.What.Purpose == "satchel" && w.Key.Whom.Row != s.Row {
						t.Fatalf("%s reaches the satchel of %s", s.Account, w.Key.Whom.Row)
					}
					reach[w.Key.What.Purpose] = l
				}
			}
			if len(reach) != 3 || reach["shelf"] != access.Read || reach["table"] != access.Edit || reach["satchel"] != access.Edit {
				t.Errorf("%s reaches %v", s.Account, reach)
			}
		}
	}
}

func TestProblemsAndNewcomers(t *testing.T) {
	c := class(2)
	c.Students[1].Account, c.Students[1].Problem = "", &packing.Reason{Code: "account-unknown"}
	for _, w := range wantedOf(c, Usual()) {
		if w.Key.What.Purpose == "shelf" && len(w.Rule.Grants) != 1 {
			t.Errorf("the shelf is for %v", w.Rule.Grants)
		}
		if w.Key.Whom.Row == "row-s1" && (w.Problem == nil || len(w.Rule.Grants) != 0) {
			t.Errorf("a student without account: %+v", w)
		}
	}
	// One who has no account yet is provided for, and waits.
	c.Students[1].Problem, c.Students[1].Waits = nil, &packing.Reason{Code: "no-address"}
	for _, w := range wantedOf(c, Usual()) {
		own, whole := w.Key == SatchelKey(c.ID, "row-s1"), w.Key.What.Purpose == "shelf" || w.Key.What.Purpose == "table"
		if (own || whole) != slices.Equal(w.Waits, []string{"row-s1"}) || own != (w.Lacking != nil) || w.Problem != nil {
			t.Errorf("%s waits for %v, %+v", w.Key, w.Waits, w.Lacking)
		}
	}
	// A newcomer of the same name leaves the packed name as it is.
	c = class(2)
	c.Students[0].Values = c.Students[1].Values
	c.Students[0].Packed = "Family s1, Given"
	names := Usual().SatchelNames(c)
	if names[0].Name != "Family s1, Given" || names[1].Name == names[0].Name {
		t.Errorf("names %v", names)
	}
}
