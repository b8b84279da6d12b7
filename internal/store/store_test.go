package store_test

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"reflect"
	"regexp"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/jackc/pgx/v5/pgconn"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/core/teams"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/store"
	"jollysatchel/internal/store/pg"
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
	c := classes.Class{ID: pg.NewID(), Code: "7B", Name: "Tide Watch", Plan: room.Usual(), CreatedAt: time.Now()}
	if err := s.InsertClass(ctx, c, "oduya"); err != nil {
		t.Fatal(err)
	}
	return c.ID
}

// row adds a row of a class linked to an account.
func row(t *testing.T, s *store.Store, class, account string) string {
	t.Helper()
	r := classes.Row{ClassRow: roster.ClassRow{ID: pg.NewID(), Record: record.Record{Family: "Dube"}, Account: account}}
	if err := s.SaveRows(ctx, class, []classes.Row{r}); err != nil {
		t.Fatal(err)
	}
	return r.ID
}

// Rules that must never break are the database's own.
func TestConstraints(t *testing.T) {
	s := open(t)
	c := class(t, s)
	r := row(t, s, c, "dube")
	exec := func(q string, args ...any) error {
		_, err := s.DB.Exec(q, args...)
		return err
	}
	const entry = `insert into ledger (id, class_id, key, generation, purpose, row_id, thing, link, name, granted,
		pointers, run_id, made_at) values ($1, $2, $3, $4, 'satchel', $5, $6, 'l', 'n', '{}', '{}', $1, now())`
	satchel := func(key string, generation int) error {
		return exec(entry, pg.NewID(), c, key, generation, r, pg.NewID())
	}
	if err := satchel("k1", 1); err != nil {
		t.Fatal(err)
	}
	const rows = `insert into rows (id, class_id, given, family, preferred, number, address, class, period, level, team,
		extra, account, linked_by, confirmed) values ($1, $2, '', $3, '', '', '', '', '', '', '', '{}', $4, '', '')`
	for what, err := range map[string]error{
		"a second open entry for a key": satchel("k1", 2),
		"a second satchel for a row":    satchel("k2", 1),
		"a generation before the first": satchel("k3", 0),
		"a second owner":                exec(`insert into staff (class_id, account, role) values ($1, 'lindqvist', 'owner')`, c),
		"a role nobody knows":           exec(`insert into staff (class_id, account, role) values ($1, 'x', 'captain')`, c),
		"a class without a name": exec(`insert into classes (id, code, name, period, plan, revision,
			wants, practice, created_at) values ($1, 'x', '', '', '{}', 1, 1, false, now())`, pg.NewID()),
		"two rows of one account in a class": exec(rows, pg.NewID(), c, "Eze", "dube"),
		"a row without any name":             exec(rows, pg.NewID(), c, "", ""),
		"a run in a state nobody knows": exec(`insert into runs (id, class_id, title, state, wants, started_by,
			started_at) values ($1, $2, '', 'resting', 1, 'x', now())`, pg.NewID(), c),
		"a ledger entry of a class that isn't there": exec(entry, pg.NewID(), pg.NewID(), "k4", 1, nil, pg.NewID()),
		"work on something that isn't in the ledger": exec(`insert into work (thing, version, begun, added, removed)
			values ('nothing', 1, true, 1, 0)`),
	} {
		if err == nil {
			t.Errorf("the database takes %s", what)
		}
	}
	if err := exec(rows, pg.NewID(), class(t, s), "Dube", "dube"); err != nil {
		t.Errorf("one account in another class: %v", err)
	}
	if err := exec(`update ledger set ended_at = now() where key = 'k1'`); err != nil {
		t.Fatal(err)
	}
	if err := satchel("k1", 2); err != nil {
		t.Errorf("after the old entry was ended: %v", err)
	}
}

