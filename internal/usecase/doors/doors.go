// Package doors is the door check: who reaches what in a class, who should, and putting right what
// differs.
package doors

import (
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/usecase/seam"
)

// Doors are checked, and put right.
type Doors struct {
	*seam.House
	cup    cupboard.Reader
	packer seam.Packer
}

// New builds it of what it stands on.
func New(h *seam.House, cup cupboard.Reader, packer seam.Packer) *Doors {
	return &Doors{House: h, cup: cup, packer: packer}
}
