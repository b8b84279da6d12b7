package store

import (
	"context"
	"database/sql"
	"strings"
	"time"

	"jollysatchel/internal/core/packing"
)

// States of a run.
const (
	RunPacking = "packing"
	RunPaused  = "paused"
	RunStopped = "stopped"
	RunDone    = "done"
)

// States of a step.
const (
	StepWaiting = "waiting"
	StepPacked  = "packed"
	StepStuck   = "stuck"
)

// A Run carries one packing list out.
type Run struct {
	ID         string         `db:"id"`
	ClassID    string         `db:"class_id"`
	HandoutID  sql.NullString `db:"handout_id"`
	Title      string         `db:"title"`
	State      string         `db:"state"`
	StartedBy  string         `db:"started_by"`
	StartedAt  time.Time      `db:"started_at"`
	FinishedAt sql.NullTime   `db:"finished_at"`
	Packed     int            `db:"packed"`
	Stuck      int            `db:"stuck"`
	Total      int            `db:"total"`
}

// A Step is one line of a run.
type Step struct {
	RunID  string                `db:"run_id"`
	Seq    int                   `db:"seq"`
	Key    string                `db:"key"`
	Wish   JSON[packing.Wish]    `db:"wish"`
	State  string                `db:"state"`
	Reason JSON[*packing.Reason] `db:"reason"`
	Tries  int                   `db:"tries"`
	DoneAt sql.NullTime          `db:"done_at"`
}

// InsertRun adds a run and its steps, all at once.
func (s *Store) InsertRun(ctx context.Context, r Run, steps []Step) error {
	if err := s.exec(ctx, `insert into runs (id, class_id, handout_id, title, state, started_by, started_at) values ($1, $2, $3, $4, $5, $6, $7)`,
		r.ID, r.ClassID, r.HandoutID, r.Title, r.State, r.StartedBy, r.StartedAt); err != nil {
		return err
	}
	var seqs []int
	var keys, needs, people, wishes, states, reasons []string
	for _, st := range steps {
		w, err := st.Wish.Value()
		if err != nil {
			return err
		}
		reason, err := st.Reason.Value()
		if err != nil {
			return err
		}
		seqs, keys, needs, people = append(seqs, st.Seq), append(keys, st.Key), append(needs, strings.Join(needed(st.Wish.V), " ")), append(people, st.Wish.V.Person)
		wishes, states, reasons = append(wishes, w.(string)), append(states, st.State), append(reasons, reason.(string))
	}
	return s.exec(ctx, `insert into steps (run_id, seq, key, needs, person_id, wish, state, reason, not_before)
		select $1, seq, key, string_to_array(needs, ' '), person, wish::jsonb, state, nullif(reason, 'null')::jsonb, to_timestamp(0)
		from unnest($2::int[], $3::text[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[]) as u(seq, key, needs, person, wish, state, reason)`,
		r.ID, seqs, keys, needs, people, wishes, states, reasons)
}

// needed lists the keys of the things a wish can't be packed without.
func needed(w packing.Wish) []string {
	out := []string{}
	for _, k := range []packing.Key{w.Parent, w.Pointer} {
		if k != "" {
			out = append(out, string(k))
		}
	}
	return out
}

const runQuery = `select r.id, r.class_id, r.handout_id, r.title, r.state, r.started_by, r.started_at, r.finished_at,
	count(*) filter (where s.state = 'packed') as packed, count(*) filter (where s.state = 'stuck') as stuck, count(s.seq) as total
	from runs r left join steps s on s.run_id = r.id `

// Run returns one run with its counts.
func (s *Store) Run(ctx context.Context, id string) (Run, error) {
	var r Run
	if !ValidID(id) {
		return r, ErrNotFound
	}
	return r, s.get(ctx, &r, runQuery+`where r.id = $1 group by r.id`, id)
}

// RecentRuns returns a class's runs that are not done, and the last done one.
func (s *Store) RecentRuns(ctx context.Context, class string) ([]Run, error) {
	out := []Run{}
	return out, s.all(ctx, &out, runQuery+`where r.class_id = $1 and (r.state in ('packing', 'paused') or r.id = (select id from runs where class_id = $1 order by started_at desc, id desc limit 1)) group by r.id order by r.started_at, r.id`, class)
}

// Steps returns a run's lines in order.
func (s *Store) Steps(ctx context.Context, run string) ([]Step, error) {
	out := []Step{}
	return out, s.all(ctx, &out, `select run_id, seq, key, wish, state, reason, tries, done_at from steps where run_id = $1 order by seq`, run)
}

// SetRunState changes a run's state from one of those given.
func (s *Store) SetRunState(ctx context.Context, id, state string, from ...string) error {
	return s.one(ctx, `update runs set state = $2 where id = $1 and state = any($3)`, id, state, from)
}

// ReopenStep puts a stuck line back to waiting with a new wish, and its run
// back to packing.
func (s *Store) ReopenStep(ctx context.Context, run string, seq int, w packing.Wish) error {
	if err := s.one(ctx, `update steps set state = 'waiting', reason = null, tries = 0, lease_until = null, wish = $3, key = $4, needs = $5, person_id = $6
		where run_id = $1 and seq = $2 and state = 'stuck'`, run, seq, JSON[packing.Wish]{w}, string(w.Key), needed(w), w.Person); err != nil {
		return err
	}
	return s.exec(ctx, `update runs set state = 'packing', finished_at = null where id = $1 and state in ('done', 'packing')`, run)
}

