package pack

import (
	"context"

	"jollysatchel/internal/core/ledger"
)

// Runs returns a class's latest runs, newest first.
func (c *Packing) Runs(ctx context.Context, class string) ([]ledger.Run, error) {
	return c.Store.RecentRuns(ctx, class)
}

// Run returns a run of a class.
func (c *Packing) Run(ctx context.Context, class, id string) (ledger.Run, error) {
	return runOf(ctx, c.Store, class, id)
}

// Lines returns the lines of a run.
func (c *Packing) Lines(ctx context.Context, run string) ([]ledger.Step, error) {
	return c.Store.Steps(ctx, run)
}
