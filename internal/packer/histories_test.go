package packer_test

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/doorcheck"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/pack"
	"jollysatchel/internal/usecase/seam"
)

// A history is a class to which all sorts of things happen, by chance.
type history struct {
	t     *testing.T
	a     *app.App
	r     *rand.Rand
	class string
	log   []string
	added int                 // students of the school who joined so far
	guest map[string]bool     // things that amaral was let into
	texts map[string][]string // what students wrote, by the thing they wrote it in
}

func (h *history) load() picture.Class { return apptest.Load(h.t, h.a, h.class) }

func (h *history) fatal(format string, args ...any) {
	h.t.Helper()
	for _, line := range h.log {
		h.t.Log(line)
	}
	h.t.Fatalf(format, args...)
}

// some returns a random entry of the ledger whose thing is there, of a purpose.
func (h *history) some(purposes ...packing.Purpose) (ledger.Entry, bool) {
	all, err := h.a.Store.Ledger(ctx, h.class)
	if err != nil {
		h.fatal("%v", err)
	}
	all = slices.DeleteFunc(all, func(e ledger.Entry) bool { return !slices.Contains(purposes, e.Key.What.Purpose) })
	if len(all) == 0 {
		return ledger.Entry{}, false
	}
	return all[h.r.IntN(len(all))], true
}

func (h *history) edit(field record.Field, value string) error {
	c := h.load()
	if len(c.Students) == 0 {
		return nil
	}
	_, err := h.a.Cases.Rosters.EditRoster(ctx, "oduya", h.class,
		[]classes.Edit{{Row: c.Students[h.r.IntN(len(c.Students))].ID, Field: field, Value: value}})
	return err
}

func (h *history) room(change func(plan room.Plan, ch *room.Change)) error {
	var ch room.Change
	change(h.load().Plan, &ch)
	return h.a.Cases.Rooms.ChangeRoom(ctx, "oduya", h.class, ch)
}

func anyOf[T any](r *rand.Rand, all []T) (x T, ok bool) {
	if len(all) == 0 {
		return x, false
	}
	return all[r.IntN(len(all))], true
}

