package e2e

import (
	"encoding/csv"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"unicode/utf16"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"

	"jollysatchel/internal/demo"
)

// messyFile is a file as a records system exports it: 35 rows under two title
// lines, in UTF-16 with tabs, with the troubles such files have.
func messyFile(t *testing.T) (path string, rows [][]string) {
	t.Helper()
	rows, err := csv.NewReader(strings.NewReader(demo.HistoryList())).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	var b strings.Builder
	line := func(cells ...string) { b.WriteString(strings.Join(cells, "\t") + "\r\n") }
	line("Kestrel Quay School")
	line("Class list, printed by the office")
	for i, r := range rows {
		r := append([]string{}, r...)
		switch i {
		case 4:
			line()
		case 6: // a comma for the point
			r[3] = strings.Replace(r[3], ".", ",", 1)
		case 8: // a letter is missing: no such account
			r[3] = strings.Replace(r[3], "ferrante", "ferante", 1)
		case 10: // the address is missing
			r[3] = ""
		case 12:
			line(rows[0]...)
		case 18: // the name is missing
			r[1], r[2] = "", ""
		case 22: // a letter of another script
			r[1] = strings.Replace(r[1], "o", "\u043e", 1)
		case 15:
			line(rows[14]...)
			line(rows[2]...)
		case 20:
			line("", "", "", "", "")
		}
		line(r...)
	}
	line("Total", "28")
	out := []byte{0xFF, 0xFE}
	for _, u := range utf16.Encode([]rune(b.String())) {
		out = append(out, byte(u), byte(u>>8))
	}
	path = filepath.Join(t.TempDir(), "harbour history.txt")
	if err := os.WriteFile(path, out, 0o644); err != nil {
		t.Fatal(err)
	}
	return path, rows
}

