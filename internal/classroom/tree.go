package classroom

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"strconv"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/store"
)

// Whose eyes a tree is seen with, where it isn't a student's.
const (
	StaffEyes     = "staff"
	AssistantEyes = "assistant"
)

// imagined is the account of an assistant the class needn't have.
const imagined = "\x00assistant"

// mostNodes is how many children of a node are shown at once.
const mostNodes = 60

// A Node is a thing of the room as it should be, seen by somebody.
type Node struct {
	packing.Wanted
	Place  room.Place // of the plan, where it is one of those
	Row    string     // whose it is
	Team   string     // name of the team whose it is
	State  string     // what packing does about it: new, share, rename, move, fix, left-out or there
	Note   *packing.Reason
	People int          // students its own rule names
	Given  access.Level // what it gives them, the highest
	Level  access.Level // of whoever looks
	Why    string       // where that comes from: owner, own, above, or alone
	Inside int          // what lies in it that they see
}

// A Tree is the children of one node, and how many things there are in all.
type Tree struct {
	Nodes   []Node
	More    int // children that aren't shown
	Folders int // of everything that is wanted, seen or not
	Files   int
	Grants  int            // people named in own rules, all together
	States  map[string]int // things by State
}

// Tree shows what lies under a node of the class's room and packed handouts as it
// should be, as somebody would see it: staff, an assistant, or the student of a
// row. under is a key as packing writes it, empty for the top; children are shown
// from from on. A name that isn't to be shown comes from the caller's cover.
func (c *Packing) Tree(ctx context.Context, class, eyes, under string, from int) (Tree, error) {
	r, err := c.reading(ctx, class)
	if err != nil {
		return Tree{}, err
	}
	s := *r.Picture
	account := s.Owner()
	switch eyes {
	case StaffEyes, "":
	case AssistantEyes:
		s.Room.Staff = append(slices.Clone(s.Room.Staff), room.Staff{Account: imagined, Level: access.Comment})
		account = imagined
	default:
		st, ok := s.Student(eyes)
		if !ok {
			return Tree{}, ErrNotFound
		}
		if account = st.Account; account == "" {
			account = "\x00" + st.ID // nobody yet, who reaches nothing
		}
	}
	parent := packing.Key{}
	if under != "" {
		if parent, err = packing.ParseKey(under); err != nil || parent.Class != class {
			return Tree{}, ErrNotFound
		}
	}
	return s.Tree(account, parent, from, c.Now()), nil
}

func (s *Picture) Tree(account string, under packing.Key, from int, now time.Time) Tree {
	wanted, _ := s.everything()
	world := packing.WorldOf(wanted)
	states := s.nodeStates(wanted)
	t := Tree{Nodes: []Node{}, States: map[string]int{}}
	sees := func(k packing.Key) access.Reason { return access.Effective(account, world.Chain(k), now) }
	// What lies in a folder that isn't seen stands where that would stand.
	shown := map[packing.Key]packing.Key{{}: {}} // key → the nearest above that is seen
	inside := map[packing.Key]int{}
	var below []packing.Wanted
	for _, w := range wanted {
		t.States[states[w.Key].state]++
		if w.Kind == packing.File {
			t.Files++
		} else {
			t.Folders++
		}
		t.Grants += len(w.Rule.Grants)
		at := shown[w.Parent]
		shown[w.Key] = at
		if sees(w.Key).Level < access.Read {
			continue
		}
		shown[w.Key] = w.Key
		inside[at]++
		if at == under {
			below = append(below, w)
		}
	}
	from = min(max(from, 0), len(below))
	for _, w := range below[from:min(len(below), from+mostNodes)] {
		n := s.node(w, states[w.Key], sees(w.Key))
		n.Inside = inside[w.Key]
		t.Nodes = append(t.Nodes, n)
	}
	t.More = len(below) - from - len(t.Nodes)
	return t
}

