package room

import (
	"fmt"
	"testing"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
)

func class(n int) Class {
	c := Class{ID: "c", Folder: "7B Tide Watch", Owner: "oduya", Names: English, Staff: []Staff{{"oduya", access.Edit}, {"lindqvist", access.Edit}, {"amaral", access.Comment}}}
	for i := range n {
		id := fmt.Sprint("s", i)
		c.Students = append(c.Students, Student{Row: "row-" + id, Person: "person-" + id, Account: id, Added: i, Values: map[string]string{naming.Family: "Family " + id, naming.Given: "Given"}})
	}
	return c
}

func ExampleWanted() {
	for _, w := range Wanted(class(1), Usual()) {
		fmt.Println(w.Purpose, "·", w.Name)
	}
	// Output:
	// class · 7B Tide Watch
	// shelf · Shelf
	// table · Table
	// drawer · Drawer
	// cloakroom · Cloakroom
	// satchel · Family s0, Given
}

// chainOf is the wish and what it lies in, as the access rules see them.
func chainOf(wishes []packing.Wish, w packing.Wish) []access.Thing {
	by := map[packing.Key]packing.Wish{}
	for _, x := range wishes {
		by[x.Key] = x
	}
	var chain []access.Thing
	for {
		chain = append(chain, access.Thing{ID: string(w.Key), Owner: w.Owner, Folder: w.Kind == packing.Folder, Rule: w.Rule})
		if w.Parent == "" {
			return chain
		}
		w = by[w.Parent]
	}
}

// The counts and who reaches what: common practice, no published source.
func TestUsualRoom(t *testing.T) {
	for _, n := range []int{0, 1, 28} {
		plan := Usual()
		plan.Pockets = []Pocket{{"f", "Field work"}, {"p", "Photographs"}}
		c := class(n)
		wishes := Wanted(c, plan)
		if want := 1 + 4 + n + 2*n; len(wishes) != want {
			t.Errorf("%d students: %d things, want %d", n, len(wishes), want)
		}
		if len(Wanted(c, Usual())) != 1+4+n {
			t.Errorf("%d students without pockets", n)
		}
		seen := map[packing.Key]bool{}
		for _, w := range wishes {
			if seen[w.Key] || w.Parent != "" && !seen[w.Parent] {
				t.Errorf("%s is twice, or stands before what it lies in", w.Key)
			}
			seen[w.Key] = true
			chain := chainOf(wishes, w)
			if l := access.Effective("oduya", chain).Level; l != access.Owner {
				t.Errorf("the owner teacher has %v on %s", l, w.Purpose)
			}
			if l := access.Effective("lindqvist", chain).Level; l != access.Edit {
				t.Errorf("the co-teacher has %v on %s", l, w.Purpose)
			}
			if l := access.Effective("amaral", chain).Level; l != access.Comment {
				t.Errorf("the assistant has %v on %s", l, w.Purpose)
			}
		}
		for _, s := range c.Students {
			reach := map[string]access.Level{}
			for _, w := range wishes {
				if l := access.Effective(s.Account, chainOf(wishes, w)).Level; l > access.Nothing && w.Purpose != "pocket" {
					if w.Purpose == "satchel" && w.Person != s.Person {
						t.Fatalf("%s reaches the satchel of %s", s.Account, w.Person)
					}
					reach[w.Purpose] = l
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
	for _, w := range Wanted(c, Usual()) {
		if w.Purpose == "shelf" && len(w.Rule.Grants) != 1 {
			t.Errorf("the shelf is for %v", w.Rule.Grants)
		}
		if w.Person == "person-s1" && (w.Problem == nil || len(w.Rule.Grants) != 0) {
			t.Errorf("a student without account: %+v", w)
		}
	}
	// A newcomer of the same name leaves the packed name as it is.
	c = class(2)
	c.Students[0].Values = c.Students[1].Values
	c.Students[0].Packed = "Family s1, Given"
	names := SatchelNames(c, Usual())
	if names[0].Name != "Family s1, Given" || names[1].Name == names[0].Name {
		t.Errorf("names %v", names)
	}
}
