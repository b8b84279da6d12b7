package web_test

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	settings "jollysatchel/internal/core/school"
	"jollysatchel/internal/service/servicetest"
	"jollysatchel/internal/usecase/people"
)

// A stream of news ends soon after its session, in whatever way that ends.
func TestEventsEnd(t *testing.T) {
	s := open(t)
	for how, end := range map[string]func(c *http.Client){
		"signed out":     func(c *http.Client) { s.call(c, "DELETE", "/api/session", "") },
		"everywhere":     func(*http.Client) { s.call(s.as("oduya"), "DELETE", "/api/session?everywhere=true", "") },
		"ended by hand":  func(*http.Client) { s.app.Cases.People.EndSessions(context.Background(), []string{"oduya"}, "") },
		"the page going": nil,
	} {
		c := s.as("oduya")
		ctx, stop := context.WithTimeout(context.Background(), 30*time.Second)
		req, err := http.NewRequestWithContext(ctx, "GET", s.srv.URL+"/api/events", nil)
		if err != nil {
			t.Fatal(err)
		}
		res, err := c.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		if end == nil {
			stop()
		} else {
			end(c)
		}
		_, _ = io.Copy(io.Discard, res.Body) // until it ends
		if res.Body.Close(); end != nil && ctx.Err() != nil {
			t.Errorf("%s, and the news go on", how)
		}
		stop()
	}
}

// Anyone who sets a password with a code ends the account's other sessions.
func TestCodeEndsSessions(t *testing.T) {
	s := open(t)
	before := s.as("s0")
	codes, err := s.app.Cases.People.GiveCodes(context.Background(), "office", []string{"s0"}, people.CodesAsked{})
	if err != nil {
		t.Fatal(err)
	}
	if status, _ := s.call(before, "GET", "/api/me", ""); status != 200 {
		t.Fatalf("while the code isn't used: %d", status)
	}
	if status, answer := s.call(s.as(""), "POST", "/api/session/first",
		`{"address":"s0@kestrelquay.example","code":"AAAA","password":"some other words"}`); status != 422 ||
		!strings.Contains(answer, "code-refused") {
		t.Errorf("a wrong code: %d %s", status, answer)
	}
	c := s.as("")
	if status, answer := s.call(c, "POST", "/api/session/first",
		`{"address":"s0@kestrelquay.example","code":"`+codes[0].Code+`","password":"some other words"}`); status != 200 {
		t.Fatalf("the code: %d %s", status, answer)
	}
	for who, want := range map[*http.Client]int{before: 401, c: 200} {
		if status, _ := s.call(who, "GET", "/api/me", ""); status != want {
			t.Errorf("%d, want %d", status, want)
		}
	}
}

// A whole school begins to sign in through its own service from one address in one minute; who
// gave up half way and pictures on other sites' pages take nobody's turn.
func TestStartsCountApart(t *testing.T) {
	s := open(t)
	p := servicetest.New(t)
	set := settings.Service{Issuer: p.URL, Client: "satchel"}
	if err := s.app.Cases.People.ChangeSchool(context.Background(), "office", settings.Change{Service: &set}, settings.Change{}); err != nil {
		t.Fatal(err)
	}
	get := func(c *http.Client, path string, head ...string) (int, string) {
		t.Helper()
		c.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
		req, err := http.NewRequest("GET", s.srv.URL+path, nil)
		if err != nil {
			t.Fatal(err)
		}
		for i := 0; i+1 < len(head); i += 2 {
			req.Header.Set(head[i], head[i+1])
		}
		res, err := c.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		return res.StatusCode, res.Header.Get("Location")
	}
	for range 60 {
		if status, _ := get(s.as(""), "/api/session/service", "Sec-Fetch-Site", "cross-site", "Sec-Fetch-Mode", "no-cors"); status != 403 {
			t.Fatalf("a picture on another site's page: %d", status)
		}
	}
	for range 60 {
		get(s.as(""), "/api/session/service") // and gave up
	}
	for i := range 70 {
		c := s.as("")
		status, at := get(c, "/api/session/service?to=/", "Sec-Fetch-Site", "cross-site", "Sec-Fetch-Mode", "navigate")
		if status != 303 || strings.HasPrefix(at, "/sign-in") {
			t.Fatalf("the %dth begins: %d %s", i, status, at)
		}
		if status, at = get(c, "/api/session/service/back?"+p.Sent(t, at, "s0@kestrelquay.example").Encode()); status != 303 || at != "/" {
			t.Fatalf("the %dth comes back: %d %s", i, status, at)
		}
	}
	refused := ""
	for range 400 {
		if status, at := get(s.as(""), "/api/session/service"); status == 303 && strings.HasPrefix(at, "/sign-in") {
			refused = at
		}
	}
	if refused != "/sign-in?refused=too-often" {
		t.Errorf("who begins without end is sent to %q", refused)
	}
}

