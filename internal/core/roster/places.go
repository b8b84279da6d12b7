package roster

import (
	"jollysatchel/internal/core/naming"
)

// places finds the students with a key, in the order they were added, without
// a slice for each: next is the place of the one before with the same key.
type places struct {
	last map[string]int32
	next []int32
	// what was asked for last: it is what will be added
	key   string
	found int32
}

func newPlaces(n int) places {
	return places{last: make(map[string]int32, n), next: make([]int32, 0, n), found: -1}
}

func (p *places) find(key string) int32 {
	if key == "" {
		return -1
	}
	if p.key != key {
		p.key, p.found = key, -1
		if i, ok := p.last[key]; ok {
			p.found = i
		}
	}
	return p.found
}

// add keeps the key of the student at the next place; empty keys are nobody's.
func (p *places) add(key string) {
	before := p.find(key)
	if key != "" {
		p.found = int32(len(p.next))
		p.last[key] = p.found
	}
	p.next = append(p.next, before)
}

// of yields the places of the students with a key, the latest first.
func (p *places) of(key string) func(yield func(int) bool) {
	return func(yield func(int) bool) {
		for i := p.find(key); i >= 0 && yield(int(i)); {
			i = p.next[i]
		}
	}
}

// divide parts the rows into the heading and the body below it.
func (r *reader) divide(rows []Row) (head []string, body []Row) {
	at := -1
	if r.opt.Heading != nil {
		for i, row := range rows {
			if row.Line == *r.opt.Heading {
				at = i
			}
		}
	} else {
		at = headingRow(rows)
	}
	if at < 0 {
		return nil, rows
	}
	r.res.HeadingRow = rows[at].Line
	return rows[at].Cells, rows[at+1:]
}

// ofClass returns the rows of the class that is asked for.
func (r *reader) ofClass(body []Row) []Row {
	wanted := naming.Fold(r.opt.Class)
	var out []Row
	for _, row := range body {
		if f := r.at.class; f >= 0 && f < len(row.Cells) {
			if v, _ := tidy(row.Cells[f]); naming.Fold(v) == wanted {
				out = append(out, row)
			}
		}
	}
	return out
}

func (r *reader) add(f Finding) { r.res.Findings = append(r.res.Findings, f) }
