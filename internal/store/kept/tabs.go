package kept

import (
	"context"

	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/register"
	"jollysatchel/internal/store/pg"
)

// A Tab is what was worked out of a class for the rail, at a tag.
type Tab struct {
	ClassID  string          `db:"class_id"`
	Tag      string          `db:"tag"`
	Students int             `db:"students"`
	Ready    bool            `db:"ready"`
	Notes    []register.Note `db:"-"`
}

type tabRow struct {
	Tab
	Notes pg.AsJSON[[]register.Note] `db:"notes"`
}

func (r tabRow) Plain() Tab {
	r.Tab.Notes = r.Notes.V
	return r.Tab
}

// Tabs returns what was worked out last of some classes, by class.
func (s Kept) Tabs(ctx context.Context, all []string) (map[string]Tab, error) {
	rows, err := pg.Plainly[tabRow](ctx, s.Base,
		`select class_id, tag, students, ready, notes from tabs where class_id = any($1::uuid[])`, all)
	if err != nil {
		return nil, err
	}
	out := make(map[string]Tab, len(rows))
	for _, p := range rows {
		out[p.ClassID] = p
	}
	return out, nil
}

// SaveTab keeps what was worked out of a class; of one that is gone nothing.
func (s Kept) SaveTab(ctx context.Context, p Tab) error {
	return s.Exec(ctx, `insert into tabs (class_id, tag, students, ready, notes) select id, $2, $3, $4, $5 from classes where id = $1
		on conflict (class_id) do update set tag = excluded.tag, students = excluded.students, ready = excluded.ready,
			notes = excluded.notes`, p.ClassID, p.Tag, p.Students, p.Ready, pg.AsJSON[[]register.Note]{V: p.Notes})
}

// StaffOf returns the staff of some classes, by class, the owner first.
func (s Kept) StaffOf(ctx context.Context, all []string) (map[string][]classes.Member, error) {
	var rows []classes.Member
	if err := s.All(ctx, &rows, `select class_id, account, role from staff where class_id = any($1::uuid[])
		order by role <> 'owner', role <> 'teacher', account`, all); err != nil {
		return nil, err
	}
	out := map[string][]classes.Member{}
	for _, m := range rows {
		out[m.ClassID] = append(out[m.ClassID], m)
	}
	return out, nil
}
