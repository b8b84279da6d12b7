package doors

import (
	"context"
	"strconv"
	"strings"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/doorcheck"
	"jollysatchel/internal/core/words"
	"jollysatchel/internal/store"
	"jollysatchel/internal/usecase/seam"
)

// A Checked is a check without what it found.
type Checked = store.CheckedDoors

// A CheckedClass is a class with its newest check, if it was ever checked.
type CheckedClass struct {
	ID, Name string
	Last     Checked
}

// All are all classes of the school by name, each with its newest check.
func (c *Doors) All(ctx context.Context) ([]CheckedClass, error) {
	cs, err := c.Store.Classes(ctx, "")
	if err != nil {
		return nil, err
	}
	ids := make([]string, len(cs))
	for i, cl := range cs {
		ids[i] = cl.ID
	}
	newest, err := c.Store.NewestDoorChecks(ctx, ids)
	if err != nil {
		return nil, err
	}
	book, err := c.Book(ctx)
	out := make([]CheckedClass, len(cs))
	for i, cl := range cs {
		out[i] = CheckedClass{cl.ID, cl.Name, newest[cl.ID]}
		if by := out[i].Last.By; by != "" && err == nil {
			out[i].Last.By = book.Called(by)
		}
	}
	return out, err
}

// Export is the newest check of a class as a table: what it says as a whole, then each difference.
func (c *Doors) Export(ctx context.Context, class string) ([][]string, error) {
	last, ok, err := c.Last(ctx, class)
	if err != nil {
		return nil, err
	}
	if !ok {
		return nil, seam.ErrNotFound
	}
	r := last.Result
	out := [][]string{
		{"Checked", c.Moment(last.At)}, {"Differences", strconv.Itoa(len(r.Lines) + r.More + len(r.Wrong))},
		{"Students", strconv.Itoa(r.Students)}, {"Staff", strconv.Itoa(r.Staff)}, {"Things", strconv.Itoa(r.Things)},
		{"Doors as they should be", strconv.Itoa(r.Doors)}, {"Tried as students", strconv.Itoa(r.Tried)}, {},
		{"What differs", "Thing", "Who", "For", "Is", "Should be", "Why", "Left as it is"},
	}
	add := func(lines []doorcheck.Line, left string) {
		for _, l := range lines {
			var who []string
			for _, p := range l.Who {
				who = append(who, last.Names[p])
			}
			out = append(out, []string{words.English.Door[string(l.Kind)], l.Name, strings.Join(who, "; "), last.Names[l.For], said(l.Is, l),
				said(l.Should, l), words.Reason(l.Why.Code, l.Why.Args), left})
		}
	}
	add(r.Lines, "")
	add(r.Left, "yes")
	for _, t := range r.Wrong {
		out = append(out, []string{words.English.Door["tried"], t.Name, last.Names[t.Who]})
	}
	return out, nil
}

// said is a level, where a line is about one.
func said(level access.Level, l doorcheck.Line) string {
	if l.Is == l.Should {
		return ""
	}
	return words.English.Level[level.String()]
}

// ReachTable is what somebody reaches, or who reaches something, as a table.
func ReachTable(all []Reach) [][]string {
	out := [][]string{{"Who", "Thing", "In", "May", "Should be", "Why"}}
	for _, r := range all {
		who := r.Person
		if who == "" {
			who = words.English.Way["school"]
		}
		why := words.Fill(words.English.Way[string(r.Way)], "from", r.Folder)
		if r.Closed {
			why += " " + words.English.Way["closed"]
		}
		out = append(out, []string{who, r.Name, r.In, words.English.Level[r.Level.String()], words.English.Level[r.Should.String()], why})
	}
	return out
}
