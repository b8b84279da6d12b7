package handout

import (
	"cmp"
	"maps"
	"slices"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/telling"
)

// How long what is typed into a handout may be, in bytes.
const (
	MostTitle        = 200
	MostMessage      = 2000
	MostInstructions = 4000
)

// A Change is what a teacher changes about a handout; nil parts stay.
type Change struct {
	Title        *string           `json:"title,omitempty"`
	Way          *WayName          `json:"way,omitempty"`
	Documents    *[]GivenDocument  `json:"documents,omitempty"` // a new one has slot 0
	By           *record.Field     `json:"by,omitempty"`
	Teams        *record.Field     `json:"teams,omitempty"`
	Name         *naming.Pattern   `json:"name,omitempty"`
	Pocket       *string           `json:"pocket,omitempty"`
	Level        *string           `json:"level,omitempty"`
	Classmates   *string           `json:"classmates,omitempty"` // nothing, read or comment
	Passing      *string           `json:"passing,omitempty"`    // nothing, read, comment or edit
	Out          map[string]string `json:"out,omitempty"`        // row → reason, or "" to take in again
	Due          *string           `json:"due,omitempty"`        // wall-clock "2006-01-02T15:04", or "" for none
	Then         *string           `json:"then,omitempty"`       // once it is due: "close", or "" to stay open
	Send         *string           `json:"send,omitempty"`       // the same, maybe with seconds
	Message      *string           `json:"message,omitempty"`
	Instructions *string           `json:"instructions,omitempty"`
	Links        *[]Link           `json:"links,omitempty"`
	ForParents   *bool             `json:"forParents,omitempty"`
	Tell         *telling.When     `json:"tell,omitempty"`
	Mail         *telling.Text     `json:"mail,omitempty"`        // without a word: the usual one
	MailChanged  *telling.Text     `json:"mailChanged,omitempty"` // the same
	Choice       *choosing.Choice  `json:"choice,omitempty"`
	Own          *OwnParts         `json:"own,omitempty"`
	Extra        *ExtraTime        `json:"extra,omitempty"`
	Show         *string           `json:"show,omitempty"` // wall-clock "2006-01-02T15:04", or "" for none
}

// OwnParts give some students' copies a name or pocket of their own, or let those students do
// something else with them than the others; Alike takes all of that away. Nil parts stay.
type OwnParts struct {
	Rows   []string        `json:"rows"`
	Name   *naming.Pattern `json:"name,omitempty"`
	Pocket *string         `json:"pocket,omitempty"`
	Level  *string         `json:"level,omitempty"` // what all others may: none of their own
	Alike  bool            `json:"alike,omitempty"`
}

// Common reports whether a change is about what a handout's classes have in common: all
// but who is in, and what single students have of their own.
func (ch Change) Common() bool {
	ch.Choice, ch.Out, ch.Own, ch.Extra, ch.Show = nil, nil, nil, nil, nil
	return change.Digest(ch) != "{}"
}

// An Edit is a change with, of what it changes, the values that were looked at.
type Edit struct{ To, Was Change }

// A Setting is what a change of a handout asks about what is around it.
type Setting struct {
	Plan      room.Plan           // of its class
	Students  []choosing.Student  // of its class
	Known     record.Vocabulary   // the columns of all the classes it is for
	Slots     int                 // the highest slot that any of those has
	Templates map[string]Template // of the documents that it is to give, by id
	By        string              // the account that changes it
	Now       time.Time
}

// Of returns a handout as it is once it is changed. The error is a *change.Invalid where
// something can't be so, and a *change.Changed where somebody changed it since it was looked
// at. What is packed keeps its way and its documents, to which more can come.
func (e Edit) Of(h Handout, at Setting) (Handout, error) {
	ed := editing{e, &h, at}
	for _, part := range []func() error{ed.title, ed.way, ed.columns, ed.documents, ed.name, ed.place, ed.level,
		ed.classmates, ed.passing, ed.choice, ed.picks, ed.own, ed.due, ed.then, ed.extra, ed.show,
		ed.send, ed.message, ed.instructions, ed.links,
		ed.forParents, ed.tell, ed.mail} {
		if err := part(); err != nil {
			return h, err
		}
	}
	return h, nil
}

// editing is a handout while it is changed, part by part.
type editing struct {
	Edit
	h *Handout
	Setting
}

func (e editing) set() *Sentence { return &e.h.Settings }

func (e editing) there(row string) bool {
	return slices.ContainsFunc(e.Students, func(s choosing.Student) bool { return s.Row == row })
}

// packed refuses to change what is fixed once the handout is packed.
func (e editing) packed(field string, same bool) error {
	if e.h.Fixed() && !same {
		return change.Refuse(field, "packed-already")
	}
	return nil
}

func (e editing) title() error {
	if e.To.Title == nil {
		return nil
	}
	title := naming.Tidy(*e.To.Title)
	if len(title) > MostTitle {
		return change.TooLong("title", MostTitle)
	}
	return change.Put(e.Was.Title, "title", &e.h.Title, title)
}

// way changes how it is handed out. Names that nobody chose follow.
func (e editing) way() error {
	if e.To.Way == nil {
		return nil
	}
	s, now, to := e.set(), cmp.Or(e.set().Way, EachName), *e.To.Way
	if !to.Known() {
		return change.Refuse("way", "no-such-way")
	}
	if err := e.packed("way", now == to); err != nil {
		return err
	}
	if err := change.Unless(e.Was.Way, "way", now, to); err != nil {
		return err
	}
	if s.Name.String() == UsualNameOf(now).String() {
		s.Name = UsualNameOf(to)
	}
	s.Way = to
	if to == LevelName && s.By == "" {
		s.By = record.Level
	}
	if to == TeamName && s.Teams == "" {
		s.Teams = record.Team
	}
	return nil
}

