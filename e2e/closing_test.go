package e2e

import (
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
)

// Pens down by hand while a student writes: the copy can be read and not written in, what was typed too
// late is kept beside the copy: its writer sees it, and takes it in once pens are up again.
func TestPensDown(t *testing.T) {
	s := start(t)
	teacher := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	teacher.clickOn("main nav a", "Handouts")
	teacher.clickOn("[data-handout]", "Rock-pool field log")
	student := s.visit(t, "422.*/text").be("student-nokuthula.dube")
	student.clickOn(`[data-copy="Rock-pool field log"] a.btn`, "Carry on writing")
	student.el("[contenteditable]")
	write := func(text string) {
		t.Helper()
		student.click("[contenteditable]")
		student.press(input.End)
		student.must(student.page.InsertText(text), "write")
	}
	write("In time.")
	student.see(".doc .line", "Saved")

	teacher.click(`[data-act="pens-down"]`)
	teacher.see(`[data-part="pens"]`, "closed the copies")
	write("Too late.")
	student.see("[data-closing]", "closed this")
	student.see(`[data-part="late"] pre`, "Too late.")
	student.see("article.text", "In time.")
	student.gone("[contenteditable]")
	student.open("/").see(`[data-copy="Rock-pool field log"]`, "closed since")
	student.see(`[data-copy="Rock-pool field log"]`, "Read")

	teacher.click(`[data-act="pens-up"]`)
	teacher.see(`[data-act="pens-down"]`, "Close for 28 students now")
	student.open("/").clickOn(`[data-copy="Rock-pool field log"] a.btn`, "Carry on writing")
	student.clickOn(`[data-part="late"] button`, "Take it in")
	student.see("[contenteditable]", "Too late.")
	student.gone(`[data-part="late"]`)
	teacher.click(`[data-act="pens-down"]`)
	teacher.see(`[data-part="pens"]`, "closed the copies")
	teacher.clickOn("main nav a", "Register")
	teacher.see("thead th", "Rock-pool field log")
	teacher.see("thead small", "closed")
	teacher.clickOn("main nav a", "Log")
	teacher.see(`[data-table="log"]`, "closed Rock-pool field log for everyone")
	teacher.see(`[data-table="log"]`, "opened Rock-pool field log again for everyone")
}

// closesAtFive has the copies of the Rock-pool field log close when it is due, this Friday at 17:00.
func (p *person) closesAtFive() {
	p.t.Helper()
	p.clickOn("main nav a", "Handouts")
	p.clickOn("[data-handout]", "Rock-pool field log")
	p.click(`[data-part="due"]`)
	p.setTime(`.say input[type="datetime-local"]`, "2026-11-27T17:00")
	p.clickOn(".when button", "Done")
	p.choose(`[data-part="then"]`, "close")
	p.eventually(`() => fetch('/api' + location.pathname).then((r) => r.json()).then((h) => h.then === 'close')`)
}

// A handout whose copies close once it is due says so to its students, and nothing else has changed for them.
func TestClosesOnceDue(t *testing.T) {
	s := start(t, "-at", "2026-11-27T16:20:00Z")
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.closesAtFive()
	student := s.visit(t, "").be("student-nokuthula.dube")
	student.see(`[data-copy="Rock-pool field log"]`, "closes Fri 27 Nov, 17:00")
	file := func(p *person) string {
		t.Helper()
		href := *p.el(`[data-act="calendar"]`).MustAttribute("href")
		return p.call(`(href) => fetch(href).then((r) => r.text())`, href)
	}
	if text := file(student); !strings.Contains(text, "DTSTART:20261127T170000Z\r\nSUMMARY:Rock-pool field log is due") {
		t.Errorf("their calendar says %s", text)
	}
	student.clickOn(`[data-copy="Rock-pool field log"] a.btn`, "Carry on writing")
	student.see("[data-closing]", "minutes")
	student.el("[contenteditable]")

	p.clickOn("main nav a", "Handouts")
	if text := file(p); strings.Count(text, "BEGIN:VEVENT") != 3 {
		t.Errorf("the class's calendar says %s", text)
	}
	p.clickOn("[data-handout]", "Rock-pool field log")

	// Due before now it is closed.
	p.click(`[data-part="due"]`)
	p.setTime(`.say input[type="datetime-local"]`, "2026-11-27T16:00")
	p.see(".moves", "copies close now")
	p.clickOn(".when button", "Done")
	p.see(`[data-part="pens"]`, "closed by themselves")
	student.open("/").see(`[data-copy="Rock-pool field log"]`, "closed since Fri 27 Nov, 16:00")
	student.clickOn(`[data-copy="Rock-pool field log"] a.btn`, "Read")
	student.see("[data-closing]", "Closed since")
	student.gone("[contenteditable]")

	// Due later it is open again.
	p.click(`[data-part="due"]`)
	p.setTime(`.say input[type="datetime-local"]`, "2026-11-30T09:00")
	p.see(".moves", "closed copies open again")
	p.clickOn(".when button", "Done")
	p.see(`[data-act="pens-down"]`, "Close for")
	student.open("/").clickOn(`[data-copy="Rock-pool field log"] a.btn`, "Carry on writing")
	student.el("[contenteditable]")
}

