package web_test

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/jmoiron/sqlx"
)

// The contract, as published.
func contractOf(t *testing.T) *openapi3.T {
	t.Helper()
	b, err := os.ReadFile("../../api/openapi.yaml")
	if err != nil {
		t.Fatal(err)
	}
	doc, err := openapi3.NewLoader().LoadFromData(b)
	if err != nil {
		t.Fatal(err)
	}
	return doc
}

// Whatever is sent has a limit that the contract names.
func TestEverythingSentHasALimit(t *testing.T) {
	doc := contractOf(t)
	seen := map[*openapi3.Schema]bool{}
	var walk func(where string, s *openapi3.Schema)
	walk = func(where string, s *openapi3.Schema) {
		if seen[s] {
			return
		}
		seen[s] = true
		switch {
		case s.Type.Is("string") && len(s.Enum) == 0 && s.MaxLength == nil && s.Format != "binary":
			t.Errorf("%s: a text without a limit", where)
		case (s.Type.Is("integer") || s.Type.Is("number")) && (s.Min == nil || s.Max == nil):
			t.Errorf("%s: a number without limits", where)
		case s.Type.Is("array"):
			if s.MaxItems == nil {
				t.Errorf("%s: a list without a limit", where)
			}
			walk(where+"[]", s.Items.Value)
		}
		for name, p := range s.Properties {
			walk(where+"."+name, p.Value)
		}
		if more := s.AdditionalProperties.Schema; more != nil {
			if s.MaxProps == nil {
				t.Errorf("%s: a map without a limit", where)
			}
			walk(where+".*", more.Value)
		}
	}
	for path, item := range doc.Paths.Map() {
		for method, op := range item.Operations() {
			where := method + " " + path
			for _, p := range append(slices.Clone(item.Parameters), op.Parameters...) {
				walk(where+" "+p.Value.Name, p.Value.Schema.Value)
			}
			if op.RequestBody != nil {
				for kind, m := range op.RequestBody.Value.Content {
					walk(where+" "+kind, m.Schema.Value)
				}
			}
		}
	}
}

// odd values for a place in a request where another stands.
func odd() []any {
	return []any{
		nil, true, "", 0, -1, 1 << 31, 1 << 53, json.Number("9223372036854775808"), json.Number("1e999"), "\x00",
		"a\u202eb\u200f", json.RawMessage(`"\ud800"`),
		strings.Repeat("é", 5000), "urn:uuid:0198a0c0-0000-7000-8000-000000000000", "0198A0C0-0000-7000-8000-000000000000",
		"0198a0c0-0000-7000-8000-000000000000",
		[]any{}, map[string]any{}, []any{nil}, []any{[]any{[]any{}}}, map[string]any{"\x00": "\x00"}, slices.Repeat([]any{"x"}, 30_000),
	}
}

// sixth is every sixth of many, another sixth each time it is asked for; with FULL set, as in make
// soak, it is all of them.
func sixth[T any](all []T, turn *int) (out []T) {
	*turn++
	for i, v := range all {
		if os.Getenv("FULL") != "" || (i+*turn)%6 == 0 {
			out = append(out, v)
		}
	}
	return out
}

// variants puts odd values in every place of a value, one at a time, and leaves every member out:
// those of whole for it as a whole, those of within for each place in it.
func variants(v any, whole, within func() []any) []any {
	out := whole()
	switch v := v.(type) {
	case map[string]any:
		for _, name := range slices.Sorted(maps.Keys(v)) {
			without := maps.Clone(v)
			delete(without, name)
			out = append(out, without)
			for _, o := range variants(v[name], within, within) {
				other := maps.Clone(v)
				other[name] = o
				out = append(out, other)
			}
		}
	case []any:
		if len(v) > 0 {
			for _, o := range variants(v[0], within, within) {
				out = append(out, append([]any{o}, v[1:]...))
			}
		}
	}
	return out
}

// example makes a value that the contract allows, with every member there can be.
func example(s *openapi3.Schema, depth int) any {
	switch {
	case len(s.Enum) > 0:
		return s.Enum[0]
	case s.Pattern != "":
		return "0198a0c0-0000-7000-8000-000000000000"
	case s.Type.Is("string"):
		return strings.Repeat("x", int(max(s.MinLength, 1)))
	case s.Type.Is("boolean"):
		return true
	case s.Type.Is("integer"), s.Type.Is("number"):
		return 1
	case s.Type.Is("array"):
		return []any{example(s.Items.Value, depth+1)}
	}
	out := map[string]any{}
	for name, p := range s.Properties {
		out[name] = example(p.Value, depth+1)
	}
	if s.AdditionalProperties.Schema != nil {
		out["x"] = example(s.AdditionalProperties.Schema.Value, depth+1)
	}
	return out
}

