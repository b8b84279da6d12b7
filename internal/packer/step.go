package packer

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"math/rand/v2"
	"strings"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

// pack does one line: make, share, point, each with a key of its own, then
// records what came of it. What the cupboard refuses ends the line stuck; what
// it couldn't do just now puts the line off. A thing made before is made again
// with its key: the cupboard answers with what is there.
func (j *job) pack(ctx context.Context, st store.Step) error {
	w := st.Wish.V
	if w.Change != nil {
		return j.alter(ctx, st, *w.Change)
	}
	claimed := time.Now()
	t, err := j.make(ctx, st.Key, w)
	if err != nil {
		return j.failed(ctx, st, nil, err)
	}
	e := store.Entry{
		ID: store.NewID(), ClassID: j.run.ClassID, Key: st.Key, Purpose: w.Purpose, PersonID: null(w.Person), HandoutID: null(w.Handout),
		Thing: t.ID, Link: t.Link, Name: w.Name, RunID: j.run.ID, MadeAt: j.now(), Granted: store.JSON[map[string]access.Level]{V: map[string]access.Level{}},
	}
	if len(w.Rule.Grants) > 0 {
		if err := j.hold(ctx, st, &claimed); err != nil {
			return ignoreLost(err)
		}
		if err := j.cup.Share(ctx, j.owner, j.shareKey(st.Key, w.Rule.Grants), e.Thing, w.Rule.Grants); err != nil {
			return j.failed(ctx, st, &e, err)
		}
		e.Granted.V = w.Rule.Grants
	}
	e.SharedAt = sql.NullTime{Time: j.now(), Valid: true}
	if w.Pointer != "" {
		folder, err := j.thing(ctx, w.Pointer)
		if err != nil {
			return j.failed(ctx, st, &e, err)
		}
		if err := j.hold(ctx, st, &claimed); err != nil {
			return ignoreLost(err)
		}
		pt, err := j.cup.MakePointer(ctx, j.owner, st.Key+"#pointer", e.Thing, cupboard.NewThing{Parent: folder, Name: w.Name})
		if err != nil {
			return j.failed(ctx, st, &e, err)
		}
		e.Pointer = null(pt.ID)
	}
	return j.record(ctx, st, &e, store.StepPacked, nil)
}

// alter does what a line to change says about a thing already made: its name
// and that of the pointer to it, and access that ends.
func (j *job) alter(ctx context.Context, st store.Step, c packing.Change) error {
	e, err := j.store.EntryByKey(ctx, strings.TrimSuffix(st.Key, string(packing.ChangeKey(""))))
	if err != nil {
		return j.failed(ctx, st, nil, err)
	}
	key := j.run.ID + "/" + st.Key
	if c.Rename != "" {
		if err := j.cup.Rename(ctx, j.owner, key+"-name", e.Thing, c.Rename); err != nil {
			return j.failed(ctx, st, nil, err)
		}
		if e.Pointer.Valid {
			if err := j.cup.Rename(ctx, j.owner, key+"-pointer", e.Pointer.String, c.Rename); err != nil && !errors.Is(err, cupboard.ErrNotFound) {
				return j.failed(ctx, st, nil, err)
			}
		}
	}
	if len(c.Take) > 0 {
		if err := j.cup.Unshare(ctx, j.owner, key+"-take", e.Thing, c.Take); err != nil {
			return j.failed(ctx, st, nil, err)
		}
	}
	if err := j.store.FinishChange(ctx, e.ID, c); err != nil {
		return err
	}
	return j.record(ctx, st, nil, store.StepPacked, nil)
}

// hold renews the lease where a good part of it has passed.
func (j *job) hold(ctx context.Context, st store.Step, claimed *time.Time) error {
	if time.Since(*claimed) < lease/3 {
		return nil
	}
	*claimed = time.Now()
	return j.store.Renew(ctx, st, j.name, lease)
}

func (j *job) make(ctx context.Context, key string, w packing.Wish) (cupboard.Thing, error) {
	n := cupboard.NewThing{Name: w.Name, StandsAlone: w.Rule.StandsAlone}
	if w.Parent != "" {
		var err error
		if n.Parent, err = j.thing(ctx, w.Parent); err != nil {
			return cupboard.Thing{}, err
		}
	}
	if w.Kind == packing.Copy {
		return j.cup.CopyFile(ctx, j.owner, key, w.Source, n)
	}
	return j.cup.MakeFolder(ctx, j.owner, key, n)
}

// thing returns the cupboard id of what was made for a key.
func (j *job) thing(ctx context.Context, key packing.Key) (string, error) {
	if id, ok := j.things.Load(key); ok {
		return id.(string), nil
	}
	e, err := j.store.EntryByKey(ctx, string(key))
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
		return j.record(ctx, st, e, store.StepStuck, &packing.Reason{Code: "cupboard-unavailable"})
	case errors.As(err, &unknown):
		return j.record(ctx, st, e, store.StepStuck, &packing.Reason{Code: "cupboard-unknown", Args: map[string]string{"accounts": joined(unknown.Accounts)}})
	case errors.Is(err, store.ErrNotFound): // what it lies in was never made
		return j.record(ctx, st, e, store.StepStuck, &packing.Reason{Code: "parent-stuck"})
	case errors.Is(err, cupboard.ErrNotFound):
		return j.record(ctx, st, e, store.StepStuck, &packing.Reason{Code: "cupboard-gone"})
	case errors.Is(err, cupboard.ErrNoRight):
		return j.record(ctx, st, e, store.StepStuck, &packing.Reason{Code: "cupboard-refused"})
	}
	return err
}

// record keeps what was done, ledger and line in one statement, and sees to it
// that those who watch are told.
func (j *job) record(ctx context.Context, st store.Step, e *store.Entry, state string, why *packing.Reason) error {
	if err := j.store.FinishStep(ctx, st, e, state, why, j.now()); err != nil {
		return err
	}
	if e != nil {
		j.things.Store(packing.Key(st.Key), e.Thing)
	}
	select {
	case j.news <- struct{}{}:
	default: // told of already
	}
	return nil
}

// tell raises the class's revision after changes, at most ten times a second
// while the work goes on, until no more come.
func (j *job) tell(ctx context.Context) {
	for range j.news {
		if err := j.store.Touch(ctx, j.run.ClassID); err != nil && ctx.Err() == nil {
			j.log.Error("telling of progress", "run", j.run.ID, "error", err)
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
func (j *job) shareKey(key string, grants map[string]access.Level) string {
	b, _ := json.Marshal(grants) // map keys are sorted
	sum := sha256.Sum256(b)
	return j.run.ID + "/" + key + "#share-" + hex.EncodeToString(sum[:8])
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

func null(s string) sql.NullString { return sql.NullString{String: s, Valid: s != ""} }

func joined(s []string) string {
	b, _ := json.Marshal(s)
	return string(b)
}
