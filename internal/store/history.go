package store

import (
	"context"
	"database/sql"
	"time"

	"jollysatchel/internal/core/roster"
)

// A RowState is one row of a roster with its person, as it stood.
type RowState struct {
	Person    string            `json:"person"`
	Account   string            `json:"account"`
	Given     string            `json:"given"`
	Family    string            `json:"family"`
	Preferred string            `json:"preferred"`
	Number    string            `json:"number"`
	Address   string            `json:"address"`
	Class     string            `json:"class"`
	Period    string            `json:"period"`
	Level     string            `json:"level"`
	Team      string            `json:"team"`
	Extra     map[string]string `json:"extra"`
	Left      *time.Time        `json:"left"`
}

// State returns the member as it stands.
func (m Member) State() RowState {
	s := RowState{
		Person: m.PersonID, Account: m.Account.String, Given: m.Given, Family: m.Family, Preferred: m.Preferred, Number: m.Number, Address: m.Address,
		Class: m.Class, Period: m.Period, Level: m.Level, Team: m.Team, Extra: m.Extra.V,
	}
	if m.LeftAt.Valid {
		at := m.LeftAt.Time.UTC()
		s.Left = &at
	}
	return s
}

// A RowChange is a row before and after; nil where it wasn't there.
type RowChange struct {
	Row    string    `json:"row"`
	Before *RowState `json:"before"`
	After  *RowState `json:"after"`
}

// A HistoryEntry is one change of a class's roster. Entries of one batch were
// made by one act.
type HistoryEntry struct {
	ID       string            `db:"id"`
	ClassID  string            `db:"class_id"`
	Batch    string            `db:"batch"`
	At       time.Time         `db:"at"`
	Account  string            `db:"account"`
	Kind     string            `db:"kind"` // list, edit, added, left, returned, undone
	Source   string            `db:"source"`
	Changes  JSON[[]RowChange] `db:"changes"`
	UndoneAt sql.NullTime      `db:"undone_at"`
}

const historyColumns = `id, class_id, batch, at, account, kind, source, changes, undone_at`

// InsertHistory keeps an entry.
func (s *Store) InsertHistory(ctx context.Context, h HistoryEntry) error {
	return s.exec(ctx, `insert into roster_history (`+historyColumns+`) values ($1, $2, $3, $4, $5, $6, $7, $8, $9)`,
		h.ID, h.ClassID, h.Batch, h.At, h.Account, h.Kind, h.Source, h.Changes, h.UndoneAt)
}

// History returns the latest entries of a class, newest first.
func (s *Store) History(ctx context.Context, class string, most int) ([]HistoryEntry, error) {
	out := []HistoryEntry{}
	return out, s.all(ctx, &out, `select `+historyColumns+` from roster_history where class_id = $1 order by at desc, id desc limit $2`, class, most)
}

// HistoryEntry returns what an act changed in a class.
func (s *Store) HistoryEntry(ctx context.Context, class, batch string) (HistoryEntry, error) {
	var h HistoryEntry
	if !ValidID(batch) {
		return h, ErrNotFound
	}
	return h, s.get(ctx, &h, `select `+historyColumns+` from roster_history where class_id = $1 and batch = $2`, class, batch)
}

// Batch returns the entries of one act in all classes.
func (s *Store) Batch(ctx context.Context, batch string) ([]HistoryEntry, error) {
	out := []HistoryEntry{}
	return out, s.all(ctx, &out, `select `+historyColumns+` from roster_history where batch = $1 order by id`, batch)
}

// MarkUndone notes that an act was taken back.
func (s *Store) MarkUndone(ctx context.Context, batch string, at time.Time) error {
	return s.one(ctx, `update roster_history set undone_at = $2 where batch = $1 and undone_at is null`, batch, at)
}

// PackedSince reports whether anything was packed in a class from a moment on.
func (s *Store) PackedSince(ctx context.Context, class string, at time.Time) (bool, error) {
	var packed bool
	return packed, s.get(ctx, &packed, `select exists (select 1 from runs where class_id = $1 and started_at >= $2)`, class, at)
}

// AllMembers returns a class's rows, those that have left too.
func (s *Store) AllMembers(ctx context.Context, class string) ([]Member, error) {
	out := []Member{}
	return out, s.all(ctx, &out, `select `+memberColumns+` from rows r join people p on p.id = r.person_id where r.class_id = $1 order by r.added`, class)
}

// OtherClasses returns, for people of a class, the codes of the other classes
// they are in.
func (s *Store) OtherClasses(ctx context.Context, class string) (map[string][]string, error) {
	var rows []struct {
		Person string `db:"person_id"`
		Code   string `db:"code"`
	}
	if err := s.all(ctx, &rows, `select o.person_id, c.code from rows o join classes c on c.id = o.class_id
		where o.left_at is null and o.class_id <> $1 and o.person_id in (select person_id from rows where class_id = $1) order by c.code`, class); err != nil {
		return nil, err
	}
	m := map[string][]string{}
	for _, r := range rows {
		m[r.Person] = append(m[r.Person], r.Code)
	}
	return m, nil
}

// SetLeft ends rows of a class at a moment, or reopens them with a zero one.
func (s *Store) SetLeft(ctx context.Context, class string, rows []string, at sql.NullTime) error {
	return s.exec(ctx, `update rows set left_at = $3 where class_id = $1 and id = any($2::uuid[])`, class, rows, at)
}

// RestoreRow puts a row and its person back to how they stood.
func (s *Store) RestoreRow(ctx context.Context, class, row string, to RowState) error {
	left := sql.NullTime{}
	if to.Left != nil {
		left = sql.NullTime{Time: *to.Left, Valid: true}
	}
	if err := s.one(ctx, `update people set account = nullif($2, ''), number = $3, given = $4, family = $5, preferred = $6, address = $7 where id = $1`,
		to.Person, to.Account, to.Number, to.Given, to.Family, to.Preferred, to.Address); err != nil {
		return err
	}
	return s.one(ctx, `update rows set person_id = $3, class = $4, period = $5, level = $6, team = $7, extra = $8, left_at = $9 where class_id = $1 and id = $2`,
		class, row, to.Person, to.Class, to.Period, to.Level, to.Team, JSON[map[string]string]{to.Extra}, left)
}

// DeleteRow takes a row away that nothing was made for, and its person where
// that was the only one.
func (s *Store) DeleteRow(ctx context.Context, class, row string) error {
	var person string
	if err := s.get(ctx, &person, `delete from rows where class_id = $1 and id = $2 returning person_id`, class, row); err != nil {
		return err
	}
	return s.exec(ctx, `delete from people p where id = $1 and not exists (select 1 from rows where person_id = p.id) and not exists (select 1 from ledger where person_id = p.id)`, person)
}

// Shape returns what an account said about lists of a shape.
func (s *Store) Shape(ctx context.Context, account, shape string) (map[int]roster.Role, error) {
	var roles JSON[map[int]roster.Role]
	err := s.get(ctx, &roles, `select roles from shapes where account = $1 and shape = $2`, account, shape)
	return roles.V, err
}

// SaveShape keeps what an account said about lists of a shape.
func (s *Store) SaveShape(ctx context.Context, account, shape string, roles map[int]roster.Role) error {
	return s.exec(ctx, `insert into shapes (account, shape, roles) values ($1, $2, $3) on conflict (account, shape) do update set roles = excluded.roles`,
		account, shape, JSON[map[int]roster.Role]{roles})
}
