package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"

	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/wall"
)

// write adds a document that is written on the spot to the sentence.
func (p *person) write(name, text string) {
	p.t.Helper()
	p.click(`[data-part="template"]`)
	p.click(`[data-act="write-template"]`)
	p.fill(`[data-form="templates"] input`, name)
	p.fill(`[data-form="templates"] textarea`, text)
	p.clickOn(`[data-form="templates"] button`, "Use this document")
	p.see(`[data-part="document"]`, name)
}

// setTime puts a time into a field for one, as its picker does.
func (p *person) setTime(selector, value string) {
	p.t.Helper()
	p.el(selector).MustEval(`(v) => { this.value = v; this.dispatchEvent(new Event('input', { bubbles: true })) }`, value)
}

// The four ways are one sentence: each copy, by level, per team, one for all.
func TestWaysOfHandingOut(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.click(`[data-act="new-handout"]`)
	p.write("Coast", "# Coast\n\nDraw the coast.\n")
	p.write("Open sea", "# Open sea\n\nDraw the open sea.\n")
	p.see(`[data-act="pack"]`, "Pack 54 copies")
	p.see(`tr[data-section="to-pack"]`, "Coast – Open sea")

	// By level: one document each, and who has no level, or one of no document, is named.
	p.choose(`[data-part="way"]`, "a copy each, by level")
	p.see(".say", "Levels from")
	p.choose(`select[aria-label="Level for Coast"]`, "level A")
	p.see(`tr[data-section="needs-fixing"]`, "there is no document for level B")
	p.choose(`select[aria-label="Level for Open sea"]`, "level B")

	// Per team.
	p.choose(`[data-part="way"]`, "one copy per team")
	p.see(".say", "Teams from")
	p.choose(`[data-part="by"]`, "Boat group")
	p.unfold()
	p.see(`[data-part="classmates"]`, "can’t see it")
	p.see(`tr[data-section="to-pack"]`, "Heron – Coast")

	// One for all.
	p.choose(`[data-part="way"]`, "one for all")
	p.see(".say", "the same 2 documents: 28 people.")
	p.clickOn(`[data-part="document"]`, "Open sea")
	p.click(`[data-act="drop-document"]`)
	p.gone(`[data-act="drop-document"]`)
	p.click(`[data-act="pack"]`)
	p.see("th.c", "Coast")
	p.until(`() => document.querySelectorAll('tbody td:nth-last-of-type(3) [data-state="shared"]').length > 20`)
	dube := s.visit(t, "").be("student-nokuthula.dube")
	dube.see(`[data-copy="Coast"]`, "with the whole class")
	dube.click(`[data-copy="Coast"] a`)
	dube.see("h1", "Coast")
	if path := strings.TrimPrefix(dube.page.MustInfo().URL, s.url); path == "" {
		t.Error("no page of the document")
	}
}

// A handout that is to go out at a set time does so by itself, also where the program
// was stopped and started in between; one in the past is refused at its place.
func TestGoesOutByItself(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Lisbon")
	if err != nil {
		t.Fatal(err)
	}
	// Of an hour that comes twice, nothing goes out in the second: the times there are those of the
	// first. Then the program's clock is put on.
	ahead := time.Duration(0)
	for {
		now := clock.System().Add(ahead).In(zone).Truncate(time.Second)
		shown, err := wall.Parse(now.Format("2006-01-02T15:04:05"))
		if err != nil {
			t.Fatal(err)
		}
		if !wall.Moment(shown, zone.String()).Before(now) {
			break
		}
		ahead += time.Hour
	}
	s := startWith(t, []string{clock.Ahead + "=" + time.Until(clock.System().Add(ahead)).String()})
	p := s.visit(t, `^409 |Failed to load|ERR_|^422 `).at("staff-oduya", "Boat Workshop 8A")
	p.click(`[data-act="new-handout"]`)
	p.write("Bell signals", "# Bell signals\n\nWhat do two strokes mean?\n")
	p.unfold()
	p.click(`[data-part="send"]`)
	p.see(`.say [data-act="no-send"]`, "when you pack it")
	p.setTime(`.say input[type="datetime-local"]`, "2020-01-01T08:00")
	p.see(".say .bad", "This time is in the past")
	p.setTime(`.say input[type="datetime-local"]`, clock.System().AddDate(0, 0, 3).Format("2006-01-02T07:45"))
	p.click(`.say .when button`)
	p.see(`[data-part="send"]`, ", 7:45")
	p.gone(".say .bad")
	page := strings.Split(strings.TrimPrefix(p.page.MustInfo().URL, s.url+"/classes/"), "/")
	soon := clock.System().In(zone).Add(ahead + 6*time.Second).Format("2006-01-02T15:04:05")
	p.page.MustEval(`(url, send) => fetch(url, { method: 'PATCH', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ to: { send }, was: {} }) }).then((r) => { if (!r.ok) throw new Error(r.status) })`,
		s.url+"/api/classes/"+page[0]+"/handouts/"+page[2], soon)
	s.stop()
	s.run()
	p.open("/")
	p.enterClass("Boat Workshop 8A")
	p.see("th.c", "Bell signals")
	p.until(`() => [...document.querySelectorAll('th.c')].length && document.querySelectorAll('tbody td:nth-last-of-type(3) [data-state="shared"]').length > 20`)
}

