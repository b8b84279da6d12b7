package app_test

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/clock"
	"jollysatchel/internal/pgserver"
	"jollysatchel/internal/pgserver/pgtest"
)

// The database is killed while students write: the program carries on with the one
// that is started again, and whatever was acknowledged is there.
func TestDatabaseKilled(t *testing.T) {
	ctx, stop := context.WithTimeout(context.Background(), 2*time.Minute)
	defer stop()
	dir := filepath.Join(t.TempDir(), "pg")
	server, err := pgserver.Start(ctx, dir)
	if err != nil {
		t.Fatal(err)
	}
	watching, quiet := context.WithCancel(ctx)
	var all sync.WaitGroup
	all.Go(func() { server.Watch(watching, slog.New(slog.DiscardHandler)) })
	defer func() {
		quiet()
		all.Wait()
		if err := server.Stop(); err != nil {
			t.Error(err)
		}
		if err := pgserver.Remove(dir); err != nil {
			t.Error(err)
		}
	}()
	address, err := server.Ensure(ctx, "jolly")
	if err != nil {
		t.Fatal(err)
	}
	a, err := app.Open(ctx, app.Settings{Database: address, School: apptest.School, Now: clock.System})
	if err != nil {
		t.Fatal(err)
	}
	defer a.Close()
	apptest.People(t, a, 4)
	c := apptest.Class(t, a, apptest.List(4))
	apptest.Pack(t, a, c, nil)
	h := apptest.Handout(t, a, c, "# Log\n")
	apptest.Pack(t, a, c, &h)
	things := map[string]string{}
	for i := range 4 {
		who := fmt.Sprint("s", i)
		home, err := a.Cases.Registers.Home(ctx, who)
		if err != nil {
			t.Fatal(err)
		}
		things[who] = home[0].Copies[0].Thing
	}

	killed := make(chan struct{})
	var writers sync.WaitGroup
	var mu sync.Mutex
	kept := map[string]map[int]string{}
	for who, thing := range things {
		kept[who] = map[int]string{}
		writers.Go(func() {
			version, after := 1, 0
			for i := 0; after < 10 && ctx.Err() == nil; i++ {
				text := fmt.Sprint("# Log\n\nline ", i)
				v, err := a.Cases.Things.Write(ctx, who, fmt.Sprintf("key %d of %s", i, who), thing, version, strings.NewReader(text))
				if err != nil { // kept or not, it isn't acknowledged: the newest is begun from
					if vs, err := a.Cases.Things.Versions(ctx, who, thing); err == nil {
						version = vs[0].Number
					}
					continue
				}
				mu.Lock()
				kept[who][v.Number] = text
				mu.Unlock()
				version = v.Number
				select {
				case <-killed:
					after++
				default:
				}
			}
		})
	}
	enough := func() bool {
		mu.Lock()
		defer mu.Unlock()
		for _, texts := range kept {
			if len(texts) < 5 {
				return false
			}
		}
		return true
	}
	for !enough() && ctx.Err() == nil {
		if _, err := a.Cases.Registers.Home(ctx, "s0"); err != nil { // somebody who looks meanwhile
			t.Fatal(err)
		}
	}
	b, err := os.ReadFile(filepath.Join(server.Dir(), "data", "postmaster.pid"))
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
	close(killed)
	writers.Wait()
	if ctx.Err() != nil {
		t.Fatal("the program doesn't carry on")
	}
	for who, texts := range kept {
		for n, text := range texts {
			_, f, _, err := a.Cases.Things.Open(ctx, who, things[who], n)
			if err != nil {
				t.Fatalf("version %d of %s: %v", n, who, err)
			}
			got, err := io.ReadAll(f)
			f.Close()
			if err != nil || string(got) != text {
				t.Errorf("version %d of %s is %q, acknowledged was %q, %v", n, who, got, text, err)
			}
		}
	}
}

// A clock that is set back an hour keeps nothing from going on.
func TestClockSetBack(t *testing.T) {
	ctx := context.Background()
	now := &clock.Manual{}
	now.Set(clock.System())
	empty := apptest.Open(t)
	set := empty.Settings
	set.Now = now.Now
	a, err := app.Open(ctx, set)
	if err != nil {
		t.Fatal(err)
	}
	defer a.Close()
	apptest.People(t, a, 2)
	c := apptest.Class(t, a, apptest.List(2))
	apptest.Pack(t, a, c, nil)
	now.Set(clock.System().Add(-time.Hour))
	h := apptest.Handout(t, a, c, "# Log\n")
	if r := apptest.Pack(t, a, c, &h); r.Packed == 0 || r.Stuck != 0 {
		t.Errorf("packed %+v", r)
	}
	home, err := a.Cases.Registers.Home(ctx, "s0")
	if err != nil || len(home) != 1 || len(home[0].Copies) != 1 {
		t.Fatalf("%+v, %v", home, err)
	}
	if _, err := a.Cases.Things.Write(ctx, "s0", "a key of a write", home[0].Copies[0].Thing, 1,
		strings.NewReader("# Log\n\nlow water")); err != nil {
		t.Fatal(err)
	}
	apptest.Look(t, a)
	reg, err := a.Cases.Registers.Register(ctx, c.ID)
	if err != nil {
		t.Fatal(err)
	}
	words := 0
	for _, col := range reg.Columns {
		for _, cell := range col.Cells {
			words += cell.Words
		}
	}
	if words != 2 {
		t.Errorf("%d words are counted", words)
	}
}

// Several programs that start at once on an empty database all come up.
func TestManyOnAnEmptyDatabase(t *testing.T) {
	ctx := context.Background()
	address := pgtest.New(t)
	var all sync.WaitGroup
	for range 4 {
		all.Go(func() {
			a, err := app.Open(ctx, app.Settings{Database: address, School: apptest.School, Now: clock.System})
			if err != nil {
				t.Error(err)
				return
			}
			defer a.Close()
			if _, err := a.Store.Classes(ctx, ""); err != nil {
				t.Error(err)
			}
		})
	}
	all.Wait()
}
