// Package mail keeps what is told by mail, and what is still to be.
package mail

import (
	"context"
	"database/sql"
	"encoding/json"
	"time"

	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/store/pg"
)

// Mail is the part of the store that keeps it.
type Mail struct{ *pg.Base }

type messageRow struct {
	telling.Message
	EndedAt sql.NullTime `db:"ended_at"`
}

func (r messageRow) Plain() telling.Message {
	r.Message.EndedAt = pg.OrZero(r.EndedAt)
	return r.Message
}

// messageTold are a message's columns that don't change with what happens to it.
const messageTold = `m.id, m.n, coalesce(m.class_id::text, '') as class_id,
	coalesce(m.handout_id::text, '') as handout_id, coalesce(m.row_id::text, '') as row_id, m.account, m.kind, m.about,
		m.sent_by, m.reply_to, m.from_name,
	m.to_name, m.to_address, m.outside, m.subject, m.body, m.not_before, m.made_at, m.sent_in is not null as in_digest`

const messageColumns = messageTold + `, m.state, m.reason, m.tries, m.ended_at`

// InsertMessages adds messages; anyone who was told of the same before isn't told again. It
// returns how many are new.
func (s Mail) InsertMessages(ctx context.Context, of []telling.Message) (int, error) {
	if len(of) == 0 {
		return 0, nil
	}
	b, err := json.Marshal(of)
	if err != nil {
		return 0, err
	}
	res, err := s.Q.ExecContext(ctx, `insert into messages (id, class_id, handout_id, row_id, account, kind, about,
		sent_by, reply_to, from_name, to_name, to_address, outside, subject, body, state, not_before, made_at)
		select m.id, nullif(m.class_id, '')::uuid, nullif(m.handout_id, '')::uuid, nullif(m.row_id, '')::uuid, m.account,
			m.kind, m.about, m.sent_by, m.reply_to, m.from_name, m.to_name, m.to_address, m.outside,
			m.subject, m.body, m.state, m.not_before, m.made_at
		from jsonb_to_recordset($1::jsonb) as m(id uuid, class_id text, handout_id text, row_id text, account text,
			kind text, about text, sent_by text, reply_to text, from_name text, to_name text, to_address text,
			outside boolean, subject text, body text, state text, not_before timestamptz, made_at timestamptz)
		on conflict (about) do nothing`, string(b))
	if err != nil {
		return 0, err
	}
	n, err := res.RowsAffected()
	return int(n), err
}

// DropMessages forgets messages of a handout whose About begins so and that nobody tried to
// send yet.
func (s Mail) DropMessages(ctx context.Context, handout, about string) error {
	return s.Exec(ctx, `delete from messages
		where handout_id = $1 and starts_with(about, $2) and state in ('waiting', 'gathering') and tries = 0
			and lease_until is null`, handout, about)
}

// CountWritten counts the messages that an account wrote since a moment. Until the transaction
// ends nobody else counts them, so that two who send for it at once don't each take what is left.
func (s Mail) CountWritten(ctx context.Context, by string, since time.Time) (int, error) {
	if err := s.Exec(ctx, `select pg_advisory_xact_lock(hashtextextended('written ' || $1, 0))`, by); err != nil {
		return 0, err
	}
	var n int
	return n, s.Get(ctx, &n, `select count(*) from messages where sent_by = $1 and kind = 'written' and made_at > $2`, by, since)
}

// ClaimMessages leases up to most messages whose turn it is. perMinute says how fast messages
// may go, no matter who sends them; 0: as fast as they do. Pace and lease are by the database's
// clock, so that several programs agree.
func (s Mail) ClaimMessages(ctx context.Context, worker string, now time.Time, lease time.Duration, most,
	perMinute int) ([]telling.Message, error) {
	var out []telling.Message
	err := s.InTx(ctx, func(tx *pg.Base) error {
		var free time.Time
		if perMinute > 0 {
			if err := tx.Get(ctx, &free, `select greatest(free_at, clock_timestamp() - interval '1 second') from pace for update`); err != nil {
				return err
			}
			var clock time.Time
			if err := tx.Get(ctx, &clock, `select clock_timestamp()`); err != nil {
				return err
			}
			most = min(most, int(clock.Sub(free).Minutes()*float64(perMinute)+1e-9))
			if free.After(clock) {
				most = 0
			}
			if most == 0 && !free.After(clock) { // slower than one a second
				most = 1
			}
		}
		var err error
		if most > 0 {
			// Those who send take turns: anyone who sends many doesn't hold up the others' few.
			out, err = pg.Plainly[messageRow](ctx, tx, `with waiting as (select id, not_before, n,
				row_number() over (partition by sent_by order by not_before, n) as turn from messages
					where state = 'waiting' and not_before <= $2 and (lease_until is null or lease_until < clock_timestamp())),
				due as (select l.id from messages l join waiting w on w.id = l.id
					where l.state = 'waiting' and (l.lease_until is null or l.lease_until < clock_timestamp())
					order by w.turn, w.not_before, w.n for update of l skip locked limit $4)
				update messages m set lease_until = clock_timestamp() + $3::float8 * interval '1 second', worker = $1,
					tries = m.tries + 1 from due where m.id = due.id returning `+messageColumns, worker, now, lease.Seconds(), most)
		}
		if err != nil || perMinute == 0 || len(out) == 0 {
			return err
		}
		return tx.Exec(ctx, `update pace set free_at = $1::timestamptz + $2::float8 * interval '1 second'`, free,
			float64(len(out))*60/float64(perMinute))
	})
	return out, err
}

