package standin

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"sync"
	"testing"
	"time"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/schoolbook"
	"jollysatchel/internal/store"
)

func keeper(t *testing.T) *Standin {
	t.Helper()
	st, err := store.Open(context.Background(), pgtest.New(t))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(st.Close)
	if err := Migrate(context.Background(), st.DB.DB); err != nil {
		t.Fatal(err)
	}
	return New(st.DB)
}

// Of offices that remove each other at the same moment one is always left.
func TestOneIsLeftInTheOffice(t *testing.T) {
	ctx, s := context.Background(), keeper(t)
	for i := range 3 {
		if err := s.Put(ctx, accounts.Account{ID: fmt.Sprint("o", i), Address: fmt.Sprintf("o%d@kq.example", i), Given: "O",
			Role: accounts.Office}); err != nil {
			t.Fatal(err)
		}
		if err := s.SetPassword(ctx, fmt.Sprint("o", i), "low water at eleven"); err != nil {
			t.Fatal(err)
		}
	}
	var all sync.WaitGroup
	for i := range 3 {
		all.Go(func() {
			var err error
			if i == 0 {
				err = s.Put(ctx, accounts.Account{ID: "o0", Address: "o0@kq.example", Given: "O", Role: accounts.Staff})
			} else {
				err = s.Edit(ctx, fmt.Sprint("o", i), func(a *accounts.Account) error { a.Off = true; return nil })
			}
			if err != nil && !errors.Is(err, schoolbook.ErrLast) {
				t.Error(err)
			}
		})
	}
	all.Wait()
	book, err := s.All(ctx)
	if err != nil {
		t.Fatal(err)
	}
	left := 0
	for _, a := range book {
		if a.Role == accounts.Office && !a.Off {
			left++
		}
	}
	if left != 1 {
		t.Errorf("%d are left: %+v", left, book)
	}
	if err := s.Put(ctx, accounts.Account{ID: "x", Address: "O1@KQ.example", Given: "X",
		Role: accounts.Staff}); !errors.Is(err, schoolbook.ErrTaken) {
		t.Errorf("an address twice: %v", err)
	}
}

