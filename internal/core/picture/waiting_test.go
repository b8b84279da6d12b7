package picture_test

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"testing"

	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	. "jollysatchel/internal/core/picture/picturetest"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/core/teams"
)

// knows says of a student whether the school knows them by now.
func knows(st *picture.Student, known bool) {
	st.Account, st.Waits = "", &packing.Reason{Code: roster.NoAddress}
	if known {
		st.Account, st.Waits = "s"+st.ID, nil
	}
}

// teamed is a picture with the class's teams of the usual set.
func teamed(p *picture.Picture) *picture.Picture {
	sets := []teams.Set{{Field: record.Team, Teams: []teams.Team{{ID: "gull", Name: "Gull"}, {ID: "tern", Name: "Tern"}}}}
	p.Room = p.Class.ForRoom(room.English, sets, p.Made.Satchels)
	p.Room.Satchels = p.Plan.SatchelNames(p.Room)
	p.NameAll()
	return p
}

// In 300 histories of a class in which some have no address at first, and of which half open to their students later: once
// all are known and in, it is as a class in which they were from the start, what follows by itself gives everything, and
// nothing is made twice.
func TestWaiting(t *testing.T) {
	waited := 0
	for seed := range uint64(300) {
		r := rand.New(rand.NewPCG(seed, 40))
		c := Class(3 + r.IntN(5))
		for i := range c.Students {
			c.Students[i].Team = []string{"Gull", "Tern"}[r.IntN(2)]
			knows(&c.Students[i], r.IntN(2) == 0)
			if seed%2 == 0 {
				c.Students[i].Opens = &packing.Reason{Code: classes.Opens}
			}
		}
		ways := []handout.WayName{handout.EachName, handout.TeamName, handout.ForAllName}
		var hs []handout.Handout
		p, made := teamed(Of(c)), map[packing.Key]string{}
		for n := range 10 {
			c := p.Class
			c.Students = slices.Clone(c.Students)
			switch r.IntN(5) {
			case 0:
				h := Handout(fmt.Sprint("h", n), fmt.Sprint("Charts ", n))
				h.Settings.Way, h.Settings.Classmates = ways[r.IntN(3)], []string{"", "read"}[r.IntN(2)]
				h.Settings.Teams, h.Settings.Name = record.Team, handout.UsualNameOf(h.Settings.Way)
				hs = append(hs, h)
			case 1:
				knows(&c.Students[r.IntN(len(c.Students))], true)
			case 2:
				more := Class(len(c.Students) + 1).Students[len(c.Students)]
				more.Team = "Gull"
				knows(&more, r.IntN(2) == 0)
				c.Students = append(c.Students, more)
			case 3:
				p = everything(p)
			case 4:
				c.Students[r.IntN(len(c.Students))].Opens = nil
			}
			p = teamed(With(c, p.Made, hs...))
			if r.IntN(2) == 0 {
				p = follow(p)
			}
			same(t, seed, p, made)
		}
		p = everything(p)
		same(t, seed, p, made)
		c = p.Class
		c.Students = slices.Clone(c.Students)
		for i := range c.Students {
			if c.Students[i].Later() != nil {
				waited++
			}
			knows(&c.Students[i], true)
			c.Students[i].Opens = nil
		}
		p = follow(teamed(With(c, p.Made, hs...)))
		same(t, seed, p, made)
		if l := p.Missing(); len(l.Lines) > 0 {
			t.Fatalf("%d: it still lacks %+v", seed, l.Lines[0])
		}
		q := everything(teamed(Of(c, hs...)))
		for k, e := range q.Entries {
			got := p.Entries[k]
			if got == nil || got.Name != e.Name || !maps.Equal(got.Granted, e.Granted) || len(got.Waits) > 0 ||
				!slices.Equal(slices.Sorted(maps.Keys(got.Pointers)), slices.Sorted(maps.Keys(e.Pointers))) {
				t.Fatalf("%d: %s is\n%+v, want\n%+v", seed, k, got, e)
			}
		}
		if len(p.Entries) != len(q.Entries) {
			t.Fatalf("%d: %d things, want %d", seed, len(p.Entries), len(q.Entries))
		}
	}
	if waited < 300 {
		t.Errorf("%d waited to the end", waited)
	}
}

// everything packs all that there is to pack.
func everything(p *picture.Picture) *picture.Picture {
	p = teamed(Pack(p))
	l := p.Outstanding()
	return teamed(Give(p, l.Steps(packing.Part{})))
}

// follow gives what waited for those who are known by now.
func follow(p *picture.Picture) *picture.Picture {
	for _, f := range p.Following() {
		p = Give(p, f.Steps)
	}
	return teamed(p)
}

// same notes what was made, and fails where something is another thing than before.
func same(t *testing.T, seed uint64, p *picture.Picture, made map[packing.Key]string) {
	t.Helper()
	for k, e := range p.Entries {
		if was, ok := made[k]; ok && was != e.Thing || e.Generation != 1 {
			t.Fatalf("%d: %s was %s, is %s", seed, k, was, e.Thing)
		}
		made[k] = e.Thing
	}
}
