package packer

import (
	"context"
	"encoding/json"
	"errors"
	"math/rand/v2"
	"time"

	"github.com/jackc/pgerrcode"
	"github.com/jackc/pgx/v5/pgconn"

	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

// mostEnded is how often something is looked for of which one after the other has ended.
const mostEnded = 50

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
		return j.record(ctx, st, e, packing.Stuck,
			&packing.Reason{Code: "cupboard-unknown", Args: map[string]string{"accounts": joined(unknown.Accounts)}})
	case errors.Is(err, store.ErrNotFound): // what it is in was never made
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
	owner, err := j.store.OwnerOfThings(ctx, j.run.ClassID)
	return err == nil && owner != j.owner
}

// lasting reports an error of the database that the same statement would meet
// again: a rule of its own was broken, or the statement makes no sense to it.
func lasting(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && (pgerrcode.IsIntegrityConstraintViolation(pg.Code) ||
		pgerrcode.IsDataException(pg.Code) || pgerrcode.IsSyntaxErrororAccessRuleViolation(pg.Code))
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
