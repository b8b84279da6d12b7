package access

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/casbin/casbin/v2"
	"github.com/casbin/casbin/v2/model"
)

var noon = time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)

func ExampleEffective() {
	class := Thing{ID: "class", Owner: "oduya", Folder: true, Rule: Rule{StandsAlone: true, Grants: map[string]Level{"lindqvist": Edit}}}
	satchel := Thing{ID: "satchel", Owner: "oduya", Folder: true, Rule: Rule{Grants: map[string]Level{"dube": Edit}}}
	essay := Thing{ID: "essay", Owner: "dube"}
	chain := []Thing{essay, satchel, class}
	for _, who := range []string{"dube", "oduya", "lindqvist", "eriksen"} {
		fmt.Println(who, Effective(who, chain, noon).Level)
	}
	// Output:
	// dube owner
	// oduya edit
	// lindqvist edit
	// eriksen nothing
}

func TestEffective(t *testing.T) {
	open := func(owner string, grants map[string]Level) Thing {
		return Thing{ID: "t", Owner: owner, Folder: true, Rule: Rule{Grants: grants}}
	}
	alone := func(owner string, grants map[string]Level) Thing {
		x := open(owner, grants)
		x.Rule.StandsAlone = true
		return x
	}
	for _, c := range []struct {
		what  string
		chain []Thing
		want  Level
	}{
		{"nothing at all", []Thing{open("o", nil)}, Nothing},
		{"owner of the thing", []Thing{open("me", nil)}, Owner},
		{"own rule", []Thing{open("o", map[string]Level{"me": Comment})}, Comment},
		{"the folder's rule", []Thing{open("o", nil), open("o", map[string]Level{"me": Read})}, Read},
		{"the highest counts", []Thing{open("o", map[string]Level{"me": Read}), open("o", map[string]Level{"me": Edit})}, Edit},
		{"standing alone ends it", []Thing{alone("o", map[string]Level{"me": Read}), open("o", map[string]Level{"me": Edit})}, Read},
		{"a folder's owner can edit what lies in it", []Thing{open("o", nil), open("me", nil)}, Edit},
		{"but not where it stands alone", []Thing{alone("o", nil), open("me", nil)}, Nothing},
		{"further up", []Thing{open("o", nil), alone("o", nil), open("me", nil)}, Nothing},
		{"no rule makes an owner", []Thing{open("o", map[string]Level{"me": Owner})}, Nothing},
	} {
		if got := Effective("me", c.chain, noon); got.Level != c.want {
			t.Errorf("%s: %v, want %v", c.what, got.Level, c.want)
		}
		if _, has := People(c.chain, noon)["me"]; has != (c.want > Nothing) {
			t.Errorf("%s: People disagrees", c.what)
		}
	}
}

// What is open to the school is open to anyone who is signed in, at most as it says; those
// named keep what they have, a mark closes it for all, and standing alone shuts it out.
func TestOpenToTheSchool(t *testing.T) {
	sheet := Thing{ID: "sheet", Owner: "oduya", Rule: Rule{School: Comment, Grants: map[string]Level{"dube": Edit, "asha": Read}}}
	folder := Thing{ID: "folder", Owner: "oduya", Folder: true, Rule: Rule{School: Read}}
	essay, private := Thing{ID: "essay", Owner: "dube"}, Thing{ID: "private", Owner: "dube", Rule: Rule{StandsAlone: true}}
	closed := sheet
	closed.Closed = &Mark{Since: noon}
	for _, c := range []struct {
		who   string
		chain []Thing
		want  Level
	}{
		{"stranger", []Thing{sheet}, Comment}, {"dube", []Thing{sheet}, Edit}, {"asha", []Thing{sheet}, Comment},
		{"oduya", []Thing{sheet}, Owner}, {"", []Thing{sheet}, Nothing},
		{"stranger", []Thing{essay, folder}, Read}, {"stranger", []Thing{private, folder}, Nothing}, {"stranger", []Thing{closed}, Read},
		{"stranger", []Thing{{ID: "odd", Owner: "oduya", Rule: Rule{School: Owner}}}, Nothing},
	} {
		if got := Effective(c.who, c.chain, noon).Level; got != c.want {
			t.Errorf("%q on %s: %v, want %v", c.who, c.chain[0].ID, got, c.want)
		}
	}
	if _, named := People([]Thing{sheet}, noon)["stranger"]; named {
		t.Error("a stranger is among those who are named")
	}
}

