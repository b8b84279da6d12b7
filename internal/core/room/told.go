package room

import (
	"slices"
	"strconv"
	"strings"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/naming"
)

// Told returns what differs between a class's room plan before and after a change, for the log; names
// are the places' in the school's words.
func Told(before, after Plan, names Names) []change.Told {
	out := change.Differing([]change.Told{
		{What: "room-satchel", From: before.Satchel.String(), To: after.Satchel.String()},
		{What: "room-within", From: levelNames(before.Within), To: levelNames(after.Within)},
		{What: "room-path", From: levelNames(before.Path), To: levelNames(after.Path)},
		{What: "room-folder", From: before.Name, To: after.Name},
		{What: "room-term", From: before.Term, To: after.Term},
		{What: "room-sorted", From: strconv.FormatBool(before.Sorted), To: strconv.FormatBool(after.Sorted)},
	}...)
	if before.Base != after.Base {
		out = append(out, change.Told{What: "room-base"}) // what is kept of it is an id
	}
	pocket := func(p Pocket) (id, name string) { return p.ID, p.Name }
	out = append(out, listed("pocket", before.Pockets, after.Pockets, pocket)...)
	was, is := before.AllPlaces(), after.AllPlaces()
	out = append(out, listed("place", was, is, func(p Place) (id, name string) { return p.ID, p.Called(names) })...)
	called := func(all []Place, id string) string {
		if i := slices.IndexFunc(all, func(p Place) bool { return p.ID == id }); i >= 0 {
			return all[i].Called(names)
		}
		return ""
	}
	for _, p := range is {
		i := slices.IndexFunc(was, func(b Place) bool { return b.ID == p.ID })
		if i < 0 {
			continue
		}
		b := was[i]
		for _, t := range change.Differing([]change.Told{
			{What: "place-for", From: string(b.For), To: string(p.For)},
			{What: "level", From: b.Level, To: p.Level},
			{What: "hand-in", From: strconv.FormatBool(b.HandIn), To: strconv.FormatBool(p.HandIn)},
			{What: "teams", From: b.Set.Label(), To: p.Set.Label()},
			{What: "room-under", From: called(was, b.Under), To: called(is, p.Under)},
		}...) {
			t.Whose = p.Called(names)
			out = append(out, t)
		}
	}
	return out
}

// listed tells of a list what came, what went, what has another name, and whether the order of the rest is another.
func listed[T any](what string, before, after []T, of func(T) (id, name string)) (out []change.Told) {
	name := map[string]string{}
	for _, x := range before {
		id, n := of(x)
		name[id] = n
	}
	var order, kept []string
	there := map[string]bool{}
	for _, x := range after {
		id, n := of(x)
		there[id] = true
		switch was, known := name[id]; {
		case !known:
			out = append(out, change.Told{What: what + "-added", To: n})
			continue
		case was != n:
			out = append(out, change.Told{What: what + "-named", From: was, To: n})
		}
		order = append(order, id)
	}
	for _, x := range before {
		if id, n := of(x); there[id] {
			kept = append(kept, id)
		} else {
			out = append(out, change.Told{What: what + "-removed", To: n})
		}
	}
	if !slices.Equal(order, kept) {
		out = append(out, change.Told{What: what + "-order"})
	}
	return out
}

func levelNames(levels []naming.Pattern) string {
	all := make([]string, len(levels))
	for i, l := range levels {
		all[i] = l.String()
	}
	return strings.Join(all, " › ")
}
