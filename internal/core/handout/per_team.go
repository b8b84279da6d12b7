package handout

import (
	"maps"

	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
)

// PerTeam is the way that gives every team of a set a copy of its own, shared with
// its members and pointed to from their satchels. Who is in no team must be fixed.
type PerTeam struct {
	Plan room.Plan
	Settings
}

var _ Way = PerTeam{}

// Wanted implements room.Subject.
func (h PerTeam) Wanted(c room.Class) ([]packing.Wanted, []packing.Absent) {
	return wantedOf(h.Plan, c, h.Settings, h.Own(c))
}

// Own implements Way. A team of which nobody is in gets none.
func (h PerTeam) Own(c room.Class) []packing.Wanted {
	wanted := folders(c, h.Settings)
	by := map[string]room.Student{}
	for _, st := range h.in(c) {
		by[st.Row] = st
	}
	all := maps.Clone(by)
	var teams []taker
	var members [][]room.Student
	for i, team := range c.Teams[h.Teams] {
		var of []room.Student
		for _, row := range team.Rows {
			if st, in := by[row]; in {
				of = append(of, st)
				if st.Problem == nil {
					delete(all, row)
				}
			}
		}
		if len(of) > 0 {
			values := record.Values{record.Team: team.Name, h.Teams: team.Name}
			teams, members = append(teams,
				taker{packing.Whom{Team: team.ID}, record.With{Own: values, Rest: c.Own}, i, h.homes(c, of...)}), append(members, of)
		}
	}
	for _, st := range c.Students {
		if _, left := all[st.Row]; !left {
			continue
		}
		why := st.Problem
		if why == nil {
			why = &packing.Reason{Code: packing.TeamNone, Args: map[string]string{"column": h.Teams.Label()}}
		}
		wanted = append(wanted, h.without(c, st, why))
	}
	var taken []string
	for _, d := range h.Documents {
		names := h.names(c, d, len(h.Documents) > 1, teams, taken)
		for k, t := range teams {
			wanted = append(wanted, h.shared(c, d, t, members[k], names[k]))
			taken = append(taken, names[k].Name)
		}
	}
	return wanted
}