// happenings are what can happen to a class: by its teacher, by the list, and in
// the cupboard behind our back.
func (h *history) happenings() map[string]func() error {
	r := h.r
	key := func() string { return store.NewID() }
	return map[string]func() error{
		"a student joins": func() error {
			if h.added >= 12 {
				return nil
			}
			i := h.added
			h.added++
			_, err := h.a.Cases.Rosters.AddStudents(ctx, "oduya", h.class,
				[]record.Record{{Family: fmt.Sprint("Family", i), Given: fmt.Sprint("Given", i),
					Address: fmt.Sprintf("s%d@kestrelquay.example", i), Period: "3", Team: "Gull"}})
			return err
		},
		"a student leaves": func() error {
			c := h.load()
			if len(c.Students) < 3 {
				return nil
			}
			_, err := h.a.Cases.Rosters.SetLeft(ctx, "oduya", h.class, []string{c.Students[r.IntN(len(c.Students))].ID}, true)
			return err
		},
		"a student returns": func() error {
			if st, ok := anyOf(r, h.load().Left); ok {
				_, err := h.a.Cases.Rosters.SetLeft(ctx, "oduya", h.class, []string{st.ID}, false)
				return err
			}
			return nil
		},
		"a name changes":   func() error { return h.edit(record.Family, fmt.Sprint("Renamed", r.IntN(3))) },
		"a period changes": func() error { return h.edit(record.Period, fmt.Sprint(r.IntN(3))) },
		"a team changes":   func() error { return h.edit(record.Team, []string{"Gull", "Tern", "Auk", ""}[r.IntN(4)]) },
		"a place comes": func() error {
			return h.room(func(_ room.Plan, ch *room.Change) {
				whom := []room.For{room.ForClass, room.ForTeam, room.ForStudent, room.ForStaff}[r.IntN(4)]
				level, name, under := []string{"read", "comment", "edit"}[r.IntN(3)], fmt.Sprint("Place ", r.IntN(1000)), ""
				if r.IntN(2) == 0 {
					under = room.Drawer
				}
				ch.Places.Add = []room.PlaceParts{{Name: &name, For: &whom, Level: &level, Under: &under}}
			})
		},
		"a place goes": func() error {
			return h.room(func(p room.Plan, ch *room.Change) {
				if x, ok := anyOf(r, p.AllPlaces()); ok && !x.Needed() {
					ch.Places.Remove = []string{x.ID}
				}
			})
		},
		"a place changes": func() error {
			return h.room(func(p room.Plan, ch *room.Change) {
				if x, ok := anyOf(r, p.AllPlaces()); ok && !x.Needed() {
					name, under, level := fmt.Sprint("Other ", r.IntN(1000)), []string{"", room.Drawer}[r.IntN(2)],
						[]string{"read", "comment", "edit"}[r.IntN(3)]
					ch.Places.Change = []room.PlaceChange{{ID: x.ID, To: room.PlaceParts{Name: &name, Under: &under, Level: &level}}}
				}
			})
		},
		"pockets come and go": func() error {
			return h.room(func(p room.Plan, ch *room.Change) {
				if x, ok := anyOf(r, p.Pockets); ok && r.IntN(2) == 0 {
					ch.Pockets.Remove = []string{x.ID}
				} else {
					ch.Pockets.Add = []string{fmt.Sprint("Pocket ", r.IntN(1000))}
				}
			})
		},
		"satchels stand by period, or not": func() error {
			return h.room(func(p room.Plan, ch *room.Change) {
				within := []naming.Pattern{{{Text: "Period "}, {Column: record.Period}}}
				if len(p.Within) > 0 {
					within = nil
				}
				ch.To.Within = &within
			})
		},
		"the class's folder moves": func() error {
			return h.room(func(p room.Plan, ch *room.Change) {
				path := []naming.Pattern{{{Column: record.SchoolYear}}, {{Text: fmt.Sprint("Shelf ", r.IntN(2))}}}
				ch.To.Path = &path
			})
		},
		"satchels are called otherwise": func() error {
			return h.room(func(p room.Plan, ch *room.Change) {
				pattern := naming.Pattern{{Column: []record.Field{record.Given, record.Family, record.Number}[r.IntN(3)]}}
				ch.To.Satchel = &pattern
			})
		},
		"a thing is renamed behind our back": func() error {
			if e, ok := h.some(packing.Satchel, packing.Place, packing.Shelf, packing.Copy); ok {
				return h.a.Cup.Rename(ctx, "oduya", key(), e.Thing, fmt.Sprint("Mine ", r.IntN(100)))
			}
			return nil
		},
		"a thing is binned behind our back": func() error {
			if e, ok := h.some(packing.Satchel, packing.Pocket, packing.Place, packing.Table, packing.Copy); ok {
				return h.a.Cup.Bin(ctx, "oduya", key(), e.Thing, nil)
			}
			return nil
		},
		"a thing ends behind our back": func() error {
			if e, ok := h.some(packing.Satchel, packing.Pocket, packing.Place, packing.Copy); ok {
				return h.a.Cup.Remove(ctx, "oduya", key(), e.Thing)
			}
			return nil
		},
		"a thing is moved behind our back": func() error {
			e, ok := h.some(packing.Copy, packing.Pocket)
			drawer, err := h.a.Store.EntryByKey(ctx, packing.Key{Class: h.class, What: packing.What{Purpose: packing.Drawer}})
			if !ok || err != nil {
				return nil
			}
			return h.a.Cup.Move(ctx, "oduya", key(), e.Thing, drawer.Thing)
		},
		"somebody else is let in": func() error {
			e, ok := h.some(packing.Shelf, packing.Place, packing.Satchel)
			if !ok {
				return nil
			}
			err := h.a.Cup.Share(ctx, "oduya", key(), e.Thing, map[string]access.Level{"amaral": access.Comment})
			if err == nil {
				h.guest[e.Thing] = true // no list takes away what it didn't give
			}
			return err
		},
		"a level changes": func() error { return h.edit(record.Level, []string{"A", "B", "C", ""}[r.IntN(4)]) },
		"a handout changes": func() error {
			all, err := h.a.Store.Handouts(ctx, h.class)
			if err != nil {
				return err
			}
			x, _ := anyOf(r, all)
			var ch handout.Change
			switch c := h.load(); r.IntN(5) {
			case 4:
				mates := []string{"nothing", "read", "comment"}[r.IntN(3)]
				ch.Classmates = &mates
				if pass := []string{"nothing", "read", "edit"}[r.IntN(3)]; pass != "edit" || x.Settings.Level == "edit" {
					ch.Passing = &pass
				}
			case 0:
				pocket := ""
				if p, ok := anyOf(r, c.Plan.Pockets); ok {
					pocket = p.ID
				}
				ch.Pocket = &pocket
			case 1:
				level := []string{"read", "comment", "edit"}[r.IntN(3)]
				ch.Level = &level
			case 2:
				more := append(slices.Clone(x.Settings.Documents), handout.GivenDocument{Template: x.Settings.Documents[0].Template, For: "C"})
				if len(more) > 3 {
					return nil
				}
				ch.Documents = &more
			default:
				if st, ok := anyOf(r, c.Students); ok {
					ch.Out = map[string]string{st.ID: []string{"sits-out", ""}[r.IntN(2)]}
				}
			}
			_, err = h.a.Cases.Handouts.ChangeHandout(ctx, "oduya", h.class, x.ID, ch, handout.Change{})
			return err
		},
		"a classmate is let in, or out": func() error {
			x, ok := anyOf(r, h.packed(false))
			c := h.load()
			me, there := anyOf(r, c.Students)
			mate, other := anyOf(r, c.Students)
			if !ok || !there || !other || me.Account == "" {
				return nil
			}
			err := h.a.Cases.Packing.LetIn(ctx, me.Account, x.ID, mate.ID, r.IntN(3) > 0)
			settleAll(h.t, h.a)
			if errors.Is(err, seam.ErrNotFound) {
				return nil // it isn't let, or it is oneself
			}
			return err
		},
		"a handout is withdrawn, or comes back": func() error {
			x, ok := anyOf(r, h.packed(false))
			if back, there := anyOf(r, h.packed(true)); there && (!ok || r.IntN(2) == 0) {
				err := h.a.Cases.Packing.BringBack(ctx, "oduya", h.class, back.ID)
				settleAll(h.t, h.a)
				return err
			}
			if !ok {
				return nil
			}
			look, err := h.a.Cases.Packing.PreviewWithdraw(ctx, h.class, x.ID)
			if err == nil {
				_, err = h.a.Cases.Packing.Withdraw(ctx, "oduya", h.class, x.ID, r.IntN(2) == 0, look.Digest())
			}
			settleAll(h.t, h.a)
			return err
		},
		"a document changes and is given again": func() error {
			x, ok := anyOf(r, h.packed(false))
			if !ok {
				return nil
			}
			tpl, err := h.a.Store.Template(ctx, x.Settings.Documents[0].Template)
			if err != nil {
				return err
			}
			versions, err := h.a.Cup.Versions(ctx, "oduya", tpl.Thing)
			if err != nil {
				return err
			}
			if _, err := h.a.Cases.Things.Write(ctx, "oduya", key(), tpl.Thing, versions[0].Number,
				strings.NewReader(fmt.Sprintf("# State %d of [Title] for [Family name]\n", r.IntN(1000)))); err != nil {
				return err
			}
			apptest.Look(h.t, h.a)
			look, err := h.a.Cases.Packing.PreviewReissue(ctx, h.class, x.ID)
			if err == nil {
				_, err = h.a.Cases.Packing.Reissue(ctx, "oduya", h.class, x.ID,
					[]pack.BegunCopy{pack.LeaveBegun, pack.ReplaceBegun, pack.BesideBegun}[r.IntN(3)], look.Digest())
			}
			settleAll(h.t, h.a)
			return err
		},
		"a student writes": func() error {
			e, ok := h.some(packing.Copy)
			if !ok {
				return nil
			}
			for who, l := range e.Granted {
				versions, err := h.a.Cup.Versions(ctx, who, e.Thing)
				if l < access.Edit || err != nil {
					continue
				}
				text := fmt.Sprintf("written %d\n", r.IntN(1_000_000))
				_, err = h.a.Cases.Things.Write(ctx, who, key(), e.Thing, versions[0].Number, strings.NewReader(text))
				if err == nil {
					h.texts[e.Thing] = append(h.texts[e.Thing], text)
				}
				return err
			}
			return nil
		},
		"pens are down, or up": func() error {
			x, ok := anyOf(r, h.packed(false))
			if !ok {
				return nil
			}
			var rows []string
			if st, ok := anyOf(r, h.load().Students); ok && r.IntN(2) == 0 {
				rows = []string{st.ID}
			}
			return errors.Join(h.a.Cases.Handouts.SayPens(ctx, "oduya", h.class, x.ID, rows, r.IntN(3) > 0), h.marked())
		},
		"a place is closed, or opened": func() error {
			c := h.load()
			p, ok := anyOf(r, c.Plan.AllPlaces())
			if !ok || !p.Written() {
				return nil
			}
			var rows []string
			if st, ok := anyOf(r, c.Students); ok && p.For == room.ForStudent && r.IntN(2) == 0 {
				rows = []string{st.ID}
			}
			return errors.Join(h.a.Cases.Rooms.SayPens(ctx, "oduya", h.class, p.ID, rows, r.IntN(3) > 0), h.marked())
		},
		"a student puts something in": func() error {
			e, ok := h.some(packing.Satchel)
			if !ok {
				return nil
			}
			c := h.load()
			if st, in := c.Student(e.Key.Whom.Row); in && st.Account != "" {
				_, err := h.a.Cup.MakeFolder(ctx, st.Account, key(), cupboard.NewThing{Parent: e.Thing, Name: "Own"})
				return err
			}
			return nil
		},
	}
}

