package e2e

import (
	"strings"
	"testing"
)

// enterAsOffice opens a class from the list of all.
func (p *person) enterAsOffice(name string) {
	p.t.Helper()
	p.open("/")
	p.click(`[data-class="` + name + `"] .name`)
	p.see("#page-title", name)
}

// The office sees every class with what needs attention; it joins one by an act that its
// staff see and the log has, and leaves it again.
func TestOfficeJoins(t *testing.T) {
	s := start(t)
	o := s.visit(t, "").be("office")
	o.see(`[data-class="Boat Workshop 8A"]`, "stuck")
	o.el(`input[aria-label="Search by name, short name or teacher"]`).MustInput("lindqvist")
	o.until(`() => document.querySelectorAll('[data-class]').length === 1`)
	o.see("[data-class]", "Weather Station Club")
	o.click(`[data-act="ask-join"]`)
	o.click(`[data-act="join-assistant"]`)
	o.see("[data-told]", "You are an assistant of Weather Station Club")
	o.el(`.peg[title="Weather Station Club"]`)
	owner := s.visit(t, "").at("staff-lindqvist", "Weather Station Club")
	owner.see("header", "Harbour Office")
	owner.clickOn("header nav a", "Log")
	owner.see(`[data-table="log"]`, "for the office: Harbour Office")
	o.click(`[data-act="leave"]`)
	o.gone(`.peg[title="Weather Station Club"]`)
	owner.until(`() => !document.querySelector('header').textContent.includes('Harbour Office')`)
}

// Staff look at a student's pages as the student sees them: marked, read only and logged.
func TestStudentsEyes(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.click(`tr[data-student="Nokuthula Dube"] th button`)
	p.click(`[data-act="eyes"]`)
	p.see("[data-eyes]", "as Nokuthula Dube does")
	p.see("[data-copy]", "Rock-pool field log")
	if n := p.count(`main button`); n != 0 {
		t.Errorf("%d things can be pressed on", n)
	}
	if text := p.el("main").MustText(); strings.Contains(text, "Adeyemi") || strings.Contains(text, "Boat Workshop") {
		t.Errorf("others and other classes are seen: %s", text)
	}
	p.clickOn("[data-satchel] a", "Tide Watch 7B")
	p.see(`[data-thing="Field work"]`, "can edit")
	p.see("[data-eyes]", "as Nokuthula Dube does")
	p.click(`[data-act="leave-eyes"]`)
	p.clickOn("header nav a", "Log")
	p.see(`[data-table="log"]`, "looked at the pages of Nokuthula Dube")
}

// Where somebody is signed in stands on their page; one of them is ended there, and is out.
func TestSignedInElsewhere(t *testing.T) {
	s := start(t)
	p := s.visit(t, "401").signIn("nokuthula.dube@kestrelquay.example")
	q := s.visit(t, "").signIn("nokuthula.dube@kestrelquay.example")
	q.open("/account")
	q.until(`() => document.querySelectorAll('[data-session]').length === 2`)
	q.see(`[data-session="here"]`, "this device")
	q.click(`[data-session="other"] [data-act="end-session"]`)
	q.gone(`[data-session="other"]`)
	p.open("/account")
	p.until(`() => location.pathname === '/sign-in'`)
}

// What is to be seen to today is one act away, and can wait until tomorrow.
func TestNotNow(t *testing.T) {
	s := start(t, "-at", "2026-11-25T11:40:00Z")
	p := s.visit(t, "").be("staff-oduya")
	p.see(`[data-note="students-missing"]`, "missing something")
	before := p.count("[data-note]")
	p.click(`[data-note="students-unknown"] [data-act="not-now"]`)
	p.see("p", "You put one thing off until tomorrow")
	if n := p.count("[data-note]"); n != before-1 {
		t.Errorf("%d lines after %d", n, before)
	}
	q := s.visit(t, "").be("staff-lindqvist")
	q.see(`[data-note="students-unknown"]`, "address of one student does not fit") // it is put off by one, for one
	p.click(`[data-act="show-again"]`)
	p.see(`[data-note="students-unknown"]`, "address of one student does not fit")
	p.click(`[data-note="students-missing"] [data-act="remedy"]`)
	p.see(`[data-panel="top-up"]`, "Only these are made and shared")
}

// A teacher opens a class to those who ask; a student asks by the link, is let in, and has it on
// their page.
func TestAskedToBeLetIn(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.clickOn("header nav a", "Doors")
	p.click(`[data-act="links"]`)
	p.click(`[data-act="open-join"]`)
	link := strings.TrimPrefix(p.el("[data-join]").MustText(), s.url)
	q := s.visit(t, "").signIn("wren.ashdown@kestrelquay.example")
	q.open(link)
	q.click(`[data-act="ask"]`)
	q.see("p", "You asked to join")
	q.looked("asking to join", true)
	q.size(1280, 800)
	p.see("[data-asker]", "Wren Ashdown")
	p.click(`[data-act="take"]`)
	p.see("[data-told]", "One student joined")
	q.see("p", "You are in this class")
	p.clickOn("header nav a", "Roster")
	p.see("td, th, button", "Ashdown")
	p.clickOn("header nav a", "Doors")
	p.click(`[data-act="links"]`)
	p.click(`[data-act="shut-join"]`)
	p.el(`[data-act="open-join"]`)
	other := s.visit(t, "/api/join/").signIn("nokuthula.dube@kestrelquay.example")
	other.open(link)
	other.see("h1", "does not exist")
}

// What was done is said beside what was pressed, catches no press, and goes into the corner when that is
// out of sight.
func TestToldWherePressed(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").be("office").open("/settings")
	p.click("[data-act=outside-mail]")
	p.click("[data-act=keep-school]")
	p.see("[data-told]", "Settings saved.")
	p.until(`() => {
		const told = document.querySelector('[data-told]'), act = document.querySelector('[data-act=keep-school]')
		if (!told || !act) return false
		const a = told.getBoundingClientRect(), b = act.getBoundingClientRect()
		const far = Math.max(b.left - a.right, a.left - b.right, b.top - a.bottom, a.top - b.bottom)
		return far >= 0 && far < 12 && getComputedStyle(told).pointerEvents === 'none' && !!told.closest('[role=status]')
	}`)
	p.page.MustEval(`() => document.querySelector('.page').scrollTo(0, 0)`)
	p.size(1280, 500)
	p.until(`() => {
		const told = document.querySelector('[data-told]')?.getBoundingClientRect()
		return told && told.top >= 0 && told.bottom <= innerHeight && told.right > innerWidth - 40
	}`)
	p.until(`() => !document.querySelector('[data-told]')`)
	p.size(1280, 800)
	p.clickOn("aside a", "School log")
	p.see("[data-table=log]", "teachers can email people outside the school: yes")
}
