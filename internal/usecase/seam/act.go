package seam

import (
	"context"
	"errors"

	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/store"
)

// ErrNotFound is the one answer for what isn't there and what isn't yours.
var ErrNotFound = errors.New("usecase: not there")

// asked is what a request says of itself: its key, and what it asks for.
type asked struct {
	key     string
	content any
}

type askedKey struct{}

// Asked returns a context for an act that was asked for with a key: asked again
// with the same content it is answered again and not done again, and another
// content under the same key is refused with store.ErrKey.
func Asked(ctx context.Context, key string, content any) context.Context {
	return context.WithValue(ctx, askedKey{}, asked{key, content})
}

// Within returns the context of an act that is part of the one asked for: its key
// is of its own, so that the two aren't taken for one.
func Within(ctx context.Context, part string) context.Context {
	if k, ok := ctx.Value(askedKey{}).(asked); ok {
		return Asked(ctx, k.key+"/"+part, k.content)
	}
	return ctx
}

// Act is what an account does to classes, with the key it was asked for with.
func (c *House) Act(ctx context.Context, by, what string, args any, cs ...string) store.Act {
	a := store.Act{By: by, What: what, Classes: cs, Args: args, At: c.Now()}
	if k, ok := ctx.Value(askedKey{}).(asked); ok {
		a.Key, a.Content = k.key, k.content
	}
	return a
}

// NotFound is an error, or ErrNotFound for what store or cupboard don't have.
func NotFound(err error) error {
	if errors.Is(err, store.ErrNotFound) || errors.Is(err, cupboard.ErrNotFound) {
		return ErrNotFound
	}
	return err
}

// Unavailable reports that the cupboard doesn't answer just now: it is worth
// trying again.
func Unavailable(err error) bool {
	var fast *cupboard.TooFast
	return errors.Is(err, cupboard.ErrUnavailable) || errors.As(err, &fast)
}
