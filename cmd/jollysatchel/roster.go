package main

import (
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"strings"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/tables"
)

const rosterUsage = `usage: jollysatchel roster [flags] FILE   (- reads standard input)
  --sheet NAME     the sheet to read: its name, or its number from 1
  --class NAME     only the rows of this class
  --domain DOMAIN  the school's email domain; other addresses become findings
  --known FILE     the email addresses of the School book, in any list; others become findings
  --compare OLD    print what changed since an older list, as JSON
  --family-first   full names start with the family name
`

// runRoster reads one class list and prints what was understood as JSON. It
// returns the exit status: 0, 1 where there are errors, 2 where the file
// can't be read as a table.
func runRoster(args []string, stdin io.Reader, stdout, stderr io.Writer) int {
	c := rosterCommand{stdin: stdin, stderr: stderr}
	flags := flag.NewFlagSet("roster", flag.ContinueOnError)
	flags.SetOutput(stderr)
	flags.Usage = func() { fmt.Fprint(stderr, rosterUsage) }
	old := flags.String("compare", "", "")
	known := c.listFlags(flags)
	file, err := oneFile(flags, args)
	if err != nil {
		return 2
	}
	if err := c.knows(*known); err != nil {
		return c.fail(*known, err)
	}
	res, err := c.read(file)
	if err != nil {
		return c.fail(file, err)
	}
	var out any = res
	if *old != "" {
		before, err := c.read(*old)
		if err != nil {
			return c.fail(*old, err)
		}
		out = comparison(before.Result, res.Result)
	}
	enc := json.NewEncoder(stdout)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	if err := enc.Encode(out); err != nil {
		fmt.Fprintln(stderr, "jollysatchel:", err)
		return 2
	}
	if res.Errors() > 0 {
		return 1
	}
	return 0
}

// oneFile parses flags that may be before or after the one file's name.
func oneFile(flags *flag.FlagSet, args []string) (string, error) {
	var files []string
	for {
		if err := flags.Parse(args); err != nil {
			return "", err
		}
		if flags.NArg() == 0 {
			break
		}
		files = append(files, flags.Arg(0))
		args = flags.Args()[1:]
	}
	if len(files) != 1 {
		flags.Usage()
		return "", errors.New("one file")
	}
	return files[0], nil
}

type rosterCommand struct {
	stdin        io.Reader
	stderr       io.Writer
	sheet, class string
	opt          roster.Options
}

// listFlags are those of every command that reads a list. It returns the file of
// what the school book knows.
func (c *rosterCommand) listFlags(flags *flag.FlagSet) (known *string) {
	flags.StringVar(&c.sheet, "sheet", "", "")
	flags.StringVar(&c.class, "class", "", "")
	flags.StringVar(&c.opt.Domain, "domain", "", "")
	flags.BoolVar(&c.opt.FamilyFirst, "family-first", false, "")
	return flags.String("known", "", "")
}

func (c *rosterCommand) knows(file string) (err error) {
	c.opt.Later = true
	if file != "" {
		c.opt.Known, err = c.known(file)
	}
	return err
}

// A printed list is what was read, with the teachers an archive names.
type printed struct {
	roster.Result
	Teachers []tables.Teacher `json:"staff,omitempty"`
}

func (c rosterCommand) fail(file string, err error) int {
	var te *tables.Error
	if errors.As(err, &te) {
		err = fmt.Errorf("%s: %w", file, te)
	}
	fmt.Fprintln(c.stderr, "jollysatchel:", err)
	return 2
}

func (c rosterCommand) open(file string) (tables.Book, error) {
	if file == "-" {
		return tables.Read(c.stdin)
	}
	f, err := os.Open(file)
	if err != nil {
		return tables.Book{}, err
	}
	defer f.Close()
	return tables.Read(f)
}

