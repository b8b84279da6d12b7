package roster

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// headingWords lists what school lists call each role, as Plain brings them.
// Common practice, no published source.
var headingWords = map[Role][]string{
	Given:     {"given name", "given", "first name", "first", "firstname", "forename", "forenames", "givenname", "vorname", "prenom", "nombre", "nome proprio", "nome", "voornaam", "fornavn", "fornamn", "etunimi", "imie", "ime", "christian name", "legal first name", "roepnaam", "tilltalsnamn", "keresztnev", "utonev", "jmeno", "krestni jmeno", "meno", "prenume", "ad", "adi", "имя", "ім я", "ονομα", "名", "名前", "이름", "ten", "prenoms", "nombres", "nomes"},
	Family:    {"family name", "family", "last name", "last", "lastname", "surname", "surnames", "familyname", "second name", "nachname", "familienname", "nom", "nom de famille", "apellido", "apellidos", "apelido", "sobrenome", "cognome", "achternaam", "etternavn", "efternamn", "sukunimi", "nazwisko", "legal last name", "vezeteknev", "csaladnev", "prijmeni", "priezvisko", "nume", "nume de familie", "prezime", "soyad", "soyadi", "фамилия", "прізвище", "επωνυμο", "姓", "성", "ho", "primer apellido"},
	Full:      {"name", "full name", "student name", "student", "pupil", "pupil name", "learner", "learner name", "fullname", "names", "students", "nome completo", "nombre completo", "nom complet", "learner s name", "student s name", "pupil s name", "child", "child name", "name of student", "name of pupil", "schuler", "schulername", "eleve", "alumno", "alumna", "aluno", "elev", "oppilas", "leerling", "uczen", "ucznia", "氏名", "姓名", "성명", "фио", "surname first name", "last name first name", "family name given name", "name surname"},
	Preferred: {"preferred name", "preferred", "known as", "nickname", "preferred first name", "calling name", "rufname", "preferred given name", "goes by", "called", "preferred forename"},
	Address:   {"address", "email", "e mail", "mail", "email address", "e mail address", "student email", "school email", "e mail school", "email school", "school mail", "school address", "correo", "correo electronico", "courriel", "adresse e mail", "mail adresse", "e mail adresse", "adresse email", "adresse electronique", "adresse courriel", "direccion de correo", "email address school", "epost", "e post", "e postadresse", "sahkoposti", "sahkopostiosoite", "e mailadres", "mailadres", "adres e mail", "email cim", "e mail cim", "e mailova adresa", "emailova adresa", "posta elettronica", "endereco de email", "endereco eletronico", "eposta", "e posta", "электронная почта", "メール", "メールアドレス", "邮箱", "电子邮件", "이메일", "school email address", "student email address", "account", "username email"},
	Number:    {"student number", "number", "student no", "stud no", "student id", "id", "no", "nr", "pupil number", "admission number", "admission no", "roll number", "roll no", "matricule", "numero", "schulernummer", "n", "student nr", "learner id", "upn", "pupil no", "learner no", "reference", "ref", "schuler id", "leerlingnummer", "elevnummer", "elevnr", "opiskelijanumero", "oppilasnumero", "numero eleve", "numero d eleve", "numero etudiant", "n eleve", "numero de alumno", "numero de aluno", "matricula", "numero di matricola", "matricola", "numer ucznia", "numer legitymacji", "cislo studenta", "diakigazolvany szama", "ogrenci no", "okul no", "学号", "学籍番号", "학번", "номер"},
	Class:     {"class", "class name", "section", "course", "form", "klasse", "classe", "clase", "turma", "class code", "tutor group", "homeroom", "home room", "registration group", "reg group", "form group", "tutor", "klass", "klas", "luokka", "trida", "osztaly", "clasa", "razred", "sinif", "класс", "клас", "班级", "クラス", "반", "classroom", "course name", "class title", "teaching group"},
	Period:    {"period", "per", "hour", "block", "lesson", "slot", "stunde", "periode", "class period", "pd", "heure", "hora", "tunti", "lektion", "lektionen", "time", "timeslot", "hodina", "ora", "per no", "period no", "lesson no"},
	Level:     {"level", "set", "tier", "ability", "stream", "niveau", "nivel", "reading level", "band", "stufe", "niveaustufe", "niva", "taso", "poziom", "uroven", "szint", "difficulty", "reading group", "maths set", "english set", "pathway"},
	Team:      {"team", "teams", "table group", "squad", "crew", "equipe", "equipo", "work group", "project group", "lag", "tiimi", "ryhma", "druzyna", "tym", "csapat", "echipa", "ekip", "группа", "команда", "lab group", "bench", "pod"},
}

// groupWords are what lists of many languages call a group: teams of a class, as a rule, and
// classes where the values are written as those are. Common practice, no published source.
var groupWords = []string{"group", "groups", "gruppe", "gruppen", "groupe", "groupes", "grupo", "grupos", "gruppo", "gruppi", "groep", "groepen", "grupp", "grupper", "ryhma", "grupa", "grupy", "skupina", "csoport", "grup", "grupe", "gruppa", "группа", "група", "ομαδα", "グループ", "小组", "小組", "조"}

