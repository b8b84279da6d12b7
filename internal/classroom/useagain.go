package classroom

import (
	"cmp"
	"context"
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/store"
)

// What of a handout doesn't come along to another class.
const (
	WithoutDocuments = "documents" // some are another teacher's
	WithoutName      = "name"      // it has a column the class hasn't
	WithoutPocket    = "pocket"    // the class has none of that name
	WithoutColumn    = "column"    // that says levels or teams
	WithoutChoice    = "choice"    // conditions on columns the class hasn't
)

// UseAgain begins a handout in a class, the same or another that the account teaches,
// as an earlier one is: everything but its times and who was picked by hand. without
// says what can't come along, and is to be said anew there.
func (c *Handouts) UseAgain(ctx context.Context, by, class, id, to string) (begun string, without []string, err error) {
	h, err := c.Store.Handout(ctx, class, id)
	if err != nil {
		return "", nil, notFound(err)
	}
	keeper, err := c.teaches(ctx, by, to)
	if err == nil && keeper == "" {
		err = ErrNotFound
	}
	if err != nil {
		return "", nil, notFound(err)
	}
	from, err := c.Store.Class(ctx, class)
	if err != nil {
		return "", nil, notFound(err)
	}
	book, err := c.book(ctx)
	if err != nil {
		return "", nil, err
	}
	out := struct {
		ID      string
		Without []string
	}{ID: store.NewID()}
	act := c.act(ctx, by, "handout-begun", map[string]string{"handout": out.ID, "title": h.Title, "like": id}, to)
	err = c.Store.Change(ctx, act, &out, func(tx *store.Store) error {
		cl, err := c.class(ctx, tx, book, to)
		if err != nil {
			return err
		}
		templates, err := documentsFor(ctx, tx, h.Settings.Documents)
		if err != nil {
			return err
		}
		now := c.Now()
		next := handout.Handout{ID: out.ID, ClassID: to, Title: h.Title, Zone: c.School().Zone.String(), CreatedAt: now, ChangedAt: now}
		next.Settings, out.Without = cl.fitting(h.Settings, from.Plan, func(d handout.GivenDocument) bool {
			return templates[d.Template].Account == by && !templates[d.Template].Removed
		})
		if next.Settings.Way == handout.TeamName {
			if err := c.addTeams(ctx, tx, cl, cl.Plan, next.Settings.Teams); err != nil {
				return err
			}
		}
		return begin(ctx, tx, next)
	})
	return out.ID, out.Without, notFound(err)
}

// begin keeps a handout that is new, where there is room for one more.
func begin(ctx context.Context, tx *store.Store, h handout.Handout) error {
	n, err := tx.CountHandouts(ctx, h.ClassID)
	if err != nil {
		return err
	}
	if n >= mostHandouts {
		return change.TooMany("handout", "too-many-handouts", mostHandouts)
	}
	return tx.SaveHandout(ctx, h)
}

// fitting are settings as they can be in the class, and what is lost of them. plan is
// that of the class they come from; mine says of a document whether it may come along.
func (c Class) fitting(s handout.Sentence, plan room.Plan, mine func(handout.GivenDocument) bool) (handout.Sentence, []string) {
	var without []string
	known := c.Vocabulary()
	lacks := func(p naming.Pattern) bool {
		return slices.ContainsFunc(p, func(x naming.Part) bool { return x.Column != "" && !known.Has(x.Column) })
	}
	lose := func(what string) {
		if !slices.Contains(without, what) {
			without = append(without, what)
		}
	}
	out := handout.Sentence{Way: s.Way, By: s.By, Teams: s.Teams, Name: s.Name, Level: s.Level, Classmates: s.Classmates, Passing: s.Passing, Message: s.Message, Instructions: s.Instructions, Links: s.Links, ForParents: s.ForParents, Tell: s.Tell, Mail: s.Mail, MailChanged: s.MailChanged, Out: map[string]string{}, Documents: []handout.GivenDocument{}}
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
		out.Name = handout.UsualNameOf(s.Way)
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
	if p, there := plan.Pocket(s.Pocket); there {
		if out.Pocket = pocketLike(c.Plan, p.Name); out.Pocket == "" {
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
