package roster

import (
	"slices"
	"strconv"
	"strings"

	"jollysatchel/internal/core/naming"
)

func (r *reader) columnFindings(head []string, width int) {
	if width > MaxColumns {
		r.add(finding(max(r.res.HeadingRow, 1), -1, "", "too-many-columns", "count", strconv.Itoa(width), "most", strconv.Itoa(MaxColumns)))
	}
	if _, ok := r.fields[Address]; !ok && r.opt.Derive == "" {
		r.add(finding(max(r.res.HeadingRow, 1), -1, "", "no-address-column"))
	}
	for i, c := range r.res.Columns {
		if c.Note == "no-heading" && r.res.HeadingRow > 0 {
			r.add(finding(r.res.HeadingRow, i, c.Heading, "heading-missing", "column", c.Heading))
		}
	}
	seen := map[string]bool{}
	for i, h := range head[:min(len(head), len(r.res.Columns))] {
		if r.res.Columns[i].Note == noRoom {
			continue // it isn't kept
		}
		if f := Plain(h); f != "" {
			if seen[f] {
				r.add(finding(r.res.HeadingRow, i, strings.TrimSpace(h), "heading-twice", "heading", strings.TrimSpace(h)))
			}
			seen[f] = true
		}
	}
}

// warn adds a warning, of which a page is told the first alone.
func (r *reader) warn(row, field int, heading, code string, pairs ...string) {
	if r.warned == nil {
		r.warned = map[string]int{}
	}
	r.warned[code]++
	if r.opt.MostWarnings == 0 || r.warned[code] <= r.opt.MostWarnings {
		r.add(finding(row, field, heading, code, pairs...))
	}
}

// out adds a finding that keeps its row out.
func (r *reader) out(f Finding) {
	r.add(f)
	r.res.Counts.LeftOut++
}

func sameCells(a, b []string) bool {
	if len(b) == 0 {
		return false
	}
	for i := range max(len(a), len(b)) {
		var x, y string
		if i < len(a) {
			x = strings.TrimSpace(a[i])
		}
		if i < len(b) {
			y = strings.TrimSpace(b[i])
		}
		if x != y {
			return false
		}
	}
	return true
}

// doubts tells of what may be wrong with a row's team and names; gf and ff are
// the columns the names come from.
func (r *reader) doubts(row Row, s *Student, gf, ff int) {
	if f := r.at.team; strings.ContainsAny(s.Team, ",;") {
		r.warn(row.Line, f, r.heading(f), "two-teams", "value", s.Team)
	}
	if r.ascii {
		return
	}
	if mixesScripts(s.Family) {
		r.warn(row.Line, ff, r.heading(ff), "look-alike", "value", s.Family)
	}
	if mixesScripts(s.Given) {
		r.warn(row.Line, gf, r.heading(gf), "look-alike", "value", s.Given)
	}
}

// again reports a row whose number or address another row of the class has: it
// stays out.
func (r *reader) again(row Row, s *Student, account string) bool {
	for i := range r.numbers.of(s.Number) {
		// One person may have rows in several classes.
		if o := &r.res.Students[i]; o.Class == s.Class && o.Period == s.Period {
			r.twice(row, *s, Number, *o)
			return true
		}
	}
	for i := range r.accounts.of(account) {
		o := &r.res.Students[i]
		if o.Name() != s.Name() {
			f := r.at.address
			r.add(finding(row.Line, f, r.heading(f), "address-twice", "address", s.Address, "other", o.Name(), "first", strconv.Itoa(o.Row)))
			return true
		}
		if o.Class == s.Class && o.Period == s.Period {
			r.twice(row, *s, Address, *o)
			return true
		}
	}
	return false
}

// inBook asks the school book about a row's address. One that isn't a student's
// keeps the row out.
func (r *reader) inBook(row Row, s *Student) bool {
	if s.Address == "" {
		return true
	}
	var k Knowing
	if r.opt.Known != nil {
		k = r.opt.Known(s.Address, s.Record)
	}
	f := r.at.address
	if k.Account.ID != "" && !k.Account.Student {
		r.add(finding(row.Line, f, r.heading(f), AccountNoStudent, "address", s.Address))
		return false
	}
	r.addressDoubts(*s, row, f, k)
	return true
}

func (r *reader) twice(row Row, s Student, by Role, first Student) {
	f := r.fields[by]
	r.add(finding(row.Line, f, r.heading(f), "student-twice", "name", s.Name(), "first", strconv.Itoa(first.Row), "by", string(by)))
}

// addressProblem returns the code of what keeps the row out because of its
// address, with arguments in turn.
func (r *reader) addressProblem(s Student) (string, []string) {
	if s.Address == "" {
		args := []string{"name", s.Name()}
		if r.opt.Known != nil {
			if like := r.opt.Known("", s.Record).Suggestion; like != "" {
				args = append(args, "suggestion", like)
			}
		}
		return "address-missing", args
	}
	if why := AddressForm(s.Address); why != "" {
		args := []string{"value", s.Address, "why", why}
		m := mendAddress(s.Address, r.usual)
		if r.opt.Known != nil {
			if k := r.opt.Known(m, s.Record); !k.Known && k.Suggestion != "" {
				m = k.Suggestion
			}
		}
		if m != "" {
			args = append(args, "suggestion", m)
		}
		return "address-malformed", args
	}
	return "", nil
}

