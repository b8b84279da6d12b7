package e2e

import (
	"os/exec"
	"regexp"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/proto"
)

var beginning = regexp.MustCompile(`/begin#\w+`)

// first is the address of the first start that the program printed.
func (s *server) first() string {
	s.t.Helper()
	line := <-s.said
	at := beginning.FindString(line)
	if at == "" {
		s.t.Fatalf("it says %q", line)
	}
	return at
}

// From the address that is printed once to the first packed class: the office brings in
// the school's people, a teacher signs in with a slip's code, adds a class and packs.
func TestFirstStartToFirstClass(t *testing.T) {
	s := serve(t)
	at := s.first()
	o := s.visit(t, "404|401|422").open(at)
	o.see("h1", "Set up your school")
	o.looked("setting up the school", false)
	o.size(1280, 800)
	o.fill(`[data-field="name"]`, "Kestrel Quay School")
	o.fill(`[data-field="domain"]`, "kestrelquay.example")
	o.fill(`[data-field="given"]`, "Harbour")
	o.fill(`[data-field="family"]`, "Office")
	o.fill(`[data-field="address"]`, "office@kestrelquay.example")
	o.fill(`[data-field="password"]`, "password1234")
	o.click(`[data-act="begin"]`)
	o.see(".bad", "easy to guess")
	o.fill(`[data-field="password"]`, "low water at eleven")
	o.click(`[data-act="begin"]`)
	o.see("h1", "School book")
	other := s.visit(t, "404").open(at)
	other.see("h1", "no longer works")

	o.click(`[data-act="book-list"]`)
	o.fill(`[data-form="book-list"] textarea`,
		"No\tGiven name\tFamily name\tEmail\n1\tNokuthula\tDube\tdube@kestrelquay.example\n2\tTariq\tBensaïd\tbensaid@kestrelquay.example\n3\tWren\tAshdown\tnowhere\n")
	o.click(`[data-act="look-list"]`)
	o.see(`[data-count="wrong"]`, "1 left out")
	o.see(`[data-line="wrong"]`, "nowhere")
	o.click(`[data-act="bring-list"]`)
	o.see(`[data-account="dube@kestrelquay.example"]`, "no password yet")
	o.click(`[data-act="new-account"]`)
	o.fill(`[data-panel="account"] [data-field="given"]`, "Ifeoma")
	o.fill(`[data-panel="account"] [data-field="family"]`, "Oduya")
	o.fill(`[data-panel="account"] [data-field="address"]`, "oduya@kestrelquay.example")
	o.clickOn(`[data-panel="account"] label`, "teacher")
	o.click(`[data-act="keep-account"]`)
	o.see(`[data-account="oduya@kestrelquay.example"]`, "Oduya")
	o.clickOn(`[data-account="oduya@kestrelquay.example"] button`, "Oduya")
	o.click(`[data-act="code"]`)
	code := o.see(`[data-slip="oduya@kestrelquay.example"] .code`, "-").MustText()

	teacher := s.visit(t, "401|404").open("/sign-in")
	enter := func(p *person, password string) {
		p.click(`[data-act="first"]`)
		p.fill("#first-address", "oduya@kestrelquay.example")
		p.fill("#first-code", strings.ToLower(code))
		p.fill("#first-password", password)
		p.click(`[data-form="first-sign-in"] button[type="submit"]`)
	}
	enter(teacher, "tide pools and rope")
	teacher.see("h1", "Good")
	again := s.visit(t, "401|404|422").open("/sign-in") // the slip is used up
	enter(again, "somebody else's words")
	again.see(".bad", "does not work")

	teacher.click(".add-class")
	teacher.fill("#class-name", "Tide Watch 7B")
	teacher.clickOn(`[data-part="new-class"] button`, "Add")
	teacher.see("#page-title", "Tide Watch 7B")
	teacher.paste(".paste", "Surname\tFirst\tEmail\nDube\tNokuthula\tdube@kestrelquay.example\nBensaïd\tTariq\tbensaid@kestrelquay.example\n")
	teacher.click(`[data-act="accept"]`)
	teacher.see(".places", "Cloakroom")
	teacher.click(`[data-act="pack"]`)
	teacher.see(".note", "2 of 2 satchels are shared")

	teacher.gone(`[data-run-state="packing"]`)
	// The office says yes to the class: its teachers may print codes for those on its list.
	class, _, _ := strings.Cut(strings.TrimPrefix(teacher.page.MustInfo().URL, s.url+"/classes/"), "/")
	o.open("/classes/" + class + "/roster")
	o.clickOn(`[data-act="place"]`, "all 2")
	o.see(`[data-part="placing"]`, "can now print sign-in codes for 2 students")
	teacher.clickOn("header nav a", "Doors")
	teacher.click(`[data-act="links"]`)
	teacher.click(`[data-act="class-codes"]`)
	teacher.see(`[data-slip="dube@kestrelquay.example"]`, "Nokuthula Dube")
	if n := teacher.count("[data-slip]"); n != 2 {
		t.Errorf("%d slips for the class", n)
	}
	// On paper there is nothing but the slips.
	teacher.must(proto.EmulationSetEmulatedMedia{Media: "print"}.Call(teacher.page), "print")
	paper := teacher.page.MustEval(`() => document.body.innerText`).Str()
	teacher.must(proto.EmulationSetEmulatedMedia{Media: "screen"}.Call(teacher.page), "screen")
	if strings.Count(paper, "Kestrel Quay School") != 2 || strings.Contains(paper, "Register") || strings.Contains(paper, "Print") {
		t.Errorf("on paper:\n%s", paper)
	}
	teacher.clickOn(`[data-form="codes"] .bar button`, "Done")

	// A lost office account is mended beside the running program.
	cmd := exec.Command(program, "office", "office@kestrelquay.example")
	cmd.Env = s.env
	out, err := cmd.CombinedOutput()
	if err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	mended := s.visit(t, "404").open(beginning.FindString(string(out)))
	mended.see("h1", "Repair your account")
	mended.fill(`[data-field="given"]`, "Harbour")
	mended.fill(`[data-field="family"]`, "Office")
	mended.fill(`[data-field="password"]`, "another set of words")
	mended.click(`[data-act="begin"]`)
	mended.see("h1", "School book")

	// Who is switched off is out at once, also of the page that is open.
	mended.clickOn(`[data-account="oduya@kestrelquay.example"] button`, "Oduya")
	mended.click(`[data-act="switch"]`)
	mended.see(`[data-account="oduya@kestrelquay.example"]`, "switched off")
	teacher.clickOn("header nav a", "Roster")
	teacher.see("h1", "Good to see you")
}

