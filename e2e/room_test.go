package e2e

import (
	"bytes"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"jollysatchel/internal/demo"
)

func (p *person) page2(part string) {
	p.t.Helper()
	p.click(`header nav a[href$="/` + part + `"]`)
	p.until(`part => location.pathname.endsWith('/' + part)`, part)
}

// harbour accepts the class list of Harbour History, after which the room comes.
func (s *server) harbour(t *testing.T) *person {
	p := s.visit(t, "").at("staff-oduya", "Harbour History 9D")
	p.page2("roster")
	p.paste(".paste", strings.ReplaceAll(demo.HistoryList(), ",", "\t"))
	p.see(".lead", "28 students are ready")
	p.click(`[data-act="accept"]`)
	p.see(".places", "Cloakroom")
	return p
}

func (p *person) choose(selector, option string) {
	p.t.Helper()
	// What can be chosen may come a moment after the rest.
	p.until(fmt.Sprintf(`() => [...(document.querySelector(%q)?.options ?? [])].some((o) => o.textContent.includes(%q))`, selector, option))
	p.must(p.el(selector).Select([]string{option}, true, rod.SelectorTypeText), "choose "+option)
}

func (p *person) fill(selector, text string) {
	p.t.Helper()
	p.must(p.el(selector).SelectAllText(), "select")
	p.must(p.el(selector).Input(text), "type into "+selector)
}

// call asks the API as anyone who sits there, and returns what the JavaScript gives.
func (p *person) call(js string, args ...any) string {
	p.t.Helper()
	v, err := p.page.Evaluate(rod.Eval(js, args...).ByPromise())
	p.must(err, "asking "+js)
	return v.Value.String()
}

// eventually asks the API again and again until what it is asked for holds.
func (p *person) eventually(js string, args ...any) {
	p.t.Helper()
	again := `async (...args) => {
		const f = ` + js + `
		for (let n = 0; n < 150; n++) {
			if (await f(...args)) return 'yes'
			await new Promise((r) => setTimeout(r, 100))
		}
		return 'no'
	}`
	if p.call(again, args...) != "yes" {
		p.t.Fatalf("it never came: %s", js)
	}
}

// A plan with a place for teams, one to hand in and three pockets: packed, changed,
// packed again, and seen with everybody's eyes.
func TestRoomInFull(t *testing.T) {
	s := start(t)
	p := s.harbour(t)
	for _, x := range []struct{ name, whom string }{{"Hand in", "each student"}, {"Crews", "each team"}} {
		p.click(`[data-act="add-place"]`)
		p.fill(`[data-form="place"] input`, x.name)
		p.choose(`[data-form="place"] select`, x.whom)
		if x.whom == "each student" {
			p.click(`[data-form="place"] .tick input`)
		} else {
			p.choose(`[data-form="place"] select[aria-label="Teams from"]`, "Boat group")
		}
		p.click(`[data-act="keep-place"]`)
		p.see(fmt.Sprintf(`[data-place="%s"]`, x.name), x.name)
	}
	for _, name := range []string{"Field work", "Photographs", "Reading"} {
		p.fill(`.pockets form input`, name)
		p.press(input.Enter)
		p.see(fmt.Sprintf(`[data-pocket="%s"]`, name), name)
	}
	// A place that can't be where it is asked for says so at its place.
	p.click(`[data-act="add-place"]`)
	p.fill(`[data-form="place"] input`, "SHELF")
	p.allow = regexp.MustCompile(`422`)
	p.click(`[data-act="keep-place"]`)
	p.see(`[data-form="place"] [role="alert"]`, "There is already a place called SHELF.")
	p.allow = nil
	p.clickOn(`[data-form="place"] button`, "Cancel")
	p.click(`[data-act="pack"]`)
	p.see(".note", "28 of 28 satchels are shared")
	p.gone(`[data-run-state="packing"]`)

	// As staff: everything; as one student: only what is theirs.
	p.page2("room")
	p.clickOn(".ant-segmented-item", "Staff see")
	p.see(`[data-tree="staff"]`, "Crews")
	p.see(`[data-node="place"]`, "each team sees only its own")
	p.clickOn(".ant-segmented-item", "A student sees")
	for _, want := range []string{"Hand in › ", "Shelf", "Table", "Crews › ", "Field work", "Reading"} {
		p.see(`[data-tree]`, want) // what was made last comes by itself
	}
	tree := p.see(`[data-tree]`, "Hand in › ").MustText()
	if strings.Contains(tree, "Drawer") || strings.Contains(tree, "Cloakroom") {
		t.Errorf("a student sees %s", tree)
	}

	// Changed: a pocket is renamed, the team place goes. What is there stays.
	p.clickOn(".ant-segmented-item", "The plan")
	p.click(`[data-pocket="Reading"] button`)
	p.fill(`.pockets .name input`, "Books")
	p.press(input.Enter)
	p.see(`[data-pocket="Books"]`, "Books")
	p.see(`tr[data-section="to-change"]`, "new name Books")
	p.clickOn(`[data-place="Crews"] button`, "Crews")
	p.click(`[data-act="remove-place"]`)
	p.gone(`[data-place="Crews"]`)
	p.see(`[data-kept="Crews"]`, "folders")
	p.clickOn(`[data-act="pack"]`, "Pack 28 things")
	p.see(".note", "28 of 28 satchels are shared")
	p.gone(`[data-run-state="packing"]`)
	p.page2("room")
	p.see(".counts", "already there")
	p.gone(`tr[data-section="to-change"]`)
	// On purpose, and counted, it goes to the bin.
	p.click(`[data-kept="Crews"] [data-act="bin-kept"]`)
	p.click(`[data-act="bin-kept-sure"]`)
	p.gone(`[data-kept="Crews"]`)

	// The log has it all in words, the runs their figures.
	p.page2("log")
	p.see(`[data-table="log"]`, "changed the room plan")
	p.clickOn(".ant-segmented-item", "Packing")
	p.see(`[data-run="room"]`, "made")
	p.clickOn(".ant-segmented-item", "Things made")
	p.see(`[data-table="ledger"]`, "Satchel")
}

