package store

import (
	"context"
	"encoding/json"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/store/pg"
)

// A LogLine is an entry of the log as it is shown: what it is about, and how many
// of it, taken from its arguments.
type LogLine struct {
	N       int64     `db:"n"`
	At      time.Time `db:"at"`
	Account string    `db:"account"`
	Act     string    `db:"act"`
	Title   string    `db:"title"` // of the handout, where it is about one
	Name    string    `db:"name"`
	Count   int       `db:"count"`
	Handout string    `db:"handout"` // that it is about and that is there
	Row     string    `db:"row"`     // likewise, of a student who is in the class
	// Told is what it changed, as far as it says so: a list of change.Told.
	Told json.RawMessage `db:"told"`
}

// A LogFilter says which entries of a log are looked for; empty is all. Acts and
// Accounts are those that the text was found in.
type LogFilter struct {
	Text     string
	Acts     []string
	Accounts []string
	Deleted  string   // what a handout is called that is no longer there
	Only     []string // without a class: entries that are no class's, and whose acts these are
	Before   int64    // entries older than this one; 0: from the newest
	Most     int
}

// LogPage returns entries of a class's log, or of the school's where class is empty, newest first. What they are about is
// taken out of their arguments by the database: those may be long. Of handouts and
// runs only the class's own are looked at.
func (s *Store) LogPage(ctx context.Context, class string, f LogFilter) ([]LogLine, error) {
	out := []LogLine{}
	of, id := `class_id = $1::uuid and $8::text[] is null`, &class
	if class == "" {
		of, id, f.Only = `class_id is null and $1::uuid is null and act = any($8::text[])`, nil, append([]string{}, f.Only...)
	} else {
		f.Only = nil
	}
	return out, s.All(ctx, &out, `select n, at, account, act, title, name, count, handout, "row", told from (
			select l.n, l.at, l.account, l.act, coalesce(nullif(l.args->>'title', ''), nullif(r.title, ''), h.title,
				case when coalesce(l.args->>'handout', '') <> '' then $7 end, '') as title, coalesce(l.args->>'name', l.args->>'source', '') as name,
				coalesce(h.id::text, r.handout_id::text, '') as handout, coalesce(w.id::text, '') as "row",
				case when jsonb_typeof(l.args) = 'array' then jsonb_array_length(l.args) else coalesce((l.args->>'things')::int, 0) end as count,
				case when jsonb_typeof(l.args->'told') = 'array' then l.args->'told' else '[]' end as told
			from (select n, at, account, act, case when jsonb_typeof(args) in ('object', 'array') then args
				else '{}' end as args from log where `+of+` and ($5 = 0 or n < $5)) l
				left join handouts h on h.class_id = $1 and h.id::text = l.args->>'handout' left
				join runs r on r.class_id = $1 and r.id::text = l.args->>'run' left
				join rows w on w.class_id = $1 and w.left_at is null and w.id::text = l.args->>'row') x
		where $2 = '' or act = any($3) or account = any($4)
			or position(lower($2) in lower(concat_ws(' ', title, name, jsonb_path_query_array(told, '$[*].*')))) > 0
		order by n desc limit $6`, id, f.Text, append([]string{}, f.Acts...), append([]string{}, f.Accounts...), f.Before, f.Most,
		f.Deleted, f.Only)
}

// A Grant of the ledger: who was given which level, or had it taken away, when and
// by which run.
type Grant struct {
	LedgerID string       `db:"ledger_id"`
	Account  string       `db:"account"`
	Level    access.Level `db:"level"`
	RunID    string       `db:"run_id"`
	At       time.Time    `db:"at"`
}

// A LedgerFilter says which entries of a ledger are looked for: with a text in
// their name, or of some rows; empty is all. From counts those passed over.
type LedgerFilter struct {
	Text string
	Rows []string
	From int
	Most int
}

// LedgerPage returns entries of a class's ledger, also those that have ended, the
// newest first.
func (s *Store) LedgerPage(ctx context.Context, class string, f LedgerFilter) ([]ledger.Entry, error) {
	return s.entries(ctx, `class_id = $1 and ($2 = '' or position(lower($2) in lower(name)) > 0 or row_id = any($3::uuid[]))
		order by made_at desc, key limit $4 offset $5`, class, f.Text, append([]string{}, f.Rows...), f.Most, f.From)
}

// Grants returns the grants of entries of the ledger, in the order they were made.
func (s *Store) Grants(ctx context.Context, entries []string) ([]Grant, error) {
	out := []Grant{}
	return out, s.All(ctx, &out, `select ledger_id, account, level, run_id, at from grants
		where ledger_id = any($1::uuid[]) order by n`, entries)
}

// PastRuns returns a class's runs, the newest first.
func (s *Store) PastRuns(ctx context.Context, class string, most int) ([]ledger.Run, error) {
	return pg.Plainly[runRow](ctx, s.Base, runQuery+`where r.id in (select id from runs where class_id = $1 order by n desc
		limit $2) group by r.id order by r.n desc`, class, most)
}
