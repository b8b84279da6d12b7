// Package calendar writes due times as a calendar that other programs read: iCalendar, RFC 5545.
package calendar

import (
	"io"
	"time"

	ical "github.com/arran4/golang-ical"
)

// MediaType is what such a file is.
const MediaType = "text/calendar; charset=utf-8"

// An Event is one moment that something is due. UID stays the same however often it is written, so
// that a program that read it before changes its entry.
type Event struct {
	UID     string
	At      time.Time
	Changed time.Time
	Title   string
	Text    string // empty: none
	Link    string
}

// Write writes events as a calendar of a name. Moments are in UTC, which every zone's clocks are
// worked out from.
func Write(w io.Writer, name string, events []Event) error {
	cal := ical.NewCalendarFor("Jolly Satchel")
	cal.SetMethod(ical.MethodPublish)
	cal.SetName(name)
	cal.SetXWRCalName(name)
	for _, x := range events {
		e := cal.AddEvent(x.UID)
		e.SetDtStampTime(x.Changed)
		e.SetStartAt(x.At)
		e.SetSummary(x.Title)
		if x.Text != "" {
			e.SetDescription(x.Text)
		}
		e.SetURL(x.Link)
		e.SetTimeTransparency(ical.TransparencyTransparent) // nobody is busy then
	}
	return cal.SerializeTo(w, ical.WithNewLineWindows) // lines end in CRLF: RFC 5545, 3.1
}
