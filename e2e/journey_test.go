package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"jollysatchel/internal/demo"
)

func (p *person) enterClass(name string) {
	p.t.Helper()
	p.click(`.peg[title="` + name + `"]`)
	p.see("#page-title", name)
}

// TestMainJob is the outcome of the whole thing: from a pasted class list to
// private satchels and personal copies; students find exactly their own.
func TestMainJob(t *testing.T) {
	s := start(t)
	teacher := s.visit(t, "").be("staff-oduya")
	teacher.enterClass("Harbour History 9D")
	teacher.click(`header nav a[href$="/roster"]`)

	acts := 0
	act := func(do func()) { do(); acts++ }
	act(func() { teacher.paste(".paste", strings.ReplaceAll(demo.HistoryList(), ",", "\t")) })
	teacher.see(".lead", "28 students are ready")
	act(func() { teacher.click(`[data-act="accept"]`) })
	teacher.see(".places", "Cloakroom") // the room comes by itself
	act(func() { teacher.click(`[data-act="pack"]`) })
	teacher.see(".note", "28 of 28 satchels are shared")
	if acts > 5 {
		t.Errorf("from paste to packed and shared took %d acts", acts)
	}
	teacher.gone(`[data-act="top-up"]`)
	teacher.gone(`[data-run-state="packing"]`)

	// A handout, by keyboard: n, a document written on the spot, p.
	teacher.press('n')
	teacher.click(`[data-part="template"]`)
	teacher.click(`[data-act="write-template"]`)
	teacher.must(teacher.el(`[data-form="templates"] input`).Input("Rope and tide"), "name")
	teacher.must(teacher.el(`[data-form="templates"] textarea`).Input("# Rope and tide\n\nWhat did the rope walk make?\n"), "text")
	teacher.clickOn(`[data-form="templates"] button`, "Use this document")
	teacher.see(`[data-act="pack"]`, "Pack 28 copies")
	teacher.see(`tr[data-section="to-pack"]`, "2 Amini – Rope and tide")
	teacher.press('p')
	teacher.see("th.c", "Rope and tide")
	teacher.until(`() => document.querySelectorAll('tbody td:nth-of-type(2) [data-state="shared"]').length === 28`)

	// One student: exactly the own things.
	wren := s.visit(t, "").be("student-wren.ashdown")
	wren.see(`[data-copy="Rope and tide"]`, "Harbour History 9D")
	if n := wren.count("[data-satchel]"); n != 1 {
		t.Errorf("%d satchels", n)
	}
	if text := wren.el("main").MustText(); strings.Contains(text, "Calloway") || strings.Contains(text, "Amini") {
		t.Errorf("a classmate is named: %s", text)
	}
	wren.click(`[data-copy="Rope and tide"] a`)
	wren.see(".sheet h1", "Rope and tide")
	if s := wren.el(".doc").MustAttribute("data-state"); *s != "still" {
		t.Errorf("before anything is written the state is %s", *s)
	}
	wren.click(".sheet")
	wren.must(wren.page.KeyActions().Press(input.ControlLeft).Type(input.End).Do(), "end")
	wren.must(wren.page.InsertText(" It made long ropes for the ferries."), "write")
	wren.see(`.doc[data-state="saved"]`, "Saved")
	copyPath := wren.page.MustInfo().URL
	wren.open("/")
	file := filepath.Join(t.TempDir(), "rope walk.txt")
	if err := os.WriteFile(file, []byte("a drawing in words"), 0o644); err != nil {
		t.Fatal(err)
	}
	wren.must(wren.el(`[data-satchel] input[type=file]`).SetFiles([]string{file}), "file")
	wren.see("[data-satchel]", "you added one thing")

	// The Register shows both.
	row := `tr[data-student="Wren Ashdown"]`
	teacher.el(row + ` td:nth-of-type(2) [data-state="working"]`)
	teacher.el(row + ` td:nth-of-type(1) svg[aria-label="shared, one thing added"]`)
	teacher.click(row + ` td:nth-of-type(2) button`)
	teacher.see(".panel", "7 words since it was given")
	teacher.see(".panel", "Classmates, link")
	teacher.press(input.ArrowLeft)
	teacher.see(".panel", "rope walk.txt")
	teacher.press(input.Escape)
	teacher.gone(".panel")

	// Another student with the link: a polite refusal, the same as for nothing.
	other := s.visit(t, `^404 .*/api/things/`).be("student-tariq.bensaid")
	path := strings.TrimPrefix(copyPath, s.url)
	refusal := other.open(path).see("main", "This page does not exist for you").MustText()
	none := other.open("/things/0198a0c0-0000-7000-8000-000000000000").see("main", "This page does not exist for you").MustText()
	if refusal != none || strings.Contains(refusal, "Ashdown") {
		t.Errorf("not yours: %q; not there: %q", refusal, none)
	}
	other.open("/classes/whatever").see("main", "This page does not exist for you")
}

