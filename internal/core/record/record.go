// Package record is one student of one class as plain values, and the one
// vocabulary of columns that lists, names, conditions, history and grid share.
package record

import (
	"slices"
	"strings"
	"unicode"
)

// A Field names a column for ever, whatever it is called on a screen: a role of
// the class list, an extra column of the list by its heading, or something of
// the class's or handout's own.
type Field string

// The fields every class list can have.
const (
	Family    Field = "family"
	Given     Field = "given"
	Preferred Field = "preferred"
	Number    Field = "number"
	Address   Field = "address"
	Class     Field = "class" // as the list says it
	Period    Field = "period"
	Level     Field = "level"
	Team      Field = "team"
)

// Fields that are the class's or the handout's own, the same for every student.
// A list's own column of such a name is an extra field beside them.
const (
	Code       Field = "c:code" // the class's short code
	ClassName  Field = "c:name"
	Title      Field = "h:title"
	Date       Field = "h:date"
	Term       Field = "h:term"
	Year       Field = "h:year"
	SchoolYear Field = "h:schoolyear"
	Original   Field = "h:original" // what a document is called, without its ending
	Teacher    Field = "c:teacher"  // name of the class's owner
	Initials   Field = "c:initials" // of that name
)

// Listed are the fields of a class list in the order a person reads them.
var Listed = []Field{Family, Given, Preferred, Number, Address, Class, Period, Level, Team}

const extra = "extra:"

// Extra returns the field of an extra column by its heading.
func Extra(heading string) Field { return Field(extra + heading) }

// Heading returns the heading of an extra column; ok is false for any other field.
func (f Field) Heading() (heading string, ok bool) { return strings.CutPrefix(string(f), extra) }

// Own reports a field that is the class's or the handout's own.
func (f Field) Own() bool {
	return strings.HasPrefix(string(f), "h:") || strings.HasPrefix(string(f), "c:")
}

// labels are what fields are called in written patterns and exports. The
// interface has its own words for them.
var labels = map[Field]string{
	Family: "Family name", Given: "Given name", Preferred: "Preferred name", Number: "Student number",
	Address: "Address", Class: "Class in the list",
	Period: "Period", Level: "Level", Team: "Team", Code: "Class", ClassName: "Class name", Title: "Title", Date: "Date",
	Term: "Term", Year: "Year", SchoolYear: "School year",
	Original: "Original name", Teacher: "Teacher", Initials: "Teacher’s initials",
}

// fromList is put behind the heading of a list's own column that is called like
// a field of ours, so that the two can be told apart.
const fromList = " (list)"

// Label returns what a field is called in English, no two alike: an extra one
// by its heading.
func (f Field) Label() string {
	h, ok := f.Heading()
	if !ok {
		return labels[f]
	}
	if _, ours := named(base(h)); ours {
		return h + fromList
	}
	return h
}

// base is a heading without what tells it from one of ours.
func base(h string) string {
	for {
		rest, cut := strings.CutSuffix(h, fromList)
		if !cut {
			return h
		}
		h = rest
	}
}

// Named returns the field that Label calls so: every other label is the heading
// of an extra column.
func Named(label string) Field {
	if f, ours := named(label); ours {
		return f
	}
	if h, cut := strings.CutSuffix(label, fromList); cut {
		if _, ours := named(base(h)); ours {
			return Extra(h)
		}
	}
	return Extra(label)
}

func named(label string) (Field, bool) {
	for f, l := range labels {
		if strings.EqualFold(l, label) {
			return f, true
		}
	}
	return "", false
}

// Known reports whether f is a field: one of the vocabulary, or an extra one
// with a heading.
func (f Field) Known() bool {
	if h, ok := f.Heading(); ok {
		return h != ""
	}
	return labels[f] != ""
}

// A Record is one student of one class: what the class's own list says, and
// nothing of any other class.
type Record struct {
	Given     string            `json:"given"`
	Family    string            `json:"family"`
	Preferred string            `json:"preferred,omitempty"`
	Address   string            `json:"address"`
	Number    string            `json:"number"`
	Class     string            `json:"class"`
	Period    string            `json:"period"`
	Level     string            `json:"level"`
	Team      string            `json:"team"`
	Extra     map[string]string `json:"extra"`
}

// place returns where the record keeps a field of a list, nil for any other.
func (r *Record) place(f Field) *string {
	switch f {
	case Given:
		return &r.Given
	case Family:
		return &r.Family
	case Preferred:
		return &r.Preferred
	case Address:
		return &r.Address
	case Number:
		return &r.Number
	case Class:
		return &r.Class
	case Period:
		return &r.Period
	case Level:
		return &r.Level
	case Team:
		return &r.Team
	}
	return nil
}

// Get returns the value of a field; empty where the record has none.
func (r Record) Get(f Field) string {
	if p := r.place(f); p != nil {
		return *p
	}
	h, _ := f.Heading()
	return r.Extra[h]
}