// What is shown and compared for one account leaves room for the others: who never stops asking is
// before another once or twice, and no more. What is compared is short, so that this doesn't depend
// on how busy the machine is.
func TestCostlyShare(t *testing.T) {
	s := open(t)
	slow := strings.Repeat("- a\\n", 12_000)
	body := fmt.Sprintf(`{"text":"%s","other":"%s b"}`, slow, slow)
	greedy, honest := s.as("s0"), s.as("s1")
	run, stop := context.WithCancel(context.Background())
	defer stop()
	var all sync.WaitGroup
	var answered atomic.Int64
	busy := make(chan struct{})
	for range 12 {
		all.Go(func() {
			for run.Err() == nil {
				req, err := http.NewRequestWithContext(run, "POST", s.srv.URL+"/api/render", strings.NewReader(body))
				if err != nil {
					return
				}
				req.Header.Set("Content-Type", "application/json")
				res, err := greedy.Do(req)
				if err != nil {
					return
				}
				if res.StatusCode == http.StatusOK && answered.Add(1) == 3 {
					close(busy)
				}
				res.Body.Close()
			}
		})
	}
	<-busy
	for range 5 {
		before := answered.Load()
		if status, answer := s.call(honest, "POST", "/api/render", `{"text":"a","other":"b"}`); status != 200 {
			t.Errorf("another's text meanwhile: %d %s", status, answer)
		}
		if n := answered.Load() - before; n > 2 {
			t.Errorf("%d of the other's came first", n)
		}
	}
	stop()
	all.Wait()
}

// A cookie that is nobody's doesn't pass by the limit of its origin.
func TestMadeUpCookie(t *testing.T) {
	s := open(t)
	set := s.app.Settings
	set.Pace = 5
	s.app.Settings = set
	slow := httptest.NewServer(s.app.Web(nil))
	defer slow.Close()
	refused := 0
	for i := range 120 {
		req, err := http.NewRequest("GET", slow.URL+"/api/me", nil)
		if err != nil {
			t.Fatal(err)
		}
		req.AddCookie(&http.Cookie{Name: "satchel", Value: fmt.Sprintf("made-up-%040d", i)})
		res, err := http.DefaultClient.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		if res.Body.Close(); res.StatusCode == http.StatusTooManyRequests {
			refused++
		}
	}
	if refused < 40 {
		t.Errorf("%d of 120 requests with made-up cookies were refused", refused)
	}
}

// A long body counts as several requests before it is read, and is nobody else's loss. Who isn't
// signed in has none to send.
func TestLongBodiesCount(t *testing.T) {
	s := open(t)
	for _, path := range []string{"/api/session", "/api/session/first"} {
		if status, answer := s.call(s.as(""), "POST", path,
			`{"address":"s0@kestrelquay.example","password":"`+strings.Repeat("x", 20_000)+`"}`); status != http.StatusRequestEntityTooLarge {
			t.Errorf("%s: %d %s", path, status, answer)
		}
	}
	set := s.app.Settings
	set.Pace = 5 // and twenty at once
	s.app.Settings = set
	slow := httptest.NewServer(s.app.Web(nil))
	defer slow.Close()
	s.srv = slow
	c, other := s.as("s0"), s.as("s1")
	long := `{"text":"` + strings.Repeat("low water ", 20_000) + `","other":"b"}`
	taken := 0
	for range 8 {
		if status, answer := s.call(c, "POST", "/api/render", long); status == 200 {
			taken++
		} else if status != http.StatusTooManyRequests {
			t.Errorf("%d %s", status, answer)
		}
	}
	if taken == 0 || taken > 5 {
		t.Errorf("%d long ones of 8 were taken", taken)
	}
	for range 8 {
		if status, answer := s.call(other, "POST", "/api/render", `{"text":"a","other":"b"}`); status != 200 {
			t.Errorf("another's: %d %s", status, answer)
		}
	}
}
