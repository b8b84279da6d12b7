package standin

import (
	"bytes"
	"context"
	"crypto/sha256"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"os"

	"github.com/jmoiron/sqlx"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/cupboard"
)

const chunkSize = 256 << 10

// keep stores a content once and returns its SHA-256 and size. It is spooled
// to a file on the way, since its name is known only at its end; small ones
// stay in memory.
func (s *Standin) keep(ctx context.Context, r io.Reader) (sha []byte, size int64, err error) {
	hash := sha256.New()
	head := make([]byte, chunkSize)
	n, err := io.ReadFull(io.TeeReader(r, hash), head)
	var spool io.Reader = bytes.NewReader(head[:n])
	size = int64(n)
	switch {
	case errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF):
	case err != nil:
		return nil, 0, err
	default:
		f, err := os.CreateTemp("", "jollysatchel-*")
		if err != nil {
			return nil, 0, err
		}
		defer os.Remove(f.Name())
		defer f.Close()
		rest, err := io.Copy(f, io.TeeReader(r, hash))
		if err != nil {
			return nil, 0, err
		}
		if _, err := f.Seek(0, io.SeekStart); err != nil {
			return nil, 0, err
		}
		spool, size = io.MultiReader(spool, f), size+rest
	}
	sha = hash.Sum(nil)
	return sha, size, s.tx(ctx, func(tx *sqlx.Tx) error { return store(ctx, tx, sha, size, spool) })
}

func store(ctx context.Context, tx *sqlx.Tx, sha []byte, size int64, r io.Reader) error {
	res, err := tx.ExecContext(ctx, `insert into standin.contents (sha, size) values ($1, $2) on conflict do nothing`, sha, size)
	if err != nil {
		return err
	}
	if fresh, _ := res.RowsAffected(); fresh == 0 {
		return nil
	}
	buf := make([]byte, chunkSize)
	for i := 0; ; i++ {
		n, err := io.ReadFull(r, buf)
		if n > 0 {
			if _, err := tx.ExecContext(ctx, `insert into standin.chunks (sha, n, bytes) values ($1, $2, $3)`, sha, i, buf[:n]); err != nil {
				return err
			}
		}
		if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
			return nil
		}
		if err != nil {
			return err
		}
	}
}

// A stream reads a content chunk by chunk.
type stream struct {
	ctx  context.Context
	db   *sqlx.DB
	sha  []byte
	next int
	left []byte
}

func (c *stream) Read(p []byte) (int, error) {
	if len(c.left) == 0 {
		err := c.db.GetContext(c.ctx, &c.left, `select bytes from standin.chunks where sha = $1 and n = $2`, c.sha, c.next)
		if errors.Is(err, sql.ErrNoRows) {
			return 0, io.EOF
		}
		if err != nil {
			return 0, err
		}
		c.next++
	}
	n := copy(p, c.left)
	c.left = c.left[n:]
	return n, nil
}

func (c *stream) Close() error { return nil }

// Open implements cupboard.Cupboard.
func (s *Standin) Open(ctx context.Context, as, id string, version int) (io.ReadCloser, cupboard.Version, error) {
	v, err := suffer(ctx, s.weather, func() (versionRow, error) {
		var v versionRow
		rows, _, err := seen(ctx, s.db, as, id, access.Read)
		if err != nil {
			return v, err
		}
		if version == 0 {
			version = rows[0].Version
		}
		err = s.db.GetContext(ctx, &v, `select n, sha, size, at, by from standin.versions where thing = $1 and n = $2`, id, version)
		if errors.Is(err, sql.ErrNoRows) {
			err = cupboard.ErrNotFound
		}
		return v, err
	})
	if err != nil {
		return nil, cupboard.Version{}, err
	}
	return &stream{ctx: ctx, db: s.db, sha: v.SHA}, v.version(), nil
}

// Write implements cupboard.Cupboard.
func (s *Standin) Write(ctx context.Context, as, key, id string, base int, r io.Reader) (cupboard.Version, error) {
	return suffer(ctx, s.weather, func() (cupboard.Version, error) {
		if _, _, err := seen(ctx, s.db, as, id, access.Edit); err != nil {
			return cupboard.Version{}, err
		}
		sha, size, err := s.keep(ctx, r)
		if err != nil {
			return cupboard.Version{}, err
		}
		var v versionRow
		err = s.tx(ctx, func(tx *sqlx.Tx) error {
			var now struct {
				Kind    string `db:"kind"`
				Version int    `db:"version"`
			}
			if err := tx.GetContext(ctx, &now, `select kind, version from standin.things where id = $1 for update`, id); err != nil {
				return err
			}
			if now.Kind != "file" {
				return cupboard.ErrNoRight
			}
			err := tx.GetContext(ctx, &v, `select v.n, v.sha, v.size, v.at, v.by from standin.versions v join standin.answers a on a.thing = v.thing and a.version = v.n where a.key = $1 and a.thing = $2`, key, id)
			if err == nil || !errors.Is(err, sql.ErrNoRows) {
				return err
			}
			if now.Version != base {
				if err := tx.GetContext(ctx, &v, `select n, sha, size, at, by from standin.versions where thing = $1 and n = $2`, id, now.Version); err != nil {
					return err
				}
				return &cupboard.Conflict{Current: v.version()}
			}
			v = versionRow{N: base + 1, SHA: sha, Size: size, At: s.now(), By: as}
			if _, err := tx.ExecContext(ctx, `insert into standin.versions (thing, n, sha, size, at, by) values ($1, $2, $3, $4, $5, $6)`, id, v.N, sha, size, v.At, as); err != nil {
				return err
			}
			if _, err := tx.ExecContext(ctx, `update standin.things set version = $2, sha = $3, size = $4, changed_at = $5, changed_by = $6 where id = $1`, id, v.N, sha, size, v.At, as); err != nil {
				return err
			}
			_, err = tx.ExecContext(ctx, `insert into standin.answers (key, thing, version) values ($1, $2, $3)`, key, id, v.N)
			return err
		})
		if err != nil {
			return cupboard.Version{}, fmt.Errorf("writing: %w", err)
		}
		return v.version(), nil
	})
}
