package roster

import (
	"regexp"
	"slices"
	"sort"
	"strconv"
	"strings"

	"jollysatchel/internal/core/naming"
)

var totalWords = regexp.MustCompile(`(?i)^(grand )?(total|totals|count|sum|number of students|students|summe|gesamt|somme)\b[^@]{0,40}$`)

// Read makes students and findings of a table. It never fails: what can't be
// used is told as a finding. The result depends on nothing but its arguments.
func Read(t Table, opt Options) Result {
	r := reader{opt: opt, fields: map[Role]int{}, same: map[[2]string]map[string]string{}}
	head, body := r.divide(t.Rows)
	w := width(t.Rows)
	r.res.Columns = recognise(head, body, w, opt.Roles)
	for _, i := range t.HiddenColumns {
		if i < len(r.res.Columns) {
			r.res.Columns[i].Hidden = true
		}
	}
	r.res.Findings = []Finding{}
	for i, c := range r.res.Columns {
		if c.Role != Extra && c.Role != None {
			r.fields[c.Role] = i
		} else if c.Role == Extra {
			r.extras = append(r.extras, i)
		}
	}
	r.at = r.roleFields()
	r.columnFindings(head, w)
	if f, ok := r.fields[Address]; ok {
		r.usual = opt.Domain
		if r.usual == "" {
			r.usual = usualDomain(body, f)
		}
	}
	if opt.Class != "" {
		body = r.ofClass(body)
	}
	r.res.Counts.Rows = len(body)
	r.res.Students = make([]Student, 0, len(body))
	r.numbers, r.accounts = newPlaces(len(body)), newPlaces(len(body))
	for _, row := range body {
		r.row(row, head)
	}
	r.sameNames()
	r.zerosLost(body)
	r.res.Counts.Students = len(r.res.Students)
	sort.SliceStable(r.res.Findings, func(a, b int) bool { return r.res.Findings[a].Row < r.res.Findings[b].Row })
	return r.res
}

type reader struct {
	opt      Options
	res      Result
	fields   map[Role]int
	at       roleFields
	extras   []int
	usual    string // the domain most addresses have
	numbers  places
	accounts places
	warned   map[string]int // warnings of each code
	// Of the row at hand: its tidied cells, which of them held odd characters,
	// and whether it is ASCII throughout.
	cells []string
	odd   []bool
	ascii bool
	// same are maps of extra values that rows have in common: most lists have
	// few different ones, and a map is large.
	same map[[2]string]map[string]string
}

// roleFields are the columns with each role, -1 for none: what fields says,
// without a search for every cell.
type roleFields struct{ given, family, full, preferred, address, number, class, period, level, team int }

func (r *reader) roleFields() roleFields {
	at := func(role Role) int {
		if f, ok := r.fields[role]; ok {
			return f
		}
		return -1
	}
	return roleFields{at(Given), at(Family), at(Full), at(Preferred), at(Address), at(Number), at(Class), at(Period), at(Level), at(Team)}
}

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

func (r *reader) add(f Finding) { r.res.Findings = append(r.res.Findings, f) }

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

// tidyRow tidies every cell of a row.
func (r *reader) tidyRow(cells []string) {
	r.cells, r.odd, r.ascii = r.cells[:0], r.odd[:0], true
	for _, c := range cells {
		odd := false
		if !isTidy(c) {
			c, odd = tidy(c)
			r.ascii = r.ascii && plainASCII(c)
		}
		r.cells, r.odd = append(r.cells, c), append(r.odd, odd)
	}
}

// cell returns the tidied value of a column, telling odd characters; it is
// empty for column -1.
func (r *reader) cell(row Row, f int) string {
	if f < 0 || f >= len(r.cells) {
		return ""
	}
	if r.odd[f] {
		h := r.res.Columns[f].Heading
		r.warn(row.Line, f, h, "odd-characters", "column", h)
	}
	return r.cells[f]
}

func (r *reader) heading(field int) string {
	if field < 0 {
		return ""
	}
	return r.res.Columns[field].Heading
}

