package classroom

import (
	"context"
	"database/sql"
	"io"
	"maps"
	"strconv"
	"strings"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/document"
	"jollysatchel/internal/store"
)

// AddTemplate keeps a document as one of the account's templates. It lies at
// the top of the account's own things, shared with nobody.
func (c *Classroom) AddTemplate(ctx context.Context, account, name, mediaType string, content io.Reader) (store.Template, error) {
	ending := naming.Ending(name)
	stem := strings.TrimSuffix(strings.TrimSpace(name), ending)
	if tidy(stem) == "" {
		return store.Template{}, &Invalid{"name", "missing", nil}
	}
	name = naming.Safe(stem, ending)
	id := store.NewID()
	th, err := c.Cup.AddFile(ctx, account, "template/"+id, cupboard.NewThing{Name: name, MediaType: mediaType, StandsAlone: true}, content)
	if err != nil {
		return store.Template{}, err
	}
	t := store.Template{ID: id, Account: account, Name: name, Thing: th.ID, MediaType: mediaType, CreatedAt: c.Now()}
	return t, c.Store.InsertTemplate(ctx, t)
}

// TemplateFor returns a template if the account may hand it out.
func (c *Classroom) TemplateFor(ctx context.Context, account, id string) (store.Template, error) {
	t, err := c.Store.Template(ctx, id)
	if err != nil || t.Account != account {
		return store.Template{}, ErrNotFound
	}
	return t, nil
}

// NewHandout begins a handout with everything at its usual value. It isn't
// packed before Pack is asked for.
func (c *Classroom) NewHandout(ctx context.Context, cl Class, t *store.Template) (store.Handout, error) {
	now := c.Now()
	h := store.Handout{ID: store.NewID(), ClassID: cl.ID, Zone: c.School.Zone.String(), CreatedAt: now, ChangedAt: now}
	h.Settings.V = store.HandoutSettings{Name: handout.UsualName(), Level: access.Edit.String(), Out: map[string]string{}}
	if len(cl.Plan.V.Pockets) > 0 {
		h.Settings.V.Pocket = cl.Plan.V.Pockets[0].ID
	}
	if t != nil {
		setTemplate(&h, *t)
	}
	return h, c.Store.SaveHandout(ctx, h)
}

// setTemplate gives the handout a template and, where it has none, its title.
func setTemplate(h *store.Handout, t store.Template) {
	h.TemplateID = sql.NullString{String: t.ID, Valid: true}
	if h.Title == "" {
		h.Title = strings.TrimSuffix(t.Name, naming.Ending(t.Name))
	}
}

// A HandoutChange is what the teacher edits in the sentence. Nil parts stay.
type HandoutChange struct {
	Title    *string
	Template *string
	Name     *naming.Pattern
	Pocket   *string
	Level    *string
	Out      map[string]string // row → reason, or "" to take in again
	Due      *string           // wall-clock "2006-01-02T15:04", or "" for none
	Message  *string
	Choice   *choosing.Choice
}

// ChangeHandout applies a change and keeps it at once. What is packed keeps its
// template and names; everything else can be changed later.
func (c *Classroom) ChangeHandout(ctx context.Context, by string, cl Class, h store.Handout, ch HandoutChange) (store.Handout, error) {
	s := &h.Settings.V
	if ch.Title != nil {
		if h.Title = tidy(*ch.Title); len(h.Title) > 200 {
			return h, &Invalid{"title", "too-long", nil}
		}
	}
	if ch.Template != nil {
		if h.PackedAt.Valid && *ch.Template != h.TemplateID.String {
			return h, &Invalid{"template", "packed-already", nil}
		}
		t, err := c.TemplateFor(ctx, by, *ch.Template)
		if err != nil {
			return h, &Invalid{"template", "no-such-template", nil}
		}
		setTemplate(&h, t)
	}
	if ch.Name != nil {
		if err := checkPattern(cl, *ch.Name); err != nil {
			return h, err
		}
		s.Name = *ch.Name
	}
	if ch.Pocket != nil {
		known := *ch.Pocket == ""
		for _, p := range cl.Plan.V.Pockets {
			known = known || p.ID == *ch.Pocket
		}
		if !known {
			return h, &Invalid{"pocket", "no-such-pocket", nil}
		}
		s.Pocket = *ch.Pocket
	}
	if ch.Level != nil {
		if l, ok := access.ParseLevel(*ch.Level); !ok || l < access.Read || l > access.Edit {
			return h, &Invalid{"level", "no-such-level", nil}
		}
		s.Level = *ch.Level
	}
	if ch.Choice != nil {
		for i, cond := range ch.Choice.Conditions {
			if !cond.Whole() {
				return h, &Invalid{"choice", "condition-unfinished", map[string]string{"place": strconv.Itoa(i + 1)}}
			}
		}
		s.Choice = *ch.Choice
	}
	if err := pick(cl, &h, ch.Out); err != nil {
		return h, err
	}
	if ch.Due != nil {
		h.Due = sql.NullTime{}
		if *ch.Due != "" {
			t, err := time.Parse("2006-01-02T15:04", *ch.Due)
			if err != nil {
				return h, &Invalid{"due", "not-a-time", nil}
			}
			h.Due = sql.NullTime{Time: t, Valid: true}
		}
	}
	if ch.Message != nil {
		if s.Message = strings.TrimSpace(*ch.Message); len(s.Message) > 2000 {
			return h, &Invalid{"message", "too-long", nil}
		}
	}
	h.ChangedAt = c.Now()
	return h, c.Store.SaveHandout(ctx, h)
}