// The plan of one class as a file in another: columns it hasn't are asked about.
func TestPlanAsFile(t *testing.T) {
	s := start(t)
	p := s.harbour(t)
	file := filepath.Join(t.TempDir(), "plan.json")
	if err := os.WriteFile(file, []byte(
		`{"kind":"jolly-satchel/room-plan","version":1,"satchel":"[Family name] [House]","pockets":["Field work"],"places":[{"id":"drawer","for":"staff"},{"id":"cloakroom","for":"student","level":"edit"},{"id":"1","name":"Songs","for":"class","level":"comment"}]}`), 0o644); err != nil {
		t.Fatal(err)
	}
	p.allow = regexp.MustCompile(`422`)
	p.must(p.el(`[data-file="plan"]`).SetFiles([]string{file}), "the file")
	p.see(`[data-form="columns"]`, "House")
	p.choose(`[data-form="columns"] select`, "Given name")
	p.clickOn(`[data-form="columns"] button`, "Import the plan")
	p.see(`[data-place="Songs"]`, "everyone in class can comment")
	p.gone(`[data-place="Shelf"]`)
	p.see(`tr[data-section="to-pack"]`, "Amini Soraya")
	if err := os.WriteFile(file, []byte("Dear class"), 0o644); err != nil {
		t.Fatal(err)
	}
	p.must(p.el(`[data-file="plan"]`).SetFiles([]string{file}), "another file")
	p.see(`.left [role="alert"]`, "This is not JSON")
	p.see(`[data-place="Songs"]`, "Songs") // nothing is lost
}

// A class that keeps in step: a newcomer has everything without anybody's help.
func TestKeepInStep(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.page2("room")
	p.see(`[data-count="to-pack"]`, "1") // somebody joined, and waits for a top-up
	p.click(`[data-act="keep-in-step"]`)
	p.see(".left", "Ifeoma Oduya switched it on")
	p.see(`[data-count="to-pack"]`, "0")
	p.click(`header nav a`)
	p.see(".note", "26 of 28 satchels are shared") // one address is wrong, and one isn't known yet
	p.gone(`[data-act="top-up"]`)
}

