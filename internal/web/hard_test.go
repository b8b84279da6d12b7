package web_test

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"runtime"
	"strings"
	"sync"
	"testing"
	"time"

	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/web"
	"jollysatchel/internal/web/api"
)

// do sends a request with headers, in pairs; Host is the name that is asked for.
func (s *school) do(c *http.Client, method, url, body string, headers ...string) (*http.Response, string) {
	s.t.Helper()
	req, err := http.NewRequest(method, url, strings.NewReader(body))
	if err != nil {
		s.t.Fatal(err)
	}
	if body != "" {
		req.Header.Set("Content-Type", "application/json")
	}
	for i := 0; i < len(headers); i += 2 {
		if headers[i] == "Host" {
			req.Host = headers[i+1]
		} else {
			req.Header.Set(headers[i], headers[i+1])
		}
	}
	res, err := c.Do(req)
	if err != nil {
		s.t.Fatal(err)
	}
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	if err != nil {
		s.t.Fatal(err)
	}
	return res, string(b)
}

func (s *school) tryIn(c *http.Client, address, password string, headers ...string) int {
	s.t.Helper()
	res, _ := s.do(c, "POST", s.srv.URL+"/api/session", fmt.Sprintf(`{"address":%q,"password":%q}`, address, password), headers...)
	return res.StatusCode
}

// Anyone who guesses is slowed down; anyone who was signed in from a device gets in from
// there meanwhile, and so does everybody else from elsewhere.
func TestGuessing(t *testing.T) {
	s := open(t)
	known := s.as("oduya")
	const address = "oduya@kestrelquay.example"
	slowed := 0
	for range 20 {
		if s.tryIn(http.DefaultClient, address, "guess") == http.StatusTooManyRequests {
			slowed++
		}
	}
	if slowed < 5 {
		t.Errorf("of 20 guesses %d were slowed down", slowed)
	}
	if got := s.tryIn(known, address, apptest.Password); got != http.StatusOK {
		t.Errorf("from a known device meanwhile: %d", got)
	}
	if got := s.tryIn(http.DefaultClient, "lindqvist@kestrelquay.example", apptest.Password); got != http.StatusOK {
		t.Errorf("somebody else meanwhile: %d", got)
	}
	// One origin goes through many accounts.
	slowed = 0
	var mu sync.Mutex
	var all sync.WaitGroup
	for i := range 120 {
		all.Go(func() {
			got := s.tryIn(http.DefaultClient, fmt.Sprintf("s%d@kestrelquay.example", i), "guess")
			mu.Lock()
			defer mu.Unlock()
			if got == http.StatusTooManyRequests {
				slowed++
			}
		})
	}
	all.Wait()
	if slowed < 40 {
		t.Errorf("of 120 accounts %d were slowed down", slowed)
	}
	slowedFor := func(c *http.Client) int {
		n := 0
		for i := range 40 {
			all.Go(func() {
				got := s.tryIn(c, fmt.Sprintf("other%d@kestrelquay.example", i), "guess")
				mu.Lock()
				defer mu.Unlock()
				if got == http.StatusTooManyRequests {
					n++
				}
			})
		}
		all.Wait()
		return n
	}
	if n := slowedFor(http.DefaultClient); n < 5 {
		t.Errorf("after that %d of 40 were slowed down", n)
	}
	if got := s.tryIn(known, address, apptest.Password); got != http.StatusOK {
		t.Errorf("from a known device after that: %d", got)
	}
	if n := slowedFor(known); n < 5 { // a device is known for whom it was, not for others
		t.Errorf("a known device for others: %d of 40 were slowed down", n)
	}
}

// Many who sign in at once wait for one another: a password's check takes 64 MiB.
func TestManySignInAtOnce(t *testing.T) {
	s := open(t)
	runtime.GC()
	var before, now runtime.MemStats
	runtime.ReadMemStats(&before)
	done := make(chan struct{})
	var all sync.WaitGroup
	for range 60 {
		all.Go(func() { s.tryIn(http.DefaultClient, "nobody@kestrelquay.example", "guess") })
	}
	for i := range 50 {
		all.Go(func() { s.tryIn(http.DefaultClient, fmt.Sprintf("n%d@kestrelquay.example", i), "guess") })
	}
	go func() { all.Wait(); close(done) }()
	most := uint64(0)
	tick := time.NewTicker(5 * time.Millisecond)
	defer tick.Stop()
	for at := true; at; {
		select {
		case <-done:
			at = false
		case <-tick.C:
			runtime.ReadMemStats(&now)
			most = max(most, now.HeapInuse)
		}
	}
	if most > before.HeapInuse+500<<20 {
		t.Errorf("110 at once took %d MB", (most-before.HeapInuse)>>20)
	}
}

