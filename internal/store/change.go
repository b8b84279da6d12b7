package store

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"time"

	"jollysatchel/internal/store/pg"

	"github.com/jackc/pgerrcode"
	"github.com/jackc/pgx/v5/pgconn"
)

// ErrKey says that something else was asked for with this key before.
var ErrKey = errors.New("store: the key was used for something else")

// ErrUnchanged is what the part of a change returns that found everything as it is asked for:
// nobody is told, and the log has nothing of it.
var ErrUnchanged = errors.New("store: nothing was changed")

// An Act is what somebody does to classes: who, what and with which arguments,
// as the log keeps it. Key, where there is one, names the asking: asked again
// with the same content, it is answered again and not done again.
type Act struct {
	By      string
	What    string
	Classes []string // held until it is done
	About   string   // for the log: the class, where none is held
	Args    any      // for the log
	Key     string
	Content any // what was asked for with the key
	At      time.Time
}

// mostTries bounds how often what the database asks to repeat is repeated.
const mostTries = 12

// Change is the one way classes and what belongs to them are changed. Within one
// transaction it holds the act's classes, in one order for everybody, runs do on
// the state as it is then, raises the classes' revisions, writes the log and, once all is
// kept, tells those who watch. do may run several times and must touch nothing
// but tx; the cupboard is never called inside. result, if not nil, points at
// what do makes; a repeated key fills it with the first answer.
func (s *Store) Change(ctx context.Context, act Act, result any, do func(tx *Store) error) error {
	for try := 0; ; try++ {
		err := s.Tx(ctx, func(tx *Store) error { return tx.change(ctx, act, result, do) })
		if !repeatable(err) || try == mostTries {
			return err
		}
		wait := time.Duration(1+rand.IntN(10<<min(try, 5))) * time.Millisecond
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(wait):
		}
	}
}

// repeatable reports that the database asks for the transaction to be begun
// again: it couldn't be put in a row with another, or they waited for each other.
func repeatable(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && (pg.Code == pgerrcode.SerializationFailure || pg.Code == pgerrcode.DeadlockDetected)
}

func (s *Store) change(ctx context.Context, act Act, result any, do func(tx *Store) error) error {
	if act.Key != "" {
		if answered, err := s.answered(ctx, act, result); answered || err != nil {
			return err
		}
	}
	if err := s.hold(ctx, act.Classes); err != nil {
		return err
	}
	err := do(s)
	if errors.Is(err, ErrUnchanged) {
		return s.answer(ctx, act, result)
	}
	if err != nil {
		return err
	}
	if err := s.Exec(ctx, `with raised as (update classes set revision = revision + 1, wants = wants + 1
		where id = any($1::uuid[]) returning id) select pg_notify('jolly', id::text) from raised`, act.Classes); err != nil {
		return err
	}
	if act.What != "" { // claiming a key alone is no act
		if err := s.log(ctx, act); err != nil {
			return err
		}
	}
	return s.answer(ctx, act, result)
}

// answer keeps what an act's key is answered with from now on.
func (s *Store) answer(ctx context.Context, act Act, result any) error {
	if act.Key == "" {
		return nil
	}
	b, err := json.Marshal(result)
	if err != nil {
		return err
	}
	return s.One(ctx, `update keys set result = $3 where account = $1 and key = $2`, act.By, act.Key, string(b))
}

// answered claims the act's key, or fills result with the answer it had before.
// Of two who use it at once the second waits for the first.
func (s *Store) answered(ctx context.Context, act Act, result any) (bool, error) {
	sum, err := act.digest()
	if err != nil {
		return false, err
	}
	res, err := s.Q.ExecContext(ctx, `insert into keys (account, key, digest, result, at) values ($1, $2, $3, 'null', $4)
		on conflict do nothing`, act.By, act.Key, sum, act.At)
	if err != nil {
		return false, err
	}
	if n, err := res.RowsAffected(); err != nil || n > 0 {
		return false, err
	}
	return s.Answered(ctx, act, result)
}

