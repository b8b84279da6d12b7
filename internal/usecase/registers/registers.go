// Package registers is the pages that tell how classes stand: the rail, the Register, one student, one's
// own classes, what is on record. None waits for the cupboard.
package registers

import (
	lru "github.com/hashicorp/golang-lru/v2"
	"golang.org/x/sync/singleflight"

	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/usecase/seam"
)

// Registers are the pages that tell how a class stands. None asks the cupboard.
type Registers struct {
	*seam.House
	cup    cupboard.Reader
	weeks  *lru.Cache[weeksKey, keptWeeks]
	flight singleflight.Group
}

// How classes came on is kept of the last so many.
const mostKeptWeeks = 1024

type weeksKey struct{ class, handout string }

type keptWeeks struct {
	tag seam.Tag
	ClassWeeks
}

// New returns those of a cupboard.
func New(h *seam.House, cup cupboard.Reader) *Registers {
	weeks, _ := lru.New[weeksKey, keptWeeks](mostKeptWeeks) // a size above zero is no error
	return &Registers{House: h, cup: cup, weeks: weeks}
}
