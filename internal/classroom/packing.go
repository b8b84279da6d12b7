package classroom

import (
	"context"
	"database/sql"
	"slices"
	"sort"
	"strings"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/store"
)

// RoomList is the packing list of the class's room, with what is to be changed
// about the copies of every packed handout: a student's new name or address
// concerns both.
func (c *Classroom) RoomList(ctx context.Context, cl Class) (packing.List, error) {
	l, err := c.list(ctx, cl, room.Wanted(c.forRoom(cl), cl.Plan.V), nil)
	if err != nil {
		return l, err
	}
	handouts, err := c.Store.Handouts(ctx, cl.ID)
	if err != nil {
		return l, err
	}
	for _, h := range handouts {
		if !h.PackedAt.Valid {
			continue
		}
		of, err := c.HandoutList(ctx, cl, h)
		if err != nil {
			return l, err
		}
		for _, line := range of.Lines {
			if line.Section == packing.ToChange {
				l.Lines = append(l.Lines, line)
			}
		}
	}
	return l, nil
}

// HandoutList is the packing list of a handout. Of the room's things it holds
// what is to be packed, not what is to be changed.
func (c *Classroom) HandoutList(ctx context.Context, cl Class, h store.Handout) (packing.List, error) {
	s, err := c.settings(ctx, cl, h)
	if err != nil {
		return packing.List{}, err
	}
	wishes, absent := handout.Wanted(c.forRoom(cl), cl.Plan.V, s)
	l, err := c.list(ctx, cl, wishes, absent)
	l.Lines = slices.DeleteFunc(l.Lines, func(line packing.Line) bool {
		return line.Section == packing.ToChange && line.Wish.Handout != h.ID
	})
	return l, err
}

// settings are the handout as the core sees it.
func (c *Classroom) settings(ctx context.Context, cl Class, h store.Handout) (handout.Settings, error) {
	s := handout.Settings{ID: h.ID, Title: h.Title, Name: h.Settings.V.Name, Pocket: h.Settings.V.Pocket, Out: cl.Out(h), Packed: map[string]string{}}
	s.Level, _ = access.ParseLevel(h.Settings.V.Level)
	if h.TemplateID.Valid {
		t, err := c.Store.Template(ctx, h.TemplateID.String)
		if err != nil {
			return s, err
		}
		s.Template = handout.Template{Thing: t.Thing, Ending: naming.Ending(t.Name)}
	}
	date := h.Settings.V.Date
	if date == "" {
		date = c.Now().In(c.School.Zone).Format(time.DateOnly)
	}
	s.Values = map[string]string{naming.Title: h.Title, naming.Date: date, naming.Year: date[:4]}
	ledger, err := c.Store.Ledger(ctx, cl.ID)
	if err != nil {
		return s, err
	}
	for _, e := range ledger {
		if e.Purpose == "copy" && e.HandoutID.String == h.ID {
			s.Packed[e.PersonID.String] = e.Name
		}
	}
	return s, nil
}

func (c *Classroom) list(ctx context.Context, cl Class, wishes []packing.Wish, absent []packing.Absent) (packing.List, error) {
	found, err := c.found(ctx, cl, wishes)
	if err != nil {
		return packing.List{}, err
	}
	return packing.Compute(wishes, absent, found), nil
}

// found joins the ledger with the cupboard's own state of each thing.
func (c *Classroom) found(ctx context.Context, cl Class, wishes []packing.Wish) (map[packing.Key]packing.Found, error) {
	ledger, err := c.Store.Ledger(ctx, cl.ID)
	if err != nil {
		return nil, err
	}
	wanted := make(map[string]packing.Wish, len(wishes))
	for _, w := range wishes {
		wanted[string(w.Key)] = w
	}
	things := map[string]string{} // key → thing, of all entries: parents are among them
	var ids []string
	for _, e := range ledger {
		things[e.Key] = e.Thing
		if _, ok := wanted[e.Key]; ok {
			ids = append(ids, e.Thing)
		}
	}
	out := map[packing.Key]packing.Found{}
	if len(ids) == 0 {
		return out, nil
	}
	states, err := c.Cup.States(ctx, cl.Owner(), ids)
	if err != nil {
		return nil, err
	}
	for _, e := range ledger {
		w, ok := wanted[e.Key]
		if !ok {
			continue
		}
		f := packing.Found{Thing: e.Thing, State: packing.Gone, Name: e.Name, Given: e.Name, Ours: e.Granted.V, Pointed: e.Pointer.Valid}
		if st, ok := states[e.Thing]; ok {
			f.State, f.Name, f.Granted = packing.Here, st.Name, st.Granted
			if w.Parent != "" && st.Parent != things[string(w.Parent)] {
				f.State = packing.Elsewhere
			}
			if !e.SharedAt.Valid {
				f.State = packing.Unshared
			}
		}
		out[packing.Key(e.Key)] = f
	}
	return out, nil
}

