package store

import (
	"context"

	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/pens"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/store/pg"
)

type classRow struct {
	classes.Class
	Plan    pg.AsJSON[room.Plan]             `db:"plan"`
	Pens    pg.AsJSON[map[string]pens.Said]  `db:"pens"`
	Extra   pg.AsJSON[map[string]pens.Extra] `db:"extra_time"`
	Opening pg.AsJSON[*classes.Opening]      `db:"opening"`
}

func (r classRow) Plain() classes.Class {
	r.Class.Plan, r.Class.Pens, r.Class.Extra, r.Class.Opening = r.Plan.V, r.Pens.V, r.Extra.V, r.Opening.V
	return r.Class
}

const (
	newColumns   = `id, code, name, period, plan, revision, wants, created_at, practice, keep_in_step, held_by, of_staff`
	classColumns = newColumns + `, pens, extra_time, coalesce(opening, 'null') as opening`
)

// InsertClass adds a class with its owner teacher.
func (s *Store) InsertClass(ctx context.Context, c classes.Class, owner string) error {
	if err := s.Exec(ctx, `insert into classes (`+newColumns+`) values ($1, $2, $3, $4, $5, 1, 1, $6, $7, $8, $9, $10)`,
		c.ID, c.Code, c.Name, c.Period, pg.AsJSON[room.Plan]{V: c.Plan}, c.CreatedAt, c.Practice, c.KeepInStep, c.HeldBy, c.OfStaff); err != nil {
		return err
	}
	return s.AddStaff(ctx, classes.Member{ClassID: c.ID, Account: owner, Role: classes.Owner})
}

// HoldTerm has one term after the other brought in: anyone who comes second sees what the first
// made.
func (s *Store) HoldTerm(ctx context.Context) error {
	return s.Exec(ctx, `select pg_advisory_xact_lock(hashtext('term'))`)
}

// AddStaff adds a member to a class's staff.
func (s *Store) AddStaff(ctx context.Context, m classes.Member) error {
	return s.Exec(ctx, `insert into staff (class_id, account, role) values ($1, $2, $3)
		on conflict (class_id, account) do update set role = excluded.role`, m.ClassID, m.Account, m.Role)
}

// SaveClassName keeps what a class is called, and its period.
func (s *Store) SaveClassName(ctx context.Context, c classes.Class) error {
	return s.One(ctx, `update classes set code = $2, name = $3, period = $4 where id = $1`, c.ID, c.Code, c.Name, c.Period)
}

// Class returns one class.
func (s *Store) Class(ctx context.Context, id string) (classes.Class, error) {
	if !pg.ValidID(id) {
		return classes.Class{}, pg.ErrNotFound
	}
	return pg.OnePlainly[classRow](ctx, s.Base, `select `+classColumns+` from classes where id = $1`, id)
}

// Revision returns a class's revision.
func (s *Store) Revision(ctx context.Context, id string) (int64, error) {
	var n int64
	if !pg.ValidID(id) {
		return 0, pg.ErrNotFound
	}
	return n, s.Get(ctx, &n, `select revision from classes where id = $1`, id)
}

// Classes returns the classes on whose staff the account is, all of them for
// an empty account, in the order they were made.
func (s *Store) Classes(ctx context.Context, account string) ([]classes.Class, error) {
	return pg.Plainly[classRow](ctx, s.Base, `select `+classColumns+` from classes c
		where $1 = '' or exists (select 1 from staff where class_id = c.id and account = $1) order by created_at, id`, account)
}

// Taught returns the classes an account may change the roster of: as their
// owner or a co-teacher.
func (s *Store) Taught(ctx context.Context, account string) ([]classes.Class, error) {
	return pg.Plainly[classRow](ctx, s.Base, `select `+classColumns+` from classes c
		where exists (select 1 from staff where class_id = c.id and account = $1 and role <> 'assistant') order by created_at, id`, account)
}

// DeleteClass ends a class with everything the application knows of it, but for
// the log.
func (s *Store) DeleteClass(ctx context.Context, class string) error {
	if err := s.Exec(ctx, `delete from ledger where class_id = $1`, class); err != nil {
		return err
	}
	return s.One(ctx, `delete from classes where id = $1`, class)
}

// HoldClass keeps a class from being changed by others until the transaction
// ends: before any of its runs is held.
func (s *Store) HoldClass(ctx context.Context, class string) error {
	return s.hold(ctx, []string{class})
}

// Untouched reports that nothing was ever in a class: no row, nothing made, no
// handout.
func (s *Store) Untouched(ctx context.Context, class string) (bool, error) {
	var empty bool
	return empty, s.Get(ctx, &empty, `select not exists (select 1 from rows where class_id = $1) and not exists (select 1
		from ledger where class_id = $1)
		and not exists (select 1 from handouts where class_id = $1) and not exists (select 1 from runs where class_id = $1)`, class)
}

