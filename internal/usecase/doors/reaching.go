package doors

import (
	"context"
	"slices"
	"strings"

	"jollysatchel/internal/core/doorcheck"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/usecase/seam"
)

// What is everything in a class that the student of a row reaches now, with why.
func (c *Doors) What(ctx context.Context, class, row string) ([]doorcheck.Told, error) {
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
		return []doorcheck.Told{}, nil
	}
	return l.told(c.what(l, all[i].Account)), nil
}

// what is everything of a class that an account reaches, in the order of the tree.
func (c *Doors) what(l *look, account string) []doorcheck.Reach {
	l.world.Found = doorcheck.Sorted(l.world.Found, c.less())
	return l.world.What(account)
}

// Who is everybody who reaches a thing of a class now, with why.
func (c *Doors) Who(ctx context.Context, class, thing string) ([]doorcheck.Told, error) {
	l, err := c.look(ctx, class)
	if err != nil {
		return nil, err
	}
	if !slices.ContainsFunc(l.world.Found, func(f doorcheck.Found) bool { return f.ID == thing }) {
		return nil, seam.ErrNotFound
	}
	out := l.told(l.world.Who(thing))
	naming.NewOrder(c.School().Language).Sort(len(out), func(i int) string { return out[i].Name },
		func(i, j int) { out[i], out[j] = out[j], out[i] })
	return out, nil
}

// less orders names in the school's language.
func (c *Doors) less() func(a, b string) bool { return naming.NewOrder(c.School().Language).Less }

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
