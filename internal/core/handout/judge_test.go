package handout

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/casbin/casbin/v2"
	"github.com/casbin/casbin/v2/model"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
)

// The access rules as an independent authorisation library is told them: a level
// includes those below; what a folder gives counts in what is open to it, but for
// ownership; a closed mark denies all but reading, wherever something is in it.
const rules = `
[request_definition]
r = sub, obj, act
[policy_definition]
p = sub, obj, act, eft
[role_definition]
g = _, _
g2 = _, _
g3 = _, _
[policy_effect]
e = some(where (p.eft == allow)) && !some(where (p.eft == deny))
[matchers]
m = p.sub == r.sub && (p.eft == "allow" && g(p.act, r.act) && (r.obj == p.obj || p.act != "owner" && g2(r.obj, p.obj)) || p.eft == "deny" && r.act == p.act && g3(r.obj, p.obj))
`

// world is a class by chance: places, teams, a place to hand in, copies of every
// level, some things handed over, some closed.
func world(r *rand.Rand) ([]packing.Wanted, map[packing.Key]*access.Mark) {
	c := class(2 + r.IntN(4))
	c.Staff = append(c.Staff, room.Staff{Account: "amaral", Level: access.Comment})
	c.Teams = map[record.Field][]room.Team{record.Team: {{ID: "g", Name: "Gull"}, {ID: "t", Name: "Tern"}}}
	for i, s := range c.Students {
		if k := i % 3; k < 2 {
			c.Teams[record.Team][k].Rows = append(c.Teams[record.Team][k].Rows, s.Row)
		}
	}
	plan := room.Usual()
	plan.Pockets = []room.Pocket{{ID: "f", Name: "Field work"}}
	plan.Places = room.UsualPlaces()
	for _, x := range []room.Place{
		{ID: "in", Name: "Hand in", For: room.ForStudent, Level: "edit", HandIn: true},
		{ID: "crews", Name: "Crews", For: room.ForTeam, Level: "read", Set: record.Team, Under: room.Drawer},
		{ID: "logs", Name: "Logs", For: room.ForTeam, Level: "edit", Set: record.Team, Under: "crews"},
		{ID: "songs", Name: "Songs", For: room.ForClass, Level: "comment", Under: room.Shelf},
		{ID: "keys", Name: "Keys", For: room.ForStaff},
	} {
		if r.IntN(4) > 0 && (x.Under == "" || room.Place{ID: x.Under}.Usual() || containsPlace(plan, x.Under)) {
			plan.Places = append(plan.Places, x)
		}
	}
	if r.IntN(2) == 0 {
		plan.Within = []naming.Pattern{{{Column: record.Period}}}
	}
	wanted, _ := plan.Wanted(c)
	s := settings()
	s.Level, s.Pocket = access.Level(1+r.IntN(3)), []string{"", "f"}[r.IntN(2)]
	s.Levels = map[string]access.Level{c.Students[0].Row: access.Level(1 + r.IntN(3))} // one may do something else
	wanted = append(wanted, OneEach{plan, s}.Own(c)...)
	marks := map[packing.Key]*access.Mark{}
	for i, w := range wanted {
		if who := w.Key.Whom.Row; who != "" && r.IntN(8) == 0 {
			wanted[i].Owner = who[len("row-"):] // handed over
		}
		if r.IntN(9) == 0 {
			marks[w.Key] = &access.Mark{By: "oduya", Spares: []string{"oduya", "lindqvist", "amaral"}}
		}
	}
	return wanted, marks
}

func containsPlace(p room.Plan, id string) bool { _, there := p.Place(id); return there }

// Who may do what, put to casbin over thousands of things: no difference.
func TestAnIndependentJudge(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	r := rand.New(rand.NewPCG(seed, 2))
	people := []string{"oduya", "lindqvist", "amaral", "stranger", "s0", "s1", "s2", "s3", "s4", "s5"}
	m, err := model.NewModelFromString(rules)
	if err != nil {
		t.Fatal(err)
	}
	asked := 0
	for round := range 25 {
		wanted, marks := world(r)
		e, err := casbin.NewEnforcer(m.Copy())
		if err != nil {
			t.Fatal(err)
		}
		tell := func(ok bool, err error) {
			if err != nil {
				t.Fatal(ok, err)
			}
		}
		for _, pair := range [][]string{{"owner", "edit"}, {"edit", "comment"}, {"comment", "read"}} {
			tell(e.AddGroupingPolicy(pair))
		}
		for _, w := range wanted {
			id := w.Key.String()
			if w.Parent != (packing.Key{}) {
				tell(e.AddNamedGroupingPolicy("g3", id, w.Parent.String()))
				if !w.Rule.StandsAlone {
					tell(e.AddNamedGroupingPolicy("g2", id, w.Parent.String()))
				}
			}
			tell(e.AddPolicy(w.Owner, id, "owner", "allow"))
			tell(e.AddPolicy(w.Owner, id, "edit", "allow"))
			for who, l := range w.Rule.Grants {
				tell(e.AddPolicy(who, id, l.String(), "allow"))
			}
			for _, who := range people {
				if marks[w.Key].Holds(who, time.Unix(1, 0)) {
					for l := access.Comment; l <= access.Owner; l++ {
						tell(e.AddPolicy(who, id, l.String(), "deny"))
					}
				}
			}
		}
		byKey := packing.WorldOf(wanted)
		for _, w := range wanted {
			chain, at := byKey.Chain(w.Key), w.Key
			for i := range chain {
				chain[i].Closed, at = marks[at], byKey[at].Parent
			}
			for _, who := range people {
				have := access.Effective(who, chain, time.Unix(1, 0)).Level
				for l := access.Read; l <= access.Owner; l++ {
					asked++
					may, err := e.Enforce(who, w.Key.String(), l.String())
					if err != nil {
						t.Fatal(err)
					}
					if may != (have >= l) {
						t.Fatalf("seed %d, world %d: %s, %v on %s: the judge says %v, we have %v\n%s", seed, round, who, l, w.Key, may,
							have, fmt.Sprint(chain))
					}
				}
			}
		}
	}
	if asked < 10_000 {
		t.Errorf("only %d questions were asked", asked)
	}
	t.Logf("%d questions", asked)
}
