package packer_test

import (
	"fmt"
	"strings"
	"testing"

	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/usecase/seam"
)

// A handout keeps the class list as it stood whenever it was packed, whatever becomes of
// the class.
func TestStood(t *testing.T) {
	a, c := wayClass(t)
	h := hand(t, a, c, handout.Change{Way: way(handout.LevelName), Out: map[string]string{rowOf(c, 1): handout.SitsOut}}, "Low:A", "High:B")
	apptest.Pack(t, a, c, &h)
	first := func() string {
		t.Helper()
		times, err := a.Cases.Packing.StoodTimes(ctx, c.ID, h.ID)
		if err != nil || len(times) == 0 || times[0].By != "oduya" {
			t.Fatalf("%+v, %v", times, err)
		}
		st, err := a.Cases.Packing.StoodList(ctx, c.ID, h.ID, times[len(times)-1].ID)
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, x := range st.Students {
			why := ""
			if x.Reason != nil {
				why = x.Reason.Code
			}
			out = append(out, fmt.Sprintf("%s:%s%s", x.Name, x.Section, why))
		}
		return strings.Join(out, " ")
	}
	want := "Family0, Given0:already-there Family1, Given1:left-outsits-out Family2, Given2:already-there Family3, Given3:needs-fixinglevel-none Family4, Given4:needs-fixinglevel-unmapped"
	if got := first(); got != want {
		t.Errorf("%s\nwant %s", got, want)
	}
	if _, err := a.Cases.Rosters.SetLeft(ctx, "oduya", c.ID, []string{rowOf(c, 0)}, true); err != nil {
		t.Fatal(err)
	}
	settleAll(t, a)
	if h, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID,
		handout.Change{Out: map[string]string{rowOf(c, 1): ""}}, handout.Change{}); err != nil {
		t.Fatal(err)
	} else {
		apptest.Pack(t, a, c, &h)
	}
	if got := first(); got != want {
		t.Errorf("later: %s", got)
	}
	if times, err := a.Cases.Packing.StoodTimes(ctx, c.ID, h.ID); err != nil || len(times) != 2 {
		t.Errorf("packed %d times, %v", len(times), err)
	}
	if _, err := a.Cases.Packing.StoodList(ctx, c.ID, h.ID, h.ID); err != seam.ErrNotFound {
		t.Errorf("a list that isn't there: %v", err)
	}
}
