package store

import (
	"context"
	"database/sql"
	"time"

	"jollysatchel/internal/core/roster"
)

// A Person belongs to the school. Account is empty while the school book knows
// none for the address.
type Person struct {
	ID        string         `db:"id"`
	Account   sql.NullString `db:"account"`
	Number    string         `db:"number"`
	Given     string         `db:"given"`
	Family    string         `db:"family"`
	Preferred string         `db:"preferred"`
	Address   string         `db:"address"`
	CreatedAt time.Time      `db:"created_at"`
}

// A Row puts a person in one class.
type Row struct {
	ID       string                  `db:"id"`
	ClassID  string                  `db:"class_id"`
	PersonID string                  `db:"person_id"`
	Class    string                  `db:"class"`
	Period   string                  `db:"period"`
	Level    string                  `db:"level"`
	Team     string                  `db:"team"`
	Extra    JSON[map[string]string] `db:"extra"`
	Added    int                     `db:"added"`
	LeftAt   sql.NullTime            `db:"left_at"`
}

// A Member is a row with its person.
type Member struct {
	Row
	Account   sql.NullString `db:"account"`
	Number    string         `db:"number"`
	Given     string         `db:"given"`
	Family    string         `db:"family"`
	Preferred string         `db:"preferred"`
	Address   string         `db:"address"`
}

const memberColumns = `r.id, r.class_id, r.person_id, r.class, r.period, r.level, r.team, r.extra, r.added, r.left_at, p.account, p.number, p.given, p.family, p.preferred, p.address`

// Members returns a class's students who have not left, in the order added.
func (s *Store) Members(ctx context.Context, class string) ([]Member, error) {
	out := []Member{}
	return out, s.all(ctx, &out, `select `+memberColumns+` from rows r join people p on p.id = r.person_id where r.class_id = $1 and r.left_at is null order by r.added`, class)
}

// MembersOf returns the rows of one account in all classes, those it has left
// last: what is in its satchels there is still its own.
func (s *Store) MembersOf(ctx context.Context, account string) ([]Member, error) {
	out := []Member{}
	return out, s.all(ctx, &out, `select `+memberColumns+` from rows r join people p on p.id = r.person_id where p.account = $1 order by r.left_at is not null, r.added`, account)
}

// Member returns one row of a class.
func (s *Store) Member(ctx context.Context, class, row string) (Member, error) {
	var m Member
	if !ValidID(row) {
		return m, ErrNotFound
	}
	return m, s.get(ctx, &m, `select `+memberColumns+` from rows r join people p on p.id = r.person_id where r.class_id = $1 and r.id = $2`, class, row)
}

// RowOf returns the row a person has in a class, left or not.
func (s *Store) RowOf(ctx context.Context, class, person string) (Member, error) {
	var m Member
	return m, s.get(ctx, &m, `select `+memberColumns+` from rows r join people p on p.id = r.person_id where r.class_id = $1 and r.person_id = $2`, class, person)
}

// PersonLike finds the person a student of a list is: by account, else by
// number with the same family name, else by address. ErrNotFound where none.
func (s *Store) PersonLike(ctx context.Context, account string, st roster.Student) (Person, error) {
	var p Person
	return p, s.get(ctx, &p, `select id, account, number, given, family, preferred, address, created_at from people
		where ($1 <> '' and account = $1) or ($2 <> '' and number = $2 and lower(family) = lower($3)) or ($4 <> '' and lower(address) = lower($4))
		order by (account = $1) desc nulls last, (number = $2 and $2 <> '') desc, created_at limit 1`, account, st.Number, st.Family, st.Address)
}

// PersonByAccount returns the person with an account.
func (s *Store) PersonByAccount(ctx context.Context, account string) (Person, error) {
	var p Person
	return p, s.get(ctx, &p, `select id, account, number, given, family, preferred, address, created_at from people where account = $1`, account)
}

// SetRowPerson says that a row is another person's.
func (s *Store) SetRowPerson(ctx context.Context, row, person string) error {
	return s.one(ctx, `update rows set person_id = $2 where id = $1`, row, person)
}

// SavePerson inserts or updates a person.
func (s *Store) SavePerson(ctx context.Context, p Person) error {
	return s.exec(ctx, `insert into people (id, account, number, given, family, preferred, address, created_at) values ($1, $2, $3, $4, $5, $6, $7, $8)
		on conflict (id) do update set account = excluded.account, number = excluded.number, given = excluded.given, family = excluded.family, preferred = excluded.preferred, address = excluded.address`,
		p.ID, p.Account, p.Number, p.Given, p.Family, p.Preferred, p.Address, p.CreatedAt)
}

