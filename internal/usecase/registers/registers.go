// Package registers is the pages that tell how classes stand: the rail, the Register, one student, one's
// own classes, what is on record. None waits for the cupboard.
package registers

import (
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/usecase/seam"
)

// Registers are the pages that tell how a class stands. None asks the cupboard.
type Registers struct {
	*seam.House
	cup cupboard.Reader
}

// NewRegisters returns those of a cupboard.
func New(h *seam.House, cup cupboard.Reader) *Registers { return &Registers{h, cup} }
