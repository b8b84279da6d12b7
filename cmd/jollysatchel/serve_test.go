package main

import (
	"maps"
	"testing"
	"time"

	"jollysatchel/internal/clock"
)

func TestWords(t *testing.T) {
	got, err := words("class=course, classes=courses,Handouts=Tasks")
	if err != nil || !maps.Equal(got, map[string]string{"class": "course", "classes": "courses", "Handouts": "Tasks"}) {
		t.Errorf("%v, %v", got, err)
	}
	for _, bad := range []string{"class", "class=", "shelf=board", "=x"} {
		if _, err := words(bad); err == nil {
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
		t.Setenv(name, bad)
		if _, err := settings("x", clock.System); err == nil {
			t.Errorf("%s=%s was accepted", name, bad)
		}
	}
}
