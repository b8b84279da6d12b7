package packer_test

import (
	"errors"
	"fmt"
	"testing"

	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// A student lets a classmate into their own copy where the teacher lets them, and out
// again; nobody lets anybody into what isn't theirs, and switched off it is lines to change.
func TestLettingIn(t *testing.T) {
	a := apptest.Open(t)
	apptest.People(t, a, 40)
	c := apptest.Class(t, a, apptest.List(35))
	h := apptest.Handout(t, a, c, "# Log")
	row := func(n int) string {
		for _, st := range c.Students {
			if st.Account == fmt.Sprint("s", n) {
				return st.ID
			}
		}
		return ""
	}
	edit := func(ch handout.Change) error {
		_, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, ch, handout.Change{})
		return err
	}
	apptest.Pack(t, a, c, &h)
	if err := a.Cases.Packing.LetIn(ctx, "s0", h.ID, row(1), true); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("where nobody may: %v", err)
	}
	level, passing := "comment", "edit"
	if err := edit(handout.Change{Level: &level}); err != nil {
		t.Fatal(err)
	}
	var invalid *change.Invalid
	if err := edit(handout.Change{Passing: &passing}); !errors.As(err, &invalid) || invalid.Code != "more-than-own" {
		t.Errorf("more than they may themselves: %v", err)
	}
	level = "edit"
	if err := edit(handout.Change{Level: &level, Passing: &passing}); err != nil {
		t.Fatal(err)
	}
	copies := map[string]ledger.Entry{}
	entries, err := a.Store.Ledger(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range entries {
		if e.Key.What.Purpose == packing.Copy {
			copies[e.Key.Whom.Row] = e
		}
	}
	may := func(who string) access.Level {
		th, err := a.Cup.Get(ctx, who, copies[row(0)].Thing)
		if err != nil {
			return access.Nothing
		}
		return th.Level
	}
	if err := a.Cases.Packing.LetIn(ctx, "s0", h.ID, row(1), true); err != nil {
		t.Fatal(err)
	}
	settleAll(t, a)
	if may("s1") != access.Edit || may("s2") != access.Nothing {
		t.Errorf("let in: s1 %v, s2 %v", may("s1"), may("s2"))
	}
	if th, err := a.Cup.Get(ctx, "s1", copies[row(0)].Thing); err != nil || len(th.Path) > 0 {
		t.Errorf("a path is seen: %v, %v", th.Path, err)
	}
	found, err := a.Cases.Registers.MatesCopies(ctx, "s1", h.ID)
	if err != nil || len(found.Copies) != 1 || found.Copies[0].Thing != copies[row(0)].Thing || len(found.Mine) != 34 {
		t.Errorf("what s1 finds: %+v, %v", found, err)
	}
	for what, err := range map[string]error{
		"a stranger":   a.Cases.Packing.LetIn(ctx, "s39", h.ID, row(1), true),
		"the teacher":  a.Cases.Packing.LetIn(ctx, "oduya", h.ID, row(1), true),
		"oneself":      a.Cases.Packing.LetIn(ctx, "s0", h.ID, row(0), true),
		"no classmate": a.Cases.Packing.LetIn(ctx, "s0", h.ID, h.ID, true),
	} {
		if !errors.Is(err, seam.ErrNotFound) {
			t.Errorf("%s: %v", what, err)
		}
	}
	// Let out while it is in the bin, a classmate doesn't reach it once it is back.
	if err := a.Cases.Packing.LetIn(ctx, "s0", h.ID, row(2), true); err != nil {
		t.Fatal(err)
	}
	settleAll(t, a)
	if err := a.Cases.Things.Bin(ctx, "oduya", store.NewID(), []string{copies[row(0)].Thing}, 0); err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.Packing.LetIn(ctx, "s0", h.ID, row(2), false); err != nil {
		t.Fatal(err)
	}
	settleAll(t, a)
	if err := a.Cases.Things.Restore(ctx, "oduya", store.NewID(), copies[row(0)].Thing); err != nil {
		t.Fatal(err)
	}
	if may("s2") != access.Nothing || may("s1") != access.Edit {
		t.Errorf("let out in the bin: s2 %v, s1 %v", may("s2"), may("s1"))
	}
	for n := 2; n <= 31; n++ {
		err := a.Cases.Packing.LetIn(ctx, "s0", h.ID, row(n), true)
		if n <= 30 && err != nil || n == 31 && (!errors.As(err, &invalid) || invalid.Code != "too-many-let-in") {
			t.Fatalf("the %dth: %v", n, err)
		}
	}
	if err := a.Cases.Packing.LetIn(ctx, "s0", h.ID, row(1), false); err != nil {
		t.Fatal(err)
	}
	settleAll(t, a)
	if may("s1") != access.Nothing || may("s30") != access.Edit || may("s0") != access.Edit {
		t.Errorf("let out: s1 %v, s30 %v, s0 %v", may("s1"), may("s30"), may("s0"))
	}
	// Who leaves the class is out of it in the same act.
	if _, err := a.Cases.Rosters.SetLeft(ctx, "oduya", c.ID, []string{row(2)}, true); err != nil {
		t.Fatal(err)
	}
	settleAll(t, a)
	if may("s2") != access.Nothing {
		t.Errorf("who left: %v", may("s2"))
	}
	passing = "nothing"
	if err := edit(handout.Change{Passing: &passing}); err != nil {
		t.Fatal(err)
	}
	if h, err = a.Store.Handout(ctx, c.ID, h.ID); err != nil {
		t.Fatal(err)
	}
	l, err := a.Cases.Packing.HandoutList(ctx, c.ID, h)
	if err != nil {
		t.Fatal(err)
	}
	away := 0
	for _, line := range l.Lines {
		if line.Section == packing.ToChange && line.Step.Act == packing.Take && line.Ticked {
			away++
		}
	}
	if away != 28 {
		t.Errorf("switched off: %d lines to take it away, want 28", away)
	}
}