// pick takes students out or in by hand. Whom a condition keeps out is taken
// in against it.
func pick(cl Class, h *store.Handout, picks map[string]string) error {
	s := &h.Settings.V
	if s.Out == nil {
		s.Out = map[string]string{}
	}
	s.Choice.Ticked = maps.Clone(s.Choice.Ticked)
	if s.Choice.Ticked == nil {
		s.Choice.Ticked = map[string]bool{}
	}
	for row, why := range picks {
		if _, ok := cl.Student(row); !ok && why != "" {
			return &Invalid{"out", "no-such-student", nil}
		}
		switch why {
		case "":
			delete(s.Out, row)
			delete(s.Choice.Ticked, row)
			if cl.Out(*h)[row] == handout.ByCondition {
				s.Choice.Ticked[row] = true
			}
		case handout.SitsOut:
			s.Out[row] = why
		case handout.Unticked:
			s.Choice.Ticked[row] = false
		default:
			return &Invalid{"out", "no-such-reason", nil}
		}
	}
	return nil
}

func checkPattern(cl Class, p naming.Pattern) error {
	if len(p) == 0 || len(p) > 40 {
		return &Invalid{"name", "missing", nil}
	}
	known := map[string]bool{}
	for _, col := range cl.Columns() {
		known[col] = true
	}
	for _, part := range p {
		if part.Column != "" && !known[part.Column] {
			return &Invalid{"name", "column-unknown", map[string]string{"column": part.Column}}
		}
		if len(part.Text) > 100 {
			return &Invalid{"name", "too-long", nil}
		}
	}
	return nil
}

// DueAt is the moment a handout is due: its wall-clock time in its own zone.
func DueAt(h store.Handout) (time.Time, bool) {
	if !h.Due.Valid {
		return time.Time{}, false
	}
	zone, err := time.LoadLocation(h.Zone)
	if err != nil {
		zone = time.UTC
	}
	d := h.Due.Time
	return time.Date(d.Year(), d.Month(), d.Day(), d.Hour(), d.Minute(), 0, 0, zone), true
}

// SavePlan keeps a changed room plan.
func (c *Classroom) SavePlan(ctx context.Context, cl Class, satchel *naming.Pattern, pockets []string) error {
	plan := cl.Plan.V
	if satchel != nil {
		if err := checkPattern(cl, *satchel); err != nil {
			return err
		}
		plan.Satchel = *satchel
	}
	if pockets != nil {
		old := plan.Pockets
		plan.Pockets = plan.Pockets[:0:0]
		for _, name := range pockets {
			var err error
			if plan, err = keepPocket(plan, old, name); err != nil {
				return err
			}
		}
	}
	return c.Store.SavePlan(ctx, cl.ID, plan)
}

// measure compares a copy with what was handed out and keeps the result.
func (c *Classroom) measure(ctx context.Context, owner string, e store.Entry, v cupboard.Version) (store.Work, error) {
	w := store.Work{Thing: e.Thing, Version: v.Number}
	first, err := c.text(ctx, owner, e.Thing, 1)
	if err != nil {
		return w, err
	}
	now, err := c.text(ctx, owner, e.Thing, v.Number)
	if err != nil {
		return w, err
	}
	ch := compare(first, now)
	w.Begun, w.Added, w.Removed = ch.Begun, ch.Added, ch.Removed
	return w, c.Store.SaveWork(ctx, w, v.At.In(c.School.Zone).Format(time.DateOnly))
}

// text reads one version as words; content that is no text is its checksum.
func (c *Classroom) text(ctx context.Context, as, thing string, version int) (string, error) {
	r, v, err := c.Cup.Open(ctx, as, thing, version)
	if err != nil {
		return "", err
	}
	defer r.Close()
	text, ok, err := document.ReadText(r)
	if err != nil {
		return "", err
	}
	if !ok || strings.ContainsRune(text, 0) {
		return v.SHA, nil
	}
	return document.Plain(text), nil
}
