package usecase_test

import (
	"strings"
	"testing"

	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/record"
	settings "jollysatchel/internal/core/school"
	"jollysatchel/internal/usecase/people"
)

// Putting somebody on a list never lets a teacher become them: codes are printed for those alone
// whom the office placed in the class, and mailed to all others; what another made isn't ended
// without a word, and each code is in the account's own record and in the log of every class
// of theirs.
func TestCodesBecomeNobody(t *testing.T) {
	a, c := school(t, 2)
	apptest.Account(t, a, "eriksen", "Jonas", "Eriksen") // has no password
	victim := accounts.Account{ID: "eriksen", Address: "eriksen@kestrelquay.example"}
	add := func(by, class, address string) {
		t.Helper()
		if _, err := a.Cases.Rosters.AddStudents(ctx, by, class,
			[]record.Record{{Family: "Eriksen", Given: "Jonas", Address: address}}); err != nil {
			t.Fatal(err)
		}
	}
	add("oduya", c.ID, victim.Address)
	theirs, err := a.Cases.Classes.CreateClass(ctx, "stranger", "8A", "Boats 8A", "1", false)
	if err != nil {
		t.Fatal(err)
	}
	add("stranger", theirs.ID, victim.Address)
	give := func(by, class string, ask people.CodesAsked) ([]people.Code, error) {
		return a.Cases.People.ClassCodes(ctx, by, class, nil, ask)
	}
	_, err = give("stranger", theirs.ID, people.CodesAsked{})
	wantInvalid(t, err, "rows", "not-placed")
	looked, err := a.Cases.People.Placing(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	if err := a.Cases.People.PlaceClass(ctx, "office", c.ID, looked.Seen); err != nil {
		t.Fatal(err)
	}
	_, err = give("stranger", theirs.ID, people.CodesAsked{})
	wantInvalid(t, err, "rows", "not-placed") // the yes was to another class
	codes, err := give("oduya", c.ID, people.CodesAsked{})
	if err != nil || len(codes) != 1 || codes[0].Account.ID != victim.ID {
		t.Fatalf("%+v, %v", codes, err)
	}
	// Who is added after the yes isn't among them, and a row that gets another address neither.
	apptest.Account(t, a, "later", "Late", "Comer")
	other := accounts.Account{ID: "later", Address: "later@kestrelquay.example"}
	if _, err := a.Cases.Rosters.AddStudents(ctx, "oduya", c.ID,
		[]record.Record{{Family: "Comer", Given: "Late", Address: other.Address}}); err != nil {
		t.Fatal(err)
	}
	_, err = give("oduya", c.ID, people.CodesAsked{Replace: true})
	if err != nil {
		t.Fatalf("for who is placed: %v", err)
	}
	row := ""
	for _, st := range apptest.Load(t, a, c.ID).Students {
		if st.Account == other.ID {
			row = st.ID
		}
	}
	_, err = a.Cases.People.ClassCodes(ctx, "oduya", c.ID, []string{row}, people.CodesAsked{})
	wantInvalid(t, err, "rows", "not-placed")

	_, err = a.Cases.People.GiveCodes(ctx, "office", []string{victim.ID}, people.CodesAsked{})
	wantInvalid(t, err, "accounts", "codes-good")
	if mailed, err := give("stranger", theirs.ID, people.CodesAsked{Mail: true, Replace: true}); err != nil || len(mailed) != 1 {
		t.Fatalf("by mail: %+v, %v", mailed, err)
	}
	made, err := a.Cases.People.CodesMade(ctx, victim.ID)
	if err != nil || len(made) != 3 || made[0].By != "stranger" || !made[0].Mailed || made[2].By != "oduya" || made[2].Mailed {
		t.Errorf("the account's own record: %+v, %v", made, err)
	}
	for class, want := range map[string]int{c.ID: 3, theirs.ID: 3} {
		log, _, err := a.Cases.Registers.LogPage(ctx, class, "", 0)
		if err != nil {
			t.Fatal(err)
		}
		n := 0
		for _, l := range log {
			if l.Act == "codes-given-here" && l.Count == 1 && strings.Contains(l.Text, "Jonas Eriksen") {
				n++
			}
		}
		if n != want {
			t.Errorf("the log of %s tells %d times, want %d", class, n, want)
		}
	}
	// Anyone who comes in through the school's own service has a way in.
	if err := a.Cases.People.ChangeSchool(ctx, "office",
		settings.Change{Service: &settings.Service{Issuer: "https://id.kestrelquay.example", Client: "satchel"}}, settings.Change{}); err != nil {
		t.Fatal(err)
	}
	_, err = give("oduya", c.ID, people.CodesAsked{Replace: true})
	wantInvalid(t, err, "rows", "nobody-needs-codes")
}
