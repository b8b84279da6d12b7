package naming

import (
	"sort"
	"strings"

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
	return Order{collate.New(tag)}
}

// Less reports whether a is before b; names equal to the language are
// ordered by their bytes, so that the order is always the same.
func (o Order) Less(a, b string) bool {
	if c := o.c.CompareString(byValue(a), byValue(b)); c != 0 {
		return c < 0
	}
	return a < b
}

// digits is the width every number is brought to before it is compared; the
// collator's own numeric order puts "0," after "10,".
const digits = 18

// byValue pads each number in s with zeros, so that numbers compare by value.
func byValue(s string) string {
	if strings.IndexFunc(s, isDigit) < 0 {
		return s
	}
	var b strings.Builder
	for s != "" {
		n := strings.IndexFunc(s, isDigit)
		if n < 0 {
			n = len(s)
		}
		b.WriteString(s[:n])
		s = s[n:]
		run := strings.IndexFunc(s, func(r rune) bool { return !isDigit(r) })
		if run < 0 {
			run = len(s)
		}
		if run > 0 {
			number := strings.TrimLeft(s[:run], "0")
			b.WriteString(strings.Repeat("0", max(0, digits-len(number))))
			b.WriteString(number)
		}
		s = s[run:]
	}
	return b.String()
}

func isDigit(r rune) bool { return r >= '0' && r <= '9' }

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
