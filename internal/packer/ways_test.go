package packer_test

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"testing"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/progress"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/pack"
)

// wayClass is a class of five: levels A, B, A, none, C; teams Gull, Gull, Tern, Tern, none.
func wayClass(t *testing.T) (*app.App, picture.Class) {
	t.Helper()
	a := apptest.Open(t)
	apptest.People(t, a, 5)
	list := "No,Surname,First,Email,Level,Crew\n"
	for i, x := range []string{"A,Gull", "B,Gull", "A,Tern", ",Tern", "C,"} {
		list += fmt.Sprintf("%d,Family%d,Given%d,s%d@kestrelquay.example,%s\n", 70000+i, i, i, i, x)
	}
	return a, apptest.Class(t, a, list)
}

// hand begins a handout of a way with documents of some names.
func hand(t *testing.T, a *app.App, c picture.Class, ch handout.Change, docs ...string) handout.Handout {
	t.Helper()
	h, err := a.Cases.Handouts.NewHandout(ctx, "oduya", c.ID, "")
	if err != nil {
		t.Fatal(err)
	}
	given := []handout.GivenDocument{}
	for _, d := range docs {
		name, level, _ := strings.Cut(d, ":")
		tpl, err := a.Cases.Handouts.AddTemplate(ctx, "oduya", name+".md", "text/markdown", strings.NewReader("# "+name+"\n"))
		if err != nil {
			t.Fatal(err)
		}
		given = append(given, handout.GivenDocument{Template: tpl.ID, For: level})
	}
	title := "Charts"
	ch.Documents, ch.Title = &given, &title
	if h, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, ch, handout.Change{}); err != nil {
		t.Fatal(err)
	}
	return h
}

func way(w handout.WayName) *handout.WayName { return &w }

// reaches says which of the files of a class's handout an account reaches, at which level.
func reaches(t *testing.T, a *app.App, c picture.Class, account string) string {
	t.Helper()
	entries, err := a.Store.Ledger(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for _, e := range entries {
		if e.Key.What.Purpose != packing.Copy {
			continue
		}
		if th, err := a.Cup.Get(ctx, account, e.Thing); err == nil {
			out = append(out, th.Name+":"+th.Level.String())
		}
	}
	slices.Sort(out)
	return strings.Join(out, " ")
}

// inSatchel are the names of what is in a student's satchel.
func inSatchel(t *testing.T, a *app.App, c picture.Class, i int) string {
	t.Helper()
	e, err := a.Store.EntryByKey(ctx,
		packing.Key{Class: c.ID, What: packing.What{Purpose: packing.Satchel}, Whom: packing.Whom{Row: rowOf(c, i)}})
	if err != nil {
		t.Fatal(err)
	}
	inside, err := a.Cup.List(ctx, "oduya", e.Thing)
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for _, x := range inside {
		out = append(out, string(x.Kind)+" "+x.Name)
	}
	return strings.Join(out, ", ")
}

func rowOf(c picture.Class, i int) string {
	for _, s := range c.Students {
		if s.Account == fmt.Sprint("s", i) {
			return s.ID
		}
	}
	return ""
}

// nothingLeft checks that all is packed but n students who must be fixed.
func nothingLeft(t *testing.T, a *app.App, c picture.Class, h handout.Handout, n int) {
	t.Helper()
	l, err := a.Cases.Packing.HandoutList(ctx, c.ID, h)
	if err != nil {
		t.Fatal(err)
	}
	if got := l.Counts(); got[packing.ToPack] != 0 || got[packing.ToChange] != 0 || got[packing.NeedsFixing] != n {
		t.Errorf("left: %v, want %d to fix", got, n)
	}
}

// A document per level: who has no level, or one without a document, is reported, and
// given what is theirs once that is said.
func TestByLevel(t *testing.T) {
	a, c := wayClass(t)
	h := hand(t, a, c, handout.Change{Way: way(handout.LevelName)}, "Coast:a", "Open sea:B")
	r := apptest.Pack(t, a, c, &h)
	if r.Stuck != 2 {
		t.Errorf("%d stuck: one without a level, one of a level without a document", r.Stuck)
	}
	nothingLeft(t, a, c, h, 2)
	for i, want := range []string{"3 Family0 – Charts.md:edit", "3 Family1 – Charts.md:edit", "3 Family2 – Charts.md:edit", "", ""} {
		if got := reaches(t, a, c, fmt.Sprint("s", i)); got != want {
			t.Errorf("s%d reaches %q, want %q", i, got, want)
		}
	}
	if _, err := a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID,
		[]classes.Edit{{Row: rowOf(c, 3), Field: record.Level, Value: "B"}}); err != nil {
		t.Fatal(err)
	}
	more := append(slices.Clone(h.Settings.Documents), handout.GivenDocument{Template: h.Settings.Documents[0].Template, For: "C"})
	h, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Documents: &more}, handout.Change{})
	if err != nil {
		t.Fatal(err)
	}
	if n, err := a.Cases.Packing.TopUp(ctx, "oduya", c.ID, pack.Part{}); err != nil || n != 2 {
		t.Errorf("topped up %d, %v", n, err)
	}
	settleAll(t, a)
	nothingLeft(t, a, c, h, 0)
	if got := reaches(t, a, c, "s3"); got != "3 Family3 – Charts.md:edit" {
		t.Errorf("s3 reaches %q", got)
	}
}

