package main

import (
	"cmp"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/planfile"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/core/words"
)

const planUsage = `usage: jollysatchel plan --room ROOM.json [flags] LIST   (LIST - reads standard input)
  --room FILE      the room plan; without it, the usual one
  --handout FILE   a handout for the students of the list
  --sheet NAME     the sheet to read: its name, or its number from 1
  --class NAME     only the rows of this class
  --name NAME      the name of the class (the class named in the list)
  --owner ADDRESS  the owner teacher (owner)
  --day DAY        the day it is packed, such as 2026-11-25 (today)
  --domain, --known, --family-first   see jollysatchel roster
`

// A plannedThing is one thing that packing would make.
type plannedThing struct {
	Key    string            `json:"key"`
	Kind   packing.Kind      `json:"kind"`
	Path   []string          `json:"path"` // from the top, its own name last
	Row    int               `json:"row,omitempty"`
	Name   string            `json:"student,omitempty"`
	Team   string            `json:"team,omitempty"`
	Owner  string            `json:"owner"`
	Alone  bool              `json:"standsAlone"`
	Levels map[string]string `json:"levels"` // of its own rule: address → read, comment or edit
	Rule   string            `json:"rule"`   // in words
	Source string            `json:"source,omitempty"`
	Apart  string            `json:"toldApart,omitempty"`
	Marked string            `json:"altered,omitempty"`
}

// A plannedOut is somebody of the list for whom something isn't made, and why.
type plannedOut struct {
	Row    int    `json:"row"`
	Name   string `json:"student,omitempty"`
	Key    string `json:"key,omitempty"`
	Code   string `json:"code"`
	Reason string `json:"reason"`
}

type planned struct {
	Things      []plannedThing          `json:"things"`
	LeftOut     []plannedOut            `json:"leftOut"`
	NeedsFixing []plannedOut            `json:"needsFixing"`
	Counts      map[string]int          `json:"counts"`
	Levels      map[string]int          `json:"grants"` // by level, over all own rules
	Purposes    map[packing.Purpose]int `json:"purposes"`
}

type planCommand struct {
	rosterCommand
	room, handout, name, owner, day string
}

// runPlan prints as JSON everything that packing an empty class would make of a
// list, and makes nothing. It returns the exit status: 0, 1 where something needs
// fixing, 2 where a file can't be read.
func runPlan(args []string, stdin io.Reader, stdout, stderr io.Writer, today time.Time) int {
	c := planCommand{rosterCommand: rosterCommand{stdin: stdin, stderr: stderr}}
	flags := flag.NewFlagSet("plan", flag.ContinueOnError)
	flags.SetOutput(stderr)
	flags.Usage = func() { fmt.Fprint(stderr, planUsage) }
	flags.StringVar(&c.room, "room", "", "")
	flags.StringVar(&c.handout, "handout", "", "")
	flags.StringVar(&c.name, "name", "", "")
	flags.StringVar(&c.owner, "owner", "owner", "")
	flags.StringVar(&c.day, "day", today.Format(time.DateOnly), "")
	known := c.listFlags(flags)
	file, err := oneFile(flags, args)
	if err != nil {
		return 2
	}
	if err := c.knows(*known); err != nil {
		return c.fail(*known, err)
	}
	if _, err := time.Parse(time.DateOnly, c.day); err != nil {
		return c.fail("--day", fmt.Errorf("%q is not a day such as 2026-11-25", c.day))
	}
	list, err := c.read(file)
	if err != nil {
		return c.fail(file, err)
	}
	out, err := c.plan(file, list.Result)
	if err != nil {
		fmt.Fprintln(stderr, "jollysatchel:", err)
		return 2
	}
	enc := json.NewEncoder(stdout)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	if err := enc.Encode(out); err != nil {
		fmt.Fprintln(stderr, "jollysatchel:", err)
		return 2
	}
	if len(out.NeedsFixing) > 0 {
		return 1
	}
	return 0
}

