package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/progress"
	"jollysatchel/internal/store/pg"
)

const entryColumns = `id, key, generation, thing, link, name, spot, put_in, granted, pointers, run_id,
	given_sha, given_version, renewed_at, made_at, shared_at, ended_at, bound, handed_to, handed_off, closed,
	to_jsonb(waits) as waits`

type entryRow struct {
	ID         string       `db:"id"`
	Key        string       `db:"key"`
	Generation int          `db:"generation"`
	Thing      string       `db:"thing"`
	Link       string       `db:"link"`
	Name       string       `db:"name"`
	Spot       string       `db:"spot"`
	PutIn      string       `db:"put_in"`
	Granted    []byte       `db:"granted"`
	Pointers   []byte       `db:"pointers"`
	RunID      string       `db:"run_id"`
	GivenSHA   string       `db:"given_sha"`
	Given      int          `db:"given_version"`
	RenewedAt  sql.NullTime `db:"renewed_at"`
	MadeAt     time.Time    `db:"made_at"`
	SharedAt   sql.NullTime `db:"shared_at"`
	EndedAt    sql.NullTime `db:"ended_at"`
	Bound      string       `db:"bound"`
	HandedTo   string       `db:"handed_to"`
	HandedOff  bool         `db:"handed_off"`
	Closed     []byte       `db:"closed"`
	Waits      []byte       `db:"waits"`
}

func (r entryRow) entry(granted levels) (ledger.Entry, error) {
	e := ledger.Entry{ID: r.ID, Generation: r.Generation, Thing: r.Thing, Link: r.Link, Name: r.Name, Spot: r.Spot,
		PutIn: r.PutIn, RunID: r.RunID, GivenSHA: r.GivenSHA, Given: r.Given, RenewedAt: pg.OrZero(r.RenewedAt),
		MadeAt: r.MadeAt.UTC(), SharedAt: pg.OrZero(r.SharedAt), EndedAt: pg.OrZero(r.EndedAt), Bound: ledger.Bound(r.Bound),
		HandedTo: r.HandedTo, HandedOff: r.HandedOff}
	var err error
	if r.Closed != nil {
		if err = json.Unmarshal(r.Closed, &e.Mark); err != nil {
			return e, err
		}
	}
	if len(r.Waits) > len("[]") {
		if err = json.Unmarshal(r.Waits, &e.Waits); err != nil {
			return e, err
		}
	}
	if e.Key, err = packing.ParseKey(r.Key); err != nil {
		return e, err
	}
	if e.Granted, err = granted.read(r.Granted); err != nil {
		return e, err
	}
	if len(r.Pointers) > len("{}") {
		err = json.Unmarshal(r.Pointers, &e.Pointers)
	}
	return e, err
}

// Ledger returns a class's open entries. What they granted is shared between
// them and must not be changed.
func (s *Store) Ledger(ctx context.Context, class string) ([]ledger.Entry, error) {
	return s.entries(ctx, `class_id = $1 and ended_at is null order by key`, class)
}

// ofHandout are a class's entries that a handout's packing list is about: the room's, and its own.
const ofHandout = `class_id = $1 and ended_at is null and (handout_id is null or handout_id = $2::uuid)`

// orNoHandout is a handout's id as ofHandout takes it: of what is none, the room alone is left.
func orNoHandout(id string) *string {
	if !pg.ValidID(id) {
		return nil
	}
	return &id
}

// LedgerFor is Ledger of what a handout's packing list is about.
func (s *Store) LedgerFor(ctx context.Context, class, handout string) ([]ledger.Entry, error) {
	return s.entries(ctx, ofHandout+` order by key`, class, orNoHandout(handout))
}

const ofRow = `class_id = $1 and ended_at is null
	and (row_id = nullif($2, '')::uuid or team_id = any($3::uuid[])
		or row_id is null and team_id is null and (handout_id is null or purpose = 'copy'))`

