package roster

import "strings"

// A text is the English rendering of a finding; {name} stands for an argument.
type text struct {
	severity        Severity
	message, remedy string
}

var texts = map[string]text{
	"name-missing":        {Error, "The row has no name.", "Type the student's name, or leave the row out."},
	"address-missing":     {Error, "{name} has no address.", "Type the address, or leave the row out."},
	"address-malformed":   {Error, "{value} is not an address.", "Correct the address, or leave the row out."},
	"student-twice":       {Error, "{name} stands in row {first} too; this row stays out.", "Leave it out, or correct the row that is wrong."},
	"address-twice":       {Error, "{address} belongs to {other} in row {first}.", "Correct the address of one of the two."},
	"no-address-column":   {Error, "No column holds addresses.", "Say which column it is, or paste a list that has one."},
	"account-unknown":     {Warning, "The school book doesn't know {address}.", "Correct the address, or keep it and ask the office."},
	"account-other-name":  {Warning, "{address} is {theirs}’s in the school book, not {name}’s.", "Correct the address, or say that it is the same student. Until then nothing is given."},
	"account-not-student": {Error, "{address} is no student’s account.", "Type the student's own address, or leave the row out."},
	"value-too-long":      {Error, "A value under {column} is longer than {most} bytes.", "Shorten it, or leave the row out."},
	"too-many-columns":    {Warning, "The list has {count} columns; the first {most} are read.", "Take columns out that aren't needed."},
	"two-teams":           {Warning, "{value} looks like two teams; a student is in one.", "Keep one of them."},
	"heading-missing":     {Warning, "{column} has values and no heading.", "Its values are kept under that name; say what it holds."},
	"domain-other":        {Warning, "{address} is not an address of {domain}.", "Check the address."},
	"same-name":           {Warning, "{name} stands here more than once, in rows {rows}.", "Their folders get the student number."},
	"heading-twice":       {Warning, "The heading {heading} stands over two columns.", "Both are kept; say which is which."},
	"zeros-lost":          {Warning, "{value} is shorter than the other numbers; zeros may be lost.", "Use {suggestion}, or keep it."},
	"odd-characters":      {Warning, "{column} holds characters that can't be seen; they were taken out.", "Check the value."},
	"look-alike":          {Warning, "{value} mixes letters of two scripts that look alike.", "Type the word again."},
	"blank-row":           {Note, "The row is blank.", ""},
	"hidden-row":          {Note, "The row is hidden in the spreadsheet.", "Take it in if the student belongs here."},
	"heading-again":       {Note, "The headings stand here again.", "Take it in if it is a student."},
	"total-row":           {Note, "The row holds a total, not a student.", "Take it in if it is a student."},
	"row-left-out":        {Note, "You left this row out.", "Take it in again."},
}

// finding renders one finding; pairs are argument names and values in turn.
func finding(row, field int, heading, code string, pairs ...string) Finding {
	t := texts[code]
	f := Finding{Row: row, Field: field, Column: heading, Severity: t.severity, Code: code, Message: fill(t.message, pairs), Remedy: fill(t.remedy, pairs)}
	f.Args = make(map[string]string, len(pairs)/2)
	for i := 0; i+1 < len(pairs); i += 2 {
		f.Args[pairs[i]] = pairs[i+1]
	}
	return f
}

// fill puts values in place of their names in braces, in one pass: a value that
// holds braces stays as it is.
func fill(text string, pairs []string) string {
	open := strings.IndexByte(text, '{')
	if open < 0 {
		return text
	}
	var b strings.Builder
	b.Grow(len(text) + 48)
	for open >= 0 {
		end := open + strings.IndexByte(text[open:], '}')
		b.WriteString(text[:open])
		for i := 0; i+1 < len(pairs); i += 2 {
			if pairs[i] == text[open+1:end] {
				b.WriteString(pairs[i+1])
				break
			}
		}
		text = text[end+1:]
		open = strings.IndexByte(text, '{')
	}
	b.WriteString(text)
	return b.String()
}
