package pack

import (
	"context"
	"errors"
	"slices"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/lists"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/wall"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
	"jollysatchel/internal/store/kept"
	"jollysatchel/internal/usecase/seam"
)

// now reads a class, with what its lists are about looked at before. Where the
// cupboard doesn't answer, lists are shown of what was last seen; nothing is
// packed of that.
func (c *Packing) now(ctx context.Context, class, handout string) (*picture.Picture, error) {
	if err := c.Observe(ctx, class, handout); err != nil && !errors.Is(err, cupboard.ErrUnavailable) {
		return nil, err
	}
	return c.PictureNow(ctx, class)
}

// RoomList is the packing list of the class's room, with what is to be changed
// about the copies of every packed handout, as those were seen last.
func (c *Packing) RoomList(ctx context.Context, class string) (packing.List, error) {
	r, err := c.looked(ctx, class)
	if err != nil {
		return packing.List{}, err
	}
	return r.RoomNow(), nil
}

// looked is a class with the things of its room looked at before: what is computed of it is
// computed once for all who ask.
func (c *Packing) looked(ctx context.Context, class string) (*seam.Reading, error) {
	if err := c.Observe(ctx, class, store.RoomAlone); err != nil && !errors.Is(err, cupboard.ErrUnavailable) {
		return nil, err
	}
	return c.Reading(ctx, class)
}

// HandoutList is the packing list of a handout with what it needs of the room.
func (c *Packing) HandoutList(ctx context.Context, class string, h handout.Handout) (packing.List, error) {
	if err := c.Observe(ctx, class, h.ID); err != nil && !errors.Is(err, cupboard.ErrUnavailable) {
		return packing.List{}, err
	}
	return c.HandoutListSeen(ctx, class, h)
}

// HandoutListSeen is HandoutList of what was last seen in the cupboard, without asking it:
// for a page that asked when it was opened, after each change on it. Packing asks.
func (c *Packing) HandoutListSeen(ctx context.Context, class string, h handout.Handout) (packing.List, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return packing.List{}, err
	}
	s, err := c.PictureFor(ctx, c.Store, book, class, h.ID)
	if err != nil {
		return packing.List{}, seam.NotFound(err)
	}
	return s.HandoutList(h), nil
}

// Wanted says what is wanted now of what a run is about. It asks no cupboard.
func (c *Packing) Wanted(ctx context.Context, r ledger.Run) (map[packing.Key]packing.Wanted, int64, error) {
	s, err := c.PictureNow(ctx, r.ClassID)
	if err != nil {
		return nil, 0, err
	}
	h, ok := s.Handout(r.HandoutID)
	if !ok || !h.WithdrawnAt.IsZero() { // a run that goes on makes nothing of it any more
		return s.Wanted(nil), s.Wants, nil
	}
	return s.Wanted(&h), s.Wants, nil
}

// A Part is what of a packing list is to be packed. Seen is the digest of the
// list that was looked at; a list that does something else by now is refused.
type Part struct {
	packing.Part
	Seen string
	send string // where it is packed by itself: only while it is to go out then
}

// Pack carries a packing list out as a run: its lines to pack are waiting, its
// lines that need fixing stand stuck among them, to be fixed there; lines to
// change are taken in where they were ticked. handout is empty for the room.
func (c *Packing) Pack(ctx context.Context, by, class, handout string, part Part) (ledger.Run, error) {
	if err := c.Observe(ctx, class, handout); err != nil {
		return ledger.Run{}, err
	}
	book, err := c.Book(ctx)
	if err != nil {
		return ledger.Run{}, err
	}
	id := store.NewID()
	act := c.Act(ctx, by, "packed",
		map[string]any{"run": id, "handout": handout, "rows": part.Rows, "changes": part.Changes, "anew": part.Anew}, class)
	err = c.Store.Change(ctx, act, &id, func(tx *store.Store) error {
		return c.packNow(ctx, tx, book, id, by, class, handout, part)
	})
	if err != nil {
		return ledger.Run{}, seam.NotFound(err)
	}
	return c.Store.Run(ctx, id)
}