// A Part of a packing list: Only, where not empty, restricts it to some rows and
// what they need; Changes are the keys of the lines to change that were ticked.
type Part struct{ Only, Changes []string }

// Pack carries a packing list out as a run: its lines to pack are waiting, its
// lines that need fixing stand stuck among them, to be fixed there; lines to
// change are taken in where they were ticked.
func (c *Classroom) Pack(ctx context.Context, by string, cl Class, h *store.Handout, part Part) (store.Run, error) {
	var l packing.List
	var err error
	run := store.Run{ID: store.NewID(), ClassID: cl.ID, State: store.RunPacking, StartedBy: by, StartedAt: c.Now()}
	if h == nil {
		l, err = c.RoomList(ctx, cl)
	} else {
		if err := ready(*h); err != nil {
			return run, err
		}
		if h.Settings.V.Date == "" {
			h.Settings.V.Date = run.StartedAt.In(c.School.Zone).Format(time.DateOnly)
		}
		run.Title, run.HandoutID = h.Title, sql.NullString{String: h.ID, Valid: true}
		l, err = c.HandoutList(ctx, cl, *h)
	}
	if err != nil {
		return run, err
	}
	steps := steps(run.ID, l, part)
	if !slices.ContainsFunc(steps, func(s store.Step) bool { return s.State == store.StepWaiting }) {
		return run, &Invalid{"list", "nothing-to-pack", nil}
	}
	err = c.Store.Tx(ctx, func(tx *store.Store) error {
		if h != nil {
			if err := tx.SaveHandout(ctx, *h); err != nil {
				return err
			}
			if err := tx.MarkPacked(ctx, h.ID, run.StartedAt); err != nil {
				return err
			}
		}
		return c.Packer.Enqueue(ctx, tx, run, steps)
	})
	if err != nil {
		return run, err
	}
	return c.Store.Run(ctx, run.ID)
}

