package calendar_test

import (
	"bytes"
	"strings"
	"testing"
	"time"

	"github.com/emersion/go-ical"

	"jollysatchel/internal/calendar"
)

// What is written is read back by another library, to the second and the letter, in lines of at most
// 75 bytes that end as RFC 5545, 3.1, says.
func TestReadBack(t *testing.T) {
	at := time.Date(2026, 10, 25, 0, 30, 0, 0, time.UTC) // in the hour that comes twice in Lisbon
	events := []calendar.Event{
		{UID: "a1@kestrelquay.example", At: at, Changed: at.Add(-time.Hour), Title: "Rock-pool field log is due · Tide Watch 7B",
			Text: "Low water is at 11:20; write where you stood, and why.\nBring boots \\ a pencil.", Link: "https://satchel.kestrelquay.example/things/1"},
		{UID: "a2@kestrelquay.example", At: at.AddDate(0, 1, 2), Changed: at, Title: strings.Repeat("中村 そら حداد ", 30), Link: "https://satchel.kestrelquay.example/"},
	}
	var b bytes.Buffer
	if err := calendar.Write(&b, "Tide Watch 7B", events); err != nil {
		t.Fatal(err)
	}
	if !strings.HasSuffix(b.String(), "END:VCALENDAR\r\n") {
		t.Errorf("it ends %q", b.String()[max(0, b.Len()-20):])
	}
	for line := range strings.SplitSeq(b.String(), "\r\n") {
		if len(line) > 75 || strings.ContainsAny(line, "\r\n") {
			t.Errorf("a line of %d bytes: %q", len(line), line)
		}
	}
	cal, err := ical.NewDecoder(&b).Decode()
	if err != nil {
		t.Fatal(err)
	}
	got := cal.Events()
	if len(got) != len(events) {
		t.Fatalf("%d events, want %d", len(got), len(events))
	}
	for i, e := range got {
		start, err := e.DateTimeStart(time.UTC)
		if err != nil || !start.Equal(events[i].At) {
			t.Errorf("it starts %v, %v", start, err)
		}
		for name, want := range map[string]string{ical.PropUID: events[i].UID, ical.PropSummary: events[i].Title, ical.PropDescription: events[i].Text} {
			text, err := e.Props.Text(name)
			if err != nil || text != want {
				t.Errorf("%s is %q, want %q, %v", name, text, want, err)
			}
		}
		if e.Props.Get(ical.PropDateTimeStamp) == nil {
			t.Error("without a stamp")
		}
	}
}