func TestClosedMarks(t *testing.T) {
	mark := &Mark{Since: noon, By: "oduya", Spares: []string{"oduya", "lindqvist"}, Exempt: map[string]time.Time{"dube": noon.Add(time.Hour)}}
	class := Thing{ID: "class", Owner: "oduya", Folder: true, Rule: Rule{StandsAlone: true, Grants: map[string]Level{"lindqvist": Edit}}}
	satchel := Thing{ID: "satchel", Owner: "oduya", Folder: true,
		Rule: Rule{Grants: map[string]Level{"dube": Edit, "eriksen": Edit, "asha": Read}}}
	essay := Thing{ID: "essay", Owner: "eriksen", Rule: Rule{StandsAlone: true, Grants: map[string]Level{"dube": Comment}}}
	closed := func(x Thing, m *Mark) Thing { x.Closed = m; return x }
	whole := &Mark{Since: noon, By: "office"}
	for _, c := range []struct {
		what  string
		chain []Thing
		who   string
		at    time.Time
		want  Level
	}{
		{"who could edit can read", []Thing{closed(satchel, mark), class}, "eriksen", noon, Read},
		{"before it was closed", []Thing{closed(satchel, mark), class}, "eriksen", noon.Add(-time.Second), Edit},
		{"the class's staff", []Thing{closed(satchel, mark), class}, "lindqvist", noon, Edit},
		{"its owner among them", []Thing{closed(satchel, mark), class}, "oduya", noon, Owner},
		{"an owner who isn't", []Thing{closed(essay, mark), satchel, class}, "eriksen", noon, Read},
		{"by any way in, also where it stands alone", []Thing{essay, closed(satchel, mark), class}, "eriksen", noon, Read},
		{"who has more time", []Thing{closed(satchel, mark), class}, "dube", noon.Add(59 * time.Minute), Edit},
		{"when that is over", []Thing{closed(satchel, mark), class}, "dube", noon.Add(time.Hour), Read},
		{"it gives nobody anything", []Thing{closed(satchel, mark), class}, "stranger", noon, Nothing},
		{"who could read can read", []Thing{closed(satchel, mark), class}, "asha", noon, Read},
		{"a closed class, for staff too", []Thing{satchel, closed(class, whole)}, "lindqvist", noon, Read},
	} {
		got := Effective(c.who, c.chain, c.at)
		if got.Level != c.want {
			t.Errorf("%s: %v, want %v", c.what, got.Level, c.want)
		}
		without := Effective(c.who, slices.Collect(func(yield func(Thing) bool) {
			for _, x := range c.chain {
				x.Closed = nil
				if !yield(x) {
					return
				}
			}
		}), c.at)
		if (got.Closed != "") != (got.Level < without.Level) {
			t.Errorf("%s: says it is kept down by %q, %v and %v without", c.what, got.Closed, got.Level, without.Level)
		}
	}
}

func TestLevelWords(t *testing.T) {
	for l := Nothing; l <= Owner; l++ {
		if got, ok := ParseLevel(l.String()); !ok || got != l {
			t.Errorf("%v reads back as %v", l, got)
		}
	}
	if _, ok := ParseLevel("may write"); ok {
		t.Error("a word that is no level was read")
	}
}

