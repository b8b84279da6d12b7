package teams

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"testing"

	"jollysatchel/internal/core/record"
)

func seeded(seed uint64) Shuffle { return rand.New(rand.NewPCG(seed, 0)).Shuffle }

func ExampleDeal() {
	students := []Student{{"r1", "A"}, {"r2", "A"}, {"r3", "B"}, {"r4", "B"}}
	team, together := Deal(students, 2, seeded(7), []Pair{{"r1", "r3"}})
	fmt.Println(team[0] != team[1], team[2] != team[3], team[0] != team[2], together)
	// Output: true true true []
}

// Over random classes: sizes differ by one at most, levels too where nobody
// has to be kept apart, a told pair is together, the same seed gives the same.
func TestDealProperties(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 5))
	for range 2000 {
		var students []Student
		for i := range r.IntN(40) {
			students = append(students, Student{fmt.Sprint("r", i), string(rune('A' + r.IntN(3)))})
		}
		n := 1 + r.IntN(8)
		var apart []Pair
		if r.IntN(2) == 0 {
			for range r.IntN(6) {
				apart = append(apart, Pair{fmt.Sprint("r", r.IntN(40)), fmt.Sprint("r", r.IntN(40))})
			}
		}
		seed := r.Uint64()
		team, together := Deal(students, n, seeded(seed), apart)
		again, _ := Deal(students, n, seeded(seed), apart)
		if !reflect.DeepEqual(team, again) {
			t.Fatal("the same seed gave other teams")
		}
		sizes, levels, at := make([]int, n), map[string][]int{}, map[string]int{}
		for i, s := range students {
			sizes[team[i]]++
			if levels[s.Level] == nil {
				levels[s.Level] = make([]int, n)
			}
			levels[s.Level][team[i]]++
			at[s.Row] = team[i]
		}
		even := func(counts []int) bool {
			low, high := counts[0], counts[0]
			for _, c := range counts {
				low, high = min(low, c), max(high, c)
			}
			return high-low <= 1
		}
		if !even(sizes) {
			t.Fatalf("sizes %v", sizes)
		}
		for l, c := range levels {
			if len(apart) == 0 && !even(c) {
				t.Fatalf("level %s is spread %v", l, c)
			}
		}
		told := map[Pair]bool{}
		for _, p := range together {
			told[p] = true
		}
		for _, p := range apart {
			a, okA := at[p[0]]
			b, okB := at[p[1]]
			if okA && okB && p[0] != p[1] && (a == b) != told[p] {
				t.Fatalf("pair %v: teams %d and %d, told %v", p, a, b, told[p])
			}
		}
	}
}

// Two who can be parted are parted; in one team nobody can.
func TestKeepApart(t *testing.T) {
	students := []Student{{"a", ""}, {"b", ""}, {"c", ""}, {"d", ""}}
	for seed := range uint64(50) {
		if _, together := Deal(students, 2, seeded(seed), []Pair{{"a", "b"}, {"c", "d"}}); len(together) > 0 {
			t.Errorf("seed %d leaves %v together", seed, together)
		}
	}
	if _, together := Deal(students, 1, seeded(1), []Pair{{"a", "b"}, {"a", "nobody"}}); len(together) != 1 {
		t.Errorf("in one team: %v", together)
	}
	if n := Names(3); n[2] != "C" || Names(30)[29] != "30" {
		t.Errorf("names %v", n)
	}
}

func TestSet(t *testing.T) {
	set := Set{Field: record.Team, Teams: []Team{{"t1", "Gull"}, {"t2", "Tern"}}}
	in := func(team string) record.Record { return record.Record{Team: team} }
	for name, want := range map[string]string{"Gull": "t1", "gull": "t1", "Tern": "t2", "Skua": "", "": ""} {
		if got, ok := set.Of(in(name)); got.ID != want || ok != (want != "") {
			t.Errorf("%q is in %q, want %q", name, got.ID, want)
		}
	}
	if got := set.Lacks([]record.Record{in("GULL"), in("Skua"), in(""), in("skua"), in("Plover")}); len(got) != 2 ||
		got[0] != "Skua" || got[1] != "Plover" {
		t.Errorf("lacks %q", got)
	}
}
