package classroom

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"io"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

// AddTemplate keeps a document as one of the account's templates. It lies at
// the top of the account's own things, shared with nobody.
func (c *Handouts) AddTemplate(ctx context.Context, account, name, mediaType string, content io.Reader) (handout.Template, error) {
	ending := naming.Ending(name)
	stem := strings.TrimSuffix(strings.TrimSpace(name), ending)
	if tidy(stem) == "" {
		return handout.Template{}, change.Refuse("name", "missing")
	}
	name = naming.Safe(stem, ending)
	if n, err := c.Store.CountTemplates(ctx, account); err != nil {
		return handout.Template{}, err
	} else if n >= mostTemplates {
		return handout.Template{}, change.TooMany("file", "too-many-templates", mostTemplates)
	}
	t := handout.Template{ID: store.NewID(), Account: account, Name: name, MediaType: mediaType, CreatedAt: c.Now()}
	act := c.act(ctx, account, "template-added", map[string]string{"name": name})
	key := "template/" + t.ID
	if act.Key != "" {
		key = "template/" + account + "/" + act.Key
	}
	sum := sha256.New()
	file := io.TeeReader(content, sum)
	th, err := c.cup.AddFile(ctx, account, key, cupboard.NewThing{Name: name, MediaType: mediaType, StandsAlone: true}, file)
	if err != nil {
		return handout.Template{}, err
	}
	if _, err := io.Copy(io.Discard, file); err != nil {
		return handout.Template{}, err
	}
	t.Thing, act.Content = th.ID, name+" "+hex.EncodeToString(sum.Sum(nil))
	id := t.ID
	if err := c.Store.Change(ctx, act, &id, func(tx *store.Store) error { return tx.InsertTemplate(ctx, t) }); err != nil {
		return handout.Template{}, err
	}
	return c.Store.Template(ctx, id)
}

// TemplateFor returns a template if the account may hand it out.
func (c *Handouts) TemplateFor(ctx context.Context, account, id string) (handout.Template, error) {
	t, err := c.Store.Template(ctx, id)
	if err == nil && (t.Account != account || t.Removed) {
		err = ErrNotFound
	}
	return t, notFound(err)
}

// RenameTemplate gives one of the account's templates another name; its ending stays.
func (c *Handouts) RenameTemplate(ctx context.Context, account, key, id, name string) error {
	t, err := c.TemplateFor(ctx, account, id)
	if err != nil {
		return err
	}
	if tidy(name) == "" {
		return change.Refuse("name", "missing")
	}
	if len(name) > mostPlaceName {
		return change.TooLong("name", mostPlaceName)
	}
	ending := naming.Ending(t.Name)
	to := naming.Safe(strings.TrimSuffix(tidy(name), ending), ending)
	if err := c.cup.Rename(ctx, account, "template/"+account+"/"+key, t.Thing, to); err != nil {
		return notFound(err)
	}
	act := c.act(ctx, account, "template-renamed", map[string]string{"name": to})
	return notFound(c.Store.Change(ctx, act, nil, func(tx *store.Store) error { return tx.RenameTemplate(ctx, id, to) }))
}

// RemoveTemplate takes one of the account's templates off their list. Its document goes
// to the bin, unless a handout gives it: who comes later gets it, too.
func (c *Handouts) RemoveTemplate(ctx context.Context, account, key, id string) error {
	t, err := c.TemplateFor(ctx, account, id)
	if err != nil {
		return err
	}
	used := false
	act := c.act(ctx, account, "template-removed", map[string]string{"name": t.Name})
	err = c.Store.Change(ctx, act, &used, func(tx *store.Store) (err error) {
		used, err = tx.RemoveTemplate(ctx, id, c.Now())
		return err
	})
	if err != nil || used {
		return notFound(err)
	}
	if err := notFound(c.cup.Bin(ctx, account, "template/"+account+"/"+key, t.Thing, 0)); err != nil && err != ErrNotFound {
		return err
	}
	return nil
}

// TemplatesOf are the templates a handout gives, by id.
func (c *Handouts) TemplatesOf(ctx context.Context, h handout.Handout) (map[string]handout.Template, error) {
	return documentsFor(ctx, c.Store, h.Settings.Documents)
}

