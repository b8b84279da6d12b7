// Package packer carries packing lists out: durable, resumable and within the
// storage service's limits. A run and its lines are rows; any number of
// programs may work on them at once.
package packer

import (
	"context"
	"log/slog"
	"sync"
	"sync/atomic"
	"time"

	"github.com/riverqueue/river"

	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/jobs"
	"jollysatchel/internal/store"
)

// Times a packer keeps to. A line that a killed program left is taken up when
// its lease ends; leases are renewed while a line is worked on.
const (
	lease     = 10 * time.Second
	stint     = jobs.Longest - 5*time.Second // longest work on one run in one go
	sweep     = 2 * time.Second
	workers   = 8
	handful   = 3 // lines a worker claims at once
	mostTries = 25
	calm      = 40 * time.Millisecond // a line takes in calm weather
	recent    = 16                    // lines that its mean is about
)

// Wants says what is wanted now of what a run is about, for it may have changed
// since its list was made. wants is the class's at the time it was read.
type Wants func(ctx context.Context, r ledger.Run) (wanted map[packing.Key]packing.Wanted, wants int64, err error)

// Ended returns what is to be done within the transaction in which a run ends; nil for
// nothing.
type Ended func(ctx context.Context, r ledger.Run) (func(ctx context.Context, tx *store.Store) error, error)

// An Observer asks how things stand, and keeps the answers.
type Observer interface {
	Observe(ctx context.Context, concerns []store.Concern) error
}

// A Packer works on runs until it is stopped.
type Packer struct {
	Wants Wants // set before Start
	Ended Ended // the same; nil: nothing is to be done
	store *store.Store
	cup   cupboard.Cupboard
	look  Observer
	now   clock.Clock
	log   *slog.Logger
	name  string
	queue *jobs.Queue

	aLine atomic.Int64 // nanoseconds that the last lines took

	mu      sync.Mutex
	driving map[string]bool
	stop    context.CancelFunc
	done    sync.WaitGroup
}

// New returns a packer whose wakings go through q. Start begins its work; Enqueue
// works without.
func New(st *store.Store, cup cupboard.Cupboard, look Observer, q *jobs.Queue, now clock.Clock, log *slog.Logger) *Packer {
	p := &Packer{store: st, cup: cup, look: look, queue: q, now: now, log: log, name: store.NewID(), driving: map[string]bool{}}
	p.aLine.Store(int64(calm))
	jobs.Register(q, &worker{packer: p})
	return p
}

// Start takes up whatever an earlier program left and works until Stop.
func (p *Packer) Start(ctx context.Context) {
	ctx, p.stop = context.WithCancel(context.WithoutCancel(ctx))
	p.done.Go(func() { p.sweepAll(ctx) })
}

// Stop ends the work; lines under way are finished or left to be taken up again.
func (p *Packer) Stop() {
	p.stop()
	p.done.Wait()
}

// Enqueue adds a run with its lines within tx and wakes a worker once it is
// committed.
func (p *Packer) Enqueue(ctx context.Context, tx *store.Store, r ledger.Run, steps []packing.Step) error {
	if err := tx.InsertRun(ctx, r, steps); err != nil {
		return err
	}
	return p.Wake(ctx, tx, r)
}

// Wake puts a job in for a run, within tx.
func (p *Packer) Wake(ctx context.Context, tx *store.Store, r ledger.Run) error {
	if err := p.queue.Insert(ctx, tx.SQLTx(), packRun{r.ID}); err != nil {
		return err
	}
	return tx.Touch(ctx, r.ClassID)
}

// packRun only wakes; the state of the work is in the run's lines.
type packRun struct {
	Run string `json:"run"`
}

// Kind implements river.JobArgs.
func (packRun) Kind() string { return "pack-run" }

type worker struct {
	river.WorkerDefaults[packRun]
	packer *Packer
}

// Work implements river.Worker. A run that isn't finished when the stint ends
// is taken up by the next sweep.
func (w *worker) Work(ctx context.Context, job *river.Job[packRun]) error {
	w.packer.Drive(ctx, job.Args.Run)
	return nil
}

