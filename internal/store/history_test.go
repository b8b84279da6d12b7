package store_test

import (
	"errors"
	"reflect"
	"testing"
	"time"

	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/lists"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/store"
	"jollysatchel/internal/store/kept"
	"jollysatchel/internal/store/pg"
)

// Acts are found newest first, one for each class they touched, and end once.
func TestHistory(t *testing.T) {
	s := open(t)
	a, b := class(t, s), class(t, s)
	batch := pg.NewID()
	at := time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)
	change := []lists.RowChange{{Row: pg.NewID(),
		After: &lists.State{Record: record.Record{Family: "Dube", Extra: map[string]string{"Boat": "red"}}}}}
	for i, e := range []kept.HistoryEntry{
		{ClassID: a, Batch: pg.NewID(), At: at.Add(-time.Hour), Kind: "edit"},
		{ClassID: a, Batch: batch, At: at, Kind: "list", Source: "list.csv", Changes: change}, {ClassID: b, Batch: batch, At: at, Kind: "list"},
	} {
		e.ID, e.Account = pg.NewID(), "oduya"
		if err := s.InsertHistory(ctx, e); err != nil {
			t.Fatal(i, err)
		}
	}
	h, err := s.History(ctx, a, 10)
	if err != nil || len(h) != 2 || h[0].Batch != batch || !reflect.DeepEqual(h[0].Changes, change) || h[0].Source != "list.csv" {
		t.Fatalf("%+v, %v", h, err)
	}
	if one, err := s.History(ctx, a, 1); err != nil || len(one) != 1 {
		t.Errorf("%d of one asked for, %v", len(one), err)
	}
	if both, err := s.Batch(ctx, batch); err != nil || len(both) != 2 {
		t.Errorf("%+v, %v", both, err)
	}
	if since, err := s.HistorySince(ctx, a, h[1].Batch); err != nil || len(since) != 2 {
		t.Errorf("%+v, %v", since, err)
	}
	if since, err := s.HistorySince(ctx, b, batch); err != nil || len(since) != 1 || since[0].ClassID != b {
		t.Errorf("%+v, %v", since, err)
	}
	if err := s.MarkUndone(ctx, batch, at); err != nil {
		t.Fatal(err)
	}
	if err := s.MarkUndone(ctx, batch, at); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("undone twice: %v", err)
	}
	// What was packed since is told without a clock: this one goes back.
	if packed, err := s.PackedSince(ctx, h[0].ID); err != nil || packed {
		t.Errorf("packed since: %v, %v", packed, err)
	}
	act := store.Act{By: "oduya", What: "packed", Classes: []string{a}, At: at.Add(-time.Hour)}
	for range 2 {
		if err := s.Change(ctx, act, nil, func(tx *store.Store) error {
			return tx.InsertRun(ctx, ledger.Run{ID: pg.NewID(), ClassID: a, State: ledger.RunDone, StartedBy: "oduya", StartedAt: act.At}, nil)
		}); err != nil {
			t.Fatal(err)
		}
	}
	if packed, err := s.PackedSince(ctx, h[0].ID); err != nil || !packed {
		t.Errorf("packed since: %v, %v", packed, err)
	}
	late := kept.HistoryEntry{ID: pg.NewID(), ClassID: a, Batch: pg.NewID(), At: at.Add(-2 * time.Hour), Account: "oduya", Kind: "edit"}
	if err := s.InsertHistory(ctx, late); err != nil {
		t.Fatal(err)
	}
	if packed, err := s.PackedSince(ctx, late.ID); err != nil || packed {
		t.Errorf("packed since the last entry: %v, %v", packed, err)
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
	a, b := class(t, s), class(t, s)
	row(t, s, a, "dube")
	row(t, s, b, "dube")
	if others, err := s.Others(ctx, a); err != nil || len(others["dube"]) != 1 || others["dube"][0].Family != "Dube" ||
		others["dube"][0].Code != "7B" {
		t.Errorf("%v, %v", others, err)
	}
	if empty, err := s.Untouched(ctx, b); err != nil || empty {
		t.Errorf("a class with a row is empty: %v, %v", empty, err)
	}
	if err := s.DeleteClass(ctx, b); err != nil {
		t.Fatal(err)
	}
	if others, err := s.Others(ctx, a); err != nil || len(others) != 0 {
		t.Errorf("of a class that is gone: %v, %v", others, err)
	}
	if rows, err := s.Rows(ctx, a); err != nil || len(rows) != 1 {
		t.Errorf("the row in another class is gone too: %v, %v", rows, err)
	}
	if err := s.DeleteClass(ctx, b); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("deleted twice: %v", err)
	}
}
