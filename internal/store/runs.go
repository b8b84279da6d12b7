package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"strings"
	"time"

	"github.com/jackc/pgx/v5/pgconn"

	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/store/pg"
)

type runRow struct {
	ledger.Run
	FinishedAt sql.NullTime `db:"finished_at"`
}

func (r runRow) Plain() ledger.Run {
	r.Run.FinishedAt = pg.OrZero(r.FinishedAt)
	return r.Run
}

const stepColumns = `s.run_id, s.seq, s.key, s.act, s.account, s.generation, s.wanted, s.change, s.state, s.reason, s.tries`

type stepRow struct {
	RunID      string                     `db:"run_id"`
	Seq        int                        `db:"seq"`
	Key        string                     `db:"key"`
	Act        string                     `db:"act"`
	Account    string                     `db:"account"`
	Generation int                        `db:"generation"`
	Wanted     pg.AsJSON[packing.Wanted]  `db:"wanted"`
	Change     pg.AsJSON[*packing.Change] `db:"change"`
	State      string                     `db:"state"`
	Reason     pg.AsJSON[*packing.Reason] `db:"reason"`
	Tries      int                        `db:"tries"`
}

func (s *Store) steps(ctx context.Context, query string, args ...any) ([]ledger.Step, error) {
	var rows []stepRow
	if err := s.All(ctx, &rows, query, args...); err != nil {
		return nil, err
	}
	out := make([]ledger.Step, len(rows))
	for i, r := range rows {
		key, err := packing.ParseKey(r.Key)
		if err != nil {
			return nil, err
		}
		out[i] = ledger.Step{RunID: r.RunID, Seq: r.Seq, Tries: r.Tries, Step: packing.Step{
			StepKey: packing.StepKey{Key: key, Act: packing.Act(r.Act), Account: r.Account, Generation: r.Generation},
			Wanted:  r.Wanted.V, Change: r.Change.V, State: packing.StepState(r.State), Reason: r.Reason.V,
		}}
	}
	return out, nil
}

// A line is a step as it goes to the database; several go at once.
type line struct {
	Seq        int               `json:"seq"`
	Key        string            `json:"key"`
	Act        packing.Act       `json:"act"`
	Account    string            `json:"account"`
	Generation int               `json:"generation"`
	Needs      string            `json:"needs"` // divided by spaces
	Wanted     packing.Wanted    `json:"wanted"`
	Change     *packing.Change   `json:"change"`
	State      packing.StepState `json:"state"`
	Reason     *packing.Reason   `json:"reason"`
	Shares     bool              `json:"shares"`
}

func lineOf(seq int, st packing.Step) line {
	needs := st.Needs()
	keys := make([]string, len(needs))
	for i, k := range needs {
		keys[i] = k.String()
	}
	return line{seq, st.Key.String(), st.Act, st.Account, st.Generation, strings.Join(keys, " "), st.Wanted, st.Change,
		st.State, st.Reason, st.Shares()}
}

// InsertRun adds a run and its steps, numbered in their order, all at once.
func (s *Store) InsertRun(ctx context.Context, r ledger.Run, steps []packing.Step) error {
	if err := s.Exec(ctx, `insert into runs (id, class_id, handout_id, title, state, wants, started_by, started_at, kind,
		left_out) select $1, id, nullif($3, '')::uuid, $4, $5, wants + 1, $6, $7, coalesce(nullif($8, ''), 'pack'), $9
			from classes where id = $2`,
		r.ID, r.ClassID, r.HandoutID, r.Title, r.State, r.StartedBy, r.StartedAt, r.Kind, r.LeftOut); err != nil {
		return err
	}
	lines := make([]line, len(steps))
	for i, st := range steps {
		lines[i] = lineOf(i+1, st)
	}
	b, err := json.Marshal(lines)
	if err != nil {
		return err
	}
	if err := s.bind(ctx, steps); err != nil {
		return err
	}
	return s.Exec(ctx, `insert into steps (run_id, seq, key, act, account, generation, needs, wanted, change, state,
		reason, shares, not_before)
		select $1, l.seq, l.key, l.act, l.account, l.generation, coalesce(string_to_array(nullif(l.needs, ''), ' '), '{}'),
			l.wanted, nullif(l.change, 'null'), l.state, nullif(l.reason, 'null'), l.shares, to_timestamp(0)
		from jsonb_to_recordset($2::jsonb) as l(seq int, key text, act text, account text, generation int, needs text,
			wanted jsonb, change jsonb, state text, reason jsonb, shares boolean)`, r.ID, string(b))
}

