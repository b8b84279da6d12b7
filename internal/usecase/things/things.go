// Package things is folders and documents as people open them: what they see, write, arrange, spread
// and open to others, and how much room that takes.
package things

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"io"
	"slices"
	"strings"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/gate"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// Things are folders and documents as people open them.
type Things struct {
	*seam.House
	cup    cupboard.Cupboard
	turns  gate.Turns
	coming coming
	all    weighing
}

// NewThings returns those of a cupboard.
func New(h *seam.House, cup cupboard.Cupboard) *Things {
	return &Things{House: h, cup: cup}
}

// quota is what a place that is counted may weigh.
func (c *Things) quota() int64 { return cmp.Or(c.School().Quota, seam.UsualQuota) }

// A View is a thing as somebody who opened it sees it.
type View struct {
	cupboard.Thing
	Inside  []cupboard.Thing // of a folder
	Class   string           // its class's name; empty: of none
	Teaches string           // id of that class where the account is one of its teachers
	Handout *handout.Handout // of a copy
	Row     string           // whose it is, of its class's rows; empty: of several
	Late    int              // texts that the account sees which came after it closed
	Closing *handout.Closing // from when on the account can't write in it; nil: it stays open
	// School, of what the account may open so, is what everybody of the school may do
	// who has its link.
	School  *access.Level
	Filled  *Filled              // of a satchel or table, and what is in one
	Arrange map[string]Arranging // what the account may do with what is in a folder: all, or name and move it
}

// An Arranging is what somebody may do with a thing beside reading and writing it.
type Arranging string

// What may be done. A student may arrange received copies, and not bin them.
const (
	ArrangeAll  Arranging = "all"
	ArrangeOnly Arranging = "arrange"
)

// See opens a thing as the account sees it, and notes when whom it was made for
// opened it first. A pointer leads to what it points to.
func (c *Things) See(ctx context.Context, account, id string) (cupboard.Thing, error) {
	t, err := c.cup.Get(ctx, account, id)
	if err == nil && t.Kind == cupboard.Pointer {
		t, err = c.cup.Get(ctx, account, t.Target)
	}
	if err != nil {
		return t, seam.NotFound(err)
	}
	class, fresh, err := c.Store.NoteOpening(ctx, t.ID, account, c.Now())
	if err == nil && fresh {
		err = c.Store.Touch(ctx, class)
	}
	return t, err
}

// View opens a thing with what is in it, and says of which class it is.
func (c *Things) View(ctx context.Context, account, id string) (View, error) {
	t, err := c.See(ctx, account, id)
	if err != nil {
		return View{}, err
	}
	v := View{Thing: t}
	if t.Kind == cupboard.Folder {
		if v.Inside, err = c.cup.List(ctx, account, t.ID); err != nil {
			return v, seam.NotFound(err)
		}
	}
	by, err := c.actor(ctx, account, t)
	if err != nil {
		return v, err
	}
	if v.Arrange, err = c.arranging(ctx, account, by, v.Inside); err != nil || by.home == nil {
		return v, err
	}
	e := by.home
	if by.staff {
		v.Teaches = e.Key.Class
	}
	if in, err := c.belongs(ctx, account, e.Key.Class); err != nil || !in {
		return v, err // a stranger sees nothing of the class
	}
	class, err := c.Store.Class(ctx, e.Key.Class)
	if err != nil {
		return v, err
	}
	v.Class = class.Name
	if by.opens(account, t) {
		l, err := c.school(ctx, by, t)
		if err != nil {
			return v, err
		}
		v.School = &l
	}
	if t.Kind == cupboard.Folder {
		place, err := c.counted(ctx, t)
		if err != nil {
			return v, err
		}
		if place != "" {
			f, err := c.filled(ctx, account, place)
			if err != nil {
				return v, err
			}
			v.Filled = &f
		}
	}
	if err := c.ofHandout(ctx, account, by, &v); err != nil {
		return v, err
	}
	return v, c.closed(ctx, account, by, &v)
}

// belongs reports whether an account is on a class's staff, or on its list or was.
func (c *Things) belongs(ctx context.Context, account, class string) (bool, error) {
	staff, err := c.Store.Staff(ctx, class)
	if err != nil || slices.ContainsFunc(staff, func(m classes.Member) bool { return m.Account == account }) {
		return err == nil, err
	}
	rows, err := c.Store.RowsOf(ctx, account)
	return slices.ContainsFunc(rows, func(r classes.Row) bool { return r.ClassID == class }), err
}