var headingRole = func() map[string]Role {
	m := map[string]Role{}
	plain := func(words []string, role Role) {
		for i, w := range words {
			words[i] = Plain(w) // letters of some alphabets come apart
			m[words[i]] = role
		}
	}
	for role, words := range headingWords {
		plain(words, role)
	}
	plain(groupWords, Team)
	// "Pupil no", "Learner ID", "Admission ref" and their like.
	for _, whose := range []string{"student", "stud", "pupil", "learner", "scholar", "child", "candidate", "admission", "admissions", "enrolment", "enrollment", "registration", "roll", "register", "school", "local", "state", "person"} {
		for _, what := range []string{"number", "no", "nr", "num", "id", "code", "ref", "key"} {
			m[whose+" "+what], m[whose+what] = Number, Number
		}
	}
	return m
}()

// Plain brings text to the form headingWords has: lower case, letters and
// digits with single spaces, accents off.
func Plain(s string) string {
	var b strings.Builder
	space := false
	for _, r := range norm.NFKD.String(s) {
		switch {
		case unicode.Is(unicode.Mn, r):
		case unicode.IsLetter(r) || unicode.IsDigit(r):
			if space && b.Len() > 0 {
				b.WriteByte(' ')
			}
			space = false
			b.WriteRune(unicode.ToLower(r))
		default:
			space = true
		}
	}
	return b.String()
}

// roleOfHeading returns the role a heading names and how sure that is. "Set"
// and its like are words of many meanings: half sure.
func roleOfHeading(h string) (Role, float64) {
	f := Plain(h)
	if f == "" {
		return None, 0
	}
	if r, ok := headingRole[f]; ok {
		if slices.Contains(groupWords, f) {
			return r, 0.7
		}
		switch f {
		case "set", "band", "section", "form", "id", "no", "n", "nome", "last", "first", "stream":
			return r, 0.7
		}
		return r, 1
	}
	// A heading that holds a known one, such as "Student e-mail (school)".
	best, length := Extra, 0
	padded := " " + f + " "
	for _, role := range Roles {
		for _, w := range headingWords[role] {
			if len(w) > 3 && len(w) > length && strings.Contains(padded, " "+w+" ") {
				best, length = role, len(w)
			}
		}
	}
	if length > 0 && best != Class && best != Team && best != Level {
		return best, 0.8
	}
	return Extra, 0.5
}

// headingRow finds the index of the heading row among the first rows: the
// first with two or more known headings and no address in it, or the only
// known heading of a one-column list. Of two heading rows, one over the other,
// the one that says more is taken. -1 where there is none.
func headingRow(rows []Row) int {
	for i, row := range rows {
		if i >= 12 {
			break
		}
		known, filled, data := headings(row)
		if !data && (known >= 2 || known == 1 && filled == 1 && width(rows) == 1) {
			if i+1 < len(rows) {
				if below, _, data := headings(rows[i+1]); below > known && !data {
					return i + 1
				}
			}
			return i
		}
		if data {
			return oddHeading(rows, i)
		}
	}
	return -1
}

// headings counts a row's known headings and filled cells; data reports that
// it holds an address, as no heading row does.
func headings(row Row) (known, filled int, data bool) {
	for _, c := range row.Cells {
		c = strings.TrimSpace(c)
		if c == "" {
			continue
		}
		filled++
		if strings.Contains(c, "@") {
			data = true
		}
		if r, sure := roleOfHeading(c); r != Extra && r != None && sure >= 0.7 {
			known++
		}
	}
	return known, filled, data
}

// oddHeading looks at the row before the first row of data: where it has a
// word over every filled column but no address, it is a heading row of unknown
// words, provided one of them is known.
func oddHeading(rows []Row, data int) int {
	if data == 0 {
		return -1
	}
	head := rows[data-1]
	known := 0
	for i, c := range rows[data].Cells {
		if strings.TrimSpace(c) == "" {
			continue
		}
		if i >= len(head.Cells) || strings.TrimSpace(head.Cells[i]) == "" {
			return -1
		}
		if r, sure := roleOfHeading(head.Cells[i]); r != Extra && sure >= 0.7 {
			known++
		}
	}
	if known > 0 {
		return data - 1
	}
	return -1
}

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
var schoolYear = map[string]bool{"year": true, "grade": true, "year group": true, "school year": true, "jahrgang": true, "annee": true, "curso": true, "ano": true, "arskurs": true, "klassenstufe": true}

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
	{Team, regexp.MustCompile(`(?i)^(team|group|table|crew|equipo|[eé]quipe|gruppe|groupe|grupo|gruppo|groep|grupp|ryhm[aä]|grupa|skupina|csoport|lag|tiimi|squadra|группа|команда)\s+\S+$`)},
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