// A list with the troubles lists have, mended on screen.
func TestMessyList(t *testing.T) {
	s := start(t)
	p := s.visit(t, `^422 .*/draft`).at("staff-oduya", "Harbour History 9D")
	p.click(`header nav a[href$="/roster"]`)
	for text, says := range map[string]string{"a\t\"b\nc": "never closed", "\x01\x02\x03 not a list": "not a table of text"} {
		p.paste(".paste", text)
		p.see("[data-problem]", says)
		p.see("[data-problem]", "Nothing has changed")
		p.must(p.el(".paste").SelectAllText(), "select")
		p.must(p.el(".paste").Input(""), "clear")
		p.press(input.Backspace)
	}
	p.paste(".paste", messyList)
	p.see(".lead", "13 students are ready")
	p.see(".lead", "2 rows left out")
	p.click(`[data-finding="address-malformed"] .acts button`)
	p.gone(`[data-finding="address-malformed"]`)
	p.click(`[data-finding="account-unknown"] .acts button`)
	p.gone(`[data-finding="account-unknown"]`)
	p.click(`[data-finding="student-twice"] .where`) // to the cell, and type there
	p.must(p.el("input.edit").SelectAllText(), "select")
	p.must(p.el("input.edit").Input("70648"), "type")
	p.press(input.Enter)
	p.see(`[data-finding="address-malformed"], [data-finding="student-twice"], [data-finding="address-twice"]`, "Calloway")
	p.click(`[data-finding] .acts button`)
	// It survives leaving the page.
	p.open("/").see("article", "Harbour History")
	p.enterClass("Harbour History 9D")
	p.click(`header nav a[href$="/roster"]`)
	p.see(".lead", "14 students are ready")
	p.click(`[data-act="accept"]`)
	p.see(`[data-count="to-pack"]`, "14")
	// One student's eyes see three places and nobody else.
	p.clickOn(".ant-segmented-item", "A student sees")
	tree := p.see(`[data-tree="student"]`, "Shelf").MustText()
	if strings.Contains(tree, "Drawer") || strings.Contains(tree, "Cloakroom") ||
		!strings.Contains(tree, "Ashdown, Wren") || strings.Contains(tree, "Calloway") {
		t.Errorf("a student sees %s", tree)
	}
}

// A stuck line says why, is mended where it stands, and only it is packed.
func TestStuckLine(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.click(`tr[data-student="Aino Laine"] [data-state="stuck"]`)
	p.see(".panel", "amara.abiodun@kestrelquay.example belongs to Amara Abiodun")
	p.must(p.el(".panel .fix input").SelectAllText(), "select")
	p.must(p.el(".panel .fix input").Input("aino.laine@kestrelquay.example"), "type")
	p.clickOn(".panel .fix button", "Fix and pack")
	p.until(`() => document.querySelectorAll('tr[data-student="Aino Laine"] [data-state="shared"]').length === 4`)
	p.gone(`[data-state="stuck"]`)

	// What the others lack still waits; a top-up shows it before it is packed.
	p.see(".note", "26 of 28 satchels are shared")
	p.press(input.Escape)
	p.press('t')
	p.see(`[data-panel="top-up"]`, "Only these are made and shared")
	p.until(`() => document.querySelectorAll('[data-missing]').length === 1`) // the newcomer; of the places everybody has what they should
	p.see(`[data-missing]:last-child`, "Satchel")
	p.until(`() => document.activeElement.dataset.act === 'pack-missing'`)
	p.press(input.Enter)
	p.see(".note", "27 of 28 satchels are shared")
	p.gone(`[data-panel="top-up"], [data-act="top-up"], [data-state="not-made"]`)
}

