package e2e

import (
	"os"
	"path/filepath"
	"testing"
)

// TestScreenshots makes docs/screenshots from the demo data; make screenshots
// calls it with the folder's name.
func TestScreenshots(t *testing.T) {
	dir := os.Getenv("JOLLY_SCREENSHOTS")
	if dir == "" {
		t.Skip("make screenshots asks for pictures")
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
	teacher.see(".desk h2", "Nokuthula")
	pic(teacher, "register")
	teacher.open("/").click(`.peg[title="Boat Workshop 8A"]`)
	teacher.click(`header nav a[href$="/handouts"]`)
	teacher.see(".one", "Chart-reading")
	pic(teacher, "handouts")
	teacher.click(`.one.draft`)
	teacher.click(`[data-part="name"]`)
	teacher.see(".example", "For example")
	pic(teacher, "handout")
	teacher.click(`header nav a[href$="/room"]`)
	teacher.see(".tree", "Cloakroom")
	pic(teacher, "room")
	teacher.open("/").click(`.peg[title="Harbour History 9D"]`)
	teacher.click(`header nav a[href$="/roster"]`)
	teacher.paste(".paste", messyList)
	teacher.see(".lead", "ready")
	pic(teacher, "roster")

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
