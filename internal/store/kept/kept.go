// Package kept is what is kept beside a class's things: what was shown, came too late, or is left as it is, who was let
// in, in what order handouts stand, what door checks found, and what takes an act on a list back.
package kept

import "jollysatchel/internal/store/pg"

// Kept is the part of the store that keeps it.
type Kept struct{ *pg.Base }
