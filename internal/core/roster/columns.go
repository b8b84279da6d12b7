package roster

import (
	"regexp"
	"strconv"
	"strings"
	"unicode"
)

func width(rows []Row) int {
	w := 0
	for _, r := range rows {
		w = max(w, len(r.Cells))
	}
	return w
}

// recognise says what every column holds: from its heading, and from the
// values where the heading is missing or says nothing. A role other than Extra
// and None is given once; the surest column gets it.
func recognise(head []string, body []Row, w int, said map[int]Role) []Column {
	cols := make([]Column, w)
	shapes := make([]shape, w)
	for _, row := range sample(body) {
		for i := range min(w, len(row.Cells)) {
			shapes[i].see(strings.TrimSpace(row.Cells[i]))
		}
	}
	for i := range cols {
		if i < len(head) {
			cols[i].Heading = short(strings.TrimSpace(head[i]))
		}
		if r, ok := said[i]; ok {
			cols[i].Role, cols[i].Confidence = r, 1
			continue
		}
		role, sure := None, 0.0
		if cols[i].Heading != "" {
			role, sure = roleOfHeading(cols[i].Heading)
		}
		vr, vs := shapes[i].role()
		switch {
		case role == Address && shapes[i].filled > 0 && shapes[i].ats == 0 && vr != Address:
			// "Address" over street names: keep what it is called, but doubt it.
			sure = 0.6
		case vr == Address && vs >= 0.8 && role != Address:
			role, sure = Address, 0.9
		case role == Team && sure < 1 && vr == Class:
			role, sure = Class, vs
		case role == Extra || role == None:
			if vr != None && (cols[i].Heading == "" || vr == Address || vr == Team) {
				role, sure = vr, vs
			}
		}
		if role == None && shapes[i].filled > 0 {
			role, sure = Extra, 0.5
		}
		cols[i].Role, cols[i].Confidence = role, sure
		if schoolYear[Plain(cols[i].Heading)] {
			cols[i].Note = "school-year"
		}
	}
	nameByPlace(cols, shapes, said)
	once(cols, said)
	for i := range cols {
		if cols[i].Heading == "" && cols[i].Role == Extra && shapes[i].filled > 0 {
			cols[i].Heading, cols[i].Note = "Column "+strconv.Itoa(i+1), "no-heading"
		}
	}
	return fit(cols, said)
}

// noRoom is the note of a column that is one of more than are read.
const noRoom = "no-room"

// fit leaves MaxColumns to use: those with a role, wherever they stand, and the first of the
// others. The rest have neither role nor heading, and those behind the last are cut off; what
// is blank, or said not to be used, takes no place.
func fit(cols []Column, said map[int]Role) []Column {
	free := MaxColumns
	for _, c := range cols {
		if c.Role != Extra && c.Role != None {
			free--
		}
	}
	last := -1
	for i, c := range cols {
		if c.Role == Extra || c.Role == None && c.Heading != "" && said[i] != None {
			if free--; free < 0 {
				cols[i] = Column{Role: None, Note: noRoom}
				continue
			}
		}
		last = i
	}
	return cols[:last+1]
}

// short cuts a heading at a whole letter.
func short(heading string) string {
	if len(heading) <= MaxHeading {
		return heading
	}
	return strings.TrimSpace(strings.ToValidUTF8(heading[:MaxHeading], ""))
}

// schoolYear are headings of school years and grades: how old a student is, not
// which level of a handout is for them.
var schoolYear = map[string]bool{"year": true, "grade": true, "year group": true, "school year": true,
	"jahrgang": true, "annee": true, "curso": true, "ano": true, "arskurs": true, "klassenstufe": true}

// nameByPlace gives the name roles where no heading names one: a column of
// words of two parts is a full name; two columns of single words in a list
// without headings are family and given name, in the order most lists have.
func nameByPlace(cols []Column, shapes []shape, said map[int]Role) {
	for _, c := range cols {
		if c.Role == Given || c.Role == Family || c.Role == Full {
			return
		}
	}
	var words []int
	for i := range cols {
		if _, ok := said[i]; !ok && cols[i].Role == Extra && shapes[i].wordy() {
			words = append(words, i)
		}
	}
	switch {
	case len(words) == 0:
	case shapes[words[0]].spaced*2 > shapes[words[0]].filled || len(words) == 1 && cols[words[0]].Heading == "":
		cols[words[0]].Role, cols[words[0]].Confidence = Full, 0.6
	case cols[words[0]].Heading == "":
		cols[words[0]].Role, cols[words[0]].Confidence = Family, 0.5
		cols[words[1]].Role, cols[words[1]].Confidence = Given, 0.5
	}
}