// NewHandout begins a handout with everything at its usual value, in the pocket that the
// class's latest is in, of one of the
// account's templates or of none yet. It isn't packed before Pack is asked for.
func (c *Handouts) NewHandout(ctx context.Context, by, class, template string) (handout.Handout, error) {
	now := c.Now()
	h := handout.Handout{ID: store.NewID(), ClassID: class, Zone: c.School().Zone.String(), CreatedAt: now, ChangedAt: now}
	h.Settings = handout.Sentence{Name: handout.UsualName(), Level: access.Edit.String(), Out: map[string]string{}, Documents: []handout.GivenDocument{}}
	if template != "" {
		t, err := c.TemplateFor(ctx, by, template)
		if err != nil {
			return h, err
		}
		h.Settings.Documents = []handout.GivenDocument{{Slot: 1, Template: t.ID}}
		h.Title = plainTitle(t)
	}
	return c.begun(ctx, by, h, func(tx *store.Store, h *handout.Handout) error {
		cl, err := tx.Class(ctx, class)
		if err != nil || len(cl.Plan.Pockets) == 0 {
			return err
		}
		latest, err := tx.LatestPocket(ctx, class)
		h.Settings.Pocket = cl.Plan.UsualPocket(latest)
		return err
	})
}

// begun keeps a handout that is new, once prepare has looked at its class.
func (c *Handouts) begun(ctx context.Context, by string, h handout.Handout, prepare func(*store.Store, *handout.Handout) error) (handout.Handout, error) {
	id := h.ID
	act := c.act(ctx, by, "handout-begun", map[string]string{"handout": h.ID, "title": h.Title}, h.ClassID)
	err := c.Store.Change(ctx, act, &id, func(tx *store.Store) error {
		if err := prepare(tx, &h); err != nil {
			return err
		}
		return begin(ctx, tx, h)
	})
	if err != nil {
		return h, notFound(err)
	}
	h, err = c.Store.Handout(ctx, h.ClassID, id)
	return h, notFound(err)
}

// NewNotice begins a notice for the class, or for some of its students alone.
func (c *Handouts) NewNotice(ctx context.Context, by, class string, only []string) (handout.Handout, error) {
	now := c.Now()
	h := handout.Handout{ID: store.NewID(), ClassID: class, Zone: c.School().Zone.String(), CreatedAt: now, ChangedAt: now}
	h.Settings = handout.Sentence{Way: handout.NoticeName, Name: handout.UsualName(), Level: access.Read.String(), Out: map[string]string{}, Documents: []handout.GivenDocument{}}
	if len(only) > 0 {
		h.Settings.Choice = choosing.Choice{Picked: true, Ticked: map[string]bool{}}
		for _, row := range only {
			h.Settings.Choice.Ticked[row] = true
		}
	}
	return c.begun(ctx, by, h, func(tx *store.Store, _ *handout.Handout) error {
		rows, err := tx.Rows(ctx, class)
		if err != nil {
			return err
		}
		there := make(map[string]bool, len(rows))
		for _, r := range rows {
			there[r.ID] = true
		}
		if slices.ContainsFunc(only, func(row string) bool { return !there[row] }) {
			return change.Refuse("out", "no-such-student")
		}
		return nil
	})
}

// DeleteHandout removes a handout that was never packed, in all classes of the
// account's where it wasn't.
func (c *Handouts) DeleteHandout(ctx context.Context, by, class, id string) error {
	args := map[string]string{"handout": id}
	return notFound(c.together(ctx, c.act(ctx, by, "handout-removed", args, class), nil, id, true, func(tx *store.Store, h handout.Handout, others []handout.Handout) error {
		args["title"] = h.Title
		for _, o := range others {
			if mine, err := teaches(ctx, tx, by, o.ClassID); err != nil {
				return err
			} else if mine && !o.Fixed() {
				if err := tx.DeleteHandout(ctx, o.ClassID, o.ID); err != nil {
					return err
				}
			}
		}
		return tx.DeleteHandout(ctx, class, id)
	}))
}

