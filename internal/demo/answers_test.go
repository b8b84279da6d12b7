package demo_test

import (
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"sort"
	"strings"
	"testing"
	"time"

	"github.com/getkin/kin-openapi/openapi3"

	contract "jollysatchel/api"
	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/demo"
	"jollysatchel/internal/pgserver/pgtest"
	"jollysatchel/internal/usecase/seam"
)

var update = flag.Bool("update", false, "write the answers anew")

// What every page of the demo is given is what it was given: each address of the contract
// that only reads, asked as five of the demo's people. What is made again at each start has the
// name of what it stands for. Written again by
//
//	go test ./internal/demo -run TestAnswers -update
func TestAnswers(t *testing.T) {
	lisbon, err := time.LoadLocation("Europe/Lisbon")
	if err != nil {
		t.Fatal(err)
	}
	at := time.Date(2026, 11, 25, 11, 40, 0, 0, time.UTC)
	s := app.Settings{Database: pgtest.New(t), School: seam.School{Zone: lisbon}, Now: func() time.Time { return at },
		Demo: true, Pace: 10_000, Here: "http://satchel.test", ShowStandins: true}
	people, err := demo.Ensure(context.Background(), s)
	if err != nil {
		t.Fatal(err)
	}
	a := apptest.With(t, s)
	apptest.Look(t, a)
	server := httptest.NewServer(a.Web(people))
	t.Cleanup(server.Close)
	known := namesOf(t, a)
	doc, err := openapi3.NewLoader().LoadFromData(contract.Contract)
	if err != nil {
		t.Fatal(err)
	}
	for _, who := range []string{"staff-oduya", "staff-amaral", "office", "student-nokuthula.dube", "student-wren.ashdown"} {
		client := signedIn(t, server.URL, who)
		told := map[string]*strings.Builder{who: {}}
		for _, path := range addresses(t, doc, known) {
			part := who
			if strings.Contains(path, "/handouts/") {
				part += "-handouts"
			}
			if told[part] == nil {
				told[part] = &strings.Builder{}
			}
			text := strings.ReplaceAll(answer(t, client, known, server.URL+path), server.URL, "http://here")
			fmt.Fprintf(told[part], "%s\n%s\n", known.in(path), text)
		}
		for part, out := range told {
			same(t, filepath.Join("testdata", part+".txt"), out.String())
		}
	}
}

// same holds a text against what a file says, or writes the file where that is asked.
func same(t *testing.T, file, is string) {
	t.Helper()
	if *update {
		if err := os.WriteFile(file, []byte(is), 0o644); err != nil {
			t.Fatal(err)
		}
		return
	}
	was, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	if line, before, now := firstChange(string(was), is); line > 0 {
		t.Errorf("%s, line %d:\nwas %s\nis  %s", file, line, before, now)
	}
}

func firstChange(was, is string) (line int, before, now string) {
	a, b := strings.Split(was, "\n"), strings.Split(is, "\n")
	for i := range max(len(a), len(b)) {
		if i >= len(a) || i >= len(b) || a[i] != b[i] {
			return i + 1, strings.Join(a[min(i, len(a)):min(i+3, len(a))], "\n"), strings.Join(b[min(i, len(b)):min(i+3, len(b))], "\n")
		}
	}
	return 0, "", ""
}

func signedIn(t *testing.T, url, who string) *http.Client {
	t.Helper()
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	client := &http.Client{Jar: jar}
	res, err := client.Post(url+"/api/demo/session", "application/json", strings.NewReader(fmt.Sprintf(`{"account":%q}`, who)))
	if err != nil || res.StatusCode != http.StatusOK {
		t.Fatal(res, err)
	}
	res.Body.Close()
	return client
}

// names is what each thing that is made again stands for, by its id.
type names struct {
	of  map[string]string
	ids map[string][]string // to ask with, by the parameter's name and class
}

func (n *names) add(id, name string) {
	if n.of[id] == "" {
		n.of[id] = name
	}
}

