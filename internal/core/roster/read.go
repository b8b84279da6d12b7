package roster

import (
	"regexp"
	"sort"
	"strconv"
	"strings"
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
		code, args := r.addressProblem(*s)
		if code == "address-missing" && r.opt.Later {
			r.warn(row.Line, at.address, r.heading(at.address), "address-later", args...)
		} else if code != "" {
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