// plainTitle is what a handout of a document is called at first.
func plainTitle(t handout.Template) string { return strings.TrimSuffix(t.Name, naming.Ending(t.Name)) }

// A HandoutChange is what the teacher edits in the sentence. Nil parts stay.
type HandoutChange struct {
	Title        *string                  `json:"title,omitempty"`
	Way          *handout.WayName         `json:"way,omitempty"`
	Documents    *[]handout.GivenDocument `json:"documents,omitempty"` // a new one has slot 0
	By           *record.Field            `json:"by,omitempty"`
	Teams        *record.Field            `json:"teams,omitempty"`
	Name         *naming.Pattern          `json:"name,omitempty"`
	Pocket       *string                  `json:"pocket,omitempty"`
	Level        *string                  `json:"level,omitempty"`
	Classmates   *string                  `json:"classmates,omitempty"` // nothing, read or comment
	Passing      *string                  `json:"passing,omitempty"`    // nothing, read, comment or edit
	Out          map[string]string        `json:"out,omitempty"`        // row → reason, or "" to take in again
	Due          *string                  `json:"due,omitempty"`        // wall-clock "2006-01-02T15:04", or "" for none
	Send         *string                  `json:"send,omitempty"`       // the same, maybe with seconds
	Message      *string                  `json:"message,omitempty"`
	Instructions *string                  `json:"instructions,omitempty"`
	Links        *[]handout.Link          `json:"links,omitempty"`
	ForParents   *bool                    `json:"forParents,omitempty"`
	Tell         *telling.When            `json:"tell,omitempty"`
	Mail         *telling.Text            `json:"mail,omitempty"`        // without a word: the usual one
	MailChanged  *telling.Text            `json:"mailChanged,omitempty"` // the same
	Choice       *choosing.Choice         `json:"choice,omitempty"`
	Own          *OwnParts                `json:"own,omitempty"`
}

// OwnParts give some students' copies a name or pocket of their own; Alike takes them
// away. Nil parts stay.
type OwnParts struct {
	Rows   []string        `json:"rows"`
	Name   *naming.Pattern `json:"name,omitempty"`
	Pocket *string         `json:"pocket,omitempty"`
	Alike  bool            `json:"alike,omitempty"`
}

// ChangeHandout applies a change to the handout as it is now and keeps it at
// once: changes of different parts all stand, whoever makes them. was holds, of
// what changes, the values that were looked at: where somebody changed one
// since, both values are told and nothing is written. What is packed keeps its way
// and its documents, to which more can come; the message is read as it is now.
func (c *Handouts) ChangeHandout(ctx context.Context, by, class, id string, ch, was HandoutChange) (handout.Handout, error) {
	book, err := c.book(ctx)
	if err != nil {
		return handout.Handout{}, err
	}
	var h handout.Handout
	args := map[string]any{"handout": id, "change": ch}
	err = c.together(ctx, c.act(ctx, by, "handout-changed", args, class), nil, id, ch.common(), func(tx *store.Store, now handout.Handout, others []handout.Handout) error {
		cl, err := c.class(ctx, tx, book, class)
		if err != nil {
			return err
		}
		h = now
		before, err := now.Says()
		if err != nil {
			return err
		}
		e := handoutEdit{cl: cl, h: &h, by: by, now: c.Now(), ch: ch, was: was, known: cl.Vocabulary()}
		all, err := e.with(ctx, c.house, tx, book, others)
		if err != nil {
			return err
		}
		if ch.Documents != nil {
			if e.templates, err = documentsFor(ctx, tx, *ch.Documents); err != nil {
				return err
			}
		}
		for _, part := range []func() error{e.title, e.way, e.columns, e.documents, e.name, e.place, e.level, e.classmates, e.passing, e.choice, e.picks, e.own, e.due, e.send, e.message, e.instructions, e.links, e.forParents, e.tell, e.mail} {
			if err := part(); err != nil {
				return err
			}
		}
		if after, err := h.Says(); err != nil || after == before {
			return cmp.Or(err, store.ErrUnchanged)
		}
		if h.Settings.Way == handout.TeamName {
			if err := c.addTeams(ctx, tx, cl, cl.Plan, h.Settings.Teams); err != nil {
				return err
			}
		}
		h.ChangedAt, args["title"] = c.Now(), h.Title
		for i := range others {
			if err := c.follow(ctx, tx, e, all[i], others[i]); err != nil {
				return err
			}
			if err := c.dueElsewhere(ctx, tx, book, by, others[i]); err != nil {
				return err
			}
		}
		if err := c.keep(ctx, tx, h, ch.Send != nil); err != nil {
			return err
		}
		return c.toldOfDue(ctx, tx, book, by, now, h)
	})
	return h, notFound(err)
}

