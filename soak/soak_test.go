//go:build soak

// Package soak has honest people at work while somebody tries to bring the
// server down: a few minutes on loopback, with what came of it in figures.
package soak

import (
	"archive/zip"
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"mime/multipart"
	"net"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/schoolbook/standin"
	"jollysatchel/internal/tables"
	"jollysatchel/internal/web/api"
)

const (
	students = 200
	teachers = 10
	most     = 1536 << 20 // bytes of memory of the server
	soon     = time.Second
)

// A crowd asks one server, and keeps how that went.
type crowd struct {
	url string
	mu  sync.Mutex
	// times of the honest, by what they asked for
	times  map[string][]time.Duration
	errors map[string]int
	tried  map[string]int // of the attacker, by answer
}

func (c *crowd) note(what string, took time.Duration, wrong string) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.times[what] = append(c.times[what], took)
	if wrong != "" {
		c.errors[what+": "+wrong]++
	}
}

func (c *crowd) attack(what string, status int) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.tried[fmt.Sprint(what, " ", status)]++
}

func (c *crowd) ask(client *http.Client, method, path, kind string, body io.Reader) (int, []byte, error) {
	req, err := http.NewRequest(method, c.url+path, body)
	if err != nil {
		return 0, nil, err
	}
	if kind != "" {
		req.Header.Set("Content-Type", kind)
	}
	res, err := client.Do(req)
	if err != nil {
		return 0, nil, err
	}
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	return res.StatusCode, b, err
}

// honest asks and notes how long it took and whether it went wrong.
func (c *crowd) honest(what string, client *http.Client, method, path, kind string, body io.Reader, into any) bool {
	begun := time.Now()
	status, b, err := c.ask(client, method, path, kind, body)
	wrong := ""
	switch {
	case err != nil:
		wrong = err.Error()
	case status >= 300:
		wrong = fmt.Sprintf("%d %.100s", status, b)
	case into != nil:
		if err := json.Unmarshal(b, into); err != nil {
			wrong = err.Error()
		}
	}
	c.note(what, time.Since(begun), wrong)
	return wrong == ""
}

func (c *crowd) signIn(t *testing.T, address string) *http.Client {
	t.Helper()
	jar, _ := cookiejar.New(nil)
	client := &http.Client{Jar: jar, Timeout: time.Minute}
	body := fmt.Sprintf(`{"address":%q,"password":%q}`, address, apptest.Password)
	if status, b, err := c.ask(client, "POST", "/api/session", "application/json", strings.NewReader(body)); err != nil || status != 200 {
		t.Fatalf("%s: %d %s %v", address, status, b, err)
	}
	return client
}

// school fills the database: ten teachers with a class of twenty each, packed,
// with one handout.
func school(t *testing.T) *app.App {
	t.Helper()
	ctx := context.Background()
	a := apptest.Open(t)
	apptest.People(t, a, students)
	hash, err := standin.Hash(apptest.Password)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Store.DB.ExecContext(ctx, `update schoolbook.accounts set password = $1
		where password <> ''`, hash); err != nil { // at what signing in costs
		t.Fatal(err)
	}
	for i := range teachers {
		acc := accounts.Account{ID: fmt.Sprint("t", i), Address: fmt.Sprintf("t%d@kestrelquay.example", i),
			Given: "Teacher", Family: fmt.Sprint("No", i), Role: accounts.Staff}
		if err := a.Book.Add(ctx, acc, hash); err != nil {
			t.Fatal(err)
		}
		if err := a.Cup.AddPeople(ctx, acc.ID); err != nil {
			t.Fatal(err)
		}
		cl, err := a.Cases.Classes.CreateClass(ctx, acc.ID, "", fmt.Sprint("Tide Watch ", i), "3", false)
		if err != nil {
			t.Fatal(err)
		}
		list := strings.Split(strings.TrimSpace(apptest.List(students)), "\n")
		each := students / teachers
		mine := append(list[:1:1], list[1+i*each:1+(i+1)*each]...)
		d, err := a.Cases.Lists.BringDraft(ctx, acc.ID, cl.ID, "", strings.NewReader(strings.Join(mine, "\n")))
		if err != nil {
			t.Fatal(err)
		}
		if _, err := a.Cases.Lists.Accept(ctx, acc.ID, cl.ID, d.LookedAt()); err != nil {
			t.Fatal(err)
		}
		apptest.Pack(t, a, apptest.Load(t, a, cl.ID), nil)
		h := apptest.Handout(t, a, apptest.Load(t, a, cl.ID), "# Log\n\nWhat did you see?\n")
		apptest.Pack(t, a, apptest.Load(t, a, cl.ID), &h)
	}
	return a
}

