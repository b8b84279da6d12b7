// Package pgserver starts and stops a private PostgreSQL on loopback, for a
// machine that has the server's programs and no database of its own.
package pgserver

import (
	"context"
	"crypto/rand"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/url"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	_ "github.com/jackc/pgx/v5/stdlib" // the driver that says whether the server answers
)

// A Server is a running private PostgreSQL. While it is there, its data folder is
// this program's alone.
type Server struct {
	options  string // further ones it is started with
	dir      string
	bin      string
	port     int
	password string
	cred     *syscall.Credential
	lock     *os.File
	mu       sync.Mutex // of starting and stopping
	stopped  bool
}

// Dir is the folder the data is in.
func (s *Server) Dir() string { return s.dir }

// InUse says that another program has a data folder.
type InUse struct {
	Dir string
	PID int // 0 where it can't be told
}

func (e *InUse) Error() string {
	if e.PID == 0 {
		return fmt.Sprintf("another Jolly Satchel uses the data in %s: stop it first, or choose another folder (JOLLY_DATA)", e.Dir)
	}
	return fmt.Sprintf("another Jolly Satchel (process %d) uses the data in %s: stop it first, or choose another folder (JOLLY_DATA)",
		e.PID, e.Dir)
}

// Start brings up the server whose data is in dir, making it first where
// there is none. A server that outlived its program is taken over. As root the
// server's programs run as the user postgres, with the data where that user
// can reach it. The error is an *InUse where another program has the folder.
func Start(ctx context.Context, dir string) (*Server, error) { return startWith(ctx, dir, "") }

// StartBrief is Start of a server whose data nobody needs once the machine stops, as tests
// want it: it doesn't wait for the disk. A killed server or program loses nothing.
func StartBrief(ctx context.Context, dir string) (*Server, error) {
	return startWith(ctx, dir, " -c fsync=off -c full_page_writes=off -c max_connections=600") // many programs at once
}

func startWith(ctx context.Context, dir, options string) (*Server, error) {
	s, err := at(dir)
	if err != nil {
		return nil, err
	}
	s.options = options
	if s.bin, err = programs(); err != nil {
		return nil, err
	}
	if err := os.MkdirAll(s.dir, 0o700); err != nil {
		return nil, fmt.Errorf("data folder: %w", err)
	}
	if err := s.own(s.dir); err != nil {
		return nil, fmt.Errorf("data folder: %w", err)
	}
	if err := s.hold(); err != nil {
		return nil, err
	}
	if err := s.bringUp(ctx); err != nil {
		s.lock.Close()
		return nil, err
	}
	return s, nil
}

// Join returns the server that another program brought up in dir, for a short errand
// beside it: it is neither watched nor stopped.
func Join(dir string) (*Server, error) {
	s, err := at(dir)
	if err != nil {
		return nil, err
	}
	if err := s.readPassword(); err != nil {
		return nil, err
	}
	if s.port = s.living(); s.port == 0 {
		return nil, fmt.Errorf("the database in %s isn't running", dir)
	}
	return s, nil
}

// at returns the server of a folder, which nothing was done to yet.
func at(dir string) (*Server, error) {
	dir, err := filepath.Abs(dir)
	if err != nil {
		return nil, err
	}
	s := &Server{dir: dir}
	if os.Geteuid() == 0 {
		err = s.dropRoot()
	}
	return s, err
}

// hold makes the folder this program's, until it ends in whatever way.
func (s *Server) hold() error {
	f, err := os.OpenFile(filepath.Join(s.dir, "lock"), os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return fmt.Errorf("data folder: %w", err)
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		defer f.Close()
		b, _ := io.ReadAll(io.LimitReader(f, 20))
		pid, _ := strconv.Atoi(strings.TrimSpace(string(b)))
		return &InUse{s.dir, pid}
	}
	if err := f.Truncate(0); err != nil {
		f.Close()
		return fmt.Errorf("data folder: %w", err)
	}
	if _, err := fmt.Fprintln(f, os.Getpid()); err != nil {
		f.Close()
		return fmt.Errorf("data folder: %w", err)
	}
	s.lock = f
	return nil
}

func (s *Server) bringUp(ctx context.Context) error {
	_, err := os.Stat(filepath.Join(s.data(), "PG_VERSION"))
	fresh := errors.Is(err, os.ErrNotExist)
	if err := s.readPassword(); err != nil {
		return err
	}
	if fresh {
		if err := s.initdb(); err != nil {
			return err
		}
	}
	lets, err := os.ReadFile(s.hbaFile())
	if err != nil {
		return err
	}
	if s.port = s.living(); s.port == 0 {
		if s.port, err = freePort(); err != nil {
			return err
		}
		if err := s.start(); err != nil {
			return err
		}
	}
	if string(lets) != hba { // made by a version that asked for no password, or left half way
		if err := s.closeUp(ctx); err != nil {
			return fmt.Errorf("giving the database a password: %w", err)
		}
	}
	return s.ready(ctx)
}

func (s *Server) data() string { return filepath.Join(s.dir, "data") }