// LedgerOf returns the open entries of one row of a class and of some teams, and
// those of the class's places and of what the whole class was given.
func (s *Store) LedgerOf(ctx context.Context, class, row string, teams []string) ([]ledger.Entry, error) {
	return s.entries(ctx, ofRow+` order by key`, class, row, teams)
}

// EntriesByThing returns the entries of those things that have one.
func (s *Store) EntriesByThing(ctx context.Context, things []string) (map[string]ledger.Entry, error) {
	found, err := s.entries(ctx, `thing = any($1)`, things)
	out := make(map[string]ledger.Entry, len(found))
	for _, e := range found {
		out[e.Thing] = e
	}
	return out, err
}

// HandedOver is how many copies of a handout were handed over.
func (s *Store) HandedOver(ctx context.Context, class, handout string) (int, error) {
	var n int
	return n, s.Get(ctx, &n, `select count(*) from ledger where class_id = $1 and handout_id = nullif($2, '')::uuid
		and purpose = 'copy' and handed_to <> '' and ended_at is null`, class, handout)
}

// EntriesByKey returns the open entries of those keys that have one.
func (s *Store) EntriesByKey(ctx context.Context, keys []packing.Key) (map[packing.Key]ledger.Entry, error) {
	texts := make([]string, len(keys))
	for i, k := range keys {
		texts[i] = k.String()
	}
	found, err := s.entries(ctx, `key = any($1) and ended_at is null`, texts)
	out := make(map[packing.Key]ledger.Entry, len(found))
	for _, e := range found {
		out[e.Key] = e
	}
	return out, err
}