// One whom the school doesn't know yet has everything made, and it waits; once the address is right, access follows by
// itself, nothing is packed by hand, and nothing is made again.
func TestWaitsForAddress(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	waits := `tr[data-student="Quill Marsh"] [data-state="waits"]`
	p.see(`[data-note="waiting"]`, "Quill Marsh: the School book has no account for quil.marsh@kestrelquay.example")
	if n := p.count(waits); n != 4 {
		t.Errorf("%d things wait, want a satchel and three copies", n)
	}
	p.clickOn("header nav a", "Room")
	p.see(`[data-count="waits"]`, "1")
	p.clickOn("header nav a", "Roster")
	p.clickOn(`tr[data-student="Quill Marsh"] button`, "quill.marsh@…")
	p.gone(`tr[data-student="Quill Marsh"] .mend`)
	p.click("header nav a")
	p.until(`() => document.querySelectorAll('tr[data-student="Quill Marsh"] [data-state="shared"]').length === 4`)
	p.gone(`[data-note="waiting"]`)
	q := s.visit(t, "").signIn("quill.marsh@kestrelquay.example")
	q.see("[data-satchel]", "Tide Watch 7B")
	q.see("main", "Rock-pool field log")
}

// The whole room is packed the week before, and opened by hand: first to one, then to all. Until then students are told that
// it isn't open, and see nothing of it.
func TestOpensLater(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Harbour History 9D")
	p.click(`header nav a[href$="/roster"]`)
	p.paste(".paste", strings.ReplaceAll(demo.HistoryList(), ",", "\t"))
	p.click(`[data-act="accept"]`)
	p.click(`[data-act="open-later"]`)
	p.click(`[data-act="by-hand"]`)
	p.see("[data-opening]", "When you open it")
	p.click(`[data-act="pack"]`)
	p.see(`[data-note="opens"]`, "Students get access when you open it")
	p.until(`() => document.querySelectorAll('tbody [data-state="waits"]').length === 28`)
	q := s.visit(t, "").be("student-wren.ashdown")
	q.see("main", "Harbour History 9D is not open yet")
	if n := q.count("[data-satchel]"); n != 0 {
		t.Errorf("a student sees %d satchels before", n)
	}
	p.click(`[data-act="choose"]`)
	p.click(`[data-choose="Wren Ashdown"]`)
	p.click(`[data-act="open-chosen"]`)
	p.until(`() => document.querySelectorAll('tbody [data-state="shared"]').length === 1`)
	p.press(input.Escape)
	q.must(q.page.Reload(), "reload")
	q.see("[data-satchel]", "Harbour History 9D")
	p.click(`[data-act="open-class"]`)
	p.see(".note", "28 of 28 satchels are shared")
	p.gone(`[data-note="opens"]`)
}

// What is stuck is mended on the page of what it is about, also after a reload,
// and packed alone. A run that ended while its teacher looked elsewhere is told.
func TestMendedOnItsPage(t *testing.T) {
	s := startWith(t, []string{"JOLLY_WEATHER=delay=200ms"})
	p := s.visit(t, `^422 `).at("staff-oduya", "Tide Watch 7B")
	p.click(`header nav a[href$="/handouts"]`)
	p.click(`a[data-handout="Rock-pool field log"]`)
	line := `[data-section="needs-fixing"]`
	p.see(line, "Laine, Aino")
	p.must(p.page.Reload(), "reload")
	p.must(p.el(line+" input").SelectAllText(), "select")
	p.must(p.el(line+" input").Input("quill@elsewhere"), "type")
	p.click(line + ` [data-act="fix"]`)
	p.see(line+" [role=alert]", "no account for quill@elsewhere")
	p.must(p.el(line+" input").SelectAllText(), "select")
	p.must(p.el(line+" input").Input("aino.laine@kestrelquay.example"), "type")
	p.click(line + ` [data-act="fix"]`)
	p.gone(line)
	p.see(`[data-count="to-pack"]`, "1") // the newcomer's, which nobody asked for
	p.gone(`[data-run-state="packing"]`)

	// It is packed when its teacher is elsewhere already, however fast that is.
	page := strings.Split(strings.TrimPrefix(p.page.MustInfo().URL, s.url+"/classes/"), "/")
	p.click(".today")
	p.see("article", "Tide Watch 7B")
	p.page.MustEval(`async (url) => {
		const seen = (await (await fetch(url)).json()).list.digest
		const r = await fetch(url + '/pack', { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ seen }) })
		if (!r.ok) throw new Error(r.status)
	}`, s.url+"/api/classes/"+page[0]+"/handouts/"+page[2])
	p.see("[data-told]", "Tide Watch 7B: Rock-pool field log is packed.")
}