// One address for all: each arrives at their own, and a stranger at nothing.
func TestFrontDoor(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.page2("doors")
	p.click(`[data-act="links"]`)
	door := strings.TrimPrefix(p.see("[data-door]", "/door/").MustText(), s.url)
	p.see(`[data-table="links"]`, "Dube, Nokuthula")
	p.see(`[data-table="links"]`, "Shelf")
	for account, name := range map[string]string{"nokuthula.dube": "Dube, Nokuthula", "jonas.eriksen": "Eriksen, Jonas"} {
		st := s.visit(t, "").signIn(account + "@kestrelquay.example")
		st.open(door)
		st.see("h1", name)
	}
	stranger := s.visit(t, "404").be("student-wren.ashdown")
	stranger.open(door)
	stranger.see(`[data-page="nothing"] h1`, "This page does not exist for you")
	if text := stranger.see("body", "does not exist").MustText(); strings.Contains(text, "Tide Watch") {
		t.Errorf("a stranger is told %s", text)
	}

	// Slips: on A4 and Letter, whole, several to a page.
	p.click(`[data-act="slips"]`)
	p.see(".slip", "Dube, Nokuthula")
	slips := p.count(".slip")
	for _, paper := range []struct {
		name string
		box  string // in points: 210 × 297 mm (ISO 216), 8.5 × 11 inches
	}{{"A4", "[0 0 594.95996 841.91998]"}, {"Letter", "[0 0 612 792]"}} {
		p.clickOn(".ant-segmented-item", paper.name)
		p.el(`[data-paper="` + paper.name + `"]`)
		r, err := p.page.PDF(&proto.PagePrintToPDF{PreferCSSPageSize: true, PrintBackground: true})
		p.must(err, "printing")
		pdf, err := io.ReadAll(r)
		p.must(err, "printing")
		pages := len(regexp.MustCompile(`/Type\s*/Page\b`).FindAll(pdf, -1))
		if want := (slips + 9) / 10; pages < want || pages > want+1 || !bytes.Contains(pdf, []byte("/MediaBox "+paper.box)) {
			t.Errorf("%d slips on %s: %d pages, %s", slips, paper.name, pages, regexp.MustCompile(`/MediaBox [^\n]*`).Find(pdf))
		}
		if dir := os.Getenv("SLIPS"); dir != "" { // to be looked at
			p.must(os.WriteFile(filepath.Join(dir, "slips-"+paper.name+".pdf"), pdf, 0o644), "keeping it")
		}
	}
}

// Somebody left: the teacher is asked, the archive holds their work in order, it
// goes to the bin with a term and comes back.
func TestLeaver(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.page2("roster")
	id := p.call(`async () => {
		const id = location.pathname.split('/')[2]
		const row = (await (await fetch('/api/classes/' + id + '/roster')).json()).find((r) => r.name === 'Nokuthula Dube').row
		await fetch('/api/classes/' + id + '/roster/left', { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ rows: [row], left: true }) })
		return row
	}`)
	p.click(`[data-panel="leavers"]`)
	p.see(`[data-leaver="Dube, Nokuthula"]`, "What do you want to do?")
	list := p.call(`async (row) => {
		const r = await fetch('/api/classes/' + location.pathname.split('/')[2] + '/rows/' + row + '/archive')
		const text = new TextDecoder('latin1').decode(await r.arrayBuffer())
		return r.status + ' ' + text.slice(0, 2) + ' ' + text.includes('Dube, Nokuthula/Field work/')
	}`, id)
	if list != "200 PK true" {
		t.Errorf("the archive: %s", list)
	}
	p.click(`[data-leaver="Dube, Nokuthula"] [data-act="bin"]`)
	p.see(`[data-leaver] .sure`, "You can bring everything back for 30 days")
	p.click(`[data-act="bin-sure"]`)
	p.see(`[data-leaver="Dube, Nokuthula"]`, "In the bin until")
	dube := s.visit(t, "").be("student-nokuthula.dube")
	dube.see(`[data-satchel="Boat Workshop 8A"]`, "Boat Workshop 8A")
	dube.gone(`[data-satchel="Tide Watch 7B"]`)
	p.click(`[data-leaver] [data-act="bring-back"]`)
	p.see(`[data-leaver="Dube, Nokuthula"]`, "Stays as it is.")
	dube.eventually(`async () => (await (await fetch('/api/home')).json()).classes.some((c) => c.name === 'Tide Watch 7B' && c.satchel)`)
}

// A student who changed class: the satchel comes along, the same one, and the
// former staff are out of it.
func TestMover(t *testing.T) {
	s := start(t)
	p := s.harbour(t)
	p.click(`[data-act="pack"]`)
	p.see(".note", "28 of 28 satchels are shared")
	p.gone(`[data-run-state="packing"]`)
	old := p.call(`async () => {
		const get = async (u) => (await fetch('/api' + u)).json()
		const post = (u, body) => fetch('/api' + u, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) })
		const classes = await get('/classes')
		const tide = classes.find((c) => c.name === 'Tide Watch 7B').id
		const row = (await get('/classes/' + tide + '/roster')).find((r) => r.name === 'Nokuthula Dube')
		const link = (await get('/classes/' + tide + '/links')).links.find((l) => l.student === 'Dube, Nokuthula').link
		await post('/classes/' + tide + '/roster/left', { rows: [row.row], left: true })
		await post('/classes/' + location.pathname.split('/')[2] + '/roster', { students: [{ family: 'Dube', given: 'Nokuthula', address: row.address }] })
		return link
	}`)
	p.page2("room")
	p.see(`tr[data-section="needs-fixing"]`, "has a satchel in a former class: bring it along?")
	p.click(`[data-act="bring-along"]`)
	p.gone(`[data-act="bring-along"]`)
	p.eventually(`async (old) => {
		const id = location.pathname.split('/')[2]
		const links = (await (await fetch('/api/classes/' + id + '/links')).json()).links
		return links.some((l) => l.student === 'Dube, Nokuthula' && l.link === old)
	}`, old)
	dube := s.visit(t, "").be("student-nokuthula.dube")
	dube.click(`[data-satchel="Harbour History 9D"] .who a`)
	dube.see("h1", "Dube, Nokuthula")
	dube.see(".sub", "Harbour History 9D")
	// Mats Lindqvist teaches Tide Watch, not Harbour History.
	mats := s.visit(t, "404").be("staff-lindqvist")
	mats.open(strings.TrimPrefix(old, s.url))
	mats.see(`[data-page="nothing"] h1`, "This page does not exist for you")
}