func settleAll(t *testing.T, a *app.App) {
	t.Helper()
	for range 20 {
		runs, err := a.Store.OpenRuns(ctx)
		if err != nil {
			t.Fatal(err)
		}
		if len(runs) == 0 {
			return
		}
		for _, r := range runs {
			apptest.Wait(t, a, r)
		}
	}
	t.Fatal("there is always one more run")
}

// One per team, shared with its members and pointed to from their satchels; who
// changes teams loses the one with its pointer, and has the other.
func TestPerTeam(t *testing.T) {
	a, c := wayClass(t)
	crew := record.Extra("Crew")
	if !c.Vocabulary().Has(crew) {
		crew = record.Team
	}
	h := hand(t, a, c, handout.Change{Way: way(handout.TeamName), Teams: &crew}, "Log")
	r := apptest.Pack(t, a, c, &h)
	if r.Stuck != 1 {
		t.Errorf("%d stuck: one is in no team", r.Stuck)
	}
	nothingLeft(t, a, c, h, 1)
	for i, want := range []string{"Gull – Charts.md:edit", "Gull – Charts.md:edit", "Tern – Charts.md:edit",
		"Tern – Charts.md:edit", ""} {
		if got := reaches(t, a, c, fmt.Sprint("s", i)); got != want {
			t.Errorf("s%d reaches %q, want %q", i, got, want)
		}
	}
	if got := inSatchel(t, a, c, 0); got != "pointer Gull – Charts.md" {
		t.Errorf("in the satchel: %s", got)
	}
	homes, err := a.Cases.Registers.Home(ctx, "s0")
	if err != nil || len(homes[0].Copies) != 1 || homes[0].Copies[0].Level != access.Edit || homes[0].Copies[0].Opened {
		t.Errorf("at home: %+v, %v", homes[0].Copies, err)
	}
	if _, err := a.Cases.Things.See(ctx, "s0", homes[0].Copies[0].Thing); err != nil {
		t.Fatal(err)
	}
	if homes, err = a.Cases.Registers.Home(ctx, "s0"); err != nil || !homes[0].Copies[0].Opened {
		t.Errorf("opened, and still new: %v", err)
	}
	reg, err := a.Cases.Registers.Register(ctx, c.ID)
	if err != nil || reg.Columns[1].Cells[0].State != progress.Opened ||
		reg.Columns[1].Cells[1].State != progress.Shared || reg.Columns[1].Cells[4].State != progress.Stuck {
		t.Errorf("%v %v %v, %v", reg.Columns[1].Cells[0].State, reg.Columns[1].Cells[1].State, reg.Columns[1].Cells[4].State, err)
	}
	if _, err := a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID, []classes.Edit{{Row: rowOf(c, 0), Field: crew, Value: "Tern"}}); err != nil {
		t.Fatal(err)
	}
	l, err := a.Cases.Packing.HandoutList(ctx, c.ID, h)
	if err != nil {
		t.Fatal(err)
	}
	part := pack.Part{}
	for _, line := range l.Lines {
		if line.Section == packing.ToChange {
			part.Changes = append(part.Changes, line.Step.String())
		}
	}
	run, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, h.ID, part)
	if err != nil || len(part.Changes) != 1 {
		t.Fatal(part.Changes, err)
	}
	apptest.Wait(t, a, run.ID)
	nothingLeft(t, a, c, h, 1)
	if got := reaches(t, a, c, "s0"); got != "Tern – Charts.md:edit" {
		t.Errorf("who changed teams reaches %q", got)
	}
	if got := inSatchel(t, a, c, 0); got != "pointer Tern – Charts.md" {
		t.Errorf("in the satchel of who changed teams: %s", got)
	}
}

