package tables

import (
	"bytes"
	"encoding/csv"
	"io"
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

func (openRoster) read(b []byte) (Book, error) {
	p, err := unpack(b)
	if err != nil {
		return Book{}, err
	}
	classes, err := p.records("classes.csv")
	if err != nil {
		return Book{}, err
	}
	users, err := p.records("users.csv")
	if err != nil {
		return Book{}, err
	}
	enrolments, err := p.records("enrollments.csv")
	if err != nil {
		return Book{}, err
	}
	book := Book{}
	t := roster.Table{Rows: []roster.Row{{Line: 1, Cells: openRosterHead}}}
	byID := func(records []map[string]string) map[string]map[string]string {
		m := make(map[string]map[string]string, len(records))
		for _, r := range records {
			m[r["sourcedid"]] = r
		}
		return m
	}
	class, user := byID(classes), byID(users)
	for _, e := range enrolments {
		u, known := user[e["usersourcedid"]]
		c, there := class[e["classsourcedid"]]
		if !known || !there {
			continue
		}
		role := strings.ToLower(e["role"])
		switch {
		case role == "student":
			number := u["identifier"]
			if number == "" {
				number = u["sourcedid"]
			}
			cells := []string{number, u["familyname"], u["givenname"], u["preferredgivenname"], address(u), c["title"], c["periods"], u["grades"]}
			if err := grow(&t, roster.Row{Line: len(t.Rows) + 1, Cells: cells}); err != nil {
				return Book{}, err
			}
		case role == "teacher" || role == "aide":
			book.Teachers = append(book.Teachers, Teacher{Class: c["title"], Period: c["periods"], Given: u["givenname"], Family: u["familyname"], Address: address(u)})
		}
	}
	book.Sheets = []Sheet{{Table: t}}
	return book, nil
}

func address(user map[string]string) string {
	if a := user["email"]; a != "" {
		return a
	}
	if a := user["username"]; strings.Contains(a, "@") {
		return a
	}
	return ""
}

// records reads one of an archive's tables: each record by its column names in
// small letters.
func (p *pack) records(name string) ([]map[string]string, error) {
	b, err := p.member(name)
	if err != nil {
		return nil, err
	}
	if b, _, err = decode(b, ""); err != nil {
		return nil, err
	}
	r := csv.NewReader(bytes.NewReader(b))
	r.FieldsPerRecord, r.LazyQuotes = -1, true
	head, err := r.Read()
	if err != nil {
		return nil, &Error{Code: "damaged", Args: map[string]string{"what": name}}
	}
	for i, h := range head {
		head[i] = strings.ToLower(strings.TrimSpace(h))
	}
	var out []map[string]string
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
		m := make(map[string]string, len(head))
		for i, h := range head {
			if i < len(rec) {
				m[h] = strings.TrimSpace(rec[i])
			}
		}
		if strings.EqualFold(m["status"], "tobedeleted") {
			continue
		}
		out = append(out, m)
	}
}
