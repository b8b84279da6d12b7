// Package seam is what all use cases have in common: who acts and with which key, a class as it is
// read and kept, the school book, what the school is, and how people are told.
package seam

import (
	"context"
	"log/slog"
	"sync/atomic"
	"time"

	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/schoolbook"
	"jollysatchel/internal/store"
)

// A House is what all use cases have in common.
type House struct {
	Charter    *Charter
	Store      *store.Store
	SchoolBook schoolbook.Book
	Now        clock.Clock
	Folders    room.Names // names of the places, in the school's words
	Log        *slog.Logger
	Courier    Courier
	Observer   Observer
	readings   *readings
	known      atomic.Pointer[knownBook]
	passed     atomic.Pointer[time.Time] // the latest moment that something closed at, as is kept
}

// NewHouse builds one of what it stands on.
func NewHouse(charter *Charter, st *store.Store, book schoolbook.Book, now clock.Clock, folders room.Names,
	courier Courier, observer Observer, log *slog.Logger) *House {
	return &House{Charter: charter, Store: st, SchoolBook: book, Now: now, Folders: folders, Courier: courier,
		Observer: observer, Log: log, readings: newReadings()}
}

// Today is this day at the school, as in ISO 8601.
func (c *House) Today() string { return c.Now().In(c.School().Zone).Format(time.DateOnly) }

// Moment is a time as exports write it, by the school's clocks.
func (c *House) Moment(t time.Time) string {
	if t.IsZero() {
		return ""
	}
	return t.In(c.School().Zone).Format("2006-01-02 15:04:05")
}

// School is what the whole school has in common, as it is now.
func (h *House) School() School { return h.Charter.School() }

// RoomNames are what the places of every class are called, in the school's words.
func (h *House) RoomNames() room.Names {
	n := h.Folders
	if own := naming.Safe(h.School().Words["Handouts"], ""); h.School().Words["Handouts"] != "" {
		n.Handouts = own
	}
	return n
}

// An Observer looks at the cupboard, beside what anybody waits for.
type Observer interface {
	// Observe asks now how some things stand.
	Observe(ctx context.Context, concerns []store.Concern) error
	// Soon says that something was changed there.
	Soon()
}

// Observe asks the cupboard, once, how the things stand that a list is about: of a handout its own
// and the room's, of the room (no handout) everything, of store.RoomAlone the room's alone.
func (c *House) Observe(ctx context.Context, class, handout string) error {
	concerns, err := c.Store.ConcernsIn(ctx, class, handout)
	if err != nil || len(concerns) == 0 {
		return err
	}
	return c.Observer.Observe(ctx, concerns)
}
