package standin

import (
	"context"
	"database/sql"
	"encoding/hex"
	"errors"
	"slices"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/cupboard"
)

// Get implements cupboard.Reader.
func (s *Standin) Get(ctx context.Context, as, id string) (cupboard.Thing, error) {
	return suffer(ctx, s.weather, func() (cupboard.Thing, error) { return s.get(ctx, as, id) })
}

func (s *Standin) get(ctx context.Context, as, id string) (cupboard.Thing, error) {
	rows, level, err := s.seen(ctx, s.db, as, id, access.Read)
	if err != nil {
		return cupboard.Thing{}, err
	}
	return s.thing(rows, as, level), nil
}

// ByLink implements cupboard.Reader.
func (s *Standin) ByLink(ctx context.Context, as, link string) (cupboard.Thing, error) {
	return suffer(ctx, s.weather, func() (cupboard.Thing, error) {
		var id string
		err := s.db.GetContext(ctx, &id, `select id from standin.things where link = $1`, link)
		if errors.Is(err, sql.ErrNoRows) {
			err = cupboard.ErrNotFound
		}
		if err != nil {
			return cupboard.Thing{}, err
		}
		return s.get(ctx, as, id)
	})
}

// List implements cupboard.Reader.
func (s *Standin) List(ctx context.Context, as, folder string) ([]cupboard.Thing, error) {
	return suffer(ctx, s.weather, func() ([]cupboard.Thing, error) {
		above, _, err := s.seen(ctx, s.db, as, folder, access.Read)
		if err != nil {
			return nil, err
		}
		var rows []row
		if err := s.db.SelectContext(ctx, &rows, `select `+columns+` from standin.things
			where parent = $1 and bin_until is null order by kind <> 'folder', name, id`, folder); err != nil {
			return nil, err
		}
		out := []cupboard.Thing{}
		for _, r := range rows {
			c := append([]row{r}, above...)
			if level := access.Effective(as, rules(c), s.now()).Level; level >= access.Read {
				out = append(out, s.thing(c, as, level))
			}
		}
		return out, nil
	})
}

// Held implements cupboard.Reader in one query, however many folders there are.
func (s *Standin) Held(ctx context.Context, as string, folders []string) ([]cupboard.Held, error) {
	return suffer(ctx, s.weather, func() ([]cupboard.Held, error) {
		valid := slices.DeleteFunc(slices.Clone(folders), func(id string) bool { return !validID(id) })
		var rows []row
		err := s.db.SelectContext(ctx, &rows, `with mine as (select p.id from standin.things p where p.id = any($1::uuid[])
				and (p.owner = $2 or exists (select 1 from standin.things a where a.id = any(p.above) and a.owner = $2)))
			select `+columns+` from standin.things where parent in (select id from mine) and bin_until is null`, valid, as)
		out := make([]cupboard.Held, len(rows))
		for i, r := range rows {
			x := r.rule()
			out[i] = cupboard.Held{ID: r.ID, Kind: cupboard.Kind(r.Kind), Name: r.Name, Parent: r.Parent.String, Owner: r.Owner,
				Rule: x.Rule, Closed: x.Closed}
		}
		return out, err
	})
}

// Roots implements cupboard.Reader. What may be one is at the top of all, or lies
// in what is another's and is as's own or names as in its rule.
func (s *Standin) Roots(ctx context.Context, as string) ([]cupboard.Thing, error) {
	return suffer(ctx, s.weather, func() ([]cupboard.Thing, error) {
		var ids []string
		err := s.db.SelectContext(ctx, &ids, `select t.id from standin.things t left join standin.things p on p.id = t.parent
			where t.bin_until is null and (t.owner = $1 and (p.id is null or p.owner <> $1) or t.grants ? $1)
			order by t.kind <> 'folder', t.name, t.id`, as)
		if err != nil {
			return nil, err
		}
		out := []cupboard.Thing{}
		for _, id := range ids {
			t, err := s.get(ctx, as, id)
			if err != nil && !errors.Is(err, cupboard.ErrNotFound) {
				return nil, err
			}
			if err == nil && len(t.Path) == 0 {
				out = append(out, t)
			}
		}
		return out, nil
	})
}

// looked is how many more are looked at than are wanted: some may be in the bin.
const looked = 4

// Find implements cupboard.Reader. What may be read is as's own, names as in its
// rule, or is in what does.
func (s *Standin) Find(ctx context.Context, as, text string, most int) ([]cupboard.Thing, error) {
	return suffer(ctx, s.weather, func() ([]cupboard.Thing, error) {
		var ids []string
		err := s.db.SelectContext(ctx, &ids, `select id from standin.things
			where kind = 'folder' and bin_until is null and position(lower($2) in lower(name)) > 0
			and (owner = $1 or grants ? $1 or above && array(select id from standin.things
				where kind = 'folder' and (grants ? $1 or owner = $1 and (parent is null or stands_alone))))
			order by name, id limit $3`, as, text, looked*most)
		out := []cupboard.Thing{}
		for _, id := range ids {
			if len(out) == most {
				break
			}
			t, err := s.get(ctx, as, id)
			if err == nil {
				out = append(out, t)
			} else if !errors.Is(err, cupboard.ErrNotFound) {
				return nil, err
			}
		}
		return out, err
	})
}

// Versions implements cupboard.Cupboard.
func (s *Standin) Versions(ctx context.Context, as, id string) ([]cupboard.Version, error) {
	return suffer(ctx, s.weather, func() ([]cupboard.Version, error) {
		rows, _, err := s.seen(ctx, s.db, as, id, access.Read)
		if err != nil {
			return nil, err
		}
		var vs []versionRow
		if err := s.db.SelectContext(ctx, &vs, `select n, sha, size, at, by from standin.versions
			where thing = $1 and n >= $2 order by n desc`, id, oldest(rows, as)); err != nil {
			return nil, err
		}
		out := make([]cupboard.Version, len(vs))
		for i, v := range vs {
			out[i] = v.version()
		}
		return out, nil
	})
}

