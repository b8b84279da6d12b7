package store

import (
	"context"
	"database/sql"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/packing"
)

// An Entry of the ledger is one thing made: with id, link, what was granted,
// when and by which run.
type Entry struct {
	ID         string
	Key        packing.Key
	Generation int
	Thing      string
	Link       string
	Name       string                  // the one given last
	Granted    map[string]access.Level // whom we gave which level
	Pointers   map[string]string       // key of the folder → id of the pointer in it
	RunID      string
	MadeAt     time.Time
	SharedAt   time.Time // zero: not shared
	EndedAt    time.Time // zero: open
}

// Shared reports whether what was made was given to whom it is for.
func (e Entry) Shared() bool { return !e.SharedAt.IsZero() }

const entryColumns = `id, key, generation, thing, link, name, granted, pointers, run_id, made_at, shared_at, ended_at`

type entryRow struct {
	ID         string                        `db:"id"`
	Key        string                        `db:"key"`
	Generation int                           `db:"generation"`
	Thing      string                        `db:"thing"`
	Link       string                        `db:"link"`
	Name       string                        `db:"name"`
	Granted    JSON[map[string]access.Level] `db:"granted"`
	Pointers   JSON[map[string]string]       `db:"pointers"`
	RunID      string                        `db:"run_id"`
	MadeAt     time.Time                     `db:"made_at"`
	SharedAt   sql.NullTime                  `db:"shared_at"`
	EndedAt    sql.NullTime                  `db:"ended_at"`
}

func (r entryRow) entry() (Entry, error) {
	key, err := packing.ParseKey(r.Key)
	return Entry{
		ID: r.ID, Key: key, Generation: r.Generation, Thing: r.Thing, Link: r.Link, Name: r.Name, Granted: r.Granted.V, Pointers: r.Pointers.V, RunID: r.RunID,
		MadeAt: r.MadeAt.UTC(), SharedAt: r.SharedAt.Time.UTC(), EndedAt: r.EndedAt.Time.UTC(),
	}, err
}

// Ledger returns a class's open entries.
func (s *Store) Ledger(ctx context.Context, class string) ([]Entry, error) {
	var rows []entryRow
	if err := s.all(ctx, &rows, `select `+entryColumns+` from ledger where class_id = $1 and ended_at is null order by key`, class); err != nil {
		return nil, err
	}
	out := make([]Entry, len(rows))
	for i, r := range rows {
		var err error
		if out[i], err = r.entry(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Generations returns, by key, the last generation of what was made in a class
// and has ended.
func (s *Store) Generations(ctx context.Context, class string) (map[packing.Key]int, error) {
	var rows []struct {
		Key string `db:"key"`
		N   int    `db:"n"`
	}
	if err := s.all(ctx, &rows, `select key, max(generation) as n from ledger where class_id = $1 and ended_at is not null group by key`, class); err != nil {
		return nil, err
	}
	out := make(map[packing.Key]int, len(rows))
	for _, r := range rows {
		k, err := packing.ParseKey(r.Key)
		if err != nil {
			return nil, err
		}
		out[k] = r.N
	}
	return out, nil
}

func (s *Store) entry(ctx context.Context, where string, arg any) (Entry, error) {
	var r entryRow
	if err := s.get(ctx, &r, `select `+entryColumns+` from ledger where `+where, arg); err != nil {
		return Entry{}, err
	}
	return r.entry()
}

// EntryByKey returns the open entry of a key.
func (s *Store) EntryByKey(ctx context.Context, key packing.Key) (Entry, error) {
	return s.entry(ctx, `key = $1 and ended_at is null`, key.String())
}

// EntryByThing returns the entry of a thing.
func (s *Store) EntryByThing(ctx context.Context, thing string) (Entry, error) {
	return s.entry(ctx, `thing = $1`, thing)
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
	if err := s.all(ctx, &rows, `select o.thing, o.first_at from openings o join ledger l on l.thing = o.thing join rows r on r.id = l.row_id and r.account = o.account where l.class_id = $1`, class); err != nil {
		return nil, err
	}
	m := make(map[string]time.Time, len(rows))
	for _, r := range rows {
		m[r.Thing] = r.At
	}
	return m, nil
}