// The rail holds the place where a class is added; nothing covers the work.
func TestHangUp(t *testing.T) {
	s := start(t)
	p := s.visit(t, `^422 `).be("staff-oduya")
	p.see("h1", "Good")
	p.click(`[data-act="add-class"]`)
	p.until(`() => document.activeElement.id === 'class-name'`)
	p.press(input.Enter)
	p.see(`[data-part="new-class"]`, "Something is missing here")
	p.press(input.Escape)
	p.gone(`[data-part="new-class"]`)
	p.click(`[data-act="add-class"]`)
	p.must(p.el("#class-name").Input("Rope Walk 6C"), "name")
	p.press(input.Enter)
	p.see("#page-title", "Rope Walk 6C")
	p.see(`.peg[title="Rope Walk 6C"]`, "6C")
	p.gone(`[data-part="new-class"]`)
	// Called otherwise, in short too; where it was packed that is a line to change.
	p.click(`.peg[title="Boat Workshop 8A"]`)
	p.see("#page-title", "Boat Workshop 8A")
	p.clickOn(`[data-act="name-class"]`, "Edit")
	p.fill(`[data-form="class-name"] [data-field="name"]`, "Boats and Ropes")
	p.fill(`[data-form="class-name"] [data-field="code"]`, "")
	p.press(input.Enter)
	p.see(`.peg[title="Boats and Ropes"]`, "BAR")
	p.clickOn("header nav a", "Room")
	p.see(`tr[data-section="to-change"]`, "new name BAR Boats and Ropes")
}

// What was typed and couldn't be sent before a document was closed stays on the device, and is
// shown where the document is opened, until its writer has done with it.
func TestTypedBeforeItClosed(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").be("student-nokuthula.dube")
	id := p.call(`async () => {
		const get = async (u) => (await fetch('/api' + u)).json()
		const tide = (await get('/home')).classes.find((c) => c.name === 'Tide Watch 7B')
		const found = (await get('/things/' + tide.shelf)).children.find((c) => c.name.startsWith('How we mark'))
		localStorage.setItem('satchel.draft.' + found.id, JSON.stringify({ text: 'Typed in a tunnel.', base: 1, key: 'a key of a write' }))
		return found.id
	}`)
	p.open("/things/" + id)
	p.see(".doc", "You can read this")
	p.see(`[data-part="leftover"]`, "Typed in a tunnel.")
	p.open("/").open("/things/" + id)
	p.see(`[data-part="leftover"]`, "Typed in a tunnel.")
	p.click(`[data-act="drop-leftover"]`)
	p.gone(`[data-part="leftover"]`)
	p.open("/").open("/things/" + id)
	p.see(".doc", "You can read this")
	p.gone(`[data-part="leftover"]`)
}

