package store

import (
	"context"

	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/store/pg"
)

// Closing are the classes in which copies or places close, or did: their marks are kept.
func (s *Store) Closing(ctx context.Context) ([]classes.Class, error) {
	return pg.Plainly[classRow](ctx, s.Base, `select `+classColumns+` from classes c where c.pens <> '{}' or exists (select 1 from handouts h
			where h.class_id = c.id and h.packed_at is not null
			and (h.settings ->> 'then' = 'close' or h.settings ? 'pens' or h.settings ? 'hands'))
		or exists (select 1 from ledger l where l.class_id = c.id and l.closed is not null and l.ended_at is null) order by c.id`)
}

// Waiting are the classes in which something was made for rows that had no account then, or that wait to open.
func (s *Store) Waiting(ctx context.Context) ([]classes.Class, error) {
	return pg.Plainly[classRow](ctx, s.Base, `select `+classColumns+` from classes c
		where c.opening is not null
			or exists (select 1 from ledger l where l.class_id = c.id and l.waits <> '{}' and l.ended_at is null) order by c.id`)
}

// LinkOpened says by whom and when the links of things of a class were opened to the school last.
func (s *Store) LinkOpened(ctx context.Context, class string, things []string) (map[string]LogLine, error) {
	var all []struct {
		LogLine
		Thing string `db:"thing"`
	}
	err := s.All(ctx, &all, `select distinct on (l.args ->> 'thing') l.args ->> 'thing' as thing, l.at, l.account
		from log l where l.class_id = $1 and l.act = 'link-opened' and l.args ->> 'thing' = any($2)
		order by l.args ->> 'thing', l.at desc`, class, things)
	out := map[string]LogLine{}
	for _, l := range all {
		out[l.Thing] = l.LogLine
	}
	return out, err
}
