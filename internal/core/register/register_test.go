package register_test

import (
	"fmt"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	. "jollysatchel/internal/core/picture/picturetest"
	"jollysatchel/internal/core/progress"
	"jollysatchel/internal/core/register"
	"jollysatchel/internal/core/room"
)

// of are the facts about a class of which nobody opened or wrote anything yet.
func of(p *picture.Picture) *register.Facts {
	w := &register.Work{Works: map[string]ledger.Work{}, Opened: map[ledger.Opening]time.Time{}, Words: map[string][]progress.Tally{}}
	for i := 6; i >= 0; i-- {
		w.Days = append(w.Days, time.Date(2026, 11, 30-i, 0, 0, 0, 0, time.UTC))
	}
	return &register.Facts{Picture: p, Work: w}
}

// write has a student's copy of a handout have so many words more than it was given with.
func write(f *register.Facts, e *ledger.Entry, words int) {
	See(f.Picture, e, func(st *ledger.Seen) { st.Version, st.ChangedAt = 2, Noon.AddDate(0, 0, 1) })
	f.Works[e.Thing] = ledger.Work{Thing: e.Thing, Version: 2, Begun: true, Added: words}
	f.Words[e.Thing] = []progress.Tally{{Day: f.Days[5], Added: words / 2}, {Day: f.Days[6], Added: words}}
}

func ExampleFacts_Register() {
	p := Pack(Of(Class(2), Handout("h", "Charts")))
	f := of(p)
	write(f, Copy(p, "h", 0), 12)
	r := f.Register(p.Lacking())
	for i, st := range r.Class.Students {
		fmt.Println(st.CallName(), r.Columns[1].Cells[i].State, r.Columns[1].Cells[i].Words)
	}
	// Output:
	// Given0 Family0 working 12
	// Given1 Family1 shared 0
}

// The state of a cell follows from what is there, who has it, and what came of it.
func TestStates(t *testing.T) {
	for _, c := range []struct {
		what  string
		do    func(f *register.Facts, e *ledger.Entry)
		want  progress.State
		words int
	}{
		{"made and given", func(*register.Facts, *ledger.Entry) {}, progress.Shared, 0},
		{"opened", func(f *register.Facts, e *ledger.Entry) {
			f.Opened[ledger.Opening{Thing: e.Thing, Account: "s0"}] = Noon
		}, progress.Opened, 0},
		{"opened by another", func(f *register.Facts, e *ledger.Entry) {
			f.Opened[ledger.Opening{Thing: e.Thing, Account: "s1"}] = Noon
		}, progress.Shared, 0},
		{"written", func(f *register.Facts, e *ledger.Entry) { write(f, e, 8) }, progress.Working, 8},
		{"kept as it was", func(f *register.Facts, e *ledger.Entry) {
			write(f, e, 0)
			f.Works[e.Thing] = ledger.Work{Version: 2}
		}, progress.Shared, 0},
		{"taken away in the cupboard", func(f *register.Facts, e *ledger.Entry) {
			See(f.Picture, e, func(st *ledger.Seen) { st.Rule = access.Rule{} })
		}, progress.NotShared, 0},
		{"binned", func(f *register.Facts, e *ledger.Entry) {
			See(f.Picture, e, func(st *ledger.Seen) { st.Place = ledger.InBin })
		}, progress.NotShared, 0},
		{"never made", func(f *register.Facts, e *ledger.Entry) { delete(f.Entries, e.Key) }, progress.NotMade, 0},
		{"never made, and stuck", func(f *register.Facts, e *ledger.Entry) {
			delete(f.Entries, e.Key)
			f.Stuck[e.Key] = ledger.Step{Step: packing.Step{Reason: &packing.Reason{Code: "cupboard-refused"}}}
		}, progress.Stuck, 0},
		{"its student isn't known any more", func(f *register.Facts, e *ledger.Entry) {
			f.Students[0].Problem = &packing.Reason{Code: "account-unknown"}
		}, progress.Stuck, 0},
		{"made for one who has no account yet", func(f *register.Facts, e *ledger.Entry) {
			f.Students[0].Account, f.Students[0].Waits = "", &packing.Reason{Code: "no-address"}
		}, progress.Waits, 0},
		{"never made for one who has no account", func(f *register.Facts, e *ledger.Entry) {
			delete(f.Entries, e.Key)
			f.Students[0].Account, f.Students[0].Waits = "", &packing.Reason{Code: "no-address"}
		}, progress.NotMade, 0},
		{"never made for one who is left out", func(f *register.Facts, e *ledger.Entry) {
			delete(f.Entries, e.Key)
			f.Handouts[0].Settings.Out = map[string]string{"r0": handout.SitsOut}
		}, progress.Out, 0},
	} {
		p := Pack(Of(Class(2), Handout("h", "Charts")))
		f := of(p)
		c.do(f, Copy(p, "h", 0))
		cell := f.Register(p.Lacking()).Columns[1].Cells[0]
		if cell.State != c.want || cell.Words != c.words || (c.want == progress.Stuck || c.want == progress.Waits) != (cell.Reason != nil) {
			t.Errorf("%s: it is %s with %d words, %+v; want %s with %d", c.what, cell.State, cell.Words, cell.Reason, c.want, c.words)
		}
	}
}

