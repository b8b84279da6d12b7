package doors

import (
	"context"
	"errors"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/doorcheck"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
	"jollysatchel/internal/store/kept"
	"jollysatchel/internal/usecase/seam"
)

// triedDoors are tried at a check as the students themselves.
const triedDoors = 12

// A Check is what a check found, when, and by whom: nobody for one that the program makes itself.
type Check struct {
	At     time.Time
	By     string
	Result doorcheck.Result
	Who    func(account string) doorcheck.Person
}

// Check compares now who reaches what in a class with who should, and keeps what it found. by is
// empty where the program does so by itself.
func (c *Doors) Check(ctx context.Context, by, class string) (Check, error) {
	l, err := c.look(ctx, class)
	if err != nil {
		return Check{}, err
	}
	left, err := c.Store.DoorsLeft(ctx, class)
	if err != nil {
		return Check{}, err
	}
	report := doorcheck.Check(l.world)
	called := map[string]string{}
	for _, f := range l.world.Found {
		called[f.ID] = f.Name
	}
	r := doorcheck.Took(l.world, report, l.WhyDoors(func(thing string) string { return called[thing] }), left)
	r.Students, r.Passing = len(l.Students), l.passing
	if err := c.opened(ctx, class, l, r.Lines); err != nil {
		return Check{}, err
	}
	if err := c.try(ctx, l, report, &r); err != nil {
		return Check{}, err
	}
	check := kept.DoorCheck{ID: store.NewID(), Result: r, CheckedDoors: Checked{ClassID: class, At: l.world.At, By: by,
		Differences: len(r.Lines) + r.More + len(r.Wrong)}}
	if err := c.Store.SaveDoorCheck(ctx, check); err != nil {
		return Check{}, err
	}
	return shown(l.book, l.Class, check), nil
}

// opened says of links that are open by whom they were opened, where the class's log knows.
func (c *Doors) opened(ctx context.Context, class string, l *look, lines []doorcheck.Line) error {
	var things []string
	for _, line := range lines {
		if line.Kind == doorcheck.OpenToSchool {
			things = append(things, line.Thing)
		}
	}
	if len(things) == 0 {
		return nil
	}
	by, err := c.Store.LinkOpened(ctx, class, things)
	for i := range lines {
		if who, ok := by[lines[i].Thing]; ok && lines[i].Kind == doorcheck.OpenToSchool {
			lines[i].Why.Code = "door-opened-by"
			lines[i].Why.Args["name"] = l.book.Called(who.Account)
			lines[i].Why.Args["at"] = who.At.In(c.School().Zone).Format(time.RFC3339)
		}
	}
	return err
}

// try opens a few doors as the students themselves, others each day.
func (c *Doors) try(ctx context.Context, l *look, report doorcheck.Report, r *doorcheck.Result) error {
	var students []string
	for _, st := range l.Students {
		if st.Account != "" && st.Problem == nil {
			students = append(students, st.Account)
		}
	}
	day := uint64(l.world.At.Unix() / (24 * 60 * 60)) //nolint:gosec // after 1970
	for _, t := range l.world.Tries(triedDoors, students, day, report.Differences) {
		got, err := c.cup.Get(ctx, t.Who, t.Thing)
		if err != nil && !errors.Is(err, cupboard.ErrNotFound) {
			return err
		}
		r.Tried++
		if opens := err == nil && got.Level >= access.Read; opens != t.Opens {
			r.Wrong = append(r.Wrong, t)
		}
	}
	return nil
}

// shown is a check as it is shown.
func shown(book *seam.Known, cl picture.Class, check kept.DoorCheck) Check {
	out := Check{At: check.At, By: check.By, Result: check.Result, Who: picture.Called(cl, book.Called)}
	if check.By != "" {
		out.By = book.Called(check.By)
	}
	return out
}

