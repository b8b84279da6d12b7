package packing

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"slices"

	"jollysatchel/internal/core/access"
)

// A StepState is how far a step of a run has come.
type StepState string

// The states of a step. A step that no longer follows from the roster ends
// passed over.
const (
	Waiting    StepState = "waiting"
	Packed     StepState = "packed"
	Stuck      StepState = "stuck"
	PassedOver StepState = "passed-over"
)

// A Step is one line of a run: what it does, and what it was for when the list
// was made.
type Step struct {
	StepKey
	Wanted Wanted
	Change *Change
	State  StepState
	Reason *Reason
}

// A Part of a packing list: Rows, where not empty, restricts it to some rows
// and what they need; Changes are the lines to change that were ticked, Anew and
// Back the lines whose thing is to be made again or brought back from the bin, Skip
// the lines to pack that were unticked for this time; all as StepKey and Key
// write them.
type Part struct{ Rows, Changes, Anew, Back, Skip []string }

// Steps are what a run of the list does: its lines to pack wait, its lines that
// need fixing stand stuck among them, to be fixed there; lines to change are
// taken in where they were ticked. Links are not among them: they are done
// before the list they are ticked in is made.
func (l List) Steps(part Part) []Step {
	var out []Step
	rows, skip := set(part.Rows), set(part.Skip)
	changes, anew, back := set(part.Changes), set(part.Anew), set(part.Back)
	remade := map[Key]bool{}  // what is made again, and what lay in it with it
	without := map[Key]bool{} // what isn't made this time, and so nothing in it
	for _, line := range l.Lines {
		w := line.Wanted
		if row := w.Key.Whom.Row; row != "" && len(rows) > 0 && !rows[row] {
			continue
		}
		if line.Section == ToPack && line.Step.Act == Make && (skip[line.Step.String()] || without[w.Parent]) {
			without[w.Key] = true
			continue
		}
		if line.Section == ToPack && skip[line.Step.String()] {
			continue
		}
		st := Step{StepKey: line.Step, Wanted: line.Wanted, Change: line.Change}
		switch {
		case line.Step.Act == Relink:
			continue
		case line.Section == ToPack, line.Section == ToChange && changes[line.Step.String()]:
			st.State = Waiting
		case line.Section == NeedsFixing && st.Act != None:
			st.State, st.Reason, st.Change = Stuck, line.Reason, nil
			switch {
			case slices.Contains(line.Remedies, MakeAnew) && anew[w.Key.String()], line.Step.Act == Make && remade[w.Parent]:
				remade[w.Key] = true
				st.State, st.Reason = Waiting, nil
			case slices.Contains(line.Remedies, BringBack) && back[w.Key.String()]:
				st.State, st.Reason = Waiting, nil
				st.Act, st.Change = Restore, cmp.Or(line.Change, &Change{})
				st.Generation--
			}
		default:
			continue
		}
		out = append(out, st)
	}
	return out
}

func set(list []string) map[string]bool {
	m := make(map[string]bool, len(list))
	for _, s := range list {
		m[s] = true
	}
	return m
}

// Following are the lines to change that linking rows again means, as StepKey
// writes them: what is taken away of the rows' own things, and, of the class's
// and its teams' places, what is taken from former, the accounts that had the rows' things and
// are no student's now.
func (l List) Following(rows []string, former map[string]bool) []string {
	var out []string
	for _, line := range l.Lines {
		whom := line.Wanted.Key.Whom
		mine := whom.Row != "" && slices.Contains(rows, whom.Row)
		if line.Section == ToChange && line.Step.Act == Take && (mine || whom.Row == "" && former[line.Step.Account]) {
			out = append(out, line.Step.String())
		}
	}
	return out
}

// Closing are the steps that take the class's own places (its folder, shelf and
// table, what is for teams) and classmates' copies away from accounts that left: done at
// once, in the acceptance in which they leave.
func (l List) Closing(left map[string]bool) []Step {
	var out []Step
	for _, line := range l.Lines {
		if line.Section == ToChange && line.Step.Act == Take && (line.Wanted.Key.Whom.Row == "" || line.Wanted.Mates) && left[line.Step.Account] {
			out = append(out, Step{StepKey: line.Step, Wanted: line.Wanted, Change: line.Change, State: Waiting})
		}
	}
	return out
}

