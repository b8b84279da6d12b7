// Package standin is the cupboard that ships with Jolly Satchel. It behaves
// like a storage service reached over a network, weather included.
package standin

import (
	"context"
	"crypto/rand"
	"database/sql"
	"embed"
	"encoding/base64"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgerrcode"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/database"

	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/cupboard"
)

//go:embed migrations/*.sql
var migrations embed.FS

// A Standin is a cupboard on PostgreSQL, in the schema standin.
type Standin struct {
	db      *sqlx.DB
	now     clock.Clock
	weather *weather
}

var _ cupboard.Cupboard = (*Standin)(nil)

// New returns the stand-in on db. Migrate must have been called on it once.
func New(db *sqlx.DB, now clock.Clock) *Standin {
	return &Standin{db: db, now: now, weather: newWeather()}
}

// Migrate brings the stand-in's schema up to date.
func Migrate(ctx context.Context, db *sql.DB) error {
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	store, err := database.NewStore(database.DialectPostgres, "standin_versions")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectCustom, db, dir, goose.WithStore(store))
	if err != nil {
		return err
	}
	_, err = p.Up(ctx)
	return err
}

// AddPeople makes accounts known.
func (s *Standin) AddPeople(ctx context.Context, accounts ...string) error {
	_, err := s.db.ExecContext(ctx, `insert into standin.people (account) select unnest($1::text[]) on conflict do nothing`, accounts)
	return err
}

// RemovePeople makes accounts unknown again that own nothing.
func (s *Standin) RemovePeople(ctx context.Context, accounts ...string) error {
	_, err := s.db.ExecContext(ctx, `delete from standin.people p where account = any($1::text[]) and not exists (select 1 from standin.things where owner = p.account)`, accounts)
	return err
}

// A row is a thing as the table holds it.
type row struct {
	ID          string         `db:"id"`
	Link        string         `db:"link"`
	Kind        string         `db:"kind"`
	Name        string         `db:"name"`
	Parent      sql.NullString `db:"parent"`
	Owner       string         `db:"owner"`
	Grants      []byte         `db:"grants"`
	StandsAlone bool           `db:"stands_alone"`
	Target      sql.NullString `db:"target"`
	MediaType   string         `db:"media_type"`
	Version     int            `db:"version"`
	Size        int64          `db:"size"`
	SHA         []byte         `db:"sha"`
	MadeAt      time.Time      `db:"made_at"`
	ChangedAt   time.Time      `db:"changed_at"`
	ChangedBy   string         `db:"changed_by"`
}

const columns = `id, link, kind, name, parent, owner, grants, stands_alone, target, media_type, version, size, sha, made_at, changed_at, changed_by`

func (r row) grants() map[string]access.Level {
	g := map[string]access.Level{}
	// The column is written by this package alone; what can't be read gives nobody access.
	_ = json.Unmarshal(r.Grants, &g)
	return g
}

func (r row) rule() access.Thing {
	return access.Thing{ID: r.ID, Owner: r.Owner, Folder: r.Kind == "folder", Rule: access.Rule{Grants: r.grants(), StandsAlone: r.StandsAlone}}
}

// chain returns the thing and the folders above it.
func chain(ctx context.Context, q sqlx.QueryerContext, id string) ([]row, error) {
	if _, err := uuid.Parse(id); err != nil {
		return nil, cupboard.ErrNotFound
	}
	var rows []row
	err := sqlx.SelectContext(ctx, q, &rows, `select `+columns+` from standin.things
		where id = $1 or id = any((select above from standin.things where id = $1)::uuid[]) order by cardinality(above) desc`, id)
	if err != nil {
		return nil, err
	}
	if len(rows) == 0 {
		return nil, cupboard.ErrNotFound
	}
	return rows, nil
}

func rules(rows []row) []access.Thing {
	out := make([]access.Thing, len(rows))
	for i, r := range rows {
		out[i] = r.rule()
	}
	return out
}

// seen returns the thing if as has at least need on it. Without any right it
// isn't there; with too little it is refused.
func seen(ctx context.Context, q sqlx.QueryerContext, as, id string, need access.Level) ([]row, access.Level, error) {
	rows, err := chain(ctx, q, id)
	if err != nil {
		return nil, access.Nothing, err
	}
	level := access.Effective(as, rules(rows)).Level
	switch {
	case level < access.Read:
		return nil, level, cupboard.ErrNotFound
	case level < need:
		return nil, level, cupboard.ErrNoRight
	}
	return rows, level, nil
}

