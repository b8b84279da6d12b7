package service_test

import (
	"context"
	"errors"
	"net/http"
	"net/http/httptest"
	"net/url"
	"testing"
	"time"

	"jollysatchel/internal/core/school"
	"jollysatchel/internal/service"
	"jollysatchel/internal/service/servicetest"
)

// Whatever isn't as OpenID Connect Core 1.0, 3.1.3.7, wants it is refused with its reason.
func TestFinish(t *testing.T) {
	for _, x := range []struct {
		name, want string
		change     func(p *servicetest.Provider, claims map[string]any, back url.Values)
	}{
		{"good", "", func(*servicetest.Provider, map[string]any, url.Values) {}},
		{"ours among the parties", "", func(_ *servicetest.Provider, c map[string]any, _ url.Values) {
			c["aud"], c["azp"] = []string{"satchel"}, "satchel"
		}},
		{"for another party as well", "service-audience", func(_ *servicetest.Provider, c map[string]any, _ url.Values) {
			c["aud"] = []string{"satchel", "another"}
		}},
		{"for another party as well, by ours", "service-audience", func(_ *servicetest.Provider, c map[string]any, _ url.Values) {
			c["aud"], c["azp"] = []string{"satchel", "another"}, "satchel"
		}},
		{"given to another party", "service-audience", func(_ *servicetest.Provider, c map[string]any, _ url.Values) { c["azp"] = "another" }},
		{"an address of which nothing is said", "service-address", func(_ *servicetest.Provider, c map[string]any, _ url.Values) {
			delete(c, "email_verified")
		}},
		{"another state", "service-state", func(_ *servicetest.Provider, _ map[string]any, b url.Values) { b.Set("state", "x") }},
		{"no state", "service-state", func(_ *servicetest.Provider, _ map[string]any, b url.Values) { b.Del("state") }},
		{"they said no", "service-denied", func(_ *servicetest.Provider, _ map[string]any, b url.Values) { b.Set("error", "access_denied") }},
		{"another nonce", "service-nonce", func(_ *servicetest.Provider, c map[string]any, _ url.Values) { c["nonce"] = "x" }},
		{"no nonce", "service-nonce", func(_ *servicetest.Provider, c map[string]any, _ url.Values) { delete(c, "nonce") }},
		{"for somebody else", "service-audience", func(_ *servicetest.Provider, c map[string]any, _ url.Values) { c["aud"] = "another" }},
		{"of somebody else", "service-issuer", func(_ *servicetest.Provider, c map[string]any, _ url.Values) {
			c["iss"] = "https://other.example"
		}},
		{"expired", "service-expired", func(_ *servicetest.Provider, c map[string]any, _ url.Values) {
			c["exp"] = time.Now().Add(-time.Minute).Unix()
		}},
		{"a foreign key", "service-key", func(p *servicetest.Provider, _ map[string]any, _ url.Values) { p.Signed = p.Other }},
		{"no address", "service-address", func(_ *servicetest.Provider, c map[string]any, _ url.Values) { delete(c, "email") }},
		{"an address nobody looked at", "service-address", func(_ *servicetest.Provider, c map[string]any, _ url.Values) {
			c["email_verified"] = false
		}},
		{"another code", "service-away", func(_ *servicetest.Provider, _ map[string]any, b url.Values) { b.Set("code", "bad") }},
		{"another verifier", "service-away", func(p *servicetest.Provider, _ map[string]any, _ url.Values) { p.Challenge = "x" }},
	} {
		t.Run(x.name, func(t *testing.T) {
			p := servicetest.New(t)
			var s service.Service
			set := service.Settings{Issuer: p.URL, Client: "satchel", Secret: "low water", Redirect: "https://satchel.school.example/back"}
			at, kept, err := s.Begin(set)
			if err != nil {
				t.Fatal(err)
			}
			u, err := url.Parse(at)
			if err != nil || u.Query().Get("code_challenge_method") != "S256" || u.Query().Get("redirect_uri") != set.Redirect {
				t.Fatalf("%s: %v", at, err)
			}
			back := p.Sent(t, at, "Ana.Reis@school.example")
			x.change(p, p.Claims, back)
			who, err := s.Finish(context.Background(), set, kept, back)
			if x.want == "" {
				if err != nil || who != (service.Person{Address: "Ana.Reis@school.example", Given: "Ana", Family: "Reis"}) {
					t.Fatalf("%+v, %v", who, err)
				}
				return
			}
			var r *service.Refused
			if !errors.As(err, &r) || r.Code != x.want || who != (service.Person{}) {
				t.Errorf("%+v, %v, not %s", who, err, x.want)
			}
		})
	}
}

func TestNothingKeptNothingTaken(t *testing.T) {
	var s service.Service
	var r *service.Refused
	if _, err := s.Finish(context.Background(), service.Settings{}, service.Started{},
		url.Values{"state": {""}}); !errors.As(err, &r) || r.Code != "service-state" {
		t.Errorf("%v", err)
	}
}

func TestAddress(t *testing.T) {
	for address, want := range map[string]bool{
		"https://id.school.example": true, "https://id.school.example/realm/a": true, "http://127.0.0.1:8080": true,
		"http://localhost": true, "http://[::1]:1": true,
		"http://id.school.example": false, "id.school.example": false, "": false, "https://": false,
		"https://a@id.school.example": false, "ftp://id.school.example": false, "https://id.school.example?x": false,
	} {
		if school.IssuerAddress(address) != want {
			t.Errorf("%q", address)
		}
	}
}

// A service that isn't there, or isn't what it says, is away.
func TestAway(t *testing.T) {
	other := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		w.Write([]byte(`{"issuer":"https://other.example"}`))
	}))
	defer other.Close()
	for _, issuer := range []string{"http://127.0.0.1:1", other.URL, "http://school.example"} {
		var s service.Service
		var r *service.Refused
		if _, _, err := s.Begin(service.Settings{Issuer: issuer}); !errors.As(err, &r) || r.Code != "service-away" {
			t.Errorf("%s: %v", issuer, err)
		}
	}
}
