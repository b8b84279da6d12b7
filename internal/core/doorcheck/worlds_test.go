package doorcheck_test

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/casbin/casbin/v2"
	"github.com/casbin/casbin/v2/model"

	"jollysatchel/internal/core/access"
	. "jollysatchel/internal/core/doorcheck"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
)

var noon = time.Date(2026, 11, 30, 12, 0, 0, 0, time.UTC)

// A town is a class's tree as it was packed, and who is in it.
type town struct {
	World
	students []string
}

func (t *town) add(purpose packing.Purpose, id, row, in, owner string, rule access.Rule) string {
	thing := fmt.Sprintf("%s%s", id, row)
	if rule.Grants == nil {
		rule.Grants = map[string]access.Level{}
	}
	key := packing.Key{Class: "c", What: packing.What{Purpose: purpose, ID: id}, Whom: packing.Whom{Row: row}}
	x := Wanted{Key: key, Thing: thing, Name: "The " + thing, Folder: purpose != packing.Copy, In: in, Owner: owner, Rule: rule}
	if purpose == packing.Copy && row != "" {
		x.Within, x.FreeName = "satchel"+row, true
	}
	t.Wanted = append(t.Wanted, x)
	t.Found = append(t.Found, Found{ID: thing, Name: x.Name, Parent: in, Folder: x.Folder, Owner: owner,
		Rule: access.Rule{Grants: maps.Clone(rule.Grants), StandsAlone: rule.StandsAlone}, Place: ledger.Lies})
	return thing
}

func (t *town) put(id, in, owner string, folder bool) string {
	t.Found = append(t.Found, Found{ID: id, Name: id, Parent: in, Folder: folder, Owner: owner,
		Rule: access.Rule{Grants: map[string]access.Level{}}, Place: ledger.Lies})
	return id
}

func all(who []string, l access.Level) access.Rule {
	r := access.Rule{Grants: map[string]access.Level{}}
	for _, p := range who {
		r.Grants[p] = l
	}
	return r
}

// build makes a class of some size as a packing list makes it, with what students put in.
func build(r *rand.Rand) *town {
	t := &town{World: World{Folder: "class", Owner: "oduya", Staff: []string{"lindqvist", "helper"}, At: noon, People: map[string]bool{},
		Above: []access.Thing{{ID: "oduya's", Owner: "oduya", Folder: true, Rule: all([]string{"colleague"}, access.Read)}}}}
	for i := range 2 + r.IntN(2) {
		t.students = append(t.students, fmt.Sprint("s", i))
		t.People[t.students[i]] = true
	}
	staff := access.Rule{Grants: map[string]access.Level{"lindqvist": access.Edit, "helper": access.Comment}, StandsAlone: true}
	t.add(packing.ClassFolder, "class", "", "", "oduya", staff)
	t.Wanted[0].Owner = "oduya"
	t.add(packing.Shelf, "shelf", "", "class", "oduya", all(t.students, access.Read))
	t.add(packing.Table, "table", "", "class", "oduya", all(t.students, access.Edit))
	t.add(packing.Drawer, "drawer", "", "class", "oduya", access.Rule{})
	t.add(packing.Cloakroom, "cloakroom", "", "class", "oduya", access.Rule{})
	t.add(packing.Copy, "plan", "", "table", "oduya", access.Rule{})
	for i, s := range t.students {
		row := fmt.Sprint(i)
		t.add(packing.Satchel, "satchel", row, "cloakroom", "oduya", all([]string{s}, access.Edit))
		t.add(packing.Pocket, "pocket", row, "satchel"+row, "oduya", access.Rule{})
		t.add(packing.Copy, "log", row, []string{"satchel", "pocket"}[r.IntN(2)]+row, "oduya", access.Rule{})
		lower := maps.Clone(staff.Grants)
		lower[s] = access.Read
		t.add(packing.Copy, "card", row, "satchel"+row, "oduya", access.Rule{Grants: lower, StandsAlone: true})
		mine := t.put("mine"+row, "satchel"+row, s, true)
		t.put("note"+row, mine, s, false)
		if r.IntN(2) == 0 { // arranged: that is theirs to do
			t.at("log"+row).Parent, t.at("log"+row).Name = mine, "my log"
		}
		if r.IntN(3) == 0 {
			t.put("drawn"+row, "table", s, false)
		}
	}
	return t
}

func (t *town) at(id string) *Found {
	return &t.Found[slices.IndexFunc(t.Found, func(f Found) bool { return f.ID == id })]
}

// lines are differences as their kind, thing and people.
func lines(ds []Difference) []string {
	out := []string{}
	for _, d := range ds {
		if d.Kind == Moved { // whoever gains by it depends on the rest
			d.Who = nil
		}
		out = append(out, line(d.Kind, d.Thing, d.Who...))
	}
	slices.Sort(out)
	return out
}