// Chosen students get extra time, and are closed for alone: it is on their pages, and on nobody else's.
func TestExtraTimeForSome(t *testing.T) {
	s := start(t, "-at", "2026-11-27T16:20:00Z")
	p := s.visit(t, "422").at("staff-oduya", "Tide Watch 7B")
	p.closesAtFive()
	p.clickOn("main nav a", "Register")
	p.click(`[data-act="choose"]`)
	p.click(`[data-choose="Nokuthula Dube"]`)
	p.choose(`[data-form="chosen-acts"] select`, "Rock-pool field log")
	p.click(`[data-act="times-chosen"]`)
	p.see(`[data-form="times"]`, "Then copies close")

	p.setTime(`[data-form="times"] input`, "2026-11-27T16:30")
	p.click(`[data-act="give-extra"]`)
	p.see(`[data-form="times"]`, "Extra time ends after the due time")
	p.setTime(`[data-form="times"] input`, "2026-11-27T17:30")
	p.click(`[data-act="give-extra"]`)
	p.see("[data-told]", "One student has extra time")
	dube, wren := s.visit(t, "").be("student-nokuthula.dube"), s.visit(t, "").be("student-tariq.bensaid")
	dube.see(`[data-copy="Rock-pool field log"]`, "closes Fri 27 Nov, 17:30")
	wren.see(`[data-copy="Rock-pool field log"]`, "closes Fri 27 Nov, 17:00")

	p.click(`[data-act="pens-down-chosen"]`)
	p.see(`[data-act="pens-up-chosen"]`, "Open for one student again")
	dube.open("/").see(`[data-copy="Rock-pool field log"]`, "closed since")
	wren.open("/").see(`[data-copy="Rock-pool field log"]`, "closes Fri 27 Nov, 17:00")
	p.clickOn("main nav a", "Handouts")
	p.clickOn("[data-handout]", "Rock-pool field log")
	p.see(`[data-part="extra"]`, "Dube, Nokuthula until Fri 27 Nov, 17:30")
	p.see(`[data-part="pens"]`, "Closed for 1 of 28 students")
}

// Staff see what came too late, and take it in.
func TestLateTextIsTakenIn(t *testing.T) {
	s := start(t)
	teacher := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	register := teacher.page.MustInfo().URL[len(s.url):]
	teacher.clickOn("main nav a", "Handouts")
	teacher.clickOn("[data-handout]", "Rock-pool field log")
	student := s.visit(t, "422.*/text").be("student-nokuthula.dube")
	student.clickOn(`[data-copy="Rock-pool field log"] a.btn`, "Carry on writing")
	student.el("[contenteditable]")
	teacher.click(`[data-act="pens-down"]`)
	teacher.see(`[data-part="pens"]`, "closed the copies")
	student.click("[contenteditable]")
	student.press(input.End)
	student.must(student.page.InsertText("Two minutes late."), "write")
	student.see(`[data-part="late"]`, "Your teacher can see it")
	copied := student.page.MustInfo().URL[len(s.url):]
	student.gone(`[data-act="take-late"]`)

	teacher.open("/").clickOn(`[data-note="late-texts"] a`, "Read it")
	teacher.see("[data-closing]", "Closed for the student since")
	teacher.see(`[data-part="late"] h2`, "Text of Nokuthula Dube that came too late")
	teacher.click(`[data-act="take-late"]`)
	teacher.see("[contenteditable]", "Two minutes late.")
	teacher.gone(`[data-part="late"]`)
	student.open(copied).see("article.text", "Two minutes late.")

	// What a device that slept never sent goes beside the copy when its page is opened again.
	student.page.MustEval(`(id) => localStorage.setItem('satchel.draft.' + id, JSON.stringify({ text: 'Slept on.', base: 1, key: crypto.randomUUID() }))`,
		copied[len("/things/"):])
	student.open(copied).see(`[data-part="late"] pre`, "Slept on.")
	student.until(`() => !Object.keys(localStorage).some((k) => k.startsWith('satchel.draft.'))`)
	student.gone(`[data-part="leftover"]`)
	teacher.open(register+"/log").see(`[data-table="log"]`, "took text that came after closing into")
}