// From a messy file to a right class list in few acts; then a newer list, seen
// for what it changes, accepted, carried through by the next packing; and the
// way back.
func TestClassListInFull(t *testing.T) {
	s := start(t)
	p := s.visit(t, `^422 .*/undo`).at("staff-oduya", "Harbour History 9D")
	p.click(`header nav a[href$="/roster"]`)
	path, rows := messyFile(t)
	p.must(p.el(`.bring input[type=file]`).SetFiles([]string{path}), "file")
	p.see(".lead", "26 students are ready")
	p.see(".lead", "2 rows are blank")
	// Six different problems, each mended where it stands.
	for _, code := range []string{"address-malformed", "account-unknown", "address-later"} {
		p.click(`[data-finding="` + code + `"] .acts button`)
		p.gone(`[data-finding="` + code + `"]`)
	}
	for range 2 {
		p.clickOn(`[data-finding="student-twice"] .acts button`, "Leave out")
		p.until(`() => document.querySelectorAll('[data-finding="student-twice"]').length < 2`)
	}
	p.gone(`[data-finding="student-twice"]`)
	put := func(finding, cell, text string) {
		t.Helper()
		p.click(`[data-finding="` + finding + `"] .where`)
		row := p.el("tr.cur").MustAttribute("data-row")
		p.press(input.Escape)
		p.click(`tr[data-row="` + *row + `"] ` + cell)
		p.must(p.el("input.edit").SelectAllText(), "select")
		p.must(p.el("input.edit").Input(text), "type")
		p.press(input.Enter)
	}
	put("name-missing", "td:nth-of-type(3)", rows[18][1])
	p.gone(`[data-finding="name-missing"]`)
	put("look-alike", "td:nth-of-type(3)", rows[22][1])
	p.gone(`[data-finding="look-alike"]`)
	p.see(".lead", "28 students are ready")
	p.see(".left, .panel", "All well")
	p.click(`[data-act="accept"]`)
	p.see(".places", "Cloakroom")
	p.click(`[data-act="pack"]`)
	p.see(".note", "28 of 28 satchels are shared")

	// A newer list: a name changed, an address corrected, one is missing, one is
	// new, and one number belongs to another name. It is accepted in parts.
	p.click(`header nav a[href$="/roster"]`)
	p.click(`[data-act="bring"]`)
	newer := [][]string{rows[0]}
	for i, r := range rows[1:] {
		r := append([]string{}, r...)
		switch i {
		case 0:
			r[1] = "Ashdown-Lee"
		case 1:
			continue
		case 2:
			r[1], r[2], r[3] = "Brandt", "Nele", "nele.brandt@kestrelquay.example"
		case 17: // the name typed above was the family name alone
			r[3] = "tariq.bensaid@kestrelquay.example"
		}
		newer = append(newer, r)
	}
	newer = append(newer, []string{"80808", "Dube", "Nokuthula", "nokuthula.dube@kestrelquay.example"})
	var b strings.Builder
	w := csv.NewWriter(&b)
	w.WriteAll(newer)
	p.paste(".paste", b.String())
	p.see(`[data-kind="doubtful"]`, "Nele Brandt")
	p.see(`[data-kind="joined"]`, "Nokuthula Dube")
	p.see(`[data-kind="changed"]`, "Ashdown-Lee")
	p.see(`[data-kind="left"]`, "Cosmin Bălan")
	if may := p.el(`[data-act="accept"]`).MustProperty("disabled").Bool(); !may {
		t.Error("a list with an open question can be accepted")
	}
	p.clickOn(`[data-line="Nele Brandt"] button`, "A new student")
	p.see(`[data-kind="joined"]`, "Nele Brandt")
	p.see(`[data-kind="left"]`, "Iris Calloway")
	p.click(`[data-line="Iris Calloway"] input`) // she stays
	p.see(`[data-kind="changed"]`, "tariq.bensaid@kestrelquay.example")
	p.see(`[data-act="accept"]`, "Accept 5 changes")
	p.click(`[data-line="Nele Brandt"] input`) // later
	p.see(`[data-act="accept"]`, "Accept 4 changes")
	p.open(strings.TrimPrefix(p.page.MustInfo().URL, s.url)) // the answers survive leaving the page
	p.clickOn(`[data-act="accept"]`, "Accept 4 changes")
	p.see("[data-last]", "one joined, 2 entries changed, one taken off the list")
	p.el(`tr[data-student="Cosmin Bălan"].left`)
	p.clickOn("[data-last] a", "Open the packing list")
	p.see(`tr[data-section="to-change"]`, "new name Ashdown-Lee, Wren, now Ashdown, Wren")
	p.click(`[data-act="pack"]`)
	p.see(".note", "satchels are shared")
	p.gone(`[data-run-state="packing"]`)
	wren := s.visit(t, "").be("student-wren.ashdown")
	wren.see("[data-satchel]", "Harbour History 9D")
	cosmin := s.visit(t, "").signIn("cosmin.balan@kestrelquay.example")
	cosmin.see("[data-satchel]", "Harbour History 9D")
	if shelf := cosmin.el("main").MustText(); strings.Contains(shelf, "to read") {
		t.Errorf("one who left still has the shelf: %s", shelf)
	}

	// The way back: packed on, it comes as a list to look at.
	p.click(`header nav a[href$="/roster"]`)
	p.click(`[data-panel="history"]`)
	p.click(`[data-history="list"] [data-act="undo"]`)
	p.see(`[data-history="list"] [role=alert]`, "Something was packed after this")
	p.click(`[data-history="list"] [data-act="as-list"]`)
	p.see(`[data-kind="returned"]`, "Cosmin Bălan")
	p.see(`[data-kind="changed"]`, "Ashdown")
	p.clickOn(".foot button", "Discard this list")
	p.el(`tr[data-student="Wren Ashdown-Lee"]`)
}