// plan is what packing an empty class of the list would make.
func (c planCommand) plan(file string, list roster.Result) (planned, error) {
	class := c.classOf(file, list)
	known := record.VocabularyOf(func(yield func(record.Record) bool) {
		for _, s := range list.Students {
			if !yield(s.Record) {
				return
			}
		}
	})
	plan := room.Usual()
	reader := planfile.Reader{Known: known}
	if c.room != "" {
		b, err := content(c.room)
		if err == nil {
			plan, err = reader.ReadRoom(b)
		}
		if err := c.refused(c.room, err, reader); err != nil {
			return planned{}, err
		}
		if problems := plan.Check(room.English, known); len(problems) > 0 {
			return planned{}, c.problems(problems)
		}
	}
	plan.Day = c.day
	var sets []record.Field
	for _, place := range plan.AllPlaces() {
		sets = append(sets, place.Set)
	}
	class.Teams = teamsOf(sets, list.Students)
	var subject room.Subject = plan
	if c.handout != "" {
		b, err := content(c.handout)
		var f planfile.Sentence
		if err == nil {
			f, err = reader.ReadHandout(b)
		}
		if err := c.refused(c.handout, err, reader); err != nil {
			return planned{}, err
		}
		class.Teams = teamsOf(append(sets, cmp.Or(f.Teams, record.Team)), list.Students)
		if subject, err = c.way(plan, class, f); err != nil {
			return planned{}, fmt.Errorf("%s: %w", c.handout, err)
		}
	}
	wanted, absent := subject.Wanted(class)
	if c.handout != "" { // the whole room, and what the handout has beside it
		all, away := plan.Wanted(class)
		absent = append(away, absent...)
		for _, w := range wanted {
			if !slices.ContainsFunc([]packing.Purpose{packing.Copy, packing.Handouts, packing.HandoutFolder},
				func(p packing.Purpose) bool { return p == w.Key.What.Purpose }) {
				continue
			}
			all = append(all, w)
		}
		wanted = all
	}
	return show(list, class, packing.Compute(wanted, absent, nil, nil)), nil
}

func content(file string) ([]byte, error) {
	f, err := os.Open(file)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(io.LimitReader(f, planfile.MostBytes+1))
}

// refused is why a file of a plan or handout can't be read, in words.
func (c planCommand) refused(file string, err error, r planfile.Reader) error {
	var e *planfile.Error
	switch {
	case errors.As(err, &e):
		return fmt.Errorf("%s: %s", file, words.Problem(e.Code, e.Args))
	case err != nil:
		return err
	case len(r.Unknown) > 0:
		return fmt.Errorf("%s: %s", file, words.Problem("columns-unknown", map[string]string{"columns": strings.Join(r.Unknown, ", ")}))
	}
	return nil
}

func (c planCommand) problems(all []room.Problem) error {
	var lines []string
	for _, p := range all {
		lines = append(lines, fmt.Sprintf("%s: %s, %d: %s", c.room, p.Field, p.At+1, words.Problem(p.Code, p.Args)))
	}
	return errors.New(strings.Join(lines, "\n"))
}

// classOf is the list as a class that has nothing yet.
func (c planCommand) classOf(file string, list roster.Result) room.Class {
	name := c.name
	if name == "" && c.class != "" {
		name = c.class
	}
	if name == "" && len(list.Students) > 0 {
		name = list.Students[0].Class
	}
	if name == "" {
		name = strings.TrimSuffix(filepath.Base(file), filepath.Ext(file))
	}
	out := room.Class{ID: "class", Folder: name, Owner: c.owner, Names: room.English,
		Own: record.Values{record.Code: name, record.ClassName: name}}
	for i, s := range list.Students {
		student := room.Student{
			Row: strconv.Itoa(s.Row), Account: strings.ToLower(s.Address), Added: i, Name: s.SortName(),
			Values: record.InClass{Record: s.Record, ClassCode: name, ClassTitle: name},
		}
		switch {
		case s.Address == "":
			student.Waits = &packing.Reason{Code: roster.NoAddress}
		case c.opt.Known != nil && !c.opt.Known(s.Address, s.Record).Known:
			student.Account = ""
			student.Waits = &packing.Reason{Code: roster.AccountUnknown, Args: map[string]string{"address": s.Address}}
		}
		out.Students = append(out.Students, student)
	}
	return out
}

// teamsOf are the teams that columns name.
func teamsOf(sets []record.Field, students []roster.Student) map[record.Field][]room.Team {
	out := map[record.Field][]room.Team{}
	for _, set := range sets {
		if set == "" || out[set] != nil {
			continue
		}
		at := map[string]int{}
		teams := []room.Team{}
		for _, s := range students {
			name := s.Get(set)
			if name == "" {
				continue
			}
			i, there := at[naming.Fold(name)]
			if !there {
				i = len(teams)
				at[naming.Fold(name)] = i
				teams = append(teams, room.Team{ID: strconv.Itoa(i + 1), Name: name})
			}
			teams[i].Rows = append(teams[i].Rows, strconv.Itoa(s.Row))
		}
		out[set] = teams
	}
	return out
}