var (
	anID      = regexp.MustCompile(`[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}`)
	aFraction = regexp.MustCompile(`(T\d\d:\d\d:\d\d)\.\d+Z`)
	aWhile    = regexp.MustCompile(`"seconds":[0-9.e-]+`)
	aSecret   = regexp.MustCompile(`[A-Za-z0-9_-]{22,}`)
)

// in puts names in the place of ids, a tilde in that of what is drawn or measured, and whole
// seconds.
func (n *names) in(text string) string {
	text = aWhile.ReplaceAllString(aFraction.ReplaceAllString(text, "${1}Z"), `"seconds":"~"`)
	text = anID.ReplaceAllStringFunc(text, func(id string) string {
		if name := n.of[id]; name != "" {
			return "‹" + name + "›"
		}
		return "‹~›"
	})
	return aSecret.ReplaceAllStringFunc(text, func(word string) string {
		if name := n.of[word]; name != "" {
			return "‹" + name + "›"
		}
		if strings.ContainsAny(word, "0123456789") && strings.ToLower(word) != word {
			return "~"
		}
		return word
	})
}

func namesOf(t *testing.T, a *app.App) *names {
	t.Helper()
	n := &names{of: map[string]string{}, ids: map[string][]string{}}
	rows := func(ask string, use func(class, id, name string)) {
		t.Helper()
		found, err := a.Store.DB.Query(ask)
		if err != nil {
			t.Fatal(ask, err)
		}
		defer found.Close()
		for found.Next() {
			var class, id, name string
			if err := found.Scan(&class, &id, &name); err != nil {
				t.Fatal(err)
			}
			use(class, id, name)
		}
	}
	rows(`select '', id, name from classes order by name`, func(_, id, name string) {
		n.add(id, "class "+name)
		n.ids["classId"] = append(n.ids["classId"], id)
	})
	for _, of := range []struct{ param, word, ask string }{
		{"rowId", "student", `select class_id, id, given || ' ' || family from rows order by 3`},
		{"teamId", "team", `select class_id, t.id, t.name from teams t join team_sets s on s.id = set_id order by 3`},
		{"handoutId", "handout", `select class_id, id, title from handouts order by 3, created_at`},
		{"headingId", "heading", `select class_id, id, title from headings order by 3`},
		{"runId", "run", `select class_id, id, (row_number() over (partition by class_id order by n))::text from runs order by 3`},
		{"templateId", "template", `select '', id, name from templates order by 3`},
		{"thingId", "thing", `select class_id, thing,
			purpose || ' ' || name || coalesce(' of ' || (select given || ' ' || family from rows r where r.id = row_id), '')
				from ledger where thing is not null order by 3`},
		{"link", "link", `select class_id, link, purpose || ' ' || name || coalesce(' of ' || (select given || ' ' || family
			from rows r where r.id = row_id), '') from ledger where link is not null order by 3`},
		{"", "thing", `select '', id, kind || ' ' || name || ' of ' || owner from standin.things`},
		{"", "link", `select '', link, kind || ' ' || name || ' of ' || owner from standin.things`},
	} {
		rows(of.ask, func(class, id, name string) {
			n.add(id, of.word+" "+name)
			n.ids[of.param+class] = append(n.ids[of.param+class], id)
		})
	}
	return n
}