// packNow makes the run of what the list does now, with the class held.
func (c *Packing) packNow(ctx context.Context, tx *store.Store, book *seam.Known, id, by, class, handout string, part Part) error {
	if err := seam.KeepLinks(ctx, tx, book, class); err != nil {
		return err
	}
	s, err := c.PictureFor(ctx, tx, book, class, handout)
	if err != nil {
		return err
	}
	run := ledger.Run{ID: id, ClassID: s.ID, State: ledger.RunPacking, StartedBy: by, StartedAt: c.Now()}
	if err := c.fixDay(ctx, tx, class); err != nil {
		return err
	}
	if handout == "" {
		l := s.RoomList()
		if part.Seen != "" && part.Seen != l.Digest() {
			return &change.Changed{Field: "list"}
		}
		rows, err := c.relink(ctx, tx, s, book, by, l, part.Changes)
		if err != nil {
			return err
		}
		if len(rows) > 0 {
			if s, err = c.Picture(ctx, tx, book, class); err != nil {
				return err
			}
			l = s.RoomList(rows...)
			part.Changes = append(part.Changes, l.Following(rows, s.Former(rows))...)
		}
		return c.enqueue(ctx, tx, run, l, part)
	}
	h, ok := s.Handout(handout)
	if !ok {
		return seam.ErrNotFound
	}
	if part.send != "" && (h.Packed() || wall.Written(h.Send) != part.send) {
		return errNotNow
	}
	if err := ready(h); err != nil {
		return err
	}
	run.Title, run.HandoutID = h.Title, h.ID
	l := s.HandoutList(h)
	if part.Seen != "" && part.Seen != l.Digest() {
		return &change.Changed{Field: "list"}
	}
	if err := c.enqueue(ctx, tx, run, l, part); err != nil {
		return err
	}
	if err := tx.InsertStood(ctx, class, h.ID, s.Stood(store.NewID(), by, c.Now(), l)); err != nil {
		return err
	}
	if h.Settings.Date == "" {
		h.Settings.Date = run.StartedAt.In(c.School().Zone).Format(time.DateOnly)
		if err := tx.SaveHandout(ctx, h); err != nil {
			return err
		}
	}
	return tx.MarkPacked(ctx, h.ID, run.StartedAt)
}

// fixDay fixes the room's own day where it is packed for the first time.
func (c *Packing) fixDay(ctx context.Context, tx *store.Store, class string) error {
	cl, err := tx.Class(ctx, class)
	if err != nil || cl.Plan.Day != "" {
		return err
	}
	cl.Plan.Day = c.Today()
	return tx.SavePlan(ctx, class, cl.Plan)
}

// relink links the rows whose line is ticked to the accounts their addresses
// belong to, and returns the rows.
func (c *Packing) relink(ctx context.Context, tx *store.Store, s *picture.Picture, book *seam.Known, by string,
	l packing.List, ticked []string) ([]string, error) {
	var rows []string
	var put []classes.Row
	for _, line := range l.Lines {
		if line.Step.Act != packing.Relink || !slices.Contains(ticked, line.Step.String()) {
			continue
		}
		st, ok := s.Student(line.Wanted.Key.Whom.Row)
		if !ok {
			continue
		}
		row := st.Row
		row.Account, row.LinkedBy = st.Relink, row.Address
		put, rows = append(put, row), append(rows, row.ID)
	}
	if len(rows) == 0 {
		return nil, nil
	}
	if err := tx.SaveRows(ctx, s.ID, put); err != nil {
		return nil, err
	}
	var changes []lists.RowChange
	for _, row := range put {
		state := row.State()
		changes = append(changes, lists.RowChange{Row: row.ID, Before: &state, After: &state})
	}
	return rows, tx.InsertHistory(ctx,
		kept.HistoryEntry{ID: store.NewID(), ClassID: s.ID, Batch: store.NewID(), At: c.Now(), Account: by, Kind: "relinked", Changes: changes})
}

func (c *Packing) enqueue(ctx context.Context, tx *store.Store, run ledger.Run, l packing.List, part Part) error {
	steps := l.Steps(part.Part)
	if !slices.ContainsFunc(steps, func(s packing.Step) bool { return s.State == packing.Waiting }) {
		return change.Refuse("list", "nothing-to-pack")
	}
	run.LeftOut = l.Counts()[packing.LeftOut]
	return c.packer.Enqueue(ctx, tx, run, steps)
}

// ready checks that a handout can be packed.
func ready(h handout.Handout) error {
	switch {
	case !h.WithdrawnAt.IsZero():
		return change.Refuse("handout", "withdrawn")
	case naming.Tidy(h.Title) == "":
		return change.Refuse("title", "missing")
	case h.Settings.Way == handout.NoticeName:
		return change.Refuse("way", "is-a-notice")
	case len(h.Settings.Documents) == 0:
		return change.Refuse("documents", "missing")
	case len(h.Settings.Name) == 0:
		return change.Refuse("name", "missing")
	}
	return nil
}

// Missing is the packing list of what a top-up would pack.
func (c *Packing) Missing(ctx context.Context, class string) (packing.List, error) {
	r, err := c.looked(ctx, class)
	if err != nil {
		return packing.List{}, err
	}
	return r.MissingNow(), nil
}

// TopUp packs what is missing, in the room first; with rows, theirs alone, stuck or
// not. Several
// runs come of it, so a key is used for each. It returns the number of students
// served.
func (c *Packing) TopUp(ctx context.Context, by, class string, part Part) (int, error) {
	s, err := c.looked(ctx, class)
	if err != nil {
		return 0, err
	}
	if part.Seen != "" && part.Seen != s.MissingNow().Digest() {
		return 0, &change.Changed{Field: "list"}
	}
	l := s.Lacking(part.Rows...)
	for _, h := range l.Subjects {
		id := ""
		if h != nil {
			id = h.ID
		}
		var nothing *change.Invalid
		_, err := c.Pack(seam.Within(ctx, "pack/"+id), by, class, id, Part{Part: packing.Part{Rows: part.Rows}})
		// by somebody else, meanwhile
		if err != nil && !(errors.As(err, &nothing) && (nothing.Code == "nothing-to-pack" || nothing.Code == "withdrawn")) {
			return 0, err
		}
	}
	return l.Students, nil
}