// StickStep notes on a stuck line why it is stuck now.
func (s *Store) StickStep(ctx context.Context, run string, seq int, reason packing.Reason) error {
	return s.one(ctx, `update steps set reason = $3 where run_id = $1 and seq = $2 and state = 'stuck'`, run, seq, JSON[packing.Reason]{reason})
}

// StuckKeys returns the keys of a class's lines that are stuck, with the run
// and line where each stuck last. Lines of things shared since
// and lines to change, which the next list offers again, are not among them.
func (s *Store) StuckKeys(ctx context.Context, class string) (map[string]Step, error) {
	var steps []Step
	err := s.all(ctx, &steps, `select distinct on (s.key) s.run_id, s.seq, s.key, s.wish, s.state, s.reason, s.tries, s.done_at
		from steps s join runs r on r.id = s.run_id left join ledger l on l.key = s.key and l.ended_at is null
		where r.class_id = $1 and s.state = 'stuck' and s.key not like '%#change' and l.shared_at is null order by s.key, r.started_at desc`, class)
	m := make(map[string]Step, len(steps))
	for _, st := range steps {
		m[st.Key] = st
	}
	return m, err
}

// Claim leases up to most lines that can be packed now: waiting, not put off,
// not leased, and with nothing they need still waiting. The lease is by the database's
// clock, so that several programs agree.
func (s *Store) Claim(ctx context.Context, run, worker string, lease time.Duration, most int) ([]Step, error) {
	var out []Step
	return out, s.all(ctx, &out, `with free as materialized (
			select s.run_id, s.seq from steps s join runs r on r.id = s.run_id and r.state = 'packing'
			where s.run_id = $1 and s.state = 'waiting' and s.not_before <= clock_timestamp() and (s.lease_until is null or s.lease_until < clock_timestamp())
				and not exists (select 1 from steps p where p.run_id = s.run_id and p.key = any(s.needs) and p.state = 'waiting')
			order by s.seq for update of s skip locked limit $4)
		update steps s set lease_until = clock_timestamp() + $3::float8 * interval '1 second', worker = $2, tries = s.tries + 1
		from free where s.run_id = free.run_id and s.seq = free.seq
		returning s.run_id, s.seq, s.key, s.wish, s.state, s.reason, s.tries, s.done_at`, run, worker, lease.Seconds(), most)
}

// Renew prolongs a worker's lease on a line; ErrNotFound where it lost it.
func (s *Store) Renew(ctx context.Context, st Step, worker string, lease time.Duration) error {
	return s.one(ctx, `update steps set lease_until = clock_timestamp() + $4::float8 * interval '1 second' where run_id = $1 and seq = $2 and worker = $3 and state = 'waiting'`, st.RunID, st.Seq, worker, lease.Seconds())
}

// PutOff lets a line wait before it is tried again.
func (s *Store) PutOff(ctx context.Context, st Step, wait time.Duration) error {
	return s.exec(ctx, `update steps set lease_until = null, not_before = clock_timestamp() + $3::float8 * interval '1 second' where run_id = $1 and seq = $2 and state = 'waiting'`, st.RunID, st.Seq, wait.Seconds())
}

// FinishStep ends a line packed or stuck and enters in the ledger what was
// made, if anything, in one statement. Done again, it changes the same entry,
// and a fact once noted stays noted.
func (s *Store) FinishStep(ctx context.Context, st Step, e *Entry, state string, reason *packing.Reason, at time.Time) error {
	why := JSON[*packing.Reason]{reason}
	const finish = `update steps set state = $3, reason = $4, done_at = $5, lease_until = null where run_id = $1 and seq = $2 and state = 'waiting'`
	if e == nil {
		return s.exec(ctx, finish, st.RunID, st.Seq, state, why, at)
	}
	return s.exec(ctx, `with entered as (
		insert into ledger (id, class_id, key, purpose, person_id, handout_id, thing, link, name, granted, run_id, made_at, shared_at, pointer)
		values ($6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $1, $16, $17, $18)
		on conflict (key) where ended_at is null do update set
			granted = ledger.granted || excluded.granted, shared_at = coalesce(ledger.shared_at, excluded.shared_at), pointer = coalesce(ledger.pointer, excluded.pointer)
		) `+finish,
		st.RunID, st.Seq, state, why, at, e.ID, e.ClassID, e.Key, e.Purpose, e.PersonID, e.HandoutID, e.Thing, e.Link, e.Name, e.Granted, e.MadeAt, e.SharedAt, e.Pointer)
}

// FinishChange notes in the ledger what a line to change has changed, before
// the line itself is ended: done again, it notes the same.
func (s *Store) FinishChange(ctx context.Context, entry string, c packing.Change) error {
	return s.one(ctx, `update ledger set name = coalesce(nullif($2, ''), name), granted = granted - $3::text[] where id = $1`, entry, c.Rename, append([]string{}, c.Take...))
}

// FinishRun ends a run that has no waiting line; it reports whether it did.
func (s *Store) FinishRun(ctx context.Context, run string, at time.Time) (bool, error) {
	res, err := s.Q.ExecContext(ctx, `update runs set state = 'done', finished_at = $2 where id = $1 and state = 'packing' and not exists (select 1 from steps where run_id = $1 and state = 'waiting')`, run, at)
	if err != nil {
		return false, err
	}
	n, err := res.RowsAffected()
	return n > 0, err
}

// OpenRuns returns the ids of all runs that are packing.
func (s *Store) OpenRuns(ctx context.Context) ([]string, error) {
	out := []string{}
	return out, s.all(ctx, &out, `select id from runs where state = 'packing' order by id`)
}
