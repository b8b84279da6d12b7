package usecase_test

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"sync"
	"testing"

	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/lists"
)

// termArchive is an open roster archive of two classes with two teachers, of whom one is known,
// and a student who is in both.
func termArchive(t *testing.T) []byte {
	t.Helper()
	return archive(t, map[string]string{
		"manifest.csv":    "propertyName,value\nmanifest.version,1.0\n",
		"classes.csv":     "sourcedId,title,periods\nc1,Boats,1\nc2,Tides,2\nc3,Tide Watch 7B,3\n",
		"users.csv":       "sourcedId,identifier,givenName,familyName,email,username,grades\nt1,,Mats,Lindqvist,lindqvist@kestrelquay.example,,\nt2,,Kim,Young,kim@kestrelquay.example,,\nu0,70000,Given0,Family0,s0@kestrelquay.example,,7\nu1,70001,Given1,Family1,s1@kestrelquay.example,,7\nu9,79999,New,Student,new@kestrelquay.example,,7\n",
		"enrollments.csv": "userSourcedId,classSourcedId,role\nt1,c1,teacher\nt2,c1,teacher\nt2,c2,teacher\nu0,c1,student\nu1,c1,student\nu0,c2,student\nu9,c2,student\nt1,c3,teacher\nu0,c3,student\n",
	})
}