// marked has the cupboard told what is closed, now and then.
func (h *history) marked() error {
	if h.r.IntN(3) == 0 {
		return nil
	}
	err := h.a.Cases.Packing.KeepMarks(ctx)
	settleAll(h.t, h.a)
	return err
}

// packed are the handouts that were packed and not withdrawn, or those that were.
func (h *history) packed(withdrawn bool) []handout.Handout {
	all, err := h.a.Store.Handouts(ctx, h.class)
	if err != nil {
		h.fatal("%v", err)
	}
	return slices.DeleteFunc(all, func(x handout.Handout) bool { return !x.Fixed() || x.Withdrawn() != withdrawn })
}

// kept checks that whatever was written is among the versions of what is still there, or
// in the bin.
func (h *history) kept() {
	for thing, texts := range h.texts {
		states, err := h.a.Cup.States(ctx, "oduya", []string{thing})
		if err != nil {
			h.fatal("%v", err)
		}
		if states[thing].Place != ledger.Lies { // nobody reads what is in the bin
			continue
		}
		versions, err := h.a.Cup.Versions(ctx, "oduya", thing)
		if err != nil {
			h.fatal("%v", err)
		}
		there := map[string]bool{}
		for _, v := range versions {
			there[v.SHA] = true
		}
		for _, text := range texts {
			if sum := sha256.Sum256([]byte(text)); !there[hex.EncodeToString(sum[:])] {
				h.fatal("%q isn't among the %d versions of %s any more", text, len(versions), thing)
			}
		}
	}
}

