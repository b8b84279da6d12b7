package room

import (
	"fmt"
	"math/rand/v2"
	"testing"
)

func TestSpread(t *testing.T) {
	says := map[string]string{
		"a": "Green", "b": " green ", "c": "Blue/1", "d": "", "e": "https://satchel.kestrelquay.example/go/aB3?x=1#y",
		"f": "https://other.example/at/go/aB3/", "g": "https://other.example", "h": "a://",
	}
	things := []Belonging{{"1", "c"}, {"2", "a"}, {"3", "d"}, {"4", "b"}, {"5", ""}, {"6", "e"}, {"7", "f"},
		{"8", "nobody"}, {"9", "g"}, {"10", "h"}}
	to, rest := Spread(things, func(row string) string { return says[row] })
	want := "[{ Blue-1 [1]} { Green [2 4]} {aB3  [6 7]} { https---other.example [9]} { a--- [10]}] [3 5 8]"
	if got := fmt.Sprint(to, rest); got != want {
		t.Errorf("%s\nwant %s", got, want)
	}
}

// Whatever rows say, every thing goes to exactly one place, and each place is one
// name or one link.
func TestSpreadOnce(t *testing.T) {
	words := []string{"", "A", "a", "A ", "x://y/z", "x://y/z/", "x://y/w?z", "..", "CON", "a/b", "é", "é"}
	for seed := range uint64(300) {
		r := rand.New(rand.NewPCG(seed, 3))
		var things []Belonging
		said := map[string]string{}
		for i := range r.IntN(40) {
			b := Belonging{Thing: fmt.Sprint("t", i)}
			if r.IntN(5) > 0 {
				b.Row = fmt.Sprint("r", r.IntN(20))
				said[b.Row] = words[r.IntN(len(words))]
			}
			things = append(things, b)
		}
		to, rest := Spread(things, func(row string) string { return said[row] })
		seen, places := map[string]int{}, map[string]bool{}
		for _, d := range to {
			place := d.Link + "|" + d.Name
			if places[place] || (d.Link == "") == (d.Name == "") || len(d.Things) == 0 {
				t.Errorf("seed %d: %+v", seed, d)
			}
			places[place] = true
			for _, x := range d.Things {
				seen[x]++
			}
		}
		for _, x := range rest {
			seen[x]++
		}
		for _, b := range things {
			if seen[b.Thing] != 1 {
				t.Errorf("seed %d: %s goes to %d places", seed, b.Thing, seen[b.Thing])
			}
		}
	}
}
