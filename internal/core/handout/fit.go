package handout

import (
	"cmp"
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
)

// Alike is a handout o of another class with what it has in common with h. Its own are who
// is in, what single students have of their own, what was given beside, and the pocket where
// its class has none of that name. plan is that of h's class, there that of o's.
func Alike(h, o Handout, plan, there room.Plan) Handout {
	own := o.Settings
	if !o.Due.Equal(h.Due) || own.Then != h.Settings.Then { // a new time takes the place of what was said by hand
		own.Pens, own.Hands = nil, nil
	}
	o.Settings = h.Settings
	o.Title, o.Due, o.Zone = h.Title, h.Due, h.Zone
	o.Settings.Out, o.Settings.Choice, o.Settings.Date, o.Settings.Names, o.Settings.Pockets = own.Out, own.Choice,
		own.Date, own.Names, own.Pockets
	o.Settings.Pens, o.Settings.Hands, o.Settings.Extra, o.Settings.Levels = own.Pens, own.Hands, own.Extra, own.Levels
	o.Settings.Show = own.Show
	o.Settings.Documents = []GivenDocument{}
	for _, d := range h.Settings.Documents {
		if len(d.Only) == 0 {
			o.Settings.Documents = append(o.Settings.Documents, d)
		}
	}
	for _, d := range own.Documents {
		if len(d.Only) > 0 {
			o.Settings.Documents = append(o.Settings.Documents, d)
		}
	}
	o.Settings.Pocket = ""
	if p, has := plan.Pocket(h.Settings.Pocket); has {
		o.Settings.Pocket = there.PocketOf(p.Name)
	}
	return o
}

// Same reports whether nothing that a teacher says about a handout is another.
func Same(a, b Handout) bool {
	return a.Title == b.Title && a.Due.Equal(b.Due) && a.Zone == b.Zone && a.Send.Equal(b.Send) &&
		change.Digest(a.Settings) == change.Digest(b.Settings)
}

// Becomes says why a handout of a class, whose name it is told with, can't become next: what
// is packed there keeps its way and its documents, and classmates may be too many.
func (h Handout) Becomes(next Handout, class string, students []choosing.Student) error {
	was, to := h.Settings, next.Settings
	gone := func(d GivenDocument) bool {
		return !slices.ContainsFunc(to.Documents, func(x GivenDocument) bool { return x.Slot == d.Slot && x.Template == d.Template })
	}
	switch {
	case h.Fixed() && (was.Way != to.Way || was.By != to.By || was.Teams != to.Teams):
		return change.Refuse("way", "packed-there", "class", class)
	case h.Fixed() && slices.ContainsFunc(was.Documents, gone):
		return change.Refuse("documents", "packed-there", "class", class)
	case next.MatesRead() && was.Classmates != to.Classmates:
		return next.crowd(students)
	}
	return nil
}

// What of a handout doesn't come along to another class.
const (
	WithoutDocuments = "documents" // some are another teacher's
	WithoutName      = "name"      // it has a column the class hasn't
	WithoutPocket    = "pocket"    // the class has none of that name
	WithoutColumn    = "column"    // that says levels or teams
	WithoutChoice    = "choice"    // conditions on columns the class hasn't
)

// Again are the settings with which a handout begins in a class, as they are where it was:
// all but its times and who was picked by hand. from is the plan of the class it was in, to
// and known are the plan and columns of the other; mine says of a document whether it may come
// along. without says what can't, and is to be said again there.
func (s Sentence) Again(from, to room.Plan, known record.Vocabulary, mine func(GivenDocument) bool) (out Sentence, without []string) {
	lacks := func(p naming.Pattern) bool {
		return slices.ContainsFunc(p, func(x naming.Part) bool { return x.Column != "" && !known.Has(x.Column) })
	}
	lose := func(what string) {
		if !slices.Contains(without, what) {
			without = append(without, what)
		}
	}
	out = s
	out.Out, out.Names, out.Pockets, out.Pocket, out.Date = map[string]string{}, nil, nil, "", ""
	out.Pens, out.Hands, out.Extra, out.Levels, out.Show = nil, nil, nil, nil, ""
	out.Documents = []GivenDocument{}
	for _, d := range s.Documents {
		if len(d.Only) > 0 {
			continue
		}
		if !mine(d) {
			lose(WithoutDocuments)
			continue
		}
		if lacks(d.Name) {
			d.Name = nil
			lose(WithoutName)
		}
		d.Slot = len(out.Documents) + 1
		out.Documents = append(out.Documents, d)
	}
	if lacks(out.Name) {
		out.Name = UsualNameOf(s.Way)
		lose(WithoutName)
	}
	for _, x := range []struct {
		field *record.Field
		usual record.Field
	}{{&out.By, record.Level}, {&out.Teams, record.Team}} {
		if *x.field != "" && !known.Has(*x.field) {
			*x.field = x.usual
			lose(WithoutColumn)
		}
	}
	if p, there := from.Pocket(s.Pocket); there {
		if out.Pocket = to.PocketOf(p.Name); out.Pocket == "" {
			lose(WithoutPocket)
		}
	}
	out.Choice = choosing.Choice{Any: s.Choice.Any}
	for _, cond := range s.Choice.Conditions {
		if known.Has(cmp.Or(cond.Column, record.Family)) {
			out.Choice.Conditions = append(out.Choice.Conditions, cond)
		} else {
			lose(WithoutChoice)
		}
	}
	return out, without
}