// Two windows, then a lost connection: no text is lost.
func TestNoTextIsLost(t *testing.T) {
	s := start(t)
	first := s.visit(t, `^409 |Failed to load|^console: .*ERR_`).be("student-nokuthula.dube")
	first.click(`[data-copy="Rock-pool field log"] a`)
	first.see(".sheet h1", "Rock-pool")
	second := s.visit(t, `^409 `).be("student-nokuthula.dube")
	second.click(`[data-copy="Rock-pool field log"] a`)
	second.see(".sheet h1", "Rock-pool")
	write := func(p *person, text string) {
		p.click(".sheet")
		p.must(p.page.KeyActions().Press(input.ControlLeft).Type(input.End).Do(), "end")
		p.must(p.page.InsertText(text), "write")
	}
	write(first, " From the first window.")
	first.see(`.doc[data-state="saved"]`, "Saved")
	write(second, " From the second window.")
	second.see(".both", "From the first window.")
	second.see(".both", "From the second window.")
	second.click(`[data-act="keep-both"]`)
	second.see(`.doc[data-state="saved"] .sheet`, "From the first window.")
	second.see(".sheet", "From the second window.")

	// Anyone who goes on with the other text keeps their own among the earlier states.
	first.open(strings.TrimPrefix(first.page.MustInfo().URL, s.url)).see(".sheet", "second window")
	write(first, " Then the first again.")
	first.see(`.doc[data-state="saved"]`, "Saved")
	write(second, " Dropped for theirs.")
	second.see(".both", "Then the first again.")
	second.click(`[data-act="keep-theirs"]`)
	second.see(`.doc[data-state="saved"] .sheet`, "Then the first again.")
	thing := strings.TrimPrefix(second.page.MustInfo().URL, s.url+"/things/")
	all := second.page.MustEval(`(id) => fetch('/api/things/' + id + '/versions').then((r) => r.json()).then((vs) => Promise.all(vs.map((v) => fetch('/api/things/' + id + '/content?version=' + v.number).then((r) => r.text())))).then((texts) => texts.join('\n=====\n'))`, thing).Str()
	if texts := strings.Split(all, "\n=====\n"); !strings.Contains(all, "Dropped for theirs.") ||
		strings.Contains(texts[0], "Dropped for theirs.") || !strings.Contains(texts[0], "Then the first again.") {
		t.Errorf("the states of the document are %s", all)
	}

	// The connection is lost: what is typed is kept on the device and sent later.
	first.open(strings.TrimPrefix(first.page.MustInfo().URL, s.url)).see(".sheet", "second window")
	offline := func(off bool) {
		first.must(proto.NetworkEmulateNetworkConditions{Offline: off, DownloadThroughput: -1, UploadThroughput: -1}.Call(first.page), "network")
	}
	offline(true)
	write(first, " Written without a connection.")
	first.see(`.doc[data-state="offline"]`, "safe on this device")
	if kept := first.page.MustEval(`() => JSON.stringify(localStorage)`).Str(); !strings.Contains(kept, "Written without a connection") {
		t.Errorf("the device keeps %s", kept)
	}
	offline(false)
	first.see(`.doc[data-state="saved"]`, "Saved")
	second.open(strings.TrimPrefix(first.page.MustInfo().URL, s.url)).see(".sheet", "Written without a connection.")
	// Every state is kept: as it was handed out, and each since.
	second.clickOn(".line button", "Earlier versions")
	second.clickOn(".versions li:last-child button", "as you got it")
	text := second.see(".versions .sheet", "Rock-pool").MustText()
	if strings.Contains(text, "window") {
		t.Errorf("as it was handed out: %s", text)
	}
	// Signing out leaves nothing on the device.
	first.click(`[data-act="account"]`)
	first.click(`[data-act="sign-out"]`)
	first.see("h1", "Good to see you")
	if kept := first.page.MustEval(`() => JSON.stringify(localStorage)`).Str(); strings.Contains(kept, "satchel") {
		t.Errorf("after signing out the device keeps %s", kept)
	}
}