// MessageSentNow ends a message that was taken. What it said stays, but for a code: that
// opens something.
func (s Mail) MessageSentNow(ctx context.Context, id string, at time.Time) error {
	return s.Exec(ctx, `update messages set state = 'sent', body = case when kind = 'code' then '' else body end,
		reason = '', ended_at = $2, lease_until = null where id = $1 and state = 'waiting'`, id, at)
}

// MessageRefused says what was answered: another try follows, or none where failed.
func (s Mail) MessageRefused(ctx context.Context, id, reason string, failed bool, again, at time.Time) error {
	return s.Exec(ctx, `update messages set reason = $2, state = case when $3 then 'failed' else state end,
		ended_at = case when $3 then $5::timestamptz end, not_before = $4, lease_until = null
			where id = $1 and state = 'waiting'`, id, reason, failed, again, at)
}

// MessageLeft gives a message back that wasn't tried.
func (s Mail) MessageLeft(ctx context.Context, ids []string) error {
	return s.Exec(ctx, `update messages set tries = tries - 1, lease_until = null where id = any($1::uuid[]) and state = 'waiting'`, ids)
}

// MessagesWait reports whether there are messages whose turn it is by a time.
func (s Mail) MessagesWait(ctx context.Context, now time.Time) (bool, error) {
	var there bool
	return there, s.Get(ctx, &there, `select exists (select 1 from messages
		where state = 'waiting' and not_before <= $1 and (lease_until is null or lease_until < clock_timestamp()))`, now)
}

// DueDigests are accounts for whom messages wait to be gathered whose time has come.
func (s Mail) DueDigests(ctx context.Context, now time.Time) ([]string, error) {
	out := []string{}
	return out, s.All(ctx, &out, `select distinct account from messages where state = 'gathering' and not_before <= $1
		order by account limit 500`, now)
}

// Gathering returns an account's messages that wait to be gathered, all of them, and holds
// them until the transaction ends.
func (s Mail) Gathering(ctx context.Context, account string) ([]telling.Message, error) {
	return pg.Plainly[messageRow](ctx, s.Base, `select `+messageColumns+` from messages m
		where account = $1 and state = 'gathering' order by n for update`, account)
}

// Gather notes that messages are in a digest.
func (s Mail) Gather(ctx context.Context, ids []string, in string, at time.Time) error {
	return s.Exec(ctx, `update messages set state = 'gathered', sent_in = $2, ended_at = $3
		where id = any($1::uuid[]) and state = 'gathering'`, ids, in, at)
}

// A MessageFilter says which of a class's messages are meant: those of which who, subject
// or text hold a text, in some state, for some row, about a handout; Before is the number of the
// one they are older than.
type MessageFilter struct {
	Text, State, Row, Handout string
	Before                    int64
	Most                      int
}

// became says what happened to messages that are in a digest: what happened to that.
const became = `messages m left join messages d on d.id = m.sent_in
	cross join lateral (select coalesce(d.state, m.state) as state, coalesce(d.reason, m.reason) as reason,
		coalesce(d.tries, m.tries) as tries, coalesce(d.ended_at, m.ended_at) as ended_at) o`

const becameColumns = messageTold + `, o.state, o.reason, o.tries, o.ended_at`

