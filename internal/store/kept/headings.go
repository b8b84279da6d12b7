package kept

import (
	"context"

	"jollysatchel/internal/core/handout"
)

// Headings returns a class's headings in their order.
func (s Kept) Headings(ctx context.Context, class string) ([]handout.Heading, error) {
	out := []handout.Heading{}
	return out, s.All(ctx, &out, `select id, title, folded from headings where class_id = $1 order by place, id`, class)
}

// SaveHeadings keeps all headings of a class, in their order; those it had besides end,
// and what stood under them is under none.
func (s Kept) SaveHeadings(ctx context.Context, class string, headings []handout.Heading) error {
	ids := make([]string, len(headings))
	for i, h := range headings {
		ids[i] = h.ID
		if err := s.Exec(ctx, `insert into headings (id, class_id, title, place, folded) values ($1, $2, $3, $4, $5)
			on conflict (id) do update set title = excluded.title, place = excluded.place,
				folded = excluded.folded`, h.ID, class, h.Title, i, h.Folded); err != nil {
			return err
		}
	}
	return s.Exec(ctx, `delete from headings where class_id = $1 and id <> all($2::uuid[])`, class, ids)
}

// PlaceHandouts puts handouts of a class under a heading, or none, in an order.
func (s Kept) PlaceHandouts(ctx context.Context, class, heading string, ids []string) error {
	return s.Exec(ctx, `update handouts h set heading = nullif($2, '')::uuid, place = x.n
		from unnest($3::uuid[]) with ordinality x (id, n) where h.id = x.id and h.class_id = $1`, class, heading, ids)
}