// What a row was is what it is again, to the last value; it is its class's
// alone; accounts go from row to row.
func TestSaveRows(t *testing.T) {
	s := open(t)
	c, other := class(t, s), class(t, s)
	full := classes.Row{
		ClassRow: roster.ClassRow{
			ID: pg.NewID(), Account: "dube", LinkedBy: "n@kq.example", Confirmed: "dube",
			Record: record.Record{Given: "Nokuthula", Family: "Dube", Preferred: "Noki", Number: "1", Address: "n@kq.example",
				Class: "7B", Period: "3", Level: "A", Team: "Gull", Extra: map[string]string{"Boat": "red", "Bus": ""}},
		},
		ClassID: c,
	}
	bare := classes.Row{ClassRow: roster.ClassRow{ID: pg.NewID(),
		Record: record.Record{Family: "Eze", Extra: map[string]string{}}}, ClassID: c}
	now := func(class string) []classes.Row {
		t.Helper()
		rows, err := s.Rows(ctx, class)
		if err != nil {
			t.Fatal(err)
		}
		for i := range rows {
			if i > 0 && rows[i].Added <= rows[i-1].Added {
				t.Errorf("rows were added out of turn")
			}
			rows[i].Added = 0
		}
		return rows
	}
	same := func(want ...classes.Row) {
		t.Helper()
		got := now(c)
		for i := range got {
			if i < len(want) && got[i].LeftAt.IsZero() {
				got[i].LeftAt = want[i].LeftAt
			}
		}
		if !reflect.DeepEqual(got, want) {
			t.Errorf("%+v, want %+v", got, want)
		}
	}
	if err := s.SaveRows(ctx, c, []classes.Row{full, bare}); err != nil {
		t.Fatal(err)
	}
	same(full, bare)
	full.Account, full.LinkedBy, bare.Account = "eze", "k@kq.example", "dube"
	bare.Gone, bare.LeftAt = true, time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)
	if err := s.SaveRows(ctx, c, []classes.Row{bare, full}); err != nil {
		t.Fatal(err)
	}
	same(full, bare)
	if st := bare.State(); st.Left != bare.LeftAt.UnixMilli() {
		t.Errorf("state %+v", st)
	}
	mine := full
	mine.Family = "Taken"
	if err := s.SaveRows(ctx, other, []classes.Row{mine}); err == nil {
		if got := now(c)[0]; got.Family != "Dube" || len(now(other)) != 0 {
			t.Errorf("another class changed the row: %+v", got)
		}
	}
	if err := s.DeleteRows(ctx, other, []string{full.ID}); err != nil || len(now(c)) != 2 {
		t.Errorf("another class took the row away: %v", err)
	}
	if err := s.DeleteRows(ctx, c, []string{full.ID}); err != nil || len(now(c)) != 1 {
		t.Errorf("not taken away: %v", err)
	}
	if rows, err := s.RowsOf(ctx, "dube"); err != nil || len(rows) != 1 || !rows[0].Gone {
		t.Errorf("rows of an account: %+v, %v", rows, err)
	}
	if rows, err := s.RowsOf(ctx, ""); err != nil || len(rows) != 0 {
		t.Errorf("rows of nobody: %+v, %v", rows, err)
	}
}

// Teams keep their ids whatever they are called, within their class.
func TestTeams(t *testing.T) {
	s := open(t)
	c, other := class(t, s), class(t, s)
	for range 2 {
		if err := s.AddTeams(ctx, c, record.Team, []string{"Gull", "Tern", "gull"}); err != nil {
			t.Fatal(err)
		}
	}
	sets, err := s.TeamSets(ctx, c)
	if err != nil || len(sets) != 1 || len(sets[0].Teams) != 2 || sets[0].Field != record.Team {
		t.Fatalf("%+v, %v", sets, err)
	}
	id := sets[0].Teams[0].ID
	if err := s.RenameTeam(ctx, other, id, "Skua"); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("another class renamed it: %v", err)
	}
	if err := s.RenameTeam(ctx, c, id, "Skua"); err != nil {
		t.Fatal(err)
	}
	if sets, _ = s.TeamSets(ctx, c); sets[0].Teams[0] != (teams.Team{ID: id, Name: "Skua"}) {
		t.Errorf("renamed: %+v", sets)
	}
}

