package things

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"slices"

	"golang.org/x/sync/errgroup"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// A Spreading asks for things of a class to be moved, each to the place of its
// student, or to the one named in their row.
type Spreading struct {
	Things []string
	By     record.Field // the column that names the place; empty: the student's satchel
	To     string       // the folder in which places of those names are, or are made
	Rest   string       // where those go whose row names none; empty: they stay
}

// Why a thing stays where it is.
const (
	OfNobody    = "of-nobody"    // it is no student's of the class
	NothingSaid = "nothing-said" // its row names no place
	PlaceAway   = "place-away"   // what its row names isn't there, or may not be written in
	InPlace     = "in-place"     // it is there already
	Refused     = "refused"      // by the cupboard
)

// A Stay is a thing that stays where it is, and why.
type Stay struct{ Thing, Code string }

// A SpreadTo is a folder and what comes to be in it. One without an id is made.
type SpreadTo struct {
	Folder, Name string
	Things       []string
}

// A Spread is what a Spreading comes to, and who would reach the things then, or no
// more.
type Spread struct {
	To   []SpreadTo
	Stay []Stay
	Effects
	places map[string]cupboard.Thing // by id
	things map[string]cupboard.Thing
	by     map[string]acting
	class  string     // of which all things are
	keeper string     // in whose name they are moved
	meant  []SpreadTo // To with what is there already
}

// Digest says whether it is the same as was looked at: which things are to be where,
// whether they do or not.
func (s Spread) Digest() string {
	stay := slices.DeleteFunc(slices.Clone(s.Stay), func(x Stay) bool { return x.Code == InPlace })
	b, _ := json.Marshal([]any{s.meant, stay}) // strings alone
	sum := sha256.Sum256(b)
	return hex.EncodeToString(sum[:12])
}

// PreviewSpread says what spreading things would come to, and changes nothing.
func (c *Things) PreviewSpread(ctx context.Context, account string, ask Spreading) (Spread, error) {
	s, err := c.spread(ctx, account, ask)
	if err != nil {
		return s, err
	}
	var moves []moving
	for _, to := range s.To {
		folder, ok := s.places[to.Folder]
		if !ok {
			folder = s.places[ask.To] // one that is made there lets in whom that lets in
		}
		for _, id := range to.Things {
			moves = append(moves, moving{s.things[id], folder})
		}
	}
	s.Effects, err = c.effects(ctx, account, moves)
	return s, err
}

// SpreadOut moves things, each to its place, where that is what was seen; folders are
// made where there are none of those names. What the cupboard refuses stays where it
// is, and is returned.
func (c *Things) SpreadOut(ctx context.Context, account, key string, ask Spreading, seen string) ([]Stay, error) {
	var stay []Stay
	act := c.Act(ctx, account, "things-spread", nil)
	if done, err := c.Store.Answered(ctx, act, &stay); done || err != nil {
		return stay, err
	}
	s, err := c.spread(ctx, account, ask)
	if err != nil {
		return nil, err
	}
	if s.Digest() != seen {
		return nil, &change.Changed{Field: "list"}
	}
	if err := c.makePlaces(ctx, account, key, ask.To, &s); err != nil {
		return nil, err
	}
	moved := 0
	for _, to := range s.To {
		for _, id := range to.Things {
			err := c.move(ctx, s.by[id], "spread/"+account+"/"+key, s.things[id], s.places[to.Folder])
			var invalid *change.Invalid
			switch {
			case errors.Is(err, seam.ErrNotFound), errors.Is(err, cupboard.ErrNoRight), errors.As(err, &invalid):
				stay = append(stay, Stay{id, Refused})
			case err != nil:
				return nil, err
			default:
				moved++
			}
		}
	}
	if moved == 0 {
		return stay, nil
	}
	act.Classes, act.Args = []string{s.class}, map[string]any{"things": moved}
	return stay, c.Store.Change(ctx, act, &stay, func(*store.Store) error { return nil })
}

