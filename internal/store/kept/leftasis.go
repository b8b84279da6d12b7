package kept

import (
	"context"
	"time"

	"jollysatchel/internal/core/packing"
)

// LeaveAsIs returns the keys of a class whose things are left as they are on purpose,
// whatever became of them.
func (s Kept) LeaveAsIs(ctx context.Context, class string) (map[packing.Key]bool, error) {
	var keys []string
	if err := s.All(ctx, &keys, `select key from let_be where class_id = $1`, class); err != nil {
		return nil, err
	}
	out := make(map[packing.Key]bool, len(keys))
	for _, text := range keys {
		k, err := packing.ParseKey(text)
		if err != nil {
			return nil, err
		}
		out[k] = true
	}
	return out, nil
}

// SetLeft notes that what happened to a thing of the class is left, or asked about again.
func (s Kept) SetLeft(ctx context.Context, class string, key packing.Key, be bool, by string, at time.Time) error {
	if !be {
		return s.Exec(ctx, `delete from let_be where class_id = $1 and key = $2`, class, key.String())
	}
	return s.Exec(ctx, `insert into let_be (class_id, key, by, at) values ($1, $2, $3, $4)
		on conflict do nothing`, class, key.String(), by, at)
}
