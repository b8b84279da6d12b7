package accounts

import (
	"strings"

	"jollysatchel/internal/core/roster"
)

// Find returns up to most of the accounts in whose names, address or number
// every word of the query begins a word, in any order, accents and case aside.
func Find(query string, accounts []Account, most int) []Account {
	asked := strings.Fields(roster.Plain(query))
	if len(asked) == 0 {
		return nil
	}
	var out []Account
	for _, a := range accounts {
		words := strings.Fields(roster.Plain(a.Given + " " + a.Family + " " + a.Address + " " + a.Number))
		all := true
		for _, q := range asked {
			found := false
			for _, w := range words {
				found = found || strings.HasPrefix(w, q)
			}
			all = all && found
		}
		if all {
			if out = append(out, a); len(out) == most {
				break
			}
		}
	}
	return out
}
