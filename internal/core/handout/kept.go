package handout

import (
	"encoding/json"
	"strings"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/pens"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/core/wall"
)

// A Sentence is what a handout is said to do, part by part, as it is kept.
type Sentence struct {
	Way       WayName           `json:"way,omitempty"` // empty: one each
	Documents []GivenDocument   `json:"documents"`
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
	Instructions string `json:"instructions,omitempty"`
	Links        []Link `json:"links,omitempty"`
	ForParents   bool   `json:"for_parents,omitempty"` // a notice that is meant for them
	// Tell says of what its people are told by post, Mail and MailChanged in which words;
	// nil: the usual ones.
	Tell        telling.When  `json:"tell,omitempty"`
	Mail        *telling.Text `json:"mail,omitempty"`
	MailChanged *telling.Text `json:"mail_changed,omitempty"`
	// Names and Pockets are those of single students' copies, by row, where they have
	// one of their own.
	Names   map[string]naming.Pattern `json:"names,omitempty"`
	Pockets map[string]string         `json:"pockets,omitempty"`
	// Levels are what single students may do, by row, where that isn't what the others may.
	Levels map[string]string `json:"levels,omitempty"`
	// Then is what happens to copies once it is due: ThenClose, or empty, as ever: they stay open.
	// Pens is what was said of that by hand, Hands what was said so of single rows.
	Then  string               `json:"then,omitempty"`
	Pens  *pens.Hand           `json:"pens,omitempty"`
	Hands map[string]pens.Hand `json:"hands,omitempty"`
	// Extra is until when single rows may write on, as wall-clock times in the handout's zone.
	Extra map[string]string `json:"extra,omitempty"`
	// Show is when everybody's copies are kept as they are then, to be looked at; empty: not by themselves.
	Show string `json:"show,omitempty"`
	Date string `json:"date"` // the handout's own [Date], fixed when first packed
}

// Usual is what a handout of a way says where nothing is said yet: students edit their copies,
// and read notices.
func Usual(w WayName) Sentence {
	s := Sentence{Way: w, Name: UsualNameOf(w), Level: access.Edit.String(), Out: map[string]string{}, Documents: []GivenDocument{}}
	switch w {
	case EachName:
		s.Way = "" // kept as nothing
	case NoticeName:
		s.Level = access.Read.String()
	}
	return s
}

// A Handout is one delivery of documents to a class.
type Handout struct {
	ID       string    `db:"id"`
	ClassID  string    `db:"class_id"`
	Title    string    `db:"title"`
	Settings Sentence  `db:"-"`
	Due      time.Time `db:"-"`       // a wall-clock time in Zone, written as UTC; zero: none
	Send     time.Time `db:"-"`       // when it is packed by itself, written as Due is; zero: not so
	SendBy   string    `db:"send_by"` // account
	// SendProblem is why it wasn't packed at its time.
	SendProblem *packing.Reason `db:"-"`
	Zone        string          `db:"zone"`
	CreatedAt   time.Time       `db:"created_at"`
	ChangedAt   time.Time       `db:"changed_at"`
	PackedAt    time.Time       `db:"-"`       // zero: not packed
	WithdrawnAt time.Time       `db:"-"`       // zero: not withdrawn
	Heading     string          `db:"heading"` // id of what it is under; empty: none
	// Standing is the extra time that rows of the class have in every handout.
	Standing map[string]pens.Extra `db:"-"`
	// Together is the same for handouts of several classes that are one; empty: it is alone.
	Together string `db:"together"`
}

// DueAt is the moment a handout is due, by the clocks of its zone; ok is false for none.
func (h Handout) DueAt() (at time.Time, ok bool) {
	if h.Due.IsZero() {
		return time.Time{}, false
	}
	return wall.Moment(h.Due, h.Zone), true
}

// SendAt is the moment it is packed by itself; ok is false where it isn't.
func (h Handout) SendAt() (at time.Time, ok bool) {
	if h.Send.IsZero() {
		return time.Time{}, false
	}
	return wall.Moment(h.Send, h.Zone), true
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
	own := h.Settings.Way == "" || h.Settings.Way == EachName || h.Settings.Way == LevelName
	return own && l >= access.Read
}

// Withdrawn reports whether it was taken back.
func (h Handout) Withdrawn() bool { return !h.WithdrawnAt.IsZero() }

// A GivenDocument is one that a handout gives. Its slot, counted from 1, is its own for
// ever; a name is that of its copies, where it isn't the handout's.
type GivenDocument struct {
	Slot     int            `json:"slot"`
	Template string         `json:"template"`
	Name     naming.Pattern `json:"name,omitempty"`
	For      string         `json:"for,omitempty"` // the level it is for
	// Plain leaves the columns that the document asks for in square brackets as they stand.
	Plain bool `json:"plain,omitempty"`
	// Only are the rows that it was given to beside what they had begun; none: all.
	Only []string `json:"only,omitempty"`
}

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

// Title is what a handout of it is called at first.
func (t Template) Title() string { return strings.TrimSuffix(t.Name, naming.Ending(t.Name)) }

// A Heading is what some of a class's handouts are under.
type Heading struct {
	ID     string `db:"id"`
	Title  string `db:"title"`
	Folded bool   `db:"folded"` // what is under it is put away
}
