// Package apptest brings up the whole program for tests, in a database of its
// own, with a small school in it.
package apptest

import (
	"context"
	"encoding/base64"
	"fmt"
	"strings"
	"testing"
	"time"

	"golang.org/x/crypto/argon2"

	"jollysatchel/internal/app"
	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/pack"
	"jollysatchel/internal/usecase/seam"
)

// Password of every account.
const Password = "low water at eleven"

// School is the school of the tests.
var School = seam.School{Name: "Kestrel Quay School", Domain: "kestrelquay.example", Zone: time.UTC, Language: "en"}

// Open brings the program up; nothing is running yet.
func Open(t testing.TB) *app.App {
	t.Helper()
	return At(t, pgtest.From(t, "empty", func(url string) {
		a, err := app.Open(context.Background(), app.Settings{Database: url, School: School, Now: clock.System})
		if err != nil {
			t.Fatal(err)
		}
		a.Close()
	}))
}

// At brings the program up on a database, as a second program would.
func At(t testing.TB, url string) *app.App {
	t.Helper()
	return With(t, app.Settings{Database: url, School: School, Now: clock.System, Pace: 10_000,
		Here: "http://satchel.test", ShowStandins: true})
}

// With brings the program up as its settings say.
func With(t testing.TB, s app.Settings) *app.App {
	t.Helper()
	a, err := app.Open(context.Background(), s)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(a.Close)
	return a
}

// Hash is the password's: of little cost, since tests sign in thousands of times.
var Hash = func() string {
	salt := []byte("brine and barley")
	tag := argon2.IDKey([]byte(Password), salt, 1, 64, 1, 32)
	return fmt.Sprintf("$argon2id$v=%d$m=64,t=1,p=1$%s$%s", argon2.Version, base64.RawStdEncoding.EncodeToString(salt),
		base64.RawStdEncoding.EncodeToString(tag))
}()

// People enters accounts into the school book and the cupboard: oduya and
// lindqvist of the staff, amaral too, the office, and n students s0, s1, …
func People(t testing.TB, a *app.App, n int) {
	t.Helper()
	all := []accounts.Account{
		{ID: "oduya", Address: "oduya@kestrelquay.example", Given: "Ifeoma", Family: "Oduya", Role: accounts.Staff},
		{ID: "lindqvist", Address: "lindqvist@kestrelquay.example", Given: "Mats", Family: "Lindqvist", Role: accounts.Staff},
		{ID: "amaral", Address: "amaral@kestrelquay.example", Given: "Rita", Family: "Amaral", Role: accounts.Staff},
		{ID: "stranger", Address: "stranger@kestrelquay.example", Given: "Sten", Family: "Stranger", Role: accounts.Staff},
		{ID: "office", Address: "office@kestrelquay.example", Given: "Harbour", Family: "Office", Role: accounts.Office},
	}
	for i := range n {
		all = append(all, accounts.Account{ID: fmt.Sprint("s", i), Address: fmt.Sprintf("s%d@kestrelquay.example", i),
			Given: fmt.Sprint("Given", i), Family: fmt.Sprint("Family", i), Number: fmt.Sprint(70000 + i), Role: accounts.Student})
	}
	ctx := context.Background()
	for _, acc := range all {
		if err := a.Book.Add(ctx, acc, Hash); err != nil {
			t.Fatal(err)
		}
		if err := a.Cup.AddPeople(ctx, acc.ID); err != nil {
			t.Fatal(err)
		}
	}
}

// Account enters one more student into the school book and the cupboard, with
// the address id@kestrelquay.example.
func Account(t testing.TB, a *app.App, id, given, family string) {
	t.Helper()
	acc := accounts.Account{ID: id, Address: id + "@kestrelquay.example", Given: given, Family: family, Role: accounts.Student}
	if err := a.Book.Add(context.Background(), acc, ""); err != nil {
		t.Fatal(err)
	}
	if err := a.Cup.AddPeople(context.Background(), id); err != nil {
		t.Fatal(err)
	}
}

// List writes the class list of students s0 to s(n-1).
func List(n int) string {
	var b strings.Builder
	b.WriteString("No,Surname,First,Email,Period\n")
	for i := range n {
		fmt.Fprintf(&b, "%d,Family%d,Given%d,s%d@kestrelquay.example,3\n", 70000+i, i, i, i)
	}
	return b.String()
}

// Class adds a class of oduya's with the students of a list.
func Class(t testing.TB, a *app.App, list string) picture.Class {
	t.Helper()
	ctx := context.Background()
	c, err := a.Cases.Classes.CreateClass(ctx, "oduya", "7B", "Tide Watch 7B", "3", false)
	if err != nil {
		t.Fatal(err)
	}
	d, err := a.Cases.Lists.BringDraft(ctx, "oduya", c.ID, "", strings.NewReader(list))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Lists.Accept(ctx, "oduya", c.ID, d.LookedAt()); err != nil {
		t.Fatal(err)
	}
	return Load(t, a, c.ID)
}

// Load loads a class as it stands.
func Load(t testing.TB, a *app.App, id string) picture.Class {
	t.Helper()
	c, err := a.Cases.Classes.Class(context.Background(), id)
	if err != nil {
		t.Fatal(err)
	}
	return c
}

// owner is a class's owner teacher.
func owner(t testing.TB, a *app.App, c picture.Class) string {
	t.Helper()
	staff, err := a.Store.Staff(context.Background(), c.ID)
	if err != nil || len(staff) == 0 {
		t.Fatal(staff, err)
	}
	return staff[0].Account
}

