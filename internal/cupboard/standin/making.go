package standin

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/base64"
	"errors"
	"fmt"
	"io"

	"github.com/google/uuid"
	"github.com/jackc/pgerrcode"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jmoiron/sqlx"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/cupboard"
)

// make makes once what fresh says: the key's first answer is every later answer.
func (s *Standin) make(ctx context.Context, as, key string, fresh func() (row, error)) (cupboard.Thing, error) {
	return suffer(ctx, s.weather, func() (cupboard.Thing, error) {
		if t, ok, err := s.made(ctx, as, key); ok || err != nil {
			return t, err
		}
		r, err := fresh()
		if err != nil {
			return cupboard.Thing{}, err
		}
		return s.insert(ctx, as, key, r, kept)
	})
}

// insert makes a thing with its key in one statement, so that of two simultaneous
// requests with one key the second fails whole and is given the first's answer. keep keeps
// the content with it.
func (s *Standin) insert(ctx context.Context, as, key string, r row, keep func(context.Context, *sqlx.Tx) error) (cupboard.Thing, error) {
	var above []row
	if r.Parent.Valid {
		var err error
		if above, _, err = s.seen(ctx, s.db, as, r.Parent.String, access.Edit); err != nil {
			return cupboard.Thing{}, err
		}
	}
	r.Owner, r.ChangedBy, r.MadeAt = as, as, s.now()
	r.ChangedAt = r.MadeAt
	chain := append([]row{r}, above...)
	if string(r.Grants) != "{}" && keeper(chain) != as {
		return cupboard.Thing{}, cupboard.ErrNoRight
	}
	err := s.tx(ctx, func(tx *sqlx.Tx) error {
		if err := keep(ctx, tx); err != nil {
			return err
		}
		return tx.GetContext(ctx, &chain[0].Grants, `
		with f as (select above || id as above from standin.things where id = $5 for share),
		t as (insert into standin.things (id, link, kind, name, parent, owner, grants, stands_alone, target, media_type,
			version, size, sha, made_at, changed_at, changed_by, above)
			values ($1, $2, $3, $4, $5, $6, (select coalesce(jsonb_object_agg(g.key, g.value), '{}') from jsonb_each($7::jsonb) g
					where not g.key = any($16) and (select true from standin.people where account = g.key)),
				$8, $9, $10, $11, $12, $13, $14, $14, $6, coalesce((select above from f), '{}')) returning grants),
		v as (insert into standin.versions (thing, n, sha, size, at, by) select $1, $11, $13, $12, $14, $6 where $3 = 'file'),
		a as (insert into standin.answers (key, thing, version, account) values ($15, $1, $11, $6))
		select grants from t`,
			r.ID, r.Link, r.Kind, r.Name, r.Parent, r.Owner, r.Grants, r.StandsAlone, r.Target, r.MediaType, r.Version, r.Size,
			r.SHA, r.MadeAt, key, s.strange())
	})
	var pg *pgconn.PgError
	if errors.As(err, &pg) {
		switch {
		case pg.Code == pgerrcode.UniqueViolation && pg.ConstraintName == "answers_pkey":
			t, _, err := s.made(ctx, as, key)
			return t, err
		case pg.Code == pgerrcode.ForeignKeyViolation && pg.ConstraintName == "things_owner_fkey":
			return cupboard.Thing{}, &cupboard.UnknownPeople{Accounts: []string{as}}
		case pg.Code == pgerrcode.ForeignKeyViolation: // what it should be in, or points to, ended meanwhile
			return cupboard.Thing{}, cupboard.ErrNotFound
		}
	}
	if err != nil {
		return cupboard.Thing{}, err
	}
	return s.mine(chain, as, access.Effective(as, rules(chain), s.now()).Level), nil
}

// made returns what was made with a key before, in the bin or not.
func (s *Standin) made(ctx context.Context, as, key string) (cupboard.Thing, bool, error) {
	var id string
	err := s.db.GetContext(ctx, &id, `select thing from standin.answers where key = $1`, key)
	if errors.Is(err, sql.ErrNoRows) {
		return cupboard.Thing{}, false, nil
	}
	if err != nil {
		return cupboard.Thing{}, false, err
	}
	rows, err := chain(ctx, s.db, id)
	if err != nil {
		return cupboard.Thing{}, true, err
	}
	level := access.Effective(as, rules(rows), s.now()).Level
	if level < access.Read || s.ended(rows) {
		return cupboard.Thing{}, true, cupboard.ErrNotFound
	}
	return s.mine(rows, as, level), true, nil
}

