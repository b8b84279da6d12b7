package store

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/pens"
	"jollysatchel/internal/store/pg"
)

const templateColumns = `id, account, name, thing, media_type, created_at, removed_at is not null as removed`

type handoutRow struct {
	handout.Handout
	Settings pg.AsJSON[handout.Sentence]      `db:"settings"`
	Due      sql.NullTime                     `db:"due"`
	Send     sql.NullTime                     `db:"send"`
	Why      pg.AsJSON[*packing.Reason]       `db:"send_problem"`
	Back     sql.NullTime                     `db:"withdrawn_at"`
	PackedAt sql.NullTime                     `db:"packed_at"`
	Standing pg.AsJSON[map[string]pens.Extra] `db:"extra_time"`
}

func (r handoutRow) Plain() handout.Handout {
	h := r.Handout
	h.Settings, h.Due, h.PackedAt, h.Send, h.SendProblem, h.WithdrawnAt = r.Settings.V, pg.OrZero(r.Due),
		pg.OrZero(r.PackedAt), pg.OrZero(r.Send), r.Why.V, pg.OrZero(r.Back)
	h.Standing = r.Standing.V
	return h
}

// InsertTemplate adds a template.
func (s *Store) InsertTemplate(ctx context.Context, t handout.Template) error {
	return s.Exec(ctx, `insert into templates (id, account, name, thing, media_type, created_at)
		values ($1, $2, $3, $4, $5, $6)`, t.ID, t.Account, t.Name, t.Thing, t.MediaType, t.CreatedAt)
}

// Templates returns an account's templates, newest first.
func (s *Store) Templates(ctx context.Context, account string) ([]handout.Template, error) {
	out := []handout.Template{}
	return out, s.All(ctx, &out, `select `+templateColumns+` from templates where account = $1 and removed_at is null
		order by created_at desc, id`, account)
}

// HoldTemplates keeps templates from being taken off their lists until the transaction ends.
func (s *Store) HoldTemplates(ctx context.Context, ids []string) error {
	return s.Exec(ctx, `select 1 from templates where id = any($1::uuid[]) order by id for share`, ids)
}

// TemplatesByID returns those of some templates that there are.
func (s *Store) TemplatesByID(ctx context.Context, ids []string) ([]handout.Template, error) {
	out := []handout.Template{}
	return out, s.All(ctx, &out, `select `+templateColumns+` from templates where id = any($1::uuid[])`, ids)
}

// RenameTemplate gives a template another name.
func (s *Store) RenameTemplate(ctx context.Context, id, name string) error {
	return s.One(ctx, `update templates set name = $2 where id = $1`, id, name)
}

// RemoveTemplate takes a template off its teacher's list, and says whether a handout
// gives it.
func (s *Store) RemoveTemplate(ctx context.Context, id string, at time.Time) (used bool, err error) {
	if err := s.One(ctx, `update templates set removed_at = coalesce(removed_at, $2) where id = $1`, id, at); err != nil {
		return false, err
	}
	// What others gave it to meanwhile is seen by a statement of its own.
	err = s.Get(ctx, &used, `select exists (select 1 from handouts, jsonb_array_elements(settings->'documents') d
		where d->>'template' = $1)`, id)
	return used, err
}

// Template returns one template.
func (s *Store) Template(ctx context.Context, id string) (handout.Template, error) {
	var t handout.Template
	if !pg.ValidID(id) {
		return t, pg.ErrNotFound
	}
	return t, s.Get(ctx, &t, `select `+templateColumns+` from templates where id = $1`, id)
}

const handoutColumns = `id, class_id, title, settings, due, zone, created_at, changed_at, packed_at, send, send_by,
	send_problem, withdrawn_at, coalesce(heading::text, '') as heading, coalesce(together::text, '') as together,
	(select c.extra_time from classes c where c.id = class_id) as extra_time`

// SaveHandout inserts a handout, before all that are under no heading, or updates it;
// when it was packed is set by MarkPacked alone, its place by PlaceHandouts, and what it is
// one with by SetTogether.
func (s *Store) SaveHandout(ctx context.Context, h handout.Handout) error {
	return s.Exec(ctx, `insert into handouts (id, class_id, title, settings, due, zone, created_at, changed_at, send,
		send_by, send_problem, together, place) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, nullif($11::jsonb, 'null'),
			nullif($12, '')::uuid,
			(select coalesce(min(place), 0) - 1 from handouts where class_id = $2 and heading is null))
		on conflict (id) do update set send = excluded.send, send_by = excluded.send_by,
			send_problem = excluded.send_problem, title = excluded.title, settings = excluded.settings, due = excluded.due,
			zone = excluded.zone, changed_at = excluded.changed_at`,
		h.ID, h.ClassID, h.Title, pg.AsJSON[handout.Sentence]{V: h.Settings}, orNone(h.Due), h.Zone, h.CreatedAt, h.ChangedAt,
		orNone(h.Send), h.SendBy, pg.AsJSON[*packing.Reason]{V: h.SendProblem}, h.Together)
}

