package classroom

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"io"
	"strconv"
	"strings"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
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
		return t, c.Store.Touch(ctx, e.Key.Class)
	}
	return t, nil
}

// Write keeps a new version of a file. A Conflict tells that somebody wrote
// meanwhile; nothing is overwritten. The same key with another text is refused:
// the cupboard has answered with what it kept before.
func (c *Classroom) Write(ctx context.Context, account, key, id string, base int, content io.Reader) (cupboard.Version, error) {
	sum := sha256.New()
	text := io.TeeReader(content, sum)
	v, err := c.Cup.Write(ctx, account, "write/"+id+"/"+key, id, base, text)
	if err != nil {
		return v, notFound(err)
	}
	if _, err := io.Copy(io.Discard, text); err != nil { // a request answered before isn't read by the cupboard
		return v, err
	}
	if v.SHA != "" && v.SHA != hex.EncodeToString(sum.Sum(nil)) {
		return v, store.ErrKey
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
	return v, c.Store.Touch(ctx, e.Key.Class)
}

// AddFile puts a file into a folder. A name that is taken there gets a counter.
// The same key with another content is refused.
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
	sum := sha256.New()
	file := io.TeeReader(content, sum)
	t, err := c.Cup.AddFile(ctx, account, "add/"+account+"/"+key, cupboard.NewThing{Parent: folder, Name: name, MediaType: mediaType}, file)
	if err != nil {
		return t, err
	}
	if _, err := io.Copy(io.Discard, file); err != nil {
		return t, err
	}
	if err := c.claimed(ctx, account, "add/"+key, folder+" "+hex.EncodeToString(sum.Sum(nil))); err != nil {
		return t, err
	}
	if e, ok := c.Home(ctx, t); ok {
		err = c.Store.Touch(ctx, e.Key.Class)
	}
	return t, err
}

// claimed refuses a key that was used for another content before.
func (c *Classroom) claimed(ctx context.Context, account, key, content string) error {
	act := store.Act{By: account, Key: key, Content: content, At: c.Now()}
	return c.Store.Change(ctx, act, nil, func(*store.Store) error { return nil })
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
	rows, err := c.Store.RowsOf(ctx, account)
	if err != nil {
		return nil, err
	}
	out := []StudentClass{}
	for _, m := range rows {
		sc, err := c.studentClass(ctx, account, m)
		if err != nil {
			return nil, err
		}
		if !m.Gone || sc.Satchel != nil || len(sc.Copies) > 0 {
			out = append(out, sc)
		}
	}
	return out, nil
}

func (c *Classroom) studentClass(ctx context.Context, account string, m store.Row) (StudentClass, error) {
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
		purpose := e.Key.What.Purpose
		if e.Key.Whom.Row != m.ID && purpose != packing.Shelf && purpose != packing.Table {
			continue
		}
		t, err := c.Cup.Get(ctx, account, e.Thing)
		if err != nil {
			if notFound(err) == ErrNotFound {
				continue // made and not shared yet
			}
			return sc, err
		}
		switch purpose {
		case packing.Satchel:
			sc.Satchel = &t
			if sc.Inside, err = c.Cup.List(ctx, account, t.ID); err != nil {
				return sc, err
			}
		case packing.Shelf:
			sc.Shelf = &t
		case packing.Table:
			sc.Table = &t
		case packing.Copy:
			h, err := c.Store.Handout(ctx, m.ClassID, e.Key.What.ID)
			if err != nil {
				return sc, err
			}
			sc.Copies = append(sc.Copies, StudentCopy{t, h, works[t.ID]})
		}
	}
	return sc, nil
}
