package roster

import (
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// headingWords lists what school lists call each role, as Plain brings them.
// Common practice, no published source.
var headingWords = map[Role][]string{
	Given: {"given name", "given", "first name", "first", "firstname", "forename", "forenames", "givenname",
		"vorname", "prenom", "nombre", "nome proprio", "nome", "voornaam", "fornavn", "fornamn", "etunimi", "imie", "ime",
		"christian name", "legal first name", "roepnaam", "tilltalsnamn", "keresztnev", "utonev", "jmeno", "krestni jmeno",
		"meno", "prenume", "ad", "adi", "имя", "ім я", "ονομα", "名", "名前", "이름", "ten", "prenoms", "nombres", "nomes"},
	Family: {"family name", "family", "last name", "last", "lastname", "surname", "surnames", "familyname",
		"second name", "nachname", "familienname", "nom", "nom de famille", "apellido", "apellidos", "apelido", "sobrenome",
		"cognome", "achternaam", "etternavn", "efternamn", "sukunimi", "nazwisko", "legal last name", "vezeteknev",
		"csaladnev", "prijmeni", "priezvisko", "nume", "nume de familie", "prezime", "soyad", "soyadi", "фамилия",
		"прізвище", "επωνυμο", "姓", "성", "ho", "primer apellido"},
	Full: {"name", "full name", "student name", "student", "pupil", "pupil name", "learner", "learner name",
		"fullname", "names", "students", "nome completo", "nombre completo", "nom complet", "learner s name",
		"student s name", "pupil s name", "child", "child name", "name of student", "name of pupil", "schuler",
		"schulername", "eleve", "alumno", "alumna", "aluno", "elev", "oppilas", "leerling", "uczen", "ucznia", "氏名",
		"姓名", "성명", "фио", "surname first name", "last name first name", "family name given name", "name surname"},
	Preferred: {"preferred name", "preferred", "known as", "nickname", "preferred first name", "calling name", "rufname",
		"preferred given name", "goes by", "called", "preferred forename"},
	Address: {"address", "email", "e mail", "mail", "email address", "e mail address", "student email", "school email",
		"e mail school", "email school", "school mail", "school address", "correo", "correo electronico", "courriel",
		"adresse e mail", "mail adresse", "e mail adresse", "adresse email", "adresse electronique", "adresse courriel",
		"direccion de correo", "email address school", "epost", "e post", "e postadresse", "sahkoposti", "sahkopostiosoite",
		"e mailadres", "mailadres", "adres e mail", "email cim", "e mail cim", "e mailova adresa", "emailova adresa",
		"posta elettronica", "endereco de email", "endereco eletronico", "eposta", "e posta",
		"электронная почта", "メール", "メールアドレス", "邮箱", "电子邮件", "이메일",
		"school email address", "student email address", "account", "username email"},
	Number: {"student number", "number", "student no", "stud no", "student id", "id", "no", "nr", "pupil number",
		"admission number", "admission no", "roll number", "roll no", "matricule", "numero", "schulernummer", "n",
		"student nr", "learner id", "upn", "pupil no", "learner no", "reference", "ref", "schuler id", "leerlingnummer",
		"elevnummer", "elevnr", "opiskelijanumero", "oppilasnumero", "numero eleve", "numero d eleve", "numero etudiant",
		"n eleve", "numero de alumno", "numero de aluno", "matricula", "numero di matricola", "matricola", "numer ucznia",
		"numer legitymacji", "cislo studenta", "diakigazolvany szama", "ogrenci no", "okul no", "学号", "学籍番号", "학번", "номер"},
	Class: {"class", "class name", "section", "course", "form", "klasse", "classe", "clase", "turma", "class code",
		"tutor group", "homeroom", "home room", "registration group", "reg group", "form group", "tutor", "klass", "klas",
		"luokka", "trida", "osztaly", "clasa", "razred", "sinif", "класс", "клас", "班级", "クラス", "반",
		"classroom", "course name", "class title", "teaching group"},
	Period: {"period", "per", "hour", "block", "lesson", "slot", "stunde", "periode", "class period", "pd", "heure",
		"hora", "tunti", "lektion", "lektionen", "time", "timeslot", "hodina", "ora", "per no", "period no", "lesson no"},
	Level: {"level", "set", "tier", "ability", "stream", "niveau", "nivel", "reading level", "band", "stufe",
		"niveaustufe", "niva", "taso", "poziom", "uroven", "szint", "difficulty", "reading group", "maths set", "english set", "pathway"},
	Team: {"team", "teams", "table group", "squad", "crew", "equipe", "equipo", "work group", "project group",
		"lag", "tiimi", "ryhma", "druzyna", "tym", "csapat", "echipa", "ekip", "группа", "команда", "lab group", "bench", "pod"},
}

// groupWords are what lists of many languages call a group: teams of a class, as a rule, and
// classes where the values are written as those are. Common practice, no published source.
var groupWords = []string{"group", "groups", "gruppe", "gruppen", "groupe", "groupes", "grupo", "grupos", "gruppo",
	"gruppi", "groep", "groepen", "grupp", "grupper", "ryhma", "grupa", "grupy", "skupina", "csoport", "grup", "grupe",
	"gruppa", "группа", "група", "ομαδα", "グループ", "小组", "小組", "조"}

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
	for _, whose := range []string{"student", "stud", "pupil", "learner", "scholar", "child", "candidate", "admission",
		"admissions", "enrolment", "enrollment", "registration", "roll", "register", "school", "local", "state", "person"} {
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
