// Package sheets remembers the rows of lists that wait.
package sheets

import (
	"slices"
	"sync"

	"jollysatchel/internal/core/roster"
)

// A Cache keeps the rows of the sheets that were looked at last, as they
// came: they never change, and a long list takes long to decode.
type Cache struct {
	mu    sync.Mutex
	rows  map[Key][]roster.Row
	order []Key // the latest last
	total int
}

// A Key names a sheet of a list that waits.
type Key struct{ Draft, Sheet, Encoding string }

// New makes an empty one.
func New() *Cache { return &Cache{rows: map[Key][]roster.Row{}} }

// cachedRows bounds what the cache holds.
const cachedRows = 400_000

// Get returns the rows of a sheet, where they are kept.
func (c *Cache) Get(k Key) ([]roster.Row, bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	rows, ok := c.rows[k]
	if ok {
		c.order = append(slices.DeleteFunc(c.order, func(o Key) bool { return o == k }), k)
	}
	return rows, ok
}

// Put keeps the rows of a sheet; what was looked at longest ago goes.
func (c *Cache) Put(k Key, rows []roster.Row) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if _, there := c.rows[k]; there || len(rows) > cachedRows {
		return
	}
	c.rows[k], c.total, c.order = rows, c.total+len(rows), append(c.order, k)
	for c.total > cachedRows {
		c.drop(c.order[0])
	}
}

// Forget drops the sheets of a draft.
func (c *Cache) Forget(draft string) {
	c.mu.Lock()
	defer c.mu.Unlock()
	for _, k := range slices.Clone(c.order) {
		if k.Draft == draft {
			c.drop(k)
		}
	}
}

func (c *Cache) drop(k Key) {
	c.total -= len(c.rows[k])
	delete(c.rows, k)
	c.order = slices.DeleteFunc(c.order, func(o Key) bool { return o == k })
}
