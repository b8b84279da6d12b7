package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/telling"
)

// A Template is a document a teacher hands out.
type Template struct {
	ID        string    `db:"id"`
	Account   string    `db:"account"`
	Name      string    `db:"name"`
	Thing     string    `db:"thing"`
	MediaType string    `db:"media_type"`
	CreatedAt time.Time `db:"created_at"`
	Removed   bool      `db:"removed"` // off its teacher's list
}

const templateColumns = `id, account, name, thing, media_type, created_at, removed_at is not null as removed`

// A Document is one that a handout gives. Its slot, counted from 1, is its own for
// ever; a name is that of its copies, where it isn't the handout's.
type Document struct {
	Slot     int            `json:"slot"`
	Template string         `json:"template"`
	Name     naming.Pattern `json:"name,omitempty"`
	For      string         `json:"for,omitempty"` // the level it is for
	// Plain leaves the columns that the document asks for in square brackets as they stand.
	Plain bool `json:"plain,omitempty"`
	// Only are the rows that it was given to beside what they had begun; none: all.
	Only []string `json:"only,omitempty"`
}

// HandoutSettings are the parts of a handout's sentence.
type HandoutSettings struct {
	Way       handout.WayName   `json:"way,omitempty"` // empty: one each
	Documents []Document        `json:"documents"`
	By        record.Field      `json:"by,omitempty"`    // column of the levels
	Teams     record.Field      `json:"teams,omitempty"` // column of the teams
	Name      naming.Pattern    `json:"name"`
	Pocket    string            `json:"pocket"`
	Level     string            `json:"level"`
	Out       map[string]string `json:"out"`    // row → reason: who sits out
	Choice    choosing.Choice   `json:"choice"` // who else is meant
	// Classmates is what students may do with each other's copies: read, comment or,
	// where they might before, nothing; empty: nothing, as ever.
	Classmates string `json:"classmates,omitempty"`
	// Passing is what students may let classmates do with their own copies; empty or
	// nothing: they let nobody in.
	Passing string `json:"passing,omitempty"`
	Message string `json:"message"`
	// Instructions are formatted as a text document is.
	Instructions string         `json:"instructions,omitempty"`
	Links        []handout.Link `json:"links,omitempty"`
	ForParents   bool           `json:"for_parents,omitempty"` // a notice that is meant for them
	// Tell says of what its people are told by post, Mail and MailChanged in which words;
	// nil: the usual ones.
	Tell        telling.When  `json:"tell,omitempty"`
	Mail        *telling.Text `json:"mail,omitempty"`
	MailChanged *telling.Text `json:"mail_changed,omitempty"`
	// Names and Pockets are those of single students' copies, by row, where they have
	// one of their own.
	Names   map[string]naming.Pattern `json:"names,omitempty"`
	Pockets map[string]string         `json:"pockets,omitempty"`
	Date    string                    `json:"date"` // the handout's own [Date], fixed when first packed
}

// A Handout is one delivery of documents to a class.
type Handout struct {
	ID       string          `db:"id"`
	ClassID  string          `db:"class_id"`
	Title    string          `db:"title"`
	Settings HandoutSettings `db:"-"`
	Due      time.Time       `db:"-"`       // a wall-clock time in Zone, written as UTC; zero: none
	Send     time.Time       `db:"-"`       // when it is packed by itself, written as Due is; zero: not so
	SendBy   string          `db:"send_by"` // account
	// SendProblem is why it wasn't packed at its time.
	SendProblem *packing.Reason `db:"-"`
	Zone        string          `db:"zone"`
	CreatedAt   time.Time       `db:"created_at"`
	ChangedAt   time.Time       `db:"changed_at"`
	PackedAt    time.Time       `db:"-"`       // zero: not packed
	WithdrawnAt time.Time       `db:"-"`       // zero: not withdrawn
	Heading     string          `db:"heading"` // id of what it stands under; empty: none
	// Together is the same for handouts of several classes that are one; empty: it is alone.
	Together string `db:"together"`
}

// Says is all that a handout says, to see whether a change makes a difference.
func (h Handout) Says() (string, error) {
	h.ChangedAt = time.Time{}
	b, err := json.Marshal(h)
	return string(b), err
}

