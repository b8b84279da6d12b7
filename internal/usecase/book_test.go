package usecase_test

import (
	"errors"
	"slices"
	"strings"
	"sync"
	"testing"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	settings "jollysatchel/internal/core/school"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/usecase/people"
	"jollysatchel/internal/usecase/seam"
)

const words = "low water at eleven"

// empty is a program on a database that nobody said anything in.
func empty(t *testing.T) (*app.App, *clock.Manual) {
	t.Helper()
	now := &clock.Manual{}
	now.Set(clock.System())
	a, err := app.Open(ctx, app.Settings{Database: pgtest.New(t), Now: now.Now})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(a.Close)
	return a, now
}

func first() people.First {
	return people.First{
		School: settings.Change{Name: ptr("Kestrel Quay School"), Zone: ptr("Atlantic/Azores"),
			Domain: ptr("@KestrelQuay.example"), Language: ptr("pt")},
		Given: "Harbour", Family: "Office", Address: "office@kestrelquay.example", Password: words,
	}
}

// A school begins with a secret that is good once and for an hour; then its office can
// sign in, and all programs know what the school is.
func TestFirstStart(t *testing.T) {
	a, now := empty(t)
	if has, err := a.Cases.People.HasOffice(ctx); has || err != nil {
		t.Fatalf("an office from the first moment: %v, %v", has, err)
	}
	old, err := a.Cases.People.FirstKey(ctx, "")
	if err != nil {
		t.Fatal(err)
	}
	secret, err := a.Cases.People.FirstKey(ctx, "")
	if err != nil {
		t.Fatal(err)
	}
	begin := func(secret string, change func(*people.First)) error {
		f := first()
		if change != nil {
			change(&f)
		}
		_, err := a.Cases.People.Begin(ctx, secret, f)
		return err
	}
	for what, s := range map[string]string{"one that was made before": old, "another": "another", "none": ""} {
		if err := begin(s, nil); !errors.Is(err, seam.ErrNotFound) {
			t.Errorf("with %s: %v", what, err)
		}
	}
	for _, bad := range []struct {
		change      func(*people.First)
		field, code string
	}{
		{func(f *people.First) { f.School.Name = ptr("  ") }, "name", "missing"},
		{func(f *people.First) { f.School.Domain = ptr("no domain") }, "domain", "no-domain"},
		{func(f *people.First) { f.School.Zone = ptr("Sea/Bottom") }, "zone", "no-zone"},
		{func(f *people.First) { f.School.Language = ptr("not a language") }, "language", "no-language"},
		{func(f *people.First) { f.School.Words = &map[string]string{"cat": "dog"} }, "words", "no-such-word"},
		{func(f *people.First) { f.Address = "office" }, "address", "no-address"},
		{func(f *people.First) { f.Given, f.Family = "", "" }, "given", "missing"},
		{func(f *people.First) { f.Password = "short" }, "password", "password-short"},
		{func(f *people.First) { f.Password = "password1234" }, "password", "password-known"},
	} {
		wantInvalid(t, begin(secret, bad.change), bad.field, bad.code)
	}
	if a.Charter.Said() {
		t.Fatal("a refused beginning said something")
	}
	second, err := app.Open(ctx, a.Settings)
	if err != nil {
		t.Fatal(err)
	}
	defer second.Close()
	var all sync.WaitGroup
	var mu sync.Mutex
	done := 0
	for range 3 {
		all.Go(func() {
			if begin(secret, nil) == nil {
				mu.Lock()
				done++
				mu.Unlock()
			}
		})
	}
	all.Wait()
	if done != 1 {
		t.Errorf("begun %d times with one secret", done)
	}
	if err := second.Charter.Read(ctx); err != nil {
		t.Fatal(err)
	}
	for _, x := range []*app.App{a, second} {
		if s := x.Charter.School(); s.Name != "Kestrel Quay School" || s.Domain != "kestrelquay.example" ||
			s.Zone.String() != "Atlantic/Azores" || s.Language != "pt" {
			t.Errorf("the school is %+v", s)
		}
	}
	o, err := a.Cases.People.SignIn(ctx, "office@kestrelquay.example", words)
	if err != nil || o.Role != accounts.Office {
		t.Fatalf("%+v, %v", o, err)
	}

	// A lost office account is mended with a secret for its address alone, also one that is
	// switched off; too late it opens nothing.
	secret, err = a.Cases.People.FirstKey(ctx, "Office@KestrelQuay.example")
	if err != nil {
		t.Fatal(err)
	}
	wantInvalid(t, begin(secret, func(f *people.First) { f.Address = "me@kestrelquay.example" }), "address", "another-address")
	if err := begin(secret, func(f *people.First) {
		f.Password, f.School = "another set of words", settings.Change{}
	}); err != nil {
		t.Fatal(err)
	}
	if again, err := a.Cases.People.SignIn(ctx, "office@kestrelquay.example", "another set of words"); err != nil || again.ID != o.ID {
		t.Errorf("mended: %+v, %v", again, err)
	}
	if secret, err = a.Cases.People.FirstKey(ctx, ""); err != nil {
		t.Fatal(err)
	}
	now.Set(now.Now().Add(3601e9))
	if err := begin(secret, nil); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("after an hour: %v", err)
	}
}

