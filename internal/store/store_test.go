package store_test

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/store"
)

var ctx = context.Background()

func open(t *testing.T) *store.Store {
	t.Helper()
	s, err := store.Open(ctx, pgtest.New(t))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(s.Close)
	for range 2 { // brought up to date twice, it is so once
		if err := s.Migrate(ctx); err != nil {
			t.Fatal(err)
		}
	}
	return s
}

func class(t *testing.T, s *store.Store) string {
	t.Helper()
	c := store.Class{ID: store.NewID(), Code: "7B", Name: "Tide Watch", Plan: store.JSON[room.Plan]{V: room.Usual()}, CreatedAt: time.Now()}
	if err := s.InsertClass(ctx, c, "oduya"); err != nil {
		t.Fatal(err)
	}
	return c.ID
}

func person(t *testing.T, s *store.Store, account string) string {
	t.Helper()
	p := store.Person{ID: store.NewID(), Family: "Dube", Account: sql.NullString{String: account, Valid: account != ""}, CreatedAt: time.Now()}
	if err := s.SavePerson(ctx, p); err != nil {
		t.Fatal(err)
	}
	return p.ID
}

// Rules that must never break are the database's own.
func TestConstraints(t *testing.T) {
	s := open(t)
	c, p := class(t, s), person(t, s, "dube")
	exec := func(q string, args ...any) error {
		_, err := s.DB.Exec(q, args...)
		return err
	}
	satchel := func(key string) error {
		return exec(`insert into ledger (id, class_id, key, purpose, person_id, thing, link, name, granted, run_id, made_at) values ($1, $2, $3, 'satchel', $4, $5, 'l', 'n', '{}', $1, now())`, store.NewID(), c, key, p, store.NewID())
	}
	if err := satchel("k1"); err != nil {
		t.Fatal(err)
	}
	for what, err := range map[string]error{
		"a second open entry for a key":              satchel("k1"),
		"a second satchel for a student and class":   satchel("k2"),
		"a second owner":                             exec(`insert into staff (class_id, account, role) values ($1, 'lindqvist', 'owner')`, c),
		"a role nobody knows":                        exec(`insert into staff (class_id, account, role) values ($1, 'x', 'captain')`, c),
		"a class without a name":                     exec(`insert into classes (id, code, name, period, plan, revision, created_at) values ($1, 'x', '', '', '{}', 1, now())`, store.NewID()),
		"two people with one account":                exec(`insert into people (id, account, number, given, family, preferred, address, created_at) values ($1, 'dube', '', 'x', '', '', '', now())`, store.NewID()),
		"a person without any name":                  exec(`insert into people (id, number, given, family, preferred, address, created_at) values ($1, '', '', '', '', '', now())`, store.NewID()),
		"a run in a state nobody knows":              exec(`insert into runs (id, class_id, title, state, started_by, started_at) values ($1, $2, '', 'resting', 'x', now())`, store.NewID(), c),
		"a ledger entry of a class that isn't there": exec(`insert into ledger (id, class_id, key, purpose, thing, link, name, granted, run_id, made_at) values ($1, $1, 'k3', 'shelf', 'x', 'l', 'n', '{}', $1, now())`, store.NewID()),
		"a handout of a template that isn't there":   exec(`insert into handouts (id, class_id, title, template_id, settings, zone, created_at, changed_at) values ($1, $2, 'x', $1, '{}', 'UTC', now(), now())`, store.NewID(), c),
		"the same student in two rows of one class":  errors.Join(exec(`insert into rows (id, class_id, person_id, class, period, level, team, extra) values ($1, $2, $3, '', '', '', '', '{}')`, store.NewID(), c, p), exec(`insert into rows (id, class_id, person_id, class, period, level, team, extra) values ($1, $2, $3, '', '', '', '', '{}')`, store.NewID(), c, p)),
		"work on something that isn't in the ledger": exec(`insert into work (thing, version, begun, added, removed) values ('nothing', 1, true, 1, 0)`),
	} {
		if err == nil {
			t.Errorf("the database takes %s", what)
		}
	}
	if err := exec(`update ledger set ended_at = now() where key = 'k1'`); err != nil {
		t.Fatal(err)
	}
	if err := satchel("k1"); err != nil {
		t.Errorf("after the old entry was ended: %v", err)
	}
}

