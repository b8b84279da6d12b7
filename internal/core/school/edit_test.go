package school_test

import (
	"errors"
	"reflect"
	"strings"
	"testing"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/school"
)

func ptr[T any](v T) *T { return &v }

// quay is a school as it is; what its office said is its name alone.
func quay() (said, is school.Settings) {
	said = school.Settings{Name: "Kestrel Quay School"}
	is = said
	is.Zone, is.Language, is.SatchelMB = "Europe/Lisbon", "en", 1000
	return said, is
}

func TestRefused(t *testing.T) {
	long := strings.Repeat("x", 301)
	for _, x := range []struct {
		to          school.Change
		field, code string
	}{
		{school.Change{Name: ptr(" ")}, "name", "missing"},
		{school.Change{Name: &long}, "name", "too-long"},
		{school.Change{Domain: ptr("kestrel quay")}, "domain", "no-domain"},
		{school.Change{Zone: ptr("Sea/Nowhere")}, "zone", "no-zone"},
		{school.Change{Zone: ptr("Local")}, "zone", "no-zone"},
		{school.Change{Language: ptr("english, please")}, "language", "no-language"},
		{school.Change{SatchelMB: ptr(int64(1_000_001))}, "satchelMB", "too-large-number"},
		{school.Change{Words: &map[string]string{"pencil": "pen"}}, "words", "no-such-word"},
		{school.Change{Words: &map[string]string{"class": long}}, "words", "too-long"},
		{school.Change{Words: &map[string]string{"class": "course"}}, "words", "fixed"},
		{school.Change{Site: ptr("https://satchel.kestrelquay.example/pages")}, "site", "no-site"},
		{school.Change{Site: ptr("https://office@satchel.kestrelquay.example")}, "site", "no-site"},
		{school.Change{Post: &school.Post{Server: "a b"}}, "post.server", "no-server"},
		{school.Change{Post: &school.Post{Port: 65536}}, "post.port", "too-large-number"},
		{school.Change{Post: &school.Post{Security: "half"}}, "post.security", "no-such-choice"},
		{school.Change{Post: &school.Post{User: long}}, "post.user", "too-long"},
		{school.Change{Post: &school.Post{From: "nobody"}}, "post.from", "no-such-address"},
		{school.Change{Post: &school.Post{PerMinute: 60_001}}, "post.perMinute", "too-large-number"},
		{school.Change{Service: &school.Service{Issuer: "http://who.kestrelquay.example", Client: "satchel"}}, "service.issuer", "no-service"},
		{school.Change{Service: &school.Service{Issuer: "https://who.kestrelquay.example"}}, "service.client", "missing"},
		{school.Change{Service: &school.Service{Issuer: "https://who.kestrelquay.example", Client: "satchel", Name: long}},
			"service.name", "too-long"},
	} {
		said, is := quay()
		_, err := x.to.Of(said, is, school.Change{}, []string{"words"})
		var invalid *change.Invalid
		if !errors.As(err, &invalid) || invalid.Field != x.field || invalid.Code != x.code {
			t.Errorf("%s %s: %v", x.field, x.code, err)
		}
	}
}

// What is said is held against what holds, which may be what is usual; what wasn't meant stays.
func TestSaid(t *testing.T) {
	said, is := quay()
	got, err := school.Change{
		Domain: ptr(" @KestrelQuay.example "), Zone: ptr("Atlantic/Azores"), Language: ptr("pt-pt"),
		SatchelMB: ptr(int64(0)), Site: ptr("http://localhost:8080/"),
		OfficeCodes: ptr(true), Words: &map[string]string{"class": " course ", "handout": ""},
		Service: &school.Service{Issuer: "http://[::1]:9000", Client: " satchel "},
		Post:    &school.Post{From: "Office@kestrelquay.example", Security: school.TLS},
	}.Of(said, is, school.Change{Zone: ptr("Europe/Lisbon"), SatchelMB: ptr(int64(1000)), OfficeCodes: ptr(false)}, nil)
	want := school.Settings{
		Name: "Kestrel Quay School", Domain: "kestrelquay.example", Zone: "Atlantic/Azores", Language: "pt-PT", Site: "http://localhost:8080",
		OfficeCodes: true, Words: map[string]string{"class": "course"},
		Service: school.Service{Issuer: "http://[::1]:9000", Client: "satchel"},
		Post:    school.Post{From: "office@kestrelquay.example", Security: school.TLS},
	}
	if err != nil || !reflect.DeepEqual(got, want) {
		t.Errorf("%+v, want %+v: %v", got, want, err)
	}
	for field, x := range map[string]struct{ to, was school.Change }{
		"zone":        {school.Change{Zone: ptr("Atlantic/Azores")}, school.Change{Zone: ptr("Europe/Dublin")}},
		"satchelMB":   {school.Change{SatchelMB: ptr(int64(5))}, school.Change{SatchelMB: ptr(int64(7))}},
		"outsideMail": {school.Change{OutsideMail: ptr(true)}, school.Change{OutsideMail: ptr(true)}},
		"words":       {school.Change{Words: &map[string]string{"class": "course"}}, school.Change{Words: &map[string]string{"class": "group"}}},
	} {
		said, is := quay()
		_, err := x.to.Of(said, is, x.was, nil)
		var changed *change.Changed
		if !errors.As(err, &changed) || changed.Field != field {
			t.Errorf("%s: %v", field, err)
		}
	}
}

// What is told of a change is what differs, each once, and nothing of what stays.
func TestTold(t *testing.T) {
	_, is := quay()
	to := is
	to.Name, to.OutsideMail, to.Post.Port, to.Words = "Harbour School", true, 587, map[string]string{"class": "course"}
	want := []change.Told{{What: "school-name", From: "Kestrel Quay School", To: "Harbour School"},
		{What: "school-outside-mail", From: "false", To: "true"}, {What: "post-port", From: "0", To: "587"}, {What: "school-words"}}
	if got := school.Told(is, to); !reflect.DeepEqual(got, want) {
		t.Errorf("told %v, want %v", got, want)
	}
	if got := school.Told(is, is); len(got) > 0 {
		t.Errorf("of no change is told %v", got)
	}
	// Every setting that is kept is told of: what is added to them must be added there.
	kept := reflect.TypeFor[school.Settings]()
	fields := kept.NumField() - 2 + reflect.TypeFor[school.Post]().NumField() + reflect.TypeFor[school.Service]().NumField()
	all := school.Settings{Name: "a", Domain: "a", Zone: "a", Language: "a", SatchelMB: 1, OfficeCodes: true, StaffReset: true,
		OutsideMail: true, ListAccounts: true, Words: map[string]string{"a": "a"}, Site: "a",
		Post:    school.Post{From: "a", PerMinute: 1, Port: 1, Security: "a", Server: "a", User: "a"},
		Service: school.Service{Client: "a", Issuer: "a", Make: true, Name: "a"}}
	if got := school.Told(school.Settings{}, all); len(got) != fields {
		t.Errorf("%d settings are told of %d", len(got), fields)
	}
}