func (s *Picture) node(w packing.Wanted, st nodeState, why access.Reason) Node {
	n := Node{Wanted: w, Row: w.Key.Whom.Row, State: st.state, Note: st.note, Level: why.Level, People: len(w.Rule.Grants)}
	staff := map[string]bool{}
	for _, m := range s.Room.Staff {
		staff[m.Account] = true
	}
	for account, l := range w.Rule.Grants {
		if staff[account] {
			n.People--
			continue
		}
		n.Given = max(n.Given, l)
	}
	switch {
	case w.Key.What.Purpose == packing.Place:
		n.Place, _ = s.Plan.Place(w.Key.What.ID)
	default:
		n.Place, _ = s.Plan.Place(string(w.Key.What.Purpose))
	}
	for _, teams := range s.Room.Teams {
		for _, t := range teams {
			if w.Key.Whom.Team == t.ID {
				n.Team = t.Name
			}
		}
	}
	switch {
	case why.Owned:
		n.Why = "owner"
	case why.From != w.Key.String():
		n.Why = "above"
	case w.Rule.StandsAlone:
		n.Why = "alone"
	default:
		n.Why = "own"
	}
	return n
}

type nodeState struct {
	state string
	note  *packing.Reason
}

// nodeStates says what a packing list of everything does about each thing.
func (s *Picture) nodeStates(wanted []packing.Wanted) map[packing.Key]nodeState {
	out := make(map[packing.Key]nodeState, len(wanted))
	for _, line := range packing.Compute(wanted, nil, nil, s.actual(wanted)).Lines {
		key := line.Wanted.Key
		switch {
		case line.Section == packing.ToChange:
			if line.Step.Act == packing.Rename || line.Step.Act == packing.Move {
				out[key] = nodeState{string(line.Step.Act), line.Reason}
			}
		case line.Section == packing.NeedsFixing:
			out[key] = nodeState{"fix", line.Reason}
		case line.Section == packing.LeftOut:
			out[key] = nodeState{"left-out", line.Reason}
		case line.Step.Act == packing.Make:
			out[key] = nodeState{"new", nil}
		case line.Section == packing.ToPack:
			out[key] = nodeState{"share", nil}
		default:
			out[key] = nodeState{"there", line.Reason}
		}
	}
	return out
}

// A Kept is a place or pocket that the plan no longer has, with what there is of it.
type Kept struct {
	ID     string // of the place or pocket
	Name   string
	Things int // folders of it
	Inside int // things others put into them
	Newest string
}

// KeptPlaces are what was made for places and pockets that the plan no longer has,
// and lies where it was put.
func (c *Packing) KeptPlaces(ctx context.Context, class string) ([]Kept, error) {
	r, err := c.reading(ctx, class) // the room's list was looked at just before
	if err != nil {
		return nil, err
	}
	return r.Kept(c.School().Zone), nil
}

func (s *Picture) Kept(zone *time.Location) []Kept {
	out := []Kept{}
	at := map[string]int{}
	for _, e := range s.Unplanned() {
		id := PlaceID(e.Key)
		i, there := at[id]
		st := s.State(e)
		if !there {
			i = len(out)
			at[id] = i
			out = append(out, Kept{ID: id, Name: st.Name})
		}
		k := &out[i]
		k.Things++
		if e.Key.Whom == (packing.Whom{}) || e.Key.What.Purpose == packing.Pocket {
			k.Name = st.Name
			k.Inside += st.Inside
		}
		if day := st.InsideAt.In(zone).Format("2006-01-02"); !st.InsideAt.IsZero() && day > k.Newest {
			k.Newest = day
		}
	}
	return out
}

// placeID is the id of the place or pocket something was made for.
func PlaceID(k packing.Key) string { return or(k.What.ID, string(k.What.Purpose)) }

// unplanned are the entries of places and pockets that aren't wanted any more, the
// folders that hold others first.
func (s *Picture) Unplanned() []*ledger.Entry {
	wanted, _ := s.everything()
	world := packing.WorldOf(wanted)
	var out []*ledger.Entry
	for k, e := range s.Entries {
		switch k.What.Purpose {
		case packing.Place, packing.Pocket, packing.Shelf, packing.Table:
		default:
			continue
		}
		if _, there := world[k]; there || stateIn(s.State(e), true) != packing.Here {
			continue
		}
		if st, in := s.Student(k.Whom.Row); k.Whom.Row != "" && (!in || st.Gone) {
			continue // of one who left: that is for the teacher to say
		}
		out = append(out, e)
	}
	slices.SortFunc(out, func(a, b *ledger.Entry) int {
		whole := func(e *ledger.Entry) int {
			if e.Key.Whom == (packing.Whom{}) {
				return 0
			}
			return 1
		}
		if d := whole(a) - whole(b); d != 0 {
			return d
		}
		return cmp.Compare(a.Key.String(), b.Key.String())
	})
	return out
}