// One document for all: nobody has a copy, everybody who is in reaches the one, and
// the template stays the teacher's alone. Who leaves is out of it.
func TestOneForAll(t *testing.T) {
	a, c := wayClass(t)
	h := hand(t, a, c, handout.Change{Way: way(handout.ForAllName), Out: map[string]string{rowOf(c, 4): handout.SitsOut}}, "Tides")
	r := apptest.Pack(t, a, c, &h)
	if r.Stuck != 0 || r.Told != 4 {
		t.Errorf("%+v", r)
	}
	nothingLeft(t, a, c, h, 0)
	for i, want := range []string{"Charts.md:edit", "Charts.md:edit", "Charts.md:edit", "Charts.md:edit", ""} {
		if got := reaches(t, a, c, fmt.Sprint("s", i)); got != want {
			t.Errorf("s%d reaches %q, want %q", i, got, want)
		}
	}
	var files, pointers int
	if err := a.Store.DB.Get(&files, `select count(*) from standin.things where kind = 'file'`); err != nil {
		t.Fatal(err)
	}
	if err := a.Store.DB.Get(&pointers, `select count(*) from standin.things where kind = 'pointer'`); err != nil {
		t.Fatal(err)
	}
	if files != 2 || pointers != 4 {
		t.Errorf("%d files and %d pointers, want the template, the one document, and 4", files, pointers)
	}
	tpl, err := a.Store.Template(ctx, h.Settings.Documents[0].Template)
	if err != nil {
		t.Fatal(err)
	}
	if people, err := a.Cup.People(ctx, "oduya", tpl.Thing); err != nil || len(people) != 1 {
		t.Errorf("the template is open to %v, %v", people, err)
	}
	if _, err := a.Cases.Rosters.SetLeft(ctx, "oduya", c.ID, []string{rowOf(c, 0)}, true); err != nil {
		t.Fatal(err)
	}
	settleAll(t, a)
	if got := reaches(t, a, c, "s0"); got != "" {
		t.Errorf("who left reaches %q", got)
	}
}

// Three documents at once: three each, told apart, side by side; the Register says how
// the one stands that has come furthest.
func TestSeveralDocuments(t *testing.T) {
	a, c := wayClass(t)
	h := hand(t, a, c, handout.Change{}, "Map", "Log", "Map")
	if r := apptest.Pack(t, a, c, &h); r.Stuck != 0 {
		t.Errorf("%+v", r)
	}
	nothingLeft(t, a, c, h, 0)
	if got, want := inSatchel(t, a, c, 0),
		"file 3 Family0 – Charts – Log.md, file 3 Family0 – Charts – Map (2).md, file 3 Family0 – Charts – Map.md"; got != want {
		t.Errorf("%s\nwant %s", got, want)
	}
	e, err := a.Store.EntryByKey(ctx, handout.CopyKey(c.ID, h.ID, 2, packing.Whom{Row: rowOf(c, 0)}))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Things.Write(ctx, "s0", store.NewID(), e.Thing, 1, strings.NewReader("# Log\n\nlow water at noon\n")); err != nil {
		t.Fatal(err)
	}
	apptest.Look(t, a)
	reg, err := a.Cases.Registers.Register(ctx, c.ID)
	if cell := reg.Columns[1].Cells[0]; err != nil || cell.State != progress.Working || cell.Words != 4 ||
		len(cell.Each) != 3 || cell.Entry.Thing != e.Thing {
		t.Errorf("%s with %d words, %d documents, %v", cell.State, cell.Words, len(cell.Each), err)
	}
	panel, err := a.Cases.Registers.Panel(ctx, c.ID, rowOf(c, 0))
	if err != nil || len(panel.Things) != 4 {
		t.Errorf("the panel shows %d things, %v", len(panel.Things), err)
	}
}

