package courier_test

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"testing"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/clock"
	settings "jollysatchel/internal/core/school"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/courier"
	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/post"
	"jollysatchel/internal/post/postroom"
	"jollysatchel/internal/store"
)

var ctx = context.Background()

// message is one to an address outside of the school's.
func message(about, address string) telling.Message {
	now := clock.System()
	return telling.Message{ID: store.NewID(), Kind: telling.Written, About: about, FromName: "Ifeoma Oduya",
		ToName: "Somebody", ToAddress: address, Subject: "About " + about, Body: "Hello", State: telling.Waiting, NotBefore: now, MadeAt: now}
}

func insert(t *testing.T, a *app.App, of ...telling.Message) {
	t.Helper()
	if _, err := a.Store.InsertMessages(ctx, of); err != nil {
		t.Fatal(err)
	}
}

func count(t *testing.T, a *app.App, query string) (n int) {
	t.Helper()
	if err := a.Store.DB.Get(&n, query); err != nil {
		t.Fatal(err)
	}
	return n
}

const (
	many      = 2000
	perMinute = 40_000
)

// 2,000 messages through a postroom that refuses every fifth and answers nothing to every
// twentieth, within a limit, while the program is killed twice: each person has exactly
// one. The child is this test program itself.
func TestKilled(t *testing.T) {
	if url := os.Getenv("JOLLY_TEST_CHILD"); url != "" {
		run(t, url)
		fmt.Println("sending")
		select {} // until killed
	}
	url := pgtest.New(t)
	a := apptest.At(t, url)
	limit := settings.Post{PerMinute: perMinute}
	if err := a.Cases.People.ChangeSchool(ctx, "office", settings.Change{Post: &limit}, settings.Change{}); err != nil {
		t.Fatal(err)
	}
	var all []telling.Message
	for i := range many {
		all = append(all, message(fmt.Sprint("m", i), fmt.Sprintf("p%d@home.example", i)))
	}
	insert(t, a, all...)
	insert(t, a, all[:100]...) // a run taken up again tells of the same
	begun := time.Now()
	for kills := 1; kills <= 2; kills++ {
		child := exec.Command(os.Args[0], "-test.run", "^TestKilled$")
		child.Env = append(os.Environ(), "JOLLY_TEST_CHILD="+url)
		out, err := child.StdoutPipe()
		if err != nil {
			t.Fatal(err)
		}
		if err := child.Start(); err != nil {
			t.Fatal(err)
		}
		if _, err := out.Read(make([]byte, 8)); err != nil {
			t.Fatal("the child doesn't start: ", err)
		}
		poll := time.NewTicker(5 * time.Millisecond)
		for end := time.After(3 * time.Minute); count(t, a, `select count(*) from messages where state = 'sent'`) < kills*many/3; {
			select {
			case <-end:
				t.Fatalf("%d are sent", count(t, a, `select count(*) from messages where state = 'sent'`))
			case <-poll.C:
			}
		}
		poll.Stop()
		if err := child.Process.Kill(); err != nil {
			t.Fatal(err)
		}
		child.Wait()
		// The killed program's leases end by the database's clock; let them.
		if _, err := a.Store.DB.Exec(`update messages set lease_until = clock_timestamp() where lease_until is not null`); err != nil {
			t.Fatal(err)
		}
	}
	if n := count(t, a, `select count(*) from messages where state = 'sent'`); n == many {
		t.Fatal("all was sent before the second kill")
	}
	last, beside := run(t, url), run(t, url) // two programs share what is left
	poll := time.NewTicker(20 * time.Millisecond)
	defer poll.Stop()
	for end := time.After(3 * time.Minute); count(t, a, `select count(*) from messages where state <> 'sent'`) > 0; {
		select {
		case <-end:
			t.Fatalf("%d aren't sent", count(t, a, `select count(*) from messages where state <> 'sent'`))
		case <-poll.C:
		}
	}
	took := time.Since(begun)
	last()
	beside()
	mailboxes, mails, again := count(t, a, `select count(distinct mailbox)
		from postroom.mails`), count(t, a, `select count(*)
		from postroom.mails`), count(t, a, `select coalesce(sum(came) - count(*), 0) from postroom.mails`)
	if mailboxes != many || mails != many {
		t.Errorf("%d mails in %d mailboxes, not %d in as many", mails, mailboxes, many)
	}
	tries := count(t, a, `select sum(tries) from messages`)
	if most := took.Minutes()*perMinute + perMinute/60; float64(tries) > most {
		t.Errorf("%d tries in %s, more than %d a minute", tries, took, perMinute)
	}
	// What came again is what was answered by nothing, or whose answer died with the program.
	if again > tries-many {
		t.Errorf("%d came again of %d tries", again, tries)
	}
	t.Logf("%d messages in %s: %d tries, %d came again and were kept once", many, took.Round(time.Millisecond), tries, again)
}

