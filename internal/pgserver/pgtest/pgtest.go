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

// New makes an empty database and returns its address; it goes with the server.
func New(t testing.TB) string {
	t.Helper()
	return from(t, server(t), "template1")
}

// templates are databases that were prepared once for many tests, by server and
// name.
var templates struct {
	sync.Mutex
	made map[string]string
}

// From makes a copy of a database that prepare fills the first time it is asked
// for; prepare must leave no connection to it. The copy goes with the server.
func From(t testing.TB, name string, prepare func(url string)) string {
	t.Helper()
	base := server(t)
	templates.Lock()
	template, made := templates.made[base+name]
	if !made {
		template = fmt.Sprintf("from%d_%d", os.Getpid(), time.Now().UnixNano())
		create(t, base, template, "template1").Close()
		prepare(at(t, base, template))
		if templates.made == nil {
			templates.made = map[string]string{}
		}
		templates.made[base+name] = template
	}
	templates.Unlock()
	return from(t, base, template)
}

func server(t testing.TB) string {
	if base := os.Getenv(Variable); base != "" {
		return base
	}
	return start(t)
}

func create(t testing.TB, base, name, template string) *sql.DB {
	t.Helper()
	db, err := sql.Open("pgx", base)
	if err != nil {
		t.Fatal(err)
	}
	// Copying files costs a tenth of writing pages, where the server doesn't wait for the disk.
	if _, err := db.Exec("create database " + name + " template " + template + " strategy file_copy"); err != nil {
		t.Fatal(err)
	}
	return db
}

func at(t testing.TB, base, name string) string {
	t.Helper()
	u, err := url.Parse(base)
	if err != nil {
		t.Fatal(err)
	}
	u.Path = "/" + name
	return u.String()
}

func from(t testing.TB, base, template string) string {
	t.Helper()
	name := fmt.Sprintf("t%d_%d", os.Getpid(), time.Now().UnixNano())
	db := create(t, base, name, template)
	t.Cleanup(func() {
		// It goes with the server: files that are made where others were just deleted cost ten
		// times as much.
		if _, err := db.Exec("select pg_terminate_backend(pid) from pg_stat_activity where datname = $1", name); err != nil {
			t.Error(err)
		}
		db.Close()
	})
	return at(t, base, name)
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
		s, err := pgserver.StartBrief(context.Background(), filepath.Join(dir, "pg"))
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
