package pack

import (
	"context"
	"sync"
	"time"

	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// Leavers lose what they have no right to any more.
type Leavers interface {
	// Revoke takes a class's places from anyone who left it, within a change.
	Revoke(ctx context.Context, tx *store.Store, book *seam.Known, by, class string) error
}

// Addresses of students are corrected where a line needs it.
type Addresses interface {
	// CorrectAddress gives a student another address.
	CorrectAddress(ctx context.Context, by, class, row, address string) error
}

// PerLine is how long a line of a list takes as things go.
func (c *Packing) PerLine() time.Duration { return c.packer.PerLine() }

// Packing makes lists of what is to be packed, and runs of them.
type Packing struct {
	*seam.House
	cup     cupboard.Reader
	packer  seam.Packer
	leaving Leavers
	rosters Addresses
	marked  *sync.Map // class → its tag when its marks were looked at last
	stepped *sync.Map // class → its tag when it was last looked at for keeping in step
	waited  *sync.Map // class → its tag when it was last looked at for who has an account by now
}

// NewPacking builds it of what it stands on.
func New(h *seam.House, cup cupboard.Reader, packer seam.Packer, leaving Leavers, rosters Addresses) *Packing {
	return &Packing{House: h, cup: cup, packer: packer, leaving: leaving, rosters: rosters, stepped: &sync.Map{}, marked: &sync.Map{},
		waited: &sync.Map{}}
}
