package signing

import (
	"context"

	"jollysatchel/internal/core/room"
)

// Cues returns the cues of a class's rows.
func (s Signing) Cues(ctx context.Context, class string) (map[string]room.Cue, error) {
	var found []struct {
		Row    string `db:"row_id"`
		Colour string `db:"colour"`
		Symbol string `db:"symbol"`
	}
	if err := s.All(ctx, &found, `select c.row_id, c.colour, c.symbol from cues c join rows r on r.id = c.row_id
		where r.class_id = $1`, class); err != nil {
		return nil, err
	}
	out := make(map[string]room.Cue, len(found))
	for _, f := range found {
		out[f.Row] = room.Cue{Colour: f.Colour, Symbol: f.Symbol}
	}
	return out, nil
}

// SetCue gives a row of a class a cue.
func (s Signing) SetCue(ctx context.Context, class, row string, c room.Cue) error {
	return s.One(ctx, `insert into cues (row_id, colour, symbol) select id, $3, $4 from rows where class_id = $1 and id = $2
		on conflict (row_id) do update set colour = excluded.colour, symbol = excluded.symbol`, class, row, c.Colour, c.Symbol)
}
