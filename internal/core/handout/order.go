package handout

import "slices"

// Moved is an order in which id is before another; at its end where that is empty or
// not among it.
func Moved(order []string, id, before string) []string {
	out := slices.DeleteFunc(slices.Clone(order), func(x string) bool { return x == id })
	at := slices.Index(out, before)
	if at < 0 || before == "" {
		at = len(out)
	}
	return slices.Insert(out, at, id)
}
