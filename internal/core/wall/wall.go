// Package wall is about the times that clocks on a wall show, as schools say them: a day and an
// hour, without a zone. As a time.Time such a time is written in UTC.
package wall

import (
	"sync"
	"time"
)

// Minute is how a wall-clock time is written: 2026-11-27T17:00.
const Minute = "2006-01-02T15:04"

const second = "2006-01-02T15:04:05"

// Parse reads a wall-clock time, maybe with seconds.
func Parse(s string) (time.Time, error) {
	if t, err := time.Parse(Minute, s); err == nil {
		return t, nil
	}
	return time.Parse(second, s)
}

// Written is a wall-clock time as it is written; empty for none.
func Written(t time.Time) string {
	switch {
	case t.IsZero():
		return ""
	case t.Second() != 0:
		return t.Format(second)
	}
	return t.Format(Minute)
}

// At is what the clocks of a zone show at a moment, as a wall-clock time.
func At(moment time.Time, zone string) time.Time {
	t := moment.In(zoneOf(zone))
	return time.Date(t.Year(), t.Month(), t.Day(), t.Hour(), t.Minute(), t.Second(), t.Nanosecond(), time.UTC)
}

// Moment is the moment of a wall-clock time in a zone, such as Europe/Dublin; in UTC where
// there is no such zone. Of a time that comes twice it is the first; one that clocks leave out
// is as much later as they are put on. (What time.Date takes there differs from zone to zone.)
func Moment(wall time.Time, zone string) time.Time {
	in := zoneOf(zone)
	by := func(near time.Time) time.Time { // with the offset that holds then
		_, offset := near.In(in).Zone()
		return wall.Add(-time.Duration(offset) * time.Second).In(in)
	}
	before, after := by(wall.Add(-26*time.Hour)), by(wall.Add(26*time.Hour))
	if after.Format(time.DateTime) == wall.Format(time.DateTime) && before.Format(time.DateTime) != wall.Format(time.DateTime) {
		return after
	}
	return before
}

var zones sync.Map // of those that were asked for: each is read from its file once

func zoneOf(name string) *time.Location {
	if known, ok := zones.Load(name); ok {
		return known.(*time.Location)
	}
	zone, err := time.LoadLocation(name)
	if err != nil {
		return time.UTC
	}
	zones.Store(name, zone)
	return zone
}
