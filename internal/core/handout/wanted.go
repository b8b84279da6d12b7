package handout

import (
	"maps"
	"slices"
	"strings"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
)

// A Way is a way of handing out. Own is what it makes itself: of what Wanted says,
// all but the places and satchels of the room, which it needs.
type Way interface {
	room.Subject
	Own(room.Class) []packing.Wanted
}

// Of returns the way of a name with a room plan and settings; one that isn't known is
// one each.
func Of(name WayName, plan room.Plan, s Settings) Way {
	switch name {
	case LevelName:
		return ByLevel{plan, s}
	case TeamName:
		return PerTeam{plan, s}
	case ForAllName:
		return OneForAll{plan, s}
	case NoticeName:
		return Notice{plan, s}
	}
	return OneEach{plan, s}
}

// folders are the folder Drawer › Handouts, which all handouts share, and the
// handout's own in it, where every copy lies or is pointed to.
func folders(c room.Class, s Settings) []packing.Wanted {
	none := access.Rule{Grants: map[string]access.Level{}}
	key, all := FolderKey(c.ID, s.ID), c.Key(packing.Handouts)
	own := naming.TellApart(naming.Pattern{{Column: record.Title}}, "",
		[]naming.Item{{Values: record.Values{record.Title: s.Title}, Packed: s.Packed[key], Beside: s.beside(all)}}, nil)[0]
	return []packing.Wanted{
		{Key: all, Kind: packing.Folder, Name: c.Names.Handouts, Parent: c.Key(packing.Drawer), Owner: c.Owner, Rule: none},
		{Key: key, Kind: packing.Folder, Name: own.Name, Apart: own.By, Altered: own.Altered, Parent: all, Owner: c.Owner, Rule: none},
	}
}

// beside are the names that other handouts' things have in some folders.
func (s *Settings) beside(folders ...packing.Key) func() []string {
	if s.Beside == nil {
		return nil
	}
	return func() []string {
		var out []string
		for _, f := range folders {
			out = append(out, s.Beside(f)...)
		}
		return out
	}
}

// wantedOf is what a handout wants with the room it needs: the class's places, its
// folders, for each student who is in the satchel and what is theirs, then what is of
// several. Everybody else is among the absent, with one reason. In + out = all.
func wantedOf(plan room.Plan, c room.Class, s Settings, own []packing.Wanted) ([]packing.Wanted, []packing.Absent) {
	all := plan
	plan = plan.Only(s.Pocket)
	wanted := make([]packing.Wanted, 0, 16+len(own)+(1+len(plan.Pockets))*len(c.Students))
	wanted = append(wanted, plan.ClassPlaces(c)...)
	of := make(map[string][]packing.Wanted, len(c.Students))
	var shared []packing.Wanted
	for _, w := range own {
		switch {
		case w.Key.What.Purpose != packing.Copy:
			wanted = append(wanted, w)
		case w.Key.Whom.Row != "":
			of[w.Key.Whom.Row] = append(of[w.Key.Whom.Row], w)
		default:
			shared = append(shared, w)
		}
	}
	levels := map[packing.Key]bool{}
	satchels := plan.SatchelNames(c)
	var absent []packing.Absent
	for i, st := range c.Students {
		if why, out := s.Out[st.Row]; out {
			absent = append(absent, packing.Absent{Whom: packing.Whom{Row: st.Row}, Name: st.Name, Reason: packing.Reason{Code: why}})
			continue
		}
		mine := plan
		if pocket := s.pocket(st.Row); pocket != s.Pocket {
			mine = all.Only(pocket)
		}
		wanted = mine.SatchelOf(wanted, c, st, satchels[i], levels)
		wanted = append(wanted, of[st.Row]...)
	}
	return append(wanted, shared...), absent
}