// The office keeps accounts and says what the school is; what is fixed where the program
// was started stays, and of two who change one value the later is told.
func TestKeepingTheBook(t *testing.T) {
	a := apptest.Open(t)
	apptest.People(t, a, 3)
	put := func(id string, ch, was accounts.Change) (string, error) {
		if id == "" {
			return a.Cases.People.AddAccount(ctx, "office", ch)
		}
		return id, a.Cases.People.ChangeAccount(ctx, "office", id, ch, was)
	}
	staff := accounts.Staff
	id, err := put("", accounts.Change{Given: ptr(" Sinéad "), Family: ptr("O’Malley"),
		Address: ptr("sinead@kestrelquay.example"), Role: &staff}, accounts.Change{})
	if err != nil {
		t.Fatal(err)
	}
	page, err := a.Cases.People.BookPage(ctx, "office", people.BookFilter{Filter: accounts.Filter{Text: "malley sin"}})
	if err != nil || page.All != 1 || page.New != 1 || page.More || page.Accounts[0].Given != "Sinéad" || page.Accounts[0].Ready {
		t.Errorf("found %+v, %v", page, err)
	}
	if page, err := a.Cases.People.BookPage(ctx, "office", people.BookFilter{Filter: accounts.Filter{Role: accounts.Student}}); err != nil || page.All != 3 {
		t.Errorf("%d students, %v", page.All, err)
	}
	_, err = put("", accounts.Change{Given: ptr("X"), Address: ptr("OFFICE@kestrelquay.example")}, accounts.Change{})
	wantInvalid(t, err, "address", "address-taken")
	_, err = put("", accounts.Change{Given: ptr("X"), Address: ptr("nowhere")}, accounts.Change{})
	wantInvalid(t, err, "address", "no-address")
	_, err = put("office", accounts.Change{Role: &staff}, accounts.Change{})
	wantInvalid(t, err, "role", "last-office")
	_, err = put("office", accounts.Change{Off: ptr(true)}, accounts.Change{})
	wantInvalid(t, err, "role", "last-office")
	_, err = put("", accounts.Change{Given: ptr(strings.Repeat("x", 300)), Address: ptr("x@kestrelquay.example")}, accounts.Change{})
	wantInvalid(t, err, "given", "too-long")
	var changed *change.Changed
	if _, err := put(id, accounts.Change{Family: ptr("Malley")}, accounts.Change{Family: ptr("Mally")}); !errors.As(err, &changed) ||
		changed.Theirs != "O’Malley" {
		t.Errorf("of what another changed: %v", err)
	}
	if _, err := put("nobody", accounts.Change{Given: ptr("X")}, accounts.Change{}); !errors.Is(err, seam.ErrNotFound) {
		t.Errorf("nobody's: %v", err)
	}

	// Two who change different values of one account at the same moment both stand.
	var all sync.WaitGroup
	for _, ch := range []accounts.Change{{Number: ptr("77")}, {Given: ptr("Sinéad Órla")}} {
		all.Go(func() {
			if _, err := put(id, ch, accounts.Change{}); err != nil {
				t.Error(err)
			}
		})
	}
	all.Wait()
	if now, err := a.Cases.People.Accounts(ctx, id); err != nil || now[id].Number != "77" || now[id].Given != "Sinéad Órla" {
		t.Errorf("after both: %+v, %v", now[id], err)
	}
	// Nor does one of the office count who has no password, and nobody takes the last away.
	office := accounts.Office
	if _, err := put("", accounts.Change{Given: ptr("New"), Address: ptr("new@kestrelquay.example"), Role: &office},
		accounts.Change{}); err != nil {
		t.Fatal(err)
	}
	_, err = put("office", accounts.Change{Off: ptr(true)}, accounts.Change{})
	wantInvalid(t, err, "role", "last-office")
	_, err = a.Cases.People.GiveCodes(ctx, "office", []string{"office"}, people.CodesAsked{Away: true})
	wantInvalid(t, err, "role", "last-office")

	codes, err := a.Cases.People.GiveCodes(ctx, "office", []string{id, id}, people.CodesAsked{})
	if err != nil || len(codes) != 1 {
		t.Fatalf("%+v, %v", codes, err)
	}
	_, err = a.Cases.People.FirstSignIn(ctx, "sinead@kestrelquay.example", codes[0].Code, "sinead1234")
	wantInvalid(t, err, "password", "password-own")
	if _, err := a.Cases.People.FirstSignIn(ctx, "sinead@kestrelquay.example", strings.ToLower(codes[0].Code), words); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.People.FirstSignIn(ctx, "sinead@kestrelquay.example", codes[0].Code, words); !errors.Is(err, seam.ErrRefused) {
		t.Errorf("the code again: %v", err)
	}
	wantInvalid(t, a.Cases.People.ChangePassword(ctx, id, "wrong", "another set of words"), "before", "password-wrong")
	wantInvalid(t, a.Cases.People.ChangePassword(ctx, id, words, "o'malley sinead"), "password", "password-own")
	if err := a.Cases.People.ChangePassword(ctx, id, words, "another set of words"); err != nil {
		t.Fatal(err)
	}
	c := apptest.Class(t, a, apptest.List(3))
	_, err = a.Cases.People.ClassCodes(ctx, "oduya", c.ID, nil, people.CodesAsked{})
	wantInvalid(t, err, "rows", "nobody-needs-codes") // all have passwords
	_, err = a.Cases.People.ClassCodes(ctx, "oduya", c.ID, []string{c.Students[0].ID}, people.CodesAsked{})
	wantInvalid(t, err, "rows", "reset-by-office")
	if err := a.Cases.People.ChangeSchool(ctx, "office", settings.Change{StaffReset: ptr(true)}, settings.Change{}); err != nil {
		t.Fatal(err)
	}
	_, err = a.Cases.People.ClassCodes(ctx, "oduya", c.ID, []string{c.Students[0].ID}, people.CodesAsked{Away: true})
	wantInvalid(t, err, "rows", "not-placed")
	placing, err := a.Cases.People.Placing(ctx, c.ID)
	if err != nil || placing.Students != 3 || placing.Placed != 0 {
		t.Fatalf("%+v, %v", placing, err)
	}
	// One goes and another comes: as many, and not those whom the office saw.
	apptest.Account(t, a, "changeling", "Change", "Ling")
	swapped := apptest.Load(t, a, c.ID).Students[2].ID
	if _, err := a.Cases.Rosters.SetLeft(ctx, "oduya", c.ID, []string{swapped}, true); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Rosters.AddStudents(ctx, "oduya", c.ID,
		[]record.Record{{Given: "Change", Family: "Ling", Address: "changeling@kestrelquay.example"}}); err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.People.PlaceClass(ctx, "office", c.ID, placing.Seen); !errors.As(err, &changed) {
		t.Errorf("a list with another in somebody's place: %v", err)
	}
	if placing, err = a.Cases.People.Placing(ctx, c.ID); err != nil || placing.Students != 3 || placing.Placed != 0 {
		t.Fatalf("%+v, %v", placing, err)
	}
	if err := a.Cases.People.PlaceClass(ctx, "office", c.ID, placing.Seen); err != nil {
		t.Fatal(err)
	}
	if codes, err = a.Cases.People.ClassCodes(ctx, "oduya", c.ID, []string{c.Students[0].ID},
		people.CodesAsked{Away: true}); err != nil || len(codes) != 1 {
		t.Fatalf("%+v, %v", codes, err)
	}
	if _, err := a.Cases.People.SignIn(ctx, codes[0].Account.Address, apptest.Password); !errors.Is(err, seam.ErrRefused) {
		t.Errorf("the password that was taken away: %v", err)
	}

	if err := a.Cases.People.ChangeSchool(ctx, "office", settings.Change{OfficeCodes: ptr(true)}, settings.Change{}); err != nil {
		t.Fatal(err)
	}
	_, err = a.Cases.People.ClassCodes(ctx, "oduya", c.ID, []string{c.Students[0].ID}, people.CodesAsked{Away: true})
	wantInvalid(t, err, "rows", "office-only")

	wantInvalid(t, a.Cases.People.ChangeSchool(ctx, "office", settings.Change{Name: ptr("Another")}, settings.Change{}), "name", "fixed")
	if err := a.Cases.People.ChangeSchool(ctx, "office",
		settings.Change{Words: &map[string]string{"class": " course "}, SatchelMB: ptr(int64(5))}, settings.Change{}); err != nil {
		t.Fatal(err)
	}
	if s := a.Charter.School(); s.Words["class"] != "course" || s.Quota != 5_000_000 || s.Name != "Kestrel Quay School" {
		t.Errorf("the school is %+v", s)
	}
	looked := settings.Change{Words: &map[string]string{}}
	if err := a.Cases.People.ChangeSchool(ctx, "office", settings.Change{Words: &map[string]string{"class": "group"}},
		looked); !errors.As(err, &changed) {
		t.Errorf("words that another changed: %v", err)
	}
	wantInvalid(t, a.Cases.People.ChangeSchool(ctx, "office", settings.Change{SatchelMB: ptr(int64(-1))},
		settings.Change{}), "satchelMB", "too-large-number")
}

