// Package demo brings in Kestrel Quay School, through the same code a teacher
// and a student use, with a clock of its own that plays the days before the
// first start.
package demo

import (
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"strings"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/school"
	cupboardstandin "jollysatchel/internal/cupboard/standin"
	"jollysatchel/internal/schoolbook/standin"
	"jollysatchel/internal/usecase/pack"
	"jollysatchel/internal/web"
)

// Password of every person in the demo.
const Password = "low water at eleven"

// School is what the office of Kestrel Quay said.
var School = school.Settings{Name: "Kestrel Quay School", Domain: domain}

// Tell prints the demo's sign-ins.
func Tell(w io.Writer) {
	fmt.Fprintf(w, "Sign in as ifeoma.oduya@%s (teacher), nokuthula.dube@%s (student) or office@%s,\n"+
		"each with the password %q, or choose a person on the sign-in page.\n"+
		"Harbour History 9D isn't set up yet: its class list is docs/harbour-history.csv.\n", domain, domain, domain, Password)
}

// People are those the sign-in page lets you be.
func People() []web.DemoPerson {
	about := map[string]string{
		"staff-oduya": "teacher-three", "staff-lindqvist": "co-teacher", "staff-amaral": "teacher-new", "office": "office",
		"student-nokuthula.dube": "student-three", "student-tariq.bensaid": "student-one",
		"student-ximena": "student-one-name", "student-wren.ashdown": "student-none",
	}
	var out []web.DemoPerson
	for _, a := range everybody() {
		if about[a.ID] != "" {
			out = append(out, web.DemoPerson{Account: a, About: about[a.ID]})
		}
	}
	return out
}

// Ensure brings the demo in at the first start and leaves it alone afterwards.
// An interrupted first start is begun again.
func Ensure(ctx context.Context, s app.Settings) ([]web.DemoPerson, error) {
	day := &clock.Manual{}
	now := s.Now()
	s.Now = day.Now
	s.Weather = cupboardstandin.Weather{}
	day.Set(now.AddDate(0, 0, -21))
	a, err := app.Open(ctx, s)
	if err != nil {
		return nil, err
	}
	defer a.Close()
	if !a.Charter.Said() {
		if err := errors.Join(a.Store.SaveSchoolSettings(ctx, School, now), a.Charter.Read(ctx)); err != nil {
			return nil, err
		}
	}
	cs, err := a.Store.Classes(ctx, "")
	if err != nil {
		return nil, err
	}
	if len(cs) > 0 { // the password of data of an earlier version is marked too
		return People(), a.Book.MarkDemo(ctx, ids())
	}
	p := &player{App: a, day: day, now: now, rand: rand.New(rand.NewPCG(7, 11))}
	if err := a.Start(ctx); err != nil {
		return nil, err
	}
	if err = p.play(ctx); err == nil {
		err = a.Book.MarkDemo(ctx, ids())
	}
	if stop := a.Stop(context.WithoutCancel(ctx)); err == nil {
		err = stop
	}
	if err != nil {
		return nil, fmt.Errorf("bringing the demo in: %w", err)
	}
	return People(), nil
}

func ids() []string {
	var out []string
	for _, a := range everybody() {
		out = append(out, a.ID)
	}
	return out
}

// A player plays the days before the first start.
type player struct {
	*app.App
	day  *clock.Manual
	now  time.Time
	rand *rand.Rand
}

// at sets the clock to so many days ago, at a time of day of the school's: on the
// Saturday before where that is a Sunday, and a quarter of an hour ago where it is still
// to come. So the story is the same whenever it is first told.
func (p *player) at(daysAgo, hour, minute int) {
	zone := p.Charter.School().Zone
	d := p.now.In(zone).AddDate(0, 0, -daysAgo)
	if d.Weekday() == time.Sunday {
		d = d.AddDate(0, 0, -1)
	}
	at, latest := time.Date(d.Year(), d.Month(), d.Day(), hour, minute, 0, 0, zone), p.now.Add(-15*time.Minute)
	if at.After(latest) {
		at = latest
	}
	p.day.Set(at)
}

