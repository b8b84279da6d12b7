package kept

import (
	"context"
	"time"
)

// A LetIn is a student who let a classmate into their copies of a handout, by their rows.
type LetIn struct {
	Handout string `db:"handout_id"`
	Row     string `db:"row_id"`
	Mate    string `db:"mate"`
}

// LetIn returns who let whom into what of a class.
func (s Kept) LetIn(ctx context.Context, class string) ([]LetIn, error) {
	out := []LetIn{}
	return out, s.All(ctx, &out, `select handout_id, row_id, mate from let_in l join handouts h on h.id = l.handout_id
		where h.class_id = $1`, class)
}

// SetLetIn lets a classmate in, or no longer.
func (s Kept) SetLetIn(ctx context.Context, l LetIn, in bool, at time.Time) error {
	if !in {
		return s.Exec(ctx, `delete from let_in where handout_id = $1 and row_id = $2 and mate = $3`, l.Handout, l.Row, l.Mate)
	}
	return s.Exec(ctx, `insert into let_in (handout_id, row_id, mate, at) values ($1, $2, $3, $4)
		on conflict do nothing`, l.Handout, l.Row, l.Mate, at)
}
