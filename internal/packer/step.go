package packer

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"time"

	"github.com/jackc/pgerrcode"
	"github.com/jackc/pgx/v5/pgconn"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

// pack does one line, computed again from the class as it is now: make with whom
// it is for, share what is left of that, point, each with a key of its own, then
// records what came of it. What the cupboard refuses ends the line stuck; what it
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
	e, err := j.thingFor(ctx, st)
	if err != nil {
		return j.failed(ctx, st, nil, err)
	}
	w := st.Wanted
	if access.Lacks(e.Granted, w.Rule.Grants) {
		if err := j.hold(ctx, &st); err != nil {
			return ignoreLost(err)
		}
		err := j.cup.Share(ctx, j.owner, j.shareKey(st, w.Rule.Grants), e.Thing, w.Rule.Grants)
		unknown := matesUnknown(w, err)
		if err != nil && unknown == nil {
			return j.failed(ctx, st, &e, err)
		}
		e.Granted = granted(e.Granted, w.Rule.Grants)
		for _, account := range unknown {
			delete(e.Granted, account)
		}
	}
	if st.Act == packing.Share && w.Kind == packing.File && !w.Rule.StandsAlone {
		open := false // it may have stood alone while its level was lower
		if err := j.cup.SetRule(ctx, j.owner, j.stepKey(st)+"/open", e.Thing, cupboard.RuleChange{StandsAlone: &open}); err != nil {
			return j.failed(ctx, st, &e, err)
		}
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

// point makes a pointer in a folder that was made for a key. One that was taken away
// since is made anew, under the next number: whoever asks, in whatever run, gets the same.
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

// unpoint takes away the pointers to a thing that aren't wanted any more, from whoever
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
		if err := j.cup.Remove(ctx, j.owner, j.stepKey(st)+"/unpoint/"+folder, before.Pointers[folder]); err != nil && !errors.Is(err, cupboard.ErrNotFound) {
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
		e.ID, e.Granted, e.Pointers, e.RunID = store.NewID(), nil, map[string]string{}, j.run.ID
		return e, err
	}
	t, in, given, err := j.make(ctx, st)
	spot := st.Wanted.Spot()
	if t.Parent != in { // made before, where it was wanted then
		spot, in = "", t.Parent
	}
	return ledger.Entry{
		ID: store.NewID(), Key: st.Key, Generation: st.Generation, Thing: t.ID, Link: t.Link, Name: st.Wanted.Name, Spot: spot, PutIn: in, Granted: t.Rule.Grants, GivenSHA: given, Pointers: map[string]string{}, RunID: j.run.ID, MadeAt: j.now(),
	}, err
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

// unless forgives that something wasn't there to be brought back or binned where
// it is where it should be: with the folder it lies in.
func (j *job) unless(ctx context.Context, e ledger.Entry, there ledger.Place, err error) error {
	if !errors.Is(err, cupboard.ErrNotFound) {
		return err
	}
	states, asked := j.cup.States(ctx, j.owner, []string{e.Thing})
	if asked == nil && states[e.Thing].Place == there {
		return nil
	}
	return err
}

// alter does what a line to change says about a thing already made: its name
// and that of the pointers to it, its place, access that ends, or a level that is
// lower.
func (j *job) alter(ctx context.Context, st ledger.Step) error {
	if st.Act == packing.Bring {
		return j.bring(ctx, st)
	}
	e, err := j.made(ctx, st.Key)
	if err != nil {
		return j.failed(ctx, st, nil, err)
	}
	in := ""
	switch st.Act {
	case packing.Rename:
		err = j.rename(ctx, j.stepKey(st), st, e)
	case packing.Move:
		if in, err = j.folder(ctx, st.Wanted); err == nil {
			err = j.cup.Move(ctx, j.owner, j.stepKey(st), e.Thing, in)
		}
	case packing.Restore:
		if w, _ := ledger.BoundBy(st.Act); e.Bound != w { // a later act wants it elsewhere
			return j.record(ctx, st, nil, packing.PassedOver, &packing.Reason{Code: "wanted-elsewhere"})
		}
		if err = j.unless(ctx, e, ledger.Lies, j.cup.Restore(ctx, j.owner, j.stepKey(st), e.Thing)); err == nil {
			err = j.withPointers(ctx, st, e, j.cup.Restore)
		}
		if err == nil && st.Change.Rename != "" { // its name is another's by now
			err = j.rename(ctx, j.stepKey(st)+"/name", st, e)
		}
	case packing.Discard:
		if w, _ := ledger.BoundBy(st.Act); e.Bound != w {
			return j.record(ctx, st, nil, packing.PassedOver, &packing.Reason{Code: "wanted-elsewhere"})
		}
		seen := cupboard.Seen(st.Change.Seen)
		if st.Change.Base > 0 { // as a line of a version before said it
			seen = cupboard.Seen{e.Thing: st.Change.Base}
		}
		err = j.unless(ctx, e, ledger.InBin, j.cup.Bin(ctx, j.owner, j.stepKey(st), e.Thing, seen))
		if errors.As(err, new(*cupboard.Conflict)) {
			return j.keepBegun(ctx, st, e)
		}
		if err == nil {
			err = j.withPointers(ctx, st, e, func(ctx context.Context, as, key, id string) error { return j.cup.Bin(ctx, as, key, id, nil) })
		}
	case packing.Take:
		if err = j.cup.SetRule(ctx, j.owner, j.stepKey(st), e.Thing, cupboard.RuleChange{Levels: map[string]access.Level{st.Account: access.Nothing}}); err == nil {
			e.Unpointed, err = j.unpoint(ctx, st)
		}
		if errors.Is(err, cupboard.ErrNotFound) { // it has ended, or is another's in their bin
			return j.record(ctx, st, nil, packing.PassedOver, &packing.Reason{Code: "cupboard-gone"})
		}
	case packing.Lower:
		err = j.lower(ctx, st, e)
	case packing.Renew:
		err = j.renew(ctx, st, &e)
	case packing.HandOver:
		if len(st.Wanted.Rule.Grants) > 0 { // who keeps reaching it, before it is another's
			if err = j.cup.Share(ctx, j.owner, j.shareKey(st, st.Wanted.Rule.Grants), e.Thing, st.Wanted.Rule.Grants); err != nil {
				break
			}
		}
		err = j.cup.HandOver(ctx, j.owner, j.stepKey(st), e.Thing, st.Change.To)
	default:
		err = fmt.Errorf("no way to %s", st.Act)
	}
	if err != nil {
		return j.failed(ctx, st, nil, err)
	}
	unsure, err := j.store.FinishChange(ctx, st, e, in, j.now())
	if err != nil {
		return err
	}
	j.tidings()
	if unsure {
		j.lookAgain(ctx, e.Thing)
	}
	return nil
}

// lookAgain asks anew how a thing stands that was told of while it was changed. The line has ended
// all the same; each list that is looked at asks again.
func (j *job) lookAgain(ctx context.Context, thing string) {
	if err := j.look.Look(ctx, []store.Concern{{Thing: thing, Class: j.run.ClassID, Owner: j.owner}}); err != nil {
		j.log.Warn("looking at what was told of while it was changed", "thing", thing, "error", err)
	}
}

// keepBegun leaves a thing where it is that somebody wrote in since it was looked at.
func (j *job) keepBegun(ctx context.Context, st ledger.Step, e ledger.Entry) error {
	if err := j.store.Unbind(ctx, []string{e.Thing}); err != nil {
		return j.failed(ctx, st, nil, err)
	}
	return j.record(ctx, st, nil, packing.PassedOver, &packing.Reason{Code: "begun-meanwhile"})
}

// bring fetches a satchel from the student's former class: the former staff are let go on
// reading its copies, then its owner there passes it on into its place here, in one.
func (j *job) bring(ctx context.Context, st ledger.Step) error {
	b, key := st.Change.Bring, j.stepKey(st)
	in, err := j.folder(ctx, st.Wanted)
	if err != nil {
		return j.failed(ctx, st, nil, err)
	}
	read := map[string]access.Level{}
	for _, account := range b.Readers {
		read[account] = access.Read
	}
	for _, c := range b.Copies {
		if len(read) == 0 {
			break
		}
		err := j.cup.Share(ctx, b.Owner, key+"/"+c, c, read)
		if err != nil && !errors.Is(err, cupboard.ErrNotFound) && !errors.Is(err, cupboard.ErrNoRight) { // not in the satchel any more
			return j.failed(ctx, st, nil, err)
		}
	}
	if err := j.cup.Transfer(ctx, b.Owner, key, b.Thing, j.owner, in); err != nil {
		return j.failed(ctx, st, nil, err)
	}
	if err := j.store.FinishBring(ctx, st, in, j.now()); err != nil {
		return err
	}
	j.tidings()
	return nil
}

// renew gives a copy the present content of its document as another version, unless
// somebody wrote since it was looked at: then it is left.
func (j *job) renew(ctx context.Context, st ledger.Step, e *ledger.Entry) error {
	v, given, err := j.renewed(ctx, j.stepKey(st), e.Thing, st.Change.Base, st.Wanted)
	e.Given, e.GivenSHA = v.Number, given
	return err
}

// withPointers does with the pointers to a thing what was done with it, with those that
// are there.
func (j *job) withPointers(ctx context.Context, st ledger.Step, e ledger.Entry, do func(ctx context.Context, as, key, id string) error) error {
	for folder, pointer := range e.Pointers {
		if err := do(ctx, j.owner, j.stepKey(st)+"/"+folder, pointer); err != nil && !errors.Is(err, cupboard.ErrNotFound) && !errors.Is(err, cupboard.ErrNoRight) {
			return err
		}
	}
	return nil
}

func (j *job) rename(ctx context.Context, key string, st ledger.Step, e ledger.Entry) error {
	if err := j.cup.Rename(ctx, j.owner, key, e.Thing, st.Change.Rename); err != nil {
		return err
	}
	for folder, pointer := range e.Pointers {
		if err := j.cup.Rename(ctx, j.owner, key+"/"+folder, pointer, st.Change.Rename); err != nil && !errors.Is(err, cupboard.ErrNotFound) {
			return err
		}
	}
	return nil
}

// lower lowers an account's level. A copy lies in a folder its student can edit:
// it must stand alone from then on, with the staff in its own rule first.
func (j *job) lower(ctx context.Context, st ledger.Step, e ledger.Entry) error {
	c := cupboard.RuleChange{Levels: map[string]access.Level{st.Account: st.Change.Level}}
	if st.Wanted.Rule.StandsAlone {
		alone := true
		c.StandsAlone = &alone
		others := maps.Clone(st.Wanted.Rule.Grants)
		delete(others, st.Account)
		if len(others) > 0 {
			if err := j.cup.Share(ctx, j.owner, j.shareKey(st, others), e.Thing, others); err != nil {
				return err
			}
		}
	}
	return j.cup.SetRule(ctx, j.owner, j.stepKey(st), e.Thing, c)
}

// stepKey names a line of this run at the cupboard.
func (j *job) stepKey(st ledger.Step) string { return j.run.ID + "/" + st.StepKey.String() }

// hold renews the lease where a good part of it has passed.
func (j *job) hold(ctx context.Context, st *ledger.Step) error {
	if time.Since(st.Held) < lease/3 {
		return nil
	}
	st.Held = time.Now()
	return j.store.Renew(ctx, *st, j.name, lease)
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

// folder returns the folder a thing is to lie in; empty is the top of the owner's
// own things.
func (j *job) folder(ctx context.Context, w packing.Wanted) (string, error) {
	if w.Parent != (packing.Key{}) {
		return j.thing(ctx, w.Parent)
	}
	return j.levels(ctx, w.Base, w.Path)
}

// levels returns the last of the folders of a path, made where there are none
// yet. A level is its owner's and of no class: its key says where it lies and what
// it is called, so every class that asks for it gets the same. One that is in the
// bin or has ended is made anew, under the next number.
func (j *job) levels(ctx context.Context, in string, path []string) (string, error) {
	for _, name := range path {
		for n := 1; ; n++ {
			t, err := j.cup.MakeFolder(ctx, j.owner, fmt.Sprintf("level/%s/%s/%s/%d", j.owner, in, naming.Fold(name), n), cupboard.NewThing{Parent: in, Name: name})
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

// mostEnded is how often something is looked for of which one after the other has ended.
const mostEnded = 50

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

// failed decides what an error means for the line; e is what was made of it so
// far, so that a thing made and not shared is known as such.
func (j *job) failed(ctx context.Context, st ledger.Step, e *ledger.Entry, err error) error {
	var fast *cupboard.TooFast
	var unknown *cupboard.UnknownPeople
	var conflict *cupboard.Conflict
	switch {
	case ctx.Err() != nil:
		return ctx.Err()
	case errors.As(err, &fast):
		return j.store.PutOff(ctx, st, fast.After, false)
	case errors.Is(err, cupboard.ErrUnavailable) && st.Tries < mostTries:
		return j.store.PutOff(ctx, st, backoff(st.Tries), true)
	case errors.Is(err, cupboard.ErrUnavailable):
		return j.record(ctx, st, e, packing.Stuck, &packing.Reason{Code: "cupboard-unavailable"})
	case errors.As(err, &conflict):
		return j.record(ctx, st, e, packing.Stuck, &packing.Reason{Code: "begun-meanwhile"})
	case errors.As(err, &unknown):
		return j.record(ctx, st, e, packing.Stuck, &packing.Reason{Code: "cupboard-unknown", Args: map[string]string{"accounts": joined(unknown.Accounts)}})
	case errors.Is(err, store.ErrNotFound): // what it lies in was never made
		return j.record(ctx, st, e, packing.Stuck, &packing.Reason{Code: "parent-stuck"})
	case st.Key.What.Purpose == packing.ClassFolder && (errors.Is(err, cupboard.ErrNotFound) || errors.Is(err, cupboard.ErrNoRight)):
		return j.record(ctx, st, e, packing.Stuck, &packing.Reason{Code: "base-away"})
	case errors.Is(err, errNeverMade):
		return j.record(ctx, st, e, packing.PassedOver, &packing.Reason{Code: "no-longer-wanted"})
	case errors.Is(err, cupboard.ErrNotFound):
		return j.record(ctx, st, e, packing.Stuck, &packing.Reason{Code: "cupboard-gone"})
	case errors.Is(err, cupboard.ErrNoRight) && j.passedOn(ctx):
		return j.store.PutOff(ctx, st, time.Second, false)
	case errors.Is(err, cupboard.ErrNoRight):
		return j.record(ctx, st, e, packing.Stuck, &packing.Reason{Code: "cupboard-refused"})
	case st.Tries >= mostTries:
		report(j.log, err, "a line fails again and again", "run", j.run.ID, "line", st.Seq)
		return j.record(ctx, st, e, packing.Stuck, &packing.Reason{Code: "cannot-be-packed"})
	}
	return err
}

// passedOn reports that the class was passed on to another owner since the work on
// this run began: its lines wait for the next.
func (j *job) passedOn(ctx context.Context) bool {
	owner, err := j.store.Keeper(ctx, j.run.ClassID)
	return err == nil && owner != j.owner
}

// lasting reports an error of the database that the same statement would meet
// again: a rule of its own was broken, or the statement makes no sense to it.
func lasting(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && (pgerrcode.IsIntegrityConstraintViolation(pg.Code) || pgerrcode.IsDataException(pg.Code) || pgerrcode.IsSyntaxErrororAccessRuleViolation(pg.Code))
}

// record keeps what was done, ledger and line in one statement, and sees to it
// that those who watch are told.
func (j *job) record(ctx context.Context, st ledger.Step, e *ledger.Entry, state packing.StepState, why *packing.Reason) error {
	unsure, err := j.store.FinishStep(ctx, st, e, state, why, j.now())
	if lasting(err) && e != nil {
		report(j.log, err, "a line can't be recorded", "run", j.run.ID, "line", st.Seq)
		e = nil
		unsure, err = j.store.FinishStep(ctx, st, nil, packing.Stuck, &packing.Reason{Code: "cannot-be-packed"}, j.now())
	}
	if err != nil {
		return err
	}
	if e != nil {
		j.things.Store(st.Key, e.Thing)
	}
	j.tidings()
	if unsure {
		j.lookAgain(ctx, e.Thing)
	}
	return nil
}

// tidings says that those who watch should be told.
func (j *job) tidings() {
	select {
	case j.news <- struct{}{}:
	default: // told of already
	}
}

// tell raises the class's revision after changes, at most ten times a second
// while the work goes on, until no more come.
func (j *job) tell(ctx context.Context) {
	for range j.news {
		if err := j.store.Touch(ctx, j.run.ClassID); err != nil && ctx.Err() == nil {
			report(j.log, err, "telling of progress", "run", j.run.ID)
		}
		select {
		case <-j.over:
		case <-time.After(100 * time.Millisecond):
		}
	}
}

// shareKey names a grant of access by its run and what it grants: the same
// again is the same step; a newcomer on the shelf is another, and so is access
// given again after it was taken away.
func (j *job) shareKey(st ledger.Step, grants map[string]access.Level) string {
	b, _ := json.Marshal(grants) // map keys are sorted
	sum := sha256.Sum256(b)
	return j.stepKey(st) + "/share." + hex.EncodeToString(sum[:8])
}

// backoff doubles from 100 ms to 5 s, with a random half so that workers don't
// come back all at once.
func backoff(tries int) time.Duration {
	d := min(100*time.Millisecond<<min(tries, 10), 5*time.Second)
	return d/2 + rand.N(d/2)
}

func ignoreLost(err error) error {
	if errors.Is(err, store.ErrNotFound) {
		return nil // another worker has the line now
	}
	return err
}

func joined(s []string) string {
	b, _ := json.Marshal(s)
	return string(b)
}
