package packing

import (
	"cmp"
	"slices"
	"strings"

	"jollysatchel/internal/core/access"
)

// Compute makes the packing list: wanted − actual. The same arguments give the
// same list in the same order. A line to pack never removes, replaces or lowers
// anything; a line to change does what it says, and only when it is ticked.
func Compute(wanted []Wanted, absent []Absent, links []Link, actual map[Key]Actual) List {
	l := List{Lines: make([]Line, 0, len(wanted)+len(absent)+len(links))}
	for _, k := range links {
		l.Lines = append(l.Lines, Line{
			Section: ToChange, Step: StepKey{Key: k.Key, Act: Relink, Generation: 1}, Wanted: Wanted{Key: k.Key, Name: k.Name},
			Change: &Change{From: k.From, To: k.To}, Reason: &Reason{Code: "relink", Args: map[string]string{}},
		})
	}
	blocked := map[Key]bool{} // what can't be packed in this list
	binned, be := map[Key]bool{}, map[Key]bool{}
	var world World // looked up in for what moves alone
	called := func(k Key) string {
		if world == nil {
			world = WorldOf(wanted)
		}
		return world[k].Name
	}
	for _, w := range wanted {
		a := actual[w.Key]
		line := judge(w, a, actual)
		if a.Handed != "" { // nothing is done with it any more
			line = Line{Wanted: w, Thing: a.Thing, Section: LeftOut, Reason: &Reason{Code: "handed-over"}}
			l.Lines = append(l.Lines, line)
			blocked[w.Key] = a.Off // nor is anything put into it
			continue
		}
		if blocked[w.Parent] && line.Section == ToPack && line.Step.Act == Make {
			line.Section, line.Reason = NeedsFixing, &Reason{Code: "parent-needs-fixing"}
		}
		if line.Section == NeedsFixing && a.Thing == "" || a.State == Gone || a.State == InBin || a.State == Unseen {
			blocked[w.Key] = true
		}
		if a.State == InBin {
			binned[w.Key] = true
		}
		if line.Section == NeedsFixing && a.State == InBin && binned[w.Parent] {
			line.Reason, line.Remedies = &Reason{Code: "parent-in-bin"}, nil
		}
		if line.Section == NeedsFixing && a.Thing != "" && w.Problem == nil && (a.LeaveAsIs || be[w.Parent]) {
			be[w.Key] = true
			line.Section, line.Reason = LeftOut, &Reason{Code: "left-as-is", Args: map[string]string{"state": string(a.State)}}
			line.Step.Act, line.Remedies = None, nil
			if a.LeaveAsIs {
				line.Remedies = []string{TakeIn}
			}
		}
		l.Lines = append(l.Lines, line)
		l.Lines = append(l.Lines, changes(w, a, called)...)
	}
	for _, a := range absent {
		reason := a.Reason
		l.Lines = append(l.Lines, Line{Section: LeftOut, Wanted: Wanted{Key: Key{Whom: a.Whom}, Name: a.Name}, Reason: &reason})
	}
	return l
}

func judge(w Wanted, a Actual, actual map[Key]Actual) Line {
	line := Line{Wanted: w, Thing: a.Thing, Section: ToPack, Step: StepKey{Key: w.Key, Generation: a.Generation}}
	switch {
	case a.State == Missing, a.State == InBin, a.State == Gone:
		line.Step.Act = Make
		line.Step.Generation++
	case a.State == Unshared, a.State == Unseen, w.Problem == nil && (access.Lacks(a.Rule.Grants, w.Rule.Grants) || unpromised(w, a)):
		line.Step.Act = Share
	case w.Problem == nil && unpointed(w, a, actual):
		line.Step.Act = Point
	default:
		line.Section = AlreadyThere
	}
	switch {
	case a.State == InBin:
		line.fix(&Reason{Code: "in-bin"}, BringBack, MakeAnew, LeaveOut)
		if a.NameTaken && w.Name != a.Name { // once it is back
			line.Change = &Change{Rename: w.Name, From: a.Name}
		}
	case a.State == Gone:
		line.fix(&Reason{Code: "gone"}, MakeAnew, LeaveOut)
	case a.State == Unseen:
		line.fix(&Reason{Code: "unseen"}, LeaveOut)
	case w.Problem != nil:
		line.fix(w.Problem, remediesOf(w.Problem.Code)...)
	case w.Hold != nil && line.Section == ToPack:
		line.fix(w.Hold, LeaveOut)
	case line.Section == AlreadyThere && a.State == Elsewhere:
		line.Reason = &Reason{Code: "moved"}
	case line.Section == AlreadyThere && a.Name != w.Name && a.Name != a.LastName:
		line.Reason = &Reason{Code: "renamed", Args: map[string]string{"name": a.Name}}
	case line.Section == AlreadyThere && a.Rule.School > access.Nothing:
		line.Reason = &Reason{Code: "open-to-school"}
	case w.Lacking != nil: // made all the same, and waits for an address
		line.Reason = w.Lacking
	}
	return line
}

