package packer

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

// unless forgives that something wasn't there to be brought back or binned where
// it is where it should be: with the folder it is in.
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
	if st.Change.Thing != "" { // of no entry: there is nothing to note
		if err := j.mend(ctx, st, st.Change.Thing); err != nil {
			return j.failed(ctx, st, nil, err)
		}
		return j.record(ctx, st, nil, packing.Packed, nil)
	}
	e, err := j.made(ctx, st.Key)
	if err != nil {
		return j.failed(ctx, st, nil, err)
	}
	if why := passes(st, e); why != "" {
		return j.record(ctx, st, nil, packing.PassedOver, &packing.Reason{Code: why})
	}
	in, err := j.change(ctx, st, &e)
	switch {
	case st.Act == packing.Discard && errors.As(err, new(*cupboard.Conflict)):
		return j.keepBegun(ctx, st, e)
	case (st.Act == packing.Take || st.Act == packing.HandOver) && errors.Is(err, cupboard.ErrNotFound):
		// It has ended, or is another's in their bin.
		return j.record(ctx, st, nil, packing.PassedOver, &packing.Reason{Code: "cupboard-gone"})
	case err != nil:
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

// passes says why a line isn't done any more: a later act wants its thing elsewhere, or it was handed over.
func passes(st ledger.Step, e ledger.Entry) (why string) {
	if w, wants := ledger.BoundBy(st.Act); wants && e.Bound != w {
		return "wanted-elsewhere"
	}
	if e.HandedTo != "" && (st.Act == packing.Discard || st.Act == packing.Renew || st.Act == packing.Close) {
		return "handed-over"
	}
	return ""
}

// change does it, and says in which folder it put a thing that it moves.
func (j *job) change(ctx context.Context, st ledger.Step, e *ledger.Entry) (in string, err error) {
	switch st.Act {
	case packing.Rename:
		err = j.rename(ctx, j.stepKey(st), st, *e)
	case packing.Move:
		if in, err = j.folder(ctx, st.Wanted); err == nil {
			err = j.cup.Move(ctx, j.owner, j.stepKey(st), e.Thing, in)
		}
	case packing.Restore:
		err = j.restore(ctx, st, *e)
	case packing.Discard:
		err = j.discard(ctx, st, *e)
	case packing.Take:
		if err = j.cup.SetRule(ctx, j.owner, j.stepKey(st), e.Thing,
			cupboard.RuleChange{Levels: map[string]access.Level{st.Account: access.Nothing}}); err == nil {
			e.Unpointed, err = j.unpoint(ctx, st)
		}
	case packing.Lower:
		err = j.lower(ctx, st, *e)
	case packing.Renew:
		err = j.renew(ctx, st, e)
	case packing.HandOver:
		err = j.handOver(ctx, st, *e)
	default:
		err = j.mend(ctx, st, e.Thing)
	}
	return in, err
}

// mend does what a door check asked about one thing.
func (j *job) mend(ctx context.Context, st ledger.Step, thing string) error {
	key, nobody := j.stepKey(st), access.Nothing
	switch st.Act {
	case packing.SetLevel:
		return j.cup.SetRule(ctx, j.owner, key, thing, cupboard.RuleChange{Levels: map[string]access.Level{st.Account: st.Change.Level}})
	case packing.ShutLink:
		return j.cup.SetRule(ctx, j.owner, key, thing, cupboard.RuleChange{School: &nobody})
	case packing.SetAlone:
		return j.cup.SetRule(ctx, j.owner, key, thing, cupboard.RuleChange{StandsAlone: &st.Change.Alone})
	case packing.Close:
		return j.cup.Close(ctx, j.owner, key, thing, *st.Change.Mark)
	case packing.Reopen:
		return j.cup.Reopen(ctx, j.owner, key, thing)
	case packing.TakeBack:
		return j.cup.Cede(ctx, st.Change.From, key, thing, st.Change.To)
	case packing.Discard:
		return j.cup.Bin(ctx, j.owner, key, thing, nil)
	}
	return fmt.Errorf("no way to %s", st.Act)
}

// restore brings a thing back with its pointers.
func (j *job) restore(ctx context.Context, st ledger.Step, e ledger.Entry) error {
	err := j.unless(ctx, e, ledger.Lies, j.cup.Restore(ctx, j.owner, j.stepKey(st), e.Thing))
	if err == nil {
		err = j.withPointers(ctx, st, e, j.cup.Restore)
	}
	if err == nil && st.Change.Rename != "" { // its name is another's by now
		err = j.rename(ctx, j.stepKey(st)+"/name", st, e)
	}
	return err
}

// discard bins a thing with its pointers, as it was looked at: a *cupboard.Conflict where somebody
// wrote in it since.
func (j *job) discard(ctx context.Context, st ledger.Step, e ledger.Entry) error {
	seen := cupboard.Seen(st.Change.Seen)
	if st.Change.Base > 0 { // as a line of a version before said it
		seen = cupboard.Seen{e.Thing: st.Change.Base}
	}
	err := j.unless(ctx, e, ledger.InBin, j.cup.Bin(ctx, j.owner, j.stepKey(st), e.Thing, seen))
	if err != nil {
		return err
	}
	return j.withPointers(ctx, st, e, func(ctx context.Context, as, key, id string) error { return j.cup.Bin(ctx, as, key, id, nil) })
}

// lift takes away the marks that we put on things which pass to others, as who keeps them until then.
func (j *job) lift(ctx context.Context, st ledger.Step, as string, things ...string) error {
	entries, err := j.store.EntriesByThing(ctx, things)
	if err != nil {
		return err
	}
	for thing, e := range entries {
		if e.Mark == nil {
			continue
		}
		err := j.cup.Reopen(ctx, as, j.stepKey(st)+"/open/"+thing, thing)
		if err != nil && !errors.Is(err, cupboard.ErrNotFound) && !errors.Is(err, cupboard.ErrNoRight) { // it isn't there any more
			return err
		}
	}
	return nil
}

// handOver makes somebody else the owner, once anyone who keeps reaching it does, and those who
// don't are out: what is their own isn't closed.
func (j *job) handOver(ctx context.Context, st ledger.Step, e ledger.Entry) error {
	if err := j.lift(ctx, st, j.owner, append(slices.Clone(st.Change.Inside), e.Thing)...); err != nil {
		return err
	}
	if off := st.Change.Off; len(off) > 0 {
		alone, out := true, map[string]access.Level{}
		for _, account := range off {
			out[account] = access.Nothing
		}
		for _, thing := range st.Change.Within {
			err := j.cup.SetRule(ctx, j.owner, j.stepKey(st)+"/off/"+thing, thing, cupboard.RuleChange{Levels: out})
			if err != nil && !errors.Is(err, cupboard.ErrNotFound) {
				return err
			}
		}
		if err := j.cup.SetRule(ctx, j.owner, j.stepKey(st)+"/off", e.Thing, cupboard.RuleChange{Levels: out, StandsAlone: &alone}); err != nil {
			return err
		}
	}
	if grants := st.Wanted.Rule.Grants; len(grants) > 0 {
		if err := j.cup.Share(ctx, j.owner, j.shareKey(st, grants), e.Thing, grants); err != nil {
			return err
		}
	}
	return j.cup.HandOver(ctx, j.owner, j.stepKey(st), e.Thing, st.Change.To)
}

// lookAgain asks again how a thing stands that was told of while it was changed. The line has ended
// all the same; each list that is looked at asks again.
func (j *job) lookAgain(ctx context.Context, thing string) {
	if err := j.look.Observe(ctx, []store.Concern{{Thing: thing, Class: j.run.ClassID, Owner: j.owner}}); err != nil {
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
	if err := j.lift(ctx, st, b.Owner, append(slices.Clone(b.Copies), b.Thing)...); err != nil {
		return j.failed(ctx, st, nil, err)
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
func (j *job) withPointers(ctx context.Context, st ledger.Step, e ledger.Entry,
	do func(ctx context.Context, as, key, id string) error) error {
	for folder, pointer := range e.Pointers {
		if err := do(ctx, j.owner, j.stepKey(st)+"/"+folder, pointer); err != nil &&
			!errors.Is(err, cupboard.ErrNotFound) && !errors.Is(err, cupboard.ErrNoRight) {
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

// lower lowers an account's level. A copy is in a folder its student can edit:
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
