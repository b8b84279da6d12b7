package people

import (
	"cmp"
	"context"
	"hash/fnv"
	"maps"
	"slices"
	"strconv"
	"strings"

	"jollysatchel/internal/core/classes"
)

// A Cover says what stands for a name or address while names are covered.
type Cover struct{ Find, Cover string }

// coverWords are birds of the shore: nobody's name, easily told apart.
var coverWords = []string{
	"Avocet", "Bittern", "Curlew", "Dunlin", "Egret", "Fulmar", "Godwit", "Heron", "Ibis", "Jaeger", "Kittiwake",
	"Lapwing", "Merganser", "Noddy", "Osprey",
	"Petrel", "Quail", "Razorbill", "Sanderling", "Turnstone", "Umbrette", "Verdin", "Whimbrel", "Yellowlegs", "Plover",
	"Puffin", "Skua", "Gannet", "Guillemot", "Shearwater", "Redshank", "Snipe",
}

// coverColours go before them, as a given name does.
var coverColours = []string{"Amber", "Brindle", "Coral", "Dusky", "Ebony", "Fawn", "Golden", "Hazel", "Ivory", "Jade",
	"Khaki", "Lilac", "Mossy", "Navy", "Olive", "Pearl", "Russet", "Sandy", "Teal", "Umber"}

// CoverNames lists, for every student of the account's classes, or of every class
// for no account, what stands
// for each way their name and address are written, the longest first. The same
// student has the same cover everywhere, and no order gives anybody away.
func (c *People) CoverNames(ctx context.Context, by string) ([]Cover, error) {
	cs, err := c.Store.Classes(ctx, by)
	if err != nil {
		return nil, err
	}
	people := map[string][]classes.Row{} // the rows of one student, by account, else by row
	for _, cl := range cs {
		rows, err := c.Store.Rows(ctx, cl.ID)
		if err != nil {
			return nil, err
		}
		for _, r := range rows {
			who := cmp.Or(r.Account, r.ID)
			people[who] = append(people[who], r)
		}
	}
	hash := func(id string) uint32 {
		h := fnv.New32a()
		h.Write([]byte(id))
		return h.Sum32()
	}
	ids := slices.Sorted(maps.Keys(people))
	slices.SortFunc(ids, func(a, b string) int { return cmp.Compare(hash(a), hash(b)) })
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
		for _, r := range people[id] {
			add(r.Address, strings.ToLower(strings.ReplaceAll(given+"."+family, " ", "."))+"@cover.example")
			add(r.CallName(), given+" "+family)
			add(r.Name(), given+" "+family)
			add(r.SortName(), family+", "+given)
			add(r.Family, family)
			add(r.Given, given)
			add(r.Preferred, given)
		}
	}
	slices.SortStableFunc(out, func(a, b Cover) int { return cmp.Compare(len(b.Find), len(a.Find)) })
	return out, nil
}
