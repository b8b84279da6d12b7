package web_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"slices"
	"strings"
	"testing"

	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/roster"
	settings "jollysatchel/internal/core/school"
	"jollysatchel/internal/tables"
	"jollysatchel/internal/web/api"
)

// upload sends a file and returns the answer.
func (s *school) upload(c *http.Client, path, name string, content []byte) (int, string) {
	s.t.Helper()
	var form bytes.Buffer
	w := multipart.NewWriter(&form)
	f, err := w.CreateFormFile("file", name)
	if err != nil {
		s.t.Fatal(err)
	}
	f.Write(content)
	w.Close()
	res, err := c.Post(s.srv.URL+path, w.FormDataContentType(), &form)
	if err != nil {
		s.t.Fatal(err)
	}
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	if err != nil {
		s.t.Fatal(err)
	}
	return res.StatusCode, string(b)
}

// ask calls a route and reads its answer into T.
func ask[T any](s *school, c *http.Client, method, path, body string) T {
	s.t.Helper()
	status, answer := s.call(c, method, path, body)
	if status != 200 {
		s.t.Fatalf("%s %s: %d %s", method, path, status, answer)
	}
	return read[T](s, answer)
}

func read[T any](s *school, answer string) T {
	s.t.Helper()
	var v T
	if err := json.Unmarshal([]byte(answer), &v); err != nil {
		s.t.Fatal(err, answer)
	}
	return v
}

