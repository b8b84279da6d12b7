package store

import "context"

func (s *Store) count(ctx context.Context, query, of string) (int, error) {
	var n int
	return n, s.Get(ctx, &n, query, of)
}

// CountClasses returns how many classes an account owns.
func (s *Store) CountClasses(ctx context.Context, owner string) (int, error) {
	return s.count(ctx, `select count(*) from staff where account = $1 and role = 'owner'`, owner)
}

// CountHandouts returns how many handouts a class has.
func (s *Store) CountHandouts(ctx context.Context, class string) (int, error) {
	return s.count(ctx, `select count(*) from handouts where class_id = $1`, class)
}

// CountTemplates returns how many templates an account has.
func (s *Store) CountTemplates(ctx context.Context, account string) (int, error) {
	return s.count(ctx, `select count(*) from templates where account = $1 and removed_at is null`, account)
}
