// Command withpg runs another command with a private PostgreSQL beside it, so
// that all test programs of one run share one server.
package main

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"

	"jollysatchel/internal/pgserver"
	"jollysatchel/internal/pgserver/pgtest"
)

func main() { os.Exit(run()) }

func run() int {
	dir, err := os.MkdirTemp("", "jollysatchel-test-*")
	if err != nil {
		fmt.Fprintln(os.Stderr, "withpg:", err)
		return 1
	}
	defer os.RemoveAll(dir)
	data := filepath.Join(dir, "pg")
	server, err := pgserver.StartBrief(context.Background(), data)
	if err != nil {
		fmt.Fprintln(os.Stderr, "withpg:", err)
		return 1
	}
	defer func() {
		if err := server.Stop(); err != nil {
			fmt.Fprintln(os.Stderr, "withpg:", err)
		}
		if err := pgserver.Remove(data); err != nil {
			fmt.Fprintln(os.Stderr, "withpg:", err)
		}
	}()
	cmd := exec.Command(os.Args[1], os.Args[2:]...)
	cmd.Env = append(os.Environ(), pgtest.Variable+"="+server.URL("postgres"))
	cmd.Stdin, cmd.Stdout, cmd.Stderr = os.Stdin, os.Stdout, os.Stderr
	if err := cmd.Run(); err != nil {
		if code := cmd.ProcessState.ExitCode(); code > 0 {
			return code
		}
		return 1
	}
	return 0
}