// everything packs all lists of the class as a teacher would who says yes to all
// that is offered: brings back what is in the bin, makes again what is gone. It
// returns what is left.
func (h *history) everything() []packing.Line {
	handouts, err := h.a.Store.Handouts(ctx, h.class)
	if err != nil {
		h.fatal("%v", err)
	}
	subjects := []string{""}
	for _, x := range handouts {
		if x.Packed() {
			subjects = append(subjects, x.ID)
		}
	}
	list := func(subject string) packing.List {
		apptest.Look(h.t, h.a)
		var l packing.List
		var err error
		if subject == "" {
			l, err = h.a.Cases.Packing.RoomList(ctx, h.class)
		} else {
			x, e := h.a.Store.Handout(ctx, h.class, subject)
			if e != nil {
				h.fatal("%v", e)
			}
			l, err = h.a.Cases.Packing.HandoutList(ctx, h.class, x)
		}
		if err != nil {
			h.fatal("%v", err)
		}
		return l
	}
	var left []packing.Line
	for range 3 { // what was brought back or made again can want something itself
		left = nil
		for _, subject := range subjects {
			l := list(subject)
			part := pack.Part{Seen: l.Digest()}
			for _, line := range l.Lines {
				switch {
				case line.Section == packing.ToChange:
					part.Changes = append(part.Changes, line.Step.String())
				case slices.Contains(line.Remedies, packing.BringBack):
					part.Back = append(part.Back, line.Wanted.Key.String())
				case slices.Contains(line.Remedies, packing.MakeAnew):
					part.Anew = append(part.Anew, line.Wanted.Key.String())
				}
			}
			run, err := h.a.Cases.Packing.Pack(ctx, "oduya", h.class, subject, part)
			var nothing *change.Invalid
			if errors.As(err, &nothing) {
				continue
			}
			if err != nil {
				h.fatal("packing %q: %v", subject, err)
			}
			if run = apptest.Wait(h.t, h.a, run.ID); run.Stuck > 0 {
				steps, _ := h.a.Store.Steps(ctx, run.ID)
				for _, st := range steps {
					if st.State == packing.Stuck {
						h.log = append(h.log, fmt.Sprintf("stuck: %s %+v", st.StepKey, st.Reason))
					}
				}
			}
		}
		for _, subject := range subjects {
			for _, line := range list(subject).Lines {
				if line.Section != packing.AlreadyThere && line.Section != packing.LeftOut && !unsaid(line) {
					left = append(left, line)
				}
			}
		}
		if len(left) == 0 {
			break
		}
	}
	return left
}

