//go:build soak

package soak

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	settings "jollysatchel/internal/core/school"
	"jollysatchel/internal/service/servicetest"
	"jollysatchel/internal/web/api"
)

// bearable is how long one of the fifty waits at the 95th percentile.
const bearable = 400 * time.Millisecond

// Fifty honest people are at work while a teacher and a student of the school, and somebody
// without an account, do what shuts others out: fill the disk, keep documents, sign-in,
// connections and mail busy. Nobody of the fifty meets an error or waits long.
func TestFifty(t *testing.T) {
	long := howLong(t, 5*time.Minute)
	a := school(t)
	provider := servicetest.New(t)
	set := settings.Service{Issuer: provider.URL, Client: "satchel"}
	if err := a.Cases.People.ChangeSchool(t.Context(), "office", settings.Change{Service: &set}, settings.Change{}); err != nil {
		t.Fatal(err)
	}
	url, pid := serve(t, a.Settings.Database)
	c := &crowd{url: url, times: map[string][]time.Duration{}, errors: map[string]int{}, tried: map[string]int{}}
	var pupils, staff []*http.Client
	for i := range 45 {
		pupils = append(pupils, c.signIn(t, fmt.Sprintf("s%d@kestrelquay.example", 1+i))) // the attacker is the first one
	}
	for i := range 5 {
		staff = append(staff, c.signIn(t, fmt.Sprintf("t%d@kestrelquay.example", i)))
	}
	teacher, pupil := c.signIn(t, "stranger@kestrelquay.example"), c.signIn(t, "s0@kestrelquay.example")

	means := c.means(t, teacher, pupil)
	ctx, stop := context.WithTimeout(context.Background(), long)
	defer stop()
	var all sync.WaitGroup
	for i, p := range pupils {
		all.Go(func() { c.pupil(ctx, p, 1+i) })
	}
	for _, p := range staff {
		all.Go(func() { c.teacher(ctx, p) })
	}
	all.Go(func() { c.comer(ctx) })
	for _, m := range means {
		for n := range m.at {
			all.Go(func() {
				for i := n; wait(ctx, m.pause, 2*m.pause); i += m.at {
					c.attack(m.what, m.do(i))
				}
			})
		}
	}
	c.idle(ctx, &all)
	all.Wait()

	t.Logf("%s with 45 students, 5 teachers, and an attacker on %d requests", long, c.sum())
	c.tell(t, pid, func(string) time.Duration { return bearable })
}