func (p *player) play(ctx context.Context) error {
	if err := p.people(ctx); err != nil {
		return err
	}
	p.at(20, 8, 5)
	tide, err := p.class(ctx, "staff-oduya", "7B", "Tide Watch 7B", "3", csv(tide7B[:27], "3", true))
	if err != nil {
		return err
	}
	p.at(20, 8, 40)
	boat, err := p.class(ctx, "staff-oduya", "8A", "Boat Workshop 8A", "5", csv(boat8A, "5", false))
	if err != nil {
		return err
	}
	p.at(19, 15, 30)
	club, err := p.class(ctx, "staff-lindqvist", "WSC", "Weather Station Club", "", csv(weatherClub, "", false))
	if err != nil {
		return err
	}
	p.at(2, 16, 0)
	if _, err := p.Cases.Classes.CreateClass(ctx, "staff-oduya", "9D", "Harbour History 9D", "2", false); err != nil {
		return err
	}
	for _, id := range []string{tide, boat} {
		if err := p.Store.AddStaff(ctx, classes.Member{ClassID: id, Account: "staff-lindqvist", Role: classes.Teacher}); err != nil {
			return err
		}
	}
	for _, h := range []struct {
		class, owner, name, text string
		given                    int // days ago
		due                      int // days from now
		begun                    float64
		message                  string
	}{
		{tide, "staff-oduya", "Knot card", knotCard, 18, -9, 0.95, ""},
		{tide, "staff-oduya", "Tide-table worksheet", tideTable, 11, -2, 0.85, "The table hangs at the harbour office."},
		{tide, "staff-oduya", "Rock-pool field log", fieldLog, 6, 2, 0.6, "Low water is at 11:20 on Thursday. Write where you stood."},
		{boat, "staff-oduya", "Knot card", knotCard, 9, 5, 0.6, ""},
		{club, "staff-lindqvist", "Barometer diary", barometer, 12, 23, 0.9, "Read it at the same time each day."},
	} {
		if err := p.handout(ctx, h.class, h.owner, h.name, h.text, h.given, h.due, h.begun, h.message); err != nil {
			return err
		}
	}
	if err := p.lately(ctx, tide, boat); err != nil {
		return err
	}
	return p.Observer.CatchUp(ctx)
}

// people fills the school book and tells the cupboard of everybody but one: an
// account the cupboard doesn't know yet is a thing that happens.
func (p *player) people(ctx context.Context) error {
	hash, err := standin.Hash(Password)
	if err != nil {
		return err
	}
	var ids []string
	for _, a := range everybody() {
		if err := p.Book.Add(ctx, a, hash); err != nil {
			return err
		}
		if a.ID != "student-hana.wojcik" {
			ids = append(ids, a.ID)
		}
	}
	return p.Cup.AddPeople(ctx, ids...)
}

// rooms are what the teachers of some classes changed about the usual plan.
var rooms = func() map[string]room.Change {
	var tide, boat room.Change
	tide.Pockets.Add = []string{"Field work", "Photographs"}
	place := func(name string, whom room.For, level string, handIn bool, set record.Field) room.PlaceParts {
		return room.PlaceParts{Name: &name, For: &whom, Level: &level, HandIn: &handIn, Set: &set}
	}
	boat.Places.Add = []room.PlaceParts{
		place("Crews", room.ForTeam, "edit", false, record.Extra("Boat group")),
		place("Hand in", room.ForStudent, "edit", true, ""), place("Keys and codes", room.ForStaff, "", false, ""),
	}
	return map[string]room.Change{"Tide Watch 7B": tide, "Boat Workshop 8A": boat}
}()

