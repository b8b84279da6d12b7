package standin

import (
	"context"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"slices"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/cupboard"
)

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
	School      access.Level   `db:"school"`
	Closed      []byte         `db:"closed"`
	Target      sql.NullString `db:"target"`
	MediaType   string         `db:"media_type"`
	Version     int            `db:"version"`
	Size        int64          `db:"size"`
	SHA         []byte         `db:"sha"`
	MadeAt      time.Time      `db:"made_at"`
	ChangedAt   time.Time      `db:"changed_at"`
	ChangedBy   string         `db:"changed_by"`
	BinnedAt    sql.NullTime   `db:"binned_at"`
	BinnedBy    sql.NullString `db:"binned_by"`
	BinUntil    sql.NullTime   `db:"bin_until"`
}

const columns = `id, link, kind, name, parent, owner, grants, stands_alone, school, closed,
	target, media_type, version, size, sha, made_at, changed_at, changed_by, binned_at, binned_by, bin_until`

func (r row) grants() map[string]access.Level {
	g := map[string]access.Level{}
	// The column is written by this package alone; what can't be read gives nobody access.
	_ = json.Unmarshal(r.Grants, &g)
	return g
}

func (r row) mark() *access.Mark {
	if r.Closed == nil {
		return nil
	}
	var m access.Mark
	if json.Unmarshal(r.Closed, &m) != nil {
		return &access.Mark{} // closed, for everybody
	}
	return &m
}

func (r row) rule() access.Thing {
	return access.Thing{ID: r.ID, Owner: r.Owner, Folder: r.Kind == "folder",
		Rule: access.Rule{Grants: r.grants(), StandsAlone: r.StandsAlone, School: r.School}, Closed: r.mark()}
}

// chain returns the thing and the folders above it, wherever it is.
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

// binned returns the one of a chain that was put into the bin, if any was.
func binned(rows []row) (row, bool) {
	i := slices.IndexFunc(rows, func(r row) bool { return r.BinUntil.Valid })
	if i < 0 {
		return row{}, false
	}
	return rows[i], true
}

// keeper is the owner of the tree a thing is in: of the nearest folder that
// stands alone, else of the outermost there is.
func keeper(rows []row) string {
	for _, r := range rows {
		if r.Kind == "folder" && r.StandsAlone {
			return r.Owner
		}
	}
	return rows[len(rows)-1].Owner
}

// seen returns the thing if as has at least need on it. Without any right it
// isn't there, nor in the bin; with too little it is refused.
func (s *Standin) seen(ctx context.Context, q sqlx.QueryerContext, as, id string, need access.Level) ([]row, access.Level, error) {
	rows, err := chain(ctx, q, id)
	if err != nil {
		return nil, access.Nothing, err
	}
	level := access.Effective(as, rules(rows), s.now()).Level
	_, away := binned(rows)
	switch {
	case away, level < access.Read:
		return nil, level, cupboard.ErrNotFound
	case level < need:
		return nil, level, cupboard.ErrNoRight
	}
	return rows, level, nil
}

func (s *Standin) thing(rows []row, as string, level access.Level) cupboard.Thing {
	r := rows[0]
	t := cupboard.Thing{
		ID: r.ID, Link: r.Link, Kind: cupboard.Kind(r.Kind), Name: r.Name, Parent: r.Parent.String, Owner: r.Owner, Target: r.Target.String,
		MediaType: r.MediaType, Size: r.Size, Version: r.Version, MadeAt: r.MadeAt.UTC(), ChangedAt: r.ChangedAt.UTC(),
		ChangedBy: r.ChangedBy, Level: level, SHA: hex.EncodeToString(r.SHA),
	}
	up := rules(rows)
	for i := range rows {
		if t.Closed == nil {
			t.Closed = up[i].Closed
		}
		if i == 0 {
			continue
		}
		if access.Effective(as, up[i:], s.now()).Level < access.Read {
			break
		}
		t.Path = append([]cupboard.Crumb{{ID: rows[i].ID, Name: rows[i].Name}}, t.Path...)
	}
	if len(t.Path) == 0 {
		t.Parent = "" // a folder as may not see is not told of
	}
	return t
}

// validID reports whether an id could be a thing's, as we write them.
func validID(id string) bool {
	u, err := uuid.Parse(id)
	return err == nil && u.String() == id
}