// dueElsewhere is toldOfDue in another class that a handout is for, once it follows.
func (c *Handouts) dueElsewhere(ctx context.Context, tx *store.Store, book *bookIndex, by string, before handout.Handout) error {
	h, err := tx.Handout(ctx, before.ClassID, before.ID)
	if err != nil {
		return err
	}
	return c.toldOfDue(ctx, tx, book, by, before, h)
}

// keep keeps a handout, and has it sent where a time for that was set.
func (c *Handouts) keep(ctx context.Context, tx *store.Store, h handout.Handout, timed bool) error {
	if err := tx.SaveHandout(ctx, h); err != nil || !timed || h.Send.IsZero() {
		return err
	}
	return c.sendAt(ctx, tx, h)
}

// sendAt has a handout sent at its time.
func (c *Handouts) sendAt(ctx context.Context, tx *store.Store, h handout.Handout) error {
	return c.sending.SendAt(ctx, tx, h, momentOf(h.Send, h.Zone))
}

// A handoutEdit is a handout that is held while it is changed, part by part.
type handoutEdit struct {
	cl        Class
	h         *handout.Handout
	by        string // account
	now       time.Time
	ch, was   HandoutChange
	known     record.Vocabulary           // the columns of all the classes it is for
	slots     int                         // the highest slot that any of them has
	templates map[string]handout.Template // those of the documents, by id
}

// documentsFor are the templates of documents, by id; within a transaction, none is
// taken off a list until it ends.
func documentsFor(ctx context.Context, tx *store.Store, documents []handout.GivenDocument) (map[string]handout.Template, error) {
	if len(documents) > handout.MostDocuments {
		return nil, change.TooMany("documents", "too-many-documents", handout.MostDocuments)
	}
	ids := make([]string, len(documents))
	for i, d := range documents {
		if ids[i] = d.Template; !store.ValidID(d.Template) {
			return nil, change.Refuse("documents", "no-such-template")
		}
	}
	if tx.SQLTx() != nil {
		if err := tx.HoldTemplates(ctx, ids); err != nil {
			return nil, err
		}
	}
	found, err := tx.TemplatesByID(ctx, ids)
	out := make(map[string]handout.Template, len(found))
	for _, t := range found {
		out[t.ID] = t
	}
	return out, err
}

func (e *handoutEdit) set() *handout.Sentence { return &e.h.Settings }

// packed refuses to change what stands once the handout is packed.
func (e *handoutEdit) packed(field string, same bool) error {
	if e.h.Fixed() && !same {
		return change.Refuse(field, "packed-already")
	}
	return nil
}

func (e *handoutEdit) title() error {
	if e.ch.Title == nil {
		return nil
	}
	title := tidy(*e.ch.Title)
	if len(title) > mostTitle {
		return change.TooLong("title", mostTitle)
	}
	if err := change.Unless(e.was.Title, "title", e.h.Title, title); err != nil {
		return err
	}
	e.h.Title = title
	return nil
}

// way changes how it is handed out. Names that nobody chose follow.
func (e *handoutEdit) way() error {
	if e.ch.Way == nil {
		return nil
	}
	now, to := cmp.Or(e.set().Way, handout.EachName), *e.ch.Way
	if !to.Known() {
		return change.Refuse("way", "no-such-way")
	}
	if err := e.packed("way", now == to); err != nil {
		return err
	}
	if err := change.Unless((*string)(e.was.Way), "way", string(now), string(to)); err != nil {
		return err
	}
	if e.set().Name.String() == handout.UsualNameOf(now).String() {
		e.set().Name = handout.UsualNameOf(to)
	}
	e.set().Way = to
	if to == handout.LevelName && e.set().By == "" {
		e.set().By = record.Level
	}
	if to == handout.TeamName && e.set().Teams == "" {
		e.set().Teams = record.Team
	}
	return nil
}