// A document that is mended after it went out is given again: untouched copies at once,
// begun ones only when ticked.
func TestMendedAfterItWentOut(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.clickOn("header nav a", "Handouts")
	p.clickOn(`[data-handout="Rock-pool field log"]`, "begun")
	p.see(".say h2", "Rock-pool field log")
	p.gone(`[data-form="reissue"]`)
	p.click(`[data-act="open-copies"]`) // to anyone who teaches: each copy is one act away
	p.see("h1", "Rock-pool field log")
	p.see("main", "Dube")
	p.page.MustNavigateBack()
	p.see(".say h2", "Rock-pool field log")
	page := strings.TrimPrefix(p.page.MustInfo().URL, s.url)
	p.click(`[data-part="document"]`)
	p.click(`[data-act="look-document"]`)
	p.click(".sheet")
	p.must(p.page.KeyActions().Press(input.ControlLeft).Type(input.End).Do(), "end")
	p.must(p.page.InsertText(" Mind the tide."), "write")
	p.see(`.doc[data-state="saved"]`, "Saved")
	p.open(page)
	p.see(`[data-form="reissue"]`, "are not begun")
	p.click(`[data-act="begun-too"]`)
	p.clickOn(`[data-act="reissue"]`, "Update 26 copies")
	p.gone(`[data-form="reissue"]`)
	dube := s.visit(t, "").be("student-nokuthula.dube")
	dube.see(`[data-copy="Rock-pool field log"]`, "new version")
	dube.click(`[data-copy="Rock-pool field log"] a`)
	dube.see(".sheet", "Mind the tide")
}

// An earlier handout is used again in another class, and what doesn't fit there is said.
func TestUsedAgain(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.clickOn("header nav a", "Handouts")
	p.clickOn(`[data-handout="Rock-pool field log"]`, "begun")
	p.click(`[data-act="use-again"]`)
	p.choose(`[data-form="again"] select`, "Boat Workshop 8A")
	p.clickOn(`[data-form="again"] button`, "Copy it there")
	p.see("h1", "Boat Workshop 8A")
	p.see(".say h2", "Rock-pool field log")
	p.see("[data-told]", "the pocket, which this class doesn’t have")
	p.see(`[data-act="pack"]`, "Pack 31 copies")
	p.see(`[data-part="due"]`, "no date")
}

// Who hasn't begun is found by a filter, and written to in three acts from the Register's sentence.
func TestWhoHasNotBegun(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	rows := `() => document.querySelectorAll('tbody tr[data-student]').length`
	p.click(`[data-act="filter"]`)
	p.choose(`[data-part="state"]`, "not begun")
	p.choose(`[data-part="column"]`, "Rock-pool field log")
	p.see(`[data-form="filter"]`, "5 students")
	p.until(`() => (` + rows + `)() === 5`)
	p.choose(`[data-part="value"]`, "Level: A")
	p.until(`() => { const n = (` + rows + `)(); return n > 0 && n < 5 }`)
	p.click(`[data-act="no-filter"]`)
	p.until(`() => (` + rows + `)() === 28`)
	p.click(`[data-act="write-idle"]`)
	p.see("aside.panel h2", "5 students are selected")
	p.click(`[data-act="write"]`)
	p.clickOn(`[data-act="send"]`, "Send 5 emails")
	p.see("[data-told]", "5 emails are on their way")
}

