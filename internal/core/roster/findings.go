package roster

import "jollysatchel/internal/core/words"

// severities say how much a finding matters; its words are the catalogue's.
var severities = map[string]Severity{
	"name-missing":        Error,
	"address-missing":     Error,
	"address-later":       Warning,
	"address-malformed":   Error,
	"student-twice":       Error,
	"address-twice":       Error,
	"no-address-column":   Error,
	"account-unknown":     Warning,
	"account-other-name":  Warning,
	"account-not-student": Error,
	"value-too-long":      Error,
	"too-many-columns":    Warning,
	"two-teams":           Warning,
	"heading-missing":     Warning,
	"domain-other":        Warning,
	"same-name":           Warning,
	"heading-twice":       Warning,
	"zeros-lost":          Warning,
	"odd-characters":      Warning,
	"look-alike":          Warning,
	"blank-row":           Note,
	"hidden-row":          Warning,
	"heading-again":       Note,
	"total-row":           Note,
	"row-left-out":        Note,
}

// finding renders one finding; pairs are argument names and values in turn.
func finding(row, field int, heading, code string, pairs ...string) Finding {
	t := words.Finding(code, pairs...)
	f := Finding{Row: row, Field: field, Column: heading, Severity: severities[code], Code: code, Title: t.Title,
		Message: t.Text, Remedy: t.Remedy}
	f.Args = make(map[string]string, len(pairs)/2)
	for i := 0; i+1 < len(pairs); i += 2 {
		f.Args[pairs[i]] = pairs[i+1]
	}
	return f
}
