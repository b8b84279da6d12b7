package web_test

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"slices"
	"sync"
	"testing"
	"time"

	"jollysatchel/internal/app"
	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/record"
)

// BenchmarkRegister reads the Register of a class of 200 students and 40 handouts,
// everything packed: cold, by 20 readers while nothing changes, and by 20 after a
// change; then the rail of a teacher with 8 such classes the same way, and how they came on.
func BenchmarkRegister(b *testing.B) {
	a := apptest.Open(b)
	apptest.People(b, a, 200)
	var classes []picture.Class
	for range 8 {
		c := apptest.Class(b, a, apptest.List(200))
		apptest.Pack(b, a, c, nil)
		apptest.Full(b, a, c, 40)
		classes = append(classes, c)
	}
	// Everybody wrote in everything, on four of the last forty days.
	if err := a.Store.Exec(context.Background(), `insert into work_days (thing, day, added)
		select thing, current_date - 10 * d - abs(hashtext(thing)) % 10, 5 * (40 - d) from ledger, generate_series(0, 3) d
		where class_id = $1 and purpose = 'copy'`, classes[0].ID); err != nil {
		b.Fatal(err)
	}
	b.Log("made")
	for b.Loop() {
		measure(b, a, "register", "/api/classes/"+classes[0].ID+"/register", classes[0])
		measure(b, a, "today", "/api/classes", classes[0])
		measure(b, a, "weeks", "/api/classes/"+classes[0].ID+"/weeks", classes[0])
		measure(b, a, "all-weeks", "/api/weeks", classes[0])
	}
}

func measure(b *testing.B, a *app.App, what, path string, c picture.Class) {
	srv := httptest.NewServer(apptest.At(b, a.Settings.Database).Web(nil)) // a program that knows nothing yet
	defer srv.Close()
	s := &school{t: nil, srv: srv}
	me := s.signIn(b, "oduya")
	began := time.Now()
	tag, size := fetch(b, me, srv.URL+path, "")
	b.ReportMetric(time.Since(began).Seconds()*1000, what+"-cold-ms")
	b.ReportMetric(float64(size)/1000, what+"-kB")
	round := func(tag string) float64 {
		var mu sync.Mutex
		var took []time.Duration
		var all sync.WaitGroup
		for range 20 {
			all.Go(func() {
				began := time.Now()
				fetch(b, me, srv.URL+path, tag)
				mu.Lock()
				defer mu.Unlock()
				took = append(took, time.Since(began))
			})
		}
		all.Wait()
		slices.Sort(took)
		return took[len(took)*95/100-1].Seconds() * 1000
	}
	b.ReportMetric(round(tag), what+"-unchanged-p95-ms")
	if err := a.Store.Touch(context.Background(), c.ID); err != nil { // as where a student wrote
		b.Fatal(err)
	}
	b.ReportMetric(round(tag), what+"-written-p95-ms")
	for i := range 3 {
		if _, err := a.Cases.Rosters.EditRoster(context.Background(), "oduya", c.ID,
			[]classes.Edit{{Row: c.Students[0].ID, Field: record.Level, Value: fmt.Sprint("L", time.Now().UnixNano()%1000, i)}}); err != nil {
			b.Fatal(err)
		}
		b.ReportMetric(round(tag), what+"-changed-p95-ms")
	}
}

func fetch(b *testing.B, c *http.Client, url, tag string) (string, int) {
	req, err := http.NewRequest(http.MethodGet, url, nil)
	if err != nil {
		b.Error(err)
		return "", 0
	}
	if tag != "" {
		req.Header.Set("If-None-Match", tag)
	}
	res, err := c.Do(req)
	if err != nil {
		b.Error(err)
		return "", 0
	}
	defer res.Body.Close()
	var body bytes.Buffer
	if _, err := io.Copy(&body, res.Body); err != nil || res.StatusCode != 200 && res.StatusCode != 304 {
		b.Error(res.Status, body.String(), err)
	}
	return res.Header.Get("ETag"), body.Len()
}