// Set puts a value into a field. It reports false, and changes nothing, for a
// field no list can have. The extra values of copies of the record stay as
// they are.
func (r *Record) Set(f Field, value string) bool {
	if p := r.place(f); p != nil {
		*p = value
		return true
	}
	h, ok := f.Heading()
	if !ok || h == "" {
		return false
	}
	own := make(map[string]string, len(r.Extra)+1)
	for k, v := range r.Extra {
		own[k] = v
	}
	own[h] = value
	r.Extra = own
	return true
}

// Name returns the name as it is spoken: given, then family name.
func (r Record) Name() string {
	switch {
	case r.Given == "" && r.Family == "":
		return r.Preferred
	case r.Given == "":
		return r.Family
	case r.Family == "":
		return r.Given
	}
	return r.Given + " " + r.Family
}

// CallName returns the name a student goes by: the preferred name in place of
// the given one.
func (r Record) CallName() string {
	if r.Preferred != "" {
		r.Given = r.Preferred
	}
	return r.Name()
}

// SortName returns the name as it is listed: family name first.
func (r Record) SortName() string {
	if r.Family == "" || r.Given == "" {
		return r.Family + r.Given
	}
	return r.Family + ", " + r.Given
}

// Nameless reports a record without any name.
func (r Record) Nameless() bool { return r.Given == "" && r.Family == "" && r.Preferred == "" }

// A FieldChange is one value that differs between two states of a record.
type FieldChange struct {
	Field Field  `json:"field"`
	From  string `json:"from"`
	To    string `json:"to"`
}

// Empties reports an empty cell over a value: it may mean that there is none,
// or that nobody filled it in, so it is done only where somebody says so.
func (f FieldChange) Empties() bool { return f.To == "" }

// Diff lists the fields in which two records differ, in the order of Listed,
// extra ones by heading behind them. Addresses differ regardless of case.
func Diff(a, b Record) []FieldChange {
	var out []FieldChange
	for _, f := range Listed {
		from, to := *a.place(f), *b.place(f)
		if from != to && !(f == Address && strings.EqualFold(from, to)) {
			out = append(out, FieldChange{f, from, to})
		}
	}
	var headings []string
	for h, v := range b.Extra {
		if a.Extra[h] != v {
			headings = append(headings, h)
		}
	}
	for h, v := range a.Extra {
		if _, there := b.Extra[h]; !there && v != "" {
			headings = append(headings, h)
		}
	}
	slices.Sort(headings)
	for _, h := range headings {
		out = append(out, FieldChange{Extra(h), a.Extra[h], b.Extra[h]})
	}
	return out
}

// Values are columns by field, for those who ask with Get.
type Values map[Field]string

// Get returns the value of a field; empty where there is none.
func (v Values) Get(f Field) string { return v[f] }

// A Getter answers what is in a column.
type Getter interface{ Get(Field) string }

// InClass is a record as names and conditions of its class see it: the class's
// own code, its period where the row has none, and a single name as the family
// name, so that no name begins with a gap.
type InClass struct {
	Record
	ClassCode   string
	ClassTitle  string
	ClassPeriod string
	Teacher     string // the class's owner
}

// Get implements Getter.
func (c InClass) Get(f Field) string {
	switch f {
	case Code:
		return c.ClassCode
	case ClassName:
		return c.ClassTitle
	case Teacher:
		return c.Teacher
	case Initials:
		return InitialsOf(c.Teacher)
	case Period:
		if c.Period == "" {
			return c.ClassPeriod
		}
	case Family:
		if c.Family == "" {
			return c.Given
		}
	case Given:
		if c.Family == "" {
			return ""
		}
	}
	return c.Record.Get(f)
}

// InitialsOf are the first letters of the words of a name.
func InitialsOf(name string) string {
	var b strings.Builder
	for _, word := range strings.FieldsFunc(name, func(r rune) bool { return unicode.IsSpace(r) || r == '-' }) {
		for _, r := range word {
			if unicode.IsLetter(r) {
				b.WriteRune(unicode.ToUpper(r))
				break
			}
		}
	}
	return b.String()
}

// With is what Own says, and for every other field what Rest says.
type With struct {
	Own  Values
	Rest Getter
}

// Get implements Getter.
func (w With) Get(f Field) string {
	if v, ok := w.Own[f]; ok {
		return v
	}
	return w.Rest.Get(f)
}

// A Vocabulary is the fields that can be picked in one class, the ones of every
// class first.
type Vocabulary []Field

// VocabularyOf returns the fields of a class: those of every class and of every
// handout, and the extra columns its records have, in the order they appear.
func VocabularyOf(records func(yield func(Record) bool)) Vocabulary {
	out := Vocabulary{Period, Family, Given, Preferred, Number, Address, Code, ClassName, Level, Team, Title, Original,
		Date, Year, SchoolYear, Term, Teacher, Initials}
	seen := map[string]bool{}
	for r := range records {
		if len(r.Extra) == 0 {
			continue
		}
		var more []string
		for h := range r.Extra {
			if !seen[h] && h != "" {
				seen[h] = true
				more = append(more, h)
			}
		}
		slices.Sort(more)
		for _, h := range more {
			out = append(out, Extra(h))
		}
	}
	return out
}

// Has reports whether a field can be picked.
func (v Vocabulary) Has(f Field) bool { return slices.Contains(v, f) }