// oldest is the first version that as may see of a thing: of what a link alone lets in, the
// newest.
func oldest(rows []row, as string) int {
	if access.Named(as, rules(rows)) < access.Read {
		return rows[0].Version
	}
	return 1
}

type versionRow struct {
	N    int       `db:"n"`
	SHA  []byte    `db:"sha"`
	Size int64     `db:"size"`
	At   time.Time `db:"at"`
	By   string    `db:"by"`
}

func (v versionRow) version() cupboard.Version {
	return cupboard.Version{Number: v.N, Size: v.Size, SHA: hex.EncodeToString(v.SHA), At: v.At.UTC(), By: v.By}
}

// States implements cupboard.Reader in two queries, whatever the number of ids.
func (s *Standin) States(ctx context.Context, as string, ids []string) (map[string]ledger.Seen, error) {
	return suffer(ctx, s.weather, func() (map[string]ledger.Seen, error) {
		valid := slices.DeleteFunc(slices.Clone(ids), func(id string) bool { return !validID(id) })
		var rows []row
		err := s.db.SelectContext(ctx, &rows, `select `+columns+` from standin.things
			where id = any($1::uuid[]) or id = any(array(select distinct unnest(above) from standin.things where id = any($1::uuid[])))`, valid)
		if err != nil {
			return nil, err
		}
		byID := make(map[string]row, len(rows))
		ruleOf := make(map[string]access.Thing, len(rows))
		for _, r := range rows {
			byID[r.ID], ruleOf[r.ID] = r, r.rule()
		}
		out := make(map[string]ledger.Seen, len(ids))
		for _, id := range ids {
			if r, ok := byID[id]; !ok {
				out[id] = ledger.Seen{Place: ledger.Gone}
			} else if st, ok := s.state(as, r, byID, ruleOf); ok {
				out[id] = st
			}
		}
		return out, s.inside(ctx, valid, out)
	})
}

// state is how a thing stands, with what is above it at hand.
func (s *Standin) state(as string, r row, byID map[string]row, ruleOf map[string]access.Thing) (ledger.Seen, bool) {
	var up []access.Thing
	var rows []row
	for at, more := r, true; more; at, more = byID[at.Parent.String], at.Parent.Valid {
		up, rows = append(up, ruleOf[at.ID]), append(rows, at)
	}
	if access.Effective(as, up, s.now()).Level < access.Read {
		return ledger.Seen{}, false
	}
	if s.ended(rows) {
		return ledger.Seen{Place: ledger.Gone}, true
	}
	st := ledger.Seen{
		Place: ledger.Lies, Name: r.Name, Parent: r.Parent.String, Owner: r.Owner, Rule: up[0].Rule, Closed: up[0].Closed,
		Version: r.Version, SHA: hex.EncodeToString(r.SHA),
		ChangedAt: r.ChangedAt.UTC(), ChangedBy: r.ChangedBy,
	}
	if b, away := binned(rows); away {
		st.Place, st.BinUntil = ledger.InBin, b.BinUntil.Time.UTC()
	}
	return st, true
}

// inside counts what others than a folder's owner put into it and nobody binned.
func (s *Standin) inside(ctx context.Context, ids []string, out map[string]ledger.Seen) error {
	var counts []struct {
		ID string    `db:"id"`
		N  int       `db:"n"`
		At time.Time `db:"at"`
	}
	err := s.db.SelectContext(ctx, &counts, `
		with b as materialized (select coalesce(array_agg(id), '{}') as ids from standin.things where bin_until is not null),
		f as materialized (select id, owner from standin.things where id = any($1::uuid[]) and kind = 'folder'),
		of as materialized (select array_agg(id) as ids from f),
		d as materialized (select d.owner, d.above, d.changed_at from of, b, standin.things d -- once, however many of them it lies in
			where d.above && of.ids and d.guest and d.bin_until is null and not d.above && b.ids)
		select f.id, count(*) as n, max(d.changed_at) as at from d cross join lateral unnest(d.above) as up(id)
		join f on f.id = up.id where f.owner <> d.owner group by f.id`, ids)
	for _, c := range counts {
		if st, ok := out[c.ID]; ok {
			st.Inside, st.InsideAt = c.N, c.At.UTC()
			out[c.ID] = st
		}
	}
	return err
}

// Weight implements cupboard.Reader.
func (s *Standin) Weight(ctx context.Context, as, folder string) (int64, error) {
	return suffer(ctx, s.weather, func() (int64, error) {
		var n int64
		if folder == "" {
			err := s.db.GetContext(ctx, &n, `select coalesce(sum(size), 0)::bigint
				from (select distinct v.sha, v.size from standin.things t join standin.versions v on v.thing = t.id where t.owner = $1) x`, as)
			return n, err
		}
		if _, _, err := s.seen(ctx, s.db, as, folder, access.Read); err != nil {
			return 0, err
		}
		err := s.db.GetContext(ctx, &n, `select coalesce(sum(size), 0)::bigint
			from (select distinct v.sha, v.size from standin.things t join standin.versions v on v.thing = t.id
			where t.above @> array[$1::uuid]) x`, folder)
		return n, err
	})
}

// Kept implements cupboard.Meter.
func (s *Standin) Kept(ctx context.Context) (int64, error) {
	return suffer(ctx, s.weather, func() (int64, error) {
		var n int64
		return n, s.db.GetContext(ctx, &n, `select coalesce(sum(size), 0)::bigint from standin.contents`)
	})
}
