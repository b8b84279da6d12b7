package doors

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"jollysatchel/internal/core/doorcheck"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/usecase/seam"
)

// A Reach is what somebody may do with a thing and why, in names.
type Reach struct {
	doorcheck.Reach
	Person string // empty: everybody of the school
	Row    string // of the class's list, of a student
	Name   string // of the thing
	In     string // what the folder is called that it lies in
	Folder string // what the folder is called that gives it; of one that is let in, whose copy it is
}

// mostReaches are answered at once.
const mostReaches = 2000

// What is everything in a class that the student of a row reaches now, with why.
func (c *Doors) What(ctx context.Context, class, row string) ([]Reach, error) {
	l, err := c.look(ctx, class)
	if err != nil {
		return nil, err
	}
	all := slices.Concat(l.Students, l.Left)
	i := slices.IndexFunc(all, func(s picture.Student) bool { return s.ID == row })
	if i < 0 {
		return nil, seam.ErrNotFound
	}
	if all[i].Account == "" {
		return []Reach{}, nil
	}
	l.world.Found = doorcheck.Sorted(l.world.Found, c.less())
	return l.named(l.world.What(all[i].Account)), nil
}

// Who is everybody who reaches a thing of a class now, with why.
func (c *Doors) Who(ctx context.Context, class, thing string) ([]Reach, error) {
	l, err := c.look(ctx, class)
	if err != nil {
		return nil, err
	}
	if !slices.ContainsFunc(l.world.Found, func(f doorcheck.Found) bool { return f.ID == thing }) {
		return nil, seam.ErrNotFound
	}
	out := l.named(l.world.Who(thing))
	naming.NewOrder(c.School().Language).Sort(len(out), func(i int) string { return out[i].Person },
		func(i, j int) { out[i], out[j] = out[j], out[i] })
	return out, nil
}

// less orders names in the school's language.
func (c *Doors) less() func(a, b string) bool { return naming.NewOrder(c.School().Language).Less }

func (l *look) named(all []doorcheck.Reach) []Reach {
	called, in := map[string]string{}, map[string]string{}
	for _, f := range l.world.Found {
		called[f.ID], in[f.ID] = f.Name, f.Parent
	}
	listed := map[string]picture.Student{}
	for _, st := range slices.Concat(l.Left, l.Students) {
		listed[st.Account] = st
	}
	out := make([]Reach, 0, min(len(all), mostReaches))
	for _, r := range all[:min(len(all), mostReaches)] {
		x := Reach{Reach: r, Name: called[r.Thing], In: called[in[r.Thing]], Folder: called[r.From]}
		if r.Who != "" {
			x.Person = cmp.Or(l.book.Called(r.Who), r.Who)
		}
		if st, ok := listed[r.Who]; ok && r.Who != "" {
			x.Person, x.Row = st.Name(), st.ID
		}
		if e := l.ByThing[r.Thing]; r.Way == doorcheck.LetIn && e != nil {
			x.Folder = l.NameOf(e.Key.Whom.Row)
		}
		out = append(out, x)
	}
	return out
}

// A Listed is a thing of a class's tree, for somebody who looks for one.
type Listed struct {
	ID, Name string
	Folder   bool
	Depth    int
}

// mostListed things are listed at once.
const mostListed = 200

// Things are the folders and files of a class's tree whose name holds a text, each folder before
// what is in it; more reports that there are others.
func (c *Doors) Things(ctx context.Context, class, find string) (out []Listed, more bool, err error) {
	l, err := c.look(ctx, class)
	if err != nil {
		return nil, false, err
	}
	depth := map[string]int{}
	out, find = []Listed{}, naming.Fold(strings.TrimSpace(find))
	for _, f := range doorcheck.Sorted(l.world.Found, c.less()) {
		if d, ok := depth[f.Parent]; ok {
			depth[f.ID] = d + 1
		} else {
			depth[f.ID] = 0
		}
		if f.Place != ledger.Lies || !strings.Contains(naming.Fold(f.Name), find) {
			continue
		}
		if len(out) == mostListed {
			return out, true, nil
		}
		out = append(out, Listed{f.ID, f.Name, f.Folder, depth[f.ID]})
	}
	return out, false, nil
}
