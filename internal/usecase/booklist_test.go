package usecase_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/lists"
	settings "jollysatchel/internal/core/school"
	"jollysatchel/internal/usecase/people"
	"jollysatchel/internal/usecase/seam"
)

// A list of 5,000 of whom 40 are wrong: who is right is in the book after it, who is wrong is
// told with the row, nothing else is touched, and who is no longer in it is switched off only
// where that is said.
func TestBookList(t *testing.T) {
	a := apptest.Open(t)
	apptest.People(t, a, 3)
	var b strings.Builder
	b.WriteString("Number;Given name;Family name;Email\n")
	for i := range 5000 {
		address := fmt.Sprintf("list%d@kestrelquay.example", i)
		switch {
		case i < 20:
			address = "nowhere"
		case i < 40:
			address = ""
		case i == 40:
			address = "oduya@kestrelquay.example"
		}
		fmt.Fprintf(&b, "%d;Given%d;Family%d;%s\n", 100+i, i, i, address)
	}
	list := []byte(b.String())
	look, err := a.Cases.People.PreviewBookList(ctx, accounts.Student, list)
	if err != nil {
		t.Fatal(err)
	}
	count := map[lists.BookAct]int{}
	for _, l := range look.Lines {
		count[l.Act]++
	}
	if count[lists.BookWrong] != 41 || count[lists.BookEnter] != 4959 || count[lists.BookLeave] != 3 || len(count) != 3 {
		t.Fatalf("%v", count)
	}
	var changed *change.Changed
	if _, err := a.Cases.People.BringBookList(ctx, "office", accounts.Student, list, "another", false); !errors.As(err, &changed) {
		t.Errorf("what nobody looked at: %v", err)
	}
	if n, err := a.Cases.People.BringBookList(ctx, "office", accounts.Student, list, look.Seen, false); err != nil || n != 4959 {
		t.Fatalf("%d, %v", n, err)
	}
	if page, err := a.Cases.People.BookPage(ctx, "office", people.BookFilter{Filter: accounts.Filter{Role: accounts.Student}}); err != nil || page.All != 4962 {
		t.Errorf("%d students, %v", page.All, err)
	}
	// In any order, from any end, and as many at once as a request takes.
	for _, by := range []accounts.Column{accounts.ByName, accounts.ByAddress, accounts.ByNumber, accounts.ByRole} {
		up, err := a.Cases.People.BookPage(ctx, "office", people.BookFilter{By: by})
		if err != nil {
			t.Fatal(err)
		}
		down, err := a.Cases.People.BookPage(ctx, "office", people.BookFilter{By: by, Down: true})
		if err != nil || down.All != up.All || down.Accounts[0].ID == up.Accounts[0].ID {
			t.Errorf("by %s from the end: %+v, %v", by, down.Accounts[0], err)
		}
	}
	ids, all, err := a.Cases.People.BookIDs(ctx, people.BookFilter{Filter: accounts.Filter{Standing: accounts.CantSignIn, Role: accounts.Student}}, 2000)
	if err != nil || len(ids) != 2000 || all != 4959 {
		t.Errorf("%d of %d can't sign in, %v", len(ids), all, err)
	}
	c := apptest.Class(t, a, "Surname,First,Email\nFamily50,Given50,list50@kestrelquay.example\n")
	for by, want := range map[string]int{"office": 1, "oduya": 0} {
		page, err := a.Cases.People.BookPage(ctx, by, people.BookFilter{Filter: accounts.Filter{Text: "list50@kestrelquay.example"}})
		if err != nil || page.All != 11 || len(page.Classes[page.Accounts[0].ID]) != want {
			t.Errorf("%s sees %d in %v, %v", by, page.All, page.Classes, err)
		}
	}
	if c.Students[0].Account == "" || c.Students[0].Problem != nil {
		t.Errorf("a class's student of the list: %+v", c.Students[0])
	}
	apptest.Pack(t, a, c, nil) // the cupboard knows them, too
	again, err := a.Cases.People.PreviewBookList(ctx, accounts.Student, list)
	if err != nil {
		t.Fatal(err)
	}
	_, err = a.Cases.People.BringBookList(ctx, "office", accounts.Student, list, again.Seen, false)
	wantInvalid(t, err, "list", "nothing-to-do")
	if n, err := a.Cases.People.BringBookList(ctx, "office", accounts.Student, list, again.Seen, true); err != nil || n != 3 {
		t.Errorf("switched off: %d, %v", n, err)
	}
	if _, err := a.Cases.People.SignIn(ctx, "s0@kestrelquay.example", apptest.Password); !errors.Is(err, seam.ErrRefused) {
		t.Errorf("who is switched off: %v", err)
	}
	_, err = a.Cases.People.PreviewBookList(ctx, accounts.Office, list)
	wantInvalid(t, err, "role", "no-such-role")
}

// Where the office lets them, lists that teachers accept enter the students into the school
// book whom it doesn't know, of the school's domain; they are linked at once.
func TestListsEnterStudents(t *testing.T) {
	a, c := school(t, 1)
	list := apptest.List(1) + "90001,New,Nadia,nadia@kestrelquay.example,3\n90002,Else,Where,w@other.example,3\n"
	accept(t, a, c.ID, list)
	linked := func() map[string]bool {
		out := map[string]bool{}
		for _, s := range apptest.Load(t, a, c.ID).Students {
			out[s.Family] = s.Account != ""
		}
		return out
	}
	if got := linked(); got["New"] || !got["Family0"] {
		t.Fatalf("before it is allowed: %v", got)
	}
	if err := a.Cases.People.ChangeSchool(ctx, "office", settings.Change{ListAccounts: ptr(true)}, settings.Change{}); err != nil {
		t.Fatal(err)
	}
	accept(t, a, c.ID, list+"90003,Later,Lea,lea@kestrelquay.example,3\n")
	if got := linked(); !got["New"] || !got["Later"] || got["Else"] || !got["Family0"] {
		t.Errorf("%v", got)
	}
	found, ok, err := a.Cases.People.AccountOf(ctx, "lea@kestrelquay.example")
	if err != nil || !ok || found.Role != "student" || found.Number != "90003" || found.Ready {
		t.Errorf("%+v %v", found, err)
	}
}
