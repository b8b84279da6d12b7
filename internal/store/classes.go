package store

import (
	"context"
	"time"

	"jollysatchel/internal/core/room"
)

// A Class is one class with its room plan.
type Class struct {
	ID        string          `db:"id"`
	Code      string          `db:"code"`
	Name      string          `db:"name"`
	Period    string          `db:"period"`
	Plan      JSON[room.Plan] `db:"plan"`
	Revision  int64           `db:"revision"` // grows with every change the Register shows
	Wants     int64           `db:"wants"`    // grows with every change of what is wanted
	CreatedAt time.Time       `db:"created_at"`
	Practice  bool            `db:"practice"` // with invented students, to be cleared away
}

const classColumns = `id, code, name, period, plan, revision, wants, created_at, practice`

// Roles of a class's staff.
const (
	RoleOwner     = "owner"
	RoleTeacher   = "teacher"
	RoleAssistant = "assistant"
)

// A StaffMember is an account on a class's staff.
type StaffMember struct {
	ClassID string `db:"class_id"`
	Account string `db:"account"`
	Role    string `db:"role"`
}

// InsertClass adds a class with its owner teacher.
func (s *Store) InsertClass(ctx context.Context, c Class, owner string) error {
	if err := s.exec(ctx, `insert into classes (`+classColumns+`) values ($1, $2, $3, $4, $5, 1, 1, $6, $7)`,
		c.ID, c.Code, c.Name, c.Period, c.Plan, c.CreatedAt, c.Practice); err != nil {
		return err
	}
	return s.AddStaff(ctx, StaffMember{c.ID, owner, RoleOwner})
}

// AddStaff adds a member to a class's staff.
func (s *Store) AddStaff(ctx context.Context, m StaffMember) error {
	return s.exec(ctx, `insert into staff (class_id, account, role) values ($1, $2, $3) on conflict (class_id, account) do update set role = excluded.role`, m.ClassID, m.Account, m.Role)
}

// Class returns one class.
func (s *Store) Class(ctx context.Context, id string) (Class, error) {
	var c Class
	if !ValidID(id) {
		return c, ErrNotFound
	}
	return c, s.get(ctx, &c, `select `+classColumns+` from classes where id = $1`, id)
}

// Classes returns the classes on whose staff the account is, all of them for
// an empty account, in the order they were made.
func (s *Store) Classes(ctx context.Context, account string) ([]Class, error) {
	out := []Class{}
	return out, s.all(ctx, &out, `select `+classColumns+` from classes c
		where $1 = '' or exists (select 1 from staff where class_id = c.id and account = $1) order by created_at, id`, account)
}

// Taught returns the classes an account may change the roster of: as their
// owner or a co-teacher.
func (s *Store) Taught(ctx context.Context, account string) ([]Class, error) {
	out := []Class{}
	return out, s.all(ctx, &out, `select `+classColumns+` from classes c
		where exists (select 1 from staff where class_id = c.id and account = $1 and role <> 'assistant') order by created_at, id`, account)
}

// DeleteClass ends a class with everything the application knows of it, but for
// the log.
func (s *Store) DeleteClass(ctx context.Context, class string) error {
	if err := s.exec(ctx, `delete from ledger where class_id = $1`, class); err != nil {
		return err
	}
	return s.one(ctx, `delete from classes where id = $1`, class)
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
	return empty, s.get(ctx, &empty, `select not exists (select 1 from rows where class_id = $1) and not exists (select 1 from ledger where class_id = $1)
		and not exists (select 1 from handouts where class_id = $1) and not exists (select 1 from runs where class_id = $1)`, class)
}

// Staff returns a class's staff, the owner first.
func (s *Store) Staff(ctx context.Context, class string) ([]StaffMember, error) {
	out := []StaffMember{}
	return out, s.all(ctx, &out, `select class_id, account, role from staff where class_id = $1 order by role <> 'owner', role <> 'teacher', account`, class)
}

// SavePlan keeps a class's room plan.
func (s *Store) SavePlan(ctx context.Context, class string, p room.Plan) error {
	return s.one(ctx, `update classes set plan = $2 where id = $1`, class, JSON[room.Plan]{p})
}

// Touch raises the class's revision and tells every program that listens.
func (s *Store) Touch(ctx context.Context, class string) error {
	if err := s.one(ctx, `update classes set revision = revision + 1 where id = $1`, class); err != nil {
		return err
	}
	return s.exec(ctx, `select pg_notify('jolly', $1)`, class)
}
