// Package e2e drives the real interface in a headless browser against the real
// program.
package e2e

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/cdp"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/launcher/flags"
	"github.com/go-rod/rod/lib/proto"
	"github.com/go-rod/rod/lib/utils"

	"jollysatchel/internal/demo"
	"jollysatchel/internal/pgserver/pgtest"
)

var (
	program string
	browser *rod.Browser
)

func TestMain(m *testing.M) { os.Exit(run(m)) }

func run(m *testing.M) int {
	dir, err := os.MkdirTemp("", "jollysatchel-e2e-*")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer os.RemoveAll(dir)
	program = filepath.Join(dir, "jollysatchel")
	if out, err := exec.Command("go", "build", "-o", program, "../cmd/jollysatchel").CombinedOutput(); err != nil {
		fmt.Fprintf(os.Stderr, "building the program: %v\n%s", err, out)
		return 1
	}
	l := launcher.New().Bin("/usr/bin/chromium-headless-shell").Leakless(false).NoSandbox(true).Headless(true)
	for _, f := range []string{"disable-gpu", "disable-quic", "no-first-run", "disable-background-networking",
		"disable-component-update", "disable-sync", "disable-dev-shm-usage"} {
		l = l.Set(flags.Flag(f))
	}
	url, err := l.UserDataDir(filepath.Join(dir, "chromium")).Launch()
	if err != nil {
		fmt.Fprintln(os.Stderr, "starting the browser:", err)
		return 1
	}
	defer l.Kill()
	// what is waited for is there soon
	soon := func() utils.Sleeper { return utils.BackoffSleeper(20*time.Millisecond, 200*time.Millisecond, nil) }
	browser = rod.New().ControlURL(url).Sleeper(soon)
	if err := browser.Connect(); err != nil {
		fmt.Fprintln(os.Stderr, "starting the browser:", err)
		return 1
	}
	return m.Run()
}

// A server is one running program.
type server struct {
	t    testing.TB
	url  string
	cmd  *exec.Cmd
	env  []string
	args []string
	log  *strings.Builder
	said chan string // lines it prints after its address
}

// start runs the program with the demo in a database of its own.
func start(t testing.TB, args ...string) *server { return startWith(t, nil, args...) }

// startWith runs it with further environment variables.
func startWith(t testing.TB, env []string, args ...string) *server {
	t.Helper()
	if each, ok := t.(*testing.T); ok {
		each.Parallel() // one waits for the browser while another waits for the server
	}
	s := &server{t: t, args: append([]string{"demo"}, args...)}
	on := func(url string) []string { return append(os.Environ(), "DATABASE_URL="+url, "PORT=0") }
	s.env = append(on(pgtest.From(t, strings.Join(args, " "), func(url string) { // the demo is made once
		first := &server{t: t, args: s.args, env: on(url)}
		first.run()
		first.stop()
	})), env...)
	s.run()
	t.Cleanup(s.stop)
	return s
}

// serve runs the program on an empty database, as a school does.
func serve(t *testing.T) *server {
	t.Helper()
	t.Parallel()
	s := &server{t: t, args: []string{"serve"}, env: append(os.Environ(), "DATABASE_URL="+pgtest.New(t), "PORT=0")}
	s.run()
	t.Cleanup(s.stop)
	return s
}

var printed = regexp.MustCompile(`http://127\.0\.0\.1:\d+`)

func (s *server) run() {
	s.t.Helper()
	s.log, s.said = &strings.Builder{}, make(chan string, 10)
	s.cmd = exec.Command(program, s.args...)
	s.cmd.Env = s.env
	s.cmd.Stderr = s.log
	out, err := s.cmd.StdoutPipe()
	if err != nil {
		s.t.Fatal(err)
	}
	if err := s.cmd.Start(); err != nil {
		s.t.Fatal(err)
	}
	found := make(chan string, 1)
	go func() {
		r, known := bufio.NewReader(out), false
		for {
			line, err := r.ReadString('\n')
			if u := printed.FindString(line); u != "" && !known {
				known = true
				found <- u
			} else if known {
				select {
				case s.said <- line:
				default:
				}
			}
			if err != nil {
				return
			}
		}
	}()
	select {
	case s.url = <-found:
	case <-time.After(90 * time.Second):
		s.t.Fatalf("the program doesn't start:\n%s", s.log)
	}
}