func thing(rows []row, as string, level access.Level) cupboard.Thing {
	r := rows[0]
	t := cupboard.Thing{
		ID: r.ID, Link: r.Link, Kind: cupboard.Kind(r.Kind), Name: r.Name, Parent: r.Parent.String, Owner: r.Owner, Target: r.Target.String,
		MediaType: r.MediaType, Size: r.Size, Version: r.Version, MadeAt: r.MadeAt.UTC(), ChangedAt: r.ChangedAt.UTC(), ChangedBy: r.ChangedBy, Level: level,
	}
	up := rules(rows)
	for i := 1; i < len(rows); i++ {
		if access.Effective(as, up[i:]).Level < access.Read {
			break
		}
		t.Path = append([]cupboard.Crumb{{ID: rows[i].ID, Name: rows[i].Name}}, t.Path...)
	}
	if len(t.Path) == 0 {
		t.Parent = "" // a folder as may not see is not told of
	}
	return t
}

// tx runs do in a transaction.
func (s *Standin) tx(ctx context.Context, do func(*sqlx.Tx) error) error {
	tx, err := s.db.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback()
	if err := do(tx); err != nil {
		return err
	}
	return tx.Commit()
}

// make makes a thing once: the key's first answer is every later answer. One
// statement inserts the thing with its key, so that of two simultaneous
// requests with one key the second fails whole and is given the first's answer.
func (s *Standin) make(ctx context.Context, as, key string, r row) (cupboard.Thing, error) {
	if id, ok, err := s.answered(ctx, key); err != nil {
		return cupboard.Thing{}, err
	} else if ok {
		rows, level, err := seen(ctx, s.db, as, id, access.Read)
		if err != nil {
			return cupboard.Thing{}, err
		}
		return thing(rows, as, level), nil
	}
	var above []row
	if r.Parent.Valid {
		var err error
		if above, _, err = seen(ctx, s.db, as, r.Parent.String, access.Edit); err != nil {
			return cupboard.Thing{}, err
		}
	}
	r.Owner, r.ChangedBy, r.MadeAt = as, as, s.now()
	r.ChangedAt = r.MadeAt
	_, err := s.db.ExecContext(ctx, `
		with t as (insert into standin.things (`+columns+`, above) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $14, $6,
			coalesce((select above || id from standin.things where id = $5), '{}'))),
		v as (insert into standin.versions (thing, n, sha, size, at, by) select $1, $11, $13, $12, $14, $6 where $3 = 'file')
		insert into standin.answers (key, thing, version) values ($15, $1, $11)`,
		r.ID, r.Link, r.Kind, r.Name, r.Parent, r.Owner, r.Grants, r.StandsAlone, r.Target, r.MediaType, r.Version, r.Size, r.SHA, r.MadeAt, key)
	var pg *pgconn.PgError
	if errors.As(err, &pg) {
		switch {
		case pg.Code == pgerrcode.UniqueViolation && pg.ConstraintName == "answers_pkey":
			return s.make(ctx, as, key, r) // the other request's answer is there now
		case pg.Code == pgerrcode.ForeignKeyViolation && pg.ConstraintName == "things_owner_fkey":
			return cupboard.Thing{}, &cupboard.UnknownPeople{Accounts: []string{as}}
		}
	}
	if err != nil {
		return cupboard.Thing{}, err
	}
	chain := append([]row{r}, above...)
	return thing(chain, as, access.Effective(as, rules(chain)).Level), nil
}

func (s *Standin) answered(ctx context.Context, key string) (id string, ok bool, err error) {
	err = s.db.GetContext(ctx, &id, `select thing from standin.answers where key = $1`, key)
	if errors.Is(err, sql.ErrNoRows) {
		return "", false, nil
	}
	return id, err == nil, err
}

func newRow(kind cupboard.Kind, f cupboard.NewThing) (row, error) {
	id, err := uuid.NewV7()
	if err != nil {
		return row{}, err
	}
	secret := make([]byte, 18)
	if _, err := rand.Read(secret); err != nil {
		return row{}, err
	}
	return row{
		ID: id.String(), Link: base64.RawURLEncoding.EncodeToString(secret), Kind: string(kind), Name: f.Name,
		Parent: sql.NullString{String: f.Parent, Valid: f.Parent != ""}, Grants: []byte("{}"), StandsAlone: f.StandsAlone, MediaType: f.MediaType,
	}, nil
}