// A handout is withdrawn, counted first, and brought back whole.
func TestWithdrawn(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.clickOn("header nav a", "Handouts")
	p.clickOn(`[data-handout="Rock-pool field log"]`, "begun")
	p.click(`[data-act="look-withdraw"]`)
	p.see(`[data-form="withdraw"]`, "6 copies are not begun")
	p.click(`[data-act="begun-too"]`)
	p.clickOn(`[data-act="withdraw"]`, "Withdraw 26 copies")
	p.see(`[data-form="withdrawn"]`, "Withdrawn")
	p.gone(`[data-act="pack"]:not([disabled])`)
	dube := s.visit(t, "").be("student-nokuthula.dube")
	dube.see(".todo", "Knot card")
	dube.until(`() => !document.querySelector('[data-copy="Rock-pool field log"]')`)
	p.clickOn("header nav a", "Register")
	p.see("th.c", "Knot card")
	p.until(`() => ![...document.querySelectorAll('th.c')].some((x) => x.textContent.includes('Rock-pool'))`)
	p.clickOn("header nav a", "Handouts")
	p.clickOn(`[data-handout="Rock-pool field log"]`, "withdrawn")
	p.click(`[data-act="give-back"]`)
	p.gone(`[data-form="withdrawn"]`)
	dube.open("/").see(`[data-copy="Rock-pool field log"]`, "you wrote")
}

// Templates are renamed and taken off the list where they are chosen.
func TestTemplates(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Boat Workshop 8A")
	p.click(`[data-act="new-handout"]`)
	p.click(`[data-part="template"]`)
	p.see("[data-template]", "Chart-reading sheet")
	p.click(`[aria-label="More about Chart-reading sheet"]`)
	p.click(`[data-act="rename-template"]`)
	p.fill(".naming input", "Chart of the bay")
	p.clickOn(".naming button", "Done")
	p.see("[data-template]", "Chart of the bay")
	p.click(`[aria-label="More about Tide-table worksheet"]`)
	p.click(`[data-act="remove-template"]`)
	p.see("[data-told]", "Tide-table worksheet removed from the list")
	p.gone(`[data-template="Tide-table worksheet.md"]`)
	p.clickOn("[data-template]", "Chart of the bay")
	p.see(".say h2", "Chart of the bay")
	p.see(`[data-act="pack"]`, "Pack 31 copies")
}

// A document that asks for columns is filled in for each student; how, is seen before.
func TestFilledIn(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.click(`[data-act="new-handout"]`)
	p.write("Log book", "# Log book of [Given name] [Family name]\n\n[Boat group] and [Boot group]\n")
	p.clickOn(`[data-part="document"]`, "Log book")
	p.see(`[data-form="filling"]`, "[Given name]")
	p.see(`[data-part="no-column"]`, "[Boot group]")
	p.clickOn(`[data-form="filling"] summary`, "Preview this copy")
	p.see(`[data-form="filling"] article`, "Log book of")
	p.click(`[data-act="fill-in"]`)
	p.gone(`[data-form="filling"] dl`)
	p.click(`[data-act="fill-in"]`)
	p.see(`[data-form="filling"] dl`, "[Family name]")
	p.click(`[data-act="pack"]`)
	p.see("th.c", "Log book")
	p.until(`() => document.querySelectorAll('tbody td:nth-last-of-type(3) [data-state="shared"]').length > 20`)
	dube := s.visit(t, "").be("student-nokuthula.dube")
	dube.click(`[data-copy="Log book"] a`)
	dube.see(".sheet", "Log book of Nokuthula Dube")
	dube.see(".sheet", "[Boot group]")
}