func (c rosterCommand) read(file string) (printed, error) {
	book, err := c.open(file)
	if err != nil {
		return printed{}, err
	}
	sheet, err := book.Sheet(c.sheet)
	if err != nil {
		return printed{}, err
	}
	opt := c.opt
	if c.class != "" {
		opt.Class = c.class
		book.Teachers = ofClass(book.Teachers, c.class)
	}
	res := roster.Read(sheet.Table, opt)
	if c.class != "" && res.Counts.Rows == 0 {
		return printed{}, fmt.Errorf("%s has no row of the class %q", file, c.class)
	}
	return printed{res, book.Teachers}, nil
}

func ofClass(all []tables.Teacher, class string) []tables.Teacher {
	var out []tables.Teacher
	for _, t := range all {
		if naming.Fold(t.Class) == naming.Fold(class) {
			out = append(out, t)
		}
	}
	return out
}

// known reads every address of a file, whatever else is there, with the
// name beside it where the file is a list of people.
func (c rosterCommand) known(file string) (func(string, record.Record) roster.Knowing, error) {
	book, err := c.open(file)
	if err != nil {
		return nil, err
	}
	sheet, err := book.Sheet("")
	if err != nil {
		return nil, err
	}
	names := map[string]string{}
	for _, s := range roster.Read(sheet.Table, roster.Options{}).Students {
		names[strings.ToLower(s.Address)] = s.Name()
	}
	known := map[string]bool{}
	var all []accounts.Account
	for _, row := range sheet.Table.Rows {
		for _, cell := range row.Cells {
			a := strings.TrimSpace(cell)
			if lower := strings.ToLower(a); roster.AddressForm(a) == "" && !known[lower] {
				known[lower] = true
				all = append(all, accounts.Account{Address: a, Given: names[lower]})
			}
		}
	}
	return func(address string, of record.Record) roster.Knowing {
		lower := strings.ToLower(address)
		if !known[lower] {
			return roster.Knowing{Suggestion: accounts.Like(address, of.Name(), all)}
		}
		k := roster.Knowing{Known: true}
		if name := names[lower]; name != "" {
			k.Account = roster.Account{ID: lower, Address: address, Given: name, Student: true}
		}
		return k
	}, nil
}

// A compared line of the comparison that is printed. Row is the line in the
// newer list, OldRow in the older, 0 where there is none.
type comparedLine struct {
	Kind       roster.Kind          `json:"kind"`
	Row        int                  `json:"row"`
	OldRow     int                  `json:"old_row"`
	Name       string               `json:"name"`
	By         string               `json:"by,omitempty"`
	Why        string               `json:"why,omitempty"`
	Fields     []record.FieldChange `json:"fields"`
	Candidates []int                `json:"candidates,omitempty"` // lines in the older list
}

type compared struct {
	Lines    []comparedLine      `json:"lines"`
	Counts   map[roster.Kind]int `json:"counts"`
	Findings []roster.Finding    `json:"findings"` // of the newer list
}

func comparison(before, after roster.Result) compared {
	old := make([]roster.Known, len(before.Students))
	for i, s := range before.Students {
		old[i].Student = s
	}
	c := roster.Compare(old, after.Students, roster.CompareOptions{Has: after.Fields()})
	out := compared{Lines: make([]comparedLine, 0, len(c)), Counts: map[roster.Kind]int{}, Findings: after.Findings}
	for _, k := range roster.Kinds {
		out.Counts[k] = 0
	}
	for _, d := range c {
		out.Counts[d.Kind]++
		l := comparedLine{Kind: d.Kind, By: d.By, Why: d.Why, Fields: d.Fields}
		if l.Fields == nil {
			l.Fields = []record.FieldChange{}
		}
		if d.Old >= 0 {
			l.OldRow, l.Name = old[d.Old].Row, old[d.Old].Name()
		}
		if d.New >= 0 {
			l.Row, l.Name = after.Students[d.New].Row, after.Students[d.New].Name()
		}
		for _, o := range d.Candidates {
			l.Candidates = append(l.Candidates, old[o].Row)
		}
		out.Lines = append(out.Lines, l)
	}
	return out
}
