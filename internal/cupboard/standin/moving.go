package standin

import (
	"context"
	"database/sql"

	"github.com/jmoiron/sqlx"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/cupboard"
)

// Rename implements cupboard.Owner.
func (s *Standin) Rename(ctx context.Context, as, key, id, name string) error {
	return s.change(ctx, as, key, id, s.owns, func(tx *sqlx.Tx, _ []row) error {
		_, err := tx.ExecContext(ctx, `update standin.things set name = $2 where id = $1`, id, name)
		return err
	})
}

// Move implements cupboard.Owner. Moves wait for one another: two at once could
// put folders into each other.
func (s *Standin) Move(ctx context.Context, as, key, id, folder string) error {
	return s.change(ctx, as, key, id, s.owns, func(tx *sqlx.Tx, rows []row) error {
		if err := s.mayTake(ctx, tx, id, as, folder); err != nil {
			return err
		}
		if err := allTheirs(ctx, tx, rows, as); err != nil {
			return err
		}
		return put(ctx, tx, id, folder)
	})
}

// place returns the folder something can be put into, and those above it.
func (s *Standin) place(ctx context.Context, tx *sqlx.Tx, as, folder string) ([]row, error) {
	if folder == "" {
		return nil, nil
	}
	rows, _, err := s.seen(ctx, tx, as, folder, access.Edit)
	if err == nil && rows[0].Kind != "folder" {
		err = cupboard.ErrNotFound
	}
	return rows, err
}

// put puts a thing with what is in it into a folder, or at the top of all.
func put(ctx context.Context, tx *sqlx.Tx, id, folder string) error {
	_, err := tx.ExecContext(ctx, `
		with f as (select above || id as above from standin.things where id = nullif($2, '')::uuid for share),
		old as (select cardinality(above) as depth from standin.things where id = $1::uuid)
		update standin.things t set parent = case when t.id = $1::uuid then nullif($2, '')::uuid else t.parent end,
			above = coalesce((select above from f), '{}') || t.above[old.depth + 1:]
		from old where t.id = $1::uuid or t.above @> array[$1::uuid]`, id, folder)
	// What was put in meanwhile follows its folder; from here on nothing more can be.
	for err == nil {
		var late sql.Result
		if late, err = tx.ExecContext(ctx, `update standin.things t set above = p.above || p.id from standin.things p
			where p.id = t.parent and (p.id = $1 or p.above @> array[$1::uuid]) and t.above <> p.above || p.id`, id); err == nil {
			if n, _ := late.RowsAffected(); n == 0 {
				return nil
			}
		}
	}
	return err
}

// allTheirs refuses as a folder in which something belongs to others, unless the
// tree is theirs.
func allTheirs(ctx context.Context, tx *sqlx.Tx, rows []row, as string) error {
	if keeper(rows) == as || rows[0].Kind != "folder" {
		return nil
	}
	var missing int
	if err := tx.GetContext(ctx, &missing, `select count(*) from standin.things
		where above @> array[$1::uuid] and owner <> $2`, rows[0].ID, as); err != nil {
		return err
	}
	if missing > 0 {
		return &cupboard.Refused{Missing: missing}
	}
	return nil
}

// HandOver implements cupboard.Owner.
func (s *Standin) HandOver(ctx context.Context, as, key, id, to string) error {
	return s.change(ctx, as, key, id, s.theirs, func(tx *sqlx.Tx, rows []row) error {
		if tree := rows[0].Kind == "folder" && (rows[0].StandsAlone || !rows[0].Parent.Valid); !tree {
			if _, err := tx.ExecContext(ctx, `update standin.things set school = 0
				where school > 0 and (id = $1::uuid or above @> array[$1::uuid])`, id); err != nil {
				return err
			}
		}
		return passOn(ctx, tx, as, id, to)
	})
}

// theirs lets the owner of a thing that isn't closed, and nobody else.
func (s *Standin) theirs(rows []row, as string) error {
	if err := s.owns(rows, as); err != nil {
		return err
	}
	if rows[0].Owner != as {
		return cupboard.ErrNoRight
	}
	return nil
}

// Cede implements cupboard.Owner.
func (s *Standin) Cede(ctx context.Context, as, key, id, to string) error {
	return s.change(ctx, as, key, id, s.theirs, func(tx *sqlx.Tx, _ []row) error {
		return owned(ctx, tx, id, to, `update standin.things set owner = $2 where id = $1::uuid`)
	})
}

// passOn makes another account the owner of a thing and of what as owns in it.
func passOn(ctx context.Context, tx *sqlx.Tx, as, id, to string) error {
	return owned(ctx, tx, id, to, `update standin.things set owner = $2
		where owner = $3 and (id = $1::uuid or above @> array[$1::uuid])`, as)
}

// owned has change make an account that is known the owner of a thing, or of what is in it too.
func owned(ctx context.Context, tx *sqlx.Tx, id, to, change string, args ...any) error {
	var known bool
	if err := tx.GetContext(ctx, &known, `select exists (select 1 from standin.people where account = $1)`, to); err != nil {
		return err
	}
	if !known {
		return &cupboard.UnknownPeople{Accounts: []string{to}}
	}
	if _, err := tx.ExecContext(ctx, change, append([]any{id, to}, args...)...); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `update standin.things set guest = not guest
		where (id = $1::uuid or above @> array[$1::uuid]) and guest <> standin.among(owner, above)`, id); err != nil {
		return err
	}
	return tellBelow(ctx, tx, id)
}

// Transfer implements cupboard.Owner.
func (s *Standin) Transfer(ctx context.Context, as, key, id, to, folder string) error {
	theirs := func(rows []row, as string) error {
		if _, away := binned(rows); away {
			return cupboard.ErrNotFound
		}
		if rows[0].Owner != as || keeper(rows) != as {
			return cupboard.ErrNoRight
		}
		return nil
	}
	return s.change(ctx, as, key, id, theirs, func(tx *sqlx.Tx, _ []row) error {
		if err := s.mayTake(ctx, tx, id, to, folder); err != nil {
			return err
		}
		if err := passOn(ctx, tx, as, id, to); err != nil {
			return err
		}
		return put(ctx, tx, id, folder)
	})
}

// mayTake checks that an account may put a thing into a folder, with moves held.
func (s *Standin) mayTake(ctx context.Context, tx *sqlx.Tx, id, account, folder string) error {
	if _, err := tx.ExecContext(ctx, `select pg_advisory_xact_lock(hashtext('standin.move'))`); err != nil {
		return err
	}
	to, err := s.place(ctx, tx, account, folder)
	if err != nil {
		return err
	}
	for _, r := range to {
		if r.ID == id {
			return cupboard.ErrInside
		}
	}
	return nil
}