// What to do and where to look is with a handout on the students' pages; a notice is
// words alone, for the class or for one student.
func TestWordsAndNotices(t *testing.T) {
	s := start(t)
	p := s.visit(t, "^422 ").at("staff-oduya", "Tide Watch 7B")
	p.click(`[data-act="new-handout"]`)
	p.choose(`[data-part="way"]`, "a notice")
	p.see(`[data-form="notice"]`, "28 students will read it")
	p.click(`[data-part="title"]`)
	p.typeIn(`.say input.inline`, "Boots on Thursday")
	p.click(`[data-part="instructions"]`)
	p.typeIn(`[data-form="instructions"] [role="textbox"]`, "We go out at low water, whatever the weather.")
	p.clickOn(`[data-form="instructions"] button`, "Done")
	p.see(".say article", "low water")
	p.click(`[data-part="links"]`)
	p.fill(`[aria-label^="Web address"]`, "javascript:alert(1)")
	p.see(`[data-form="links"] .bad`, "must start with https://")
	p.fill(`[aria-label^="Web address"]`, "https://tides.example/bay")
	p.fill(`[aria-label="Link text"]`, "Tide table")
	p.clickOn(`[data-form="links"] button`, "Done")
	p.see(`[data-part="links"]`, "Tide table")
	p.click(`[data-act="for-parents"]`)
	p.click(`[data-act="post"]`)
	p.see(`[data-form="notice"]`, "28 students have it on their pages")
	dube := s.visit(t, "").be("student-nokuthula.dube")
	dube.see(`[data-notice="Boots on Thursday"]`, "for your parents")
	dube.see(`[data-notice="Boots on Thursday"]`, "https://tides.example/bay")
	p.click(`[data-act="take-down"]`)
	p.see(`[data-act="post"]`, "Post it")
	p.clickOn("header nav a", "Handouts")
	p.see(`[data-handout="Boots on Thursday"]`, "removed")
	p.clickOn(`[data-handout="Knot card"]`, "shared")
	p.unfold()
	p.click(`[data-part="instructions"]`)
	p.click(`[data-form="instructions"] [role="textbox"]`)
	p.must(p.page.InsertText("Tie each knot twice."), "write")
	p.clickOn(`[data-form="instructions"] button`, "Done")
	p.see(".say article", "knot twice")
	// What the editor can't give back as it is, is changed as it was typed.
	p.call(`async (u) => (await fetch(u, { method: 'PATCH', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ to: { instructions: '<x-odd>Tie each knot twice.</x-odd>' }, was: {} }) })).status`, strings.Replace(p.page.MustInfo().URL, "/classes/", "/api/classes/", 1))
	p.open(strings.TrimPrefix(p.page.MustInfo().URL, s.url))
	p.click(`[data-part="instructions"]`)
	p.until(`() => document.querySelector('[data-form="instructions"] textarea')?.value === '<x-odd>Tie each knot twice.</x-odd>'`)
	dube.open("/").clickOn(`[data-copy="Knot card"] summary`, "What to do")
	dube.see(`[data-copy="Knot card"] article`, "knot twice")
	dube.gone(`[data-notice]`)
}

// Handouts are under headings, moved by the arrow keys; a folded heading puts them away
// in the list, the Register and on the students' pages.
func TestHeadingsByKeyboard(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.clickOn("header nav a", "Handouts")
	p.see("[data-handout]", "Knot card")
	p.click(`[data-act="new-heading"]`)
	p.fill(`.heads input.called`, "Unit 1: knots")
	p.press(input.Enter)
	p.see(`[data-heading="Unit 1: knots"]`, "Drag a handout here")
	p.click("header h1")
	if n := p.count(`[data-heading="Unit 1: knots"]`); n != 1 {
		t.Errorf("%d headings", n)
	}
	where := `() => [...document.querySelectorAll('.group [data-handout], .heading')].findIndex((x) => x.dataset.handout === 'Knot card')`
	p.page.MustEval(`() => document.querySelector('[aria-label^="Move Knot card"]').focus()`)
	for !p.page.MustEval(`() => !!document.querySelector('[data-heading="Unit 1: knots"] [data-handout="Knot card"]')`).Bool() {
		place := p.page.MustEval(where).Int()
		p.press(input.ArrowDown)
		p.until(`(place) => (`+where+`)() !== place && document.activeElement?.getAttribute('aria-label')?.startsWith('Move Knot card')`, place)
	}
	p.see(`[data-heading="Unit 1: knots"] [data-handout]`, "Knot card")
	p.clickOn("header nav a", "Register")
	p.see(`.heads [data-heading]`, "Unit 1")
	p.see("th.c", "Knot card")
	p.clickOn("header nav a", "Handouts")
	p.click(`[data-heading="Unit 1: knots"] .fold`)
	p.see(`[data-heading="Unit 1: knots"]`, "one handout")
	p.clickOn("header nav a", "Register")
	p.see(`.heads [data-heading]`, "Unit 1")
	p.until(`() => ![...document.querySelectorAll('th.c')].some((x) => x.textContent.includes('Knot card'))`)
	p.clickOn(`.heads [data-heading]`, "Unit 1")
	p.see("th.c", "Knot card")
	dube := s.visit(t, "").be("student-nokuthula.dube")
	dube.clickOn(`[data-away]`, "Unit 1: knots (1)")
	dube.see(`[data-away] [data-copy]`, "Knot card")
}

