package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"maps"
	"time"

	"github.com/jackc/pgerrcode"
	"github.com/jackc/pgx/v5/pgconn"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/store/pg"
)

const finish = `update steps set state = $3, reason = nullif($4::jsonb, 'null'), done_at = $5, lease_until = null
	where run_id = $1 and seq = $2 and state = 'waiting'`

// FinishStep ends a line and enters in the ledger what was made, if anything, in
// one statement. Done again, it changes the same entry, and a fact once noted
// stays noted. A thing made again ends the entry of the one before. What unsure says, FinishChange
// tells.
func (s *Store) FinishStep(ctx context.Context, st ledger.Step, e *ledger.Entry, state packing.StepState,
	reason *packing.Reason, at time.Time) (unsure bool, err error) {
	why := pg.AsJSON[*packing.Reason]{V: reason}
	if e == nil {
		return false, s.Exec(ctx, finish, st.RunID, st.Seq, state, why, at)
	}
	if e.Generation > 1 {
		if err := s.Exec(ctx, `update ledger set ended_at = $3
			where key = $1 and generation < $2 and ended_at is null`, e.Key.String(), e.Generation, at); err != nil {
			return false, err
		}
	}
	k := e.Key
	if e.Granted == nil {
		e.Granted = map[string]access.Level{}
	}
	if e.Pointers == nil {
		e.Pointers = map[string]string{}
	}
	enter := func() error {
		return s.Get(ctx, &unsure, `with old as (select granted from ledger where key = $8 and ended_at is null), entered as (
		insert into ledger (id, class_id, key, generation, purpose, row_id, team_id, handout_id, thing, link, name, spot,
			put_in, granted, pointers, run_id, made_at, shared_at, given_sha, waits)
		values ($6, $7, $8, $9, $10, nullif($11, '')::uuid, nullif($12, '')::uuid, nullif($13, '')::uuid, $14, $15, $16,
			$22, $23, $17, $18, $1, $19, $20, $25, $26)
		on conflict (key) where ended_at is null do update set
			granted = ledger.granted || excluded.granted, shared_at = coalesce(ledger.shared_at, excluded.shared_at),
				pointers = (excluded.pointers || ledger.pointers) - $24::text[],
				waits = array(select unnest(ledger.waits || excluded.waits) except select unnest($27::text[]) order by 1)
			returning id),
		given as (insert into grants (ledger_id, account, level, run_id, at)
			select e.id, g.key, g.value::int, $1, $5 from entered e, jsonb_each($17::jsonb) g
			where (select granted -> g.key from old) is distinct from g.value),
		before as materialized (select thing, asked from observed where thing = $14 for update),
		seen as (update observed o set grants = o.grants || $17::jsonb, asked = nextval('askings') from before b
			where o.thing = b.thing) `+finish+` returning coalesce((select asked > $21 from before), false)`,
			st.RunID, st.Seq, state, why, at, e.ID, k.Class, k.String(), e.Generation, string(k.What.Purpose), k.Whom.Row,
			k.Whom.Team, k.Handout(), e.Thing, e.Link, e.Name,
			pg.AsJSON[map[string]access.Level]{V: e.Granted}, pg.AsJSON[map[string]string]{V: e.Pointers}, e.MadeAt,
			sql.NullTime{Time: e.SharedAt, Valid: e.Shared()}, st.Asking, e.Spot, e.PutIn, append([]string{}, e.Unpointed...), e.GivenSHA,
			append([]string{}, e.Waits...), append([]string{}, e.Served...))
	}
	err = enter()
	// Two runs that make one thing in one moment may meet at its id before they meet
	// at its key, and only the key's conflict is resolved: the one that is second
	// finds the first one's entry when it asks again.
	var refused *pgconn.PgError
	if errors.As(err, &refused) && refused.Code == pgerrcode.UniqueViolation && refused.ConstraintName == "ledger_thing_key" {
		err = enter()
	}
	if errors.Is(err, pg.ErrNotFound) { // another ended it
		err = nil
	}
	return unsure, err
}

// FinishChange ends a line to change and notes in the ledger, and in what was
// last seen, what it has changed, in one statement. putIn is the folder that a
// thing was moved to.
//
// Anyone who asked how the thing is before this may have been answered before the act: that is
// no news from here on. unsure says that somebody who asked during it was answered already, so
// that it is to be asked once more.
func (s *Store) FinishChange(ctx context.Context, st ledger.Step, e ledger.Entry, putIn string, at time.Time) (unsure bool, err error) {
	set, seen, given, args := changed(st, e, putIn)
	args = append([]any{st.RunID, st.Seq, packing.Packed, pg.AsJSON[*packing.Reason]{}, at, e.ID, args[0], st.Asking}, args[1:]...)
	err = s.Get(ctx, &unsure, `with noted as (update ledger set `+set+` where id = $6 returning thing), `+given+`
		before as materialized (select o.thing, o.asked from observed o join noted n on n.thing = o.thing for update of o),
		seen as (update observed o set `+seen+`, asked = nextval('askings') from before b
			where o.thing = b.thing) `+finish+` returning coalesce((select asked > $8 from before), false)`, args...)
	if errors.Is(err, pg.ErrNotFound) { // another ended it
		err = nil
	}
	return unsure, err
}