// serve starts the program itself on the school's database.
func serve(t *testing.T, database string) (url string, pid int) {
	t.Helper()
	cmd := exec.Command("../bin/jollysatchel", "serve")
	cmd.Env = append(os.Environ(), "DATABASE_URL="+database, "PORT=0", "JOLLY_SCHOOL=Kestrel Quay School", "JOLLY_DOMAIN=kestrelquay.example")
	var log bytes.Buffer
	cmd.Stderr = &log
	out, err := cmd.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		cmd.Process.Signal(os.Interrupt)
		cmd.Wait()
		if t.Failed() {
			t.Logf("the server said:\n%.5000s", log.String())
		}
		for _, bad := range []string{"panic", "fatal error"} {
			if strings.Contains(log.String(), bad) {
				t.Errorf("the server said %q", bad)
			}
		}
	})
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		if _, at, ok := strings.Cut(lines.Text(), "Jolly Satchel is at "); ok {
			return at, cmd.Process.Pid
		}
	}
	t.Fatal("it doesn't come up")
	return "", 0
}

// peak is the most memory a process had, in bytes.
func peak(t *testing.T, pid int) int {
	t.Helper()
	b, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	if err != nil {
		t.Fatal(err)
	}
	for line := range strings.Lines(string(b)) {
		if rest, ok := strings.CutPrefix(line, "VmHWM:"); ok {
			n, _ := strconv.Atoi(strings.Fields(rest)[0])
			return n << 10
		}
	}
	t.Fatal("no VmHWM")
	return 0
}

func wait(ctx context.Context, least, most time.Duration) bool {
	select {
	case <-ctx.Done():
		return false
	case <-time.After(least + rand.N(most-least)):
		return true
	}
}

// howLong a soak takes, unless SOAK says.
func howLong(t *testing.T, usual time.Duration) time.Duration {
	v := os.Getenv("SOAK")
	if v == "" {
		return usual
	}
	long, err := time.ParseDuration(v)
	if err != nil || long > 10*time.Minute {
		t.Fatalf("SOAK=%s: no time of at most 10 minutes", v)
	}
	return long
}

func TestSoak(t *testing.T) {
	long := howLong(t, 3*time.Minute)
	a := school(t)
	url, pid := serve(t, a.Settings.Database)
	c := &crowd{url: url, times: map[string][]time.Duration{}, errors: map[string]int{}, tried: map[string]int{}}
	var pupils, staff []*http.Client
	for i := range students {
		pupils = append(pupils, c.signIn(t, fmt.Sprintf("s%d@kestrelquay.example", i)))
	}
	for i := range teachers {
		staff = append(staff, c.signIn(t, fmt.Sprintf("t%d@kestrelquay.example", i)))
	}
	bad := c.signIn(t, "stranger@kestrelquay.example")
	t.Logf("signed in; the server took %d MB until then", peak(t, pid)>>20)

	ctx, stop := context.WithTimeout(context.Background(), long)
	defer stop()
	var all sync.WaitGroup
	for i, p := range pupils {
		all.Go(func() { c.pupil(ctx, p, i) })
	}
	for i, p := range staff {
		all.Go(func() { c.teacher(ctx, p) })
		if i < 2 {
			all.Go(func() { c.lists(ctx, p) })
		}
	}
	c.attacks(ctx, t, &all, bad, pupils[0])
	all.Wait()

	t.Logf("%s with %d students, %d teachers, 2 of them with lists, and an attacker on %d requests", long, students, teachers, c.sum())
	c.tell(t, pid, func(what string) time.Duration {
		if strings.HasPrefix(what, "teacher") {
			return soon
		}
		return 0
	})
}