func (s *Store) entries(ctx context.Context, where string, args ...any) ([]ledger.Entry, error) {
	var rows []entryRow
	if err := s.All(ctx, &rows, `select `+entryColumns+` from ledger where `+where, args...); err != nil {
		return nil, err
	}
	out := make([]ledger.Entry, len(rows))
	granted := levels{}
	for i, r := range rows {
		var err error
		if out[i], err = r.entry(granted); err != nil {
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
	if err := s.All(ctx, &rows, `select key, max(generation) as n from ledger
		where class_id = $1 and ended_at is not null group by key`, class); err != nil {
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

func (s *Store) entry(ctx context.Context, where string, arg any) (ledger.Entry, error) {
	var r entryRow
	if err := s.Get(ctx, &r, `select `+entryColumns+` from ledger where `+where, arg); err != nil {
		return ledger.Entry{}, err
	}
	return r.entry(levels{})
}

// EntryByKey returns the open entry of a key.
func (s *Store) EntryByKey(ctx context.Context, key packing.Key) (ledger.Entry, error) {
	return s.entry(ctx, `key = $1 and ended_at is null`, key.String())
}

// SaveWork notes how far a copy has come and, for its day, the words there are.
func (s *Store) SaveWork(ctx context.Context, w ledger.Work, day string) error {
	if err := s.Exec(ctx, `insert into work (thing, version, begun, added, removed, uncounted) values ($1, $2, $3, $4, $5, $6)
		on conflict (thing) do update set version = excluded.version, begun = excluded.begun, added = excluded.added,
			removed = excluded.removed, uncounted = excluded.uncounted where work.version <= excluded.version`,
		w.Thing, w.Version, w.Begun, w.Added, w.Removed, w.Uncounted); err != nil || w.Uncounted {
		return err
	}
	return s.Exec(ctx, `insert into work_days (thing, day, added) values ($1, $2, $3) on conflict (thing, day) do update
		set added = excluded.added`, w.Thing, day, w.Added)
}

// Works returns how far the copies of a class have come, by thing.
func (s *Store) Works(ctx context.Context, class string) (map[string]ledger.Work, error) {
	return s.works(ctx, `class_id = $1 and ended_at is null`, class)
}

// WorksFor is Works of one handout's copies.
func (s *Store) WorksFor(ctx context.Context, class, handout string) (map[string]ledger.Work, error) {
	return s.works(ctx, `class_id = $1 and ended_at is null and handout_id = $2`, class, handout)
}

// WorksOf is Works of what LedgerOf returns.
func (s *Store) WorksOf(ctx context.Context, class, row string, teams []string) (map[string]ledger.Work, error) {
	return s.works(ctx, ofRow, class, row, teams)
}

func (s *Store) works(ctx context.Context, where string, args ...any) (map[string]ledger.Work, error) {
	var ws []ledger.Work
	if err := s.All(ctx, &ws, `select w.thing, w.version, w.begun, w.added, w.removed, w.uncounted from work w
		join ledger l on l.thing = w.thing where `+where, args...); err != nil {
		return nil, err
	}
	m := make(map[string]ledger.Work, len(ws))
	for _, w := range ws {
		m[w.Thing] = w
	}
	return m, nil
}

// WorkDays returns, by thing, how many words there were at the end of the days
// since first on which the copies of a class were written, or of a handout in it, and of the
// last before.
func (s *Store) WorkDays(ctx context.Context, class, handout string, first time.Time) (map[string][]progress.Tally, error) {
	var rows []struct {
		Thing string    `db:"thing"`
		Day   time.Time `db:"day"`
		Added int       `db:"added"`
	}
	if err := s.All(ctx, &rows, `
		select d.thing, d.day, d.added from ledger l join work_days d on d.thing = l.thing
		where l.class_id = $1 and l.ended_at is null and ($3 = '' or l.handout_id::text = $3)
			and d.day >= coalesce((select max(day) from work_days b where b.thing = l.thing and b.day < $2::date), '-infinity')
				order by d.day`, class, first.Format(time.DateOnly), handout); err != nil {
		return nil, err
	}
	out := map[string][]progress.Tally{}
	for _, r := range rows {
		out[r.Thing] = append(out[r.Thing], progress.Tally{Day: r.Day, Added: r.Added})
	}
	return out, nil
}

// NoteOpening keeps when whom a thing of the ledger was made for, one of several too,
// opened it first; of others nothing is kept. It returns the thing's class, and whether that was now.
func (s *Store) NoteOpening(ctx context.Context, thing, account string, at time.Time) (class string, fresh bool, err error) {
	err = s.Get(ctx, &class, `with opened as (
			insert into openings (thing, account, first_at) select l.thing, r.account, $3 from ledger l
			join rows r on r.account = $2 and (r.id = l.row_id or l.row_id is null and l.purpose = 'copy'
				and r.class_id = l.class_id and l.granted ? $2)
			where l.thing = $1
			on conflict do nothing returning thing)
		select l.class_id from opened join ledger l on l.thing = opened.thing`, thing, account, at)
	if errors.Is(err, pg.ErrNotFound) {
		return "", false, nil
	}
	return class, err == nil, err
}

// OpenedBy says which of some things an account opened that was made for it.
func (s *Store) OpenedBy(ctx context.Context, account string, things []string) (map[string]bool, error) {
	var found []string
	err := s.All(ctx, &found, `select thing from openings where account = $1 and thing = any($2)`, account, things)
	out := make(map[string]bool, len(found))
	for _, thing := range found {
		out[thing] = true
	}
	return out, err
}

// Openings returns when the things of a class were first opened by those they were
// made for.
func (s *Store) Openings(ctx context.Context, class string) (map[ledger.Opening]time.Time, error) {
	var rows []struct {
		Thing   string    `db:"thing"`
		Account string    `db:"account"`
		At      time.Time `db:"first_at"`
	}
	if err := s.All(ctx, &rows, `select o.thing, o.account, o.first_at from openings o join ledger l on l.thing = o.thing
		where l.class_id = $1 and l.ended_at is null`, class); err != nil {
		return nil, err
	}
	m := make(map[ledger.Opening]time.Time, len(rows))
	for _, r := range rows {
		m[ledger.Opening{Thing: r.Thing, Account: r.Account}] = r.At
	}
	return m, nil
}