// class adds a class, brings its list in and packs its room.
func (p *player) class(ctx context.Context, owner, code, name, period, list string) (string, error) {
	c, err := p.Cases.Classes.CreateClass(ctx, owner, code, name, period, false)
	if err != nil {
		return "", err
	}
	if err := p.list(ctx, c.ID, list); err != nil {
		return "", err
	}
	if err := p.Cases.Rooms.ChangeRoom(ctx, owner, c.ID, rooms[name]); err != nil {
		return "", err
	}
	run, err := p.Cases.Packing.Pack(ctx, owner, c.ID, "", pack.Part{})
	if err != nil {
		return "", err
	}
	return c.ID, p.wait(ctx, run.ID)
}

func (p *player) list(ctx context.Context, class, list string) error {
	staff, err := p.Store.Staff(ctx, class)
	if err != nil {
		return err
	}
	d, err := p.Cases.Lists.BringDraft(ctx, staff[0].Account, class, "class list.csv", strings.NewReader(list))
	if err != nil {
		return err
	}
	_, err = p.Cases.Lists.Accept(ctx, staff[0].Account, class, d.LookedAt())
	return err
}

// wait drives a run to its end.
func (p *player) wait(ctx context.Context, run string) error {
	for {
		p.Packer.Drive(ctx, run)
		r, err := p.Store.Run(ctx, run)
		if err != nil || r.State == ledger.RunDone {
			return err
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(20 * time.Millisecond):
		}
	}
}

// lately is what happened yesterday and today: a newcomer to top up, files in
// satchels, something on the shelf.
func (p *player) lately(ctx context.Context, tide, boat string) error {
	p.at(1, 16, 45)
	if err := p.list(ctx, tide, csv(tide7B, "3", true)); err != nil {
		return err
	}
	cl, err := p.Cases.Classes.Class(ctx, tide)
	if err != nil {
		return err
	}
	entries, err := p.Store.Ledger(ctx, tide)
	if err != nil {
		return err
	}
	people := map[string]picture.Student{}
	for _, s := range cl.Students {
		people[s.ID] = s
	}
	n := 0
	for _, e := range entries {
		switch e.Key.What.Purpose {
		case packing.Satchel:
			s := people[e.Key.Whom.Row]
			if n++; n%3 != 0 || !e.Shared() || s.Account == "" {
				continue
			}
			p.at(1, 17, n)
			if _, err := p.Cases.Things.AddFile(ctx, s.Account, "demo", e.Thing, "my pool.png", "image/png",
				strings.NewReader(drawing)); err != nil {
				return err
			}
		case packing.Shelf:
			for _, doc := range []struct {
				name, text string
			}{{"Tide tables of the week.md",
				"# Tide tables of the week\n\n| day | low | high |\n| --- | --- | --- |\n" +
					"| Thu | 11:20 | 17:35 |\n| Fri | 12:05 | 18:20 |\n"},
				{"How we mark.md", "# How we mark\n\nWe read for what you saw, not for long words.\n"}} {
				if _, err := p.Cases.Things.AddFile(ctx, "staff-oduya", "demo "+doc.name, e.Thing, doc.name,
					"text/markdown; charset=utf-8", strings.NewReader(doc.text)); err != nil {
					return err
				}
			}
		case packing.Table:
			if _, err := p.Cases.Things.AddFile(ctx, "staff-oduya", "demo list", e.Thing, "Species we found.md",
				"text/markdown; charset=utf-8", strings.NewReader("# Species we found\n\n- limpet\n- beadlet anemone\n")); err != nil {
				return err
			}
		}
	}
	// A handout that is begun and not packed, so that there is something to carry on with.
	p.at(0, 7, 30)
	t, err := p.Cases.Handouts.AddTemplate(ctx, "staff-oduya", "Chart-reading sheet.md", "text/markdown; charset=utf-8",
		strings.NewReader("# Chart-reading sheet\n\nFind the wreck, the two lights and the ferry's line on the chart.\n\n"+
			"## What the numbers in the water mean\n\n"))
	if err != nil {
		return err
	}
	_, err = p.Cases.Handouts.NewHandout(ctx, "staff-oduya", boat, t.ID)
	return err
}
