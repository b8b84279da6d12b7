package tables

import (
	"bytes"
	"encoding/csv"
	"io"
	"slices"
	"strings"

	"jollysatchel/internal/core/roster"
)

// openRoster is the open archive for class lists: the OneRoster CSV tables,
// versions 1.1 and 1.2, in a ZIP (column names from memory of the published
// tables). Every enrolment of a student becomes a row; the teachers stand
// beside. What is marked "tobedeleted" is passed over.
type openRoster struct{}

func (openRoster) name() string { return "open-roster" }

func (openRoster) recognises(b []byte) bool {
	return isZip(b) && (has(b, "enrollments.csv") || has(b, "manifest.csv"))
}

// The headings of the table made of an archive.
var openRosterHead = []string{"Student number", "Family name", "Given name", "Preferred name", "Email address", "Class", "Period", "Grade"}

// Columns of its tables that are read, in the order in which a record has them.
var (
	classColumns = []string{"sourcedid", "title", "periods"}
	userColumns  = []string{"sourcedid", "identifier", "familyname", "givenname", "preferredgivenname", "email", "username", "grades"}
	enrolColumns = []string{"usersourcedid", "classsourcedid", "role"}
)

func (openRoster) read(b []byte, left *budget) (Book, error) {
	p, err := unpack(b)
	if err != nil {
		return Book{}, err
	}
	classes, err := p.records("classes.csv", classColumns, left)
	if err != nil {
		return Book{}, err
	}
	users, err := p.records("users.csv", userColumns, left)
	if err != nil {
		return Book{}, err
	}
	enrolments, err := p.records("enrollments.csv", enrolColumns, left)
	if err != nil {
		return Book{}, err
	}
	book := Book{}
	t := roster.Table{Rows: []roster.Row{{Line: 1, Cells: openRosterHead}}}
	byID := func(records [][]string) map[string][]string {
		m := make(map[string][]string, len(records))
		for _, r := range records {
			m[r[0]] = r
		}
		return m
	}
	class, user := byID(classes), byID(users)
	for _, e := range enrolments {
		u, known := user[e[0]]
		c, there := class[e[1]]
		if !known || !there {
			continue
		}
		id, number, family, given, preferred, grades := u[0], u[1], u[2], u[3], u[4], u[7]
		if number == "" {
			number = id
		}
		cells := []string{number, family, given, preferred, address(u[5], u[6]), c[1], c[2], grades}
		for _, text := range cells {
			if err := left.take(1, len(text)); err != nil {
				return Book{}, err
			}
		}
		switch role := strings.ToLower(e[2]); {
		case role == "student":
			if err := grow(&t, roster.Row{Line: len(t.Rows) + 1, Cells: cells}); err != nil {
				return Book{}, err
			}
		case role == "teacher" || role == "aide":
			book.Teachers = append(book.Teachers, Teacher{Class: c[1], Period: c[2], Given: given, Family: family, Address: cells[4]})
		}
	}
	book.Sheets = []Sheet{{Table: t}}
	return book, nil
}

func address(email, username string) string {
	if email != "" {
		return email
	}
	if strings.Contains(username, "@") {
		return username
	}
	return ""
}

// records reads some columns of one of an archive's tables, named in small
// letters; a column that isn't there is blank.
func (p *pack) records(name string, columns []string, left *budget) ([][]string, error) {
	b, err := p.member(name, MaxBytes)
	if err != nil {
		return nil, err
	}
	if b, _, err = decode(b, Hint{}); err != nil {
		return nil, err
	}
	if bytes.Count(b, []byte{','}) > MaxCells {
		return nil, &Error{Code: "too-many-cells"}
	}
	r := csv.NewReader(bytes.NewReader(b))
	r.FieldsPerRecord, r.LazyQuotes, r.ReuseRecord = -1, true, true
	head, err := r.Read()
	if err != nil {
		return nil, &Error{Code: "damaged", Args: map[string]string{"what": name}}
	}
	place := map[string]int{}
	for i, h := range head {
		if h = strings.ToLower(strings.TrimSpace(h)); place[h] == 0 && (h == "status" || slices.Contains(columns, h)) {
			place[h] = i + 1
		}
	}
	field := func(rec []string, column string) string {
		if i := place[column]; i > 0 && i <= len(rec) {
			return strings.TrimSpace(rec[i-1])
		}
		return ""
	}
	var out [][]string
	for {
		rec, err := r.Read()
		if err == io.EOF {
			return out, nil
		}
		if err != nil {
			return nil, &Error{Code: "damaged", Args: map[string]string{"what": name}}
		}
		if len(out) >= 4*MaxRows {
			return nil, &Error{Code: "too-many-rows"}
		}
		if err := left.tick(); err != nil {
			return nil, err
		}
		if strings.EqualFold(field(rec, "status"), "tobedeleted") {
			continue
		}
		kept := make([]string, len(columns))
		for i, c := range columns {
			kept[i] = strings.Clone(keep(field(rec, c))) // else the whole record stays with it
		}
		out = append(out, kept)
	}
}