// Students read each other's copies where their teacher says so, and nothing beside them.
func TestClassmatesRead(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Boat Workshop 8A")
	p.click(`[data-act="new-handout"]`)
	p.write("Bell signals", "# Bell signals\n\nWhat do two strokes mean?\n")
	p.unfold()
	p.see(`[data-part="classmates"]`, "can’t see it")
	p.choose(`[data-part="classmates"]`, "can read it")
	p.clickOn(`[data-act="pack"]:not([disabled])`, "Pack 31 copies")
	p.see("th.c", "Bell signals")
	p.until(`() => document.querySelectorAll('tbody td:nth-last-of-type(3) [data-state="shared"]').length > 25`)
	p.clickOn("header nav a", "Handouts")
	p.clickOn(`[data-handout="Bell signals"]`, "shared")
	p.click(`[data-act="stood"]`)
	p.see(`[data-form="stood"]`, "31 got it, 0 left out")
	dube := s.visit(t, "").be("student-nokuthula.dube")
	dube.clickOn(`[data-copy="Bell signals"] [data-act="mates"]`, "Classmates’ copies")
	dube.see("h1", "Bell signals")
	dube.looked("classmates’ copies", true)
	dube.size(1280, 800)
	dube.click(".mates li a")
	dube.see(".sheet", "two strokes")
	dube.gone(".crumbs a")
}

// What is done for one is done for several: chosen in the Register, they sit a handout
// out, their links are copied, and a notice is for them alone.
func TestChosenInTheRegister(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.click(`[data-act="choose"]`)
	p.see("aside.panel", "Tick the students")
	p.click(`[data-choose="Tolu Adeyemi"]`)
	p.click(`[data-choose="Freja Ångström"]`)
	p.see("aside.panel h2", "2 students are selected")
	p.choose(`[data-form="chosen-acts"] select`, "Rock-pool field log")
	p.click(`[data-act="sit-out"]`)
	p.see("[data-told]", "2 students sit out")
	q := s.visit(t, "").at("staff-lindqvist", "Tide Watch 7B")
	q.clickOn("header nav a", "Handouts")
	q.clickOn(`[data-handout="Rock-pool field log"]`, "begun")
	q.see(".say", "2 students get none")
	p.click(`[data-act="take-in"]`)
	p.see("[data-told]", "2 students are included")
	q.until(`() => !document.querySelector('.say').textContent.includes('get none')`)
	p.click(`[data-act="own-chosen"]`)
	p.choose(`[data-form="own"] select[aria-label="Place of their copies"]`, "the satchel")
	p.click(`[data-act="own"]`)
	p.see(".say", "2 copies have a name or place of their own")
	p.see(`tr[data-section="to-change"]`, "Adeyemi")
	p.click(`.say [data-own] button`)
	p.gone(`tr[data-section="to-change"]`)
	p.clickOn("header nav a", "Register")
	p.click(`[data-act="choose"]`)
	p.click(`[data-choose="Tolu Adeyemi"]`)
	p.click(`[data-choose="Freja Ångström"]`)
	got := p.page.Browser().MustWaitDownload()
	p.click(`[data-save="csv"]`)
	if table := string(got()); strings.Count(table, "\n") != 3 || !strings.Contains(table, "Ångström, Freja") {
		t.Errorf("as a table: %s", table)
	}
	p.click(`[data-act="notice-chosen"]`)
	p.see(`[data-form="notice"]`, "2 students will read it")
}