// Messages returns a class's messages, the latest first.
func (s Mail) Messages(ctx context.Context, class string, f MessageFilter) ([]telling.Message, error) {
	return pg.Plainly[messageRow](ctx, s.Base, `select `+becameColumns+` from `+became+`
		where m.class_id = $1 and ($2 = '' or strpos(lower(m.to_name || ' ' || m.to_address || ' ' || m.subject || ' ' || m.body),
			lower($2)) > 0) and ($3 = '' or o.state = $3)
			and ($4 = '' or m.row_id::text = $4) and ($5 = '' or m.handout_id::text = $5) and ($6 = 0 or m.n < $6)
		order by m.n desc limit $7`, class, f.Text, f.State, f.Row, f.Handout, f.Before, f.Most)
}

// CountMessages counts a class's messages by what happened to them.
func (s Mail) CountMessages(ctx context.Context, class string) (map[string]int, error) {
	var rows []struct {
		State string `db:"state"`
		N     int    `db:"n"`
	}
	err := s.All(ctx, &rows, `select o.state, count(*) as n from `+became+` where m.class_id = $1 group by o.state`, class)
	out := map[string]int{}
	for _, r := range rows {
		out[r.State] = r.N
	}
	return out, err
}

// MessagesByID returns those of some messages of a class that there are, in their order, with
// what happened to them.
func (s Mail) MessagesByID(ctx context.Context, class string, ids []string) ([]telling.Message, error) {
	return pg.Plainly[messageRow](ctx, s.Base, `select `+becameColumns+` from `+became+` where m.class_id = $1
		and m.id = any($2::uuid[]) order by m.n`, class, ids)
}

// RetryMessages has failed messages, by id, tried again from the beginning, each to an
// address.
func (s Mail) RetryMessages(ctx context.Context, to map[string]string, at time.Time) error {
	if len(to) == 0 {
		return nil
	}
	b, err := json.Marshal(to)
	if err != nil {
		return err
	}
	return s.Exec(ctx, `update messages m set state = 'waiting', tries = 0, to_address = a.value, not_before = $2,
		ended_at = null from jsonb_each_text($1::jsonb) a where m.id = a.key::uuid and m.state = 'failed'`, string(b), at)
}

// Told are the accounts that were told of a handout for the first time before.
func (s Mail) Told(ctx context.Context, handout string) (map[string]bool, error) {
	var accounts []string
	err := s.All(ctx, &accounts, `select account from messages where handout_id = $1 and kind = 'given'`, handout)
	out := map[string]bool{}
	for _, a := range accounts {
		out[a] = true
	}
	return out, err
}

// GivenBy returns what a run gave whom of its handout, and whose copies it gave again.
func (s Mail) GivenBy(ctx context.Context, run string) ([]ledger.Given, error) {
	var rows []struct {
		Key     string
		Account string
		Renewed bool
	}
	if err := s.All(ctx, &rows, `select l.key, g.account, false as renewed from grants g
		join ledger l on l.id = g.ledger_id where g.run_id = $1 and g.level > 0 and l.purpose = 'copy'
		union all select l.key, a.account, true from steps s join ledger l on l.key = s.key and l.ended_at is null cross
		join lateral jsonb_object_keys(l.granted) as a(account)
		where s.run_id = $1 and s.act = 'renew' and s.state = 'packed'`, run); err != nil {
		return nil, err
	}
	out := make([]ledger.Given, 0, len(rows))
	for _, r := range rows {
		if k, err := packing.ParseKey(r.Key); err == nil {
			out = append(out, ledger.Given{Key: k, Account: r.Account, Renewed: r.Renewed})
		}
	}
	return out, nil
}

// Wishes are those of some accounts who said something.
func (s Mail) Wishes(ctx context.Context, accounts []string) (map[string]telling.Wished, error) {
	var rows []telling.Wished
	err := s.All(ctx, &rows, `select account, wish, at from wishes where account = any($1)`, accounts)
	out := make(map[string]telling.Wished, len(rows))
	for _, w := range rows {
		out[w.Account] = w
	}
	return out, err
}

// SaveWish keeps how somebody wants to be told. What waits for a digest goes by itself where
// they don't want one any more.
func (s Mail) SaveWish(ctx context.Context, w telling.Wished, at time.Time) error {
	if err := s.Exec(ctx, `insert into wishes (account, wish, at, changed_at) values ($1, $2, $3, $4)
		on conflict (account) do update set wish = excluded.wish, at = excluded.at,
			changed_at = excluded.changed_at`, w.Account, w.Wish, w.At, at); err != nil {
		return err
	}
	if w.Wish == telling.Together {
		return nil
	}
	return s.Exec(ctx, `update messages set state = 'waiting', not_before = $2 where account = $1 and state = 'gathering'`, w.Account, at)
}