// Things are named, moved and binned where they are, and brought back.
func TestArranging(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").be("student-nokuthula.dube")
	p.clickOn(`[data-satchel="Tide Watch 7B"] .words a`, "Field work")
	p.see("h1", "Field work")
	p.see(".folder li", "Rock-pool field log")
	// A copy is arranged, not binned.
	p.click(`.folder li input`)
	p.gone(`[data-act="bin"]`)
	p.click(`[data-act="move"]`)
	p.clickOn(".picker .way button", "Dube, Nokuthula")
	p.fill(`.picker form input`, "My own order")
	p.clickOn(".picker button", "Create folder here")
	p.clickOn(`[data-act="take-folder"]`, "My own order")
	p.gone(".picker")
	p.clickOn(".path a", "Dube, Nokuthula")
	p.see("h1", "Dube, Nokuthula")
	p.see(".folder li a", "My own order")
	// One's own folder: binned with what is in it, counted, and brought back.
	p.click(`.folder li input[aria-label="Select My own order"]`)
	p.click(`[data-act="rename"]`)
	p.fill(`.arrange input`, "In my order")
	p.press(input.Enter)
	p.clickOn(".folder li a", "In my order")
	p.see("h1", "In my order")
	p.count(".folder li")
}

// What students put onto the table goes each to its own place: to the folder a column
// names, made on the spot, then to their satchels; the teacher's own stays.
func TestEachToItsOwnPlace(t *testing.T) {
	s := start(t)
	table := ""
	for account, name := range map[string]string{"nokuthula.dube": "limpets", "jonas.eriksen": "anemones"} {
		p := s.visit(t, "").signIn(account + "@kestrelquay.example")
		p.clickOn(".pl", "Table")
		p.see("h1", "Table")
		file := filepath.Join(t.TempDir(), name+".txt")
		if err := os.WriteFile(file, []byte(name), 0o644); err != nil {
			t.Fatal(err)
		}
		p.must(p.el(`.folder input[type=file]`).SetFiles([]string{file}), "file")
		p.see(".folder li", name)
		p.gone(`[data-act="move-each"]`)
		table = strings.TrimPrefix(p.page.MustInfo().URL, s.url)
	}
	p := s.visit(t, "").be("staff-oduya").open(table)
	choose := func(names ...string) {
		t.Helper()
		for _, name := range names {
			p.click(`.folder li input[aria-label="Select ` + name + `"]`)
		}
		p.click(`[data-act="move-each"]`)
	}
	choose("limpets.txt", "anemones.txt", "Species we found.md")
	p.see(`[data-stay="of-nobody"]`, "Species we found")
	p.see(".spread .to li", "Dube, Nokuthula")
	p.see("[data-lose]", "can’t open it then")
	p.choose(`.spread select`, "the folder named in Boat group")
	p.see(".spread .to li", "new")
	p.click(`[data-act="spread-rest"]`)
	p.fill(".picker input", "draw")
	p.clickOn(".picker .pick", "Drawer · in 7B Tide Watch")
	p.clickOn(`[data-act="take-folder"]`, "Drawer")
	p.see(".said", "go to Drawer")
	p.clickOn(`[data-act="spread"]`, "Move 3 things")
	p.gone(".spread")
	p.gone(`.folder li input[aria-label="Select limpets.txt"]`)
	p.gone(`.folder li input[aria-label="Select Species we found.md"]`)
	p.see(".folder li", "Heron")
}

// The stand-ins' weather is the office's to change.
func TestStandins(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").be("office")
	p.clickOn(".rail a", "Stand-ins")
	p.see("dl", "Distinct contents")
	p.click(`[data-act="rough"]`)
	p.see("[data-weather]", "300 ms, 20 % fail, 5 % lost, limit 10")
	p.click(`[data-act="calm"]`)
	p.see("[data-weather]", "limit none")
}