// Three files are given at once; one that holds nothing is refused before it is sent.
func TestThreeFilesAtOnce(t *testing.T) {
	s := start(t)
	dir := t.TempDir()
	var files []string
	for name, text := range map[string]string{"Chart.md": "# Chart of [Given name]\n", "Tides.txt": "high water", "Empty.txt": ""} {
		files = append(files, filepath.Join(dir, name))
		if err := os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	p := s.visit(t, "").at("staff-oduya", "Boat Workshop 8A")
	p.click(`[data-act="new-handout"]`)
	p.click(`[data-part="template"]`)
	p.must(p.el(`[data-form="templates"] input[type=file]`).SetFiles(files), "files")
	p.see(`[data-form="templates"] .bad`, "Empty.txt is empty")
	p.must(os.WriteFile(filepath.Join(dir, "Empty.txt"), []byte("not any more"), 0o600), "write")
	p.must(p.el(`[data-form="templates"] input[type=file]`).SetFiles(files), "files again")
	p.see(`[data-act="pack"]:not([disabled])`, "Pack 93 copies")
	p.until(`() => document.querySelectorAll('[data-part="document"]').length === 3`)
}

// One copy per team, and a member who changes the team afterwards: the lines say who is
// let in and out, and packing them does it.
func TestTeamMemberChanges(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.click(`header nav a[href$="/roster"]`)
	cell := `tr[data-student="Nokuthula Dube"] [data-field="extra:Boat group"]`
	was := p.el(cell).MustText()
	to := "Heron"
	if was == to {
		to = "Gull"
	}
	p.clickOn("header nav a", "Register")
	p.see("th.c", "Knot card")
	p.click(`[data-act="new-handout"]`)
	p.write("Coast", "# Coast of [Boat group]\n\nDraw it together.\n")
	p.choose(`[data-part="way"]`, "one copy per team")
	p.choose(`[data-part="by"]`, "Boat group")
	p.see(`tr[data-section="to-pack"]`, "Heron – Coast")
	page := strings.TrimPrefix(p.page.MustInfo().URL, s.url)
	p.click(`[data-act="pack"]`)
	p.see("th.c", "Coast")
	dube := s.visit(t, "").be("student-nokuthula.dube")
	p.until(`() => document.querySelectorAll('tbody td:nth-last-of-type(3) [data-state="shared"]').length > 20`)
	dube.open("/").see(`[data-copy="Coast"]`, "with your team")
	p.click(`header nav a[href$="/roster"]`)
	p.click(cell)
	var keys []input.Key
	for _, r := range to {
		keys = append(keys, input.Key(r))
	}
	p.press(append(keys, input.Enter)...)
	p.see(cell, to)
	p.clickOn("header nav a", "Handouts")
	p.clickOn(`[data-handout="Coast"]`, "shared")
	p.see(`tr[data-section="to-change"]`, "Nokuthula Dube")
	p.click(`[data-act="pack"]`)
	p.see("th.c", "Coast")
	p.open(page)
	p.see(".say", "Coast")
	p.until(`() => !document.querySelector('tr[data-section="to-change"]') && !document.querySelector('tr[data-section="to-pack"]')`)
	dube.open("/").click(`[data-copy="Coast"] a`)
	dube.see(".sheet h1", "Coast of "+to)
}

// What a line can be besides packed is reached with the keyboard and with a finger, not by a pointer alone.
func TestOtherChoicesOfALine(t *testing.T) {
	s := start(t, "-at", "2026-11-25T11:40:00Z")
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.clickOn("main nav a", "Handouts")
	p.clickOn("[data-handout]", "Rock-pool field log")
	p.el(`[data-act="other"]`).MustFocus()
	p.press(input.Enter)
	p.click(`.leave.open [data-act="skip"]`)
	p.see(`tr.skipped`, "Rock-pool field log")
	p.click(`[data-act="unskip"]`)
	p.gone(`tr.skipped`)
}

// The second handout is three acts: begin, choose the document, pack. All else is as last time, on one line; what is said
// otherwise is marked. An earlier one of another class is one act away.
func TestSecondHandout(t *testing.T) {
	s := start(t, "-at", "2026-11-25T11:40:00Z")
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.click(`[data-act="new-handout"]`)
	p.see("[data-last]", "As last time (Rock-pool field log)")
	p.see("[data-last]", "the satchel › Field work")
	p.clickOn("[data-template]", "Knot card")
	p.see(`[data-part="due"]`, "17:00") // as the last ones were
	p.clickOn(".side button", "Pack")
	p.see("main nav a.on", "Register")
	p.see("thead", "Knot card")
	p.click(`[data-act="look-at-one"]`) // once it is done
	p.see(".panel .of", "Knot card")
	p.click(`[data-act="see-one"]`)
	p.see("[data-copy]", "Rock-pool field log")
	p.click(`[data-act="leave-eyes"]`)
	p.see("main nav a.on", "Register")

	p.click(`[data-act="new-handout"]`)
	p.unfold()
	p.choose(`[data-part="tell"]`, "when it is ready")
	p.see("[data-other]", "not as last time")
	p.clickOn("main nav a", "Handouts")
	p.click(`[data-act="new-handout"]`)
	p.click(`[data-act="from-earlier"]`)
	p.choose(`.earlier select`, "Boat Workshop 8A")
	p.clickOn("[data-earlier]", "Knot card")
	p.see("[data-told]", "Copied")
	p.see(".say h2", "Knot card")
	p.see(`[data-part="document"]`, "Knot card")
}
