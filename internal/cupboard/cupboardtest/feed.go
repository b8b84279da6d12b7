package cupboardtest

import (
	"errors"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/cupboard"
)

// all reads the feed to its end, a few at a time, and returns what changed.
func (r *room) all(c cupboard.Cupboard, since cupboard.Position) ([]cupboard.Change, cupboard.Position) {
	r.t.Helper()
	var out []cupboard.Change
	for {
		some, next, err := c.Changes(r.ctx, since, 3)
		r.ok(err)
		if len(some) == 0 {
			return out, since
		}
		if len(some) > 3 {
			r.t.Fatalf("%d at once, asked for 3", len(some))
		}
		out, since = append(out, some...), next
	}
}

func things(changes []cupboard.Change) []string {
	var out []string
	for _, c := range changes {
		if !slices.Contains(out, c.Thing) {
			out = append(out, c.Thing)
		}
	}
	slices.Sort(out)
	return out
}

func changes(t *testing.T, r *room) {
	class, satchel := r.classroom()
	pocket := r.folder("oduya", satchel.ID, "Field work")
	c := r.file("oduya", pocket.ID, "log.md", "one")
	table := r.folder("oduya", class.ID, "Table")
	told, at := r.all(r.Cupboard, "")
	ids := []string{class.ID, satchel.ID, pocket.ID, c.ID, table.ID}
	slices.Sort(ids)
	if got := things(told); !slices.Equal(got, ids) {
		t.Errorf("from the beginning: %v, want %v", got, ids)
	}
	mark := access.Mark{By: "oduya"}
	for _, x := range []struct {
		what string
		do   func() error
		of   []string
	}{
		{"writing", func() error { _, err := r.Write(r.ctx, "dube", r.key(), c.ID, 1, strings.NewReader("two")); return err }, []string{c.ID}},
		{"sharing", func() error {
			return r.Share(r.ctx, "oduya", r.key(), table.ID, map[string]access.Level{"dube": access.Read})
		}, []string{table.ID}},
		{"a rule", func() error {
			return r.SetRule(r.ctx, "oduya", r.key(), table.ID, cupboard.RuleChange{Levels: map[string]access.Level{"dube": access.Nothing}})
		}, []string{table.ID}},
		{"a name", func() error { return r.Rename(r.ctx, "oduya", r.key(), c.ID, "x") }, []string{c.ID}},
		{"moving a folder", func() error { return r.Move(r.ctx, "oduya", r.key(), pocket.ID, table.ID) }, []string{pocket.ID, c.ID}},
		{"a mark", func() error { return r.Close(r.ctx, "oduya", r.key(), table.ID, mark) }, []string{table.ID, pocket.ID, c.ID}},
		{"taking it away", func() error { return r.Reopen(r.ctx, "oduya", r.key(), table.ID) }, []string{table.ID, pocket.ID, c.ID}},
		{"the bin", func() error { return r.Bin(r.ctx, "oduya", r.key(), table.ID, nil) }, []string{table.ID, pocket.ID, c.ID}},
		{"restoring", func() error { return r.Restore(r.ctx, "oduya", r.key(), table.ID) }, []string{table.ID, pocket.ID, c.ID}},
		{"handing over", func() error { return r.HandOver(r.ctx, "oduya", r.key(), table.ID, "lindqvist") }, []string{table.ID, pocket.ID, c.ID}},
		{"the end", func() error { return r.Remove(r.ctx, "lindqvist", r.key(), table.ID) }, []string{table.ID, pocket.ID, c.ID}},
	} {
		r.ok(x.do())
		told, next := r.all(r.Stage.Again(), at)
		slices.Sort(x.of)
		if got := things(told); !slices.Equal(got, x.of) {
			t.Errorf("%s is told of %v, want %v", x.what, got, x.of)
		}
		if x.what == "moving a folder" {
			i := slices.IndexFunc(told, func(c cupboard.Change) bool { return c.Thing == pocket.ID })
			if i < 0 || !slices.Contains(told[i].Above, satchel.ID) || !slices.Contains(told[i].Above, table.ID) {
				t.Errorf("moved from and to: %+v", told[i])
			}
		}
		at = next
		if more, _ := r.all(r.Stage.Again(), at); len(more) > 0 {
			t.Errorf("%s is told twice: %+v", x.what, more)
		}
	}
	if end, err := r.Position(r.ctx); err != nil {
		t.Error(err)
	} else if more, _ := r.all(r.Cupboard, end); len(more) > 0 {
		t.Errorf("after its end: %+v", more)
	}
}

// Many write while one reads, page by page: each thing is told of once.
func changesAtOnce(t *testing.T, r *room) {
	class, _ := r.classroom()
	_, at := r.all(r.Cupboard, "")
	const writers, each = 6, 12
	made := make(chan string, writers*each)
	var wg sync.WaitGroup
	keys := make([]string, writers*each)
	for i := range keys {
		keys[i] = r.key()
	}
	for w := range writers {
		wg.Go(func() {
			for i := range each {
				f, err := r.MakeFolder(r.ctx, "oduya", keys[w*each+i], cupboard.NewThing{Parent: class.ID, Name: "x"})
				for errors.Is(err, cupboard.ErrUnavailable) && r.ctx.Err() == nil { // of seventy one can lose all its tries
					f, err = r.MakeFolder(r.ctx, "oduya", keys[w*each+i], cupboard.NewThing{Parent: class.ID, Name: "x"})
				}
				if err != nil {
					t.Error(err)
					return
				}
				made <- f.ID
			}
		})
	}
	finished := make(chan struct{})
	go func() { wg.Wait(); close(finished) }()
	told := map[string]int{}
	read := func() {
		var changes []cupboard.Change
		changes, at = r.all(r.Cupboard, at)
		for _, c := range changes {
			told[c.Thing]++
		}
	}
	for over := false; !over; {
		select {
		case <-finished:
			over = true
		default:
		}
		read()
	}
	close(made)
	n := 0
	for id := range made {
		n++
		if told[id] != 1 {
			t.Errorf("%s is told of %d times", id, told[id])
		}
	}
	if n != writers*each || len(told) != n {
		t.Errorf("%d made, %d told of", n, len(told))
	}
}

func changesTooOld(t *testing.T, r *room) {
	r.folder("oduya", "", "A")
	_, at := r.all(r.Cupboard, "")
	r.folder("oduya", "", "B")
	r.Stage.Pass(100 * 24 * time.Hour)
	r.ok(r.Stage.Forget(r.ctx))
	_, _, err := r.Changes(r.ctx, at, 10)
	r.is(err, cupboard.ErrTooOld, "long after")
	end, err := r.Position(r.ctx)
	r.ok(err)
	c := r.folder("oduya", "", "C")
	if told, _ := r.all(r.Cupboard, end); len(told) != 1 || told[0].Thing != c.ID {
		t.Errorf("from its end: %+v", told)
	}
}
