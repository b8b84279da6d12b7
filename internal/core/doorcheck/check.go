package doorcheck

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"maps"
	"slices"
	"strings"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
)

// A Kind says how something differs.
type Kind string

// The kinds of differences.
const (
	Missing      Kind = "missing"       // somebody reaches nothing and should
	Extra        Kind = "extra"         // somebody reaches it and should not
	WrongLevel   Kind = "wrong-level"   // somebody may do more or less than they should
	WrongPerson  Kind = "wrong-person"  // somebody has it instead of somebody else
	WrongOwner   Kind = "wrong-owner"   // it belongs to somebody else
	OpenToSchool Kind = "open-school"   // everybody of the school reaches it who has its link
	LostToStaff  Kind = "lost-to-staff" // staff don't reach it
	NotOpen      Kind = "not-open"      // it should be open to above and isn't
	NotAlone     Kind = "not-alone"     // what is above it should not count, and does
	Closed       Kind = "closed"        // closed, and should not be
	NotClosed    Kind = "not-closed"    // closed to nobody, or not to those it should be
	Renamed      Kind = "renamed"
	Moved        Kind = "moved"
	InBin        Kind = "in-bin"
	Gone         Kind = "gone"
	Unknown      Kind = "unknown" // nobody of the class put it there
)

// A Difference is one thing that isn't as it should be.
type Difference struct {
	Kind   Kind         `json:"kind"`
	Thing  string       `json:"thing"`
	Key    packing.Key  `json:"key"`           // none: of the ledger it isn't
	Name   string       `json:"name"`          // what it is called
	Who    []string     `json:"who,omitempty"` // whom it concerns; of a wrong person, whoever has it
	For    string       `json:"for,omitempty"` // of a wrong person or owner: who should have it
	Is     access.Level `json:"is,omitempty"`
	Should access.Level `json:"should,omitempty"`
	Called string       `json:"called,omitempty"` // of what is renamed: what it should be called
	Lies   string       `json:"lies,omitempty"`   // of what is moved: the folder it lies in
	In     string       `json:"in,omitempty"`     // the folder it should lie in, or lies in
}

// ID names a difference as it is: another level, name or place is another difference.
func (d Difference) ID() string {
	sum := sha256.Sum256([]byte(strings.Join([]string{string(d.Kind), d.Thing, strings.Join(d.Who, "+"), d.For, d.Is.String(), d.Lies,
		d.named()}, "/")))
	return hex.EncodeToString(sum[:12])
}

func (d Difference) named() string {
	if d.Kind == Renamed {
		return d.Name
	}
	return ""
}

// A Report is what a check found.
type Report struct {
	Things      int // folders and files there are
	Doors       int // who should reach what: pairs of a person and a thing
	Differences []Difference
}

// Check compares a class's tree with what it should be. What a folder does to all that is in it is
// one difference, of that folder; what is wrong about a thing itself is found whatever is wrong
// about the folders above. The order is that of what is wanted, then what else there is.
func Check(world World) Report {
	w := world.work()
	var r Report
	for i := range w.Wanted {
		x := &w.Wanted[i]
		if f := w.found[x.Thing]; f != nil {
			r.Things++
			r.Doors += w.doors(f)
			r.Differences = append(r.Differences, w.thing(f, x)...)
		}
	}
	for i := range w.Found {
		f := &w.Found[i]
		if w.wanted[f.ID] != nil {
			continue
		}
		r.Things++
		r.Doors += w.doors(f)
		if !w.People[f.Owner] && f.Owner != w.Owner && !slices.Contains(w.Staff, f.Owner) {
			r.Differences = append(r.Differences, w.differs(Unknown, f, nil, f.Owner))
		}
		r.Differences = append(r.Differences, w.rule(f, nil)...)
	}
	return r
}

func (w *worked) differs(kind Kind, f *Found, x *Wanted, who ...string) Difference {
	d := Difference{Kind: kind, Thing: f.ID, Name: f.Name, Who: who, In: w.in(f)}
	if x != nil {
		d.Key = x.Key
		d.Name = cmp.Or(f.Name, x.Name)
	}
	return d
}

// thing is what differs about something of the ledger.
func (w *worked) thing(f *Found, x *Wanted) []Difference {
	if f.Place != ledger.Lies {
		kind := map[ledger.Place]Kind{ledger.InBin: InBin, ledger.Gone: Gone, ledger.Unseen: LostToStaff}[f.Place]
		above := w.found[x.In]
		if x.Former || x.Left || above != nil && above.Place == f.Place { // it went with what it was in
			return nil
		}
		return []Difference{w.differs(kind, f, x)}
	}
	var out []Difference
	if !w.placed(f, x) {
		d := w.differs(Moved, f, x)
		d.Lies, d.Who = f.Parent, w.gained(f)
		out = append(out, d)
	}
	if x.Name != f.Name && !x.FreeName && !x.Former {
		d := w.differs(Renamed, f, x)
		d.Called = x.Name
		out = append(out, d)
	}
	if x.Owner != f.Owner {
		d := w.differs(WrongOwner, f, x, f.Owner)
		d.For, d.Is, d.Should = x.Owner, access.Owner, access.Owner
		out = append(out, d)
	}
	return append(out, w.rule(f, x)...)
}