// The roster as a grid, by keyboard: type, fill down, paste a block, sort,
// filter, take back; add from the school book; teams; leaving and coming back.
func TestRosterGrid(t *testing.T) {
	s := start(t)
	p := s.visit(t, `^422 .*/roster`).at("staff-oduya", "Tide Watch 7B")
	p.click(`header nav a[href$="/roster"]`)
	cell := func(student, field string) string {
		return fmt.Sprintf(`tr[data-student="%s"] [data-field="%s"]`, student, field)
	}
	p.click(cell("Tolu Adeyemi", "team"))
	p.press('R', 'e', 'd', input.Enter)
	p.see(cell("Tolu Adeyemi", "team"), "Red")
	// Down the column: the marked cells take what stands on top.
	p.click(cell("Tolu Adeyemi", "team"))
	p.must(p.page.KeyActions().Press(input.ShiftLeft).Type(input.ArrowDown, input.ArrowDown).Release(input.ShiftLeft).Do(), "mark")
	p.must(p.page.KeyActions().Press(input.ControlLeft).Type('d').Do(), "fill")
	p.see(cell("Tariq Bensaïd", "team"), "Red")
	p.click(`[data-act="undo-last"]`)
	p.until(`s => document.querySelector(s).textContent.trim() === ''`, cell("Tariq Bensaïd", "team"))
	// A block from elsewhere.
	p.click(cell("Orla D’Arcy", "level"))
	p.paste(":focus", "B\tBlue\nC\tGreen")
	p.see(cell("Mateo de la Cruz", "team"), "Green")
	p.see(cell("Orla D’Arcy", "level"), "B")
	// What can't be is refused at once, and nothing is lost.
	p.click(cell("Orla D’Arcy", "address"))
	p.press('x', input.Enter)
	p.see("[data-told]", "x is not an email address")
	p.see(cell("Orla D’Arcy", "address"), "orla.darcy@kestrelquay.example")
	// Sorting and finding.
	p.click(`[data-column="number"] button`)
	p.click(`[data-column="number"] button`)
	p.el(`[data-column="number"][aria-sort="descending"]`)
	p.see(`tbody tr[data-student]:first-child`, "70999")
	p.must(p.el(".search input").Input("green"), "find")
	p.until(`() => document.querySelectorAll('tbody tr[data-student]').length === 1`)
	p.must(p.el(".search input").SelectAllText(), "select")
	p.press(input.Backspace)
	// From the school book, by parts of a name in any order.
	p.click(`[data-panel="add"]`)
	p.must(p.el(`[data-add="look"]`).Input("ash wr"), "look")
	p.clickOn(".found button", "Ashdown, Wren")
	p.see("[data-last]", "Wren Ashdown is on the list")
	// Choosing by a condition, then one value for all of them.
	p.click(`[data-panel="choose"]`)
	p.click(`[data-act="add-condition"]`)
	p.must(p.el(`[data-condition] .values input`).Input("B"), "value")
	p.press(input.Enter)
	p.until(`() => /^\d+ in$/.test(document.querySelector('[data-in]').textContent) && !document.querySelector('[data-in]').textContent.startsWith('29')`)
	in := strings.Fields(p.el("[data-in]").MustText())[0]
	p.click(`[data-act="use-choice"]`)
	p.see(".panel h2", in+" students selected")
	p.must(p.el(".bulk select").Select([]string{"Team"}, true, "text"), "field")
	p.must(p.el(".bulk input").Input("Blue"), "value")
	p.click(`[data-act="set-all"]`)
	p.must(p.el(".search input").Input("blue"), "find")
	p.until(`n => document.querySelectorAll('tbody tr[data-student]').length === Number(n)`, in)
	p.must(p.el(".search input").SelectAllText(), "select")
	p.press(input.Backspace)
	p.click(".panel .close")
	// Teams for everybody, dealt and kept.
	p.click(`[data-panel="teams"]`)
	p.click(`[data-act="deal"]`)
	p.el(`[data-team="A"]`)
	p.click(`[data-act="keep-teams"]`)
	p.gone(".panel")
	p.until(`() => [...document.querySelectorAll('tbody tr[data-student] [data-field="team"]')].every((e) => /^[A-Z]$/.test(e.textContent.trim()))`)
	// Off the list and back on.
	p.click(`tr[data-student="Wren Ashdown"] .pick input`)
	p.click(`[data-act="leave"]`)
	p.clickOn(".ant-modal-confirm .ant-btn-dangerous", "Take one off the list")
	p.el(`tr[data-student="Wren Ashdown"].left`)
	p.click(`tr[data-student="Wren Ashdown"] .pick input`)
	p.click(`[data-act="back"]`)
	p.el(`tr[data-student="Wren Ashdown"]:not(.left)`)
	// The exports are there.
	for _, as := range []string{"csv", "xlsx", "ods"} {
		size := p.page.MustEval(`async (f) => { const r = await fetch(document.querySelector('.export a[href$="' + f + '"]').href); return r.ok ? (await r.blob()).size : -1 }`, as).Int()
		if size < 1000 {
			t.Errorf("the %s export has %d bytes", as, size)
		}
	}
}

