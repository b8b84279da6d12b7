package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"strings"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/store/pg"
)

// A Concern is a thing of the ledger somebody wants to know the state of, and the
// account that asks: the owner teacher of its class.
type Concern struct {
	Thing string `db:"thing"`
	Class string `db:"class_id"`
	Owner string `db:"owner"`
}

const concerns = `select l.thing, l.class_id, coalesce(nullif(c.held_by, ''), s.account) as owner from ledger l
	join classes c on c.id = l.class_id join staff s on s.class_id = l.class_id and s.role = 'owner' where l.ended_at is null and `

// ConcernsOf returns the things of the ledger that a change concerns: those that
// changed, and the satchels in which something did.
func (s *Store) ConcernsOf(ctx context.Context, changed, above []string) ([]Concern, error) {
	out := []Concern{}
	return out, s.All(ctx, &out, concerns+`(l.thing = any($1) or l.thing = any($2) and l.purpose = 'satchel')
		order by l.class_id, l.thing`, changed, above)
}

// RoomAlone is used in place of a handout for the room without any.
const RoomAlone = "room"

// ConcernsIn returns the things of a class that a handout's packing list is
// about: the handout's own and the room's; for no handout, all there are, and for RoomAlone
// those of the room.
func (s *Store) ConcernsIn(ctx context.Context, class, handout string) ([]Concern, error) {
	out := []Concern{}
	if !pg.ValidID(class) {
		return out, nil
	}
	if handout == "" {
		return out, s.All(ctx, &out, concerns+`l.class_id = $1 order by l.thing`, class)
	}
	return out, s.All(ctx, &out, concerns+`l.class_id = $1 and (l.handout_id is null or l.handout_id = $2::uuid)
		order by l.thing`, class, orNoHandout(handout))
}

// AllConcerns returns every thing of the ledger, by class.
func (s *Store) AllConcerns(ctx context.Context) ([]Concern, error) {
	out := []Concern{}
	return out, s.All(ctx, &out, concerns+`true order by l.class_id, l.thing`)
}

// Asking numbers a question to the cupboard. Take it before asking.
func (s *Store) Asking(ctx context.Context) (int64, error) {
	var n int64
	return n, s.Get(ctx, &n, `select nextval('askings')`)
}

// an observation as it goes to the database; many go at once.
type observation struct {
	Thing       string                  `json:"thing"`
	Place       ledger.Place            `json:"place"`
	Name        string                  `json:"name"`
	Parent      string                  `json:"parent"`
	Owner       string                  `json:"owner"`
	Grants      map[string]access.Level `json:"grants"`
	StandsAlone bool                    `json:"stands_alone"`
	School      access.Level            `json:"school"`
	Closed      *access.Mark            `json:"closed"`
	Version     int                     `json:"version"`
	SHA         string                  `json:"sha"`
	ChangedAt   *time.Time              `json:"changed_at"`
	ChangedBy   string                  `json:"changed_by"`
	Inside      int                     `json:"inside"`
	InsideAt    *time.Time              `json:"inside_at"`
	BinUntil    *time.Time              `json:"bin_until"`
}

func orNone(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
}

// Observe keeps what the cupboard answered to an asking about things of the
// ledger, and raises the revision of the classes in which anything is different
// from before. Where a later asking was answered already, that stands. A thing
// without a state couldn't be read. told says that the feed told of these things:
// then it is also kept that nothing is different, so that no earlier answer comes
// after it, and those of which later was heard are returned: that may not have been of what
// was told, and they are to be asked about once more.
func (s *Store) Observe(ctx context.Context, asking int64, concerns []Concern, states map[string]ledger.Seen,
	told bool) (later map[string]bool, err error) {
	var classes []string
	things := make([]string, len(concerns))
	seen := make([]observation, len(concerns))
	for i, c := range concerns {
		things[i], classes = c.Thing, append(classes, c.Class)
		st, ok := states[c.Thing]
		if !ok {
			st.Place = ledger.Unseen
		}
		if st.Rule.Grants == nil {
			st.Rule.Grants = map[string]access.Level{}
		}
		seen[i] = observation{c.Thing, st.Place, st.Name, st.Parent, st.Owner, st.Rule.Grants, st.Rule.StandsAlone,
			st.Rule.School, st.Closed, st.Version, st.SHA, orNone(st.ChangedAt), st.ChangedBy, st.Inside, orNone(st.InsideAt), orNone(st.BinUntil)}
	}
	b, err := json.Marshal(seen)
	if err != nil {
		return nil, err
	}
	err = s.Tx(ctx, func(tx *Store) error {
		// Classes before what belongs to them, as everybody does; one may be gone.
		if err := tx.Exec(ctx, `select 1 from classes where id = any($1::uuid[]) order by id for no key update`, classes); err != nil {
			return err
		}
		var different []string
		if err := tx.All(ctx, &different, observe, string(b), asking, told); err != nil {
			return err
		}
		for _, id := range different {
			if err := tx.Touch(ctx, id); err != nil {
				return err
			}
		}
		if !told {
			return nil
		}
		var newer []string
		if err := tx.All(ctx, &newer, `select thing from observed where thing = any($1) and asked > $2`, things, asking); err != nil {
			return err
		}
		later = map[string]bool{}
		for _, thing := range newer {
			later[thing] = true
		}
		return nil
	})
	return later, err
}