// gained are those who reach a thing where it lies and would not where it should.
func (w *worked) gained(f *Found) []string {
	now, there := access.People(w.lies(f), w.At), access.People(append([]access.Thing{w.own(f)}, w.chain(w.in(f))...), w.At)
	var out []string
	for _, who := range slices.Sorted(maps.Keys(now)) {
		if now[who].Level >= access.Read && there[who].Level < access.Read {
			out = append(out, who)
		}
	}
	return out
}

// rule is what differs about a thing's own rule and mark, as if all above it were as it should be.
func (w *worked) rule(f *Found, x *Wanted) []Difference {
	should, is := w.own(f), f.is()
	is.Owner = should.Owner // that is a difference of its own
	var out []Difference
	if f.Rule.School > access.Nothing {
		d := w.differs(OpenToSchool, f, x)
		d.Is = f.Rule.School
		out = append(out, d)
	}
	if kind := w.marks(f.Closed, should.Closed); kind != "" {
		out = append(out, w.differs(kind, f, x))
	}
	above := w.chain(w.in(f))
	if f.ID == w.Folder {
		above = w.Above
	}
	if is.Rule.StandsAlone != should.Rule.StandsAlone {
		out = append(out, w.alone(f, x, should, above)...)
	}
	is.Rule.StandsAlone = should.Rule.StandsAlone // and this
	return append(out, w.people(f, x, is, should, above)...)
}

// marks says how a mark differs from the one there should be.
func (w *worked) marks(is, should *access.Mark) Kind {
	switch {
	case access.SameMark(is, should):
		return ""
	case should == nil:
		return Closed
	}
	return NotClosed
}

// alone is what comes of a thing that stands alone and should not, or the other way round: who
// reaches it less, or more, with its own rule as it should be.
func (w *worked) alone(f *Found, x *Wanted, should access.Thing, above []access.Thing) []Difference {
	other := should
	other.Rule.StandsAlone = !should.Rule.StandsAlone
	var who []string
	staff := false
	for _, p := range w.named(above) {
		has, ought := level(p, other, above), level(p, should, above)
		if has == ought {
			continue
		}
		who = append(who, p)
		staff = staff || slices.Contains(w.Staff, p) || p == w.Owner
	}
	switch {
	case len(who) == 0:
		return nil
	case should.Rule.StandsAlone:
		return []Difference{w.differs(NotAlone, f, x, who...)}
	case staff:
		return []Difference{w.differs(LostToStaff, f, x, who...)}
	}
	return []Difference{w.differs(NotOpen, f, x, who...)}
}

// named are those whom ownership or a rule of a chain names.
func (w *worked) named(chain []access.Thing) []string {
	set := map[string]bool{}
	for _, t := range chain {
		if t.Owner != "" {
			set[t.Owner] = true
		}
		for p := range t.Rule.Grants {
			set[p] = true
		}
	}
	return slices.Sorted(maps.Keys(set))
}

func level(person string, own access.Thing, above []access.Thing) access.Level {
	return access.Named(person, append([]access.Thing{own}, above...))
}

// people is who has another level by a thing's own rule than they should.
func (w *worked) people(f *Found, x *Wanted, is, should access.Thing, above []access.Thing) []Difference {
	set := map[string]bool{}
	for p, l := range is.Rule.Grants {
		set[p] = set[p] || l != should.Rule.Grants[p]
	}
	for p, l := range should.Rule.Grants {
		set[p] = set[p] || l != is.Rule.Grants[p]
	}
	var out []Difference
	for _, p := range slices.Sorted(maps.Keys(set)) {
		if !set[p] {
			continue
		}
		has, ought := level(p, is, above), level(p, should, above)
		if has == ought || x != nil && x.allows(p, has) {
			continue
		}
		kind := WrongLevel
		switch {
		case ought < access.Read:
			kind = Extra
		case has < access.Read:
			kind = Missing
		}
		d := w.differs(kind, f, x, p)
		d.Is, d.Should = has, ought
		out = append(out, d)
	}
	return instead(out, x)
}

// allows reports that a level isn't what the rule gives and no fault.
func (x *Wanted) allows(p string, has access.Level) bool {
	may, ok := x.May[p]
	return ok && has <= may
}

// instead makes one of what is lacking to whom a thing is for and what somebody else has of it.
func instead(ds []Difference, x *Wanted) []Difference {
	if len(ds) != 2 || x == nil || x.Key.Whom.Row == "" {
		return ds
	}
	slices.SortFunc(ds, func(a, b Difference) int { return cmp.Compare(a.Kind, b.Kind) })
	extra, missing := ds[0], ds[1]
	if extra.Kind != Extra || missing.Kind != Missing || extra.Is != missing.Should {
		return ds
	}
	extra.Kind, extra.For = WrongPerson, missing.Who[0]
	return []Difference{extra}
}

// doors is how many people should reach a thing.
func (w *worked) doors(f *Found) int {
	own := w.own(f)
	above := map[string]bool{}
	if !own.Rule.StandsAlone {
		above = w.reaching(w.in(f))
	}
	n := len(above)
	count := func(p string, l access.Level) {
		if l >= access.Read && p != "" && !above[p] {
			n++
		}
	}
	for p, l := range own.Rule.Grants {
		if p != own.Owner {
			count(p, l)
		}
	}
	count(own.Owner, access.Owner)
	return n
}

// reaching are those who should reach what is in a folder through it.
func (w *worked) reaching(folder string) map[string]bool {
	if set, ok := w.reach[folder]; ok {
		return set
	}
	set := map[string]bool{}
	for p := range access.People(w.chain(folder), w.At) {
		set[p] = true
	}
	w.reach[folder] = set
	return set
}
