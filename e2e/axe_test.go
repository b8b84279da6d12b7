package e2e

import (
	"os"
	"strings"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
)

// accessible puts the page to the rules of WCAG 2.2 A and AA as the package
// axe-core (npm) checks them.
func (p *person) accessible(what, source string) {
	p.t.Helper()
	if !p.page.MustEval(`() => 'axe' in window`).Bool() {
		_, err := p.page.Evaluate(rod.Eval("() => {" + source + "}"))
		p.must(err, "axe-core")
	}
	found := p.page.MustEval(`async () => {
		await document.fonts.ready
		const r = await axe.run(document, {
			runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'],
			resultTypes: ['violations'], selectors: false, preload: false, // what a failure is told by
		})
		return r.violations.map((v) => v.id + ': ' + v.help + ' — ' + v.nodes.slice(0,
			3).map((n) => n.html.slice(0, 160) + ' [' + n.any.concat(n.all).map((a) => a.message).slice(0, 1).join() + ']').join(' | ')).join('\n')
	}`).Str()
	if found != "" {
		p.t.Errorf("%s:\n%s", what, found)
	}
}

func TestAccessible(t *testing.T) {
	b, err := os.ReadFile("../ui/node_modules/axe-core/axe.min.js")
	if err != nil {
		t.Fatal("axe-core is installed by make: ", err)
	}
	source := string(b)
	s := start(t, "-at", "2026-11-25T11:40:00Z")
	p := s.visit(t, "")
	p.open("/sign-in").el("[data-person]")
	p.accessible("sign-in", source)
	p.be("staff-oduya").see("article", "Tide Watch")
	p.accessible("Today", source)
	p.enterClass("Tide Watch 7B")
	p.click(`tr[data-student="Quill Marsh"] [data-state="stuck"]`)
	p.el(".panel")
	p.accessible("Register with the panel", source)
	part := func(name, ready string) {
		t.Helper()
		p.clickOn("header nav a", name)
		p.el(ready)
		p.accessible(name, source)
	}
	part("Handouts", `main a[href*="/handouts/"]`)
	p.click(`main a[href*="/handouts/"]`)
	p.click(`[data-part="who"]`)
	p.el("[data-in]")
	p.accessible("a handout with its choice", source)
	p.unfold()
	p.click(`[data-part="links"]`)
	p.el(`[data-form="links"] input`)
	p.click(`[data-part="document"]`)
	p.el(`[data-form="document"]`)
	p.click(`[data-act="stood"]`)
	p.el(`[data-form="stood"] li, [data-form="stood"] p`)
	p.accessible("a handout's document, and its list as it stood", source)
	part("Handouts", `main a[href*="/handouts/"]`)
	p.click(`[data-act="new-heading"]`)
	p.fill(`.heads input.called`, "Unit 1")
	p.press(input.Enter)
	p.see("[data-heading]", "Unit 1")
	p.accessible("headings", source)
	part("Register", "th.c")
	p.click(`[data-act="filter"]`)
	p.click(`[data-act="choose"]`)
	p.click("[data-choose]")
	p.el(`[data-form="chosen-acts"]`)
	p.accessible("chosen students", source)
	p.click(`[data-act="write"]`)
	p.el(`[data-form="message"] [data-letter]`)
	p.accessible("a message", source)
	p.click(`[data-act="send"]`)
	p.see(".ant-notification", "on its way")
	p.click(`[data-act="notice-chosen"]`)
	p.el(`[data-form="notice"]`)
	p.accessible("a notice", source)
	part("Room", ".places")
	p.click(`[data-act="add-place"]`)
	p.el(`[data-form="place"]`)
	p.accessible("a place of the plan", source)
	p.clickOn(".ant-segmented-item", "Staff see")
	p.el(`[data-tree="staff"] li`)
	p.accessible("the tree", source)
	part("Doors", `[data-table="links"] td`)
	part("Log", `[data-table="log"] td`)
	p.clickOn(".ant-segmented-item", "Emails")
	p.click(`[data-act="open"]`)
	p.accessible("what was told by mail", source)
	part("Roster", "[data-student]")
	for _, panel := range []string{"add", "teams", "history"} {
		p.click(`[data-panel="` + panel + `"]`)
		p.el(".panel h2")
		p.accessible("Roster, "+panel, source)
	}
	p.click(`[data-act="bring"]`)
	p.el(".paste")
	p.accessible("bringing a list", source)
	p.paste(".paste", strings.ReplaceAll(messyList, "Dahl", "Eriksen"))
	p.el("[data-kind]")
	p.accessible("what changes", source)
	p.clickOn(".ant-segmented-item", "The list itself")
	p.el("td .cell")
	p.accessible("the list itself", source)

	part("Register", "th.c")
	p.click(`tr[data-student="Nokuthula Dube"] th button`)
	p.click(`[data-act="eyes"]`)
	p.see("[data-eyes]", "Nokuthula")
	p.accessible("a student's eyes", source)

	office := s.visit(t, "").be("office")
	office.click(`[data-act="term"]`)
	office.click(`[data-act="ask-join"]`)
	office.accessible("all classes", source)
	office.open("/postroom").clickOn("li a", "Tide")
	office.el("[data-letter]")
	office.accessible("the Postroom", source)
	office.open("/book").clickOn(`[data-account="tolu.adeyemi@kestrelquay.example"] button`, "Adeyemi")
	office.el(`[data-panel="account"]`)
	office.accessible("school book", source)
	office.click(`[data-act="book-list"]`)
	office.accessible("a list for the school book", source)
	office.open("/settings").click(`[data-act="words"]`)
	office.fill(`[data-field="service-issuer"]`, "https://id.school.example")
	office.fill(`[data-field="post-server"]`, "mail.school.example")
	office.accessible("settings", source)
	office.open("/account").see("h1", "My account")
	office.accessible("own account", source)
	office.enterAsOffice("Boat Workshop 8A")
	office.click(`[data-act="staff"]`)
	office.el(`[data-form="staff"]`)
	office.accessible("staff", source)
	student := s.visit(t, "").be("student-nokuthula.dube")
	student.el("[data-satchel]")
	student.accessible("the student's home", source)
	student.click(`[data-copy="Rock-pool field log"] a`)
	student.see(".sheet h1", "Rock-pool")
	student.accessible("a document", source)
}
