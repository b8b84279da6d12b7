package packer

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

// pack does one line, computed again from the class as it is now, each request with a key of its
// own, then records what came of it. What the cupboard refuses ends the line stuck; what it
// couldn't do just now puts the line off. A thing made before is made again with its key: the cupboard answers
// with what is there.
func (j *job) pack(ctx context.Context, st ledger.Step, wants int64) error {
	if err := j.hold(ctx, &st); err != nil { // others were before it
		return ignoreLost(err)
	}
	now, err := j.again(ctx, st.Step, wants)
	if err != nil {
		return j.failed(ctx, st, nil, err)
	}
	st.Step = now
	if st.State != packing.Waiting {
		return j.record(ctx, st, nil, st.State, st.Reason)
	}
	if st.Act != packing.Make {
		if st.Asking, err = j.store.Asking(ctx); err != nil {
			return j.failed(ctx, st, nil, err)
		}
	}
	if st.Change != nil {
		return j.alter(ctx, st)
	}
	return j.give(ctx, st)
}

// give makes what a line is about, shares it with whom it is for and points to it.
func (j *job) give(ctx context.Context, st ledger.Step) error {
	e, err := j.thingFor(ctx, st)
	if err != nil {
		return j.failed(ctx, st, nil, err)
	}
	w := st.Wanted
	if access.Lacks(e.Granted, w.Rule.Grants) {
		if err := j.hold(ctx, &st); err != nil {
			return ignoreLost(err)
		}
		err = j.share(ctx, st, &e)
	}
	if err == nil {
		err = j.unclose(ctx, st, e)
	}
	if err != nil {
		return j.failed(ctx, st, &e, err)
	}
	e.SharedAt = j.now()
	if e.Unpointed, err = j.unpoint(ctx, st); err != nil {
		return j.failed(ctx, st, &e, err)
	}
	for _, k := range w.Pointers {
		several := st.Key.Whom.Row == "" // the others have theirs, whatever one lacks
		folder, err := j.thing(ctx, k)
		if errors.Is(err, store.ErrNotFound) && several {
			continue
		}
		if err != nil {
			return j.failed(ctx, st, &e, err)
		}
		if err := j.hold(ctx, &st); err != nil {
			return ignoreLost(err)
		}
		pointer, err := j.point(ctx, st, e.Thing, k, folder)
		if errors.Is(err, cupboard.ErrNotFound) && several {
			continue
		}
		if err != nil {
			return j.failed(ctx, st, &e, err)
		}
		e.Pointers[k.String()] = pointer
	}
	return j.record(ctx, st, &e, packing.Packed, nil)
}

// unclose has a copy that is shared no longer stand alone, as it may have while its level was lower.
func (j *job) unclose(ctx context.Context, st ledger.Step, e ledger.Entry) error {
	if st.Act != packing.Share || st.Wanted.Kind != packing.File || st.Wanted.Rule.StandsAlone {
		return nil
	}
	open := false
	return j.cup.SetRule(ctx, j.owner, j.stepKey(st)+"/open", e.Thing, cupboard.RuleChange{StandsAlone: &open})
}

// share gives what is lacking of a line's access; classmates whom the cupboard doesn't know go
// without, and the others don't.
func (j *job) share(ctx context.Context, st ledger.Step, e *ledger.Entry) error {
	w := st.Wanted
	err := j.cup.Share(ctx, j.owner, j.shareKey(st, w.Rule.Grants), e.Thing, w.Rule.Grants)
	unknown := matesUnknown(w, err)
	if err != nil && unknown == nil {
		return err
	}
	e.Granted = granted(e.Granted, w.Rule.Grants)
	for _, account := range unknown {
		delete(e.Granted, account)
	}
	return nil
}

// point makes a pointer in a folder that was made for a key. One that was taken away
// since is made again, under the next number: anyone who asks, in whatever run, gets the same.
func (j *job) point(ctx context.Context, st ledger.Step, thing string, k packing.Key, folder string) (string, error) {
	first := packing.StepKey{Key: st.Key, Act: packing.Point, Generation: st.Generation}.String() + "/" + k.String()
	key := first
	for n := 1; ; n++ {
		pt, err := j.cup.MakePointer(ctx, j.owner, key, thing, cupboard.NewThing{Parent: folder, Name: st.Wanted.Name})
		if !errors.Is(err, cupboard.ErrNotFound) || n == mostEnded {
			return pt.ID, err
		}
		states, asked := j.cup.States(ctx, j.owner, []string{folder, thing})
		if asked != nil {
			return "", asked
		}
		if states[folder].Place != ledger.Lies || states[thing].Place != ledger.Lies {
			return "", err
		}
		key = fmt.Sprintf("%s/%d", first, n+1)
	}
}

// unpoint takes away the pointers to a thing that aren't wanted any more, from anyone who
// is no longer of a team, for instance, and returns the folders they were for.
func (j *job) unpoint(ctx context.Context, st ledger.Step) ([]string, error) {
	if st.Act == packing.Make || st.Key.What.Purpose != packing.Copy {
		return nil, nil
	}
	before, err := j.store.EntryByKey(ctx, st.Key)
	if err != nil {
		return nil, err
	}
	wanted := map[string]bool{}
	for _, k := range st.Wanted.Pointers {
		wanted[k.String()] = true
	}
	var gone []string
	for _, folder := range slices.Sorted(maps.Keys(before.Pointers)) {
		if wanted[folder] {
			continue
		}
		if err := j.cup.Remove(ctx, j.owner, j.stepKey(st)+"/unpoint/"+folder, before.Pointers[folder]); err != nil &&
			!errors.Is(err, cupboard.ErrNotFound) {
			return nil, err
		}
		gone = append(gone, folder)
	}
	return gone, nil
}