// AnyMade reports whether anything of a purpose was made in a class.
func (s *Store) AnyMade(ctx context.Context, class string, purpose packing.Purpose) (bool, error) {
	var any bool
	return any, s.Get(ctx, &any, `select exists (select 1 from ledger
		where class_id = $1 and purpose = $2 and ended_at is null)`, class, string(purpose))
}

// RemoveStaff takes a member off a class's staff.
func (s *Store) RemoveStaff(ctx context.Context, class, account string) error {
	return s.Exec(ctx, `delete from staff where class_id = $1 and account = $2 and role <> 'owner'`, class, account)
}

// Staff returns a class's staff, the owner first.
func (s *Store) Staff(ctx context.Context, class string) ([]classes.Member, error) {
	out := []classes.Member{}
	return out, s.All(ctx, &out, `select class_id, account, role from staff where class_id = $1
		order by role <> 'owner', role <> 'teacher', account`, class)
}

// SavePlan keeps a class's room plan.
func (s *Store) SavePlan(ctx context.Context, class string, p room.Plan) error {
	return s.One(ctx, `update classes set plan = $2 where id = $1`, class, pg.AsJSON[room.Plan]{V: p})
}

// SavePens keeps what was said by hand of a class's places.
func (s *Store) SavePens(ctx context.Context, class string, said map[string]pens.Said) error {
	return s.One(ctx, `update classes set pens = $2 where id = $1`, class, pg.AsJSON[map[string]pens.Said]{V: said})
}

// SaveExtra keeps the extra time that rows of a class have in all of its handouts.
func (s *Store) SaveExtra(ctx context.Context, class string, extra map[string]pens.Extra) error {
	return s.One(ctx, `update classes set extra_time = $2 where id = $1`, class, pg.AsJSON[map[string]pens.Extra]{V: extra})
}

// SaveOpening keeps when a class opens to its students; nil: at once.
func (s *Store) SaveOpening(ctx context.Context, class string, o *classes.Opening) error {
	return s.One(ctx, `update classes set opening = nullif($2::jsonb, 'null'), wants = wants + 1 where id = $1`, class,
		pg.AsJSON[*classes.Opening]{V: o})
}

// InStep returns the classes that are kept in step and in which nothing is being
// packed or waits to be carried on.
func (s *Store) InStep(ctx context.Context) ([]classes.Class, error) {
	return pg.Plainly[classRow](ctx, s.Base, `select `+classColumns+` from classes c
		where keep_in_step <> '' and not exists (select 1 from runs r where r.class_id = c.id and r.state in ('packing', 'paused')) order by id`)
}

// OwnerOfThings returns the account that owns what was made in a class.
func (s *Store) OwnerOfThings(ctx context.Context, class string) (string, error) {
	var account string
	return account, s.Get(ctx, &account, `select coalesce(nullif(c.held_by, ''), s.account) from classes c
		join staff s on s.class_id = c.id and s.role = 'owner' where c.id = $1`, class)
}

// SetHeldBy notes which account owns what was made in a class; empty: the owner
// teacher's.
func (s *Store) SetHeldBy(ctx context.Context, class, account string) error {
	return s.One(ctx, `update classes set held_by = $2 where id = $1`, class, account)
}

// SetKeepInStep notes who wishes that anyone who joins a class is topped up by itself.
func (s *Store) SetKeepInStep(ctx context.Context, class, account string) error {
	return s.One(ctx, `update classes set keep_in_step = $2 where id = $1`, class, account)
}

// Touch raises the class's revision and tells every program that listens.
func (s *Store) Touch(ctx context.Context, class string) error {
	if err := s.One(ctx, `update classes set revision = revision + 1 where id = $1`, class); err != nil {
		return err
	}
	return s.Exec(ctx, `select pg_notify('jolly', $1)`, class)
}

// ClassesIn returns what the classes are called that some accounts are in, as students or staff, by account: their
// codes, or their names where they have none.
func (s *Store) ClassesIn(ctx context.Context, accounts []string) (map[string][]string, error) {
	var rows []struct {
		Account string `db:"account"`
		Called  string `db:"called"`
	}
	err := s.All(ctx, &rows, `select x.account, coalesce(nullif(c.code, ''), c.name) as called from (
			select account, class_id from rows where account = any($1) and left_at is null
			union select account, class_id from staff where account = any($1)) x
		join classes c on c.id = x.class_id order by x.account, called`, accounts)
	out := map[string][]string{}
	for _, r := range rows {
		out[r.Account] = append(out[r.Account], r.Called)
	}
	return out, err
}
