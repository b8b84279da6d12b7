package lists

import (
	"testing"

	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
)

func TestGroups(t *testing.T) {
	list := []roster.Student{{Record: record.Record{Class: "7B", Period: "3"}},
		{Record: record.Record{Class: "8A", Period: "3"}}, {Record: record.Record{Class: "7b", Period: "5"}},
		{Record: record.Record{Class: "7B", Period: "3"}}}
	if g := Groups(list, false); len(g) != 2 || g[0].Class != "7B" || len(g[0].Students) != 3 || g[1].Students[0] != 1 {
		t.Errorf("by class: %+v", g)
	}
	if g := Groups(list, true); len(g) != 3 || g[2].Period != "5" || g[0].Key == g[2].Key || len(g[0].Students) != 2 {
		t.Errorf("by class and period: %+v", g)
	}
	for _, c := range []struct {
		group Group
		class Named
		same  bool
	}{
		{Group{Class: "7b"}, Named{Code: "7B", Name: "Tide Watch 7B"}, true},
		{Group{Class: "Tide  watch 7B"}, Named{Code: "7B", Name: "Tide Watch 7B"}, true},
		{Group{Class: "7B – Tide Watch"}, Named{Code: "7B", Name: "Tide Watch"}, true},
		{Group{Class: "7B", Period: "3"}, Named{Code: "7B", Name: "Tide Watch", Period: "5"}, false},
		{Group{Class: "7B", Period: "3"}, Named{Code: "7B", Name: "Tide Watch"}, true},
		{Group{Class: "Tide Watch"}, Named{Code: "7B", Name: "Tide Watch 7B"}, true},
		{Group{Class: "8A"}, Named{Code: "7B", Name: "Tide Watch"}, false},
		{Group{Class: ""}, Named{Code: "", Name: "Tide Watch"}, false},
	} {
		if got := c.group.SameClass(c.class); got != c.same {
			t.Errorf("%+v is %+v: %v", c.group, c.class, got)
		}
	}
}
