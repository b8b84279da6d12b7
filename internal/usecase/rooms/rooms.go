package rooms

import (
	"context"
	"reflect"
	"slices"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/planfile"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// ChangeRoom changes the room plan as it is now: pockets and places that several
// people add or remove all come and go. What was made for those that go stays.
func (c *Rooms) ChangeRoom(ctx context.Context, by, class string, ch room.Change) error {
	if base := ch.To.Base; base != nil && *base != "" {
		if !store.ValidID(*base) {
			return seam.ErrNotFound
		}
		owner, err := c.Store.OwnerOfThings(ctx, class)
		if err != nil {
			return seam.NotFound(err)
		}
		if err := c.baseFor(ctx, class, *base, by, owner); err != nil {
			return err
		}
	}
	return c.planned(ctx, by, class, "room-changed", ch, func(_ picture.Class, plan room.Plan) (room.Plan, error) {
		return ch.Of(plan, store.NewID)
	})
}

// planned gives a class the plan that edit makes of the one it has now. What is
// wrong with it is refused, unless that was wrong before.
func (c *Rooms) planned(ctx context.Context, by, class, verb string, what any,
	edit func(picture.Class, room.Plan) (room.Plan, error)) error {
	book, err := c.Book(ctx)
	if err != nil {
		return err
	}
	args := map[string]any{"change": what}
	return seam.NotFound(c.Store.Change(ctx, c.Act(ctx, by, verb, args, class), nil, func(tx *store.Store) error {
		cl, err := c.ReadClass(ctx, tx, book, class)
		if err != nil {
			return err
		}
		plan, err := edit(cl, cl.Plan)
		if err != nil {
			return err
		}
		if err := plan.Bounded(); err != nil {
			return err
		}
		before := cl.Plan.Check(c.RoomNames(), cl.Vocabulary())
		for _, p := range plan.Check(c.RoomNames(), cl.Vocabulary()) {
			if !slices.ContainsFunc(before, func(b room.Problem) bool {
				return b.Code == p.Code && b.Field == p.Field && reflect.DeepEqual(b.Args, p.Args)
			}) {
				return &change.Invalid{Field: p.Field, Code: p.Code, Args: p.Args}
			}
		}
		if err := c.pocketsFree(ctx, tx, cl.Plan, plan, class); err != nil {
			return err
		}
		w, ok := what.(room.Change)
		if !(ok && (w.To.School != nil || w.To.KeepInStep != nil)) && reflect.DeepEqual(plan, cl.Plan) {
			return store.ErrUnchanged
		}
		told := room.Told(cl.Plan, plan, c.RoomNames())
		args["told"], args["things"] = told[:min(change.MostTold, len(told))], len(told)
		if err := c.AddTeams(ctx, tx, cl, plan); err != nil {
			return err
		}
		if ok && w.To.School != nil {
			if err := c.passOn(ctx, tx, book, cl, by, *w.To.School); err != nil {
				return err
			}
		}
		if ok && w.To.KeepInStep != nil {
			if err := tx.SetKeepInStep(ctx, class, map[bool]string{true: by}[*w.To.KeepInStep]); err != nil {
				return err
			}
		}
		return tx.SavePlan(ctx, class, plan)
	}))
}

// pocketsFree refuses to take a pocket out of the plan in which copies of a packed
// handout lie.
func (c *Rooms) pocketsFree(ctx context.Context, tx *store.Store, before, after room.Plan, class string) error {
	handouts, err := tx.Handouts(ctx, class)
	if err != nil {
		return err
	}
	for _, p := range before.Pockets {
		if slices.ContainsFunc(after.Pockets, func(x room.Pocket) bool { return x.ID == p.ID }) {
			continue
		}
		for _, h := range handouts {
			if h.Packed() && h.Settings.Pocket == p.ID {
				return change.Refuse("pockets", "pocket-in-use", "name", p.Name, "title", h.Title)
			}
		}
	}
	return nil
}

// passOn makes the school the owner of what is made in a class, or its owner teacher
// again: at once where nothing was made, else by a run, which passes on all there is.
func (c *Rooms) passOn(ctx context.Context, tx *store.Store, book *seam.Known, cl picture.Class, by string, school bool) error {
	keeper, to := "", cl.Staff[0].Account
	if school {
		keeper, to = seam.SchoolAccount, seam.SchoolAccount
	}
	if cl.Owner() == to {
		return nil
	}
	s, err := c.Picture(ctx, tx, book, cl.ID)
	if err != nil {
		return err
	}
	folder := s.Entries[s.Room.Key(packing.ClassFolder)]
	if folder == nil {
		return tx.SetHeldBy(ctx, cl.ID, keeper)
	}
	runs, err := tx.RecentRuns(ctx, cl.ID)
	if err != nil {
		return err
	}
	if slices.ContainsFunc(runs, func(r ledger.Run) bool { return r.State == ledger.RunPacking || r.State == ledger.RunPaused }) {
		return change.Refuse("school", "being-packed")
	}
	step := s.Discarding(folder)
	step.Act, step.Change = packing.HandOver, &packing.Change{To: to, Keeper: keeper}
	if school { // the teacher reaches everything as before
		step.Wanted.Rule.Grants[cl.Staff[0].Account] = access.Edit
	}
	run := ledger.Run{ID: store.NewID(), ClassID: cl.ID, State: ledger.RunPacking, StartedBy: by, StartedAt: c.Now(),
		Title: s.State(folder).Name}
	return c.packer.Enqueue(ctx, tx, run, []packing.Step{step})
}

// baseFor checks that a class's folder can be put into another folder: both its
// owner and anyone who asks may write there, and it is no class's own.
func (c *Rooms) baseFor(ctx context.Context, class, base, by, owner string) error {
	for _, account := range []string{by, owner} {
		t, err := c.cup.Get(ctx, account, base)
		switch {
		case seam.NotFound(err) == seam.ErrNotFound && account == by:
			return seam.ErrNotFound
		case seam.NotFound(err) == seam.ErrNotFound:
			return change.Refuse("base", "base-no-right", "name", "")
		case err != nil:
			return err
		case t.Kind != cupboard.Folder:
			return change.Refuse("base", "base-not-folder")
		case t.Level < access.Edit:
			return change.Refuse("base", "base-no-right", "name", t.Name)
		}
		above := []string{t.ID}
		for _, crumb := range t.Path {
			above = append(above, crumb.ID)
		}
		found, err := c.Store.EntriesByThing(ctx, above)
		if err != nil {
			return err
		}
		for _, e := range found {
			if e.Key.Class == class {
				return change.Refuse("base", "base-inside")
			}
			return change.Refuse("base", "base-of-class", "name", t.Name)
		}
	}
	return nil
}

// RoomFile is a class's room plan as a file.
func (c *Rooms) RoomFile(ctx context.Context, class string) ([]byte, error) {
	cl, err := c.Store.Class(ctx, class)
	if err != nil {
		return nil, seam.NotFound(err)
	}
	return planfile.WriteRoom(cl.Plan), nil
}

// ReadRoomFile gives a class the plan of a file. columns says what stands for
// columns the class hasn't, by their label; those it says nothing of are asked
// about, and nothing is changed.
func (c *Rooms) ReadRoomFile(ctx context.Context, by, class string, file []byte, columns map[string]record.Field) error {
	return c.planned(ctx, by, class, "room-read", map[string]any{"columns": columns},
		func(cl picture.Class, plan room.Plan) (room.Plan, error) {
			r := planfile.Reader{Known: cl.Vocabulary(), Columns: columns}
			read, err := r.ReadRoom(file)
			if err != nil {
				return plan, planfile.Refused("file", err)
			}
			if len(r.Unknown) > 0 {
				return plan, planfile.AskFor(r.Unknown)
			}
			if problems := read.Check(c.RoomNames(), cl.Vocabulary()); len(problems) > 0 {
				return plan, &change.Invalid{Field: "file", Code: problems[0].Code, Args: problems[0].Args}
			}
			for i := range read.Pockets {
				read.Pockets[i].Name = naming.Folder(read.Pockets[i].Name)
			}
			return planfile.Adopt(read, plan, store.NewID), nil
		})
}

// PlaceNames are the names of the usual places, in the school's words.
func (c *Rooms) PlaceNames() room.Names { return c.RoomNames() }

// Rooms are the plans of classes, their staff, and who is chosen in them.
type Rooms struct {
	*seam.House
	cup    cupboard.Reader
	packer seam.Packer
}

// NewRooms builds them of what they stand on.
func New(h *seam.House, cup cupboard.Reader, packer seam.Packer) *Rooms {
	return &Rooms{House: h, cup: cup, packer: packer}
}
