package lists

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"slices"
	"strconv"
	"strings"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
)

// A Refusal says why a plan can't be accepted as it stands.
type Refusal struct {
	Code string
	Args map[string]string
}

// Invalid is the refusal as what asked for it is told.
func (r *Refusal) Invalid() *change.Invalid {
	return &change.Invalid{Field: "list", Code: r.Code, Args: r.Args}
}

// Refused returns why the plan can't be accepted, nil where it can.
func (p Plan) Refused(list roster.Result, a Answers) *Refusal {
	accepted, doubtful := 0, 0
	size, seen := map[string]int{}, map[string]string{}
	for _, l := range p.Lines {
		if !l.Accepted {
			continue
		}
		accepted++
		if l.Kind == roster.Doubtful {
			doubtful++
		}
		if l.Student == nil {
			continue
		}
		at := l.Class + "/"
		if l.Class == NewClass {
			at += l.Group
		}
		size[at]++
		for _, key := range []string{l.Student.Number, strings.ToLower(l.Student.Address)} {
			if key == "" {
				continue
			}
			if first, twice := seen[at+key]; twice {
				return &Refusal{"student-twice-in-class", map[string]string{"name": l.Student.Name(), "first": first}}
			}
			seen[at+key] = l.Student.Name()
		}
	}
	for _, n := range size {
		if n > roster.MaxStudents {
			return TooMany(n)
		}
	}
	undecided := slices.IndexFunc(p.Parts, func(x Part) bool { return x.Target == Undecided })
	addresses := a.Derived || slices.ContainsFunc(list.Columns, func(c roster.Column) bool { return c.Role == roster.Address })
	switch {
	case undecided >= 0:
		return &Refusal{"which-class", map[string]string{"class": p.Parts[undecided].Name}}
	case len(list.Students) == 0 || accepted == 0:
		return &Refusal{"nobody", nil}
	case !addresses && !a.Without:
		return &Refusal{"no-address-column", nil}
	case doubtful > 0:
		return &Refusal{"doubtful", map[string]string{"count": strconv.Itoa(doubtful)}}
	}
	return nil
}

// TooMany is the refusal of a class of n students.
func TooMany(n int) *Refusal {
	return &Refusal{"too-many-students", map[string]string{"most": strconv.Itoa(roster.MaxStudents), "count": strconv.Itoa(n)}}
}

// Arriving says which row of a class a student typed in is: one that has their
// address or number. here reports that the row is in the class, so that they
// can't be added; a row that has left is theirs again where its address and name
// are. -1 is nobody's row: a new one begins.
func Arriving(rows []roster.ClassRow, s record.Record) (row int, here bool) {
	row = -1
	for i, r := range rows {
		sameAddress := s.Address != "" && strings.EqualFold(r.Address, s.Address)
		switch {
		case !r.Gone && (sameAddress || s.Number != "" && r.Number == s.Number):
			return i, true
		case r.Gone && sameAddress && roster.SameName(r.Record, s):
			row = i
		}
	}
	return row, false
}

// An ActKind says what is done to one row.
type ActKind string

// An Act is one thing accepting a plan does to one row of one class.
type Act struct {
	Kind   ActKind
	Class  string // id; for a class to be made NewClass
	Group  string // of the list
	Row    string // empty for Join
	Before record.Record
	Record record.Record // what the row says from now on
	Same   bool          // the address is theirs although the school book has another name
}

// Acts are what accepting the plan does, in the order of its lines.
func (p Plan) Acts(a Answers) []Act {
	var out []Act
	for _, l := range p.Lines {
		if !l.Accepted {
			continue
		}
		act := Act{Class: l.From, Group: l.Group}
		if l.Row != nil {
			act.Row, act.Before, act.Record = l.Row.ID, l.Row.Record, l.Row.Record
		}
		if l.Student != nil {
			act.Same = a.Same[l.Student.Row]
		}
		switch l.Kind {
		case roster.Left:
			act.Kind = Leave
			out = append(out, act)
		case roster.Moved:
			act.Kind = Leave
			joined := Act{Kind: Join, Class: l.Class, Group: l.Group, Record: l.Student.Record, Same: act.Same || l.Row.Confirmed != ""}
			for f, lacks := range p.lacks {
				if lacks {
					joined.Record.Set(f, l.Row.Get(f))
				}
			}
			out = append(out, act, joined)
		case roster.Joined:
			out = append(out, Act{Kind: Join, Class: l.Class, Group: l.Group, Record: l.Student.Record, Same: act.Same})
		case roster.Changed, roster.Returned:
			act.Kind = Set
			for _, f := range l.Fields {
				if f.Accepted {
					act.Record.Set(f.Field, f.To)
				}
			}
			out = append(out, act)
		}
	}
	return out
}

// Counts returns the number of accepted lines of each kind.
func (p Plan) Counts() map[roster.Kind]int {
	n := map[roster.Kind]int{}
	for _, l := range p.Lines {
		if l.Accepted {
			n[l.Kind]++
		}
	}
	return n
}

// Told says how many of each kind were accepted, for the log.
func (p Plan) Told() []change.Told {
	n := p.Counts()
	var out []change.Told
	for _, kind := range []roster.Kind{roster.Joined, roster.Returned, roster.Changed, roster.Moved, roster.Left} {
		if n[kind] > 0 {
			out = append(out, change.Told{What: "list-" + string(kind), To: strconv.Itoa(n[kind])})
		}
	}
	return out
}

// Digest is the same for plans of one list that do the same to the rows there
// are: what a teacher looked at is told by it from what there is now. Who joins
// is the list's to say, and not looked at again.
func (p Plan) Digest(a Answers) string {
	sum := sha256.New()
	enc := json.NewEncoder(sum)
	for _, part := range p.Parts {
		if err := enc.Encode([]string{part.Key, part.Target}); err != nil {
			panic(err) // plain values always encode
		}
	}
	for _, act := range p.Acts(a) {
		if act.Kind == Join {
			continue
		}
		if err := enc.Encode(act); err != nil {
			panic(err)
		}
	}
	return hex.EncodeToString(sum.Sum(nil)[:12])
}
