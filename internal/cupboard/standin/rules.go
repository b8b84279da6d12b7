package standin

import (
	"context"
	"encoding/json"
	"errors"
	"maps"
	"slices"

	"github.com/google/uuid"
	"github.com/jackc/pgerrcode"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jmoiron/sqlx"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/cupboard"
)

// change does something once for each key to a thing that as can see and that
// may lets it change, with the thing held. What it refuses leaves the key unused.
func (s *Standin) change(ctx context.Context, as, key, id string, may func(rows []row, as string) error,
	do func(tx *sqlx.Tx, rows []row) error) error {
	_, err := suffer(ctx, s.weather, func() (struct{}, error) {
		for tries := 1; ; tries++ {
			err := s.tx(ctx, func(tx *sqlx.Tx) error { return s.once(ctx, tx, as, key, id, may, do) })
			// Two that hold a folder and what goes into it, each the other one first: one begins again.
			var pg *pgconn.PgError
			if tries == mostTries || !errors.As(err, &pg) || pg.Code != pgerrcode.DeadlockDetected {
				return struct{}{}, err
			}
		}
	})
	return err
}

// mostTries is how often a change begins that another is in the way of.
const mostTries = 5

func (s *Standin) once(ctx context.Context, tx *sqlx.Tx, as, key, id string, may func([]row, string) error,
	do func(*sqlx.Tx, []row) error) error {
	if _, err := uuid.Parse(id); err != nil {
		return cupboard.ErrNotFound
	}
	if _, err := tx.ExecContext(ctx, `select 1 from standin.things where id = $1 for no key update`, id); err != nil {
		return err
	}
	var before []string
	if err := tx.SelectContext(ctx, &before, `select account from standin.answers where key = $1`, key); err != nil {
		return err
	}
	if len(before) > 0 && before[0] == as {
		return nil
	}
	rows, err := chain(ctx, tx, id)
	if err != nil {
		return err
	}
	if err := s.allowed(rows, as, may); err != nil || len(before) > 0 {
		return err
	}
	if _, err := tx.ExecContext(ctx, `insert into standin.answers (key, thing, version, account)
		values ($1, $2, $3, $4)`, key, id, rows[0].Version, as); err != nil {
		return err
	}
	return do(tx, rows)
}

// allowed asks may of what as can see; the rest isn't there.
func (s *Standin) allowed(rows []row, as string, may func([]row, string) error) error {
	if access.Effective(as, rules(rows), s.now()).Level < access.Read && rows[0].Owner != as {
		return cupboard.ErrNotFound
	}
	return may(rows, as)
}

// keeps lets the owner of the tree a thing is in.
func keeps(rows []row, as string) error {
	if _, away := binned(rows); away {
		return cupboard.ErrNotFound
	}
	return keepsAway(rows, as)
}

// keepsAway is keeps in the bin or not.
func keepsAway(rows []row, as string) error {
	if keeper(rows) != as {
		return cupboard.ErrNoRight
	}
	return nil
}

// owns lets the owner of the tree, and the owner of a thing while it isn't closed.
func (s *Standin) owns(rows []row, as string) error {
	if _, away := binned(rows); away {
		return cupboard.ErrNotFound
	}
	return s.own(rows, as)
}

// own is owns in the bin or not.
func (s *Standin) own(rows []row, as string) error {
	if keeper(rows) != as && access.Effective(as, rules(rows), s.now()).Level < access.Owner {
		return cupboard.ErrNoRight
	}
	return nil
}

// Share implements cupboard.Owner. One statement raises the levels and notes the
// key, so that simultaneous grants add up; packing shares everything it makes.
func (s *Standin) Share(ctx context.Context, as, key, id string, grants map[string]access.Level) error {
	_, err := suffer(ctx, s.weather, func() (struct{}, error) { return struct{}{}, s.share(ctx, as, key, id, grants) })
	return err
}

