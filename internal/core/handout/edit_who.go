package handout

import (
	"cmp"
	"maps"
	"slices"
	"strconv"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/choosing"
)

// Out says who of some students gets no copy of a handout and why: by hand or by its choice.
func (h Handout) Out(students []choosing.Student) map[string]string {
	out := map[string]string{}
	for _, o := range h.choose(students) {
		if !o.In {
			out[o.Row] = string(o.Reason)
		}
	}
	return out
}

func (h Handout) choose(students []choosing.Student) []choosing.Outcome {
	asked := slices.Clone(students)
	for i, s := range asked {
		asked[i].SitsOut = h.Settings.Out[s.Row] == SitsOut
	}
	return choosing.Choose(asked, h.Settings.Choice)
}

// crowd refuses classmates of one another where there are too many.
func (h Handout) crowd(students []choosing.Student) error {
	if len(students)-len(h.Out(students)) > MostClassmates {
		return change.TooMany("classmates", "too-many-classmates", MostClassmates)
	}
	return nil
}

// level is what students may do with their own copies.
func (e editing) level() error {
	if e.To.Level == nil {
		return nil
	}
	if err := levelKnown(*e.To.Level); err != nil {
		return err
	}
	return change.Put(e.Was.Level, "level", &e.set().Level, *e.To.Level)
}

// levelKnown refuses what isn't a level that a student can have.
func levelKnown(level string) error {
	if l, ok := access.ParseLevel(level); !ok || l < access.Read || l > access.Edit {
		return change.Refuse("level", "no-such-level")
	}
	return nil
}

// classmates says what students may do with each other's copies.
func (e editing) classmates() error {
	if e.To.Classmates == nil {
		return nil
	}
	now, to := cmp.Or(e.set().Classmates, access.Nothing.String()), *e.To.Classmates
	l, ok := access.ParseLevel(to)
	if !ok || l > access.Comment {
		return change.Refuse("classmates", "no-such-level")
	}
	if l > access.Nothing {
		if err := e.h.crowd(e.Students); err != nil {
			return err
		}
	}
	if err := change.Unless(e.Was.Classmates, "classmates", now, to); err != nil {
		return err
	}
	if e.set().Classmates != "" || l > access.Nothing {
		e.set().Classmates = to
	}
	return nil
}

// passing says what students may let classmates do with their own copies.
func (e editing) passing() error {
	if e.To.Passing == nil {
		return nil
	}
	now, to := cmp.Or(e.set().Passing, access.Nothing.String()), *e.To.Passing
	l, ok := access.ParseLevel(to)
	if !ok || l > access.Edit {
		return change.Refuse("passing", "no-such-level")
	}
	if most, _ := access.ParseLevel(e.set().Level); l > most {
		return change.Refuse("passing", "more-than-own")
	}
	if err := change.Unless(e.Was.Passing, "passing", now, to); err != nil {
		return err
	}
	if e.set().Passing != "" || l > access.Nothing {
		e.set().Passing = to
	}
	return nil
}

// choice says by conditions and picks who is in.
func (e editing) choice() error {
	if e.To.Choice == nil {
		return nil
	}
	if code, args := e.To.Choice.Refused(); code != "" {
		return &change.Invalid{Field: "choice", Code: code, Args: args}
	}
	for i, cond := range e.To.Choice.Conditions {
		if !cond.Whole() {
			return change.Refuse("choice", "condition-unfinished", "place", strconv.Itoa(i+1))
		}
	}
	if e.Was.Choice != nil {
		was := change.Digest(e.Was.Choice.Plain())
		if err := change.Unless(&was, "choice", change.Digest(e.set().Choice.Plain()), change.Digest(e.To.Choice.Plain())); err != nil {
			return err
		}
	}
	e.set().Choice = *e.To.Choice
	return nil
}

// picks takes students out or in by hand. Whom a condition keeps out is taken
// in against it.
func (e editing) picks() error {
	s := e.set()
	s.Out, s.Choice.Ticked = cloned(s.Out), cloned(s.Choice.Ticked)
	if len(e.To.Out) == 0 {
		return nil
	}
	now := e.h.Out(e.Students)
	for _, row := range slices.Sorted(maps.Keys(e.To.Out)) {
		why := e.To.Out[row]
		if !e.there(row) && why != "" {
			return change.Refuse("out", "no-such-student")
		}
		if was, said := e.Was.Out[row]; said {
			if err := change.Unless(&was, "out", now[row], why); err != nil {
				return err
			}
		}
		switch why {
		case "":
			delete(s.Out, row)
			delete(s.Choice.Ticked, row)
			if e.keptOut(row) {
				s.Choice.Ticked[row] = true
			}
		case SitsOut:
			s.Out[row] = why
		case Unticked:
			s.Choice.Ticked[row] = false
		default:
			return change.Refuse("out", "no-such-reason")
		}
	}
	return nil
}

// keptOut reports whether the choice keeps a student out whom nobody took out by hand.
func (e editing) keptOut(row string) bool {
	i := slices.IndexFunc(e.Students, func(s choosing.Student) bool { return s.Row == row })
	if i < 0 {
		return false
	}
	o := e.h.choose(e.Students[i : i+1])[0]
	return o.Reason == choosing.ByCondition || o.Reason == choosing.Unticked
}