// digest tells what is asked for with a key from something else.
func (a Act) digest() ([]byte, error) {
	content, err := json.Marshal(a.Content)
	sum := sha256.Sum256(append([]byte(a.What+"\n"), content...))
	return sum[:], err
}

// Answered fills result with the answer an act's key had before, if it had one. With
// another content it is ErrKey.
func (s *Store) Answered(ctx context.Context, act Act, result any) (bool, error) {
	sum, err := act.digest()
	if err != nil {
		return false, err
	}
	var before struct {
		Digest []byte `db:"digest"`
		Result []byte `db:"result"`
	}
	if err := s.Get(ctx, &before, `select digest, result from keys
		where account = $1 and key = $2`, act.By, act.Key); errors.Is(err, pg.ErrNotFound) {
		return false, nil
	} else if err != nil {
		return false, err
	}
	if !bytes.Equal(before.Digest, sum) {
		return false, ErrKey
	}
	if result == nil {
		return true, nil
	}
	return true, json.Unmarshal(before.Result, result)
}

// hold keeps classes from being changed by others until the transaction ends.
// One that isn't there is pg.ErrNotFound.
func (s *Store) hold(ctx context.Context, classes []string) error {
	ids := slices.Clone(classes)
	slices.Sort(ids)
	ids = slices.Compact(ids)
	for _, id := range ids {
		if !pg.ValidID(id) {
			return pg.ErrNotFound
		}
	}
	var held []string
	if err := s.All(ctx, &held, `select id from classes where id = any($1::uuid[]) order by id for no key update`, ids); err != nil {
		return err
	}
	if len(held) < len(ids) {
		return pg.ErrNotFound
	}
	return nil
}

// An Entry of the log says who did what, when and with which arguments.
type LogEntry struct {
	At      time.Time       `db:"at"`
	Account string          `db:"account"`
	ClassID *string         `db:"class_id"`
	Act     string          `db:"act"`
	Args    json.RawMessage `db:"args"`
}

func (s *Store) log(ctx context.Context, act Act) error {
	args, err := json.Marshal(act.Args)
	if err != nil {
		return fmt.Errorf("log of %s: %w", act.What, err)
	}
	if len(act.Classes) == 0 {
		return s.Exec(ctx, `insert into log (id, at, account, class_id, act, args)
			values ($1, $2, $3, nullif($4, '')::uuid, $5, $6)`, pg.NewID(), act.At, act.By, act.About, act.What, string(args))
	}
	ids := make([]string, len(act.Classes))
	for i := range ids {
		ids[i] = pg.NewID()
	}
	return s.Exec(ctx, `insert into log (id, at, account, class_id, act, args) select l.id, $3, $4, l.class, $5,
		$6::jsonb from unnest($1::uuid[], $2::uuid[]) as l(id, class)`,
		ids, act.Classes, act.At, act.By, act.What, string(args))
}

// Log returns the latest entries of a class, newest first.
func (s *Store) Log(ctx context.Context, class string, most int) ([]LogEntry, error) {
	out := []LogEntry{}
	return out, s.All(ctx, &out, `select at, account, class_id, act, args from log where class_id = $1 order by n desc limit $2`, class, most)
}

// BadText reports that text was refused for a character no text holds: NUL.
func BadText(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && (pg.Code == pgerrcode.CharacterNotInRepertoire || pg.Code == pgerrcode.UntranslatableCharacter)
}

// ForgetSessions forgets the sessions that have ended by themselves.
func (s *Store) ForgetSessions(ctx context.Context) error {
	return s.Exec(ctx, `delete from sessions where expiry < current_timestamp`)
}

// ForgetKeys forgets the keys used before a moment: nobody repeats them.
func (s *Store) ForgetKeys(ctx context.Context, before time.Time) error {
	return s.Exec(ctx, `delete from keys where at < $1`, before)
}
