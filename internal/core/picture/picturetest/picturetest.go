// Package picturetest makes pictures of classes for tests.
package picturetest

import (
	"fmt"
	"maps"
	"time"

	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/roster"
)

// Noon is the moment at which things of these pictures were made.
var Noon = time.Date(2026, 11, 23, 12, 0, 0, 0, time.UTC)

// Owner is the account of the owner teacher.
const Owner = "oduya"

// Class is a class with the usual room of a teacher, an assistant and n students, with rows r0,
// r1 … and accounts s0, s1 …
func Class(n int) picture.Class {
	c := picture.Class{Teacher: "Oduya, Tamsin",
		Class: classes.Class{ID: "c", Code: "7B", Name: "Tide Watch", Period: "2026", Plan: room.Usual()}}
	c.Staff = []classes.Member{{ClassID: "c", Account: Owner, Role: classes.Owner}, {ClassID: "c", Account: "ash", Role: classes.Assistant}}
	for i := range n {
		of := record.Record{Number: fmt.Sprint(70000 + i), Family: fmt.Sprint("Family", i), Given: fmt.Sprint("Given", i)}
		c.Students = append(c.Students,
			picture.Student{Row: classes.Row{ClassID: "c", Added: i,
				ClassRow: roster.ClassRow{ID: fmt.Sprint("r", i), Record: of, Account: fmt.Sprint("s", i)}}})
	}
	return c
}

// Handout is a packed handout of one document, one copy each.
func Handout(id, title string) handout.Handout {
	return handout.Handout{ID: id, ClassID: "c", Title: title, PackedAt: Noon, Settings: handout.Sentence{
		Way: handout.EachName, Level: "edit", Documents: []handout.GivenDocument{{Slot: 1, Template: "t"}},
	}}
}

// Of is the picture of a class with some handouts, where nothing is made yet.
func Of(c picture.Class, handouts ...handout.Handout) *picture.Picture {
	return With(c, nil, handouts...)
}

// With is the picture of a class with some handouts and what an earlier one had.
func With(c picture.Class, made *picture.Made, handouts ...handout.Handout) *picture.Picture {
	if made == nil {
		made = picture.MadeOf(nil)
		made.Seen, made.Ended, made.Stuck = map[string]ledger.Seen{}, map[packing.Key]int{}, map[packing.Key]ledger.Step{}
	}
	p := &picture.Picture{
		Class: c, Made: made, Room: c.ForRoom(room.English, nil, made.Satchels), Handouts: handouts, Known: c.Vocabulary(),
		Today: "2026-11-30", Language: "en",
		Templates: map[string]handout.Template{"t": {ID: "t", Account: Owner, Name: "Log.md", Thing: "t", MediaType: "text/markdown"}},
		Decisions: map[string]classes.Decision{}, LetIn: map[string]map[string][]string{},
	}
	p.Room.Satchels = p.Plan.SatchelNames(p.Room)
	p.NameAll()
	return p
}

// Pack makes everything that is wanted, as the packer does without any trouble, and returns the
// class as it stands then.
func Pack(p *picture.Picture) *picture.Picture {
	var entries []ledger.Entry
	for _, e := range p.Entries {
		entries = append(entries, *e)
	}
	seen := maps.Clone(p.Seen)
	for k, w := range p.Wanted(nil) {
		if p.Entries[k] != nil || w.Problem != nil {
			continue
		}
		e := ledger.Entry{
			ID: "e" + k.String(), Key: k, Generation: 1, Thing: k.String(), Link: "link-" + k.String(), Name: w.Name,
			Spot: w.Spot(), Granted: maps.Clone(w.Rule.Grants),
			Pointers: map[string]string{}, RunID: "run", Given: 1, MadeAt: Noon, SharedAt: Noon, Waits: w.Waits,
		}
		if w.Parent != (packing.Key{}) {
			e.PutIn = w.Parent.String()
		}
		for _, folder := range w.Pointers {
			e.Pointers[folder.String()] = "pointer"
		}
		entries = append(entries, e)
		seen[e.Thing] = ledger.Seen{Place: ledger.Lies, Name: w.Name, Parent: e.PutIn, Owner: w.Owner, Rule: w.Rule, Version: 1}
	}
	made := picture.MadeOf(entries)
	made.Seen, made.Ended, made.Stuck = seen, p.Ended, p.Stuck
	return With(p.Class, made, p.Handouts...)
}

// Give gives what steps give of what is made already: access, and pointers.
func Give(p *picture.Picture, steps []packing.Step) *picture.Picture {
	for _, st := range steps {
		e, seen := p.Entries[st.Key], p.State(p.Entries[st.Key])
		seen.Rule.Grants = maps.Clone(seen.Rule.Grants)
		for account, level := range st.Wanted.Rule.Grants {
			e.Granted[account] = max(e.Granted[account], level)
			seen.Rule.Grants[account] = max(seen.Rule.Grants[account], level)
		}
		for _, folder := range st.Wanted.Pointers {
			e.Pointers[folder.String()] = "pointer"
		}
		e.Waits = st.Wanted.Waits
		p.Seen[e.Thing] = seen
	}
	return With(p.Class, p.Made, p.Handouts...)
}

// Copy is the entry of a student's copy of a handout.
func Copy(p *picture.Picture, h string, student int) *ledger.Entry {
	return p.Entries[handout.CopyKey(p.ID, h, 1, packing.Whom{Row: fmt.Sprint("r", student)})]
}

// See changes how a thing was last seen.
func See(p *picture.Picture, e *ledger.Entry, change func(*ledger.Seen)) {
	st := p.State(e)
	change(&st)
	p.Seen[e.Thing] = st
}