func (s *server) stop() {
	if s.cmd.ProcessState != nil {
		return
	}
	if err := s.cmd.Process.Signal(syscall.SIGTERM); err != nil {
		s.t.Error(err)
	}
	if err := s.cmd.Wait(); err != nil {
		s.t.Errorf("the program doesn't stop cleanly: %v\n%s", err, s.log)
	}
	if strings.Contains(s.log.String(), "level=ERROR") {
		s.t.Errorf("the program logged errors:\n%s", s.log)
	}
}

// A person sits before the browser: one page in a session of its own. Console
// errors and failed requests fail the test.
type person struct {
	t     testing.TB
	s     *server
	page  *rod.Page
	mu    sync.Mutex
	fails []string
	allow *regexp.Regexp // answers this test asks for on purpose
}

func (s *server) visit(t testing.TB, allow string) *person {
	t.Helper()
	ctx, err := browser.Incognito()
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { ctx.Close() })
	return s.window(t, ctx, allow)
}

// window is one more window of a browser.
func (s *server) window(t testing.TB, ctx *rod.Browser, allow string) *person {
	t.Helper()
	page, err := ctx.Page(proto.TargetCreateTarget{})
	if err != nil {
		t.Fatal(err)
	}
	p := &person{t: t, s: s, page: page.Timeout(5 * time.Minute)} // each step has a limit of its own
	if allow != "" {
		p.allow = regexp.MustCompile(allow)
	}
	p.size(1280, 800)
	still := proto.EmulationSetEmulatedMedia{Features: []*proto.EmulationMediaFeature{{Name: "prefers-reduced-motion", Value: "reduce"}}}
	if err := still.Call(page); err != nil { // what moves is hard to press
		t.Fatal(err)
	}
	listening, stop := context.WithCancel(context.Background())
	wait := page.Context(listening).EachEvent(
		func(e *proto.RuntimeConsoleAPICalled) {
			if e.Type == proto.RuntimeConsoleAPICalledTypeError || e.Type == proto.RuntimeConsoleAPICalledTypeWarning {
				text := []string{}
				for _, a := range e.Args {
					text = append(text, a.Value.String()+a.Description)
				}
				p.fail("console: " + strings.Join(text, " "))
			}
		},
		func(e *proto.RuntimeExceptionThrown) {
			p.fail("exception: " + e.ExceptionDetails.Text + " " + thrown(e.ExceptionDetails.Exception))
		},
		func(e *proto.NetworkResponseReceived) {
			if e.Response.Status >= 400 {
				p.fail(fmt.Sprintf("%d %s", e.Response.Status, e.Response.URL))
			}
		},
	)
	go wait()
	if err := (proto.NetworkEnable{}).Call(page); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		stop()
		page.Close()
		p.mu.Lock()
		defer p.mu.Unlock()
		for _, f := range p.fails {
			t.Errorf("in the browser: %s", f)
		}
	})
	return p
}