// The school's log tells what was done to the school and its accounts, from what to what; what changed
// nothing isn't in it, nor what belongs to a class or to a person alone.
func TestSchoolLog(t *testing.T) {
	a := apptest.Open(t)
	apptest.People(t, a, 3)
	apptest.Class(t, a, apptest.List(3))
	id, err := a.Cases.People.AddAccount(ctx, "office", accounts.Change{Given: ptr("Sinéad"), Family: ptr("O’Malley"),
		Address: ptr("sinead@kestrelquay.example")})
	if err != nil {
		t.Fatal(err)
	}
	staff := accounts.Staff
	for range 2 { // the second time nothing is another
		if err := a.Cases.People.ChangeAccount(ctx, "office", id, accounts.Change{Number: ptr("77"), Role: &staff}, accounts.Change{}); err != nil {
			t.Fatal(err)
		}
		if err := a.Cases.People.ChangeSchool(ctx, "office", settings.Change{OutsideMail: ptr(true)}, settings.Change{}); err != nil {
			t.Fatal(err)
		}
	}
	if err := a.Cases.Telling.SetWish(ctx, "oduya", telling.Off, "16:00"); err != nil {
		t.Fatal(err)
	}
	want := []string{"changed the school’s settings: teachers can email people outside the school: yes",
		"changed the account of Sinéad O’Malley: number none → 77; role student → teacher", "added the account of Sinéad O’Malley"}
	lines, more, err := a.Cases.Registers.LogPage(ctx, "", "", 0)
	got := make([]string, len(lines))
	for i, l := range lines {
		got[i] = l.Text
	}
	if err != nil || more || len(got) < 3 || !slices.Equal(got[:3], want) {
		t.Errorf("the log of the school: %q, %v", got, err)
	}
	if lines, _, err := a.Cases.Registers.LogPage(ctx, "", "malley", 0); err != nil || len(lines) != 2 {
		t.Errorf("%d entries about one account, %v", len(lines), err)
	}
	if table, err := a.Cases.Registers.ExportLog(ctx, "", "malley"); err != nil || len(table) != 3 || table[1][1] == "" {
		t.Errorf("as a table %q, %v", table, err)
	}
	for _, text := range got {
		if strings.Contains(text, "packed") || strings.Contains(text, "emails they get") {
			t.Errorf("in the school's log: %s", text)
		}
	}
}

// The school's own word for handouts is what the folder of them is called in every class; one
// that was made before is offered the other name.
func TestOwnWordsInNames(t *testing.T) {
	a, c := school(t, 1)
	h := apptest.Handout(t, a, c, "# Log\n")
	apptest.Pack(t, a, c, &h)
	say := func(word string) {
		t.Helper()
		words := map[string]string{"Handouts": word}
		if err := a.Cases.People.ChangeSchool(ctx, "office", settings.Change{Words: &words}, settings.Change{}); err != nil {
			t.Fatal(err)
		}
	}
	say("Worksheets: all/any")
	l, err := a.Cases.Packing.RoomList(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	renamed := ""
	for _, line := range l.Lines {
		if line.Step.Act == packing.Rename {
			renamed += string(line.Step.Key.What.Purpose) + " " + line.Change.Rename + ";"
		}
	}
	if renamed != "handouts Worksheets- all-any;" {
		t.Errorf("%q", renamed)
	}
}
