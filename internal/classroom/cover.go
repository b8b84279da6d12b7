package classroom

import (
	"cmp"
	"context"
	"hash/fnv"
	"slices"
	"strconv"
	"strings"

	"jollysatchel/internal/store"
)

// A Cover says what stands for a name or address while names are covered.
type Cover struct{ Find, Cover string }

// coverWords are birds of the shore: nobody's name, easily told apart.
var coverWords = []string{
	"Avocet", "Bittern", "Curlew", "Dunlin", "Egret", "Fulmar", "Godwit", "Heron", "Ibis", "Jaeger", "Kittiwake", "Lapwing", "Merganser", "Noddy", "Osprey",
	"Petrel", "Quail", "Razorbill", "Sanderling", "Turnstone", "Umbrette", "Verdin", "Whimbrel", "Yellowlegs", "Plover", "Puffin", "Skua", "Gannet", "Guillemot", "Shearwater", "Redshank", "Snipe",
}

// coverColours go before them, as a given name does.
var coverColours = []string{"Amber", "Brindle", "Coral", "Dusky", "Ebony", "Fawn", "Golden", "Hazel", "Ivory", "Jade", "Khaki", "Lilac", "Mossy", "Navy", "Olive", "Pearl", "Russet", "Sandy", "Teal", "Umber"}

// CoverNames lists, for every student of the account's classes, what stands
// for each way their name and address are written, the longest first. The same
// student has the same cover everywhere, and no order gives anybody away.
func (c *Classroom) CoverNames(ctx context.Context, by string) ([]Cover, error) {
	classes, err := c.Store.Classes(ctx, by)
	if err != nil {
		return nil, err
	}
	type person struct {
		store.Member
		hash uint32
	}
	people := map[string]person{}
	for _, cl := range classes {
		members, err := c.Store.AllMembers(ctx, cl.ID)
		if err != nil {
			return nil, err
		}
		for _, m := range members {
			h := fnv.New32a()
			h.Write([]byte(m.PersonID))
			people[m.PersonID] = person{m, h.Sum32()}
		}
	}
	ids := sortedKeys(people)
	slices.SortFunc(ids, func(a, b string) int { return cmp.Compare(people[a].hash, people[b].hash) })
	out, taken := []Cover{}, map[string]bool{}
	add := func(find, cover string) {
		if key := strings.ToLower(find); len(find) > 1 && !taken[key] {
			taken[key] = true
			out = append(out, Cover{find, cover})
		}
	}
	for i, id := range ids {
		family, given := coverWords[i%len(coverWords)], coverColours[(i+i/len(coverWords))%len(coverColours)]
		if round := i / (len(coverWords) * len(coverColours)); round > 0 {
			family += " " + strconv.Itoa(round+1)
		}
		p := people[id]
		add(p.Address, strings.ToLower(strings.ReplaceAll(given+"."+family, " ", "."))+"@cover.example")
		s := Student{Member: p.Member}
		add(s.Name(), given+" "+family)
		add(tidy(p.Given+" "+p.Family), given+" "+family)
		add(s.SortName(), family+", "+given)
		add(p.Family, family)
		add(p.Given, given)
		add(p.Preferred, given)
	}
	slices.SortStableFunc(out, func(a, b Cover) int { return cmp.Compare(len(b.Find), len(a.Find)) })
	return out, nil
}
