package usecase_test

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/doorcheck"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/usecase/seam"
)

// A pupil is a student of a class who does what students do with what they have.
type pupil struct {
	t       *testing.T
	a       *app.App
	r       *rand.Rand
	account string
	mate    string // row of a classmate
	handout string
	satchel string
	places  []string // where things are tried to be put
	own     []string // ids of what they made
	copies  []string
	keys    int
}

func (p *pupil) key() string {
	p.keys++
	return fmt.Sprint(p.account, "-", p.keys)
}

// any is one of some ids.
func (p *pupil) any(ids []string) string { return ids[p.r.IntN(len(ids))] }

// acts are those of a student, each on something of theirs; what is refused is refused.
var pupilActs = map[string]func(p *pupil) error{
	"makes": func(p *pupil) error {
		in := p.any(append([]string{p.satchel}, p.own...))
		if p.r.IntN(2) == 0 {
			f, err := p.a.Cases.Things.MakeFolder(ctx, p.account, p.key(), in, fmt.Sprint("Mine ", p.keys))
			if err == nil {
				p.own = append(p.own, f.ID)
			}
			return err
		}
		f, err := p.a.Cases.Things.AddFile(ctx, p.account, p.key(), in, fmt.Sprint("note ", p.keys, ".md"), "text/markdown", strings.NewReader("mine"))
		if err == nil {
			p.own = append(p.own, f.ID)
		}
		return err
	},
	"moves": func(p *pupil) error {
		return p.a.Cases.Things.Move(ctx, p.account, p.key(), []string{p.any(append(slices.Clone(p.copies), p.own...))},
			p.any(append(slices.Clone(p.places), p.own...)))
	},
	"bins": func(p *pupil) error {
		return p.a.Cases.Things.Bin(ctx, p.account, p.key(), []string{p.any(append(slices.Clone(p.own), p.copies...))}, 0)
	},
	"restores": func(p *pupil) error {
		bin, err := p.a.Cases.Things.Binned(ctx, p.account)
		if err != nil || len(bin) == 0 {
			return err
		}
		return p.a.Cases.Things.Restore(ctx, p.account, p.key(), bin[p.r.IntN(len(bin))].ID)
	},
	"renames": func(p *pupil) error {
		return p.a.Cases.Things.Rename(ctx, p.account, p.key(), p.any(append(append([]string{p.satchel}, p.own...), p.copies...)),
			fmt.Sprint("Called ", p.keys))
	},
	"lets in": func(p *pupil) error {
		return p.a.Cases.Packing.LetIn(ctx, p.account, p.handout, p.mate, p.r.IntN(3) > 0)
	},
}

// refusedByRule reports an act that the program said no to, in words.
func refusedByRule(err error) bool {
	var invalid *change.Invalid
	var changed *change.Changed
	var inside *cupboard.Refused
	return errors.As(err, &invalid) || errors.As(err, &changed) || errors.As(err, &inside) || errors.Is(err, seam.ErrNotFound) ||
		errors.Is(err, cupboard.ErrNoRight) || errors.Is(err, cupboard.ErrWaits)
}

