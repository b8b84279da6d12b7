package seam

import (
	"cmp"
	"context"

	"golang.org/x/sync/errgroup"

	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/store"
)

// Picture reads a class from st.
func (c *House) Picture(ctx context.Context, st *store.Store, book *Known, class string) (*picture.Picture, error) {
	cl, err := c.ReadClass(ctx, st, book, class)
	if err != nil {
		return nil, err
	}
	coming, err := st.Coming(ctx, class)
	if err != nil {
		return nil, err
	}
	m, err := madeIn(ctx, st, class)
	if err != nil {
		return nil, err
	}
	return c.pictureOf(ctx, st, cl, m, coming)
}

// PictureNow reads a class as it is now.
func (c *House) PictureNow(ctx context.Context, class string) (*picture.Picture, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return nil, err
	}
	return c.Picture(ctx, c.Store, book, class)
}

// PictureFor reads of a class what the packing list of one handout is about: of what was made,
// the room's and the handout's own. So that costs no more with forty handouts than with four.
func (c *House) PictureFor(ctx context.Context, st *store.Store, book *Known, class, handout string) (*picture.Picture, error) {
	if handout == "" {
		return c.Picture(ctx, st, book, class)
	}
	cl, err := c.ReadClass(ctx, st, book, class)
	if err != nil {
		return nil, err
	}
	coming, err := st.Coming(ctx, class)
	if err != nil {
		return nil, err
	}
	entries, err := st.LedgerFor(ctx, class, handout)
	if err != nil {
		return nil, err
	}
	m := picture.MadeOf(entries)
	if m.Seen, err = st.ObservedFor(ctx, class, handout); err != nil {
		return nil, err
	}
	if m.Ended, err = st.Generations(ctx, class); err != nil {
		return nil, err
	}
	s, err := c.pictureOf(ctx, st, cl, m, coming)
	if err != nil {
		return nil, err
	}
	if h, ok := s.Handout(handout); ok {
		err = s.NameBeside(h, func(names []string) ([]ledger.Called, error) { return st.NamesLike(ctx, class, h.ID, names) })
	}
	return s, err
}

// pictureOf is a class with what was made in it.
func (c *House) pictureOf(ctx context.Context, st *store.Store, cl picture.Class, m *picture.Made,
	coming []ledger.Coming) (*picture.Picture, error) {
	sets, err := st.TeamSets(ctx, cl.ID)
	if err != nil {
		return nil, err
	}
	cl.Plan.Day = cmp.Or(cl.Plan.Day, c.Today())
	s := &picture.Picture{Today: c.Today(), Language: c.School().Language, Class: cl, Made: m, Coming: coming,
		Room: cl.ForRoom(c.RoomNames(), sets, m.Satchels), Templates: map[string]handout.Template{}, Known: cl.Vocabulary()}
	s.Room.Satchels = s.Plan.SatchelNames(s.Room)
	if s.Handouts, err = st.Handouts(ctx, cl.ID); err != nil {
		return nil, err
	}
	let, err := st.LetIn(ctx, cl.ID)
	if err != nil {
		return nil, err
	}
	s.LetIn = map[string]map[string][]string{}
	for _, l := range let {
		if s.LetIn[l.Handout] == nil {
			s.LetIn[l.Handout] = map[string][]string{}
		}
		s.LetIn[l.Handout][l.Row] = append(s.LetIn[l.Handout][l.Row], l.Mate)
	}
	if s.Headings, err = st.Headings(ctx, cl.ID); err != nil {
		return nil, err
	}
	if s.LeaveAsIs, err = st.LeaveAsIs(ctx, cl.ID); err != nil {
		return nil, err
	}
	if s.Decisions, err = st.Decisions(ctx, cl.ID); err != nil {
		return nil, err
	}
	formers, err := st.Formers(ctx, cl.ID)
	if err != nil {
		return nil, err
	}
	s.CameAlong(func(row string) bool { _, came := formers[row]; return came })
	templates, err := st.TemplatesOf(ctx, cl.ID)
	for _, t := range templates {
		s.Templates[t.ID] = t
	}
	if err != nil {
		return nil, err
	}
	s.NameAll()
	return s, nil
}

// madeIn reads what was made in a class: outside of a transaction, which does one
// thing after the other, all of it at the same time.
func madeIn(ctx context.Context, st *store.Store, class string) (*picture.Made, error) {
	var entries []ledger.Entry
	var rest picture.Made
	var all errgroup.Group
	if st.SQLTx() != nil {
		all.SetLimit(1)
	}
	all.Go(func() (err error) { entries, err = st.Ledger(ctx, class); return })
	all.Go(func() (err error) { rest.Seen, err = st.Observed(ctx, class); return })
	all.Go(func() (err error) {
		if rest.Ended, err = st.Generations(ctx, class); err == nil {
			rest.Stuck, err = st.StuckSteps(ctx, class)
		}
		return
	})
	if err := all.Wait(); err != nil {
		return nil, err
	}
	m := picture.MadeOf(entries)
	m.Seen, m.Ended, m.Stuck = rest.Seen, rest.Ended, rest.Stuck
	return m, nil
}
