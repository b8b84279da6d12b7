package usecase_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/letters"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/record"
	settings "jollysatchel/internal/core/school"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/store"
	"jollysatchel/internal/store/mail"
	"jollysatchel/internal/usecase/pack"
	"jollysatchel/internal/usecase/people"
	"jollysatchel/internal/usecase/seam"
)

// mails are the mails there are by now, oldest first: "mailbox: subject".
func mails(t *testing.T, a *app.App) []string {
	t.Helper()
	if err := a.Courier.Carry(ctx); err != nil {
		t.Fatal(err)
	}
	found, more, err := a.Postroom.Mails(ctx, "", 0)
	if err != nil || more {
		t.Fatal(more, err)
	}
	var out []string
	for _, m := range slices.Backward(found) {
		out = append(out, strings.TrimSuffix(m.Mailbox, "@kestrelquay.example")+": "+m.Subject)
	}
	return out
}

// news are the mails that came since the last time, sorted.
func newsIn(t *testing.T, a *app.App, seen *int) string {
	t.Helper()
	all := mails(t, a)
	fresh := slices.Clone(all[*seen:])
	*seen = len(all)
	slices.Sort(fresh)
	return strings.Join(fresh, "; ")
}

// letter is the text of the latest mail of a mailbox.
func letter(t *testing.T, a *app.App, mailbox string) string {
	t.Helper()
	found, _, err := a.Postroom.Mails(ctx, mailbox, 0)
	if err != nil || len(found) == 0 {
		t.Fatal(found, err)
	}
	l, _, err := a.Postroom.Letter(ctx, found[0].N)
	if err != nil {
		t.Fatal(err)
	}
	return l.Text
}

func edit(t *testing.T, a *app.App, c picture.Class, h *handout.Handout, ch handout.Change) {
	t.Helper()
	next, err := a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, ch, handout.Change{})
	if err != nil {
		t.Fatal(err)
	}
	*h = next
}

