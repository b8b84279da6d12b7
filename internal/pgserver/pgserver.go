// Package pgserver starts and stops a private PostgreSQL on loopback, for a
// machine that has the server's programs and no database of its own.
package pgserver

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"net"
	"net/url"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"sort"
	"strconv"
	"strings"
	"syscall"
	"time"

	_ "github.com/jackc/pgx/v5/stdlib" // the driver that says whether the server answers
)

// A Server is a running private PostgreSQL.
type Server struct {
	dir     string
	bin     string
	port    int
	cred    *syscall.Credential
	adopted bool
}

// Dir is the folder the data lies in.
func (s *Server) Dir() string { return s.dir }

// Start brings up the server whose data lies in dir, making it first where
// there is none. A server that outlived its program is taken over. As root the
// server's programs run as the user postgres, with the data where that user
// can reach it.
func Start(ctx context.Context, dir string) (*Server, error) {
	bin, err := programs()
	if err != nil {
		return nil, err
	}
	dir, err = filepath.Abs(dir)
	if err != nil {
		return nil, err
	}
	s := &Server{dir: dir, bin: bin}
	if os.Geteuid() == 0 {
		if err := s.dropRoot(); err != nil {
			return nil, err
		}
	}
	if err := os.MkdirAll(s.dir, 0o700); err != nil {
		return nil, fmt.Errorf("data folder: %w", err)
	}
	if s.cred != nil {
		if err := os.Chown(s.dir, int(s.cred.Uid), int(s.cred.Gid)); err != nil {
			return nil, fmt.Errorf("data folder: %w", err)
		}
	}
	if port := s.living(); port > 0 {
		s.port, s.adopted = port, true
		return s, s.ready(ctx)
	}
	data := filepath.Join(s.dir, "data")
	if _, err := os.Stat(filepath.Join(data, "PG_VERSION")); errors.Is(err, os.ErrNotExist) {
		if err := s.initdb(data); err != nil {
			return nil, err
		}
	}
	if s.port, err = freePort(); err != nil {
		return nil, err
	}
	// The data lies on a disk without a head to move, and queries are short.
	opts := fmt.Sprintf("-h 127.0.0.1 -p %d -k %s -c max_connections=200 -c shared_buffers=256MB -c timezone=UTC -c random_page_cost=1.1 -c jit=off", s.port, s.dir)
	out, err := s.run("pg_ctl", "-D", data, "-l", filepath.Join(s.dir, "log"), "-w", "-t", "60", "-o", opts, "start")
	if err != nil {
		return nil, fmt.Errorf("starting PostgreSQL: %w: %s", err, out)
	}
	return s, s.ready(ctx)
}

// initdb makes the data in a folder beside its place and moves it there whole,
// so that an interrupted start leaves nothing half made.
func (s *Server) initdb(data string) error {
	fresh := data + ".new"
	if err := os.RemoveAll(fresh); err != nil {
		return err
	}
	if out, err := s.run("initdb", "-D", fresh, "-U", "jolly", "-A", "trust", "-E", "UTF8", "--locale=C.UTF-8", "--no-sync"); err != nil {
		return fmt.Errorf("making the database: %w: %s", err, out)
	}
	return os.Rename(fresh, data)
}

// URL returns the address of a database on the server.
func (s *Server) URL(database string) string {
	u := url.URL{Scheme: "postgres", User: url.User("jolly"), Host: net.JoinHostPort("127.0.0.1", strconv.Itoa(s.port)), Path: "/" + database, RawQuery: "sslmode=disable"}
	return u.String()
}

// Ensure makes the database where it isn't there yet and returns its address.
func (s *Server) Ensure(ctx context.Context, database string) (string, error) {
	db, err := sql.Open("pgx", s.URL("postgres"))
	if err != nil {
		return "", err
	}
	defer db.Close()
	var there bool
	if err := db.QueryRowContext(ctx, "select exists(select 1 from pg_database where datname = $1)", database).Scan(&there); err != nil {
		return "", err
	}
	if !there {
		if _, err := db.ExecContext(ctx, `create database "`+strings.ReplaceAll(database, `"`, `""`)+`"`); err != nil {
			return "", fmt.Errorf("making database %s: %w", database, err)
		}
	}
	return s.URL(database), nil
}

