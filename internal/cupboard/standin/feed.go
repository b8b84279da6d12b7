package standin

import (
	"context"
	"database/sql"
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"jollysatchel/internal/cupboard"
)

// FeedTerm is how long changes are known.
const FeedTerm = 30 * 24 * time.Hour

// tellBelow tells of everything in a folder, which a change of the folder reaches.
func tellBelow(ctx context.Context, tx *sqlx.Tx, folder string) error {
	_, err := tx.ExecContext(ctx, `insert into standin.feed (thing, above, at) select id, above, clock_timestamp()
		from standin.things where above @> array[$1::uuid]`, folder)
	return err
}

// A place in the feed: the transaction and the number within all.
type position struct {
	XID uint64 `db:"xid"`
	N   int64  `db:"n"`
}

func (p position) String() cupboard.Position {
	return cupboard.Position(fmt.Sprintf("%d.%d", p.XID, p.N))
}

func (p position) before(q position) bool { return p.XID < q.XID || p.XID == q.XID && p.N < q.N }

func parsePosition(s cupboard.Position) (position, error) {
	var p position
	if s == "" {
		return p, nil
	}
	if _, err := fmt.Sscanf(string(s), "%d.%d", &p.XID, &p.N); err != nil {
		return p, fmt.Errorf("position %q: %w", s, err)
	}
	return p, nil
}

// Position implements cupboard.Feed.
func (s *Standin) Position(ctx context.Context) (cupboard.Position, error) {
	return suffer(ctx, s.weather, func() (cupboard.Position, error) {
		end, _, err := s.settled(ctx)
		return position{end - 1, math.MaxInt64}.String(), err
	})
}

// settled returns the first transaction that may not have ended yet, of those that
// write here, and the first that hasn't begun: whatever has a lower number than
// the former is seen by every statement from now on.
func (s *Standin) settled(ctx context.Context) (settled, next uint64, err error) {
	var now struct {
		Next    uint64 `db:"next"`
		Running string `db:"running"`
	}
	if err := s.db.GetContext(ctx, &now, `select pg_snapshot_xmax(pg_current_snapshot())::text::bigint as next,
		array_to_string(array(select backend_xid::text from pg_stat_activity
			where datname = current_database() and backend_xid is not null), ' ') as running`); err != nil {
		return 0, 0, err
	}
	settled = now.Next
	for _, x := range strings.Fields(now.Running) {
		short, err := strconv.ParseUint(x, 10, 32)
		if err != nil {
			return 0, 0, err
		}
		settled = min(settled, whole(short, now.Next))
	}
	return settled, now.Next, nil
}

// whole returns the whole number of a transaction of which the lower 32 bits are
// known and that runs at about the same time as another.
func whole(short, near uint64) uint64 {
	x := near&^math.MaxUint32 | short
	switch {
	case x > near+1<<31 && x >= 1<<32:
		return x - 1<<32
	case x+1<<31 < near:
		return x + 1<<32
	}
	return x
}

// Changes implements cupboard.Feed. A transaction is told of when every one that
// began before it has ended.
func (s *Standin) Changes(ctx context.Context, since cupboard.Position, most int) ([]cupboard.Change, cupboard.Position, error) {
	type answer struct {
		changes []cupboard.Change
		next    cupboard.Position
	}
	a, err := suffer(ctx, s.weather, func() (answer, error) {
		from, err := parsePosition(since)
		if err != nil {
			return answer{}, err
		}
		settled, next, err := s.settled(ctx)
		if err != nil {
			return answer{}, err
		}
		var first position
		if err := s.db.GetContext(ctx, &first, `select xid::text::bigint as xid, n from standin.feed_start`); err != nil {
			return answer{}, err
		}
		if since != "" && from.before(first) || from.XID > next {
			return answer{}, cupboard.ErrTooOld
		}
		var rows []struct {
			position
			Thing string `db:"thing"`
			Above string `db:"above"`
		}
		if err := s.db.SelectContext(ctx, &rows, `select xid::text::bigint as xid, n, thing,
			array_to_string(above, ' ') as above from standin.feed
			where (xid, n) > ($1::text::xid8, $2::bigint) and xid < $3::text::xid8
			order by xid, n limit $4`, strconv.FormatUint(from.XID, 10), from.N, strconv.FormatUint(settled, 10), most); err != nil {
			return answer{}, err
		}
		out := answer{make([]cupboard.Change, len(rows)), since}
		for i, r := range rows {
			out.changes[i], out.next = cupboard.Change{Thing: r.Thing, Above: strings.Fields(r.Above)}, r.position.String()
		}
		return out, nil
	})
	return a.changes, a.next, err
}

// forgetChanges forgets what changed longer ago than the feed's term.
func (s *Standin) forgetChanges(ctx context.Context) error {
	_, err := s.db.ExecContext(ctx, `
		with gone as (delete from standin.feed where at < $1 returning xid, n)
		update standin.feed_start f set xid = g.xid, n = g.n
		from (select xid, n from gone order by xid desc, n desc limit 1) g where (f.xid, f.n) < (g.xid, g.n)`, s.now().Add(-FeedTerm))
	return err
}

// mendFeed begins the feed again where its numbers are of another server, whose
// data was brought into this one: they would be taken for what is yet to come.
func mendFeed(ctx context.Context, db *sql.DB) error {
	_, err := db.ExecContext(ctx, `
		with now as (select pg_snapshot_xmax(pg_current_snapshot()) as end),
		gone as (delete from standin.feed using now where exists (select 1 from standin.feed where xid >= now.end) returning 1)
		update standin.feed_start set xid = pg_current_xact_id(), n = 0 where exists (select 1 from gone) or xid >= (select now.end from now)`)
	return err
}
