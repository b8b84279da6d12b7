//go:build screenshots

package e2e

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// newerList is a later list of Tide Watch 7B.
const newerList = "Student number,Surname,First,Email,Period,Set\n" +
	"70391,Adeyemi-Bello,Tolu,tolu.adeyemi@kestrelquay.example,3,A\n" +
	"70397,Bensaïd,Tariq,tariq.bensaid@kestrelquay.example,3,C\n" +
	"70400,Castellanos Ruiz,Inés,ines.castellanosruiz@kestrelquay.example,3,\n" +
	"70409,Ndlovu,Thandiwe,thandiwe.ndlovu@kestrelquay.example,3,A\n" +
	"70999,Marsh,Quill,quill.marsh@kestrelquay.example,3,A\n" +
	"80001,Ashdown,Wren,wren.ashdown@kestrelquay.example,3,B\n"

// TestScreenshots makes docs/screenshots from the demo data; make screenshots
// calls it with that tag and the folder's name.
func TestScreenshots(t *testing.T) {
	dir := os.Getenv("JOLLY_SCREENSHOTS")
	if dir == "" {
		t.Fatal("JOLLY_SCREENSHOTS names the folder for the pictures")
	}
	s := start(t, "-at", "2026-11-25T11:40:00Z")
	pic := func(p *person, name string) { p.shot(filepath.Join(dir, name+".png")) }

	teacher := s.visit(t, "")
	teacher.open("/sign-in").see("h2", "demo")
	pic(teacher, "sign-in")
	teacher.be("staff-oduya")
	teacher.see("article", "Tide Watch")
	pic(teacher, "today")
	teacher.click(`.peg[title="Tide Watch 7B"]`)
	teacher.click(`tr[data-student="Nokuthula Dube"] td:nth-of-type(2) button`)
	teacher.see(".panel h2", "Nokuthula")
	pic(teacher, "register")
	teacher.click(`[data-act="choose"]`)
	teacher.click(`[data-choose="Freja Ångström"]`)
	teacher.click(`[data-choose="Tariq Bensaïd"]`)
	teacher.click(`[data-act="write"]`)
	teacher.fill(`[data-form="message"] [data-field="subject"]`, "Boots on Friday, [Given name]")
	teacher.see("[data-letter] strong", "Boots on Friday, Freja")
	pic(teacher, "message")
	teacher.open("/").click(`.peg[title="Boat Workshop 8A"]`)
	teacher.click(`header nav a[href$="/handouts"]`)
	teacher.see(".one", "Chart-reading")
	teacher.click(`[data-act="new-heading"]`)
	teacher.fill(`.heads input.called`, "Unit 1: knots and ropes")
	teacher.press(input.Enter)
	teacher.page.MustEval(`() => document.querySelector('[aria-label^="Move Knot card"]').focus()`)
	for !teacher.page.MustEval(`() => !!document.querySelector('[data-heading^="Unit 1"] [data-handout="Knot card"]')`).Bool() {
		teacher.press(input.ArrowDown)
		teacher.until(`() => document.activeElement?.getAttribute('aria-label')?.startsWith('Move Knot card')`)
	}
	pic(teacher, "handouts")
	teacher.click(`.one.draft`)
	teacher.unfold()
	teacher.click(`[data-part="name"]`)
	teacher.see(".example", "For example")
	pic(teacher, "handout")
	teacher.open("/").click(`.peg[title="Tide Watch 7B"]`)
	teacher.click(`[data-act="new-handout"]`)
	teacher.write("Chart with a grid", "# Chart with a grid\n\nMark the wreck, the two lights and the ferry.\n")
	teacher.write("Chart without one", "# Chart without one\n\nPlot the ferry's course to the wreck.\n")
	teacher.choose(`[data-part="way"]`, "a copy each, by level")
	teacher.see(".say", "Levels from")
	teacher.choose(`select[aria-label="Level for Chart with a grid"]`, "level A")
	teacher.choose(`select[aria-label="Level for Chart without one"]`, "level B")
	teacher.see(`tr[data-section="needs-fixing"]`, "there is no document for level C")
	teacher.click(`[data-part="who"]`)
	teacher.choose(`[data-form="also-for"] select`, "Boat Workshop 8A")
	teacher.click(`[data-act="also-for"]`)
	teacher.see(`[data-member="8A"]`, "are in")
	pic(teacher, "by-level")
	teacher.open("/").click(`.peg[title="Tide Watch 7B"]`)
	teacher.click(`[data-act="new-handout"]`)
	teacher.write("Log book", "# Log book of [Given name] [Family name]\n\nBoat group: [Boat group]. Class: [Class].\n")
	teacher.clickOn(`[data-part="document"]`, "Log book")
	teacher.clickOn(`[data-form="filling"] summary`, "Preview this copy")
	teacher.see(`[data-form="filling"] article`, "Log book of")
	pic(teacher, "filled")
	teacher.open("/").click(`.peg[title="Boat Workshop 8A"]`)
	teacher.click(`header nav a[href$="/room"]`)
	teacher.see(".places", "Cloakroom")
	pic(teacher, "room")
	teacher.clickOn(".ant-segmented-item", "Staff see")
	teacher.see(`[data-tree="staff"] li`, "Crews")
	teacher.click(`[data-node="place"] .fold`)
	teacher.see(`[data-node="place"] [data-node="place"]`, "members can edit")
	teacher.click(`header nav a[href$="/doors"]`)
	teacher.see(`[data-part="proof"]`, "differences")
	pic(teacher, "doors")
	teacher.click(`header nav a[href$="/log"]`)
	teacher.see(`[data-table="log"]`, "due date")
	pic(teacher, "log")
	office := s.visit(t, "").be("office")
	office.see(`[data-class="Boat Workshop 8A"]`, "stuck")
	pic(office, "office")
	office.open("/book")
	office.clickOn(`[data-account="tolu.adeyemi@kestrelquay.example"] button`, "Adeyemi")
	office.see(`[data-panel="account"]`, "Switch off this account")
	pic(office, "school-book")
	teacher.open("/").click(`.peg[title="Harbour History 9D"]`)
	teacher.click(`header nav a[href$="/roster"]`)
	teacher.paste(".paste", messyList)
	teacher.see(".lead", "ready")
	pic(teacher, "roster")
	teacher.open("/").click(`.peg[title="Tide Watch 7B"]`)
	teacher.click(`header nav a[href$="/roster"]`)
	teacher.el("[data-student]")
	teacher.click(`[data-panel="teams"]`)
	teacher.click(`[data-act="deal"]`)
	teacher.el(`[data-team="A"]`)
	pic(teacher, "roster-grid")
	teacher.click(`[data-act="bring"]`)
	teacher.paste(".paste", newerList)
	teacher.el(`[data-kind="doubtful"]`)
	pic(teacher, "newer-list")

	student := s.visit(t, "")
	student.be("student-nokuthula.dube")
	student.see(".todo", "Rock-pool")
	pic(student, "student")
	student.click(`[data-copy="Barometer diary"] a`)
	student.see(".sheet", "Barometer")
	pic(student, "document")
	student.size(390, 844)
	student.open("/").see(".todo", "Rock-pool")
	pic(student, "student-phone")
}