// A code is good once, in time, for its own account, and not where that is switched off;
// what somebody has already stays until they use it, unless it is taken away.
func TestCodes(t *testing.T) {
	ctx, s, now := context.Background(), keeper(t), time.Date(2026, 11, 26, 8, 0, 0, 0, time.UTC)
	for i := range 3 {
		if err := s.Put(ctx, accounts.Account{ID: fmt.Sprint("s", i), Address: fmt.Sprintf("s%d@kq.example", i), Given: "S",
			Role: accounts.Student}); err != nil {
			t.Fatal(err)
		}
	}
	give := func(away bool) {
		t.Helper()
		if err := s.SetCodes(ctx, schoolbook.Codes{Of: map[string]string{"s0": "AAAA", "s1": "BBBB"}, By: "office", At: now,
			Until: now.Add(time.Hour), Away: away}); err != nil {
			t.Fatal(err)
		}
	}
	use := func(address, code string, at time.Time) error {
		_, err := s.UseCode(ctx, address, code, "low water at eleven", at)
		return err
	}
	give(false)
	before, err := s.Revision(ctx)
	if err != nil {
		t.Fatal(err)
	}
	for what, err := range map[string]error{
		"another's":  use("s0@kq.example", "BBBB", now),
		"none":       use("s2@kq.example", "", now),
		"too late":   use("s0@kq.example", "AAAA", now.Add(time.Hour)),
		"nobody's":   use("nobody@kq.example", "AAAA", now),
		"a password": func() error { _, err := s.SignIn(ctx, "s0@kq.example", "AAAA"); return err }(),
	} {
		if !errors.Is(err, schoolbook.ErrRefused) {
			t.Errorf("%s: %v", what, err)
		}
	}
	if after, err := s.Revision(ctx); err != nil || after != before {
		t.Errorf("refused, and the book is another: %s, %s, %v", before, after, err)
	}
	var all sync.WaitGroup
	var mu sync.Mutex
	in := 0
	for range 4 {
		all.Go(func() {
			if use(" S0@kq.example", "AAAA", now) == nil {
				mu.Lock()
				in++
				mu.Unlock()
			}
		})
	}
	all.Wait()
	if in != 1 {
		t.Errorf("one code let %d in", in)
	}
	if a, err := s.SignIn(ctx, "s0@kq.example", "low water at eleven"); err != nil || !a.Ready || a.CodeUntil != nil {
		t.Errorf("%+v, %v", a, err)
	}
	give(false)
	if _, err := s.SignIn(ctx, "s0@kq.example", "low water at eleven"); err != nil {
		t.Errorf("the password while there is a code: %v", err)
	}
	if err := s.ChangePassword(ctx, "s0", "high water", "some other words"); !errors.Is(err, schoolbook.ErrRefused) {
		t.Errorf("changed with a wrong one: %v", err)
	}
	if err := s.ChangePassword(ctx, "s0", "low water at eleven", "some other words"); err != nil {
		t.Fatal(err)
	}
	give(true)
	if _, err := s.SignIn(ctx, "s0@kq.example", "some other words"); !errors.Is(err, schoolbook.ErrRefused) {
		t.Errorf("the password that was taken away: %v", err)
	}
	book, err := s.All(ctx)
	if err != nil {
		t.Fatal(err)
	}
	for i := range book {
		book[i].Off = true
	}
	if err := s.PutAll(ctx, before, book); !errors.Is(err, schoolbook.ErrMoved) {
		t.Errorf("a book that is another by now: %v", err)
	}
	if before, err = s.Revision(ctx); err != nil {
		t.Fatal(err)
	}
	if err := s.PutAll(ctx, before, book); err != nil {
		t.Fatal(err)
	}
	if err := use("s1@kq.example", "BBBB", now); !errors.Is(err, schoolbook.ErrRefused) {
		t.Errorf("switched off: %v", err)
	}
	if err := s.SetPassword(ctx, "nobody", "low water at eleven"); !errors.Is(err, schoolbook.ErrNobody) {
		t.Errorf("nobody's: %v", err)
	}
}

// Whether there is such an account, and whether it has a password or a code, can't be told
// from how long a refusal takes: medians of interleaved tries, within noise.
func TestRefusalsTakeAsLong(t *testing.T) {
	ctx, s := context.Background(), keeper(t)
	for _, id := range []string{"with", "without"} {
		if err := s.Put(ctx, accounts.Account{ID: id, Address: id + "@kq.example", Given: "S", Role: accounts.Student}); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.SetPassword(ctx, "with", "low water at eleven"); err != nil {
		t.Fatal(err)
	}
	tries := map[string]func() error{
		"a wrong password": func() error { _, err := s.SignIn(ctx, "with@kq.example", "wrong words here"); return err },
		"no password":      func() error { _, err := s.SignIn(ctx, "without@kq.example", "wrong words here"); return err },
		"nobody":           func() error { _, err := s.SignIn(ctx, "nobody@kq.example", "wrong words here"); return err },
		"a wrong code": func() error {
			_, err := s.UseCode(ctx, "with@kq.example", "AAAA", "some other words", time.Now())
			return err
		},
		"nobody's code": func() error {
			_, err := s.UseCode(ctx, "nobody@kq.example", "AAAA", "some other words", time.Now())
			return err
		},
	}
	took := map[string][]time.Duration{}
	for range 7 {
		for what, try := range tries {
			began := time.Now()
			if err := try(); !errors.Is(err, schoolbook.ErrRefused) {
				t.Fatalf("%s: %v", what, err)
			}
			took[what] = append(took[what], time.Since(began))
		}
	}
	usual := median(took["a wrong password"])
	for what, all := range took {
		if r := float64(median(all)) / float64(usual); r < 0.5 || r > 2 {
			t.Errorf("%s takes %.2f times as long as a wrong password", what, r)
		}
	}
}

func median(all []time.Duration) time.Duration {
	slices.Sort(all)
	return all[len(all)/2]
}
