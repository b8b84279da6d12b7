package cupboardtest

import (
	"errors"
	"maps"
	"slices"
	"testing"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/cupboard"
)

// held lists a tree a level at a time, with what its owner can't read.
func held(t *testing.T, r *room) {
	class, satchel := r.classroom()
	drawer := r.folder("oduya", class.ID, "Drawer")
	essay := r.file("dube", satchel.ID, "essay.md", "mine")
	binned := r.file("oduya", drawer.ID, "old.md", "old")
	r.ok(r.Bin(r.ctx, "oduya", r.key(), binned.ID, nil))
	r.ok(r.HandOver(r.ctx, "oduya", r.key(), satchel.ID, "dube"))
	alone, school := true, access.Read
	r.ok(r.SetRule(r.ctx, "oduya", r.key(), satchel.ID, cupboard.RuleChange{StandsAlone: &alone,
		Levels: map[string]access.Level{"eriksen": access.Comment}}))
	if _, err := r.Get(r.ctx, "oduya", essay.ID); !errors.Is(err, cupboard.ErrNotFound) {
		t.Fatalf("what stands alone and is another's can be read: %v", err)
	}
	r.ok(r.SetRule(r.ctx, "dube", r.key(), satchel.ID, cupboard.RuleChange{School: &school}))
	list := func(as string, folders ...string) map[string]cupboard.Held {
		got, err := r.Held(r.ctx, as, folders)
		r.ok(err)
		out := map[string]cupboard.Held{}
		for _, x := range got {
			out[x.ID] = x
		}
		return out
	}
	first := list("oduya", class.ID)
	if len(first) != 2 || first[drawer.ID].Name != "Drawer" || first[drawer.ID].Owner != "oduya" || first[drawer.ID].Parent != class.ID {
		t.Errorf("in the class: %+v", first)
	}
	if x := first[satchel.ID]; x.Owner != "dube" || !x.Rule.StandsAlone || x.Rule.School != access.Read ||
		!maps.Equal(x.Rule.Grants, map[string]access.Level{"dube": access.Edit, "eriksen": access.Comment}) {
		t.Errorf("a satchel that stands alone: %+v", x)
	}
	if second := list("oduya", drawer.ID, satchel.ID); len(second) != 1 || second[essay.ID].Owner != "dube" || second[essay.ID].Kind != cupboard.File {
		t.Errorf("in the folders of the class: %+v", second)
	}
	if mine := list("dube", class.ID, satchel.ID); len(mine) != 1 {
		t.Errorf("somebody who owns one of two folders is told %+v", mine)
	}
	if others := list("lindqvist", class.ID, satchel.ID, "none"); len(others) != 0 {
		t.Errorf("a stranger is told %+v", others)
	}
}

// ceded is a folder that passes on with nothing that is in it.
func ceded(t *testing.T, r *room) {
	class, satchel := r.classroom()
	pocket := r.folder("oduya", satchel.ID, "Pocket")
	r.is(r.Cede(r.ctx, "dube", r.key(), satchel.ID, "dube"), cupboard.ErrNoRight, "by one who may edit")
	var unknown *cupboard.UnknownPeople
	if err := r.Cede(r.ctx, "oduya", r.key(), satchel.ID, "nobody"); !errors.As(err, &unknown) {
		t.Errorf("to nobody: %v", err)
	}
	r.ok(r.Cede(r.ctx, "oduya", r.key(), satchel.ID, "dube"))
	owners := func() []string {
		got, err := r.Held(r.ctx, "oduya", []string{class.ID, satchel.ID})
		r.ok(err)
		var out []string
		for _, x := range got {
			out = append(out, x.Name+" "+x.Owner)
		}
		slices.Sort(out)
		return out
	}
	if got := owners(); !slices.Equal(got, []string{"Dube dube", "Pocket oduya"}) {
		t.Errorf("after it: %v", got)
	}
	r.is(r.Cede(r.ctx, "oduya", r.key(), satchel.ID, "oduya"), cupboard.ErrNoRight, "by the owner of the tree")
	r.ok(r.Cede(r.ctx, "dube", "back", satchel.ID, "oduya"))
	if got := owners(); !slices.Equal(got, []string{"Dube oduya", "Pocket oduya"}) {
		t.Errorf("given back: %v, with %s", got, pocket.Name)
	}
}