// columns are those that say a student's level and team.
func (e editing) columns() error {
	for _, x := range []struct {
		field        string
		to, was, now *record.Field
	}{{"by", e.To.By, e.Was.By, &e.set().By}, {"teams", e.To.Teams, e.Was.Teams, &e.set().Teams}} {
		if x.to == nil {
			continue
		}
		if x.to.Own() || !e.Known.Has(*x.to) {
			return change.Refuse(x.field, "column-unknown", "column", x.to.Label())
		}
		if err := e.packed(x.field, *x.to == *x.now); err != nil {
			return err
		}
		if err := change.Put(x.was, x.field, x.now, *x.to); err != nil {
			return err
		}
	}
	return nil
}

// documents are given as they are to be; new ones have slots above all others, or are
// given them. What is packed keeps those it has.
func (e editing) documents() error {
	if e.To.Documents == nil {
		return nil
	}
	now, to := e.set().Documents, slices.Clone(*e.To.Documents)
	if e.Was.Documents != nil {
		was := change.Digest(forAll(*e.Was.Documents))
		if err := change.Unless(&was, "documents", change.Digest(forAll(now)), change.Digest(forAll(to))); err != nil {
			return err
		}
	}
	slot := e.Slots
	had := map[int]GivenDocument{}
	for _, d := range now {
		had[d.Slot], slot = d, max(slot, d.Slot)
	}
	for i := range to {
		d, before := &to[i], had[to[i].Slot]
		if err := e.document(d, before); err != nil {
			return err
		}
		switch {
		case d.Slot > slot && d.Slot <= slot+MostDocuments:
			slot = d.Slot
		case d.Slot > slot:
			return change.Refuse("documents", "no-such-template")
		case before.Template == "": // new, whatever it was called
			slot++
			d.Slot = slot
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
		e.h.Title = e.Templates[to[0].Template].Title()
	}
	return nil
}

// document checks one of them by itself; before is what its slot has now.
func (e editing) document(d *GivenDocument, before GivenDocument) error {
	if len(d.Name) > 0 {
		if err := checkName(e.Known, d.Name); err != nil {
			return err
		}
	}
	d.For, d.Only = naming.Tidy(d.For), before.Only // whom it was given to beside isn't said here
	if len(d.For) > naming.MostText {
		return change.TooLong("documents", naming.MostText)
	}
	if t := e.Templates[d.Template]; before.Template != d.Template && (t.Account != e.By || t.Removed) {
		return change.Refuse("documents", "no-such-template")
	}
	return nil
}

// forAll are documents as a page says them: without whom alone they are for.
func forAll(documents []GivenDocument) []GivenDocument {
	out := slices.Clone(documents)
	for i := range out {
		out[i].Only = nil
	}
	return out
}

func (e editing) name() error {
	if e.To.Name == nil {
		return nil
	}
	if err := checkName(e.Known, *e.To.Name); err != nil {
		return err
	}
	if e.Was.Name != nil {
		was := e.Was.Name.String()
		if err := change.Unless(&was, "name", e.set().Name.String(), e.To.Name.String()); err != nil {
			return err
		}
	}
	e.set().Name = *e.To.Name
	return nil
}

func checkName(known record.Vocabulary, p naming.Pattern) error {
	if len(p) == 0 {
		return change.Refuse("name", "missing")
	}
	for _, part := range p {
		if part.Column != "" && !known.Has(part.Column) {
			return change.Refuse("name", "column-unknown", "column", part.Column.Label())
		}
	}
	return p.Bounded("name")
}

func (e editing) place() error {
	if e.To.Pocket == nil {
		return nil
	}
	if !e.Plan.HasPocket(*e.To.Pocket) {
		return change.Refuse("pocket", "no-such-pocket")
	}
	return change.Put(e.Was.Pocket, "pocket", &e.set().Pocket, *e.To.Pocket)
}

// own gives some students' copies what is theirs alone.
func (e editing) own() error {
	if e.To.Own == nil {
		return nil
	}
	s, to := e.set(), e.To.Own
	level := to.Name == nil && to.Pocket == nil && (to.Level != nil || to.Alike) // which one can have of what several have
	if w := cmp.Or(s.Way, EachName); w != EachName && w != LevelName && (!level || w == NoticeName) {
		return change.Refuse("own", "not-own")
	}
	if to.Level != nil {
		if err := levelKnown(*to.Level); err != nil {
			return err
		}
	}
	if to.Name != nil {
		if err := checkName(e.Known, *to.Name); err != nil {
			return err
		}
	}
	if to.Pocket != nil && !e.Plan.HasPocket(*to.Pocket) {
		return change.Refuse("pocket", "no-such-pocket")
	}
	s.Names, s.Pockets, s.Levels = cloned(s.Names), cloned(s.Pockets), cloned(s.Levels)
	for _, row := range to.Rows {
		if !e.there(row) {
			return change.Refuse("own", "no-such-student")
		}
		if to.Alike {
			delete(s.Names, row)
			delete(s.Pockets, row)
			delete(s.Levels, row)
		}
		if to.Name != nil {
			s.Names[row] = *to.Name
		}
		if to.Pocket != nil {
			s.Pockets[row] = *to.Pocket
		}
		if to.Level != nil {
			if delete(s.Levels, row); *to.Level != s.Level {
				s.Levels[row] = *to.Level
			}
		}
	}
	return nil
}

// cloned is a copy of a map that can be written to.
func cloned[K comparable, V any](m map[K]V) map[K]V {
	if m == nil {
		return map[K]V{}
	}
	return maps.Clone(m)
}