// An account is what the school book says now: anyone who is taken out of it, or is
// somebody else there, has nothing from before, and news end too.
func TestNoLongerInTheBook(t *testing.T) {
	s := open(t)
	ctx := context.Background()
	lindqvist, student := s.as("lindqvist"), s.as("s0")
	news, err := lindqvist.Get(s.srv.URL + "/api/events")
	if err != nil {
		t.Fatal(err)
	}
	defer news.Body.Close()
	if status, _ := s.call(lindqvist, "GET", "/api/classes", ""); status != 200 {
		t.Fatal(status)
	}
	if err := s.app.Book.Update(ctx,
		accounts.Account{ID: "lindqvist", Address: "lindqvist@kestrelquay.example", Given: "Mats", Family: "Lindqvist",
			Role: accounts.Student}); err != nil {
		t.Fatal(err)
	}
	// It is asked again within seconds.
	soon := func(c *http.Client, path string, want int) {
		t.Helper()
		status := 0
		for begun := time.Now(); status != want && time.Since(begun) < 6*time.Second; {
			status, _ = s.call(c, "GET", path, "")
		}
		if status != want {
			t.Errorf("%s: %d, want %d", path, status, want)
		}
	}
	soon(lindqvist, "/api/classes", 404)
	if err := s.app.Book.Remove(ctx, []string{"lindqvist", "s0"}); err != nil {
		t.Fatal(err)
	}
	for _, c := range []*http.Client{lindqvist, student} {
		soon(c, "/api/me", 401)
	}
	ended := make(chan error, 1)
	go func() {
		_, err := io.Copy(io.Discard, news.Body)
		ended <- err
	}()
	select {
	case <-ended:
	case <-time.After(30 * time.Second):
		t.Error("news go on for somebody who is gone")
	}
}

// Signing out everywhere ends the news of other windows too; a session that isn't
// told to stay ends on the server the same day.
func TestSessionsEnd(t *testing.T) {
	s := open(t)
	here, there := s.as("oduya"), s.as("oduya")
	var last time.Time
	if err := s.app.Store.DB.Get(&last, `select max(expiry) from sessions`); err != nil {
		t.Fatal(err)
	}
	if left := time.Until(last); left < time.Hour || left > 24*time.Hour {
		t.Errorf("a session without stay ends in %s", left)
	}
	if res, body := s.do(here, "DELETE", s.srv.URL+"/api/session?everywhere=true", ""); res.StatusCode != 204 {
		t.Fatal(res.Status, body)
	}
	if status, _ := s.call(there, "GET", "/api/me", ""); status != 401 {
		t.Errorf("elsewhere: %d", status)
	}
}