// MakeFolder implements cupboard.Cupboard.
func (s *Standin) MakeFolder(ctx context.Context, as, key string, f cupboard.NewThing) (cupboard.Thing, error) {
	return suffer(ctx, s.weather, func() (cupboard.Thing, error) {
		r, err := newRow(cupboard.Folder, f)
		if err != nil {
			return cupboard.Thing{}, err
		}
		return s.make(ctx, as, key, r)
	})
}

// CopyFile implements cupboard.Cupboard. The content isn't copied: both files
// have the same one.
func (s *Standin) CopyFile(ctx context.Context, as, key string, source cupboard.Source, f cupboard.NewThing) (cupboard.Thing, error) {
	return suffer(ctx, s.weather, func() (cupboard.Thing, error) {
		reader := source.Reader
		if reader == "" {
			reader = as
		}
		from, _, err := seen(ctx, s.db, reader, source.ID, access.Read)
		if err != nil {
			return cupboard.Thing{}, fmt.Errorf("source: %w", err)
		}
		if from[0].Kind != "file" {
			return cupboard.Thing{}, fmt.Errorf("source: %w", cupboard.ErrNotFound)
		}
		r, err := newRow(cupboard.File, f)
		if err != nil {
			return cupboard.Thing{}, err
		}
		r.SHA, r.Size, r.MediaType, r.Version = from[0].SHA, from[0].Size, from[0].MediaType, 1
		return s.make(ctx, as, key, r)
	})
}

// AddFile implements cupboard.Cupboard.
func (s *Standin) AddFile(ctx context.Context, as, key string, f cupboard.NewThing, content io.Reader) (cupboard.Thing, error) {
	return suffer(ctx, s.weather, func() (cupboard.Thing, error) {
		if f.Parent != "" { // refused before the content is taken in
			if _, _, err := seen(ctx, s.db, as, f.Parent, access.Edit); err != nil {
				return cupboard.Thing{}, err
			}
		}
		sha, size, err := s.keep(ctx, content)
		if err != nil {
			return cupboard.Thing{}, err
		}
		r, err := newRow(cupboard.File, f)
		if err != nil {
			return cupboard.Thing{}, err
		}
		r.SHA, r.Size, r.Version = sha, size, 1
		return s.make(ctx, as, key, r)
	})
}

// MakePointer implements cupboard.Cupboard.
func (s *Standin) MakePointer(ctx context.Context, as, key, target string, f cupboard.NewThing) (cupboard.Thing, error) {
	return suffer(ctx, s.weather, func() (cupboard.Thing, error) {
		if _, _, err := seen(ctx, s.db, as, target, access.Read); err != nil {
			return cupboard.Thing{}, fmt.Errorf("target: %w", err)
		}
		r, err := newRow(cupboard.Pointer, f)
		if err != nil {
			return cupboard.Thing{}, err
		}
		r.Target = sql.NullString{String: target, Valid: true}
		return s.make(ctx, as, key, r)
	})
}

// Share implements cupboard.Cupboard. Rules inside a tree are its owner's to
// change, not those of whoever added a thing to it. One statement raises the
// levels, so that simultaneous grants add up.
func (s *Standin) Share(ctx context.Context, as, _, id string, grants map[string]access.Level) error {
	_, err := suffer(ctx, s.weather, func() (struct{}, error) { return struct{}{}, s.share(ctx, as, id, grants) })
	return err
}

func (s *Standin) share(ctx context.Context, as, id string, grants map[string]access.Level) error {
	if _, err := s.mine(ctx, as, id); err != nil {
		return err
	}
	accounts := make([]string, 0, len(grants))
	for a := range grants {
		accounts = append(accounts, a)
	}
	var known []string
	if err := s.db.SelectContext(ctx, &known, `select account from standin.people where account = any($1)`, accounts); err != nil {
		return err
	}
	give := make(map[string]access.Level, len(known))
	for _, a := range known {
		give[a] = min(grants[a], access.Edit)
	}
	b, err := json.Marshal(give)
	if err != nil {
		return err
	}
	if _, err := s.db.ExecContext(ctx, `
		update standin.things set grants = (
			select coalesce(jsonb_object_agg(who, level), '{}') from (
				select key as who, max(value::int) as level from (
					select * from jsonb_each(grants) union all select * from jsonb_each($2::jsonb)
				) g group by key
			) highest)
		where id = $1`, id, b); err != nil {
		return err
	}
	if len(known) == len(accounts) {
		return nil
	}
	unknown := slices.DeleteFunc(accounts, func(a string) bool { return slices.Contains(known, a) })
	slices.Sort(unknown)
	return &cupboard.UnknownPeople{Accounts: unknown}
}