// Two windows of one browser and a device without a connection, as a copy closes: no text is lost, and each
// says where it is. What one window kept isn't taken for another's.
func TestWindowsAsItCloses(t *testing.T) {
	s := start(t)
	teacher := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	teacher.clickOn("main nav a", "Handouts")
	teacher.clickOn("[data-handout]", "Rock-pool field log")
	teacher.see(`[data-act="pens-down"]`, "Close for")
	const allow = "409|422|Failed to load|ERR_"
	first := s.visit(t, allow).be("student-nokuthula.dube")
	first.clickOn(`[data-copy="Rock-pool field log"] a.btn`, "Carry on writing")
	first.el("[contenteditable]")
	copied := first.page.MustInfo().URL[len(s.url):]
	second := s.window(t, first.page.Browser(), allow).open(copied)
	train := s.visit(t, allow).be("student-nokuthula.dube").open(copied)
	write := func(p *person, text string) {
		t.Helper()
		p.click("[contenteditable]")
		p.must(p.page.KeyActions().Press(input.ControlLeft).Type(input.End).Do(), "end")
		p.must(p.page.InsertText(text), "write")
	}
	offline := func(off bool) {
		t.Helper()
		train.must(proto.NetworkEmulateNetworkConditions{Offline: off, DownloadThroughput: -1, UploadThroughput: -1}.Call(train.page), "network")
	}
	second.el("[contenteditable]")
	train.el("[contenteditable]")
	offline(true)
	write(train, " From the train.")
	train.see(`.doc[data-state="offline"]`, "safe on this device")
	write(first, " From the first window.")
	first.see(`.doc[data-state="saved"]`, "Saved")
	write(second, " From the second window.")
	second.see(".both", "From the second window.")
	write(first, " And one line more.")
	teacher.click(`[data-act="pens-down"]`)
	teacher.see(`[data-part="pens"]`, "closed the copies")

	for _, p := range []*person{first, second} { // one that is come back to looks by itself, else it does so each half minute
		p.page.MustEval(`() => window.dispatchEvent(new Event('visibilitychange'))`)
		p.see("[data-closing]", "closed this")
	}
	second.see(`[data-part="late"]`, "From the second window.")
	offline(false)
	train.see(`[data-part="late"]`, "From the train.")
	train.see("[data-closing]", "closed this")
	teacher.open(copied).see(`[data-part="late"]`, "From the train.")
	for _, text := range []string{"From the first window.", "From the second window.", "And one line more.", "From the train."} {
		teacher.until(`(text) => document.querySelector('main').innerText.includes(text)`, text)
	}
	for _, p := range []*person{first, train} {
		p.until(`() => !Object.keys(localStorage).some((k) => k.startsWith('satchel.draft.'))`)
	}
}

// A satchel is closed from the panel and opened with the others from the list, the table in the room; the
// key goes to what closes. Extra time that always holds is on the panel, and in each handout.
func TestPlacesClosed(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.click(`[data-student="Nokuthula Dube"] th button`)
	p.click(`[data-act="close-satchel"]`)
	p.see(`[data-part="apart"]`, "closed this on")
	p.see(`[data-student="Nokuthula Dube"] [data-apart]`, "Closed for them by hand")
	p.click(`[data-act="always"]`)
	p.fill(`[data-field="always"]`, "50")
	p.click(`[data-act="give-always"]`)
	p.see(`[data-part="apart"]`, "Always 50 % extra time")
	student := s.visit(t, "").be("student-nokuthula.dube")
	student.see(`[data-satchel="Tide Watch 7B"]`, "closed since")
	student.see(`[data-copy="Rock-pool field log"]`, "Read")
	student.clickOn(`[data-satchel="Tide Watch 7B"] a`, "Tide Watch 7B")
	student.see("[data-closing]", "closed this")
	student.gone(`input[type="file"]`)

	p.press(input.Escape)
	p.press(input.KeyC) // with the newest handout, for all
	p.see(`[data-form="times"]`, "Close for")
	p.click(`[data-act="choose"]`)
	p.click(`[data-act="choose"]`)
	p.click(`[data-act="choose-all"]`)
	p.click(`[data-act="open-satchels"]`)
	p.see("[data-told]", "Open for 28 students")
	student.open("/").see(`[data-copy="Rock-pool field log"]`, "Carry on writing")
	p.clickOn("main nav a", "Room")
	p.click(`[data-place="Table"] [data-act="close-place"]`)
	p.see(`[data-place="Table"]`, "Closed since")
	student.open("/").see(".side", "closed since")
	p.click(`[data-place="Table"] [data-act="open-place"]`)
	p.see(`[data-place="Table"] [data-act="close-place"]`, "Close for writing")
	p.clickOn("main nav a", "Handouts")
	p.clickOn("[data-handout]", "Rock-pool field log")
	p.see(`[data-part="extra"]`, "as always")
	p.press(input.KeyC)
	p.until(`() => document.activeElement?.dataset.act === 'pens-down'`)
	p.clickOn("main nav a", "Log")
	p.see(`[data-table="log"]`, "gave one student extra time in every handout")
	p.see(`[data-table="log"]`, "closed Table for everyone")
}
