package leave

import (
	"archive/zip"
	"cmp"
	"context"
	"fmt"
	"io"
	"path"
	"slices"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/leaving"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// Leavers are those who left a class and have things in it, the latest first, as it
// was last seen.
func (c *Leaving) Leavers(ctx context.Context, class string) ([]leaving.Leaver, error) {
	s, err := c.Reading(ctx, class)
	if err != nil {
		return nil, err
	}
	out := leaving.Leavers(s.Picture, s.Works)
	asked, err := c.Store.SatchelRequests(ctx, class)
	if err != nil {
		return nil, err
	}
	book, err := c.Book(ctx)
	if err != nil {
		return nil, err
	}
	for i := range out {
		if q, ok := asked[out[i].Student.ID]; ok {
			out[i].Request = &leaving.Asking{Row: q.Row, By: book.Called(q.AskedBy), Class: q.Called, At: q.At}
		}
	}
	slices.SortStableFunc(out, func(a, b leaving.Leaver) int { return b.Student.LeftAt.Compare(a.Student.LeftAt) })
	return out, nil
}

// Decide does what a teacher says about the things of somebody who left: keeps them
// as they are, makes the student their owner, or puts them into the bin, from which
// they can be brought back. own is how many things of the student's were looked at.
func (c *Leaving) Decide(ctx context.Context, by, class, row, decision string, own int) error {
	if err := c.Observe(ctx, class, ""); err != nil {
		return err
	}
	book, err := c.Book(ctx)
	if err != nil {
		return err
	}
	verb := map[string]string{classes.Keep: "leaver-kept", classes.HandOver: "leaver-handed-over",
		classes.Bin: "leaver-binned", leaving.BringBack: "leaver-restored"}[decision]
	if verb == "" {
		return change.Refuse("decision", "not-one-of")
	}
	cl, err := c.ReadClass(ctx, c.Store, book, class)
	if err != nil {
		return err
	}
	name := ""
	if i := slices.IndexFunc(cl.Left, func(s picture.Student) bool { return s.ID == row }); i >= 0 {
		name = cl.Left[i].SortName()
	}
	return seam.NotFound(c.Store.Change(ctx, c.Act(ctx, by, verb, map[string]any{"row": row, "name": name}, class), nil,
		func(tx *store.Store) error {
			s, err := c.Picture(ctx, tx, book, class)
			if err != nil {
				return err
			}
			i := slices.IndexFunc(s.Left, func(s picture.Student) bool { return s.ID == row })
			if i < 0 {
				return seam.ErrNotFound
			}
			works, err := tx.Works(ctx, class)
			if err != nil {
				return err
			}
			l, any := leaving.Of(s, s.Left[i], s.ByRow()[s.Left[i].ID], works)
			switch {
			case !any:
				return seam.ErrNotFound
			case decision != classes.Keep && l.Own != own:
				return &change.Changed{Field: "list"}
			case decision == classes.HandOver && l.Student.Account == "":
				return change.Refuse("decision", "no-account")
			}
			if decision != leaving.BringBack {
				if err := tx.Decide(ctx, class, classes.Decision{RowID: row, Decision: decision, By: by, At: c.Now()}); err != nil {
					return err
				}
			} else if err := tx.Decide(ctx, class, classes.Decision{RowID: row, Decision: classes.Keep, By: by, At: c.Now()}); err != nil {
				return err
			}
			if decision == classes.Keep {
				return nil
			}
			run := ledger.Run{ID: store.NewID(), ClassID: class, State: ledger.RunPacking, StartedBy: by, StartedAt: c.Now(),
				Kind: ledger.DiscardRun, Title: name}
			return c.packer.Enqueue(ctx, tx, run, l.Steps(s, decision))
		}))
}

// Archive writes what is in a leaver's folders into a ZIP archive in tidy order:
// every folder with what is in it, by name. Nothing is held in memory as a whole.
func (c *Leaving) Archive(ctx context.Context, class, row string, to io.Writer) error {
	s, err := c.PictureNow(ctx, class)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(s.Left, func(s picture.Student) bool { return s.ID == row })
	if i < 0 {
		return seam.ErrNotFound
	}
	l, any := leaving.Of(s, s.Left[i], s.ByRow()[s.Left[i].ID], nil)
	if !any {
		return seam.ErrNotFound
	}
	z := zip.NewWriter(to)
	a := archiver{cup: c.cup, as: s.Owner(), zip: z}
	for _, e := range l.Things {
		t, err := c.cup.Get(ctx, a.as, e.Thing)
		if seam.NotFound(err) == seam.ErrNotFound {
			continue // in the bin, or out of reach
		}
		if err != nil {
			return err
		}
		if err := a.add(ctx, t, "", map[string]bool{}, 0); err != nil {
			return err
		}
	}
	taken := fmt.Sprintf("%s, taken %s.\n", s.Name, c.Moment(c.Now()))
	w, err := z.CreateHeader(&zip.FileHeader{Name: "About this archive.txt", Method: zip.Deflate, Modified: c.Now()})
	if err != nil {
		return err
	}
	if _, err := io.WriteString(w, taken); err != nil {
		return err
	}
	return z.Close()
}

// An archiver writes folders with what is in them into an archive.
type archiver struct {
	cup cupboard.Reader
	as  string
	zip *zip.Writer
}

// mostArchiveDepth is how deep folders in folders are followed.
const mostArchiveDepth = 40

func (a archiver) add(ctx context.Context, t cupboard.Thing, in string, taken map[string]bool, depth int) error {
	ending := ""
	if t.Kind == cupboard.File {
		ending = naming.Ending(t.Name)
	}
	name := naming.Free(t.Name[:len(t.Name)-len(ending)], ending, taken)
	taken[naming.Fold(name)] = true
	full := path.Join(in, name)
	switch {
	case t.Kind == cupboard.Pointer || depth > mostArchiveDepth:
		return nil
	case t.Kind == cupboard.Folder:
		if _, err := a.zip.CreateHeader(&zip.FileHeader{Name: full + "/", Modified: t.ChangedAt}); err != nil {
			return err
		}
		inside, err := a.cup.List(ctx, a.as, t.ID)
		if err != nil {
			return err
		}
		beside := map[string]bool{}
		for _, x := range inside {
			if err := a.add(ctx, x, full, beside, depth+1); err != nil {
				return err
			}
		}
		return nil
	}
	r, _, err := a.cup.Open(ctx, a.as, t.ID, 0)
	if err != nil {
		return err
	}
	defer r.Close()
	w, err := a.zip.CreateHeader(&zip.FileHeader{Name: full, Method: zip.Deflate, Modified: t.ChangedAt})
	if err != nil {
		return err
	}
	_, err = io.Copy(w, r)
	return err
}

// Former says what happens to the satchel that a student had in the class they came from:
// it comes along, or a new one is made here. Along needs a yes of that class's: anyone who
// teaches both says it by asking; of others its teachers and the office are asked, which
// asked reports.
func (c *Leaving) Former(ctx context.Context, by, class, row string, along bool) (asked bool, err error) {
	book, err := c.Book(ctx)
	if err != nil {
		return false, err
	}
	former, err := c.Store.Formers(ctx, class)
	if err != nil {
		return false, err
	}
	f, ok := former[row]
	if !ok {
		return false, seam.ErrNotFound
	}
	both, err := seam.Teaches(ctx, c.Store, by, f.Class)
	if err != nil {
		return false, err
	}
	if along && both {
		return false, c.fetch(ctx, book, by, "mover-brought", class, f)
	}
	cl, err := c.ReadClass(ctx, c.Store, book, class)
	if err != nil {
		return false, err
	}
	st, _ := cl.Student(row)
	verb, decision, held := "mover-anew", classes.Anew, []string{class}
	if along {
		verb, decision = "satchel-asked", classes.Asked
		held = append(held, f.Class) // which sees that it is asked
	}
	act := c.Act(ctx, by, verb, map[string]any{"row": row, "name": st.SortName(), "title": cl.Name}, held...)
	return along, seam.NotFound(c.Store.Change(ctx, act, nil, func(tx *store.Store) error {
		now, err := tx.Formers(ctx, class)
		if err != nil {
			return err
		}
		if now[row] != f {
			return &change.Changed{Field: "list"}
		}
		decided, err := tx.Decisions(ctx, class)
		if err != nil {
			return err
		}
		if d := decided[row].Decision; d == classes.Along || along && (d == classes.Asked || d == classes.Refused) {
			return &change.Changed{Field: "list"} // it is on its way, or was answered
		}
		if err := tx.Decide(ctx, class, classes.Decision{RowID: row, Decision: decision, By: by, At: c.Now()}); err != nil {
			return err
		}
		if !along {
			return tx.DropSatchelRequest(ctx, row)
		}
		return tx.AskForSatchel(ctx, store.SatchelRequest{Row: row, OldRow: f.OldRow, Entry: f.Entry, AskedBy: by, At: c.Now()})
	}))
}

// AnswerRequest says yes or no to who asked for the satchel of somebody who left a class, by
// their row there: one of its teachers does, or the office. asks is the row it was asked for;
// anyone who asks meanwhile for another has no answer by it.
func (c *Leaving) AnswerRequest(ctx context.Context, by, class, oldRow, asks string, yes bool) error {
	book, err := c.Book(ctx)
	if err != nil {
		return err
	}
	may, err := seam.Teaches(ctx, c.Store, by, class)
	if err != nil {
		return err
	}
	if !may && book.Account(by).Role != accounts.Office {
		return seam.ErrNotFound
	}
	requests, err := c.Store.SatchelRequests(ctx, class)
	if err != nil {
		return err
	}
	q, ok := requests[oldRow]
	switch {
	case !ok:
		return seam.ErrNotFound
	case q.Row != asks:
		return &change.Changed{Field: "list"}
	}
	former, err := c.Store.Formers(ctx, q.Class)
	if err != nil {
		return err
	}
	f, ok := former[q.Row]
	if !ok || f.Entry != q.Entry {
		return seam.ErrNotFound
	}
	if yes {
		return c.fetch(ctx, book, by, "satchel-given", q.Class, f)
	}
	cl, err := c.ReadClass(ctx, c.Store, book, q.Class)
	if err != nil {
		return err
	}
	st, _ := cl.Student(q.Row)
	act := c.Act(ctx, by, "satchel-refused", map[string]any{"row": q.Row, "name": st.SortName(), "title": cl.Name}, q.Class, class)
	return seam.NotFound(c.Store.Change(ctx, act, nil, func(tx *store.Store) error {
		now, err := tx.SatchelRequests(ctx, class)
		if err != nil {
			return err
		}
		if now[oldRow] != q {
			return &change.Changed{Field: "list"}
		}
		if err := tx.Decide(ctx, q.Class, classes.Decision{RowID: q.Row, Decision: classes.Refused, By: by, At: c.Now()}); err != nil {
			return err
		}
		return tx.DropSatchelRequest(ctx, q.Row)
	}))
}

// fetch has a satchel come along to the class its student is in now: with its id, link and
// content, to this class's owner, and away from the former staff, who go on reading its
// copies. Anyone who says so teaches the former class, or is of the office.
func (c *Leaving) fetch(ctx context.Context, book *seam.Known, by, verb, class string, f store.Former) error {
	if err := c.Observe(ctx, f.Class, ""); err != nil {
		return err
	}
	cl, err := c.ReadClass(ctx, c.Store, book, class)
	if err != nil {
		return err
	}
	row := f.Row
	st, _ := cl.Student(row)
	act := c.Act(ctx, by, verb, map[string]any{"row": row, "name": st.SortName(), "title": cl.Name}, class, f.Class)
	return seam.NotFound(c.Store.Change(ctx, act, nil, func(tx *store.Store) error {
		now, err := tx.Formers(ctx, class)
		if err != nil {
			return err
		}
		if now[row] != f {
			return &change.Changed{Field: "list"}
		}
		if may, err := seam.Teaches(ctx, tx, by, f.Class); err != nil || !may && book.Account(by).Role != accounts.Office {
			return cmp.Or(err, error(seam.ErrNotFound))
		}
		if verb == "satchel-given" { // what is said yes to is what is asked then
			asked, err := tx.SatchelRequests(ctx, f.Class)
			if err != nil || asked[f.OldRow].Row != row || asked[f.OldRow].Entry != f.Entry {
				return cmp.Or(err, error(&change.Changed{Field: "list"}))
			}
		}
		if err := tx.Decide(ctx, class, classes.Decision{RowID: row, Decision: classes.Along, By: by, At: c.Now()}); err != nil {
			return err
		}
		if err := tx.DropSatchelRequest(ctx, row); err != nil {
			return err
		}
		here, err := c.Picture(ctx, tx, book, class)
		if err != nil {
			return err
		}
		there, err := c.Picture(ctx, tx, book, f.Class)
		if err != nil {
			return err
		}
		if here.Entries[room.SatchelKey(class, row)] != nil {
			return &change.Changed{Field: "list"}
		}
		run := ledger.Run{ID: store.NewID(), ClassID: class, State: ledger.RunPacking, StartedBy: by, StartedAt: c.Now(), Title: st.SortName()}
		step := packing.Step{
			StepKey: packing.StepKey{Key: room.SatchelKey(class, row), Act: packing.Bring, Generation: 1},
			Wanted: packing.Wanted{
				Key: room.SatchelKey(class, row), Kind: packing.Folder, Name: st.SortName(),
				Parent: here.Room.Key(packing.Cloakroom), Owner: here.Owner(), Rule: access.Rule{Grants: map[string]access.Level{}},
			},
			Change: &packing.Change{Bring: leaving.Bringing(f.Entry, f.Thing, f.OldRow, here, there)}, State: packing.Waiting,
		}
		if here.Entries[step.Wanted.Parent] == nil {
			return change.Refuse("decision", "room-first")
		}
		return c.packer.Enqueue(ctx, tx, run, []packing.Step{step})
	}))
}
