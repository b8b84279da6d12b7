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
	"time"

	"github.com/jackc/pgerrcode"
	"github.com/jackc/pgx/v5/pgconn"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

// pack does one line, computed again from the class as it is now: make, share,
// point, each with a key of its own, then records what came of it. What the
// cupboard refuses ends the line stuck; what it couldn't do just now puts the
// line off. A thing made before is made again with its key: the cupboard answers
// with what is there.
func (j *job) pack(ctx context.Context, st store.Step, wants int64) error {
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
	claimed := time.Now()
	e, err := j.thingFor(ctx, st)
	if err != nil {
		return j.failed(ctx, st, nil, err)
	}
	w := st.Wanted
	if len(w.Rule.Grants) > 0 {
		if err := j.hold(ctx, st, &claimed); err != nil {
			return ignoreLost(err)
		}
		if err := j.cup.Share(ctx, j.owner, j.shareKey(st, w.Rule.Grants), e.Thing, w.Rule.Grants); err != nil {
			return j.failed(ctx, st, &e, err)
		}
		e.Granted = w.Rule.Grants
	}
	if st.Act == packing.Share && w.Kind == packing.File && !w.Rule.StandsAlone {
		open := false // it may have stood alone while its level was lower
		if err := j.cup.SetRule(ctx, j.owner, j.stepKey(st)+"/open", e.Thing, cupboard.RuleChange{StandsAlone: &open}); err != nil {
			return j.failed(ctx, st, &e, err)
		}
	}
	e.SharedAt = j.now()
	for _, k := range w.Pointers {
		folder, err := j.thing(ctx, k)
		if err != nil {
			return j.failed(ctx, st, &e, err)
		}
		if err := j.hold(ctx, st, &claimed); err != nil {
			return ignoreLost(err)
		}
		key := packing.StepKey{Key: st.Key, Act: packing.Point, Generation: st.Generation}
		pt, err := j.cup.MakePointer(ctx, j.owner, key.String()+"/"+k.String(), e.Thing, cupboard.NewThing{Parent: folder, Name: w.Name})
		if err != nil {
			return j.failed(ctx, st, &e, err)
		}
		e.Pointers[k.String()] = pt.ID
	}
	return j.record(ctx, st, &e, packing.Packed, nil)
}

// thingFor makes what a line is about, or finds it where it is there already.
func (j *job) thingFor(ctx context.Context, st store.Step) (store.Entry, error) {
	if st.Act != packing.Make {
		e, err := j.store.EntryByKey(ctx, st.Key)
		e.ID, e.Granted, e.Pointers, e.RunID = store.NewID(), nil, map[string]string{}, j.run.ID
		return e, err
	}
	t, err := j.make(ctx, st)
	return store.Entry{
		ID: store.NewID(), Key: st.Key, Generation: st.Generation, Thing: t.ID, Link: t.Link, Name: st.Wanted.Name, Pointers: map[string]string{}, RunID: j.run.ID, MadeAt: j.now(),
	}, err
}

// alter does what a line to change says about a thing already made: its name
// and that of the pointers to it, access that ends, or a level that is lower.
func (j *job) alter(ctx context.Context, st store.Step) error {
	e, err := j.store.EntryByKey(ctx, st.Key)
	if err != nil {
		return j.failed(ctx, st, nil, err)
	}
	switch st.Act {
	case packing.Rename:
		err = j.rename(ctx, st, e)
	case packing.Take:
		err = j.cup.SetRule(ctx, j.owner, j.stepKey(st), e.Thing, cupboard.RuleChange{Levels: map[string]access.Level{st.Account: access.Nothing}})
	case packing.Lower:
		err = j.lower(ctx, st, e)
	default:
		err = fmt.Errorf("no way to %s", st.Act)
	}
	if err != nil {
		return j.failed(ctx, st, nil, err)
	}
	if err := j.store.FinishChange(ctx, st, e.ID, j.now()); err != nil {
		return err
	}
	j.tidings()
	return nil
}

func (j *job) rename(ctx context.Context, st store.Step, e store.Entry) error {
	if err := j.cup.Rename(ctx, j.owner, j.stepKey(st), e.Thing, st.Change.Rename); err != nil {
		return err
	}
	for folder, pointer := range e.Pointers {
		if err := j.cup.Rename(ctx, j.owner, j.stepKey(st)+"/"+folder, pointer, st.Change.Rename); err != nil && !errors.Is(err, cupboard.ErrNotFound) {
			return err
		}
	}
	return nil
}

