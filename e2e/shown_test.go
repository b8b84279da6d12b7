package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// A student asks for a look at a draft and writes on; the teacher is told on Today, sees it in the
// Register, looks at it as it was, and the student sees by whom; all copies are saved as they are now.
func TestAskForALook(t *testing.T) {
	s := start(t)
	student := s.visit(t, "").be("student-nokuthula.dube")
	student.clickOn(`[data-copy="Rock-pool field log"] a.btn`, "Carry on writing")
	student.el("[contenteditable]")
	student.click(`[data-act="show-draft"]`)
	student.typeIn(`[data-field="word"]`, "Is my table right?")
	student.click(`[data-act="show-now"]`)
	student.see(`[data-part="shown"]`, "Nobody has looked yet")
	student.click("[contenteditable]")
	student.press(input.End)
	student.must(student.page.InsertText(" Two words"), "write")
	student.see(".doc .line", "Saved")

	p := s.visit(t, "").be("staff-oduya")
	p.see("main", "asks you to look at a draft")
	p.clickOn("nav a", "Tide Watch")
	p.see(`[data-student="Nokuthula Dube"] .shown.wait`, "asks for a look")
	p.click(`[data-student="Nokuthula Dube"] .cell:has(.shown)`)
	p.see(`[data-part="panel-shown"]`, "Is my table right?")
	p.clickOn(`[data-part="panel-shown"] a`, "Look at it")
	p.see(`[data-part="shown"]`, "words more since")
	p.click(`[data-act="look-at"]`)
	p.see(`[data-part="looked-at"]`, "Rock")
	p.see(`[data-part="shown"]`, "Ifeoma Oduya looked at it")
	student.must(student.page.Reload(), "reload")
	student.see(`[data-part="shown"]`, "Ifeoma Oduya looked at it")

	p.open("/")
	p.at("staff-oduya", "Tide Watch 7B")
	p.clickOn("main nav a", "Handouts")
	p.clickOn("[data-handout]", "Knot card")
	p.click(`[data-act="show-all"]`)
	p.see("[data-told]", "copies saved")
	p.click(`[data-act="show-at"]`)
	p.click(`[data-act="show-at-say"]`)
	p.see(`[data-part="show"]`, "Save all copies as they are at")
}