// tell says how it went, and fails where the honest had errors or waited longer than bar at the
// 95th percentile; 0 is no bar.
func (c *crowd) tell(t *testing.T, pid int, bar func(what string) time.Duration) {
	t.Helper()
	memory := peak(t, pid)
	t.Logf("memory of the server: %d MB at most", memory>>20)
	if memory > most {
		t.Errorf("the server took %d MB", memory>>20)
	}
	for _, what := range sorted(c.times) {
		times := c.times[what]
		slices.Sort(times)
		p95 := times[len(times)*95/100]
		t.Logf("%-22s %6d times, median %s, 95%% %s, longest %s", what, len(times),
			times[len(times)/2].Round(time.Millisecond), p95.Round(time.Millisecond), times[len(times)-1].Round(time.Millisecond))
		if most := bar(what); most > 0 && p95 > most {
			t.Errorf("%s: %s at the 95th percentile", what, p95)
		}
	}
	for what, n := range c.errors {
		t.Errorf("of the honest, %d times: %s", n, what)
	}
	for _, what := range sorted(c.tried) {
		t.Logf("attacker: %-40s %d times", what, c.tried[what])
	}
}

func (c *crowd) sum() int {
	n := 0
	for _, v := range c.tried {
		n += v
	}
	return n
}

func sorted[V any](m map[string]V) []string {
	var out []string
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

// pupil opens the copy, writes in it every few seconds, and adds a picture now and then.
func (c *crowd) pupil(ctx context.Context, client *http.Client, n int) {
	words := "low water"
	for i := 0; wait(ctx, 2*time.Second, 8*time.Second); i++ {
		var home api.Home
		if !c.honest("student's home", client, "GET", "/api/home", "", nil, &home) || len(home.Classes) == 0 || len(home.Classes[0].Copies) == 0 {
			continue
		}
		thing := home.Classes[0].Copies[0].Thing
		var text api.Text
		// the attacker has the first one's
		if n > 0 && c.honest("student's document", client, "GET", "/api/things/"+thing+"/text", "", nil, &text) {
			words += fmt.Sprintf(" and at %d the *limpets*", i)
			body, _ := json.Marshal(map[string]any{"text": "# Log\n\n" + words, "base": text.Version, "key": fmt.Sprintf("key %d of %d", i, n)})
			c.honest("student's save", client, "PUT", "/api/things/"+thing+"/text", "application/json", bytes.NewReader(body), nil)
		}
		if i%5 == 4 && home.Classes[0].Satchel != nil {
			body, kind := form("pool.png", strings.NewReader(strings.Repeat("picture", 10_000+rand.IntN(40_000))))
			c.honest("student's upload", client, "POST", "/api/things/"+*home.Classes[0].Satchel+"/files", kind, body, nil)
		}
	}
}

// teacher looks at the rail and the Register.
func (c *crowd) teacher(ctx context.Context, client *http.Client) {
	for wait(ctx, time.Second, 3*time.Second) {
		var classes []api.ClassTag
		if !c.honest("teacher's classes", client, "GET", "/api/classes", "", nil, &classes) || len(classes) == 0 {
			continue
		}
		var reg api.Register
		if c.honest("teacher's Register", client, "GET", "/api/classes/"+classes[0].Id+"/register", "", nil, &reg) && len(reg.Students) > 0 {
			c.honest("teacher's panel", client, "GET", "/api/classes/"+classes[0].Id+"/students/"+reg.Students[0].Row, "", nil, nil)
		}
		c.honest("teacher's room", client, "GET", "/api/classes/"+classes[0].Id+"/room", "", nil, nil)
	}
}

// lists brings in a long list every few seconds, in turn as text and as a spreadsheet.
func (c *crowd) lists(ctx context.Context, client *http.Client) {
	rows := [][]string{{"No", "Surname", "First", "Email", "Period"}}
	for i := range 5000 {
		rows = append(rows, []string{fmt.Sprint(90000 + i), fmt.Sprint("Newcomer", i), "Given", fmt.Sprintf("n%d@kestrelquay.example", i), "3"})
	}
	var text, sheet bytes.Buffer
	if tables.Write(&text, tables.CSV, "List", rows) != nil || tables.Write(&sheet, tables.XLSX, "List", rows) != nil {
		return
	}
	var classes []api.ClassTag
	if !c.honest("teacher's classes", client, "GET", "/api/classes", "", nil, &classes) || len(classes) == 0 {
		return
	}
	for wait(ctx, 8*time.Second, 12*time.Second) {
		body, _ := json.Marshal(map[string]string{"text": text.String()})
		c.honest("list, pasted", client, "POST", "/api/classes/"+classes[0].Id+"/draft", "application/json", bytes.NewReader(body), nil)
		form, kind := form("list.xlsx", bytes.NewReader(sheet.Bytes()))
		c.honest("list, spreadsheet", client, "POST", "/api/classes/"+classes[0].Id+"/draft/file", kind, form, nil)
	}
}

func form(name string, content io.Reader) (io.Reader, string) {
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	w.WriteField("key", fmt.Sprint(rand.Uint64()))
	f, _ := w.CreateFormFile("file", name)
	io.Copy(f, content)
	w.Close()
	return &b, w.FormDataContentType()
}

// attacks does what brought the server down before, all at once, again and again.
func (c *crowd) attacks(ctx context.Context, t *testing.T, all *sync.WaitGroup, teacher, pupil *http.Client) {
	again := func(at int, do func(i int)) {
		for n := range at {
			all.Go(func() {
				for i := n; wait(ctx, 10*time.Millisecond, 200*time.Millisecond); i += at {
					do(i)
				}
			})
		}
	}
	nobody := &http.Client{Timeout: 30 * time.Second, Transport: &http.Transport{MaxIdleConnsPerHost: 20}}
	again(30, func(i int) { // without an account: guesses
		status, _, _ := c.ask(nobody, "POST", "/api/session", "application/json",
			strings.NewReader(fmt.Sprintf(`{"address":"s%d@kestrelquay.example","password":"guess"}`, i)))
		c.attack("guess", status)
	})
	large := strings.Repeat(" ", 51<<20) + "{}"
	again(4, func(int) { // and large bodies
		status, _, _ := c.ask(nobody, "POST", "/api/classes", "application/json", strings.NewReader(large))
		c.attack("large body", status)
		wait(ctx, time.Second, 2*time.Second) // sending them takes this machine more than refusing them
	})
	for range 60 { // slow ones
		all.Go(func() {
			for wait(ctx, 100*time.Millisecond, time.Second) {
				c.slow(ctx)
			}
		})
	}
	var made api.Class
	status, b, err := c.ask(teacher, "POST", "/api/classes", "application/json", strings.NewReader(`{"name":"Wreckers"}`))
	if err != nil || json.Unmarshal(b, &made) != nil {
		t.Fatal(status, string(b), err)
	}
	bombs := bombs(t)
	again(3, func(i int) { // spreadsheets
		body, kind := form("list", bytes.NewReader(bombs[i%len(bombs)]))
		status, _, _ := c.ask(teacher, "POST", "/api/classes/"+made.Id+"/draft/file", kind, body)
		c.attack("spreadsheet", status)
	})
	var home api.Home
	if _, b, err := c.ask(pupil, "GET", "/api/home", "", nil); err != nil || json.Unmarshal(b, &home) != nil {
		t.Fatal(err)
	}
	thing, satchel := home.Classes[0].Copies[0].Thing, *home.Classes[0].Satchel
	tangled := []string{strings.Repeat(">", 300_000), strings.Repeat("[", 300_000), strings.Repeat("a|", 1000) + "\n" +
		strings.Repeat("-|", 1000) + "\n" + strings.Repeat("|\n", 100_000), strings.Repeat("*a_ ", 100_000), strings.Repeat("[a](b)", 100_000)}
	var mu sync.Mutex
	version := 1
	again(2, func(i int) { // a student's documents
		mu.Lock()
		defer mu.Unlock()
		body, _ := json.Marshal(map[string]any{"text": tangled[i%len(tangled)], "base": version, "key": fmt.Sprintf("attack %d", i)})
		status, b, _ := c.ask(pupil, "PUT", "/api/things/"+thing+"/text", "application/json", bytes.NewReader(body))
		c.attack("tangled save", status)
		var w api.Written
		if status == 200 && json.Unmarshal(b, &w) == nil {
			version = w.Version
		}
		status, _, _ = c.ask(pupil, "GET", "/api/things/"+thing+"/text", "", nil)
		c.attack("tangled read", status)
		status, _, _ = c.ask(pupil, "POST", "/api/render", "application/json",
			bytes.NewReader(must(json.Marshal(map[string]string{"text": tangled[i%len(tangled)], "other": "a"}))))
		c.attack("tangled render", status)
	})
	again(2, func(i int) { // and long names
		body, kind := form(strings.Repeat("潮", 85)+".png", strings.NewReader(fmt.Sprint(i)))
		status, _, _ := c.ask(pupil, "POST", "/api/things/"+satchel+"/files", kind, body)
		c.attack("long name", status)
	})
}

func must(b []byte, _ error) []byte { return b }

// slow sends a request byte by byte until it is hung up on.
func (c *crowd) slow(ctx context.Context) {
	conn, err := net.Dial("tcp", strings.TrimPrefix(c.url, "http://"))
	if err != nil {
		return
	}
	defer conn.Close()
	if rand.IntN(2) == 0 {
		fmt.Fprintf(conn, "POST /api/session HTTP/1.1\r\nHost: localhost\r\nContent-Type: application/json\r\nContent-Length: 100000\r\n\r\n")
	} else {
		fmt.Fprintf(conn, "POST /api/session HTTP/1.1\r\nHost: localhost\r\n")
	}
	begun := time.Now()
	for wait(ctx, 500*time.Millisecond, time.Second) {
		if _, err := conn.Write([]byte("a")); err != nil {
			c.attack("slow, hung up on", int(time.Since(begun).Seconds())/30*30)
			return
		}
	}
}

// bombs are small files that unpack to much.
func bombs(t *testing.T) [][]byte {
	t.Helper()
	pack := func(members map[string]string) []byte {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for name, text := range members {
			w, err := z.Create(name)
			if err != nil {
				t.Fatal(err)
			}
			io.WriteString(w, text)
		}
		z.Close()
		return b.Bytes()
	}
	ods := func(rows string) []byte {
		return pack(map[string]string{"mimetype": "application/vnd.oasis.opendocument.spreadsheet",
			"content.xml": `<d xmlns:table="t" xmlns:text="x"><table:table table:name="a">` + rows + `</table:table></d>`})
	}
	long := strings.Repeat("a", 100_000)
	xlsx := func(shared, rows, rest string) []byte {
		return pack(map[string]string{
			"[Content_Types].xml":        `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"/>`,
			"xl/workbook.xml":            `<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="A" sheetId="1" r:id="rId1"/></sheets></workbook>`,
			"xl/_rels/workbook.xml.rels": `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/></Relationships>`,
			"xl/sharedStrings.xml":       `<sst>` + shared + `</sst>`,
			"xl/worksheets/sheet1.xml":   `<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>` + rows + `</sheetData>` + rest + `</worksheet>`,
		})
	}
	return [][]byte{
		ods(`<table:table-row table:number-rows-repeated="200000"><table:table-cell table:number-columns-repeated="900"><text:p>a long word</text:p></table:table-cell></table:table-row>`),
		xlsx(`<si><t>`+long+`</t></si>`, strings.Repeat(`<row>`+strings.Repeat(`<c t="s"><v>0</v></c>`, 1000)+`</row>`, 100), ""),
		xlsx("", strings.Repeat(`<row>`+strings.Repeat(`<c s="1"/>`, 100)+`</row>`, 20_000), ""),
		xlsx("", `<row r="1"><c r="A1"><v>1</v></c></row><row r="250000"><c r="A250000"><v>1</v></c></row>`,
			`<mergeCells>`+strings.Repeat(`<mergeCell ref="A1:A250000"/>`, 5000)+`</mergeCells>`),
		ods(`<table:table-row><table:table-cell><text:p>` + strings.Repeat(`<text:s text:c="1000"/>`, 1_000_000) +
			`</text:p></table:table-cell></table:table-row>`),
		ods(strings.Repeat(`<table:table-row>`+strings.Repeat(`<table:table-cell><text:p>a</text:p></table:table-cell>`,
			20)+`</table:table-row>`, 20_000)),
		[]byte(strings.Repeat(",", 3_900_000)),
		[]byte("Surname,Email\n" + strings.Repeat("a,b\n", 240_000)),
	}
}
