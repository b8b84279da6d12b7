package picture_test

import (
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"

	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/picture"
	. "jollysatchel/internal/core/picture/picturetest"
)

var update = flag.Bool("update", false, "write testdata anew")

// Sixty histories of a class, each from its own seed, come to the packing lists they came to when
// testdata/histories.txt was written: what a list says changes on purpose or not at all.
func TestHistories(t *testing.T) {
	var out strings.Builder
	for seed := range uint64(60) {
		fmt.Fprintf(&out, "%d %s\n", seed, history(seed))
	}
	const name = "testdata/histories.txt"
	if *update {
		if err := os.WriteFile(name, []byte(out.String()), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	want, err := os.ReadFile(name)
	if err != nil {
		t.Fatal(err)
	}
	was := strings.Split(string(want), "\n")
	for i, line := range strings.Split(out.String(), "\n") {
		if i >= len(was) || line != was[i] {
			t.Errorf("the lists are %s; -update writes them anew", line)
		}
	}
}

// history has things happen to a class by chance, and tells what its lists are after each.
func history(seed uint64) string {
	r := rand.New(rand.NewPCG(seed, 1))
	c := Class(3 + r.IntN(5))
	p := Of(c, Handout("h1", "Charts"))
	var digests []string
	for n := range 12 {
		students := slices.Clone(p.Students)
		c, hs := p.Class, slices.Clone(p.Handouts)
		c.Students, c.Left = students, slices.Clone(p.Left)
		at, h := r.IntN(len(students)), &hs[r.IntN(len(hs))]
		e := Copy(p, h.ID, at)
		switch act := r.IntN(11); {
		case act < 3:
			p = Pack(p)
			c, hs = p.Class, p.Handouts
		case act == 3:
			hs = append(hs, Handout(fmt.Sprint("h", len(hs)+1), []string{"Charts", "Tides"}[r.IntN(2)]))
		case act == 4 && len(students) > 2:
			c.Left, c.Students = append(c.Left, students[at]), slices.Delete(students, at, at+1)
		case act == 5:
			students[at].Given = fmt.Sprint("Given", r.IntN(3))
		case act == 6:
			h.Settings.Level = []string{"read", "comment", "edit"}[r.IntN(3)]
		case act == 7:
			h.Settings.Out = map[string]string{students[at].ID: handout.SitsOut}
		case act == 8 && e != nil:
			See(p, e, func(st *ledger.Seen) { st.Place = []ledger.Place{ledger.Lies, ledger.InBin, ledger.Gone}[r.IntN(3)] })
		case act == 9 && e != nil:
			See(p, e, func(st *ledger.Seen) { st.Parent, st.Name = "elsewhere", fmt.Sprint("mine ", n) })
		case act == 10:
			c.Staff = append(slices.Clone(c.Staff), classes.Member{ClassID: "c", Account: fmt.Sprint("t", n), Role: classes.Teacher})
		}
		p = With(c, p.Made, hs...)
		digests = append(digests, lists(p))
	}
	return strings.Join(digests, " ")
}

// lists are the digests of a class's lists, beginning with how much each has.
func lists(p *picture.Picture) string {
	l := p.RoomList()
	out := fmt.Sprint(len(l.Lines), ".", l.Digest()[:6])
	for _, h := range p.Handouts {
		l := p.HandoutList(h)
		out += fmt.Sprint("/", len(l.Lines), ".", l.Digest()[:6])
	}
	return out
}
