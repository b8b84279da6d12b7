package planfile

import (
	"cmp"
	"slices"
	"strconv"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/core/wall"
)

// Change is what a handout that is begun is to be, in a class of a plan: of the templates the one
// of that name is given, and of the pockets too; where there is none, that part isn't said.
func (s Sentence) Change(plan room.Plan, templates []handout.Template) (handout.Change, error) {
	if level, ok := access.ParseLevel(s.Level); !ok || level < access.Read || level > access.Edit {
		return handout.Change{}, &Error{"level-unknown", map[string]string{"value": s.Level}}
	}
	way, pocket, documents := cmp.Or(s.Way, handout.EachName), "", []handout.GivenDocument{}
	if len(s.Called) == 0 {
		s.Called = handout.UsualNameOf(way)
	}
	for _, p := range plan.Pockets {
		if s.Pocket != "" && naming.Fold(p.Name) == naming.Fold(s.Pocket) {
			pocket = p.ID
		}
	}
	for i, d := range s.Documents {
		at := slices.IndexFunc(templates, func(t handout.Template) bool { return naming.Fold(t.Name) == naming.Fold(d.Template) })
		if at >= 0 {
			documents = append(documents, handout.GivenDocument{Template: templates[at].ID, Name: s.Names[i], For: d.For, Plain: d.Plain})
		}
	}
	return handout.Change{
		Title: &s.Title, Way: &way, Name: &s.Called, Level: &s.Level, Due: &s.Due, Message: &s.Message,
		Instructions: &s.Instructions, Links: &s.Links, ForParents: &s.ForParents, Choice: s.Choice,
		Pocket: &pocket, Documents: &documents, Mail: s.Mail, MailChanged: s.MailChanged,
		Then: said(s.Then), Classmates: said(s.Classmates), Passing: said(s.Passing), Tell: said(s.Tell), By: said(s.By), Teams: said(s.Teams),
	}, nil
}

// said is a part that was said; nil for one that is empty.
func said[T comparable](v T) *T {
	var nothing T
	if v == nothing {
		return nil
	}
	return &v
}

// A Handout is a handout's sentence as a file has it.
type Handout struct {
	Kind         string           `json:"kind"`
	Version      int              `json:"version"`
	Title        string           `json:"title"`
	Way          handout.WayName  `json:"way,omitempty"`      // empty: one each
	Template     string           `json:"template,omitempty"` // name of the document, where there is one and nothing else is said of it
	Documents    []Document       `json:"documents,omitempty"`
	By           string           `json:"by,omitempty"`    // column of the levels
	Teams        string           `json:"teams,omitempty"` // column of the teams
	Name         string           `json:"name"`
	Pocket       string           `json:"pocket,omitempty"` // by its name
	Level        string           `json:"level"`
	Due          string           `json:"due,omitempty"`  // wall-clock time, 2026-11-27T17:00
	Then         string           `json:"then,omitempty"` // once it is due: close, or empty: copies stay open
	Message      string           `json:"message,omitempty"`
	Classmates   string           `json:"classmates,omitempty"`
	Passing      string           `json:"passing,omitempty"`
	Instructions string           `json:"instructions,omitempty"`
	Links        []handout.Link   `json:"links,omitempty"`
	ForParents   bool             `json:"forParents,omitempty"`
	Tell         telling.When     `json:"tell,omitempty"` // of what its people are told by post, in which words
	Mail         *telling.Text    `json:"mail,omitempty"`
	MailChanged  *telling.Text    `json:"mailChanged,omitempty"`
	Choice       *choosing.Choice `json:"choice,omitempty"`
}

// A Document is one that a handout gives.
type Document struct {
	Template string `json:"template"` // its name
	Name     string `json:"name,omitempty"`
	For      string `json:"for,omitempty"`   // the level it is for
	Plain    bool   `json:"plain,omitempty"` // the columns it asks for stay as they stand
}

// A Sentence is a handout's file that was read, with its names and columns.
type Sentence struct {
	Handout
	Called    naming.Pattern
	Names     []naming.Pattern // of the documents' copies, where they have their own
	By, Teams record.Field
}

// WriteHandout writes a handout's sentence as a file. Who was ticked by hand is of
// one class and is left out.
func WriteHandout(f Handout) []byte {
	f.Kind, f.Version = HandoutKind, version
	if len(f.Documents) == 1 && f.Documents[0] == (Document{Template: f.Documents[0].Template}) {
		f.Template, f.Documents = f.Documents[0].Template, nil
	}
	if f.Way == handout.EachName {
		f.Way = ""
	}
	if f.Choice != nil {
		c := *f.Choice
		c.Ticked, c.Picked = nil, false
		if f.Choice = &c; len(c.Conditions) == 0 {
			f.Choice = nil
		}
	}
	return encode(f)
}

// ReadHandout reads a handout's file. Its one template is among its documents.
func (r *Reader) ReadHandout(b []byte) (Sentence, error) {
	var f Sentence
	if err := decode(b, &f.Handout, HandoutKind, "file-not-handout"); err != nil {
		return f, err
	}
	if f.Template != "" {
		f.Documents, f.Template = append([]Document{{Template: f.Template}}, f.Documents...), ""
	}
	if f.Way != "" && !f.Way.Known() {
		return f, &Error{"no-such-way", nil}
	}
	if len(f.Documents) > handout.MostDocuments {
		return f, &Error{"too-many-documents", map[string]string{"most": strconv.Itoa(handout.MostDocuments)}}
	}
	var err error
	if f.Called, err = r.pattern(f.Name); err != nil {
		return f, err
	}
	for _, d := range f.Documents {
		name, err := r.pattern(d.Name)
		if err != nil {
			return f, err
		}
		f.Names = append(f.Names, name)
	}
	if f.Handout.By != "" {
		f.By, _ = r.column(f.Handout.By)
	}
	if f.Handout.Teams != "" {
		f.Teams, _ = r.column(f.Handout.Teams)
	}
	if f.Choice == nil {
		return f, nil
	}
	if code, args := f.Choice.Refused(); code != "" {
		return f, &Error{code, args}
	}
	kept := []choosing.Condition{} // without those on columns for which nothing stands
	for _, c := range f.Choice.Conditions {
		if c.Column, _ = r.column(c.Column.Label()); c.Column != "" {
			kept = append(kept, c)
		}
	}
	f.Choice.Conditions = kept
	return f, nil
}

// Of is the file of a handout in a class of a plan; given are its templates by id. What is of this
// class alone, such as who was ticked by hand, is left out.
func Of(h handout.Handout, plan room.Plan, given map[string]handout.Template) Handout {
	s := h.Settings
	f := Handout{
		Title: h.Title, Way: s.Way, Name: s.Name.String(), Level: s.Level, Due: wall.Written(h.Due), Message: s.Message,
		Then: s.Then, Classmates: s.Classmates, Passing: s.Passing, Instructions: s.Instructions, Links: s.Links, ForParents: s.ForParents,
		Tell: s.Tell, Mail: s.Mail, MailChanged: s.MailChanged,
	}
	if len(s.Choice.Conditions) > 0 {
		f.Choice = &s.Choice
	}
	if p, there := plan.Pocket(s.Pocket); there {
		f.Pocket = p.Name
	}
	switch s.Way {
	case handout.LevelName:
		f.By = s.By.Label()
	case handout.TeamName:
		f.Teams = s.Teams.Label()
	}
	for _, d := range s.Documents {
		if len(d.Only) == 0 {
			f.Documents = append(f.Documents, Document{Template: given[d.Template].Name, Name: d.Name.String(), For: d.For, Plain: d.Plain})
		}
	}
	return f
}
