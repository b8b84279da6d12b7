package classroom

import (
	"context"
	"io"
	"strconv"
	"strings"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/progress"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

func compare(first, now string) progress.Change { return progress.Compare(first, now) }

// Home returns the entry of the ledger a thing belongs to: its own, else that
// of the nearest folder above it that has one.
func (c *Classroom) Home(ctx context.Context, t cupboard.Thing) (store.Entry, bool) {
	ids := []string{t.ID}
	for i := len(t.Path) - 1; i >= 0; i-- {
		ids = append(ids, t.Path[i].ID)
	}
	for _, id := range ids {
		if e, err := c.Store.EntryByThing(ctx, id); err == nil {
			return e, true
		}
	}
	return store.Entry{}, false
}

// See returns a thing as the account sees it, and notes the first opening of a
// thing that was made for them.
func (c *Classroom) See(ctx context.Context, account, id string) (cupboard.Thing, error) {
	t, err := c.Cup.Get(ctx, account, id)
	if err != nil {
		return t, notFound(err)
	}
	if t.Kind == cupboard.Pointer {
		return c.See(ctx, account, t.Target)
	}
	e, err := c.Store.EntryByThing(ctx, t.ID)
	if err != nil {
		return t, nil // not one of the ledger's
	}
	if fresh, err := c.Store.NoteOpening(ctx, t.ID, account, c.Now()); err != nil {
		return t, err
	} else if fresh {
		return t, c.Store.Touch(ctx, e.ClassID)
	}
	return t, nil
}

// Write keeps a new version of a file. A Conflict tells that somebody wrote
// meanwhile; nothing is overwritten.
func (c *Classroom) Write(ctx context.Context, account, key, id string, base int, content io.Reader) (cupboard.Version, error) {
	v, err := c.Cup.Write(ctx, account, "write/"+id+"/"+key, id, base, content)
	if err != nil {
		return v, notFound(err)
	}
	t, err := c.Cup.Get(ctx, account, id)
	if err != nil {
		return v, nil // written all the same
	}
	e, ok := c.Home(ctx, t)
	if !ok {
		return v, nil
	}
	if e.Thing == id {
		if _, err := c.measure(ctx, account, e, v); err != nil {
			return v, err
		}
	}
	return v, c.Store.Touch(ctx, e.ClassID)
}

// AddFile puts a file into a folder. A name that is taken there gets a counter.
func (c *Classroom) AddFile(ctx context.Context, account, key, folder, name, mediaType string, content io.Reader) (cupboard.Thing, error) {
	f, err := c.Cup.Get(ctx, account, folder)
	if err != nil {
		return f, notFound(err)
	}
	if f.Kind != cupboard.Folder || f.Level < access.Edit {
		return f, cupboard.ErrNoRight
	}
	name, err = c.free(ctx, account, folder, name)
	if err != nil {
		return f, err
	}
	t, err := c.Cup.AddFile(ctx, account, "add/"+account+"/"+key, cupboard.NewThing{Parent: folder, Name: name, MediaType: mediaType}, content)
	if err != nil {
		return t, err
	}
	if e, ok := c.Home(ctx, t); ok {
		err = c.Store.Touch(ctx, e.ClassID)
	}
	return t, err
}

// free returns a safe name that nothing in the folder has yet.
func (c *Classroom) free(ctx context.Context, account, folder, name string) (string, error) {
	there, err := c.Cup.List(ctx, account, folder)
	if err != nil {
		return "", notFound(err)
	}
	taken := map[string]bool{}
	for _, t := range there {
		taken[naming.Fold(t.Name)] = true
	}
	name = name[strings.LastIndexAny(name, `/\`)+1:]
	ending := naming.Ending(name)
	stem := strings.TrimSuffix(name, ending)
	out := naming.Safe(stem, ending)
	for n := 2; taken[naming.Fold(out)]; n++ {
		out = naming.Safe(stem+" ("+strconv.Itoa(n)+")", ending)
	}
	return out, nil
}

// A StudentClass is one class as one of its students sees it.
type StudentClass struct {
	Class   store.Class
	Staff   []store.StaffMember
	Satchel *cupboard.Thing
	Inside  []cupboard.Thing // what lies in the satchel
	Shelf   *cupboard.Thing
	Table   *cupboard.Thing
	Copies  []StudentCopy
}

// A StudentCopy is one copy a student was given.
type StudentCopy struct {
	Thing   cupboard.Thing
	Handout store.Handout
	Work    store.Work
}

// StudentHome returns the classes of an account and what the student has in
// each, as the cupboard shows it to them: nobody else's things are looked at.
func (c *Classroom) StudentHome(ctx context.Context, account string) ([]StudentClass, error) {
	rows, err := c.Store.MembersOf(ctx, account)
	if err != nil {
		return nil, err
	}
	out := []StudentClass{}
	for _, m := range rows {
		sc, err := c.studentClass(ctx, account, m)
		if err != nil {
			return nil, err
		}
		if !m.LeftAt.Valid || sc.Satchel != nil || len(sc.Copies) > 0 {
			out = append(out, sc)
		}
	}
	return out, nil
}

func (c *Classroom) studentClass(ctx context.Context, account string, m store.Member) (StudentClass, error) {
	var sc StudentClass
	var err error
	if sc.Class, err = c.Store.Class(ctx, m.ClassID); err != nil {
		return sc, err
	}
	if sc.Staff, err = c.Store.Staff(ctx, m.ClassID); err != nil {
		return sc, err
	}
	ledger, err := c.Store.Ledger(ctx, m.ClassID)
	if err != nil {
		return sc, err
	}
	works, err := c.Store.Works(ctx, m.ClassID)
	if err != nil {
		return sc, err
	}
	for _, e := range ledger {
		mine := e.PersonID.String == m.PersonID
		if !mine && e.Purpose != "shelf" && e.Purpose != "table" {
			continue
		}
		t, err := c.Cup.Get(ctx, account, e.Thing)
		if err != nil {
			if notFound(err) == ErrNotFound {
				continue // made and not shared yet
			}
			return sc, err
		}
		switch e.Purpose {
		case "satchel":
			sc.Satchel = &t
			if sc.Inside, err = c.Cup.List(ctx, account, t.ID); err != nil {
				return sc, err
			}
		case "shelf":
			sc.Shelf = &t
		case "table":
			sc.Table = &t
		case "copy":
			h, err := c.Store.Handout(ctx, m.ClassID, e.HandoutID.String)
			if err != nil {
				return sc, err
			}
			sc.Copies = append(sc.Copies, StudentCopy{t, h, works[t.ID]})
		}
	}
	return sc, nil
}