var observe = func() string {
	columns := []string{"place", "name", "parent", "owner", "grants", "stands_alone", "school", "closed", "version",
		"sha", "changed_at", "changed_by", "inside", "inside_at", "bin_until"}
	of := func(table string) string { return table + "." + strings.Join(columns, ", "+table+".") }
	all := strings.Join(columns, ", ")
	return `with now as materialized (
		select l.class_id, n.* from ledger l join jsonb_to_recordset($1::jsonb) as n(thing text, place text, name text,
			parent text, owner text, grants jsonb, stands_alone boolean, school integer, closed jsonb,
			version integer, sha text, changed_at timestamptz, changed_by text,
			inside integer, inside_at timestamptz, bin_until timestamptz) on n.thing = l.thing),
	differs as materialized (
		select now.thing, now.class_id from now left join observed o on o.thing = now.thing
		where o.thing is null or (` + of("now") + `) is distinct from (` + of("o") + `)),
	put as (
		insert into observed (thing, asked, ` + all + `) select thing, $2, ` + all + ` from now where $3
			or thing in (select thing from differs) order by thing
		on conflict (thing) do update set (asked, ` + all + `) =
			row (excluded.asked, ` + of("excluded") + `) where observed.asked < excluded.asked)
	select distinct class_id from differs order by class_id`
}()

type observedRow struct {
	Thing       string                  `db:"thing"`
	Place       ledger.Place            `db:"place"`
	Name        string                  `db:"name"`
	Parent      string                  `db:"parent"`
	Owner       string                  `db:"owner"`
	Grants      []byte                  `db:"grants"`
	StandsAlone bool                    `db:"stands_alone"`
	School      access.Level            `db:"school"`
	Closed      pg.AsJSON[*access.Mark] `db:"closed"`
	Version     int                     `db:"version"`
	SHA         string                  `db:"sha"`
	ChangedAt   sql.NullTime            `db:"changed_at"`
	ChangedBy   string                  `db:"changed_by"`
	Inside      int                     `db:"inside"`
	InsideAt    sql.NullTime            `db:"inside_at"`
	BinUntil    sql.NullTime            `db:"bin_until"`
}

// Observed returns what was last seen of a class's things, by thing. Those that
// were made and not looked at since are not among them.
func (s *Store) Observed(ctx context.Context, class string) (map[string]ledger.Seen, error) {
	return s.observed(ctx, `class_id = $1 and ended_at is null`, class)
}

// ObservedFor is Observed of what LedgerFor returns.
func (s *Store) ObservedFor(ctx context.Context, class, handout string) (map[string]ledger.Seen, error) {
	return s.observed(ctx, ofHandout, class, orNoHandout(handout))
}

// ObservedOf returns what was last seen of one row's things, of some teams', and
// of its class's places.
func (s *Store) ObservedOf(ctx context.Context, class, row string, teams []string) (map[string]ledger.Seen, error) {
	return s.observed(ctx, ofRow, class, row, teams)
}

