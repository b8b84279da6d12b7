package standin

import (
	"context"
	"errors"
	"strings"
	"testing"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/schoolbook"
	"jollysatchel/internal/store"
)

func TestBook(t *testing.T) {
	ctx := context.Background()
	st, err := store.Open(ctx, pgtest.New(t))
	if err != nil {
		t.Fatal(err)
	}
	defer st.Close()
	if err := Migrate(ctx, st.DB.DB); err != nil {
		t.Fatal(err)
	}
	s := New(st.DB)
	hash, err := Hash("low water")
	if err != nil {
		t.Fatal(err)
	}
	dube := accounts.Account{ID: "dube", Address: "Nokuthula.Dube@kq.example", Given: "Nokuthula", Family: "Dube",
		Number: "1", Role: accounts.Student, Ready: true}
	for range 2 { // entered twice, it is there once
		if err := s.Add(ctx, dube, hash); err != nil {
			t.Fatal(err)
		}
	}
	if got, err := s.ByAddress(ctx, []string{"NOKUTHULA.dube@kq.example", "nobody@kq.example"}); err != nil ||
		len(got) != 1 || got["nokuthula.dube@kq.example"] != dube {
		t.Errorf("%v, %v", got, err)
	}
	if got, err := s.SignIn(ctx, " nokuthula.DUBE@kq.example ", "low water"); err != nil || got != dube {
		t.Errorf("%v, %v", got, err)
	}
	for address, password := range map[string]string{"nokuthula.dube@kq.example": "high water", "nobody@kq.example": "low water"} {
		if _, err := s.SignIn(ctx, address, password); !errors.Is(err, schoolbook.ErrRefused) {
			t.Errorf("%s with %q: %v", address, password, err)
		}
	}
}

func TestPasswords(t *testing.T) {
	a, err := Hash("low water")
	if err != nil {
		t.Fatal(err)
	}
	b, err := Hash("low water")
	if err != nil || a == b || !strings.HasPrefix(a, "$argon2id$v=19$m=65536,t=3,p=4$") {
		t.Errorf("%s and %s, %v", a, b, err)
	}
	if !verify(a, "low water") || verify(a, "low waters") || verify(a, "") {
		t.Error("the password isn't told from others")
	}
	for _, odd := range []string{"", "low water", "$argon2id$v=19$m=65536,t=3,p=4$$",
		"$argon2i$v=19$m=1,t=1,p=1$AAAA$AAAA", strings.Replace(a, "m=65536", "m=x", 1)} {
		if verify(odd, "low water") {
			t.Errorf("%q fits a password", odd)
		}
	}
	// The argon2 command of the reference implementation: echo -n password |
	// argon2 somesalt -id -t 2 -m 16 -p 1 (its README's parameters, from memory).
	if !verify("$argon2id$v=19$m=65536,t=2,p=1$c29tZXNhbHQ$CTFhFdXPJO1aFaMaO6Mm5c8y7cJHAph8ArZWb2GRPPc", "password") {
		t.Error("a hash of the reference implementation is not understood")
	}
}
