package packer

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"math/rand/v2"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

// pack does one line: make, share, point, each with a key of its own, then
// records what came of it. What the cupboard refuses ends the line stuck; what
// it couldn't do just now puts the line off.
func (j *job) pack(ctx context.Context, st store.Step) error {
	w := st.Wish.V
	e, err := j.store.EntryByKey(ctx, st.Key)
	made := err == nil
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	if !made {
		t, err := j.make(ctx, st.Key, w)
		if err != nil {
			return j.failed(ctx, st, nil, err)
		}
		e = store.Entry{
			ID: store.NewID(), ClassID: j.run.ClassID, Key: st.Key, Purpose: w.Purpose, PersonID: null(w.Person), HandoutID: null(w.Handout),
			Thing: t.ID, Link: t.Link, Name: w.Name, RunID: j.run.ID, MadeAt: j.now(),
		}
	}
	e.Granted.V = map[string]access.Level{}
	if len(w.Rule.Grants) > 0 {
		if err := j.store.Renew(ctx, st, j.name, lease); err != nil {
			return ignoreLost(err)
		}
		if err := j.cup.Share(ctx, j.owner, shareKey(st.Key, w.Rule.Grants), e.Thing, w.Rule.Grants); err != nil {
			return j.failed(ctx, st, &e, err)
		}
		e.Granted.V = w.Rule.Grants
	}
	if !e.SharedAt.Valid {
		e.SharedAt = sql.NullTime{Time: j.now(), Valid: true}
	}
	if w.Pointer != "" && !e.Pointer.Valid {
		folder, err := j.store.EntryByKey(ctx, string(w.Pointer))
		if err != nil {
			return err
		}
		if err := j.store.Renew(ctx, st, j.name, lease); err != nil {
			return ignoreLost(err)
		}
		pt, err := j.cup.MakePointer(ctx, j.owner, st.Key+"#pointer", e.Thing, cupboard.NewThing{Parent: folder.Thing, Name: w.Name})
		if err != nil {
			return j.failed(ctx, st, &e, err)
		}
		e.Pointer = null(pt.ID)
	}
	return j.record(ctx, st, &e, store.StepPacked, nil)
}

func (j *job) make(ctx context.Context, key string, w packing.Wish) (cupboard.Thing, error) {
	n := cupboard.NewThing{Name: w.Name, StandsAlone: w.Rule.StandsAlone}
	if w.Parent != "" {
		parent, err := j.store.EntryByKey(ctx, string(w.Parent))
		if err != nil {
			return cupboard.Thing{}, err
		}
		n.Parent = parent.Thing
	}
	if w.Kind == packing.Copy {
		return j.cup.CopyFile(ctx, j.owner, key, w.Source, n)
	}
	return j.cup.MakeFolder(ctx, j.owner, key, n)
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
	case errors.Is(err, cupboard.ErrNotFound):
		return j.record(ctx, st, e, store.StepStuck, &packing.Reason{Code: "cupboard-gone"})
	case errors.Is(err, cupboard.ErrNoRight):
		return j.record(ctx, st, e, store.StepStuck, &packing.Reason{Code: "cupboard-refused"})
	}
	return err
}

// record keeps what was done in one transaction: ledger, line and the class's
// revision, which is also the news for those who watch.
func (j *job) record(ctx context.Context, st store.Step, e *store.Entry, state string, why *packing.Reason) error {
	return j.store.Tx(ctx, func(tx *store.Store) error {
		if e != nil {
			if err := tx.Record(ctx, *e); err != nil {
				return err
			}
		}
		if err := tx.FinishStep(ctx, st, state, why, j.now()); err != nil {
			return err
		}
		return tx.Touch(ctx, j.run.ClassID)
	})
}

// shareKey names a grant of access by what it grants: the same again is the
// same step, a newcomer on the shelf is another.
func shareKey(key string, grants map[string]access.Level) string {
	b, _ := json.Marshal(grants) // map keys are sorted
	sum := sha256.Sum256(b)
	return key + "#share-" + hex.EncodeToString(sum[:8])
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