// BinKept puts what there is of a place or pocket that the plan no longer has into
// the bin, as a run. things and inside are how much was looked at.
func (c *Packing) BinKept(ctx context.Context, by, class, id string, things, inside int) (ledger.Run, error) {
	if err := c.look(ctx, class, ""); err != nil {
		return ledger.Run{}, err
	}
	return c.discard(ctx, by, class, "place-binned", map[string]any{"place": id, "things": things, "inside": inside}, func(_ *store.Store, s *Picture, run *ledger.Run) ([]packing.Step, error) {
		kept := s.Kept(c.School().Zone)
		i := slices.IndexFunc(kept, func(k Kept) bool { return k.ID == id })
		if i < 0 {
			return nil, ErrNotFound
		}
		if kept[i].Things != things || kept[i].Inside != inside {
			return nil, &change.Changed{Field: "list"}
		}
		run.Title = kept[i].Name
		var steps []packing.Step
		for _, e := range s.Unplanned() {
			if PlaceID(e.Key) == id {
				steps = append(steps, s.Discarding(e))
			}
		}
		return steps, nil
	})
}

// discarding is the step that puts something into the bin.
func (s *Picture) Discarding(e *ledger.Entry) packing.Step {
	kind := packing.Folder
	if e.Key.What.Purpose == packing.Copy {
		kind = packing.File
	}
	return packing.Step{
		StepKey: packing.StepKey{Key: e.Key, Act: packing.Discard, Generation: e.Generation},
		Wanted:  packing.Wanted{Key: e.Key, Kind: kind, Name: s.State(e).Name, Owner: s.Owner(), Rule: access.Rule{Grants: map[string]access.Level{}}},
		Change:  &packing.Change{Ends: true}, State: packing.Waiting,
	}
}

// discard makes a run of what steps says, with the class held. Where there is nothing to do
// that is refused, unless steps says that the change stands all the same: then there is no run.
func (c *Packing) discard(ctx context.Context, by, class, verb string, what any, steps func(*store.Store, *Picture, *ledger.Run) ([]packing.Step, error)) (ledger.Run, error) {
	book, err := c.book(ctx)
	if err != nil {
		return ledger.Run{}, err
	}
	id, kept := store.NewID(), ""
	err = c.Store.Change(ctx, c.act(ctx, by, verb, what, class), &kept, func(tx *store.Store) error {
		kept = ""
		s, err := c.snapshot(ctx, tx, book, class)
		if err != nil {
			return err
		}
		run := ledger.Run{ID: id, ClassID: class, State: ledger.RunPacking, StartedBy: by, StartedAt: c.Now(), Kind: ledger.DiscardRun}
		todo, err := steps(tx, s, &run)
		if errors.Is(err, errNothing) {
			return nil
		}
		if err != nil {
			return err
		}
		if len(todo) == 0 {
			return change.Refuse("list", "nothing-to-pack")
		}
		kept = id
		return c.packer.Enqueue(ctx, tx, run, todo)
	})
	if err != nil || kept == "" {
		return ledger.Run{}, notFound(err)
	}
	return c.Store.Run(ctx, kept)
}

// errNothing ends what a run would have done where that is nothing; the change stands.
var errNothing = errors.New("classroom: nothing is to be done")

// A BackLine is a thing a run made, and what keeps it from being taken back.
type BackLine struct {
	Entry  ledger.Entry
	Name   string
	Reason *packing.Reason // nil: it can be
}

// Backing is what taking a run back would put into the bin, and whether it can.
type Backing struct {
	Run   ledger.Run
	Lines []BackLine
	Held  int // lines that can't be taken back
}

