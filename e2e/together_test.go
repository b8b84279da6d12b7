package e2e

import (
	"net/http"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/proto"
)

// Two classes and one student of a third are one sentence and one act; what is said on one
// class's page is on the others', and a class can be parted from them.
func TestTwoClassesAndAPickedStudent(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").be("staff-oduya")
	p.click(".add-class")
	p.click(`[data-act="practise"]`)
	p.see("#page-title", "Practice class")
	p.enterClass("Tide Watch 7B")
	p.click(`[data-act="new-handout"]`)
	p.write("Splice card", "# Splice card\n\nSplice a rope.\n")
	p.click(`[data-part="who"]`)
	p.choose(`[data-form="also-for"] select`, "Boat Workshop 8A")
	p.click(`[data-act="also-for"]`)
	p.see(`[data-part="who-8A"]`, "31 students of Boat Workshop 8A")
	p.see(`[data-act="pack"]`, "Pack 58 copies")
	p.click(`[data-part="who"]`)
	p.choose(`[data-form="also-for"] select`, "Practice class")
	p.click(`[data-form="also-for"] [data-act="some"]`)
	p.click(`[data-act="also-for"]`)
	p.see(`[data-out]`, "24 left out") // what there is to do next
	p.click(`[data-who] li:nth-child(2) input`)
	p.see(".say", "one student of Practice class")
	p.click(`[data-act="picked"]`) // everybody, and back
	p.see(".say", "24 students of Practice class")
	p.click(`[data-act="picked"]`)
	p.see(".say", "one student of Practice class")
	p.see(`[data-member="8A"]`, "to pack: 31")
	p.click(`[data-act="pack"]`)
	p.see("th.c", "Splice card")
	p.gone(`[data-run-state="packing"]`)
	for class, n := range map[string]int{"Tide Watch 7B": 26, "Boat Workshop 8A": 30, "Practice class": 1} {
		p.enterClass(class)
		p.see("th.c", "Splice card")
		p.until(`(n) => document.querySelectorAll('tbody td:nth-last-of-type(3) [data-state="shared"]').length === n`, n)
	}

	p.enterClass("Boat Workshop 8A")
	p.clickOn("header nav a", "Handouts")
	// What was kept of it is of before it was packed: the sentence waits for what it is now.
	come := p.hold("*/handouts/*")
	p.clickOn(`[data-handout="Splice card"]`, "also in 7B")
	p.until(`() => /handouts\/[^/]+$/.test(location.pathname)`)
	if p.page.MustEval(`() => new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(() => r(!!document.querySelector('.say')))))`).Bool() {
		t.Error("a sentence of before is shown, and moves when it comes")
	}
	come()
	p.unfold()
	p.click(`[data-part="message"]`)
	p.typeIn(`.message textarea`, "Bring string.")
	p.click(".sub h2")
	p.see(`[data-part="message"]`, "Bring string.")
	letGo := p.hold("*/api/choose") // nor are these by the list of whom it is for
	p.click(`[data-part="who"]`)
	p.el("[data-in]")
	if n := p.count(`[data-act="not-together"]`); n != 0 {
		t.Error("there are acts before the list")
	}
	letGo()
	p.click(`[data-act="not-together"]`)
	p.gone(`[data-part="who-7B"]`)
	p.enterClass("Tide Watch 7B")
	p.clickOn("header nav a", "Handouts")
	p.clickOn(`[data-handout="Splice card"]`, "Splice card")
	p.see(`[data-part="message"]`, "Bring string.")
	p.gone(`[data-part="who-8A"]`)
}

// A link is opened to the whole school by a deliberate act, which says first who could get
// in, and is shut again.
func TestLinkForTheSchool(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.click(`tr[data-student] td:nth-last-of-type(3) button[data-state="shared"]`) // nobody wrote in it
	p.click(`[data-act="open"]`)
	p.see(`[data-form="wide"]`, "and for staff")
	link := p.page.MustEval(`() => fetch('/api' + location.pathname).then((r) => r.json()).then((t) => t.link)`).Str()
	stranger := s.visit(t, "404").signIn("sade.idowu@kestrelquay.example")
	stranger.open("/go/" + link)
	stranger.see("h1", "does not exist")
	p.click(`[data-act="look-wide"]`)
	p.see(`[data-form="wide"]`, "who have the link can open it")
	p.click(`[data-act="open-to-school"]`)
	p.see(`[data-form="wide"] b`, "who has the link can read this")
	stranger.open("/go/" + link)
	stranger.see("h1", "Rock-pool field log")
	p.click(`[data-act="shut"]`)
	p.see(`[data-form="wide"]`, "and for staff")
	stranger.open("/go/" + link)
	stranger.see("h1", "does not exist")
}

