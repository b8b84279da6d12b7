package store_test

import (
	"database/sql"
	"errors"
	"reflect"
	"testing"
	"time"

	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/store"
)

// What a row was is what it is again, with its person, to the last value.
func TestRestoreRow(t *testing.T) {
	s := open(t)
	c, p, q := class(t, s), person(t, s, "dube"), person(t, s, "eze")
	id, err := s.SaveRow(ctx, store.Row{ID: store.NewID(), ClassID: c, PersonID: p, Class: "7B", Period: "3", Level: "A", Team: "Gull", Extra: store.JSON[map[string]string]{V: map[string]string{"Boat": "red"}}})
	if err != nil {
		t.Fatal(err)
	}
	now := func() store.RowState {
		t.Helper()
		all, err := s.AllMembers(ctx, c)
		if err != nil || len(all) != 1 {
			t.Fatal(all, err)
		}
		return all[0].State()
	}
	before := now()
	left := time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)
	other := store.RowState{Person: q, Account: "eze", Given: "Kelechi", Family: "Eze", Preferred: "Kele", Number: "9", Address: "k@kq.example", Class: "8A", Period: "4", Level: "B", Team: "Tern", Extra: map[string]string{"Boat": "", "Bus": "4"}, Left: &left}
	if err := s.RestoreRow(ctx, c, id, other); err != nil {
		t.Fatal(err)
	}
	if got := now(); !reflect.DeepEqual(got, other) {
		t.Errorf("%+v, want %+v", got, other)
	}
	if err := s.RestoreRow(ctx, c, id, before); err != nil {
		t.Fatal(err)
	}
	if got := now(); !reflect.DeepEqual(got, before) {
		t.Errorf("%+v, want %+v", got, before)
	}
	if err := s.RestoreRow(ctx, c, store.NewID(), before); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("a row that isn't there: %v", err)
	}
	if err := s.SetLeft(ctx, store.NewID(), []string{id}, sql.NullTime{Time: left, Valid: true}); err != nil || now().Left != nil {
		t.Errorf("another class ended the row: %+v, %v", now(), err)
	}
	// A row that is deleted takes its person along only if that was the last.
	if err := s.DeleteRow(ctx, c, id); err != nil {
		t.Fatal(err)
	}
	if _, err := s.PersonByAccount(ctx, "dube"); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("nobody's person is still there: %v", err)
	}
	if _, err := s.PersonByAccount(ctx, "eze"); err != nil {
		t.Errorf("another person is gone: %v", err)
	}
	if err := s.DeleteRow(ctx, c, id); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("deleted twice: %v", err)
	}
}

// Acts are found newest first, one for each class they touched, and end once.
func TestHistory(t *testing.T) {
	s := open(t)
	a, b := class(t, s), class(t, s)
	batch := store.NewID()
	at := time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)
	change := []store.RowChange{{Row: store.NewID(), After: &store.RowState{Family: "Dube", Extra: map[string]string{"Boat": "red"}}}}
	for i, e := range []store.HistoryEntry{
		{ClassID: a, Batch: store.NewID(), At: at.Add(-time.Hour), Kind: "edit"}, {ClassID: a, Batch: batch, At: at, Kind: "list", Source: "list.csv", Changes: store.JSON[[]store.RowChange]{V: change}}, {ClassID: b, Batch: batch, At: at, Kind: "list"},
	} {
		e.ID, e.Account = store.NewID(), "oduya"
		if err := s.InsertHistory(ctx, e); err != nil {
			t.Fatal(i, err)
		}
	}
	h, err := s.History(ctx, a, 10)
	if err != nil || len(h) != 2 || h[0].Batch != batch || !reflect.DeepEqual(h[0].Changes.V, change) || h[0].Source != "list.csv" {
		t.Fatalf("%+v, %v", h, err)
	}
	if one, err := s.History(ctx, a, 1); err != nil || len(one) != 1 {
		t.Errorf("%d of one asked for, %v", len(one), err)
	}
	if both, err := s.Batch(ctx, batch); err != nil || len(both) != 2 {
		t.Errorf("%+v, %v", both, err)
	}
	if e, err := s.HistoryEntry(ctx, b, batch); err != nil || e.ClassID != b {
		t.Errorf("%+v, %v", e, err)
	}
	for _, id := range []string{store.NewID(), "no id"} {
		if _, err := s.HistoryEntry(ctx, a, id); !errors.Is(err, store.ErrNotFound) {
			t.Errorf("%s: %v", id, err)
		}
	}
	if err := s.MarkUndone(ctx, batch, at); err != nil {
		t.Fatal(err)
	}
	if err := s.MarkUndone(ctx, batch, at); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("undone twice: %v", err)
	}
	if packed, err := s.PackedSince(ctx, a, at); err != nil || packed {
		t.Errorf("packed since: %v, %v", packed, err)
	}
	if err := s.InsertRun(ctx, store.Run{ID: store.NewID(), ClassID: a, State: store.RunDone, StartedBy: "oduya", StartedAt: at.Add(time.Second)}, nil); err != nil {
		t.Fatal(err)
	}
	for moment, want := range map[time.Time]bool{at: true, at.Add(2 * time.Second): false} {
		if packed, err := s.PackedSince(ctx, a, moment); err != nil || packed != want {
			t.Errorf("packed since %v: %v, %v", moment, packed, err)
		}
	}
}

func TestShapesAndOtherClasses(t *testing.T) {
	s := open(t)
	roles := map[int]roster.Role{0: roster.Number, 3: roster.Team}
	for range 2 { // the later word is kept
		if err := s.SaveShape(ctx, "oduya", "a\x1fb", roles); err != nil {
			t.Fatal(err)
		}
	}
	if got, err := s.Shape(ctx, "oduya", "a\x1fb"); err != nil || !reflect.DeepEqual(got, roles) {
		t.Errorf("%v, %v", got, err)
	}
	if _, err := s.Shape(ctx, "lindqvist", "a\x1fb"); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("another's: %v", err)
	}
	a, b, p := class(t, s), class(t, s), person(t, s, "dube")
	for _, c := range []string{a, b} {
		if _, err := s.SaveRow(ctx, store.Row{ID: store.NewID(), ClassID: c, PersonID: p}); err != nil {
			t.Fatal(err)
		}
	}
	if also, err := s.OtherClasses(ctx, a); err != nil || len(also[p]) != 1 {
		t.Errorf("%v, %v", also, err)
	}
	if row, err := s.RowOf(ctx, b, p); err != nil || row.ClassID != b {
		t.Errorf("%+v, %v", row, err)
	}
	if err := s.DeleteClass(ctx, b); err != nil {
		t.Fatal(err)
	}
	if also, err := s.OtherClasses(ctx, a); err != nil || len(also) != 0 {
		t.Errorf("of a class that is gone: %v, %v", also, err)
	}
	if _, err := s.PersonByAccount(ctx, "dube"); err != nil {
		t.Errorf("one who is in another class is gone too: %v", err)
	}
	if err := s.DeleteClass(ctx, b); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("deleted twice: %v", err)
	}
}