// Whatever is typed stands, however fast somebody goes on to another field, to
// another page, to Pack, or loads the page again.
func TestNoTypingIsLost(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Boat Workshop 8A")
	p.click(`[data-act="new-handout"]`)
	p.click(`[data-part="template"]`)
	p.clickOn("[data-template]", "Chart-reading sheet")
	p.see(`[data-act="pack"]`, "Pack 31 copies")
	// type opens fields and types into them, as fast as a page can follow, and
	// ends with a click.
	enter := func(end string, parts ...string) {
		t.Helper()
		p.page.MustEval(`async (end, parts) => {
			const next = () => new Promise((done) => setTimeout(done))
			for (let i = 0; i < parts.length; i += 2) {
				document.querySelector('[data-part="' + parts[i] + '"]').click()
				const there = () => document.querySelector(parts[i] === 'message' ? '.say textarea' : '.say p input')
				while (!there()) await next()
				there().focus()
				document.execCommand('selectAll')
				document.execCommand('insertText', false, parts[i + 1])
				await next()
			}
			if (end) document.querySelector(end).click()
		}`, end, parts)
	}
	handout := p.page.MustInfo().URL
	p.unfold()
	// Two fields, and away to another page.
	enter(`header nav a[href$="/roster"]`, "title", "Chart reading, first part", "message", "Bring a pencil")
	p.el("tr[data-student]")
	p.open(strings.TrimPrefix(handout, s.url))
	p.see(`[data-part="title"]`, "Chart reading, first part")
	p.see(`[data-part="message"]`, "Bring a pencil")
	// A field, and the window is loaded again.
	enter("", "title", "Chart reading, second part")
	p.must(p.page.Reload(), "reload")
	p.see(`[data-part="title"]`, "Chart reading, second part")
	// Two fields, and Pack: what is packed is the sentence as it stands.
	enter(`[data-act="pack"]`, "message", "Bring a ruler", "title", "Chart reading, third part")
	p.see("th.c", "Chart reading, third part")
	p.until(`() => document.querySelectorAll('tbody td:nth-of-type(3) [data-state="shared"]').length >= 29`)
	p.open(strings.TrimPrefix(handout, s.url))
	p.see(`tr[data-section="already-there"]`, "Chart reading, third part")
	p.see(`[data-part="message"]`, "Bring a ruler")
	// The room's pattern, typed and left at once.
	p.clickOn("header nav a", "Room")
	p.clickOn(".u", "Abiodun")
	p.page.MustEval(`() => { const f = document.querySelector('.pop input'); f.focus(); document.execCommand('insertText', false, 'Crew '); document.querySelector('header nav a[href$="/roster"]').click() }`)
	p.el("tr[data-student]")
	p.clickOn("header nav a", "Room")
	p.see(".u", "Crew Abiodun")
}

// Signing in with address and password; a wrong one is told at its place.
func TestSignIn(t *testing.T) {
	s := start(t)
	p := s.visit(t, `^401 `)
	p.open("/")
	p.must(p.el("#address").Input("ifeoma.oduya@kestrelquay.example"), "address")
	p.must(p.el("#password").Input("wrong"), "password")
	p.press(input.Enter)
	p.see("[role=alert]", "do not match")
	p.must(p.el("#password").Input(demo.Password), "password")
	p.press(input.Enter)
	p.see("h1", "Ifeoma")
	// The office sees every class's list and Register, and no satchel.
	office := s.visit(t, "").open("/sign-in")
	office.click(`[data-person="office"]`)
	office.until(`() => location.pathname !== '/sign-in'`)
	office.enterAsOffice("Weather Station Club")
	office.see("table", "Zandstra")
	if nav := office.el("header nav").MustText(); strings.Contains(nav, "Handouts") || strings.Contains(nav, "Room") {
		t.Errorf("the office is offered %s", nav)
	}
}

// A document the usual editor would change opens as plain text, and says so; a
// class may be called a course.
func TestPlainTextAndWords(t *testing.T) {
	s := startWith(t, []string{"JOLLY_WORDS=class=course,Handouts=Tasks,handout=task"})
	p := s.visit(t, "").be("staff-lindqvist")
	p.see(".add-class", "Add a course")
	p.enterClass("Weather Station Club")
	p.see("header nav", "Tasks")
	p.clickOn("header button", "New task")
	p.click(`[data-part="template"]`)
	p.click(`[data-act="write-template"]`)
	odd := "Press <kbd>Enter</kbd>, then:\n\n<details>look</details>\n"
	p.must(p.el(`[data-form="templates"] input`).Input("Odd one"), "name")
	p.must(p.el(`[data-form="templates"] textarea`).Input(odd), "text")
	p.clickOn(`[data-form="templates"] button`, "Use this document")
	p.clickOn(`[data-act="pack"]`, "Pack 9 copies")
	p.see("th.c", "Odd one")
	p.until(`() => document.querySelectorAll('tbody td:nth-of-type(3) [data-state="shared"]').length === 9`)
	student := s.visit(t, "").be("student-nokuthula.dube")
	student.click(`[data-copy="Odd one"] a`)
	student.see(".doc", "Here it is as plain text")
	if text := student.el("textarea").MustProperty("value").Str(); text != odd {
		t.Errorf("the plain text is %q", text)
	}
	student.must(student.el("textarea").Input("And more."), "write")
	student.see(`.doc[data-state="saved"]`, "Saved")
}