// Packed reports whether a handout was packed and not withdrawn since.
func (h Handout) Packed() bool { return h.Fixed() && h.WithdrawnAt.IsZero() }

// Fixed reports whether it was ever packed: how it is handed out stays as it is.
func (h Handout) Fixed() bool { return !h.PackedAt.IsZero() }

// MatesRead reports whether students may read each other's copies.
func (h Handout) MatesRead() bool {
	l, _ := access.ParseLevel(h.Settings.Classmates)
	return l >= access.Read
}

// PassedOn reports whether students may let classmates into their own copies.
func (h Handout) PassedOn() bool {
	l, _ := access.ParseLevel(h.Settings.Passing)
	own := h.Settings.Way == "" || h.Settings.Way == handout.EachName || h.Settings.Way == handout.LevelName
	return own && l >= access.Read
}

// Withdrawn reports whether it was taken back.
func (h Handout) Withdrawn() bool { return !h.WithdrawnAt.IsZero() }

type handoutRow struct {
	Handout
	Settings asJSON[HandoutSettings] `db:"settings"`
	Due      sql.NullTime            `db:"due"`
	Send     sql.NullTime            `db:"send"`
	Why      asJSON[*packing.Reason] `db:"send_problem"`
	Back     sql.NullTime            `db:"withdrawn_at"`
	PackedAt sql.NullTime            `db:"packed_at"`
}

func (r handoutRow) plain() Handout {
	h := r.Handout
	h.Settings, h.Due, h.PackedAt, h.Send, h.SendProblem, h.WithdrawnAt = r.Settings.V, orZero(r.Due), orZero(r.PackedAt), orZero(r.Send), r.Why.V, orZero(r.Back)
	return h
}

// InsertTemplate adds a template.
func (s *Store) InsertTemplate(ctx context.Context, t Template) error {
	return s.exec(ctx, `insert into templates (id, account, name, thing, media_type, created_at) values ($1, $2, $3, $4, $5, $6)`, t.ID, t.Account, t.Name, t.Thing, t.MediaType, t.CreatedAt)
}

// Templates returns an account's templates, newest first.
func (s *Store) Templates(ctx context.Context, account string) ([]Template, error) {
	out := []Template{}
	return out, s.all(ctx, &out, `select `+templateColumns+` from templates where account = $1 and removed_at is null order by created_at desc, id`, account)
}

// HoldTemplates keeps templates from being taken off their lists until the transaction ends.
func (s *Store) HoldTemplates(ctx context.Context, ids []string) error {
	return s.exec(ctx, `select 1 from templates where id = any($1::uuid[]) order by id for share`, ids)
}

// TemplatesByID returns those of some templates that there are.
func (s *Store) TemplatesByID(ctx context.Context, ids []string) ([]Template, error) {
	out := []Template{}
	return out, s.all(ctx, &out, `select `+templateColumns+` from templates where id = any($1::uuid[])`, ids)
}

// RenameTemplate gives a template another name.
func (s *Store) RenameTemplate(ctx context.Context, id, name string) error {
	return s.one(ctx, `update templates set name = $2 where id = $1`, id, name)
}

// RemoveTemplate takes a template off its teacher's list, and says whether a handout
// gives it.
func (s *Store) RemoveTemplate(ctx context.Context, id string, at time.Time) (used bool, err error) {
	if err := s.one(ctx, `update templates set removed_at = coalesce(removed_at, $2) where id = $1`, id, at); err != nil {
		return false, err
	}
	// What others gave it to meanwhile is seen by a statement of its own.
	err = s.get(ctx, &used, `select exists (select 1 from handouts, jsonb_array_elements(settings->'documents') d where d->>'template' = $1)`, id)
	return used, err
}

// Template returns one template.
func (s *Store) Template(ctx context.Context, id string) (Template, error) {
	var t Template
	if !ValidID(id) {
		return t, ErrNotFound
	}
	return t, s.get(ctx, &t, `select `+templateColumns+` from templates where id = $1`, id)
}

const handoutColumns = `id, class_id, title, settings, due, zone, created_at, changed_at, packed_at, send, send_by, send_problem, withdrawn_at, coalesce(heading::text, '') as heading, coalesce(together::text, '') as together`