// bind notes in the ledger where lines want their things, as the last to say so.
func (s *Store) bind(ctx context.Context, steps []packing.Step) error {
	keys := map[ledger.Bound][]string{}
	for _, st := range steps {
		if w, ok := ledger.BoundBy(st.Act); ok && st.State == packing.Waiting {
			keys[w] = append(keys[w], st.Key.String())
		}
	}
	var stays []string // with the folder that it is in, it becomes somebody's own
	for _, st := range steps {
		if st.Act == packing.HandOver && st.State == packing.Waiting {
			stays = append(stays, st.Change.Inside...)
		}
	}
	if len(stays) > 0 {
		if err := s.Exec(ctx, `update ledger set bound = '' where thing = any($1) and ended_at is null and bound = 'bin'`, stays); err != nil {
			return err
		}
	}
	for _, w := range []ledger.Bound{ledger.BoundForBin, ledger.BoundBack} {
		if len(keys[w]) == 0 {
			continue
		}
		if err := s.Exec(ctx, `update ledger set bound = $2 where key = any($1) and ended_at is null`, keys[w], w); err != nil {
			return err
		}
	}
	return nil
}

// Unbind forgets where things of the ledger were wanted: somebody put them where they are
// to be by hand.
func (s *Store) Unbind(ctx context.Context, things []string) error {
	return s.Exec(ctx, `update ledger set bound = '' where thing = any($1) and bound <> ''`, things)
}

const runQuery = `select r.id, r.class_id, coalesce(r.handout_id::text, '') as handout_id, r.title, r.state, r.kind,
	r.left_out, r.started_by, r.started_at, r.finished_at,
	count(*) filter (where s.state = 'packed') as packed, count(*) filter (where s.state = 'stuck') as stuck,
		count(*) filter (where s.state = 'passed-over') as passed, count(s.seq) as total,
	(select count(distinct g.account) from grants g join ledger l on l.id = g.ledger_id
		where g.run_id = r.id and g.level > 0 and l.purpose = 'copy' and exists (select 1 from rows w
		where w.class_id = r.class_id and w.account = g.account)) as told,
	(select count(*) from ledger l where l.run_id = r.id) as made, count(*) filter (where s.state = 'packed' and s.shares) as shared
	from runs r left join steps s on s.run_id = r.id `

// Run returns one run with its counts.
func (s *Store) Run(ctx context.Context, id string) (ledger.Run, error) {
	if !pg.ValidID(id) {
		return ledger.Run{}, pg.ErrNotFound
	}
	return pg.OnePlainly[runRow](ctx, s.Base, runQuery+`where r.id = $1 group by r.id`, id)
}

// RecentRuns returns a class's runs that are not done, and the last done one.
func (s *Store) RecentRuns(ctx context.Context, class string) ([]ledger.Run, error) {
	return pg.Plainly[runRow](ctx, s.Base, runQuery+`where r.class_id = $1
		and (r.state in ('packing', 'paused') or r.id = (select id from runs where class_id = $1 order by n desc limit 1))
			group by r.id order by r.n`, class)
}

// Steps returns a run's lines in order.
func (s *Store) Steps(ctx context.Context, run string) ([]ledger.Step, error) {
	return s.steps(ctx, `select `+stepColumns+` from steps s where s.run_id = $1 order by s.seq`, run)
}

// SetRunState changes a run's state from one of those given. One that is stopped wants
// nothing any more.
func (s *Store) SetRunState(ctx context.Context, id, state string, from ...string) error {
	if state == ledger.RunStopped {
		if err := s.Exec(ctx, `update ledger l set bound = '' from steps s
			where s.run_id = $1 and s.state = 'waiting' and s.lease_until is null and l.key = s.key and l.ended_at is null
			and l.bound = case s.act when 'discard' then 'bin' when 'restore' then 'lies' else '-' end`, id); err != nil {
			return err
		}
	}
	return s.One(ctx, `update runs set state = $2 where id = $1 and state = any($3)`, id, state, from)
}

// ReopenStep puts a stuck line back to waiting as what it is now, and its run
// back to packing.
func (s *Store) ReopenStep(ctx context.Context, run string, seq int, st packing.Step) error {
	b, err := json.Marshal(lineOf(seq, st))
	if err != nil {
		return err
	}
	if err := s.One(ctx, `update steps set state = 'waiting', reason = null, tries = 0, lease_until = null,
		wanted = l.wanted, key = l.key, act = l.act, generation = l.generation,
			needs = coalesce(string_to_array(nullif(l.needs, ''), ' '), '{}')
		from jsonb_to_record($3::jsonb) as l(key text, act text, generation int, needs text, wanted jsonb)
		where run_id = $1 and seq = $2 and state = 'stuck'`, run, seq, string(b)); err != nil {
		return err
	}
	return s.Exec(ctx, `update runs set state = 'packing', finished_at = null where id = $1 and state in ('done', 'packing')`, run)
}

// StickStep notes on a stuck line why it is stuck now.
func (s *Store) StickStep(ctx context.Context, run string, seq int, reason packing.Reason) error {
	return s.One(ctx, `update steps set reason = $3
		where run_id = $1 and seq = $2 and state = 'stuck'`, run, seq, pg.AsJSON[packing.Reason]{V: reason})
}

