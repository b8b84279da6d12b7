package usecase_test

import (
	"errors"
	"strings"
	"testing"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/cupboard"
)

// Outside of what is counted by its place an account has so much in all, and so has the school:
// no folder of one's own is a way around it.
func TestQuotaOutside(t *testing.T) {
	one := apptest.Open(t)
	apptest.People(t, one, 2)
	set := one.Settings
	set.School.Quota, set.School.Disk = 1_000_000, 3_000_000
	a, err := app.Open(ctx, set)
	if err != nil {
		t.Fatal(err)
	}
	defer a.Close()
	add := func(who, key string, size int) error {
		f, err := a.Cup.MakeFolder(ctx, who, "folder "+who+key, cupboard.NewThing{Name: key})
		if err != nil {
			t.Fatal(err)
		}
		_, err = a.Cases.Things.AddFile(ctx, who, key, f.ID, key+".bin", "application/octet-stream",
			strings.NewReader(strings.Repeat(key[:1], size)))
		return err
	}
	full := func(err error, code, most string) {
		t.Helper()
		var invalid *change.Invalid
		if !errors.As(err, &invalid) || invalid.Code != code || invalid.Args["most"] != most {
			t.Errorf("%v, want %s", err, code)
		}
	}
	if err := add("s0", "a", 600_000); err != nil {
		t.Fatal(err)
	}
	full(add("s0", "b", 500_000), "full-account", "1")
	if err := add("s1", "c", 600_000); err != nil {
		t.Errorf("another's: %v", err)
	}
	if err := add("oduya", "d", 1_500_000); err != nil {
		t.Errorf("a teacher's: %v", err)
	}
	full(add("oduya", "e", 900_000), "full-school", "3")
	if err := add("s0", "f", 1000); err != nil {
		t.Errorf("what there is room for: %v", err)
	}
}