func once(cols []Column, said map[int]Role) {
	holder := map[Role]int{}
	for i := range cols {
		r := cols[i].Role
		if r == Extra || r == None {
			continue
		}
		j, taken := holder[r]
		if !taken {
			holder[r] = i
			continue
		}
		loser := i
		if cols[i].Confidence > cols[j].Confidence {
			loser, holder[r] = j, i
		}
		if _, ok := said[loser]; ok && loser == i {
			loser, holder[r] = j, i
		}
		cols[loser].Role, cols[loser].Confidence = Extra, 0.5
	}
	// A full name beside given and family names is one more column to keep.
	if f, ok := holder[Full]; ok {
		_, g := holder[Given]
		_, fam := holder[Family]
		if _, told := said[f]; g && fam && !told {
			cols[f].Role, cols[f].Confidence = Extra, 0.5
		}
	}
}

// sample bounds the work of looking at values: the first rows are as good as all.
func sample(rows []Row) []Row { return rows[:min(len(rows), 500)] }

// A shape counts what the values of a column look like.
type shape struct {
	filled, ats, digits, words, spaced int
	seen                               map[string]int
}

// told says what a value is that begins with its own role's word, or is written
// as classes are: "Period 3", "P3", "Level B", "Team Gull", "7B". Common
// practice, no published source.
var told = []struct {
	role Role
	form *regexp.Regexp
}{
	{Period, regexp.MustCompile(`(?i)^(period|per\.?|hour|block|lesson)\s*[0-9]{1,2}[a-z]?$|^P[0-9]{1,2}$`)},
	{Level, regexp.MustCompile(`(?i)^(level|tier|set|niveau|nivel)\s*([0-9]{1,2}|[a-z]|[ivx]+)$|^L[0-9]$`)},
	{Team, regexp.MustCompile(`(?i)^(team|group|table|crew|equipo|[eé]quipe|gruppe|groupe|grupo|gruppo|groep|grupp|` +
		`ryhm[aä]|grupa|skupina|csoport|lag|tiimi|squadra|группа|команда)\s+\S+$`)},
	{Class, regexp.MustCompile(`(?i)^(class|klasse|classe|form)\s+\S+$|^[0-9]{1,2}\s?[A-Za-z]$`)},
}

func (s *shape) see(v string) {
	if v == "" {
		return
	}
	s.filled++
	if s.seen == nil {
		s.seen = map[string]int{}
	}
	s.seen[v]++
	if strings.Contains(v, "@") {
		s.ats++
		return
	}
	digits, letters, spaces := 0, 0, 0
	for _, r := range v {
		switch {
		case unicode.IsDigit(r):
			digits++
		case unicode.IsLetter(r):
			letters++
		case r == ' ' || r == ',':
			spaces++
		}
	}
	if digits > 0 && letters == 0 {
		s.digits++
	}
	if letters > 1 && digits == 0 {
		s.words++
		if spaces > 0 {
			s.spaced++
		}
	}
}

func (s *shape) wordy() bool { return s.words*10 >= s.filled*8 && s.filled > 0 }

// role guesses from the values alone.
func (s *shape) role() (Role, float64) {
	switch {
	case s.filled == 0:
		return None, 0
	case s.ats*10 >= s.filled*6:
		return Address, float64(s.ats) / float64(s.filled)
	case s.digits == s.filled && len(s.seen) == s.filled && len(longest(s.seen)) >= 4:
		return Number, 0.7
	}
	return s.told()
}

// told is the role that most of a column's few different values name themselves.
func (s *shape) told() (Role, float64) {
	if len(s.seen) > 60 || len(s.seen)*2 > max(s.filled, 2) {
		return None, 0
	}
	for _, t := range told {
		n := 0
		for v, times := range s.seen {
			if len(v) <= 40 && t.form.MatchString(v) {
				n += times
			}
		}
		if n*10 >= s.filled*9 {
			return t.role, 0.7
		}
	}
	return None, 0
}

func longest(m map[string]int) string {
	l := ""
	for k := range m {
		if len(k) > len(l) {
			l = k
		}
	}
	return l
}

// Shape names what lists of one kind have in common, so that what was said about
// the columns of one is known for the next: its headings in turn, or, of a list
// without headings, what the values of each column look like. A list without
// columns has no shape.
func Shape(t Table) string {
	r := Read(t, Options{})
	var b strings.Builder
	if r.HeadingRow != 0 {
		for _, col := range r.Columns {
			b.WriteString(Plain(col.Heading) + "\x1f")
		}
		return b.String()
	}
	shapes := make([]shape, width(t.Rows))
	for _, row := range sample(t.Rows) {
		for i, c := range row.Cells {
			shapes[i].see(strings.TrimSpace(c))
		}
	}
	for i := range shapes {
		b.WriteString(shapes[i].kind() + "\x1f")
	}
	return b.String()
}

// kind is a word for what the values of a column look like.
func (s *shape) kind() string {
	role, _ := s.role()
	switch {
	case s.filled == 0:
		return "blank"
	case role != None:
		return string(role)
	case s.digits*10 >= s.filled*8:
		return "figures"
	case s.wordy() && s.spaced*2 > s.filled:
		return "phrases"
	case s.wordy():
		return "words"
	}
	return "mixed"
}
