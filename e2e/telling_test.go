package e2e

import (
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// letterIn opens the latest mail of a mailbox in the Postroom, where the office reads it.
func (p *person) letterIn(mailbox, subject string) {
	p.t.Helper()
	p.clickOn(".rail a", "Postroom")
	p.el(`input[aria-label="Search by email address or subject"]`).MustSelectAllText().MustInput(mailbox)
	p.see("li a", subject)
	p.until(`m => [...document.querySelectorAll('section li a .quiet')].every((x) => x.textContent.includes(m))`, mailbox)
	p.clickOn("li a", subject)
	p.see("[data-letter] h2", subject)
}

// A teacher writes to chosen students with a column in the words, sees each letter before
// it goes, and finds it on record; the office reads it in the Postroom, and its link leads
// the student to their own. Anyone who wants one mail a day gets it then.
func TestWriteToStudents(t *testing.T) {
	s := start(t)
	student := s.visit(t, "").signIn("freja.angstrom@kestrelquay.example")
	student.open("/account")
	student.clickOn(`[data-form="notices"] label`, "One email a day")
	student.el(`[data-form="notices"] input[type="time"]`)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.click(`[data-act="choose"]`)
	p.click(`[data-choose="Tolu Adeyemi"]`)
	p.click(`[data-choose="Freja Ångström"]`)
	p.choose(`[data-form="chosen-acts"] select`, "Rock-pool field log")
	p.click(`[data-act="write"]`)
	p.until(`() => document.querySelector('[data-form="message"] [data-field="body"]')?.value.includes('[Link]')`)
	p.el(`[data-field="subject"]`).MustSelectAllText().MustInput("Boots, [Given name]")
	p.see("[data-letter] strong", "Boots, Tolu")
	p.click(`[data-letter] button[aria-label="Next person"]`)
	p.see("[data-letter] strong", "Boots, Freja")
	p.clickOn(`[data-form="message"] summary`, "Check one of them")
	p.see(`[data-form="message"] li`, "in one email a day")
	p.clickOn(`[data-act="send"]`, "Send 2 emails")
	p.see("[data-told]", "2 emails are on their way")
	p.clickOn("header nav a", "Log")
	p.clickOn(".ant-segmented-item", "Emails")
	p.see(`[data-table="messages"] tbody`, "Tolu Adeyemi")
	p.see(`[data-table="messages"] .state.sent`, "sent")
	p.see(`[data-table="messages"] .state.gathering`, "waits for their daily email")
	student.clickOn(`[data-form="notices"] label`, "One email for each thing")
	p.page.MustReload()
	p.clickOn(".ant-segmented-item", "Emails")
	p.until(`() => document.querySelectorAll('[data-table="messages"] .state.sent').length === 2`)
	p.clickOn("header nav a", "Register")
	p.click(`tr[data-student="Tolu Adeyemi"] th button`)
	p.see("[data-told] .sent", "Boots, Tolu")
	o := s.visit(t, "").signIn("office@kestrelquay.example")
	o.letterIn("tolu.adeyemi", "Boots, Tolu")
	o.see("[data-letter] .body", "Hello Tolu")
	link := *o.see("[data-letter] .body a", "/go/").MustAttribute("href")
	if !strings.HasPrefix(link, s.url+"/go/") {
		t.Fatalf("the link is %s", link)
	}
	q := s.visit(t, "").signIn("tolu.adeyemi@kestrelquay.example")
	q.open(strings.TrimPrefix(link, s.url))
	q.see("h1", "Adeyemi – Rock-pool field log")
	other := s.visit(t, "/api/links/").signIn("freja.angstrom@kestrelquay.example")
	other.open(strings.TrimPrefix(link, s.url))
	other.see("h1", "does not exist")
}

// A handout whose people are told says so in its sentence, in words of its teacher's own;
// when it is packed, each has a mail; one that failed goes again once its address is right.
func TestHandoutTells(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Boat Workshop 8A")
	p.clickOn("header nav a", "Handouts")
	p.clickOn("[data-handout]", "Knot card")
	p.unfold()
	p.choose(`[data-part="tell"]`, "when it is ready and when it changes")
	// The acts stand below the letter once it is there, and aren't pushed away by it.
	letGo := p.hold("*/messages/preview")
	p.clickOn(`[data-part="mail"]`, "see the email")
	p.el(`[data-form="mail"] [data-field="body"]`)
	if n := p.count(`[data-form="mail"] .acts`); n != 0 {
		t.Error("there are acts before the letter")
	}
	letGo()
	p.see("[data-letter] strong", "Boat Workshop 8A")
	p.el(`[data-form="mail"] .acts`)
	body := p.el(`[data-form="mail"] [data-field="body"]`)
	body.MustSelectAllText().MustInput("Dear [Given name],\n\nmind the [Knto]: [Link]")
	p.see("[data-letter] .body", "Dear ")
	p.see(`[data-form="mail"] .attention`, "[Knto]")
	p.press(input.Escape)
	p.page.MustReload()
	p.clickOn(`[data-part="mail"]`, "see the email")
	p.until(`() => document.querySelector('[data-form="mail"] [data-field="body"]')?.value.includes('[Knto]')`)
	p.clickOn(`[data-form="mail"] button`, "Back to the usual text")
	p.until(`() => document.querySelector('[data-form="mail"] [data-field="body"]')?.value.includes('Hello [Name]')`)
}

// Anyone who wants one mail a day has several messages in it, at their time, also from a program
// that was started meanwhile.
func TestOneMailADay(t *testing.T) {
	s := start(t, "-at", "2026-11-25T11:40:00Z")
	student := s.visit(t, ".").signIn("tolu.adeyemi@kestrelquay.example")
	student.open("/account")
	student.clickOn(`[data-form="notices"] label`, "One email a day")
	student.el(`[data-form="notices"] input[type="time"]`)
	p := s.visit(t, ".").at("staff-oduya", "Tide Watch 7B")
	p.click(`[data-act="choose"]`)
	p.click(`[data-choose="Tolu Adeyemi"]`)
	for _, subject := range []string{"Boots", "Buckets"} {
		p.click(`[data-act="write"]`)
		p.see("[data-letter] strong", "Tide Watch 7B")
		p.fill(`[data-field="subject"]`, subject)
		p.see("[data-letter] strong", subject)
		p.clickOn(`[data-act="send"]`, "Send one email")
		p.gone(`[data-form="message"]`)
	}
	s.stop()
	s.args = []string{"demo", "-at", "2026-11-25T17:00:00Z"} // the usual time of day is over
	s.run()
	o := s.visit(t, "").signIn("office@kestrelquay.example")
	o.letterIn("tolu.adeyemi", "2 things from Kestrel Quay School")
	o.see("[data-letter] .body", "Boots")
	o.see("[data-letter] .body", "Buckets")
}
