package classroom

import (
	"context"
	"io"
	"strconv"

	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/cupboard"
)

// Filled is how much of a satchel, or of a place the class writes in together, is
// filled, in bytes.
type Filled struct{ Used, Most int64 }

// filled says how much room there is around a thing; ok is false where nobody
// counts: outside of satchels and tables.
func (c *Things) filled(ctx context.Context, account string, t cupboard.Thing) (f Filled, ok bool, err error) {
	ids := []string{t.ID}
	for _, crumb := range t.Path {
		ids = append(ids, crumb.ID)
	}
	entries, err := c.Store.EntriesByThing(ctx, ids)
	if err != nil {
		return f, false, err
	}
	for _, id := range ids {
		e, there := entries[id]
		if !there || e.Key.What.Purpose != packing.Satchel && e.Key.What.Purpose != packing.Table {
			continue
		}
		f.Most = c.School.Quota
		if f.Most == 0 {
			f.Most = UsualQuota
		}
		f.Used, err = c.cup.Weight(ctx, account, id)
		return f, true, notFound(err)
	}
	return f, false, nil
}

// within lets no more be read than there is room for.
func (f Filled) within(r io.Reader) io.Reader { return &roomFor{r, f, f.Most - f.Used} }

type roomFor struct {
	r    io.Reader
	of   Filled
	left int64
}

func (r *roomFor) Read(p []byte) (int, error) {
	n, err := r.r.Read(p)
	if r.left -= int64(n); r.left < 0 {
		return 0, &Invalid{"file", "full", map[string]string{"most": strconv.FormatInt(r.of.Most/1_000_000, 10)}}
	}
	return n, err
}
