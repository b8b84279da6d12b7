package cupboard

import (
	"context"
	"errors"
	"io"
	"math/rand/v2"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
)

// Patience is how often a Patient asks, and for how long at most.
const (
	patientTries = 8
	patientFor   = 8 * time.Second
)

// A Patient asks a cupboard again that couldn't answer just now. Contents that
// are sent can't be sent twice: AddFile and Write are left as they are.
type Patient struct{ Cupboard }

// again repeats do while it is worth trying.
func again[T any](ctx context.Context, do func() (T, error)) (T, error) {
	began := time.Now()
	for try := 1; ; try++ {
		out, err := do()
		wait := time.Duration(10<<try)*time.Millisecond/2 + rand.N(10*time.Millisecond)
		var fast *TooFast
		switch {
		case errors.As(err, &fast):
			wait = fast.After
		case !errors.Is(err, ErrUnavailable):
			return out, err
		}
		if try == patientTries || time.Since(began)+wait > patientFor {
			return out, err
		}
		select {
		case <-ctx.Done():
			return out, ctx.Err()
		case <-time.After(wait):
		}
	}
}

func done(ctx context.Context, do func() error) error {
	_, err := again(ctx, func() (struct{}, error) { return struct{}{}, do() })
	return err
}

// Get implements Reader.
func (p Patient) Get(ctx context.Context, as, id string) (Thing, error) {
	return again(ctx, func() (Thing, error) { return p.Cupboard.Get(ctx, as, id) })
}

// Find implements Reader.
func (p Patient) Find(ctx context.Context, as, text string, most int) ([]Thing, error) {
	return again(ctx, func() ([]Thing, error) { return p.Cupboard.Find(ctx, as, text, most) })
}

// Weight implements Reader.
func (p Patient) Weight(ctx context.Context, as, folder string) (int64, error) {
	return again(ctx, func() (int64, error) { return p.Cupboard.Weight(ctx, as, folder) })
}

// ByLink implements Reader.
func (p Patient) ByLink(ctx context.Context, as, link string) (Thing, error) {
	return again(ctx, func() (Thing, error) { return p.Cupboard.ByLink(ctx, as, link) })
}

// List implements Reader.
func (p Patient) List(ctx context.Context, as, folder string) ([]Thing, error) {
	return again(ctx, func() ([]Thing, error) { return p.Cupboard.List(ctx, as, folder) })
}

// Held implements Reader.
func (p Patient) Held(ctx context.Context, as string, folders []string) ([]Held, error) {
	return again(ctx, func() ([]Held, error) { return p.Cupboard.Held(ctx, as, folders) })
}

// Roots implements Reader.
func (p Patient) Roots(ctx context.Context, as string) ([]Thing, error) {
	return again(ctx, func() ([]Thing, error) { return p.Cupboard.Roots(ctx, as) })
}

// Binned implements Reader.
func (p Patient) Binned(ctx context.Context, as string) ([]Binned, error) {
	return again(ctx, func() ([]Binned, error) { return p.Cupboard.Binned(ctx, as) })
}

// Open implements Reader.
func (p Patient) Open(ctx context.Context, as, id string, version int) (io.ReadSeekCloser, Version, error) {
	var v Version
	r, err := again(ctx, func() (io.ReadSeekCloser, error) {
		r, opened, err := p.Cupboard.Open(ctx, as, id, version)
		v = opened
		return r, err
	})
	return r, v, err
}

// Versions implements Reader.
func (p Patient) Versions(ctx context.Context, as, id string) ([]Version, error) {
	return again(ctx, func() ([]Version, error) { return p.Cupboard.Versions(ctx, as, id) })
}

// States implements Reader.
func (p Patient) States(ctx context.Context, as string, ids []string) (map[string]ledger.Seen, error) {
	return again(ctx, func() (map[string]ledger.Seen, error) { return p.Cupboard.States(ctx, as, ids) })
}

// People implements Reader.
func (p Patient) People(ctx context.Context, as, id string) (map[string]access.Reason, error) {
	return again(ctx, func() (map[string]access.Reason, error) { return p.Cupboard.People(ctx, as, id) })
}

