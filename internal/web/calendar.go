package web

import (
	"bytes"
	"cmp"
	"context"
	"net/http"
	"net/url"

	"jollysatchel/internal/calendar"
	"jollysatchel/internal/core/register"
	"jollysatchel/internal/core/words"
	"jollysatchel/internal/web/api"
)

// GetCalendar implements the route of that name.
func (s *registerRoutes) GetCalendar(ctx context.Context, _ api.GetCalendarRequestObject) (api.GetCalendarResponseObject, error) {
	dues, err := s.registers.Dues(ctx, account(ctx))
	if err != nil {
		return nil, err
	}
	return s.asCalendar(ctx, s.School().Name, dues)
}

// GetClassCalendar implements the route of that name.
func (s *registerRoutes) GetClassCalendar(ctx context.Context, r api.GetClassCalendarRequestObject) (api.GetClassCalendarResponseObject,
	error) {
	c, err := s.class(ctx)
	if err != nil {
		return nil, err
	}
	dues, err := s.registers.ClassDues(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	return s.asCalendar(ctx, c.Name, dues)
}

// asCalendar is due times as a file to keep.
func (s *desk) asCalendar(ctx context.Context, name string, dues []register.Due) (exported, error) {
	site := s.site(ctx)
	host := "jolly.invalid"
	if u, err := url.Parse(site); err == nil {
		host = cmp.Or(u.Hostname(), host)
	}
	events := make([]calendar.Event, len(dues))
	for i, d := range dues {
		link := site + "/classes/" + d.Handout.ClassID + "/handouts/" + d.Handout.ID
		if d.Thing != "" {
			link = site + "/things/" + d.Thing
		}
		events[i] = calendar.Event{UID: d.Handout.ID + "@" + host, At: d.At, Changed: d.Handout.ChangedAt, Link: link,
			Text: d.Handout.Settings.Message, Title: words.Fill(words.English.Reason["is-due"], "title", d.Handout.Title, "class", d.Class)}
	}
	var b bytes.Buffer
	if err := calendar.Write(&b, name, events); err != nil {
		return exported{}, err
	}
	asGin(ctx).Header("Content-Disposition", disposition(name+".ics"))
	return exported{b.Bytes(), calendar.MediaType}, nil
}

// VisitGetCalendarResponse implements api.GetCalendarResponseObject.
func (e exported) VisitGetCalendarResponse(w http.ResponseWriter) error { return e.visit(w) }

// VisitGetClassCalendarResponse implements api.GetClassCalendarResponseObject.
func (e exported) VisitGetClassCalendarResponse(w http.ResponseWriter) error { return e.visit(w) }