// unsaid reports a line of a student whose row doesn't say what a handout goes by: that
// is the teacher's to mend.
func unsaid(l packing.Line) bool {
	return l.Reason != nil && slices.Contains([]string{packing.LevelNone, packing.LevelUnmapped, packing.TeamNone}, l.Reason.Code)
}

// asSaid checks that everybody reaches exactly what the plan says: the cupboard's
// own answers against the rules put to the things wanted.
func (h *history) asSaid() {
	h.reached(func(got, want access.Level) bool { return got == want })
}

// noMore checks that nobody reaches more than that.
func (h *history) noMore() {
	h.reached(func(got, want access.Level) bool { return got <= want })
}

func (h *history) reached(right func(got, want access.Level) bool) {
	c := h.load()
	for _, said := range c.Pens {
		if said.All != nil && said.All.Down || len(said.Rows) > 0 {
			return // a copy may lie elsewhere: the door check knows
		}
	}
	tree := map[packing.Key]ledger.Entry{}
	entries, err := h.a.Store.Ledger(ctx, h.class)
	if err != nil {
		h.fatal("%v", err)
	}
	for _, e := range entries {
		tree[e.Key] = e
	}
	run := ledger.Run{ClassID: h.class}
	wanted, _, err := h.a.Cases.Packing.Wanted(ctx, run)
	if err != nil {
		h.fatal("%v", err)
	}
	world := packing.World(wanted)
	people := []string{"oduya", "lindqvist", "stranger", "amaral"}
	for i := range 12 {
		people = append(people, fmt.Sprint("s", i))
	}
	for key, w := range world {
		if w.Problem != nil {
			continue
		}
		e, there := tree[key]
		if !there {
			if !right(access.Nothing, access.Owner) {
				h.fatal("%s is wanted and was never made", key)
			}
			continue
		}
		chain, up := world.Chain(key), key
		chain[0].Closed = w.Closed
		for i := range chain {
			if h.guest[tree[up].Thing] {
				rule := access.Rule{Grants: map[string]access.Level{"amaral": access.Comment}, StandsAlone: chain[i].Rule.StandsAlone}
				maps.Copy(rule.Grants, chain[i].Rule.Grants)
				chain[i].Rule = rule
			}
			up = world[up].Parent
		}
		for _, who := range people {
			want := access.Effective(who, chain, clock.System()).Level
			t, err := h.a.Cup.Get(ctx, who, e.Thing)
			if errors.Is(err, cupboard.ErrNotFound) {
				t.Level = access.Nothing
			} else if err != nil {
				h.fatal("%v", err)
			}
			if !right(t.Level, want) {
				h.fatal("%s has %v on %s (%s), want %v", who, t.Level, key, e.Name, want)
			}
		}
	}
	seen := map[string]bool{}
	for _, st := range c.Students {
		if seen[st.ID] {
			h.fatal("%s stands twice", st.ID)
		}
		seen[st.ID] = true
	}
}

