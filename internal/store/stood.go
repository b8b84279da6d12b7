package store

import (
	"context"
	"time"

	"jollysatchel/internal/core/packing"
)

// A Stood is a class list as it stood when a handout was packed.
type Stood struct {
	ID       string    `db:"id"`
	At       time.Time `db:"at"`
	By       string    `db:"by"` // account
	Students []StoodStudent
}

// A StoodStudent is one student of such a list, by the name of then.
type StoodStudent struct {
	packing.Outcome
	Name string `json:"name"`
}

// InsertStood keeps a class list for a handout.
func (s *Store) InsertStood(ctx context.Context, class, handout string, st Stood) error {
	return s.exec(ctx, `insert into stood (id, class_id, handout_id, at, by, students) values ($1, $2, $3, $4, $5, $6)`, st.ID, class, handout, st.At, st.By, asJSON[[]StoodStudent]{st.Students})
}

// StoodTimes returns when a handout was packed, newest first, most at the most, without
// the lists.
func (s *Store) StoodTimes(ctx context.Context, class, handout string, most int) ([]Stood, error) {
	out := []Stood{}
	return out, s.all(ctx, &out, `select id, at, by from stood where class_id = $1 and handout_id = $2 order by at desc, id desc limit $3`, class, handout, most)
}

// StoodList returns one list.
func (s *Store) StoodList(ctx context.Context, class, handout, id string) (Stood, error) {
	var r struct {
		Stood
		List asJSON[[]StoodStudent] `db:"students"`
	}
	if !ValidID(id) {
		return Stood{}, ErrNotFound
	}
	err := s.get(ctx, &r, `select id, at, by, students from stood where class_id = $1 and handout_id = $2 and id = $3`, class, handout, id)
	r.Stood.Students = r.List.V
	return r.Stood, err
}