// Last is the newest check of a class; ok is false where there was none.
func (c *Doors) Last(ctx context.Context, class string) (out Check, ok bool, err error) {
	last, err := c.Store.LastDoorCheck(ctx, class)
	if errors.Is(err, store.ErrNotFound) {
		return out, false, nil
	}
	if err != nil {
		return out, false, err
	}
	cl, book, err := c.ClassNow(ctx, class)
	if err != nil {
		return out, false, err
	}
	return shown(book, cl, last), true, nil
}

// Earlier are the checks of a class that are kept, newest first, with the names of who made them.
func (c *Doors) Earlier(ctx context.Context, class string) ([]Checked, error) {
	out, err := c.Store.DoorChecks(ctx, class)
	if err != nil {
		return nil, err
	}
	book, err := c.Book(ctx)
	if err != nil {
		return nil, err
	}
	for i := range out {
		if out[i].By != "" {
			out[i].By = book.Called(out[i].By)
		}
	}
	return out, nil
}

// Mend puts differences right, each by lines of a run, and nothing else.
func (c *Doors) Mend(ctx context.Context, by, class string, ids []string) (ledger.Run, error) {
	if err := c.Observe(ctx, class, ""); err != nil {
		return ledger.Run{}, err
	}
	l, err := c.look(ctx, class)
	if err != nil {
		return ledger.Run{}, err
	}
	ds, err := doorcheck.Check(l.world).Chosen(ids)
	if err != nil {
		return ledger.Run{}, err
	}
	id := store.NewID()
	act := c.Act(ctx, by, "doors-mended", map[string]any{"run": id, "things": len(ds)}, class)
	err = c.Store.Change(ctx, act, &id, func(tx *store.Store) error {
		s, err := c.Picture(ctx, tx, l.book, class)
		if err != nil {
			return err
		}
		steps := s.Mending(l.world, ds)
		if len(steps) == 0 {
			return change.Refuse("differences", "nothing-to-mend")
		}
		return c.packer.Enqueue(ctx, tx, ledger.Run{ID: id, ClassID: class, State: ledger.RunPacking, StartedBy: by, StartedAt: c.Now(),
			Kind: ledger.MendRun}, steps)
	})
	if err != nil {
		return ledger.Run{}, seam.NotFound(err)
	}
	return c.Store.Run(ctx, id)
}

// Leave has differences left as they are, or told of again.
func (c *Doors) Leave(ctx context.Context, by, class string, ids []string, left bool) error {
	if left {
		l, err := c.look(ctx, class)
		if err != nil {
			return err
		}
		if _, err := doorcheck.Check(l.world).Chosen(ids); err != nil {
			return err
		}
	}
	verb := map[bool]string{true: "doors-left", false: "doors-told-again"}[left]
	act := c.Act(ctx, by, verb, map[string]any{"things": len(ids)}, class)
	return seam.NotFound(c.Store.Change(ctx, act, nil, func(tx *store.Store) error {
		return tx.LeaveDoors(ctx, class, ids, left, by, c.Now())
	}))
}

// nightly is the hour at which doors are checked.
const nightly = 3

// Nightly checks the classes that weren't checked since the last night, and those in which something
// was put right, one program at a time. One that can't be read just now waits for the next time.
func (c *Doors) Nightly(ctx context.Context) error {
	now := c.Now().In(c.School().Zone)
	since := time.Date(now.Year(), now.Month(), now.Day(), nightly, 0, 0, 0, now.Location())
	if now.Before(since) {
		since = since.AddDate(0, 0, -1)
	}
	return c.Store.Alone(ctx, "doors", func() error {
		due, err := c.Store.DoorsDue(ctx, since)
		if err != nil {
			return err
		}
		for _, class := range due {
			if _, err := c.Check(ctx, "", class); err != nil && ctx.Err() == nil {
				c.Log.Warn("the doors of a class aren't checked", "class", class, "error", err)
			}
		}
		return ctx.Err()
	})
}
