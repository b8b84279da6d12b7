package standin

import (
	"context"
	"errors"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/cupboard"
)

// BinTerm is how long things stay in the bin.
const BinTerm = 30 * 24 * time.Hour

// ended reports that what a chain begins with was binned and its term is over.
func (s *Standin) ended(rows []row) bool {
	r, away := binned(rows)
	return away && !s.now().Before(r.BinUntil.Time)
}

// Bin implements cupboard.Owner.
func (s *Standin) Bin(ctx context.Context, as, key, id string, seen cupboard.Seen) error {
	return s.change(ctx, as, key, id, s.owns, func(tx *sqlx.Tx, rows []row) error {
		if seen != nil {
			if err := s.unchanged(ctx, tx, as, id, seen); err != nil {
				return err
			}
		}
		if err := allTheirs(ctx, tx, rows, as); err != nil {
			return err
		}
		now := s.now()
		if _, err := tx.ExecContext(ctx, `update standin.things set binned_at = $2, binned_by = $3, bin_until = $4
			where id = $1`, id, now, as, now.Add(BinTerm)); err != nil {
			return err
		}
		return tellBelow(ctx, tx, id)
	})
}

// unchanged holds a thing and what is in it, and refuses where a file of it isn't as it was seen, or
// is another's and wasn't.
func (s *Standin) unchanged(ctx context.Context, tx *sqlx.Tx, as, id string, seen cupboard.Seen) error {
	var now []struct {
		ID      string `db:"id"`
		Version int    `db:"version"`
		Owner   string `db:"owner"`
		File    bool   `db:"file"`
	}
	if err := tx.SelectContext(ctx, &now, `select id, version, owner, kind = 'file' and binned_at is null as file
		from standin.things where id = $1 or above @> array[$1::uuid] order by id for no key update`, id); err != nil {
		return err
	}
	for _, f := range now {
		if was, looked := seen[f.ID]; f.File && (looked && was != f.Version || !looked && f.Owner != as) {
			return s.conflict(ctx, tx, f.ID, f.Version)
		}
	}
	return nil
}

// Restore implements cupboard.Owner.
func (s *Standin) Restore(ctx context.Context, as, key, id string) error {
	inBin := func(rows []row, as string) error {
		r, away := binned(rows)
		switch {
		case !away, s.ended(rows):
			return cupboard.ErrNotFound
		case rows[0].Owner != as && r.ID != id: // part of what was binned: its owner takes it out
			return cupboard.ErrNoRight
		}
		if err := s.own(rows, as); err != nil {
			return err
		}
		if _, above := binned(rows[1:]); above && keeper(rows) != as { // else it would leave the tree
			return cupboard.ErrWaits
		}
		return nil
	}
	return s.change(ctx, as, key, id, inBin, func(tx *sqlx.Tx, rows []row) error {
		_, above := binned(rows[1:]) // what it lay in is in the bin
		if _, err := tx.ExecContext(ctx, `update standin.things set binned_at = null, binned_by = null, bin_until = null
			where id = $1`, id); err != nil {
			return err
		}
		if above {
			return put(ctx, tx, id, "")
		}
		return tellBelow(ctx, tx, id)
	})
}

// Remove implements cupboard.Owner. What is gone is gone, as was asked.
func (s *Standin) Remove(ctx context.Context, as, key, id string) error {
	err := s.change(ctx, as, key, id, s.own, func(tx *sqlx.Tx, rows []row) error {
		if err := allTheirs(ctx, tx, rows, as); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `delete from standin.things where id = $1 or above @> array[$1::uuid]`, id)
		return err
	})
	if errors.Is(err, cupboard.ErrNotFound) {
		return nil
	}
	return err
}

// Binned implements cupboard.Reader: what is as's own, also in what belongs to
// others and was binned.
func (s *Standin) Binned(ctx context.Context, as string) ([]cupboard.Binned, error) {
	return suffer(ctx, s.weather, func() ([]cupboard.Binned, error) {
		var ids []string
		err := s.db.SelectContext(ctx, &ids, `
			with b as (select id, owner, binned_at from standin.things where bin_until > $2)
			select t.id from standin.things t join b on t.id = b.id or t.above @> array[b.id]
			where t.owner = $1 and (t.id = b.id or b.owner <> $1 and not exists (select 1 from standin.things p
			where p.id = t.parent and p.owner = $1))
			order by b.binned_at desc, t.name, t.id`, as, s.now())
		if err != nil {
			return nil, err
		}
		out := []cupboard.Binned{}
		for _, id := range slices.Compact(ids) {
			rows, err := chain(ctx, s.db, id)
			if err != nil {
				return nil, err
			}
			b, away := binned(rows)
			if !away || s.ended(rows) {
				continue // restored or ended meanwhile
			}
			out = append(out, cupboard.Binned{Thing: s.thing(rows, as, access.Owner), At: b.BinnedAt.Time.UTC(),
				By: b.BinnedBy.String, Until: b.BinUntil.Time.UTC()})
		}
		return out, nil
	})
}

// Forget ends what lay in the bin for its whole term, drops the contents of what has ended, and
// what the feed needn't know any more.
func (s *Standin) Forget(ctx context.Context) error {
	_, err := s.db.ExecContext(ctx, `delete from standin.things t using standin.things b
		where b.bin_until <= $1 and (t.id = b.id or t.above @> array[b.id])`, s.now())
	return errors.Join(err, s.dropContents(ctx), s.forgetChanges(ctx))
}
