package classroom

import (
	"context"
	"database/sql"
	"errors"
	"maps"
	"slices"
	"sort"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

// RoomList is the packing list of the class's room, with what is to be changed
// about the copies of every packed handout.
func (c *Classroom) RoomList(ctx context.Context, class string) (packing.List, error) {
	s, err := c.look(ctx, class)
	if err != nil {
		return packing.List{}, err
	}
	return s.roomList(), nil
}

// HandoutList is the packing list of a handout with what it needs of the room.
func (c *Classroom) HandoutList(ctx context.Context, class string, h store.Handout) (packing.List, error) {
	s, err := c.look(ctx, class)
	if err != nil {
		return packing.List{}, err
	}
	if t, err := c.Store.Template(ctx, h.TemplateID.String); err == nil {
		s.templates[t.ID] = t
	}
	return s.handoutList(h), nil
}

// Wanted says what is wanted now of what a run is about. It asks no cupboard.
func (c *Classroom) Wanted(ctx context.Context, r store.Run) (map[packing.Key]packing.Wanted, int64, error) {
	book, err := c.book(ctx)
	if err != nil {
		return nil, 0, err
	}
	s, err := c.snapshot(ctx, c.Store, book, r.ClassID)
	if err != nil {
		return nil, 0, err
	}
	h, ok := s.handout(r.HandoutID.String)
	if !ok {
		return s.wanted(nil), s.Wants, nil
	}
	return s.wanted(&h), s.Wants, nil
}

// A Part is what of a packing list is to be packed. Seen is the digest of the
// list that was looked at; a list that does something else by now is refused.
type Part struct {
	packing.Part
	Seen string
}

// Pack carries a packing list out as a run: its lines to pack are waiting, its
// lines that need fixing stand stuck among them, to be fixed there; lines to
// change are taken in where they were ticked. handout is empty for the room.
func (c *Classroom) Pack(ctx context.Context, by, class, handout string, part Part) (store.Run, error) {
	seen, err := c.look(ctx, class)
	if err != nil {
		return store.Run{}, err
	}
	book, err := c.book(ctx)
	if err != nil {
		return store.Run{}, err
	}
	id := store.NewID()
	act := c.act(ctx, by, "packed", map[string]any{"run": id, "handout": handout, "rows": part.Rows, "changes": part.Changes, "anew": part.Anew}, class)
	err = c.Store.Change(ctx, act, &id, func(tx *store.Store) error {
		return c.packNow(ctx, tx, seen, book, id, by, handout, part)
	})
	if err != nil {
		return store.Run{}, notFound(err)
	}
	return c.Store.Run(ctx, id)
}

// packNow makes the run of what the list does now, with the class held.
func (c *Classroom) packNow(ctx context.Context, tx *store.Store, seen *snapshot, book *bookIndex, id, by, handout string, part Part) error {
	s, err := c.seenAs(ctx, tx, seen, book)
	if err != nil {
		return err
	}
	run := store.Run{ID: id, ClassID: s.ID, State: store.RunPacking, StartedBy: by, StartedAt: c.Now()}
	if handout == "" {
		l := s.roomList()
		if part.Seen != "" && part.Seen != l.Digest() {
			return &Changed{Field: "list"}
		}
		rows, err := c.relink(ctx, tx, s, book, by, l, part.Changes)
		if err != nil {
			return err
		}
		if len(rows) > 0 {
			if s, err = c.seenAs(ctx, tx, seen, book); err != nil {
				return err
			}
			l = s.roomList(rows...)
			part.Changes = append(part.Changes, l.Following(rows, s.former(rows))...)
		}
		return c.enqueue(ctx, tx, run, l, part)
	}
	h, ok := s.handout(handout)
	if !ok {
		return ErrNotFound
	}
	if err := ready(h); err != nil {
		return err
	}
	run.Title, run.HandoutID = h.Title, sql.NullString{String: h.ID, Valid: true}
	l := s.handoutList(h)
	if part.Seen != "" && part.Seen != l.Digest() {
		return &Changed{Field: "list"}
	}
	if err := c.enqueue(ctx, tx, run, l, part); err != nil {
		return err
	}
	if h.Settings.V.Date == "" {
		h.Settings.V.Date = run.StartedAt.In(c.School.Zone).Format(time.DateOnly)
		if err := tx.SaveHandout(ctx, h); err != nil {
			return err
		}
	}
	return tx.MarkPacked(ctx, h.ID, run.StartedAt)
}

// seenAs reads the class as it is now, with what was seen in the cupboard before
// it was held. What the packer did since stands as the ledger has it.
func (c *Classroom) seenAs(ctx context.Context, tx *store.Store, seen *snapshot, book *bookIndex) (*snapshot, error) {
	s, err := c.snapshot(ctx, tx, book, seen.ID)
	if err != nil {
		return nil, err
	}
	s.seen, s.fresh = maps.Clone(seen.seen), map[string]bool{}
	for k, e := range s.entries {
		switch before := seen.entries[k]; {
		case before == nil, before.Thing != e.Thing:
			s.fresh[e.Thing] = true
			s.seen[e.Thing] = cupboard.State{Name: e.Name, Rule: access.Rule{Grants: e.Granted}}
		case before.Name != e.Name, !maps.Equal(before.Granted, e.Granted):
			if st, there := s.seen[e.Thing]; there {
				s.seen[e.Thing] = since(st, *before, *e)
			}
		}
	}
	return s, nil
}

// since is how a thing stands that was seen before and that the packer has named,
// shared or taken away since then.
func since(st cupboard.State, before, now store.Entry) cupboard.State {
	if before.Name != now.Name {
		st.Name = now.Name
	}
	st.Rule.Grants = maps.Clone(st.Rule.Grants)
	if st.Rule.Grants == nil {
		st.Rule.Grants = map[string]access.Level{}
	}
	for account := range before.Granted {
		if _, still := now.Granted[account]; !still {
			delete(st.Rule.Grants, account)
		}
	}
	for account, level := range now.Granted {
		if before.Granted[account] != level {
			st.Rule.Grants[account] = level
		}
	}
	return st
}

// relink links the rows whose line is ticked to the accounts their addresses
// belong to, and returns the rows.
func (c *Classroom) relink(ctx context.Context, tx *store.Store, s *snapshot, book *bookIndex, by string, l packing.List, ticked []string) ([]string, error) {
	var rows []string
	var put []store.Row
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
	var changes []roster.RowChange
	for _, row := range put {
		state := row.State()
		changes = append(changes, roster.RowChange{Row: row.ID, Before: &state, After: &state})
	}
	return rows, tx.InsertHistory(ctx, store.HistoryEntry{ID: store.NewID(), ClassID: s.ID, Batch: store.NewID(), At: c.Now(), Account: by, Kind: "relinked", Changes: store.JSON[[]roster.RowChange]{V: changes}})
}

// former are the accounts that rows' things were given to and that are no student's now.
func (s *snapshot) former(rows []string) map[string]bool {
	out := map[string]bool{}
	for k, e := range s.entries {
		if slices.Contains(rows, k.Whom.Row) {
			for account := range e.Granted {
				out[account] = true
			}
		}
	}
	for _, st := range s.Students {
		delete(out, st.Account)
	}
	return out
}

func (c *Classroom) enqueue(ctx context.Context, tx *store.Store, run store.Run, l packing.List, part Part) error {
	steps := l.Steps(part.Part)
	if !slices.ContainsFunc(steps, func(s packing.Step) bool { return s.State == packing.Waiting }) {
		return &Invalid{"list", "nothing-to-pack", nil}
	}
	return c.Packer.Enqueue(ctx, tx, run, steps)
}

// ready checks that a handout can be packed.
func ready(h store.Handout) error {
	switch {
	case tidy(h.Title) == "":
		return &Invalid{"title", "missing", nil}
	case !h.TemplateID.Valid:
		return &Invalid{"template", "missing", nil}
	case len(h.Settings.V.Name) == 0:
		return &Invalid{"name", "missing", nil}
	}
	return nil
}

// Lacking says what a top-up of the class would pack.
func (c *Classroom) Lacking(ctx context.Context, class string) (Lacking, error) {
	s, err := c.look(ctx, class)
	if err != nil {
		return Lacking{}, err
	}
	return s.lacking(), nil
}

// TopUp packs what is missing, in the room first. Several runs come of it, so a
// key is used for each.
func (c *Classroom) TopUp(ctx context.Context, by, class string) (int, error) {
	l, err := c.Lacking(ctx, class)
	if err != nil {
		return 0, err
	}
	for _, h := range l.Subjects {
		id := ""
		if h != nil {
			id = h.ID
		}
		var nothing *Invalid
		if _, err := c.Pack(within(ctx, "pack/"+id), by, class, id, Part{}); err != nil && !(errors.As(err, &nothing) && nothing.Code == "nothing-to-pack") {
			return 0, err
		}
	}
	return l.Students, nil
}

// FixLine corrects a stuck line's student, where an address is given, and packs
// that student's stuck lines of the run again.
func (c *Classroom) FixLine(ctx context.Context, by, class, run string, seq int, address string) error {
	st, err := c.stuckLine(ctx, c.Store, class, run, seq)
	if err != nil {
		return err
	}
	if address != "" {
		if st.Key.Whom.Row == "" {
			return &Invalid{"address", "no-student", nil}
		}
		if err := c.CorrectAddress(within(ctx, "address"), by, class, st.Key.Whom.Row, address); err != nil {
			return err
		}
	}
	seen, err := c.look(ctx, class)
	if err != nil {
		return err
	}
	book, err := c.book(ctx)
	if err != nil {
		return err
	}
	return c.Store.Change(ctx, c.act(ctx, by, "line-fixed", map[string]any{"run": run, "line": seq}, class), nil, func(tx *store.Store) error {
		s, err := c.seenAs(ctx, tx, seen, book)
		if err != nil {
			return err
		}
		return c.reopen(ctx, tx, s, run, seq)
	})
}

// stuckLine returns a stuck line of a run of the class.
func (c *Classroom) stuckLine(ctx context.Context, st *store.Store, class, run string, seq int) (store.Step, error) {
	r, err := st.Run(ctx, run)
	if err != nil || r.ClassID != class {
		return store.Step{}, ErrNotFound
	}
	all, err := st.Steps(ctx, run)
	if err != nil {
		return store.Step{}, err
	}
	i := slices.IndexFunc(all, func(s store.Step) bool { return s.Seq == seq })
	switch {
	case i < 0:
		return store.Step{}, ErrNotFound
	case all[i].State != packing.Stuck:
		return store.Step{}, &Invalid{"line", "not-stuck", nil}
	}
	return all[i], nil
}

// reopen puts a stuck line and those of the same student back to waiting, as the
// list has them now; what still needs fixing says why.
func (c *Classroom) reopen(ctx context.Context, tx *store.Store, s *snapshot, run string, seq int) error {
	st, err := c.stuckLine(ctx, tx, s.ID, run, seq)
	if err != nil {
		return err
	}
	r, err := tx.Run(ctx, run)
	if err != nil {
		return err
	}
	all, err := tx.Steps(ctx, run)
	if err != nil {
		return err
	}
	l := s.roomList()
	if h, ok := s.handout(r.HandoutID.String); ok {
		l = s.handoutList(h)
	}
	now := map[packing.Key]packing.Step{}
	for _, step := range l.Steps(packing.Part{}) {
		now[step.Key] = step
	}
	for _, other := range all {
		mine := other.Seq == seq || other.Key.Whom != (packing.Whom{}) && other.Key.Whom == st.Key.Whom
		step, wanted := now[other.Key]
		switch {
		case other.State != packing.Stuck || !mine || !wanted:
			continue
		case step.State == packing.Stuck:
			err = tx.StickStep(ctx, run, other.Seq, *step.Reason)
		default:
			err = tx.ReopenStep(ctx, run, other.Seq, step)
		}
		if err != nil {
			return err
		}
	}
	return c.Packer.Wake(ctx, tx, r)
}

// Pause and Resume and Stop steer a run.
func (c *Classroom) Pause(ctx context.Context, by, class, run string) error {
	return c.steer(ctx, by, class, run, store.RunPaused, store.RunPacking)
}

// Resume carries a paused run on. Its lines are computed again before they are
// done.
func (c *Classroom) Resume(ctx context.Context, by, class, run string) error {
	return c.steer(ctx, by, class, run, store.RunPacking, store.RunPaused)
}

// Stop ends a run; what was packed stays, the rest is for a later top-up.
func (c *Classroom) Stop(ctx context.Context, by, class, run string) error {
	return c.steer(ctx, by, class, run, store.RunStopped, store.RunPacking, store.RunPaused)
}

func (c *Classroom) steer(ctx context.Context, by, class, run, to string, from ...string) error {
	err := c.Store.Change(ctx, c.act(ctx, by, "run-"+to, map[string]string{"run": run}, class), nil, func(tx *store.Store) error {
		r, err := tx.Run(ctx, run)
		if err != nil || r.ClassID != class {
			return ErrNotFound
		}
		if !slices.Contains(from, r.State) {
			return nil // it is so already, or the run is over
		}
		if err := tx.SetRunState(ctx, r.ID, to, from...); err != nil {
			return err
		}
		if to == store.RunPacking {
			return c.Packer.Wake(ctx, tx, r)
		}
		return nil
	})
	return notFound(err)
}

func sortedKeys[V any](m map[string]V) []string {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	return keys
}