// SaveHandout inserts a handout, before all that stand under no heading, or updates it;
// when it was packed is set by MarkPacked alone, its place by PlaceHandouts, and what it is
// one with by SetTogether.
func (s *Store) SaveHandout(ctx context.Context, h Handout) error {
	return s.exec(ctx, `insert into handouts (id, class_id, title, settings, due, zone, created_at, changed_at, send, send_by, send_problem, together, place) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, nullif($11::jsonb, 'null'), nullif($12, '')::uuid,
			(select coalesce(min(place), 0) - 1 from handouts where class_id = $2 and heading is null))
		on conflict (id) do update set send = excluded.send, send_by = excluded.send_by, send_problem = excluded.send_problem, title = excluded.title, settings = excluded.settings, due = excluded.due, zone = excluded.zone, changed_at = excluded.changed_at`,
		h.ID, h.ClassID, h.Title, asJSON[HandoutSettings]{h.Settings}, orNone(h.Due), h.Zone, h.CreatedAt, h.ChangedAt, orNone(h.Send), h.SendBy, asJSON[*packing.Reason]{h.SendProblem}, h.Together)
}

// MarkPacked notes when a handout was first packed; no time for that is to come then.
func (s *Store) MarkPacked(ctx context.Context, id string, at time.Time) error {
	return s.exec(ctx, `update handouts set packed_at = $2, send = null, send_problem = null where id = $1 and packed_at is null`, id, at)
}

// MarkWithdrawn notes that what a handout gave is taken away.
func (s *Store) MarkWithdrawn(ctx context.Context, id string, at time.Time) error {
	return s.exec(ctx, `update handouts set withdrawn_at = $2 where id = $1`, id, at)
}

// MarkGivenBack notes that it isn't any more.
func (s *Store) MarkGivenBack(ctx context.Context, id string) error {
	return s.exec(ctx, `update handouts set withdrawn_at = null where id = $1`, id)
}

// MarkUnpacked notes that nothing of a handout is packed any more.
func (s *Store) MarkUnpacked(ctx context.Context, id string) error {
	return s.exec(ctx, `update handouts set packed_at = null where id = $1`, id)
}

// Handout returns one handout of a class.
func (s *Store) Handout(ctx context.Context, class, id string) (Handout, error) {
	if !ValidID(id) {
		return Handout{}, ErrNotFound
	}
	return onePlainly[handoutRow](ctx, s, `select `+handoutColumns+` from handouts where class_id = $1 and id = $2`, class, id)
}

// Handouts returns a class's handouts from the last to the first of their teacher's
// order: that is, where nothing else was said, from the oldest.
func (s *Store) Handouts(ctx context.Context, class string) ([]Handout, error) {
	return plainly[handoutRow](ctx, s, `select `+handoutColumns+` from handouts where class_id = $1 order by (select g.place from headings g where g.id = heading) desc nulls last, place desc, created_at, id`, class)
}

// LatestPocket is the pocket that the copies of a class's latest handout lie in; empty: none,
// or there is no handout yet.
func (s *Store) LatestPocket(ctx context.Context, class string) (string, error) {
	var pocket string
	err := s.get(ctx, &pocket, `select coalesce(settings ->> 'pocket', '') from handouts where class_id = $1 and coalesce(settings ->> 'way', '') <> $2 order by created_at desc, id desc limit 1`, class, string(handout.NoticeName))
	if errors.Is(err, ErrNotFound) {
		return "", nil
	}
	return pocket, err
}

// DeleteHandout removes a handout that was never packed.
func (s *Store) DeleteHandout(ctx context.Context, class, id string) error {
	if !ValidID(id) {
		return ErrNotFound
	}
	return s.one(ctx, `delete from handouts where class_id = $1 and id = $2 and packed_at is null`, class, id)
}

// TemplatesOf returns the templates a class's handouts give.
func (s *Store) TemplatesOf(ctx context.Context, class string) ([]Template, error) {
	out := []Template{}
	return out, s.all(ctx, &out, `select `+templateColumns+` from templates where id in (select (d->>'template')::uuid from handouts, jsonb_array_elements(settings->'documents') d where class_id = $1)`, class)
}
