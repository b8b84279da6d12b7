package store

import (
	"context"
	"time"

	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/store/pg"
)

// Decisions returns the decisions about a class's rows.
func (s *Store) Decisions(ctx context.Context, class string) (map[string]classes.Decision, error) {
	var found []classes.Decision
	if err := s.All(ctx, &found, `select d.row_id, d.decision, d.by, d.at from decisions d join rows r on r.id = d.row_id
		where r.class_id = $1`, class); err != nil {
		return nil, err
	}
	out := make(map[string]classes.Decision, len(found))
	for _, d := range found {
		out[d.RowID] = d
	}
	return out, nil
}

// Decide keeps a decision about a row of a class, in place of an earlier one.
func (s *Store) Decide(ctx context.Context, class string, d classes.Decision) error {
	return s.One(ctx, `insert into decisions (row_id, decision, by, at) select id, $3, $4, $5 from rows where class_id = $1 and id = $2
		on conflict (row_id) do update set decision = excluded.decision, by = excluded.by,
			at = excluded.at`, class, d.RowID, d.Decision, d.By, d.At)
}

// A Former is the satchel that somebody of a class had in a class they left.
type Former struct {
	Row     string `db:"row_id"`     // in the class they are in now
	OldRow  string `db:"old_row_id"` // in the class they left
	Class   string `db:"class_id"`   // that one
	Called  string `db:"called"`
	Entry   string `db:"entry"`
	Thing   string `db:"thing"`
	Account string `db:"account"`
}

// Formers returns, by row, the satchels that students of a class have in a class
// they left, the latest left first.
func (s *Store) Formers(ctx context.Context, class string) (map[string]Former, error) {
	var found []Former
	if err := s.All(ctx, &found, `select distinct on (n.id) n.id as row_id, o.id as old_row_id, o.class_id,
		c.name as called, l.id as entry, l.thing, n.account
		from rows n join rows o on o.account = n.account and o.class_id <> n.class_id and o.left_at is not null
		join classes c on c.id = o.class_id
			join ledger l on l.row_id = o.id and l.purpose = 'satchel' and l.ended_at is null
		where n.class_id = $1 and n.left_at is null and n.account <> '' order by n.id, o.left_at desc`, class); err != nil {
		return nil, err
	}
	out := make(map[string]Former, len(found))
	for _, f := range found {
		out[f.Row] = f
	}
	return out, nil
}

// A SatchelRequest asks for the satchel that a student had in a class they left.
type SatchelRequest struct {
	Row     string    `db:"row_id"`     // in the class they are in now
	Class   string    `db:"class_id"`   // that one
	Called  string    `db:"called"`     // and its name
	OldRow  string    `db:"old_row_id"` // in the class they left
	Entry   string    `db:"entry"`      // of the ledger: the satchel
	AskedBy string    `db:"asked_by"`
	At      time.Time `db:"at"`
}

// standing are requests that hold: of who was taken off the list of the class that asks, or
// came back to the other, nothing is asked any more.
const standing = `satchel_requests q join rows o on o.id = q.old_row_id and o.left_at is not null
	join rows n on n.id = q.row_id and n.left_at is null and n.account = o.account
	join ledger l on l.id = q.entry and l.row_id = o.id and l.ended_at is null`

// SatchelRequests returns, by the row that left, what is asked for of a class: of several who
// ask for one satchel, who did so first.
func (s *Store) SatchelRequests(ctx context.Context, class string) (map[string]SatchelRequest, error) {
	var found []SatchelRequest
	err := s.All(ctx, &found, `select q.row_id, n.class_id, c.name as called, q.old_row_id, q.entry, q.asked_by, q.at
		from `+standing+` join classes c on c.id = n.class_id where o.class_id = $1 order by q.at desc, q.row_id`, class)
	out := make(map[string]SatchelRequest, len(found))
	for _, q := range found {
		out[q.OldRow] = q
	}
	return out, err
}

// AskForSatchel keeps a request, in place of an earlier one for the same row.
func (s *Store) AskForSatchel(ctx context.Context, q SatchelRequest) error {
	return s.Exec(ctx, `insert into satchel_requests (row_id, old_row_id, entry, asked_by, at) values ($1, $2, $3, $4, $5)
		on conflict (row_id) do update set old_row_id = excluded.old_row_id, entry = excluded.entry,
			asked_by = excluded.asked_by, at = excluded.at`, q.Row, q.OldRow, q.Entry, q.AskedBy, q.At)
}

// DropSatchelRequest forgets what was asked for a row.
func (s *Store) DropSatchelRequest(ctx context.Context, row string) error {
	return s.Exec(ctx, `delete from satchel_requests where row_id = $1`, row)
}

// Adopt makes the entry of a satchel, and those of its pockets, another class's: the
// things stay, only what they are for changes. Pockets that have no place there end.
func (s *Store) Adopt(ctx context.Context, to packing.Key, b packing.Bringing, putIn string, at time.Time) error {
	if err := s.One(ctx, `update ledger set class_id = $2, key = $3, row_id = $4,
		generation = 1 + coalesce((select max(generation) from ledger where key = $3), 0), spot = '', put_in = $5,
		waits = array_replace(waits, row_id::text, $4::uuid::text)
			where id = $1`, b.Entry, to.Class, to.String(), to.Whom.Row, putIn); err != nil {
		return err
	}
	if err := s.Exec(ctx, `update ledger set closed = null where thing = any($1) and ended_at is null and closed is not null`,
		append([]string{b.Thing}, b.Copies...)); err != nil { // what comes along is open
		return err
	}
	for entry, pocket := range b.Pockets {
		if pocket == "" {
			if err := s.Exec(ctx, `update ledger set ended_at = $2 where id = $1`, entry, at); err != nil {
				return err
			}
			continue
		}
		key := packing.Key{Class: to.Class, What: packing.What{Purpose: packing.Pocket, ID: pocket}, Whom: to.Whom}
		if err := s.Exec(ctx, `update ledger set class_id = $2, key = $3, row_id = $4,
			generation = 1 + coalesce((select max(generation) from ledger where key = $3), 0), spot = ''
				where id = $1`, entry, to.Class, key.String(), to.Whom.Row); err != nil {
			return err
		}
	}
	return nil
}

// FinishBring ends the line of a satchel that was fetched from another class and
// makes its entry this class's, all at once.
func (s *Store) FinishBring(ctx context.Context, st ledger.Step, putIn string, at time.Time) error {
	b := st.Change.Bring
	return s.Tx(ctx, func(tx *Store) error {
		var from string
		if err := tx.Get(ctx, &from, `select class_id from ledger where id = $1`, b.Entry); err != nil {
			return err
		}
		if err := tx.hold(ctx, []string{from, st.Key.Class}); err != nil {
			return err
		}
		if from != st.Key.Class { // else it was done before
			if err := tx.Adopt(ctx, st.Key, *b, putIn, at); err != nil {
				return err
			}
			if err := tx.Exec(ctx, `delete from observed where thing = $1`, b.Thing); err != nil {
				return err
			}
		}
		if err := tx.Exec(ctx, finish, st.RunID, st.Seq, packing.Packed, pg.AsJSON[*packing.Reason]{}, at); err != nil {
			return err
		}
		if err := tx.Touch(ctx, from); err != nil {
			return err
		}
		return tx.Touch(ctx, st.Key.Class)
	})
}