// A changed document is given again: to untouched copies at once, to begun ones only
// when that was said, with what was written kept among the versions; who writes
// meanwhile is left.
func TestReissue(t *testing.T) {
	a := apptest.Open(t)
	apptest.People(t, a, 4)
	c := apptest.Class(t, a, apptest.List(3))
	h := hand(t, a, c, handout.Change{}, "Log")
	apptest.Pack(t, a, c, &h)
	tpl, err := a.Store.Template(ctx, h.Settings.Documents[0].Template)
	if err != nil {
		t.Fatal(err)
	}
	write := func(as, thing, text string, base int) {
		t.Helper()
		if _, err := a.Cases.Things.Write(ctx, as, store.NewID(), thing, base, strings.NewReader(text)); err != nil {
			t.Fatal(err)
		}
	}
	copyOf := func(i int) ledger.Entry {
		t.Helper()
		e, err := a.Store.EntryByKey(ctx, handout.CopyKey(c.ID, h.ID, 1, packing.Whom{Row: rowOf(c, i)}))
		if err != nil {
			t.Fatal(err)
		}
		return e
	}
	text := func(i, version int) string {
		t.Helper()
		_, f, _, err := a.Cases.Things.Open(ctx, "oduya", copyOf(i).Thing, version)
		if err != nil {
			t.Fatal(err)
		}
		defer f.Close()
		b, err := io.ReadAll(f)
		if err != nil {
			t.Fatal(err)
		}
		return string(b)
	}
	look := func(untouched, begun int) picture.Copies {
		t.Helper()
		apptest.Look(t, a)
		r, err := a.Cases.Packing.PreviewReissue(ctx, c.ID, h.ID)
		n := 0
		for _, x := range r {
			if x.Begun {
				n++
			}
		}
		if err != nil || n != begun || len(r)-n != untouched {
			t.Fatalf("%d untouched and %d begun have an earlier state, %v; want %d and %d", len(r)-n, n, err, untouched, begun)
		}
		return r
	}
	look(0, 0)
	write("s0", copyOf(0).Thing, "# Log\n\nlow water at noon\n", 1)
	write("oduya", tpl.Thing, "# Log, mended\n", 1)
	r := look(2, 1)
	give := func(begun bool, seen string) ledger.Run {
		t.Helper()
		how := pack.LeaveBegun
		if begun {
			how = pack.ReplaceBegun
		}
		run, err := a.Cases.Packing.Reissue(ctx, "oduya", c.ID, h.ID, how, seen)
		if err != nil {
			t.Fatal(err)
		}
		return apptest.Wait(t, a, run.ID)
	}
	if run := give(false, r.Digest()); run.Packed != 2 || run.Stuck != 0 {
		t.Errorf("%+v", run)
	}
	if text(1, 0) != "# Log, mended\n" || text(2, 1) != "# Log\n" || !strings.Contains(text(0, 0), "low water") {
		t.Errorf("untouched %q, before %q, begun %q", text(1, 0), text(2, 1), text(0, 0))
	}
	r = look(0, 1)
	write("s0", copyOf(0).Thing, "# Log\n\nlow water at noon, high at six\n", 2)
	apptest.Look(t, a)
	if _, err := a.Cases.Packing.Reissue(ctx, "oduya", c.ID, h.ID, pack.ReplaceBegun, r.Digest()); !errors.As(err, new(*change.Changed)) {
		t.Errorf("written in since it was looked at: %v", err)
	}
	give(true, look(0, 1).Digest())
	look(0, 0)
	if text(0, 0) != "# Log, mended\n" || !strings.Contains(text(0, 3), "high at six") || !strings.Contains(text(0, 2), "low water") {
		t.Errorf("now %q, before %q", text(0, 0), text(0, 3))
	}
	reg, err := a.Cases.Registers.Register(ctx, c.ID)
	if err != nil || reg.Columns[1].Cells[0].State == progress.Working || reg.Columns[1].Cells[0].Words != 0 {
		t.Errorf("given anew it counts as begun: %s, %d words, %v", reg.Columns[1].Cells[0].State, reg.Columns[1].Cells[0].Words, err)
	}
	write("s1", copyOf(1).Thing, "# Log, mended\n\nmine now\n", 2)
	apptest.Look(t, a)
	if reg, err = a.Cases.Registers.Register(ctx, c.ID); err != nil || reg.Columns[1].Cells[1].Words != 2 {
		t.Errorf("%d words since it was given anew, %v", reg.Columns[1].Cells[1].Words, err)
	}
	nothingLeft(t, a, c, h, 0)
}