// A teacher adds an assistant, who then sees and tracks and packs nothing; taken off the
// staff they see nothing, also on the page that is open. The office makes another the owner.
func TestStaffOfAClass(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Boat Workshop 8A")
	p.click(`[data-act="staff"]`)
	p.fill(`[data-form="staff"] input`, "amar ri")
	p.see(`[data-offered="rita.amaral@kestrelquay.example"]`, "Rita Amaral")
	p.click(`[data-act="add-assistant"]`)
	p.see(`[data-staff="Rita Amaral"]`, "assistant")
	p.gone(`[data-run-state="packing"]`)
	rita := s.visit(t, "404").at("staff-amaral", "Boat Workshop 8A")
	rita.see(`tr[data-student="Amara Abiodun"]`, "Abiodun")
	rita.clickOn("header nav a", "Handouts")
	rita.clickOn(`[data-handout="Knot card"]`, "begun")
	rita.see(".say", "Knot card")
	if n := rita.count(`[data-act="pack"]:not([disabled]), [data-act="new-handout"]`); n > 0 {
		t.Errorf("an assistant could pack: %d", n)
	}
	p.choose(`[data-staff="Rita Amaral"] select`, "not on the staff")
	p.gone(`[data-staff="Rita Amaral"]`)
	rita.see("h1", "does not exist") // on the page that is open

	o := s.visit(t, "").be("office")
	o.enterAsOffice("Boat Workshop 8A")
	p.gone(`[data-run-state="packing"]`)
	o.click(`[data-act="staff"]`)
	o.click(`[data-staff="Mats Lindqvist"] [data-act="make-owner"]`)
	o.see(`[data-staff="Mats Lindqvist"]`, "passes to Mats Lindqvist")
	o.click(`[data-act="own"]`)
	o.see(`[data-staff="Mats Lindqvist"]`, "owner")
	o.see(`[data-staff="Ifeoma Oduya"]`, "co-teacher")
}