// lower lowers an account's level. A copy lies in a folder its student can edit:
// it must stand alone from then on, with the staff in its own rule first.
func (j *job) lower(ctx context.Context, st store.Step, e store.Entry) error {
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
func (j *job) stepKey(st store.Step) string { return j.run.ID + "/" + st.StepKey.String() }

// hold renews the lease where a good part of it has passed.
func (j *job) hold(ctx context.Context, st store.Step, claimed *time.Time) error {
	if time.Since(*claimed) < lease/3 {
		return nil
	}
	*claimed = time.Now()
	return j.store.Renew(ctx, st, j.name, lease)
}

func (j *job) make(ctx context.Context, st store.Step) (cupboard.Thing, error) {
	w, key := st.Wanted, st.StepKey.String()
	n := cupboard.NewThing{Name: w.Name, StandsAlone: w.Rule.StandsAlone}
	if w.Parent != (packing.Key{}) {
		var err error
		if n.Parent, err = j.thing(ctx, w.Parent); err != nil {
			return cupboard.Thing{}, err
		}
	}
	if w.Kind == packing.File {
		return j.cup.CopyFile(ctx, j.owner, key, cupboard.Source{ID: w.Source, Reader: w.Lender}, n)
	}
	return j.cup.MakeFolder(ctx, j.owner, key, n)
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

// failed decides what an error means for the line; e is what was made of it so
// far, so that a thing made and not shared is known as such.
func (j *job) failed(ctx context.Context, st store.Step, e *store.Entry, err error) error {
	var fast *cupboard.TooFast
	var unknown *cupboard.UnknownPeople
	switch {
	case ctx.Err() != nil:
		return ctx.Err()
	case errors.As(err, &fast):
		return j.store.PutOff(ctx, st, fast.After)
	case errors.Is(err, cupboard.ErrUnavailable) && st.Tries < mostTries:
		return j.store.PutOff(ctx, st, backoff(st.Tries))
	case errors.Is(err, cupboard.ErrUnavailable):
		return j.record(ctx, st, e, packing.Stuck, &packing.Reason{Code: "cupboard-unavailable"})
	case errors.As(err, &unknown):
		return j.record(ctx, st, e, packing.Stuck, &packing.Reason{Code: "cupboard-unknown", Args: map[string]string{"accounts": joined(unknown.Accounts)}})
	case errors.Is(err, store.ErrNotFound): // what it lies in was never made
		return j.record(ctx, st, e, packing.Stuck, &packing.Reason{Code: "parent-stuck"})
	case errors.Is(err, cupboard.ErrNotFound):
		return j.record(ctx, st, e, packing.Stuck, &packing.Reason{Code: "cupboard-gone"})
	case errors.Is(err, cupboard.ErrNoRight):
		return j.record(ctx, st, e, packing.Stuck, &packing.Reason{Code: "cupboard-refused"})
	case st.Tries >= mostTries:
		report(j.log, err, "a line fails again and again", "run", j.run.ID, "line", st.Seq)
		return j.record(ctx, st, e, packing.Stuck, &packing.Reason{Code: "cannot-be-packed"})
	}
	return err
}

// lasting reports an error of the database that the same statement would meet
// again: a rule of its own was broken, or the statement makes no sense to it.
func lasting(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && (pgerrcode.IsIntegrityConstraintViolation(pg.Code) || pgerrcode.IsDataException(pg.Code) || pgerrcode.IsSyntaxErrororAccessRuleViolation(pg.Code))
}

// record keeps what was done, ledger and line in one statement, and sees to it
// that those who watch are told.
func (j *job) record(ctx context.Context, st store.Step, e *store.Entry, state packing.StepState, why *packing.Reason) error {
	err := j.store.FinishStep(ctx, st, e, state, why, j.now())
	if lasting(err) && e != nil {
		report(j.log, err, "a line can't be recorded", "run", j.run.ID, "line", st.Seq)
		e, err = nil, j.store.FinishStep(ctx, st, nil, packing.Stuck, &packing.Reason{Code: "cannot-be-packed"}, j.now())
	}
	if err != nil {
		return err
	}
	if e != nil {
		j.things.Store(st.Key, e.Thing)
	}
	j.tidings()
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
func (j *job) shareKey(st store.Step, grants map[string]access.Level) string {
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