// An address that belongs to somebody else is asked about wherever it is
// typed, and gives nothing to anybody until it is answered; another account of
// the same name gets everything in place of the former one, by one tick.
func TestWhoseAddress(t *testing.T) {
	s := start(t)
	p := s.visit(t, ".*").at("staff-oduya", "Boat Workshop 8A")
	tab := func(page string) { p.clickOn("header nav a", page) }
	address := func(student string) string {
		return fmt.Sprintf(`tr[data-student="%s"] [data-field="address"]`, student)
	}
	change := func(student, to string) {
		t.Helper()
		p.click(address(student))
		p.press(input.Enter)
		p.must(p.el("input.edit").SelectAllText(), "select")
		p.must(p.el("input.edit").Input(to), "type")
		p.press(input.Enter)
	}
	tab("Register")
	p.see(".note", "30 of 31 satchels are shared")
	tab("Roster")
	change("Pia Gallo", "maren.dahl@kestrelquay.example")
	p.see(address("Pia Gallo"), "belongs to Maren Dahl")
	tab("Register")
	p.see(".note", "29 of 31 satchels are shared")
	p.see(".note", "maren.dahl@kestrelquay.example belongs to Maren Dahl")
	tab("Room")
	p.see(`[data-section="needs-fixing"]`, "Gallo, Pia")
	p.see(`[data-count="needs-fixing"]`, "1")
	p.click(`[data-section="needs-fixing"] [data-act="confirm"]`)
	p.see(".to-change", "from Pia Gallo (pia.gallo@kestrelquay.example)") // said, and still nothing is given
	tab("Roster")
	change("Pia Gallo", "pia.gallo@kestrelquay.example")
	p.until(`s => !document.querySelector(s).classList.contains('doubt')`, address("Pia Gallo"))
	change("Finn O’Leary", "eero.rautio@kestrelquay.example")
	p.see(address("Finn O’Leary"), "belongs to Eero Rautio")
	p.must(p.page.KeyActions().Press(input.ControlLeft).Type('z').Do(), "take back")
	change("Finn O’Leary", "finn.oleary@kestrelquay.example")
	p.until(`s => !document.querySelector(s).classList.contains('doubt')`, address("Finn O’Leary"))

	// Two students are called Eero Rautio; the first of them was given the
	// account of another.
	change("Eero Rautio", "eero.rautio@kestrelquay.example")
	p.clickOn(`tr[data-student="Eero Rautio"] .relink`, "see the room")
	p.see(".to-change", "from Eero Rautio (eero.rautio2@kestrelquay.example) to Eero Rautio (eero.rautio@kestrelquay.example)")
	p.until(`() => !document.querySelector('.to-change input').checked`)
	tab("Register")
	p.see(".note", "29 of 31 satchels are shared")
	tab("Room")
	p.click(".to-change input")
	p.click(`[data-act="pack"]`)
	p.see(".note", "30 of 31 satchels are shared")
	tab("Room")
	p.el(`[data-section="already-there"]`)
	p.gone(".to-change")
}

// Names are covered everywhere on screen, and nothing can be changed
// meanwhile; a practice class is made and cleared away in one act each.
func TestCoverAndPractice(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").be("staff-oduya")
	p.click(`[data-act="account"]`)
	p.click(`[data-act="cover"]`)
	p.enterClass("Tide Watch 7B")
	p.until(`() => document.querySelectorAll('tbody tr[data-student]').length === 28`)
	for _, part := range []string{"Register", "Room", "Roster", "Handouts"} {
		p.clickOn("header nav a", part)
		p.see("header nav a.on", part)
		p.until(`() => document.querySelector('main').textContent.length > 200`)
		text := p.el("main").MustText()
		for _, name := range []string{"Adeyemi", "Nokuthula", "中村", "حداد", "eero.rautio", "Aerschot"} {
			if strings.Contains(text, name) {
				t.Errorf("%s shows %s", part, name)
			}
		}
	}
	p.click(`header nav a[href$="/roster"]`)
	p.see(".last", "Names are covered")
	if p.count(`[data-panel="add"]`)+p.count(".pick") > 0 {
		t.Error("a covered list can be changed")
	}
	p.click(`[data-act="account"]`)
	p.click(`[data-act="cover"]`)
	p.see(`tr[data-student="Tolu Adeyemi"]`, "Adeyemi")

	p.click(".add-class")
	p.click(`[data-act="practise"]`)
	p.see("#page-title", "Practice class")
	p.until(`() => document.querySelectorAll('tbody tr[data-student]').length === 24`)
	p.click(`header nav a[href$="/room"]`)
	p.click(`[data-act="pack"]`)
	p.see(".note", "24 of 24 satchels are shared")
	p.gone(`[data-run-state="packing"]`)
	p.click(`[data-act="clear-practice"]`)
	p.clickOn(".ant-modal-confirm .ant-btn-dangerous", "Delete the practice class")
	p.see("h1", "Good")
	p.gone(`.peg[title="Practice class"]`)
}

