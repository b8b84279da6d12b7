package leave

import (
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/usecase/seam"
)

// Leaving is what happens to those who leave classes, or come to another, and to their things.
type Leaving struct {
	*seam.House
	cup    cupboard.Reader
	packer seam.Packer
}

// NewLeaving builds it of what it stands on.
func New(h *seam.House, cup cupboard.Reader, packer seam.Packer) *Leaving {
	return &Leaving{House: h, cup: cup, packer: packer}
}
