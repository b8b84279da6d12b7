package roster

import "strings"

// Begins returns a test of texts: whether every word of a query begins a word of the text, in any order, accents
// and case aside. No text passes that of a query without words.
func Begins(query string) func(text string) bool {
	asked := strings.Fields(Plain(query))
	return func(text string) bool {
		words := strings.Fields(Plain(text))
		for _, q := range asked {
			found := false
			for _, w := range words {
				found = found || strings.HasPrefix(w, q)
			}
			if !found {
				return false
			}
		}
		return len(asked) > 0
	}
}