// What waits for the answer to what was typed before goes out with the page, when that goes.
func TestTypedBehind(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Boat Workshop 8A")
	p.click(`[data-act="new-handout"]`)
	p.unfold()
	p.el(`[data-part="message"]`)
	path, was := p.page.MustEval(`() => location.pathname`).Str(), "none"
	for _, away := range []string{"the page", "another"} {
		title, message := "First part, before "+away, "Bring a pencil, before "+away
		p.see(`[data-part="message"]`, was)
		// The next change is sent, and its answer isn't there while this page is.
		p.page.MustEval(`() => { const real = window.fetch; let held = false; window.fetch = (r, ...more) => { const answer = real(r, ...more); if (r.method !== 'PATCH' || held) return answer; held = true; answer.catch(() => {}); return new Promise(() => {}) } }`)
		p.click(`[data-part="title"]`)
		p.typeIn(`.say p input`, title)
		p.click(`[data-part="message"]`)
		p.typeIn(`.say textarea`, message)
		if away == "another" {
			p.clickOn("header nav a", "Roster")
			p.el("tr[data-student]")
		}
		p.open("/account")
		p.eventually(`async (path, title, message) => { const h = await fetch('/api' + path).then((r) => r.json()); return h.title.endsWith(title) && h.message.endsWith(message) }`, path, title, message)
		p.open(path)
		was = message
	}
}

// messyList is a list with the troubles lists have.
const messyList = "Stud No\tSurname\tFirst\tE-mail (school)\tSet\tBoat group\n" +
	"70640\tAshdown\tWren\twren.ashdown@kestrelquay.example\tA\tGull\n" +
	"70643\tBălan\tCosmin\tcosmin.balan@kestrelquay.example\tB\tTern\n" +
	"70646\tCalloway\tIris\tiris.calloway@kestrelquay.example\tA\tHeron\n" +
	"\t\t\t\t\t\n" +
	"70649\tÓ Súilleabháin\tDara\tdara.osuilleabhain@kestrelquay.example\tC\tGull\n" +
	"70652\tDahl\tMaren\tmaren.kestrelquay.example\tB\tTern\n" +
	"70655\tEl-Amin\tYara\tyara.elamin@kestrelquay.example\tA\tHeron\n" +
	"70658\tFairweather\tOtis\totis.fairwether@kestrelquay.example\tB\tGull\n" +
	"70661\tFerrante\tGiulia\tgiulia.ferrante@kestrelquay.example\tC\tTern\n" +
	"70664\tGonçalves\tHugo\thugo.goncalves@kestrelquay.example\tA\tHeron\n" +
	"70646\tCalloway\tIris\tiris.calloway@kestrelquay.example\tA\tHeron\n" +
	"70667\tHorvat\tPetra\tpetra.horvat@kestrelquay.example\tB\tGull\n" +
	"70670\tMensah\tKofi\tkofi.mensah@kestrelquay.example\tC\tTern\n" +
	"70673\tNorthcote\tIsla\tisla.northcote@kestrelquay.example\tA\tHeron\n" +
	"70676\tPeixoto\tBruno\tbruno.peixoto@kestrelquay.example\tB\tGull\n" +
	"70679\tVirtanen\tSanna\tsanna.virtanen@kestrelquay.example\tC\tTern\n"

// A clean stop in the middle of a run leaves it to the next start, which
// carries it on by itself; the window that was open shows it.
func TestStopAndCarryOn(t *testing.T) {
	s := startWith(t, []string{"JOLLY_WEATHER=delay=120ms,limit=25"})
	p := s.visit(t, `^50\d |Failed to load|ERR_|^console: `).at("staff-oduya", "Harbour History 9D")
	p.click(`header nav a[href$="/roster"]`)
	p.paste(".paste", strings.ReplaceAll(demo.HistoryList(), ",", "\t"))
	p.see(".lead", "28 students are ready")
	p.click(`[data-act="accept"]`)
	p.see(".places", "Cloakroom")
	p.click(`[data-act="pack"]`)
	p.el(`[data-run-state="packing"]`)
	p.until(`() => document.querySelectorAll('tbody [data-state="shared"]').length > 3`)
	url := strings.TrimPrefix(p.page.MustInfo().URL, s.url)
	s.stop()
	s.run()
	again := s.visit(t, "").be("staff-oduya").open(url)
	again.see(".note", "28 of 28 satchels are shared")
	again.gone(`[data-run-state="packing"]`)
	if n := again.count(`tbody td:nth-of-type(1) [data-state="shared"]`); n != 28 {
		t.Errorf("%d satchels", n)
	}
}