// The server answers to its own names alone, and says so like everything else it
// refuses; of what a proxy says only that of a named one is believed.
func TestNamesAndProxies(t *testing.T) {
	s := open(t)
	s.app.Settings.Hosts = []string{"satchel.kestrelquay.example"}
	ask := func(srv *httptest.Server, headers ...string) (*http.Response, string) {
		return s.do(http.DefaultClient, "GET", srv.URL+"/api/me", "", headers...)
	}
	plain := httptest.NewServer(s.app.Web(nil))
	defer plain.Close()
	for host, want := range map[string]int{"satchel.kestrelquay.example": 401, "SATCHEL.kestrelquay.example:8443": 401,
		"localhost:1": 401, "[::1]:80": 401, "127.0.0.9": 401, "other.example": 421,
		"satchel.kestrelquay.example.other.example": 421, "localhost.other.example": 421} {
		if res, body := ask(plain, "Host", host); res.StatusCode != want || !strings.Contains(body, `"code"`) {
			t.Errorf("%s: %s %s", host, res.Status, body)
		}
	}
	if res, body := s.do(http.DefaultClient, "POST", plain.URL+"/api/session", `{"address":"a","password":"b"}`,
		"Sec-Fetch-Site", "cross-site", "Origin", "https://other.example"); res.StatusCode != 403 || !strings.Contains(body, `"foreign-site"`) {
		t.Errorf("from another site: %s %s", res.Status, body)
	}
	secure := func(srv *httptest.Server) (cookie, hsts bool) {
		res, _ := s.do(http.DefaultClient, "POST", srv.URL+"/api/session",
			`{"address":"amaral@kestrelquay.example","password":"`+apptest.Password+`"}`, "X-Forwarded-Proto", "https",
			"X-Forwarded-For", "203.0.113.7")
		for _, k := range res.Cookies() {
			cookie = k.Secure
		}
		return cookie, res.Header.Get("Strict-Transport-Security") != ""
	}
	if cookie, hsts := secure(plain); cookie || hsts {
		t.Error("anybody's word for TLS is believed")
	}
	s.app.Settings.Proxies = []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}
	behind := httptest.NewServer(s.app.Web(nil))
	defer behind.Close()
	if cookie, hsts := secure(behind); !cookie || !hsts {
		t.Errorf("behind a named proxy: cookie %v, HSTS %v", cookie, hsts)
	}
	for range 15 { // each address behind it counts by itself
		s.tryAt(behind, "oduya@kestrelquay.example", "203.0.113.1")
	}
	if got := s.tryAt(behind, "oduya@kestrelquay.example", "203.0.113.1"); got != 429 {
		t.Errorf("the address that guesses: %d", got)
	}
	if got := s.tryAt(behind, "oduya@kestrelquay.example", "203.0.113.2"); got != 401 {
		t.Errorf("another address: %d", got)
	}
}

func (s *school) tryAt(srv *httptest.Server, address, from string) int {
	res, _ := s.do(http.DefaultClient, "POST", srv.URL+"/api/session",
		fmt.Sprintf(`{"address":%q,"password":"guess"}`, address), "X-Forwarded-For", from)
	return res.StatusCode
}

// The demo's chooser of people is for the browser of this machine alone.
func TestChooserStaysHere(t *testing.T) {
	s := open(t)
	s.app.Settings.Hosts = []string{"satchel.kestrelquay.example"}
	demo := httptest.NewServer(s.app.Web([]web.DemoPerson{{Account: accounts.Account{ID: "oduya"}}}))
	defer demo.Close()
	be := func(headers ...string) int {
		res, _ := s.do(http.DefaultClient, "POST", demo.URL+"/api/demo/session", `{"account":"oduya"}`, headers...)
		return res.StatusCode
	}
	if got := be(); got != 200 {
		t.Errorf("here: %d", got)
	}
	for what, headers := range map[string][]string{
		"under another name": {"Host", "satchel.kestrelquay.example"},
		"through a proxy":    {"X-Forwarded-For", "203.0.113.7"}, "through another": {"Forwarded", "for=203.0.113.7"},
		"for another page": {"Origin", "http://127.0.0.1:1"},
	} {
		if got := be(headers...); got != 404 && got != 403 {
			t.Errorf("%s: %d", what, got)
		}
	}
}

