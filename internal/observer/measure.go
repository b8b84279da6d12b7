package observer

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/progress"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/document"
	"jollysatchel/internal/gate"
	"jollysatchel/internal/store"
)

// measure counts the words of every copy that was written since it was measured.
func (o *Observer) measure(ctx context.Context) error {
	for {
		copies, err := o.store.ToMeasure(ctx, 50)
		if err != nil || len(copies) == 0 {
			return err
		}
		for _, c := range copies {
			if err := o.measureOne(ctx, c); err != nil {
				return err
			}
		}
	}
}

// measureOne counts the words there were at the end of each day on which a copy
// was written since.
func (o *Observer) measureOne(ctx context.Context, c store.Copy) error {
	works, err := o.works(ctx, c)
	if err != nil && !errors.Is(err, cupboard.ErrNotFound) && !errors.Is(err, cupboard.ErrNoRight) {
		return err
	}
	err = o.store.Tx(ctx, func(tx *store.Store) error { // one that is no longer there can't be measured, nor need be
		if err := tx.HoldClass(ctx, c.Class); err != nil {
			return err
		}
		for _, w := range works {
			if err := tx.SaveWork(ctx, w.Work, w.day); err != nil {
				return err
			}
		}
		if err := tx.Measured(ctx, c.Thing, c.Version); err != nil {
			return err
		}
		return tx.Touch(ctx, c.Class)
	})
	if errors.Is(err, store.ErrNotFound) {
		return nil // the class was taken down
	}
	return err
}

type dayWork struct {
	ledger.Work
	day string
}

// works compares with what was handed out the last version of each day, oldest
// first.
func (o *Observer) works(ctx context.Context, c store.Copy) ([]dayWork, error) {
	versions, err := o.cup.Versions(ctx, c.Owner, c.Thing)
	if err != nil {
		return nil, err
	}
	first, err := o.text(ctx, c, c.Given)
	tangled := errors.Is(err, document.ErrTangled)
	if err != nil && !tangled {
		return nil, err
	}
	var out []dayWork
	for _, v := range versions {
		day := v.At.In(o.Zone()).Format(time.DateOnly)
		if v.Number <= c.Measured || v.Number < c.Given || v.Number > c.Version || len(out) > 0 && out[0].day == day {
			continue
		}
		now, err := o.text(ctx, c, v.Number)
		if tangled || errors.Is(err, document.ErrTangled) { // that it was written is all there is to say
			out = slices.Insert(out, 0, dayWork{ledger.Work{Thing: c.Thing, Version: v.Number, Begun: true, Uncounted: true}, day})
			continue
		}
		if err != nil {
			return nil, err
		}
		ch := progress.Compare(first, now)
		out = slices.Insert(out, 0, dayWork{ledger.Work{Thing: c.Thing, Version: v.Number, Begun: ch.Begun, Added: ch.Added,
			Removed: ch.Removed}, day})
	}
	return out, nil
}

// text reads one version as words; content that is no text is its checksum. The
// error is document.ErrTangled where its words can't be counted.
func (o *Observer) text(ctx context.Context, c store.Copy, version int) (string, error) {
	r, v, err := o.cup.Open(ctx, c.Owner, c.Thing, version)
	if err != nil {
		return "", err
	}
	defer r.Close()
	text, ok, err := document.ReadText(r)
	if err != nil {
		return "", err
	}
	if !ok || strings.ContainsRune(text, 0) {
		return v.SHA, nil
	}
	var words string
	gate.Aside(func() { words, err = document.Plain(text) })
	return words, err
}