// Of several documents the one that has come furthest is shown, with the words of all; each is as
// full as its part of what half of the class has.
func TestSeveralDocuments(t *testing.T) {
	h := Handout("h", "Charts")
	h.Settings.Documents = append(h.Settings.Documents, handout.GivenDocument{Slot: 2, Template: "t"})
	p := Pack(Of(Class(3), h))
	f := of(p)
	second := func(i int) *ledger.Entry {
		return p.Entries[handout.CopyKey("c", "h", 2, packing.Whom{Row: fmt.Sprint("r", i)})]
	}
	write(f, Copy(p, "h", 0), 10)
	write(f, second(0), 30)
	write(f, second(1), 40)
	col := f.Register(p.Lacking()).Columns[1]
	if a := col.Cells[0]; a.State != progress.Working || a.Words != 40 || a.Fill != 50 || len(a.Each) != 2 ||
		a.Each[0].Fill != 25 || a.Each[1].Fill != 75 {
		t.Errorf("the first has %+v", a)
	}
	if b := col.Cells[1]; b.State != progress.Working || b.Words != 40 || b.Each[0].State != progress.Shared {
		t.Errorf("the second has %+v", b)
	}
	if c := col.Cells[2]; c.State != progress.Shared || c.Fill != 0 {
		t.Errorf("the third has %+v", c)
	}
	f.Works[second(2).Thing] = ledger.Work{Version: 2, Begun: true, Uncounted: true}
	See(p, second(2), func(st *ledger.Seen) { st.Version = 2 })
	if c := f.Register(p.Lacking()).Columns[1].Cells[2]; !c.Uncounted || c.Fill != 50 {
		t.Errorf("one whose words can't be counted has %+v", c)
	}
}

// A week's words are a student's own of each day; the last change is the latest of all.
func TestWeek(t *testing.T) {
	p := Pack(Of(Class(2), Handout("h1", "Charts"), Handout("h2", "Tides")))
	f := of(p)
	write(f, Copy(p, "h1", 0), 10)
	write(f, Copy(p, "h2", 0), 20)
	r := f.Register(p.Lacking())
	if want := [][]int{{0, 0, 0, 0, 0, 15, 15}, make([]int, 7)}; !reflect.DeepEqual(r.Week, want) {
		t.Errorf("the week has %v, want %v", r.Week, want)
	}
	if !r.Changed[0].Equal(Noon.AddDate(0, 0, 1)) || !r.Changed[1].IsZero() {
		t.Errorf("last changes are %v", r.Changed)
	}
}

// Students are told apart where two are called the same, accents and case aside.
func TestTwins(t *testing.T) {
	p := Pack(Of(Class(4), Handout("h1", "Charts")))
	for i, called := range []string{"Rowan Marsh", "Élodie Roy", "elodie  roy", "Rowan Marshall"} {
		given, family, _ := strings.Cut(called, " ")
		p.Students[i].Given, p.Students[i].Family = given, strings.TrimSpace(family)
	}
	f := of(p)
	reg := f.Register(p.Lacking())
	want := map[string]bool{p.Students[1].ID: true, p.Students[2].ID: true}
	if !reflect.DeepEqual(reg.Twins, want) {
		t.Errorf("%v, want %v", reg.Twins, want)
	}
	for i, st := range p.Students {
		panel, _, _ := f.Panel(reg, st.ID, nil, func(string) string { return "" }, Noon)
		if panel.Twin != want[st.ID] {
			t.Errorf("the panel of student %d says %v", i, panel.Twin)
		}
	}
}