// Follow opens what a link leads to.
func (c *Things) Follow(ctx context.Context, account, link string) (View, error) {
	t, err := c.cup.ByLink(ctx, account, link)
	if err != nil {
		return View{}, seam.NotFound(err)
	}
	return c.View(ctx, account, t.ID)
}

// ErrNoFile says that what was to be read is no file.
var ErrNoFile = errors.New("things: no file")

// Open opens a file's content; version 0 is the newest. Close it.
func (c *Things) Open(ctx context.Context, account, id string, version int) (cupboard.Thing, io.ReadSeekCloser, cupboard.Version, error) {
	t, err := c.See(ctx, account, id)
	if err == nil && t.Kind != cupboard.File {
		err = ErrNoFile
	}
	if err != nil {
		return t, nil, cupboard.Version{}, err
	}
	r, v, err := c.cup.Open(ctx, account, t.ID, version)
	return t, r, v, seam.NotFound(err)
}

// Versions returns a file's versions, newest first.
func (c *Things) Versions(ctx context.Context, account, id string) ([]cupboard.Version, error) {
	vs, err := c.cup.Versions(ctx, account, id)
	return vs, seam.NotFound(err)
}

// Get returns a thing without opening it.
func (c *Things) Get(ctx context.Context, account, id string) (cupboard.Thing, error) {
	t, err := c.cup.Get(ctx, account, id)
	return t, seam.NotFound(err)
}

// home returns the entry of the ledger a thing belongs to: its own, else that of the nearest folder above with one.
func (c *Things) home(ctx context.Context, t cupboard.Thing) (ledger.Entry, bool, error) {
	above, err := c.above(ctx, t)
	if err != nil || len(above) == 0 {
		return ledger.Entry{}, false, err
	}
	return above[0], true, nil
}

// homes is home of several things, by their ids.
func (c *Things) homes(ctx context.Context, things map[string]cupboard.Thing) (map[string]ledger.Entry, error) {
	var ids []string
	for id, t := range things {
		ids = append(ids, id)
		for _, crumb := range t.Path {
			ids = append(ids, crumb.ID)
		}
	}
	entries, err := c.Store.EntriesByThing(ctx, ids)
	if err != nil {
		return nil, err
	}
	out := make(map[string]ledger.Entry, len(things))
	for id, t := range things {
		e, ok := entries[id]
		for i := len(t.Path) - 1; i >= 0 && !ok; i-- {
			e, ok = entries[t.Path[i].ID]
		}
		if ok {
			out[id] = e
		}
	}
	return out, nil
}

// Write keeps a new version of a file. A Conflict tells that somebody wrote
// meanwhile; nothing is overwritten. The same key with another text is refused:
// the cupboard has answered with what it kept before.
func (c *Things) Write(ctx context.Context, account, key, id string, base int, content io.Reader) (cupboard.Version, error) {
	t, err := c.Get(ctx, account, id)
	if err != nil {
		return cupboard.Version{}, err
	}
	return c.WriteTo(ctx, account, key, t, base, content)
}

// WriteTo is Write of a file that was looked at.
func (c *Things) WriteTo(ctx context.Context, account, key string, t cupboard.Thing, base int,
	content io.Reader) (cupboard.Version, error) {
	sum := sha256.New()
	text := io.TeeReader(content, sum)
	room, done, err := c.roomFor(ctx, account, t, text)
	if err != nil {
		return cupboard.Version{}, err
	}
	write := func() (cupboard.Version, error) {
		return c.cup.Write(ctx, account, "write/"+t.ID+"/"+key, t.ID, base, c.whileOpen(ctx, account, t, room))
	}
	v, err := write()
	if errors.Is(err, cupboard.ErrNoRight) { // nothing of it was read yet
		if err = c.lifted(ctx, account, t, err); err == nil {
			v, err = write()
		}
	}
	done(err)
	if err != nil {
		return v, seam.NotFound(err)
	}
	c.Observer.Soon()
	if err := c.shutBegun(context.WithoutCancel(ctx), account, t); err != nil {
		c.Log.Warn("a link isn't shut", "error", err)
	}
	if _, err := io.Copy(io.Discard, text); err != nil { // a request answered before isn't read by the cupboard
		return v, err
	}
	if v.SHA != "" && v.SHA != hex.EncodeToString(sum.Sum(nil)) {
		return v, store.ErrKey
	}
	return v, nil
}