func (s *Standin) share(ctx context.Context, as, key, id string, grants map[string]access.Level) error {
	rows, err := chain(ctx, s.db, id)
	if err == nil {
		err = s.allowed(rows, as, keeps)
	}
	if err != nil { // unless it was done before, when it was allowed
		var before []string
		if e := s.db.SelectContext(ctx, &before, `select account from standin.answers where key = $1`, key); e != nil {
			return e
		}
		if len(before) > 0 && before[0] == as {
			return nil
		}
		return err
	}
	accounts := slices.Sorted(maps.Keys(grants))
	b, err := atMostEdit(grants)
	if err != nil {
		return err
	}
	var known []string
	err = s.db.SelectContext(ctx, &known, `
		with known as (select account from standin.people where account = any($2) and not account = any($7)),
		noted as (insert into standin.answers (key, thing, version, account) select $3, $1::uuid, $4, $5
			where (select count(*) from known) = cardinality($2::text[]) on conflict do nothing),
		raised as (update standin.things set grants = (
				select coalesce(jsonb_object_agg(who, level), '{}') from (
					select key as who, max(value::int) as level from (
						select * from jsonb_each(grants) union all select * from jsonb_each($6::jsonb) where key in (select account from known)
					) g group by key
				) highest)
			where id = $1::uuid and not exists (select 1 from standin.answers where key = $3))
		select account from known`, id, accounts, key, rows[0].Version, as, b, s.strange())
	if err != nil {
		return err
	}
	if unknown := slices.DeleteFunc(accounts, func(a string) bool { return slices.Contains(known, a) }); len(unknown) > 0 {
		return &cupboard.UnknownPeople{Accounts: unknown} // they may be known when it is tried again
	}
	return nil
}

// atMostEdit writes levels as they are kept: a rule makes nobody an owner.
func atMostEdit(grants map[string]access.Level) (string, error) {
	give := make(map[string]access.Level, len(grants))
	for who, l := range grants {
		give[who] = min(l, access.Edit)
	}
	b, err := json.Marshal(give)
	return string(b), err
}

// strange are the accounts that the weather makes unknown.
func (s *Standin) strange() []string { return append([]string{}, s.Weather().Unknown...) }

// SetRule implements cupboard.Owner.
func (s *Standin) SetRule(ctx context.Context, as, key, id string, c cupboard.RuleChange) error {
	give, take := map[string]access.Level{}, []string{}
	for who, l := range c.Levels {
		if l == access.Nothing {
			take = append(take, who)
		} else {
			give[who] = l
		}
	}
	b, err := atMostEdit(give)
	if err != nil {
		return err
	}
	var school *int
	if c.School != nil {
		l := int(min(*c.School, access.Edit))
		school = &l
	}
	return s.change(ctx, as, key, id, keepsAway, func(tx *sqlx.Tx, rows []row) error {
		if s.ended(rows) {
			return cupboard.ErrNotFound
		}
		_, err := tx.ExecContext(ctx, `update standin.things
			set grants = (grants - $2::text[]) || $3::jsonb, stands_alone = coalesce($4, stands_alone),
				school = coalesce($5, school) where id = $1`, id, take, b, c.StandsAlone, school)
		return err
	})
}

// Close implements cupboard.Owner.
func (s *Standin) Close(ctx context.Context, as, key, id string, m access.Mark) error {
	b, err := json.Marshal(m)
	if err != nil {
		return err
	}
	return s.mark(ctx, as, key, id, b)
}

// Reopen implements cupboard.Owner.
func (s *Standin) Reopen(ctx context.Context, as, key, id string) error {
	return s.mark(ctx, as, key, id, nil)
}

func (s *Standin) mark(ctx context.Context, as, key, id string, mark []byte) error {
	return s.change(ctx, as, key, id, keeps, func(tx *sqlx.Tx, _ []row) error {
		if _, err := tx.ExecContext(ctx, `update standin.things set closed = $2 where id = $1`, id, mark); err != nil {
			return err
		}
		return tellBelow(ctx, tx, id)
	})
}

// People implements cupboard.Reader.
func (s *Standin) People(ctx context.Context, as, id string) (map[string]access.Reason, error) {
	return suffer(ctx, s.weather, func() (map[string]access.Reason, error) {
		rows, level, err := s.seen(ctx, s.db, as, id, access.Read)
		if err != nil {
			return nil, err
		}
		if level < access.Edit && rows[0].Owner != as && keeper(rows) != as { // an owner may know, closed or not
			return nil, cupboard.ErrNoRight
		}
		return access.People(rules(rows), s.now()), nil
	})
}