// TakingBack says what taking a run back would do: what the run made goes to the
// bin while nobody has begun.
func (c *Packing) TakingBack(ctx context.Context, class, run string) (Backing, error) {
	r, err := runOf(ctx, c.Store, class, run)
	if err != nil {
		return Backing{}, err
	}
	s, err := c.now(ctx, class, "")
	if err != nil {
		return Backing{}, err
	}
	works, err := c.Store.Works(ctx, class)
	if err != nil {
		return Backing{}, err
	}
	return s.TakingBack(r, works), nil
}

// backing are the things a run made that still lie where they were put, parents
// first. One that was begun is held, and so is a folder in which something lies
// that others put there, that another run made, or that is held.
func (s *Picture) TakingBack(r ledger.Run, works map[string]ledger.Work) Backing {
	out := Backing{Run: r, Lines: []BackLine{}}
	where := s.Lying()
	stays := where.Stays(r.ID, func(e *ledger.Entry) ledger.Stands {
		st, w := s.State(e), works[e.Thing]
		return ledger.Stands{Lies: st.Place == ledger.Lies, Begun: e.Begun(st.Version, w), Words: w.Added, Inside: st.Inside}
	})
	depth := map[packing.Key]int{}
	for _, e := range s.Entries {
		st := s.State(e)
		if e.RunID != r.ID || st.Place != ledger.Lies {
			continue
		}
		line := BackLine{Entry: *e, Name: st.Name}
		if why, held := stays[e]; held {
			line.Reason = &why
			out.Held++
		}
		above, _ := where.Above(e)
		depth[e.Key] = len(above)
		out.Lines = append(out.Lines, line)
	}
	slices.SortFunc(out.Lines, func(a, b BackLine) int {
		return cmp.Or(depth[a.Entry.Key]-depth[b.Entry.Key], cmp.Compare(a.Entry.Key.String(), b.Entry.Key.String()))
	})
	return out
}

// filesIn are the versions of the copies that lie somewhere, by the copy and by each folder of
// the class that it lies in.
func (s *Picture) FilesIn() map[string]map[string]int {
	out, where := map[string]map[string]int{}, s.Lying()
	for _, e := range s.Entries {
		st := s.State(e)
		if e.Key.What.Purpose != packing.Copy || st.Place != ledger.Lies {
			continue
		}
		above, _ := where.Above(e)
		for _, in := range append(above, e) {
			if out[in.Thing] == nil {
				out[in.Thing] = map[string]int{}
			}
			out[in.Thing][e.Thing] = max(st.Version, e.Given)
		}
	}
	return out
}

// TakeBack puts what a run made into the bin, as a run of its own, while nobody has
// begun with any of it. A handout whose copies all go is as it was before it was
// packed. seen is how many things were looked at.
func (c *Packing) TakeBack(ctx context.Context, by, class, run string, seen int) (ledger.Run, error) {
	r, err := runOf(ctx, c.Store, class, run)
	if err != nil {
		return ledger.Run{}, err
	}
	if err := c.look(ctx, class, ""); err != nil {
		return ledger.Run{}, err
	}
	return c.discard(ctx, by, class, "run-taken-back", map[string]any{"run": run, "things": seen}, func(tx *store.Store, s *Picture, next *ledger.Run) ([]packing.Step, error) {
		works, err := tx.Works(ctx, class)
		if err != nil {
			return nil, err
		}
		b := s.TakingBack(r, works)
		switch {
		case b.Held > 0:
			return nil, change.Refuse("list", "begun-already", "count", strconv.Itoa(b.Held))
		case len(b.Lines) != seen:
			return nil, &change.Changed{Field: "list"}
		}
		next.Title, next.HandoutID = r.Title, r.HandoutID
		var steps []packing.Step
		gone := map[string]bool{}
		seen := s.FilesIn()
		for _, l := range b.Lines {
			gone[l.Entry.Thing] = true
			step := s.Discarding(s.Entries[l.Entry.Key])
			if step.Change.Seen = seen[l.Entry.Thing]; step.Change.Seen == nil {
				step.Change.Seen = map[string]int{}
			}
			steps = append(steps, step)
		}
		if r.HandoutID == "" {
			return steps, nil
		}
		for k, e := range s.Entries {
			if k.What.Purpose == packing.Copy && k.What.ID == r.HandoutID && !gone[e.Thing] {
				return steps, nil
			}
		}
		return steps, tx.MarkUnpacked(ctx, r.HandoutID)
	})
}
