package doorcheck_test

import (
	"fmt"
	"runtime"
	"testing"

	"jollysatchel/internal/core/access"
	. "jollysatchel/internal/core/doorcheck"
	"jollysatchel/internal/core/packing"
)

// BenchmarkCheck checks a class of 2,000 students with 20 things each, one of a hundred of them
// changed behind our back.
func BenchmarkCheck(b *testing.B) {
	t := &town{World: World{Folder: "class", Owner: "oduya", Staff: []string{"lindqvist"}, At: noon, People: map[string]bool{}}}
	for i := range 2000 {
		t.students = append(t.students, fmt.Sprint("s", i))
		t.People[t.students[i]] = true
	}
	t.add(packing.ClassFolder, "class", "", "", "oduya", access.Rule{Grants: map[string]access.Level{"lindqvist": access.Edit}, StandsAlone: true})
	t.add(packing.Shelf, "shelf", "", "class", "oduya", all(t.students, access.Read))
	t.add(packing.Table, "table", "", "class", "oduya", all(t.students, access.Edit))
	t.add(packing.Cloakroom, "cloakroom", "", "class", "oduya", access.Rule{})
	for i, s := range t.students {
		row := fmt.Sprint("-", i)
		t.add(packing.Satchel, "satchel", row, "cloakroom", "oduya", all([]string{s}, access.Edit))
		for j := range 20 {
			t.add(packing.Copy, fmt.Sprint("copy", j), row, "satchel"+row, "oduya", all([]string{s}, access.Edit))
		}
	}
	planted := 0
	for i := 10; i < len(t.Found); i += 100 {
		t.Found[i].Rule.Grants["stranger"] = access.Read
		planted++
	}
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	n := 0
	for b.Loop() {
		if got := len(Check(t.World).Differences); got != planted {
			b.Fatalf("%d of %d found", got, planted)
		}
		n++
	}
	runtime.ReadMemStats(&after)
	b.ReportMetric(float64(after.TotalAlloc-before.TotalAlloc)/float64(n)/(1<<20), "MB/check")
}