// MarkPacked notes when a handout was first packed; no time for that is to come then.
func (s *Store) MarkPacked(ctx context.Context, id string, at time.Time) error {
	return s.Exec(ctx, `update handouts set packed_at = $2, send = null, send_problem = null where id = $1 and packed_at is null`, id, at)
}

// MarkWithdrawn notes that what a handout gave is taken away.
func (s *Store) MarkWithdrawn(ctx context.Context, id string, at time.Time) error {
	return s.Exec(ctx, `update handouts set withdrawn_at = $2 where id = $1`, id, at)
}

// MarkBroughtBack notes that it isn't any more.
func (s *Store) MarkBroughtBack(ctx context.Context, id string) error {
	return s.Exec(ctx, `update handouts set withdrawn_at = null where id = $1`, id)
}

// MarkUnpacked notes that nothing of a handout is packed any more.
func (s *Store) MarkUnpacked(ctx context.Context, id string) error {
	return s.Exec(ctx, `update handouts set packed_at = null where id = $1`, id)
}

// HandoutsToShow are the handouts whose copies are to be kept at some time.
func (s *Store) HandoutsToShow(ctx context.Context) ([]handout.Handout, error) {
	return pg.Plainly[handoutRow](ctx, s.Base, `select `+handoutColumns+` from handouts
		where settings ->> 'show' <> '' and packed_at is not null and withdrawn_at is null order by id`)
}

// Handout returns one handout of a class.
func (s *Store) Handout(ctx context.Context, class, id string) (handout.Handout, error) {
	if !pg.ValidID(id) {
		return handout.Handout{}, pg.ErrNotFound
	}
	return pg.OnePlainly[handoutRow](ctx, s.Base, `select `+handoutColumns+` from handouts where class_id = $1 and id = $2`, class, id)
}

// Handouts returns a class's handouts from the last to the first of their teacher's
// order: that is, where nothing else was said, from the oldest.
func (s *Store) Handouts(ctx context.Context, class string) ([]handout.Handout, error) {
	return pg.Plainly[handoutRow](ctx, s.Base, `select `+handoutColumns+` from handouts where class_id = $1
		order by (select g.place from headings g where g.id = heading) desc nulls last, place desc, created_at, id`, class)
}

// PackedLately are the handouts of a class that were packed last, as many as are wanted, the newest first; none of
// them a notice or withdrawn.
func (s *Store) PackedLately(ctx context.Context, class string, most int) ([]handout.Handout, error) {
	return pg.Plainly[handoutRow](ctx, s.Base, `select `+handoutColumns+` from handouts where class_id = $1
		and packed_at is not null and withdrawn_at is null and coalesce(settings ->> 'way', '') <> $2
		order by packed_at desc, id desc limit $3`, class, string(handout.NoticeName), most)
}

// LatestPocket is the pocket that the copies of a class's latest handout are in; empty: none,
// or there is no handout yet.
func (s *Store) LatestPocket(ctx context.Context, class string) (string, error) {
	var pocket string
	err := s.Get(ctx, &pocket, `select coalesce(settings ->> 'pocket', '') from handouts
		where class_id = $1 and coalesce(settings ->> 'way', '') <> $2
		order by created_at desc, id desc limit 1`, class, string(handout.NoticeName))
	if errors.Is(err, pg.ErrNotFound) {
		return "", nil
	}
	return pocket, err
}

// DeleteHandout removes a handout that was never packed.
func (s *Store) DeleteHandout(ctx context.Context, class, id string) error {
	if !pg.ValidID(id) {
		return pg.ErrNotFound
	}
	return s.One(ctx, `delete from handouts where class_id = $1 and id = $2 and packed_at is null`, class, id)
}

// TemplatesOf returns the templates a class's handouts give.
func (s *Store) TemplatesOf(ctx context.Context, class string) ([]handout.Template, error) {
	out := []handout.Template{}
	return out, s.All(ctx, &out, `select `+templateColumns+` from templates
		where id in (select (d->>'template')::uuid from handouts, jsonb_array_elements(settings->'documents') d where class_id = $1)`, class)
}
