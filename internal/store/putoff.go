package store

import (
	"context"

	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/store/pg"
)

// A PutOff is a note of a class that somebody doesn't want to see today, as long as it
// concerns no more than Count.
type PutOff struct {
	ClassID string `db:"class_id"`
	Code    string `db:"code"`
	About   string `db:"about"`
	Count   int    `db:"count"`
}

// PutOffs are what an account put off on a day, "2026-11-26".
func (s *Store) PutOffs(ctx context.Context, account, day string) ([]PutOff, error) {
	out := []PutOff{}
	return out, s.All(ctx, &out, `select class_id, code, about, count from put_off where account = $1 and day = $2::date`, account, day)
}

// SavePutOff puts something off for a day, and forgets what was put off before.
func (s *Store) SavePutOff(ctx context.Context, account, day string, p PutOff) error {
	return s.Exec(ctx, `with past as (delete from put_off where account = $1 and day < $2::date)
		insert into put_off (account, class_id, code, about, day, count) values ($1, $3, $4, $5, $2::date, $6)
		on conflict (account, class_id, code, about) do update
		set day = excluded.day, count = excluded.count`, account, day, p.ClassID, p.Code, p.About, p.Count)
}

// DropPutOffs shows an account again what it put off.
func (s *Store) DropPutOffs(ctx context.Context, account string) error {
	return s.Exec(ctx, `delete from put_off where account = $1`, account)
}

// A Waiting counts what waits in a class: lists to be accepted, students who ask to be let in,
// satchels that others ask for, messages that failed, texts that came after their copy closed, of
// which LateIn has the oldest, what the newest door check found, and drafts that somebody asks to look at.
type Waiting struct {
	Lists, Askers, Satchels, Failed, Late, Doors, Shown int
	LateIn                                              string // id of the copy
}

// CountWaiting counts it in some classes.
func (s *Store) CountWaiting(ctx context.Context, cs []string) (map[string]Waiting, error) {
	var rows []struct {
		ClassID string `db:"class_id"`
		What    string `db:"what"`
		N       int    `db:"n"`
		Oldest  string `db:"oldest"`
	}
	err := s.All(ctx, &rows, `select class_id, 'list' as what, count(*) as n, '' as oldest from drafts
		where class_id = any($1::uuid[]) group by class_id
		union all select class_id, 'asker', count(*), '' from join_asks a
		where class_id = any($1::uuid[]) and not exists (select 1 from rows r
		where r.class_id = a.class_id and r.account = a.account and r.left_at is null) group by class_id
		union all select o.class_id, 'satchel', count(distinct o.id), '' from `+standing+` where o.class_id = any($1::uuid[]) group by o.class_id
		union all select class_id, 'failed', count(*), '' from messages where state = 'failed' and class_id = any($1::uuid[]) group by class_id
		union all select m.class_id, 'failed', count(*), '' from messages d join messages m on m.sent_in = d.id
		where d.state = 'failed' and d.class_id is null and m.class_id = any($1::uuid[]) group by m.class_id
		union all select class_id, 'late', count(*), (array_agg(thing order by at))[1] from late
		where class_id = any($1::uuid[]) group by class_id
		union all select class_id, 'shown', count(distinct thing), '' from snapshots x where class_id = any($1::uuid[]) and asked
		and seen_at is null and not exists (select 1 from snapshots y where y.thing = x.thing and y.version > x.version and y.asked)
		group by class_id
		union all select c.id, 'doors', d.noted, '' from unnest($1::uuid[]) c(id) cross join lateral
		(select noted from door_checks where class_id = c.id order by at desc, id limit 1) d`, cs)
	out := map[string]Waiting{}
	for _, r := range rows {
		w := out[r.ClassID]
		switch r.What {
		case "list":
			w.Lists += r.N
		case "asker":
			w.Askers += r.N
		case "satchel":
			w.Satchels += r.N
		case "shown":
			w.Shown = r.N
		case "doors":
			w.Doors = r.N
		case "late":
			w.Late, w.LateIn = r.N, r.Oldest
		default:
			w.Failed += r.N
		}
		out[r.ClassID] = w
	}
	return out, err
}

// A ClassFilter says which of all classes are meant: those whose name, code or period hold a
// text or that one of some accounts owns; Needing alone those in which something needed
// attention when they were looked at last.
type ClassFilter struct {
	Text    string
	Owners  []string
	Needing bool
	From    int
	Most    int
}

// ClassPage returns classes of the school by name, and how many there are of the kind.
func (s *Store) ClassPage(ctx context.Context, f ClassFilter) ([]classes.Class, int, error) {
	const of = ` from classes c where ($1 = ''
		or strpos(lower(c.name || ' ' || c.code || ' ' || c.period), lower($1)) > 0 or exists (select 1 from staff
			where class_id = c.id and role = 'owner' and account = any($2)))
		and (not $3 or exists (select 1 from tabs where class_id = c.id and notes <> 'null' and notes <> '[]'))`
	if f.Owners == nil {
		f.Owners = []string{}
	}
	var n int
	if err := s.Get(ctx, &n, `select count(*)`+of, f.Text, f.Owners, f.Needing); err != nil {
		return nil, 0, err
	}
	out, err := pg.Plainly[classRow](ctx, s.Base, `select `+classColumns+of+` order by c.name,
		c.id offset $4 limit $5`, f.Text, f.Owners, f.Needing, f.From, f.Most)
	return out, n, err
}

// Unlooked are classes whose tab is of an earlier state than they are in, a few.
func (s *Store) Unlooked(ctx context.Context, most int) ([]classes.Class, error) {
	return pg.Plainly[classRow](ctx, s.Base, `select `+classColumns+` from classes c
		where not exists (select 1 from tabs where class_id = c.id and split_part(tag, '-', 1) = c.revision::text) order by c.id limit $1`, most)
}