// changed is what a line to change changes in the ledger (set), in what was last seen (seen) and
// beside (given): statements, of which $7 is the first of args and the others are from $9 on.
func changed(st ledger.Step, e ledger.Entry, putIn string) (set, seen, given string, args []any) {
	set, seen, args = `name = coalesce(nullif($7, ''), name)`, `name = $7`, []any{st.Change.Rename}
	switch st.Act {
	case packing.Move:
		set, seen, args = `spot = $7, put_in = $9`, `parent = $9`, []any{st.Wanted.Spot(), putIn}
	case packing.Take:
		set, seen, args = `granted = granted - $7::text, pointers = pointers - $9::text[]`, `grants = grants - $7::text`,
			[]any{st.Account, append([]string{}, e.Unpointed...)}
	case packing.Lower:
		set, args = `granted = granted || $7::jsonb`,
			[]any{pg.AsJSON[map[string]access.Level]{V: map[string]access.Level{st.Account: st.Change.Level}}}
		seen = fmt.Sprintf(`grants = grants || $7::jsonb, stands_alone = stands_alone or %t`, st.Wanted.Rule.StandsAlone)
	case packing.Renew:
		set, seen, args = `given_version = $7, given_sha = $9, renewed_at = $5`, `name = name`, []any{e.Given, e.GivenSHA}
	case packing.Restore:
		set, seen, args = `bound = case bound when 'lies' then '' else bound end,
			name = coalesce(nullif($9, ''), name)`, `place = $7, name = coalesce(nullif($9, ''), name)`, []any{string(ledger.Lies), st.Change.Rename}
	case packing.Discard:
		set, seen, args = fmt.Sprintf(
			`bound = case bound when 'bin' then '' else bound end, ended_at = case when %t then $5::timestamptz end`,
			st.Change.Ends), `place = $7`, []any{string(ledger.InBin)}
	case packing.SetLevel:
		set, seen, args = levelSet(st, e)
	case packing.ShutLink:
		seen = `school = 0`
	case packing.SetAlone:
		seen = fmt.Sprintf(`stands_alone = %t`, st.Change.Alone)
	case packing.Close:
		set, seen, args = `closed = $7::jsonb`, `closed = $7::jsonb`, []any{pg.AsJSON[*access.Mark]{V: st.Change.Mark}}
	case packing.Reopen:
		set, seen = `closed = null, name = coalesce(nullif($7, ''), name)`, `closed = null`
	case packing.TakeBack:
		set, seen, args = `name = name`, `owner = $7`, []any{st.Change.To}
	case packing.HandOver:
		set, seen, args = `name = name`, `owner = $7`, []any{st.Change.To}
		if st.Key.What.Purpose == packing.ClassFolder { // with all that is in it: the class is another's
			given = `held as (update classes set held_by = $9 where id = $10), `
			args = append(args, st.Change.Keeper, st.Key.Class)
		} else if st.Key.Whom.Row != "" { // with all of the row's that is in it
			set, seen = `handed_to = $7, handed_off = $9, closed = null`, `owner = $7, closed = null`
			// Whatever was closed meanwhile in it is known to be: it is opened by a line of its own.
			given = `handed as (update ledger set handed_to = $7, handed_off = $9 where ended_at is null
				and id <> $6 and row_id = $10::uuid and thing = any($11::text[])), `
			args = append(args, len(st.Change.Off) > 0, st.Key.Whom.Row, append([]string{}, st.Change.Inside...))
		}
	}
	switch st.Act {
	case packing.Take, packing.Lower, packing.SetLevel:
		level := access.Nothing
		if st.Act != packing.Take {
			level = st.Change.Level
		}
		given = fmt.Sprintf(`given as (insert into grants (ledger_id, account, level, run_id, at)
			values ($6, $%d, $%d, $1, $5)), `, len(args)+8, len(args)+9)
		args = append(args, st.Account, int(level))
	}
	return set, seen, given, args
}

// levelSet notes that somebody has exactly a level by a thing's own rule: it was shared, once nobody
// lacks what they should have.
func levelSet(st ledger.Step, e ledger.Entry) (set, seen string, args []any) {
	if st.Change.Level == access.Nothing {
		return `granted = granted - $7::text`, `grants = grants - $7::text`, []any{st.Account}
	}
	level := map[string]access.Level{st.Account: st.Change.Level}
	given := maps.Clone(e.Granted)
	if given == nil {
		given = map[string]access.Level{}
	}
	maps.Copy(given, level)
	set = `granted = granted || $7::jsonb`
	if !access.Lacks(given, st.Wanted.Rule.Grants) {
		set += `, shared_at = coalesce(shared_at, $5)`
	}
	return set, `grants = grants || $7::jsonb`, []any{pg.AsJSON[map[string]access.Level]{V: level}}
}

// FinishRun ends a run that has no waiting line; it reports whether it did.
func (s *Store) FinishRun(ctx context.Context, run string, at time.Time) (bool, error) {
	res, err := s.Q.ExecContext(ctx, `update runs set state = 'done', finished_at = $2
		where id = $1 and state = 'packing' and not exists (select 1 from steps where run_id = $1 and state = 'waiting')`, run, at)
	if err != nil {
		return false, err
	}
	n, err := res.RowsAffected()
	return n > 0, err
}
