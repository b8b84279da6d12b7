package record

import (
	"maps"
	"slices"
)

// Table writes records as a table whose headings are recognised again; of a class, where it is named.
func Table(class string, records []Record) [][]string {
	seen := map[string]bool{}
	for _, r := range records {
		for h := range r.Extra {
			seen[h] = true
		}
	}
	extras := slices.Sorted(maps.Keys(seen))
	fields := []Field{Family, Given, Preferred, Number, Address, Period, Level, Team}
	var head []string
	for _, f := range fields {
		head = append(head, f.Label())
	}
	if class != "" {
		head = slices.Insert(head, 5, Code.Label())
	}
	out := [][]string{append(head, extras...)}
	for _, r := range records {
		var cells []string
		for _, f := range fields {
			cells = append(cells, r.Get(f))
		}
		if class != "" {
			cells = slices.Insert(cells, 5, class)
		}
		for _, h := range extras {
			cells = append(cells, r.Extra[h])
		}
		out = append(out, cells)
	}
	return out
}
