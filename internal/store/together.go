package store

import (
	"context"

	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/store/pg"
)

// Partners returns the partners of a class's handouts, or of one of them, in the order
// in which they came.
func (s *Store) Partners(ctx context.Context, class, handoutID string) ([]handout.Partner, error) {
	out := []handout.Partner{}
	return out, s.All(ctx, &out, `select h.id as handout, o.id, o.class_id, c.code, c.name from handouts h
		join handouts o on o.together = h.together and o.id <> h.id join classes c on c.id = o.class_id
		where h.class_id = $1 and ($2 = '' or h.id::text = $2) order by o.created_at, o.id`, class, handoutID)
}

// Together returns the handouts that one is one with.
func (s *Store) Together(ctx context.Context, h handout.Handout) ([]handout.Handout, error) {
	if h.Together == "" {
		return nil, nil
	}
	return pg.Plainly[handoutRow](ctx, s.Base, `select `+handoutColumns+` from handouts where together = $1 and id <> $2
		order by created_at, id`, h.Together, h.ID)
}

// SetTogether says which handouts one is one with; empty: none.
func (s *Store) SetTogether(ctx context.Context, id, together string) error {
	return s.One(ctx, `update handouts set together = nullif($2, '')::uuid where id = $1`, id, together)
}