func line(kind Kind, thing string, who ...string) string {
	return fmt.Sprint(kind, " ", thing, " ", who)
}

// plant changes one thing about a tree behind our back, and says under which name that is to be
// found; empty where it changes nothing that counts, or can't be done.
func (t *town) plant(r *rand.Rand) (string, string) {
	f := &t.Found[1+r.IntN(len(t.Found)-1)] // the class's own folder has a test of its own
	i := slices.IndexFunc(t.Wanted, func(x Wanted) bool { return x.Thing == f.ID })
	alone := i >= 0 && t.Wanted[i].Rule.StandsAlone
	switch r.IntN(12) {
	case 0:
		if f.ID == "table" || f.ID == "shelf" {
			return "", ""
		}
		f.Rule.Grants["stranger"] = access.Edit
		return f.ID, line(Extra, f.ID, "stranger")
	case 1, 11:
		if i < 0 || t.Wanted[i].Key.What.Purpose != packing.Satchel || len(f.Rule.Grants) == 0 {
			return "", ""
		}
		who := slices.Sorted(maps.Keys(f.Rule.Grants))[0]
		delete(f.Rule.Grants, who)
		if r.IntN(2) == 0 {
			f.Rule.Grants["stranger"] = access.Edit
			return f.ID, line(WrongPerson, f.ID, "stranger")
		}
		return f.ID, line(Missing, f.ID, who)
	case 2:
		if f.ID != "shelf" && f.ID != "table" {
			return "", ""
		}
		who := t.students[r.IntN(len(t.students))]
		f.Rule.Grants[who] = access.Comment
		return f.ID, line(WrongLevel, f.ID, who)
	case 3:
		f.Rule.School = access.Read
		return f.ID, line(OpenToSchool, f.ID)
	case 4:
		if i < 0 {
			return "", ""
		}
		f.Owner = "stranger"
		return f.ID, line(WrongOwner, f.ID, "stranger")
	case 5:
		if alone || f.Parent == "table" || f.Parent == "shelf" || i < 0 || t.Wanted[i].Key.What.Purpose != packing.Satchel {
			return "", ""
		}
		f.Rule.StandsAlone = true
		return f.ID, line(LostToStaff, f.ID, "helper", "lindqvist")
	case 6:
		if i < 0 || t.Wanted[i].FreeName {
			return "", ""
		}
		f.Name = "another"
		return f.ID, line(Renamed, f.ID)
	case 7:
		if i < 0 || t.Wanted[i].Key.What.Purpose != packing.Satchel {
			return "", ""
		}
		f.Parent = "shelf"
		return f.ID, line(Moved, f.ID)
	case 8:
		if i < 0 || f.Folder {
			return "", ""
		}
		f.Place = []ledger.Place{ledger.InBin, ledger.Gone}[r.IntN(2)]
		return f.ID, line(map[ledger.Place]Kind{ledger.InBin: InBin, ledger.Gone: Gone}[f.Place], f.ID)
	case 9:
		if i >= 0 {
			f.Closed = &access.Mark{Since: noon.Add(-time.Hour), By: "stranger"}
			return f.ID, line(Closed, f.ID)
		}
	default:
		if alone {
			f.Rule.StandsAlone = false
			who := slices.DeleteFunc(slices.Sorted(maps.Keys(f.Rule.Grants)), func(p string) bool { return !t.People[p] })
			return f.ID, line(NotAlone, f.ID, who...)
		}
		id := fmt.Sprint("odd", len(t.Found))
		t.put(id, f.Parent, "stranger", false)
		return id, line(Unknown, id, "stranger")
	}
	return "", ""
}

// mend does to the tree what a packing list of the differences does to the cupboard.
func (t *town) mend(test *testing.T, ds []Difference) {
	w := t.World
	for _, d := range ds {
		m, ok := w.Mend(d)
		if !ok {
			test.Fatalf("nothing mends %+v", d)
		}
		f := t.at(d.Thing)
		for p, l := range m.Levels {
			if delete(f.Rule.Grants, p); l > access.Nothing {
				f.Rule.Grants[p] = l
			}
		}
		x := slices.IndexFunc(t.Wanted, func(x Wanted) bool { return x.Thing == d.Thing })
		switch {
		case m.Alone != nil:
			f.Rule.StandsAlone = *m.Alone
		case m.Shut:
			f.Rule.School = access.Nothing
		case m.Owner != "":
			f.Owner = m.Owner
		case m.Name != "":
			f.Name = m.Name
		case m.Move:
			f.Parent = t.Wanted[x].In
		case m.Back:
			f.Place = ledger.Lies
		case m.Anew:
			*f = Found{ID: f.ID, Name: t.Wanted[x].Name, Parent: t.Wanted[x].In, Owner: t.Wanted[x].Owner, Place: ledger.Lies,
				Rule: access.Rule{Grants: maps.Clone(t.Wanted[x].Rule.Grants), StandsAlone: t.Wanted[x].Rule.StandsAlone}}
		case m.Open, m.Mark != nil:
			f.Closed = m.Mark
		case m.Bin:
			t.Found = slices.DeleteFunc(t.Found, func(f Found) bool { return f.ID == d.Thing })
		}
	}
}

