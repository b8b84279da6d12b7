// Command jollysatchel is the whole program: the server with its interface,
// the demo, and the class-list reader for scripts.
package main

import (
	"fmt"
	"os"

	"jollysatchel/internal/clock"
)

const usage = `Jolly Satchel gives every student of a class a private folder and a personal copy.

usage:
  jollysatchel serve          start the server (DATABASE_URL, PORT, JOLLY_DATA)
  jollysatchel office ADDRESS print a link that sets up a school or repairs its office account; it works once
  jollysatchel demo           start the server with demo data
  jollysatchel demo-reset     delete the demo's data
  jollysatchel migrate        update the database and stop
  jollysatchel roster FILE    read a class list, print students and findings as JSON
  jollysatchel plan LIST      print as JSON what packing a class of that list would make
`

func main() {
	if len(os.Args) < 2 {
		fmt.Fprint(os.Stderr, usage)
		os.Exit(2)
	}
	args := os.Args[2:]
	if len(args) > 0 && (args[0] == "-h" || args[0] == "-help" || args[0] == "--help") { // of whatever is asked, nothing is done
		fmt.Print(usage)
		return
	}
	var err error
	switch os.Args[1] {
	case "serve":
		err = runServe(args, false)
	case "demo":
		err = runServe(args, true)
	case "office":
		err = runOffice(args, os.Stdout)
	case "demo-reset":
		err = runReset(os.Stdout)
	case "migrate":
		err = runMigrate(args)
	case "roster":
		os.Exit(runRoster(args, os.Stdin, os.Stdout, os.Stderr))
	case "plan":
		os.Exit(runPlan(args, os.Stdin, os.Stdout, os.Stderr, clock.System()))
	default:
		fmt.Fprint(os.Stderr, usage)
		os.Exit(2)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "jollysatchel:", err)
		os.Exit(1)
	}
}
