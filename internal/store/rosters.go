package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"time"

	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/core/teams"
	"jollysatchel/internal/store/pg"
)

// rowColumns of the table rows, and rowRow to scan them.
const rowColumns = `id, class_id, given, family, preferred, number, address, class, period, level, team, extra,
	account, linked_by, confirmed, added, left_at`

type rowRow struct {
	ID        string                       `db:"id"`
	ClassID   string                       `db:"class_id"`
	Given     string                       `db:"given"`
	Family    string                       `db:"family"`
	Preferred string                       `db:"preferred"`
	Number    string                       `db:"number"`
	Address   string                       `db:"address"`
	Class     string                       `db:"class"`
	Period    string                       `db:"period"`
	Level     string                       `db:"level"`
	Team      string                       `db:"team"`
	Extra     pg.AsJSON[map[string]string] `db:"extra"`
	Account   string                       `db:"account"`
	LinkedBy  string                       `db:"linked_by"`
	Confirmed string                       `db:"confirmed"`
	Added     int                          `db:"added"`
	LeftAt    sql.NullTime                 `db:"left_at"`
}

func (r rowRow) row() classes.Row {
	return classes.Row{
		ClassRow: roster.ClassRow{
			ID: r.ID, Account: r.Account, LinkedBy: r.LinkedBy, Confirmed: r.Confirmed, Gone: r.LeftAt.Valid,
			Record: record.Record{Given: r.Given, Family: r.Family, Preferred: r.Preferred, Address: r.Address,
				Number: r.Number, Class: r.Class, Period: r.Period, Level: r.Level, Team: r.Team, Extra: r.Extra.V},
		},
		ClassID: r.ClassID, Added: r.Added, LeftAt: r.LeftAt.Time.UTC(),
	}
}

func (s *Store) rows(ctx context.Context, query string, args ...any) ([]classes.Row, error) {
	var found []rowRow
	if err := s.All(ctx, &found, `select `+rowColumns+` from rows `+query, args...); err != nil {
		return nil, err
	}
	out := make([]classes.Row, len(found))
	for i, r := range found {
		out[i] = r.row()
	}
	return out, nil
}

// Rows returns a class's rows, those that have left too, in the order added.
// Holding says of each whether its account was given anything in the class.
func (s *Store) Rows(ctx context.Context, class string) ([]classes.Row, error) {
	out, err := s.rows(ctx, `where class_id = $1 order by added`, class)
	if err != nil {
		return nil, err
	}
	var given []string
	if err := s.All(ctx, &given, `select distinct jsonb_object_keys(granted)
		from (select distinct granted from ledger where class_id = $1 and ended_at is null) g`, class); err != nil {
		return nil, err
	}
	has := make(map[string]bool, len(given))
	for _, a := range given {
		has[a] = true
	}
	for i := range out {
		out[i].Holding = out[i].Account != "" && has[out[i].Account]
	}
	return out, nil
}

// RowsOf returns the rows of one account in all classes, those it has left
// last: what is in its satchels there is still its own.
func (s *Store) RowsOf(ctx context.Context, account string) ([]classes.Row, error) {
	if account == "" {
		return nil, nil
	}
	return s.rows(ctx, `where account = $1 order by left_at is not null, added`, account)
}

// An Other is what another class says of a student.
type Other struct {
	Account     string
	Class, Code string
	record.Record
}

// Others returns, for the students of a class, the rows they have in other
// classes, by account.
func (s *Store) Others(ctx context.Context, class string) (map[string][]Other, error) {
	var found []struct {
		rowRow
		Class string `db:"other_class"`
		Code  string `db:"code"`
	}
	if err := s.All(ctx, &found, `select o.class_id as other_class, o.account, o.given, o.family, o.preferred, o.number,
		o.address, c.code from rows o join classes c on c.id = o.class_id
		where o.left_at is null and o.class_id <> $1 and o.account in (select account from rows
		where class_id = $1 and account <> '') order by c.code, o.added`, class); err != nil {
		return nil, err
	}
	out := map[string][]Other{}
	for _, f := range found {
		out[f.Account] = append(out[f.Account], Other{f.Account, f.Class, f.Code, f.row().Record})
	}
	return out, nil
}