func (c planCommand) way(plan room.Plan, class room.Class, f planfile.Sentence) (handout.Way, error) {
	level, ok := access.ParseLevel(f.Level)
	if !ok || level < access.Read || level > access.Edit {
		return nil, errors.New(words.Problem("level-unknown", map[string]string{"value": f.Level}))
	}
	if len(f.Called) == 0 {
		f.Called = handout.UsualNameOf(f.Way)
	}
	s := handout.Settings{ID: "handout", Title: f.Title, Name: f.Called, Level: level, By: cmp.Or(f.By, record.Level),
		Teams: cmp.Or(f.Teams, record.Team), Out: map[string]string{}, Values: record.DayValues(c.day, plan.Term)}
	s.Values[record.Title] = f.Title
	if len(f.Documents) == 0 { // which it is, the file doesn't say
		f.Documents, f.Names = []planfile.Document{{}}, []naming.Pattern{nil}
	}
	for i, d := range f.Documents {
		ending := naming.Ending(d.Template)
		s.Documents = append(s.Documents,
			handout.Document{Slot: i + 1, Thing: d.Template, Original: strings.TrimSuffix(d.Template, ending), Ending: ending,
				Name: f.Names[i], For: d.For})
	}
	if f.Pocket != "" {
		i := slices.IndexFunc(plan.Pockets, func(p room.Pocket) bool { return naming.Fold(p.Name) == naming.Fold(f.Pocket) })
		if i < 0 {
			return nil, fmt.Errorf("the room has no pocket called %q", f.Pocket)
		}
		s.Pocket = plan.Pockets[i].ID
	}
	if f.Choice != nil {
		var all []choosing.Student
		for _, st := range class.Students {
			all = append(all, choosing.Student{Row: st.Row, Values: st.Values})
		}
		for _, o := range choosing.Choose(all, *f.Choice) {
			if !o.In {
				s.Out[o.Row] = string(o.Reason)
			}
		}
	}
	return handout.Of(f.Way, plan, s), nil
}

// show is a packing list as it is printed.
func show(list roster.Result, class room.Class, l packing.List) planned {
	out := planned{Things: []plannedThing{}, LeftOut: []plannedOut{}, NeedsFixing: []plannedOut{},
		Counts: map[string]int{"folders": 0, "files": 0}, Levels: map[string]int{}, Purposes: map[packing.Purpose]int{}}
	names, teams := map[string]string{}, map[string]string{}
	for _, s := range class.Students {
		names[s.Row] = s.Name
	}
	for _, set := range class.Teams {
		for _, t := range set {
			teams[t.ID] = t.Name
		}
	}
	line := func(row string) int { n, _ := strconv.Atoi(row); return n }
	paths := map[packing.Key][]string{}
	for _, x := range l.Lines {
		w := x.Wanted
		above := paths[w.Parent]
		if w.Parent == (packing.Key{}) {
			above = w.Path
		}
		path := append(slices.Clone(above), w.Name)
		paths[w.Key] = path
		switch x.Section {
		case packing.LeftOut, packing.NeedsFixing:
			o := plannedOut{Row: line(w.Key.Whom.Row), Name: names[w.Key.Whom.Row], Code: x.Reason.Code, Reason: reasonText(*x.Reason)}
			if x.Section == packing.LeftOut {
				out.LeftOut = append(out.LeftOut, o)
			} else {
				o.Key = w.Key.String()
				out.NeedsFixing = append(out.NeedsFixing, o)
			}
		default:
			t := plannedThing{Key: w.Key.String(), Kind: w.Kind, Path: path, Row: line(w.Key.Whom.Row),
				Name: names[w.Key.Whom.Row], Team: teams[w.Key.Whom.Team], Owner: w.Owner, Alone: w.Rule.StandsAlone,
				Levels: map[string]string{}, Source: w.Source, Apart: w.Apart, Marked: w.Altered}
			var who []string
			for _, account := range sortedKeys(w.Rule.Grants) {
				level := w.Rule.Grants[account]
				t.Levels[account] = level.String()
				out.Levels[level.String()]++
				who = append(who, account+" can "+level.String())
			}
			t.Rule = w.Owner + " owns it"
			if len(who) > 0 {
				t.Rule += "; " + strings.Join(who, ", ")
			}
			if w.Rule.StandsAlone {
				t.Rule += "; nobody else, whatever the folders above say"
			} else {
				t.Rule += "; and whoever the folders above let in"
			}
			out.Things = append(out.Things, t)
			out.Counts[string(w.Kind)+"s"]++
			out.Purposes[w.Key.What.Purpose]++
		}
	}
	for _, f := range list.Findings {
		if f.Severity == roster.Error && !slices.ContainsFunc(out.NeedsFixing, func(o plannedOut) bool { return o.Row == f.Row && f.Row > 0 }) {
			out.NeedsFixing = append(out.NeedsFixing, plannedOut{Row: f.Row, Code: f.Code, Reason: f.Message})
		}
	}
	out.Counts["things"], out.Counts["leftOut"], out.Counts["needsFixing"] = len(out.Things), len(out.LeftOut), len(out.NeedsFixing)
	out.Counts["students"] = len(class.Students)
	return out
}

func reasonText(r packing.Reason) string {
	var pairs []string
	for k, v := range r.Args {
		pairs = append(pairs, k, v)
	}
	return words.Fill(words.English.Reason[r.Code], pairs...)
}

func sortedKeys[V any](m map[string]V) []string {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	return keys
}
