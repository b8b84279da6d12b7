package e2e

import (
	"strings"
	"testing"
)

// write adds a document that is written on the spot to the sentence.
func (p *person) write(name, text string) {
	p.t.Helper()
	p.click(`[data-part="template"]`)
	p.click(`[data-act="write-template"]`)
	p.fill(`.pop input`, name)
	p.fill(`.pop textarea`, text)
	p.see(".pop button", "Use it").MustClick()
	p.see(`[data-part="document"]`, name)
}

// The four ways are one sentence: each copy, by level, per team, one for all.
func TestWaysOfHandingOut(t *testing.T) {
	s := start(t)
	p := s.visit(t, "").be("staff-oduya")
	p.enterClass("Tide Watch 7B")
	p.click(`[data-act="new-handout"]`)
	p.write("Coast", "# Coast\n\nDraw the coast.\n")
	p.write("Open sea", "# Open sea\n\nDraw the open sea.\n")
	p.see(`[data-act="pack"]`, "Pack 54 copies")
	p.see(`tr[data-section="to-pack"]`, "Coast – Open sea")

	// By level: one document each, and who has no level, or one of no document, is named.
	p.choose(`[data-part="way"]`, "a copy by level")
	p.see(".say", "Their level stands under")
	p.choose(`select[aria-label="Level that Coast is for"]`, "level A")
	p.see(`tr[data-section="needs-fixing"]`, "no document is for level B")
	p.choose(`select[aria-label="Level that Open sea is for"]`, "level B")

	// Per team.
	p.choose(`[data-part="way"]`, "one copy per team")
	p.choose(`[data-part="by"]`, "Boat group")
	p.see(".say", "Other teams see nothing of it")
	p.see(`tr[data-section="to-pack"]`, "Heron – Coast")

	// One for all.
	p.choose(`[data-part="way"]`, "one document")
	p.see(".say", "28 people, 2 documents. No copies are made.")
	p.see(`[data-part="document"]`, "Open sea").MustClick()
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