// SaveRows adds rows that are new and brings the others up to date, of one
// class, in their order. Accounts go from row to row without two rows of one
// account between.
func (s *Store) SaveRows(ctx context.Context, class string, rows []classes.Row) error {
	if len(rows) == 0 {
		return nil
	}
	type line struct {
		ID        string            `json:"id"`
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
		Account   string            `json:"account"`
		LinkedBy  string            `json:"linked_by"`
		Confirmed string            `json:"confirmed"`
		LeftAt    *time.Time        `json:"left_at"`
	}
	lines, ids := make([]line, len(rows)), make([]string, len(rows))
	for i, r := range rows {
		l := line{r.ID, r.Given, r.Family, r.Preferred, r.Number, r.Address, r.Class, r.Period, r.Level, r.Team, r.Extra,
			r.Account, r.LinkedBy, r.Confirmed, nil}
		if l.Extra == nil {
			l.Extra = map[string]string{}
		}
		if r.Gone {
			l.LeftAt = &r.LeftAt
		}
		lines[i], ids[i] = l, r.ID
	}
	b, err := json.Marshal(lines)
	if err != nil {
		return err
	}
	if err := s.Exec(ctx, `update rows set account = ''
		where class_id = $1 and id = any($2::uuid[]) and account <> ''`, class, ids); err != nil {
		return err
	}
	return s.Exec(ctx, `insert into rows (id, class_id, given, family, preferred, number, address, class, period, level,
		team, extra, account, linked_by, confirmed, left_at)
		select r.id, $1, r.given, r.family, r.preferred, r.number, r.address, r.class, r.period, r.level, r.team, r.extra,
			r.account, r.linked_by, r.confirmed, r.left_at
		from jsonb_array_elements($2::jsonb) with ordinality as e(v, n),
			jsonb_to_record(e.v) as r(id uuid, given text, family text, preferred text, number text, address text,
			class text, period text, level text, team text, extra jsonb, account text, linked_by text, confirmed text, left_at timestamptz)
		order by e.n
		on conflict (id) do update set given = excluded.given, family = excluded.family, preferred = excluded.preferred,
			number = excluded.number, address = excluded.address,
			class = excluded.class, period = excluded.period, level = excluded.level, team = excluded.team, extra = excluded.extra,
			account = excluded.account, linked_by = excluded.linked_by, confirmed = excluded.confirmed, left_at = excluded.left_at
			where rows.class_id = excluded.class_id`, class, string(b))
}

// DeleteRows takes rows away that nothing was made for.
func (s *Store) DeleteRows(ctx context.Context, class string, ids []string) error {
	return s.Exec(ctx, `delete from rows where class_id = $1 and id = any($2::uuid[])`, class, ids)
}

// TeamSets returns a class's columns of teams.
func (s *Store) TeamSets(ctx context.Context, class string) ([]teams.Set, error) {
	var found []struct {
		ID    string         `db:"id"`
		Field string         `db:"field"`
		Team  sql.NullString `db:"team"`
		Name  sql.NullString `db:"name"`
	}
	if err := s.All(ctx, &found, `select s.id, s.field, t.id as team, t.name from team_sets s left
		join teams t on t.set_id = s.id where s.class_id = $1 order by s.id, t.id`, class); err != nil {
		return nil, err
	}
	var out []teams.Set
	for _, f := range found {
		if len(out) == 0 || out[len(out)-1].ID != f.ID {
			out = append(out, teams.Set{ID: f.ID, Field: record.Field(f.Field)})
		}
		if f.Team.Valid {
			set := &out[len(out)-1]
			set.Teams = append(set.Teams, teams.Team{ID: f.Team.String, Name: f.Name.String})
		}
	}
	return out, nil
}

// AddTeams adds teams by name to the set of a column, which is made where there
// is none.
func (s *Store) AddTeams(ctx context.Context, class string, field record.Field, names []string) error {
	var set string
	if err := s.Get(ctx, &set, `insert into team_sets (id, class_id, field) values ($1, $2, $3)
		on conflict (class_id, field) do update set field = excluded.field returning id`, pg.NewID(), class, string(field)); err != nil {
		return err
	}
	for _, n := range names {
		if err := s.Exec(ctx, `insert into teams (id, set_id, name, fold) values ($1, $2, $3, $4)
			on conflict do nothing`, pg.NewID(), set, n, naming.Fold(n)); err != nil {
			return err
		}
	}
	return nil
}

// RenameTeam gives a team of a class another name.
func (s *Store) RenameTeam(ctx context.Context, class, team, name string) error {
	if !pg.ValidID(team) {
		return pg.ErrNotFound
	}
	return s.One(ctx, `update teams t set name = $3, fold = $4 from team_sets s
		where s.id = t.set_id and s.class_id = $1 and t.id = $2`, class, team, name, naming.Fold(name))
}