// A witness tells what a database holds from what it held, but for who is signed in: each
// statement that may have written, taken back or not, is counted, and where there was none
// since the last look nothing is different.
type witness struct {
	t      *testing.T
	db     *sqlx.DB
	all    string // asks for a digest of everything
	writes int64  // counted at the last look
	last   string // the digest then
}

func watch(t *testing.T, db *sqlx.DB) *witness {
	t.Helper()
	w := &witness{t: t, db: db, writes: -1}
	var tables []string
	if err := db.Select(&tables, `select quote_ident(table_schema) || '.' || quote_ident(table_name) from information_schema.tables
		where table_type = 'BASE TABLE' and table_schema not in ('pg_catalog', 'information_schema')
			and table_name not in ('sessions', 'devices', 'tabs') and table_name not like 'river%' order by 1`); err != nil {
		t.Fatal(err)
	}
	count := `create sequence writes start 1; create function count_write() returns trigger language plpgsql as $$ begin perform nextval('public.writes'); return null; end $$;`
	var parts []string
	for _, table := range tables {
		parts = append(parts, fmt.Sprintf(`(select coalesce(sum(hashtextextended(x::text, 0)), 0)::text from %s x)`, table))
		count += fmt.Sprintf(`create trigger count_write after insert or update or delete
			or truncate on %s for each statement execute function public.count_write();`, table)
	}
	w.all = `select concat_ws('|', ` + strings.Join(parts, ", ") + `)`
	if _, err := db.Exec(count); err != nil {
		t.Fatal(err)
	}
	return w
}

// digest is of everything.
func (w *witness) digest() string {
	w.t.Helper()
	var writes int64
	if err := w.db.Get(&writes, `select case when is_called then last_value else 0 end from writes`); err != nil {
		w.t.Fatal(err)
	}
	if writes != w.writes {
		w.writes = writes
		if err := w.db.Get(&w.last, w.all); err != nil {
			w.t.Fatal(err)
		}
	}
	return w.last
}

// settled is the digest once all that was done was seen: anyone who looks at the
// cupboard keeps what it says, also where nothing is done then.
func (s *school) settled(w *witness) string {
	s.t.Helper()
	if err := s.app.Observer.CatchUp(context.Background()); err != nil {
		s.t.Fatal(err)
	}
	return w.digest()
}

var codesListed = regexp.MustCompile(`Problems: ([a-z0-9, -]+)\.`)

// common are the problems that any route may answer, as the contract says.
func common(t *testing.T, doc *openapi3.T) map[string]bool {
	t.Helper()
	_, list, ok := strings.Cut(doc.Info.Description, "any may answer")
	if !ok {
		t.Fatal("the contract doesn't say what any route may answer")
	}
	list, _, _ = strings.Cut(list, "What is sent")
	out := map[string]bool{}
	for _, code := range regexp.MustCompile(`[a-z-]+`).FindAllString(list, -1) {
		out[code] = true
	}
	return out
}