// Reach are the steps that bring an account to what is wanted of a thing for it, whatever it
// has when they are done: what is under way may give or take it in this moment.
func Reach(w Wanted, generation int, account string) []Step {
	step := Step{StepKey: StepKey{Key: w.Key, Generation: generation}, Wanted: w, State: Waiting}
	level := w.Rule.Grants[account]
	if level == access.Nothing {
		step.Act, step.Account, step.Change = Take, account, &Change{}
		return []Step{step}
	}
	lower := step
	step.Act = Share
	lower.Act, lower.Account, lower.Change = Lower, account, &Change{Level: level}
	return []Step{step, lower}
}

// Needs are the keys of the things a step can't be done without.
func (s Step) Needs() []Key {
	if s.Change != nil && !s.Change.Move {
		return nil
	}
	var out []Key
	if s.Wanted.Parent != (Key{}) {
		out = append(out, s.Wanted.Parent)
	}
	if s.Change != nil {
		return out
	}
	return append(out, s.Wanted.Pointers...)
}

// Shares reports a step that gives somebody access.
func (s Step) Shares() bool {
	return (s.Act == Make || s.Act == Share) && len(s.Wanted.Rule.Grants) > 0
}

// Again computes a waiting step from what is wanted now, just before it is
// done: it may have another name, rule or parent, be stuck, or no longer follow.
func (s Step) Again(wanted map[Key]Wanted) Step {
	if s.Act == Discard || s.Act == HandOver || s.Act == Bring || s.Act == Restore && s.Wanted.Parent == (Key{}) {
		return s // it says itself what happens to it, wanted or not
	}
	w, ok := wanted[s.Key]
	if !ok && (s.Act == Take || s.mends()) {
		return s // nobody is to have what isn't wanted any more; and what nothing wants may be wrong
	}
	if !ok {
		return s.end(PassedOver, &Reason{Code: "no-longer-wanted"})
	}
	s.Wanted = w
	level, given := w.Rule.Grants[s.Account]
	switch {
	case s.Change == nil && w.Problem != nil:
		return s.end(Stuck, w.Problem)
	case s.Change == nil && w.Hold != nil:
		return s.end(Stuck, w.Hold)
	case s.Act == Rename && w.Name == s.Change.From, s.Act == Lower && (!given || level > s.Change.Level), s.Act == Take && given:
		return s.end(PassedOver, &Reason{Code: "wanted-again"})
	case s.Act == Rename:
		c := *s.Change
		c.Rename = w.Name
		s.Change = &c
	case s.mends():
		c := *s.Change
		c.Level, c.Alone, c.To, c.Mark = level, w.Rule.StandsAlone, w.Owner, w.Closed
		s.Change = &c
		if s.Act == Close && w.Closed == nil {
			return s.end(PassedOver, &Reason{Code: "open-again"})
		}
		if s.Act == Reopen && w.Closed != nil {
			return s.end(PassedOver, &Reason{Code: "closed-again"})
		}
	}
	return s
}

// mends reports a step that comes of a door check.
func (s Step) mends() bool {
	switch s.Act {
	case SetLevel, ShutLink, SetAlone, Close, Reopen, TakeBack:
		return true
	}
	return false
}

func (s Step) end(state StepState, why *Reason) Step {
	s.State, s.Reason = state, why
	return s
}

// Digest is the same for lists that do the same: what a teacher looked at is
// told by it from what there is now.
func (l List) Digest() string {
	type does struct {
		Step     string
		Section  Section
		Name     string
		Spot     string
		Rule     access.Rule
		Source   string
		Pointers []Key
		Change   *Change
		Reason   *Reason
	}
	sum := sha256.New()
	enc := json.NewEncoder(sum)
	for _, line := range l.Lines {
		if line.Section == AlreadyThere || line.Section == LeftOut {
			continue
		}
		w := line.Wanted
		d := does{line.Step.String(), line.Section, w.Name, w.Spot(), w.Rule, w.Source, w.Pointers, line.Change, line.Reason}
		if line.Section == NeedsFixing {
			d.Step = w.Key.String()
		}
		if err := enc.Encode(d); err != nil {
			panic(err) // plain values always encode
		}
	}
	return hex.EncodeToString(sum.Sum(nil)[:12])
}
