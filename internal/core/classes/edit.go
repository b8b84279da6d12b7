package classes

import (
	"fmt"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
)

// An Edit puts a value into one field of one row of a roster. Was, where it
// is said, is the value that was looked at: if somebody changed it since, both
// values are told and nothing is written.
type Edit struct {
	Row   string
	Field record.Field
	Value string
	Was   *string
}

// Tell is Apply, and returns for the log whose cell it is, what it held and what it holds.
func (e Edit) Tell(row *Row) (change.Told, error) {
	t := change.Told{What: e.Field.Label(), Whose: row.SortName(), From: row.Get(e.Field)}
	err := e.Apply(row)
	t.To = row.Get(e.Field)
	return t, err
}

// Apply puts the value into a row.
func (e Edit) Apply(row *Row) error {
	value := naming.Tidy(e.Value)
	args := map[string]string{"row": e.Row, "field": string(e.Field), "value": value}
	now := row.Get(e.Field)
	switch {
	case e.Was != nil && now != *e.Was && now != value:
		return &change.Changed{Field: string(e.Field), Row: e.Row, Yours: value, Theirs: now}
	case now == value:
		return nil
	case len(value) > roster.MaxValue:
		args["most"] = fmt.Sprint(roster.MaxValue)
		return &change.Invalid{Field: string(e.Field), Code: "too-long", Args: args}
	case e.Field == record.Address && value != "" && roster.AddressForm(value) != "":
		args["why"] = roster.AddressForm(value)
		return &change.Invalid{Field: string(e.Field), Code: "address-malformed", Args: args}
	case e.Field == record.Class || len(e.Field) > len(record.Extra(""))+roster.MaxHeading || !row.Set(e.Field, value):
		return &change.Invalid{Field: string(e.Field), Code: "no-such-cell", Args: args}
	case len(row.Extra) > roster.MaxColumns:
		return change.Refuse(string(e.Field), "too-many-columns", "most", fmt.Sprint(roster.MaxColumns))
	case row.Nameless():
		return &change.Invalid{Field: string(e.Field), Code: "name-missing", Args: args}
	}
	return nil
}

// Tidy tidies what was typed about a student, and refuses what no list
// could say.
func Tidy(s *record.Record) error {
	for _, f := range record.Listed {
		v := naming.Tidy(s.Get(f))
		if len(v) > roster.MaxValue {
			return change.TooLong(string(f), roster.MaxValue)
		}
		s.Set(f, v)
	}
	switch {
	case s.Given == "" && s.Family == "":
		return change.Refuse("family", "name-missing")
	case s.Address != "" && roster.AddressForm(s.Address) != "":
		return change.Refuse("address", "address-malformed", "value", s.Address, "why", roster.AddressForm(s.Address))
	}
	return nil
}