// columns are those that say a student's level and team.
func (e *handoutEdit) columns() error {
	for _, x := range []struct {
		field        string
		to, was, now *record.Field
	}{{"by", e.ch.By, e.was.By, &e.set().By}, {"teams", e.ch.Teams, e.was.Teams, &e.set().Teams}} {
		if x.to == nil {
			continue
		}
		if x.to.Own() || !e.known.Has(*x.to) {
			return change.Refuse(x.field, "column-unknown", "column", x.to.Label())
		}
		if err := e.packed(x.field, *x.to == *x.now); err != nil {
			return err
		}
		if err := change.Unless((*string)(x.was), x.field, string(*x.now), string(*x.to)); err != nil {
			return err
		}
		*x.now = *x.to
	}
	return nil
}

// documents are given as they are to be; new ones have slots above all others, or are
// given them. What is packed
// keeps those it has.
func (e *handoutEdit) documents() error {
	if e.ch.Documents == nil {
		return nil
	}
	now, to := e.set().Documents, slices.Clone(*e.ch.Documents)
	if e.was.Documents != nil {
		was := change.Digest(forAll(*e.was.Documents))
		if err := change.Unless(&was, "documents", change.Digest(forAll(now)), change.Digest(forAll(to))); err != nil {
			return err
		}
	}
	slot := e.slots
	had := map[int]handout.GivenDocument{}
	for _, d := range now {
		had[d.Slot], slot = d, max(slot, d.Slot)
	}
	for i, d := range to {
		if len(d.Name) > 0 {
			if err := checkPattern(e.known, d.Name); err != nil {
				return err
			}
		}
		if to[i].For = tidy(d.For); len(d.For) > mostPartText {
			return change.TooLong("documents", mostPartText)
		}
		before, there := had[d.Slot]
		to[i].Only = before.Only // whom it was given to beside isn't said here
		if t := e.templates[d.Template]; before.Template != d.Template && (t.Account != e.by || t.Removed) {
			return change.Refuse("documents", "no-such-template")
		}
		switch {
		case d.Slot > slot && d.Slot <= slot+handout.MostDocuments:
			slot = d.Slot
		case d.Slot > slot:
			return change.Refuse("documents", "no-such-template")
		case !there: // new, whatever it was called
			slot++
			to[i].Slot = slot
		default:
			if err := e.packed("documents", before.Template == d.Template); err != nil {
				return err
			}
			delete(had, d.Slot)
		}
	}
	if err := e.packed("documents", len(had) == 0); err != nil {
		return err
	}
	e.set().Documents = to
	if e.h.Title == "" && len(to) > 0 {
		e.h.Title = plainTitle(e.templates[to[0].Template])
	}
	return nil
}

// forAll are documents as a page says them: without whom alone they are for.
func forAll(documents []handout.GivenDocument) []handout.GivenDocument {
	out := slices.Clone(documents)
	for i := range out {
		out[i].Only = nil
	}
	return out
}

func (e *handoutEdit) name() error {
	if e.ch.Name == nil {
		return nil
	}
	if err := checkPattern(e.known, *e.ch.Name); err != nil {
		return err
	}
	if e.was.Name != nil {
		was := e.was.Name.String()
		if err := change.Unless(&was, "name", e.set().Name.String(), e.ch.Name.String()); err != nil {
			return err
		}
	}
	e.set().Name = *e.ch.Name
	return nil
}

func (e *handoutEdit) place() error {
	if e.ch.Pocket == nil {
		return nil
	}
	pocket := *e.ch.Pocket
	if !e.cl.Plan.HasPocket(pocket) {
		return change.Refuse("pocket", "no-such-pocket")
	}
	if err := change.Unless(e.was.Pocket, "pocket", e.set().Pocket, pocket); err != nil {
		return err
	}
	e.set().Pocket = pocket
	return nil
}