// matesUnknown are the people the cupboard doesn't know, where those are classmates
// alone: nobody waits for their own copy because of another.
func matesUnknown(w packing.Wanted, err error) []string {
	var unknown *cupboard.UnknownPeople
	if !w.Mates || !errors.As(err, &unknown) || slices.Contains(unknown.Accounts, w.For) {
		return nil
	}
	return unknown.Accounts
}

// granted is what is given after more was: nobody has less.
func granted(before, more map[string]access.Level) map[string]access.Level {
	out := maps.Clone(more)
	for who, l := range before {
		out[who] = max(out[who], l)
	}
	return out
}

// thingFor makes what a line is about, with whom it is for, or finds it where it
// is there already. One made before may be shared with others than are wanted now:
// they are entered all the same, so that nobody has what the ledger doesn't know.
func (j *job) thingFor(ctx context.Context, st ledger.Step) (ledger.Entry, error) {
	if st.Act != packing.Make {
		e, err := j.made(ctx, st.Key)
		e.Served = without(e.Waits, st.Wanted.Waits)
		e.Waits = st.Wanted.Waits
		e.ID, e.Granted, e.Pointers, e.RunID = store.NewID(), nil, map[string]string{}, j.run.ID
		return e, err
	}
	t, in, given, err := j.make(ctx, st)
	spot := st.Wanted.Spot()
	if t.Parent != in { // made before, where it was wanted then
		spot, in = "", t.Parent
	}
	return ledger.Entry{
		ID: store.NewID(), Key: st.Key, Generation: st.Generation, Thing: t.ID, Link: t.Link, Name: st.Wanted.Name,
		Spot: spot, PutIn: in, Granted: t.Rule.Grants, GivenSHA: given, Pointers: map[string]string{}, RunID: j.run.ID, MadeAt: j.now(),
		Waits: st.Wanted.Waits,
	}, err
}

// without are the rows that aren't among others.
func without(rows, others []string) []string {
	return slices.DeleteFunc(slices.Clone(rows), func(row string) bool { return slices.Contains(others, row) })
}

// errNeverMade says that nothing was made of what a line would change.
var errNeverMade = errors.New("it was never made")

// made returns the entry of what a line changes.
func (j *job) made(ctx context.Context, k packing.Key) (ledger.Entry, error) {
	e, err := j.store.EntryByKey(ctx, k)
	if errors.Is(err, store.ErrNotFound) {
		err = errNeverMade
	}
	return e, err
}

// make makes what a line is about and says in which folder it put it, and of a copy what
// its document was.
func (j *job) make(ctx context.Context, st ledger.Step) (t cupboard.Thing, in, given string, err error) {
	w, key := st.Wanted, st.StepKey.String()
	if in, err = j.folder(ctx, w); err != nil {
		return t, "", "", err
	}
	n := cupboard.NewThing{Parent: in, Name: w.Name, StandsAlone: w.Rule.StandsAlone, Grants: w.Rule.Grants}
	if w.Kind == packing.File {
		t, given, err = j.copyOf(ctx, key, w, n)
	} else {
		t, err = j.cup.MakeFolder(ctx, j.owner, key, n)
	}
	return t, in, given, err
}

// folder returns the folder a thing is to be in; empty is the top of the owner's
// own things.
func (j *job) folder(ctx context.Context, w packing.Wanted) (string, error) {
	if w.Parent != (packing.Key{}) {
		return j.thing(ctx, w.Parent)
	}
	return j.levels(ctx, w.Base, w.Path)
}

// levels returns the last of the folders of a path, made where there are none
// yet. A level is its owner's and of no class: its key says where it is and what
// it is called, so every class that asks for it gets the same. One that is in the
// bin or has ended is made again, under the next number.
func (j *job) levels(ctx context.Context, in string, path []string) (string, error) {
	for _, name := range path {
		for n := 1; ; n++ {
			t, err := j.cup.MakeFolder(ctx, j.owner, fmt.Sprintf("level/%s/%s/%s/%d", j.owner, in, naming.Fold(name), n),
				cupboard.NewThing{Parent: in, Name: name})
			if errors.Is(err, cupboard.ErrNotFound) && n < mostEnded {
				continue // it has ended, or the folder it is to lie in isn't there
			}
			if err != nil {
				return "", err
			}
			states, err := j.cup.States(ctx, j.owner, []string{t.ID})
			if err != nil {
				return "", err
			}
			if states[t.ID].Place == ledger.Lies {
				in = t.ID
				break
			}
			if n >= mostEnded {
				return "", cupboard.ErrNotFound
			}
		}
	}
	return in, nil
}

// thing returns the cupboard id of what was made for a key.
func (j *job) thing(ctx context.Context, key packing.Key) (string, error) {
	if id, ok := j.things.Load(key); ok {
		return id.(string), nil
	}
	e, err := j.store.EntryByKey(ctx, key)
	if err != nil {
		return "", err
	}
	j.things.Store(key, e.Thing)
	return e.Thing, nil
}

// shareKey names a grant of access by its run and what it grants: the same
// again is the same step; a newcomer on the shelf is another, and so is access
// given again after it was taken away.
func (j *job) shareKey(st ledger.Step, grants map[string]access.Level) string {
	b, _ := json.Marshal(grants) // map keys are sorted
	sum := sha256.Sum256(b)
	return j.stepKey(st) + "/share." + hex.EncodeToString(sum[:8])
}
