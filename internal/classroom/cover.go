package classroom

import (
	"cmp"
	"context"
	"hash/fnv"
	"slices"
	"strconv"
	"strings"
)

// A Cover says what stands for a name or address while names are covered.
type Cover struct{ Find, Cover string }

// coverWords are birds of the shore: nobody's name, easily told apart.
var coverWords = []string{
	"Avocet", "Bittern", "Curlew", "Dunlin", "Egret", "Fulmar", "Godwit", "Heron", "Ibis", "Jaeger", "Kittiwake", "Lapwing", "Merganser", "Noddy", "Osprey",
	"Petrel", "Quail", "Razorbill", "Sanderling", "Turnstone", "Umbrette", "Verdin", "Whimbrel", "Yellowlegs", "Plover", "Puffin", "Skua", "Gannet", "Guillemot", "Shearwater", "Redshank", "Snipe",
}

// CoverNames lists, for every student of the account's classes, what stands
// for each way their name and address are written, the longest first. The same
// student has the same cover everywhere, and no order gives anybody away.
func (c *Classroom) CoverNames(ctx context.Context, by string) ([]Cover, error) {
	classes, err := c.Store.Classes(ctx, by)
	if err != nil {
		return nil, err
	}
	type person struct {
		hash uint32
		ways []string
		mail string
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
			s := Student{Member: m}
			people[m.PersonID] = person{h.Sum32(), []string{s.Name(), s.SortName(), tidy(m.Given + " " + m.Family), m.Family, m.Given, m.Preferred}, m.Address}
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
		word := coverWords[i%len(coverWords)]
		if i >= len(coverWords) {
			word += " " + strconv.Itoa(i/len(coverWords)+1)
		}
		add(people[id].mail, strings.ToLower(strings.ReplaceAll(word, " ", "."))+"@cover.example")
		for _, w := range people[id].ways {
			add(w, word)
		}
	}
	slices.SortStableFunc(out, func(a, b Cover) int { return cmp.Compare(len(b.Find), len(a.Find)) })
	return out, nil
}