// A change holds its classes, raises their revisions, writes the log, and is
// repeated where the database asks for it; a key is answered as it was, and
// refused for anything else.
func TestChange(t *testing.T) {
	s := open(t)
	a, b := class(t, s), class(t, s)
	at := time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC)
	act := store.Act{By: "oduya", What: "tried", Classes: []string{b, a}, Args: map[string]string{"how": "hard"},
		Key: "k", Content: "x", At: at}
	n, answer := 0, ""
	do := func(*store.Store) error {
		n++
		answer = fmt.Sprint("answer ", n)
		return nil
	}
	if err := s.Change(ctx, act, &answer, do); err != nil {
		t.Fatal(err)
	}
	for _, id := range []string{a, b} {
		if c, err := s.Class(ctx, id); err != nil || c.Revision != 2 || c.Wants != 2 {
			t.Errorf("class %+v, %v", c, err)
		}
		if l, err := s.Log(ctx, id, 9); err != nil || len(l) != 1 || l[0].Act != "tried" || l[0].Account != "oduya" ||
			!l[0].At.Equal(at) || !strings.Contains(string(l[0].Args), "hard") {
			t.Errorf("log %+v, %v", l, err)
		}
	}
	answer = ""
	if err := s.Change(ctx, act, &answer, do); err != nil || n != 1 || answer != "answer 1" {
		t.Errorf("asked again: done %d times, %q, %v", n, answer, err)
	}
	for what, other := range map[string]func(*store.Act){"content": func(x *store.Act) { x.Content = "y" },
		"act": func(x *store.Act) { x.What = "shouted" }} {
		again := act
		other(&again)
		if err := s.Change(ctx, again, &answer, do); !errors.Is(err, store.ErrKey) || n != 1 {
			t.Errorf("the key with another %s: %v", what, err)
		}
	}
	theirs := act
	theirs.By = "lindqvist"
	if err := s.Change(ctx, theirs, &answer, do); err != nil || n != 2 {
		t.Errorf("the key of another: %v", err)
	}
	// What fails leaves nothing, and its key can be used again.
	failed := errors.New("no")
	act.Key = "k2"
	if err := s.Change(ctx, act, &answer, func(tx *store.Store) error {
		if err := tx.AddStaff(ctx, classes.Member{ClassID: a, Account: "lindqvist", Role: classes.Teacher}); err != nil {
			return err
		}
		return failed
	}); !errors.Is(err, failed) {
		t.Errorf("%v", err)
	}
	if staff, _ := s.Staff(ctx, a); len(staff) != 1 {
		t.Errorf("half of a change was kept: %v", staff)
	}
	if err := s.Change(ctx, act, &answer, do); err != nil || n != 3 {
		t.Errorf("a key whose act failed: %v", err)
	}
	if err := s.ForgetKeys(ctx, at.Add(time.Hour)); err != nil {
		t.Fatal(err)
	}
	if err := s.Change(ctx, act, &answer, do); err != nil || n != 4 {
		t.Errorf("a key that was forgotten: %v", err)
	}
	for _, id := range []string{pg.NewID(), "no id"} {
		if err := s.Change(ctx, store.Act{By: "oduya", What: "x", Classes: []string{a, id}, At: at}, nil,
			do); !errors.Is(err, store.ErrNotFound) {
			t.Errorf("a class that isn't there: %v", err)
		}
	}
}

// Two who wait for each other: the database ends one, and it is begun again.
func TestChangeRepeats(t *testing.T) {
	s := open(t)
	a, b := class(t, s), class(t, s)
	var wg, met sync.WaitGroup
	met.Add(2)
	tries := make([]int, 2)
	for i, order := range [][]string{{a, b}, {b, a}} {
		wg.Go(func() {
			err := s.Change(ctx, store.Act{By: "oduya", What: "crossed", At: time.Now()}, nil, func(tx *store.Store) error {
				tries[i]++
				if err := tx.HoldClass(ctx, order[0]); err != nil {
					return err
				}
				if tries[i] == 1 {
					met.Done()
					met.Wait() // each holds what the other wants
				}
				return tx.HoldClass(ctx, order[1])
			})
			if err != nil {
				t.Error(err)
			}
		})
	}
	wg.Wait()
	if tries[0]+tries[1] < 3 {
		t.Errorf("tried %v: they didn't meet", tries)
	}
}