func (r *reader) addressDoubts(s Student, row Row, af int, k Knowing) {
	if !r.ascii && mixesScripts(s.Address) {
		r.warn(row.Line, af, r.heading(af), "look-alike", "value", s.Address)
	}
	if r.opt.Domain != "" && domainOf(s.Address) != strings.ToLower(r.opt.Domain) {
		r.warn(row.Line, af, r.heading(af), "domain-other", "address", s.Address, "domain", r.opt.Domain)
	}
	switch {
	case r.opt.Known == nil:
	case !k.Known:
		args := []string{"address", s.Address}
		if k.Suggestion != "" {
			args = append(args, "suggestion", k.Suggestion)
		}
		r.warn(row.Line, af, r.heading(af), "account-unknown", args...)
	case k.Account.ID != "" && !r.opt.Same[row.Line] && !SameName(s.Record, k.Account.record()):
		r.warn(row.Line, af, r.heading(af), AccountOtherName, "address", s.Address, "theirs", k.Account.record().Name(), "name", s.Name())
	}
}

// extra returns the values of the extra columns. Rows whose one or two values
// are the same share a map, which nobody writes to.
func (r *reader) extra() map[string]string {
	var key [2]string
	few := len(r.extras) <= len(key)
	if few {
		for n, i := range r.extras {
			if i < len(r.cells) {
				key[n] = r.cells[i]
			} else {
				key[n] = "\x00" // the row ends before: not the same as blank
			}
		}
		if m, ok := r.same[key]; ok {
			return m
		}
	}
	m := make(map[string]string, len(r.extras))
	for _, i := range r.extras {
		if h := r.res.Columns[i].Heading; h != "" && i < len(r.cells) {
			v := r.cells[i]
			if _, twice := m[h]; !twice || v != "" {
				m[h] = v
			}
		}
	}
	if few && len(r.same) < 1000 {
		r.same[key] = m
	}
	return m
}

// nameHash is equal for students of one name in one class, and hardly for others.
func (s *Student) nameHash() uint64 {
	const offset, prime = 14695981039346656037, 1099511628211 // FNV-1a
	h := uint64(offset)
	for _, part := range [...]string{s.Given, s.Family, s.Preferred, "\x00", s.Class} {
		if !plainASCII(part) {
			part = naming.Fold(part)
		}
		for i := 0; i < len(part); i++ {
			c := part[i]
			if c >= 'A' && c <= 'Z' {
				c += 'a' - 'A'
			}
			if c != ' ' {
				h = (h ^ uint64(c)) * prime
			}
		}
	}
	return h
}

func (r *reader) sameNames() {
	// Most names are there once: rows are gathered for the others alone.
	hashes := make([]uint64, len(r.res.Students))
	for i := range r.res.Students {
		hashes[i] = r.res.Students[i].nameHash()
	}
	sorted := slices.Clone(hashes)
	slices.Sort(sorted)
	again := map[uint64]bool{}
	for i := 1; i < len(sorted); i++ {
		if sorted[i] == sorted[i-1] {
			again[sorted[i]] = true
		}
	}
	if len(again) == 0 {
		return
	}
	groups, keys := map[string][]int{}, map[int]string{}
	for i := range r.res.Students {
		if s := &r.res.Students[i]; again[hashes[i]] {
			keys[i] = naming.Fold(s.Name()) + "\x00" + s.Class
			groups[keys[i]] = append(groups[keys[i]], i)
		}
	}
	field := -1
	for _, role := range []Role{Family, Full, Given} {
		if f, ok := r.fields[role]; ok {
			field = f
			break
		}
	}
	for i := range r.res.Students {
		g := groups[keys[i]]
		if len(g) < 2 || sameAccount(r.res.Students, g) {
			continue
		}
		rows := make([]string, len(g))
		for n, j := range g {
			rows[n] = strconv.Itoa(r.res.Students[j].Row)
		}
		r.warn(r.res.Students[i].Row, field, r.heading(field), "same-name", "name", r.res.Students[i].Name(), "rows", strings.Join(rows, ", "))
	}
}

func sameAccount(all []Student, group []int) bool {
	a := strings.ToLower(all[group[0]].Address)
	for _, i := range group {
		if a == "" || strings.ToLower(all[i].Address) != a {
			return false
		}
	}
	return true
}

// zerosLost warns of numbers that are shorter than the rest of a column whose
// numbers are all of one length, where some begin with a zero.
func (r *reader) zerosLost(body []Row) {
	f, ok := r.fields[Number]
	if !ok {
		return
	}
	var lengths [64]int // longer ones are no student numbers
	zero := false
	for i := range r.res.Students {
		if n := r.res.Students[i].Number; len(n) < len(lengths) && isDigits(n) {
			lengths[len(n)]++
			zero = zero || n[0] == '0'
		}
	}
	usual, most := 0, 0
	for l, n := range lengths {
		if n > 0 && n >= most {
			usual, most = l, n
		}
	}
	if !zero || usual < 3 {
		return
	}
	for i := range r.res.Students {
		if s := &r.res.Students[i]; isDigits(s.Number) && len(s.Number) < usual {
			like := strings.Repeat("0", usual-len(s.Number)) + s.Number
			r.warn(s.Row, f, r.heading(f), "zeros-lost", "value", s.Number, "suggestion", like)
		}
	}
}

func isDigits(s string) bool {
	for i := 0; i < len(s); i++ {
		if s[i] < '0' || s[i] > '9' {
			return false
		}
	}
	return s != ""
}