// run brings a program up that sends in bad weather; stop ends it.
func run(t *testing.T, url string) (stop func()) {
	t.Helper()
	a := apptest.At(t, url)
	a.Courier.First = 20 * time.Millisecond
	a.Postroom.SetWeather(postroom.Weather{Refuses: 0.2, Lost: 0.05})
	if err := a.Start(ctx); err != nil {
		t.Fatal(err)
	}
	sending, end := context.WithCancel(ctx)
	over := make(chan struct{})
	go func() {
		defer close(over)
		for sending.Err() == nil {
			if err := a.Courier.Carry(sending); err != nil && sending.Err() == nil {
				t.Error(err)
				return
			}
		}
	}()
	return func() {
		end()
		<-over
		if err := a.Stop(ctx); err != nil {
			t.Error(err)
		}
	}
}

// A message to nobody ends at once with what was answered; one that can't be sent now waits
// longer each time, and is given up in the end.
func TestRefused(t *testing.T) {
	day := &clock.Manual{}
	day.Set(time.Date(2026, 11, 26, 7, 40, 0, 0, time.UTC))
	a, err := app.Open(ctx, app.Settings{Database: pgtest.New(t), School: apptest.School, Now: day.Now})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(a.Close)
	nobody, late := message("nobody", "nobody@kestrelquay.example"), message("late", "late@home.example")
	nobody.NotBefore, late.NotBefore = day.Now(), day.Now()
	insert(t, a, nobody, late)
	a.Postroom.SetWeather(postroom.Weather{Refuses: 1})
	type outcome struct {
		State     string    `db:"state"`
		Reason    string    `db:"reason"`
		Tries     int       `db:"tries"`
		NotBefore time.Time `db:"not_before"`
	}
	of := func(id string) (o outcome) {
		if err := a.Store.DB.Get(&o, `select state, reason, tries, not_before from messages where id = $1`, id); err != nil {
			t.Fatal(err)
		}
		return o
	}
	waits := time.Duration(0)
	for try := 1; of(late.ID).State == telling.Waiting; try++ {
		if err := a.Courier.Carry(ctx); err != nil {
			t.Fatal(err)
		}
		o := of(late.ID)
		if o.Tries != try || o.Reason != "451 4.3.2 Not now, try again later" {
			t.Fatalf("try %d: %+v", try, o)
		}
		if o.State == telling.Waiting {
			if wait := o.NotBefore.Sub(day.Now()); wait <= 0 || wait > time.Hour+time.Second {
				t.Fatalf("try %d waits %s", try, wait)
			}
			waits += o.NotBefore.Sub(day.Now())
			day.Set(o.NotBefore)
		}
		if try > 200 {
			t.Fatal("it is never given up")
		}
	}
	if waits < 30*time.Hour || waits > 4*24*time.Hour {
		t.Errorf("given up after %s", waits)
	}
	if o := of(nobody.ID); o.State != telling.Failed || o.Tries != 1 || o.Reason != "550 5.1.1 There is no such mailbox here" {
		t.Errorf("%+v", o)
	}
	if n := count(t, a, `select count(*) from postroom.mails`); n != 0 {
		t.Errorf("%d mails", n)
	}
}

// away is a server that isn't there.
type away struct{ asked int }

func (a *away) Send(_ context.Context, _ []post.Mail, done func(int, error)) {
	a.asked++
	done(0, &post.Refusal{Text: "connection refused"})
}

// A server that is away is asked once in a while, not once for each message; what wasn't tried
// hasn't been tried.
func TestServerAway(t *testing.T) {
	a := apptest.Open(t)
	var all []telling.Message
	for i := range 50 {
		all = append(all, message(fmt.Sprint("m", i), fmt.Sprintf("p%d@home.example", i)))
	}
	insert(t, a, all...)
	server, terms := &away{}, a.Courier.Terms
	a.Courier.Terms = func() courier.Terms {
		out := terms()
		out.Post = server
		return out
	}
	for range 3 {
		if err := a.Courier.Carry(ctx); err != nil {
			t.Fatal(err)
		}
	}
	if tries := count(t, a, `select sum(tries) from messages`); server.asked != 3 || tries != 3 {
		t.Errorf("asked %d times, %d tries", server.asked, tries)
	}
	a.Courier.Terms = terms
	if _, err := a.Store.DB.Exec(`update messages set not_before = made_at`); err != nil {
		t.Fatal(err)
	}
	if err := a.Courier.Carry(ctx); err != nil {
		t.Fatal(err)
	}
	if sent := count(t, a, `select count(*) from messages where state = 'sent'`); sent != 50 {
		t.Errorf("%d are sent once it is there", sent)
	}
}