// SetAddress gives a person an address and the account it belongs to.
func (s *Store) SetAddress(ctx context.Context, person, address, account string) error {
	return s.one(ctx, `update people set address = $2, account = nullif($3, '') where id = $1`, person, address, account)
}

// SaveRow inserts a row, or updates and reopens the one this person has in the
// class. It returns the row's id.
func (s *Store) SaveRow(ctx context.Context, r Row) (string, error) {
	var id string
	err := s.get(ctx, &id, `insert into rows (id, class_id, person_id, class, period, level, team, extra) values ($1, $2, $3, $4, $5, $6, $7, $8)
		on conflict (class_id, person_id) do update set class = excluded.class, period = excluded.period, level = excluded.level, team = excluded.team, extra = excluded.extra, left_at = null
		returning id`, r.ID, r.ClassID, r.PersonID, r.Class, r.Period, r.Level, r.Team, r.Extra)
	return id, err
}

// A Draft is a list that was brought in and not accepted yet.
type Draft struct {
	ClassID   string                    `db:"class_id"`
	Cells     JSON[[]roster.Row]        `db:"cells"`
	Roles     JSON[map[int]roster.Role] `db:"roles"`
	Heading   sql.NullInt64             `db:"heading"`
	LeftOut   JSON[map[int]bool]        `db:"left_out"`
	Without   bool                      `db:"without"` // accept without addresses
	Source    string                    `db:"source"`
	Settings  JSON[DraftSettings]       `db:"settings"`
	Sheets    JSON[[]DraftSheet]        `db:"sheets"`
	ChangedAt time.Time                 `db:"changed_at"`
}

// DraftSettings are what was answered about a list.
type DraftSettings struct {
	Sheet         string            `json:"sheet"` // the sheet that is looked at
	HiddenColumns []int             `json:"hidden_columns,omitempty"`
	FamilyFirst   bool              `json:"family_first"`
	Derive        roster.Rule       `json:"derive"`
	ByPeriod      bool              `json:"by_period"`         // periods are classes of their own
	Said          map[int]string    `json:"said,omitempty"`    // line → row it is, "new" for nobody's
	Ticked        map[string]bool   `json:"ticked,omitempty"`  // lines of the comparison the teacher ticked or unticked
	Targets       map[string]string `json:"targets,omitempty"` // group → class id, "new" or "out"
	Own           bool              `json:"own"`               // our own roster as it once stood: an empty cell means empty
	NoStaff       bool              `json:"no_staff"`          // the file's teachers aren't added to new classes
	Teachers      []DraftTeacher    `json:"teachers,omitempty"`
}

// A DraftTeacher is one the file names for a class.
type DraftTeacher struct {
	Class   string `json:"class"`
	Period  string `json:"period"`
	Name    string `json:"name"`
	Address string `json:"address"`
}

// A DraftSheet is a sheet of the file; the one that is looked at has no rows
// here.
type DraftSheet struct {
	Name          string       `json:"name"`
	Hidden        bool         `json:"hidden"`
	Rows          []roster.Row `json:"rows"`
	HiddenColumns []int        `json:"hidden_columns,omitempty"`
}

const draftColumns = `class_id, cells, roles, heading, left_out, without, source, settings, sheets, changed_at`

// SaveDraft keeps a class's draft in place of the one before.
func (s *Store) SaveDraft(ctx context.Context, d Draft) error {
	return s.exec(ctx, `insert into drafts (`+draftColumns+`) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)
		on conflict (class_id) do update set cells = excluded.cells, roles = excluded.roles, heading = excluded.heading, left_out = excluded.left_out, without = excluded.without,
			source = excluded.source, settings = excluded.settings, sheets = excluded.sheets, changed_at = excluded.changed_at`,
		d.ClassID, d.Cells, d.Roles, d.Heading, d.LeftOut, d.Without, d.Source, d.Settings, d.Sheets, d.ChangedAt)
}

// Draft returns a class's draft.
func (s *Store) Draft(ctx context.Context, class string) (Draft, error) {
	var d Draft
	return d, s.get(ctx, &d, `select `+draftColumns+` from drafts where class_id = $1`, class)
}

// DeleteDraft forgets a class's draft.
func (s *Store) DeleteDraft(ctx context.Context, class string) error {
	return s.exec(ctx, `delete from drafts where class_id = $1`, class)
}
