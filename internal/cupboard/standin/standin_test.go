package standin_test

import (
	"context"
	"errors"
	"fmt"
	"reflect"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"jollysatchel/internal/clock"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/cupboard/cupboardtest"
	"jollysatchel/internal/cupboard/standin"
	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/store"
)

func open(t testing.TB) (*standin.Standin, *store.Store) {
	t.Helper()
	return openAt(t, clock.System)
}

func openAt(t testing.TB, now clock.Clock) (*standin.Standin, *store.Store) {
	t.Helper()
	ctx := context.Background()
	st, err := store.Open(ctx, pgtest.From(t, "standin", func(url string) {
		st, err := store.Open(ctx, url)
		if err != nil {
			t.Fatal(err)
		}
		defer st.Close()
		if err := standin.Migrate(ctx, st.DB.DB); err != nil {
			t.Fatal(err)
		}
	}))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(st.Close)
	s := standin.New(st.DB, now)
	if err := s.AddPeople(ctx, cupboardtest.People...); err != nil {
		t.Fatal(err)
	}
	return s, st
}

func TestContract(t *testing.T) {
	cupboardtest.Run(t, func(t *testing.T) cupboardtest.Stage {
		var ahead atomic.Int64
		now := func() time.Time { return time.Now().Add(time.Duration(ahead.Load())) }
		s, st := openAt(t, now)
		return cupboardtest.Stage{
			Cupboard: s,
			Pass:     func(d time.Duration) { ahead.Add(int64(d)) },
			Again:    func() cupboard.Cupboard { return standin.New(st.DB, now) },
			Storm:    func(errors, lost float64) { s.SetWeather(standin.Weather{Errors: errors, Lost: lost}) },
			Forget:   s.Forget,
		}
	})
}

// A thousand copies of one template weigh one template.
func TestContentsAreKeptOnce(t *testing.T) {
	s, st := open(t)
	ctx := context.Background()
	f, err := s.AddFile(ctx, "oduya", "template", cupboard.NewThing{Name: "log.md"}, strings.NewReader(strings.Repeat("low water ", 100_000)))
	if err != nil {
		t.Fatal(err)
	}
	for i := range 50 {
		if _, err := s.CopyFile(ctx, "oduya", fmt.Sprint("copy", i), cupboard.Source{ID: f.ID}, cupboard.NewThing{Name: "log.md"}); err != nil {
			t.Fatal(err)
		}
	}
	var contents, bytes int
	if err := st.DB.QueryRow(`select count(*), sum(length(bytes)) from standin.chunks`).Scan(&contents, &bytes); err != nil {
		t.Fatal(err)
	}
	if contents != 4 || bytes != 1_000_000 {
		t.Errorf("%d chunks of %d bytes", contents, bytes)
	}
}

func TestWeather(t *testing.T) {
	s, _ := open(t)
	ctx := context.Background()
	make := func(key string) error {
		_, err := s.MakeFolder(ctx, "oduya", key, cupboard.NewThing{Name: "x"})
		return err
	}
	s.SetWeather(standin.Weather{Errors: 1})
	if err := make("a"); !errors.Is(err, cupboard.ErrUnavailable) {
		t.Errorf("errors: %v", err)
	}
	s.SetWeather(standin.Weather{Lost: 1})
	if err := make("b"); !errors.Is(err, cupboard.ErrUnavailable) {
		t.Errorf("lost answers: %v", err)
	}
	s.SetWeather(standin.Weather{Limit: 1})
	var fast *cupboard.TooFast
	if err := errors.Join(make("c"), make("d")); !errors.As(err, &fast) || fast.After <= 0 || fast.After > time.Second {
		t.Errorf("request limit: %v", err)
	}
	s.SetWeather(standin.Weather{Delay: 30 * time.Millisecond})
	began := time.Now()
	if err := make("e"); err != nil || time.Since(began) < 30*time.Millisecond {
		t.Errorf("delay: %v after %v", err, time.Since(began))
	}
	s.SetWeather(standin.Weather{})
	if err := make("f"); err != nil {
		t.Errorf("calm: %v", err)
	}
	if w, err := standin.ParseWeather("delay=300ms, errors=0.2,lost=0.05,limit=20"); err != nil ||
		!reflect.DeepEqual(w, (standin.Weather{Delay: 300 * time.Millisecond, Errors: 0.2, Lost: 0.05, Limit: 20})) {
		t.Errorf("parsed %+v, %v", w, err)
	}
	for _, bad := range []string{"rain=1", "errors=often", "delay=3"} {
		if _, err := standin.ParseWeather(bad); err == nil {
			t.Errorf("%q was read", bad)
		}
	}
}

// More contents than are dropped at once are all dropped; the one that is still had stays.
func TestManyContentsDropped(t *testing.T) {
	s, st := open(t)
	ctx := context.Background()
	if _, err := s.AddFile(ctx, "oduya", "kept", cupboard.NewThing{Name: "log.md"}, strings.NewReader("low water")); err != nil {
		t.Fatal(err)
	}
	for _, q := range []string{
		`insert into standin.contents (sha, size) select sha256(n::text::bytea), 10 from generate_series(1, 450) n`,
		`insert into standin.chunks (sha, n, bytes) select sha, 0, 'salt' from standin.contents where size = 10`,
	} {
		if _, err := st.DB.ExecContext(ctx, q); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.Forget(ctx); err != nil {
		t.Fatal(err)
	}
	if n, err := s.Kept(ctx); err != nil || n != int64(len("low water")) {
		t.Errorf("%d bytes are kept, %v", n, err)
	}
}

// A folder that is binned as it was looked at, and what is moved up into it at the same moment:
// both are done, or the folder isn't what was looked at any more.
func TestBinBesideMove(t *testing.T) {
	s, _ := open(t)
	ctx := context.Background()
	made := func(th cupboard.Thing, err error) cupboard.Thing {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
		return th
	}
	for n := range 5 { // each waits a second for the other
		key := func(what string) string { return fmt.Sprint(what, n) }
		top := made(s.MakeFolder(ctx, "oduya", key("top"), cupboard.NewThing{Name: "Top"}))
		under := made(s.MakeFolder(ctx, "oduya", key("under"), cupboard.NewThing{Name: "Under", Parent: top.ID}))
		low := made(s.MakeFolder(ctx, "oduya", key("low"), cupboard.NewThing{Name: "Low", Parent: under.ID}))
		var both sync.WaitGroup
		var binned, moved error
		both.Go(func() { binned = s.Bin(ctx, "oduya", key("bin"), top.ID, cupboard.Seen{}) })
		both.Go(func() { moved = s.Move(ctx, "oduya", key("move"), low.ID, top.ID) })
		both.Wait()
		if binned != nil || moved != nil && !errors.Is(moved, cupboard.ErrNotFound) {
			t.Fatalf("the %dth time: binned %v, moved %v", n, binned, moved)
		}
	}
}