// sweepAll takes up runs that nobody here drives: at once, then every few
// seconds.
func (p *Packer) sweepAll(ctx context.Context) {
	tick := time.NewTicker(sweep)
	defer tick.Stop()
	for {
		runs, err := p.store.OpenRuns(ctx)
		if err != nil && ctx.Err() == nil {
			report(p.log, err, "looking for open runs")
		}
		for _, id := range runs {
			p.done.Go(func() { p.Drive(ctx, id) })
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

// Drive works on one run until no line is waiting, the run is paused or the
// stint is over. Where this program already drives it, Drive returns at once.
func (p *Packer) Drive(ctx context.Context, run string) {
	p.mu.Lock()
	if p.driving[run] {
		p.mu.Unlock()
		return
	}
	p.driving[run] = true
	p.mu.Unlock()
	defer func() {
		p.mu.Lock()
		delete(p.driving, run)
		p.mu.Unlock()
	}()
	r, err := p.store.Run(ctx, run)
	if err != nil || r.State != ledger.RunPacking {
		return
	}
	owner, err := p.store.OwnerOfThings(ctx, r.ClassID)
	if err != nil {
		report(p.log, err, "run without owner teacher", "run", run)
		return
	}
	ctx, cancel := context.WithTimeout(ctx, stint)
	defer cancel()
	j := &job{Packer: p, run: r, owner: owner, moved: make(chan struct{}, workers), news: make(chan struct{}, 1),
		over: make(chan struct{}), ended: make(chan struct{})}
	var telling sync.WaitGroup
	telling.Go(func() { j.tell(context.WithoutCancel(ctx)) })
	var wg sync.WaitGroup
	for range min(workers, r.Waiting()) {
		wg.Go(func() { j.work(ctx) })
	}
	wg.Wait()
	j.forms.end()
	close(j.over)
	close(j.news)
	telling.Wait()
	if ctx.Err() != nil {
		return
	}
	if err := p.finish(ctx, r); err != nil && ctx.Err() == nil {
		report(p.log, err, "finishing a run", "run", run)
	}
}

// PerLine is how long a line of a long list takes, of which as many are in hand at once as there are
// workers: the mean of the last lines, of which the later count for more; before the first, what it
// takes in calm weather. What a line waits for in between, being put off, isn't its work.
func (p *Packer) PerLine() time.Duration { return time.Duration(p.aLine.Load()) / workers }

// took notes how long one line was worked on.
func (p *Packer) took(line time.Duration) {
	for {
		old := p.aLine.Load()
		if p.aLine.CompareAndSwap(old, old+(int64(line)-old)/recent) {
			return
		}
	}
}

func (p *Packer) finish(ctx context.Context, r ledger.Run) error {
	var also func(context.Context, *store.Store) error
	if p.Ended != nil {
		var err error
		if also, err = p.Ended(ctx, r); err != nil {
			return err
		}
	}
	return p.store.Tx(ctx, func(tx *store.Store) error {
		if err := tx.HoldClass(ctx, r.ClassID); err != nil { // before the run, as everybody does
			return err
		}
		ended, err := tx.FinishRun(ctx, r.ID, p.now())
		if err != nil || !ended {
			return err
		}
		if also != nil {
			if err := also(ctx, tx); err != nil {
				return err
			}
		}
		return tx.Touch(ctx, r.ClassID)
	})
}

// A job is one program's work on one run.
type job struct {
	*Packer
	run    ledger.Run
	owner  string
	moved  chan struct{} // a line ended: its children may be packed now
	news   chan struct{} // something changed that others want to know
	over   chan struct{} // closed when no worker is left
	ended  chan struct{} // closed when no line is waiting
	end    sync.Once
	things sync.Map // packing.Key → id of what was made for it

	forms forms

	plan   sync.Mutex
	wanted map[packing.Key]packing.Wanted
	wants  int64 // the class's when wanted was read
}

// again computes a line from what is wanted in the class as it is now.
func (j *job) again(ctx context.Context, st packing.Step, wants int64) (packing.Step, error) {
	j.plan.Lock()
	defer j.plan.Unlock()
	if j.wanted == nil || j.wants < wants {
		var err error
		if j.wanted, j.wants, err = j.Wants(ctx, j.run); err != nil {
			j.wanted = nil
			return st, err
		}
	}
	return st.Again(j.wanted), nil
}

// stir wakes one worker that waits for a line to end.
func (j *job) stir() {
	select {
	case j.moved <- struct{}{}:
	default:
	}
}

// work packs line after line. Where none can be claimed now, it waits for
// another worker's line or a little while; it returns when none is waiting.
func (j *job) work(ctx context.Context) {
	for ctx.Err() == nil {
		since := time.Now()
		claimed, wants, err := j.store.Claim(ctx, j.run.ID, j.name, lease, handful)
		if err != nil {
			if ctx.Err() == nil {
				report(j.log, err, "claiming lines", "run", j.run.ID)
			}
			return
		}
		for _, st := range claimed {
			st.Held = since
			began := time.Now()
			if err := j.pack(ctx, st, wants); err != nil {
				if ctx.Err() == nil {
					report(j.log, err, "packing a line", "run", j.run.ID, "line", st.Seq)
				}
				return // the lease ends and the line is taken up again
			}
			j.stir()
			j.took(time.Since(began))
		}
		if len(claimed) > 0 {
			continue
		}
		r, err := j.store.Run(ctx, j.run.ID)
		if err != nil || r.State != ledger.RunPacking || r.Waiting() == 0 {
			j.end.Do(func() { close(j.ended) })
			return
		}
		select {
		case <-j.ended:
			return
		case <-ctx.Done():
		case <-j.moved:
		case <-time.After(100 * time.Millisecond):
		}
	}
}

// report logs what went wrong: the database's being away passes by itself.
func report(log *slog.Logger, err error, what string, args ...any) {
	level := slog.LevelError
	if store.Away(err) {
		level = slog.LevelWarn
	}
	log.Log(context.Background(), level, what, append(args, "error", err)...)
}
