package registers

import (
	"context"

	"jollysatchel/internal/core/handout"
)

// A HandoutTag is a handout in a list, with how many students are in which state.
type HandoutTag struct {
	handout.Handout
	Counts map[string]int
}

// HandoutTags returns a class's handouts with how they stand.
func (c *Registers) HandoutTags(ctx context.Context, class string) ([]HandoutTag, error) {
	r, err := c.Reading(ctx, class)
	if err != nil {
		return nil, err
	}
	out := make([]HandoutTag, len(r.Handouts))
	at := map[string]int{}
	for i, h := range r.Handouts {
		out[i], at[h.ID] = HandoutTag{h, map[string]int{}}, i
	}
	for _, col := range r.Table().Columns {
		if col.Handout == nil {
			continue
		}
		for _, cell := range col.Cells {
			out[at[col.Handout.ID]].Counts[string(cell.State)]++
		}
	}
	return out, nil
}