// A handout is withdrawn: untouched copies go to the bin, begun ones only when that was
// said; with it come back the same things, in the same places, with what was written.
func TestWithdraw(t *testing.T) {
	for _, w := range []handout.WayName{handout.EachName, handout.TeamName} {
		a, c := wayClass(t)
		crew := record.Extra("Crew")
		if !c.Vocabulary().Has(crew) {
			crew = record.Team
		}
		h := hand(t, a, c, handout.Change{Way: way(w), Teams: &crew, Out: map[string]string{rowOf(c, 4): handout.SitsOut}}, "Log")
		apptest.Pack(t, a, c, &h)
		first := packing.Whom{Row: rowOf(c, 0)}
		if w == handout.TeamName {
			entries, err := a.Store.Ledger(ctx, c.ID)
			if err != nil {
				t.Fatal(err)
			}
			i := slices.IndexFunc(entries, func(e ledger.Entry) bool { return e.Key.What.Purpose == packing.Copy })
			first = entries[i].Key.Whom
		}
		begun, err := a.Store.EntryByKey(ctx, handout.CopyKey(c.ID, h.ID, 1, first))
		if err != nil {
			t.Fatal(err)
		}
		if _, err := a.Cup.Write(ctx, "oduya", store.NewID(), begun.Thing, 1, strings.NewReader("# Log\n\nmine\n")); err != nil {
			t.Fatal(err)
		}
		apptest.Look(t, a)
		tree := func() string {
			t.Helper()
			apptest.Look(t, a)
			out := ""
			for i := range 4 {
				out += fmt.Sprintf("%d: %s; %s\n", i, inSatchel(t, a, c, i), reaches(t, a, c, fmt.Sprint("s", i)))
			}
			return out
		}
		before := tree()
		for _, too := range []bool{false, true} {
			look, err := a.Cases.Packing.PreviewWithdraw(ctx, c.ID, h.ID)
			if err != nil || len(look) < 2 || !look[len(look)-1].Begun || look[0].Begun {
				t.Fatalf("%s: %+v, %v", w, look, err)
			}
			if _, err := a.Cases.Packing.Withdraw(ctx, "oduya", c.ID, h.ID, too, "other"); !errors.As(err, new(*change.Changed)) {
				t.Errorf("%s: not what was looked at: %v", w, err)
			}
			run, err := a.Cases.Packing.Withdraw(ctx, "oduya", c.ID, h.ID, too, look.Digest())
			if err != nil {
				t.Fatal(err)
			}
			apptest.Wait(t, a, run.ID)
			left := 0
			for _, g := range look {
				if _, err := a.Cup.Get(ctx, "oduya", g.Entry.Thing); err == nil {
					left++
				}
			}
			if kept := btoi(!too); left != kept {
				t.Errorf("%s: %d copies are left, want %d", w, left, kept)
			}
			if too && strings.Contains(tree(), "pointer") {
				t.Errorf("%s: pointers are left: %s", w, tree())
			}
			reg, err := a.Cases.Registers.Register(ctx, c.ID)
			if err != nil || len(reg.Columns) != 1 {
				t.Errorf("%s: the Register shows %d columns, %v", w, len(reg.Columns), err)
			}
			wanted, _, err := a.Cases.Packing.Wanted(ctx, ledger.Run{ClassID: c.ID, HandoutID: h.ID})
			for k := range wanted {
				if err != nil || k.What.Purpose == packing.Copy {
					t.Errorf("%s: a run that goes on would make %s, %v", w, k, err)
				}
			}
			var invalid *change.Invalid
			if _, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, h.ID, pack.Part{}); !errors.As(err, &invalid) || invalid.Code != "withdrawn" {
				t.Errorf("%s: packed while it is withdrawn: %v", w, err)
			}
			if err := a.Cases.Packing.BringBack(ctx, "oduya", c.ID, h.ID); err != nil {
				t.Fatal(err)
			}
			settleAll(t, a)
			if after := tree(); after != before {
				t.Errorf("%s: came back as\n%s\nwas\n%s", w, after, before)
			}
			nothingLeft(t, a, c, h, 0)
		}
		if err := a.Cases.Packing.BringBack(ctx, "oduya", c.ID, h.ID); err == nil {
			t.Errorf("%s: brought back what wasn't withdrawn", w)
		}
	}
}