// A file with several classes makes classes where the teacher says so; a choice
// decides who gets a handout.
func TestSeveralClassesAndChoice(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").be("staff-amaral")
	p.click(".add-class")
	p.must(p.el("#class-name").Input("Everybody"), "name")
	p.press(input.Enter)
	p.see("#page-title", "Everybody")
	p.paste(".paste", "Class\tPeriod\tSurname\tFirst\tEmail\tLevel\n"+
		"Lighthouse 6A\t1\tAshdown\tWren\twren.ashdown@kestrelquay.example\tA\n"+
		"Lighthouse 6A\t1\tCalloway\tIris\tiris.calloway@kestrelquay.example\tB\n"+
		"Signals 6B\t2\tDahl\tMaren\tmaren.dahl@kestrelquay.example\tA\n")
	p.see(".settings", "2 classes in this list")
	p.see(".foot", "Choose the class for 2 parts")
	p.click(`[data-act="add-all"]`)
	p.click(`[data-act="accept"]`)
	p.see("#page-title", "Lighthouse 6A")
	p.el(`.peg[title="Signals 6B"]`)
	p.clickOn("header nav a", "Handouts")
	p.clickOn("button", "New handout")
	p.click(`[data-part="template"]`)
	p.click(`[data-act="write-template"]`)
	p.must(p.el(`[data-form="templates"] input`).Input("Lamp"), "name")
	p.must(p.el(`[data-form="templates"] textarea`).Input("# Lamp\n"), "text")
	p.clickOn(`[data-form="templates"] button`, "Use this document")
	p.see(`[data-act="pack"]`, "Pack 2 copies")
	p.click(`[data-part="who"]`)
	p.click(`[data-act="add-condition"]`)
	p.must(p.el(`[data-condition] .values input`).Input("A"), "value")
	p.press(input.Enter)
	p.see(`[data-act="pack"]`, "Pack one copy")
	p.see(`[data-part="who"]`, "one student of Lighthouse 6A")
	p.see(`tr[data-section="left-out"]`, "does not match the conditions")
	p.see(".choice li.out", "Level is one of A is not true")
	p.clickOn(`tr[data-section="left-out"] button`, "Include") // against the condition
	p.see(`[data-act="pack"]`, "Pack 2 copies")
	// One sits out, and is back.
	p.must(p.el(`tr[data-section="to-pack"]`).Hover(), "hover")
	p.click(`[data-act="sits-out"]`)
	p.see(`tr[data-section="left-out"]`, "sits out this handout")
	p.see(`[data-act="pack"]`, "Pack one copy")
	p.clickOn(`tr[data-section="left-out"] button`, "Include")
	p.see(`[data-act="pack"]`, "Pack 2 copies")

	// Students of other classes, some of them by hand.
	p.enterClass("Signals 6B")
	p.clickOn("header nav a", "Roster")
	p.click(`[data-panel="add"]`)
	p.clickOn("summary", "From other classes")
	p.click(`.add .pick input`)
	p.see(`[data-act="add-chosen"]`, "Add 2 students")
	p.see(".choice li", "Calloway, Iris").MustElement("input").MustClick()
	p.clickOn(`[data-act="add-chosen"]`, "Add one student")
	p.el(`tr[data-student="Wren Ashdown"]`)
	p.until(`() => document.querySelectorAll('tbody tr[data-student]').length === 2`)

	// Two teams, and one moved by dragging.
	p.click(`[data-panel="teams"]`)
	p.click(`[data-act="deal"]`)
	p.el(`[data-team="B"] li`)
	p.page.MustEval(`() => {
		const from = document.querySelector('[data-team="B"] li'), to = document.querySelector('[data-team="A"]')
		const d = new DataTransfer()
		for (const [el, what] of [[from, 'dragstart'], [to, 'dragover'], [to, 'drop']])
			el.dispatchEvent(new DragEvent(what, { dataTransfer: d, bubbles: true, cancelable: true }))
	}`)
	p.until(`() => document.querySelectorAll('[data-team="A"] li').length === 2`)
	p.click(`[data-act="keep-teams"]`)
	p.until(`() => [...document.querySelectorAll('tbody tr[data-student] [data-field="team"]')].every((e) => e.textContent.trim() === 'A')`)
}

// What was typed stands also where the page is loaded again in the same moment, with what
// waited behind it.
func TestTypedAndLeft(t *testing.T) {
	s := start(t)
	p := s.visit(t, `ERR_|Failed to fetch`).at("staff-oduya", "Tide Watch 7B")
	p.click(`header nav a[href$="/roster"]`)
	p.el(`tr[data-student="Nokuthula Dube"]`)
	slow := proto.NetworkEmulateNetworkConditions{Latency: 700, DownloadThroughput: -1, UploadThroughput: -1}
	p.must(slow.Call(p.page), "a slow line")
	for _, field := range []string{"level", "team"} {
		p.click(fmt.Sprintf(`tr[data-student="Nokuthula Dube"] [data-field="%s"]`, field))
		p.press('X', input.Enter)
	}
	p.page.MustEval(`() => location.reload()`)
	for _, field := range []string{"level", "team"} {
		p.until(`(s) => document.querySelector(s)?.textContent.trim() === 'X'`,
			fmt.Sprintf(`tr[data-student="Nokuthula Dube"] [data-field="%s"]`, field))
	}
}