// Whatever is sent to whichever route by whomever: nothing breaks inside, what is
// refused changes nothing, and refusals are those the contract names.
func TestOddRequests(t *testing.T) {
	s := open(t)
	doc := contractOf(t)
	turn := 0
	within := func() []any { return sixth(odd(), &turn) }
	any := common(t, doc)
	clients := map[string]*http.Client{"nobody": s.as(""), "student": s.as("s0"), "staff": s.as("oduya")}
	w := watch(t, s.app.Store.DB)
	asked := 0
	check := func(op *openapi3.Operation, who, method, path, body string, before *string) {
		t.Helper()
		asked++
		status, answer := s.call(clients[who], method, path, body)
		what := fmt.Sprintf("%s %.100s %.120q as %s: %d %.300s", method, path, body, who, status, answer)
		if status >= 500 {
			t.Error(what)
		}
		if status < 400 {
			*before = ""
			return
		}
		var p struct{ Code, Message string }
		if err := json.Unmarshal([]byte(answer), &p); err != nil || p.Code == "" || p.Message == "" {
			t.Errorf("%s: not a problem", what)
		}
		listed := codesListed.FindStringSubmatch(op.Description)
		if !any[p.Code] && (listed == nil || !slices.Contains(strings.Split(listed[1], ", "), p.Code)) {
			t.Errorf("%s: the contract doesn't name %s", what, p.Code)
		}
		if *before != "" && who == "staff" {
			if now := w.digest(); now != *before {
				t.Errorf("%s: refused, and something changed", what)
				*before = now
			}
		}
	}
	for _, path := range doc.Paths.InMatchingOrder() {
		item := doc.Paths.Find(path)
		operations := item.Operations()
		for _, method := range slices.Sorted(maps.Keys(operations)) {
			op := operations[method]
			if op.OperationID == "signOut" || op.OperationID == "events" || op.OperationID == "clearPractice" {
				continue // they end what is asked with, or never end
			}
			at := s.fill(strings.NewReplacer("{classId}", "{class}", "{rowId}", "{row}", "{handoutId}", "{handout}", "{runId}",
				"{run}", "{teamId}", "{team}", "{thingId}", "{copy}", "{format}", "csv", "{seq}", "1").Replace("/api" + path))
			var bodies []string
			if op.RequestBody != nil && op.RequestBody.Value.Content["application/json"] != nil {
				schema := op.RequestBody.Value.Content["application/json"].Schema.Value
				whole := example(schema, 0)
				for _, v := range append(variants(whole, odd, within), whole) {
					b, err := json.Marshal(v)
					if err != nil {
						continue
					}
					bodies = append(bodies, string(b))
				}
				bodies = append(bodies, "", "{", `{"a":1}{}`, "\xff\xfe", strings.Repeat("[", 100_000), strings.Repeat(`{"a":`, 1000))
			} else {
				bodies = []string{"", "x", "\x00"}
			}
			for _, who := range slices.Sorted(maps.Keys(clients)) {
				before := s.settled(w)
				for i, body := range bodies {
					if who != "staff" && i%17 != 0 { // refused before it is looked at, and nearly so
						continue
					}
					if before == "" {
						before = s.settled(w)
					}
					check(op, who, method, at, body, &before)
				}
				for _, p := range append(slices.Clone(item.Parameters), op.Parameters...) {
					values := []string{"", "x", "%00", "%ff", "%E2%80%AE", "-1", "2147483648", "9223372036854775808",
						"urn:uuid:0198a0c0-0000-7000-8000-000000000000", "0198A0C0-0000-7000-8000-000000000000",
						strings.Repeat("a", 3000), "..%2F..", s.handout.ID}
					if who != "staff" {
						values = sixth(values, &turn)
					}
					for _, o := range values {
						other := at
						switch p.Value.In {
						case "path":
							other = strings.Replace("/api"+path, "{"+p.Value.Name+"}", o, 1)
							other = s.fill(strings.NewReplacer("{classId}", "{class}", "{rowId}", "{row}", "{handoutId}", "{handout}",
								"{runId}", "{run}", "{teamId}", "{team}", "{thingId}", "{copy}", "{format}", "csv", "{seq}", "1").Replace(other))
							if o == "" {
								continue // another address
							}
						case "query":
							other += "?" + p.Value.Name + "=" + o
						default:
							continue
						}
						if before == "" {
							before = s.settled(w)
						}
						check(op, who, method, other, bodies[len(bodies)-1], &before)
					}
				}
			}
		}
	}
	t.Logf("asked %d times", asked)
}

// Every promise of the page about security names a test that there is.
func TestPromisesAreTested(t *testing.T) {
	page, err := os.ReadFile("../../docs/security.md")
	if err != nil {
		t.Fatal(err)
	}
	var all strings.Builder
	for _, pattern := range []string{"../*/*_test.go", "../*/*/*_test.go", "../../e2e/*_test.go", "../../soak/*_test.go",
		"../../cmd/*/*_test.go"} {
		files, err := filepath.Glob(pattern)
		if err != nil {
			t.Fatal(err)
		}
		for _, f := range files {
			b, err := os.ReadFile(f)
			if err != nil {
				t.Fatal(err)
			}
			all.Write(b)
		}
	}
	names := regexp.MustCompile("`((?:Test|Fuzz)[A-Za-z0-9]+)`").FindAllStringSubmatch(string(page), -1)
	if len(names) < 20 {
		t.Errorf("it names %d tests", len(names))
	}
	for _, n := range names {
		if !strings.Contains(all.String(), "func "+n[1]+"(") {
			t.Errorf("there is no test %s", n[1])
		}
	}
}