func archive(t *testing.T, members map[string]string) []byte {
	t.Helper()
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

// Files of every format come in through the interface's own route; what is no
// list is refused with a message of its own and nothing is kept.
func TestFilesOfEveryFormat(t *testing.T) {
	s := open(t)
	c := s.as("oduya")
	path := "/api/classes/" + s.class.ID + "/draft/file"
	rows := [][]string{{"No", "Surname", "First", "Email"}, {"70000", "Family0", "Given0", "s0@kestrelquay.example"},
		{"70002", "Family2", "Given2", "s2@kestrelquay.example"}}
	packed := func(as tables.Writing) []byte {
		var b bytes.Buffer
		if err := tables.Write(&b, as, "Autumn", rows); err != nil {
			t.Fatal(err)
		}
		return b.Bytes()
	}
	roster := archive(t, map[string]string{
		"classes.csv":     "sourcedId,title\nc1,Tide Watch 7B\n",
		"enrollments.csv": "classSourcedId,userSourcedId,role\nc1,u0,student\nc1,u2,student\nc1,t,teacher\n",
		"users.csv":       "sourcedId,givenName,familyName,identifier,email\nu0,Given0,Family0,70000,s0@kestrelquay.example\nu2,Given2,Family2,70002,s2@kestrelquay.example\nt,Ifeoma,Oduya,,oduya@kestrelquay.example\n",
	})
	for name, content := range map[string][]byte{"list.csv": packed(tables.CSV), "list.xlsx": packed(tables.XLSX),
		"list.ods": packed(tables.ODS), "roster.zip": roster} {
		status, answer := s.upload(c, path, name, content)
		if status != 200 {
			t.Errorf("%s: %d %s", name, status, answer)
			continue
		}
		d := read[api.Draft](s, answer)
		var kinds []string
		for _, l := range d.Lines {
			kinds = append(kinds, string(l.Kind)+" "+l.Name)
		}
		if want := []string{"unchanged Given0 Family0", "joined Given2 Family2",
			"left Given1 Family1"}; !slices.Equal(kinds, want) || d.Source != name || d.Counts.Students != 2 {
			t.Errorf("%s: %v, %+v", name, kinds, d.Counts)
		}
	}
	s.call(c, "DELETE", s.fill("/api/classes/{class}/draft?id={list}&revision=1"), "")
	whole := packed(tables.XLSX)
	for code, content := range map[string][]byte{
		"not-a-table":     []byte("\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00"),
		"archive-unknown": archive(t, map[string]string{"a.txt": "hello"}), "damaged": archive(t, map[string]string{"xl/workbook.xml": "no"}),
		"old-spreadsheet": append([]byte{0xD0, 0xCF, 0x11, 0xE0, 0xA1, 0xB1, 0x1A, 0xE1}, make([]byte, 99)...),
		"archive-lacks":   archive(t, map[string]string{"manifest.csv": "a,b\n"}), "empty": nil,
	} {
		status, answer := s.upload(c, path, "x", content)
		p := read[api.Problem](s, answer)
		if status != 422 || p.Code != code || p.Message == "" || strings.ContainsAny(p.Message, "{}") {
			t.Errorf("%s: %d %s", code, status, answer)
		}
	}
	if status, answer := s.upload(c, path, "half.xlsx", whole[:len(whole)/2]); status != 422 {
		t.Errorf("half a workbook: %d %s", status, answer)
	}
	if status, _ := s.call(c, "GET", "/api/classes/"+s.class.ID+"/draft", ""); status != 404 {
		t.Errorf("a refused file was kept: %d", status)
	}
}

// A cell that is far too long keeps its row out and no other; it is shown by its beginning,
// and mended by who looked at that.
func TestLongCell(t *testing.T) {
	s := open(t)
	c := s.as("oduya")
	path := "/api/classes/" + s.class.ID + "/draft"
	list := "Surname,First,Email,Notes\nFamily0,Given0,s0@kestrelquay.example," + strings.Repeat("ø", 500_000) +
		"\nFamily2,Given2,s2@kestrelquay.example,early\n"
	status, answer := s.upload(c, path+"/file", "list.csv", []byte(list))
	d := read[api.Draft](s, answer)
	if status != 200 || d.Counts.Students != 1 || d.Counts.LeftOut != 1 || len(d.Findings) != 1 ||
		d.Findings[0].Code != "value-too-long" || d.Findings[0].Row != 2 {
		t.Fatalf("%d %+v %+v", status, d.Counts, d.Findings)
	}
	shown := d.Rows[1].Cells[3]
	if len(shown) > roster.MaxValue+len("…") {
		t.Errorf("%d bytes are shown", len(shown))
	}
	body := fmt.Sprintf(`{"draft":%q,"changes":[{"cell":{"row":2,"field":3,"value":"late"},"was":%q}]}`, d.Id, shown)
	status, answer = s.call(c, "PATCH", path, body)
	if d := read[api.Draft](s, answer); status != 200 || d.Counts.Students != 2 || len(d.Findings) != 0 || d.Rows[1].Cells[3] != "late" {
		t.Errorf("mended: %d %.300s", status, answer)
	}
}

// What is exported is named after the class, comes as a download, can't run
// anything, and is the same list when it comes back.
func TestExports(t *testing.T) {
	s := open(t)
	c := s.as("oduya")
	class := "/api/classes/" + s.class.ID
	ask[api.RosterAct](s, c, "PATCH", class+"/roster",
		`{"edits":[{"row":"`+s.row("s0")+`","field":"extra:Note","value":"=HYPERLINK(1)","was":""}]}`)
	for _, as := range []tables.Writing{tables.CSV, tables.XLSX, tables.ODS} {
		res, err := c.Get(s.srv.URL + class + "/roster/export/" + string(as))
		if err != nil {
			t.Fatal(err)
		}
		b, err := io.ReadAll(res.Body)
		res.Body.Close()
		if err != nil || res.StatusCode != 200 || !strings.HasPrefix(res.Header.Get("Content-Disposition"), "attachment") ||
			!strings.Contains(res.Header.Get("Content-Disposition"), "Tide%20Watch%207B") || res.Header.Get("Content-Type") != as.MediaType() {
			t.Errorf("%s: %v %v", as, res.Header, err)
		}
		table, err := tables.ReadSheet(bytes.NewReader(b), "")
		if err != nil || len(table.Rows) != 3 || table.Rows[0].Cells[0] != "Family name" || table.Rows[1].Cells[0] != "Family0" {
			t.Errorf("%s: %+v, %v", as, table, err)
		}
		if note := table.Rows[1].Cells[len(table.Rows[1].Cells)-1]; strings.TrimPrefix(note, "'") != "=HYPERLINK(1)" ||
			as == tables.CSV && note[0] != '\'' {
			t.Errorf("%s: the note is %q", as, note)
		}
	}
}

// A change through the API can be looked up, with who and what, and taken back.
func TestHistoryAndUndo(t *testing.T) {
	s := open(t)
	c := s.as("lindqvist")
	class := "/api/classes/" + s.class.ID
	act := ask[api.RosterAct](s, c, "PATCH", class+"/roster", `{"edits":[{"row":"`+s.row("s1")+`","field":"level","value":"B","was":""}]}`)
	left := ask[api.RosterAct](s, c, "POST", class+"/roster/left", `{"rows":["`+s.row("s0")+`"],"left":true}`)
	history := ask[[]api.HistoryItem](s, c, "GET", class+"/roster/history", "")
	if len(history) != 4 || history[0].Batch != left.Batch || history[0].Changes[0].What != "left" ||
		history[1].By != "Mats Lindqvist" || history[3].Kind != "list" {
		t.Fatalf("%+v", history)
	}
	if f := history[1].Changes[0].Fields; len(f) != 1 || f[0].Field != "level" || f[0].To != "B" ||
		history[1].Changes[0].Name != "Given1 Family1" {
		t.Errorf("%+v", history[1].Changes)
	}
	rows := ask[[]api.RosterRow](s, c, "GET", class+"/roster", "")
	if len(rows) != 2 || rows[0].Name != "Given1 Family1" || rows[1].Left == 0 {
		t.Errorf("one who left stands last: %+v", rows)
	}
	for _, batch := range []string{left.Batch, act.Batch} {
		if status, answer := s.call(c, "POST", class+"/roster/history/"+batch+"/undo", ""); status != 204 {
			t.Errorf("%d %s", status, answer)
		}
	}
	rows = ask[[]api.RosterRow](s, c, "GET", class+"/roster", "")
	if len(rows) != 2 || rows[0].Left+rows[1].Left != 0 || rows[1].Level != "" {
		t.Errorf("taken back: %+v", rows)
	}
	if status, answer := s.call(c, "POST", class+"/roster/history/"+act.Batch+"/undo", ""); status != 422 ||
		!strings.Contains(answer, "undone-already") {
		t.Errorf("twice: %d %s", status, answer)
	}
	// The list came before the packing: it can only come back as a list.
	if status, answer := s.call(c, "POST", class+"/roster/history/"+history[3].Batch+"/undo", ""); status != 422 ||
		!strings.Contains(answer, "packed-since") {
		t.Errorf("%d %s", status, answer)
	}
}

// What somebody else changed since it was looked at is told with both values,
// and nothing of the later request is written; other fields go through.
func TestChangedMeanwhileIsTold(t *testing.T) {
	s := open(t)
	first, second := s.as("oduya"), s.as("lindqvist")
	class := "/api/classes/" + s.class.ID
	cell := func(field, value, was string) string {
		return `{"row":"` + s.row("s0") + `","field":"` + field + `","value":"` + value + `","was":"` + was + `"}`
	}
	ask[api.RosterAct](s, first, "PATCH", class+"/roster", `{"edits":[`+cell("level", "A", "")+`]}`)
	status, answer := s.call(second, "PATCH", class+"/roster", `{"edits":[`+cell("team", "Gull", "")+`,`+cell("level", "B", "")+`]}`)
	p := read[api.Problem](s, answer)
	if status != 409 || p.Code != "changed" || p.Args == nil || (*p.Args)["theirs"] != "A" ||
		(*p.Args)["yours"] != "B" || strings.ContainsAny(p.Message, "{}") {
		t.Errorf("%d %s", status, answer)
	}
	for _, r := range ask[[]api.RosterRow](s, first, "GET", class+"/roster", "") {
		if r.Row == s.row("s0") && (r.Level != "A" || r.Team != "") {
			t.Errorf("something of it was written: %+v", r)
		}
	}
	path := s.fill(class + "/handouts/{handout}")
	ask[api.Handout](s, first, "PATCH", path, `{"to":{"message":"Bring a coat"},"was":{"message":""}}`)
	if status, answer := s.call(second, "PATCH", path,
		`{"to":{"message":"Bring boots"},"was":{"message":""}}`); status != 409 ||
		read[api.Problem](s, answer).Code != "changed" || !strings.Contains(answer, "Bring a coat") {
		t.Errorf("%d %s", status, answer)
	}
	if h := ask[api.Handout](s, second, "PATCH", path,
		`{"to":{"level":"read"},"was":{"level":"edit"}}`); h.Message != "Bring a coat" || h.Level != "read" {
		t.Errorf("%+v", h)
	}
}

// A request that comes again under its key is answered as before and done once;
// the key under another content, or too long a key, is refused.
func TestRepeatedRequests(t *testing.T) {
	s := open(t)
	c := s.as("oduya")
	keyed := func(method, path, key, body string) (int, string) {
		t.Helper()
		req, err := http.NewRequest(method, s.srv.URL+path, strings.NewReader(body))
		if err != nil {
			t.Fatal(err)
		}
		req.Header.Set("Content-Type", "application/json")
		req.Header.Set("Idempotency-Key", key)
		res, err := c.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		defer res.Body.Close()
		b, err := io.ReadAll(res.Body)
		if err != nil {
			t.Fatal(err)
		}
		return res.StatusCode, string(b)
	}
	class := "/api/classes/" + s.class.ID
	list := `"Surname,Email\nFamily0,s0@kestrelquay.example\n`
	seen := ask[api.Room](s, c, "PATCH", class+"/room", `{"pockets":{"add":["Field work"]}}`).List.Digest
	for _, r := range []struct{ path, body, other string }{
		{class + "/room/pack", `{"seen":"` + seen + `"}`, `{"seen":"` + seen + `","changes":["x"]}`},
		{class + "/draft", `{"text":` + list + `"}`, `{"text":` + list + `Family1,s1@kestrelquay.example\n"}`},
		{"/api/classes", `{"name":"Weather Station Club"}`, `{"name":"Kite Club"}`},
		{class + "/roster", `{"students":[{"family":"Fjord","given":"Nia"}]}`, `{"students":[{"family":"Fjord","given":"Ada"}]}`},
		{class + "/handouts", `{}`, `{"template":"` + s.handout.Settings.Documents[0].Template + `"}`},
		{"/api/templates/text", `{"name":"Log","text":"# Log"}`, `{"name":"Log","text":"# Other"}`},
	} {
		status, answer := keyed("POST", r.path, "key of "+r.path, r.body)
		again, same := keyed("POST", r.path, "key of "+r.path, r.body)
		if status >= 300 || again != status || same != answer {
			t.Errorf("%s: %d %s, and again %d %s", r.path, status, answer, again, same)
		}
		if status, answer := keyed("POST", r.path, "key of "+r.path, r.other); status != 409 || read[api.Problem](s, answer).Code != "key-used" {
			t.Errorf("%s with another content: %d %s", r.path, status, answer)
		}
		if status, answer := keyed("POST", r.path, strings.Repeat("k", 101), r.body); status != 422 ||
			read[api.Problem](s, answer).Code != "too-long" {
			t.Errorf("%s with a long key: %d %s", r.path, status, answer)
		}
	}
	_, first := keyed("POST", "/api/practice", "practice", "")
	status, again := keyed("POST", "/api/practice", "practice", "")
	if status != 201 || again != first {
		t.Errorf("a practice class: %s, and again %d %s", first, status, again)
	}
	if rows := ask[[]api.RosterRow](s, c, "GET", class+"/roster", ""); len(rows) != 3 {
		t.Errorf("%d rows", len(rows))
	}
	if list := ask[[]json.RawMessage](s, c, "GET", "/api/classes", ""); len(list) != 3 {
		t.Errorf("%d classes", len(list))
	}
}

func TestFindingPeople(t *testing.T) {
	s := open(t)
	c := s.as("oduya")
	if status, _ := s.call(c, "POST", "/api/practice", ""); status != 201 {
		t.Fatal(status)
	}
	for query, want := range map[string]int{"given1": 1, "FAMILY0+given0": 1, "given": 3, "s2%40kestrel": 1, "70001": 1,
		"anemone": 0, "oduya": 0, "nobody": 0, "+": 0} {
		if found := ask[[]api.BookEntry](s, c, "GET", "/api/people?q="+query, ""); len(found) != want {
			t.Errorf("%s: %+v", query, found)
		}
	}
}

// Of a thing in a list it is said whether it was oneself who changed it last, anyone who owns it.
func TestWhoWrote(t *testing.T) {
	s := open(t)
	student, teacher := s.as("s0"), s.as("oduya")
	byMe := func(c *http.Client) (bool, string) {
		_, answer := s.call(c, "GET", "/api/things/"+s.satchel.Thing, "")
		folder := read[api.Thing](s, answer)
		i := slices.IndexFunc(folder.Children, func(x api.ThingTag) bool { return x.Id == s.copy.Thing })
		if i < 0 {
			t.Fatal(answer)
		}
		return folder.Children[i].ByMe, folder.Children[i].ChangedBy
	}
	if status, answer := s.call(student, "PUT", "/api/things/"+s.copy.Thing+"/text",
		`{"text":"# Mine","base":1,"key":"who wrote it"}`); status != 200 {
		t.Fatal(status, answer)
	}
	if me, name := byMe(student); !me || name != "Given0 Family0" {
		t.Errorf("to who wrote it, in the class's copy: %v, %s", me, name)
	}
	if me, name := byMe(teacher); me || name != "Given0 Family0" {
		t.Errorf("to the copy's owner, who didn't: %v, %s", me, name)
	}
}

// Links begin with the address that the settings have, once somebody said it; until then with
// the one that was asked.
func TestLinksOfTheSchool(t *testing.T) {
	s := open(t)
	c := s.as("oduya")
	if err := s.app.Cases.Rosters.OpenJoinDoor(t.Context(), "oduya", s.class.ID, 1); err != nil {
		t.Fatal(err)
	}
	paths := []string{"/api/me", "/api/classes/" + s.class.ID + "/join-door", "/api/classes/" + s.class.ID + "/links",
		"/api/classes/" + s.class.ID + "/links/export/csv"}
	for _, said := range []string{"", "https://satchel.kestrelquay.example"} {
		at := s.srv.URL
		if said != "" {
			at = said
			if err := s.app.Cases.People.ChangeSchool(t.Context(), "office", settings.Change{Site: &said}, settings.Change{}); err != nil {
				t.Fatal(err)
			}
		}
		for _, path := range paths {
			status, answer := s.call(c, "GET", path, "")
			if status != 200 || !strings.Contains(answer, at) || at != s.srv.URL && strings.Contains(answer, s.srv.URL) {
				t.Errorf("%s with %q said: %d %.200s", path, said, status, answer)
			}
		}
	}
}

// On a student's page a picture is opened, and a text is begun.
func TestTextOrPicture(t *testing.T) {
	s := open(t)
	tpl, err := s.app.Cases.Handouts.AddTemplate(t.Context(), "oduya", "Map.png", "image/png", strings.NewReader("\x89PNG\r\n\x1a\n"))
	if err != nil {
		t.Fatal(err)
	}
	h, err := s.app.Cases.Handouts.NewHandout(t.Context(), "oduya", s.class.ID, tpl.ID)
	if err != nil {
		t.Fatal(err)
	}
	apptest.Pack(t, s.app, s.class, &h)
	_, answer := s.call(s.as("s0"), "GET", "/api/home", "")
	said := map[string]bool{}
	for _, c := range read[api.GetHome200JSONResponse](s, answer).Classes {
		for _, x := range c.Copies {
			said[x.Title] = x.Text
		}
	}
	if len(said) != 2 || said["Map"] || !said["Rock-pool field log"] {
		t.Errorf("%v", said)
	}
}

// Who can't decide isn't asked to: what waits for the class's teachers is no note of its assistant's.
func TestOnlyTeachersAreAsked(t *testing.T) {
	s := open(t)
	waits := func(account string) bool {
		for _, c := range ask[[]api.ClassTag](s, s.as(account), "GET", "/api/classes", "") {
			if c.Id == s.class.ID {
				return slices.ContainsFunc(c.Notes, func(n api.Note) bool { return n.Code == "list-waits" })
			}
		}
		t.Fatal(account, "doesn't see the class")
		return false
	}
	s.call(s.as("oduya"), "POST", "/api/classes/"+s.class.ID+"/draft", `{"text":"Name,Email\nZiv Test,ziv@kestrelquay.example"}`)
	for account, want := range map[string]bool{"oduya": true, "lindqvist": true, "amaral": false} {
		if got := waits(account); got != want {
			t.Errorf("%s is asked about the list: %v", account, got)
		}
	}
}
