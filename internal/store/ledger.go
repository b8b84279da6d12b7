package store

import (
	"context"
	"database/sql"
	"time"

	"jollysatchel/internal/core/access"
)

// An Entry of the ledger is one thing made: with id, link, what was granted,
// when and by which run.
type Entry struct {
	ID        string                        `db:"id"`
	ClassID   string                        `db:"class_id"`
	Key       string                        `db:"key"`
	Purpose   string                        `db:"purpose"`
	PersonID  sql.NullString                `db:"person_id"`
	HandoutID sql.NullString                `db:"handout_id"`
	Thing     string                        `db:"thing"`
	Link      string                        `db:"link"`
	Name      string                        `db:"name"`
	Granted   JSON[map[string]access.Level] `db:"granted"`
	RunID     string                        `db:"run_id"`
	MadeAt    time.Time                     `db:"made_at"`
	SharedAt  sql.NullTime                  `db:"shared_at"`
	Pointer   sql.NullString                `db:"pointer"`
	EndedAt   sql.NullTime                  `db:"ended_at"`
}

const entryColumns = `id, class_id, key, purpose, person_id, handout_id, thing, link, name, granted, run_id, made_at, shared_at, pointer, ended_at`

// Ledger returns a class's open entries.
func (s *Store) Ledger(ctx context.Context, class string) ([]Entry, error) {
	out := []Entry{}
	return out, s.all(ctx, &out, `select `+entryColumns+` from ledger where class_id = $1 and ended_at is null order by key`, class)
}

// EntryByKey returns the open entry of a key.
func (s *Store) EntryByKey(ctx context.Context, key string) (Entry, error) {
	var e Entry
	return e, s.get(ctx, &e, `select `+entryColumns+` from ledger where key = $1 and ended_at is null`, key)
}

// EntryByThing returns the entry of a thing.
func (s *Store) EntryByThing(ctx context.Context, thing string) (Entry, error) {
	var e Entry
	return e, s.get(ctx, &e, `select `+entryColumns+` from ledger where thing = $1`, thing)
}

// EntriesOf returns the open entries made for a person in all classes.
func (s *Store) EntriesOf(ctx context.Context, person string) ([]Entry, error) {
	out := []Entry{}
	return out, s.all(ctx, &out, `select `+entryColumns+` from ledger where person_id = $1 and ended_at is null order by made_at`, person)
}

// A Work is how far a copy has come.
type Work struct {
	Thing   string `db:"thing"`
	Version int    `db:"version"`
	Begun   bool   `db:"begun"`
	Added   int    `db:"added"`
	Removed int    `db:"removed"`
}

// SaveWork notes how far a copy has come and, for its day, the words there are.
func (s *Store) SaveWork(ctx context.Context, w Work, day string) error {
	if err := s.exec(ctx, `insert into work (thing, version, begun, added, removed) values ($1, $2, $3, $4, $5)
		on conflict (thing) do update set version = excluded.version, begun = excluded.begun, added = excluded.added, removed = excluded.removed where work.version <= excluded.version`,
		w.Thing, w.Version, w.Begun, w.Added, w.Removed); err != nil {
		return err
	}
	return s.exec(ctx, `insert into work_days (thing, day, added) values ($1, $2, $3) on conflict (thing, day) do update set added = excluded.added`, w.Thing, day, w.Added)
}

// Works returns how far the copies of a class have come, by thing.
func (s *Store) Works(ctx context.Context, class string) (map[string]Work, error) {
	var ws []Work
	if err := s.all(ctx, &ws, `select w.thing, w.version, w.begun, w.added, w.removed from work w join ledger l on l.thing = w.thing where l.class_id = $1`, class); err != nil {
		return nil, err
	}
	m := make(map[string]Work, len(ws))
	for _, w := range ws {
		m[w.Thing] = w
	}
	return m, nil
}

// A WorkDay is the number of words added up to the end of a day.
type WorkDay struct {
	Thing string    `db:"thing"`
	Day   time.Time `db:"day"`
	Added int       `db:"added"`
}

// WorkDays returns the days on which the copies of a class were written.
func (s *Store) WorkDays(ctx context.Context, class string) ([]WorkDay, error) {
	out := []WorkDay{}
	return out, s.all(ctx, &out, `select d.thing, d.day, d.added from work_days d join ledger l on l.thing = d.thing where l.class_id = $1 order by d.day`, class)
}

// NoteOpening keeps when an account first opened a thing of the ledger. It
// reports whether that was now.
func (s *Store) NoteOpening(ctx context.Context, thing, account string, at time.Time) (bool, error) {
	res, err := s.Q.ExecContext(ctx, `insert into openings (thing, account, first_at) values ($1, $2, $3) on conflict do nothing`, thing, account, at)
	if err != nil {
		return false, err
	}
	n, err := res.RowsAffected()
	return n > 0, err
}

// Openings returns when the things of a class were first opened by the person
// they were made for, by thing.
func (s *Store) Openings(ctx context.Context, class string) (map[string]time.Time, error) {
	var rows []struct {
		Thing string    `db:"thing"`
		At    time.Time `db:"first_at"`
	}
	if err := s.all(ctx, &rows, `select o.thing, o.first_at from openings o join ledger l on l.thing = o.thing join people p on p.id = l.person_id and p.account = o.account where l.class_id = $1`, class); err != nil {
		return nil, err
	}
	m := make(map[string]time.Time, len(rows))
	for _, r := range rows {
		m[r.Thing] = r.At
	}
	return m, nil
}