// AddFile puts a file into a folder. A name that is taken there gets a counter.
// The same key with another content is refused.
func (c *Things) AddFile(ctx context.Context, account, key, folder, name, mediaType string, content io.Reader) (cupboard.Thing, error) {
	f, err := c.cup.Get(ctx, account, folder)
	if err != nil {
		return f, seam.NotFound(err)
	}
	if f.Kind != cupboard.Folder {
		return f, cupboard.ErrNoRight
	}
	if err := c.roomIn(ctx, account, &f); err != nil {
		return f, err
	}
	name, err = c.free(ctx, account, folder, name)
	if err != nil {
		return f, err
	}
	sum := sha256.New()
	file := io.TeeReader(content, sum)
	room, done, err := c.roomFor(ctx, account, f, file)
	if err != nil {
		return f, err
	}
	t, err := c.cup.AddFile(ctx, account, "add/"+account+"/"+key, cupboard.NewThing{Parent: folder, Name: name, MediaType: mediaType},
		c.whileOpen(ctx, account, f, room))
	done(err)
	if err != nil {
		return t, seam.NotFound(err)
	}
	if _, err := io.Copy(io.Discard, file); err != nil {
		return t, err
	}
	if t, err = c.toldApart(ctx, account, key, folder, t); err != nil {
		return t, seam.NotFound(err)
	}
	if err := c.lookAround(ctx, t); err != nil {
		return t, err
	}
	return t, c.claimed(ctx, account, "add/"+key, folder+" "+hex.EncodeToString(sum.Sum(nil)))
}

// toldApart gives another name to a thing that was added at the same time as
// another of its name. Of a folder's things one is looked at at a time, and whichever
// finds another of its name makes way: the one that is looked at last finds none. (Which
// was made first can't be told: it may be seen last.)
func (c *Things) toldApart(ctx context.Context, account, key, folder string, t cupboard.Thing) (cupboard.Thing, error) {
	err := c.alone(ctx, folder, func() error {
		there, err := c.cup.List(ctx, account, folder)
		if err != nil {
			return err
		}
		taken := map[string]bool{}
		for _, other := range there {
			if other.ID == t.ID {
				t.Name = other.Name // also where it made way before
			} else {
				taken[naming.Fold(other.Name)] = true
			}
		}
		if !taken[naming.Fold(t.Name)] {
			return nil
		}
		ending := naming.Ending(t.Name)
		t.Name = naming.Free(strings.TrimSuffix(t.Name, ending), ending, taken)
		return c.cup.Rename(ctx, account, "add/"+account+"/"+key+"/apart", t.ID, t.Name)
	})
	return t, err
}

// alone does what is done to one folder at a time, by all programs there are.
func (c *Things) alone(ctx context.Context, folder string, do func() error) error {
	leave, err := c.turns.Take(ctx, folder)
	if err != nil {
		return err
	}
	defer leave()
	return c.Store.Alone(ctx, "folder/"+folder, do)
}

// lookAround has it seen at once that something was added, so that anyone who added
// it finds it; where the cupboard doesn't answer just now, its changes will tell.
func (c *Things) lookAround(ctx context.Context, t cupboard.Thing) error {
	var above []string
	for _, crumb := range t.Path {
		above = append(above, crumb.ID)
	}
	concerns, err := c.Store.ConcernsOf(ctx, []string{t.ID}, above)
	if err != nil {
		return err
	}
	if err := c.Observer.Observe(ctx, concerns); err != nil && !seam.Unavailable(err) {
		return err
	}
	c.Observer.Soon()
	return nil
}

// claimed refuses a key that was used for another content before.
func (c *Things) claimed(ctx context.Context, account, key, content string) error {
	act := store.Act{By: account, Key: key, Content: content, At: c.Now()}
	return c.Store.Change(ctx, act, nil, func(*store.Store) error { return nil })
}

// free returns a safe name that nothing in the folder has yet.
func (c *Things) free(ctx context.Context, account, folder, name string) (string, error) {
	there, err := c.cup.List(ctx, account, folder)
	if err != nil {
		return "", seam.NotFound(err)
	}
	if len(there) >= mostInFolder {
		return "", change.TooMany("file", "folder-full", mostInFolder)
	}
	taken := map[string]bool{}
	for _, t := range there {
		taken[naming.Fold(t.Name)] = true
	}
	name = name[strings.LastIndexAny(name, `/\`)+1:]
	ending := naming.Ending(name)
	return naming.Free(strings.TrimSuffix(name, ending), ending, taken), nil
}

// Conflict tells of a cupboard's refusal to overwrite a newer version.
func Conflict(err error) (cupboard.Version, bool) {
	var conflict *cupboard.Conflict
	if errors.As(err, &conflict) {
		return conflict.Current, true
	}
	return cupboard.Version{}, false
}
