package kept

import (
	"context"

	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/store/pg"
)

// InsertStood keeps a class list for a handout.
func (s Kept) InsertStood(ctx context.Context, class, handoutID string, st handout.Stood) error {
	return s.Exec(ctx, `insert into stood (id, class_id, handout_id, at, by, students)
		values ($1, $2, $3, $4, $5, $6)`, st.ID, class, handoutID, st.At, st.By, pg.AsJSON[[]handout.StoodStudent]{V: st.Students})
}

// StoodTimes returns when a handout was packed, newest first, most at the most, without
// the lists.
func (s Kept) StoodTimes(ctx context.Context, class, handoutID string, most int) ([]handout.Stood, error) {
	out := []handout.Stood{}
	return out, s.All(ctx, &out, `select id, at, by from stood where class_id = $1 and handout_id = $2
		order by at desc, id desc limit $3`, class, handoutID, most)
}

// StoodList returns one list.
func (s Kept) StoodList(ctx context.Context, class, handoutID, id string) (handout.Stood, error) {
	var r struct {
		handout.Stood
		List pg.AsJSON[[]handout.StoodStudent] `db:"students"`
	}
	if !pg.ValidID(id) {
		return handout.Stood{}, pg.ErrNotFound
	}
	err := s.Get(ctx, &r, `select id, at, by, students from stood where class_id = $1 and handout_id = $2 and id = $3`, class, handoutID, id)
	r.Stood.Students = r.List.V
	return r.Stood, err
}
