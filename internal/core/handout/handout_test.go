package handout

import (
	"fmt"
	"testing"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
)

func class(n int) room.Class {
	c := room.Class{ID: "c", Folder: "7B", Owner: "oduya", Names: room.English,
		Staff: []room.Staff{{Account: "oduya", Level: access.Edit}, {Account: "lindqvist", Level: access.Edit}}}
	for i := range n {
		id := fmt.Sprint("s", i)
		c.Students = append(c.Students,
			room.Student{Row: "row-" + id, Account: id, Added: i, Values: record.Values{record.Period: "3", record.Family: "Family" + id}})
	}
	return c
}

func settings() Settings {
	return Settings{ID: "h", Title: "Rock-pool field log",
		Documents: []Document{{Slot: 1, Thing: "t", Ending: ".md", Original: "Log"}}, Name: UsualName(), Level: access.Edit,
		Out: map[string]string{}, Values: record.Values{record.Title: "Rock-pool field log"}}
}

func ExampleOneEach_Wanted() {
	wanted, _ := OneEach{room.Usual(), settings()}.Wanted(class(1))
	for _, w := range wanted[5:] {
		fmt.Println(w.Key.What.Purpose, "·", w.Name)
	}
	// Output:
	// handouts · Handouts
	// handout · Rock-pool field log
	// satchel · Familys0
	// copy · 3 Familys0 – Rock-pool field log.md
}

// One copy for each who is in, one reason for each who is out, together all.
func TestInAndOut(t *testing.T) {
	c, s := class(28), settings()
	s.Out = map[string]string{"row-s3": SitsOut, "row-s7": Unticked}
	wanted, absent := OneEach{room.Usual(), s}.Wanted(c)
	copies := 0
	for _, w := range wanted {
		if w.Key.What.Purpose == "copy" {
			copies++
			if s.Out[w.Key.Whom.Row] != "" {
				t.Errorf("%s is out and gets a copy", w.Key.Whom.Row)
			}
			if w.Parent != room.SatchelKey("c", w.Key.Whom.Row) || w.Pointers[0] != FolderKey("c", "h") || w.Source != "t" {
				t.Errorf("copy %+v", w)
			}
		}
	}
	if copies != 26 || len(absent) != 2 || absent[0].Reason.Code != SitsOut || absent[1].Reason.Code != Unticked {
		t.Errorf("%d copies, absent %v", copies, absent)
	}
}

func TestPocket(t *testing.T) {
	plan := room.Usual()
	plan.Pockets = []room.Pocket{{ID: "f", Name: "Field work"}, {ID: "p", Name: "Photographs"}}
	s := settings()
	s.Pocket = "f"
	wanted, _ := OneEach{plan, s}.Wanted(class(1))
	var pockets []string
	for _, w := range wanted {
		switch w.Key.What.Purpose {
		case "pocket":
			pockets = append(pockets, w.Name)
		case "copy":
			if w.Parent != room.PocketKey("c", w.Key.Whom.Row, "f") {
				t.Errorf("the copy lies in %s", w.Parent)
			}
		}
	}
	if len(pockets) != 1 || pockets[0] != "Field work" {
		t.Errorf("pockets %v: only the one needed", pockets)
	}
}

