package store

import "context"

// A Called says what a handout's thing is called in a folder, where it lies or is pointed to
// from. The folder is a key. Pointers to a student's own copy lie among its handout's things
// and meet no others.
type Called struct {
	Handout string `db:"handout_id"`
	Folder  string `db:"folder"`
	Name    string `db:"name"`
}

// NamesIn returns what the things of a class's handouts, but one, are called in some folders;
// those in the bin aren't in any.
func (s *Store) NamesIn(ctx context.Context, class, but string, folders []string) ([]Called, error) {
	var out []Called
	return out, s.all(ctx, &out, `with there as (
			select handout_id, row_id, spot, name, pointers from ledger l
			where class_id = $1 and ended_at is null and handout_id::text <> $2 and purpose in ('copy', 'handout') and bound <> 'bin'
				and not exists (select 1 from observed o where o.thing = l.thing and o.place in ('in-bin', 'gone')))
		select handout_id, spot as folder, name from there where spot = any($3)
		union all select handout_id, folder, name from there, jsonb_object_keys(pointers) as folder where row_id is null and folder = any($3)`, class, but, folders)
}

// A Coming is what a run is still to make, share or point to, with the folders in which it is
// to lie or be pointed to from.
type Coming struct {
	Key     string           `db:"key"`
	Handout string           `db:"handout_id"` // empty: of the room
	Makes   bool             `db:"makes"`
	Paused  bool             `db:"paused"`
	Name    string           `db:"name"`
	Folder  string           `db:"folder"`
	Points  asJSON[[]string] `db:"points"`
}

// Coming returns what runs of a class are still to do, but for changes.
func (s *Store) Coming(ctx context.Context, class string) ([]Coming, error) {
	var out []Coming
	return out, s.all(ctx, &out, `select s.key, coalesce(r.handout_id::text, '') as handout_id, s.act = 'make' as makes, r.state = 'paused' as paused,
			s.wanted ->> 'name' as name, s.wanted ->> 'parent' as folder, coalesce(s.wanted -> 'pointers', '[]') as points
		from runs r join steps s on s.run_id = r.id
		where r.class_id = $1 and r.state in ('packing', 'paused') and s.state = 'waiting' and s.act in ('make', 'share', 'point')`, class)
}