// Who leaves is out of a team's document that was kept when its handout was withdrawn;
// the others keep it, and the way to it.
func TestLeavesAWithdrawn(t *testing.T) {
	a, c := wayClass(t)
	crew := record.Extra("Crew")
	if !c.Vocabulary().Has(crew) {
		crew = record.Team
	}
	h := hand(t, a, c, handout.Change{Way: way(handout.TeamName), Teams: &crew}, "Log")
	apptest.Pack(t, a, c, &h)
	homes, err := a.Cases.Registers.Home(ctx, "s0")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Things.Write(ctx, "s0", store.NewID(), homes[0].Copies[0].Thing, 1, strings.NewReader("ours")); err != nil {
		t.Fatal(err)
	}
	apptest.Look(t, a)
	look, err := a.Cases.Packing.PreviewWithdraw(ctx, c.ID, h.ID)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Packing.Withdraw(ctx, "oduya", c.ID, h.ID, false, look.Digest()); err != nil {
		t.Fatal(err)
	}
	settleAll(t, a)
	if _, err := a.Cases.Rosters.SetLeft(ctx, "oduya", c.ID, []string{rowOf(c, 0)}, true); err != nil {
		t.Fatal(err)
	}
	settleAll(t, a)
	if got := reaches(t, a, c, "s0"); got != "" {
		t.Errorf("who left reaches %q", got)
	}
	if got := reaches(t, a, c, "s1") + ", " + inSatchel(t, a, c, 1); got != "Gull – Charts.md:edit, pointer Gull – Charts.md" {
		t.Errorf("who stays has %s", got)
	}
	if lingering, err := a.Store.Lingering(ctx, ""); err != nil || len(lingering) != 0 {
		t.Errorf("%v still linger, %v", lingering, err)
	}
}

// Who leaves reaches no copy that a classmate let them into, whatever became of it or its
// handout meanwhile; whose it is keeps it.
func TestLeavesACopyOfAClassmate(t *testing.T) {
	for what, meanwhile := range map[string]func(a *app.App, c picture.Class, h handout.Handout, thing string) error{
		"nothing else": func(*app.App, picture.Class, handout.Handout, string) error { return nil },
		"nobody may be let in any more": func(a *app.App, c picture.Class, h handout.Handout, _ string) error {
			none, was := "nothing", "read"
			_, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Passing: &none}, handout.Change{Passing: &was})
			return err
		},
		"whose it is isn't known": func(a *app.App, _ picture.Class, _ handout.Handout, _ string) error {
			return a.Book.Remove(ctx, []string{"s0"})
		},
		"it lies in the bin": func(a *app.App, _ picture.Class, _ handout.Handout, thing string) error {
			return a.Cup.Bin(ctx, "oduya", store.NewID(), thing, nil)
		},
		"the satchel it lies in is in the bin": func(a *app.App, c picture.Class, _ handout.Handout, _ string) error {
			satchel, err := a.Store.EntryByKey(ctx, room.SatchelKey(c.ID, rowOf(c, 0)))
			if err != nil {
				return err
			}
			return a.Cup.Bin(ctx, "oduya", store.NewID(), satchel.Thing, nil)
		},
	} {
		t.Run(what, func(t *testing.T) {
			t.Parallel()
			a, c := wayClass(t)
			passing := "read"
			h := hand(t, a, c, handout.Change{Passing: &passing}, "Log")
			apptest.Pack(t, a, c, &h)
			e, err := a.Store.EntryByKey(ctx, handout.CopyKey(c.ID, h.ID, 1, packing.Whom{Row: rowOf(c, 0)}))
			if err != nil {
				t.Fatal(err)
			}
			if err := a.Cases.Packing.LetIn(ctx, "s0", h.ID, rowOf(c, 1), true); err != nil {
				t.Fatal(err)
			}
			settleAll(t, a)
			if _, err := a.Cup.Get(ctx, "s1", e.Thing); err != nil {
				t.Fatalf("who was let in: %v", err)
			}
			if err := meanwhile(a, c, h, e.Thing); err != nil {
				t.Fatal(err)
			}
			apptest.Look(t, a)
			if _, err := a.Cases.Rosters.SetLeft(ctx, "oduya", c.ID, []string{rowOf(c, 1)}, true); err != nil {
				t.Fatal(err)
			}
			settleAll(t, a)
			states, err := a.Cup.States(ctx, "oduya", []string{e.Thing})
			if err != nil || states[e.Thing].Rule.Grants["s1"] != access.Nothing || states[e.Thing].Rule.Grants["s0"] != access.Edit {
				t.Errorf("it gives %v, %v", states[e.Thing].Rule.Grants, err)
			}
			runs, err := a.Store.RecentRuns(ctx, c.ID)
			if err != nil {
				t.Fatal(err)
			}
			if err := a.Cases.Leaving.RevokeAll(ctx); err != nil {
				t.Fatal(err)
			}
			if again, err := a.Store.RecentRuns(ctx, c.ID); err != nil || len(again) != len(runs) {
				t.Errorf("closed off again: %d runs after %d, %v", len(again), len(runs), err)
			}
		})
	}
}

