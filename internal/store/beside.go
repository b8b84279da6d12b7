package store

import (
	"context"

	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/store/pg"
)

// NamesLike returns where things of a class's handouts, but one, have some names, where they
// lie and where they are pointed to from; big and small letters are the same. It looks at
// those alone that are called so. What is in the bin isn't anywhere; what is on
// its way there, or back, is.
func (s *Store) NamesLike(ctx context.Context, class, but string, names []string) ([]ledger.Called, error) {
	var out []ledger.Called
	return out, s.All(ctx, &out, `with asked as materialized (select distinct lower(n) as name from unnest($3::text[]) n),
		there as materialized (
			select l.handout_id, l.row_id, l.spot, l.name, l.pointers from asked a join ledger l on l.class_id = $1 and lower(l.name) = a.name
			where l.ended_at is null and l.purpose in ('copy', 'handout') and l.handout_id::text <> $2
				and (l.bound <> '' or not exists (select 1 from observed o where o.thing = l.thing and o.place in ('in-bin', 'gone'))))
		select handout_id, spot as folder, name from there
		union all select handout_id, folder, name from there, jsonb_object_keys(pointers) as folder where row_id is null`, class, but, names)
}

// Coming returns what runs of a class are still to make, share, point to or rename.
func (s *Store) Coming(ctx context.Context, class string) ([]ledger.Coming, error) {
	var rows []struct {
		Key    string
		Named  bool
		Gives  bool
		Paused bool
		Name   string
		Folder string
		Points pg.AsJSON[[]string]
	}
	if err := s.All(ctx, &rows, `select s.key, s.act = 'make' or coalesce(s.change ->> 'rename', '') <> '' as named,
		s.act in ('make', 'share', 'point') as gives, r.state = 'paused' as paused,
			coalesce(nullif(s.change ->> 'rename', ''), s.wanted ->> 'name') as name, s.wanted ->> 'parent' as folder,
				coalesce(s.wanted -> 'pointers', '[]') as points
		from runs r join steps s on s.run_id = r.id
		where r.class_id = $1 and r.state in ('packing', 'paused') and s.state = 'waiting'
			and s.act in ('make', 'share', 'point', 'rename', 'restore')`, class); err != nil {
		return nil, err
	}
	out := make([]ledger.Coming, 0, len(rows))
	for _, r := range rows {
		if k, err := packing.ParseKey(r.Key); err == nil { // of an unknown kind: of a newer program, which knows it
			out = append(out, ledger.Coming{Key: k, Named: r.Named, Gives: r.Gives, Paused: r.Paused, Name: r.Name,
				Folder: r.Folder, Points: r.Points.V})
		}
	}
	return out, nil
}
