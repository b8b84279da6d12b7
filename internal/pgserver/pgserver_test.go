package pgserver

import (
	"context"
	"database/sql"
	"os"
	"path/filepath"
	"testing"

	_ "github.com/jackc/pgx/v5/stdlib"
)

// A server that outlived the program that started it is taken over with what
// it holds; a stopped one starts again with it; a removed one leaves nothing.
func TestServerOutlivesItsProgram(t *testing.T) {
	ctx := context.Background()
	dir := filepath.Join(t.TempDir(), "pg")
	first, err := Start(ctx, dir)
	if err != nil {
		t.Fatal(err)
	}
	ask := func(s *Server, query string, before ...string) string {
		t.Helper()
		url, err := s.Ensure(ctx, "jolly")
		if err != nil {
			t.Fatal(err)
		}
		db, err := sql.Open("pgx", url)
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
	if got := ask(first, `insert into kept values ('chalk') returning v`, `create table kept (v text)`); got != "chalk" {
		t.Fatalf("the first server answers %q", got)
	}

	// As after a hard kill: nobody stopped it, another program starts.
	second, err := Start(ctx, dir)
	if err != nil {
		t.Fatal(err)
	}
	if first.URL("jolly") != second.URL("jolly") {
		t.Errorf("a second server was started: %s, %s", first.URL("jolly"), second.URL("jolly"))
	}
	if got := ask(second, `select v from kept`); got != "chalk" {
		t.Errorf("the server taken over answers %q", got)
	}
	if err := second.Stop(); err != nil {
		t.Fatal(err)
	}

	third, err := Start(ctx, dir)
	if err != nil {
		t.Fatal(err)
	}
	if got := ask(third, `select v from kept`); got != "chalk" {
		t.Errorf("after a stop the server answers %q", got)
	}
	if got := ask(third, `select host(inet_server_addr())`); got != "127.0.0.1" {
		t.Errorf("the server listens on %s", got)
	}
	if err := third.Stop(); err != nil {
		t.Fatal(err)
	}
	if err := Remove(dir); err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(dir); !os.IsNotExist(err) {
		t.Errorf("something is left of it: %v", err)
	}
}
