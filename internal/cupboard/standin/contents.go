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

// A content came in, and isn't kept yet: its name, its SHA-256, is known only at its end, so it
// waits in a file; small ones stay in memory.
type content struct {
	sha  []byte
	size int64
	head []byte
	rest *os.File
}

// take takes a content in; it is closed when it is kept, or refused.
func take(r io.Reader) (c *content, err error) {
	hash := sha256.New()
	r = io.TeeReader(r, hash)
	head := make([]byte, chunkSize)
	n, err := io.ReadFull(r, head)
	c = &content{head: head[:n], size: int64(n)}
	switch {
	case errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF):
	case err != nil:
		return nil, err
	default:
		if c.rest, err = os.CreateTemp("", "jollysatchel-*"); err != nil {
			return nil, err
		}
		more, err := io.Copy(c.rest, r)
		if err != nil {
			c.close()
			return nil, err
		}
		c.size += more
	}
	c.sha = hash.Sum(nil)
	return c, nil
}

func (c *content) close() {
	if c.rest != nil {
		c.rest.Close()
		os.Remove(c.rest.Name())
	}
}

// keep stores a content once, with what has it: where that is refused, nothing is kept.
func (c *content) keep(ctx context.Context, tx *sqlx.Tx) error {
	var fresh bool
	// One that is there is held, so that it isn't dropped as nobody's until this ends.
	if err := tx.GetContext(ctx, &fresh, `insert into standin.contents (sha, size) values ($1, $2)
		on conflict (sha) do update set size = excluded.size returning xmax = 0`, c.sha, c.size); err != nil || !fresh {
		return err
	}
	r := io.Reader(bytes.NewReader(c.head))
	if c.rest != nil {
		if _, err := c.rest.Seek(0, io.SeekStart); err != nil {
			return err
		}
		r = io.MultiReader(r, c.rest)
	}
	buf := make([]byte, chunkSize)
	for i := 0; ; i++ {
		n, err := io.ReadFull(r, buf)
		if n > 0 {
			if _, err := tx.ExecContext(ctx, `insert into standin.chunks (sha, n, bytes) values ($1, $2, $3)`, c.sha, i, buf[:n]); err != nil {
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

// droppedAtOnce is how many contents are dropped in one transaction.
const droppedAtOnce = 200

// dropContents drops the contents that nothing has any more.
func (s *Standin) dropContents(ctx context.Context) error {
	after := []byte{}
	for {
		var held [][]byte
		err := s.tx(ctx, func(tx *sqlx.Tx) error {
			// First held, then looked at again: somebody may be taking one in this moment.
			if err := tx.SelectContext(ctx, &held, `select sha from standin.contents c
				where c.sha > $1 and not exists (select 1 from standin.versions v where v.sha = c.sha) order by c.sha limit $2
				for update skip locked`, after, droppedAtOnce); err != nil {
				return err
			}
			_, err := tx.ExecContext(ctx, `with nobodys as (select c.sha from standin.contents c
				where c.sha = any($1) and not exists (select 1 from standin.versions v where v.sha = c.sha)),
				d as (delete from standin.chunks where sha in (select sha from nobodys))
				delete from standin.contents where sha in (select sha from nobodys)`, held)
			return err
		})
		if err != nil || len(held) < droppedAtOnce {
			return err
		}
		after = held[len(held)-1] // each is looked at once, however many there are
	}
}

// A stream reads a content chunk by chunk, from any place.
type stream struct {
	ctx  context.Context
	db   *sqlx.DB
	sha  []byte
	size int64
	at   int64
	have int64  // number of the chunk at hand; -1: none
	now  []byte // that chunk
}

func (c *stream) Read(p []byte) (int, error) {
	if c.at >= c.size {
		return 0, io.EOF
	}
	if n := c.at / chunkSize; n != c.have {
		if err := c.db.GetContext(c.ctx, &c.now, `select bytes from standin.chunks where sha = $1 and n = $2`, c.sha, n); err != nil {
			return 0, fmt.Errorf("content: %w", err)
		}
		c.have = n
	}
	n := copy(p, c.now[c.at%chunkSize:])
	c.at += int64(n)
	return n, nil
}

func (c *stream) Seek(offset int64, whence int) (int64, error) {
	switch whence {
	case io.SeekCurrent:
		offset += c.at
	case io.SeekEnd:
		offset += c.size
	}
	if offset < 0 {
		return 0, errors.New("content: a place before its beginning")
	}
	c.at = offset
	return offset, nil
}

func (c *stream) Close() error { return nil }

// Open implements cupboard.Reader.
func (s *Standin) Open(ctx context.Context, as, id string, version int) (io.ReadSeekCloser, cupboard.Version, error) {
	v, err := suffer(ctx, s.weather, func() (versionRow, error) {
		var v versionRow
		rows, _, err := s.seen(ctx, s.db, as, id, access.Read)
		if err != nil {
			return v, err
		}
		if version == 0 {
			version = rows[0].Version
		}
		if version < oldest(rows, as) {
			return v, cupboard.ErrNotFound
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
	return &stream{ctx: ctx, db: s.db, sha: v.SHA, size: v.Size, have: -1}, v.version(), nil
}

// Write implements cupboard.Writer.
func (s *Standin) Write(ctx context.Context, as, key, id string, base int, r io.Reader) (cupboard.Version, error) {
	return suffer(ctx, s.weather, func() (cupboard.Version, error) {
		if v, ok, err := s.written(ctx, as, key, id); ok || err != nil {
			return v, err
		}
		if _, _, err := s.seen(ctx, s.db, as, id, access.Edit); err != nil {
			return cupboard.Version{}, err
		}
		c, err := take(r)
		if err != nil {
			return cupboard.Version{}, err
		}
		defer c.close()
		return s.write(ctx, as, key, id, base, c.sha, c.size, c.keep)
	})
}

// Renew implements cupboard.Writer. The content isn't copied: both files have the
// same one.
func (s *Standin) Renew(ctx context.Context, as, key, id string, base int, source cupboard.Source) (cupboard.Version, error) {
	return suffer(ctx, s.weather, func() (cupboard.Version, error) {
		if v, ok, err := s.written(ctx, as, key, id); ok || err != nil {
			return v, err
		}
		if _, _, err := s.seen(ctx, s.db, as, id, access.Edit); err != nil {
			return cupboard.Version{}, err
		}
		from, err := s.source(ctx, as, source)
		if err != nil {
			return cupboard.Version{}, err
		}
		return s.write(ctx, as, key, id, base, from.SHA, from.Size, kept)
	})
}

// kept is for a content that is there.
func kept(context.Context, *sqlx.Tx) error { return nil }

// write adds a version with a content, which keep keeps, unless somebody wrote since base.
func (s *Standin) write(ctx context.Context, as, key, id string, base int, sha []byte, size int64,
	keep func(context.Context, *sqlx.Tx) error) (cupboard.Version, error) {
	var v versionRow
	err := s.tx(ctx, func(tx *sqlx.Tx) error {
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
		err := tx.GetContext(ctx, &v, answer, key, id, as) // by a request at the same time
		if !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		if _, _, err := s.seen(ctx, tx, as, id, access.Edit); err != nil {
			return err // it was binned, closed or taken away while the content came in
		}
		if now.Version != base {
			return s.conflict(ctx, tx, id, now.Version)
		}
		if err := keep(ctx, tx); err != nil {
			return err
		}
		v = versionRow{N: base + 1, SHA: sha, Size: size, At: s.now(), By: as}
		if _, err := tx.ExecContext(ctx, `insert into standin.versions (thing, n, sha, size, at, by)
			values ($1, $2, $3, $4, $5, $6)`, id, v.N, sha, size, v.At, as); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `update standin.things
			set version = $2, sha = $3, size = $4, changed_at = $5, changed_by = $6 where id = $1`, id, v.N, sha, size, v.At, as); err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `insert into standin.answers (key, thing, version, account) values ($1, $2, $3, $4)`, key, id, v.N, as)
		return err
	})
	if err != nil {
		return cupboard.Version{}, fmt.Errorf("writing: %w", err)
	}
	return v.version(), nil
}

// conflict tells of the newest version of a file, to anyone who began from another.
func (s *Standin) conflict(ctx context.Context, tx *sqlx.Tx, id string, version int) error {
	var v versionRow
	if err := tx.GetContext(ctx, &v, `select n, sha, size, at, by from standin.versions
		where thing = $1 and n = $2`, id, version); err != nil {
		return err
	}
	return &cupboard.Conflict{Current: v.version()}
}

const answer = `select v.n, v.sha, v.size, v.at, v.by from standin.versions v
	join standin.answers a on a.thing = v.thing and a.version = v.n where a.key = $1 and a.thing = $2 and a.account = $3`

// written returns the version that was written with a key before.
func (s *Standin) written(ctx context.Context, as, key, id string) (cupboard.Version, bool, error) {
	var v versionRow
	if !validID(id) {
		return cupboard.Version{}, false, nil
	}
	err := s.db.GetContext(ctx, &v, answer, key, id, as)
	if errors.Is(err, sql.ErrNoRows) {
		return cupboard.Version{}, false, nil
	}
	return v.version(), err == nil, err
}
