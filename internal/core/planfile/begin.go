package planfile

import (
	"cmp"
	"slices"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/room"
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
		Classmates: said(s.Classmates), Passing: said(s.Passing), Tell: said(s.Tell), By: said(s.By), Teams: said(s.Teams),
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
