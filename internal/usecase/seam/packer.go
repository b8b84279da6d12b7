package seam

import (
	"context"
	"time"

	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/store"
)

// A Packer carries lists out.
type Packer interface {
	// Enqueue adds a run with its lines within tx.
	Enqueue(ctx context.Context, tx *store.Store, r ledger.Run, steps []packing.Step) error
	// Wake has a run worked on once tx is committed.
	Wake(ctx context.Context, tx *store.Store, r ledger.Run) error
	// PerLine is how long a line takes as things go.
	PerLine() time.Duration
}
