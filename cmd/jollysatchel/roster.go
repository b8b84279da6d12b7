package main

import (
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"

	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/tables"
)

// runRoster reads one class list and prints what was understood as JSON. It
// returns the exit status: 0, 1 where there are errors, 2 where the file
// can't be read as a table.
func runRoster(args []string, stdin io.Reader, stdout, stderr io.Writer) int {
	flags := flag.NewFlagSet("roster", flag.ContinueOnError)
	flags.SetOutput(stderr)
	flags.Usage = func() { fmt.Fprintln(stderr, "usage: jollysatchel roster FILE   (- reads standard input)") }
	if err := flags.Parse(args); err != nil {
		return 2
	}
	if flags.NArg() != 1 {
		flags.Usage()
		return 2
	}
	in := stdin
	if name := flags.Arg(0); name != "-" {
		f, err := os.Open(name)
		if err != nil {
			fmt.Fprintln(stderr, "jollysatchel:", err)
			return 2
		}
		defer f.Close()
		in = f
	}
	table, err := tables.Read(in)
	if err != nil {
		var te *tables.Error
		if errors.As(err, &te) {
			fmt.Fprintf(stderr, "jollysatchel: %s: %v\n", flags.Arg(0), te)
		} else {
			fmt.Fprintln(stderr, "jollysatchel:", err)
		}
		return 2
	}
	res := roster.Read(table, roster.Options{})
	out := json.NewEncoder(stdout)
	out.SetEscapeHTML(false)
	out.SetIndent("", "  ")
	if err := out.Encode(res); err != nil {
		fmt.Fprintln(stderr, "jollysatchel:", err)
		return 2
	}
	if res.Errors() > 0 {
		return 1
	}
	return 0
}