func TestForgetSessions(t *testing.T) {
	s := open(t)
	for token, expiry := range map[string]time.Time{"old": time.Now().Add(-time.Minute), "new": time.Now().Add(time.Hour)} {
		if _, err := s.DB.ExecContext(ctx, `insert into sessions (token, data, expiry) values ($1, '', $2)`, token, expiry); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.ForgetSessions(ctx); err != nil {
		t.Fatal(err)
	}
	var left []string
	if err := s.DB.SelectContext(ctx, &left, `select token from sessions`); err != nil || len(left) != 1 || left[0] != "new" {
		t.Errorf("%v are left, %v", left, err)
	}
}

// Of several who use one key at once, one acts and all have its answer.
func TestKeyAtOnce(t *testing.T) {
	s := open(t)
	c := class(t, s)
	var acted atomic.Int32
	answers := make([]string, 8)
	var wg sync.WaitGroup
	for i := range answers {
		wg.Go(func() {
			answers[i] = fmt.Sprint("from ", i)
			if err := s.Change(ctx, store.Act{By: "oduya", What: "x", Classes: []string{c}, Key: "k", Content: 1,
				At: time.Now()}, &answers[i], func(*store.Store) error { acted.Add(1); return nil }); err != nil {
				t.Error(err)
			}
		})
	}
	wg.Wait()
	slices.Sort(answers)
	if acted.Load() != 1 || answers[0] != answers[7] {
		t.Errorf("acted %d times, answers %v", acted.Load(), answers)
	}
}

// Data of an earlier kind is refused with what to do.
func TestEarlierData(t *testing.T) {
	s, err := store.Open(ctx, pgtest.New(t))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(s.Close)
	if _, err := s.DB.Exec(`create table people (id uuid)`); err != nil {
		t.Fatal(err)
	}
	if err := s.Migrate(ctx); !errors.Is(err, store.ErrEarlier) || !strings.Contains(err.Error(), "demo-reset") {
		t.Errorf("%v", err)
	}
}

// A program that is older than the database leaves it alone.
func TestNewerData(t *testing.T) {
	s := open(t)
	if _, err := s.DB.Exec(`insert into goose_db_version (version_id, is_applied) values (9999, true)`); err != nil {
		t.Fatal(err)
	}
	if err := s.Migrate(ctx); !errors.Is(err, store.ErrNewer) {
		t.Errorf("%v", err)
	}
}

// key is a key of the class's with a name for its id.
func key(class, id string) packing.Key {
	return packing.Key{Class: class, What: packing.What{Purpose: packing.Pocket, ID: id}}
}

func step(k packing.Key, needs ...packing.Key) packing.Step {
	w := packing.Wanted{Key: k, Name: "x"}
	if len(needs) > 0 {
		w.Parent = needs[0]
		w.Pointers = needs[1:]
	}
	return packing.Step{StepKey: packing.StepKey{Key: k, Act: packing.Make, Generation: 1}, State: packing.Waiting, Wanted: w}
}

func seqs(steps []ledger.Step) string {
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
	run := ledger.Run{ID: pg.NewID(), ClassID: c, State: ledger.RunPacking, StartedBy: "oduya", StartedAt: time.Now()}
	if err := s.InsertRun(ctx, run,
		[]packing.Step{step(key(c, "a")), step(key(c, "b"), key(c, "a")), step(key(c, "c"), key(c, "elsewhere")),
			step(key(c, "d"), key(c, "b"), key(c, "c"))}); err != nil {
		t.Fatal(err)
	}
	claim := func(worker string, most int) []ledger.Step {
		t.Helper()
		got, _, err := s.Claim(ctx, run.ID, worker, time.Minute, most)
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
	finish := func(st ledger.Step, state packing.StepState) {
		t.Helper()
		e := &ledger.Entry{ID: pg.NewID(), Key: st.Key, Generation: 1, Thing: pg.NewID(), Name: "x", RunID: run.ID, MadeAt: time.Now()}
		if _, err := s.FinishStep(ctx, st, e, state, nil, time.Now()); err != nil {
			t.Fatal(err)
		}
	}
	for _, st := range first {
		if st.Seq == 1 {
			finish(st, packing.Packed)
		} else if err := s.PutOff(ctx, st, time.Hour, true); err != nil {
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
	if err := s.SetRunState(ctx, run.ID, ledger.RunPaused, ledger.RunPacking); err != nil {
		t.Fatal(err)
	}
	if _, err := s.DB.Exec(`update steps set lease_until = null, not_before = to_timestamp(0)`); err != nil {
		t.Fatal(err)
	}
	if got := claim("w1", 9); len(got) != 0 {
		t.Errorf("a paused run gives lines: %s", seqs(got))
	}
	if err := s.SetRunState(ctx, run.ID, ledger.RunStopped, ledger.RunPacking); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("stopped from a state it isn't in: %v", err)
	}
}

// What was noted in the ledger once stays noted, however often a line is done.
func TestFinishStepTwice(t *testing.T) {
	s := open(t)
	c := class(t, s)
	run := ledger.Run{ID: pg.NewID(), ClassID: c, State: ledger.RunPacking, StartedBy: "oduya", StartedAt: time.Now()}
	if err := s.InsertRun(ctx, run, []packing.Step{step(key(c, "a")), step(key(c, "b"))}); err != nil {
		t.Fatal(err)
	}
	steps, err := s.Steps(ctx, run.ID)
	if err != nil || len(steps) != 2 || steps[0].State != packing.Waiting || steps[0].Wanted.Name != "x" ||
		steps[0].Change != nil || steps[0].Reason != nil {
		t.Fatalf("%+v, %v", steps, err)
	}
	st := steps[0]
	shared := time.Date(2026, 11, 25, 8, 0, 0, 0, time.UTC)
	e := ledger.Entry{Key: st.Key, Generation: 1, Thing: pg.NewID(), Name: "x", RunID: run.ID, MadeAt: shared}
	for i, granted := range []map[string]access.Level{{"dube": access.Edit}, {"eze": access.Read}} {
		e.ID, e.Granted = pg.NewID(), granted
		e.SharedAt, e.Pointers = shared.Add(time.Duration(i)*time.Hour), map[string]string{"f": fmt.Sprint("p", i)}
		if _, err := s.FinishStep(ctx, st, &e, packing.Packed, nil, shared); err != nil {
			t.Fatal(err)
		}
	}
	got, err := s.EntryByKey(ctx, st.Key)
	if err != nil || !got.SharedAt.Equal(shared) || got.Pointers["f"] != "p0" || len(got.Granted) != 2 {
		t.Errorf("%+v, %v", got, err)
	}
	// Made again: the entry before ends and is kept.
	first := got.Thing
	e.ID, e.Generation, e.Thing = pg.NewID(), 2, pg.NewID()
	if _, err := s.FinishStep(ctx, steps[1], &e, packing.Packed, nil, shared); err != nil {
		t.Fatal(err)
	}
	if got, err = s.EntryByKey(ctx, st.Key); err != nil || got.Generation != 2 || got.Thing == first {
		t.Errorf("anew: %+v, %v", got, err)
	}
	if found, err := s.EntriesByThing(ctx, []string{first}); err != nil || found[first].EndedAt.IsZero() {
		t.Errorf("the entry before: %+v, %v", found, err)
	}
	if g, err := s.Generations(ctx, c); err != nil || g[st.Key] != 1 {
		t.Errorf("generations %v, %v", g, err)
	}
}

// A line to change is ended with what it changed in the ledger.
func TestFinishChange(t *testing.T) {
	s := open(t)
	c := class(t, s)
	k := key(c, "a")
	run := ledger.Run{ID: pg.NewID(), ClassID: c, State: ledger.RunPacking, StartedBy: "oduya", StartedAt: time.Now()}
	change := func(act packing.Act, account string, ch packing.Change) packing.Step {
		return packing.Step{StepKey: packing.StepKey{Key: k, Act: act, Account: account, Generation: 1}, State: packing.Waiting, Change: &ch}
	}
	if err := s.InsertRun(ctx, run,
		[]packing.Step{step(k), change(packing.Rename, "", packing.Change{Rename: "new"}),
			change(packing.Take, "dube", packing.Change{}), change(packing.Lower, "eze", packing.Change{Level: access.Read}),
			change(packing.Move, "", packing.Change{Move: true})}); err != nil {
		t.Fatal(err)
	}
	steps, err := s.Steps(ctx, run.ID)
	if err != nil {
		t.Fatal(err)
	}
	e := ledger.Entry{ID: pg.NewID(), Key: k, Generation: 1, Thing: pg.NewID(), Name: "old",
		Granted: map[string]access.Level{"dube": access.Edit, "eze": access.Edit}, RunID: run.ID, MadeAt: time.Now()}
	if _, err := s.FinishStep(ctx, steps[0], &e, packing.Packed, nil, time.Now()); err != nil {
		t.Fatal(err)
	}
	for _, st := range steps[1:] {
		if _, err := s.FinishChange(ctx, st, e, "there", time.Now()); err != nil {
			t.Fatal(err)
		}
	}
	got, err := s.EntryByKey(ctx, k)
	if err != nil || got.Name != "new" || got.PutIn != "there" || got.Spot != (packing.Wanted{}).Spot() ||
		!reflect.DeepEqual(got.Granted, map[string]access.Level{"eze": access.Read}) {
		t.Errorf("%+v, %v", got, err)
	}
	if r, err := s.Run(ctx, run.ID); err != nil || r.Packed != 5 || r.Waiting() != 0 {
		t.Errorf("%+v, %v", r, err)
	}
}

// Anyone who asked before a line ended may have been answered before its act: that is dropped, and
// what was answered during it is to be asked once more. Anyone who asks after it is believed.
func TestAskedDuringAnAct(t *testing.T) {
	for _, c := range []struct {
		what          string
		during        bool // answered before the line ended, else after
		unsure, later bool
	}{
		{"answered before it ended", true, true, false},
		{"answered after it ended", false, false, true},
	} {
		s := open(t)
		cl := class(t, s)
		k := key(cl, "a")
		run := ledger.Run{ID: pg.NewID(), ClassID: cl, State: ledger.RunPacking, StartedBy: "oduya", StartedAt: time.Now()}
		bin := packing.Step{StepKey: packing.StepKey{Key: k, Act: packing.Discard, Generation: 1}, State: packing.Waiting,
			Change: &packing.Change{}}
		if err := s.InsertRun(ctx, run, []packing.Step{step(k), bin}); err != nil {
			t.Fatal(err)
		}
		steps, err := s.Steps(ctx, run.ID)
		if err != nil {
			t.Fatal(err)
		}
		e := ledger.Entry{ID: pg.NewID(), Key: k, Generation: 1, Thing: pg.NewID(), Name: "a", RunID: run.ID, MadeAt: time.Now()}
		if _, err := s.FinishStep(ctx, steps[0], &e, packing.Packed, nil, time.Now()); err != nil {
			t.Fatal(err)
		}
		asking := func() int64 {
			n, err := s.Asking(ctx)
			if err != nil {
				t.Fatal(err)
			}
			return n
		}
		hear := func(n int64, place ledger.Place) map[string]bool {
			later, err := s.Observe(ctx, n, []store.Concern{{Thing: e.Thing, Class: cl, Owner: "oduya"}},
				map[string]ledger.Seen{e.Thing: {Place: place}}, true)
			if err != nil {
				t.Fatal(err)
			}
			return later
		}
		seen := func() ledger.Place {
			all, err := s.Observed(ctx, cl)
			if err != nil {
				t.Fatal(err)
			}
			return all[e.Thing].Place
		}
		hear(asking(), ledger.Lies)
		steps[1].Asking = asking()
		other := asking()
		later := map[string]bool{}
		if c.during {
			later = hear(other, ledger.Lies)
		}
		unsure, err := s.FinishChange(ctx, steps[1], e, "", time.Now())
		if err != nil {
			t.Fatal(err)
		}
		if !c.during {
			later = hear(other, ledger.Lies)
		}
		if unsure != c.unsure || later[e.Thing] != c.later || seen() != ledger.InBin {
			t.Errorf("%s: unsure %v, later was heard %v, %s", c.what, unsure, later, seen())
		}
		if later := hear(asking(), ledger.Lies); later[e.Thing] || seen() != ledger.Lies {
			t.Errorf("%s, asked after it: %v, %s", c.what, later, seen())
		}
	}
}

// A share that ends is no news to anyone who asked before it ended, as a change isn't.
func TestFinishShareMeanwhile(t *testing.T) {
	for _, during := range []bool{true, false} {
		s := open(t)
		cl := class(t, s)
		k := key(cl, "a")
		run := ledger.Run{ID: pg.NewID(), ClassID: cl, State: ledger.RunPacking, StartedBy: "oduya", StartedAt: time.Now()}
		share := step(k)
		share.Act = packing.Share
		if err := s.InsertRun(ctx, run, []packing.Step{step(k), share}); err != nil {
			t.Fatal(err)
		}
		steps, err := s.Steps(ctx, run.ID)
		if err != nil {
			t.Fatal(err)
		}
		asking := func() int64 {
			n, err := s.Asking(ctx)
			if err != nil {
				t.Fatal(err)
			}
			return n
		}
		e := ledger.Entry{ID: pg.NewID(), Key: k, Generation: 1, Thing: pg.NewID(), Name: "a", RunID: run.ID, MadeAt: time.Now()}
		hear := func(n int64) {
			t.Helper()
			if _, err := s.Observe(ctx, n, []store.Concern{{Thing: e.Thing, Class: cl, Owner: "oduya"}},
				map[string]ledger.Seen{e.Thing: {Place: ledger.Lies}}, true); err != nil {
				t.Fatal(err)
			}
		}
		if unsure, err := s.FinishStep(ctx, steps[0], &e, packing.Packed, nil, time.Now()); err != nil || unsure {
			t.Fatal(unsure, err)
		}
		hear(asking())
		steps[1].Asking = asking()
		other := asking()
		if during {
			hear(other)
		}
		e.Granted, e.SharedAt = map[string]access.Level{"s0": access.Edit}, time.Now()
		unsure, err := s.FinishStep(ctx, steps[1], &e, packing.Packed, nil, time.Now())
		if err != nil {
			t.Fatal(err)
		}
		if !during {
			hear(other)
		}
		all, err := s.Observed(ctx, cl)
		if err != nil || unsure != during || all[e.Thing].Rule.Grants["s0"] != access.Edit {
			t.Errorf("answered before it ended %v: unsure %v, seen %v, %v", during, unsure, all[e.Thing].Rule.Grants, err)
		}
	}
}

// A class folder that is handed over takes the class along, in the statement that
// ends the line; a folder of one student leaves the class where it was.
func TestFinishHandOver(t *testing.T) {
	for purpose, held := range map[packing.Purpose]string{packing.ClassFolder: "dube", packing.Satchel: ""} {
		s := open(t)
		c := class(t, s)
		k := key(c, "a")
		k.What = packing.What{Purpose: purpose}
		run := ledger.Run{ID: pg.NewID(), ClassID: c, State: ledger.RunPacking, StartedBy: "oduya", StartedAt: time.Now()}
		over := packing.Step{StepKey: packing.StepKey{Key: k, Act: packing.HandOver, Generation: 1}, State: packing.Waiting,
			Change: &packing.Change{To: "dube", Keeper: "dube"}}
		if err := s.InsertRun(ctx, run, []packing.Step{step(k), over}); err != nil {
			t.Fatal(err)
		}
		steps, err := s.Steps(ctx, run.ID)
		if err != nil {
			t.Fatal(err)
		}
		e := ledger.Entry{ID: pg.NewID(), Key: k, Generation: 1, Thing: pg.NewID(), Name: "a", RunID: run.ID, MadeAt: time.Now()}
		if _, err := s.FinishStep(ctx, steps[0], &e, packing.Packed, nil, time.Now()); err != nil {
			t.Fatal(err)
		}
		if _, err := s.FinishChange(ctx, steps[1], e, "", time.Now()); err != nil {
			t.Fatal(err)
		}
		cl, err := s.Class(ctx, c)
		if err != nil || cl.HeldBy != held {
			t.Errorf("%s: held by %q, %v", purpose, cl.HeldBy, err)
		}
		if r, err := s.Run(ctx, run.ID); err != nil || r.Packed != 2 || r.Waiting() != 0 {
			t.Errorf("%s: %+v, %v", purpose, r, err)
		}
	}
}

func TestIDs(t *testing.T) {
	for _, bad := range []string{"", "x", "'; drop table classes; --", "0198a0c0-0000-7000-8000-00000000000g"} {
		if pg.ValidID(bad) {
			t.Errorf("%q is an id", bad)
		}
	}
	s := open(t)
	for what, call := range map[string]func(string) error{
		"class":    func(id string) error { _, err := s.Class(ctx, id); return err },
		"team":     func(id string) error { return s.RenameTeam(ctx, pg.NewID(), id, "x") },
		"history":  func(id string) error { _, err := s.HistorySince(ctx, pg.NewID(), id); return err },
		"template": func(id string) error { _, err := s.Template(ctx, id); return err },
		"handout":  func(id string) error { _, err := s.Handout(ctx, pg.NewID(), id); return err },
		"run":      func(id string) error { _, err := s.Run(ctx, id); return err },
		"discard":  func(id string) error { return s.DeleteHandout(ctx, pg.NewID(), id) },
	} {
		for _, id := range []string{"x", "", pg.NewID()} {
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
		if err := tx.AddStaff(ctx, classes.Member{ClassID: c, Account: "lindqvist", Role: classes.Teacher}); err != nil {
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
	names := []string{"Adeyemi", "Ängström", "Ångström", "Aas", "Andersson", "Öberg", "Ortiz", "Øster", "Zandstra",
		"Zobel", "Žižka", "Çelik", "Chalupa", "Cerny", "Ñuñez", "Nunez", "Nuñez", "Nzeogwu",
		"de la Cruz", "De Vries", "D’Arcy", "Darcy", "Ibsen", "İnan", "Işık", "Tamm", "Saar", "Šimić", "Llewellyn",
		"Lopez", "Muller", "Müller", "Mueller", "10 a", "2 b", "0, c", "9", "Иванова", "Őri", "Ori"}
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

// The ids of PostgreSQL's and of the package that makes them can be written in
// many ways; ours are written in one.
func FuzzValidID(f *testing.F) {
	ours := regexp.MustCompile(`^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$`)
	for _, s := range []string{pg.NewID(), "0198A0C0-0000-7000-8000-000000000000",
		"{0198a0c0-0000-7000-8000-000000000000}", "urn:uuid:0198a0c0-0000-7000-8000-000000000000", "0198a0c0000070008000000000000000", ""} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		if pg.ValidID(s) != ours.MatchString(s) {
			t.Fatalf("%q: %v", s, pg.ValidID(s))
		}
	})
}

// The database's being away, and a full disk, are known by what they are called.
func TestAwayAndFull(t *testing.T) {
	pg := func(code string) error { return fmt.Errorf("asking: %w", &pgconn.PgError{Code: code}) }
	for _, c := range []struct {
		err        error
		away, full bool
	}{
		{nil, false, false}, {errors.New("else"), false, false}, {store.ErrNotFound, false, false},
		{context.Canceled, false, false}, {pg("23505"), false, false},
		{pg("57P01"), true, false}, {pg("57P03"), true, false}, {pg("08006"), true, false}, {pg("53300"), true, false},
		{syscall.ECONNREFUSED, true, false}, {io.ErrUnexpectedEOF, true, false}, {sql.ErrConnDone, true, false},
		{pg("53100"), false, true}, {pg("25006"), false, true}, {syscall.ENOSPC, false, true}, {syscall.EROFS, false, true},
	} {
		if store.Away(c.err) != c.away || store.DiskFull(c.err) != c.full {
			t.Errorf("%v: away %v, full %v", c.err, store.Away(c.err), store.DiskFull(c.err))
		}
	}
	if _, err := store.Open(ctx, "postgres://jolly@127.0.0.1:1/none?sslmode=disable&connect_timeout=2"); !store.Away(err) {
		t.Errorf("where nothing listens: %v", err)
	}
}

// Those who send take turns: one who sends two thousand doesn't hold up another's one.
func TestTurns(t *testing.T) {
	s := open(t)
	now := time.Date(2026, 11, 26, 8, 0, 0, 0, time.UTC)
	var many []telling.Message
	for i := range 2000 {
		many = append(many, telling.Message{ID: pg.NewID(), Kind: "written", About: fmt.Sprint("written/", i),
			SentBy: "loud", ToAddress: fmt.Sprintf("x%d@kestrelquay.example", i), State: telling.Waiting, NotBefore: now, MadeAt: now})
	}
	later := now.Add(time.Minute)
	quiet := telling.Message{ID: pg.NewID(), Kind: "written", About: "written/one", SentBy: "quiet",
		ToAddress: "y@kestrelquay.example", State: telling.Waiting, NotBefore: later, MadeAt: later}
	for _, of := range [][]telling.Message{many, {quiet}} {
		if err := s.Tx(ctx, func(tx *store.Store) error { _, err := tx.InsertMessages(ctx, of); return err }); err != nil {
			t.Fatal(err)
		}
	}
	got, err := s.ClaimMessages(ctx, "w", later, time.Minute, 10, 0)
	if err != nil || len(got) != 10 || !slices.ContainsFunc(got, func(m telling.Message) bool { return m.ID == quiet.ID }) {
		t.Errorf("the first handful is %d messages, %v", len(got), err)
	}
	if n, err := s.CountWritten(ctx, "loud", now.Add(-time.Hour)); err != nil || n != 2000 {
		t.Errorf("%d, %v", n, err)
	}
}

// Moments come out of the database in UTC, wherever the machine is.
func TestMomentsInUTC(t *testing.T) {
	s := open(t)
	here := time.Local
	time.Local = time.FixedZone("Auckland", 13*60*60)
	defer func() { time.Local = here }()
	at := time.Date(2026, 12, 31, 23, 59, 0, 1000, time.UTC)
	var one struct{ At time.Time }
	var more []time.Time
	if err := s.DB.Get(&one, `select $1::timestamptz as at`, at); err != nil {
		t.Fatal(err)
	}
	if err := s.DB.Select(&more, `select $1::timestamptz`, at); err != nil {
		t.Fatal(err)
	}
	for _, got := range append(more, one.At) {
		if got != at {
			t.Errorf("%v, want %v", got, at)
		}
	}
}