func archive(t *testing.T, files map[string]string) []byte {
	t.Helper()
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for name, text := range files {
		f, err := w.Create(name)
		if err != nil {
			t.Fatal(err)
		}
		fmt.Fprint(f, text)
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// From an open roster archive the office enters teachers and students, and adds the
// classes that it names, each with its owner, co-teachers and students, at once; what is there
// stays as it is.
func TestNewTerm(t *testing.T) {
	a, c := school(t, 2)
	list := termArchive(t)
	look, err := a.Cases.Lists.PreviewTerm(ctx, list)
	if err != nil || len(look.Lines) != 3 {
		t.Fatalf("%+v %v", look, err)
	}
	acts := func() (out string) {
		t.Helper()
		if look, err = a.Cases.Lists.PreviewTerm(ctx, list); err != nil {
			t.Fatal(err)
		}
		for _, l := range look.Lines {
			out += fmt.Sprintf("%s %s: %s, %d others, %d students, %d unknown; ", l.Act, l.Name, l.Owner.Name, len(l.Others),
				len(l.Students), l.Unknown)
		}
		return out
	}
	if got := acts(); got != "make Boats: Mats Lindqvist, 0 others, 2 students, 0 unknown; no-owner Tides: , 0 others, 2 students, 1 unknown; there Tide Watch 7B: Mats Lindqvist, 0 others, 1 students, 0 unknown; " {
		t.Errorf("%s", got)
	}
	for _, role := range []accounts.Role{accounts.Staff, accounts.Student} {
		book, err := a.Cases.People.PreviewBookList(ctx, role, list)
		if err != nil {
			t.Fatal(err)
		}
		if n, err := a.Cases.People.BringBookList(ctx, "office", role, list, book.Seen, false); err != nil || n != 1 {
			t.Fatalf("%s: %d %v", role, n, err)
		}
	}
	if got := acts(); got != "make Boats: Mats Lindqvist, 1 others, 2 students, 0 unknown; make Tides: Kim Young, 0 others, 2 students, 0 unknown; there Tide Watch 7B: Mats Lindqvist, 0 others, 1 students, 0 unknown; " {
		t.Errorf("%s", got)
	}
	all := []string{look.Lines[0].Key, look.Lines[1].Key, look.Lines[2].Key}
	var changed *change.Changed
	if _, err := a.Cases.Lists.BringTerm(ctx, "office", list, "another", all); !errors.As(err, &changed) {
		t.Errorf("another list: %v", err)
	}
	var done sync.WaitGroup
	var mu sync.Mutex
	made := 0
	for range 2 { // of two who do it at once, one does it
		done.Go(func() {
			n, err := a.Cases.Lists.BringTerm(ctx, "office", list, look.Seen, all)
			if err != nil && !errors.As(err, new(*change.Changed)) {
				t.Error(err)
			}
			mu.Lock()
			made += n
			mu.Unlock()
		})
	}
	done.Wait()
	if made != 2 {
		t.Fatalf("%d were made", made)
	}
	cs, err := a.Store.Classes(ctx, "")
	if err != nil || len(cs) != 3 {
		t.Fatal(len(cs), err)
	}
	for _, x := range cs {
		got := apptest.Load(t, a, x.ID)
		switch x.Name {
		case "Boats":
			if got.Owner() != "lindqvist" || len(got.Staff) != 2 || len(got.Students) != 2 || got.Students[0].Account != "s0" || got.Period != "1" {
				t.Errorf("Boats: %+v", got)
			}
		case "Tides":
			if len(got.Students) != 2 || got.Students[1].Account == "" || got.Staff[0].Role != classes.Owner {
				t.Errorf("Tides: %+v", got)
			}
		default:
			if x.ID != c.ID || len(got.Students) != 2 {
				t.Errorf("what was there is another: %+v", got)
			}
		}
	}
	for _, l := range func() []lists.TermLine { acts(); return look.Lines }() {
		if l.Act != lists.TermThere {
			t.Errorf("%s is to be made again", l.Name)
		}
	}
	_, err = a.Cases.Lists.BringTerm(ctx, "office", list, look.Seen, all)
	wantInvalid(t, err, "classes", "nothing-to-do")
}

// A class with one teacher more than a class's staff may have isn't added with some of them
// left out, but refused by its name; nothing else is added with it.
func TestNewTermWithTooManyTeachers(t *testing.T) {
	a, _ := school(t, 1)
	users, enrollments := "sourcedId,identifier,givenName,familyName,email,username,grades\nu0,70000,Given0,Family0,s0@kestrelquay.example,,7\n", "userSourcedId,classSourcedId,role\nu0,c1,student\nu0,c2,student\nt0,c1,teacher\n"
	for i := range 31 {
		users += fmt.Sprintf("t%d,,Teacher,Of%d,of%d@kestrelquay.example,,\n", i, i, i)
		enrollments += fmt.Sprintf("t%d,c2,teacher\n", i)
	}
	list := archive(t, map[string]string{"manifest.csv": "propertyName,value\nmanifest.version,1.0\n",
		"classes.csv": "sourcedId,title,periods\nc1,Boats,1\nc2,Crowd,2\n", "users.csv": users, "enrollments.csv": enrollments})
	book, err := a.Cases.People.PreviewBookList(ctx, accounts.Staff, list)
	if err != nil {
		t.Fatal(err)
	}
	if n, err := a.Cases.People.BringBookList(ctx, "office", accounts.Staff, list, book.Seen, false); err != nil || n != 31 {
		t.Fatal(n, err)
	}
	look, err := a.Cases.Lists.PreviewTerm(ctx, list)
	if err != nil || len(look.Lines) != 2 || len(look.Lines[1].Others) != 30 {
		t.Fatalf("%+v %v", look, err)
	}
	_, err = a.Cases.Lists.BringTerm(ctx, "office", list, look.Seen, []string{look.Lines[0].Key, look.Lines[1].Key})
	wantInvalid(t, err, "classes", "too-many-staff-of")
	if invalid := new(change.Invalid); errors.As(err, &invalid) && (invalid.Args["name"] != "Crowd" || invalid.Args["most"] != "30") {
		t.Errorf("%v", invalid.Args)
	}
	if all, err := a.Store.Classes(ctx, ""); err != nil || len(all) != 1 {
		t.Errorf("%d classes, %v", len(all), err)
	}
	if n, err := a.Cases.Lists.BringTerm(ctx, "office", list, look.Seen, []string{look.Lines[0].Key}); err != nil || n != 1 {
		t.Errorf("without it: %d %v", n, err)
	}
}