// SetRule implements cupboard.Cupboard.
func (s *Standin) SetRule(ctx context.Context, as, key, id string, c cupboard.RuleChange) error {
	give, take := map[string]access.Level{}, []string{}
	for who, l := range c.Levels {
		if l == access.Nothing {
			take = append(take, who)
		} else {
			give[who] = min(l, access.Edit)
		}
	}
	b, err := json.Marshal(give)
	if err != nil {
		return err
	}
	return s.change(ctx, as, key, id, `update standin.things set grants = (grants - $2::text[]) || $3::jsonb, stands_alone = coalesce($4, stands_alone) where id = $1`, take, string(b), c.StandsAlone)
}

// Rename implements cupboard.Cupboard.
func (s *Standin) Rename(ctx context.Context, as, key, id, name string) error {
	return s.change(ctx, as, key, id, `update standin.things set name = $2 where id = $1`, name)
}

// Remove implements cupboard.Cupboard.
func (s *Standin) Remove(ctx context.Context, as, key, id string) error {
	_, err := suffer(ctx, s.weather, func() (struct{}, error) {
		_, err := s.mine(ctx, as, id)
		if errors.Is(err, cupboard.ErrNotFound) {
			return struct{}{}, nil // it is gone, as was asked
		}
		if err == nil {
			_, err = s.db.ExecContext(ctx, `delete from standin.things where id = $1 or above @> array[$1::uuid]`, id)
		}
		return struct{}{}, err
	})
	return err
}

// mine returns a thing of a tree that is as's own: rules, names and the end of
// what is in it are that account's to change.
func (s *Standin) mine(ctx context.Context, as, id string) ([]row, error) {
	rows, _, err := seen(ctx, s.db, as, id, access.Edit)
	if err == nil && rows[len(rows)-1].Owner != as {
		err = cupboard.ErrNoRight
	}
	return rows, err
}

// change changes a thing once for each key.
func (s *Standin) change(ctx context.Context, as, key, id, query string, args ...any) error {
	_, err := suffer(ctx, s.weather, func() (struct{}, error) {
		rows, err := s.mine(ctx, as, id)
		if err != nil {
			return struct{}{}, err
		}
		return struct{}{}, s.tx(ctx, func(tx *sqlx.Tx) error {
			res, err := tx.ExecContext(ctx, `insert into standin.answers (key, thing, version) values ($1, $2, $3) on conflict do nothing`, key, id, rows[0].Version)
			if err != nil {
				return err
			}
			if n, err := res.RowsAffected(); err != nil || n == 0 {
				return err
			}
			_, err = tx.ExecContext(ctx, query, append([]any{id}, args...)...)
			return err
		})
	})
	return err
}

// Get implements cupboard.Cupboard.
func (s *Standin) Get(ctx context.Context, as, id string) (cupboard.Thing, error) {
	return suffer(ctx, s.weather, func() (cupboard.Thing, error) {
		rows, level, err := seen(ctx, s.db, as, id, access.Read)
		if err != nil {
			return cupboard.Thing{}, err
		}
		return thing(rows, as, level), nil
	})
}

// ByLink implements cupboard.Cupboard.
func (s *Standin) ByLink(ctx context.Context, as, link string) (cupboard.Thing, error) {
	var id string
	err := s.db.GetContext(ctx, &id, `select id from standin.things where link = $1`, link)
	if errors.Is(err, sql.ErrNoRows) {
		return cupboard.Thing{}, cupboard.ErrNotFound
	}
	if err != nil {
		return cupboard.Thing{}, err
	}
	return s.Get(ctx, as, id)
}