// Stop ends the server; open connections are closed.
func (s *Server) Stop() error {
	out, err := s.run("pg_ctl", "-D", filepath.Join(s.dir, "data"), "-m", "fast", "-w", "-t", "30", "stop")
	if err != nil {
		return fmt.Errorf("stopping PostgreSQL: %w: %s", err, out)
	}
	return nil
}

// Remove stops nothing and deletes the data of the server in dir.
func Remove(dir string) error {
	abs, err := filepath.Abs(dir)
	if err != nil {
		return err
	}
	s := &Server{dir: abs}
	if os.Geteuid() == 0 {
		if err := s.dropRoot(); err != nil {
			return err
		}
	}
	if port := s.living(); port > 0 {
		return fmt.Errorf("the database in %s is running: stop Jolly Satchel first", dir)
	}
	return os.RemoveAll(s.dir)
}

// dropRoot chooses the user postgres, and for the data a folder under
// /var/lib/jollysatchel named after the wanted path: folders of root's are out
// of that user's reach.
func (s *Server) dropRoot() error {
	u, err := user.Lookup("postgres")
	if err != nil {
		return fmt.Errorf("PostgreSQL won't run as root and there is no user postgres: %w", err)
	}
	uid, _ := strconv.ParseUint(u.Uid, 10, 32)
	gid, _ := strconv.ParseUint(u.Gid, 10, 32)
	s.cred = &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}
	sum := sha256.Sum256([]byte(s.dir))
	base := "/var/lib/jollysatchel"
	if err := os.MkdirAll(base, 0o755); err != nil {
		return err
	}
	s.dir = filepath.Join(base, filepath.Base(filepath.Dir(s.dir))+"-"+hex.EncodeToString(sum[:4]))
	return nil
}

func (s *Server) run(program string, args ...string) (string, error) {
	cmd := exec.Command(filepath.Join(s.bin, program), args...)
	cmd.Dir = s.dir
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: s.cred, Setpgid: true}
	// pg_ctl's child keeps what it inherits: output goes to a file, not a pipe.
	f, err := os.CreateTemp("", "jollysatchel-pg-*")
	if err != nil {
		return "", err
	}
	defer os.Remove(f.Name())
	defer f.Close()
	cmd.Stdout, cmd.Stderr = f, f
	err = cmd.Run()
	b, _ := os.ReadFile(f.Name())
	return strings.TrimSpace(string(b)), err
}

// living returns the port of a server that already runs on this data, else 0.
func (s *Server) living() int {
	b, err := os.ReadFile(filepath.Join(s.dir, "data", "postmaster.pid"))
	if err != nil {
		return 0
	}
	lines := strings.Split(string(b), "\n")
	if len(lines) < 4 {
		return 0
	}
	pid, _ := strconv.Atoi(strings.TrimSpace(lines[0]))
	port, _ := strconv.Atoi(strings.TrimSpace(lines[3]))
	if pid <= 0 || syscall.Kill(pid, 0) != nil {
		return 0
	}
	return port
}

// ready waits until the server answers.
func (s *Server) ready(ctx context.Context) error {
	ctx, stop := context.WithTimeout(ctx, 30*time.Second)
	defer stop()
	db, err := sql.Open("pgx", s.URL("postgres"))
	if err != nil {
		return err
	}
	defer db.Close()
	for {
		if err = db.PingContext(ctx); err == nil {
			return nil
		}
		select {
		case <-ctx.Done():
			return fmt.Errorf("PostgreSQL doesn't answer: %w", err)
		case <-time.After(50 * time.Millisecond):
		}
	}
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}

// programs finds the folder with the server's programs: on the path, else
// where Debian puts them, newest first.
func programs() (string, error) {
	if p, err := exec.LookPath("pg_ctl"); err == nil {
		if real, err := filepath.EvalSymlinks(p); err == nil {
			return filepath.Dir(real), nil
		}
	}
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/pg_ctl")
	if len(found) == 0 {
		return "", errors.New("PostgreSQL's programs are not installed: on Debian, apt-get install postgresql")
	}
	sort.Strings(found)
	return filepath.Dir(found[len(found)-1]), nil
}
