package accounts

import "jollysatchel/internal/core/roster"

// Find returns up to most of the accounts in whose names, address or number
// every word of the query begins a word, in any order, accents and case aside.
func Find(query string, accounts []Account, most int) []Account {
	begins := roster.Begins(query)
	var out []Account
	for _, a := range accounts {
		if len(out) < most && begins(a.Given+" "+a.Family+" "+a.Address+" "+a.Number) {
			out = append(out, a)
		}
	}
	return out
}