// List implements cupboard.Cupboard.
func (s *Standin) List(ctx context.Context, as, folder string) ([]cupboard.Thing, error) {
	return suffer(ctx, s.weather, func() ([]cupboard.Thing, error) {
		above, _, err := seen(ctx, s.db, as, folder, access.Read)
		if err != nil {
			return nil, err
		}
		var rows []row
		if err := s.db.SelectContext(ctx, &rows, `select `+columns+` from standin.things where parent = $1 order by kind <> 'folder', name, id`, folder); err != nil {
			return nil, err
		}
		out := []cupboard.Thing{}
		for _, r := range rows {
			c := append([]row{r}, above...)
			if level := access.Effective(as, rules(c)).Level; level >= access.Read {
				out = append(out, thing(c, as, level))
			}
		}
		return out, nil
	})
}

// Versions implements cupboard.Cupboard.
func (s *Standin) Versions(ctx context.Context, as, id string) ([]cupboard.Version, error) {
	return suffer(ctx, s.weather, func() ([]cupboard.Version, error) {
		if _, _, err := seen(ctx, s.db, as, id, access.Read); err != nil {
			return nil, err
		}
		var vs []versionRow
		if err := s.db.SelectContext(ctx, &vs, `select n, sha, size, at, by from standin.versions where thing = $1 order by n desc`, id); err != nil {
			return nil, err
		}
		out := make([]cupboard.Version, len(vs))
		for i, v := range vs {
			out[i] = v.version()
		}
		return out, nil
	})
}

type versionRow struct {
	N    int       `db:"n"`
	SHA  []byte    `db:"sha"`
	Size int64     `db:"size"`
	At   time.Time `db:"at"`
	By   string    `db:"by"`
}

func (v versionRow) version() cupboard.Version {
	return cupboard.Version{Number: v.N, Size: v.Size, SHA: hex.EncodeToString(v.SHA), At: v.At.UTC(), By: v.By}
}

// States implements cupboard.Cupboard in two queries, whatever the number of ids.
func (s *Standin) States(ctx context.Context, as string, ids []string) (map[string]cupboard.State, error) {
	return suffer(ctx, s.weather, func() (map[string]cupboard.State, error) {
		var rows []row
		err := s.db.SelectContext(ctx, &rows, `select `+columns+` from standin.things
			where id = any($1::uuid[]) or id = any(array(select distinct unnest(above) from standin.things where id = any($1::uuid[])))`, ids)
		if err != nil {
			return nil, err
		}
		byID := make(map[string]row, len(rows))
		ruleOf := make(map[string]access.Thing, len(rows))
		for _, r := range rows {
			byID[r.ID], ruleOf[r.ID] = r, r.rule()
		}
		out := make(map[string]cupboard.State, len(ids))
		for _, id := range ids {
			r, ok := byID[id]
			if !ok {
				continue
			}
			var up []access.Thing
			for at, more := r, true; more; at, more = byID[at.Parent.String], at.Parent.Valid {
				up = append(up, ruleOf[at.ID])
			}
			if access.Effective(as, up).Level < access.Read {
				continue
			}
			out[id] = cupboard.State{Name: r.Name, Parent: r.Parent.String, Rule: ruleOf[id].Rule, Version: r.Version, SHA: hex.EncodeToString(r.SHA), ChangedAt: r.ChangedAt.UTC(), ChangedBy: r.ChangedBy}
		}
		return out, s.inside(ctx, ids, out)
	})
}

// inside counts what others than a folder's owner put into it.
func (s *Standin) inside(ctx context.Context, ids []string, out map[string]cupboard.State) error {
	var counts []struct {
		ID string    `db:"id"`
		N  int       `db:"n"`
		At time.Time `db:"at"`
	}
	err := s.db.SelectContext(ctx, &counts, `
		select f.id, count(*) as n, max(d.changed_at) as at
		from standin.things f join standin.things d on d.above @> array[f.id] and d.owner <> f.owner
		where f.id = any($1::uuid[]) and f.kind = 'folder' group by f.id`, ids)
	for _, c := range counts {
		if st, ok := out[c.ID]; ok {
			st.Inside, st.InsideAt = c.N, c.At.UTC()
			out[c.ID] = st
		}
	}
	return err
}

// People implements cupboard.Cupboard.
func (s *Standin) People(ctx context.Context, as, id string) (map[string]access.Reason, error) {
	return suffer(ctx, s.weather, func() (map[string]access.Reason, error) {
		rows, _, err := seen(ctx, s.db, as, id, access.Edit)
		if err != nil {
			return nil, err
		}
		return access.People(rules(rows)), nil
	})
}
