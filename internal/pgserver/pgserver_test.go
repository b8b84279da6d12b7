package pgserver

import (
	"bufio"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	_ "github.com/jackc/pgx/v5/stdlib"
)

const child = "JOLLY_PGSERVER_CHILD"

// A child is a program of its own that starts the server and waits to be killed.
func TestMain(m *testing.M) {
	if dir := os.Getenv(child); dir != "" {
		s, err := Start(context.Background(), dir)
		if err != nil {
			fmt.Println(err)
			os.Exit(1)
		}
		fmt.Println(s.URL("jolly"))
		io.Copy(io.Discard, os.Stdin)
		os.Exit(0)
	}
	os.Exit(m.Run())
}

// elsewhere starts the server in another program: what it printed, and how it is killed.
func elsewhere(t *testing.T, dir string) (said string, cmd *exec.Cmd) {
	t.Helper()
	cmd = exec.Command(os.Args[0])
	cmd.Env = append(os.Environ(), child+"="+dir)
	out, err := cmd.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if _, err := cmd.StdinPipe(); err != nil {
		t.Fatal(err)
	}
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	line, err := bufio.NewReader(out).ReadString('\n')
	if err != nil {
		t.Fatal(err)
	}
	return strings.TrimSpace(line), cmd
}

func ask(t *testing.T, s *Server, query string, before ...string) string {
	t.Helper()
	address, err := s.Ensure(context.Background(), "jolly")
	if err != nil {
		t.Fatal(err)
	}
	db, err := sql.Open("pgx", address)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	for _, b := range before {
		if _, err := db.Exec(b); err != nil {
			t.Fatalf("%s: %v", b, err)
		}
	}
	var answer string
	if err := db.QueryRow(query).Scan(&answer); err != nil {
		t.Fatalf("%s: %v", query, err)
	}
	return answer
}

func start(t *testing.T, dir string) *Server {
	t.Helper()
	s, err := Start(context.Background(), dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := s.Stop(); err != nil {
			t.Error(err)
		}
	})
	return s
}

// A folder is one program's: a second is told so, also to remove it. A server that
// outlived its program is taken over with what it holds; a stopped one starts
// again with it; a removed one leaves nothing.
func TestServerOutlivesItsProgram(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "pg")
	said, other := elsewhere(t, dir)
	var used *InUse
	if _, err := Start(context.Background(), dir); !errors.As(err, &used) || used.PID != other.Process.Pid {
		t.Fatalf("beside process %d: %v", other.Process.Pid, err)
	}
	if err := Remove(dir); !errors.As(err, &used) {
		t.Fatalf("removed beside another program: %v", err)
	}
	if err := other.Process.Kill(); err != nil {
		t.Fatal(err)
	}
	other.Wait()

	second := start(t, dir)
	if got := second.URL("jolly"); got != said {
		t.Errorf("a second server was started: %s, %s", said, got)
	}
	if got := ask(t, second, `insert into kept values ('chalk') returning v`, `create table kept (v text)`); got != "chalk" {
		t.Errorf("the server taken over answers %q", got)
	}
	if err := second.Stop(); err != nil {
		t.Fatal(err)
	}
	// Its number is another program's by now, this one's.
	if err := os.WriteFile(filepath.Join(second.data(), "postmaster.pid"),
		fmt.Appendf(nil, "%d\n%s\n1\n%d\n", os.Getpid(), second.data(), second.port), 0o600); err != nil {
		t.Fatal(err)
	}
	third := start(t, dir)
	if got := ask(t, third, `select v from kept`); got != "chalk" {
		t.Errorf("after a stop the server answers %q", got)
	}
	if got := ask(t, third, `select host(inet_server_addr())`); got != "127.0.0.1" {
		t.Errorf("the server listens on %s", got)
	}
	if err := third.Stop(); err != nil {
		t.Fatal(err)
	}
	if err := Remove(dir); err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(third.Dir()); !os.IsNotExist(err) {
		t.Errorf("something is left of it: %v", err)
	}
}

// Nobody of this machine gets in without the password, which only its owner can
// read; also into data that was made when none was asked for.
func TestPassword(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "pg")
	s := start(t, dir)
	without := func(s *Server) error {
		u, _ := url.Parse(s.URL("postgres"))
		u.User = url.User("jolly")
		db, err := sql.Open("pgx", u.String())
		if err != nil {
			t.Fatal(err)
		}
		defer db.Close()
		return db.Ping()
	}
	if err := without(s); err == nil {
		t.Error("let in without a password")
	}
	if info, err := os.Stat(filepath.Join(s.Dir(), "password")); err != nil || info.Mode().Perm() != 0o600 {
		t.Errorf("the password's file: %v, %v", info, err)
	}
	if got := ask(t, s, `select rolpassword from pg_authid where rolname = 'jolly'`); !strings.HasPrefix(got, "SCRAM-SHA-256$") {
		t.Errorf("the password is kept as %.20s", got)
	}
	if err := os.WriteFile(filepath.Join(s.data(), "pg_hba.conf"),
		[]byte("local all all trust\nhost all all 127.0.0.1/32 trust\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	if err := s.Stop(); err != nil {
		t.Fatal(err)
	}
	if err := os.Remove(filepath.Join(s.Dir(), "password")); err != nil {
		t.Fatal(err)
	}
	again := start(t, dir)
	if got := ask(t, again, `select 'in'`); got != "in" {
		t.Error(got)
	}
	if err := without(again); err == nil {
		t.Error("let into older data without a password")
	}
	if err := again.Stop(); err != nil {
		t.Fatal(err)
	}
	if err := Remove(dir); err != nil {
		t.Error(err)
	}
}

// A server that is killed is there again, at the same address, with what it held.
func TestKilledServer(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "pg")
	s := start(t, dir)
	ctx, quiet := context.WithTimeout(context.Background(), time.Minute)
	var watching sync.WaitGroup
	watching.Go(func() { s.Watch(ctx, slog.New(slog.DiscardHandler)) })
	if got := ask(t, s, `insert into kept values ('chalk') returning v`, `create table kept (v text)`); got != "chalk" {
		t.Fatal(got)
	}
	b, err := os.ReadFile(filepath.Join(s.data(), "postmaster.pid"))
	if err != nil {
		t.Fatal(err)
	}
	first, _, _ := strings.Cut(string(b), "\n")
	pid, err := strconv.Atoi(first)
	if err != nil {
		t.Fatal(err)
	}
	p, err := os.FindProcess(pid)
	if err != nil {
		t.Fatal(err)
	}
	if err := p.Kill(); err != nil {
		t.Fatal(err)
	}
	db, err := sql.Open("pgx", s.URL("jolly"))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	var kept string
	for err = errors.New("not asked"); err != nil && ctx.Err() == nil; {
		err = db.QueryRowContext(ctx, `select v from kept`).Scan(&kept)
	}
	if kept != "chalk" {
		t.Errorf("after it was killed: %q, %v", kept, err)
	}
	quiet()
	watching.Wait()
	if err := s.Stop(); err != nil {
		t.Fatal(err)
	}
	if err := Remove(dir); err != nil {
		t.Error(err)
	}
}