// Students are told of a handout when they first have something of it, in their teacher's
// words and with their own link; anyone who joins is told alone; a run taken up again tells
// nobody twice.
func TestToldAtFirst(t *testing.T) {
	a, c := school(t, 4)
	h := apptest.Handout(t, a, c, "# Log\n")
	seen := 0
	apptest.Pack(t, a, c, &h)
	if got := newsIn(t, a, &seen); got != "" {
		t.Errorf("as usual, what lies in their satchels isn't told: %s", got)
	}
	second := apptest.Handout(t, a, c, "# Knots\n")
	edit(t, a, c, &second, handout.Change{
		Title: ptr("Knots"), Tell: ptr(telling.First), Message: ptr("Bring rope."), Due: ptr("2026-12-04T17:00"),
		Out: map[string]string{c.Students[3].ID: "sits-out"},
		Mail: &telling.Text{Subject: "[Title] for [Given name]",
			Body: "Dear [Given name] [Family name],\n\nyours: [Link]\nuntil [Due]\nboat [Team]\n\n[Message]\n\n[Teacher]"},
	})
	r := apptest.Pack(t, a, c, &second)
	if got := newsIn(t, a, &seen); got != "s0: Knots for Given0; s1: Knots for Given1; s2: Knots for Given2" {
		t.Errorf("told: %s", got)
	}
	e, err := a.Store.Ledger(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	link := ""
	for _, x := range e {
		if x.Key.What.ID == second.ID && x.Key.Whom.Row == c.Students[1].ID {
			link = x.Link
		}
	}
	want := "Dear Given1 Family1,\n\nyours: http://satchel.test/go/" + link + "\nuntil Fri 4 Dec, 17:00\n\nBring rope.\n\nIfeoma Oduya\n"
	if got := letter(t, a, "s1@"); !strings.HasPrefix(got, want) || !strings.Contains(got, "Kestrel Quay School") {
		t.Errorf("%q\nnot\n%q", got, want)
	}
	if again := apptest.Wait(t, a, r.ID); again.ID != r.ID {
		t.Fatal(again)
	}
	edit(t, a, c, &second, handout.Change{Out: map[string]string{c.Students[3].ID: ""}})
	apptest.Pack(t, a, c, &second)
	if got := newsIn(t, a, &seen); got != "s3: Knots for Given3" {
		t.Errorf("after one was taken in: %s", got)
	}
}

// A look at the message of a handout is at those who get something of it, and counts them alone.
func TestLookAtThoseWhoGet(t *testing.T) {
	a, c := school(t, 5)
	for _, i := range []int{1, 3} {
		if _, err := a.Cases.Rosters.EditRoster(ctx, "oduya", c.ID,
			[]classes.Edit{{Row: c.Students[i].ID, Field: record.Level, Value: "A"}}); err != nil {
			t.Fatal(err)
		}
	}
	h := apptest.Handout(t, a, c, "# Log\n")
	by := handout.LevelName
	docs := []handout.GivenDocument{{Slot: h.Settings.Documents[0].Slot, Template: h.Settings.Documents[0].Template, For: "A"}}
	edit(t, a, c, &h, handout.Change{Way: &by, Documents: &docs, Tell: ptr(telling.First)})
	for _, when := range []string{"before", "after"} {
		look, err := a.Cases.Telling.PreviewMessage(ctx, c.ID, letters.Ask{Kind: telling.Given, Handout: h.ID, Row: c.Students[0].ID})
		if err != nil || look.Messages != 2 || len(look.Readers) != 2 || look.Row != c.Students[1].ID || look.Readers[1].Row != c.Students[3].ID {
			t.Errorf("%s packing: %d messages to %+v, shown as to %s, %v", when, look.Messages, look.Readers, look.Name, err)
		}
		if when == "before" {
			apptest.Pack(t, a, c, &h)
		}
	}
}

// Where a handout says so, students are told when it is given again, too, and never those who
// got nothing new.
func TestToldOfChanges(t *testing.T) {
	a, c := school(t, 3)
	h := apptest.Handout(t, a, c, "# Log\n")
	edit(t, a, c, &h, handout.Change{Title: ptr("Log"), Tell: ptr(telling.Changes)})
	seen := 0
	apptest.Pack(t, a, c, &h)
	if got := newsIn(t, a, &seen); strings.Count(got, "Log – Tide Watch 7B") != 3 {
		t.Errorf("at first: %s", got)
	}
	more, err := a.Cases.Handouts.AddTemplate(ctx, "oduya", "More.md", "text/markdown", strings.NewReader("# More\n"))
	if err != nil {
		t.Fatal(err)
	}
	edit(t, a, c, &h, handout.Change{Documents: ptr(append(slices.Clone(h.Settings.Documents),
		handout.GivenDocument{Slot: 2, Template: more.ID})), Out: map[string]string{c.Students[2].ID: "sits-out"}})
	apptest.Pack(t, a, c, &h)
	if got := newsIn(t, a, &seen); got != "s0: Log has changed – Tide Watch 7B; s1: Log has changed – Tide Watch 7B" {
		t.Errorf("after another document: %s", got)
	}
	if got := letter(t, a, "s0@"); !strings.Contains(got, "/door/"+c.ID+"/"+h.ID) {
		t.Errorf("two documents have one door: %s", got)
	}
}

// A run that is stopped has told those who have theirs; the others are told when they have it.
func TestToldOfWhatIsThere(t *testing.T) {
	a, c := school(t, 3)
	h := apptest.Handout(t, a, c, "# Log\n")
	edit(t, a, c, &h, handout.Change{Title: ptr("Log"), Tell: ptr(telling.First)})
	r, err := a.Cases.Packing.Pack(ctx, "oduya", c.ID, h.ID, pack.Part{})
	if err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.Packing.Stop(ctx, "oduya", c.ID, r.ID); err != nil {
		t.Fatal(err)
	}
	seen := 0
	if got := newsIn(t, a, &seen); got != "" {
		t.Errorf("before anything is there: %s", got)
	}
	apptest.Pack(t, a, c, &h)
	if got := newsIn(t, a, &seen); strings.Count(got, ": Log – Tide Watch 7B") != 3 {
		t.Errorf("then: %s", got)
	}
}

// A notice is told of, unless its teacher says something else; put up again it isn't told again.
func TestToldOfNotices(t *testing.T) {
	a, c := school(t, 2)
	h, err := a.Cases.Handouts.NewNotice(ctx, "oduya", c.ID, []string{c.Students[1].ID})
	if err != nil {
		t.Fatal(err)
	}
	edit(t, a, c, &h, handout.Change{Title: ptr("Boots"), Instructions: ptr("Bring boots.")})
	seen := 0
	for range 2 {
		if _, err := a.Cases.Packing.Post(ctx, "oduya", c.ID, h.ID, ""); err != nil {
			t.Fatal(err)
		}
		if _, err := a.Cases.Packing.TakeDown(ctx, "oduya", c.ID, h.ID); err != nil {
			t.Fatal(err)
		}
	}
	if got := newsIn(t, a, &seen); got != "s1: Boots – Tide Watch 7B" {
		t.Errorf("told: %s", got)
	}
	quiet, err := a.Cases.Handouts.NewNotice(ctx, "oduya", c.ID, nil)
	if err != nil {
		t.Fatal(err)
	}
	edit(t, a, c, &quiet, handout.Change{Title: ptr("Quiet"), Instructions: ptr("Nothing."), Tell: ptr(telling.Not)})
	if _, err := a.Cases.Packing.Post(ctx, "oduya", c.ID, quiet.ID, ""); err != nil {
		t.Fatal(err)
	}
	if got := newsIn(t, a, &seen); got != "" {
		t.Errorf("told: %s", got)
	}
}

// A message to some of a class, at their own addresses or at those of a column, is shown
// before it is sent, stands on record with what happened to it, and goes again where it failed.
func TestMessages(t *testing.T) {
	a := apptest.Open(t)
	apptest.People(t, a, 0)
	for i, who := range []string{"ana", "bo", "cy"} {
		apptest.Account(t, a, who, strings.ToUpper(who[:1])+who[1:], fmt.Sprint("Reis", i))
	}
	c := apptest.Class(t, a, "First,Surname,Email,Home\nAna,Reis0,ana@kestrelquay.example,\"mum@home.example, dad@home.example\"\nBo,Reis1,bo@kestrelquay.example,\nCy,Reis2,wrong@kestrelquay.example,cy@@home\n")
	row := map[string]string{}
	for _, s := range c.Students {
		row[s.Given] = s.ID
	}
	text := &telling.Text{Subject: "Boats, [Given name]", Body: "Hello [Name], see [Lnik] and [Home]"}
	ask := letters.Ask{Kind: telling.Written, Text: text, Row: row["Bo"]}
	look, err := a.Cases.Telling.PreviewMessage(ctx, c.ID, ask)
	if err != nil {
		t.Fatal(err)
	}
	if look.Letter.Subject != "Boats, Bo" || look.Letter.Body != "Hello Bo, see [Lnik] and" || look.Messages != 3 ||
		len(look.Strange) != 1 || look.Lacking["Home"] != 1 {
		t.Errorf("%+v", look)
	}
	home := record.Extra("Home")
	if look, err = a.Cases.Telling.PreviewMessage(ctx, c.ID,
		letters.Ask{Kind: telling.Written, Text: text, Column: home}); err != nil || look.Messages != 0 ||
		look.Readers[0].Odd != telling.NotAllowed {
		t.Errorf("to strangers' addresses, which the office doesn't allow: %+v, %v", look, err)
	}
	allow := true
	if err := a.Cases.People.ChangeSchool(ctx, "office", settings.Change{OutsideMail: &allow}, settings.Change{}); err != nil {
		t.Fatal(err)
	}
	if look, err = a.Cases.Telling.PreviewMessage(ctx, c.ID, letters.Ask{Kind: telling.Written, Text: text, Column: home}); err != nil {
		t.Fatal(err)
	}
	var odd []string
	for _, r := range look.Readers {
		odd = append(odd, r.Name+" "+string(r.Odd))
	}
	if strings.Join(odd, ", ") != "Reis0, Ana , Reis1, Bo no-address, Reis2, Cy no-such-address" || look.Messages != 2 {
		t.Errorf("%q, %d messages", odd, look.Messages)
	}
	seen := 0
	if n, err := a.Cases.Telling.SendMessage(ctx, "oduya", c.ID, ask); err != nil || n != 3 {
		t.Fatal(n, err)
	}
	if got := newsIn(t, a, &seen); got != "ana: Boats, Ana; bo: Boats, Bo" {
		t.Errorf("sent: %s", got)
	}
	if n, err := a.Cases.Telling.SendMessage(ctx, "oduya", c.ID, letters.Ask{Text: text, Column: home}); err != nil || n != 2 {
		t.Fatal(n, err)
	}
	if got := newsIn(t, a, &seen); got != "dad@home.example: Boats, Ana; mum@home.example: Boats, Ana" {
		t.Errorf("to parents: %s", got)
	}
	told, _, counts, err := a.Cases.Telling.Messages(ctx, c.ID, mail.MessageFilter{State: telling.Failed})
	if err != nil || len(told) != 1 || told[0].By != "Ifeoma Oduya" || !strings.HasPrefix(told[0].Reason, "550") ||
		counts[telling.Sent] != 4 || counts[telling.Failed] != 1 {
		t.Fatalf("%+v %v %v", told, counts, err)
	}
	if err := a.Cases.Rosters.CorrectAddress(ctx, "oduya", c.ID, row["Cy"], "cy@kestrelquay.example"); err != nil {
		t.Fatal(err)
	}
	if n, err := a.Cases.Telling.SendAgain(ctx, "oduya", c.ID, []string{told[0].ID}); err != nil || n != 1 {
		t.Fatal(n, err)
	}
	if got := newsIn(t, a, &seen); got != "cy: Boats, Cy" {
		t.Errorf("again: %s", got)
	}
	// it was sent: once more, as another
	if n, err := a.Cases.Telling.SendAgain(ctx, "oduya", c.ID, []string{told[0].ID}); err != nil || n != 1 {
		t.Fatal(n, err)
	}
	if got := newsIn(t, a, &seen); got != "cy: Boats, Cy" {
		t.Errorf("once more: %s", got)
	}
	for _, x := range []struct {
		ask         letters.Ask
		field, code string
	}{
		{letters.Ask{}, "text", "missing"},
		{letters.Ask{Text: &telling.Text{Subject: "x"}}, "text", "missing"},
		{letters.Ask{Text: &telling.Text{Subject: strings.Repeat("x", telling.MostSubject+1), Body: "x"}}, "text", "too-long"},
		{letters.Ask{Text: &telling.Text{Subject: "x", Body: strings.Repeat("x", telling.MostBody+1)}}, "text", "too-long"},
		{letters.Ask{Text: text, Column: record.Extra("Nowhere")}, "column", "column-unknown"},
		{letters.Ask{Text: text, Column: home, Rows: []string{row["Bo"]}}, "rows", "nobody-told"},
		{letters.Ask{Text: text, Rows: []string{store.NewID()}}, "rows", "nobody-told"},
	} {
		_, err := a.Cases.Telling.SendMessage(ctx, "oduya", c.ID, x.ask)
		wantInvalid(t, err, x.field, x.code)
	}
	other := apptest.Class(t, a, "First,Surname,Email\nAna,Reis0,ana@kestrelquay.example\n")
	if _, err := a.Cases.Telling.SendAgain(ctx, "oduya", other.ID, []string{told[0].ID}); err != seam.ErrNotFound {
		t.Errorf("a message of another class: %v", err)
	}
}

// Who wants a digest has several messages in one, at their time of day; who wants none has
// none; what waited goes at once where the wish changes.
func TestWishes(t *testing.T) {
	day := &clock.Manual{}
	day.Set(time.Date(2026, 11, 26, 7, 40, 0, 0, time.UTC))
	a, err := app.Open(ctx, app.Settings{Database: pgtest.New(t), School: apptest.School, Now: day.Now, Here: "http://satchel.test"})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(a.Close)
	apptest.People(t, a, 4)
	c := apptest.Class(t, a, apptest.List(4))
	for who, w := range map[string]telling.Wish{"s1": telling.Together, "s2": telling.Off, "s3": telling.Together} {
		if err := a.Cases.Telling.SetWish(ctx, who, w, "16:30"); err != nil {
			t.Fatal(err)
		}
	}
	send := func(subject string) {
		t.Helper()
		if _, err := a.Cases.Telling.SendMessage(ctx, "oduya", c.ID,
			letters.Ask{Text: &telling.Text{Subject: subject, Body: "Hello [Name]"}}); err != nil {
			t.Fatal(err)
		}
	}
	send("One")
	send("Two")
	seen := 0
	if got := newsIn(t, a, &seen); got != "s0: One; s0: Two" {
		t.Errorf("at once: %s", got)
	}
	if err := a.Cases.Telling.SetWish(ctx, "s3", telling.Each, "16:30"); err != nil {
		t.Fatal(err)
	}
	if got := newsIn(t, a, &seen); got != "s3: One; s3: Two" {
		t.Errorf("who doesn't want a digest any more: %s", got)
	}
	day.Set(time.Date(2026, 11, 26, 16, 29, 59, 0, time.UTC))
	if got := newsIn(t, a, &seen); got != "" {
		t.Errorf("before the time: %s", got)
	}
	day.Set(time.Date(2026, 11, 26, 16, 30, 0, 0, time.UTC))
	if got := newsIn(t, a, &seen); got != "s1: 2 things from Kestrel Quay School" {
		t.Errorf("at the time: %s", got)
	}
	if got := letter(t, a, "s1@"); strings.Index(got, "One") > strings.Index(got, "Two") ||
		strings.Count(got, "Hello Given1") != 2 || !strings.Contains(got, "http://satchel.test/account") {
		t.Errorf("%s", got)
	}
	send("Three")
	newsIn(t, a, &seen)
	day.Set(time.Date(2026, 11, 27, 16, 30, 0, 0, time.UTC))
	if got := newsIn(t, a, &seen); got != "s1: Three" {
		t.Errorf("one alone is itself, a day later: %s", got)
	}
	told, _, counts, err := a.Cases.Telling.Messages(ctx, c.ID, mail.MessageFilter{Text: "given1"})
	if err != nil || len(told) != 3 || told[2].State != telling.Sent || counts[telling.Sent] != 9 {
		t.Errorf("%+v %v %v", told, counts, err)
	}
	for at, wish := range map[string]telling.Wish{"16:30": "sometimes", "24:00": telling.Together,
		"7:00": telling.Together, "": telling.Each} {
		if err := a.Cases.Telling.SetWish(ctx, "s1", wish, at); err == nil {
			t.Errorf("%q at %q was taken", wish, at)
		}
	}
}

// A digest's time is one of the school's clocks, also where they change: one that is left
// out comes as much later.
func TestDigestWhenClocksChange(t *testing.T) {
	lisbon, err := time.LoadLocation("Europe/Lisbon")
	if err != nil {
		t.Fatal(err)
	}
	day := &clock.Manual{}
	day.Set(time.Date(2026, 3, 28, 20, 0, 0, 0, lisbon)) // clocks go from 1 to 2 in the night
	s := apptest.School
	s.Zone = lisbon
	a, err := app.Open(ctx, app.Settings{Database: pgtest.New(t), School: s, Now: day.Now})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(a.Close)
	apptest.People(t, a, 1)
	c := apptest.Class(t, a, apptest.List(1))
	if err := a.Cases.Telling.SetWish(ctx, "s0", telling.Together, "01:30"); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Telling.SendMessage(ctx, "oduya", c.ID, letters.Ask{Text: &telling.Text{Subject: "One", Body: "Hello"}}); err != nil {
		t.Fatal(err)
	}
	told, _, _, err := a.Cases.Telling.Messages(ctx, c.ID, mail.MessageFilter{})
	if want := time.Date(2026, 3, 29, 2, 30, 0, 0, lisbon); err != nil || !told[0].NotBefore.Equal(want) {
		t.Errorf("%s, not %s, %v", told[0].NotBefore.In(lisbon), want, err)
	}
}

// Invented students aren't told.
func TestPracticeIsNotTold(t *testing.T) {
	a, _ := school(t, 1)
	c, err := a.Cases.Practice.Make(ctx, "oduya")
	if err != nil {
		t.Fatal(err)
	}
	_, err = a.Cases.Telling.SendMessage(ctx, "oduya", c.ID, letters.Ask{Text: &telling.Text{Subject: "x", Body: "y"}})
	wantInvalid(t, err, "rows", "practice-not-told")
}

// A code that goes by mail is told to nobody else, lets its reader in once, and isn't kept.
func TestCodesByMail(t *testing.T) {
	a, _ := school(t, 1)
	id, err := a.Cases.People.AddAccount(ctx, "office", accounts.Change{Given: ptr("Nadia"), Address: ptr("nadia@kestrelquay.example")})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.People.GiveCodes(ctx, "office", []string{id}, people.CodesAsked{Mail: true}); err != nil {
		t.Fatal(err)
	}
	seen := 0
	if got := newsIn(t, a, &seen); got != "nadia: Your code for Jolly Satchel at Kestrel Quay School" {
		t.Fatalf("%s", got)
	}
	_, code, _ := strings.Cut(letter(t, a, "nadia@"), "password:\n\n")
	code, _, _ = strings.Cut(code, "\n")
	if who, err := a.Cases.People.FirstSignIn(ctx, "nadia@kestrelquay.example", code,
		"some other words entirely"); err != nil || who.ID != id {
		t.Errorf("%q: %+v, %v", code, who, err)
	}
	var body string
	if err := a.Store.DB.Get(&body, `select body from messages where kind = 'code'`); err != nil || body != "" {
		t.Errorf("kept: %q %v", body, err)
	}
}

// Where its people are told of changes, another due time is told of once it has been left
// alone for a while, and what was typed in between isn't.
func TestToldOfDue(t *testing.T) {
	day := &clock.Manual{}
	day.Set(time.Date(2026, 11, 26, 7, 40, 0, 0, time.UTC))
	a, err := app.Open(ctx, app.Settings{Database: pgtest.New(t), School: apptest.School, Now: day.Now, Here: "http://satchel.test"})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(a.Close)
	apptest.People(t, a, 2)
	c := apptest.Class(t, a, apptest.List(2))
	h := apptest.Handout(t, a, c, "# Log\n")
	edit(t, a, c, &h, handout.Change{Title: ptr("Log"), Tell: ptr(telling.Changes), Due: ptr("2026-11-27T17:00"),
		Out: map[string]string{c.Students[1].ID: "sits-out"}})
	apptest.Pack(t, a, c, &h)
	seen := 0
	newsIn(t, a, &seen)
	for _, due := range []string{"2026-12-01T17:00", "2026-12-02T17:00"} {
		edit(t, a, c, &h, handout.Change{Due: ptr(due)})
	}
	edit(t, a, c, &h, handout.Change{Message: ptr("Bring rope.")})
	if got := newsIn(t, a, &seen); got != "" {
		t.Errorf("while it is typed: %s", got)
	}
	day.Set(day.Now().Add(2 * time.Minute))
	if got := newsIn(t, a, &seen); got != "s0: Log has changed – Tide Watch 7B" {
		t.Errorf("then: %s", got)
	}
	if got := letter(t, a, "s0@"); !strings.Contains(got, "Wed 2 Dec, 17:00") {
		t.Errorf("%s", got)
	}
	edit(t, a, c, &h, handout.Change{Tell: ptr(telling.First), Due: ptr("2026-12-03T17:00")})
	day.Set(day.Now().Add(time.Hour))
	if got := newsIn(t, a, &seen); got != "" {
		t.Errorf("who is told at first alone: %s", got)
	}
}

// A person's share of a day holds for whatever they send, in however many classes at once, and
// for what they send once more.
func TestMostMessages(t *testing.T) {
	const most = 3000
	a := apptest.Open(t)
	apptest.People(t, a, 1)
	list := "First,Surname,Email\nGiven0,Family0,s0@kestrelquay.example\n"
	cs := []picture.Class{apptest.Class(t, a, list)}
	second, err := a.Cases.Classes.CreateClass(ctx, "oduya", "8A", "Boats 8A", "", false)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Rosters.AddStudents(ctx, "oduya", second.ID,
		[]record.Record{{Given: "Given0", Family: "Family0", Address: "s0@kestrelquay.example"}}); err != nil {
		t.Fatal(err)
	}
	cs = append(cs, apptest.Load(t, a, second.ID))
	send := func(c picture.Class) error {
		_, err := a.Cases.Telling.SendMessage(ctx, "oduya", c.ID, letters.Ask{Text: &telling.Text{Subject: "Boats", Body: "Hello"}})
		return err
	}
	if err := send(cs[0]); err != nil {
		t.Fatal(err)
	}
	// As many as leave room for one more.
	if _, err := a.Store.DB.Exec(`insert into messages (id, class_id, account, kind, about, sent_by, reply_to, from_name,
		to_name, to_address, outside, subject, body, state, not_before, made_at)
		select gen_random_uuid(), class_id, account, kind, 'more/' || i, sent_by, reply_to, from_name, to_name, to_address,
			outside, subject, body, 'sent', not_before, made_at from messages, generate_series(1, $1) i
				where kind = 'written'`, most-2); err != nil {
		t.Fatal(err)
	}
	for range 20 {
		refused := make(chan error, len(cs))
		for _, c := range cs {
			go func() { refused <- send(c) }()
		}
		said := 0
		for range cs {
			if err := <-refused; err != nil {
				wantInvalid(t, err, "rows", "too-many-mails")
				said++
			}
		}
		if said != 1 {
			t.Fatalf("of two at once, for one of whom there was room, %d were refused", said)
		}
		if _, err := a.Store.DB.Exec(`delete from messages
			where about = (select min(about) from messages where about like 'more/%')`); err != nil {
			t.Fatal(err)
		}
	}
	if err := send(cs[0]); err != nil {
		t.Fatal(err)
	}
	told, _, _, err := a.Cases.Telling.Messages(ctx, cs[0].ID, mail.MessageFilter{State: telling.Sent})
	if err != nil || len(told) == 0 {
		t.Fatalf("%d, %v", len(told), err)
	}
	_, err = a.Cases.Telling.SendAgain(ctx, "oduya", cs[0].ID, []string{told[0].ID})
	wantInvalid(t, err, "rows", "too-many-mails")
	if err := a.Store.AddStaff(ctx, classes.Member{ClassID: cs[0].ID, Account: "lindqvist", Role: classes.Teacher}); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Telling.SendAgain(ctx, "lindqvist", cs[0].ID, []string{told[0].ID}); err != nil {
		t.Errorf("once more, by another: %v", err)
	}
}