// own gives a file to the user the server runs as.
func (s *Server) own(path string) error {
	if s.cred == nil {
		return nil
	}
	return os.Chown(path, int(s.cred.Uid), int(s.cred.Gid))
}

// readPassword reads the server's password, or makes one.
func (s *Server) readPassword() error {
	path := filepath.Join(s.dir, "password")
	b, err := os.ReadFile(path)
	if err == nil && len(b) >= 20 {
		s.password = strings.TrimSpace(string(b))
		return nil
	}
	if err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	s.password = rand.Text()
	if err := os.WriteFile(path+".new", []byte(s.password+"\n"), 0o600); err != nil {
		return err
	}
	if err := s.own(path + ".new"); err != nil {
		return err
	}
	return os.Rename(path+".new", path)
}

func (s *Server) start() error {
	// The data is on a disk without a head to move, and queries are short.
	opts := fmt.Sprintf("-h 127.0.0.1 -p %d -k %s -c unix_socket_permissions=0700 -c max_connections=200 "+
		"-c shared_buffers=256MB -c timezone=UTC -c random_page_cost=1.1 -c jit=off%s", s.port, s.dir, s.options)
	out, err := s.run("pg_ctl", "-D", s.data(), "-l", filepath.Join(s.dir, "log"), "-w", "-t", "60", "-o", opts, "start")
	if err != nil {
		return fmt.Errorf("starting PostgreSQL: %w: %s", err, out)
	}
	return nil
}

// Watch has the server started again, at the same address, whenever it is gone,
// until ctx ends.
func (s *Server) Watch(ctx context.Context, log *slog.Logger) {
	every := time.NewTicker(time.Second)
	defer every.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-every.C:
		}
		s.mu.Lock()
		if !s.stopped && s.living() == 0 {
			log.Error("the database is gone: it is started again")
			if err := s.start(); err != nil {
				log.Error("the database", "error", err)
			}
		}
		s.mu.Unlock()
	}
}

// hba lets in who has the password, from this machine.
const hba = "local all all scram-sha-256\nhost all all 127.0.0.1/32 scram-sha-256\nhost all all ::1/128 scram-sha-256\n"

func (s *Server) hbaFile() string { return filepath.Join(s.data(), "pg_hba.conf") }

// closeUp gives a password to a server that asked for none.
func (s *Server) closeUp(ctx context.Context) error {
	db, err := sql.Open("pgx", s.URL("postgres"))
	if err != nil {
		return err
	}
	defer db.Close()
	if _, err := db.ExecContext(ctx, `set password_encryption = 'scram-sha-256'; alter role jolly password '`+s.password+`'`); err != nil {
		return err
	}
	if err := os.WriteFile(s.hbaFile(), []byte(hba), 0o600); err != nil {
		return err
	}
	_, err = db.ExecContext(ctx, `select pg_reload_conf()`)
	return err
}

// initdb makes the data in a folder beside its place and moves it there whole,
// so that an interrupted start leaves nothing half made.
func (s *Server) initdb() error {
	fresh := s.data() + ".new"
	if err := os.RemoveAll(fresh); err != nil {
		return err
	}
	if out, err := s.run("initdb", "-D", fresh, "-U", "jolly", "-A", "scram-sha-256", "--pwfile",
		filepath.Join(s.dir, "password"), "-E", "UTF8", "--locale=C.UTF-8", "--no-sync"); err != nil {
		return fmt.Errorf("making the database: %w: %s", err, out)
	}
	if err := os.WriteFile(filepath.Join(fresh, "pg_hba.conf"), []byte(hba), 0o600); err != nil {
		return err
	}
	return os.Rename(fresh, s.data())
}

// URL returns the address of a database on the server, with the password.
func (s *Server) URL(database string) string {
	u := url.URL{Scheme: "postgres", User: url.UserPassword("jolly", s.password),
		Host: net.JoinHostPort("127.0.0.1", strconv.Itoa(s.port)), Path: "/" + database, RawQuery: "sslmode=disable"}
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

// Stop ends the server, open connections too, and gives the folder up.
func (s *Server) Stop() error {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.stopped {
		return nil
	}
	s.stopped = true
	defer s.lock.Close()
	if s.living() == 0 {
		return nil // it is gone already
	}
	out, err := s.run("pg_ctl", "-D", s.data(), "-m", "fast", "-w", "-t", "30", "stop")
	if err != nil {
		return fmt.Errorf("stopping PostgreSQL: %w: %s", err, out)
	}
	return nil
}

// Remove stops nothing and deletes the data of the server in dir.
func Remove(dir string) error {
	s, err := at(dir)
	if err != nil {
		return err
	}
	if _, err := os.Stat(s.dir); errors.Is(err, os.ErrNotExist) {
		return nil
	}
	if err := s.hold(); err != nil {
		return err
	}
	defer s.lock.Close()
	if port := s.living(); port > 0 {
		return fmt.Errorf("the database in %s is running: stop Jolly Satchel first", dir)
	}
	return os.RemoveAll(s.dir)
}