// mine is a thing as its maker is told of it.
func (s *Standin) mine(rows []row, as string, level access.Level) cupboard.Thing {
	t := s.thing(rows, as, level)
	if rows[0].Owner == as {
		t.Rule = rows[0].rule().Rule
	}
	return t
}

func newRow(kind cupboard.Kind, f cupboard.NewThing) (row, error) {
	id, err := uuid.NewV7()
	if err != nil {
		return row{}, err
	}
	grants, err := atMostEdit(f.Grants)
	if err != nil {
		return row{}, err
	}
	secret := make([]byte, 18)
	if _, err := rand.Read(secret); err != nil {
		return row{}, err
	}
	return row{
		ID: id.String(), Link: base64.RawURLEncoding.EncodeToString(secret), Kind: string(kind), Name: f.Name,
		Parent: sql.NullString{String: f.Parent, Valid: f.Parent != ""}, Grants: []byte(grants),
		StandsAlone: f.StandsAlone, MediaType: f.MediaType,
	}, nil
}

// MakeFolder implements cupboard.Writer.
func (s *Standin) MakeFolder(ctx context.Context, as, key string, f cupboard.NewThing) (cupboard.Thing, error) {
	return s.make(ctx, as, key, func() (row, error) { return newRow(cupboard.Folder, f) })
}

// CopyFile implements cupboard.Writer. The content isn't copied: both files
// have the same one.
func (s *Standin) CopyFile(ctx context.Context, as, key string, source cupboard.Source, f cupboard.NewThing) (cupboard.Thing, error) {
	return s.make(ctx, as, key, func() (row, error) {
		from, err := s.source(ctx, as, source)
		if err != nil {
			return row{}, err
		}
		r, err := newRow(cupboard.File, f)
		r.SHA, r.Size, r.MediaType, r.Version = from.SHA, from.Size, from.MediaType, 1
		return r, err
	})
}

// source is the file whose content is copied for an account.
func (s *Standin) source(ctx context.Context, as string, source cupboard.Source) (row, error) {
	reader := source.Reader
	if reader == "" {
		reader = as
	}
	from, _, err := s.seen(ctx, s.db, reader, source.ID, access.Read)
	if err == nil && from[0].Kind != "file" {
		err = cupboard.ErrNotFound
	}
	if err != nil {
		return row{}, fmt.Errorf("source: %w", err)
	}
	return from[0], nil
}

// AddFile implements cupboard.Writer.
func (s *Standin) AddFile(ctx context.Context, as, key string, f cupboard.NewThing, from io.Reader) (cupboard.Thing, error) {
	return suffer(ctx, s.weather, func() (cupboard.Thing, error) {
		if t, ok, err := s.made(ctx, as, key); ok || err != nil {
			return t, err
		}
		if f.Parent != "" { // refused before the content is taken in
			if _, _, err := s.seen(ctx, s.db, as, f.Parent, access.Edit); err != nil {
				return cupboard.Thing{}, err
			}
		}
		c, err := take(from)
		if err != nil {
			return cupboard.Thing{}, err
		}
		defer c.close()
		r, err := newRow(cupboard.File, f)
		if err != nil {
			return cupboard.Thing{}, err
		}
		r.SHA, r.Size, r.Version = c.sha, c.size, 1
		return s.insert(ctx, as, key, r, c.keep)
	})
}

// MakePointer implements cupboard.Writer.
func (s *Standin) MakePointer(ctx context.Context, as, key, target string, f cupboard.NewThing) (cupboard.Thing, error) {
	return s.make(ctx, as, key, func() (row, error) {
		if _, _, err := s.seen(ctx, s.db, as, target, access.Read); err != nil {
			return row{}, fmt.Errorf("target: %w", err)
		}
		r, err := newRow(cupboard.Pointer, f)
		r.Target = sql.NullString{String: target, Valid: true}
		return r, err
	})
}
