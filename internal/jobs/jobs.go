// Package jobs is the program's queue of work that nobody waits for, kept in
// PostgreSQL. Anyone who has such work registers a worker for it; any number of
// programs share the queue.
package jobs

import (
	"context"
	"database/sql"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"

	"jollysatchel/internal/clock"
)

// What a job keeps to: longer work is done in several. One that a killed program
// left is begun again after a while.
const (
	Longest = 20 * time.Second
	rescue  = 30 * time.Second
	atOnce  = 4
)

// A Queue takes jobs in and has them worked on once it is started.
type Queue struct {
	pool    *pgxpool.Pool
	now     clock.Clock
	workers *river.Workers
	insert  *river.Client[*sql.Tx]
	client  *river.Client[pgx.Tx]
}

// New returns a queue without workers. Jobs can be put in at once.
func New(pool *pgxpool.Pool, now clock.Clock) (*Queue, error) {
	insert, err := river.NewClient(riverdatabasesql.New(nil), &river.Config{})
	return &Queue{pool: pool, now: now, workers: river.NewWorkers(), insert: insert}, err
}

// Register adds a worker for one kind of jobs, before the queue is started.
func Register[T river.JobArgs](q *Queue, w river.Worker[T]) { river.AddWorker(q.workers, w) }

// Insert puts a job in within a transaction: it is worked on once that is
// committed, and never where it isn't.
func (q *Queue) Insert(ctx context.Context, tx *sql.Tx, job river.JobArgs) error {
	_, err := q.insert.InsertTx(ctx, tx, job, nil)
	return err
}

// InsertAt is Insert of a job that waits for its time, by the program's clock. The queue
// has the machine's.
func (q *Queue) InsertAt(ctx context.Context, tx *sql.Tx, job river.JobArgs, at time.Time) error {
	_, err := q.insert.InsertTx(ctx, tx, job, &river.InsertOpts{ScheduledAt: time.Now().Add(at.Sub(q.now()))})
	return err
}

// Start has jobs worked on until Stop.
func (q *Queue) Start(ctx context.Context) error {
	var err error
	q.client, err = river.NewClient(riverpgxv5.New(q.pool), &river.Config{
		Queues: map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: atOnce}}, Workers: q.workers,
		JobTimeout: Longest, RescueStuckJobsAfter: rescue, Logger: slog.New(slog.DiscardHandler),
	})
	if err != nil {
		return err
	}
	return q.client.Start(ctx)
}

// Stop ends the work; jobs under way are finished.
func (q *Queue) Stop(ctx context.Context) error { return q.client.Stop(ctx) }
