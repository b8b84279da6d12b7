package classes

import (
	"strings"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/room"
)

// How long codes and periods may be, in letters; of names in bytes, see room.MostName.
const (
	MostCode   = 12
	MostPeriod = 20
)

// MostStaff is how many a class's staff can be: the class's folder, and whatever stands alone in
// it, names them all.
const MostStaff = 30

// New is a class that is made at a time, with the usual room; what it is called comes with Called.
func New(id string, at time.Time) Class {
	return Class{ID: id, Plan: room.Usual(), CreatedAt: at}
}

// Called is a class that is called something else; no code is one made of the name. What can't be said
// is refused as *change.Invalid.
func (c Class) Called(code, name, period string) (Class, error) {
	code, name, period = naming.Tidy(code), naming.Tidy(name), naming.Tidy(period)
	switch {
	case name == "":
		return c, change.Refuse("name", "missing")
	case len(name) > room.MostName:
		return c, change.TooLong("name", room.MostName)
	case len([]rune(code)) > MostCode:
		return c, change.TooLong("code", MostCode)
	case len([]rune(period)) > MostPeriod:
		return c, change.TooLong("period", MostPeriod)
	}
	if code == "" {
		code = shortCode(name)
	}
	c.Code, c.Name, c.Period = code, name, period
	return c, nil
}

// shortCode makes a code of a name: its last word where that has a figure
// ("7B"), else the first letters of its words, and of a single word as it begins.
func shortCode(name string) string {
	words := strings.Fields(name)
	last := words[len(words)-1]
	switch letters := []rune(last); {
	case len(letters) <= 6 && strings.ContainsAny(last, "0123456789"):
		return last
	case len(words) == 1:
		return string(letters[:min(4, len(letters))])
	}
	code := ""
	for _, w := range words {
		code += strings.ToUpper(string([]rune(w)[:1]))
	}
	return string([]rune(code)[:min(4, len([]rune(code)))])
}

// A Change changes what a class is called; nil leaves a part as it is.
type Change struct {
	Code   *string `json:"code,omitempty"`
	Name   *string `json:"name,omitempty"`
	Period *string `json:"period,omitempty"`
}

// Of is the class with the change, unless a part isn't what was looked at any more, which is told
// as *change.Changed.
func (ch Change) Of(now Class, was Change) (Class, error) {
	code, name, period := now.Code, now.Name, now.Period
	for _, x := range []struct {
		field     string
		said, was *string
		now       *string
	}{{"code", ch.Code, was.Code, &code}, {"name", ch.Name, was.Name, &name}, {"period", ch.Period, was.Period, &period}} {
		if x.said == nil {
			continue
		}
		if err := change.Unless(x.was, x.field, *x.now, naming.Tidy(*x.said)); err != nil {
			return now, err
		}
		*x.now = *x.said
	}
	return now.Called(code, name, period)
}

// Told returns what differs between what a class is called before and after a change, for the log.
func Told(before, after Class) []change.Told {
	return change.Differing(
		change.Told{What: "called", From: before.Name, To: after.Name},
		change.Told{What: "code", From: before.Code, To: after.Code},
		change.Told{What: "period", From: before.Period, To: after.Period},
	)
}