// addresses are those to ask: each that only reads, of the class Tide Watch, with the first,
// the middle and the last of what an address names.
func addresses(t *testing.T, doc *openapi3.T, known *names) []string {
	t.Helper()
	tide := known.ids["classId"][slices.IndexFunc(known.ids["classId"], func(id string) bool { return known.of[id] == "class Tide Watch 7B" })]
	var out []string
	for _, path := range doc.Paths.InMatchingOrder() {
		get := doc.Paths.Find(path).Get
		if get == nil || slices.Contains([]string{"events", "goToService", "comeFromService"}, get.OperationID) {
			continue
		}
		asked := []string{"/api" + path}
		for _, param := range regexp.MustCompile(`\{(\w+)\}`).FindAllStringSubmatch(path, -1) {
			var with []string
			switch param[1] {
			case "classId":
				with = []string{tide}
			case "format":
				with = []string{"csv"}
			case "slot":
				with = []string{"1"}
			case "mailNumber":
				with = []string{"1", "20"}
			default:
				all := append(slices.Clone(known.ids[param[1]+tide]), known.ids[param[1]]...)
				if len(all) == 0 {
					with = []string{"0198a0c0-0000-7000-8000-000000000000"}
				} else {
					with = slices.Compact([]string{all[0], all[len(all)/2], all[len(all)-1]})
				}
			}
			var more []string
			for _, p := range asked {
				for _, w := range with {
					more = append(more, strings.Replace(p, param[0], w, 1))
				}
			}
			asked = more
		}
		for i := range asked {
			if strings.Contains(path, "/ledger") { // a part of it, since which lines are a page differs
				asked[i] += "?find=Dube"
			}
		}
		out = append(out, asked...)
	}
	sort.SliceStable(out, func(i, j int) bool { return known.in(out[i]) < known.in(out[j]) })
	return out
}

// answer is what is answered, in lines; of files other than text, what they are.
func answer(t *testing.T, client *http.Client, known *names, url string) string {
	t.Helper()
	res, err := client.Get(url)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	body, err := io.ReadAll(res.Body)
	if err != nil {
		t.Fatal(err)
	}
	kind := res.Header.Get("Content-Type")
	if !strings.HasPrefix(kind, "application/json") {
		if strings.HasPrefix(kind, "text/") {
			rows := strings.Split(known.in(string(body)), "\n")
			slices.Sort(rows) // as those of one moment come in either order
			return fmt.Sprint(res.StatusCode, " ", kind, "\n", strings.Join(rows, "\n"))
		}
		return fmt.Sprint(res.StatusCode, " ", kind, " ", res.Header.Get("Content-Disposition"))
	}
	var v any
	if err := json.Unmarshal([]byte(known.in(string(body))), &v); err != nil {
		t.Fatal(url, err)
	}
	var out strings.Builder
	lines(&out, settled(v), "  ")
	return fmt.Sprint(res.StatusCode, " ", out.String())
}

// settled is a value without what differs from start to start: what is counted or drawn, and
// which comes first of things of one name or one moment, since many are made side by side.
func settled(v any) any {
	switch v := v.(type) {
	case map[string]any:
		for k, e := range v {
			if v[k] = settled(e); slices.Contains(drawn, k) {
				v[k] = "~"
			}
		}
	case []any:
		for i, e := range v {
			v[i] = settled(e)
		}
		for from := 0; from < len(v); {
			to := from + 1
			for to < len(v) && beside(v[to]) != "" && beside(v[to]) == beside(v[from]) {
				to++
			}
			sort.Slice(v[from:to], func(i, j int) bool { return fmt.Sprint(v[from+i]) < fmt.Sprint(v[from+j]) })
			from = to
		}
	}
	return v
}

// drawn are the fields that hold what is counted or drawn.
var drawn = []string{"revision", "digest", "looked", "seen", "cover"}

// beside is what two things share that may come in either order: the moment, or the name.
func beside(e any) string {
	of, _ := e.(map[string]any)
	for _, field := range []string{"cover", "madeAt", "at", "name"} {
		if s, _ := of[field].(string); s != "" {
			return s
		}
	}
	return ""
}

// lines writes a value with what is short on one line.
func lines(out *strings.Builder, v any, indent string) {
	short, err := json.Marshal(v)
	if err != nil {
		panic(err) // it was read from JSON
	}
	switch v := v.(type) {
	case map[string]any:
		if len(short) > 400 {
			keys := make([]string, 0, len(v))
			for k := range v {
				keys = append(keys, k)
			}
			sort.Strings(keys)
			for _, k := range keys {
				fmt.Fprintf(out, "\n%s%s: ", indent, k)
				lines(out, v[k], indent+"  ")
			}
			return
		}
	case []any:
		if len(short) > 400 {
			for _, e := range v {
				fmt.Fprintf(out, "\n%s- ", indent)
				lines(out, e, indent+"  ")
			}
			return
		}
	}
	out.Write(short)
}