func (e *handoutEdit) level() error {
	if e.ch.Level == nil {
		return nil
	}
	if l, ok := access.ParseLevel(*e.ch.Level); !ok || l < access.Read || l > access.Edit {
		return change.Refuse("level", "no-such-level")
	}
	if err := change.Unless(e.was.Level, "level", e.set().Level, *e.ch.Level); err != nil {
		return err
	}
	e.set().Level = *e.ch.Level
	return nil
}

// classmates says what students may do with each other's copies.
func (e *handoutEdit) classmates() error {
	if e.ch.Classmates == nil {
		return nil
	}
	now, to := cmp.Or(e.set().Classmates, access.Nothing.String()), *e.ch.Classmates
	l, ok := access.ParseLevel(to)
	if !ok || l > access.Comment {
		return change.Refuse("classmates", "no-such-level")
	}
	if l > access.Nothing && len(e.cl.Students)-len(e.cl.Out(*e.h)) > handout.MostClassmates {
		return change.TooMany("classmates", "too-many-classmates", handout.MostClassmates)
	}
	if err := change.Unless(e.was.Classmates, "classmates", now, to); err != nil {
		return err
	}
	if e.set().Classmates != "" || l > access.Nothing {
		e.set().Classmates = to
	}
	return nil
}

func (e *handoutEdit) choice() error {
	if e.ch.Choice == nil {
		return nil
	}
	if code, args := e.ch.Choice.Refused(); code != "" {
		return &change.Invalid{Field: "choice", Code: code, Args: args}
	}
	for i, cond := range e.ch.Choice.Conditions {
		if !cond.Whole() {
			return change.Refuse("choice", "condition-unfinished", "place", strconv.Itoa(i+1))
		}
	}
	if e.was.Choice != nil {
		was := change.Digest(e.was.Choice.Plain())
		if err := change.Unless(&was, "choice", change.Digest(e.set().Choice.Plain()), change.Digest(e.ch.Choice.Plain())); err != nil {
			return err
		}
	}
	e.set().Choice = *e.ch.Choice
	return nil
}

// picks takes students out or in by hand. Whom a condition keeps out is taken
// in against it.
func (e *handoutEdit) picks() error {
	s := e.set()
	s.Out, s.Choice.Ticked = maps.Clone(s.Out), maps.Clone(s.Choice.Ticked)
	if s.Out == nil {
		s.Out = map[string]string{}
	}
	if s.Choice.Ticked == nil {
		s.Choice.Ticked = map[string]bool{}
	}
	now := e.cl.Out(*e.h)
	for _, row := range sortedKeys(e.ch.Out) {
		why := e.ch.Out[row]
		if _, ok := e.cl.Student(row); !ok && why != "" {
			return change.Refuse("out", "no-such-student")
		}
		if was, said := e.was.Out[row]; said {
			if err := change.Unless(&was, "out", now[row], why); err != nil {
				return err
			}
		}
		switch why {
		case "":
			delete(s.Out, row)
			delete(s.Choice.Ticked, row)
			if why := e.cl.Out(*e.h)[row]; why == handout.ByCondition || why == handout.Unticked {
				s.Choice.Ticked[row] = true
			}
		case handout.SitsOut:
			s.Out[row] = why
		case handout.Unticked:
			s.Choice.Ticked[row] = false
		default:
			return change.Refuse("out", "no-such-reason")
		}
	}
	return nil
}

