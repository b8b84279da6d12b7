package e2e

import (
	"fmt"
	"os"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/proto"
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

// order finds where the tabulator goes back up or to the left: to something that stands wholly above
// or before what it comes from and doesn't begin a column of its own to the right.
const order = `() => {
	const seen = (e) => e.getClientRects().length && getComputedStyle(e).visibility === 'visible' && !e.closest('[inert]')
	const all = [...document.querySelectorAll('a[href], button, input, select, textarea, summary, [tabindex]')]
		.filter((e) => !e.disabled && e.tabIndex >= 0 && seen(e))
	const name = (e) => e.tagName.toLowerCase() + ' “' + (e.getAttribute('aria-label') || e.innerText || e.title || e.className).trim().slice(0, 30) + '”'
	const place = (e, other) => { // what is moved out of sight stands at the edge of what it is in and the other isn't
		let { top, bottom, left, right } = e.getBoundingClientRect()
		for (let up = e.parentElement; up && !up.contains(other); up = up.parentElement) {
			if (getComputedStyle(up).overflowY === 'visible' || up.scrollHeight <= up.clientHeight) continue
			const box = up.getBoundingClientRect()
			top = Math.min(Math.max(top, box.top), box.bottom - 1)
			bottom = Math.max(Math.min(bottom, box.bottom), box.top + 1)
		}
		return { top, bottom, left, right }
	}
	const out = all.filter((e) => e.tabIndex > 0).map((e) => name(e) + ' has a place of its own')
	for (let i = 1; i < all.length; i++) {
		const a = place(all[i - 1], all[i]), b = place(all[i], all[i - 1])
		if (b.bottom <= a.top + 2 && b.left < a.right - 2 || b.right <= a.left + 2 && b.top < a.bottom - 4 && b.bottom > a.top + 4)
			out.push(name(all[i - 1]) + ' to ' + name(all[i]))
	}
	return out.slice(0, 4).join('; ')
}`

// small finds what a finger misses: of what is no link within a text, what is less than 44 px high or wide.
const small = `() => [...document.querySelectorAll('a[href], button, input, select, textarea, summary')].filter((e) => {
	const r = (e.closest('label') ?? e).getBoundingClientRect()
	const inText = getComputedStyle(e).display === 'inline' && [...e.parentElement.childNodes].some((n) => n.nodeType === 3 && /\p{L}/u.test(n.data))
	return r.width && r.height && !inText && !e.closest('.visually-hidden') && (r.height < 43.5 || r.width < 43.5)
}).map((e) => e.tagName.toLowerCase() + ' “' + (e.getAttribute('aria-label') || e.innerText || e.title || e.className).trim().slice(0, 30) + '” ' +
	Math.round(e.getBoundingClientRect().width) + '×' + Math.round(e.getBoundingClientRect().height)).slice(0, 12).join('; ')`

// looked has a page looked at in every width, in both themes, and with the tabulator. A student's has targets
// for a finger.
func (p *person) looked(what string, student bool) {
	p.t.Helper()
	find := func(script, how string) {
		p.t.Helper()
		got, err := p.page.Evaluate(rod.Eval(script))
		p.must(err, "looking at "+what)
		if found := got.Value.Str(); found != "" {
			p.t.Errorf("%s, %s: %s", what, how, found)
		}
	}
	for _, w := range widths {
		p.size(w, 844)
		find(wide, fmt.Sprint("at ", w))
		if student && w == 390 {
			find(small, "for a finger")
		}
		if w == 1280 {
			find(order, "by the tabulator")
			p.accessible(what, "")
			p.scheme("dark")
			p.accessible(what+" in the dark", "color-contrast")
			p.scheme("light")
		}
	}
}

// scheme is what the device says it likes: "light" or "dark", and nothing that moves.
func (p *person) scheme(which string) {
	p.must(proto.EmulationSetEmulatedMedia{Features: []*proto.EmulationMediaFeature{
		{Name: "prefers-color-scheme", Value: which}, {Name: "prefers-reduced-motion", Value: "reduce"}}}.Call(p.page), "the scheme")
	p.page.MustEval(`() => new Promise((seen) => requestAnimationFrame(() => requestAnimationFrame(seen)))`)
}

// elsewhere are the pages that are looked at where there is something on them.
var elsewhere = map[string]string{"/begin": "TestFirstStartToFirstClass", "/join/:link": "TestAskedToBeLetIn",
	"/mates/:handoutId": "TestClassmatesRead", "/go/:link": "it leads on at once"}

// Every page is looked at.
func TestEveryPage(t *testing.T) {
	s := start(t, "-at", "2026-11-25T11:40:00Z")
	class := func(p *person) string { return p.page.MustInfo().URL[len(s.url):] }
	all := []string{"/sign-in"}
	var mu sync.Mutex
	t.Run("people", func(t *testing.T) {
		for _, who := range []struct {
			account string
			pages   func(p *person) []string
		}{
			{"staff-oduya", func(p *person) []string {
				p.at("staff-oduya", "Tide Watch 7B")
				c := class(p)
				p.open(c+"/handouts").see("a", "Rock-pool field log")
				packed := *p.see("main a", "Rock-pool field log").MustAttribute("href")
				p.open(c).click(`tr[data-student="Nokuthula Dube"] th button`)
				eyes := *p.el(`[data-act="eyes"]`).MustAttribute("href")
				satchel := *p.el(`[data-act="open"]`).MustAttribute("href")
				return []string{"/", c, c + "/handouts", packed, c + "/room", c + "/roster", c + "/doors", c + "/links", c + "/log", c + "/slips",
					eyes, satchel, "/everywhere", "/book", "/account", "/bin", "/nowhere"}
			}},
			{"office", func(p *person) []string {
				p.be("office")
				return []string{"/", "/settings", "/standins", "/postroom", "/log", "/doors", "/doors/student-nokuthula.dube", "/book"}
			}},
			{"student-nokuthula.dube", func(p *person) []string {
				p.open("/sign-in").el("[data-person]")
				p.looked("sign-in", false)
				p.be("student-nokuthula.dube")
				copied := *p.el("main a[href^='/things/']").MustAttribute("href")
				satchel := *p.el("[data-satchel] a").MustAttribute("href")
				return []string{"/", copied, satchel, "/account", "/bin", "/nowhere", "/door/x"}
			}},
		} {
			t.Run(who.account, func(t *testing.T) {
				p := s.visit(t, "404.*/api/door/x")
				for _, path := range who.pages(p) {
					mu.Lock()
					all = append(all, path)
					mu.Unlock()
					p.size(1280, 800)
					p.open(path).el("h1")
					p.until(`() => !document.querySelector('.waiting')`)
					p.looked(path+" of "+who.account, strings.HasPrefix(who.account, "student"))
				}
			})
		}
	})
	router, err := os.ReadFile("../ui/src/router.ts")
	if err != nil {
		t.Fatal(err)
	}
	above := ""
	for _, m := range regexp.MustCompile(`path: '([^']*)'`).FindAllStringSubmatch(string(router), -1) {
		path := m[1]
		if path == "/classes/:classId" {
			above = path
		}
		if !strings.HasPrefix(path, "/") {
			path = strings.TrimSuffix(above+"/"+path, "/")
		}
		pattern := regexp.MustCompile(`/?:\w+(\(\.\*\)\*|\?)?`).ReplaceAllStringFunc(path, func(s string) string {
			if strings.HasSuffix(s, "?") || strings.HasSuffix(s, "*") {
				return "(/[^/]+)?"
			}
			return "/[^/]+"
		})
		like := regexp.MustCompile("^" + pattern + "$")
		if elsewhere[path] == "" && !slices.ContainsFunc(all, like.MatchString) {
			t.Errorf("nobody looks at %s", path)
		}
	}
}
