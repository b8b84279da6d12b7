package usecase_test

import (
	"errors"
	"strings"
	"testing"

	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// Templates are renamed and taken off the list by whose they are; one that a handout
// gives goes on being given, the document of another is in the bin.
func TestTemplates(t *testing.T) {
	a, c := school(t, 2)
	h := apptest.Handout(t, a, c, "# Log\n")
	used := h.Settings.Documents[0].Template
	loose, err := a.Cases.Handouts.AddTemplate(ctx, "oduya", "Map.md", "text/markdown", strings.NewReader("# Map"))
	if err != nil {
		t.Fatal(err)
	}
	rename := func(as, id, name string) error {
		return a.Cases.Handouts.RenameTemplate(ctx, as, store.NewID(), id, name)
	}
	remove := func(as, id string) error { return a.Cases.Handouts.RemoveTemplate(ctx, as, store.NewID(), id) }
	for what, err := range map[string]error{"renamed": rename("lindqvist", loose.ID, "Mine"),
		"removed": remove("lindqvist", loose.ID), "no id": remove("oduya", "x")} {
		if !errors.Is(err, seam.ErrNotFound) {
			t.Errorf("by somebody else, %s: %v", what, err)
		}
	}
	wantInvalid(t, rename("oduya", loose.ID, " "), "name", "missing")
	wantInvalid(t, rename("oduya", loose.ID, strings.Repeat("x", 241)), "name", "too-long")
	if err := rename("oduya", loose.ID, "Chart: one.md"); err != nil {
		t.Fatal(err)
	}
	th, err := a.Cup.Get(ctx, "oduya", loose.Thing)
	if now, e := a.Store.Template(ctx, loose.ID); err != nil || e != nil || th.Name != "Chart- one.md" || now.Name != th.Name {
		t.Errorf("called %q, %v, %v", th.Name, err, e)
	}
	for _, id := range []string{used, loose.ID} {
		if err := remove("oduya", id); err != nil {
			t.Fatal(err)
		}
	}
	list, err := a.Cases.Handouts.Templates(ctx, "oduya")
	if err != nil || len(list) != 0 {
		t.Errorf("%d are left on the list, %v", len(list), err)
	}
	if _, err := a.Cup.Get(ctx, "oduya", loose.Thing); !errors.Is(err, cupboard.ErrNotFound) {
		t.Errorf("the document of one that no handout gives: %v", err)
	}
	if r := apptest.Pack(t, a, c, &h); r.Stuck != 0 {
		t.Errorf("the one that is given: %+v", r)
	}
	more := append(*docs(loose.ID), h.Settings.Documents...)
	_, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Documents: &more}, handout.Change{})
	wantInvalid(t, err, "documents", "no-such-template")
}