// own gives some students' copies what is theirs alone.
func (e *handoutEdit) own() error {
	if e.ch.Own == nil {
		return nil
	}
	s, to := e.set(), e.ch.Own
	if w := cmp.Or(s.Way, handout.EachName); w != handout.EachName && w != handout.LevelName {
		return change.Refuse("own", "not-own")
	}
	if to.Name != nil {
		if err := checkPattern(e.known, *to.Name); err != nil {
			return err
		}
	}
	if to.Pocket != nil && !e.cl.Plan.HasPocket(*to.Pocket) {
		return change.Refuse("pocket", "no-such-pocket")
	}
	s.Names, s.Pockets = maps.Clone(s.Names), maps.Clone(s.Pockets)
	if s.Names == nil {
		s.Names = map[string]naming.Pattern{}
	}
	if s.Pockets == nil {
		s.Pockets = map[string]string{}
	}
	for _, row := range to.Rows {
		if _, ok := e.cl.Student(row); !ok {
			return change.Refuse("own", "no-such-student")
		}
		if to.Alike {
			delete(s.Names, row)
			delete(s.Pockets, row)
		}
		if to.Name != nil {
			s.Names[row] = *to.Name
		}
		if to.Pocket != nil {
			s.Pockets[row] = *to.Pocket
		}
	}
	return nil
}

// wall is how a due time is written: the school's wall clock.
const wall = "2006-01-02T15:04"

func (e *handoutEdit) due() error {
	if e.ch.Due == nil {
		return nil
	}
	now := ""
	if !e.h.Due.IsZero() {
		now = e.h.Due.Format(wall)
	}
	if err := change.Unless(e.was.Due, "due", now, *e.ch.Due); err != nil {
		return err
	}
	e.h.Due = time.Time{}
	if *e.ch.Due == "" {
		return nil
	}
	t, err := time.Parse(wall, *e.ch.Due)
	if err != nil {
		return change.Refuse("due", "not-a-time")
	}
	e.h.Due = t
	return nil
}

// walls are the ways a time to send is written.
var walls = []string{wall, "2006-01-02T15:04:05"}

// send says when it is packed by itself; not in the past, nor once it is packed.
func (e *handoutEdit) send() error {
	if e.ch.Send == nil {
		return nil
	}
	if err := e.packed("send", *e.ch.Send == ""); err != nil {
		return err
	}
	if err := change.Unless(e.was.Send, "send", Written(e.h.Send), *e.ch.Send); err != nil {
		return err
	}
	e.h.Send, e.h.SendBy, e.h.SendProblem = time.Time{}, "", nil
	if *e.ch.Send == "" {
		return nil
	}
	for _, layout := range walls {
		if t, err := time.Parse(layout, *e.ch.Send); err == nil {
			if !momentOf(t, e.h.Zone).After(e.now) {
				return change.Refuse("send", "time-past")
			}
			e.h.Send, e.h.SendBy = t, e.by
			return nil
		}
	}
	return change.Refuse("send", "not-a-time")
}

// Written is a wall-clock time as it is written; empty for none.
func Written(t time.Time) string {
	switch {
	case t.IsZero():
		return ""
	case t.Second() != 0:
		return t.Format(walls[1])
	}
	return t.Format(wall)
}

func (e *handoutEdit) message() error {
	if e.ch.Message == nil {
		return nil
	}
	message := strings.TrimSpace(*e.ch.Message)
	if len(message) > mostMessage {
		return change.TooLong("message", mostMessage)
	}
	if err := change.Unless(e.was.Message, "message", e.set().Message, message); err != nil {
		return err
	}
	e.set().Message = message
	return nil
}

func (e *handoutEdit) instructions() error {
	if e.ch.Instructions == nil {
		return nil
	}
	to := strings.TrimSpace(*e.ch.Instructions)
	if len(to) > mostInstructions {
		return change.TooLong("instructions", mostInstructions)
	}
	if err := change.Unless(e.was.Instructions, "instructions", e.set().Instructions, to); err != nil {
		return err
	}
	e.set().Instructions = to
	return nil
}

// links are given as they are to be.
func (e *handoutEdit) links() error {
	if e.ch.Links == nil {
		return nil
	}
	if len(*e.ch.Links) > handout.MostLinks {
		return change.TooMany("links", "too-many-links", handout.MostLinks)
	}
	to := make([]handout.Link, len(*e.ch.Links))
	for i, l := range *e.ch.Links {
		to[i] = l.Tidy()
		if code := to[i].Problem(); code != "" {
			return change.Refuse("links", code, "place", strconv.Itoa(i+1), "most", strconv.Itoa(handout.MostAddress))
		}
	}
	if e.was.Links != nil {
		was := change.Digest(*e.was.Links)
		if err := change.Unless(&was, "links", change.Digest(append([]handout.Link{}, e.set().Links...)), change.Digest(to)); err != nil {
			return err
		}
	}
	e.set().Links = to
	return nil
}