// unpromised reports that somebody is to have access once they have an account, for whom it didn't wait so far.
func unpromised(w Wanted, a Actual) bool {
	return slices.ContainsFunc(w.Waits, func(row string) bool { return !slices.Contains(a.Waits, row) })
}

func (l *Line) fix(why *Reason, remedies ...string) {
	l.Section, l.Reason, l.Remedies = NeedsFixing, why, remedies
}

// changes returns the lines for what should be different about a thing that is
// there: its name, where what it is named after has changed; its place, where the
// plan has another; access we gave to accounts that should have none now, and
// levels we gave that should be lower. A name, place or level that people changed
// is left unticked, and so is what belongs to a student who must be fixed first.
func changes(w Wanted, a Actual, called func(Key) string) []Line {
	if a.State != Here && a.State != Elsewhere && a.State != Unshared {
		return nil
	}
	var out []Line
	add := func(act Act, account string, ticked bool, c Change, code string, args ...string) {
		reason := &Reason{Code: code, Args: map[string]string{}}
		for i := 0; i+1 < len(args); i += 2 {
			reason.Args[args[i]] = args[i+1]
		}
		out = append(out, Line{
			Section: ToChange, Step: StepKey{Key: w.Key, Act: act, Account: account, Generation: a.Generation}, Wanted: w,
			Change: &c, Thing: a.Thing,
			Reason: reason, Ticked: ticked && w.Problem == nil,
		})
	}
	if a.LastName != "" && w.Name != a.LastName && w.Name != a.Name {
		add(Rename, "", a.Name == a.LastName, Change{Rename: w.Name, From: a.Name}, "rename", "from", a.Name, "to", w.Name)
	}
	to := func() string {
		if w.Parent == (Key{}) {
			return strings.Join(w.Path, " › ")
		}
		return called(w.Parent)
	}
	if a.Spot != "" && w.Spot() != a.Spot {
		add(Move, "", a.State != Elsewhere, Change{Move: true}, "move", "to", to())
	} else if a.Strayed && !a.LeaveAsIs {
		add(Move, "", false, Change{Move: true}, "put-back", "to", to())
	}
	for _, account := range concerned(w, a) {
		level, wanted := w.Rule.Grants[account]
		has := a.Rule.Grants[account]
		switch {
		case has == access.Nothing || account == w.Owner:
		case !wanted:
			add(Take, account, true, Change{}, "take-away")
		case has > level:
			add(Lower, account, has == a.Granted[account], Change{Level: level}, "lower", "from", has.String(), "to", level.String())
		}
	}
	return out
}

// concerned are the accounts, in order, whose level we gave and isn't what is wanted.
func concerned(w Wanted, a Actual) []string {
	for account, given := range a.Granted {
		if level, wanted := w.Rule.Grants[account]; !wanted || given > level || a.Rule.Grants[account] > level {
			return byName(a.Granted)
		}
	}
	return nil
}

// unpointed reports that a pointer is lacking in a folder that is there, or will be.
func unpointed(w Wanted, a Actual, actual map[Key]Actual) bool {
	return slices.ContainsFunc(w.Pointers, func(folder Key) bool {
		if a.Pointed[folder] {
			return false
		}
		st := actual[folder].State
		return st != InBin && st != Gone && st != Unseen
	})
}

func byName[V any](m map[string]V) []string {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	slices.SortFunc(keys, cmp.Compare[string])
	return keys
}

// A World is the things wanted by their keys: the world as it should be.
type World map[Key]Wanted

// WorldOf puts wanted things where they can be looked up.
func WorldOf(wanted []Wanted) World {
	by := make(World, len(wanted))
	for _, w := range wanted {
		by[w.Key] = w
	}
	return by
}

// Chain returns the wanted thing with a key and what it is in, up to the top,
// as the access rules see them. Their ids are their keys as they are written.
func (w World) Chain(key Key) []access.Thing {
	var out []access.Thing
	for x, ok := w[key]; ok && len(out) <= len(w); x, ok = w[x.Parent] {
		out = append(out, access.Thing{ID: x.Key.String(), Owner: x.Owner, Folder: x.Kind == Folder, Rule: x.Rule})
	}
	return out
}

// Chain is World.Chain of one thing.
func Chain(wanted []Wanted, key Key) []access.Thing { return WorldOf(wanted).Chain(key) }
