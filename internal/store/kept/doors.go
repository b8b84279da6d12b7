package kept

import (
	"context"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/doorcheck"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/store/pg"
)

// A DoorCheck is what one check of who reaches what in a class found.
type DoorCheck struct {
	CheckedDoors
	ID     string
	Result doorcheck.Result
}

// keptChecks are kept of a class.
const keptChecks = 60

// SaveDoorCheck keeps a check, and of the class's as many as are kept.
func (s Kept) SaveDoorCheck(ctx context.Context, c DoorCheck) error {
	return s.Exec(ctx, `with old as (delete from door_checks where class_id = $2 and id in
			(select id from door_checks where class_id = $2 order by at desc, id offset $7))
		insert into door_checks (id, class_id, at, by, differences, report, noted) values ($1, $2, $3, $4, $5, $6, $8)`,
		c.ID, c.ClassID, c.At, c.By, c.Differences, pg.AsJSON[doorcheck.Result]{V: c.Result}, keptChecks-1, c.Result.Noted())
}

// LastDoorCheck is the newest check of a class; ErrNotFound where there was none.
func (s Kept) LastDoorCheck(ctx context.Context, class string) (DoorCheck, error) {
	var c struct {
		CheckedDoors
		ID     string                      `db:"id"`
		Report pg.AsJSON[doorcheck.Result] `db:"report"`
	}
	err := s.Get(ctx, &c, `select id, class_id, at, by, differences, report from door_checks
		where class_id = $1 order by at desc, id limit 1`, class)
	return DoorCheck{CheckedDoors: c.CheckedDoors, ID: c.ID, Result: c.Report.V}, err
}

// A CheckedDoors is a check without what it found.
type CheckedDoors struct {
	ClassID     string    `db:"class_id"`
	At          time.Time `db:"at"`
	By          string    `db:"by"` // empty: by itself
	Differences int       `db:"differences"`
}

// DoorChecks are the checks of a class that are kept, newest first.
func (s Kept) DoorChecks(ctx context.Context, class string) ([]CheckedDoors, error) {
	out := []CheckedDoors{}
	return out, s.All(ctx, &out, `select class_id, at, by, differences from door_checks where class_id = $1 order by at desc, id`, class)
}

// NewestDoorChecks are the newest check of each of some classes.
func (s Kept) NewestDoorChecks(ctx context.Context, classes []string) (map[string]CheckedDoors, error) {
	var all []CheckedDoors
	out := map[string]CheckedDoors{}
	err := s.All(ctx, &all, `select d.class_id, d.at, d.by, d.differences from unnest($1::uuid[]) c(id) cross join lateral
		(select class_id, at, by, differences from door_checks where class_id = c.id order by at desc, id limit 1) d`, classes)
	for _, c := range all {
		out[c.ClassID] = c
	}
	return out, err
}

// DoorsDue are classes with a room that weren't checked since a moment, or in which something that a
// check found was put right since the last one.
func (s Kept) DoorsDue(ctx context.Context, since time.Time) ([]string, error) {
	out := []string{}
	return out, s.All(ctx, &out, `select c.id from classes c
		left join lateral (select at from door_checks where class_id = c.id order by at desc, id limit 1) d on true
		where exists (select 1 from ledger where class_id = c.id and ended_at is null) and (coalesce(d.at, to_timestamp(0)) < $1
			or exists (select 1 from runs r where r.class_id = c.id and r.kind = 'mend' and r.finished_at >= d.at))
		order by c.id`, since)
}

// DoorsLeft are the differences of a class that are left as they are.
func (s Kept) DoorsLeft(ctx context.Context, class string) (map[string]bool, error) {
	var all []string
	err := s.All(ctx, &all, `select difference from door_left where class_id = $1`, class)
	out := make(map[string]bool, len(all))
	for _, d := range all {
		out[d] = true
	}
	return out, err
}

// LeaveDoors notes that differences are left as they are, or told of again.
func (s Kept) LeaveDoors(ctx context.Context, class string, differences []string, left bool, by string, at time.Time) error {
	if !left {
		return s.Exec(ctx, `delete from door_left where class_id = $1 and difference = any($2)`, class, differences)
	}
	return s.Exec(ctx, `insert into door_left (class_id, difference, by, at) select $1, d, $3, $4 from unnest($2::text[]) d
		on conflict do nothing`, class, differences, by, at)
}

// StepsUnderWay are the keys of a class that a run is still to do something with.
func (s Kept) StepsUnderWay(ctx context.Context, class string) (map[packing.Key]bool, error) {
	var keys []string
	if err := s.All(ctx, &keys, `select distinct s.key from runs r join steps s on s.run_id = r.id
		where r.class_id = $1 and r.state = 'packing' and s.state = 'waiting'`, class); err != nil {
		return nil, err
	}
	out := map[packing.Key]bool{}
	for _, text := range keys {
		if k, err := packing.ParseKey(text); err == nil {
			out[k] = true
		}
	}
	return out, nil
}

// StuckMarks are the marks that the cupboard wouldn't have, by key: of each the one said last, where that
// line is stuck.
func (s Kept) StuckMarks(ctx context.Context, class string) (map[packing.Key]*access.Mark, error) {
	var rows []struct {
		Key   string                  `db:"key"`
		State string                  `db:"state"`
		Mark  pg.AsJSON[*access.Mark] `db:"mark"`
	}
	err := s.All(ctx, &rows, `select distinct on (s.key) s.key, s.state, s.change -> 'mark' as mark from runs r
		join steps s on s.run_id = r.id where r.class_id = $1 and r.kind = 'mark' order by s.key, r.n desc`, class)
	out := map[packing.Key]*access.Mark{}
	for _, r := range rows {
		if k, err := packing.ParseKey(r.Key); err == nil && r.State == string(packing.Stuck) {
			out[k] = r.Mark.V
		}
	}
	return out, err
}
