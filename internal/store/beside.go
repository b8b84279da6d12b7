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

// NamesLike returns where things of a class's handouts, but one, have some names, where they
// lie and where they are pointed to from; big and small letters are the same. It looks at
// those alone that are called so. What is in the bin isn't anywhere; what is on
// its way there, or back, is.
func (s *Store) NamesLike(ctx context.Context, class, but string, names []string) ([]Called, error) {
	var out []Called
	return out, s.all(ctx, &out, `with asked as materialized (select distinct lower(n) as name from unnest($3::text[]) n),
		there as materialized (
			select l.handout_id, l.row_id, l.spot, l.name, l.pointers from asked a join ledger l on l.class_id = $1 and lower(l.name) = a.name
			where l.ended_at is null and l.purpose in ('copy', 'handout') and l.handout_id::text <> $2
				and (l.bound <> '' or not exists (select 1 from observed o where o.thing = l.thing and o.place in ('in-bin', 'gone'))))
		select handout_id, spot as folder, name from there
		union all select handout_id, folder, name from there, jsonb_object_keys(pointers) as folder where row_id is null`, class, but, names)
}

// A Coming is what a run is still to make, share, point to or call otherwise, with the folders
// in which it is to lie or be pointed to from.
type Coming struct {
	Key    string           `db:"key"`
	Named  bool             `db:"named"` // it has its name from then on
	Gives  bool             `db:"gives"` // it is made, shared or pointed to
	Paused bool             `db:"paused"`
	Name   string           `db:"name"`
	Folder string           `db:"folder"`
	Points asJSON[[]string] `db:"points"`
}

// Coming returns what runs of a class are still to do of that.
func (s *Store) Coming(ctx context.Context, class string) ([]Coming, error) {
	var out []Coming
	return out, s.all(ctx, &out, `select s.key, s.act = 'make' or coalesce(s.change ->> 'rename', '') <> '' as named, s.act in ('make', 'share', 'point') as gives, r.state = 'paused' as paused,
			coalesce(nullif(s.change ->> 'rename', ''), s.wanted ->> 'name') as name, s.wanted ->> 'parent' as folder, coalesce(s.wanted -> 'pointers', '[]') as points
		from runs r join steps s on s.run_id = r.id
		where r.class_id = $1 and r.state in ('packing', 'paused') and s.state = 'waiting' and s.act in ('make', 'share', 'point', 'rename', 'restore')`, class)
}
