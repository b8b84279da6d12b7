package web_test

import (
	"context"
	"net/http"
	"net/url"
	"strings"
	"testing"

	settings "jollysatchel/internal/core/school"
	"jollysatchel/internal/service/servicetest"
)

// Through the school's own service comes in who has an account with the address it vouches
// for, to where they wanted; nobody gets an account by that, unless the school wants it.
func TestComeThroughTheService(t *testing.T) {
	s := open(t)
	p := servicetest.New(t)
	set := func(v settings.Service) {
		t.Helper()
		if err := s.app.Cases.People.ChangeSchool(context.Background(), "office", settings.Change{Service: &v}, settings.Change{}); err != nil {
			t.Fatal(err)
		}
	}
	visit := func(c *http.Client, path string) (int, string) {
		t.Helper()
		c.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
		res, err := c.Get(s.srv.URL + path)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		return res.StatusCode, res.Header.Get("Location")
	}
	through := func(c *http.Client, address, to string) string {
		t.Helper()
		status, at := visit(c, "/api/session/service?to="+url.QueryEscape(to))
		if status != http.StatusSeeOther {
			t.Fatalf("%d %s", status, at)
		}
		status, at = visit(c, "/api/session/service/back?"+p.Sent(t, at, address).Encode())
		if status != http.StatusSeeOther {
			t.Fatalf("back: %d %s", status, at)
		}
		return at
	}
	me := func(c *http.Client) string {
		_, body := s.call(c, "GET", "/api/me", "")
		return body
	}
	c := s.as("")
	if status, _ := visit(c, "/api/session/service"); status != http.StatusNotFound {
		t.Errorf("without a service: %d", status)
	}
	set(settings.Service{Issuer: p.URL, Client: "satchel", Name: "Harbour pass"})
	if _, body := s.call(c, "GET", "/api/session/ways", ""); !strings.Contains(body, "Harbour pass") {
		t.Errorf("the sign-in page is told %s", body)
	}
	if at := through(c, "S0@kestrelquay.example", "/door/"+s.class.ID); at != "/door/"+s.class.ID ||
		!strings.Contains(me(c), `"account":"s0"`) {
		t.Errorf("to %s as %s", at, me(c))
	}
	if _, at := visit(c, "/api/session/service?to=/account"); at != "/account" { // who is in goes on
		t.Errorf("who is signed in is sent to %s", at)
	}
	for _, to := range []string{"//other.example", "https://other.example", `/\\other.example`, "javascript:alert(1)", "x"} {
		if at := through(s.as(""), "s0@kestrelquay.example", to); at != "/" {
			t.Errorf("%s leads to %s", to, at)
		}
	}
	other := s.as("")
	if at := through(other, "nobody@kestrelquay.example", "/"); at != "/sign-in?refused=service-nobody" ||
		!strings.Contains(me(other), "sign-in") {
		t.Errorf("nobody comes to %s as %s", at, me(other))
	}
	// Back a second time, or in another browser, is refused.
	_, at := visit(other, "/api/session/service")
	back := p.Sent(t, at, "s0@kestrelquay.example").Encode()
	if _, at := visit(s.as(""), "/api/session/service/back?"+back); at != "/sign-in?refused=service-state" {
		t.Errorf("in another browser: %s", at)
	}
	if _, at := visit(other, "/api/session/service/back?"+back); at != "/" {
		t.Errorf("once: %s", at)
	}
	if _, at := visit(other, "/api/session/service/back?"+back); at != "/sign-in?refused=service-state" {
		t.Errorf("twice: %s", at)
	}
	if status, body := s.call(s.as("office"), "PATCH", "/api/book/accounts/s1", `{"to":{"off":true},"was":{}}`); status != 204 {
		t.Fatal(body)
	}
	if at := through(s.as(""), "s1@kestrelquay.example", "/"); at != "/sign-in?refused=service-nobody" {
		t.Errorf("who is switched off comes to %s", at)
	}
	set(settings.Service{Issuer: p.URL, Client: "satchel", Make: true})
	fresh := s.as("")
	if at := through(fresh, "ana.reis@kestrelquay.example", "/"); at != "/" ||
		!strings.Contains(me(fresh), `"role":"student"`) || !strings.Contains(me(fresh), "Ana Reis") {
		t.Errorf("made: %s %s", at, me(fresh))
	}
	if at := through(s.as(""), "ana@other.example", "/"); at != "/sign-in?refused=service-nobody" {
		t.Errorf("of another domain: %s", at)
	}
}