// What a student makes, moves or brings back of a class stays within its staff's reach, whatever they
// do, in every order of three acts: each is somewhere in the class's tree or in a bin, staff reach what
// lies, the door check finds nothing, and no act fails without being refused.
func TestStaffNeverLoseSight(t *testing.T) {
	names := []string{"makes", "moves", "bins", "restores", "renames", "lets in"}
	a := apptest.Open(t)
	n := len(names) * len(names) // who go on from one order to another
	apptest.People(t, a, n+1)
	c := apptest.Class(t, a, apptest.List(n))
	if err := a.Store.AddStaff(ctx, classes.Member{ClassID: c.ID, Account: "lindqvist", Role: classes.Teacher}); err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.Rooms.ChangeRoom(ctx, "oduya", c.ID, addPockets("Field work")); err != nil {
		t.Fatal(err)
	}
	apptest.Pack(t, a, c, nil)
	h := apptest.Handout(t, a, c, "# Log\n")
	h, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Passing: ptr("edit")}, handout.Change{})
	if err != nil {
		t.Fatal(err)
	}
	apptest.Pack(t, a, c, &h)
	s, err := a.Cases.Packing.PictureNow(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	all := make([]*pupil, n)
	for i := range all {
		all[i] = pupilOf(t, a, s, h, i)
	}
	i := 0
	for _, first := range names {
		for _, second := range names {
			for _, third := range names {
				p := all[i%n]
				for _, act := range []string{"makes", first, second, third} {
					if err := pupilActs[act](p); err != nil && !refusedByRule(err) {
						t.Errorf("%s, %s, %s: %s: %v", first, second, third, act, err)
					}
				}
				i++
			}
		}
	}
	rest(t, a, c)
	inSight(t, a, c, all)
}

// pupilOf is the student of a row, by number, with their satchel, a copy and places to put things.
func pupilOf(t *testing.T, a *app.App, s *picture.Picture, h handout.Handout, i int) *pupil {
	t.Helper()
	row := func(i int) string { return s.Students[i%len(s.Students)].ID }
	p := &pupil{t: t, a: a, r: rand.New(rand.NewPCG(uint64(i), 10)), account: s.Students[i].Account, mate: row(i + 1), handout: h.ID,
		satchel: s.Entries[room.SatchelKey(s.ID, row(i))].Thing,
		copies: []string{s.Entries[packing.Key{Class: s.ID, What: packing.What{Purpose: packing.Copy, ID: h.ID, Slot: 1},
			Whom: packing.Whom{Row: row(i)}}].Thing}}
	p.places = []string{p.satchel, "", s.Entries[s.Room.Key(packing.Table)].Thing, s.Entries[s.Room.Key(packing.Shelf)].Thing,
		s.Entries[room.SatchelKey(s.ID, p.mate)].Thing, p.copies[0]}
	private, err := a.Cases.Things.MakeFolder(ctx, p.account, p.key(), "", "At home")
	if err == nil {
		p.places = append(p.places, private.ID)
	} else if !refusedByRule(err) {
		t.Fatal(err)
	}
	return p
}

// inSight checks that staff reach all that students have of a class.
func inSight(t *testing.T, a *app.App, c picture.Class, all []*pupil) {
	t.Helper()
	r, err := a.Cases.Doors.Check(ctx, "oduya", c.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, l := range r.Result.Lines {
		if l.Kind != doorcheck.Renamed {
			t.Errorf("the door check finds %s of %s: %v", l.Kind, l.Name, l.Who)
		}
	}
	done := map[string]int{}
	for _, p := range all {
		binned := map[string]bool{}
		bin, err := a.Cup.Binned(ctx, p.account)
		if err != nil {
			t.Fatal(err)
		}
		for _, b := range bin {
			binned[b.ID] = true
		}
		for _, id := range append(slices.Clone(p.own), p.copies...) {
			states, err := a.Cup.States(ctx, p.account, []string{id})
			if err != nil {
				t.Fatal(err)
			}
			if binned[id] || states[id].Place == "in-bin" {
				done["binned"]++
				continue
			}
			for who, want := range map[string]access.Level{"oduya": access.Edit, "lindqvist": access.Edit} {
				got, err := a.Cup.Get(ctx, who, id)
				if err != nil || got.Level < want {
					t.Errorf("%s has %v on what %s has: %s, %v", who, got.Level, p.account, states[id].Name, err)
				} else if !slices.ContainsFunc(got.Path, func(x cupboard.Crumb) bool { return strings.Contains(x.Name, "Tide Watch") }) {
					t.Errorf("%s of %s lies outside of the class: %+v", states[id].Name, p.account, got.Path)
				}
			}
			done["lies"]++
		}
	}
	if done["binned"] < 10 || done["lies"] < len(all) {
		t.Errorf("little happened: %v", done)
	}
}