// in are the students who aren't left out.
func (s Settings) in(c room.Class) []room.Student {
	out := make([]room.Student, 0, len(c.Students))
	for _, st := range c.Students {
		if _, not := s.Out[st.Row]; !not {
			out = append(out, st)
		}
	}
	return out
}

// pattern is what copies of a document are called: as it says itself, else by usual.
// Where several lie side by side and nothing tells them apart, its own name does.
func pattern(d Document, usual naming.Pattern, several bool) naming.Pattern {
	if len(d.Name) > 0 {
		return d.Name
	}
	if !several || slices.ContainsFunc(usual, func(p naming.Part) bool { return p.Column == record.Original }) {
		return usual
	}
	return append(slices.Clone(usual), naming.Part{Text: " – "}, naming.Part{Column: record.Original})
}

// original is what a document is called; the later of two of one name and ending has a
// counter.
func (s Settings) original(d Document) string {
	taken := map[string]bool{}
	for _, other := range s.Documents {
		name := naming.Free(other.Original, other.Ending, taken)
		if other.Slot == d.Slot {
			return strings.TrimSuffix(name, other.Ending)
		}
		taken[naming.Fold(name)] = true
	}
	return d.Original
}

// A taker is somebody, or a team, that gets a copy of their own.
type taker struct {
	whom   packing.Whom
	values record.Getter
	added  int
	homes  []packing.Key // where it is, or is pointed to from
}

// names are what copies of a document are called, in the order of the takers.
func (s Settings) names(c room.Class, d Document, several bool, takers []taker, taken []string) []naming.Name {
	own := s.ownValues(d)
	items := make([]naming.Item, len(takers))
	for i, t := range takers {
		var alone naming.Pattern
		if p := s.Names[t.whom.Row]; len(p) > 0 {
			alone = pattern(Document{}, p, several)
		}
		items[i] = naming.Item{Own: alone, Values: record.With{Own: own, Rest: t.values}, Added: t.added,
			Packed: s.Packed[CopyKey(c.ID, s.ID, d.Slot, t.whom)], Beside: s.beside(t.homes...)}
	}
	return naming.TellApart(pattern(d, s.Name, several), d.Ending, items, taken)
}

// ownValues are the handout's own columns for a document.
func (s Settings) ownValues(d Document) record.Values {
	own := make(record.Values, len(s.Values)+1)
	maps.Copy(own, s.Values)
	own[record.Original] = s.original(d)
	return own
}

// fill says what is in the columns that a document asks for.
func (s *Settings) fill(d Document, values record.Getter, known func(record.Field) bool) *packing.Fill {
	if d.Plain {
		return nil
	}
	return &packing.Fill{Ending: d.Ending, MediaType: d.MediaType, Values: inside{s, d, values}, Known: known}
}

// inside are the columns inside a document: the handout's own, then somebody's.
type inside struct {
	*Settings
	document Document
	rest     record.Getter
}

// Get implements record.Getter.
func (v inside) Get(f record.Field) string {
	if f == record.Original {
		return v.original(v.document)
	}
	if own, ok := v.Values[f]; ok {
		return own
	}
	return v.rest.Get(f)
}

// ofSeveral are the columns that have a value for several students together, of one team
// or of them all.
func (s *Settings) ofSeveral(team bool) func(record.Field) bool {
	return func(f record.Field) bool {
		return s.Known.Has(f) && (f.Own() || f == record.Period || team && (f == record.Team || f == s.Teams))
	}
}

// takers are students, each for themselves.
func (s Settings) takers(c room.Class, of []room.Student) []taker {
	out := make([]taker, len(of))
	for i, st := range of {
		out[i] = taker{packing.Whom{Row: st.Row}, st.Values, st.Added, s.homes(c, st)}
	}
	return out
}

// homes are the homes of students.
func (s Settings) homes(c room.Class, of ...room.Student) []packing.Key {
	if s.Beside == nil {
		return nil
	}
	out := make([]packing.Key, len(of))
	for i, st := range of {
		out[i] = s.home(c, st.Row)
	}
	return out
}

