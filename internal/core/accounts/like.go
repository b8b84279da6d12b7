package accounts

import "strings"

// Like returns the address among accounts that a was likely meant to be: the
// nearest by edit distance, if that is at most 2 and nearer than any other,
// else that of the only account of that name. An empty string means that none
// is.
func Like(a, name string, accounts []Account) string {
	a = strings.ToLower(a)
	best, distance, tie := "", 3, false
	for _, acc := range accounts {
		d := editDistance(a, strings.ToLower(acc.Address), 3)
		switch {
		case d < distance:
			best, distance, tie = acc.Address, d, false
		case d == distance && d < 3:
			tie = true
		}
	}
	if !tie && distance > 0 && distance <= 2 {
		return best
	}
	same := ""
	for _, acc := range accounts {
		if name != "" && strings.EqualFold(acc.Name(), name) {
			if same != "" {
				return ""
			}
			same = acc.Address
		}
	}
	return same
}

// editDistance is the number of letters put in, left out or changed
// (Levenshtein 1965), or at least limit where it is more.
func editDistance(a, b string, limit int) int {
	x, y := []rune(a), []rune(b)
	if len(x)-len(y) >= limit || len(y)-len(x) >= limit {
		return limit
	}
	row := make([]int, len(y)+1)
	for j := range row {
		row[j] = j
	}
	for i := 1; i <= len(x); i++ {
		diagonal, least := row[0], i
		row[0] = i
		for j := 1; j <= len(y); j++ {
			cost := 1
			if x[i-1] == y[j-1] {
				cost = 0
			}
			diagonal, row[j] = row[j], min(row[j]+1, row[j-1]+1, diagonal+cost)
			least = min(least, row[j])
		}
		if least >= limit {
			return limit
		}
	}
	return row[len(y)]
}