// A row is the same row when its student comes back.
func TestRowsReopen(t *testing.T) {
	s := open(t)
	c, p := class(t, s), person(t, s, "dube")
	save := func() string {
		t.Helper()
		id, err := s.SaveRow(ctx, store.Row{ID: store.NewID(), ClassID: c, PersonID: p})
		if err != nil {
			t.Fatal(err)
		}
		return id
	}
	first := save()
	if _, err := s.DB.Exec(`update rows set left_at = now()`); err != nil {
		t.Fatal(err)
	}
	if m, _ := s.Members(ctx, c); len(m) != 0 {
		t.Errorf("who left is still a member: %v", m)
	}
	if again := save(); again != first {
		t.Errorf("row %s became %s", first, again)
	}
	if m, _ := s.Members(ctx, c); len(m) != 1 {
		t.Errorf("who came back is no member: %v", m)
	}
}

func step(seq int, key string, needs ...packing.Key) store.Step {
	w := packing.Wish{Key: packing.Key(key)}
	if len(needs) > 0 {
		w.Parent = needs[0]
	}
	if len(needs) > 1 {
		w.Pointer = needs[1]
	}
	return store.Step{Seq: seq, Key: key, State: store.StepWaiting, Wish: store.JSON[packing.Wish]{V: w}}
}

func seqs(steps []store.Step) string {
	var out []string
	for _, s := range steps {
		out = append(out, fmt.Sprint(s.Seq))
	}
	slices.Sort(out)
	return strings.Join(out, " ")
}

// Which lines can be claimed, and who has them how long.
func TestClaim(t *testing.T) {
	s := open(t)
	c := class(t, s)
	run := store.Run{ID: store.NewID(), ClassID: c, State: store.RunPacking, StartedBy: "oduya", StartedAt: time.Now()}
	if err := s.InsertRun(ctx, run, []store.Step{step(1, "a"), step(2, "b", "a"), step(3, "c", "elsewhere"), step(4, "d", "b", "c")}); err != nil {
		t.Fatal(err)
	}
	claim := func(worker string, most int) []store.Step {
		t.Helper()
		got, err := s.Claim(ctx, run.ID, worker, time.Minute, most)
		if err != nil {
			t.Fatal(err)
		}
		return got
	}
	first := claim("w1", 9)
	if got := seqs(first); got != "1 3" { // b waits for a of this run; c's need is no line of it
		t.Fatalf("claimed %s", got)
	}
	if got := claim("w2", 9); len(got) != 0 {
		t.Errorf("claimed twice: %s", seqs(got))
	}
	if err := s.Renew(ctx, first[0], "w2", time.Minute); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("another worker renewed the lease: %v", err)
	}
	if err := s.Renew(ctx, first[0], "w1", time.Minute); err != nil {
		t.Error(err)
	}
	finish := func(st store.Step, state string) {
		t.Helper()
		e := &store.Entry{ID: store.NewID(), ClassID: c, Key: st.Key, Purpose: "place", Thing: store.NewID(), Name: "x", RunID: run.ID, MadeAt: time.Now()}
		e.Granted.V = map[string]access.Level{}
		if err := s.FinishStep(ctx, st, e, state, nil, time.Now()); err != nil {
			t.Fatal(err)
		}
	}
	for _, st := range first {
		if st.Seq == 1 {
			finish(st, store.StepPacked)
		} else if err := s.PutOff(ctx, st, time.Hour); err != nil {
			t.Fatal(err)
		}
	}
	next := claim("w2", 9)
	if got := seqs(next); got != "2" { // c was put off, d needs it
		t.Fatalf("claimed %s", got)
	}
	// A lease that ended is anybody's.
	if _, err := s.DB.Exec(`update steps set lease_until = clock_timestamp() - interval '1 second' where seq = 2`); err != nil {
		t.Fatal(err)
	}
	if got := claim("w3", 9); seqs(got) != "2" || got[0].Tries != 2 {
		t.Errorf("after the lease ended: %s", seqs(got))
	}
	if ended, err := s.FinishRun(ctx, run.ID, time.Now()); err != nil || ended {
		t.Errorf("a run with waiting lines ended: %v", err)
	}
	if err := s.SetRunState(ctx, run.ID, store.RunPaused, store.RunPacking); err != nil {
		t.Fatal(err)
	}
	if _, err := s.DB.Exec(`update steps set lease_until = null, not_before = to_timestamp(0)`); err != nil {
		t.Fatal(err)
	}
	if got := claim("w1", 9); len(got) != 0 {
		t.Errorf("a paused run gives lines: %s", seqs(got))
	}
	if err := s.SetRunState(ctx, run.ID, store.RunStopped, store.RunPacking); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("stopped from a state it isn't in: %v", err)
	}
}