func (e *handoutEdit) forParents() error {
	if e.ch.ForParents == nil {
		return nil
	}
	if err := change.UnlessSame(e.was.ForParents, "forParents", e.set().ForParents, *e.ch.ForParents); err != nil {
		return err
	}
	e.set().ForParents = *e.ch.ForParents
	return nil
}

// tell says of what its people are told by post.
func (e *handoutEdit) tell() error {
	if e.ch.Tell == nil {
		return nil
	}
	if !e.ch.Tell.Known() {
		return change.Refuse("tell", "no-such-choice")
	}
	way := e.set().Way
	now := string(way.Tells(e.set().Tell))
	was := (*string)(e.was.Tell)
	if err := change.Unless(was, "tell", now, string(way.Tells(*e.ch.Tell))); err != nil {
		return err
	}
	e.set().Tell = *e.ch.Tell
	return nil
}

// mail says in which words.
func (e *handoutEdit) mail() error {
	for _, x := range []struct {
		field   string
		to, was *telling.Text
		is      **telling.Text
		kind    telling.Kind
	}{{"mail", e.ch.Mail, e.was.Mail, &e.set().Mail, telling.Given}, {"mailChanged", e.ch.MailChanged, e.was.MailChanged, &e.set().MailChanged, telling.Changed}} {
		if x.to == nil {
			continue
		}
		to, err := checkText(x.field, *x.to)
		if err != nil {
			return err
		}
		if err := change.UnlessSame(x.was, x.field, MailOf(*e.h, x.kind), to); err != nil {
			return err
		}
		*x.is = nil
		if to != (telling.Text{}) && to != usualMail(*e.h, x.kind) {
			*x.is = &to
		}
	}
	return nil
}

// checkText checks what a message says.
func checkText(field string, t telling.Text) (telling.Text, error) {
	t.Subject, t.Body = tidy(t.Subject), strings.TrimSpace(strings.ReplaceAll(t.Body, "\r\n", "\n"))
	switch {
	case len(t.Subject) > telling.MostSubject:
		return t, change.TooLong(field, telling.MostSubject)
	case len(t.Body) > telling.MostBody:
		return t, change.TooLong(field, telling.MostBody)
	case t != (telling.Text{}) && (t.Subject == "" || t.Body == ""):
		return t, change.Refuse(field, "missing")
	}
	return t, nil
}

func checkPattern(known record.Vocabulary, p naming.Pattern) error {
	if len(p) == 0 || len(p) > 40 {
		return change.Refuse("name", "missing")
	}
	for _, part := range p {
		if part.Column != "" && !known.Has(part.Column) {
			return change.Refuse("name", "column-unknown", "column", part.Column.Label())
		}
		if len(part.Text) > mostPartText {
			return change.TooLong("name", mostPartText)
		}
	}
	return nil
}

// DueAt is the moment a handout is due: its wall-clock time in its own zone.
func DueAt(h handout.Handout) (time.Time, bool) {
	if h.Due.IsZero() {
		return time.Time{}, false
	}
	return momentOf(h.Due, h.Zone), true
}

// momentOf is the moment of a wall-clock time, written as UTC, in a zone. Of a time
// that comes twice it is the first; one that clocks leave out is as much later as they
// are put on. (What time.Date takes there differs from zone to zone.)
func momentOf(wall time.Time, name string) time.Time {
	zone, err := time.LoadLocation(name)
	if err != nil {
		zone = time.UTC
	}
	by := func(near time.Time) time.Time { // with the offset that holds then
		_, offset := near.In(zone).Zone()
		return wall.Add(-time.Duration(offset) * time.Second).In(zone)
	}
	before, after := by(wall.Add(-26*time.Hour)), by(wall.Add(26*time.Hour))
	if after.Format(time.DateTime) == wall.Format(time.DateTime) && before.Format(time.DateTime) != wall.Format(time.DateTime) {
		return after
	}
	return before
}
