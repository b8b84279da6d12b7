// Package courier carries messages out: each to its address once, in as many tries as it
// takes, within the speed the school's mail server allows. Messages are rows; any number
// of programs may work on them at once.
package courier

import (
	"context"
	"errors"
	"log/slog"
	"math/rand/v2"
	"strconv"
	"sync"
	"time"

	"github.com/riverqueue/river"

	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/jobs"
	"jollysatchel/internal/post"
	"jollysatchel/internal/store"
)

// Times and numbers a courier keeps to.
const (
	lease      = time.Minute
	stint      = jobs.Longest - 5*time.Second
	handful    = 20 // messages claimed at once
	longest    = time.Hour
	mostTries  = 84 // about three days
	mostPieces = 50 // of one digest
)

// Terms are how messages go out at present.
type Terms struct {
	Post      post.Post
	From      string // address
	School    string
	PerMinute int    // 0: as fast as they go
	Site      string // address of the pages, without a slash at its end
}

// A Courier works on messages.
type Courier struct {
	Terms func() Terms
	// First is how long the first wait is after a message couldn't be sent just now.
	First time.Duration

	store *store.Store
	queue *jobs.Queue
	now   clock.Clock
	log   *slog.Logger
	name  string
	busy  sync.Mutex
}

// New returns a courier whose wakings go through q.
func New(st *store.Store, q *jobs.Queue, terms func() Terms, now clock.Clock, log *slog.Logger) *Courier {
	c := &Courier{Terms: terms, First: time.Second, store: st, queue: q, now: now, log: log, name: store.NewID()}
	jobs.Register(q, &worker{courier: c})
	return c
}

// Post keeps messages within tx, each with an id of its own, and has them carried once that is
// committed. It returns how many weren't there before.
func (c *Courier) Post(ctx context.Context, tx *store.Store, of []telling.Message) (int, error) {
	for i := range of {
		of[i].ID = store.NewID()
	}
	n, err := tx.InsertMessages(ctx, of)
	if err != nil || n == 0 {
		return n, err
	}
	return n, c.Wake(ctx, tx)
}

// Wake has what waits carried once tx is committed.
func (c *Courier) Wake(ctx context.Context, tx *store.Store) error {
	return c.queue.Insert(ctx, tx.SQLTx(), carry{})
}

// carry only wakes; the state of the work is in the messages.
type carry struct{}

// Kind implements river.JobArgs.
func (carry) Kind() string { return "carry-messages" }

type worker struct {
	river.WorkerDefaults[carry]
	courier *Courier
}

// Work implements river.Worker.
func (w *worker) Work(ctx context.Context, _ *river.Job[carry]) error {
	return w.courier.Carry(ctx)
}

// Carry makes the digests whose time has come and sends what waits, until nothing does or
// its stint is over. Where this program does so already, it returns at once.
func (c *Courier) Carry(ctx context.Context) error {
	if !c.busy.TryLock() {
		return nil
	}
	defer c.busy.Unlock()
	ctx, cancel := context.WithTimeout(ctx, stint)
	defer cancel()
	err := c.carry(ctx)
	if ctx.Err() != nil {
		return nil // the next sweep goes on
	}
	return err
}

func (c *Courier) carry(ctx context.Context) error {
	if err := c.gather(ctx); err != nil {
		return err
	}
	for {
		t := c.Terms()
		claimed, err := c.store.ClaimMessages(ctx, c.name, c.now(), lease, handful, t.PerMinute)
		if err != nil {
			return err
		}
		if len(claimed) > 0 {
			if all, err := c.send(ctx, t, claimed); err != nil || !all {
				return err // the server is away: the next sweep asks again, with one message
			}
			continue
		}
		more, err := c.store.MessagesWait(ctx, c.now())
		if err != nil || !more {
			return err
		}
		select { // for the next that may go
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(250 * time.Millisecond):
		}
	}
}

// send sends messages and notes what came of each; all says that each was tried.
func (c *Courier) send(ctx context.Context, t Terms, of []telling.Message) (all bool, err error) {
	mails := make([]post.Mail, len(of))
	left := map[string]bool{}
	for i, m := range of {
		mails[i] = t.mail(m)
		left[m.ID] = true
	}
	kept := context.WithoutCancel(ctx)
	var failed error
	t.Post.Send(ctx, mails, func(i int, err error) {
		m := of[i]
		delete(left, m.ID)
		failed = errors.Join(failed, c.note(kept, m, err))
	})
	ids := make([]string, 0, len(left))
	for id := range left {
		ids = append(ids, id)
	}
	return len(ids) == 0, errors.Join(failed, c.store.MessageLeft(kept, ids))
}

// note keeps what came of a message.
func (c *Courier) note(ctx context.Context, m telling.Message, err error) error {
	if err == nil {
		return c.store.MessageSentNow(ctx, m.ID, c.now())
	}
	reason, forGood := err.Error(), false
	var r *post.Refusal
	if errors.As(err, &r) {
		reason, forGood = r.Text, r.ForGood
		if r.Code > 0 {
			reason = strconv.Itoa(r.Code) + " " + reason
		}
	}
	return c.store.MessageRefused(ctx, m.ID, reason, forGood || m.Tries >= mostTries, c.now().Add(c.wait(m.Tries)), c.now())
}

// wait doubles with each try up to an hour, with a random half so that not all come back
// at once.
func (c *Courier) wait(tries int) time.Duration {
	d := min(c.First<<min(max(tries-1, 0), 12), longest)
	return d/2 + rand.N(d/2+1)
}

// mail is a message as it is sent, the same however often.
func (t Terms) mail(m telling.Message) post.Mail {
	out := post.Mail{
		ID: m.ID, From: post.Person{Name: m.From(t.School), Address: t.From},
		ReplyTo: post.Person{Name: m.FromName, Address: m.ReplyTo}, To: post.Person{Name: m.ToName, Address: m.ToAddress},
		Subject: m.Subject, Body: m.Body, At: m.MadeAt,
	}
	foot, off := m.Foot(t.School, t.Site)
	out.Body, out.Off = out.Body+foot, off
	return out
}

// gather makes digests of what waits for one whose time has come.
func (c *Courier) gather(ctx context.Context) error {
	accounts, err := c.store.DueDigests(ctx, c.now())
	if err != nil {
		return err
	}
	for _, account := range accounts {
		if err := c.store.Tx(ctx, func(tx *store.Store) error { return c.gatherFor(ctx, tx, account) }); err != nil {
			return err
		}
	}
	return nil
}

func (c *Courier) gatherFor(ctx context.Context, tx *store.Store, account string) error {
	parts, err := tx.Gathering(ctx, account)
	if err != nil || len(parts) == 0 { // another program did it
		return err
	}
	parts = parts[:min(len(parts), mostPieces)]
	d := telling.DigestOf(parts, c.Terms().School, c.now())
	d.ID = store.NewID()
	ids := make([]string, len(parts))
	for i, p := range parts {
		ids[i] = p.ID
	}
	if _, err := tx.InsertMessages(ctx, []telling.Message{d}); err != nil {
		return err
	}
	return tx.Gather(ctx, ids, d.ID, c.now())
}
