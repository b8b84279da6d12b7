package doorcheck

import (
	"maps"
	"strconv"
	"strings"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/words"
)

// A Person is somebody as pages call them.
type Person struct {
	Name string
	Row  string // of the class's list, of a student
}

// A Told is a reach in names.
type Told struct {
	Reach
	Person        // nobody: everybody of the school
	Thing  string // what it is called
	In     string // what the folder is called that it lies in
	Folder string // what the folder is called that gives it; of one that is let in, whose copy it is
}

// mostTold are told at once.
const mostTold = 2000

// Tell says reaches in names; who is an account's, whose says of a copy whose it is.
func (w World) Tell(all []Reach, who func(account string) Person, whose func(thing string) string) []Told {
	called, in := map[string]string{}, map[string]string{}
	for _, f := range w.Found {
		called[f.ID], in[f.ID] = f.Name, f.Parent
	}
	out := make([]Told, 0, min(len(all), mostTold))
	for _, r := range all[:min(len(all), mostTold)] {
		x := Told{Reach: r, Thing: called[r.Thing], In: called[in[r.Thing]], Folder: called[r.From]}
		if r.Who != "" {
			x.Person = who(r.Who)
		}
		if r.Way == LetIn {
			x.Folder = whose(r.Thing)
		}
		out = append(out, x)
	}
	return out
}

// ReachTable is what somebody reaches, or who reaches something, as a table.
func ReachTable(all []Told) [][]string {
	out := [][]string{{"Who", "Thing", "In", "May", "Should be", "Why"}}
	for _, r := range all {
		who := r.Name
		if who == "" {
			who = words.English.Way["school"]
		}
		why := words.Fill(words.English.Way[string(r.Way)], "from", r.Folder)
		if r.Closed {
			why += " " + words.English.Way["closed"]
		}
		out = append(out, []string{who, r.Thing, r.In, words.English.Level[r.Level.String()], words.English.Level[r.Should.String()], why})
	}
	return out
}

// Table is a result as a table, of a moment: what it says as a whole, then each difference.
func (r Result) Table(checked string, who func(account string) Person) [][]string {
	out := [][]string{
		{"Checked", checked}, {"Differences", strconv.Itoa(len(r.Lines) + r.More + len(r.Wrong))},
		{"Students", strconv.Itoa(r.Students)}, {"Staff", strconv.Itoa(r.Staff)}, {"Things", strconv.Itoa(r.Things)},
		{"Doors as they should be", strconv.Itoa(r.Doors)}, {"Tried as students", strconv.Itoa(r.Tried)}, {},
		{"What differs", "Thing", "Who", "For", "Is", "Should be", "Why", "Left as it is"},
	}
	add := func(lines []Line, left string) {
		for _, l := range lines {
			var names []string
			for _, p := range l.Who {
				names = append(names, who(p).Name)
			}
			whom := ""
			if l.For != "" {
				whom = who(l.For).Name
			}
			out = append(out, []string{words.English.Door[string(l.Kind)], l.Name, strings.Join(names, "; "), whom, l.said(l.Is),
				l.said(l.Should), l.why(), left})
		}
	}
	add(r.Lines, "")
	add(r.Left, "yes")
	for _, t := range r.Wrong {
		out = append(out, []string{words.English.Door["tried"], t.Name, who(t.Who).Name})
	}
	return out
}

// why is why it is a difference, in words; a moment as people write it.
func (l Line) why() string {
	args := maps.Clone(l.Why.Args)
	if at, err := time.Parse(time.RFC3339, args["at"]); err == nil {
		args["at"] = at.Format("Mon 2 Jan 2006, 15:04")
	}
	return words.Reason(l.Why.Code, args)
}

// said is a level, where a line is about one.
func (l Line) said(level access.Level) string {
	if l.Is == l.Should {
		return ""
	}
	return words.English.Level[level.String()]
}

// Chosen are the differences of some ids; a *change.Changed where one of them isn't there any more, or
// is another.
func (r Report) Chosen(ids []string) ([]Difference, error) {
	by := map[string]Difference{}
	for _, d := range r.Differences {
		by[d.ID()] = d
	}
	var out []Difference
	for _, id := range ids {
		d, ok := by[id]
		if !ok {
			return nil, &change.Changed{Field: "list"}
		}
		out = append(out, d)
	}
	return out, nil
}