func (p *person) fail(what string) {
	if strings.Contains(what, "/api/me") && strings.HasPrefix(what, "401") {
		return // asking who is signed in, before anybody is
	}
	if p.allow != nil && p.allow.MatchString(what) {
		return
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	p.fails = append(p.fails, what)
}

func (p *person) must(err error, what string) {
	p.t.Helper()
	if err != nil {
		shot := filepath.Join(os.TempDir(), "jollysatchel-failed.png")
		if b, e := p.page.Timeout(5*time.Second).Screenshot(false, nil); e == nil {
			os.WriteFile(shot, b, 0o644)
		}
		p.t.Fatalf("%s: %v (picture in %s)", what, err, shot)
	}
}

func (p *person) size(w, h int) {
	p.must(p.page.SetViewport(&proto.EmulationSetDeviceMetricsOverride{Width: w, Height: h, DeviceScaleFactor: 1, Mobile: w < 600}), "size")
}

func (p *person) open(path string) *person {
	p.t.Helper()
	p.must(p.page.Navigate(p.s.url+path), "open "+path)
	p.must(p.page.WaitLoad(), "load "+path)
	return p
}

// be is one of the demo's people, on Today.
func (p *person) be(account string) *person {
	p.t.Helper()
	p.comeAs(account)
	p.open("/").see("h1", "Good")
	return p
}

// at is one of the demo's people before a class's Register; the way there is TestMainJob's.
func (p *person) at(account, class string) *person {
	p.t.Helper()
	req, err := http.NewRequest(http.MethodGet, p.s.url+"/api/classes", nil)
	p.must(err, "classes of "+account)
	for _, c := range p.comeAs(account) {
		req.AddCookie(c)
	}
	res, err := http.DefaultClient.Do(req)
	p.must(err, "classes of "+account)
	defer res.Body.Close()
	var all []struct{ ID, Name string }
	p.must(json.NewDecoder(res.Body).Decode(&all), "classes of "+account)
	for _, c := range all {
		if c.Name == class {
			p.open("/classes/"+c.ID).see("#page-title", class)
			return p
		}
	}
	p.t.Fatalf("%s has no class %s", account, class)
	return nil
}

// comeAs has the program's answer to the chooser of people kept as the browser keeps it; pressing
// the chooser itself is TestSignIn's.
func (p *person) comeAs(account string) []*http.Cookie {
	p.t.Helper()
	body, err := json.Marshal(map[string]string{"account": account})
	p.must(err, "be "+account)
	res, err := http.Post(p.s.url+"/api/demo/session", "application/json", bytes.NewReader(body))
	p.must(err, "be "+account)
	defer res.Body.Close()
	if res.StatusCode != http.StatusOK {
		p.t.Fatalf("be %s: %s", account, res.Status)
	}
	for _, c := range res.Cookies() {
		p.must(p.page.SetCookies([]*proto.NetworkCookieParam{{Name: c.Name, Value: c.Value, URL: p.s.url, HTTPOnly: c.HttpOnly}}), "be "+account)
	}
	return res.Cookies()
}

// signIn signs in with an address and the demo's password.
func (p *person) signIn(address string) *person {
	p.t.Helper()
	p.open("/sign-in")
	p.must(p.el("#address").Input(address), "address")
	p.must(p.el("#password").Input(demo.Password), "password")
	p.press(input.Enter)
	p.see("h1", "Good")
	p.until(`() => location.pathname !== '/sign-in'`)
	return p
}

// across asks again where the page went on to another while it was asked.
func across[T any](ask func() (T, error)) (T, error) {
	for tries := 1; ; tries++ {
		out, err := ask()
		var gone *cdp.Error
		if tries == 5 || !errors.As(err, &gone) || !strings.Contains(gone.Message, "navigated or closed") &&
			!errors.Is(err, cdp.ErrCtxDestroyed) && !errors.Is(err, cdp.ErrCtxNotFound) {
			return out, err
		}
	}
}

func (p *person) el(selector string) *rod.Element {
	p.t.Helper()
	e, err := across(func() (*rod.Element, error) { return p.page.Timeout(15 * time.Second).Element(selector) })
	p.must(err, selector)
	return e.CancelTimeout()
}

// see waits until an element with the selector holds the text and returns it.
func (p *person) see(selector, text string) *rod.Element {
	p.t.Helper()
	e, err := across(func() (*rod.Element, error) {
		return p.page.Timeout(20*time.Second).ElementR(selector, regexp.QuoteMeta(text))
	})
	p.must(err, fmt.Sprintf("see %q in %s", text, selector))
	return e.CancelTimeout()
}

func (p *person) click(selector string) {
	p.t.Helper()
	p.hit(selector, func() *rod.Element { return p.el(selector) })
}

// clickOn presses the element with the selector that holds the text.
func (p *person) clickOn(selector, text string) {
	p.t.Helper()
	p.hit(text+" in "+selector, func() *rod.Element { return p.see(selector, text) })
}

// hit presses as people do: what moves isn't pressed. What moves just when it is pressed, so
// that one presses beside, fails.
func (p *person) hit(what string, find func() *rod.Element) {
	p.t.Helper()
	for range 3 {
		e := find()
		p.must(e.Timeout(15*time.Second).WaitStableRAF(), "still "+what)
		if _, err := e.Eval(`() => this.addEventListener('click', () => (this.hit = true), { capture: true, once: true })`); err != nil {
			continue // another is in its place
		}
		p.must(e.Timeout(15*time.Second).Click(proto.InputMouseButtonLeft, 1), "click "+what)
		if beside, err := e.Eval(`() => this.isConnected && !this.hit`); err == nil && beside.Value.Bool() {
			p.must(errors.New("it moved away"), "pressed beside "+what)
		}
		return
	}
	p.t.Fatalf("%s is another each time it is looked at", what)
}

func (p *person) press(keys ...input.Key) {
	p.t.Helper()
	for _, k := range keys {
		p.must(p.page.Keyboard.Type(k), "press")
	}
}

// typeIn writes into a field that was just opened, without going there: the cursor is in it.
func (p *person) typeIn(field, text string) {
	p.t.Helper()
	p.until(`(s) => document.activeElement?.matches(s)`, field)
	p.must(p.page.InsertText(text), "type "+text)
}

// unfold shows all parts of a handout's sentence.
func (p *person) unfold() {
	p.t.Helper()
	p.click(`[data-act="unfold"]`)
}

// gone waits until no element has the selector.
func (p *person) gone(selector string) {
	p.t.Helper()
	p.until(`s => !document.querySelector(s)`, selector)
}

func (p *person) until(js string, args ...any) {
	p.t.Helper()
	_, err := across(func() (struct{}, error) {
		return struct{}{}, p.page.Timeout(25 * time.Second).Wait(rod.Eval(js, args...))
	})
	p.must(err, "waiting for "+js)
}

func (p *person) count(selector string) int {
	p.t.Helper()
	es, err := p.page.Elements(selector)
	p.must(err, selector)
	return len(es)
}

func (p *person) shot(file string) {
	p.t.Helper()
	_, err := p.page.Evaluate(rod.Eval(
		`() => document.fonts.ready.then(() => new Promise((r) => setTimeout(() => r(true), 250)))`).ByPromise())
	p.must(err, "fonts")
	b, err := p.page.Screenshot(false, &proto.PageCaptureScreenshot{Format: proto.PageCaptureScreenshotFormatPng})
	p.must(err, "picture")
	p.must(os.WriteFile(file, b, 0o644), "picture")
}

// hold keeps the answers of an address back until they are let go.
func (p *person) hold(pattern string) (letGo func()) {
	p.t.Helper()
	ctx, stop := context.WithCancel(context.Background())
	go p.page.Context(ctx).EachEvent(func(*proto.FetchRequestPaused) {})()
	p.must(proto.FetchEnable{Patterns: []*proto.FetchRequestPattern{{URLPattern: pattern,
		RequestStage: proto.FetchRequestStageResponse}}}.Call(p.page), "holding answers")
	return func() {
		p.t.Helper()
		stop()
		p.must(proto.FetchDisable{}.Call(p.page), "letting answers go")
	}
}

// paste puts text into an element as the clipboard does.
func (p *person) paste(selector, text string) {
	p.t.Helper()
	p.el(selector)
	_, err := p.page.Eval(`(s, text) => {
		const e = document.querySelector(s)
		e.focus()
		const d = new DataTransfer()
		d.setData('text/plain', text)
		e.dispatchEvent(new ClipboardEvent('paste', { clipboardData: d, bubbles: true, cancelable: true }))
	}`, selector, text)
	p.must(err, "paste")
}

func thrown(o *proto.RuntimeRemoteObject) string {
	if o == nil {
		return ""
	}
	return o.Description
}