// Single students' copies are called and lie as it is said for them; the others as ever.
// Only their own pocket is made for them.
func TestOwnNameAndPocket(t *testing.T) {
	plan := room.Usual()
	plan.Pockets = []room.Pocket{{ID: "f", Name: "Field work"}, {ID: "p", Name: "Photographs"}}
	for _, way := range []WayName{EachName, LevelName} {
		c, s := class(3), settings()
		for i := range c.Students {
			c.Students[i].Values = record.Values{record.Level: "A", record.Period: "3", record.Family: fmt.Sprint("Family", i)}
		}
		s.By, s.Documents[0].For = record.Level, "A"
		s.Pocket, s.Pockets = "f", map[string]string{"row-s0": "", "row-s1": "p"}
		s.Names = map[string]naming.Pattern{"row-s1": {{Column: record.Title}}, "row-s2": {{Column: record.Title}}}
		s.Documents = append(s.Documents, Document{Slot: 2, Thing: "u", Ending: ".md", Original: "Map", For: "A"})
		wanted, _ := Of(way, plan, s).Wanted(c)
		got := map[string]string{}
		for _, w := range wanted {
			switch w.Key.What.Purpose {
			case packing.Pocket:
				got[w.Key.Whom.Row] += w.Name + "; "
			case packing.Copy:
				got[w.Key.Whom.Row] += w.Name + " in " + w.Parent.What.ID + "; "
			}
		}
		for row, want := range map[string]string{
			"row-s0": "3 Family0 – Rock-pool field log – Log.md in ; 3 Family0 – Rock-pool field log – Map.md in ; ",
			"row-s1": "Photographs; Rock-pool field log – Log 1.md in p; Rock-pool field log – Map 1.md in p; ",
		} {
			if got[row] != want {
				t.Errorf("%s, %s: %q, want %q", way, row, got[row], want)
			}
		}
		if got["row-s1"] == got["row-s2"] {
			t.Errorf("%s: two are called alike: %q", way, got["row-s1"])
		}
	}
}

// A copy that can only be read must not be opened by the satchel it is in.
func TestLevels(t *testing.T) {
	for _, level := range []access.Level{access.Read, access.Comment, access.Edit} {
		s := settings()
		s.Level = level
		wanted, _ := OneEach{room.Usual(), s}.Wanted(class(2))
		chain := packing.Chain(wanted, CopyKey("c", "h", 1, packing.Whom{Row: "row-s0"}))
		for who, want := range map[string]access.Level{"s0": level, "s1": access.Nothing, "oduya": access.Owner, "lindqvist": access.Edit} {
			if got := access.Effective(who, chain, time.Time{}).Level; got != want {
				t.Errorf("copy to %v: %s has %v, want %v", level, who, got, want)
			}
		}
	}
}

func TestPackedNamesStay(t *testing.T) {
	c, s := class(2), settings()
	c.Students[1].Values = c.Students[0].Values
	first := CopyKey("c", "h", 1, packing.Whom{Row: "row-s0"})
	s.Packed = map[packing.Key]string{first: "3 Familys0 – Rock-pool field log.md"}
	given := s.names(c, s.Documents[0], false, s.takers(c, c.Students), nil)
	if given[0].Name != s.Packed[first] || given[1].By != naming.ByPeriod && given[1].By != naming.ByCounter {
		t.Errorf("names %v", given)
	}
}

// BenchmarkList computes the packing lists of 5 handouts to 2,000 students with
// everything found.
func BenchmarkList(b *testing.B) {
	c := class(2000)
	var handouts []OneEach
	actual := map[packing.Key]packing.Actual{}
	for i := range 5 {
		s := settings()
		s.ID = fmt.Sprint("h", i)
		handouts = append(handouts, OneEach{room.Usual(), s})
		wanted, _ := handouts[i].Wanted(c)
		handouts[i].Packed = map[packing.Key]string{}
		for _, w := range wanted {
			if w.Key.What.Purpose == packing.Copy {
				handouts[i].Packed[w.Key] = w.Name
			}
			pointed := map[packing.Key]bool{}
			for _, k := range w.Pointers {
				pointed[k] = true
			}
			actual[w.Key] = packing.Actual{Thing: "t", Generation: 1, State: packing.Here, Name: w.Name, LastName: w.Name,
				Rule: w.Rule, Granted: w.Rule.Grants, Pointed: pointed}
		}
	}
	for b.Loop() {
		n := 0
		c.Satchels = nil
		c.Satchels = room.Usual().SatchelNames(c) // once for all lists of a class
		for _, h := range handouts {
			wanted, absent := h.Wanted(c)
			n += packing.Compute(wanted, absent, nil, actual).Counts()[packing.AlreadyThere]
		}
		if n != 5*(7+2*2000) {
			b.Fatal(n)
		}
	}
}
