package app_test

import (
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/clock"
	settings "jollysatchel/internal/core/school"
	"jollysatchel/internal/cupboard/standin"
	"jollysatchel/internal/pgserver/pgtest"
)

// What the office told the stand-ins to suffer is suffered after the next start, too; what is
// said at the start goes before it, and where they aren't shown they are calm.
func TestWeatherStays(t *testing.T) {
	url := pgtest.New(t)
	a := apptest.At(t, url)
	apptest.People(t, a, 1)
	visit := func(a *app.App) func(method, path, body string) int {
		srv := httptest.NewServer(a.Web(nil))
		t.Cleanup(srv.Close)
		jar, _ := cookiejar.New(nil)
		c := &http.Client{Jar: jar}
		res, err := c.Post(srv.URL+"/api/session", "application/json",
			strings.NewReader(`{"address":"office@kestrelquay.example","password":"`+apptest.Password+`"}`))
		if err != nil || res.StatusCode != 200 {
			t.Fatal(res, err)
		}
		res.Body.Close()
		return func(method, path, body string) int {
			req, _ := http.NewRequestWithContext(t.Context(), method, srv.URL+path, strings.NewReader(body))
			req.Header.Set("Content-Type", "application/json")
			res, err := c.Do(req)
			if err != nil {
				t.Fatal(err)
			}
			res.Body.Close()
			return res.StatusCode
		}
	}
	ask := visit(a)
	if got := ask("PUT", "/api/standins", `{"delay":30,"errors":0,"lost":0,"limit":0,"unknown":["s0@kestrelquay.example"]}`); got != 200 {
		t.Fatal(got)
	}
	if got := ask("PUT", "/api/postroom", `{"refuses":0.5,"lost":0,"delay":0}`); got != 200 {
		t.Fatal(got)
	}
	again := apptest.At(t, url)
	if w := again.Cup.Weather(); w.Delay != 30*time.Millisecond || len(w.Unknown) != 1 || again.Postroom.Weather().Refuses != 0.5 {
		t.Errorf("after a start: %+v, %+v", w, again.Postroom.Weather())
	}
	said := apptest.With(t, app.Settings{Database: url, School: apptest.School, Now: clock.System, ShowStandins: true,
		Weather: standin.Weather{Limit: 50}})
	if w := said.Cup.Weather(); w.Limit != 50 || w.Delay != 0 {
		t.Errorf("said at the start: %+v", w)
	}
	school := apptest.With(t, app.Settings{Database: url, School: apptest.School, Now: clock.System, Pace: 10_000})
	if w := school.Cup.Weather(); !w.Calm() || school.Postroom.Weather().Refuses != 0 {
		t.Errorf("in a school: %+v, %+v", w, school.Postroom.Weather())
	}
	ask = visit(school)
	if page, weather, mails := ask("GET", "/api/standins", ""),
		ask("PUT", "/api/postroom", `{"refuses":0,"lost":0,"delay":0}`), ask("GET", "/api/postroom", ""); page != 404 ||
		weather != 404 || mails != 200 {
		t.Errorf("in a school the stand-ins answer %d and %d, the postroom %d", page, weather, mails)
	}
	post := settings.Post{Server: "mail.kestrelquay.example", From: "satchel@kestrelquay.example"}
	if err := school.Cases.People.ChangeSchool(t.Context(), "office", settings.Change{Post: &post}, settings.Change{}); err != nil {
		t.Fatal(err)
	}
	if mails := ask("GET", "/api/postroom", ""); mails != 404 {
		t.Errorf("once mail goes out, the postroom answers %d", mails)
	}
}
