package register_test

import (
	"math/rand/v2"
	"reflect"
	"testing"
	"time"

	"jollysatchel/internal/core/ledger"
	. "jollysatchel/internal/core/picture/picturetest"
	"jollysatchel/internal/core/progress"
	"jollysatchel/internal/core/register"
)

func day(month time.Month, d int) time.Time { return time.Date(2026, month, d, 0, 0, 0, 0, time.UTC) }

// A week has those who had begun by its end, those who wrote in it, and its words.
func TestWeeks(t *testing.T) {
	h := Handout("h", "Charts")
	h.PackedAt = time.Date(2026, 11, 15, 23, 30, 0, 0, time.UTC) // a Monday already in Kiritimati
	p := Pack(Of(Class(3), h))
	f := of(p)
	open := func(i int, at time.Time) {
		f.Opened[ledger.Opening{Thing: Copy(p, "h", i).Thing, Account: f.Students[i].Account}] = at
	}
	open(0, day(11, 17))
	open(2, time.Date(2026, 11, 22, 12, 0, 0, 0, time.UTC)) // a Sunday in London, a Monday in Kiritimati
	write(f, Copy(p, "h", 0), 30)
	words := map[string][]progress.Tally{Copy(p, "h", 0).Thing: {{Day: day(11, 18), Added: 10}, {Day: day(11, 25), Added: 4},
		{Day: day(11, 26), Added: 24}}}
	See(p, Copy(p, "h", 1), func(st *ledger.Seen) { st.Version, st.ChangedAt = 2, day(11, 27) }) // no text
	f.Works[Copy(p, "h", 1).Thing] = ledger.Work{Thing: Copy(p, "h", 1).Thing, Version: 2, Begun: true, Uncounted: true}
	far := time.FixedZone("Kiritimati", 14*3600)
	for _, c := range []struct {
		zone *time.Location
		want []register.Week
	}{
		{time.UTC, []register.Week{{First: day(11, 9)}, {First: day(11, 16), Opened: 2, Begun: 1, Wrote: 1, Words: 10},
			{First: day(11, 23), Opened: 3, Begun: 2, Wrote: 2, Words: 20}, {First: day(11, 30), Opened: 3, Begun: 2}}},
		{far, []register.Week{{First: day(11, 16), Opened: 1, Begun: 1, Wrote: 1, Words: 10},
			{First: day(11, 23), Opened: 3, Begun: 2, Wrote: 2, Words: 20}, {First: day(11, 30), Opened: 3, Begun: 2}}},
	} {
		for _, which := range []string{"h", ""} {
			got := f.Weeks(f.Register(p.Lacking()), which, f.WeeksOf(which, c.zone), words, c.zone)
			if !reflect.DeepEqual(got, c.want) {
				t.Errorf("%s, %q: %+v, want %+v", c.zone, which, got, c.want)
			}
		}
	}
	if got := f.WeeksOf("other", time.UTC); got != nil {
		t.Errorf("a handout that isn't there has the weeks %v", got)
	}
}

// The last week ends where the Register stands, whatever happened before; none goes back.
func TestWeeksEndInRegister(t *testing.T) {
	for seed := range uint64(200) {
		rnd := rand.New(rand.NewPCG(seed, 1))
		h := Handout("h", "Charts")
		h.PackedAt = day(10, 1+rnd.IntN(30))
		p := Pack(Of(Class(6), h))
		f := of(p)
		words, sum := map[string][]progress.Tally{}, 0
		for i := range f.Students {
			e := Copy(p, "h", i)
			if rnd.IntN(2) == 0 {
				f.Opened[ledger.Opening{Thing: e.Thing, Account: f.Students[i].Account}] = h.PackedAt.AddDate(0, 0, rnd.IntN(30))
			}
			if rnd.IntN(2) == 0 {
				continue
			}
			write(f, e, 9)
			before := 0
			for d := h.PackedAt; d.Before(day(11, 30)); d = d.AddDate(0, 0, 1+rnd.IntN(9)) {
				n := before + rnd.IntN(9)
				sum += n - before
				words[e.Thing], before = append(words[e.Thing], progress.Tally{Day: d, Added: n}), n
			}
		}
		reg := f.Register(p.Lacking())
		begun, reached := 0, 0
		for _, cell := range reg.Columns[1].Cells {
			begun += map[progress.State]int{progress.Working: 1}[cell.State]
			reached += map[progress.State]int{progress.Working: 1, progress.Opened: 1}[cell.State]
		}
		starts := progress.Weeks(h.PackedAt, day(11, 30), 20)
		weeks := f.Weeks(reg, "h", starts, words, time.UTC)
		last := weeks[len(weeks)-1]
		if last.Begun != begun || last.Opened != reached {
			t.Fatalf("seed %d: %+v, and the Register has %d begun and %d opened", seed, last, begun, reached)
		}
		var was register.Week
		for _, w := range weeks {
			if w.Begun < was.Begun || w.Opened < was.Opened || w.Begun > w.Opened || w.Wrote > w.Begun {
				t.Fatalf("seed %d: %+v after %+v", seed, w, was)
			}
			was = w
			sum -= w.Words
		}
		if sum != 0 {
			t.Fatalf("seed %d: %d words are in no week", seed, sum)
		}
	}
}