func btoi(b bool) int {
	if b {
		return 1
	}
	return 0
}

// What comes back from the bin isn't called as what took its name meanwhile: of a withdrawn
// handout, and of a single copy; the others keep their names.
func TestBackBesideAnother(t *testing.T) {
	for _, w := range []handout.WayName{handout.EachName, handout.ForAllName} {
		a, c := wayClass(t)
		first := hand(t, a, c, handout.Change{Way: way(w)}, "Log")
		second := hand(t, a, c, handout.Change{Way: way(w)}, "Log")
		apptest.Pack(t, a, c, &first)
		before := inSatchel(t, a, c, 0)
		look, err := a.Cases.Packing.PreviewWithdraw(ctx, c.ID, first.ID)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := a.Cases.Packing.Withdraw(ctx, "oduya", c.ID, first.ID, false, look.Digest()); err != nil {
			t.Fatal(err)
		}
		settleAll(t, a)
		apptest.Pack(t, a, c, &second)
		if got := inSatchel(t, a, c, 0); got != before {
			t.Errorf("%s: another is called %s, its name was free: %s", w, got, before)
		}
		if w == handout.EachName { // a copy comes back to anyone who left, too
			if _, err := a.Cases.Rosters.SetLeft(ctx, "oduya", c.ID, []string{rowOf(c, 4)}, true); err != nil {
				t.Fatal(err)
			}
		}
		if err := a.Cases.Packing.BringBack(ctx, "oduya", c.ID, first.ID); err != nil {
			t.Fatal(err)
		}
		settleAll(t, a)
		numbered := strings.Replace(before, ".md", " (2).md", 1)
		for i := range 5 {
			want := strings.ReplaceAll(numbered+", "+before, "Family0", fmt.Sprint("Family", i))
			if got := inSatchel(t, a, c, i); got != want {
				t.Errorf("%s: satchel %d holds %s, want %s", w, i, got, want)
			}
		}
		nothingLeft(t, a, c, first, 0)
		nothingLeft(t, a, c, second, 0)
	}
}

func TestSingleBackBesideAnother(t *testing.T) {
	a, c := wayClass(t)
	first := hand(t, a, c, handout.Change{}, "Log")
	apptest.Pack(t, a, c, &first)
	key := handout.CopyKey(c.ID, first.ID, 1, packing.Whom{Row: rowOf(c, 0)})
	e, err := a.Store.EntryByKey(ctx, key)
	if err != nil {
		t.Fatal(err)
	}
	before := inSatchel(t, a, c, 0)
	if err := a.Cup.Bin(ctx, "oduya", store.NewID(), e.Thing, nil); err != nil {
		t.Fatal(err)
	}
	apptest.Look(t, a)
	second := hand(t, a, c, handout.Change{}, "Log")
	apptest.Pack(t, a, c, &second)
	list, err := a.Cases.Packing.HandoutList(ctx, c.ID, first)
	if err != nil {
		t.Fatal(err)
	}
	part := pack.Part{Seen: list.Digest()}
	part.Back = []string{key.String()}
	run, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, first.ID, part)
	if err != nil {
		t.Fatal(err)
	}
	apptest.Wait(t, a, run.ID)
	if got, want := inSatchel(t, a, c, 0), strings.Replace(before, ".md", " (2).md", 1)+", "+before; got != want {
		t.Errorf("the satchel holds %s, want %s", got, want)
	}
	nothingLeft(t, a, c, first, 0)
	nothingLeft(t, a, c, second, 0)
}

