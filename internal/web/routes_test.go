package web_test

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"mime/multipart"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"os/exec"
	"slices"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/letters"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/store/mail"
	"jollysatchel/internal/web"
)

// A school is a running server with two classes: oduya's, with the co-teacher
// lindqvist, the assistant amaral and the students s0 and s1, everything packed;
// and the stranger's, with s2.
type school struct {
	t       *testing.T
	app     *app.App
	srv     *httptest.Server
	web     *web.Server
	class   picture.Class
	handout handout.Handout
	run     ledger.Run
	copy    ledger.Entry // of s0
	satchel ledger.Entry // of s0
}

func open(t *testing.T) *school {
	t.Helper()
	ctx := context.Background()
	a := apptest.Open(t)
	apptest.People(t, a, 3)
	s := &school{t: t, app: a, class: apptest.Class(t, a, apptest.List(2))}
	for account, role := range map[string]string{"lindqvist": classes.Teacher, "amaral": classes.Assistant} {
		if err := a.Store.AddStaff(ctx, classes.Member{ClassID: s.class.ID, Account: account, Role: role}); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := a.Cases.Classes.CreateClass(ctx, "stranger", "8A", "Boat Workshop 8A", "", false); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Cases.Rosters.EditRoster(ctx, "oduya", s.class.ID,
		[]classes.Edit{{Row: s.row("s1"), Field: record.Team, Value: "Gull"}}); err != nil {
		t.Fatal(err)
	}
	s.class = apptest.Load(t, a, s.class.ID)
	s.handout = apptest.Handout(t, a, s.class, "# Log\n")
	s.run = apptest.Pack(t, a, s.class, &s.handout)
	entries, err := a.Store.Ledger(ctx, s.class.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range entries {
		if e.Key.Whom.Row == s.row("s0") {
			switch e.Key.What.Purpose {
			case packing.Copy:
				s.copy = e
			case packing.Satchel:
				s.satchel = e
			}
		}
	}
	s.web = a.Web(nil)
	news, stop := context.WithCancel(ctx)
	go s.web.Run(news)
	s.srv = httptest.NewServer(s.web)
	t.Cleanup(func() { stop(); s.srv.CloseClientConnections(); s.srv.Close() })
	return s
}

func (s *school) row(account string) string {
	for _, st := range s.class.Students {
		if st.Account == account {
			return st.ID
		}
	}
	return ""
}

// as signs an account in; nobody for the empty one.
func (s *school) as(account string) *http.Client {
	s.t.Helper()
	return s.signIn(s.t, account)
}

func (s *school) signIn(t testing.TB, account string) *http.Client {
	t.Helper()
	jar, _ := cookiejar.New(nil)
	c := &http.Client{Jar: jar}
	if account != "" {
		res, err := c.Post(s.srv.URL+"/api/session", "application/json",
			strings.NewReader(`{"address":"`+account+`@kestrelquay.example","password":"`+apptest.Password+`"}`))
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		if res.StatusCode != http.StatusOK {
			t.Fatalf("signing %s in: %s", account, res.Status)
		}
	}
	return c
}

func (s *school) call(c *http.Client, method, path, body string) (int, string) {
	s.t.Helper()
	ctx, stop := context.WithTimeout(context.Background(), 10*time.Second)
	defer stop()
	var in io.Reader = strings.NewReader(body)
	kind := "application/json"
	if body == "file" {
		var form bytes.Buffer
		w := multipart.NewWriter(&form)
		f, err := w.CreateFormFile("file", "list.csv")
		if err != nil {
			s.t.Fatal(err)
		}
		fmt.Fprint(f, "Surname,Email\nDube,n@kestrelquay.example\n")
		w.Close()
		in, kind = &form, w.FormDataContentType()
	}
	req, err := http.NewRequestWithContext(ctx, method, s.srv.URL+path, in)
	if err != nil {
		s.t.Fatal(err)
	}
	req.Header.Set("Content-Type", kind)
	res, err := c.Do(req)
	if err != nil {
		s.t.Fatal(err)
	}
	defer res.Body.Close()
	if strings.HasPrefix(res.Header.Get("Content-Type"), "text/event-stream") {
		return res.StatusCode, "" // it never ends
	}
	b, err := io.ReadAll(res.Body)
	if err != nil {
		s.t.Fatal(err)
	}
	return res.StatusCode, string(b)
}

// Who asks, in the order of the letters below. s1 is a classmate of s0, s2 is
// in no class of oduya's.
var asking = []string{"", "office", "oduya", "lindqvist", "amaral", "stranger", "s0", "s1", "s2"}

// Every route of the API, asked as nobody, as each role, and as a member of
// another class. The letters are the expected answers: + is let in, 1 is sign in
// first (401), 3 may not (403), 4 not there (404).
var routes = []struct{ method, path, body, want string }{
	//                                                       nobody office owner teacher assistant stranger s0 s1 s2
	{"POST", "/api/session", `{"address":"x","password":"y"}`, "111111111"}, // a wrong password, anyone who tries
	{"DELETE", "/api/session", ``, "+++++++++"},
	{"GET", "/api/session/ways", ``, "+++++++++"},
	{"GET", "/api/session/service", ``, "444444444"}, // the school has none
	{"GET", "/api/session/service/back", ``, "444444444"},
	{"GET", "/api/me", ``, "1++++++++"},
	{"GET", "/api/demo/people", ``, "444444444"}, // only under the demo
	{"POST", "/api/demo/session", `{"account":"oduya"}`, "444444444"},
	{"GET", "/api/events", ``, "1+++++444"},
	{"GET", "/api/classes", ``, "1+++++444"},
	{"POST", "/api/classes", `{"name":"Weather Station Club"}`, "1+++++444"},
	{"GET", "/api/classes/{class}", ``, "1++++4444"},
	{"PATCH", "/api/classes/{class}", `{"to":{"name":"Tide Watch 7B"}}`, "14++44444"},
	{"DELETE", "/api/classes/{class}", ``, "14+444444"},
	{"PATCH", "/api/classes/{class}/teams/{team}", `{"name":"Gull"}`, "14++44444"},
	{"POST", "/api/classes/{class}/rows/{row}/confirm", ``, "14++44444"},
	{"GET", "/api/classes/{class}/roster", ``, "1++++4444"},
	{"POST", "/api/classes/{class}/roster", `{"students":[{"family":"Dube"}]}`, "14++44444"},
	{"PATCH", "/api/classes/{class}/roster", `{"edits":[{"row":"{row}","field":"level","value":"B","was":""}]}`, "14++44444"},
	{"POST", "/api/classes/{class}/roster/left", `{"rows":["{row}"],"left":false}`, "14++44444"},
	{"POST", "/api/classes/{class}/roster/teams", `{"teams":2,"seed":1,"rows":[],"apart":[]}`, "14+++4444"},
	{"GET", "/api/classes/{class}/roster/export/csv", ``, "1++++4444"},
	{"GET", "/api/classes/{class}/roster/export/exe", ``, "144444444"},
	{"GET", "/api/classes/{class}/roster/history", ``, "1++++4444"},
	{"POST", "/api/classes/{class}/roster/history/{batch}/undo", ``, "14++44444"},
	{"POST", "/api/classes/{class}/roster/history/{batch}/list", ``, "14++44444"},
	{"POST", "/api/choose", `{"classes":["{class}"],"choice":{"any":false,"conditions":[],"ticked":{}}}`, "1++++4444"},
	{"GET", "/api/people?q=a", ``, "1+++++444"},
	{"GET", "/api/cover", ``, "1+++++444"},
	{"POST", "/api/practice", ``, "1+++++444"},
	{"DELETE", "/api/practice/{class}", ``, "14++44444"},
	{"GET", "/api/classes/{class}/register", ``, "1++++4444"},
	{"GET", "/api/classes/{class}/weeks", ``, "14+++4444"},
	{"GET", "/api/classes/{class}/weeks?handout={handout}", ``, "14+++4444"},
	{"GET", "/api/classes/{class}/weeks?handout={row}", ``, "144444444"}, // no handout
	{"GET", "/api/weeks", ``, "1+++++444"},
	{"GET", "/api/students?find=given0", ``, "1+++++444"},
	{"GET", "/api/book/ids?standing=new", ``, "1+4444444"},
	{"PUT", "/api/classes/{class}/rows/{row}/address", `{"address":"nonsense"}`, "14++44444"},
	{"POST", "/api/classes/{class}/draft", `{"text":"Surname,Email\nDube,n@kestrelquay.example"}`, "14++44444"},
	{"POST", "/api/classes/{class}/draft/file", "file", "14++44444"},
	{"GET", "/api/classes/{class}/draft", ``, "14++44444"},
	{"PATCH", "/api/classes/{class}/draft", `{"draft":"{list}","changes":[]}`, "14++44444"},
	{"POST", "/api/classes/{class}/draft/accept", `{looked}`, "14++44444"},
	{"DELETE", "/api/classes/{class}/draft?id={list}&revision=1", ``, "14++44444"},
	{"GET", "/api/classes/{class}/room", ``, "14+++4444"},
	{"PATCH", "/api/classes/{class}/room", `{}`, "14++44444"},
	{"POST", "/api/classes/{class}/room/pack", `{"seen":"x"}`, "14++44444"},
	{"GET", "/api/classes/{class}/room/tree?eyes=staff", ``, "14+++4444"},
	{"GET", "/api/classes/{class}/room/file", ``, "14+++4444"},
	{"POST", "/api/classes/{class}/room/file", `{"file":"{}"}`, "14++44444"},
	{"POST", "/api/classes/{class}/room/leave-as-is", `{"key":"{class}/satchel/row.{row}","be":false}`, "14++44444"},
	{"GET", "/api/classes/{class}/room/leftovers", ``, "14+++4444"},
	{"POST", "/api/classes/{class}/room/leftovers", `{"id":"shelf","things":0,"inside":0}`, "144444444"}, // the shelf is in the plan
	{"GET", "/api/classes/{class}/runs/{run}/back", ``, "14+++4444"},
	{"POST", "/api/classes/{class}/runs/{run}/back", `{"things":999}`, "14++44444"},
	{"GET", "/api/classes/{class}/past-runs", ``, "14+++4444"},
	{"GET", "/api/classes/{class}/leavers", ``, "1++++4444"},
	{"POST", "/api/classes/{class}/handing/preview", `{"rows":[]}`, "14++44444"},
	{"POST", "/api/classes/{class}/handing", `{"rows":[],"staff":true,"seen":"x"}`, "14++44444"},
	{"GET", "/api/classes/{class}/placing", ``, "1++++4444"},
	{"POST", "/api/classes/{class}/placing", `{"seen":"x"}`, "1+4444444"}, // others than it has
	{"GET", "/api/me/codes", ``, "1++++++++"},
	{"POST", "/api/classes/{class}/rows/{row}/leaving", `{"decision":"keep","own":0}`, "144444444"}, // s0 hasn't left
	{"GET", "/api/classes/{class}/rows/{row}/archive", ``, "144444444"},
	{"POST", "/api/classes/{class}/rows/{row}/former", `{"along":false}`, "144444444"},          // nor come from another class
	{"POST", "/api/classes/{class}/rows/{row}/request", `{"yes":true,"asks":"x"}`, "144444444"}, // nobody asks for it
	{"GET", "/api/home/calendar", ``, "1++++++++"},
	{"GET", "/api/classes/{class}/calendar", ``, "1++++4444"},
	{"GET", "/api/log", ``, "1+4444444"},
	{"GET", "/api/log/export/csv", ``, "1+4444444"},
	{"GET", "/api/doors", ``, "1+4444444"},
	{"GET", "/api/doors/{account}", ``, "1+4444444"},
	{"GET", "/api/doors/{account}/export/csv", ``, "1+4444444"},
	{"POST", "/api/classes/{class}/doors", ``, "1++++4444"},
	{"GET", "/api/classes/{class}/doors", ``, "1++++4444"},
	{"POST", "/api/classes/{class}/doors/mend", `{"differences":["x"]}`, "14++44444"},
	{"POST", "/api/classes/{class}/doors/leave", `{"differences":["x"],"left":false}`, "14++44444"},
	{"GET", "/api/classes/{class}/doors/reach?row={row}", ``, "14+++4444"},
	{"GET", "/api/classes/{class}/doors/reach/export/csv?thing={copy}", ``, "14+++4444"},
	{"GET", "/api/classes/{class}/doors/things", ``, "14+++4444"},
	{"GET", "/api/classes/{class}/doors/export/csv", ``, "1++++4444"},
	{"GET", "/api/classes/{class}/log", ``, "1++++4444"},
	{"GET", "/api/classes/{class}/log/export/csv", ``, "1++++4444"},
	{"GET", "/api/classes/{class}/ledger", ``, "14+++4444"},
	{"GET", "/api/classes/{class}/ledger/export/csv", ``, "14+++4444"},
	{"GET", "/api/classes/{class}/links?codes=true", ``, "14+++4444"},
	{"GET", "/api/classes/{class}/links/export/csv", ``, "14+++4444"},
	{"GET", "/api/door/{class}", ``, "14+++4++4"},
	{"GET", "/api/everywhere", ``, "1+++++444"},
	{"POST", "/api/everywhere", `{"classes":[{"class":"{class}","seen":"x"}]}`, "14++44444"},
	{"POST", "/api/first/address", `{"secret":"x"}`, "444444444"},
	{"POST", "/api/first", `{"secret":"x","school":{},"given":"A","family":"B","address":"a@kestrelquay.example","password":"some other words"}`, "444444444"},
	{"POST", "/api/session/first", `{"address":"x@kestrelquay.example","code":"x","password":"some other words"}`, "+++++++++"},
	{"PUT", "/api/me/password", `{"before":"x","password":"some other words"}`, "1++++++++"},
	{"GET", "/api/school", ``, "1+++++444"},
	{"PATCH", "/api/school", `{"to":{},"was":{}}`, "1+4444444"},
	{"GET", "/api/book", ``, "1+++++444"},
	{"POST", "/api/book", `{}`, "1+4444444"},
	{"POST", "/api/book/list/preview", `{"role":"student","list":"RW1haWwKeEBrcS5leGFtcGxlCg=="}`, "1+4444444"},
	{"POST", "/api/book/list", `{"role":"student","list":"RW1haWwKeEBrcS5leGFtcGxlCg==","seen":"x","away":false}`, "1+4444444"},
	{"POST", "/api/book/codes", `{"accounts":["nobody"],"away":false}`, "144444444"},
	{"PATCH", "/api/book/accounts/{account}", `{"to":{},"was":{}}`, "1+4444444"},
	{"PUT", "/api/classes/{class}/staff/{account}", `{"role":"none","was":"none"}`, "14++44444"},
	{"PUT", "/api/classes/{class}/owner", `{"account":"stranger","was":"x"}`, "1++444444"},
	{"POST", "/api/classes/{class}/codes", `{"rows":[],"away":false}`, "14++44444"},
	{"GET", "/api/office/classes", ``, "1+4444444"},
	{"PUT", "/api/classes/{class}/join", `{"role":"none"}`, "1+4444444"},
	{"PUT", "/api/classes/{class}/put-off", `{"code":"lines-stuck","about":"","count":1}`, "1++++4444"},
	{"DELETE", "/api/me/put-off", ``, "1+++++444"},
	{"GET", "/api/me/sessions", ``, "1++++++++"},
	{"DELETE", "/api/me/sessions/{class}", ``, "144444444"}, // nobody's
	{"POST", "/api/classes/{class}/students/{row}/eyes", `{}`, "14+++4444"},
	{"POST", "/api/office/term/preview", `{"list":"RW1haWwKeEBrcS5leGFtcGxlCg=="}`, "1+4444444"},
	{"POST", "/api/office/term", `{"list":"RW1haWwKeEBrcS5leGFtcGxlCg==","seen":"x","classes":["x"]}`, "1+4444444"},
	{"GET", "/api/classes/{class}/join-door", ``, "14+++4444"},
	{"PUT", "/api/classes/{class}/join-door", `{"hours":1}`, "14++44444"},
	{"POST", "/api/classes/{class}/join-door/askers", `{"accounts":["x"],"in":true}`, "14++44444"},
	{"GET", "/api/join/{door}", ``, "1++++++++"},
	{"POST", "/api/join/{door}", ``, "144444+++"},
	{"GET", "/api/me/notices", ``, "1++++++++"},
	{"PUT", "/api/me/notices", `{"wish":"digest","at":"15:30"}`, "1++++++++"},
	{"POST", "/api/school/post/trial", ``, "1+4444444"},
	{"GET", "/api/classes/{class}/messages", ``, "14+++4444"},
	{"POST", "/api/classes/{class}/messages/preview", `{"kind":"written"}`, "14++44444"},
	{"POST", "/api/classes/{class}/messages", `{"kind":"written","text":{"subject":"x","body":"y"}}`, "14++44444"},
	{"POST", "/api/classes/{class}/messages/again", `{"messages":["{message}"]}`, "14++44444"},
	{"GET", "/api/postroom", ``, "1+4444444"},
	{"PUT", "/api/postroom", `{"refuses":0,"lost":0,"delay":0}`, "1+4444444"},
	{"GET", "/api/postroom/1", ``, "1+4444444"},
	{"GET", "/api/postroom/1/eml", ``, "1+4444444"},
	{"GET", "/api/standins", ``, "1+4444444"},
	{"PUT", "/api/standins", `{"delay":0,"errors":0,"lost":0,"limit":0,"unknown":[]}`, "1+4444444"},
	{"GET", "/api/folders", ``, "1++++++++"},
	{"GET", "/api/folders?find=boat", ``, "1++++++++"},
	{"POST", "/api/folders", `{"name":"Boats"}`, "1++++++++"},
	{"GET", "/api/bin", ``, "1++++++++"},
	{"POST", "/api/bin", `{"things":["{copy}"],"inside":9}`, "14+++4+44"}, // something else is in it: told so by whom it may be seen
	{"POST", "/api/bin/{copy}/restore", ``, "144444444"},
	{"POST", "/api/move", `{"things":["{copy}"],"to":"{satchel}"}`, "14++34+44"},
	{"POST", "/api/spread/preview", `{"things":["{copy}"]}`, "14++34344"},
	{"POST", "/api/spread", `{"things":["{copy}"],"seen":"other"}`, "14++34344"},
	{"POST", "/api/move/effects", `{"things":["{copy}"],"to":"{satchel}"}`, "14+++4+44"},
	{"GET", "/api/classes/{class}/usage", ``, "14+++4444"},
	{"GET", "/api/things/{copy}/inside", ``, "14+++4+44"},
	{"GET", "/api/things/{copy}/school", ``, "14++34344"},
	{"PUT", "/api/things/{copy}/school", `{"level":"nothing","was":"nothing"}`, "14++34344"},
	{"PUT", "/api/things/{copy}/name", `{"name":"Mine"}`, "14++34+44"},
	{"POST", "/api/classes/{class}/handouts/file", `{"file":"{}"}`, "14++44444"},
	{"GET", "/api/classes/{class}/handouts/{handout}/file", ``, "14+++4444"},
	{"POST", "/api/classes/{class}/cues", ``, "14++44444"},
	{"PUT", "/api/classes/{class}/rows/{row}/cue", `{"colour":"moss","symbol":""}`, "14++44444"},
	{"GET", "/api/classes/{class}/handouts", ``, "14+++4444"},
	{"POST", "/api/classes/{class}/handouts", `{}`, "14++44444"},
	{"GET", "/api/classes/{class}/handouts/{handout}", ``, "14+++4444"},
	{"PATCH", "/api/classes/{class}/handouts/{handout}", `{"to":{},"was":{}}`, "14++44444"},
	{"DELETE", "/api/classes/{class}/handouts/{draft}", ``, "14++44444"},
	{"POST", "/api/classes/{class}/handouts/{handout}/pack", `{"seen":"x"}`, "14++44444"},
	{"POST", "/api/classes/{class}/register/export/csv", `{"rows":["{row}"]}`, "14+++4444"},
	{"POST", "/api/classes/{class}/handouts/{handout}/together", `{"to":"{class}","picked":false}`, "14++44444"},
	{"POST", "/api/classes/{class}/handouts/{handout}/together/pack", `{"parts":[{"class":"{class}","pack":{"seen":"x"}}]}`, "14++44444"},
	{"DELETE", "/api/classes/{class}/handouts/{draft}/together/{class}", ``, "14++44444"},
	{"GET", "/api/classes/{class}/handouts/{handout}/withdraw", ``, "14+++4444"},
	{"POST", "/api/classes/{class}/handouts/{handout}/pens", `{"down":true,"rows":[]}`, "14++44444"},
	{"PUT", "/api/classes/{class}/opening", `{"at":""}`, "14++44444"},
	{"POST", "/api/classes/{class}/opening", `{"rows":[]}`, "14++44444"},
	{"POST", "/api/classes/{class}/places/table/pens", `{"down":true,"rows":[]}`, "14++44444"},
	{"PUT", "/api/classes/{class}/extra-time", `{"rows":["{row}"],"percent":25}`, "14++44444"},
	{"POST", "/api/classes/{class}/handouts/{handout}/withdraw", `{"begun":false,"seen":"x"}`, "14++44444"},
	{"POST", "/api/classes/{class}/handouts/{handout}/back", ``, "14++44444"},
	{"POST", "/api/classes/{class}/handouts/{handout}/again", `{"to":"{class}"}`, "14++44444"},
	{"GET", "/api/classes/{class}/handouts/{handout}/documents/1/filled", ``, "14+++4444"},
	{"GET", "/api/classes/{class}/handouts/{handout}/documents/1/copy", ``, "14+++4444"},
	{"POST", "/api/classes/{class}/handouts/{handout}/post", `{"seen":"x"}`, "14++44444"},
	{"POST", "/api/classes/{class}/handouts/{handout}/take-down", ``, "14++44444"},
	{"GET", "/api/classes/{class}/handouts/{handout}/stood", ``, "14+++4444"},
	{"GET", "/api/classes/{class}/handouts/{handout}/stood/{stood}", ``, "14+++4444"},
	{"GET", "/api/classes/{class}/headings", ``, "14+++4444"},
	{"POST", "/api/classes/{class}/headings", `{"title":"Unit 1"}`, "14++44444"},
	{"PATCH", "/api/classes/{class}/headings/{heading}", `{"folded":true}`, "14++44444"},
	{"DELETE", "/api/classes/{class}/headings/{heading}", ``, "14++44444"},
	{"PUT", "/api/classes/{class}/handouts/{handout}/place", `{"heading":"","before":""}`, "14++44444"},
	{"GET", "/api/classes/{class}/handouts/{handout}/reissue", ``, "14+++4444"},
	{"POST", "/api/classes/{class}/handouts/{handout}/reissue", `{"begun":"leave","seen":"x"}`, "14++44444"},
	{"GET", "/api/classes/{class}/top-up", ``, "14+++4444"},
	{"POST", "/api/classes/{class}/top-up", `{"rows":["{row}"]}`, "14++44444"},
	{"GET", "/api/classes/{class}/students/{row}", ``, "14+++4444"},
	{"GET", "/api/classes/{class}/runs", ``, "14+++4444"},
	{"GET", "/api/classes/{class}/runs/{run}", ``, "14+++4444"},
	{"POST", "/api/classes/{class}/runs/{run}/pause", ``, "14++44444"},
	{"POST", "/api/classes/{class}/runs/{run}/resume", ``, "14++44444"},
	{"POST", "/api/classes/{class}/runs/{run}/stop", ``, "14++44444"},
	{"POST", "/api/classes/{class}/runs/{run}/lines/1/fix", `{}`, "14++44444"},
	{"GET", "/api/templates", ``, "1+++++444"},
	{"POST", "/api/templates", "file", "1+++++444"},
	{"POST", "/api/templates/text", `{"name":"Log","text":"# Log"}`, "1+++++444"},
	{"PUT", "/api/templates/{template}/name", `{"name":"Log"}`, "14+444444"},
	{"POST", "/api/templates/{template}/remove", ``, "14+444444"},
	{"GET", "/api/home", ``, "1++++++++"},
	{"GET", "/api/home/handouts/{handout}", ``, "144444444"},
	{"PUT", "/api/home/handouts/{handout}/mates/{row}", `{"in":true}`, "144444444"},
	{"GET", "/api/links/{link}", ``, "14+++4+44"},
	{"GET", "/api/things/{copy}", ``, "14+++4+44"},
	{"GET", "/api/things/{satchel}", ``, "14+++4+44"},
	{"GET", "/api/things/{copy}/text", ``, "14+++4+44"},
	{"GET", "/api/things/{copy}/late", ``, "14+++4+44"},
	{"GET", "/api/things/{copy}/shown", ``, "14+++4+44"},
	{"POST", "/api/things/{copy}/shown", `{"word":"x"}`, "14++34+44"},
	{"POST", "/api/things/{copy}/shown/1", ``, "14+++4+44"},
	{"POST", "/api/classes/{class}/handouts/{handout}/shown", `{"rows":[]}`, "14++44444"},
	{"POST", "/api/things/{copy}/late", `{"whose":"s0","at":"2026-11-27T17:00:00Z","take":false}`, "144444444"},
	{"PUT", "/api/things/{copy}/text", `{"text":"# Log","base":99,"key":"a key of a write"}`, "14++34+44"},
	{"GET", "/api/things/{copy}/content", ``, "14+++4+44"},
	{"GET", "/api/things/{copy}/versions", ``, "14+++4+44"},
	{"POST", "/api/things/{satchel}/files", "file", "14++34+44"},
	{"POST", "/api/render", `{"text":"a","other":"b"}`, "1++++++++"},
}

func TestEveryRouteAsEveryRole(t *testing.T) {
	s := open(t)
	clients := map[string]*http.Client{}
	for _, who := range asking {
		clients[who] = s.as(who)
	}
	// Anyone who was on its staff has the same view of a class as another's teacher, who was a
	// student of it as another's student; anyone who is switched off is nobody.
	alike := map[string]string{"once": "stranger", "gone": "s2", "off": ""}
	s.formers(clients)
	asked := map[string]bool{}
	for _, r := range routes {
		bare, _, _ := strings.Cut(r.path, "?")
		asked[r.method+" "+bare] = true
		for i, who := range append(slices.Clone(asking), slices.Sorted(maps.Keys(alike))...) {
			if like, former := alike[who]; former {
				i = slices.Index(asking, like)
			}
			if r.want == "111111111" || r.want == "444444444" && strings.HasPrefix(r.path, "/api/first") {
				if i = slices.Index(asking, who); i < 0 { // tries of secrets are counted, and nobody's account has a part in them
					continue
				}
			}
			if strings.Contains(r.path, "/draft") && r.method != "GET" { // each finds a list waiting
				s.call(clients["oduya"], "POST", s.fill("/api/classes/{class}/draft"),
					`{"text":"Surname,First,Email\nFamily0,Given0,s0@kestrelquay.example"}`)
			}
			path := s.fill(r.path)
			client := clients[who]
			if r.method == "DELETE" && r.path == "/api/session" {
				client = s.as("") // signing the others out would end this test
			}
			status, body := s.call(client, r.method, path, s.fill(r.body))
			got := "+"
			switch status {
			case 401:
				got = "1"
			case 403:
				got = "3"
			case 404:
				got = "4"
			case 500:
				got = "broken"
			}
			if got != string(r.want[i]) {
				t.Errorf("%s %s as %q: %d %s, want %c", r.method, path, who, status, body, r.want[i])
			}
		}
	}
	for _, route := range s.web.Routes() {
		if name := s.unfill(route); strings.HasPrefix(name[strings.Index(name, "/"):], "/api/") && !asked[name] &&
			!strings.HasSuffix(name, "/api/openapi.yaml") {
			t.Errorf("the table above doesn't ask %s", name)
		}
	}
}

// formers adds, signed in, who was on the class's staff, who has left the class, and whose
// account was switched off since.
func (s *school) formers(clients map[string]*http.Client) {
	s.t.Helper()
	for id, role := range map[string]accounts.Role{"once": accounts.Staff, "gone": accounts.Student, "off": accounts.Staff} {
		a := accounts.Account{ID: id, Address: id + "@kestrelquay.example", Given: "Some", Family: id, Role: role}
		if err := errors.Join(s.app.Book.Add(context.Background(), a, apptest.Hash), s.app.Cup.AddPeople(context.Background(), id)); err != nil {
			s.t.Fatal(err)
		}
		clients[id] = s.as(id)
	}
	class := "/api/classes/" + s.class.ID
	do := func(who, method, path, body string) {
		if status, answer := s.call(clients[who], method, path, body); status >= 300 {
			s.t.Fatalf("%s %s: %d %s", method, path, status, answer)
		}
	}
	do("oduya", "PUT", class+"/staff/once", `{"role":"teacher","was":"none"}`)
	do("once", "GET", class, "")
	do("oduya", "PUT", class+"/staff/once", `{"role":"none","was":"teacher"}`)
	do("oduya", "POST", class+"/roster", `{"students":[{"given":"Some","family":"gone","address":"gone@kestrelquay.example"}]}`)
	s.class = apptest.Load(s.t, s.app, s.class.ID)
	do("oduya", "POST", class+"/roster/left", `{"rows":["`+s.row("gone")+`"],"left":true}`)
	do("office", "PATCH", "/api/book/accounts/off", `{"to":{"off":true},"was":{}}`)
}

func (s *school) fill(path string) string {
	s.t.Helper()
	ctx := context.Background()
	must := func(err error) {
		s.t.Helper()
		if err != nil {
			s.t.Fatal(err)
		}
	}
	for name, find := range map[string]func() string{
		"{draft}": func() string {
			h, err := s.app.Cases.Handouts.NewHandout(ctx, "oduya", s.class.ID, "")
			must(err)
			return h.ID
		},
		"{template}": func() string {
			t, err := s.app.Cases.Handouts.AddTemplate(ctx, "oduya", "Map.md", "text/markdown", strings.NewReader("# Map"))
			must(err)
			return t.ID
		},
		"{stood}": func() string {
			all, err := s.app.Cases.Packing.StoodTimes(ctx, s.class.ID, s.handout.ID)
			if err != nil || len(all) == 0 {
				return ""
			}
			return all[0].ID
		},
		"{heading}": func() string {
			h, err := s.app.Cases.Handouts.AddHeading(ctx, "oduya", s.class.ID, "Unit")
			must(err)
			return h.ID
		},
		"{batch}": func() string {
			history, err := s.app.Store.History(ctx, s.class.ID, 1)
			must(err)
			return history[0].Batch
		},
		"{team}": func() string {
			o, err := s.app.Cases.Classes.Overview(ctx, s.class.ID)
			if err != nil || len(o.Teams) == 0 {
				return ""
			}
			return o.Teams[0].ID
		},
		"{message}": func() string { return s.told() },
		"{door}": func() string {
			must(s.app.Cases.Rosters.OpenJoinDoor(ctx, "oduya", s.class.ID, 1))
			d, err := s.app.Cases.Rosters.JoinDoor(ctx, s.class.ID)
			must(err)
			return d.Link
		},
		"{list}":    func() string { id, _ := s.looked(); return id },
		"{looked}":  func() string { _, body := s.looked(); return body },
		"{row}":     func() string { return s.row("s0") },
		"{class}":   func() string { return s.class.ID },
		"{handout}": func() string { return s.handout.ID },
		"{run}":     func() string { return s.run.ID },
		"{copy}":    func() string { return s.copy.Thing },
		"{satchel}": func() string { return s.satchel.Thing },
		"{link}":    func() string { return s.copy.Link },
		"{account}": func() string { return "stranger" },
	} {
		if strings.Contains(path, name) {
			path = strings.ReplaceAll(path, name, find())
		}
	}
	if strings.Contains(path, "/postroom/") {
		s.told() // so that there is a letter
	}
	return path
}

// told tells the class something, once, and returns the message.
func (s *school) told() string {
	s.t.Helper()
	ctx := context.Background()
	all, _, _, err := s.app.Cases.Telling.Messages(ctx, s.class.ID, mail.MessageFilter{})
	if err != nil {
		s.t.Fatal(err)
	}
	if len(all) == 0 {
		if _, err := s.app.Cases.Telling.SendMessage(ctx, "oduya", s.class.ID,
			letters.Ask{Text: &telling.Text{Subject: "x", Body: "y"}}); err != nil {
			s.t.Fatal(err)
		}
		if all, _, _, err = s.app.Cases.Telling.Messages(ctx, s.class.ID, mail.MessageFilter{}); err != nil {
			s.t.Fatal(err)
		}
	}
	if err := s.app.Courier.Carry(ctx); err != nil {
		s.t.Fatal(err)
	}
	return all[0].ID
}

// looked is the list that waits in the class: its id, and what names it as it is.
func (s *school) looked() (id, body string) {
	d, err := s.app.Cases.Lists.Draft(context.Background(), "oduya", s.class.ID)
	if err != nil {
		return "0198a0c0-0000-7000-8000-000000000000", `{"id":"","revision":0,"looked":""}`
	}
	return d.ID, fmt.Sprintf(`{"id":%q,"revision":%d,"looked":%q}`, d.ID, d.Revision, d.Looked)
}

// unfill brings a registered route to the names of the table.
func (s *school) unfill(route string) string {
	r := strings.NewReplacer(":batch", "{batch}", ":teamId", "{team}", ":format", "csv", ":classId", "{class}", ":rowId",
		"{row}", ":handoutId", "{handout}", ":runId", "{run}", ":templateId", "{template}", ":seq", "1", ":slot", "1", ":version", "1",
		":headingId", "{heading}", ":stoodId", "{stood}", ":otherId", "{class}", ":link", "{link}", ":accountId",
		"{account}", ":mailNumber", "1", ":sessionId", "{class}", ":placeId", "table").Replace(route)
	r = strings.Replace(r, "/join/{link}", "/join/{door}", 1)
	if strings.HasPrefix(r, "DELETE") {
		r = strings.Replace(r, "{handout}", "{draft}", 1)
	}
	if strings.HasSuffix(r, "/files") {
		return strings.Replace(r, ":thingId", "{satchel}", 1)
	}
	return strings.Replace(r, ":thingId", "{copy}", 1)
}

// What isn't yours and what isn't there can't be told apart.
func TestNotYoursIsNotThere(t *testing.T) {
	s := open(t)
	other := s.as("s1")
	for _, path := range []string{"/api/things/%s", "/api/things/%s/text", "/api/things/%s/content", "/api/things/%s/versions"} {
		st1, yours := s.call(other, "GET", fmt.Sprintf(path, s.copy.Thing), "")
		st2, none := s.call(other, "GET", fmt.Sprintf(path, "0198a0c0-0000-7000-8000-000000000000"), "")
		st3, odd := s.call(other, "GET", fmt.Sprintf(path, "no-id"), "")
		if st1 != 404 || st2 != 404 || st3 != 404 || yours != none || none != odd {
			t.Errorf("%s: %d %s, %d %s, %d %s", path, st1, yours, st2, none, st3, odd)
		}
	}
}

func TestSignInTries(t *testing.T) {
	s := open(t)
	c := s.as("")
	limited := false
	for range 14 {
		status, body := s.call(c, "POST", "/api/session", `{"address":"s0@kestrelquay.example","password":"wrong"}`)
		limited = limited || status == 429
		if status != 401 && status != 429 || strings.Contains(body, "s0@") {
			t.Errorf("%d %s", status, body)
		}
	}
	if !limited {
		t.Error("passwords can be tried for ever")
	}
	if status, _ := s.call(c, "POST", "/api/session",
		`{"address":"s1@kestrelquay.example","password":"`+apptest.Password+`"}`); status != 200 {
		t.Errorf("another person is kept out as well: %d", status)
	}
}

func TestSessions(t *testing.T) {
	s := open(t)
	c := s.as("s0")
	u := s.srv.URL + "/api/me"
	res, err := c.Get(u)
	if err != nil {
		t.Fatal(err)
	}
	res.Body.Close()
	cookies := c.Jar.Cookies(res.Request.URL)
	if len(cookies) != 1 {
		t.Fatalf("cookies %v", cookies)
	}
	s.call(c, "DELETE", "/api/session", "")
	req, _ := http.NewRequest("GET", u, nil)
	req.AddCookie(cookies[0]) // kept by somebody
	if res, err = http.DefaultClient.Do(req); err != nil || res.StatusCode != 401 {
		t.Errorf("a session that was ended still works: %v %v", res.StatusCode, err)
	}
	res.Body.Close()
	// Everywhere is everywhere of theirs, and nobody else's.
	here, there, other := s.as("s0"), s.as("s0"), s.as("s1")
	s.call(here, "DELETE", "/api/session?everywhere=true", "")
	for who, want := range map[*http.Client]int{here: 401, there: 401, other: 200} {
		if status, answer := s.call(who, "GET", "/api/me", ""); status != want {
			t.Errorf("after signing out everywhere: %d %s, want %d", status, answer, want)
		}
	}
	// Another site can't act in somebody's name.
	c = s.as("s0")
	req, _ = http.NewRequest("POST", s.srv.URL+"/api/render", strings.NewReader(`{"text":"a","other":"b"}`))
	req.Header.Set("Sec-Fetch-Site", "cross-site")
	req.Header.Set("Content-Type", "application/json")
	if res, err = c.Do(req); err != nil || res.StatusCode != 403 {
		t.Errorf("a cross-site request: %v %v", res.StatusCode, err)
	}
	res.Body.Close()
	// Scripts come from our own files alone, whatever the answer.
	for _, path := range []string{"/", "/api/me", "/nowhere", "/api/things/" + s.copy.Thing + "/content"} {
		res, err := c.Get(s.srv.URL + path)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		csp := res.Header.Get("Content-Security-Policy")
		if !strings.Contains(csp, "script-src 'self'") && !strings.Contains(csp, "sandbox") ||
			strings.Contains(csp, "unsafe-eval") || res.Header.Get("X-Content-Type-Options") != "nosniff" {
			t.Errorf("%s: headers %v", path, res.Header)
		}
	}
}

// A character that no text holds is refused wherever text comes in, with a
// message, and is nobody's fault inside.
func TestNoSuchLetter(t *testing.T) {
	s := open(t)
	c := s.as("oduya")
	for _, r := range []struct{ method, path, body string }{
		{"POST", "/api/classes", `{"name":"a\u0000b"}`},
		{"POST", "/api/classes/{class}/roster", `{"students":[{"family":"a\u0000b"}]}`},
		{"PATCH", "/api/classes/{class}/roster", `{"edits":[{"row":"{row}","field":"level","value":"a\u0000b","was":""}]}`},
		{"PATCH", "/api/classes/{class}/room", `{"pockets":{"add":["a\u0000b"]}}`},
		{"PATCH", "/api/classes/{class}/handouts/{handout}", `{"to":{"message":"a\u0000b"},"was":{}}`},
		{"PATCH", "/api/classes/{class}/teams/{team}", `{"name":"a\u0000b"}`},
		{"POST", "/api/templates/text", `{"name":"a\u0000b","text":"# Log"}`},
	} {
		if status, answer := s.call(c, r.method, s.fill(r.path), s.fill(r.body)); status != 400 ||
			!strings.Contains(answer, "no-such-letter") || strings.Contains(answer, "u0000") {
			t.Errorf("%s %s: %d %s", r.method, r.path, status, answer)
		}
	}
}

// Bad lists are refused with a message of their own, and nothing is kept.
func TestBadLists(t *testing.T) {
	s := open(t)
	c := s.as("oduya")
	url := "/api/classes/" + s.class.ID + "/draft"
	for what, list := range map[string]string{"empty": "", "empty ": " \n ", "not-a-table": "\x01\x02",
		"quote-open": "a,\"b\nc", "too-many-rows": strings.Repeat("a,b\n", 250_001), "too-many-columns": strings.Repeat(",", 1000)} {
		body, _ := json.Marshal(map[string]string{"text": list})
		status, answer := s.call(c, "POST", url, string(body))
		if status != 422 || !strings.Contains(answer, `"code":"`+strings.TrimSpace(what)+`"`) || !strings.Contains(answer, `"message"`) {
			t.Errorf("%s: %d %.200s", what, status, answer)
		}
	}
	if status, _ := s.call(c, "GET", url, ""); status != 404 {
		t.Errorf("a refused list was kept: %d", status)
	}
	large, _ := json.Marshal(map[string]string{"text": strings.Repeat("0123456789abcde\n", 5<<20)})
	if status, answer := s.call(c, "POST", url, string(large)); status != 413 && status != 422 {
		t.Errorf("80 MiB: %d %.200s", status, answer)
	}
	// Without addresses: shown, and not accepted before the teacher says so.
	if status, _ := s.call(c, "POST", url, `{"text":"Surname,First\nDube,Nokuthula"}`); status != 200 {
		t.Fatal("a list without addresses can't be looked at")
	}
	if status, answer := s.call(c, "POST", url+"/accept", s.fill("{looked}")); status != 422 ||
		!strings.Contains(answer, "no-address-column") {
		t.Errorf("%d %s", status, answer)
	}
	s.call(c, "PATCH", url, s.fill(`{"draft":"{list}","changes":[{"without":true}]}`))
	if status, answer := s.call(c, "POST", url+"/accept", s.fill("{looked}")); status != 200 {
		t.Errorf("%d %s", status, answer)
	}
}

// Two windows: the later one is told, offered both, and nothing is overwritten.
func TestWritingMeanwhile(t *testing.T) {
	s := open(t)
	student, teacher := s.as("s0"), s.as("oduya")
	url := "/api/things/" + s.copy.Thing + "/text"
	put := func(c *http.Client, text string, base int, key string) (int, map[string]any) {
		body, _ := json.Marshal(map[string]any{"text": text, "base": base, "key": key})
		status, answer := s.call(c, "PUT", url, string(body))
		var m map[string]any
		if err := json.Unmarshal([]byte(answer), &m); err != nil {
			t.Fatal(answer)
		}
		return status, m
	}
	if st, m := put(student, "# Log\n\none", 1, "first-write"); st != 200 || m["version"] != 2.0 {
		t.Errorf("%d %v", st, m)
	}
	if st, m := put(student, "# Log\n\none", 1, "first-write"); st != 200 || m["version"] != 2.0 {
		t.Errorf("sent again after a lost answer: %d %v", st, m)
	}
	if st, m := put(student, "# Log\n\nsomething else", 1, "first-write"); st != 409 || m["code"] != "key-used" {
		t.Errorf("another text under a key: %d %v", st, m)
	}
	if st, m := put(teacher, "# Log\n\ntwo", 1, "second-write"); st != 409 || m["theirs"] != "# Log\n\none" ||
		m["version"] != 2.0 || m["by"] != "Given0 Family0" {
		t.Errorf("%d %v", st, m)
	}
	if st, m := put(teacher, "# Log\n\none\n\ntwo", 2, "third-write"); st != 200 || m["version"] != 3.0 {
		t.Errorf("%d %v", st, m)
	}
	_, versions := s.call(student, "GET", "/api/things/"+s.copy.Thing+"/versions", "")
	if n := strings.Count(versions, `"number"`); n != 3 {
		t.Errorf("%d versions: %s", n, versions)
	}
	apptest.Look(t, s.app)
	_, reg := s.call(teacher, "GET", "/api/classes/"+s.class.ID+"/register", "")
	if !strings.Contains(reg, `"working"`) {
		t.Errorf("the Register doesn't show it: %s", reg)
	}
}

func TestRegisterETag(t *testing.T) {
	s := open(t)
	c := s.as("oduya")
	url := s.srv.URL + "/api/classes/" + s.class.ID + "/register"
	get := func(tag string) *http.Response {
		req, _ := http.NewRequest("GET", url, nil)
		req.Header.Set("If-None-Match", tag)
		res, err := c.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		return res
	}
	first := get("")
	if again := get(first.Header.Get("ETag")); first.StatusCode != 200 || again.StatusCode != 304 {
		t.Errorf("%d, then %d", first.StatusCode, again.StatusCode)
	}
	s.call(s.as("s0"), "GET", "/api/things/"+s.copy.Thing, "")
	if after := get(first.Header.Get("ETag")); after.StatusCode != 200 {
		t.Errorf("after the student opened the copy: %d", after.StatusCode)
	}
}

// Text with markup comes out without effect, and everything but pictures as a download.
func TestHostileContent(t *testing.T) {
	s := open(t)
	c := s.as("s0")
	hostile := "# <script>alert(1)</script>\n\n<img src=x onerror=alert(1)> [x](javascript:alert(1))\n\n- [ ] task"
	body, _ := json.Marshal(map[string]any{"text": hostile, "base": 1, "key": "hostile-key"})
	s.call(c, "PUT", "/api/things/"+s.copy.Thing+"/text", string(body))
	_, answer := s.call(c, "GET", "/api/things/"+s.copy.Thing+"/text", "")
	var got struct{ Text, Html string }
	if err := json.Unmarshal([]byte(answer), &got); err != nil {
		t.Fatal(err)
	}
	if got.Text != hostile || strings.Contains(got.Html, "<script") || strings.Contains(got.Html, "onerror") ||
		strings.Contains(got.Html, "javascript:") || !strings.Contains(got.Html, "checkbox") {
		t.Errorf("rendered %s", got.Html)
	}
	res, err := c.Get(s.srv.URL + "/api/things/" + s.copy.Thing + "/content")
	if err != nil {
		t.Fatal(err)
	}
	res.Body.Close()
	if h := res.Header; !strings.HasPrefix(h.Get("Content-Disposition"), "attachment") ||
		h.Get("Content-Type") != "application/octet-stream" || !strings.Contains(h.Get("Content-Security-Policy"), "sandbox") {
		t.Errorf("headers %v", h)
	}
}

// The server reaches store, cupboard and school book through the use cases alone, and the routes of one kind know nothing
// of the others'.
func TestServerKnowsUseCasesAlone(t *testing.T) {
	known := map[string]bool{"calendar": true, "clock": true, "document": true, "gate": true, "service": true, "tables": true, "web/api": true}
	for pkg, also := range map[string][]string{".": {"web/desk", "web/classroutes", "web/handroutes"}, "./desk": nil,
		"./classroutes": {"web/desk"}, "./handroutes": {"web/desk"}} {
		out, err := exec.Command("go", "list", "-f", `{{join .Imports "\n"}}`, pkg).Output()
		if err != nil {
			t.Fatal(err)
		}
		for _, i := range strings.Fields(string(out)) {
			if name, ours := strings.CutPrefix(i, "jollysatchel/internal/"); ours && !known[name] && !slices.Contains(also, name) &&
				!strings.HasPrefix(name, "core/") && !strings.HasPrefix(name+"/", "usecase/") {
				t.Errorf("%s imports %s", pkg, name)
			}
		}
	}
}

// Anyone who watches is told of their own classes and of no others, also of those
// they come to later.
func TestEventsOfOthers(t *testing.T) {
	s := open(t)
	ctx, stop := context.WithTimeout(context.Background(), 20*time.Second)
	defer stop()
	told := make(chan string, 100)
	req, err := http.NewRequestWithContext(ctx, "GET", s.srv.URL+"/api/events", nil)
	if err != nil {
		t.Fatal(err)
	}
	res, err := s.as("stranger").Do(req)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	go func() {
		defer close(told)
		lines := bufio.NewScanner(res.Body)
		for lines.Scan() {
			if line := lines.Text(); line == "event: ready" || strings.HasPrefix(line, `data: {"class"`) {
				told <- line
			}
		}
	}()
	others := true // the class is another's
	until := func(want string) {
		t.Helper()
		for line := range told {
			if strings.Contains(line, s.class.ID) && others {
				t.Errorf("told of another's class: %s", line)
			}
			if strings.Contains(line, want) {
				return
			}
		}
		t.Fatalf("never told of %s", want)
	}
	cs, err := s.app.Store.Classes(ctx, "stranger")
	if err != nil || len(cs) != 1 {
		t.Fatal(cs, err)
	}
	until("event: ready")
	for _, id := range []string{s.class.ID, cs[0].ID} { // another's, then their own
		if err := s.app.Store.Touch(ctx, id); err != nil {
			t.Fatal(err)
		}
	}
	until(cs[0].ID)
	others = false
	if err := s.app.Store.AddStaff(ctx, classes.Member{ClassID: s.class.ID, Account: "stranger", Role: classes.Teacher}); err != nil {
		t.Fatal(err)
	}
	if err := s.app.Store.Touch(ctx, s.class.ID); err != nil {
		t.Fatal(err)
	}
	until(s.class.ID)
	// What changes while nobody listens to the database is told of once somebody does.
	var ended bool
	if err := s.app.Store.DB.Get(&ended, `select pg_terminate_backend(pid) from pg_stat_activity
		where query = 'listen jolly' and datname = current_database()`); err != nil || !ended {
		t.Fatal(ended, err)
	}
	if err := s.app.Store.Touch(ctx, cs[0].ID); err != nil {
		t.Fatal(err)
	}
	until(cs[0].ID)
	// So is each of more at once than are told of by name.
	var after int64
	if err := s.app.Store.DB.Get(&after, `select revision + 1 from classes where id = $1`, cs[0].ID); err != nil {
		t.Fatal(err)
	}
	s.tellMany(cs[0].ID)
	until(fmt.Sprintf(`%s","revision":%d`, cs[0].ID, after))
}

// tellMany has the database tell of 200 other classes, and of one between them.
func (s *school) tellMany(class string) {
	s.t.Helper()
	if _, err := s.app.Store.DB.Exec(`with more as (update classes set revision = revision + 1 where id = $1::uuid returning 1)
		select pg_notify('jolly', case n when 100 then $1::text else gen_random_uuid()::text end)
		from generate_series(1, 200) n, more`, class); err != nil {
		s.t.Fatal(err)
	}
}
