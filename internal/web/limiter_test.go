package web

import (
	"fmt"
	"testing"
)

// However many names come, a limiter remembers so many and no more; those it knows keep theirs.
func TestLimiterForgets(t *testing.T) {
	l := newLimiter(0.001, 2)
	l.allow("known")
	for i := range mostNames + 5000 {
		l.allow(fmt.Sprint("made up ", i))
	}
	if n := len(l.names); n > mostNames+1 {
		t.Errorf("%d names are remembered", n)
	}
	if !l.allow("known") || l.allow("known") {
		t.Error("who is known hasn't their own allowance any more")
	}
	if l.allow("one more") {
		t.Error("who came too late has an allowance of their own")
	}
}