// In a thousand classes with up to twenty changes made behind our back, each is found under its
// name and nothing else is; after mending there is no difference, and casbin gives everybody the
// same of everything as before.
func TestPlanted(t *testing.T) {
	planted := map[Kind]int{}
	var one sync.Mutex
	t.Run("worlds", func(t *testing.T) {
		for part := range uint64(8) {
			t.Run(fmt.Sprint(part), func(t *testing.T) {
				t.Parallel()
				for seed := part; seed < 1000; seed += 8 {
					ds := plantAndMend(t, seed)
					one.Lock()
					for _, d := range ds {
						planted[d.Kind]++
					}
					one.Unlock()
				}
			})
		}
	})
	for _, kind := range []Kind{Missing, Extra, WrongLevel, WrongPerson, WrongOwner, OpenToSchool, LostToStaff, NotAlone, Closed, Renamed,
		Moved, InBin, Gone, Unknown} {
		if planted[kind] < 40 {
			t.Errorf("%s was planted %d times", kind, planted[kind])
		}
	}
}

// plantAndMend is one of those classes; it returns what was found.
func plantAndMend(t *testing.T, seed uint64) []Difference {
	r := rand.New(rand.NewPCG(seed, 22))
	x := build(r)
	if ds := Check(x.World).Differences; len(ds) > 0 {
		t.Fatalf("world %d, as it was packed: %+v", seed, ds)
	}
	before := judged(t, x)
	want, hit := []string{}, map[string]bool{}
	for range r.IntN(21) {
		saved := slices.Clone(x.Found)
		for i := range saved {
			saved[i].Rule.Grants = maps.Clone(saved[i].Rule.Grants)
		}
		thing, as := x.plant(r)
		if thing == "" || hit[thing] { // one change to a thing: two may come to another name
			x.Found = saved
			continue
		}
		hit[thing] = true
		want = append(want, as)
	}
	slices.Sort(want)
	ds := Check(x.World).Differences
	if got := lines(ds); !slices.Equal(got, want) {
		t.Fatalf("world %d: found %v\nplanted %v", seed, got, want)
	}
	x.mend(t, ds)
	if ds := Check(x.World).Differences; len(ds) > 0 {
		t.Fatalf("world %d, mended: %+v", seed, ds)
	}
	if after := judged(t, x); !maps.Equal(before, after) {
		t.Fatalf("world %d: casbin says of the mended tree\n%v\nand of the first\n%v", seed, after, before)
	}
	return ds
}

// judged asks casbin, an authorisation library that knows nothing of us, for every pair of a person
// and a thing of a tree what the person may do: the answer is the pairs that may do something.
func judged(t *testing.T, x *town) map[string]bool {
	t.Helper()
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
m = (r.sub == p.sub || p.sub == "school") && g(p.act, r.act) && g2(r.obj, p.obj)
`)
	if err != nil {
		t.Fatal(err)
	}
	say := func(_ bool, err error) {
		if err != nil {
			t.Fatal(err)
		}
	}
	out := map[string]bool{}
	for _, p := range append([]string{"oduya", "lindqvist", "helper", "stranger", "colleague"}, x.students...) {
		e, err := casbin.NewEnforcer(m.Copy()) // of what names this one, or everybody
		if err != nil {
			t.Fatal(err)
		}
		say(e.AddGroupingPolicy("edit", "comment"))
		say(e.AddGroupingPolicy("comment", "read"))
		for _, f := range x.Found {
			if f.Place != ledger.Lies {
				continue
			}
			if f.Owner == p {
				say(e.AddPolicy(p, f.ID, "edit"))
			}
			if l := f.Rule.Grants[p]; l > access.Nothing {
				say(e.AddPolicy(p, f.ID, l.String()))
			}
			if f.Rule.School > access.Nothing {
				say(e.AddPolicy("school", f.ID, f.Rule.School.String()))
			}
			if !f.Rule.StandsAlone {
				say(e.AddNamedGroupingPolicy("g2", f.ID, f.Parent))
			}
		}
		for _, f := range x.Found {
			for _, l := range []string{"read", "comment", "edit"} {
				may, err := e.Enforce(p, f.ID, l)
				if err != nil {
					t.Fatal(err)
				}
				if !may {
					break // nor more
				}
				out[p+" "+l+" "+f.ID] = true
			}
		}
	}
	return out
}
