package naming

import (
	"sort"

	"golang.org/x/text/collate"
	"golang.org/x/text/language"
)

// An Order compares names as the school's language does, numbers by value.
// It is not safe for use by several goroutines at once.
type Order struct{ c *collate.Collator }

// NewOrder returns the order of a language given as a BCP 47 tag; an unknown
// tag gets the root order of the Unicode Collation Algorithm (UTS #10).
func NewOrder(lang string) Order {
	tag, err := language.Parse(lang)
	if err != nil {
		tag = language.Und
	}
	return Order{collate.New(tag, collate.Numeric)}
}

// Less reports whether a stands before b; names equal to the language are
// ordered by their bytes, so that the order is always the same.
func (o Order) Less(a, b string) bool {
	if c := o.c.CompareString(a, b); c != 0 {
		return c < 0
	}
	return a < b
}

// Sort orders n things by the name that key gives for each.
func (o Order) Sort(n int, key func(i int) string, swap func(i, j int)) {
	sort.Sort(byKey{o, n, key, swap})
}

type byKey struct {
	o    Order
	n    int
	key  func(int) string
	swap func(int, int)
}

func (s byKey) Len() int           { return s.n }
func (s byKey) Less(i, j int) bool { return s.o.Less(s.key(i), s.key(j)) }
func (s byKey) Swap(i, j int)      { s.swap(i, j) }
