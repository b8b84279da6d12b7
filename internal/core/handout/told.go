package handout

import (
	"cmp"
	"maps"
	"slices"
	"strconv"
	"time"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/room"
)

// Told returns what differs between a handout before and after a change, in the order of its
// page, for the log; plan is that of its class, and name says whose a row is.
func Told(before, after Handout, plan room.Plan, name func(row string) string) []change.Told {
	was, is := before.Settings, after.Settings
	pocket := func(id string) string {
		for _, p := range plan.Pockets {
			if p.ID == id {
				return p.Name
			}
		}
		return ""
	}
	none := func(level string) string { return cmp.Or(level, "nothing") }
	out := change.Differing([]change.Told{
		{What: "title", From: before.Title, To: after.Title},
		{What: "documents", From: strconv.Itoa(len(was.Documents)), To: strconv.Itoa(len(is.Documents))},
		{What: "way", From: string(cmp.Or(was.Way, EachName)), To: string(cmp.Or(is.Way, EachName))},
		{What: "by", From: was.By.Label(), To: is.By.Label()},
		{What: "teams", From: was.Teams.Label(), To: is.Teams.Label()},
		{What: "level", From: was.Level, To: is.Level},
		{What: "classmates", From: none(was.Classmates), To: none(is.Classmates)},
		{What: "passing", From: none(was.Passing), To: none(is.Passing)},
		{What: "name", From: was.Name.String(), To: is.Name.String()},
		{What: "pocket", From: pocket(was.Pocket), To: pocket(is.Pocket)},
		{What: "due", From: wallText(before.Due), To: wallText(after.Due)},
		{What: "then", From: cmp.Or(was.Then, "open"), To: cmp.Or(is.Then, "open")},
		{What: "send", From: wallText(before.Send), To: wallText(after.Send)},
		{What: "show", From: was.Show, To: is.Show},
		{What: "tell", From: string(was.Tell), To: string(is.Tell)},
	}...)
	for _, long := range []struct {
		what     string
		was, now any
	}{
		{"documents", was.Documents, is.Documents}, {"choice", was.Choice, is.Choice},
		{"own", []any{was.Names, was.Pockets}, []any{is.Names, is.Pockets}},
		{"message", was.Message, is.Message}, {"instructions", was.Instructions, is.Instructions},
		{"links", was.Links, is.Links}, {"parents", was.ForParents, is.ForParents},
		{"mail", []any{was.Mail, was.MailChanged}, []any{is.Mail, is.MailChanged}},
	} {
		told := slices.ContainsFunc(out, func(t change.Told) bool { return t.What == long.what })
		if !told && change.Digest(long.was) != change.Digest(long.now) {
			out = append(out, change.Told{What: long.what})
		}
	}
	out = append(out, each("out", was.Out, is.Out, "in", name)...)
	out = append(out, each("level", was.Levels, is.Levels, is.Level, name)...)
	return append(out, each("extra", was.Extra, is.Extra, "", name)...)
}

// each are what differs row by row; usual is what is said of one that nothing is said of.
func each(what string, was, is map[string]string, usual string, name func(row string) string) (out []change.Told) {
	rows := slices.Sorted(maps.Keys(was))
	for _, row := range slices.Sorted(maps.Keys(is)) {
		if _, both := was[row]; !both {
			rows = append(rows, row)
		}
	}
	for _, row := range rows {
		if was[row] != is[row] {
			out = append(out, change.Told{What: what, Whose: name(row), From: cmp.Or(was[row], usual), To: cmp.Or(is[row], usual)})
		}
	}
	return out
}

// Shared is of what was told what all the classes of a handout may hear: nothing of one class's
// students, and of its pockets only that another was chosen.
func Shared(told []change.Told) []change.Told {
	var out []change.Told
	for _, t := range told {
		switch t.What {
		case "out", "choice", "own", "extra":
		case "pocket":
			out = append(out, change.Told{What: t.What})
		default:
			out = append(out, t)
		}
	}
	return out
}

// wallText is a wall-clock time as the log keeps it; empty: none.
func wallText(at time.Time) string {
	if at.IsZero() {
		return ""
	}
	return at.Format("2006-01-02T15:04")
}