// Who may not is told so before anything of a large body is read; a small route
// takes no large body.
func TestLargeBodies(t *testing.T) {
	s := open(t)
	large := strings.Repeat(" ", 51<<20) + "{}"
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	for range 8 {
		req, err := http.NewRequest("POST", s.srv.URL+"/api/classes/"+s.class.ID+"/draft", strings.NewReader(large))
		if err != nil {
			t.Fatal(err)
		}
		req.Header.Set("Content-Type", "application/json")
		res, err := http.DefaultClient.Do(req)
		if err != nil {
			continue // hung up on: that is an answer too
		}
		res.Body.Close()
		if res.StatusCode != 401 {
			t.Errorf("nobody's list: %s", res.Status)
		}
	}
	runtime.ReadMemStats(&after)
	if took := after.TotalAlloc - before.TotalAlloc; took > 64<<20 {
		t.Errorf("nobody's lists took %d MB", took>>20)
	}
	c := s.as("oduya")
	if status, body := s.call(c, "POST", "/api/classes", `{"name":"`+strings.Repeat("a", 2<<20)+`"}`); status != 413 ||
		!strings.Contains(body, "too-large") {
		t.Errorf("2 MB to a small route: %d %s", status, body)
	}
	runtime.ReadMemStats(&before)
	if status, body := s.call(c, "POST", "/api/classes/"+s.class.ID+"/draft",
		`{"text":[`+strings.Repeat("1,", 20<<20)+`1]}`); status != 422 || !strings.Contains(body, "too-many") {
		t.Errorf("20 million values: %d %.200s", status, body)
	}
	runtime.ReadMemStats(&after)
	if took := after.TotalAlloc - before.TotalAlloc; took > 500<<20 { // of which most is sending it
		t.Errorf("20 million values took %d MB", took>>20)
	}
	deep := func(n int) string { return strings.Repeat("[", n) + strings.Repeat("]", n) }
	for _, x := range []struct {
		body string
		want int
		code string
	}{
		{`{"name":` + deep(19) + `}`, 400, `"field":"name"`},
		{`{"name":` + deep(20) + `}`, 400, `"bad-request","message"`},
		{`{"name":"\"` + deep(50) + `"}`, 201, ""}, // in a text they are letters
		{`{"name":"a\u0000"}`, 400, "no-such-letter"},
		{`{"name":"a","\u0000":1}`, 400, "no-such-letter"},
		{`{"name":"a"} {}`, 400, "bad-request"},
	} {
		if status, answer := s.call(c, "POST", "/api/classes", x.body); status != x.want || !strings.Contains(answer, x.code) {
			t.Errorf("%.60s: %d %.200s", x.body, status, answer)
		}
	}
	for length, want := range map[int]int{257: 422, 10_000: 422, 100_000: 413} { // the last isn't read
		if got := s.tryIn(http.DefaultClient, "oduya@kestrelquay.example", strings.Repeat("a", length)); got != want {
			t.Errorf("a password of %d letters: %d, want %d", length, got, want)
		}
	}
}

// form is the body of a form with one file.
func form(name, content, end string) (body, kind string) {
	return "--b\r\nContent-Disposition: form-data; name=\"file\"; filename=\"" + name + "\"\r\n\r\n" + content +
		end, "multipart/form-data; boundary=b"
}

// A form that was cut off on the way is refused, and nothing of it is kept; names
// that no text holds are as well.
func TestOddForms(t *testing.T) {
	s := open(t)
	c := s.as("s0")
	url := s.srv.URL + "/api/things/" + s.satchel.Thing
	inside := func() int {
		_, body := s.do(c, "GET", url, "")
		var thing api.Thing
		if err := json.Unmarshal([]byte(body), &thing); err != nil {
			t.Fatal(err, body)
		}
		return len(thing.Children)
	}
	was := inside()
	for what, f := range map[string]struct{ name, content, end string }{
		"cut off in the file":         {"a.txt", strings.Repeat("a", 100_000), ""},
		"cut off before the end":      {"a.txt", "a", "\r\n--b"},
		"cut off in the end":          {"a.txt", "a", "\r\n--b-"},
		"cut off in another field":    {"a.txt", "a", "\r\n--b\r\nContent-Disposition: form-data; name=\"x\"\r\n\r\ny"},
		"a name that isn't UTF-8":     {"a\xff.txt", "a", "\r\n--b--\r\n"},
		"a name with what isn't text": {"a%00\x00.txt", "a", "\r\n--b--\r\n"},
		"a name without end":          {strings.Repeat("a", 2000), "a", "\r\n--b--\r\n"},
	} {
		body, kind := form(f.name, f.content, f.end)
		res, answer := s.do(c, "POST", url+"/files", body, "Content-Type", kind)
		if res.StatusCode != 400 && res.StatusCode != 422 || !strings.Contains(answer, `"code"`) {
			t.Errorf("%s: %s %s", what, res.Status, answer)
		}
	}
	if now := inside(); now != was {
		t.Errorf("%d things were kept", now-was)
	}
	body, kind := form("a.txt", "", "\r\n--b--\r\n")
	if res, answer := s.do(s.as("oduya"), "POST", s.srv.URL+"/api/templates", body, "Content-Type",
		kind); res.StatusCode != 422 || !strings.Contains(answer, "file-empty") {
		t.Errorf("a template of 0 bytes: %s %s", res.Status, answer)
	}
	body, kind = form("a.txt", "a", "\r\n--b--\r\n")
	if res, answer := s.do(c, "POST", url+"/files", body, "Content-Type", kind); res.StatusCode != 201 || inside() != was+1 {
		t.Errorf("a whole one: %s %s", res.Status, answer)
	}
}