// spread looks at the things, the class and the places as they are now.
func (c *Things) spread(ctx context.Context, account string, ask Spreading) (Spread, error) {
	s := Spread{places: map[string]cupboard.Thing{}, by: map[string]acting{}}
	if len(ask.Things) > mostArranged {
		return s, change.TooMany("things", "too-many", mostArranged)
	}
	var err error
	if s.things, err = c.lookAll(ctx, account, ask.Things); err != nil {
		return s, err
	}
	if err := c.actors(ctx, account, ask.Things, &s); err != nil {
		return s, err
	}
	cl, _, err := c.ClassNow(ctx, s.class)
	if err != nil {
		return s, err
	}
	of := make([]room.Belonging, len(ask.Things))
	for i, id := range ask.Things {
		of[i] = room.Belonging{Thing: id, Row: rowOf(cl, s.by[id], s.things[id])}
	}
	var to []room.Destination
	var rest []string
	if ask.By == "" {
		if to, rest, err = c.toSatchels(ctx, s.class, of); err != nil {
			return s, err
		}
	} else {
		if !cl.Vocabulary().Has(ask.By) {
			return s, change.Refuse("by", "column-unknown", "column", ask.By.Label())
		}
		to, rest = room.Spread(of, func(row string) string {
			st, _ := cl.Student(row)
			return cl.InClass(st).Get(ask.By)
		})
	}
	if err := c.settle(ctx, account, ask, to, &s); err != nil {
		return s, err
	}
	if ask.Rest != "" && len(rest) > 0 {
		folder, err := c.writable(ctx, account, s.keeper, ask.Rest)
		if err != nil {
			return s, err
		}
		s.places[folder.ID] = folder
		s.put(SpreadTo{folder.ID, folder.Name, rest})
		return s, nil
	}
	rows := map[string]string{}
	for _, b := range of {
		rows[b.Thing] = b.Row
	}
	for _, id := range rest {
		code := NothingSaid
		if rows[id] == "" {
			code = OfNobody
		}
		s.Stay = append(s.Stay, Stay{id, code})
	}
	return s, nil
}

// put adds a place and what goes there; what is there already stays.
func (s *Spread) put(to SpreadTo) {
	s.meant = append(s.meant, SpreadTo{Name: to.Name, Things: to.Things})
	to.Things = slices.DeleteFunc(slices.Clone(to.Things), func(id string) bool {
		there := to.Folder != "" && s.things[id].Parent == to.Folder
		if there {
			s.Stay = append(s.Stay, Stay{id, InPlace})
		}
		return there
	})
	if len(to.Things) > 0 {
		s.To = append(s.To, to)
	}
}

// lookedAtOnce things are looked at at the same time.
const lookedAtOnce = 6

// lookAll looks at things as an account sees them.
func (c *Things) lookAll(ctx context.Context, account string, ids []string) (map[string]cupboard.Thing, error) {
	found := make([]cupboard.Thing, len(ids))
	var some errgroup.Group
	some.SetLimit(lookedAtOnce)
	for i, id := range ids {
		some.Go(func() (err error) {
			found[i], err = c.Get(ctx, account, id)
			return err
		})
	}
	err := some.Wait()
	out := make(map[string]cupboard.Thing, len(ids))
	for _, t := range found {
		out[t.ID] = t
	}
	return out, err
}

// actors says in whose name each thing is moved, and of which class they are, of
// which the account must be a teacher.
func (c *Things) actors(ctx context.Context, account string, ids []string, s *Spread) error {
	homes, err := c.homes(ctx, s.things)
	if err != nil {
		return err
	}
	for _, id := range ids {
		e, ok := homes[id]
		switch {
		case !ok:
			return change.Refuse("things", "of-no-class")
		case s.class == "":
			if s.keeper, err = c.OwnerFor(ctx, account, e.Key.Class); err != nil {
				return err
			}
			if s.keeper == "" {
				return cupboard.ErrNoRight
			}
			s.class = e.Key.Class
		case s.class != e.Key.Class:
			return change.Refuse("things", "of-several-classes")
		}
		s.by[id] = acting{as: s.keeper, home: &e, staff: true}
	}
	return nil
}