// comer is honest and comes again: through the school's own service, from where all are.
func (c *crowd) comer(ctx context.Context) {
	for wait(ctx, 3*time.Second, 6*time.Second) {
		client := &http.Client{Timeout: time.Minute, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
		begun := time.Now()
		status, _, err := c.ask(client, "GET", "/api/session/service?to=/", "", nil)
		wrong := ""
		if err != nil || status != http.StatusFound && status != http.StatusSeeOther {
			wrong = fmt.Sprint(status, " ", err)
		}
		c.note("begin to sign in", time.Since(begun), wrong)
	}
}

// A means is one way to keep others from what they need: done by so many at once, again and
// again after a pause. It returns the status of the answer.
type means struct {
	what  string
	at    int
	pause time.Duration
	do    func(i int) int
}

// means are the attacker's.
func (c *crowd) means(t *testing.T, teacher, pupil *http.Client) []means {
	t.Helper()
	var folder api.Folder
	if status, b, err := c.ask(pupil, "POST", "/api/folders", "application/json",
		strings.NewReader(`{"name":"Hold"}`)); err != nil || json.Unmarshal(b, &folder) != nil || folder.Id == "" {
		t.Fatal(status, string(b), err)
	}
	tangled := must(json.Marshal(map[string]string{"text": strings.Repeat("*a_ ", 60_000), "other": "a"}))
	apart := &http.Client{Timeout: 30 * time.Second, CheckRedirect: func(*http.Request, []*http.Request) error {
		return http.ErrUseLastResponse
	}}
	leaflets := c.own(t, teacher, "Pamphleteers", 200)
	letter := must(json.Marshal(map[string]any{"kind": "written", "column": "extra:Home",
		"text": map[string]string{"subject": "Buy", "body": "[Given name], buy"}}))
	return append(c.forms(t, teacher), []means{
		// The disk: folders outside the satchels, filled with what nobody has yet.
		{"fill the disk", 4, 50 * time.Millisecond, func(int) int {
			much := make([]byte, 4<<20)
			_, _ = rand.Read(much)
			body, kind := form("cargo.bin", bytes.NewReader(much))
			status, _, _ := c.ask(pupil, "POST", "/api/things/"+folder.Id+"/files", kind, body)
			return status
		}},
		{"render", 60, 50 * time.Millisecond, func(int) int {
			status, _, _ := c.ask(pupil, "POST", "/api/render", "application/json", bytes.NewReader(tangled))
			return status
		}},
		// Sign-in: pictures on another site's page, and cookies that nobody was given.
		{"sign-in from a picture", 10, 100 * time.Millisecond, func(int) int {
			return c.from(apart, "/api/session/service?to=/", "Sec-Fetch-Site", "cross-site", "Sec-Fetch-Mode", "no-cors")
		}},
		{"a made-up session", 10, 20 * time.Millisecond, func(int) int {
			return c.from(elsewhere(), "/api/me", "Cookie", "satchel="+rand.Text())
		}},
		{"mail to strangers", 3, 200 * time.Millisecond, func(int) int {
			status, _, _ := c.ask(teacher, "POST", "/api/classes/"+leaflets+"/messages", "application/json", bytes.NewReader(letter))
			return status
		}},
	}...)
}

// from asks with some headings.
func (c *crowd) from(client *http.Client, path string, head ...string) int {
	req, err := http.NewRequest("GET", c.url+path, nil)
	if err != nil {
		return 0
	}
	for i := 0; i+1 < len(head); i += 2 {
		req.Header.Set(head[i], head[i+1])
	}
	res, err := client.Do(req)
	if err != nil {
		return 0
	}
	defer res.Body.Close()
	_, _ = io.Copy(io.Discard, res.Body)
	return res.StatusCode
}

// elsewhere asks from an address of its own: loopback has many.
func elsewhere() *http.Client {
	var b [3]byte
	_, _ = rand.Read(b[:])
	d := &net.Dialer{LocalAddr: &net.TCPAddr{IP: net.IPv4(127, b[0], b[1], 1+b[2]%250)}}
	return &http.Client{Timeout: 10 * time.Second, Transport: &http.Transport{DialContext: d.DialContext, DisableKeepAlives: true}}
}

// forms are documents to fill in that cost much, of a teacher's own class.
func (c *crowd) forms(t *testing.T, teacher *http.Client) []means {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	w, err := z.Create("word/document.xml")
	if err != nil {
		t.Fatal(err)
	}
	_, _ = io.WriteString(w, `<w:document xmlns:w="x"><w:body><w:p>`+strings.Repeat(`<w:t>[Class]</w:t>`,
		200_000)+`</w:p></w:body></w:document>`)
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	class := c.own(t, teacher, "Wreckers", 20)
	body, kind := form("Form.docx", &b)
	var tpl api.Template
	if status, answer, err := c.ask(teacher, "POST", "/api/templates", kind, body); err != nil ||
		json.Unmarshal(answer, &tpl) != nil || tpl.Id == "" {
		t.Fatal(status, string(answer), err)
	}
	var h api.Handout
	if status, answer, err := c.ask(teacher, "POST", "/api/classes/"+class+"/handouts", "application/json",
		strings.NewReader(`{"template":"`+tpl.Id+`"}`)); err != nil || json.Unmarshal(answer, &h) != nil || h.Id == "" {
		t.Fatal(status, string(answer), err)
	}
	gone := &http.Client{Jar: teacher.Jar, Timeout: 300 * time.Millisecond} // who doesn't wait for the answer
	return []means{{"fill a form in", 6, 100 * time.Millisecond, func(i int) int {
		client := []*http.Client{teacher, gone}[i%2]
		status, _, _ := c.ask(client, "GET", "/api/classes/"+class+"/handouts/"+h.Id+"/documents/1/filled", "", nil)
		return status
	}}}
}

// own is a class of the teacher's with a list, whose last column has addresses of strangers.
func (c *crowd) own(t *testing.T, teacher *http.Client, name string, rows int) string {
	t.Helper()
	var made api.Class
	if status, b, err := c.ask(teacher, "POST", "/api/classes", "application/json",
		strings.NewReader(`{"name":"`+name+`"}`)); err != nil || json.Unmarshal(b, &made) != nil {
		t.Fatal(status, string(b), err)
	}
	list := "No\tSurname\tFirst\tEmail\tHome\n"
	for i := range rows {
		list += fmt.Sprintf("%d\tFamily%d\tGiven%d\ts%d@kestrelquay.example\t", 70000+i, i, i, i)
		for k := range 5 {
			list += fmt.Sprintf("x%d.%d@far.example; ", i, k)
		}
		list += "\n"
	}
	var draft api.Draft
	body := must(json.Marshal(map[string]string{"text": list}))
	if status, b, err := c.ask(teacher, "POST", "/api/classes/"+made.Id+"/draft", "application/json",
		bytes.NewReader(body)); err != nil || json.Unmarshal(b, &draft) != nil || status != 200 {
		t.Fatal(status, string(b), err)
	}
	accept := must(json.Marshal(map[string]any{"id": draft.Id, "looked": draft.Looked, "revision": draft.Revision}))
	if status, b, err := c.ask(teacher, "POST", "/api/classes/"+made.Id+"/draft/accept", "application/json",
		bytes.NewReader(accept)); err != nil || status != 200 {
		t.Fatal(status, string(b), err, draft.Counts, draft.Groups, draft.Findings[:min(3, len(draft.Findings))])
	}
	return made.Id
}

// idle holds as many connections as the server lets it, and opens more for those it loses. They
// come from an address of their own: of one that has most, those that wait longest are closed.
func (c *crowd) idle(ctx context.Context, all *sync.WaitGroup) {
	const hold = 4100
	var limit syscall.Rlimit
	_ = syscall.Getrlimit(syscall.RLIMIT_NOFILE, &limit)
	most := min(hold, int(limit.Cur)-1000)
	there := &net.Dialer{LocalAddr: &net.TCPAddr{IP: net.IPv4(127, 66, 6, 6)}}
	for range 10 {
		all.Go(func() {
			var held []net.Conn
			defer func() {
				for _, conn := range held {
					conn.Close()
				}
			}()
			for ctx.Err() == nil {
				if len(held) < most/10 {
					conn, err := there.DialContext(ctx, "tcp", strings.TrimPrefix(c.url, "http://"))
					if err == nil {
						held = append(held, conn)
						c.attack("idle connection", 0)
						continue
					}
				}
				if !wait(ctx, 50*time.Millisecond, 100*time.Millisecond) {
					return
				}
				held = alive(held)
			}
		})
	}
}

// alive are the connections that weren't closed over there.
func alive(of []net.Conn) []net.Conn {
	var out []net.Conn
	for _, conn := range of {
		_ = conn.SetReadDeadline(time.Now())
		if _, err := conn.Read(make([]byte, 1)); err == nil || errors.Is(err, syscall.EAGAIN) || isTimeout(err) {
			out = append(out, conn)
			continue
		}
		conn.Close()
	}
	return out
}

func isTimeout(err error) bool {
	var net net.Error
	return errors.As(err, &net) && net.Timeout()
}