func (s *Store) observed(ctx context.Context, where string, args ...any) (map[string]ledger.Seen, error) {
	var rows []observedRow
	if err := s.All(ctx, &rows, `select o.thing, o.place, o.name, o.parent, o.owner, o.grants, o.stands_alone, o.school,
		o.closed, o.version, o.sha, o.changed_at, o.changed_by, o.inside, o.inside_at, o.bin_until
		from observed o join ledger l on l.thing = o.thing where `+where, args...); err != nil {
		return nil, err
	}
	out := make(map[string]ledger.Seen, len(rows))
	grants := levels{}
	for _, r := range rows {
		g, err := grants.read(r.Grants)
		if err != nil {
			return nil, err
		}
		out[r.Thing] = ledger.Seen{
			Place: r.Place, Name: r.Name, Parent: r.Parent, Owner: r.Owner,
			Rule: access.Rule{Grants: g, StandsAlone: r.StandsAlone, School: r.School}, Closed: r.Closed.V, Version: r.Version, SHA: r.SHA,
			ChangedAt: pg.OrZero(r.ChangedAt), ChangedBy: r.ChangedBy, Inside: r.Inside, InsideAt: pg.OrZero(r.InsideAt),
			BinUntil: pg.OrZero(r.BinUntil),
		}
	}
	return out, nil
}

// levels reads who has which level, once for each way it is written: things of one
// student have the same. What it returns is shared and must not be changed.
type levels map[string]map[string]access.Level

func (l levels) read(b []byte) (map[string]access.Level, error) {
	if g, ok := l[string(b)]; ok {
		return g, nil
	}
	g := map[string]access.Level{}
	if err := json.Unmarshal(b, &g); err != nil {
		return nil, err
	}
	l[string(b)] = g
	return g, nil
}

// A Feed is how far the cupboard's changes have been read.
type Feed struct {
	Position *string      `db:"position"` // nil: never
	ReadAt   sql.NullTime `db:"read_at"`
}

// ClaimFeed gives a program the cupboard's changes to read, for a while;
// pg.ErrNotFound where another has them.
func (s *Store) ClaimFeed(ctx context.Context, holder string, lease time.Duration) (Feed, error) {
	var f Feed
	return f, s.Get(ctx, &f, `update feed set holder = $1, until = clock_timestamp() + $2::float8 * interval '1 second'
		where holder = $1 or until < clock_timestamp() returning position, read_at`, holder, lease.Seconds())
}

// AdvanceFeed notes how far a program has read; pg.ErrNotFound where it lost its turn.
func (s *Store) AdvanceFeed(ctx context.Context, holder, position string, at time.Time) error {
	return s.One(ctx, `update feed set position = $2, read_at = $3 where holder = $1 and until >= clock_timestamp()`, holder, position, at)
}

// ReleaseFeed ends a program's turn.
func (s *Store) ReleaseFeed(ctx context.Context, holder string) error {
	return s.Exec(ctx, `update feed set holder = '', until = '-infinity' where holder = $1`, holder)
}

// A Copy is a copy that has a version whose words weren't counted.
type Copy struct {
	Concern
	Version  int `db:"version"`
	Measured int `db:"measured"`      // the version that was measured last
	Given    int `db:"given_version"` // the version that was given
}

// ToMeasure returns copies whose newest version wasn't measured, some at a time.
func (s *Store) ToMeasure(ctx context.Context, most int) ([]Copy, error) {
	out := []Copy{}
	return out, s.All(ctx, &out, `select l.thing, l.class_id, coalesce(nullif(c.held_by, ''), s.account) as owner,
		o.version, o.measured, l.given_version
		from observed o join ledger l on l.thing = o.thing join classes c on c.id = l.class_id
		join staff s on s.class_id = l.class_id and s.role = 'owner'
		where o.version > o.measured and o.place = 'lies' and l.purpose = 'copy' and l.ended_at is null order by o.thing limit $1`, most)
}

// Measured notes that a version's words were counted, or can't be.
func (s *Store) Measured(ctx context.Context, thing string, version int) error {
	return s.Exec(ctx, `update observed set measured = greatest(measured, $2) where thing = $1`, thing, version)
}

// FeedReadAt returns when the cupboard's changes were last read to their end; zero
// where they never were.
func (s *Store) FeedReadAt(ctx context.Context) (time.Time, error) {
	var at sql.NullTime
	err := s.Get(ctx, &at, `select read_at from feed`)
	return pg.OrZero(at), err
}
