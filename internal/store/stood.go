package store

import (
	"context"

	"jollysatchel/internal/core/handout"
)

// InsertStood keeps a class list for a handout.
func (s *Store) InsertStood(ctx context.Context, class, handoutID string, st handout.Stood) error {
	return s.exec(ctx, `insert into stood (id, class_id, handout_id, at, by, students)
		values ($1, $2, $3, $4, $5, $6)`, st.ID, class, handoutID, st.At, st.By, asJSON[[]handout.StoodStudent]{st.Students})
}

// StoodTimes returns when a handout was packed, newest first, most at the most, without
// the lists.
func (s *Store) StoodTimes(ctx context.Context, class, handoutID string, most int) ([]handout.Stood, error) {
	out := []handout.Stood{}
	return out, s.all(ctx, &out, `select id, at, by from stood where class_id = $1 and handout_id = $2
		order by at desc, id desc limit $3`, class, handoutID, most)
}

// StoodList returns one list.
func (s *Store) StoodList(ctx context.Context, class, handoutID, id string) (handout.Stood, error) {
	var r struct {
		handout.Stood
		List asJSON[[]handout.StoodStudent] `db:"students"`
	}
	if !ValidID(id) {
		return handout.Stood{}, ErrNotFound
	}
	err := s.get(ctx, &r, `select id, at, by, students from stood where class_id = $1 and handout_id = $2 and id = $3`, class, handoutID, id)
	r.Stood.Students = r.List.V
	return r.Stood, err
}
