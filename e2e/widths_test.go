package e2e

import (
	"testing"

	"github.com/go-rod/rod"
)

// The widths that pages are looked at: a small phone, a phone, a tablet, two desks.
var widths = []int{320, 390, 768, 1280, 1920}

// wide finds what is wider than its window: the page itself, or a part of it that would have to be
// moved sideways and isn't marked as one that is.
const wide = `() => {
	const out = []
	const name = (e) => e.tagName.toLowerCase() + [...e.classList].map((c) => '.' + c).join('')
	if (document.documentElement.scrollWidth > innerWidth) out.push('the page: ' + document.documentElement.scrollWidth)
	for (const e of document.querySelectorAll('body *')) {
		if (e.closest('[data-sideways]') || e.closest('.visually-hidden, svg')) continue
		const overflow = getComputedStyle(e).overflowX
		if ((overflow === 'auto' || overflow === 'scroll') && e.scrollWidth > e.clientWidth + 1 && e.clientWidth)
			out.push(name(e) + ': ' + e.scrollWidth + ' in ' + e.clientWidth)
		let cut = false // what is cut off by what it is in, with dots
		for (let up = e.parentElement; up && !cut; up = up.parentElement)
			cut = getComputedStyle(up).overflowX !== 'visible' && up.getBoundingClientRect().right <= innerWidth + 1
		if (cut) continue
		const r = e.getBoundingClientRect()
		if (r.width && r.height && r.right > innerWidth + 1 && overflow === 'visible') out.push(name(e) + ' ends at ' + Math.round(r.right))
	}
	return out.slice(0, 4).join('; ')
}`

// What a first page loads of scripts, compressed, has a bound: for a teacher and for a student.
func TestFirstPageIsLight(t *testing.T) {
	s := start(t)
	for account, most := range map[string]int{"staff-oduya": 300_000, "student-nokuthula.dube": 200_000} {
		p := s.visit(t, "").be(account)
		p.until(`() => document.querySelector('main a') && performance.getEntriesByType('resource').length > 5`)
		bytes := p.page.MustEval(`() => performance.getEntriesByType('resource')
			.filter((e) => new URL(e.name).pathname.endsWith('.js')).reduce((n, e) => n + e.encodedBodySize, 0)`).Int()
		t.Logf("%s: %d kB of scripts", account, bytes/1000)
		if bytes == 0 || bytes > most {
			t.Errorf("%s loads %d bytes of scripts, %d at most", account, bytes, most)
		}
	}
}

// No page is wider than its window.
func TestWidths(t *testing.T) {
	s := start(t)
	class := func(p *person) string { return p.page.MustInfo().URL[len(s.url):] }
	for _, who := range []struct {
		account string
		pages   func(p *person) []string
	}{
		{"staff-oduya", func(p *person) []string {
			p.at("staff-oduya", "Tide Watch 7B")
			c := class(p)
			p.open(c+"/handouts").see("a", "Rock-pool field log")
			packed := *p.see("main a", "Rock-pool field log").MustAttribute("href")
			return []string{"/", c, c + "/handouts", packed, c + "/room", c + "/roster", c + "/doors", c + "/log", c + "/slips",
				"/everywhere", "/book", "/account", "/bin", "/nowhere"}
		}},
		{"office", func(p *person) []string {
			p.be("office")
			return []string{"/", "/settings", "/standins", "/postroom", "/book"}
		}},
		{"student-nokuthula.dube", func(p *person) []string {
			p.be("student-nokuthula.dube")
			copied := *p.el("main a[href^='/things/']").MustAttribute("href")
			return []string{"/", copied, "/account", "/bin", "/nowhere"}
		}},
	} {
		t.Run(who.account, func(t *testing.T) {
			p := s.visit(t, "")
			for _, path := range who.pages(p) {
				p.size(1280, 800)
				p.open(path).el("h1")
				p.until(`() => !document.querySelector('.waiting')`)
				for _, w := range widths {
					p.size(w, 844)
					got, err := p.page.Evaluate(rod.Eval(wide))
					p.must(err, "looking at "+path)
					if found := got.Value.Str(); found != "" {
						t.Errorf("%s at %d: %s", path, w, found)
					}
				}
			}
		})
	}
}
