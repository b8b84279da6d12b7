package rooms

import (
	"context"
	"slices"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// SetStaff makes somebody a co-teacher or an assistant of a class, or for no role takes
// them off its staff. What is packed gives them access everywhere in it, or takes it away,
// at once. The owner stays; was is what they were.
func (c *Rooms) SetStaff(ctx context.Context, by, class, account, role, was string) error {
	book, err := c.Book(ctx)
	if err != nil {
		return err
	}
	what := map[bool]string{true: "staff-left", false: "staff-set"}[role == ""]
	return c.setStaff(ctx, book, by, class, account, role, what, func(now string) error {
		switch {
		case now != was:
			return &change.Changed{Field: "role", Yours: role, Theirs: now}
		case role != "":
			return book.Teacher(account)
		}
		return nil
	})
}

// setStaff is what all changes of a class's staff have in common; may says whether somebody
// who is of a role now may have the other one.
func (c *Rooms) setStaff(ctx context.Context, book *seam.Known, by, class, account, role, what string, may func(now string) error) error {
	if role != "" && role != classes.Teacher && role != classes.Assistant {
		return change.Refuse("role", "no-such-role")
	}
	args := map[string]any{"account": account, "name": book.Account(account).Name()}
	return seam.NotFound(c.Store.Change(ctx, c.Act(ctx, by, what, args, class), nil, func(tx *store.Store) error {
		cl, err := c.ReadClass(ctx, tx, book, class)
		if err != nil {
			return err
		}
		m, there := cl.Member(account)
		switch {
		case m.Role == classes.Owner:
			return change.Refuse("account", "owner-stays")
		case m.Role == role:
			return nil
		}
		if err := may(m.Role); err != nil {
			return err
		}
		args["told"] = []change.Told{{What: "role", From: m.Role, To: role}}
		switch {
		case role == "":
			err = tx.RemoveStaff(ctx, class, account)
		case !there && len(cl.Staff) >= classes.MostStaff:
			return change.TooMany("account", "too-many-staff", classes.MostStaff)
		default:
			err = tx.AddStaff(ctx, classes.Member{ClassID: class, Account: account, Role: role})
		}
		if err != nil {
			return err
		}
		return c.followStaff(ctx, tx, book, by, class, account)
	}))
}

// followStaff has a run give or take what an account of the staff has differently now.
func (c *Rooms) followStaff(ctx context.Context, tx *store.Store, book *seam.Known, by, class, account string) error {
	under, err := tx.UnderWay(ctx, class, account) // before the ledger: what ends meanwhile is in one of them
	if err != nil {
		return err
	}
	s, err := c.Picture(ctx, tx, book, class)
	if err != nil || len(s.Entries) == 0 {
		return err
	}
	all, _ := s.ToDo(nil)
	var steps []packing.Step
	wanted := s.Wanted(nil)
	for _, k := range under { // what the ledger says of these may be another in a moment
		if w, ok := wanted[k]; ok && w.Problem == nil {
			steps = append(steps, s.Reach(w, account)...)
		}
	}
	for _, line := range all.Lines {
		gives := line.Section == packing.ToPack && line.Step.Act == packing.Share && line.Wanted.Rule.Grants[account] > access.Nothing
		if slices.Contains(under, line.Wanted.Key) {
			continue
		}
		takes := line.Section == packing.ToChange && (line.Step.Act == packing.Take || line.Step.Act == packing.Lower) &&
			line.Step.Account == account
		if gives || takes {
			steps = append(steps, packing.Step{StepKey: line.Step, Wanted: line.Wanted, Change: line.Change, State: packing.Waiting})
		}
	}
	if len(steps) == 0 {
		return nil
	}
	run := ledger.Run{ID: store.NewID(), ClassID: class, State: ledger.RunPacking, StartedBy: by, StartedAt: c.Now()}
	return c.packer.Enqueue(ctx, tx, run, steps)
}

// HandOver makes another teacher a class's owner; the one before stays as co-teacher.
// What is made there is passed on to them by a run.
func (c *Rooms) HandOver(ctx context.Context, by, class, to, was string) error {
	book, err := c.Book(ctx)
	if err != nil {
		return err
	}
	args := map[string]string{"account": to, "name": book.Account(to).Name()}
	return seam.NotFound(c.Store.Change(ctx, c.Act(ctx, by, "owner-changed", args, class), nil, func(tx *store.Store) error {
		cl, err := c.ReadClass(ctx, tx, book, class)
		if err != nil {
			return err
		}
		before := cl.Staff[0].Account
		if before == to {
			return nil
		}
		if before != was {
			return &change.Changed{Field: "owner", Yours: args["name"], Theirs: cl.Teacher}
		}
		if err := book.Teacher(to); err != nil {
			return err
		}
		s, err := c.Picture(ctx, tx, book, class)
		if err != nil {
			return err
		}
		folder := s.Entries[s.Room.Key(packing.ClassFolder)]
		passes := folder != nil && cl.HeldBy == ""
		if passes {
			runs, err := tx.RecentRuns(ctx, class)
			if err != nil {
				return err
			}
			if slices.ContainsFunc(runs, func(r ledger.Run) bool { return r.State == ledger.RunPacking || r.State == ledger.RunPaused }) {
				return change.Refuse("account", "being-packed")
			}
			if err := tx.SetHeldBy(ctx, class, before); err != nil { // until it is passed on
				return err
			}
		}
		for _, m := range []classes.Member{{ClassID: class, Account: before, Role: classes.Teacher},
			{ClassID: class, Account: to, Role: classes.Owner}} {
			if err := tx.AddStaff(ctx, m); err != nil { // one owner at a time
				return err
			}
		}
		if !passes {
			return c.followStaff(ctx, tx, book, by, class, to)
		}
		step := s.Discarding(folder)
		step.Act, step.Change = packing.HandOver, &packing.Change{To: to}
		step.Wanted.Rule.Grants[before] = access.Edit // they reach everything as before
		run := ledger.Run{ID: store.NewID(), ClassID: class, State: ledger.RunPacking, StartedBy: by, StartedAt: c.Now(),
			Title: s.State(folder).Name}
		return c.packer.Enqueue(ctx, tx, run, []packing.Step{step})
	}))
}

// Join makes somebody of the office a co-teacher or an assistant of a class or, for no role,
// takes them off its staff again. It is logged, and everybody of the staff sees it.
func (c *Rooms) Join(ctx context.Context, by, class, role string) error {
	book, err := c.Book(ctx)
	if err != nil {
		return err
	}
	what := map[bool]string{true: "office-left", false: "office-joined"}[role == ""]
	return c.setStaff(ctx, book, by, class, by, role, what, func(string) error { return nil })
}
