// Package pgtest gives every test an empty database of its own.
package pgtest

import (
	"context"
	"database/sql"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"jollysatchel/internal/pgserver"
)

// Variable names the environment variable with the address of the server the
// tests share. Without it each test program starts a server of its own.
const Variable = "JOLLY_TEST_DATABASE"

var own struct {
	sync.Mutex
	server *pgserver.Server
	dir    string
	count  int
}

// New makes an empty database and returns its address; it goes with the test.
func New(t testing.TB) string {
	t.Helper()
	base := os.Getenv(Variable)
	if base == "" {
		base = start(t)
	}
	name := fmt.Sprintf("t%d_%d", os.Getpid(), time.Now().UnixNano())
	db, err := sql.Open("pgx", base)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := db.Exec("create database " + name); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if _, err := db.Exec("drop database " + name + " with (force)"); err != nil {
			t.Error(err)
		}
		db.Close()
	})
	u, err := url.Parse(base)
	if err != nil {
		t.Fatal(err)
	}
	u.Path = "/" + name
	return u.String()
}

// start brings up this program's own server; the last test that uses it stops it.
func start(t testing.TB) string {
	own.Lock()
	defer own.Unlock()
	if own.server == nil {
		dir, err := os.MkdirTemp("", "jollysatchel-pgtest-*")
		if err != nil {
			t.Fatal(err)
		}
		s, err := pgserver.Start(context.Background(), filepath.Join(dir, "pg"))
		if err != nil {
			t.Fatal(err)
		}
		own.server, own.dir = s, dir
	}
	own.count++
	t.Cleanup(func() {
		own.Lock()
		defer own.Unlock()
		if own.count--; own.count == 0 {
			if err := own.server.Stop(); err != nil {
				t.Error(err)
			}
			pgserver.Remove(filepath.Join(own.dir, "pg"))
			os.RemoveAll(own.dir)
			own.server = nil
		}
	})
	return own.server.URL("postgres")
}