func (r *reader) row(row Row, head []string) {
	r.tidyRow(row.Cells)
	filled, first := 0, ""
	for _, v := range r.cells {
		if v != "" {
			filled++
			if first == "" {
				first = v
			}
		}
	}
	switch {
	case filled == 0:
		r.add(finding(row.Line, -1, "", "blank-row"))
		r.res.Counts.Blank++
		return
	case r.opt.LeftOut[row.Line]:
		r.out(finding(row.Line, -1, "", "row-left-out"))
		return
	case r.takenIn(row.Line):
	case row.Hidden:
		r.add(finding(row.Line, -1, "", "hidden-row", "name", r.says(row)))
		r.res.Counts.Hidden++
		return
	case sameCells(row.Cells, head):
		r.out(finding(row.Line, -1, "", "heading-again"))
		return
	case filled <= 3 && len(row.Cells) > 1 && totalWords.MatchString(first) && r.noPerson(row):
		r.out(finding(row.Line, -1, "", "total-row"))
		return
	}
	n := len(r.res.Students)
	r.res.Students = append(r.res.Students, Student{})
	if !r.student(row, &r.res.Students[n]) {
		r.res.Students = r.res.Students[:n]
		r.res.Counts.LeftOut++
	}
}

// says is what a row begins with, to be recognised by: its name, or its first cells.
func (r *reader) says(row Row) string {
	var said []string
	for _, role := range []Role{Family, Given, Full} {
		if f, ok := r.fields[role]; ok && f < len(r.cells) && r.cells[f] != "" {
			said = append(said, r.cells[f])
		}
	}
	for _, v := range r.cells {
		if len(said) == 0 && v != "" {
			said = append(said, v)
		}
	}
	return strings.Join(said, " ")
}

// takenIn reports a line the teacher takes in whatever it looks like.
func (r *reader) takenIn(line int) bool {
	out, said := r.opt.LeftOut[line]
	return said && !out
}

// noPerson reports that a row has neither address nor student number, so that
// "Total, 28" is a total and a student called Total is a student.
func (r *reader) noPerson(row Row) bool {
	for _, role := range []Role{Address, Number} {
		if f, ok := r.fields[role]; ok && f < len(row.Cells) && strings.TrimSpace(row.Cells[f]) != "" {
			first := true
			for i := range f {
				first = first && strings.TrimSpace(row.Cells[i]) == ""
			}
			if !first && !isDigits(strings.TrimSpace(row.Cells[f])) {
				return false
			}
		}
	}
	return true
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

// student reads one row into s. The first error keeps it out.
func (r *reader) student(row Row, s *Student) bool {
	at := r.at
	s.Row = row.Line
	gf, ff := at.given, at.family
	s.Given, s.Family, s.Preferred = r.cell(row, gf), r.cell(row, ff), r.cell(row, at.preferred)
	if full := r.cell(row, at.full); full != "" && s.Given == "" && s.Family == "" {
		s.Given, s.Family = SplitName(full, r.opt.FamilyFirst)
		gf, ff = at.full, at.full
	}
	s.Number, s.Class, s.Period = r.cell(row, at.number), r.cell(row, at.class), r.cell(row, at.period)
	s.Level, s.Team = r.cell(row, at.level), r.cell(row, at.team)
	s.Extra = r.extra()
	s.Address = r.cell(row, at.address)
	if s.Nameless() {
		f := max(ff, gf, at.full)
		r.add(finding(row.Line, f, r.heading(f), "name-missing"))
		return false
	}
	if !r.short(row) {
		return false
	}
	r.doubts(row, s, gf, ff)
	if s.Address == "" && r.opt.Derive != "" {
		s.Address = r.opt.Derive.Derive(s.Record, r.opt.Domain)
	}
	account, usual := s.Address, usualAddress(s.Address)
	if !usual {
		account = strings.ToLower(account)
	}
	if !usual && (at.address >= 0 || r.opt.Derive != "") {
		if code, args := r.addressProblem(*s); code != "" {
			r.add(finding(row.Line, at.address, r.heading(at.address), code, args...))
			return false
		}
	}
	if r.again(row, s, account) || !r.inBook(row, s) {
		return false
	}
	r.numbers.add(s.Number)
	r.accounts.add(account)
	return true
}

// short reports that no value of the row is too long; the first that is keeps
// the row out.
func (r *reader) short(row Row) bool {
	for f, v := range r.cells {
		if len(v) > MaxValue && f < len(r.res.Columns) && r.res.Columns[f].Role != None {
			r.add(finding(row.Line, f, r.heading(f), "value-too-long", "column", r.heading(f), "most", strconv.Itoa(MaxValue)))
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
	// Most names stand once: rows are gathered for the others alone.
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