// home is the folder of a student's that their copies are in, or are pointed to from.
func (s Settings) home(c room.Class, row string) packing.Key {
	if pocket := s.pocket(row); pocket != "" {
		return room.PocketKey(c.ID, row, pocket)
	}
	return room.SatchelKey(c.ID, row)
}

// pocket is the one that a student's copies are in; empty: the satchel itself.
func (s Settings) pocket(row string) string {
	if own, said := s.Pockets[row]; said {
		return own
	}
	return s.Pocket
}

// own is a student's own copy of a document, in their satchel or a pocket, with a
// pointer in the handout's folder.
func (s *Settings) own(c room.Class, st room.Student, d Document, name naming.Name) packing.Wanted {
	w := packing.Wanted{
		Key: CopyKey(c.ID, s.ID, d.Slot, packing.Whom{Row: st.Row}), Kind: packing.File, Name: name.Name, Apart: name.By, Altered: name.Altered,
		Parent: s.home(c, st.Row), Owner: c.Owner, Rule: s.withPassed(st.Row, s.withMates(c, ownCopy(c, st, s.LevelOf(st.Row)))),
		Source: d.Thing, Lender: d.Lender, Pointers: []packing.Key{FolderKey(c.ID, s.ID)}, Problem: st.Problem, Hold: st.Hold(),
		Fill: s.fill(d, st.Values, s.Known.Has), Mates: s.Mates, For: st.Account,
	}
	st.Wait(&w, s.LevelOf(st.Row))
	w.Waits = union(w.Waits, s.matesWait)
	return w
}

// ownCopy gives the student the level. A copy in the satchel is open to above,
// where the student can edit; one they can only read or comment must stand
// alone, so staff are named in it.
func ownCopy(c room.Class, st room.Student, level access.Level) access.Rule {
	r := access.Rule{Grants: map[string]access.Level{}}
	if st.Account != "" {
		r.Grants[st.Account] = level
	}
	if level < access.Edit {
		r.StandsAlone = true
		for _, s := range c.Staff {
			if s.Account != c.Owner {
				r.Grants[s.Account] = s.Level
			}
		}
	}
	return r
}

// shared is a document of several students: it is in the handout's folder, which is
// staff's, and is pointed to from each one's satchel or pocket.
func (s *Settings) shared(c room.Class, d Document, t taker, of []room.Student, name naming.Name) packing.Wanted {
	whom := t.whom
	w := packing.Wanted{
		Key: CopyKey(c.ID, s.ID, d.Slot, whom), Kind: packing.File, Name: name.Name, Apart: name.By, Altered: name.Altered,
		Parent: FolderKey(c.ID, s.ID), Owner: c.Owner, Rule: access.Rule{Grants: map[string]access.Level{}}, Source: d.Thing, Lender: d.Lender,
		Fill: s.fill(d, t.values, s.ofSeveral(whom.Team != "")),
	}
	for _, st := range of {
		if st.Account != "" {
			w.Rule.Grants[st.Account] = s.LevelOf(st.Row)
		}
		if st.Problem == nil {
			w.Pointers = append(w.Pointers, s.home(c, st.Row))
		}
	}
	w.Waits = room.Waiting(of)
	if whom.Team != "" {
		w.Rule, w.Waits = s.withMates(c, w.Rule), union(w.Waits, s.matesWait)
	}
	return w
}

// without says that a student gets nothing, and why: it must be fixed first.
func (s Settings) without(c room.Class, st room.Student, why *packing.Reason) packing.Wanted {
	return packing.Wanted{
		Key: CopyKey(c.ID, s.ID, 0, packing.Whom{Row: st.Row}), Kind: packing.File, Name: st.Name, Parent: s.home(c, st.Row), Owner: c.Owner,
		Rule: access.Rule{Grants: map[string]access.Level{}}, Problem: why,
	}
}