// What needs attention is counted once, for everyone it concerns.
func TestAttention(t *testing.T) {
	due := func(day int) time.Time { return time.Date(2026, 11, day, 17, 0, 0, 0, time.UTC) }
	today, tomorrow, later := Handout("h1", "Charts"), Handout("h2", "Tides"), Handout("h3", "Wind")
	today.Due, tomorrow.Due, later.Due = due(30), due(31), due(27)
	tomorrow.SendProblem = &packing.Reason{Code: "not-ready"}
	p := Pack(Of(Class(3), today, tomorrow, later))
	f := of(p)
	write(f, Copy(p, "h1", 0), 5)
	delete(f.Entries, Copy(p, "h3", 1).Key)
	f.Stuck[Copy(p, "h3", 2).Key] = ledger.Step{}
	f.Students[2].Problem = &packing.Reason{Code: "account-other-name"}
	f.Students[1].Account, f.Students[1].Waits = "", &packing.Reason{Code: "no-address"}
	got := map[string]int{}
	for _, n := range f.Attention(p.Lacking(), "2026-11-30") {
		got[n.Reason.Code+n.About] = n.Count
		if n.About == "h1" && (n.Reason.Args["idle"] != "0" || n.Reason.Args["all"] != "2") {
			t.Errorf("due today: %v", n.Reason.Args)
		}
	}
	want := map[string]int{"handouts-unsent": 1, "students-unknown": 1, "students-waiting": 1, "students-missing": 1, "due-todayh1": 1, "due-tomorrowh2": 1}
	if !reflect.DeepEqual(got, want) {
		t.Errorf("it says %v, want %v", got, want)
	}
	if notes := of(Of(Class(3))).Attention(picture.Lacking{}, "2026-11-30"); len(notes) != 0 {
		t.Errorf("of a room that isn't packed: %+v", notes)
	}
}

// A panel has all of a student's, who reaches each and where it is; of what they took into a
// folder of their own only the cupboard knows.
func TestPanel(t *testing.T) {
	h := Handout("h", "Charts")
	h.Settings.Passing = "read"
	p := Of(Class(2), h)
	p.LetIn["h"] = map[string][]string{"r0": {"s"}, "r1": {"r0"}}
	p = Pack(p)
	f := of(p)
	called := func(account string) string { return "<" + account + ">" }
	panel := func(row string) (register.Panel, []int, bool) {
		return f.Panel(f.Register(p.Lacking()), row, f.WantedParents(), called, Noon)
	}
	x, strayed, ok := panel("r1")
	if !ok || len(strayed) != 0 || len(x.Things) != 2 || x.Things[0].Handout != nil || x.Things[1].Handout.ID != "h" {
		t.Fatalf("%+v, %v, %v", x, strayed, ok)
	}
	var who []string
	for _, r := range x.Things[1].Reach {
		who = append(who, fmt.Sprint(r.As, " ", r.Name, " ", r.Level))
	}
	if want := []string{"student <s1> edit", "owner <oduya> owner", "staff <ash> comment", "mate <s0> read"}; !slices.Equal(who, want) {
		t.Errorf("it is reached by %v, want %v", who, want)
	}
	satchel := p.Entries[room.SatchelKey("c", "r1")]
	if want := []string{"Cloakroom", satchel.Name}; !slices.Equal(x.Things[1].Where[:2], want) {
		t.Errorf("it lies in %v, want %v first", x.Things[1].Where, want)
	}
	See(p, Copy(p, "h", 1), func(st *ledger.Seen) { st.Parent = "their own" })
	if x, strayed, _ = panel("r1"); !slices.Equal(strayed, []int{1}) || x.Things[1].Reach != nil {
		t.Errorf("of one in a folder of their own, %v strayed and %v", strayed, x.Things[1].Reach)
	}
	if _, _, ok = panel("nobody"); ok {
		t.Error("there is a panel of nobody")
	}
}
