package registers

import (
	"cmp"
	"context"
	"slices"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/usecase/seam"
)

// A MateCopy is a classmate's or another team's copy.
type MateCopy struct{ Thing, Name string }

// Mates are others' copies of a handout that a student reaches, and whom of the class they
// may let, and did let, into their own, to do what Passing says.
type Mates struct {
	Title   string
	Copies  []MateCopy
	Passing string
	Mine    []picture.Mate
}

// MatesCopies are the copies of a handout that a student reaches and that are others', by
// name. Where none are to be read, there is nothing.
func (c *Registers) MatesCopies(ctx context.Context, account, handout string) (out Mates, err error) {
	h, row, err := c.HandoutOf(ctx, account, handout)
	if err != nil {
		return out, err
	}
	s, err := c.Reading(ctx, h.ClassID)
	if err != nil {
		return out, seam.NotFound(err)
	}
	mine := map[string]bool{} // teams
	for _, all := range s.Room.Teams {
		for _, team := range all {
			mine[team.ID] = slices.Contains(team.Rows, row)
		}
	}
	of := map[string]int{} // copies of one student
	var theirs []*ledger.Entry
	for k, e := range s.Entries {
		if k.What.Purpose != packing.Copy || k.What.ID != handout || k.Whom.Row == row || mine[k.Whom.Team] || k.Whom == (packing.Whom{}) {
			continue
		}
		if s.State(e).Place == ledger.Lies && s.Level(e, account, c.Now()) >= access.Read {
			theirs = append(theirs, e)
			of[k.Whom.Row]++
		}
	}
	for _, e := range theirs {
		x := MateCopy{Thing: e.Thing, Name: s.State(e).Name}
		if student, there := s.Student(e.Key.Whom.Row); there && of[student.ID] > 1 {
			x.Name = student.CallName() + " · " + x.Name
		} else if there {
			x.Name = student.CallName()
		}
		out.Copies = append(out.Copies, x)
	}
	order := naming.NewOrder(c.School().Language)
	copies := out.Copies
	order.Sort(len(copies), func(i int) string { return copies[i].Name }, func(i, j int) { copies[i], copies[j] = copies[j], copies[i] })
	out.Title, out.Passing, out.Mine = h.Title, cmp.Or(h.Settings.Passing, access.Nothing.String()), s.MatesOf(h, row)
	return out, nil
}