// Whatever happens to a class, what is packed after it is complete: a full run
// leaves nothing to pack or to change, and everybody reaches exactly what the
// rules say of what is wanted. A failure prints the seed that makes it again
// (HISTORY_SEED); HISTORIES is how many are tried.
func TestHistories(t *testing.T) {
	seed, rounds := seeded("HISTORIES"), often("HISTORIES", 2)
	for round := range rounds {
		t.Run(fmt.Sprint(round), func(t *testing.T) {
			t.Parallel()
			happen(t, seed, round)
		})
	}
}

// happen has a class go through a history, and everything packed again and again.
func happen(t *testing.T, seed uint64, round int) {
	a := apptest.Open(t)
	apptest.People(t, a, 12)
	c := apptest.Class(t, a, apptest.List(5))
	h := &history{t: t, a: a, r: rand.New(rand.NewPCG(seed, uint64(round))), class: c.ID, added: 5,
		guest: map[string]bool{}, texts: map[string][]string{}, log: []string{fmt.Sprintf("HISTORY_SEED=%d, round %d", seed, round)}}
	apptest.Pack(t, a, c, nil)
	log := apptest.Handout(t, a, c, "# Log\n")
	apptest.Pack(t, a, c, &log)
	for _, w := range []handout.WayName{handout.LevelName, handout.TeamName, handout.ForAllName} {
		x := hand(t, a, c, handout.Change{Way: way(w)}, "One:A", "Two:B")
		if _, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, x.ID, pack.Part{}); err != nil {
			t.Fatal(err)
		}
		settleAll(t, a)
	}
	acts := h.happenings()
	names := make([]string, 0, len(acts))
	for name := range acts {
		names = append(names, name)
	}
	slices.Sort(names)
	for range 6 {
		for range 1 + h.r.IntN(4) {
			name := names[h.r.IntN(len(names))]
			err := acts[name]()
			h.log = append(h.log, fmt.Sprintf("%s: %v", name, err))
		}
		if left := h.everything(); len(left) > 0 {
			for _, l := range left {
				h.log = append(h.log, fmt.Sprintf("left: %s %s %s %+v %v", l.Section, l.Step, l.Wanted.Name, l.Reason, l.Remedies))
			}
			h.fatal("%d lines are left after everything was packed", len(left))
		}
		for range 2 { // what a line is under way with waits for that
			if err := h.a.Cases.Packing.KeepMarks(ctx); err != nil {
				h.fatal("%v", err)
			}
			settleAll(t, a)
		}
		h.asSaid()
		h.kept()
		h.doors()
		h.log = append(h.log, "— all packed")
	}
	h.mended()
}

// doors checks that a door check finds what was done behind our back and a list leaves alone, and
// nothing else: whom somebody let in by hand, what they call a thing, and where they put a copy.
func (h *history) doors() (lines []doorcheck.Line) {
	apptest.Look(h.t, h.a)
	r, err := h.a.Cases.Doors.Check(ctx, "oduya", h.class)
	if err != nil {
		h.fatal("%v", err)
	}
	for _, l := range r.Result.Lines {
		switch {
		case l.Kind == doorcheck.Extra && h.guest[l.Thing] && slices.Equal(l.Who, []string{"amaral"}):
		case l.Kind != doorcheck.Renamed && l.Kind != doorcheck.Moved:
			h.fatal("the door check finds %+v", l)
		}
	}
	if len(r.Result.Wrong) > 0 {
		h.fatal("tried: %+v", r.Result.Wrong)
	}
	return r.Result.Lines
}

// mended has all that the door check finds put right: then it finds nothing.
func (h *history) mended() {
	settleAll(h.t, h.a) // a line under way is passed by
	var ids []string
	for _, l := range h.doors() {
		ids = append(ids, l.ID)
	}
	if len(ids) > 0 {
		run, err := h.a.Cases.Doors.Mend(ctx, "oduya", h.class, ids)
		if err != nil {
			h.fatal("%v", err)
		}
		if run = apptest.Wait(h.t, h.a, run.ID); run.Stuck+run.Passed > 0 {
			h.fatal("mending ended %+v", run)
		}
	}
	h.guest = map[string]bool{}
	if lines := h.doors(); len(lines) > 0 {
		h.fatal("mended, the door check finds %+v", lines)
	}
	h.asSaid()
}