// Handout begins a handout of a new text template, with everything as usual.
func Handout(t testing.TB, a *app.App, c picture.Class, text string) handout.Handout {
	t.Helper()
	ctx := context.Background()
	tpl, err := a.Cases.Handouts.AddTemplate(ctx, owner(t, a, c), "Rock-pool field log.md",
		"text/markdown; charset=utf-8", strings.NewReader(text))
	if err != nil {
		t.Fatal(err)
	}
	h, err := a.Cases.Handouts.NewHandout(ctx, owner(t, a, c), c.ID, tpl.ID)
	if err != nil {
		t.Fatal(err)
	}
	return h
}

// Pack packs a handout, or the room where h is nil, and waits for the end.
func Pack(t testing.TB, a *app.App, c picture.Class, h *handout.Handout) ledger.Run {
	t.Helper()
	id := ""
	if h != nil {
		id = h.ID
	}
	r, err := a.Cases.Packing.Pack(context.Background(), owner(t, a, c), c.ID, id, pack.Part{})
	if err != nil {
		t.Fatal(err)
	}
	return Wait(t, a, r.ID)
}

// Look has everything that changed in the cupboard seen.
func Look(t testing.TB, a *app.App) {
	t.Helper()
	if err := a.Observer.CatchUp(context.Background()); err != nil {
		t.Fatal(err)
	}
}

// Full fills a class, packed already, with handouts as if each had been packed:
// every student's copy made, shared and seen, without the time that packing takes.
func Full(t testing.TB, a *app.App, c picture.Class, handouts int) {
	t.Helper()
	ctx := context.Background()
	first := Handout(t, a, c, "# Log\n\nWhere did you stand?\n")
	Pack(t, a, c, &first)
	for i := 1; i < handouts; i++ {
		h, err := a.Cases.Handouts.NewHandout(ctx, "oduya", c.ID, first.Settings.Documents[0].Template)
		if err != nil {
			t.Fatal(err)
		}
		title := fmt.Sprint("Log ", i+1)
		if h, err = a.Cases.Handouts.ChangeHandout(ctx, "oduya", c.ID, h.ID, handout.Change{Title: &title}, handout.Change{}); err != nil {
			t.Fatal(err)
		}
		copyOf(t, a, first, h, title)
	}
	Look(t, a)
	if _, err := a.Store.DB.ExecContext(ctx, `analyze`); err != nil { // what a database in use knows of itself
		t.Fatal(err)
	}
}

var doubling = []string{
	`create temporary table doubled on commit drop as select l.*, gen_random_uuid() as fresh,
		case when l.purpose = 'copy' then replace(l.name, $3, $4) else $4 end as called from ledger l
			where l.handout_id = $1::uuid and $2::uuid is not null`,
	`insert into standin.things (id, link, kind, name, parent, above, owner, grants, stands_alone, target, media_type,
		version, size, sha, made_at, changed_at, changed_by)
			select d.fresh, d.fresh::text, s.kind, d.called, s.parent, s.above, s.owner, s.grants, s.stands_alone, s.target,
				s.media_type, s.version, s.size, s.sha, s.made_at, s.changed_at, s.changed_by from doubled d
					join standin.things s on s.id = d.thing::uuid`,
	`insert into standin.versions (thing, n, sha, size, at, by) select d.fresh, v.n, v.sha, v.size, v.at, v.by
		from doubled d join standin.versions v on v.thing = d.thing::uuid`,
	`insert into ledger (id, class_id, key, generation, purpose, row_id, team_id, handout_id, thing, link, name, spot,
		put_in, granted, pointers, run_id, made_at, shared_at)
			select gen_random_uuid(), class_id, replace(key, $1::text, $2::text), generation, purpose, row_id, team_id,
				$2::uuid, fresh::text, fresh::text, called, spot, put_in, granted,
					replace(pointers::text, $1::text, $2::text)::jsonb, run_id, made_at, shared_at from doubled`,
	`update handouts set packed_at = (select packed_at from handouts where id = $1::uuid),
		settings = jsonb_set(settings, '{date}', (select settings->'date' from handouts where id = $1::uuid)) where id = $2::uuid`,
}

// copyOf doubles in the database what was made of a handout, for another.
func copyOf(t testing.TB, a *app.App, first, h handout.Handout, title string) {
	t.Helper()
	old := first.Title
	err := a.Store.Tx(context.Background(), func(tx *store.Store) error {
		for i, statement := range doubling {
			args := []any{first.ID, h.ID, old, title}[:[]int{4, 0, 0, 2, 2}[i]]
			if _, err := tx.Q.ExecContext(context.Background(), statement, args...); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
}

// Wait drives a run until it is done.
func Wait(t testing.TB, a *app.App, run string) ledger.Run {
	t.Helper()
	ctx, stop := context.WithTimeout(context.Background(), 2*time.Minute)
	defer stop()
	for {
		a.Packer.Drive(ctx, run)
		r, err := a.Store.Run(ctx, run)
		if err != nil {
			t.Fatal(err)
		}
		if r.State == ledger.RunDone {
			return r
		}
		select {
		case <-ctx.Done():
			t.Fatalf("run %s isn't done: %+v", run, r)
		case <-time.After(10 * time.Millisecond):
		}
	}
}
