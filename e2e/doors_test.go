package e2e

import (
	"context"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"
)

// behind changes the storage behind the program's back: as its own owner does, with nothing said to us.
func (s *server) behind(statements ...string) {
	s.t.Helper()
	ctx := context.Background()
	for _, env := range s.env {
		url, ok := strings.CutPrefix(env, "DATABASE_URL=")
		if !ok {
			continue
		}
		db, err := pgx.Connect(ctx, url)
		if err != nil {
			s.t.Fatal(err)
		}
		for _, statement := range statements {
			if tag, err := db.Exec(ctx, statement); err != nil || tag.RowsAffected() != 1 {
				s.t.Fatalf("%s: %v, %v", statement, tag, err)
			}
		}
		if err := db.Close(ctx); err != nil {
			s.t.Fatal(err)
		}
		return
	}
	s.t.Fatal("no database")
}

// Five changes made behind the program's back are found by name and put right in one act; then the
// class is proven, and the check is on record.
func TestDoorCheck(t *testing.T) {
	s := start(t)
	satchel := `(select l.thing::uuid from ledger l join classes c on c.id = l.class_id where c.code = '7B'
		and l.purpose = 'satchel' and l.ended_at is null and l.name like `
	s.behind(
		`update standin.things set grants = grants || '{"student-rowan.marsh": 3}' where id = `+satchel+`'%Dube%')`,
		`update standin.things set grants = '{}' where id = `+satchel+`'%Okafor%')`,
		`update standin.things set school = 1 where id = `+satchel+`'%Castellanos%')`,
		`update standin.things set name = 'Another name' where id = `+satchel+`'%Kaya%')`,
		`update standin.things set stands_alone = true where id = `+satchel+`'%hannsson%')`,
	)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.clickOn("main nav a", "Doors")
	p.see(`[data-part="proof"]`, "7 differences") // two are of a newcomer, for whom nothing was packed yet
	p.see(`[data-kind="extra"]`, "Take Rowan Marsh off")
	p.see(`[data-kind="missing"]`, "Okafor")
	p.see(`[data-kind="open-school"]`, "Shut the link")
	p.see(`[data-kind="lost-to-staff"]`, "Open it to staff again")
	p.see(`[data-kind="renamed"]`, "Another name")
	p.clickOn("main nav a", "Register")
	p.see(`[data-note="doors"]`, "5 doors are not as they should be")
	p.see(`[data-student="Rowan Marsh"] [data-apart]`, "The door check found one difference")
	p.click(`[data-student="Rowan Marsh"] th button`)
	p.click(`[data-act="doors-of"]`)
	p.see("[data-said]", "One difference about Rowan Marsh, of 7")
	p.choose(`[data-field="only"]`, "all differences")
	p.clickOn("main nav a", "Register")
	p.click(`[data-note="doors"]`)
	p.click(`[data-kind="renamed"] input`)
	p.see(`[data-act="mend-doors"]`, "Put 7 right")
	p.click(`[data-act="mend-doors"]`)
	p.see(`[data-part="proof"]`, "No differences")
	p.see(".fine", "Each student can open what is theirs")

	// What somebody reaches, and who reaches something, with why.
	p.clickOn(".ant-segmented-item", "By person")
	p.clickOn(".list button", "Rowan Marsh")
	p.see(`[data-table="reach"]`, "through the folder")
	p.clickOn(".list button", "Oduya")
	p.see(`[data-table="reach"]`, "owner")
	p.clickOn(".ant-segmented-item", "By thing")
	p.click(".list button.folder")
	p.see(`[data-table="reach"]`, "as staff")
	p.clickOn(".ant-segmented-item", "Earlier checks")
	p.see(`[data-table="earlier"]`, "7 differences")
	p.clickOn("main nav a", "Log")
	p.see(`[data-table="log"]`, "put 7 differences at the doors right")

	// What is meant so is left, and asked about again.
	s.behind(`update standin.things set name = 'Ours' where id = ` + satchel + `'%Kaya%')`)
	p.clickOn("main nav a", "Doors")
	p.click(`[data-act="check-doors"]`)
	p.see(`[data-kind="renamed"]`, "Call it Kaya, Deniz again")
	p.click(`[data-act="leave-door"]`)
	p.see(`[data-table="left"]`, "Ours")
	p.see(`[data-part="proof"]`, "No differences")
	p.click(`[data-act="ask-again"]`)
	p.see(`[data-table="differences"]`, "Ours")
}

// The office sees which classes' doors were checked, and has all of them checked.
func TestSchoolDoors(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").be("office").open("/doors")
	p.see(`[data-table="school-doors"]`, "not checked yet")
	p.click(`[data-act="check-all"]`)
	p.see(`[data-table="school-doors"]`, "No differences")
	p.see(".head", "have differences")
	p.clickOn(`[data-table="school-doors"] a`, "Weather Station Club")
	p.see(`[data-part="proof"]`, "No differences")
	p.gone(`[data-act="mend-doors"]`)
	p.gone(`[data-act="links"]`)

	// What one student can open in the whole school.
	p.open("/book").clickOn(`[data-account="nokuthula.dube@kestrelquay.example"] button`, "Dube")
	p.click(`[data-act="reach"]`)
	p.see("h1", "What Nokuthula Dube can open")
	p.see(`[data-class="Tide Watch 7B"]`, "Shelf")
}

// One student is let read and not write, from the packing list; it stands out there, before and after.
func TestLevelForOne(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.clickOn("main nav a", "Handouts")
	p.clickOn("[data-handout]", "Tide-table worksheet")
	p.choose(`select[aria-label="What Marsh, Rowan can do"]`, "can read")
	p.see("[data-levels]", "Marsh, Rowan can read")
	p.see(`[data-section="to-change"]`, "edit → read")
	p.clickOn(".side button", "Pack")
	p.see("main nav a.on", "Register")
	p.clickOn("main nav a", "Doors")
	p.see(`[data-part="proof"]`, "things")
	p.gone(`[data-kind="wrong-level"]`)
	p.clickOn("main nav a", "Handouts")
	p.clickOn("[data-handout]", "Tide-table worksheet")
	p.see("select.odd", "can read")
	p.click(`[data-act="level-alike"]`)
	p.gone("[data-levels]")
}

// At the end a whole class is handed over: counted, with those who stay as they are and why; then the
// students are the owners, and the doors are as they should be.
func TestHandOverClass(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").at("staff-oduya", "Tide Watch 7B")
	p.click(`[data-act="choose"]`)
	p.click(`[data-act="choose-all"]`)
	p.click(`[data-act="hand-over-chosen"]`)
	p.see(`[data-form="handing"]`, "25 students will own")
	p.see(`[data-form="handing"]`, "has nothing here")
	p.see(`[data-form="handing"]`, "Staff can still open it")
	p.click(`[data-act="hand-over"]`)
	p.see("[data-told]", "Handing over to 25 students")
	p.see(".belt", "25 of 25")
	p.clickOn("main nav a", "Doors")
	p.see(`[data-part="proof"]`, "things")
	p.gone(`[data-kind="wrong-owner"]`)
	p.clickOn("main nav a", "Handouts")
	p.clickOn("[data-handout]", "Knot card")
	p.see(`[data-section="left-out"]`, "handed over: it is the student’s own")
}