// Where the teacher has them, students let a classmate into their own copy, and out again.
func TestLettingAClassmateIn(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.clickOn("header nav a", "Handouts")
	p.clickOn(`[data-handout="Rock-pool field log"]`, "begun")
	p.unfold()
	p.choose(`[data-part="passing"]`, "classmates, to read")
	p.see(`[data-reach]`, "any of the 27 others")
	dube := s.visit(t, "").be("student-nokuthula.dube")
	dube.click(`[data-copy="Rock-pool field log"] [data-act="mates"]`)
	dube.see("h2", "Who can open my copy")
	dube.clickOn(`[data-form="let-in"] label`, "Tolu Adeyemi")
	dube.see(".mates", "staff and one more")
	tolu := s.visit(t, "").signIn("tolu.adeyemi@kestrelquay.example")
	tolu.click(`[data-copy="Rock-pool field log"] [data-act="mates"]`)
	tolu.see(".mates h1", "Rock-pool")
	for here := tolu.page.MustInfo().URL; tolu.count(`.mates a[href^="/things/"]`) == 0; tolu.see(".mates [data-form], .mates h2", "") {
		tolu.open(strings.TrimPrefix(here, s.url))
	}
	tolu.clickOn(`.mates a[href^="/things/"]`, "Nokuthula")
	tolu.see("h1", "Dube")
	dube.clickOn(`[data-form="let-in"] label`, "Tolu Adeyemi")
	dube.see(".mates", "Now: you and staff.")
}

// What was asked for before a change, and comes after it, doesn't put back what was changed: the
// next change of the same is nobody else's.
func TestLateAnswer(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.clickOn("header nav a", "Handouts")
	p.click(`main a[href*="/handouts/"]`)
	p.el(`[data-part="message"]`)
	path := p.page.MustEval(`() => location.pathname`).Str()

	var holding atomic.Bool
	held := make(chan proto.FetchRequestID, 10)
	go p.page.EachEvent(func(e *proto.FetchRequestPaused) {
		if holding.Load() && e.Request.Method == http.MethodGet || strings.Contains(e.Request.PostData, "Late.") {
			held <- e.RequestID
			return
		}
		proto.FetchContinueRequest{RequestID: e.RequestID}.Call(p.page)
	})()
	p.must(proto.FetchEnable{Patterns: []*proto.FetchRequestPattern{{URLPattern: "*/api" + path,
		RequestStage: proto.FetchRequestStageResponse}}}.Call(p.page), "holding answers")
	holding.Store(true)
	// Something changes elsewhere: the page asks, and is answered late.
	p.must(rod.Try(func() {
		p.page.MustEval(`(path) => fetch('/api' + path, { method: 'PATCH', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ to: { due: '2026-12-18T12:00' }, was: {} }) }).then((r) => r.status)`, path)
	}), "change")
	var late proto.FetchRequestID
	select {
	case late = <-held:
	case <-time.After(20 * time.Second):
		t.Fatal("the page doesn't ask")
	}
	holding.Store(false)
	say := func(text string) {
		p.click(`[data-part="message"]`)
		p.typeIn(`.message textarea`, text)
		p.click(".sub h2")
		p.see(`[data-part="message"]`, text)
	}
	kept := func(text string) {
		p.eventually(`async (path, text) => (await fetch('/api' + path).then((r) => r.json())).message.endsWith(text)`, path, text)
	}
	say("Bring boots.")
	kept("Bring boots.")
	p.see(".sub", "saved just now")
	p.must(proto.FetchContinueRequest{RequestID: late}.Call(p.page), "answering late")
	say(" And string.")
	kept("Bring boots. And string.")

	// Nor does what comes once the page was left, when it is opened again.
	elsewhere := func(to string) {
		p.call(`(path, to) => fetch('/api' + path, { method: 'PATCH', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ to: JSON.parse(to), was: {} }) }).then((r) => String(r.status))`, path, to)
	}
	holding.Store(true)
	elsewhere(`{ "due": "2026-12-19T12:00" }`)
	select {
	case late = <-held:
	case <-time.After(20 * time.Second):
		t.Fatal("the page doesn't ask")
	}
	p.clickOn("header nav a", "Handouts")
	p.gone(`[data-part="message"]`)
	asked := `() => performance.getEntriesByType('resource').filter((e) => e.name.endsWith('/handouts')).length`
	before := p.page.MustEval(asked).Int()
	elsewhere(`{ "message": "Bring nothing." }`)
	p.until(`(n) => (`+asked+`)() > n`, before) // it has heard of it
	holding.Store(false)
	p.must(proto.FetchContinueRequest{RequestID: late}.Call(p.page), "answering late")
	p.click(`main a[href$="` + path[strings.LastIndex(path, "/"):] + `"]`)
	p.see(`[data-part="message"]`, "Bring nothing.")

	// Nor does what a change answers, once something changed after it.
	say(" Late.")
	select {
	case late = <-held:
	case <-time.After(20 * time.Second):
		t.Fatal("the page doesn't keep it")
	}
	elsewhere(`{ "due": "2026-12-20T12:00" }`)
	p.see(`[data-part="due"]`, "20 ")
	p.must(proto.FetchContinueRequest{RequestID: late}.Call(p.page), "answering late")
	p.see(".sub", "saved just now")
	p.see(`[data-part="due"]`, "20 ")
	p.see(`[data-part="message"]`, "Bring nothing. Late.")
}