// While the cupboard doesn't answer at all, every page that tells how things
// stand comes, as it was last seen, and says so; nothing is packed of that.
func TestPagesWithoutTheCupboard(t *testing.T) {
	s := start(t, "-at", "2026-11-25T11:40:00Z")
	s.stop()
	s.args[len(s.args)-1] = "2026-11-25T11:50:00Z"
	s.env = append(s.env, "JOLLY_WEATHER=errors=1")
	s.run()
	p := s.visit(t, `^503 |Failed to load`).be("staff-oduya")
	p.see("article", "Tide Watch 7B")
	p.see(".seen", "The cupboard is not answering")
	p.enterClass("Tide Watch 7B")
	p.see(".note", "25 of 28 satchels are shared")
	p.click(`tr[data-student="Mateo de la Cruz"] [data-state]`)
	p.see(".panel", "can edit, as staff")
	p.see(".panel", "The cupboard is not answering")
	p.click(`header nav a[href$="/handouts"]`)
	p.see("main", "Rock-pool field log")
	p.click(`header nav a[href$="/room"]`)
	p.see(`[data-section="already-there"]`, "Adeyemi, Tolu")
	p.click(`[data-act="pack"]`)
	p.see("[data-told]", "The cupboard is not answering. Nothing is lost")
	q := s.visit(t, "").be("student-nokuthula.dube")
	q.see("main", "Rock-pool field log")
	q.see("[data-satchel]", "Field work")
}

// The tasks of every day take few acts: from a list to copies for 28 students, and from any page to what one
// student has.
func TestFewActs(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").be("staff-oduya")
	p.see("article", "Harbour History 9D")
	began, acts := time.Now(), 0
	act := func(do func()) { t.Helper(); do(); acts++ }
	p.enterClass("Harbour History 9D")
	p.click(`[data-act="step-list"]`)
	act(func() { p.paste(".paste", strings.ReplaceAll(demo.HistoryList(), ",", "\t")) })
	act(func() { p.click(`[data-act="accept"]`) })
	p.see(".places", "Cloakroom")
	act(func() { p.click(`[data-act="pack"]`) })
	p.see(".note", "28 of 28 satchels are shared")
	act(func() { p.click(`[data-act="step-handout"]`) })
	act(func() { p.clickOn(`[data-form="templates"] button`, "Knot card") })
	p.see(`[data-act="pack"]`, "Pack 28 copies")
	act(func() { p.click(`[data-act="pack"]`) })
	p.see("th.c", "Knot card")
	p.until(`() => document.querySelectorAll('tbody td:nth-of-type(2) [data-state="shared"]').length === 28`)
	t.Logf("from a list to copies for 28: %d acts, %.1f s of them the program's", acts, time.Since(began).Seconds())
	if acts > 6 {
		t.Errorf("from a list to shared copies for 28 took %d acts", acts)
	}
	// From the bin, where no class is, to a student's copy.
	p.open("/bin").see("h1", "Bin")
	p.el(`[data-act="find-student"]`)
	p.press('/')
	began = time.Now()
	p.typeIn(`[data-act="find-student"]`, "amini")
	p.see("[data-found]", "Harbour History 9D")
	p.press(input.Enter)
	p.see(".panel h2", "Amini")
	p.see(".panel", "Knot card")
	t.Logf("to a student from anywhere: 2 acts, %.1f s", time.Since(began).Seconds())
	// And the same one once more, after theirs was closed.
	p.press(input.Escape)
	p.gone(".panel")
	p.click(`[data-act="find-student"]`)
	p.typeIn(`[data-act="find-student"]`, "amini")
	p.click("[data-found]")
	p.see(".panel h2", "Amini")
}