// MakeFolder implements Writer.
func (p Patient) MakeFolder(ctx context.Context, as, key string, f NewThing) (Thing, error) {
	return again(ctx, func() (Thing, error) { return p.Cupboard.MakeFolder(ctx, as, key, f) })
}

// CopyFile implements Writer.
func (p Patient) CopyFile(ctx context.Context, as, key string, source Source, f NewThing) (Thing, error) {
	return again(ctx, func() (Thing, error) { return p.Cupboard.CopyFile(ctx, as, key, source, f) })
}

// MakePointer implements Writer.
func (p Patient) MakePointer(ctx context.Context, as, key, target string, f NewThing) (Thing, error) {
	return again(ctx, func() (Thing, error) { return p.Cupboard.MakePointer(ctx, as, key, target, f) })
}

// Share implements Owner.
func (p Patient) Share(ctx context.Context, as, key, id string, grants map[string]access.Level) error {
	return done(ctx, func() error { return p.Cupboard.Share(ctx, as, key, id, grants) })
}

// SetRule implements Owner.
func (p Patient) SetRule(ctx context.Context, as, key, id string, c RuleChange) error {
	return done(ctx, func() error { return p.Cupboard.SetRule(ctx, as, key, id, c) })
}

// Close implements Owner.
func (p Patient) Close(ctx context.Context, as, key, id string, m access.Mark) error {
	return done(ctx, func() error { return p.Cupboard.Close(ctx, as, key, id, m) })
}

// Reopen implements Owner.
func (p Patient) Reopen(ctx context.Context, as, key, id string) error {
	return done(ctx, func() error { return p.Cupboard.Reopen(ctx, as, key, id) })
}

// Rename implements Owner.
func (p Patient) Rename(ctx context.Context, as, key, id, name string) error {
	return done(ctx, func() error { return p.Cupboard.Rename(ctx, as, key, id, name) })
}

// Move implements Owner.
func (p Patient) Move(ctx context.Context, as, key, id, folder string) error {
	return done(ctx, func() error { return p.Cupboard.Move(ctx, as, key, id, folder) })
}

// HandOver implements Owner.
func (p Patient) HandOver(ctx context.Context, as, key, id, to string) error {
	return done(ctx, func() error { return p.Cupboard.HandOver(ctx, as, key, id, to) })
}

// Cede implements Owner.
func (p Patient) Cede(ctx context.Context, as, key, id, to string) error {
	return done(ctx, func() error { return p.Cupboard.Cede(ctx, as, key, id, to) })
}

// Transfer implements Owner.
func (p Patient) Transfer(ctx context.Context, as, key, id, to, folder string) error {
	return done(ctx, func() error { return p.Cupboard.Transfer(ctx, as, key, id, to, folder) })
}

// Bin implements Owner.
func (p Patient) Bin(ctx context.Context, as, key, id string, seen Seen) error {
	return done(ctx, func() error { return p.Cupboard.Bin(ctx, as, key, id, seen) })
}

// Restore implements Owner.
func (p Patient) Restore(ctx context.Context, as, key, id string) error {
	return done(ctx, func() error { return p.Cupboard.Restore(ctx, as, key, id) })
}

// Remove implements Owner.
func (p Patient) Remove(ctx context.Context, as, key, id string) error {
	return done(ctx, func() error { return p.Cupboard.Remove(ctx, as, key, id) })
}

// Kept implements Meter.
func (p Patient) Kept(ctx context.Context) (int64, error) {
	return again(ctx, func() (int64, error) { return p.Cupboard.Kept(ctx) })
}

// Position implements Feed.
func (p Patient) Position(ctx context.Context) (Position, error) {
	return again(ctx, func() (Position, error) { return p.Cupboard.Position(ctx) })
}

// Changes implements Feed.
func (p Patient) Changes(ctx context.Context, since Position, most int) ([]Change, Position, error) {
	var next Position
	out, err := again(ctx, func() ([]Change, error) {
		changes, after, err := p.Cupboard.Changes(ctx, since, most)
		next = after
		return changes, err
	})
	return out, next, err
}
