package pgserver

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"slices"
	"sort"
	"strconv"
	"strings"
	"syscall"
	"time"

	_ "github.com/jackc/pgx/v5/stdlib" // the driver that says whether the server answers
)

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

// living returns the port of a server that already runs on this data, else 0. Its
// process is known by what it runs: a number is given to others again, and what is
// left of a server that ended so is cleared away.
func (s *Server) living() int {
	path := filepath.Join(s.data(), "postmaster.pid")
	b, err := os.ReadFile(path)
	if err != nil {
		return 0
	}
	lines := strings.Split(string(b), "\n")
	pid, err := strconv.Atoi(strings.TrimSpace(lines[0]))
	if err != nil || pid <= 0 {
		return 0 // just being written
	}
	if s.isServer(pid) {
		if len(lines) < 4 {
			return 0 // it is on its way up
		}
		port, _ := strconv.Atoi(strings.TrimSpace(lines[3]))
		return port
	}
	os.Remove(path)
	return 0
}

// isServer reports whether a process is a PostgreSQL on this data.
func (s *Server) isServer(pid int) bool {
	b, err := os.ReadFile(fmt.Sprintf("/proc/%d/cmdline", pid))
	if errors.Is(err, os.ErrNotExist) {
		if _, none := os.Stat("/proc/self"); none != nil {
			return syscall.Kill(pid, 0) == nil // no /proc here: its number is all there is
		}
		return false
	}
	args := strings.Split(string(b), "\x00")
	return err == nil && filepath.Base(args[0]) == "postgres" && slices.Contains(args, s.data())
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