// A student's tangled document is shown as it was typed and keeps nobody from the
// Register, which says that its words can't be counted.
func TestTangledDocument(t *testing.T) {
	s := open(t)
	body, err := json.Marshal(map[string]any{"text": strings.Repeat(">", 300_000), "base": 1, "key": "a key of this write"})
	if err != nil {
		t.Fatal(err)
	}
	if status, answer := s.call(s.as("s0"), "PUT", "/api/things/"+s.copy.Thing+"/text", string(body)); status != 200 {
		t.Fatal(status, answer)
	}
	if err := s.app.Observer.CatchUp(context.Background()); err != nil {
		t.Fatal(err)
	}
	c := s.as("oduya")
	reg := ask[api.Register](s, c, "GET", "/api/classes/"+s.class.ID+"/register", "")
	found := false
	for _, col := range reg.Columns {
		for i, words := range col.Words {
			found = found || words == -1 && col.States[i] == "working"
		}
	}
	if !found {
		t.Errorf("the Register: %+v", reg.Columns)
	}
	text := ask[api.Text](s, c, "GET", "/api/things/"+s.copy.Thing+"/text", "")
	if !text.Tangled || !strings.HasPrefix(text.Html, "<pre>") {
		t.Errorf("shown as %.60s", text.Html)
	}
	// It is counted again once it is a text like others.
	if status, answer := s.call(s.as("s0"), "PUT", "/api/things/"+s.copy.Thing+"/text",
		`{"text":"# Log\n\nlow water","base":2,"key":"a key of another"}`); status != 200 {
		t.Fatal(status, answer)
	}
	if err := s.app.Observer.CatchUp(context.Background()); err != nil {
		t.Fatal(err)
	}
	reg = ask[api.Register](s, c, "GET", "/api/classes/"+s.class.ID+"/register", "")
	if got := fmt.Sprint(reg.Columns[len(reg.Columns)-1].Words); !strings.Contains(got, "2") {
		t.Errorf("words by then: %s", got)
	}
}

// One account has only so much under way at once, and is told so.
func TestAtOnce(t *testing.T) {
	s := open(t)
	c := s.as("s0")
	// What is sent is sent once the server reads it, which it does once it has counted.
	counted := &http.Client{Jar: c.Jar, Transport: &http.Transport{ExpectContinueTimeout: time.Minute}}
	var ends []*io.PipeWriter
	var all sync.WaitGroup
	begun := make(chan struct{}, 10)
	for i := range 4 {
		r, w := io.Pipe()
		ends = append(ends, w)
		all.Go(func() {
			req, err := http.NewRequest("POST", s.srv.URL+"/api/things/"+s.satchel.Thing+"/files", r)
			if err != nil {
				t.Error(err)
				return
			}
			req.Header.Set("Content-Type", "multipart/form-data; boundary=b")
			req.Header.Set("Expect", "100-continue")
			res, err := counted.Do(req)
			if err != nil {
				t.Error(err)
				return
			}
			res.Body.Close()
			if res.StatusCode != 201 {
				t.Errorf("upload %d: %s", i, res.Status)
			}
		})
		go func() {
			body, _ := form(fmt.Sprintf("%d.txt", i), "a", "")
			io.WriteString(w, body)
			begun <- struct{}{}
		}()
	}
	for range 4 {
		<-begun
	}
	body, kind := form("5.txt", "a", "\r\n--b--\r\n")
	if res, answer := s.do(c, "POST", s.srv.URL+"/api/things/"+s.satchel.Thing+"/files", body, "Content-Type",
		kind); res.StatusCode != 429 || !strings.Contains(answer, "uploads-at-once") {
		t.Errorf("a fifth upload: %s %s", res.Status, answer)
	}
	for _, w := range ends {
		io.WriteString(w, "\r\n--b--\r\n")
		w.Close()
	}
	all.Wait()

	teacher := s.as("oduya")
	for i := range 13 {
		ctx, stop := context.WithCancel(context.Background())
		defer stop()
		req, err := http.NewRequestWithContext(ctx, "GET", s.srv.URL+"/api/events", nil)
		if err != nil {
			t.Fatal(err)
		}
		res, err := teacher.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		defer res.Body.Close()
		if want := map[bool]int{true: 200, false: 429}[i < 12]; res.StatusCode != want {
			t.Errorf("window %d: %s", i+1, res.Status)
		}
		if res.StatusCode == 200 {
			if _, err := bufio.NewReader(res.Body).ReadString('\n'); err != nil {
				t.Error(err)
			}
		}
	}
}
