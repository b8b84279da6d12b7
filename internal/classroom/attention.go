package classroom

import (
	"context"
	"strconv"

	"jollysatchel/internal/core/packing"
)

// A Note is something in a class that needs attention; Count is how many
// students or lines it concerns.
type Note struct {
	Reason packing.Reason
	Count  int
}

// Attention lists what needs attention in a class today. ready reports whether
// its room has been packed.
func (c *Classroom) Attention(ctx context.Context, cl Class) (notes []Note, ready bool, err error) {
	add := func(code string, n int) {
		if n > 0 {
			notes = append(notes, Note{packing.Reason{Code: code, Args: map[string]string{"count": strconv.Itoa(n)}}, n})
		}
	}
	ledger, err := c.Store.Ledger(ctx, cl.ID)
	if err != nil {
		return nil, false, err
	}
	ready = len(ledger) > 0
	if !ready {
		return nil, false, nil
	}
	unknown := map[string]bool{}
	for _, s := range cl.Students {
		if s.Problem() != nil {
			unknown[s.ID] = true
		}
	}
	add("students-unknown", len(unknown))
	stuck, err := c.Store.StuckKeys(ctx, cl.ID)
	if err != nil {
		return nil, ready, err
	}
	lines := map[string]bool{}
	for _, st := range stuck {
		if row := st.Wish.V.Row; row == "" || !unknown[row] {
			lines[row+st.Wish.V.Purpose] = true
		}
	}
	add("lines-stuck", len(lines))
	missing, changes, _, err := c.Missing(ctx, cl)
	add("students-missing", missing)
	add("changes-waiting", changes)
	return notes, ready, err
}
