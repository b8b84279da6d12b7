package roster

import (
	"regexp"
	"sort"
	"strconv"
	"strings"

	"jollysatchel/internal/core/naming"
)

var totalWords = regexp.MustCompile(`(?i)^(grand )?(total|totals|count|sum|number of students|students|summe|gesamt|somme)\b[^@]{0,40}$`)

// Read makes students and findings of a table. It never fails: what can't be
// used is told as a finding. The result depends on nothing but its arguments.
func Read(t Table, opt Options) Result {
	r := reader{opt: opt, fields: map[Role]int{}}
	head, body := r.divide(t.Rows)
	r.res.Columns = recognise(head, body, width(t.Rows), opt.Roles)
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
	r.columnFindings(head)
	if f, ok := r.fields[Address]; ok {
		r.usual = opt.Domain
		if r.usual == "" {
			r.usual = usualDomain(body, f)
		}
	}
	r.res.Counts.Rows = len(body)
	r.res.Students = make([]Student, 0, len(body))
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
	extras   []int
	usual    string // the domain most addresses have
	numbers  map[string]int
	accounts map[string][]int // address → places in Students
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

func (r *reader) columnFindings(head []string) {
	if _, ok := r.fields[Address]; !ok {
		r.add(finding(max(r.res.HeadingRow, 1), -1, "", "no-address-column"))
	}
	seen := map[string]bool{}
	for i, h := range head {
		if f := fold(h); f != "" {
			if seen[f] {
				r.add(finding(r.res.HeadingRow, i, strings.TrimSpace(h), "heading-twice", "heading", strings.TrimSpace(h)))
			}
			seen[f] = true
		}
	}
}

func (r *reader) add(f Finding) { r.res.Findings = append(r.res.Findings, f) }

// out adds a finding that keeps its row out.
func (r *reader) out(f Finding) {
	r.add(f)
	r.res.Counts.LeftOut++
}

// cell returns the tidied value of the column with a role, telling odd
// characters; field is -1 where there is no such column.
func (r *reader) cell(row Row, role Role) (value string, field int) {
	f, ok := r.fields[role]
	if !ok {
		return "", -1
	}
	if f >= len(row.Cells) {
		return "", f
	}
	v, odd := tidy(row.Cells[f])
	if odd {
		h := r.res.Columns[f].Heading
		r.add(finding(row.Line, f, h, "odd-characters", "column", h))
	}
	return v, f
}

func (r *reader) heading(field int) string {
	if field < 0 {
		return ""
	}
	return r.res.Columns[field].Heading
}

func (r *reader) row(row Row, head []string) {
	filled, first := 0, ""
	for _, c := range row.Cells {
		if c != "" && filled > 3 { // enough to know that it is neither blank nor a total
			filled++
		} else if v, _ := tidy(c); v != "" {
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
	case row.Hidden:
		r.add(finding(row.Line, -1, "", "hidden-row"))
		r.res.Counts.Hidden++
		return
	case r.opt.LeftOut[row.Line]:
		r.out(finding(row.Line, -1, "", "row-left-out"))
		return
	case sameCells(row.Cells, head):
		r.out(finding(row.Line, -1, "", "heading-again"))
		return
	case filled <= 3 && len(row.Cells) > 1 && totalWords.MatchString(first) && r.noPerson(row):
		r.out(finding(row.Line, -1, "", "total-row"))
		return
	}
	s, ok := r.student(row)
	if !ok {
		r.res.Counts.LeftOut++
		return
	}
	r.res.Students = append(r.res.Students, s)
	i := len(r.res.Students) - 1
	if s.Number != "" {
		r.numbers[place(s, s.Number)] = i
	}
	if s.Address != "" {
		a := strings.ToLower(s.Address)
		r.accounts[a] = append(r.accounts[a], i)
	}
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
			if role == Address || !first && !isDigits(strings.TrimSpace(row.Cells[f])) {
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

// place keys a number to its class and period: one person may have rows in
// several classes.
func place(s Student, number string) string { return number + "\x00" + s.Class + "\x00" + s.Period }

// student reads one row. The first error keeps it out.
func (r *reader) student(row Row) (Student, bool) {
	if r.numbers == nil {
		r.numbers, r.accounts = make(map[string]int, r.res.Counts.Rows), make(map[string][]int, r.res.Counts.Rows)
	}
	s := Student{Row: row.Line}
	var gf, ff int
	s.Given, gf = r.cell(row, Given)
	s.Family, ff = r.cell(row, Family)
	s.Preferred, _ = r.cell(row, Preferred)
	full, f := r.cell(row, Full)
	if full != "" && s.Given == "" && s.Family == "" {
		s.Given, s.Family = SplitName(full)
		gf, ff = f, f
	}
	s.Number, _ = r.cell(row, Number)
	s.Class, _ = r.cell(row, Class)
	s.Period, _ = r.cell(row, Period)
	s.Level, _ = r.cell(row, Level)
	s.Team, _ = r.cell(row, Team)
	s.Extra = r.extra(row)
	var af int
	s.Address, af = r.cell(row, Address)
	name := s.Name()
	if name == "" {
		r.add(finding(row.Line, max(ff, gf, f), r.heading(max(ff, gf, f)), "name-missing"))
		return s, false
	}
	for _, n := range []struct {
		v string
		f int
	}{{s.Family, ff}, {s.Given, gf}} {
		if mixesScripts(n.v) {
			r.add(finding(row.Line, n.f, r.heading(n.f), "look-alike", "value", n.v))
		}
	}
	if af >= 0 {
		if code, args := r.addressProblem(s, row); code != "" {
			r.add(finding(row.Line, af, r.heading(af), code, args...))
			return s, false
		}
	}
	if i, ok := r.numbers[place(s, s.Number)]; ok && s.Number != "" {
		r.twice(row, s, Number, r.res.Students[i])
		return s, false
	}
	for _, i := range r.accounts[strings.ToLower(s.Address)] {
		o := r.res.Students[i]
		if o.Name() != name {
			r.add(finding(row.Line, af, r.heading(af), "address-twice", "address", s.Address, "other", o.Name(), "first", strconv.Itoa(o.Row)))
			return s, false
		}
		if o.Class == s.Class && o.Period == s.Period {
			r.twice(row, s, Address, o)
			return s, false
		}
	}
	if af >= 0 {
		r.addressDoubts(s, row, af)
	}
	return s, true
}

func (r *reader) twice(row Row, s Student, by Role, first Student) {
	f := r.fields[by]
	r.add(finding(row.Line, f, r.heading(f), "student-twice", "name", s.Name(), "first", strconv.Itoa(first.Row), "by", string(by)))
}

// addressProblem returns the code of what keeps the row out because of its
// address, with arguments in turn.
func (r *reader) addressProblem(s Student, row Row) (string, []string) {
	if s.Address == "" {
		return "address-missing", []string{"name", s.Name()}
	}
	if why := AddressForm(s.Address); why != "" {
		args := []string{"value", s.Address, "why", why}
		m := mendAddress(s.Address, r.usual)
		if r.opt.Known != nil {
			if known, like := r.opt.Known(m, s.Name()); !known && like != "" {
				m = like
			}
		}
		if m != "" {
			args = append(args, "suggestion", m)
		}
		return "address-malformed", args
	}
	return "", nil
}

func (r *reader) addressDoubts(s Student, row Row, af int) {
	if mixesScripts(s.Address) {
		r.add(finding(row.Line, af, r.heading(af), "look-alike", "value", s.Address))
	}
	if r.opt.Domain != "" && domainOf(s.Address) != strings.ToLower(r.opt.Domain) {
		r.add(finding(row.Line, af, r.heading(af), "domain-other", "address", s.Address, "domain", r.opt.Domain))
	}
	if r.opt.Known != nil {
		if known, like := r.opt.Known(s.Address, s.Name()); !known {
			args := []string{"address", s.Address}
			if like != "" {
				args = append(args, "suggestion", like)
			}
			r.add(finding(row.Line, af, r.heading(af), "account-unknown", args...))
		}
	}
}

func (r *reader) extra(row Row) map[string]string {
	m := make(map[string]string, len(r.extras))
	for _, i := range r.extras {
		if h := r.res.Columns[i].Heading; h != "" && i < len(row.Cells) {
			v, _ := tidy(row.Cells[i])
			if _, twice := m[h]; !twice || v != "" {
				m[h] = v
			}
		}
	}
	return m
}

// Name returns the student's name as it is spoken: given, then family name.
func (s Student) Name() string {
	switch {
	case s.Given == "" && s.Family == "":
		return s.Preferred
	case s.Given == "":
		return s.Family
	case s.Family == "":
		return s.Given
	}
	return s.Given + " " + s.Family
}

func (r *reader) sameNames() {
	// Most names stand once: they are counted first, and rows gathered for the others alone.
	keys := make([]string, len(r.res.Students))
	times := make(map[string]int, len(r.res.Students))
	for i, s := range r.res.Students {
		keys[i] = naming.Fold(s.Name()) + "\x00" + s.Class
		times[keys[i]]++
	}
	groups := map[string][]int{}
	for i, k := range keys {
		if times[k] > 1 {
			groups[k] = append(groups[k], i)
		}
	}
	field := -1
	for _, role := range []Role{Family, Full, Given} {
		if f, ok := r.fields[role]; ok {
			field = f
			break
		}
	}
	for i, s := range r.res.Students {
		g := groups[keys[i]]
		if len(g) < 2 || sameAccount(r.res.Students, g) {
			continue
		}
		rows := make([]string, len(g))
		for n, j := range g {
			rows[n] = strconv.Itoa(r.res.Students[j].Row)
		}
		r.add(finding(r.res.Students[i].Row, field, r.heading(field), "same-name", "name", s.Name(), "rows", strings.Join(rows, ", ")))
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
	lengths, zero := map[int]int{}, false
	for _, s := range r.res.Students {
		if isDigits(s.Number) {
			lengths[len(s.Number)]++
			zero = zero || s.Number[0] == '0'
		}
	}
	usual, most := 0, 0
	for l, n := range lengths {
		if n > most || n == most && l > usual {
			usual, most = l, n
		}
	}
	if !zero || usual < 3 {
		return
	}
	for _, s := range r.res.Students {
		if isDigits(s.Number) && len(s.Number) < usual {
			like := strings.Repeat("0", usual-len(s.Number)) + s.Number
			r.add(finding(s.Row, f, r.heading(f), "zeros-lost", "value", s.Number, "suggestion", like))
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