// What was noted in the ledger once stays noted, however often a line is done.
func TestFinishStepTwice(t *testing.T) {
	s := open(t)
	c := class(t, s)
	run := store.Run{ID: store.NewID(), ClassID: c, State: store.RunPacking, StartedBy: "oduya", StartedAt: time.Now()}
	if err := s.InsertRun(ctx, run, []store.Step{step(1, "a")}); err != nil {
		t.Fatal(err)
	}
	st := step(1, "a")
	st.RunID = run.ID
	shared := time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC)
	e := store.Entry{ClassID: c, Key: "a", Purpose: "copy", Thing: store.NewID(), Name: "x", RunID: run.ID, MadeAt: shared}
	for i, granted := range []map[string]access.Level{{"dube": access.Edit}, {"eze": access.Read}} {
		e.ID, e.Granted.V = store.NewID(), granted
		e.SharedAt, e.Pointer = sql.NullTime{Time: shared.Add(time.Duration(i) * time.Hour), Valid: true}, sql.NullString{String: fmt.Sprint("p", i), Valid: true}
		if err := s.FinishStep(ctx, st, &e, store.StepPacked, nil, shared); err != nil {
			t.Fatal(err)
		}
	}
	got, err := s.EntryByKey(ctx, "a")
	if err != nil || !got.SharedAt.Time.Equal(shared) || got.Pointer.String != "p0" || len(got.Granted.V) != 2 {
		t.Errorf("%+v, %v", got, err)
	}
}

func TestIDs(t *testing.T) {
	for _, bad := range []string{"", "x", "'; drop table classes; --", "0198a0c0-0000-7000-8000-00000000000g"} {
		if store.ValidID(bad) {
			t.Errorf("%q is an id", bad)
		}
	}
	s := open(t)
	for what, call := range map[string]func(string) error{
		"class":    func(id string) error { _, err := s.Class(ctx, id); return err },
		"member":   func(id string) error { _, err := s.Member(ctx, store.NewID(), id); return err },
		"template": func(id string) error { _, err := s.Template(ctx, id); return err },
		"handout":  func(id string) error { _, err := s.Handout(ctx, store.NewID(), id); return err },
		"run":      func(id string) error { _, err := s.Run(ctx, id); return err },
		"discard":  func(id string) error { return s.DeleteHandout(ctx, store.NewID(), id) },
	} {
		for _, id := range []string{"x", "", store.NewID()} {
			if err := call(id); !errors.Is(err, store.ErrNotFound) {
				t.Errorf("%s %q: %v", what, id, err)
			}
		}
	}
}

// A transaction that fails leaves nothing.
func TestTx(t *testing.T) {
	s := open(t)
	c := class(t, s)
	failed := errors.New("no")
	err := s.Tx(ctx, func(tx *store.Store) error {
		if err := tx.AddStaff(ctx, store.StaffMember{ClassID: c, Account: "lindqvist", Role: store.RoleTeacher}); err != nil {
			return err
		}
		return failed
	})
	if staff, _ := s.Staff(ctx, c); !errors.Is(err, failed) || len(staff) != 1 {
		t.Errorf("%v, staff %v", err, staff)
	}
}

// Our order of names is that of PostgreSQL's ICU collation, numbers by value,
// in languages that differ: Swedish and Danish end with Å, Ä, Ö and Æ, Ø, Å,
// German puts ä with a, Spanish has ñ after n, Czech ch after h, Estonian z
// after s, Turkish ı before i.
func TestOrderIsICUs(t *testing.T) {
	s := open(t)
	names := []string{"Adeyemi", "Ängström", "Ångström", "Aas", "Andersson", "Öberg", "Ortiz", "Øster", "Zandstra", "Zobel", "Žižka", "Çelik", "Chalupa", "Cerny", "Ñuñez", "Nunez", "Nuñez", "Nzeogwu",
		"de la Cruz", "De Vries", "D’Arcy", "Darcy", "Ibsen", "İnan", "Işık", "Tamm", "Saar", "Šimić", "Llewellyn", "Lopez", "Muller", "Müller", "Mueller", "10 a", "2 b", "0, c", "9", "Иванова", "Őri", "Ori"}
	for _, lang := range []string{"en", "sv", "da", "de", "es", "cs", "et", "tr", "hu", "pt"} {
		ours := slices.Clone(names)
		naming.NewOrder(lang).Sort(len(ours), func(i int) string { return ours[i] }, func(i, j int) { ours[i], ours[j] = ours[j], ours[i] })
		if _, err := s.DB.Exec(`create collation "o_` + lang + `" (provider = icu, locale = '` + lang + `-u-kn-true')`); err != nil {
			t.Fatal(err)
		}
		var icu []string
		if err := s.DB.Select(&icu, `select n from unnest($1::text[]) n order by n collate "o_`+lang+`", n collate "C"`, names); err != nil {
			t.Fatal(err)
		}
		for i := range icu {
			if ours[i] != icu[i] {
				t.Errorf("%s: at %d we have %q, ICU %q\nours %q\nICU  %q", lang, i, ours[i], icu[i], ours, icu)
				break
			}
		}
	}
}