// The same worlds are put to an independent authorisation library: Casbin, an
// RBAC model with things nested while open to above, levels nested, and everybody of
// the school one more who can be named.
func TestAgainstCasbin(t *testing.T) {
	m, err := model.NewModelFromString(`
[request_definition]
r = sub, obj, act
[policy_definition]
p = sub, obj, act
[role_definition]
g = _, _
g2 = _, _
[policy_effect]
e = some(where (p.eft == allow))
[matchers]
m = (r.sub == p.sub || p.sub == "school") && g(p.act, r.act) && (p.act == "owner" && r.obj == p.obj || p.act != "owner" && g2(r.obj, p.obj))
`)
	if err != nil {
		t.Fatal(err)
	}
	people := []string{"oduya", "lindqvist", "dube", "eriksen"}
	random := rand.New(rand.NewPCG(21, 34))
	for world := range 60 {
		e, err := casbin.NewEnforcer(m.Copy())
		if err != nil {
			t.Fatal(err)
		}
		for _, pair := range [][]string{{"owner", "edit"}, {"edit", "comment"}, {"comment", "read"}} {
			if _, err := e.AddGroupingPolicy(pair); err != nil {
				t.Fatal(err)
			}
		}
		var things []Thing
		parent := map[string]int{}
		for i := range 8 {
			x := Thing{ID: fmt.Sprintf("t%d", i), Folder: true, Owner: people[random.IntN(4)],
				Rule: Rule{StandsAlone: random.IntN(4) == 0, Grants: map[string]Level{}}}
			for _, p := range people {
				if random.IntN(3) == 0 {
					x.Rule.Grants[p] = Level(1 + random.IntN(3))
				}
			}
			if random.IntN(4) == 0 {
				x.Rule.School = Level(1 + random.IntN(3))
			}
			parent[x.ID] = -1
			if i > 0 {
				parent[x.ID] = random.IntN(i)
				if !x.Rule.StandsAlone {
					must(t, e, "g2", x.ID, things[parent[x.ID]].ID)
				}
			}
			things = append(things, x)
			must(t, e, "p", x.Owner, x.ID, "owner")
			must(t, e, "p", x.Owner, x.ID, "edit") // a folder's owner, in that folder's own rule
			for p, l := range x.Rule.Grants {
				must(t, e, "p", p, x.ID, l.String())
			}
			if x.Rule.School > Nothing {
				must(t, e, "p", "school", x.ID, x.Rule.School.String())
			}
		}
		for _, x := range things {
			var chain []Thing
			for at := x; ; at = things[parent[at.ID]] {
				chain = append(chain, at)
				if parent[at.ID] < 0 {
					break
				}
			}
			for _, p := range people {
				have := Effective(p, chain, noon).Level
				for l := Read; l <= Owner; l++ {
					may, err := e.Enforce(p, x.ID, l.String())
					if err != nil {
						t.Fatal(err)
					}
					if may != (have >= l) {
						t.Fatalf("world %d: %s on %s, %v: casbin says %v, we have %v\n%+v", world, p, x.ID, l, may, have, chain)
					}
				}
			}
		}
	}
}

func must(t *testing.T, e *casbin.Enforcer, kind string, rule ...string) {
	t.Helper()
	args := make([]any, len(rule))
	for i, r := range rule {
		args[i] = r
	}
	var err error
	if kind == "p" {
		_, err = e.AddPolicy(args...)
	} else {
		_, err = e.AddNamedGroupingPolicy(kind, args...)
	}
	if err != nil {
		t.Fatal(err)
	}
}

// Who gains and who loses by a move are those whom the rules let in after it and not
// before, and the other way round.
func TestMoved(t *testing.T) {
	now := time.Now()
	for seed := range uint64(2000) {
		r := rand.New(rand.NewPCG(seed, 11))
		person := func() string { return fmt.Sprint("p", r.IntN(5)) }
		thing := func(id string, folder bool) Thing {
			x := Thing{ID: id, Owner: person(), Folder: folder, Rule: Rule{Grants: map[string]Level{}, StandsAlone: r.IntN(4) == 0}}
			for range r.IntN(3) {
				x.Rule.Grants[person()] = Level(r.IntN(4))
			}
			return x
		}
		x, from, to := thing("x", false), thing("from", true), thing("to", true)
		levels := func(chain ...Thing) map[string]Level {
			out := map[string]Level{}
			for who, why := range People(chain, now) {
				out[who] = why.Level
			}
			return out
		}
		before, after := levels(x, from), levels(x, to)
		gain, lose := Moved(x, before, levels(to))
		for i := range 5 {
			p := fmt.Sprint("p", i)
			in, out := after[p] >= Read && before[p] < Read, before[p] >= Read && after[p] < Read
			if slices.Contains(gain, p) != in || slices.Contains(lose, p) != out {
				t.Fatalf("seed %d: %s: gains %v, loses %v; moved: %v, %v", seed, p, gain, lose, before, after)
			}
		}
	}
}