// StuckSteps returns the lines of a class that are stuck where each stuck last,
// by key. Lines of things shared since and lines to change, which the next list
// offers again, are not among them.
func (s *Store) StuckSteps(ctx context.Context, class string) (map[packing.Key]ledger.Step, error) {
	steps, err := s.steps(ctx, `select distinct on (s.key) `+stepColumns+`
		from steps s join runs r on r.id = s.run_id left join ledger l on l.key = s.key and l.ended_at is null
		where r.class_id = $1 and s.state = 'stuck' and s.change is null and l.shared_at is null order by s.key, r.n desc`, class)
	m := make(map[packing.Key]ledger.Step, len(steps))
	for _, st := range steps {
		m[st.Key] = st
	}
	return m, err
}

// Claim leases up to most lines that can be packed now: waiting, not put off,
// not leased, with nothing they need still waiting, and with no line about the same thing
// in hand, in whatever run, or before them in theirs. The lease is by the database's
// clock, so that several programs agree. wants is the class's as it is now: what
// the lines were made for may have changed since.
func (s *Store) Claim(ctx context.Context, run, worker string, lease time.Duration, most int) (steps []ledger.Step,
	wants int64, err error) {
	steps, err = s.steps(ctx, `with free as materialized (
			select s.run_id, s.seq from steps s join runs r on r.id = s.run_id and r.state = 'packing'
			where s.run_id = $1 and s.state = 'waiting' and s.not_before <= clock_timestamp()
				and (s.lease_until is null or s.lease_until < clock_timestamp())
				and not exists (select 1 from steps p where p.run_id = s.run_id and p.key = any(s.needs) and p.state = 'waiting')
				and not exists (select 1 from steps e where e.run_id = s.run_id and e.key = s.key and e.seq < s.seq and e.state = 'waiting')
				and not exists (select 1 from steps o where o.key = s.key and o.state = 'waiting' and o.lease_until is not null
					and (o.run_id, o.seq) <> (s.run_id, s.seq))
			order by s.seq for update of s skip locked limit $4)
		update steps s set lease_until = clock_timestamp() + $3::float8 * interval '1 second', worker = $2, tries = s.tries + 1
		from free where s.run_id = free.run_id and s.seq = free.seq
		returning `+stepColumns, run, worker, lease.Seconds(), most)
	if inHand(err) {
		return nil, 0, nil // another run took one of them in this moment
	}
	if err == nil && len(steps) == 0 { // what a program that is gone had in hand, in another run
		err = s.Exec(ctx, `update steps o set lease_until = null
			where o.state = 'waiting' and o.lease_until < clock_timestamp() and o.run_id <> $1
			and o.key in (select key from steps where run_id = $1 and state = 'waiting')`, run)
	}
	if err != nil || len(steps) == 0 {
		return nil, 0, err
	}
	return steps, 0, s.Get(ctx, &wants, `select c.wants from classes c join runs r on r.class_id = c.id where r.id = $1`, run)
}

// inHand reports that a line can't be had because another run has one about the same thing.
func inHand(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && pg.ConstraintName == "steps_in_hand"
}

// Renew prolongs a worker's lease on a line; pg.ErrNotFound where it lost it.
func (s *Store) Renew(ctx context.Context, st ledger.Step, worker string, lease time.Duration) error {
	err := s.One(ctx, `update steps set lease_until = clock_timestamp() + $4::float8 * interval '1 second'
		where run_id = $1 and seq = $2 and worker = $3 and state = 'waiting'`, st.RunID, st.Seq, worker, lease.Seconds())
	if inHand(err) {
		return pg.ErrNotFound
	}
	return err
}

// PutOff lets a line wait before it is tried again; counts says whether that was a
// try. Being told to come later is none.
func (s *Store) PutOff(ctx context.Context, st ledger.Step, wait time.Duration, counts bool) error {
	return s.Exec(ctx, `update steps set lease_until = null, tries = tries - case when $4 then 0 else 1 end,
		not_before = clock_timestamp() + $3::float8 * interval '1 second'
			where run_id = $1 and seq = $2 and state = 'waiting'`, st.RunID, st.Seq, wait.Seconds(), counts)
}

// UnderWay returns the keys of lines that wait, or are in hand, and give an account access or
// take it away: what the ledger says of it may be another in a moment.
func (s *Store) UnderWay(ctx context.Context, class, account string) ([]packing.Key, error) {
	var texts []string
	if err := s.All(ctx, &texts, `select distinct st.key from steps st join runs r on r.id = st.run_id
		where r.class_id = $1 and r.state in ('packing', 'paused') and st.state = 'waiting'
			and (st.account = $2 or st.wanted -> 'rule' -> 'grants' ? $2) order by st.key`, class, account); err != nil {
		return nil, err
	}
	keys := make([]packing.Key, len(texts))
	for i, text := range texts {
		var err error
		if keys[i], err = packing.ParseKey(text); err != nil {
			return nil, err
		}
	}
	return keys, nil
}

// OpenRuns returns the ids of all runs that are packing.
func (s *Store) OpenRuns(ctx context.Context) ([]string, error) {
	out := []string{}
	return out, s.All(ctx, &out, `select id from runs where state = 'packing' order by id`)
}