// Begun is one notion wherever it is asked: who kept a copy as it was handed out hasn't begun,
// and what was written a moment ago, and nobody measured yet, is begun.
func TestBegunEverywhere(t *testing.T) {
	a, c := wayClass(t)
	h := hand(t, a, c, handout.Change{}, "Log")
	run := apptest.Pack(t, a, c, &h)
	copyOf := func(i int) ledger.Entry {
		t.Helper()
		e, err := a.Store.EntryByKey(ctx, handout.CopyKey(c.ID, h.ID, 1, packing.Whom{Row: rowOf(c, i)}))
		if err != nil {
			t.Fatal(err)
		}
		return e
	}
	write := func(i int, text string) {
		t.Helper()
		if _, err := a.Cup.Write(ctx, fmt.Sprint("s", i), store.NewID(), copyOf(i).Thing, 1, strings.NewReader(text)); err != nil {
			t.Fatal(err)
		}
	}
	write(0, "# Log\n\nlow water at noon\n")
	write(1, "# Log\n") // kept, and nothing else
	apptest.Look(t, a)
	begun := func(of picture.Copies, err error) string {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, x := range of {
			if x.Begun {
				out = append(out, x.Name)
			}
		}
		return strings.Join(out, "; ")
	}
	reg, err := a.Cases.Registers.Register(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	var working []string
	for i, cell := range reg.Columns[1].Cells {
		if cell.State == progress.Working {
			working = append(working, c.Students[i].SortName())
		}
	}
	first := c.Students[0].SortName()
	if got := strings.Join(working, "; "); got != first {
		t.Errorf("in the Register %s work, want %s", got, first)
	}
	if got := begun(a.Cases.Packing.PreviewWithdraw(ctx, c.ID, h.ID)); got != first {
		t.Errorf("to withdraw, begun are %s, want %s", got, first)
	}
	tpl, err := a.Store.Template(ctx, h.Settings.Documents[0].Template)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cup.Write(ctx, "oduya", store.NewID(), tpl.Thing, 1, strings.NewReader("# Log, mended\n")); err != nil {
		t.Fatal(err)
	}
	if got := begun(a.Cases.Packing.PreviewReissue(ctx, c.ID, h.ID)); got != first {
		t.Errorf("to give again, begun are %s, want %s", got, first)
	}
	back, err := a.Cases.Packing.TakingBack(ctx, c.ID, run.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, l := range back.Lines {
		if held := l.Reason != nil && l.Reason.Code == "begun"; held != (l.Entry.Thing == copyOf(0).Thing) {
			t.Errorf("taken back: %s: %+v", l.Name, l.Reason)
		}
	}
	for i, want := range []bool{true, false, false} {
		homes, err := a.Cases.Registers.Home(ctx, fmt.Sprint("s", i))
		if err != nil || homes[0].Copies[0].Work.Begun != want {
			t.Errorf("at s%d's: begun %v, want %v: %v", i, homes[0].Copies[0].Work.Begun, want, err)
		}
	}

	// What isn't measured: the observer saw the new version, and hasn't read it.
	if _, err := a.Store.DB.Exec(`delete from work where thing = $1`, copyOf(1).Thing); err != nil {
		t.Fatal(err)
	}
	if got, want := begun(a.Cases.Packing.PreviewWithdraw(ctx, c.ID, h.ID)), first+"; "+c.Students[1].SortName(); got != want {
		t.Errorf("not measured: begun are %s, want %s", got, want)
	}
}

// Anyone who begins once a packing was taken back, before its lines are done, keeps what they
// write where it is, with the folders it is in; what the others were given goes.
func TestTakenBackBesideAWriter(t *testing.T) {
	a, c := wayClass(t)
	h := hand(t, a, c, handout.Change{}, "Log")
	first := apptest.Pack(t, a, c, &h) // it makes the satchels too
	apptest.Look(t, a)
	back, err := a.Cases.Packing.TakingBack(ctx, c.ID, first.ID)
	if err != nil || back.Held > 0 {
		t.Fatal(back.Held, err)
	}
	taken, err := a.Cases.Packing.TakeBack(ctx, "oduya", c.ID, first.ID, len(back.Lines))
	if err != nil {
		t.Fatal(err)
	}
	writer := rowOf(c, 1)
	mine, err := a.Store.EntryByKey(ctx, handout.CopyKey(c.ID, h.ID, 1, packing.Whom{Row: writer}))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Things.Write(ctx, "s1", store.NewID(), mine.Thing, 1, strings.NewReader("# Log\n\nlow water at noon\n")); err != nil {
		t.Fatal(err)
	}
	apptest.Wait(t, a, taken.ID)
	for _, l := range back.Lines {
		k := l.Entry.Key
		states, err := a.Cup.States(ctx, "oduya", []string{l.Entry.Thing})
		if err != nil {
			t.Fatal(err)
		}
		above := []packing.Purpose{packing.ClassFolder, packing.Cloakroom}
		stays := k.Whom.Row == writer || slices.Contains(above, k.What.Purpose)
		if want := map[bool]ledger.Place{true: ledger.Lies, false: ledger.InBin}[stays]; states[l.Entry.Thing].Place != want {
			t.Errorf("%s is %s, want %s", k, states[l.Entry.Thing].Place, want)
		}
	}
	if _, v, err := a.Cup.Open(ctx, "s1", mine.Thing, 0); err != nil || v.Number != 2 {
		t.Errorf("the writer reads version %d: %v", v.Number, err)
	}
}
