package e2e

import (
	"os"
	"strings"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
)

// accessible puts the page to the rules of WCAG 2.2 A and AA as the package axe-core (npm) checks
// them, or to one of them.
func (p *person) accessible(what, rule string) {
	p.t.Helper()
	if !p.page.MustEval(`() => 'axe' in window`).Bool() {
		source, err := os.ReadFile("../ui/node_modules/axe-core/axe.min.js")
		p.must(err, "axe-core, which is installed by make")
		_, err = p.page.Evaluate(rod.Eval("() => {" + string(source) + "}"))
		p.must(err, "axe-core")
	}
	found := p.page.MustEval(`async (rule) => {
		await document.fonts.ready
		await Promise.all(document.getAnimations().map((a) => a.finished.catch(() => {})))
		const r = await axe.run(document, {
			runOnly: rule ? [rule] : ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'],
			resultTypes: ['violations'], selectors: false, preload: false, // what a failure is told by
		})
		return r.violations.map((v) => v.id + ': ' + v.help + ' — ' + v.nodes.slice(0,
			3).map((n) => n.html.slice(0, 160) + ' [' + n.any.concat(n.all).map((a) => a.message).slice(0, 1).join() + ']').join(' | ')).join('\n')
	}`, rule).Str()
	if found != "" {
		p.t.Errorf("%s:\n%s", what, found)
	}
}

// What is opened on a page keeps to the rules too; the pages themselves are looked at in TestEveryPage.
func TestAccessible(t *testing.T) {
	s := start(t, "-at", "2026-11-25T11:40:00Z")
	p := s.visit(t, "")
	p.be("staff-oduya").see("article", "Tide Watch")
	p.enterClass("Tide Watch 7B")
	p.click(`tr[data-student="Aino Laine"] [data-state="stuck"]`)
	p.el(".panel")
	p.accessible("Register with the panel", "")
	part := func(name, ready string) {
		t.Helper()
		p.clickOn("header nav a", name)
		p.el(ready)
		p.accessible(name, "")
	}
	part("Handouts", `main a[href*="/handouts/"]`)
	p.click(`main a[href*="/handouts/"]`)
	p.click(`[data-part="who"]`)
	p.el("[data-in]")
	p.accessible("a handout with its choice", "")
	p.unfold()
	p.click(`[data-part="links"]`)
	p.el(`[data-form="links"] input`)
	p.click(`[data-part="document"]`)
	p.el(`[data-form="document"]`)
	p.click(`[data-act="stood"]`)
	p.el(`[data-form="stood"] li, [data-form="stood"] p`)
	p.accessible("a handout's document, and its list as it stood", "")
	part("Handouts", `main a[href*="/handouts/"]`)
	p.click(`[data-act="new-heading"]`)
	p.fill(`.heads input.called`, "Unit 1")
	p.press(input.Enter)
	p.see("[data-heading]", "Unit 1")
	p.accessible("headings", "")
	part("Register", "th.c")
	p.click(`[data-act="filter"]`)
	p.click(`[data-act="choose"]`)
	p.click("[data-choose]")
	p.el(`[data-form="chosen-acts"]`)
	p.accessible("chosen students", "")
	p.click(`[data-act="write"]`)
	p.el(`[data-form="message"] [data-letter]`)
	p.accessible("a message", "")
	p.click(`[data-act="send"]`)
	p.see("[data-told]", "on its way")
	p.click(`[data-act="notice-chosen"]`)
	p.el(`[data-form="notice"]`)
	p.accessible("a notice", "")
	part("Room", ".places")
	p.click(`[data-act="add-place"]`)
	p.el(`[data-form="place"]`)
	p.accessible("a place of the plan", "")
	p.clickOn(".ant-segmented-item", "Staff see")
	p.el(`[data-tree="staff"] li`)
	p.accessible("the tree", "")
	p.clickOn("header nav a", "Log")
	p.clickOn(".ant-segmented-item", "Emails")
	p.click(`[data-act="open"]`)
	p.accessible("what was told by mail", "")
	part("Roster", "[data-student]")
	for _, panel := range []string{"add", "teams", "history"} {
		p.click(`[data-panel="` + panel + `"]`)
		p.el(".panel h2")
		p.accessible("Roster, "+panel, "")
	}
	p.click(`[data-act="bring"]`)
	p.el(".paste")
	p.accessible("bringing a list", "")
	p.paste(".paste", strings.ReplaceAll(messyList, "Dahl", "Eriksen"))
	p.el("[data-kind]")
	p.looked("what changes", false)
	p.size(1280, 800)
	p.clickOn(".ant-segmented-item", "The list itself")
	p.el("td .cell")
	p.accessible("the list itself", "")

	part("Register", "th.c")

	office := s.visit(t, "").be("office")
	office.click(`[data-act="term"]`)
	office.click(`[data-act="ask-join"]`)
	office.accessible("all classes", "")
	office.open("/postroom").clickOn("li a", "Tide")
	office.el("[data-letter]")
	office.looked("a letter in the Postroom", false)
	office.size(1280, 800)
	office.open("/book").clickOn(`[data-account="tolu.adeyemi@kestrelquay.example"] button`, "Adeyemi")
	office.el(`[data-panel="account"]`)
	office.accessible("school book", "")
	office.click(`[data-act="book-list"]`)
	office.accessible("a list for the school book", "")
	office.open("/settings").click(`[data-act="words"]`)
	office.fill(`[data-field="service-issuer"]`, "https://id.school.example")
	office.fill(`[data-field="post-server"]`, "mail.school.example")
	office.accessible("settings", "")
	office.enterAsOffice("Boat Workshop 8A")
	office.click(`[data-act="staff"]`)
	office.el(`[data-form="staff"]`)
	office.accessible("staff", "")
}
