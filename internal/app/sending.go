package app

import (
	"context"
	"time"

	"github.com/riverqueue/river"

	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/wall"
	"jollysatchel/internal/store"
)

// sendHandout is the job that packs a handout at its time.
type sendHandout struct {
	Class   string `json:"class"`
	Handout string `json:"handout"`
	Send    string `json:"send"` // as it was set; another time is another job
}

// Kind implements river.JobArgs.
func (sendHandout) Kind() string { return "send-handout" }

// InsertOpts implements river.JobArgsWithInsertOpts: a cupboard may be away for hours.
func (sendHandout) InsertOpts() river.InsertOpts { return river.InsertOpts{MaxAttempts: 5000} }

// sending implements handouts.Sending with the program's queue, and works on it.
type sending struct {
	river.WorkerDefaults[sendHandout]
	*App
}

// SendAt implements handouts.Sending.
func (s *sending) SendAt(ctx context.Context, tx *store.Store, h handout.Handout, at time.Time) error {
	return s.jobs.InsertAt(ctx, tx.SQLTx(), sendHandout{h.ClassID, h.ID, wall.Written(h.Send)}, at)
}

// Work implements river.Worker.
func (s *sending) Work(ctx context.Context, job *river.Job[sendHandout]) error {
	return s.Cases.Packing.SendNow(ctx, job.Args.Class, job.Args.Handout, job.Args.Send)
}

// NextRetry implements river.Worker: what couldn't be done just now is tried again soon.
func (s *sending) NextRetry(*river.Job[sendHandout]) time.Time {
	return time.Now().Add(10 * time.Second)
}
