package classroom_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/app/apptest"
	"jollysatchel/internal/classroom"
	"jollysatchel/internal/core/record"
)

// BenchmarkLargeClass brings in and accepts a class of 2,000, changes one cell,
// and packs nothing.
func BenchmarkLargeClass(b *testing.B) {
	const n = 2000
	a := apptest.Open(b)
	apptest.People(b, a, n)
	list := apptest.List(n)
	var bring, accept, cell, again []float64
	for b.Loop() {
		c, err := a.Rooms.CreateClass(ctx, "oduya", "", "Whole year", "")
		if err != nil {
			b.Fatal(err)
		}
		began := time.Now()
		d, err := a.Rooms.BringDraft(ctx, "oduya", c.ID, "", strings.NewReader(list))
		if err != nil {
			b.Fatal(err)
		}
		bring = append(bring, time.Since(began).Seconds())
		began = time.Now()
		if _, err := a.Rooms.Accept(ctx, "oduya", c.ID, d.LookedAt()); err != nil {
			b.Fatal(err)
		}
		accept = append(accept, time.Since(began).Seconds())
		row := apptest.Load(b, a, c.ID).Students[0].ID
		began = time.Now()
		if _, err := a.Rooms.EditRoster(ctx, "oduya", c.ID, []classroom.CellEdit{{Row: row, Field: record.Level, Value: "B"}}); err != nil {
			b.Fatal(err)
		}
		cell = append(cell, time.Since(began).Seconds())
		began = time.Now()
		if d, err = a.Rooms.BringDraft(ctx, "oduya", c.ID, "", strings.NewReader(list)); err != nil {
			b.Fatal(err)
		}
		again = append(again, time.Since(began).Seconds())
		if err := a.Rooms.DropDraft(ctx, "oduya", c.ID, d.LookedAt()); err != nil {
			b.Fatal(err)
		}
	}
	report(b, "bring", bring)
	report(b, "accept", accept)
	report(b, "cell", cell)
	report(b, "compare", again)
}

func report(b *testing.B, what string, seconds []float64) {
	b.ReportMetric(median(seconds)*1000, what+"-ms")
}

func median(x []float64) float64 {
	s := append([]float64{}, x...)
	for i := range s {
		for j := i; j > 0 && s[j] < s[j-1]; j-- {
			s[j], s[j-1] = s[j-1], s[j]
		}
	}
	return s[len(s)/2]
}

// BenchmarkLongList pastes 100,000 rows, corrects a cell of them, and meanwhile
// another class is looked at.
func BenchmarkLongList(b *testing.B) {
	a := apptest.Open(b)
	apptest.People(b, a, 30)
	other := apptest.Class(b, a, apptest.List(30))
	apptest.Pack(b, a, other, nil)
	var text strings.Builder
	text.WriteString("No\tSurname\tFirst\tEmail\tClass\tPeriod\tLevel\n")
	for i := range 100_000 {
		fmt.Fprintf(&text, "%d\tFamily%d\tGiven%d\tg.f%d@kestrelquay.example\tC%d\t%d\tA\n", 100_000+i, i, i%700, i, i%80, i%7)
	}
	c, err := a.Rooms.CreateClass(ctx, "oduya", "", "Everybody", "")
	if err != nil {
		b.Fatal(err)
	}
	var paste, cell, page []float64
	for b.Loop() {
		began := time.Now()
		d, err := a.Rooms.BringDraft(ctx, "oduya", c.ID, "", strings.NewReader(text.String()))
		if err != nil || d.Read.Counts.Students != 100_000 {
			b.Fatal(d.Read.Counts, err)
		}
		paste = append(paste, time.Since(began).Seconds())
		for i := range 3 {
			began = time.Now()
			if _, err := a.Rooms.ChangeDraft(ctx, "oduya", c.ID, d.ID, []classroom.DraftChange{{Cell: &classroom.CellChange{Row: 5 + i, Field: 2, Value: "Corrected"}}}); err != nil {
				b.Fatal(err)
			}
			cell = append(cell, time.Since(began).Seconds())
			began = time.Now()
			if _, err := a.Rooms.Register(ctx, other.ID); err != nil {
				b.Fatal(err)
			}
			page = append(page, time.Since(began).Seconds())
		}
	}
	report(b, "paste", paste)
	report(b, "cell", cell)
	report(b, "other-page", page)
}
