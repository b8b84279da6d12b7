package main

import (
	"fmt"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/clock"
)

func TestWords(t *testing.T) {
	got, err := ownWords("class=course, classes=courses,Handouts=Tasks")
	if err != nil || !maps.Equal(got, map[string]string{"class": "course", "classes": "courses", "Handouts": "Tasks"}) {
		t.Errorf("%v, %v", got, err)
	}
	for _, bad := range []string{"class", "class=", "shelf=board", "=x"} {
		if _, err := ownWords(bad); err == nil {
			t.Errorf("%q was read", bad)
		}
	}
}

func TestSettings(t *testing.T) {
	t.Setenv("JOLLY_ZONE", "Atlantic/Azores")
	t.Setenv("JOLLY_WEATHER", "delay=1s")
	if s, err := settings("x", clock.System); err != nil || s.School.Zone.String() != "Atlantic/Azores" || s.Weather.Delay != time.Second {
		t.Errorf("%+v, %v", s, err)
	}
	for name, bad := range map[string]string{"JOLLY_ZONE": "Atlantis/Harbour", "JOLLY_WEATHER": "rain", "JOLLY_WORDS": "rain"} {
		refused(t, name, bad)
	}
}

// refused sets one setting wrongly, the others as they are, and wants it named.
func refused(t *testing.T, name, bad string) {
	t.Run(name, func(t *testing.T) {
		t.Setenv(name, bad)
		if _, err := settings("x", clock.System); err == nil || !strings.Contains(err.Error(), name) {
			t.Errorf("%s=%s: %v", name, bad, err)
		}
	})
}

func TestWhereItIs(t *testing.T) {
	t.Setenv("JOLLY_HOSTS", "satchel.kestrelquay.example, other.example")
	t.Setenv("JOLLY_PROXIES", "10.0.0.7, 10.1.0.0/16,::1")
	t.Setenv("JOLLY_SATCHEL_MB", "250")
	s, err := settings("x", clock.System)
	if err != nil || len(s.Hosts) != 2 || s.Hosts[1] != "other.example" || len(s.Proxies) != 3 ||
		s.Proxies[0].Bits() != 32 || s.School.Quota != 250_000_000 {
		t.Errorf("%+v, %v", s, err)
	}
	for name, bad := range map[string]string{"JOLLY_PROXIES": "proxy", "JOLLY_SATCHEL_MB": "-1"} {
		refused(t, name, bad)
	}
}

// What a killed program left is cleared away, what a running one has is not, and
// nothing is left by a program that stops.
func TestTidyTemp(t *testing.T) {
	root := t.TempDir()
	t.Setenv("TMPDIR", root)
	gone := exec.Command("true")
	if err := gone.Run(); err != nil {
		t.Fatal(err)
	}
	dead := filepath.Join(root, fmt.Sprint(tempPrefix, gone.Process.Pid, "-a"))
	alive := filepath.Join(root, fmt.Sprint(tempPrefix, os.Getppid(), "-a"))
	for _, dir := range []string{dead, alive} {
		if err := os.MkdirAll(filepath.Join(dir, "x"), 0o700); err != nil {
			t.Fatal(err)
		}
	}
	done, err := tidyTemp()
	if err != nil {
		t.Fatal(err)
	}
	mine := os.TempDir()
	if mine == root {
		t.Error("it has no folder of its own")
	}
	done()
	for dir, want := range map[string]bool{dead: false, alive: true, mine: false, root: true} {
		if _, err := os.Stat(dir); (err == nil) != want {
			t.Errorf("%s: %v", dir, err)
		}
	}
}