func steps(run string, l packing.List, part Part) []store.Step {
	var out []store.Step
	for _, line := range l.Lines {
		if line.Wish.Row != "" && len(part.Only) > 0 && !slices.Contains(part.Only, line.Wish.Row) {
			continue
		}
		st := store.Step{RunID: run, Seq: len(out) + 1, Key: string(line.Wish.Key), Wish: store.JSON[packing.Wish]{V: line.Wish}}
		switch line.Section {
		case packing.ToPack:
			st.State = store.StepWaiting
		case packing.ToChange:
			if !slices.Contains(part.Changes, st.Key) {
				continue
			}
			st.State = store.StepWaiting
		case packing.NeedsFixing:
			st.State, st.Reason.V = store.StepStuck, line.Reason
		default:
			continue
		}
		out = append(out, st)
	}
	return out
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

// Missing counts the lines a top-up would pack: things never made or unshared
// in the room and every handout that was packed. changes counts the lines to
// change, which a top-up leaves alone.
func (c *Classroom) Missing(ctx context.Context, cl Class) (students, changes int, subjects []*store.Handout, err error) {
	handouts, err := c.Store.Handouts(ctx, cl.ID)
	if err != nil {
		return 0, 0, nil, err
	}
	who := map[string]bool{}
	stuck, err := c.Store.StuckKeys(ctx, cl.ID)
	if err != nil {
		return 0, 0, nil, err
	}
	consider := func(l packing.List, h *store.Handout) {
		some := false
		for _, line := range l.Lines {
			if _, isStuck := stuck[string(line.Wish.Key)]; isStuck {
				continue // it stands on its line, to be fixed there
			}
			if line.Section == packing.ToChange && line.Wish.Handout == "" == (h == nil) {
				changes++
			}
			if line.Section == packing.ToPack {
				some = true
				if line.Wish.Row != "" {
					who[line.Wish.Row] = true
				}
			}
		}
		if some {
			subjects = append(subjects, h)
		}
	}
	if len(cl.Students) == 0 {
		return 0, 0, nil, nil
	}
	ledger, err := c.Store.Ledger(ctx, cl.ID)
	if err != nil || len(ledger) == 0 {
		return 0, 0, nil, err // the room isn't packed yet: that is the first act, not a top-up
	}
	l, err := c.RoomList(ctx, cl)
	if err != nil {
		return 0, 0, nil, err
	}
	consider(l, nil)
	for _, h := range handouts {
		if h.PackedAt.Valid {
			if l, err = c.HandoutList(ctx, cl, h); err != nil {
				return 0, 0, nil, err
			}
			consider(l, &h)
		}
	}
	return len(who), changes, subjects, nil
}

// TopUp packs what is missing, in the room first.
func (c *Classroom) TopUp(ctx context.Context, by string, cl Class) (int, error) {
	n, _, subjects, err := c.Missing(ctx, cl)
	if err != nil {
		return 0, err
	}
	for _, h := range subjects {
		if _, err := c.Pack(ctx, by, cl, h, Part{}); err != nil {
			return 0, err
		}
	}
	return n, nil
}

// FixLine corrects a stuck line's student, where an address is given, and packs
// that student's stuck lines of the run again.
func (c *Classroom) FixLine(ctx context.Context, by string, cl Class, run store.Run, seq int, address string) error {
	all, err := c.Store.Steps(ctx, run.ID)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(all, func(s store.Step) bool { return s.Seq == seq })
	if i < 0 {
		return ErrNotFound
	}
	st := all[i]
	if st.State != store.StepStuck {
		return &Invalid{"line", "not-stuck", nil}
	}
	before := st.Wish.V.Person
	person := before
	if address != "" {
		if st.Wish.V.Row == "" {
			return &Invalid{"address", "no-student", nil}
		}
		if err := c.CorrectAddress(ctx, by, cl.ID, st.Wish.V.Row, address); err != nil {
			return err
		}
		if cl, err = c.Class(ctx, cl.ID); err != nil {
			return err
		}
		if now, ok := cl.Student(st.Wish.V.Row); ok {
			person = now.PersonID // the account may have turned out to be that of a person known already
		}
	}
	var l packing.List
	if run.HandoutID.Valid {
		h, err := c.Store.Handout(ctx, cl.ID, run.HandoutID.String)
		if err != nil {
			return err
		}
		l, err = c.HandoutList(ctx, cl, h)
		if err != nil {
			return err
		}
	} else if l, err = c.RoomList(ctx, cl); err != nil {
		return err
	}
	now := map[string]packing.Line{}
	for _, line := range l.Lines {
		now[string(line.Wish.Key)] = line
	}
	return c.Store.Tx(ctx, func(tx *store.Store) error {
		for _, other := range all {
			mine := other.Seq == seq || other.Wish.V.Person != "" && other.Wish.V.Person == st.Wish.V.Person
			if other.State != store.StepStuck || !mine {
				continue
			}
			key := other.Key
			if before != "" {
				key = strings.Replace(key, before, person, 1)
			}
			line, wanted := now[key]
			switch {
			case wanted && line.Section == packing.NeedsFixing:
				if err := tx.StickStep(ctx, run.ID, other.Seq, *line.Reason); err != nil {
					return err
				}
			case wanted:
				if err := tx.ReopenStep(ctx, run.ID, other.Seq, line.Wish); err != nil {
					return err
				}
			}
		}
		return c.Packer.Wake(ctx, tx, run)
	})
}

// Pause and Resume and Stop steer a run.
func (c *Classroom) Pause(ctx context.Context, run store.Run) error {
	return c.steer(ctx, run, store.RunPaused, store.RunPacking)
}

// Resume carries a paused run on.
func (c *Classroom) Resume(ctx context.Context, run store.Run) error {
	return c.steer(ctx, run, store.RunPacking, store.RunPaused)
}

// Stop ends a run; what was packed stays, the rest is for a later top-up.
func (c *Classroom) Stop(ctx context.Context, run store.Run) error {
	return c.steer(ctx, run, store.RunStopped, store.RunPacking, store.RunPaused)
}

func (c *Classroom) steer(ctx context.Context, run store.Run, to string, from ...string) error {
	if !slices.Contains(from, run.State) {
		return nil // it is so already, or the run is over
	}
	return c.Store.Tx(ctx, func(tx *store.Store) error {
		if err := tx.SetRunState(ctx, run.ID, to, from...); err != nil {
			return notFound(err)
		}
		if to == store.RunPacking {
			return c.Packer.Wake(ctx, tx, run)
		}
		return tx.Touch(ctx, run.ClassID)
	})
}

func sortedKeys[V any](m map[string]V) []string {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	return keys
}

// keepPocket adds a pocket to plan: the old one of that name, else a new one,
// which appears in every satchel with the next packing.
func keepPocket(plan room.Plan, old []room.Pocket, name string) (room.Plan, error) {
	if tidy(name) == "" {
		return plan, &Invalid{"pockets", "missing", nil}
	}
	name = naming.Safe(name, "")
	same := func(p room.Pocket) bool { return naming.Fold(p.Name) == naming.Fold(name) }
	if slices.ContainsFunc(plan.Pockets, same) {
		return plan, &Invalid{"pockets", "pocket-twice", map[string]string{"name": name}}
	}
	p := room.Pocket{ID: store.NewID(), Name: name}
	if i := slices.IndexFunc(old, same); i >= 0 {
		p = old[i]
	}
	plan.Pockets = append(plan.Pockets, p)
	return plan, nil
}
